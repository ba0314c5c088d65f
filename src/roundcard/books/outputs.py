"""Contacts into the octets of a target: cards, rows, a workbook, a folder of cards."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Sequence
from typing import Any, BinaryIO, Protocol, cast

from roundcard.books.hidden import AtomicFile
from roundcard.books.proof import Proof
from roundcard.books.shapes.batch import Batch
from roundcard.books.shapes.into_cards import IntoCards
from roundcard.books.shapes.into_rows import IntoRows
from roundcard.books.shapes.work import Into
from roundcard.books.target import FolderTarget, NoTarget, Target
from roundcard.books.transaction import Stream
from roundcard.card.contact import Contact
from roundcard.card.names import formatted_name
from roundcard.formats import CardWriter, Format
from roundcard.formats.csv import CsvWriter
from roundcard.formats.vcard import VCardWriter
from roundcard.formats.workbook import WorkbookWriter
from roundcard.layouts.row_writer import RowWriter
from roundcard.tally import Tally

BLOCK = 256
"""People that are encoded before their octets are written."""


class Writes(Protocol):
    """Takes octets."""

    def write(self, octets: bytes) -> None:
        """Take more of them."""


class Output(Protocol):
    """Takes contacts, and writes them into a target."""

    proof: Proof | None
    """Notes what is written, where it is to be proved."""

    def add(self, contact: Contact) -> None:
        """Take one more contact."""

    def shapes(self) -> Into | None:
        """What takes records of one shape at once; None where each must be a contact."""

    def flush(self) -> None:
        """Write what is held so far."""

    def end(self) -> None:
        """Write what is still held, and what closes the file."""


class Noting:
    """Notes for a proof what is written of records of one shape, as they are meant."""

    def __init__(self, into: IntoCards | IntoRows, proof: Proof) -> None:
        self._into = into
        self._proof = proof
        self.labels = into.labels
        self.takes_optional = into.takes_optional
        self.count = into.count
        self.events = into.events

    def give(self, made: Sequence[tuple[Any, bytes | None, int]]) -> None:
        """See `Into`."""
        for each, digest, origin in made:
            if digest is None:
                self._proof.row(each, origin)
            else:
                self._proof.note(digest, origin)
        self._into.give([each for each, _, _ in made])

    def make(self, batch: Batch) -> tuple[Sequence[Any], set[int]]:
        """See `Into`."""
        found, odd = self._into.make(batch)
        if odd:
            return (), odd
        noted = []
        for at, each in enumerate(found):
            origin = batch.origin(batch.places[at])
            cards = isinstance(self._into, IntoCards)
            digest = self._proof.of_card(_filled(batch.contact(at, origin))) if cards else None
            noted.append((each, digest, origin))
        return noted, odd


def _filled(contact: Contact) -> Contact:
    """A contact without the properties that only others of its shape have."""
    props = [prop for prop in contact.properties if prop.rides or prop.size()]
    return Contact(props, contact.origin)


class CardOutput:
    """A file of cards."""

    def __init__(self, writer: CardWriter, target: Writes, proof: Proof | None = None) -> None:
        self.writer = writer
        self.proof = proof
        self._encode = writer.encode
        self._target = target
        self._held = [writer.opening]

    def add(self, contact: Contact) -> None:
        """Take one more contact."""
        if self.proof is not None:
            self.proof.card(contact)
        self._held.append(self._encode(contact))
        if len(self._held) >= BLOCK:
            self.flush()

    def shapes(self) -> Into | None:
        """See `Output`."""
        if not isinstance(self.writer, VCardWriter):
            return None
        into = IntoCards(self.writer, self._give)
        return into if self.proof is None else Noting(into, self.proof)

    def _give(self, cards: Sequence[str]) -> None:
        self._held += cards
        if len(self._held) >= BLOCK:
            self.flush()

    def flush(self) -> None:
        """Write what is held."""
        self._target.write("".join(self._held).encode("utf-8"))
        self._held.clear()

    def end(self) -> None:
        """Write what is still held, and what closes the file."""
        self._held.append(self.writer.closing)
        self.flush()


class RowOutput:
    """A table of text."""

    def __init__(
        self,
        writer: RowWriter,
        target: Writes,
        proof: Proof | None = None,
        *,
        headings: bool = True,
    ) -> None:
        self.proof = proof
        self._writer = writer
        self._row = writer.row
        self._rows = CsvWriter(writer.layout.dialect, begun=not headings)
        self._target = target
        self._held: list[Sequence[str]] = list(writer.above) if headings else []
        self.made_by = writer.made_by

    def add(self, contact: Contact) -> None:
        """Take one more contact."""
        row = self._row(contact)
        if row is not None:
            if self.proof is not None:
                self.proof.row(row, contact.origin)
            self._held.append(row)
            if len(self._held) >= BLOCK:
                self.flush()

    def shapes(self) -> Into | None:
        """See `Output`."""
        into = IntoRows(self._writer, self._give)
        return into if self.proof is None else Noting(into, self.proof)

    def _give(self, rows: Sequence[Sequence[str]]) -> None:
        self._held += rows
        if len(self._held) >= BLOCK:
            self.flush()

    def flush(self) -> None:
        """Write what is held."""
        self._target.write(self._rows.encode(self._held))
        self._held = []

    def end(self) -> None:
        """Write what is still held."""
        self.flush()


class WorkbookOutput:
    """A workbook of one sheet."""

    def __init__(
        self, writer: RowWriter, target: Target, title: str, proof: Proof | None = None
    ) -> None:
        self.proof = proof
        self._row = writer.row
        self._book = WorkbookWriter(title, writer.layout.heading_row)
        self._target = target
        self._book.add(writer.above)

    def add(self, contact: Contact) -> None:
        """Take one more contact."""
        row = self._row(contact)
        if row is not None:
            if self.proof is not None:
                self.proof.row(row, contact.origin)
            self._book.add([row])

    def shapes(self) -> Into | None:
        """See `Output`."""
        return None

    def flush(self) -> None:
        """A workbook is written at the end."""

    def discard(self) -> None:
        """Give the workbook up."""
        self._book.discard()

    def end(self) -> None:
        """Write the whole workbook."""
        if isinstance(self._target, AtomicFile | Stream):
            with self._target.told():
                self._book.save(self._target.stream)
            return
        with tempfile.SpooledTemporaryFile(max_size=8_000_000) as spool:
            self._book.save(cast("BinaryIO", spool))
            spool.seek(0)
            shutil.copyfileobj(spool, self._target)


class FolderOutput:
    """A folder with one file a person."""

    def __init__(
        self,
        writer: CardWriter,
        target: FolderTarget | NoTarget,
        suffix: str,
        proof: Proof | None = None,
    ) -> None:
        self.proof = proof
        self._writer = writer
        self._target = target
        self._suffix = suffix

    def add(self, contact: Contact) -> None:
        """Write the file of one more contact."""
        if self.proof is not None:
            self.proof.card(contact)
        whole = contact.first("fn")
        name = whole.text if whole is not None and whole.text else formatted_name(contact)[0]
        self._writer.restart()
        text = self._writer.opening + self._writer.encode(contact) + self._writer.closing
        octets = text.encode("utf-8")
        if isinstance(self._target, FolderTarget):
            self._target.add(name, self._suffix, octets)
        else:
            self._target.write(octets)

    def shapes(self) -> Into | None:
        """See `Output`."""
        return None

    def flush(self) -> None:
        """Nothing is held."""

    def end(self) -> None:
        """Nothing is held."""


def card_output(
    form: Format, tally: Tally, target: Target | FolderTarget, proof: Proof | None = None
) -> Output:
    """The output for a card format."""
    if form.writer is None:
        raise ValueError(f"{form.title} is not a format of cards")
    writer = form.writer(tally)
    if isinstance(target, FolderTarget):
        return FolderOutput(writer, target, form.suffixes[0], proof)
    return CardOutput(writer, target, proof)


def row_output(
    form: Format, writer: RowWriter, target: Target, title: str, proof: Proof | None = None
) -> Output:
    """The output for a table format."""
    if not form.of_text:
        return WorkbookOutput(writer, target, title, proof)
    return RowOutput(writer, target, proof)
