"""Weights of agreement (Fellegi and Sunter, 1969): log2(m/u) for each level of each feature.

m is how often the level is met among pairs of one person, u among pairs of two. Where there are
enough pairs, both are estimated from the books: u from pairs taken by chance, m by expectation
maximisation (Dempster, Laird and Rubin, 1977); the shipped weights hold the balance.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from roundcard.match.compare import LEVELS, Levels

Weights = dict[str, tuple[float, ...]]

DEFAULTS: Weights = {
    "given": (0.0, 4.5, 3.5, 1.0, 2.5, -7.0, 1.5),
    "family": (0.0, 6.0, 3.5, -4.5),
    "middle": (0.0, 2.0, -2.5),
    "whole": (0.0, 9.0, 3.0, -5.0),
    "email": (0.0, 9.5, 3.5, -0.8),
    "phone": (0.0, 7.0, -0.6),
    "birthday": (0.0, 8.5, 3.0, -8.0),
    "address": (0.0, 4.5, 1.5, -0.6),
    "org": (0.0, 2.0, -0.2),
    "uid": (0.0, 20.0, 0.0),
}
"""The weights of levels, in bits, by their number in `compare.LEVELS`."""

_ENOUGH = 3_000
"""Pairs from which weights are estimated at all."""
_TRUST = 0.5
"""Share of an estimate in the weight, at the most."""
_FURTHEST = 2.5
"""Bits by which an estimate may move a shipped weight."""
_ROUNDS = 25
_FIXED = frozenset(("uid", "middle", "whole"))
"""Features that are too rare to be estimated."""


def estimated(
    levels: dict[str, Levels], by_chance: dict[str, Levels], prior: float = 0.15
) -> Weights:
    """The weights for books with such pairs; `by_chance` are the levels of random pairs."""
    size = len(next(iter(levels.values())))
    if size < _ENOUGH:
        return DEFAULTS
    names = [name for name in LEVELS if name not in _FIXED]
    patterns, counts = np.unique(
        np.stack([levels[name] for name in names], axis=1), axis=0, return_counts=True
    )
    u = {name: _shares(by_chance[name], len(LEVELS[name])) for name in names}
    m = {name: u[name] * np.exp2(np.asarray(DEFAULTS[name])) for name in names}
    m = {name: _normal(shares) for name, shares in m.items()}
    share = prior
    for _ in range(_ROUNDS):
        belongs = _probability(patterns, names, m, u, share)
        weight = counts * belongs
        share = float(np.clip(weight.sum() / counts.sum(), 0.01, 0.9))
        for at, name in enumerate(names):
            told = np.bincount(patterns[:, at], weight, minlength=len(LEVELS[name]))
            m[name] = _normal(told + 0.5)
    trust = _TRUST * min(1.0, size / (10 * _ENOUGH))
    return {name: _blended(name, m.get(name), u.get(name), trust) for name in LEVELS}


def _shares(levels: Levels, count: int) -> npt.NDArray[np.float64]:
    return _normal(np.bincount(levels, minlength=count) + 0.5)


def _normal(told: npt.NDArray[np.floating[Any]]) -> npt.NDArray[np.float64]:
    """Shares of the levels among pairs in which nothing is missing; missing itself says nothing."""
    out = np.asarray(told, dtype=np.float64).copy()
    out[1:] /= out[1:].sum()
    out[0] = 1.0
    return out


def _probability(
    patterns: npt.NDArray[np.int8], names: list[str], m: dict[str, npt.NDArray[np.float64]],
    u: dict[str, npt.NDArray[np.float64]], share: float,
) -> npt.NDArray[np.float64]:  # fmt: skip
    odds = np.full(len(patterns), np.log2(share / (1 - share)))
    for at, name in enumerate(names):
        odds += np.log2(m[name] / u[name])[patterns[:, at]]
    return np.asarray(1 / (1 + np.exp2(-np.clip(odds, -60, 60))))


def _blended(
    name: str, m: npt.NDArray[np.float64] | None, u: npt.NDArray[np.float64] | None, trust: float
) -> tuple[float, ...]:
    shipped = DEFAULTS[name]
    if m is None or u is None:
        return shipped
    told = np.log2(m / u)
    moved = [
        weight + trust * float(np.clip(told[at] - weight, -_FURTHEST / trust, _FURTHEST / trust))
        if at
        else 0.0
        for at, weight in enumerate(shipped)
    ]
    # an agreement never speaks against, a difference never for
    return tuple(
        max(new, 0.0) if old > 0 else min(new, 0.0) for new, old in zip(moved, shipped, strict=True)
    )
