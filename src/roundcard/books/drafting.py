"""A layout for a table that came without one: its headings found, its first rows looked at."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import islice
from pathlib import Path
from typing import NamedTuple

from roundcard.books.source import LOOKED_AT, Source, sample_rows
from roundcard.errors import LayoutError, SourceError
from roundcard.formats.csv import Dialect
from roundcard.layouts.drafting.cells import cell_kind
from roundcard.layouts.drafting.draft import Draft, draft_layout
from roundcard.layouts.drafting.heading_parser import known_headings
from roundcard.layouts.drafting.profile import TableProfile, profile_rows
from roundcard.layouts.model import Layout
from roundcard.layouts.rowkinds import explaining_cells, is_total, looks_like_a_record, trimmed

_HEADINGS_WITHIN = 20
"""Rows among which headings are looked for."""
_ALIKE_WITHIN = 40
_TELLING = frozenset(
    ("person", "person, comma", "given", "street", "country", "number", "job", "org",
     "code and town", "prefix", "yes-no", "address", "post code", "digits", "decimal", "gender")
)  # fmt: skip
"""Kinds of cells that a heading is not of."""
_NAMING = frozenset(("given", "person", "person, comma"))
_SHAPED = frozenset(("email", "phone", "phones", "date", "url"))
"""Kinds of cells that are told by their shape, so that words among them stand out."""


class Beginning(NamedTuple):
    """The first rows of a table."""

    heading_row: int
    """Number of the row with the headings; 0 where there are none."""
    headings: list[str] | None
    width: int
    rows: list[list[str]]
    """The records that follow, as far as they were looked at."""
    explained_by: tuple[str, ...] = ()
    """The cells of the row under the headings, where it explains them."""

    def into(self, layout: Layout) -> Layout:
        """A layout whose records begin where these do."""
        return replace(layout, heading_row=self.heading_row, explained_by=self.explained_by)

    def profile(self) -> TableProfile:
        """What the columns hold in these rows."""
        return profile_rows(self.headings or [""] * self.width, self.rows)


def beginning(source: Source, dialect: Dialect) -> Beginning:
    """Find the headings of a table and take its first records. Raises `SourceError`."""
    rows = [row.cells for row in islice(sample_rows(source, dialect), LOOKED_AT + 1)]
    at = heading_row(source, rows)
    records = [cells for cells in rows[at:] if any(cells) and not is_total(cells)]
    if at:
        headings = rows[at - 1] if at <= len(rows) else []
        explained_by = explanation(records)
        return Beginning(at, headings, len(headings), records[bool(explained_by) :], explained_by)
    widths = Counter(len(cells) for cells in records)
    width = widths.most_common(1)[0][0] if widths else 0
    return Beginning(0, None, width, records)


def heading_row(source: Source, rows: Sequence[list[str]]) -> int:
    """The number of the row that looks most like headings; 0 where the first is a record."""
    if (said := source.how.heading_row) is not None:
        if said > len(rows):
            raise SourceError(f"{source.name}: --heading-row is {said}, and the file does not have "
                              "that many rows at its beginning")  # fmt: skip
        return said
    filled = [(at, cells) for at, cells in enumerate(rows[:_HEADINGS_WITHIN], 1) if any(cells)]
    if not filled:
        return 1
    known = {at: known_headings(cells) for at, cells in filled if _may_be_headings(cells)}
    if known:
        at = max(known, key=lambda at: (known[at], -at))
        above = max((_filled(cells) for row, cells in filled if row < at), default=0)
        if known[at] > 1 or (known[at] and above < _filled(rows[at - 1])):
            return at
    at, cells = filled[0]
    if len(filled) > 1:
        # a title stands alone in its row, above rows that are wider
        usual = Counter(_filled(cells) for _, cells in filled).most_common(1)[0][0]
        at, cells = next(
            ((at, cells) for at, cells in filled if _filled(cells) * 2 > usual), filled[0]
        )
    if looks_like_a_record(cells) or _like_those_below(cells, rows[at:]):
        return 0
    return at


def _filled(cells: Sequence[str]) -> int:
    return sum(1 for cell in cells if cell.strip())


def _may_be_headings(cells: Sequence[str]) -> bool:
    """A row in which an address or a number stands is a record, unless headings abound in it."""
    if not looks_like_a_record(cells):
        return known_headings(cells) * 4 >= _filled(cells)
    return known_headings(cells) * 2 >= _filled(cells)


def _like_those_below(cells: Sequence[str], below: Sequence[list[str]]) -> bool:
    """Whether the cells of a row are of the same kinds as those below: a record like them."""
    same = told = 0
    for at, cell in enumerate(cells):
        column = [row[at] for row in below[:_ALIKE_WITHIN] if at < len(row) and row[at].strip()]
        kinds = Counter(cell_kind(each) for each in column)
        if len(column) < 3 or not cell.strip():
            continue
        kind, times = kinds.most_common(1)[0]
        if kind in _TELLING and times >= 0.7 * len(column):
            told += 1
            same += cell_kind(cell) == kind
    return told > 0 and same * 2 > told


def explanation(rows: Sequence[list[str]]) -> tuple[str, ...]:
    """The cells of the first of the rows below the headings where it explains them: what the
    columns hold (``text``, ``number, with country``), and not what stands in them.

    In two columns or more that below it hold nothing but addresses, numbers or dates it has words
    that differ, and no name of a person anywhere.
    """
    if not rows or looks_like_a_record(rows[0]):
        return ()
    first = [cell.strip() for cell in rows[0]]
    kinds = [cell_kind(cell) for cell in first]
    if explaining_cells(first) < 2 or any(kind in _NAMING for kind in kinds):
        return ()
    words = []
    for at, cell in enumerate(first):
        column = [row[at] for row in rows[1:_ALIKE_WITHIN] if at < len(row) and row[at].strip()]
        shaped = sum(cell_kind(each) in _SHAPED for each in column)
        if len(column) >= 3 and shaped >= 0.9 * len(column) and cell:
            if kinds[at] in _SHAPED or kinds[at] == "none":
                return ()
            words.append(cell.lower())
    return trimmed(first) if len(set(words)) >= 2 else ()


def draft_table(
    source: Source,
    dialect: Dialect,
    profile: Callable[[Beginning], TableProfile] | None = None,
) -> tuple[Draft, Beginning]:
    """Draft the layout of a table from its headings and cells.

    `profile` may look at more than the first rows; columns empty in it are skipped. Raises
    `LayoutError` where no column at all is understood.
    """
    begun = beginning(source, dialect)
    columns = (profile or Beginning.profile)(begun).columns
    draft = draft_layout(
        begun.headings, columns, dialect, Path(source.name).stem, skip_empty=profile is not None
    )
    return replace(draft, layout=begun.into(draft.layout)), begun


def demand_understood(draft: Draft, begun: Beginning, name: str) -> None:
    """Raise `LayoutError` where nothing of a table is understood."""
    if draft.understood:
        return
    first = begun.headings or (begun.rows[0] if begun.rows else [])
    begin = ", ".join(f"'{' '.join(cell.split())[:30]}'" for cell in first[:4])
    raise LayoutError(
        f"{name}: none of its {len(first)} columns is understood (the first row begins {begin}); "
        f"write its layout with 'roundcard layout draft {name} -o LAYOUT.toml', say in it what "
        "the columns hold, and give it with --layout"
    )
