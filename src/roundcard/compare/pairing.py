"""Who of one book is who of the other, one to one, and by what it is told."""

from __future__ import annotations

from array import array
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Literal, NamedTuple

from roundcard.card.contact import Contact
from roundcard.card.equality import identity
from roundcard.destinations.keys import keys_of
from roundcard.destinations.model import Destination
from roundcard.match.features import FeaturesOf
from roundcard.match.matching import SURE, matches_of
from roundcard.match.sheet_decisions import known
from roundcard.pick.path_values import values_at

How = Literal["uid", "identity", "values", "key", "decision", "likely"]
WAYS: tuple[How, ...] = ("uid", "identity", "values", "key", "decision", "likely")
"""By what a pair is told, the surest first; by points alone it is likely and never sure."""
_NONE = 0
_MOST_KEYS = 6


class Pair(NamedTuple):
    """A person of the old book and one of the new one, by their numbers, from 0."""

    old: int
    new: int
    how: How


class Side:
    """All that is kept of one book: a few numbers a person."""

    def __init__(self, to: Destination | None) -> None:
        self._to = to
        self.places: list[tuple[int, int]] = []
        """Source and record."""
        self.uids = array("q")
        self.identities = array("q")
        self.digests = array("Q")
        """Of what is said, as far as it counts for the comparison."""
        self.raw = array("Q")
        """Of what is said as it stands there, and is spelled."""
        self.keys: dict[int, int] = {}
        """The person of each key; below 0 where several have it."""

    def __len__(self) -> int:
        return len(self.places)

    def add(self, contact: Contact, digest: int, raw: int) -> None:
        """One more person."""
        number = len(self.places)
        self.places.append((contact.source, contact.record))
        uid = contact.first("uid")
        self.uids.append(hash(identity(uid.text)) if uid is not None and uid.text else _NONE)
        said = None
        if self._to is not None and self._to.identity is not None:
            said = next(values_at(contact, self._to.identity), None)
        self.identities.append(hash(identity(said)) if said else _NONE)
        self.digests.append(digest)
        self.raw.append(raw)
        if self._to is not None:
            for key in list(keys_of(contact, self._to))[:_MOST_KEYS]:
                self.note(hash(key), number)

    def note(self, key: int, number: int) -> None:
        """Note a key of a person."""
        first = self.keys.setdefault(key, number)
        if first != number:
            self.keys[key] = -1


class Pairing:
    """Pairs the people of two books by one way after another."""

    def __init__(self, old: Side, new: Side) -> None:
        self.old, self.new = old, new
        self.of_old = array("q", [-1]) * len(old)
        self.of_new = array("q", [-1]) * len(new)
        self.pairs: list[Pair] = []

    def surely(self) -> None:
        """By what tells a person for sure."""
        self._by("uid", self.old.uids, self.new.uids)
        self._by("identity", self.old.identities, self.new.identities)
        self._by("values", self.old.digests, self.new.digests, several=True)
        for key, number in self.old.keys.items():
            other = self.new.keys.get(key, -1)
            if number >= 0 and other >= 0:
                self._take(number, other, "key")

    def _by(
        self, how: How, old: Sequence[int], new: Sequence[int], *, several: bool = False
    ) -> None:
        """By equal numbers that only one on each side has; with `several`, as many as have it."""
        mine, theirs = Counter(old), Counter(new)
        waiting: dict[int, list[int]] = {}
        for number, told in enumerate(new):
            if told != _NONE and self.of_new[number] < 0 and (several or theirs[told] == 1):
                waiting.setdefault(told, []).append(number)
        for number, told in enumerate(old):
            if self.of_old[number] >= 0 or (not several and mine[told] > 1):
                continue
            there = waiting.get(told)
            if there:
                self._take(number, there.pop(0), how)

    def _take(self, old: int, new: int, how: How) -> None:
        if self.of_old[old] < 0 and self.of_new[new] < 0:
            self.of_old[old], self.of_new[new] = new, old
            self.pairs.append(Pair(old, new, how))

    def alone(self) -> tuple[list[int], list[int]]:
        """Who has no partner yet, in each book."""
        return ([n for n, other in enumerate(self.of_old) if other < 0],
                [n for n, other in enumerate(self.of_new) if other < 0])  # fmt: skip

    def likely(
        self,
        contacts: Iterable[Contact],
        region: str,
        olds: int,
        names: Sequence[str],
        store: Path | None = None,
    ) -> None:
        """By decisions that are kept, and by points, among the people who are alone; sources below
        `olds` are of the old book. Raises `PlanError` for decisions that cannot be read."""
        gathered = FeaturesOf(region)
        for contact in contacts:
            gathered.add(contact)
        features = gathered.found.end()
        if len(features) < 2:
            return
        decided = known(features, names, store, None, "").resolved.pairs if store else {}
        found = matches_of(features, decided=decided)
        both = [(int(one), int(other)) for one, other in found.pairs]
        order = [(float("inf"), pair) for pair, said in decided.items() if said == "same"]
        order += sorted(zip(map(float, found.scores), both, strict=True), key=lambda each: -each[0])
        old = {place: number for number, place in enumerate(self.old.places)}
        new = {place: number for number, place in enumerate(self.new.places)}
        for score, pair in order:
            if score < SURE:
                break
            if decided.get(pair) == "apart":
                continue
            places = [(int(features.source[at]), int(features.record[at])) for at in pair]
            places.sort(key=lambda place: place[0] >= olds)
            first, second = places
            if first[0] < olds <= second[0]:
                how: How = "decision" if decided.get(pair) == "same" else "likely"
                self._take(old[first], new[second], how)

    def ways(self) -> Iterator[tuple[How, int]]:
        """How many pairs were told by each way."""
        counts = Counter(pair.how for pair in self.pairs)
        return ((how, counts[how]) for how in WAYS if counts[how])
