"""What the target does not get, kept beside it: values left behind, records set aside."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from pathlib import Path

from roundcard.books.hidden import AtomicFile
from roundcard.books.transaction import Stream, Transaction
from roundcard.card.contact import Contact, Property
from roundcard.card.fields import is_label
from roundcard.card.head import head, with_params
from roundcard.card.names import formatted_name
from roundcard.card.origin import RIDES, unpack
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.formats.sheets import guarded
from roundcard.formats.vcard import VCardWriter
from roundcard.formats.vcard.lines import fold
from roundcard.formats.vcard.syntax import escape
from roundcard.tally import Reason, SetAside, Tally
from roundcard.values.phones import says_more

Say = Callable[[Reason], str]
"""Puts a reason into words."""

_END = "END:VCARD\r\n"
_HEADINGS = ["source", "record", "line", "reason", "what it held"]


class LeftBehind:
    """Gathers the values of one contact that are left behind into one card of text."""

    def __init__(self, give: Callable[[str, int], None], say: Say = str) -> None:
        """`give` gets each card, and the origin of the contact; `say` puts reasons into words."""
        self._give = give
        self._say = say
        self._writer = VCardWriter("4.0", Tally())
        self._open: Contact | None = None
        self._kept: list[tuple[Property, Reason]] = []

    def left_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:
        """Keep a value; the values of one contact, told one after another, share a card."""
        if contact is not self._open:
            self.flush()
            self._open = contact
        self._kept.append((prop, reason))

    def flush(self) -> None:
        """Give the card that is open."""
        if self._open is not None and self._kept:
            self._give(self._writer.encode(self._card(self._open)), self._open.origin)
        self._open = None
        self._kept = []

    def _card(self, contact: Contact) -> Contact:
        """A card that says whose values these are and why they stayed."""
        whole = next((p.text for p in contact.properties if p.head.name == "fn"), "")
        name = whole or formatted_name(contact)[0]
        props = [Property(head("fn", (("derived", ("true",)),)), name, RIDES)]
        uid = contact.first("uid")
        if uid is not None and all(kept is not uid for kept, _ in self._kept):
            props.append(uid)
        groups = set()
        for prop, reason in self._kept:
            why = with_params(prop.head, **{"x-roundcard-why": (self._say(reason),)})
            unknown = prop.head.field.kind == "raw" and not prop.head.coded
            value = prop.raw if says_more(prop) else prop.value
            props.append(Property(why, value, prop.origin, prop.raw if unknown else None))
            groups.add(prop.head.group.lower())
        groups.discard("")
        for other in contact.properties:
            if is_label(other.head.name, other.head.group) and other.head.group.lower() in groups:
                props.append(other)
        return Contact(props, contact.origin)


class SideFiles:
    """A tally's sink that writes ``NAME.left-behind.vcf`` and ``NAME.set-aside.csv``.

    Each file is begun when there is something to keep; a file that is there already is never
    replaced, the new one gets a number.
    """

    def __init__(
        self, files: Transaction, target: Path, sources: Sequence[str], say: Say = str
    ) -> None:
        """`target` is the file beside which the side files go; `sources` the sources' names; `say`
        puts reasons into words."""
        self._files = files
        self._folder = target.parent
        self._stem = target.stem
        self._sources = sources
        self._cards: AtomicFile | Stream | None = None
        self._rows: AtomicFile | Stream | None = None
        self._gathered = LeftBehind(self._give, say)
        self._csv = CsvWriter(Dialect())

    def so_far(self) -> Path | None:
        """Where what was left behind can be read; None where there is nothing."""
        self._gathered.flush()
        return self._cards.so_far() if isinstance(self._cards, AtomicFile) else None

    def left_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:
        """Keep a value; the values of one contact, told one after another, share a card."""
        self._gathered.left_behind(contact, prop, reason)

    def set_aside(self, item: SetAside) -> None:
        """Keep a bad record."""
        rows = []
        if self._rows is None:
            self._rows = self._files.file(self._free("set-aside.csv"))
            rows = [_HEADINGS]
        name = self._sources[item.source]
        told = [name, str(item.record or ""), str(item.line), item.reason, item.text]
        rows.append(list(map(guarded, told)))
        self._rows.write(self._csv.encode(rows))

    def _give(self, card: str, origin: int) -> None:
        place = unpack(origin)
        self.keep_card(card, place.source if place else -1, place.record if place else 0)

    def keep_card(self, card: str, source: int, record: int) -> None:
        """Keep a card of values that were left behind, with where they stood."""
        if self._cards is None:
            self._cards = self._files.file(self._free("left-behind.vcf"))
        if source >= 0:
            where = escape(f"{self._sources[source]}, record {record}")
            line = fold(f"X-ROUNDCARD-FROM:{where}")
            card = f"{card.removesuffix(_END)}{line}\r\n{_END}"
        self._cards.write(card.encode("utf-8"))

    def _free(self, ending: str) -> Path:
        path = self._folder / f"{self._stem}.{ending}"
        name, _, suffix = ending.rpartition(".")
        number = 2
        while os.path.lexists(path):
            path = self._folder / f"{self._stem}.{name}-{number}.{suffix}"
            number += 1
        return path

    def end(self) -> list[Path]:
        """Write what is still held; which files there are."""
        self._gathered.flush()
        return [file.path for file in (self._rows, self._cards) if file is not None]

    def discard(self) -> None:
        """Leave nothing behind."""
        self._files.drop(self._rows)
        self._files.drop(self._cards)
        self._rows = self._cards = None
