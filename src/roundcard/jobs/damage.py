"""Exports that look damaged: of their sources nothing counts as cleared or gone until somebody says
otherwise."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field

from roundcard.jobs.gather import Gathered
from roundcard.jobs.items import Item, items_of
from roundcard.jobs.model import Again
from roundcard.jobs.state import State
from roundcard.jobs.who import People

_FEWEST = 2
"""Records that had something in a column that is wholly empty now: of one alone it was cleared."""


@dataclass(slots=True)
class Damage:
    """What looks damaged this time."""

    why: dict[str, list[str]] = field(default_factory=dict)
    """By source what is wrong with it."""
    emptied: dict[int, list[Item]] = field(default_factory=dict)
    """By record, what its fields held that are empty now."""
    missing: dict[str, int] = field(default_factory=dict)
    """By source how many records are not there."""

    def add(self, source: str, what: str) -> None:
        """Something is wrong with a source."""
        self.why.setdefault(source, []).append(what)


def damage_in(
    found: Gathered, people: People, names: Sequence[str], state: State, again: Again,
    trusted: Collection[str], set_aside: Counter[int], reason: int,
) -> Damage:  # fmt: skip
    """What looks damaged; sources that are `trusted` are as they should be. `set_aside` counts the
    records of each source that could not be read."""
    damage = Damage()
    if not state.size():
        return damage
    there: Counter[int] = Counter()
    cleared: Counter[int] = Counter()
    for at, owner in enumerate(found.owner):
        uid = people.uids[at]
        if not uid:
            continue
        there[owner] += 1
        name = names[owner]
        identity = people.replaced.get(at, (name, found.identities[at]))[1]
        told = state.member(name, identity)
        if told is not None and told[1] != found.digests[at]:
            kept = state.person(uid, reason)
            member = next((m for m in kept.members if (m.source, m.identity) == (name, identity)),
                          None) if kept is not None else None  # fmt: skip
            if member is None:
                continue
            slots = {item.slot for item in items_of(found.contact(at))}
            gone = [item for item in items_of(member.contact) if item.slot not in slots]
            if gone:
                damage.emptied[at] = gone
                cleared[owner] += len(gone)
    claimed: dict[str, int] = defaultdict(int)
    for name, _ in people.claimed:
        claimed[name] += 1
    columns = state.columns()
    for owner, name in enumerate(names):
        before = state.count_of(name)
        damage.missing[name] = max(before - there[owner] - claimed[name], 0)
        if name in trusted or not before:
            continue
        if damage.missing[name] > again.most_gone * before:
            damage.add(name, f"{damage.missing[name]:,} of {before:,} records are not there")
        if cleared[owner] > again.most_cleared * max(found.values[owner], 1):
            damage.add(name, f"{cleared[owner]:,} values are empty that were not")
        for column, count in columns.get(name, {}).items():
            if count >= _FEWEST and not found.columns[owner][column]:
                damage.add(name, f"nobody has anything in '{column}', and {count:,} had")
        if set_aside[owner]:
            damage.add(name, f"{set_aside[owner]:,} records could not be read")
    return damage
