"""A question of a sheet of matches: contacts side by side, what is same, close and different."""

from __future__ import annotations

import sys
import textwrap
from pathlib import Path

from roundcard.cli.render.match import MARKS
from roundcard.cli.render.text import count, cut, pad, styled, width, wrapped
from roundcard.match.review_session import SHOWN, Review
from roundcard.match.sheet import nearness
from roundcard.match.sheet_decisions import SheetRow

KEYS = (
    "s same  a apart  l later  b back  1-9 contact  f leads  v take a value  u undecided  q leave"
)
ALL_DECIDED = "all questions have an answer; q leaves, b goes back"
_HEADS = 14
_LEAST, _WIDEST = 24, 46
_BAR = 30


def screen(review: Review, most: int) -> str:
    """The group of the current question, in at most so many lines."""
    rows = review.rows
    across = max((width(sys.stdout) - _HEADS) // (_LEAST + 2), 2)
    shown = _window(review, across)
    room = min((width(sys.stdout) - _HEADS) // len(shown) - 2, _WIDEST)
    lines = [_progress(review), ""]
    lines.append(_line("group", [_grouped(review, at, room) for at in shown]))
    lines.append(_line("", [_numbered(review, at, room) for at in shown]))
    lines.append(_line("", [styled(pad(cut(f"{rows[at]['source']}:{rows[at]['record']}", room),
                                       room), "dim", sys.stdout) for at in shown]))  # fmt: skip
    lines.append("")
    for heading in SHOWN:
        if any(rows[at][heading] for at in shown):
            lines += _cells(review, heading, shown, room)
    lines += ["", _line("decided", [_answer(rows[at], room) for at in shown])]
    if len(shown) < len(rows):
        lines.append(styled(f"{'':{_HEADS}}{len(shown)} of {len(rows)} contacts shown; "
                            "a number shows another", "dim", sys.stdout))  # fmt: skip
    lines += ["", *_reasons(review.current)]
    return "\n".join(lines[:most])


def _window(review: Review, across: int) -> list[int]:
    """The contacts that are shown: the lead, the current one, and those beside it."""
    rows = range(len(review.rows))
    near = sorted(rows, key=lambda at: (at != 0, at != review.row, abs(at - review.row), at))
    return sorted(near[:across])


def _progress(review: Review) -> str:
    done, every = review.decided, len(review.questions)
    full = _BAR * done // max(every, 1)
    bar = styled("█" * full, "green", sys.stdout) + styled("░" * (_BAR - full), "dim", sys.stdout)
    return f"question {review.place + 1:,} of {every:,}   {bar}  {done:,} decided"


def _grouped(review: Review, at: int, room: int) -> str:
    """The number of a contact's group; of whom it is asked has one of its own."""
    group = review.rows[at]["group"]
    style = "bold" if group == review.current["group"] else "dim"
    return styled(pad(f"  {group}", room), style, sys.stdout)


def _numbered(review: Review, at: int, room: int) -> str:
    row = review.rows[at]
    score = f" {row['score']}" if row["score"] else ""
    text = f"{at + 1} {row['verdict']}{score}"
    if at == review.row:
        return styled(pad(cut(f"▸ {text}", room), room), "bold", sys.stdout)
    return pad(cut(f"  {text}", room), room)


def _cells(review: Review, heading: str, shown: list[int], room: int) -> list[str]:
    """One field of the contacts; long values take several lines."""
    rows = review.rows
    parted = [textwrap.wrap(rows[at][heading].replace("; ", ";\n"), room - 2,
                            break_on_hyphens=False) or [""] for at in shown]  # fmt: skip
    values = [rows[at][heading] for at in shown]
    lines = []
    for number in range(max(map(len, parted))):
        cells = []
        for place, at in enumerate(shown):
            text = parted[place][number] if number < len(parted[place]) else ""
            if at == 0:
                cells.append(pad(cut(text or ("" if number else "–"), room), room))
            elif number:
                style = MARKS[nearness(heading, values[place], rows[0][heading])][1]
                cells.append(styled(pad(cut(f"  {text}", room), room), style, sys.stdout))
            else:
                cells.append(_near(heading, values[place], rows[0][heading], text, room))
        lines.append(_line(heading if not number else "", cells))
    return lines


def _near(heading: str, value: str, lead: str, text: str, room: int) -> str:
    """The first line of a value, marked for the whole of it."""
    mark, style = MARKS[nearness(heading, value, lead)]
    shown = f"{mark} {text}".strip() if value else "–"
    return styled(pad(cut(shown, room), room), style if value else "dim", sys.stdout)


def _answer(row: SheetRow, room: int) -> str:
    text = str(row.answer) or ("–" if row["verdict"] == "ask" else "")
    return styled(pad(cut(text, room), room), "bold" if row.answer.said else "dim", sys.stdout)


def _reasons(row: SheetRow) -> list[str]:
    """The reasons of a row, those for it and those against it."""
    lines = wrapped(row["reasons"], width(sys.stdout) - _HEADS, 0)
    return [styled(f"{'reasons' if not at else '':{_HEADS}}", "dim", sys.stdout) + line
            for at, line in enumerate(lines)]  # fmt: skip


def _line(title: str, cells: list[str]) -> str:
    return (
        styled(pad(cut(title, _HEADS - 2), _HEADS), "dim", sys.stdout) + "  ".join(cells).rstrip()
    )


def foot(told: str) -> str:
    """What is to be told, and the keys."""
    legend = "  ".join(styled(f"{mark} {name}", style, sys.stdout)
                       for name, (mark, style) in MARKS.items() if mark)  # fmt: skip
    keys = styled(cut(KEYS, width(sys.stdout) - 1), "dim", sys.stdout)
    above = styled(told, "bold", sys.stdout) if told and told != KEYS else legend
    return f"{above}\r\n{keys}"


def left(review: Review, store: Path) -> str:
    """What is said on leaving."""
    open_ = len(review.questions) - review.decided
    lines = [f"{review.sheet.path}: {review.decided:,} of "
             f"{count(len(review.questions), 'question')} decided, {open_:,} open"]  # fmt: skip
    if review.changed:
        lines.append(f"{store}: the decisions, for later runs")
    return "\n".join(lines) + "\n"


def listed(review: Review) -> str:
    """How far a sheet is decided, and what is open."""
    lines = [f"{review.sheet.path}: {count(len(review.groups), 'group')} with questions, "
             f"{review.decided:,} of {len(review.questions):,} decided"]  # fmt: skip
    for group, at in review.questions:
        row, lead = review.groups[group][at], review.groups[group][0]
        said = str(row.answer) or "open"
        lines.append(f"  {row['group']:>6}  {said:<6}  {row['name'] or 'no name'}  –  "
                     f"{lead['name'] or 'no name'}  ({row['score']})")  # fmt: skip
    return "\n".join(lines) + "\n"
