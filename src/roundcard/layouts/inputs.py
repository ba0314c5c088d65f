"""Where in a row the text for a place comes from."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from roundcard.card.paths import FieldPath
from roundcard.layouts.model import Column

Cells = Sequence[str]
Get = Callable[[Cells], str]


class Input(NamedTuple):
    """A place of the contact, and where in the row its text comes from."""

    path: FieldPath
    get: Get
    column: int
    """Number of the column, from 1."""
    source: Column
    many: str = ""
    at: int = -1
    """Index of a cell that is taken as it stands; below zero where `get` must be asked."""


def inputs_of(at: int, column: Column) -> list[Input]:
    """What a bound column gives: one place, or several where its cell holds several things."""
    if column.parted:
        last = len(column.holds) - 1

        def piece(number: int) -> Get:
            def get(cells: Cells) -> str:
                pieces = cells[at].split(column.parted, last)
                return pieces[number].strip() if number < len(pieces) else ""

            return get

        return [
            Input(path, piece(number), at + 1, column) for number, path in enumerate(column.holds)
        ]

    def cell(cells: Cells) -> str:
        return cells[at]

    return [Input(column.holds[0], cell, at + 1, column, column.many, at)]


def joined(inputs: list[Input]) -> list[Input]:
    """Columns that hold one place, with `join` between their cells, as one input."""
    found: dict[FieldPath, list[Input]] = {}
    for each in inputs:
        if each.source.join is not None:
            found.setdefault(each.path, []).append(each)
    out = []
    for each in inputs:
        together = found.get(each.path, [])
        if each.source.join is None or len(together) < 2:
            out.append(each)
        elif each is together[0]:
            out.append(
                each._replace(at=-1, get=_join_of([i.get for i in together], each.source.join))
            )
    return out


def _join_of(gets: list[Get], mark: str) -> Get:
    return lambda cells: mark.join(filter(None, [get(cells) for get in gets]))
