"""Records of one shape taken through steps, and passes that only want some of the records."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Protocol, runtime_checkable

from roundcard.books.pipeline import Step
from roundcard.books.shapes.batch import Batch, Shape
from roundcard.books.shapes.work import Event, Into
from roundcard.tally import Tally

MayLack = Callable[[Shape], bool]


@runtime_checkable
class Shaped(Protocol):
    """A step that can take records of one shape at once."""

    def shaped(self, batch: Batch, may_lack: MayLack) -> tuple[Batch, set[int]]:
        """The batch after the step, without those that must be contacts first; and the places of
        these. `may_lack` tells of a shape whether its optional items may be missing."""

    def events(self) -> dict[int, Event]:
        """What is to be told of the records that `shaped` took last."""

    def passed(self, records: int) -> None:
        """So many records that `shaped` took were written."""


def through(into: Into | None, steps: Sequence[Step]) -> Into | None:
    """Takes records of one shape through steps and writes them; None where that cannot be done."""
    if into is None or not steps:
        return into
    able = [step for step in steps if isinstance(step, Shaped)]
    return _Through(into, able) if len(able) == len(steps) else None


class _Through:
    """Takes records through steps before they are written."""

    def __init__(self, into: Into, steps: Sequence[Shaped]) -> None:
        self._into = into
        self._steps = steps
        self._after: Batch | None = None
        self.labels = into.labels

    def give(self, made: Sequence[Any]) -> None:
        """See `Into`."""
        for step in self._steps:
            step.passed(len(made))
        self._into.give(made)

    def takes_optional(self, shape: Shape) -> bool:
        """See `Into`."""
        return self._into.takes_optional(shape)

    def make(self, batch: Batch) -> tuple[Sequence[Any], set[int]]:
        """See `Into`."""
        left: Sequence[int] = range(len(batch))
        gone: set[int] = set()
        for number, step in enumerate(self._steps):
            batch, odd = step.shaped(batch, self._into.takes_optional)
            gone.update(left[at] for at in odd)
            if odd and number:  # the steps before tell of records that are gone now
                return (), gone
            if odd:
                left = [at for n, at in enumerate(left) if n not in odd]
        self._after = batch
        found, odd = self._into.make(batch) if left else ((), set())
        return found, gone | {left[at] for at in odd}

    def count(self, batch: Batch) -> None:
        """See `Into`."""
        self._into.count(self._after or batch)

    def events(self) -> dict[int, Event]:
        """See `Into`; what the steps tell comes first."""
        every: dict[int, list[Event]] = {}
        sources = [step.events() for step in self._steps]
        sources = [told for told in (*sources, self._into.events()) if told]
        if len(sources) == 1:
            return sources[0]
        for told in sources:
            for at, event in told.items():
                every.setdefault(at, []).append(event)
        return {at: _one_after_another(events) for at, events in every.items()}


def _one_after_another(events: Sequence[Event]) -> Event:
    if len(events) == 1:
        return events[0]

    def tell(origin: int, tally: Tally) -> None:
        for event in events:
            event(origin, tally)

    return tell


class Wanted:
    """Takes no record but those that are wanted, and these as contacts."""

    labels = False

    def __init__(self, wanted: Callable[[int], bool]) -> None:
        """`wanted` is asked of each record's origin."""
        self._wanted = wanted

    def give(self, made: Sequence[Any]) -> None:
        """What is not wanted is gone."""

    def takes_optional(self, shape: Shape) -> bool:  # noqa: ARG002
        """See `Into`: no value is looked at."""
        return True

    def make(self, batch: Batch) -> tuple[Sequence[bool], set[int]]:
        """The places of those that are wanted."""
        odd = {at for at, place in enumerate(batch.places) if self._wanted(batch.origin(place))}
        return [False] * len(batch), odd

    def count(self, batch: Batch) -> None:
        """Nothing is counted."""

    def events(self) -> dict[int, Event]:
        """Nothing is told."""
        return {}
