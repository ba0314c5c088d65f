"""Records of one shape: which properties each has, and a column of values for each property."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Mapping, Sequence
from itertools import compress
from operator import itemgetter
from typing import Any, NamedTuple

from roundcard.card.contact import Contact, Property, count_values
from roundcard.card.fields import CUSTOM
from roundcard.card.head import Head, Value
from roundcard.card.origin import RIDES
from roundcard.tally import Fate, Reason, Tally

_NOT_READ = frozenset({Fate.ADDED, Fate.DERIVED})
_NOT_WRITTEN = frozenset({Fate.FOLDED})

Ends = tuple[tuple[Reason | None, int], ...]
"""How many values of a property end for which reason; None where they are as they were read."""


class Item(NamedTuple):
    """One property of a shape."""

    head: Head
    label: str = ""
    """The label of a value that no standard field holds, or that the user gave to the value."""
    rides: bool = False
    """Whether it is no value of its own."""
    empty: bool = False
    """Whether it stands there and holds nothing."""
    optional: bool = False
    """Whether some records lack it: their value is empty then."""


Shape = tuple[Item, ...]


class Column:
    """The values of one property in all records of a batch, in one of three forms."""

    __slots__ = ("ends", "joined", "parts", "raws", "values")

    def __init__(
        self,
        values: Sequence[Value] | None = None,
        *,
        raws: Sequence[str] | None = None,
        parts: Sequence[Sequence[str]] | None = None,
        ends: Sequence[Ends | None] | None = None,
        joined: Sequence[str] | None = None,
    ) -> None:
        self.values = values
        """Decoded values; of what no standard field holds the text without its label."""
        self.raws = raws
        """Undecoded text, in the spelling of the head's version."""
        self.parts = parts
        """A column of texts for each component of a structured value."""
        self.ends = ends
        """Where rules had a say, what came of each record's values; None for a single text that is
        as it was read."""
        self.joined = joined
        """All texts together, and so for each component, where somebody has put them together."""

    def prop(self, item: Item, at: int) -> Property:
        """The property of one record; its value does not tell where it stood."""
        raw = self.raws[at] if self.raws is not None else None
        value: Value | None = None
        if self.parts is not None:
            value = tuple([part[at] for part in self.parts])
        elif self.values is not None:
            value = self.values[at]
            value = (item.label, str(value)) if item.head.name == CUSTOM else value
        return Property(item.head, value, RIDES if item.rides else 0, raw)

    def taken(self, take: Callable[[Sequence[Any]], Sequence[Any]]) -> Column:
        """Some of the records only."""
        return Column(
            self.values and take(self.values),
            raws=self.raws and take(self.raws),
            parts=self.parts and [take(part) for part in self.parts],
            ends=self.ends and take(self.ends),
        )


def _nowhere(_: int) -> int:
    return 0


class Batch:
    """Some records of one shape."""

    def __init__(self, shape: Shape, columns: list[Column], places: Sequence[int]) -> None:
        self.shape = shape
        self.columns = columns
        self.places = places
        """Which of the block's records these are, from 0."""
        self.origin: Callable[[int], int] = _nowhere
        """The origin of a record of the block."""
        self._ended: dict[int, Counter[Reason | None]] = {}

    def __len__(self) -> int:
        return len(self.places)

    def without(self, odd: Collection[int]) -> Batch:
        """The batch without the records at these of its own places."""
        kept = [at not in odd for at in range(len(self.places))]

        def take(column: Sequence[Any]) -> Sequence[Any]:
            return list(compress(column, kept))

        columns = [column.taken(take) for column in self.columns]
        batch = Batch(self.shape, columns, take(self.places))
        batch.origin = self.origin
        return batch

    def contact(self, at: int, origin: int) -> Contact:
        """One of the records as a contact, whose values do not tell where they stood."""
        both = zip(self.shape, self.columns, strict=True)
        return Contact([column.prop(item, at) for item, column in both], origin)

    def count(self, tally: Tally, altered: Mapping[int, Reason | None] | None = None) -> int:
        """Count what becomes of the values, and give how many are written.

        `altered` are the items that count, and why the values stand otherwise that no rule has
        changed; None for all items, as they are.
        """
        total = 0
        for at, item in enumerate(self.shape):
            if item.rides or item.empty or (altered is not None and at not in altered):
                continue
            lost = altered[at] if altered is not None else None
            for reason, count in self.ended(at).items():
                total += count if reason is None or reason.fate not in _NOT_WRITTEN else 0
                why = reason or lost
                if why is None:
                    tally.values.carried += count
                else:
                    tally.count(why, count)
        return total

    def read(self) -> int:
        """How many values were read."""
        return sum([
            count
            for at, item in enumerate(self.shape)
            if not (item.rides or item.empty)
            for reason, count in self.ended(at).items()
            if reason is None or reason.fate not in _NOT_READ
        ])  # fmt: skip

    def ended(self, at: int) -> Counter[Reason | None]:
        """How many values of an item end for which reason."""
        found = self._ended.get(at)
        if found is not None:
            return found
        item, column = self.shape[at], self.columns[at]
        if column.ends is None:
            found = Counter({None: size_of(item.head, column)})
        else:
            found = Counter()
            # many are the very same, and to tell so takes less than to compare them
            same = dict(zip(map(id, column.ends), column.ends, strict=True))
            for key, times in Counter(map(id, column.ends)).items():
                ends = same[key]
                for reason, count in ((None, 1),) if ends is None else ends:
                    found[reason] += count * times
        self._ended[at] = found
        return found


def picker(places: Sequence[int]) -> Callable[[Sequence[Any]], Sequence[Any]]:
    """Takes the entries at these places out of a column."""
    if len(places) == 1:
        only = places[0]
        return lambda column: (column[only],)
    return itemgetter(*places)


def size_of(head: Head, column: Column) -> int:
    """How many values a column holds in all its records."""
    if column.parts is not None:
        return sum([len(part) - part.count("") for part in column.parts])
    if column.raws is not None:
        return _size_of_raws(head, column.raws)
    values = column.values or ()
    if head.field.kind in ("parts", "list") and values and values[0].__class__ is tuple:
        return sum(map(count_values, values))  # type: ignore[arg-type]
    return len(values) - values.count("")


def _size_of_raws(head: Head, raws: Sequence[str]) -> int:
    if head.several is None:
        return len(raws) - raws.count("")
    joined = ";".join(raws)
    if head.field.kind == "parts" and "\\" not in joined and "," not in joined:
        pieces = joined.split(";")
        return len(pieces) - pieces.count("")
    return sum([count * several_in(head, raw) for raw, count in Counter(raws).items()])


def several_in(head: Head, raw: str) -> int:
    """How many values the raw text of a structured value or a list holds."""
    if head.several is not None and "\\" not in raw and "," not in raw:
        return head.several(raw)
    value = head.decode(raw) if head.decode else raw
    if isinstance(value, str):
        return 1 if value else 0
    return count_values(value)
