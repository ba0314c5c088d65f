"""Which column of a table is which column of its layout."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from roundcard.card.equality import folded
from roundcard.errors import LayoutError, nearest
from roundcard.formats.csv import SEPARATORS
from roundcard.layouts.model import Column, Layout


class Binding(NamedTuple):
    """A layout held against the columns of one table."""

    columns: list[tuple[int, Column]]
    """Index in the row, from 0, and the layout's column; in the order of the table."""
    missing: list[Column]
    """Columns of the layout that the table lacks."""
    unlisted: list[tuple[int, str]]
    """Index and heading of the table's columns that the layout does not list."""
    width: int
    """How many columns the table has."""


def bind(layout: Layout, headings: Sequence[str] | None, width: int) -> Binding:
    """Hold a layout against a table's headings, or, where it has none, against its width."""
    if headings is None:
        return _bind_numbers(layout, [""] * width)
    free = list(range(len(headings)))
    exact = [heading.strip() for heading in headings]
    loose = [folded(heading) for heading in headings]
    columns: list[tuple[int, Column]] = []
    missing: list[Column] = []
    for column in layout.columns:
        if column.number:
            at = column.number - 1
            found = [at] if at in free else []
        else:
            found = _matches(column, exact, loose)
        wanted = column.nth - 1 if not column.number else 0
        if len(found) > wanted and found[wanted] in free:
            free.remove(found[wanted])
            columns.append((found[wanted], column))
        else:
            missing.append(column)
    columns.sort(key=lambda pair: pair[0])
    return Binding(columns, missing, [(at, exact[at]) for at in free], len(headings))


def _matches(column: Column, exact: Sequence[str], loose: Sequence[str]) -> list[int]:
    """Where the column's heading or an alias stands: letter for letter, else near enough."""
    for heading in column.headings:
        plain = heading.strip()
        for headings, wanted in ((exact, plain), (loose, folded(plain))):
            found = [at for at, each in enumerate(headings) if each == wanted]
            if len(found) >= column.nth:
                return found
    return []


def _bind_numbers(layout: Layout, headings: list[str]) -> Binding:
    numbers = {column.number for column in layout.columns}
    columns = [(c.number - 1, c) for c in layout.columns if 0 < c.number <= len(headings)]
    missing = [c for c in layout.columns if not 0 < c.number <= len(headings)]
    unlisted = [(at, "") for at in range(len(headings)) if at + 1 not in numbers]
    return Binding(sorted(columns, key=lambda pair: pair[0]), missing, unlisted, len(headings))


def fit(layout: Layout, headings: Sequence[str] | None, width: int) -> float:
    """How well a layout fits a table: the share of its columns that are there, 0 to 1."""
    found = bind(layout, headings, width)
    told = len(found.columns) + len(found.missing)
    return len(found.columns) / told if told else 0.0


def demand_fit(layout: Layout, binding: Binding, headings: Sequence[str] | None, file: str) -> None:
    """Raise `LayoutError` where a layout cannot be meant for a table at all."""
    if not binding.columns:
        first = [" ".join(heading.split()) for heading in (headings or [])[:4]]
        begin = ", ".join(f"'{text[:40]}…'" if len(text) > 41 else f"'{text}'" for text in first)
        if headings is not None and len(headings) == 1:
            begin += _other_separator(headings[0], layout)
        raise LayoutError(
            f"{layout.where} does not fit {file}: none of its {len(layout.columns)} columns was "
            f"found (the headings begin {begin or 'nowhere'})"
        )
    if layout.unlisted == "refuse" and binding.unlisted:
        names = ", ".join(f"'{name or f'column {at + 1}'}'" for at, name in binding.unlisted[:5])
        raise LayoutError(
            f"{layout.where} refuses columns that it does not list, and {file} has {names}; "
            'list them, or say unlisted = "custom" or "skip"'
        )


def _other_separator(heading: str, layout: Layout) -> str:
    """A hint where the whole heading row stands in one cell."""
    used = max(SEPARATORS, key=heading.count)
    if not heading.count(used):
        return ""
    said = SEPARATORS.get(layout.dialect.separator, layout.dialect.separator)
    return f"; they are separated by {SEPARATORS[used]}, and the layout says {said}"


def missing_note(column: Column, headings: Sequence[str] | None) -> str:
    """One line on a column that the table lacks, with the headings that look like it."""
    close = nearest(column.heading, headings or [], 1) if column.heading else []
    hint = f"; it has '{close[0]}', which looks like it (an alias would name it)" if close else ""
    return f"column '{column.name}' of the layout is not in the file{hint}"
