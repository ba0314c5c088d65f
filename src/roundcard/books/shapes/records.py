"""Records whose columns are looked at together, sorted by what there is in each."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple, Protocol

from roundcard.books.shapes.batch import Batch, Column, Item, Shape, picker
from roundcard.books.shapes.work import Into

ABSENT = 0
"""The kind of what is not there."""
GONE, THERE, MAYBE = frozenset({0}), frozenset({1}), frozenset({0, 1})

Take = Callable[[Sequence[Any]], Sequence[Any]]


class Seen(NamedTuple):
    """What a source makes of some records."""

    kinds: frozenset[int]
    """The kinds of what it makes; 0 for nothing."""
    kind_of: Callable[[], Sequence[int]]
    """The kind for each record; asked only where there are several."""
    told: Any = None
    """What the source remembers of the records."""


class Source(Protocol):
    """Where the values of one place, or of several, come from."""

    tells: bool
    """Whether records that have it and records that lack it are never of one shape."""

    def look(self, records: Any) -> Seen:
        """Look at all of the records; those that must go the long way are put among the odd."""

    def items(self, kind: int) -> Sequence[Item]:
        """The properties of one kind."""

    def columns(self, kind: int, records: Any, seen: Seen, take: Take) -> Iterator[Column]:
        """The values of each of them, in the records that are taken; empty where one has none."""


class Records:
    """Some records, and the sources of their properties."""

    def __init__(self, sources: Sequence[Source], size: int) -> None:
        self.sources = sources
        self.size = size
        self.odd: set[int] = set()
        """Records that go the long way in any case."""
        self.seen: list[Seen] = []

    def look(self) -> None:
        """See what the sources make of the records."""
        self.seen = [source.look(self) for source in self.sources]

    def batches(self, into: Into) -> Iterator[Batch]:
        """The records by their shapes, without the odd ones."""
        several = [at for at, each in enumerate(self.seen) if len(each.kinds) > 1]
        # what some have and some lack need not tell them apart where the writer can do without
        some = [at for at in several if not self.sources[at].tells
                and len(self.seen[at].kinds) == 2 and ABSENT in self.seen[at].kinds]  # fmt: skip
        for kinds, places in self._by_kind([at for at in several if at not in some]):
            most = kinds | {at: max(self.seen[at].kinds) for at in some}
            shape = self.shape(most, some)
            if shape is None:
                continue
            if _holds_something(shape) and (not some or into.takes_optional(shape)):
                yield self._batch(shape, most, places)
                continue
            for further, those in self._by_kind(some, places):
                shape = self.shape(kinds | further, ())
                if shape is not None and _holds_something(shape):
                    yield self._batch(shape, kinds | further, those)

    def shape(self, kinds: dict[int, int], optional: Sequence[int]) -> Shape | None:
        """The shape of records of these kinds, by source; None where they are odd."""
        items: list[Item] = []
        for at, source in enumerate(self.sources):
            if kinds[at]:
                some = at in optional
                items += [item._replace(optional=True) if some else item
                          for item in source.items(kinds[at])]  # fmt: skip
        return tuple(items)

    def _by_kind(
        self, telling: Sequence[int], among: Sequence[int] | None = None
    ) -> Iterator[tuple[dict[int, int], Sequence[int]]]:
        """Records by what some sources make of them: what all sources make, and which records."""
        same = {at: next(iter(each.kinds)) for at, each in enumerate(self.seen)
                if len(each.kinds) == 1}  # fmt: skip
        places: Sequence[int] = range(self.size) if among is None else among
        if self.odd and among is None:
            places = [n for n in places if n not in self.odd]
        if not places:
            return
        if not telling:
            yield same, places
            return
        found: dict[tuple[int, ...], list[int]] = {}
        take = taking(places, self.size)
        kinds = [take(self.seen[at].kind_of()) for at in telling]
        for n, key in zip(places, zip(*kinds, strict=True), strict=True):
            known = found.get(key)
            if known is None:
                found[key] = [n]
            else:
                known.append(n)
        for key, those in found.items():
            yield same | dict(zip(telling, key, strict=True)), those

    def _batch(self, shape: Shape, kinds: dict[int, int], places: Sequence[int]) -> Batch:
        take = taking(places, self.size)
        columns: list[Column] = []
        for at, source in enumerate(self.sources):
            if kinds[at]:
                columns += source.columns(kinds[at], self, self.seen[at], take)
        return Batch(shape, columns, places)


def _holds_something(shape: Shape) -> bool:
    """Whether there is a value in each record of a shape."""
    return not all(item.rides or item.empty or item.optional for item in shape)


def everything(column: Sequence[Any]) -> Sequence[Any]:
    """Takes all records."""
    return column


def taking(places: Sequence[int], size: int) -> Take:
    """Takes the records at these places out of a column of so many."""
    return everything if len(places) == size else picker(places)
