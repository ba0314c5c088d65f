"""What was left behind, and who was not sent, as a sheet for people."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain
from pathlib import Path

from roundcard.books.sheets import write_rows
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS
from roundcard.card.paths import FieldPath
from roundcard.formats import vcard
from roundcard.formats.vcard.syntax import unescape
from roundcard.tally import Tally

HEADINGS = ["person", "field", "value", "reason", "source", "record"]
_WHY, _FROM = "x-roundcard-why", "x-roundcard-from"
_CHUNK = 1 << 16


def write_left_sheet(files: Transaction, cards: Path | None, path: Path, *, force: bool) -> None:
    """List the values in a file of what was left behind; none where `cards` is None.

    Raises `TargetError`.
    """
    write_rows(files, path, chain([HEADINGS], rows_of(cards)), "left behind", force=force)


def rows_of(cards: Path | None) -> Iterator[list[str]]:
    """A row for each value in a file of what was left behind."""
    if cards is None:
        return
    with cards.open("rb") as stream:
        chunks = iter(lambda: stream.read(_CHUNK), b"")
        for contact in vcard.read(chunks, source=0, tally=Tally()):
            yield from _rows(contact)


def _rows(contact: Contact) -> Iterator[list[str]]:
    person = next((p.text for p in contact.properties if p.head.name == "fn"), "")
    came = next((unescape(p.raw or p.text) for p in contact.properties if p.head.name == _FROM), "")
    source, _, record = came.rpartition(", record ")
    for prop in contact.properties:
        why = prop.head.param(_WHY)
        if not why:
            continue
        for path, text in _values(prop):
            told = [person, path, text, " ".join(why), source or came, record]
            yield told


def _values(prop: Property) -> Iterator[tuple[str, str]]:
    """The values of a property, each with its path."""
    made = prop.head
    if made.name == CUSTOM:
        label, *values = prop.components
        path = str(FieldPath("custom", label=" ".join(flat((label,))) or "?"))
        yield path, " ".join(flat(tuple(values)))
        return
    word = made.field.path or made.name.upper()
    if made.field.kind == "media":
        yield word, f"({len(prop.raw or prop.text):,} characters)"
        return
    if made.field.kind not in ("parts", "list"):
        yield "name/full" if made.name == "fn" else word, prop.raw or prop.text \
            if made.field.kind == "raw" else prop.text  # fmt: skip
        return
    uses = "+".join(use for use in made.field.uses if use in made.uses)
    names = {"n": N_PARTS, "adr": ADR_PARTS}.get(made.name, ())
    for at, component in enumerate(prop.components):
        for text in flat((component,)):
            part = names[at] if at < len(names) else "unit" if made.name == "org" and at else ""
            yield "/".join(filter(None, (word, uses, part))), text
