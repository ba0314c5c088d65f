"""Each column its place, and no place twice: the best assignment over all columns at once."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence

from roundcard.card.paths import FieldPath
from roundcard.layouts.drafting.candidates import Candidate, again

_AS_SURE = 1e-9
_NEVER = -9.0
"""How sure it is that a column holds what it was never taken for."""


def assign(columns: Sequence[Sequence[Candidate]]) -> list[Candidate]:
    """The candidate of each column with which all together are surest.

    A place that takes one value goes to one column; a column left over takes its next candidate,
    at the last custom, which is always free.
    """
    tops = Counter(place for listed in columns for place in _places(listed[0]))
    if all(count == 1 for count in tops.values()):
        return [listed[0] for listed in columns]
    return _optimal(columns)


def _optimal(columns: Sequence[Sequence[Candidate]]) -> list[Candidate]:
    single = sorted({str(place) for listed in columns for c in listed for place in _places(c)})
    at = {place: number for number, place in enumerate(single)}
    gain = [[_NEVER] * (len(single) + len(columns)) for _ in columns]
    chosen: dict[tuple[int, int], Candidate] = {}
    for row, listed in enumerate(columns):
        for candidate in listed:
            places = _places(candidate)
            slot = at[str(places[0])] if places else len(single) + row
            if candidate.sure > gain[row][slot]:
                gain[row][slot] = candidate.sure
                chosen[row, slot] = candidate
    # of columns that are as sure the first goes first
    weighed = [[sure * (1 - row * _AS_SURE) for sure in each] for row, each in enumerate(gain)]
    best = [chosen[row, slot] for row, slot in enumerate(surest(weighed))]
    return _without_overlap(best, columns)


def surest(gain: Sequence[Sequence[float]]) -> list[int]:
    """The column of each row of a table with which the sum is greatest, no column twice.

    The linear assignment problem, by shortest augmenting paths with dual prices (the Hungarian
    method: H. W. Kuhn, Naval Research Logistics Quarterly 2, 1955). There are at least as many
    columns as rows; it takes time in proportion to rows x rows x columns.
    """
    width = len(gain[0]) if gain else 0
    row_price, price = [0.0] * len(gain), [0.0] * (width + 1)
    held = [-1] * (width + 1)
    """The row that holds each column; the last one is where a new row begins."""
    for begin in range(len(gain)):
        held[width] = begin
        at = width
        distance, before = [math.inf] * width, [width] * width
        passed = [False] * (width + 1)
        while held[at] >= 0:
            passed[at] = True
            row = held[at]
            nearest, step = -1, math.inf
            for column in range(width):
                if passed[column]:
                    continue
                far = -gain[row][column] - row_price[row] - price[column]
                if far < distance[column]:
                    distance[column], before[column] = far, at
                if distance[column] < step:
                    nearest, step = column, distance[column]
            for column in range(width + 1):
                if passed[column]:
                    row_price[held[column]] += step
                    price[column] -= step
                elif column < width:
                    distance[column] -= step
            at = nearest
        while at != width:
            held[at] = held[before[at]]
            at = before[at]
    found = {row: column for column, row in enumerate(held[:width]) if row >= 0}
    return [found[row] for row in range(len(gain))]


def _without_overlap(
    best: list[Candidate], columns: Sequence[Sequence[Candidate]]
) -> list[Candidate]:
    """Cells of several things overlap with single ones in ways that slots do not show."""
    taken: dict[str, int] = {}
    for at in sorted(range(len(best)), key=lambda at: -best[at].sure):
        places = [str(place) for place in _places(best[at])]
        if any(place in taken for place in places):
            free = [c for c in columns[at] if not any(str(p) in taken for p in _places(c))]
            best[at] = free[0]
            places = [str(place) for place in _places(best[at])]
        taken.update(dict.fromkeys(places, at))
    return best


def _places(candidate: Candidate) -> list[FieldPath]:
    """The places of a candidate that take one column only."""
    if candidate.meant is not None and candidate.meant.joined:
        return []
    return [path for path in candidate.paths if not again(path)]
