"""A survey on the terminal, and as JSON."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from typing import Any

from roundcard.cli.render.text import (
    columns_of,
    count,
    cut,
    in_cells,
    narrowed,
    styled,
    table,
    visible,
    width,
)
from roundcard.survey.model import ColumnSurvey, FileSurvey, Reach

SCHEMA = 1
"""Version of the JSON report; see docs/survey.md."""
_ROOM_FOR_VALUES = 12
_ENOUGH_FOR_BARS = 90
_ENOUGH_FOR_VALUES = 72
"""Columns of a terminal in which there is room for these."""
_BAR = 8
_EIGHTHS = " ▏▎▍▌▋▊▉█"
_CERTAIN = 0.985
_FEW = 4
"""Distinct values that are shown with how often each stands there."""
_MOST_COLUMNS = 400
_WIDEST_NAME, _WIDEST_HOLDS, _WIDEST_SEEMS = 26, 28, 32


def for_people(found: Sequence[FileSurvey], verbose: bool = False) -> str:
    """All files, one under the other, then side by side where there are several."""
    lines: list[str] = []
    for each in found:
        lines += [*_file(each, verbose), ""]
    if len(found) > 1:
        lines += _side_by_side(found)
    return "\n".join(lines).rstrip("\n") + "\n"


def _file(each: FileSurvey, verbose: bool) -> Iterator[str]:
    yield styled(each.name, "bold", sys.stdout) + ": " + ", ".join(_told(each))
    people = styled(count(each.people, "person", "people"), "bold", sys.stdout)
    extras = [
        count(each.blank, "blank record") if each.blank else "",
        styled(count(each.unreadable, "unreadable record"), "red", sys.stdout)
        if each.unreadable
        else "",
        count(each.totals, "row of totals", "rows of totals") if each.totals else "",
    ]
    yield ", ".join([people, *(extra for extra in extras if extra)])
    yield ""
    yield from _columns(each, verbose)
    if each.trouble:
        yield ""
        yield from (f"{_mark()} {line}" for line in each.trouble)
    yield ""
    yield _reach(each.reach)


def _told(each: FileSurvey) -> Iterator[str]:
    yield each.format
    if each.encoding:
        yield _sure(each.encoding, each.encoding_sure)
        yield _sure(each.separator, each.separator_sure)
    if each.heading_row is not None:
        yield f"headings in row {each.heading_row}" if each.heading_row else "no headings"
    if each.layout:
        fits = f" (kept, fits {_per_cent(each.taken)})" if each.taken else ""
        yield f"layout '{each.layout}'{fits}"
    elif each.draft is not None:
        yield f"layout drafted, {_per_cent(each.draft.sure)} sure"


def _columns(each: FileSurvey, verbose: bool) -> Iterator[str]:
    cards = each.heading_row is None
    head = ["field" if cards else "column", "filled", *([] if cards else ["holds", "sure"]),
            "looks like", "distinct", "values"]  # fmt: skip
    wide = width(sys.stdout)
    rows = [_row(column, cards, wide) for column in each.columns[:_MOST_COLUMNS]]
    widest = [_WIDEST_NAME, 99, *([] if cards else [_WIDEST_HOLDS, 7]), _WIDEST_SEEMS, 8]
    widths = [
        min(max(columns_of(row[at]) for row in [head, *rows]), most)
        for at, most in enumerate(widest)
    ]
    if wide < _ENOUGH_FOR_VALUES:
        widths = narrowed(widths, wide - 2 * (len(widths) - 1))
    else:
        room = max(wide - sum(widths) - 2 * len(widths), _ROOM_FOR_VALUES)
        widths = [*narrowed(widths, wide - room - 2 * len(widths)), room]
    yield styled(_line(head, widths), "dim", sys.stdout)
    for row, column in zip(rows, each.columns, strict=False):
        line = _line(row, widths)
        if not column.profile.filled:
            line = styled(line, "dim", sys.stdout)
        elif column.look:
            line = styled(line, "yellow", sys.stdout)
        yield line
        indent = " " * min(widths[0] + 2, 28)
        for told in column.trouble:
            if told != "empty":
                yield f"{indent}{_mark()} {told}"
        if verbose:
            if column.why and not cards:
                yield f"{indent}why: {column.why}"
            if column.usual:
                told = " · ".join(f"{cut(value, 30)} {times:,}×" for value, times in column.usual)
                yield f"{indent}most usual: {told}"
    if len(each.columns) > _MOST_COLUMNS:
        yield f"… and {len(each.columns) - _MOST_COLUMNS:,} more (--json has all)"


def _row(column: ColumnSurvey, cards: bool, wide: int) -> list[str]:
    profile = column.profile
    distinct, more = profile.distinct
    filled = f"{_per_cent(profile.fill):>6}"
    if wide >= _ENOUGH_FOR_BARS:
        filled = f"{bar(profile.fill)}{filled}"
    if not profile.filled:
        told = [] if cards else ["(empty)", ""]
        return [column.name, filled, *told, "", "", ""]
    told = [] if cards else [column.holds, ("? " if column.look else "") + _per_cent(column.sure)]
    return [" ".join(column.name.split()), filled, *told, column.seems,
            f"{distinct:,}{'+' if more else ''}", _values(column)]  # fmt: skip


def _values(column: ColumnSurvey) -> str:
    profile = column.profile
    few = len(profile.values) <= _FEW and profile.filled > len(profile.values)
    if few:
        return " · ".join(f"{_plain(value)} ({times:,})"
                          for value, times in profile.values.most_common(_FEW))  # fmt: skip
    return " · ".join(_plain(sample) for sample in profile.samples)


def _plain(text: str) -> str:
    text = " ".join("".join(char if char.isprintable() else " " for char in text).split())
    return cut(text, 36)


def _line(row: Sequence[str], widths: Sequence[int]) -> str:
    """A row in its columns; what is more than there are columns (the values) is left out."""
    cells = [visible(cell) for cell in row[: len(widths)]]
    if len(widths) == len(row):
        cells[-1] = cut(row[-1], widths[-1])
    return in_cells(cells, widths, (len(row) - 2,))


def bar(share: float) -> str:
    """A share as a bar of eight characters, to the eighth of one."""
    eighths = round(share * _BAR * 8)
    if share and not eighths:
        eighths = 1
    full, rest = divmod(eighths, 8)
    return ("█" * full + (_EIGHTHS[rest] if rest else "")).ljust(_BAR, "·")


def _reach(reach: Reach) -> str:
    if not reach.people:
        return "nobody is in it"
    ways = [f"{name} {number:,} ({_per_cent(number / reach.people)})"
            for name, number in (("e-mail", reach.email), ("phone", reach.phone),
                                 ("address", reach.address))]  # fmt: skip
    none = f"none of these {reach.none:,}"
    none = styled(none, "yellow", sys.stdout) if reach.none else none
    return f"{styled('can be reached by', 'bold', sys.stdout)}: {', '.join(ways)}; {none}"


def _side_by_side(found: Sequence[FileSurvey]) -> list[str]:
    head = "format people blank columns empty e-mail phone address none trouble"
    rows: list[tuple[str, ...]] = [("", *head.split())]
    for each in found:
        empty = sum(1 for column in each.columns if not column.profile.filled)
        reach, people = each.reach, max(each.reach.people, 1)
        ways = [_per_cent(number / people) for number in (reach.email, reach.phone, reach.address)]
        rows.append((each.name, each.format, f"{each.people:,}", f"{each.blank:,}",
                     str(len(each.columns)), str(empty), *ways, f"{reach.none:,}",
                     str(each.troubled)))  # fmt: skip
    total = sum(each.people for each in found)
    rows.append(("all", "", f"{total:,}", *[""] * 8))
    right, wide = tuple(range(2, 11)), width(sys.stdout)
    if wide < _ENOUGH_FOR_BARS:  # the rest stands above, file by file
        rows = [(row[0], row[2], *row[6:]) for row in rows]
        right = tuple(range(1, 7))
    lines = table(rows, right=right, most=wide)
    lines[0] = styled(lines[0], "dim", sys.stdout)
    lines[-1] = styled(lines[-1], "bold", sys.stdout)
    return lines


def _mark() -> str:
    return styled("!", "yellow", sys.stdout)


def _sure(what: str, sureness: float) -> str:
    return what if sureness >= _CERTAIN else f"{what} ({_per_cent(sureness)} sure)"


def _per_cent(share: float) -> str:
    # what is not all is not said to be all
    whole = 99 if 0.99 < share < 1 else 1 if 0 < share < 0.01 else round(share * 100)
    return f"{whole} %"


def for_machines(found: Sequence[FileSurvey]) -> dict[str, Any]:
    """The survey as JSON has it; the shape is told in docs/survey.md."""
    return {"schema": SCHEMA, "files": [_file_for_machines(each) for each in found]}


def _file_for_machines(each: FileSurvey) -> dict[str, Any]:
    reach = each.reach
    return {
        "name": each.name,
        "format": each.format,
        "octets": each.octets,
        "encoding": each.encoding or None,
        "encoding_sureness": round(each.encoding_sure, 3),
        "separator": each.separator or None,
        "separator_sureness": round(each.separator_sure, 3),
        "heading_row": each.heading_row,
        "layout": each.layout or None,
        "layout_fit": round(each.taken, 3) or None,
        "draft_sureness": round(each.draft.sure, 3) if each.draft else None,
        "people": each.people,
        "blank": each.blank,
        "unreadable": each.unreadable,
        "totals": each.totals,
        "columns": [_column_for_machines(column) for column in each.columns],
        "reach": {"people": reach.people, "email": reach.email, "phone": reach.phone,
                  "address": reach.address, "none": reach.none},
        "trouble": each.trouble,
        "seconds": round(each.seconds, 3),
    }  # fmt: skip


def _column_for_machines(column: ColumnSurvey) -> dict[str, Any]:
    profile = column.profile
    distinct, more = profile.distinct
    return {
        "name": column.name,
        "holds": column.holds or None,
        "sureness": round(column.sure, 3),
        "look": column.look,
        "why": column.why,
        "filled": profile.filled,
        "fill": round(profile.fill, 4),
        "kinds": {kind: round(n / max(profile.told, 1), 4)
                  for kind, n in profile.kinds.most_common() if kind != "none"},
        "distinct": distinct,
        "more_distinct": more,
        "usual": [{"value": value, "count": times} for value, times in column.usual],
        "samples": profile.samples,
        "longest": profile.longest,
        "trouble": list(column.trouble),
    }  # fmt: skip
