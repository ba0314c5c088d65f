"""Holding a layout against all of a table: does it still fit?"""

from __future__ import annotations

from collections.abc import Iterator

from roundcard.books.drafting import Beginning
from roundcard.books.source import Source, sample_rows
from roundcard.books.tables import open_table
from roundcard.layouts.binding import bind, demand_fit
from roundcard.layouts.drafting.draft import DraftedColumn, draft_layout
from roundcard.layouts.drafting.profile import TableProfile, profile_rows
from roundcard.layouts.fitting import fit_of
from roundcard.layouts.model import Layout
from roundcard.survey.column_problems import damage_of
from roundcard.survey.profile_table import Watch, profile_whole
from roundcard.tally import Tally

_SAMPLED = 300
_SHOWN = 3


def check_layout(layout: Layout, source: Source, watch: Watch | None = None) -> list[str]:
    """What does not fit between a layout and a table, one line each.

    Raises `LayoutError` where the layout cannot be meant for the table at all.
    """
    table = open_table(source, [layout])
    with source.open() as stream:
        headings, width, *_ = table.head(table.rows(stream, Tally()))
    demand_fit(layout, bind(layout, headings, width), headings, source.name)
    begun = Beginning(table.layout.heading_row, headings, width, [])
    profile = profile_whole(source, table.dialect, begun, watch)
    found = [*table.told, *fit_of(layout, headings, profile.columns).findings]
    for at, column in bind(layout, headings, width).columns:
        if at < len(profile.columns):
            damage = damage_of(column, profile.columns[at])
            found += [f"column '{column.name}': {told}" for told in damage]
    return found


def samples_of(layout: Layout, source: Source) -> dict[str, tuple[str, ...]]:
    """A few values of each column of a layout, from the first rows of a table, by the column's
    name. Raises `LayoutError` where the layout is not meant for it."""
    headings, profile = _first_rows(layout, source)
    binding = bind(layout, headings, len(profile.columns))
    demand_fit(layout, binding, headings, source.name)
    return {column.name: tuple(profile.columns[at].samples[:_SHOWN])
            for at, column in binding.columns}  # fmt: skip


def proposals_of(
    layout: Layout, source: Source
) -> Iterator[tuple[str, tuple[str, ...], tuple[str, ...], float]]:
    """For each column of a layout that a table has: its name, samples, the places that it may
    hold, the likeliest first, and how full it is in the first rows."""
    headings, profile = _first_rows(layout, source)
    binding = bind(layout, headings, len(profile.columns))
    demand_fit(layout, binding, headings, source.name)
    drafted = draft_layout(headings, profile.columns, layout.dialect, layout.name).columns
    for at, column in binding.columns:
        each = drafted[at]
        held = [", ".join(map(str, each.column.holds))] if not each.is_custom else []
        others = [", ".join(map(str, other.paths)) for other in each.others]
        samples = tuple(profile.columns[at].samples[:_SHOWN])
        proposals = tuple(dict.fromkeys([*held, *others, *_likely(each)]))
        yield column.name, samples, proposals, profile.columns[at].fill


def _likely(each: DraftedColumn) -> Iterator[str]:
    """Places that take anything, behind those for which something speaks."""
    if each.is_custom:
        yield from ("note", "category", str(each.column.holds[0]))


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
