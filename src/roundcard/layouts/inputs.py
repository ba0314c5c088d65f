"""Where in a row the text for a place comes from."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from roundcard.card.paths import FieldPath
from roundcard.layouts.model import Column

Cells = Sequence[str]
"""A row as wide as the table, the cells that are made from others, and one that is empty."""


class Input(NamedTuple):
    """A place of the contact, and the cell that its text stands in."""

    path: FieldPath
    at: int
    """Index of the cell."""
    column: int
    """Number of the column, from 1."""
    source: Column
    many: str = ""
    own: bool = True
    """Whether it is a cell of the file, and not one that is made from others."""


class Made(NamedTuple):
    """A cell that is made from others, which stand before it."""

    cells: tuple[int, ...]
    make: Callable[..., str]
    """Takes the texts of these cells."""


class MadeCells:
    """The cells of one table that are made from others; they stand behind its own."""

    def __init__(self, width: int) -> None:
        self.width = width
        self.cells: list[Made] = []

    def add(self, cells: tuple[int, ...], make: Callable[..., str]) -> int:
        """One more; its index."""
        self.cells.append(Made(cells, make))
        return self.width + len(self.cells) - 1

    def extend(self, row: list[str]) -> None:
        """Put them behind the cells of a row."""
        for cells, make in self.cells:
            row.append(make(*[row[at] for at in cells]))


def inputs_of(at: int, column: Column, made: MadeCells) -> list[Input]:
    """What a bound column gives: one place, or several where its cell holds several things."""
    if not column.parted:
        return [Input(column.holds[0], at, at + 1, column, column.parts_at)]
    last = len(column.holds) - 1

    def piece(number: int) -> Callable[[str], str]:
        def make(text: str) -> str:
            pieces = text.split(column.parted, last)
            return pieces[number].strip() if number < len(pieces) else ""

        return make

    return [
        Input(path, made.add((at,), piece(number)), at + 1, column, own=False)
        for number, path in enumerate(column.holds)
    ]


def joined(inputs: list[Input], made: MadeCells) -> list[Input]:
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
            at = made.add(tuple(other.at for other in together), _joiner(each.source.join))
            out.append(each._replace(at=at, own=False))
    return out


def _joiner(mark: str) -> Callable[..., str]:
    return lambda *texts: mark.join(filter(None, texts))
