"""A survey as a picture: fill by column, who can be reached, what is wrong."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from roundcard.books.figures import DIM, INK, PALE, drawn
from roundcard.books.transaction import Transaction
from roundcard.survey.model import ColumnSurvey, FileSurvey

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_WIDTH = 11.0
"""Inches."""
_ROW, _GAP, _HEAD, _EDGE = 0.21, 0.4, 0.55, 0.3
_NAMES, _BARS = 2.1, 4.7
_MOST_COLUMNS, _MOST_TROUBLE = 60, 9
_FULL, _ASK, _EMPTY = "#2f6f73", "#c98a1b", "#b9c2c5"


def draw(
    files: Transaction, found: Sequence[FileSurvey], path: Path, *, force: bool = False
) -> None:
    """Draw a survey into one of the files to write. Raises `TargetError`."""
    heights = [_height(each) for each in found]
    tall = sum(heights) + _GAP * (len(found) - 1) + 2 * _EDGE
    with drawn(files, path, (_WIDTH, tall), force=force) as figure:

        def axes_at(left: float, top: float, wide: float, high: float) -> Axes:
            """Axes by inches from the left and from the top."""
            return figure.add_axes((left / _WIDTH, 1 - (top + high) / tall, wide / _WIDTH,
                                    high / tall))  # fmt: skip

        top = _EDGE
        for each, height in zip(found, heights, strict=True):
            _titles(axes_at(_EDGE, top, _WIDTH - 2 * _EDGE, _HEAD), each)
            rows = max(len(each.columns[:_MOST_COLUMNS]), 1) * _ROW
            _fill(axes_at(_NAMES, top + _HEAD, _BARS, rows), each)
            left = _NAMES + _BARS + 0.35
            _beside(axes_at(left, top + _HEAD, _WIDTH - left - _EDGE, height - _HEAD), each,
                    height - _HEAD)  # fmt: skip
            top += height + _GAP


def _height(each: FileSurvey) -> float:
    rows = min(len(each.columns), _MOST_COLUMNS)
    lines = sum(len(line) for line in _trouble(each))
    return _HEAD + max(rows * _ROW, 1.75 + 0.17 * lines)


def _titles(axes: Axes, each: FileSurvey) -> None:
    axes.set_axis_off()
    axes.set_xlim(0, 1)
    axes.set_ylim(_HEAD, 0)
    people = f"{each.people:,} {'person' if each.people == 1 else 'people'}"
    told = [each.format, *([each.encoding] if each.encoding else []), people]
    if each.blank:
        told.append(f"{each.blank:,} blank")
    if each.unreadable:
        told.append(f"{each.unreadable:,} unreadable")
    if len(each.columns) > _MOST_COLUMNS:
        told.append(f"the first {_MOST_COLUMNS} of {len(each.columns)} columns")
    axes.text(0, 0.1, Path(each.name).name, fontsize=12.5, fontweight="bold", va="center")
    axes.text(0, 0.33, ", ".join(told), fontsize=8.5, color=DIM, va="center")


def _fill(axes: Axes, each: FileSurvey) -> None:
    columns = each.columns[:_MOST_COLUMNS]
    at = range(len(columns))
    shares = [column.profile.fill for column in columns]
    colours = [_colour(column) for column in columns]
    axes.barh(at, [1.0] * len(columns), color=PALE, height=0.62)
    axes.barh(at, shares, color=colours, height=0.62)
    axes.set_yticks(list(at), [_short(column.name, 26) for column in columns])
    axes.set_ylim(len(columns) - 0.4, -0.6)
    axes.set_xlim(0, 1)
    axes.set_xticks([])
    axes.tick_params(length=0, colors=INK)
    for side in axes.spines.values():
        side.set_visible(False)
    for number, column in enumerate(columns):
        holds = column.holds if column.holds and column.holds != column.name else column.seems
        inside = shares[number] > 0.55
        text = f"{shares[number]:.0%}".replace("%", " %")
        text = f"{text}  {_short(holds, 40)}" if shares[number] else "empty"
        axes.text(0.012 if inside else shares[number] + 0.012, number, text, va="center",
                  color="white" if inside else INK, fontsize=7.5)  # fmt: skip


def _colour(column: ColumnSurvey) -> str:
    if column.look or any(line != "empty" for line in column.trouble):
        return _ASK
    return _FULL if column.profile.filled else _EMPTY


def _beside(axes: Axes, each: FileSurvey, height: float) -> None:
    axes.set_axis_off()
    axes.set_xlim(0, 1)
    axes.set_ylim(height, 0)
    reach, people = each.reach, max(each.reach.people, 1)
    axes.text(0, 0.02, "Who can be reached", fontsize=9.5, fontweight="bold", va="center")
    ways = [("e-mail", reach.email, _FULL), ("phone", reach.phone, _FULL),
            ("address", reach.address, _FULL), ("none of these", reach.none, _ASK)]  # fmt: skip
    for number, (name, some, colour) in enumerate(ways):
        y = 0.3 + number * 0.24
        axes.text(0, y, name, va="center")
        axes.barh(y, 0.4, left=0.29, height=0.14, color=PALE)
        axes.barh(y, 0.4 * some / people, left=0.29, height=0.14, color=colour)
        axes.text(0.72, y, f"{some:,}  ({some / people:.0%})".replace("%", " %"), va="center")
    y = 0.3 + 4 * 0.24 + 0.12
    told = _trouble(each)
    head = "Trouble" if told else "No trouble found"
    axes.text(0, y, head, fontsize=9.5, fontweight="bold", va="center")
    y += 0.24
    for lines in told:
        axes.text(0, y, "!", color=_ASK, fontweight="bold", va="center", fontsize=8)
        for line in lines:
            axes.text(0.03, y, line, va="center", fontsize=7.6)
            y += 0.17


def _trouble(each: FileSurvey) -> list[list[str]]:
    """What is wrong, each thing wrapped into lines."""
    found = list(each.trouble)
    empty = [column.name for column in each.columns if not column.profile.filled]
    for column in each.columns:
        found += [f"{column.name}: {line}" for line in column.trouble if line != "empty"]
    unsure = [column.name for column in each.columns if column.look and not column.trouble]
    if unsure:
        found.append(f"to look at: {', '.join(unsure)}")
    if empty:
        found.append(f"empty: {', '.join(empty)}")
    told = [textwrap.wrap(_short(line, 150), 56) for line in found[:_MOST_TROUBLE]]
    if len(found) > _MOST_TROUBLE:
        told.append([f"… and {len(found) - _MOST_TROUBLE} more"])
    return told


def _short(text: str, longest: int) -> str:
    text = " ".join(text.split())
    return text if len(text) <= longest else text[: longest - 1] + "…"
