"""One pass over one source: its contacts, in order, with all that is read counted."""

from __future__ import annotations

import codecs
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING

from roundcard.books.chunks import PIECE, Piece, card_pieces, row_pieces
from roundcard.books.photos import PhotosBeside
from roundcard.books.shapes.card_blocks import CardBlocks
from roundcard.books.shapes.table_blocks import TableBlocks
from roundcard.books.shapes.work import Into, work_off
from roundcard.books.source import Source, chunks_of, vcard_version, wide_encoding
from roundcard.books.tables import Table, TableHead, open_table, without_totals
from roundcard.card.contact import Contact
from roundcard.errors import SourceError
from roundcard.formats import charset, csv
from roundcard.formats.vcard.reader import CardReader
from roundcard.layouts.binding import Binding, bind, demand_fit, missing_note
from roundcard.layouts.damage import tell_damage
from roundcard.layouts.model import Layout
from roundcard.layouts.row_reader import RowReader
from roundcard.tally import Fate, Reason, SetAside, Tally, Why

if TYPE_CHECKING:
    from roundcard.layouts.drafting.draft import Draft

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
    draft: Draft | None = None
    """How its columns were understood, where no layout was given."""
    taken: float = 0.0
    """How well the layout fits, where it is a kept one that was taken unasked; else 0."""
    encoding: str = ""
    encoding_sure: float = 1.0
    separator: str = ""
    separator_sure: float = 1.0
    folder: str = ""
    """The folder that was named, where this is one of its files."""
    people: int = 0
    """How many were read, where that is told."""


@dataclass(frozen=True, slots=True)
class TableIn:
    """How the rows of a source are read."""

    layout: Layout
    dialect: csv.Dialect
    binding: Binding


@dataclass(frozen=True, slots=True)
class Cut:
    """A source that can be read in pieces."""

    path: Path
    table: TableIn | None
    offset: int
    """Where the first record begins."""
    octets: int
    lines: int
    """How many lines stand before it."""
    piece: int

    def pieces(self) -> Iterator[Piece]:
        """The pieces, in order."""
        with self.path.open("rb") as stream:
            if self.table is None:
                yield from card_pieces(stream, self.octets, self.piece)
            else:
                dialect = self.table.dialect
                yield from row_pieces(stream, self.offset, self.octets, dialect, self.piece)


def cuts_safely(encoding: str) -> bool:
    """Whether quote and line break are octets that mean nothing else in a character set."""
    name = codecs.lookup(encoding).name
    return name == "utf-8" or name.startswith(("cp125", "iso8859", "mac-", "koi8", "cp4", "cp8"))


class Reading:
    """One pass over one source, with the layout that it is read by."""

    def __init__(
        self,
        source: Source,
        number: int,
        layouts: Sequence[Layout],
        tally: Tally,
        kept: Sequence[Layout] = (),
    ) -> None:
        self.source = source
        self.number = number
        self.tally = tally
        self.layouts = layouts
        self.kept = kept
        version = (
            vcard_version(source.cards_sample or source.sample) if source.format.version else ""
        )
        title = f"vCard {version}" if version else source.format.title
        self.read_as = ReadAs(source.name, title, source.octets, folder=source.folder)
        if source.note:
            tally.find(f"{source.name}: {source.note}")
        if source.beside:
            names = ", ".join(f"'{path.name}'" for path in source.beside[:3])
            more = " …" if len(source.beside) > 3 else ""
            tally.find(f"{source.folder}: {len(source.beside):,} files that are neither cards nor "
                       f"tables were not read ({names}{more})")  # fmt: skip

    def contacts(
        self, progress: Progress | None = None, into: Into | None = None
    ) -> Iterator[Contact]:
        """The contacts of the source, in order; people and values read are counted.

        Where `into` is given, records of one shape are written there at once, and only the others
        are given as contacts.
        """
        with self.source.open() as stream:
            records = told = 0

            def seen(record: int) -> None:
                nonlocal records, told
                records = record
                if progress is not None and record >= told + PROGRESS_EVERY:
                    told = record
                    progress(stream.tell(), record)

            try:
                read = self.source.format.read
                if read is not None:
                    chunks = chunks_of(stream, self.source.sample)
                    if into is not None and self.source.format.version:
                        reader = CardReader(self.number, self.tally)
                        blocks = CardBlocks(reader, labels=into.labels)
                        yield from card_contacts(chunks, blocks, self.tally, seen, into)
                    else:
                        yield from read(chunks, source=self.number, tally=self.tally,
                                        on_record=seen)  # fmt: skip
                else:
                    yield from self._records(self.table.rows(stream, self.tally), seen, into)
            except SourceError as error:
                raise SourceError(f"{self.source.name}: {error}") from None
            if progress is not None:
                progress(self.source.octets, records)

    @cached_property
    def table(self) -> Table:
        """The source as a table, with the layout that it is read by."""
        table = open_table(self.source, self.layouts, self.kept)
        told = self.read_as
        told.draft, told.taken = table.draft, table.taken
        told.layout = table.layout.name
        if self.source.format.of_text:
            told.encoding, told.encoding_sure = table.dialect.encoding, table.encoding_sure
            separator = table.dialect.separator
            told.separator = csv.SEPARATORS.get(separator, separator)
            told.separator_sure = table.separator_sure
        for note in table.notes:
            self.tally.find(f"{self.source.name}: {note}")
        return table

    def _records(
        self, rows: Iterator[csv.Row], seen: Callable[[int], None], into: Into | None
    ) -> Iterator[Contact]:
        table, tally = self.table, self.tally
        head = table.head(rows)
        binding = self.bound(head)
        self._pass_over(head)
        reader = RowReader(table.layout, binding, self.number, tally, self.photos)
        yield from records(reader, rows, tally, seen, into=into, first=head.first)
        tell_damage(tally, self.number)

    def bound(self, head: TableHead) -> Binding:
        """The layout held against the table; what does not fit is told. Raises `LayoutError`."""
        table, name = self.table, self.source.name
        binding = bind(table.layout, head.headings, head.width)
        demand_fit(table.layout, binding, head.headings, name)
        for column in binding.missing:
            if not column.skip and not column.blank and column.fixed is None:
                self.tally.find(f"{name}: {missing_note(column, head.headings)}")
        return binding

    def cut(self, piece: int = PIECE) -> Cut | None:
        """The source in pieces for several processes; None where it cannot be cut safely."""
        source = self.source
        if source.path is None or b"\n" not in source.sample:
            return None
        if source.format.version:
            if wide_encoding(source.sample):
                return None
            return Cut(source.path, None, 0, source.octets, 0, piece)
        if not source.format.in_pieces:
            return None
        dialect = self.table.dialect
        marked = charset.mark_of(source.sample) == "utf-8-sig"
        if not (marked or cuts_safely(dialect.encoding)) or dialect.backslash:
            return None
        with source.open() as stream:
            rows = self.table.rows(stream, self.tally)
            head = self.table.head(rows)
            first = head.first or next(rows, None)
        if first is None:
            return None
        lines = source.sample.splitlines(keepends=True)
        if first.line > len(lines) - 1:
            return None  # the headings fill the sample
        offset = sum(map(len, lines[: first.line - 1])) or (3 if marked else 0)
        if marked:
            dialect = replace(dialect, encoding="utf-8")
        table = TableIn(self.table.layout, dialect, self.bound(head))
        self._pass_over(head)
        return Cut(source.path, table, offset, source.octets, first.line - 1, piece)

    def _pass_over(self, head: TableHead) -> None:
        """Count what stands above the headings, and what explains them."""
        self.tally.values.read += head.above + head.explained
        details = (self.source.name,)
        self.tally.count(Reason(Fate.PASSED_OVER, Why.ABOVE_HEADINGS, details=details), head.above)
        why = Reason(Fate.PASSED_OVER, Why.EXPLAINS_HEADINGS, details=details)
        self.tally.count(why, head.explained)

    @property
    def photos(self) -> PhotosBeside | None:
        """What brings the photos that stand beside the table."""
        path = self.source.path
        return PhotosBeside(path, self.source.photos) if path is not None else None


def card_contacts(
    chunks: Iterable[bytes],
    blocks: CardBlocks,
    tally: Tally,
    seen: Callable[[int], None],
    into: Into,
) -> Iterator[Contact]:
    """The contacts of the cards that cannot be written into `into` with others at once."""
    for block in blocks.blocks(chunks):
        yield from work_off(block, into, tally)
        seen(blocks.reader.record)


def records(
    reader: RowReader,
    rows: Iterator[csv.Row],
    tally: Tally,
    seen: Callable[[int], None],
    *,
    to_the_end: bool = True,
    into: Into | None = None,
    first: csv.Row | None = None,
    quick: TableBlocks | None = None,
) -> Iterator[Contact]:
    """The contacts of rows; what cannot be read is set aside, and so are totals at the end.

    `to_the_end` says that the table ends with these rows, `first` is a row that stands before them.
    Where `into` is given, rows of one shape are written there at once; `quick` is what knows them
    already.
    """

    def set_aside(row: csv.Row, record: int) -> None:
        filled = sum(1 for cell in row.cells if cell and not cell.isspace())
        reason = row.wrong or "a row of totals, not a person"
        text = csv.shown(";".join(row.cells))
        tally.set_aside(SetAside(reader.source, record, row.line, reason, text), filled)

    if into is not None and quick is None:
        quick = TableBlocks(reader, tally)
    if into is not None and quick is not None and quick.possible:
        record = 1
        for block, last in _blocks(first, rows, to_the_end):
            cells: Sequence[Sequence[str]] = block  # type: ignore[assignment]
            aside: dict[int, csv.Row] = {}
            if isinstance(block[0], csv.Row):
                marked = list(_marked(block, last and to_the_end))  # type: ignore[arg-type]
                cells = [row.cells for row, _ in marked]
                aside = {at: row for at, (row, out) in enumerate(marked) if out}
            yield from work_off(quick.block(cells, record, aside, set_aside), into, tally)
            record += len(block)
            seen(record - 1)
    else:
        if first is not None:
            rows = chain([first], rows)
        for record, (row, out) in enumerate(_marked(rows, to_the_end), 1):
            if out:
                set_aside(row, record)
                continue
            contact = reader.contact(row.cells, record)
            seen(record)
            if contact is not None:
                yield contact
    reader.end()


def _marked(rows: Iterable[csv.Row], to_the_end: bool) -> Iterator[tuple[csv.Row, bool]]:
    """Rows, each with whether it must be set aside."""
    marked = without_totals(rows) if to_the_end else ((row, False) for row in rows)
    return ((row, total or bool(row.wrong)) for row, total in marked)


def _blocks(
    first: csv.Row | None, rows: Iterator[csv.Row], to_the_end: bool
) -> Iterator[tuple[Sequence[list[str]] | Sequence[csv.Row], bool]]:
    """Rows in blocks, each with whether it is the last."""
    blocks: Iterator[Sequence[list[str]] | list[csv.Row]]
    if isinstance(rows, csv.Rows):
        blocks = rows.blocks(to_the_end=to_the_end)
    else:
        blocks = csv.in_blocks(rows)
    held: Sequence[list[str]] | Sequence[csv.Row] = next(blocks, [])
    if first is not None:
        held = [first, *held] if held and isinstance(held[0], csv.Row) else [first.cells, *held]
        if len(held) == 1:
            held = [first]
    for block in blocks:
        yield held, False
        held = block
    if held:
        yield held, True
