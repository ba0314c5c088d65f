"""What a whole book tells of its own habits, which no single value can."""

from __future__ import annotations

import contextlib
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from roundcard.books.shapes.batch import Batch, Shape
from roundcard.books.shapes.decoding import decoded
from roundcard.books.shapes.work import Event
from roundcard.books.source_reader import Reading
from roundcard.card.contact import Contact, flat
from roundcard.card.fields import ADR_PARTS
from roundcard.card.head import Value
from roundcard.clean.dates import order_told
from roundcard.clean.names import in_one_case
from roundcard.clean.splitting import reads_as

_SHARE, _FEWEST = 0.8, 5
_NAME_PARTS = ("name/family", "name/given", "name/additional")
_NEARLY_ALL, _FEWEST_NAMES = 0.95, 40
"""The share of whole names with a known given name, among so many at the least, from which one
without is odd."""
_ENOUGH = 5_000
"""Whole names that tell which part of them stands first."""
_DATES = {"bday": "birthday", "anniversary": "anniversary", "deathdate": "deathdate"}
_WHOLE = "name/full"


class Habits(NamedTuple):
    """How a book writes some of its fields, by their paths."""

    uniform: frozenset[str] = frozenset()
    """Names that it writes in one letter case."""
    orders: Mapping[str, str] = {}
    """The order of dates (``day``, ``month``, ``mixed``) and whole names (``family``)."""
    known_names: bool = False
    """Whether nearly all its whole names hold a known given name, so that one without is odd."""


class Enough(Exception):  # noqa: N818  # a signal between rooms, no error of the user's
    """So many contacts tell enough."""


class HabitsOf:
    """Counts how a book writes some of its fields; takes records of one shape at once."""

    labels = False

    def __init__(
        self, known: Mapping[str, str] | None = None, most: int = 0, *, numbers_are: bool = False
    ) -> None:
        """`known` are orders that are told already, as by the date style of a table's column; they
        stand whatever the dates that are left over tell. After `most` contacts `Enough` is raised,
        where there are no dates that a later one could put in another order. With `numbers_are`
        a number under a date is a count of days whatever stands beside it, as in a workbook."""
        self._numbers_are = numbers_are
        self._known = dict(known or {})
        self._left = most or -1
        self._cases: dict[str, list[int]] = {}
        self._dates: dict[str, Counter[str]] = {}
        self._read: Counter[str] = Counter()
        self._seen = 0

    def add(self, contact: Contact) -> None:
        """Take one more contact. Raises `Enough`."""
        for prop in contact.properties:
            self._look(prop.head.name, (prop.value,), rides=prop.rides)
        self._passed(1)

    def give(self, made: Sequence[Any]) -> None:
        """What was counted is gone. Raises `Enough`."""
        self._passed(len(made))

    def takes_optional(self, shape: Shape) -> bool:  # noqa: ARG002
        """Yes: each property is looked at by itself."""
        return True

    def make(self, batch: Batch) -> tuple[Sequence[Any], set[int]]:
        """Nothing is made of records."""
        return [False] * len(batch), set()

    def count(self, batch: Batch) -> None:
        """Count what the records of a batch tell."""
        for item, column in zip(batch.shape, batch.columns, strict=True):
            name = item.head.name
            if name in _DATES or name in _NAMES:
                self._look(name, decoded(item.head, column), rides=item.rides)

    def events(self) -> dict[int, Event]:
        """Nothing is told."""
        return {}

    def habits(self) -> Habits:
        """What all contacts together tell."""
        orders = {path: order for path, told in self._dates.items()
                  if (order := _order(told, numbers_are=self._numbers_are))}  # fmt: skip
        first, second = self._read["given"], self._read["family"]
        if second >= _FEWEST and second >= _SHARE * (first + second):
            orders[_WHOLE] = "family"
        known = first + second + self._read["both"]
        names = known + self._read["none"]
        all_known = names >= _FEWEST_NAMES and known >= _NEARLY_ALL * names
        return Habits(_uniform(self._cases), orders | self._known, all_known)

    def _passed(self, records: int) -> None:
        if self._left >= 0:
            self._left -= records
            if self._left <= 0:
                raise Enough

    def _look(self, name: str, values: Sequence[Value], *, rides: bool) -> None:
        """Count what values of one property tell."""
        if name in _DATES:
            told = self._dates.setdefault(_DATES[name], Counter())
            for value, times in Counter(values).items() if not rides else ():
                if value:
                    told[order_told(_text(value))] += times
            return
        for path, texts in _names(name, values):
            counts = self._cases.setdefault(path, [0, 0, 0])
            counts[0] += len(texts)
            large = [text for text in texts if text.isupper()]
            small = [text for text in texts if text.islower()]
            counts[1] += sum(map(in_one_case, large))
            counts[2] += sum(map(in_one_case, small))
            if path == _WHOLE and not rides and (more := _ENOUGH - self._seen) > 0:
                self._seen += len(texts[:more])
                self._read.update(map(reads_as, texts[:more]))


def habits_of(
    contacts: Iterable[Contact], known: Mapping[str, str] | None = None, most: int = 0
) -> Habits:
    """What all contacts together tell, in one pass that keeps counts only; see `HabitsOf`."""
    gathered = HabitsOf(known, most)
    with contextlib.suppress(Enough):
        for contact in contacts:
            gathered.add(contact)
    return gathered.habits()


def habits_in(reading: Reading, known: Mapping[str, str] | None = None, most: int = 0) -> Habits:
    """The same of a source."""
    workbook = reading.source.format.sort == "table" and not reading.source.format.of_text
    gathered = HabitsOf(known, most, numbers_are=workbook)
    with contextlib.suppress(Enough):
        for contact in reading.contacts(into=gathered):
            gathered.add(contact)
    return gathered.habits()


_ONE_TEXT = {"fn": _WHOLE, "nickname": "nickname"}
_PARTS = {"n": tuple((path, at) for at, path in enumerate(_NAME_PARTS)),
          "adr": (("address/locality", ADR_PARTS.index("locality")),)}  # fmt: skip
_NAMES = _ONE_TEXT.keys() | _PARTS.keys()


def _text(value: Value) -> str:
    return value if isinstance(value, str) else " ".join(flat(value))


def _names(name: str, values: Sequence[Value]) -> Iterator[tuple[str, list[str]]]:
    """The texts of names among the values of one property, by their paths."""
    there = [value for value in values if value]
    if name in _ONE_TEXT:
        yield _ONE_TEXT[name], list(map(_text, there))
    elif name in _PARTS:
        for path, at in _PARTS[name]:
            parts = [value[at] for value in there if len(value) > at and value[at]]
            yield path, [part if isinstance(part, str) else " ".join(part) for part in parts]


def _uniform(cases: Mapping[str, list[int]]) -> frozenset[str]:
    return frozenset(
        path
        for path, (count, large, small) in cases.items()
        if count >= _FEWEST and max(large, small) >= _SHARE * count
    )


def _order(told: Counter[str], *, numbers_are: bool) -> str:
    if told["number"] and (numbers_are or told["number"] == told.total()):
        return "number"
    if told["year"] and not told["month"]:
        return "year"  # none of the others speaks against it: 31 and less may be years, too
    if told["day"] and told["month"]:
        return "mixed"
    for order in ("day", "month"):
        if told[order]:
            return order
    return "day" if told["dots"] and not told["either"] else ""
