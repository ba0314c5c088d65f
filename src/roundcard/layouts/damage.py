"""What a spreadsheet program did to a table before it came here.

Such a program takes a phone number for a number and a post code too: leading zeros go, long ones
become ``4.47701E+11``, and days come out with their parts in another order. The shapes of the
cells are counted while they are read; at the end they are weighed, and what looks like damage is
told. Nothing is mended here, since what is gone is gone.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

from roundcard.layouts.inputs import Cells, Input
from roundcard.patterns import pattern
from roundcard.tally import Tally
from roundcard.values.dates import DAY_NUMBERS, LIKELY_DAY_NUMBERS

_SCIENTIFIC = pattern(r"\d([.,]\d+)?E\+?\d{1,3}", re.IGNORECASE)
_SOMEWHERE = pattern(r"^[^\S\n]*\d+([.,]\d+)?E\+?\d{1,3}[^\S\n]*$",
                        re.IGNORECASE | re.MULTILINE)  # fmt: skip
_DATE = pattern(r"(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d\d)")
DAY_NUMBERS_MET = ("column '{}': a number where a date is expected: a spreadsheet's count of days? "
                   "(date = \"day-number\" in the layout reads it)")  # fmt: skip
_USUAL_SHARE, _FEW = 0.6, 3

Shape = tuple[int, str, str, str]
"""Number of the source, name of the column, what it holds, and the shape of a cell."""


class _Watched(NamedTuple):
    at: int
    shape_of: Callable[[str], str]
    counts: dict[str, int]
    column: str
    kind: str


class DamageWatch:
    """Counts the shapes of cells in the columns of one table."""

    def __init__(self, inputs: Iterable[Input], source: int, tally: Tally) -> None:
        self._source = source
        self._tally = tally
        self._watched = [
            _Watched(each.at, _SHAPES[kind], {}, each.source.name, kind)
            for each in inputs
            if each.own and (kind := _kind(each))
        ]

    def see(self, cells: Cells, record: int) -> None:
        """Count the shapes of one row."""
        for at, shape_of, counts, column, _ in self._watched:
            cell = cells[at]
            if cell and (shape := shape_of(cell)):
                counts[shape] = counts.get(shape, 0) + 1
                if shape == "scientific":
                    self._tally.find(
                        f"column '{column}': numbers in scientific notation, whose last "
                        "digits are gone", "record", record
                    )  # fmt: skip
                elif shape == "serial":
                    self._tally.find(DAY_NUMBERS_MET.format(column), "record", record)

    def broken(self, columns: Sequence[Cells], joined: Sequence[str]) -> set[int]:
        """The rows, of all of which the columns are given, that have a number in scientific
        notation, or where a date is expected: each is told with its own number. `joined` are the
        columns with a bar before each cell."""
        found: set[int] = set()
        for at, shape_of, _, _, _ in self._watched:
            if shape_of is _date:
                met = {cell for cell in filter(str.isdigit, columns[at]) if _date(cell) == "serial"}
                if met:
                    found |= {n for n, cell in enumerate(columns[at]) if cell in met}
                continue
            if ("E" in joined[at] or "e" in joined[at]) and _SOMEWHERE.search(
                "\n".join(columns[at])
            ):
                found |= {n for n, cell in enumerate(columns[at])
                          if cell and shape_of(cell) == "scientific"}  # fmt: skip
        return found

    def see_columns(self, columns: Sequence[Cells], joined: Sequence[str] = ()) -> None:
        """Count the shapes of many rows of which none is `broken`; `joined` are the columns with
        a bar before each cell, where somebody has put them together."""
        for at, shape_of, counts, _, _ in self._watched:
            found: Counter[str] = Counter()
            if shape_of is _number:
                found = _numbers(columns[at], joined[at] if joined else "")
            elif shape_of is not _scientific:  # of which there is none here
                found = Counter(map(shape_of, columns[at]))
            for shape, count in found.items():
                if shape and count:
                    counts[shape] = counts.get(shape, 0) + count

    def end(self) -> None:
        """At the end of the rows: add what was counted to ``tally.shapes``."""
        for _, _, counts, column, kind in self._watched:
            for shape, count in counts.items():
                self._tally.shapes[self._source, column, kind, shape] += count
            counts.clear()


def _kind(each: Input) -> str:
    path = each.path
    if path.field == "phone" and path.part == "":
        return "phone"
    if path.part == "postcode":
        return "post code"
    if path.field in ("birthday", "anniversary", "deathdate") and not path.part:
        numbered = each.source.date is not None and each.source.date.text in DAY_NUMBERS
        return "" if numbered else "date"
    return "custom" if path.field == "custom" else ""


def _numbers(cells: Sequence[str], joined: str) -> Counter[str]:
    """The shapes of many numbers of which none is in scientific notation, as `_number` tells that
    of one."""
    if joined.count("|") == len(cells):
        zeros = joined.count("|0")
    else:  # a cell has a bar of its own, or they are not together
        zeros = "".join([cell[:1] for cell in cells]).count("0")
    if not any(map(str.isdigit, cells)):
        return Counter({"dressed zero": zeros})
    plain = [cell for cell in cells if cell.isdigit()]
    bare = Counter([len(cell) for cell in plain if cell[0] != "0"])
    zero = len(plain) - bare.total()
    found = {f"bare {length}": count for length, count in bare.items()}
    return Counter(found | {"zero": zero, "dressed zero": zeros - zero})


def _number(cell: str) -> str:
    first = cell[0]
    if first == "0":
        return "zero" if cell.isdigit() else "dressed zero"
    if first == "+":
        return ""
    if cell.isdigit():
        return f"bare {len(cell)}"
    if "E" not in cell and "e" not in cell:
        return ""
    return "scientific" if _SCIENTIFIC.fullmatch(cell.strip()) else ""


@lru_cache(maxsize=65_536)
def _date(cell: str) -> str:
    found = _DATE.fullmatch(cell.strip())
    if found:
        first, second = int(found[1]), int(found[2])
        if first > 12 or second > 12:
            return "day first" if first > 12 else "month first"
        return "either"
    if len(cell) == 5 and cell.isdigit() and int(cell) in LIKELY_DAY_NUMBERS:
        return "serial"
    return ""


def _scientific(cell: str) -> str:
    return "scientific" if ("E" in cell or "e" in cell) and _SCIENTIFIC.fullmatch(cell) else ""


_SHAPES: dict[str, Callable[[str], str]] = {
    "phone": _number,
    "post code": _number,
    "date": _date,
    "custom": _scientific,
}


def tell_damage(tally: Tally, source: int | None = None) -> None:
    """Weigh the shapes that were counted (of one source), and tell what looks like damage."""
    columns: dict[tuple[int, str, str], Counter[str]] = {}
    for (number, column, kind, shape), count in tally.shapes.items():
        if source is None or number == source:
            columns.setdefault((number, column, kind), Counter())[shape] = count
    for (_, column, kind), shapes in columns.items():
        del shapes["serial"]  # each of them was told
        if told := weighed(kind, shapes):
            tally.find(f"column '{column}': {told}")


def weighed(kind: str, shapes: Mapping[str, int]) -> str:
    """What the shapes of a column of ``phone``, ``post code`` or ``date`` cells look like, where
    that is damage; empty where it is none."""
    counted = Counter(shapes)
    if kind == "date":
        return _dates(counted)
    return _zeros(counted, kind) if kind in ("phone", "post code") else ""


def _zeros(shapes: Counter[str], kind: str) -> str:
    """Numbers without the zero that their neighbours begin with."""
    bare = {int(s.partition(" ")[2]): n for s, n in shapes.items() if s.startswith("bare ")}
    if not bare or shapes["zero"]:
        return ""  # where digits alone begin with 0, no spreadsheet has been at them
    if kind == "phone":
        dressed = shapes["dressed zero"]
        if dressed >= _FEW and dressed >= sum(bare.values()) * 0.2:
            return (f"{sum(bare.values()):,} numbers of digits alone begin without the 0 that "
                    f"{dressed:,} others begin with (lost in a spreadsheet?)")  # fmt: skip
        return ""
    usual = max(bare, key=lambda length: bare[length])
    short = bare.get(usual - 1, 0)
    if short and bare[usual] >= _FEW and bare[usual] >= sum(bare.values()) * _USUAL_SHARE:
        return (f"{short:,} post codes have {usual - 1} digits where {bare[usual]:,} have {usual} "
                "(a leading 0 lost in a spreadsheet?)")  # fmt: skip
    return ""


def _dates(shapes: Counter[str]) -> str:
    if serials := shapes["serial"]:
        dates = "1 date is a number" if serials == 1 else f"{serials:,} dates are numbers"
        return f'{dates} such as a spreadsheet counts days by (date = "day-number" reads them)'
    day, month = shapes["day first"], shapes["month first"]
    if day and month:
        either = f"; {shapes['either']:,} could be either" if shapes["either"] else ""
        return (f"dates in two orders, {day:,} with the day first and {month:,} with the month "
                f"first{either} (re-ordered in a spreadsheet?)")  # fmt: skip
    return ""
