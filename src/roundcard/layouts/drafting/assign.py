"""Each column its place, and no place twice: the best assignment over all columns at once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from roundcard.card.paths import FieldPath, takes_many
from roundcard.layouts.drafting.candidates import Candidate


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
    # the linear assignment problem, by the Jonker-Volgenant algorithm; see SciPy's manual
    import numpy as np  # only where two columns want one place
    from scipy.optimize import linear_sum_assignment

    single = sorted({str(place) for listed in columns for c in listed for place in _places(c)})
    at = {place: number for number, place in enumerate(single)}
    gain = np.full((len(columns), len(single) + len(columns)), -9.0)
    chosen: dict[tuple[int, int], Candidate] = {}
    for row, listed in enumerate(columns):
        for candidate in listed:
            places = _places(candidate)
            slot = at[str(places[0])] if places else len(single) + row
            if candidate.sure > gain[row, slot]:
                gain[row, slot] = candidate.sure
                chosen[row, slot] = candidate
    rows, slots = linear_sum_assignment(gain, maximize=True)
    best = [chosen[int(row), int(slot)] for row, slot in zip(rows, slots, strict=True)]
    return _without_overlap(best, columns)


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


def again(path: FieldPath) -> bool:
    """Whether several columns may hold a path, each a value of its own."""
    return not path.part and not path.position and takes_many(path.field)
