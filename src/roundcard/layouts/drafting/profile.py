"""What the cells of one column are, counted in one pass with a bounded memory."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from roundcard.layouts.drafting.cells import cell_kind
from roundcard.layouts.drafting.words import tokens
from roundcard.values.cell_kinds import pieces_of
from roundcard.values.text import bare

MOST_DISTINCT = 5_000
"""Distinct values that are counted one by one; beyond them it is known only that there are more."""
_LOOKED_AT = 1_200
"""Distinct values whose kinds are told each; beyond them of one in forty."""
_SAMPLES = 5
_FEW_WORDS = 4
"""How often each value stands in a column of a few words, on average."""
GARBLED = re.compile(
    r"Ã[\u0080-\u00bf©¨ª«¤¶¼±³§ŸŠœ‰]|Â[\u00a0-\u00bf]|â€[™œ\u009d“”¦–]|Ð[°-¿]|Å[‚›¼¡\u00ad]|\ufffd|ï»¿"
)
"""UTF-8 that was read as Western European, and characters that were given up."""
SCIENTIFIC = re.compile(r"^\d(?:[.,]\d+)?[eE]\+\d{1,3}$", re.MULTILINE)
_NUMBERS = re.compile(r"\d+")
_NUMBERED = re.compile(r"^\d{1,5}\s?[a-z]?\b|\d{1,5}\s?[a-z]?(?:\s?[-/]\s?\d{1,4}[a-z]?)?$",
                       re.IGNORECASE)  # fmt: skip
_COUNTED = 40


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
    dressed_zeros: int = 0
    """Numbers that begin with a zero and hold more than digits."""
    placeholders: Counter[str] = field(default_factory=Counter)
    in_mail: float = 0.0
    """The share of the first rows in which a word of the cell is in their e-mail address too."""
    scientific: int = 0
    """Cells in scientific notation."""
    odd: dict[str, tuple[str, int]] = field(default_factory=dict)
    """The first cell of each kind, and its record."""
    _more: bool = False
    _looked: int = 0
    _batches: int = 0
    _differing: float = 0.0

    @property
    def small(self) -> float:
        """The share of the cells that are the same few words in small letters again and again."""
        words = [value for value in self.values if value[:1].isalpha()]
        few = self.filled >= _FEW_WORDS * max(len(self.values), 1)
        if not words or not few or self._more:
            return 0.0
        return sum(value == value.lower() != value.upper() for value in words) / len(words)

    @property
    def numbered(self) -> float:
        """The share of the first distinct values of more than a word that end or begin with a
        number, as streets do with theirs."""
        words = [value for value in list(self.values)[:_LOOKED_AT] if " " in value.strip()]
        if not words:
            return 0.0
        return sum(bool(_NUMBERED.search(value.strip())) for value in words) / len(words)

    @property
    def counting(self) -> bool:
        """Whether the first values are 1, 2, 3 and so on in the order of the rows."""
        first = [value.strip() for value in list(self.values)[:_COUNTED]]
        if len(first) < 3 or not all(value.isascii() and value.isdecimal() for value in first):
            return False
        steps = [int(b) - int(a) for a, b in pairwise(first)]
        return sum(step == 1 for step in steps) >= 0.9 * len(steps)

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
        """How many different values were met, and whether there are more than that."""
        return len(self.values), self._more

    def share(self, *kinds: str) -> float:
        """The share of the cells that are of these kinds; 0 where the column is empty."""
        told = self.told
        return sum(self.kinds[kind] for kind in kinds) / told if told else 0.0

    @property
    def differing(self) -> float:
        """Distinct values for each filled cell: 1 where no value stands twice (of many batches,
        their mean)."""
        if self._batches < 2:
            return min(len(self.values) / self.filled, 1.0) if self.filled else 0.0
        return self._differing / self._batches

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
        if ("E+" in text or "e+" in text) and SCIENTIFIC.search(text):
            self.scientific += sum(times for cell, times in counts.items()
                                   if SCIENTIFIC.fullmatch(cell.strip()))  # fmt: skip
        values, kinds = self.values, self.kinds
        fresh = [cell for cell in counts if cell not in values]
        if len(fresh) < len(counts):
            for cell in counts.keys() & values.keys():
                values[cell] += counts[cell]
        self.filled += len(cells) - blank
        self._batches += 1
        self._differing += len(counts) / (len(cells) - blank)
        if spaces := [cell for cell in fresh if cell.isspace()]:
            self.filled -= sum(counts[cell] for cell in spaces)
            fresh = [cell for cell in fresh if not cell.isspace()]
        if fresh:
            self._fresh(fresh, counts)
        looked = fresh
        if len(fresh) < len(counts):
            known = [cell for cell in counts if cell in values]
            looked = known if len(values) <= _LOOKED_AT else [*fresh, *known[:50]]
        if self._looked > _LOOKED_AT:
            looked = looked[::40]
        self._looked += len(looked)
        for cell in looked:
            times = counts[cell]
            kind = cell_kind(cell)
            kinds[kind] += times
            if kind in _DETAILS:
                self._detail(kind, cell, times)
            if kind not in self.odd:
                self.odd[kind] = (cell, first + cells.index(cell))

    def _fresh(self, fresh: Sequence[str], counts: Counter[str]) -> None:
        values = self.values
        room = MOST_DISTINCT - len(values)
        for cell in fresh[: max(room, 0)]:
            values[cell] = counts[cell]
        self._more = self._more or len(fresh) > room
        longest = max(fresh, key=len)
        if len(longest) > self.longest:
            self.longest, self.longest_sample = len(longest), longest
        for cell in fresh:
            if len(self.samples) >= _SAMPLES:
                break
            if cell_kind(cell) != "none":
                self.samples.append(cell.strip())

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
                    self.separators[mark] += times
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
        elif cell[0] == "0" and not cell.startswith("00"):
            self.dressed_zeros += times
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
        blank = sum(1 for row in even if not "".join(row).strip())
        self.blank += blank
        first = self.rows + 1
        if first == 1:
            _look_into_mail(self.columns, even[:_ROWS_WITH_MAIL])
        for column, cells in zip(self.columns, zip(*even, strict=True), strict=True):
            column.add(cells, first)
            column.rows -= blank  # they are nobody's
        self.rows += len(batch)


_ROWS_WITH_MAIL = 200


def _look_into_mail(columns: Sequence[ColumnProfile], rows: Sequence[Sequence[str]]) -> None:
    """Tell for each column how often a word of its cells is part of the row's e-mail address, as
    people's names are."""
    mails = [
        at for at in range(len(columns))
        if sum("@" in row[at] for row in rows) > max(0.4 * sum(bool(row[at]) for row in rows), 2)
    ]  # fmt: skip
    if len(mails) != 1:
        return
    told = [(row[mails[0]].partition("@")[0], row) for row in rows if "@" in row[mails[0]]]
    before = [bare(local) for local, _ in told]
    for at, column in enumerate(columns):
        if at == mails[0]:
            continue
        cells = [(row[at], local) for local, (_, row) in zip(before, told, strict=True) if row[at]]
        same = sum(
            any(len(word) > 2 and word in local for word in tokens(cell, camel=False))
            for cell, local in cells
        )
        column.in_mail = same / len(cells) if len(cells) > 3 else 0.0


def profile_rows(headings: Sequence[str], rows: Iterable[list[str]]) -> TableProfile:
    """The profile of rows that stand in memory."""
    profile = TableProfile(headings)
    for row in rows:
        profile.add(row)
    profile.flush()
    return profile
