"""A table that has been opened: its dialect, its headings, its rows, and the layout for them."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import islice
from typing import TYPE_CHECKING, BinaryIO, NamedTuple

from roundcard.books.source import LOOKED_AT, Source, sample_rows
from roundcard.errors import LayoutError, SourceError
from roundcard.formats import charset, csv, workbook
from roundcard.formats.csv import SEPARATORS, Dialect, Row
from roundcard.formats.dialect import GuessedDialect, guess_dialect, said_separator
from roundcard.layouts.binding import fit
from roundcard.layouts.model import Layout
from roundcard.layouts.rowkinds import explains, is_total
from roundcard.tally import Tally

if TYPE_CHECKING:
    from roundcard.layouts.drafting.draft import Draft
    from roundcard.layouts.drafting.profile import TableProfile
    from roundcard.layouts.fitting import Fit

FITS_WELL = 0.6
"""The share of its columns that a layout must find in a file to be chosen for it."""
_NUMBERS_FIT = 0.75
"""How well a layout of numbered columns fits a table that is just as wide."""
_MOST_TOTALS = 20
"""Rows at the end of a table among which totals are looked for."""


class TableHead(NamedTuple):
    """What stands above the records of a table."""

    headings: list[str] | None
    """None where the table has none."""
    width: int
    first: Row | None
    """The first record, where it had to be read to tell."""
    above: int = 0
    """How many cells above the headings hold anything."""
    explained: int = 0
    """How many cells of the row under them, which explains them, hold anything; 0 without one."""


@dataclass(slots=True)
class Table:
    """A source with rows, the dialect they are in and the layout they are read by."""

    source: Source
    dialect: Dialect
    layout: Layout
    draft: Draft | None = None
    """What the layout was drafted from, where none was given."""
    taken: float = 0.0
    """How well the layout fits, where it is a kept one that was taken unasked; else 0."""
    encoding_sure: float = 1.0
    separator_sure: float = 1.0
    told: list[str] = field(default_factory=list)
    """What is worth knowing of how the table is read."""
    above: str = ""
    """What is said of rows above the headings, if there are any."""

    @property
    def notes(self) -> list[str]:
        """All that is worth knowing of how the table is read."""
        return [*self.told, self.above] if self.above else self.told

    def rows(self, stream: BinaryIO, tally: Tally) -> Iterator[Row]:
        """All rows of the table, from a stream that stands at its beginning."""
        return table_rows(self.source, stream, self.dialect, tally)

    def head(self, rows: Iterator[Row]) -> TableHead:
        """Take what stands above the records off the rows. Raises `LayoutError`."""
        row_number = self.layout.heading_row
        if row_number == 0:
            first = next(rows, None)
            return TableHead(None, len(first.cells) if first else 0, first)
        upto = list(islice(rows, row_number))
        if len(upto) < row_number:
            raise LayoutError(f"{self.layout.where}: 'heading_row' is {row_number}, and "
                              f"{self.source.name} has fewer rows")  # fmt: skip
        row = upto[-1]
        if row.wrong:
            raise SourceError(f"line {row.line}: the headings contain {row.wrong}")
        above = sum(_filled(each, first=at == 0) for at, each in enumerate(upto[:-1]))
        if not self.layout.explained_by:
            return TableHead(row.cells, len(row.cells), None, above)
        first = next(rows, None)
        if first is not None and explains(first.cells, self.layout.explained_by):
            return TableHead(row.cells, len(row.cells), None, above, _filled(first, first=False))
        return TableHead(row.cells, len(row.cells), first, above)


def _filled(row: Row, *, first: bool) -> int:
    """How many cells of a row above the headings hold anything; a line that says what separates
    cells holds nothing."""
    cells = [cell for cell in row.cells if cell.strip()]
    return 0 if first and cells and cells[0].lower().startswith("sep=") else len(cells)


def table_rows(source: Source, stream: BinaryIO, dialect: Dialect, tally: Tally) -> Iterator[Row]:
    """The rows of a text table or of a workbook."""
    if source.format.of_text:
        return csv.read(stream, dialect, source.sample)

    def tell(what: str, where: str) -> None:
        unit, _, number = where.partition(" ")
        tally.find(f"{source.name}: {what}", unit, int(number or 0))

    return workbook.read(stream, sheet=source.how.sheet, tell=tell)


def open_table(
    source: Source,
    layouts: Sequence[Layout],
    kept: Sequence[Layout] = (),
    *,
    demand: bool = True,
) -> Table:
    """Tell how a table is to be read: by the layout given, the best of several, a kept one that
    fits by itself, or a draft.

    Raises `LayoutError` where the table is not understood; without `demand` nothing need be.
    """
    guessed = guessed_dialect(source, layouts[0].dialect.encoding if len(layouts) == 1 else "")
    layout = _chosen(source, layouts, guessed)
    taken = None
    if layout is None and (taken := best_kept(source, kept, guessed)) is not None:
        layout = taken.layout
    table = Table(source, guessed.dialect, Layout(""), encoding_sure=guessed.encoding,
                  separator_sure=guessed.separator)  # fmt: skip
    if layout is not None:
        said = dialect_for(source, layout, guessed, table.told)
        other = replace(said, separator=guessed.dialect.separator)
        if not fits_table(layout, source, said) and fits_table(layout, source, other):
            names = [SEPARATORS.get(each.separator, each.separator) for each in (said, other)]
            table.told.append(
                f"the layout says {names[0]}, and the cells are separated by {names[1]}"
            )
            said = other
        if said.encoding == layout.dialect.encoding:
            table.encoding_sure = 1.0
        if said.separator == layout.dialect.separator:
            table.separator_sure = 1.0
        if source.how.heading_row is not None:
            layout = replace(layout, heading_row=source.how.heading_row)
        table.dialect, table.layout = said, layout
        _tell_above(table, layout.heading_row, said)
        table.taken = taken.score if taken is not None else 0.0
        return table
    from roundcard.books.drafting import demand_understood, draft_table

    draft, begun = draft_table(source, guessed.dialect)
    if demand:
        demand_understood(draft, begun, source.name)
    table.layout, table.draft, at = draft.layout, draft, begun.heading_row
    _tell_above(table, at, guessed.dialect)
    return table


def _tell_above(table: Table, row: int, dialect: Dialect) -> None:
    """Say that rows stand above the headings; one that says what separates cells is none."""
    source = table.source
    of_text = source.format.of_text
    if row > 1 and not (row == 2 and of_text and said_separator(_text(source, dialect))):
        table.above = f"the headings are in row {row}; what is above them was passed over"
    if table.draft is not None and table.layout.explained_by:
        table.told.append(f"the row under the headings, which explains them, is nobody: "
                          f"'{'; '.join(table.layout.explained_by)[:60]}'")  # fmt: skip


def guessed_dialect(source: Source, expected: str = "") -> GuessedDialect:
    """The dialect of a table: what the user said, else what its octets tell; an `expected` encoding
    is believed where they do not speak against it."""
    if not source.format.of_text:
        return GuessedDialect(Dialect(), 1.0, 1.0)
    how = source.how
    if how.encoding and not charset.mark_of(source.sample):
        # the separator and the quotes are told from the text that this encoding makes
        text = source.sample.decode(how.encoding, "replace")
        found = guess_dialect(text.encode("utf-8"))
        dialect = replace(found.dialect, encoding=how.encoding, byte_order_mark=False)
        found = GuessedDialect(dialect, 1.0, found.separator)
    else:
        found = guess_dialect(source.sample, source.telling, expected)
    if how.separator:
        found = GuessedDialect(replace(found.dialect, separator=how.separator), found.encoding, 1.0)
    return found


def dialect_for(
    source: Source, layout: Layout, guessed: GuessedDialect, told: list[str] | None = None
) -> Dialect:
    """The dialect to read a table by: as the layout says, unless the user or the file plainly say
    otherwise (which is put into `told`)."""
    found, said = guessed.dialect, layout.dialect
    how = source.how
    notes: list[str] = []
    encoding, separator = said.encoding, said.separator
    marked = charset.mark_of(source.sample) or charset.wide_of(source.sample)
    if source.format.of_text:
        if how.encoding or marked:
            encoding = found.encoding
        elif charset.plainly_not(encoding, source.telling):
            encoding = found.encoding
            notes.append(f"the layout says {said.encoding}, and the file is in {encoding}")
        in_file = said_separator(source.sample.decode(encoding, "replace"))
        if how.separator:
            separator = how.separator
        elif in_file and in_file != separator:
            separator = in_file
            notes.append(f"its first line says the separator is '{in_file}', against the layout")
    if told is not None:
        told += notes
    return replace(said, encoding=encoding, separator=separator, backslash=found.backslash)


def _chosen(source: Source, layouts: Sequence[Layout], guessed: GuessedDialect) -> Layout | None:
    if len(layouts) < 2:
        return layouts[0] if layouts else None
    best, share = None, 0.0
    for layout in layouts:
        fits = fits_table(layout, source, dialect_for(source, layout, guessed))
        if fits > share:
            best, share = layout, fits
    return best if share >= FITS_WELL else None


def best_kept(source: Source, kept: Sequence[Layout], guessed: GuessedDialect) -> Fit | None:
    """The kept layout that fits a table so well that it is taken unasked."""
    from roundcard.layouts.fitting import TAKEN_FROM

    found = fits_of(source, kept, guessed)
    return found[0] if found and found[0].score >= TAKEN_FROM else None


def fits_of(source: Source, layouts: Sequence[Layout], guessed: GuessedDialect) -> list[Fit]:
    """How well each of some layouts fits the first rows of a table, the best first."""
    if not layouts:
        return []
    from roundcard.layouts.drafting.profile import profile_rows
    from roundcard.layouts.fitting import fit_of

    dialect = guessed.dialect
    rows = [row.cells for row in islice(sample_rows(source, dialect), LOOKED_AT)]
    profiles: dict[int, tuple[list[str] | None, TableProfile]] = {}
    found = []
    for layout in layouts:
        at = layout.heading_row
        if at > len(rows) or not rows:
            continue
        if at not in profiles:
            headings = rows[at - 1] if at else None
            profiles[at] = headings, profile_rows(headings or [""] * len(rows[0]), rows[at:])
        headings, profile = profiles[at]
        found.append(fit_of(layout, headings, profile.columns))
    return sorted(found, key=lambda fit: (-fit.score, fit.layout.name))


def fits_table(layout: Layout, source: Source, dialect: Dialect) -> float:
    """How well a layout fits a table, 0 to 1."""
    rows = list(islice(sample_rows(source, dialect), layout.heading_row + 1))
    if not rows or len(rows) < layout.heading_row:
        return 0.0
    if layout.heading_row:
        headings = rows[layout.heading_row - 1].cells
        return fit(layout, headings, len(headings))
    last = max(column.number for column in layout.columns)
    return _NUMBERS_FIT if len(rows[0].cells) == last else 0.0


def _text(source: Source, dialect: Dialect) -> str:
    return source.sample.decode(dialect.encoding, "replace")


def without_totals(rows: Iterable[Row]) -> Iterator[tuple[Row, bool]]:
    """The rows, each with whether it is one of the totals that stand at the end of a table."""
    held: deque[Row] = deque()
    for row in rows:
        if held:
            blank = not any(cell.strip() for cell in row.cells)
            if (blank or is_total(row.cells)) and len(held) < _MOST_TOTALS:
                held.append(row)
                continue
            while held:
                yield held.popleft(), False
        if not row.wrong and is_total(row.cells):
            held.append(row)
        else:
            yield row, False
    while held:
        row = held.popleft()
        yield row, is_total(row.cells)
