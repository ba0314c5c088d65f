"""Matching as a picture: the scores of all pairs with the thresholds, and the sizes of groups."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from roundcard.books.figures import DIM, INK, PALE, drawn
from roundcard.books.transaction import Transaction
from roundcard.match.matching import Matches

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_SIZE = (11.0, 4.6)
_SAME, _ASK, _APART = "#2f6f73", "#c98a1b", "#b9c2c5"
_LOWEST, _HIGHEST = -12.0, 42.0
_STEP = 0.5
"""Bars end where the usual thresholds do."""
_MANY = 2_000
"""Pairs from which few of one score could not be seen beside many of another."""


def draw(files: Transaction, matches: Matches, path: Path, *, force: bool = False) -> None:
    """Draw what was found into one of the files to write. Raises `TargetError`."""
    with drawn(files, path, _SIZE, force=force) as figure:
        left, right = figure.subplots(1, 2, width_ratios=(3, 2))
        _scores(left, matches)
        _groups(right, matches)
        figure.tight_layout(w_pad=3)


def _scores(axes: Axes, matches: Matches) -> None:
    """How many pairs have which score, and what that says of them."""
    vetoed = matches.compared.veto > 0
    scores = np.clip(matches.scores[~vetoed], _LOWEST, _HIGHEST)
    lowest = np.floor(min([0.0, *scores]))
    edges = np.arange(lowest, _HIGHEST + 2 * _STEP, _STEP)
    for low, high, colour, name in (
        (-np.inf, matches.ask, _APART, "apart"),
        (matches.ask, matches.sure, _ASK, "to ask"),
        (matches.sure, np.inf, _SAME, "the same"),
    ):
        part = scores[(scores >= low) & (scores < high)]
        axes.hist(part, bins=edges.tolist(), color=colour, label=f"{name} ({len(part):,})")
    axes.plot([], [], " ", label=f"contradict themselves, not shown ({int(vetoed.sum()):,})")
    for at, name, side in ((matches.ask, "ask", "right"), (matches.sure, "sure", "left")):
        axes.axvline(at, color=INK, linewidth=0.9)
        axes.annotate(f" {name} {at:g} ", (at, 1), xycoords=("data", "axes fraction"), va="top",
                      ha=side, fontsize=8)  # fmt: skip
    if len(scores) > _MANY:
        axes.set_yscale("symlog", linthresh=10)
    axes.set_ylim(bottom=0)
    axes.yaxis.set_major_formatter(lambda value, _: f"{value:,.0f}")
    axes.set_title(f"Pairs compared: {len(matches.scores):,}", fontsize=9.5, loc="left")
    axes.set_xlabel("points for being the same person")
    axes.set_ylabel("pairs")
    axes.legend(frameon=False, loc="upper right")
    _plain(axes)


def _groups(axes: Axes, matches: Matches) -> None:
    """How many contacts one person has."""
    sizes = Counter(len(cluster) for group in matches.groups for cluster in group.clusters)
    sizes[1] = len(matches.features) - sum(
        len(cluster) for group in matches.groups for cluster in group.clusters if len(cluster) > 1
    )
    shown = [size for size in sorted(sizes) if sizes[size]]
    names = [str(size) for size in shown]
    bars = axes.barh(names, [sizes[size] for size in shown],
                     color=[_APART if size == 1 else _SAME for size in shown])  # fmt: skip
    axes.bar_label(bars, [f" {sizes[size]:,}" for size in shown], color=INK, fontsize=8)
    asked = sum(len(group.clusters) - 1 for group in matches.groups)
    axes.set_title(f"People, by their contacts; {asked:,} questions", fontsize=9.5, loc="left")
    axes.set_xscale("symlog", linthresh=10)
    axes.margins(x=0.15)
    axes.xaxis.set_major_formatter(lambda value, _: f"{value:,.0f}")
    axes.set_xlabel("people")
    axes.set_ylabel("contacts of one person")
    axes.invert_yaxis()
    _plain(axes)


def _plain(axes: Axes) -> None:
    axes.spines[["top", "right"]].set_visible(False)
    axes.tick_params(colors=DIM)
    axes.grid(axis="both", color=PALE, linewidth=0.5)
    axes.set_axisbelow(True)
