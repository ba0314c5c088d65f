"""One pass over one source: its contacts, in order, with all that is read counted."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from roundcard.books.photos import PhotosBeside
from roundcard.books.source import Source, chunks_of, vcard_version
from roundcard.books.tables import Table, open_table, without_totals
from roundcard.card.contact import Contact
from roundcard.errors import SourceError
from roundcard.formats import csv, jcard, vcard
from roundcard.layouts.binding import bind, demand_fit, missing_note
from roundcard.layouts.model import Layout
from roundcard.layouts.reading import RowReader
from roundcard.tally import SetAside, Tally

PROGRESS_EVERY = 500
"""Records between two calls of a progress function."""

Progress = Callable[[int, int], None]
"""Called with the octets read of a source, and the records."""


@dataclass(slots=True)
class ReadAs:
    """How a source was read: for the report."""

    name: str
    format: str
    octets: int
    layout: str = ""
    guessed: bool = False
    """Whether the layout was made from the headings."""
    encoding: str = ""
    encoding_sure: float = 1.0
    separator: str = ""
    separator_sure: float = 1.0
    folder: str = ""
    """The folder that was named, where this is one of its files."""
    columns: list[tuple[str, str, str]] = field(default_factory=list)
    """Heading, meaning and reason of each column, where the layout was guessed."""


class Reading:
    """One pass over one source, with the layout that it is read by."""

    def __init__(
        self, source: Source, number: int, layouts: Sequence[Layout], tally: Tally
    ) -> None:
        self.source = source
        self.number = number
        self.tally = tally
        self.layouts = layouts
        version = (
            vcard_version(source.cards_sample or source.sample) if source.format.version else ""
        )
        title = f"vCard {version}" if version else source.format.title
        self.read_as = ReadAs(source.name, title, source.octets, folder=source.folder)
        if source.beside:
            names = ", ".join(f"'{path.name}'" for path in source.beside[:3])
            more = " …" if len(source.beside) > 3 else ""
            tally.find(f"{source.folder}: {len(source.beside):,} files that are no cards were not "
                       f"read ({names}{more})")  # fmt: skip

    def contacts(self, progress: Progress | None = None) -> Iterator[Contact]:
        """The contacts of the source, in order; people and values read are counted."""
        with self.source.open() as stream:
            records = 0

            def seen(record: int) -> None:
                nonlocal records
                records = record
                if progress is not None and record % PROGRESS_EVERY == 0:
                    progress(stream.tell(), record)

            try:
                if self.source.format.sort == "card":
                    chunks = chunks_of(stream, self.source.sample)
                    read = jcard.read if self.source.format.name == "jcard" else vcard.read
                    yield from read(chunks, source=self.number, tally=self.tally, on_record=seen)
                else:
                    yield from self._records(self.table.rows(stream, self.tally), seen)
            except SourceError as error:
                raise SourceError(f"{self.source.name}: {error}") from None
            if progress is not None:
                progress(self.source.octets, records)

    @cached_property
    def table(self) -> Table:
        """The source as a table, with the layout that it is read by."""
        table = open_table(self.source, self.layouts)
        told = self.read_as
        if table.guessed:
            told.guessed = True
            told.columns = [(c.name, c.meaning, c.why) for c in table.layout.columns]
        told.layout = table.layout.name
        if self.source.format.name != "xlsx":
            told.encoding, told.encoding_sure = table.dialect.encoding, table.encoding_sure
            separator = table.dialect.separator
            told.separator = csv.SEPARATORS.get(separator, separator)
            told.separator_sure = table.separator_sure
        for note in table.told:
            self.tally.find(f"{self.source.name}: {note}")
        return table

    def _records(self, rows: Iterator[csv.Row], seen: Callable[[int], None]) -> Iterator[Contact]:
        table, name, tally = self.table, self.source.name, self.tally
        head = table.head(rows)
        binding = bind(table.layout, head.headings, head.width)
        demand_fit(table.layout, binding, head.headings, name)
        for column in binding.missing:
            if not column.skip and not column.blank and column.fixed is None:
                tally.find(f"{name}: {missing_note(column, head.headings)}")
        path = self.source.path
        photos = PhotosBeside(path) if path is not None else None
        reader = RowReader(table.layout, binding, self.number, tally, photos)
        if head.first is not None:
            rows = _behind(head.first, rows)
        for record, (row, total) in enumerate(without_totals(rows), 1):
            if row.wrong or total:
                self._set_aside(row, record, row.wrong or "a row of totals, and no person")
                continue
            contact = reader.contact(row.cells, record)
            seen(record)
            if contact is not None:
                yield contact
        reader.tell_damage()

    def _set_aside(self, row: csv.Row, record: int, reason: str) -> None:
        filled = sum(1 for cell in row.cells if cell and not cell.isspace())
        text = csv.shown(";".join(row.cells))
        self.tally.set_aside(SetAside(self.number, record, row.line, reason, text), filled)


def _behind(first: csv.Row, rows: Iterator[csv.Row]) -> Iterator[csv.Row]:
    yield first
    yield from rows
