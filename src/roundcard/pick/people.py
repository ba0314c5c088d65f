"""Steps that choose people; who is not chosen is counted as left out by the user."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable, Sequence

from roundcard.card.contact import Contact
from roundcard.card.origin import unpack
from roundcard.pick.conditions import Condition
from roundcard.survey.cards import values_of
from roundcard.tally import Fate, Reason, Tally, Why
from roundcard.values.text import loosely

Chooses = Callable[[Contact], bool]


class Picked:
    """Keeps the people that a test chooses; all tests of several must hold."""

    def __init__(self, tests: Sequence[Chooses], why: Why, *, rest: bool = False) -> None:
        """`why` says why the others are left out; with `rest` just they are kept."""
        self.tests = tuple(tests)
        self.reason = Reason(Fate.LEFT_OUT, why)
        self.rest = rest

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact where it is chosen; its values are counted where it is not."""
        if all(test(contact) for test in self.tests) is not self.rest:
            return contact
        left = 0
        for prop in contact.properties:
            left += tally.read_of(prop)
        tally.count(self.reason, left, people=1)
        return None


class InCategory:
    """Chooses people of any of some categories; letter case and accents do not count."""

    def __init__(self, names: Iterable[str]) -> None:
        self.wanted = frozenset(loosely(name) for name in names)

    def __call__(self, contact: Contact) -> bool:
        """Whether the contact is in one of them."""
        return any(
            loosely(str(entry)) in self.wanted
            for prop in contact.all("categories")
            for entry in prop.components
        )


class WithWords:
    """Chooses people in whose values all words stand, anywhere and in any order."""

    def __init__(self, words: str) -> None:
        self.words = tuple(loosely(words).split())

    def __call__(self, contact: Contact) -> bool:
        """Whether all words stand in the contact."""
        text = loosely(" ".join(value for _, value in values_of(contact)))
        return all(word in text for word in self.words)


class Not:
    """Chooses whom a condition does not choose."""

    def __init__(self, condition: Condition) -> None:
        self.condition = condition

    def __call__(self, contact: Contact) -> bool:
        """Whether the condition does not hold."""
        return not self.condition(contact)


class Sampled:
    """Chooses the people of some records."""

    def __init__(self, records: Iterable[tuple[int, int]]) -> None:
        """`records` are numbers of source (from 0) and record (from 1)."""
        self.records = frozenset(records)

    def __call__(self, contact: Contact) -> bool:
        """Whether the contact comes from one of the records."""
        place = unpack(contact.origin)
        return place is not None and (place.source, place.record) in self.records


def sample_of(contacts: Iterable[Contact], tests: Sequence[Chooses], size: int) -> Sampled:
    """So many people by chance among those that tests choose; the same ones each time.

    One pass; the memory grows with the sample and not with the book (reservoir sampling).
    """
    chance = random.Random(size)
    kept: list[tuple[int, int]] = []
    seen = 0
    for contact in contacts:
        place = unpack(contact.origin)
        if place is None or not all(test(contact) for test in tests):
            continue
        seen += 1
        if len(kept) < size:
            kept.append((place.source, place.record))
        elif (at := chance.randrange(seen)) < size:
            kept[at] = (place.source, place.record)
    return Sampled(kept)
