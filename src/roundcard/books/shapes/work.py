"""Blocks of records, worked off by their shapes, the odd ones in their turn."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, Protocol

from roundcard.books.shapes.batch import Batch, Shape
from roundcard.card.contact import Contact
from roundcard.tally import Findings, Tally

Event = Callable[[int, Tally], None]
"""Tells what became of a record; takes its origin."""


class Into(Protocol):
    """Writes batches."""

    @property
    def give(self) -> Callable[[Sequence[Any]], None]:
        """Takes what was made of records that follow each other."""

    @property
    def labels(self) -> bool:
        """Whether it matters how the user labelled values."""

    def takes_optional(self, shape: Shape) -> bool:
        """Whether some records of a batch may lack some of the items."""

    def make(self, batch: Batch) -> tuple[Sequence[Any], set[int]]:
        """What each record becomes but those that must go the long way, and the places of these;
        or nothing, where it is to be asked again without them."""

    def count(self, batch: Batch) -> None:
        """Count what `make` made of the batch last."""

    def events(self) -> dict[int, Event]:
        """What is to be told of the records that `make` took last, each in its turn."""


class Block:
    """Some records that follow each other."""

    def __init__(self, size: int) -> None:
        self._size = size
        self.told: dict[int, list[Findings]] = {}
        """What there is to tell of records that are not odd."""

    def __len__(self) -> int:
        return self._size

    def batches(self, into: Into) -> Iterator[Batch]:
        """The records by their shapes, without those that go the long way in any case."""
        raise NotImplementedError

    def count(self, batch: Batch) -> None:
        """Count that the records of a batch were read."""
        raise NotImplementedError

    def origin(self, at: int) -> int:
        """The origin of one record."""
        raise NotImplementedError

    def long(self, at: int) -> Iterator[Contact]:
        """The contact of one record (or however many it turns out to be), the long way."""
        raise NotImplementedError

    def end(self) -> None:
        """Count what was not counted batch by batch."""

    def after(self) -> None:
        """When all records have been passed."""


def work_off(block: Block, into: Into, tally: Tally) -> Iterator[Contact]:
    """Write all records of a block; the contacts of the odd ones are given, each in its turn."""
    made: list[Any] = [None] * len(block)
    told: dict[int, Event] = {}
    for batch in block.batches(into):
        batch.origin = block.origin
        while len(batch):
            found, odd = into.make(batch)
            if odd:
                batch = batch.without(odd)
            if len(found) and len(found) == len(batch):
                into.count(batch)
                block.count(batch)
                told |= {batch.places[at]: event for at, event in into.events().items()}
                if len(batch) == len(block):
                    made = list(found)
                else:
                    for place, each in zip(batch.places, found, strict=True):
                        made[place] = each
                break
    block.end()
    begin = 0
    odd_ones = [at for at, each in enumerate(made) if each is None] if None in made else []
    found_in = {at: findings for at, findings in block.told.items() if made[at] is not None}
    for at in sorted({*odd_ones, *found_in, *told}):
        for findings in found_in.get(at, ()):
            tally.find_again(findings)
        if at in told:
            told[at](block.origin(at), tally)
        if made[at] is None:
            if at > begin:
                into.give(made[begin:at])
            begin = at + 1
            yield from block.long(at)
    if begin < len(made):
        into.give(made[begin:])
    block.after()
