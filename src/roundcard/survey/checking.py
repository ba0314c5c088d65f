"""Holding a layout against all of a table: does it still fit?"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import NamedTuple

from roundcard.books.drafting import Beginning
from roundcard.books.source import Source, sample_rows
from roundcard.books.tables import open_table
from roundcard.card.paths import FieldPath, parse, takes_many
from roundcard.layouts.binding import bind, demand_fit
from roundcard.layouts.drafting.draft import DraftedColumn, draft_layout
from roundcard.layouts.drafting.evidence import identified
from roundcard.layouts.drafting.profile import ColumnProfile, TableProfile, profile_rows
from roundcard.layouts.fitting import fit_of
from roundcard.layouts.model import Column, Layout
from roundcard.layouts.rowkinds import explains
from roundcard.survey.column_problems import damage_of
from roundcard.survey.profile_table import Watch, profile_whole
from roundcard.tally import Tally

_SAMPLED = 300
_SHOWN = 3
_MOST_PLACES = 5


def check_layout(layout: Layout, source: Source, watch: Watch | None = None) -> list[str]:
    """What does not fit between a layout and a table, one line each.

    Raises `LayoutError` where the layout cannot be meant for the table at all.
    """
    table = open_table(source, [layout])
    with source.open() as stream:
        headings, width, *_ = table.head(table.rows(stream, Tally()))
    demand_fit(layout, bind(layout, headings, width), headings, source.name)
    begun = Beginning(table.layout.heading_row, headings, width, [], table.layout.explained_by)
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


class Proposed(NamedTuple):
    """What a table says of a column of a layout."""

    samples: tuple[str, ...] = ()
    proposals: tuple[str, ...] = ()
    """The places that it may hold, the likeliest first."""
    fill: float | None = None
    """How full it is in the first rows."""
    profile: ColumnProfile | None = None
    style: Column | None = None
    """How several values stand in its cells, how dates are written and what codes mean, as far as
    the cells tell."""


class Proposals:
    """What a table says of the columns of a layout, anew after each decision."""

    def __init__(self, layout: Layout, source: Source) -> None:
        """Raises `LayoutError` where the layout is not meant for the table."""
        headings, profile = _first_rows(layout, source)
        self._columns = profile.columns
        binding = bind(layout, headings, len(profile.columns))
        demand_fit(layout, binding, headings, source.name)
        self._at = {column.name: at for at, column in binding.columns}
        self._drafted = draft_layout(headings, profile.columns, layout.dialect, layout.name).columns

    def of(self, layout: Layout, name: str) -> Proposed:
        """What the table says of one column, with what the layout says of the others by now: what
        another one holds is offered at the next free place, or not at all."""
        at = self._at.get(name)
        if at is None:
            return Proposed()
        each, profile = self._drafted[at], self._columns[at]
        held = {path for column in layout.columns if column.name != name for path in column.holds}
        told = [each.column.holds] if not each.is_custom else []
        told += [other.paths for other in each.others]
        told += [(parse(found.path),) for found in identified(profile) if found.path]
        free = [paths for paths in (_free(paths, held) for paths in told) if paths]
        proposals = [", ".join(map(str, paths)) for paths in free]
        likely = (*proposals, *self._neighbours(layout, name, held), *_likely(each))
        return Proposed(tuple(profile.samples[:_SHOWN]), tuple(dict.fromkeys(likely)),
                        profile.fill, profile, each.column)  # fmt: skip

    def _neighbours(self, layout: Layout, name: str, held: set[FieldPath]) -> Iterator[str]:
        """What goes on from the column before: the other parts of an address, the use of a
        number."""
        names = [column.name for column in layout.columns]
        before = layout.columns[names.index(name) - 1] if names.index(name) else None
        if before is None or len(before.holds) != 1:
            return
        path = before.holds[0]
        parts = {"street": ("locality", "postcode"), "postcode": ("locality",),
                 "locality": ("region", "country")}.get(path.part, ())  # fmt: skip
        if path.field == "address":
            found = [replace(path, part=part) for part in parts]
        elif path.field in ("phone", "email"):
            found = [FieldPath(path.field, path.uses, position=path.position or 1, part="use")]
        else:
            found = []
        yield from (str(each) for each in found if each not in held)


def _free(paths: tuple[FieldPath, ...], held: set[FieldPath]) -> tuple[FieldPath, ...]:
    """Places as they are free beside those that are held; none where they are not."""
    if held.isdisjoint(paths):
        return paths
    if len(paths) > 1 or not takes_many(paths[0].field) or paths[0].field == "name":
        return ()
    for position in range(2, _MOST_PLACES):
        moved = replace(paths[0], position=position)
        if moved not in held:
            return (moved,)
    return ()


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
    records = rows[at + (at < len(rows) and explains(rows[at], table.layout.explained_by)) :]
    return headings, profile_rows(headings or [""] * width, records)
