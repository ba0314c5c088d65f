"""Contacts that fit two who exclude each other: a question that names both, never a choice."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from roundcard.match.blocking import Pairs

Floats = npt.NDArray[np.float64]
_MARGIN = 6.0
"""Points by which one of two may fit better and the other still be meant."""


class Rivals(NamedTuple):
    """Who fits several who exclude each other."""

    of_pairs: npt.NDArray[np.bool_]
    """Whether each pair is one of such."""
    of_contacts: dict[int, tuple[int, ...]]
    """The contacts that fit several, and whom."""


def rivals_in(
    pairs: Pairs, scores: Floats, veto: npt.NDArray[np.int8], limits: tuple[float, float],
    decided: Mapping[tuple[int, int], str],
) -> Rivals:  # fmt: skip
    """Find contacts that are surely one with somebody, and about as likely with another one who
    contradicts the first."""
    sure, ask = limits
    of_pairs = np.zeros(len(pairs), dtype=bool)
    found: dict[int, set[int]] = defaultdict(set)
    near: dict[int, dict[int, int]] = defaultdict(dict)
    """Whom those fit who are in a contradiction, and in which pair."""
    size = int(pairs.max(initial=-1)) + 1
    linked, opposed = np.zeros(size, dtype=bool), np.zeros(size, dtype=bool)
    linked[pairs[scores >= ask]] = True
    against = np.flatnonzero((veto > 0) & linked[pairs].all(axis=1))
    opposed[pairs[against]] = True
    for at in np.flatnonzero((scores >= ask) & opposed[pairs].any(axis=1)).tolist():
        one, other = pairs[at].tolist()
        near[one][other] = near[other][one] = at
    for at in against.tolist():
        one, other = pairs[at].tolist()
        if decided.get((one, other)) == "same":
            continue
        mine, theirs = near[one], near[other]
        few, many = (mine, theirs) if len(mine) < len(theirs) else (theirs, mine)
        for who in few:
            if who in many:
                points = scores[[mine[who], theirs[who]]]
                if points.max() >= sure and abs(points[0] - points[1]) <= _MARGIN:
                    keys = [tuple(sorted((who, each))) for each in (one, other)]
                    if not any(key in decided for key in keys):
                        of_pairs[[mine[who], theirs[who]]] = True
                        found[who] |= {one, other}
    return Rivals(of_pairs, {who: tuple(sorted(those)) for who, those in found.items()})
