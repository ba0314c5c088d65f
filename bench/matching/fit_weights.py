"""Fit the points of matching to made books: ``python bench/matching/fit_weights.py [--write]``.

Logistic regression with a small ridge over the pairs that are compared in books of all kinds, each
kind weighing the same, in bits; ``--write`` puts the points where the program has them. The points
of what two kinds of agreement say together are held back more than those of each alone.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import numpy as np
import numpy.typing as npt
from score_matches import made

from roundcard.match.blocking import candidates
from roundcard.match.compare import LEVELS, Compared, Comparer
from roundcard.match.gathering import features_in
from roundcard.match.matching import SURE, rarities
from roundcard.match.weights import (
    NAME_CLASSES,
    VALUE_CLASSES,
    WEAK,
    elsewhere,
    name_classes,
    value_classes,
    weights,
)  # fmt: skip

Floats = npt.NDArray[np.float64]
BOOKS = (("old", 3_000, 101), ("old", 12_000, 102), ("first", 3_000, 103), ("first", 3_000, 104),
         ("first", 12_000, 105), ("first", 12_000, 109), ("second", 3_000, 106),
         ("second", 3_000, 107), ("second", 12_000, 108), ("second", 12_000, 110))  # fmt: skip
KIND_WEIGHT = {"old": 0.5, "first": 1.0, "second": 1.0}
RIDGE, RIDGE_TOGETHER = 0.1, 0.3
ROUNDS = 40
SURE_ODDS = 4.4
"""Bits of the odds at the threshold from which two are one unasked."""
FIXED = {"uid": (0.0, 20.0, 0.0), "birthday": (0.0, 7.0, 1.0, 0.0)}
"""What these books have too little of to tell: strangers of one name born on the same day."""
RARE = ("given", "family", "both")
LEAST = {("second", 2): -3.0}
"""What may not say more against two than this, though in these books it does."""
TARGET = Path(__file__).parents[2] / "src/roundcard/match/weights.toml"


def columns() -> list[tuple[str, int, int]]:
    """What has points: feature and level, what is rare, what is said together."""
    found = [(name, level, 0) for name, texts in LEVELS.items() if name not in FIXED
             for level in range(1, len(texts))]  # fmt: skip
    found += [(f"rare {name}", weak, 0) for name in RARE for weak in (0, 1)]
    found += [("elsewhere", 1, 0), ("elsewhere", 2, 0)]
    found += [("together", one, other) for one in range(len(NAME_CLASSES))
              for other in range(len(VALUE_CLASSES))]  # fmt: skip
    return found


def pairs_of(name: str, size: int, seed: int, folder: Path) -> tuple[Floats, Floats]:
    """What is to be seen of the pairs of a book, and whether each is one person."""
    book = made(name, size, folder, seed)
    features = features_in(book.plan, book.region)
    pairs = candidates(features).pairs
    comparer = Comparer(features)
    told = comparer.learn(pairs)
    keep = told.veto == 0
    places = zip(features.source, features.record, strict=True)
    person = np.array([int(book.labels[place][0]) for place in places])
    same = person[pairs[:, 0]] == person[pairs[:, 1]]
    lost = np.count_nonzero(same & ~keep)
    print(f"  {name} {size:,}: {len(pairs):,} pairs, {same.sum():,} one, {lost} of them vetoed")
    levels = {each: values[keep] for each, values in told.levels.items()}
    rare = rarities(features, pairs[keep], Compared(levels, told.veto[keep], told.bearers[keep]))
    names, values = name_classes(levels), value_classes(levels)
    away, weak = elsewhere(levels, values), np.isin(values, WEAK)
    seen = []
    for what, level, other in columns():
        if what == "together":
            seen.append((names == level) & (values == other))
        elif what.startswith("rare"):
            seen.append(rare[what.removeprefix("rare ")] * (weak != bool(level)))
        elif what == "elsewhere":
            seen.append(away == level)
        else:
            seen.append(levels[what] == level)
    known = rare["expected"] + sum(np.asarray(points)[levels[each]]
                                   for each, points in FIXED.items())  # fmt: skip
    seen.append(np.asarray(known))
    return np.array(seen, dtype=np.float64).T, same[keep].astype(np.float64)


def fitted(seen: Floats, same: Floats, weight: Floats) -> tuple[Floats, float]:
    """The points, in bits, and those of the beginning, by Newton's method."""
    ridge = np.array([RIDGE_TOGETHER if what == "together" else RIDGE
                      for what, *_ in columns()] + [1e-6])  # fmt: skip
    known = seen[:, -1] * np.log(2)
    every = np.hstack([seen[:, :-1], np.ones((len(seen), 1))])
    points = np.zeros(every.shape[1])
    for _ in range(ROUNDS):
        chance = 1 / (1 + np.exp(-np.clip(every @ points + known, -40, 40)))
        slope = every.T @ (weight * (same - chance)) - ridge * points
        curve = (every * (weight * chance * (1 - chance))[:, None]).T @ every + np.diag(ridge)
        step = np.linalg.solve(curve, slope)
        points += step
        if np.abs(step).max() < 1e-6:
            break
    points /= np.log(2)
    return points[:-1], float(points[-1])


def as_toml(points: Floats, start: float) -> str:
    """The file of weights. What stands at the beginning goes into the points of names and values,
    so that a sum needs no more than its reasons; the threshold is the program's."""
    told = dict(zip(columns(), points.tolist(), strict=True))
    shift = SURE - SURE_ODDS + start  # every pair has one kind of names and values
    lines = ["# Points of agreement, fitted by bench/matching/fit_weights.py; the levels are those",
             "# of compare.py, the kinds of names (rows) and values (columns) those of weights.py.",
             "",
             "[points]"]  # fmt: skip
    for name, texts in LEVELS.items():
        values = FIXED.get(name) or [
            0.0, *(max(told[name, level, 0], LEAST.get((name, level), -99))
                   for level in range(1, len(texts)))
        ]  # fmt: skip
        lines.append(f"{name} = [{', '.join(f'{each:.2f}' for each in values)}]")
    lines += ["", "[rare]", *(
        f"{name} = [{told[f'rare {name}', 0, 0]:.2f}, {told[f'rare {name}', 1, 0]:.2f}]"
        for name in RARE), "expected = [1.0, 1.0]"]  # fmt: skip
    rows = [", ".join(f"{told['together', one, other] + shift:.2f}"
                      for other in range(len(VALUE_CLASSES)))
            for one in range(len(NAME_CLASSES))]  # fmt: skip
    table = ["together = [", *(f"  [{row}], # {name}" for row, name in zip(rows, NAME_CLASSES, strict=True)), "]", ""]  # noqa: E501  # fmt: skip
    away = f"elsewhere = [0.0, {told['elsewhere', 1, 0]:.2f}, {told['elsewhere', 2, 0]:.2f}]"
    chosen = [
        "# chosen on books of all makers, not fitted: whole names and nothing that differs; one",
        "# name and one birthday; two bearers, three",
        f"unopposed = {weights().unopposed}",
        f"born = {weights().born}",
        f"bearers = {list(weights().bearers)}",
        "# by how many fewer points two of such a kind are sure (more, where it is negative);",
        "# chosen on books of all makers so that one in a hundred at the most is wrong",
        "lead = [",
        *(f'  ["{NAME_CLASSES[one]}", "{VALUE_CLASSES[other]}", {points}],'
          for one, row in enumerate(weights().lead) for other, points in enumerate(row) if points),
        "]",
    ]  # fmt: skip
    return "\n".join([*lines[:3], *table, away, *chosen, "", *lines[3:], ""])


def main() -> None:
    """Fit, and show or write."""
    seen, same, weight = [], [], []
    with tempfile.TemporaryDirectory() as folder:
        for at, (name, size, seed) in enumerate(BOOKS):
            x, y = pairs_of(name, size, seed, Path(folder) / str(at))
            seen.append(x)
            same.append(y)
            weight.append(np.full(len(y), KIND_WEIGHT[name]))
    points, start = fitted(np.vstack(seen), np.concatenate(same), np.concatenate(weight))
    text = as_toml(points, start)
    if "--write" in sys.argv:
        TARGET.write_text(text, "utf-8")
    else:
        print(text)


if __name__ == "__main__":
    main()
