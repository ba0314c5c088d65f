"""Holding a layout against all of a table: does it still fit?"""

from __future__ import annotations

from roundcard.books.drafting import Beginning, sample_rows
from roundcard.books.source import Source
from roundcard.books.tables import open_table
from roundcard.layouts.binding import bind, demand_fit
from roundcard.layouts.drafting.profile import TableProfile, profile_rows
from roundcard.layouts.fitting import fit_of
from roundcard.layouts.model import Layout
from roundcard.survey.whole import Watch, profile_whole
from roundcard.tally import Tally

_SAMPLED = 300
_SHOWN = 3


def check_layout(layout: Layout, source: Source, watch: Watch | None = None) -> list[str]:
    """What does not fit between a layout and a table, one line each.

    Raises `LayoutError` where the layout cannot be meant for the table at all.
    """
    table = open_table(source, [layout])
    with source.open() as stream:
        headings, width, _ = table.head(table.rows(stream, Tally()))
    demand_fit(layout, bind(layout, headings, width), headings, source.name)
    begun = Beginning(table.layout.heading_row, headings, width, [])
    profile = profile_whole(source, table.dialect, begun, watch)
    return [*table.told, *fit_of(layout, headings, profile.columns).findings]


def samples_of(layout: Layout, source: Source) -> dict[str, tuple[str, ...]]:
    """A few values of each column of a layout, from the first rows of a table, by the column's
    name. Raises `LayoutError` where the layout is not meant for it."""
    headings, profile = _first_rows(layout, source)
    binding = bind(layout, headings, len(profile.columns))
    demand_fit(layout, binding, headings, source.name)
    return {column.name: tuple(profile.columns[at].samples[:_SHOWN])
            for at, column in binding.columns}  # fmt: skip


def _first_rows(layout: Layout, source: Source) -> tuple[list[str] | None, TableProfile]:
    table = open_table(source, [layout])
    rows = []
    for row in sample_rows(source, table.dialect):
        rows.append(row.cells)
        if len(rows) > _SAMPLED:
            break
    at = table.layout.heading_row
    headings = rows[at - 1] if at and len(rows) >= at else None
    width = len(headings) if headings is not None else len(rows[0]) if rows else 0
    return headings, profile_rows(headings or [""] * width, rows[at:])
