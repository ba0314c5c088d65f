"""What the cells of one column are, counted in one pass with a bounded memory."""

from __future__ import annotations

import re
import zlib
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from roundcard.layouts.drafting.cells import cell_kind
from roundcard.values.kinds import pieces_of

MOST_DISTINCT = 5_000
"""Distinct values that are counted one by one; beyond them their number is estimated."""
_LOOKED_AT = 3_000
"""Distinct values whose kinds are told each; beyond them of one in twenty."""
_SAMPLES = 5
_ESTIMATED_FROM = 4_096
GARBLED = re.compile(
    r"Ã[\u0080-\u00bf©¨ª«¤¶¼±³§ŸŠœ‰]|Â[\u00a0-\u00bf]|â€[™œ\u009d“”¦–]|Ð[°-¿]|Å[‚›¼¡\u00ad]|\ufffd|ï»¿"
)
"""UTF-8 that was read as Western European, and characters that were given up."""
_NUMBERS = re.compile(r"\d+")


@dataclass(slots=True)
class ColumnProfile:
    """One column: how full, what kinds of cells, how many values, samples.

    All counts are of cells.
    """

    heading: str = ""
    rows: int = 0
    filled: int = 0
    kinds: Counter[str] = field(default_factory=Counter)
    """Of the cells that were looked at."""
    values: Counter[str] = field(default_factory=Counter)
    """The first distinct values, with how often each stands in the column."""
    samples: list[str] = field(default_factory=list)
    garbled: int = 0
    garbled_sample: str = ""
    longest: int = 0
    longest_sample: str = ""
    separators: Counter[str] = field(default_factory=Counter)
    """Marks between several values in a cell."""
    orders: Counter[str] = field(default_factory=Counter)
    """Dates that can only be read as ``day first``, ``month first``, ``year first``, or either."""
    date_marks: Counter[str] = field(default_factory=Counter)
    years: Counter[int] = field(default_factory=Counter)
    """Decades of the dates."""
    phone_styles: Counter[str] = field(default_factory=Counter)
    numbers: Counter[int] = field(default_factory=Counter)
    """How many digits the cells of digits alone have."""
    leading_zeros: int = 0
    placeholders: Counter[str] = field(default_factory=Counter)
    odd: dict[str, tuple[str, int]] = field(default_factory=dict)
    """The first cell of each kind, and its record."""
    _hashes: set[int] = field(default_factory=set)
    _level: int = 0
    _looked: int = 0

    @property
    def told(self) -> int:
        """Cells whose kind was told, placeholders not among them."""
        return sum(self.kinds.values()) - self.kinds["none"]

    @property
    def fill(self) -> float:
        """The share of rows in which something stands."""
        return self.filled / self.rows if self.rows else 0.0

    @property
    def distinct(self) -> tuple[int, bool]:
        """How many different values, and whether that is an estimate."""
        if not self._level and not self._hashes:
            return len(self.values), False
        return max(len(self._hashes) << self._level, len(self.values)), True

    def share(self, *kinds: str) -> float:
        """The share of the cells that are of these kinds; 0 where the column is empty."""
        told = self.told
        return sum(self.kinds[kind] for kind in kinds) / told if told else 0.0

    @property
    def differing(self) -> float:
        """Distinct values for each filled cell: 1 where no value stands twice."""
        return min(self.distinct[0] / self.filled, 1.0) if self.filled else 0.0

    def add(self, cells: Sequence[str], first: int = 1) -> None:
        """Take in the next cells of the column; `first` is the record of the first of them."""
        self.rows += len(cells)
        counts = Counter(cells)
        blank = counts.pop("", 0)
        if not counts:
            return
        text = "\n".join(counts)
        if not text.isascii() and GARBLED.search(text):
            self._garbled(counts)
        values, kinds = self.values, self.kinds
        stripped_blank = 0
        fresh: list[str] = []
        for cell, times in counts.items():
            if cell in values:
                values[cell] += times
            elif cell.isspace():
                stripped_blank += times
                continue
            else:
                fresh.append(cell)
        self.filled += len(cells) - blank - stripped_blank
        if fresh:
            self._fresh(fresh, counts, first, cells)
        looked = fresh
        if len(fresh) < len(counts):
            known = [cell for cell in counts if cell in values]
            looked = known if len(values) <= _LOOKED_AT else [*fresh, *known[:50]]
        if self._looked > _LOOKED_AT:
            looked = looked[::20]
        self._looked += len(looked)
        for cell in looked:
            times = counts[cell]
            kind = cell_kind(cell)
            kinds[kind] += times
            if kind in _DETAILS:
                self._detail(kind, cell, times)
            if kind not in self.odd:
                self.odd[kind] = (cell, first + cells.index(cell))

    def _fresh(
        self, fresh: Sequence[str], counts: Counter[str], first: int, cells: Sequence[str]
    ) -> None:
        values = self.values
        room = MOST_DISTINCT - len(values)
        for cell in fresh[: max(room, 0)]:
            values[cell] = counts[cell]
        if len(fresh) > room:
            self._estimate(fresh)
        longest = max(fresh, key=len)
        if len(longest) > self.longest:
            self.longest, self.longest_sample = len(longest), longest
        for cell in fresh:
            if len(self.samples) >= _SAMPLES:
                break
            if cell_kind(cell) != "none":
                self.samples.append(cell.strip())

    def _estimate(self, fresh: Iterable[str]) -> None:
        """Count distinct values by a sample of their hashes (adaptive sampling)."""
        if not self._hashes:
            self._hashes.update(
                zlib.crc32(value.encode("utf-8", "replace")) for value in self.values
            )
        mask = (1 << self._level) - 1
        self._hashes.update(
            code for cell in fresh
            if not (code := zlib.crc32(cell.encode("utf-8", "replace"))) & mask
        )  # fmt: skip
        while len(self._hashes) > _ESTIMATED_FROM * 4:
            self._level += 1
            mask = (1 << self._level) - 1
            self._hashes = {code for code in self._hashes if not code & mask}

    def _garbled(self, counts: Counter[str]) -> None:
        for cell, times in counts.items():
            if GARBLED.search(cell):
                self.garbled += times
                self.garbled_sample = self.garbled_sample or cell

    def _detail(self, kind: str, cell: str, times: int) -> None:
        cell = cell.strip()
        if kind == "none":
            self.placeholders[cell] += times
        elif kind in ("date", "moment"):
            self._date(cell, times)
        elif kind in ("phone", "digits", "number", "post code or phone"):
            self._number(kind, cell, times)
        elif kind in ("phones", "emails"):
            self.separators[pieces_of(cell)[1]] += times
        elif kind in ("sentence", "few words", "single", "title case", "org", "person"):
            for mark in (";", "|", ",", " / "):
                if mark in cell:
                    self.separators[mark if mark == " / " else mark] += times
                    break

    def _date(self, cell: str, times: int) -> None:
        numbers = [int(number) for number in _NUMBERS.findall(cell)[:3]]
        marks = [mark for mark in ("-", ".", "/") if mark in cell]
        if cell.isdecimal():
            self.orders["basic"] += times
            self.years[int(cell[:4]) // 10] += times
            return
        if len(numbers) < 3:
            self.orders["partial"] += times
            return
        first, second, third = numbers
        if marks:
            self.date_marks[marks[0]] += times
        if first > 31:
            self.orders["year first"] += times
            self.years[first // 10] += times
            return
        self.years[third // 10] += times
        if third < 100:
            self.orders["short year"] += times
        if first > 12 >= second:
            self.orders["day first"] += times
        elif second > 12 >= first:
            self.orders["month first"] += times
        else:
            self.orders["either"] += times

    def _number(self, kind: str, cell: str, times: int) -> None:
        if cell.isdecimal():
            self.numbers[len(cell)] += times
            self.leading_zeros += times if cell[0] == "0" else 0
        if kind in ("phone", "digits"):
            if cell.startswith(("+", "00")):
                style = "international"
            elif cell.isdecimal():
                style = "digits alone"
            else:
                style = "national"
            self.phone_styles[style] += times


_DETAILS = frozenset(
    ("none", "date", "moment", "phone", "digits", "number", "post code or phone", "phones",
     "emails", "sentence", "few words", "single", "title case", "org", "person")
)  # fmt: skip


class TableProfile:
    """All columns of a table, row by row in batches."""

    BATCH = 2_000

    def __init__(self, headings: Sequence[str]) -> None:
        self.columns = [ColumnProfile(heading.strip()) for heading in headings]
        self.rows = 0
        self.blank = 0
        """Rows in which nothing stands."""
        self._batch: list[list[str]] = []

    def add(self, cells: list[str]) -> None:
        """Take in one row."""
        self._batch.append(cells)
        if len(self._batch) >= self.BATCH:
            self.flush()

    def flush(self) -> None:
        """Take in what is waiting; at the end of the rows this must be called."""
        batch, self._batch = self._batch, []
        if not batch:
            return
        width = len(self.columns)
        even = [row if len(row) == width else (row + [""] * width)[:width] for row in batch]
        self.blank += sum(1 for row in even if not any(row))
        first = self.rows + 1
        for column, cells in zip(self.columns, zip(*even, strict=True), strict=True):
            column.add(cells, first)
        self.rows += len(batch)


def profile_rows(headings: Sequence[str], rows: Iterable[list[str]]) -> TableProfile:
    """The profile of rows that stand in memory."""
    profile = TableProfile(headings)
    for row in rows:
        profile.add(row)
    profile.flush()
    return profile
