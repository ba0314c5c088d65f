"""What merging works on: the members' properties, what is taken of them, and what is not."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.envelopes import paired
from roundcard.card.head import head, with_params
from roundcard.merge.policy import Member, Policy, order_of
from roundcard.tally import Fate, Reason, Why

NAMES = ("n", "fn", "sort-string")
"""Properties that say what somebody is called; they are taken of one member."""
TWICE = Reason(Fate.FOLDED, Why.SAME_ELSEWHERE)
LESS = Reason(Fate.FOLDED, Why.IN_FULL_ELSEWHERE)


class Folded(NamedTuple):
    """A value that is said by another one."""

    prop: Property
    member: int
    why: Reason


class Left(NamedTuple):
    """A value that lost to another one."""

    prop: Property
    member: int
    why: Reason
    taken: Property | None
    """What was taken instead."""


@dataclass(slots=True)
class Merged:
    """One contact of several."""

    contact: Contact
    sources: list[list[int]] = field(default_factory=list)
    """For each property of the contact the members that said it."""
    folded: list[Folded] = field(default_factory=list)
    left: list[Left] = field(default_factory=list)
    labels: int = 0
    """Labels of the user's own that went with values said twice."""
    kept: list[Left] = field(default_factory=list)
    """Losers that stand in the contact as an extension or a note, as the policy says."""

    @property
    def conflicts(self) -> list[Left]:
        """Single values that differ, of which one was taken."""
        return [each for each in (*self.left, *self.kept) if each.taken is not None]


class Selection:
    """Properties are taken, folded into others, or left."""

    def __init__(self, members: Sequence[Member], policy: Policy) -> None:
        self.members = members
        self.policy = policy
        self.region = policy.region
        self.order = order_of(members, policy)
        self.out = Merged(Contact([], members[0].contact.origin))
        self.parts = _told_apart([members[at].contact for at in self.order])
        """The properties of each member, in `order`, with groups of their own."""
        self.envelopes = {
            id(props[text]): props[address]
            for props in self.parts
            for text, address in paired(props).items()
        }
        """The addresses to which texts on envelopes belong, by the `id` of the text."""
        self.props: list[Property] = []
        self.said_by: list[list[int]] = []
        self.book = any(member.book for member in members)

    def of(self, name: str) -> Iterator[tuple[int, Property]]:
        """All values of a property, with the member that has each."""
        for at, props in zip(self.order, self.parts, strict=True):
            for prop in props:
                if prop.head.name == name and not prop.rides:
                    yield at, prop

    def keep(self, prop: Property, member: int) -> int:
        """Take a property; its place."""
        self.props.append(prop)
        self.said_by.append([member])
        return len(self.props) - 1

    def fold(self, prop: Property, member: int, why: Reason, into: int) -> None:
        """A property is said by one that is taken."""
        self.out.folded.append(Folded(prop, member, why))
        if member not in self.said_by[into]:
            self.said_by[into].append(member)

    def leave(
        self, prop: Property, member: int, taken: Property | None, why: Why = Why.ANOTHER_TAKEN
    ) -> None:
        """A property loses."""
        word = prop.head.field.path or prop.head.name
        reason = Reason(Fate.LEFT_BEHIND, why, word)
        self.out.left.append(Left(prop, member, reason, taken))


def _told_apart(contacts: Sequence[Contact]) -> list[list[Property]]:
    """The properties of contacts, with groups and ALTIDs that no two contacts share."""
    groups: set[str] = set()
    ties: set[tuple[str, str]] = set()
    found = []
    for contact in contacts:
        mine = {prop.head.group.lower() for prop in contact.properties} - {""}
        renamed: dict[str, str] = {}
        for group in sorted(mine & groups):
            taken = groups | mine | set(renamed.values())
            renamed[group] = next(f"g{n}" for n in range(1, 1_000_000) if f"g{n}" not in taken)
        own = {(prop.head.name, prop.head.altid) for prop in contact.properties if prop.head.altid}
        tied = {
            (name, tie): next(f"{n}" for n in range(1, 1_000_000)
                              if (name, f"{n}") not in ties | own)
            for name, tie in sorted(own & ties)
        }  # fmt: skip
        props = [_renamed(prop, renamed, tied) for prop in contact.properties]
        found.append(props)
        groups |= {prop.head.group.lower() for prop in props} - {""}
        ties |= {(prop.head.name, prop.head.altid) for prop in props if prop.head.altid}
    return found


def _renamed(prop: Property, groups: dict[str, str], ties: dict[tuple[str, str], str]) -> Property:
    old = prop.head
    group = groups.get(old.group.lower(), "")
    tie = ties.get((old.name, old.altid), "")
    if not group and not tie:
        return prop
    new = with_params(old, altid=(tie,)) if tie else old
    made = head(new.name, new.params, group or new.group)
    raw = prop.raw if old.field.kind == "raw" and not old.coded else None
    return Property(made, prop.value, prop.origin, raw)
