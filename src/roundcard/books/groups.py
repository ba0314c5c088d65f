"""Groups of people (RFC 6350 sections 6.1.4 and 6.6.5) for targets that have none, and back.

A group becomes a category on each of its members. Where cards are written the group's own card goes
along as an extension and the category says whose it is, so that on the way home the category is
taken off again; in a table the category is all there is of the group.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from roundcard.books.pipeline import Step
from roundcard.books.source import CHUNK, Source
from roundcard.card.contact import Contact, Property
from roundcard.card.equality import identity
from roundcard.card.head import head, with_params
from roundcard.formats import Format
from roundcard.tally import Fate, Reason, Tally, Why, added_by

GROUP = "x-roundcard-group"
"""The parameter of a category that stands for a group; its value is the group's UID."""
_IN_CATEGORIES = Reason(Fate.FOLDED, Why.GROUP_IN_CATEGORIES)
_NOT_WHOLE = Reason(Fate.LEFT_BEHIND, Why.GROUP_NOT_WHOLE)
_OF_GROUP = Reason(Fate.FOLDED, Why.CATEGORY_OF_GROUP)

_GROUPS = ((b"KIND", b"GROUP"),)
_MARKED = ((GROUP.upper().encode(),), (GROUP.upper().encode().hex().upper().encode(),))
"""What stands in a source with groups, or with categories that stand for some; the last is how the
parameter is written in vCard 2.1."""

Contacts = Callable[[], Iterator[Contact]]


@dataclass(slots=True)
class Groups:
    """The groups of some books."""

    of: dict[str, list[tuple[str, str]]] = field(default_factory=dict)
    """Name and UID of the groups of a person, by the person's own UID or address."""
    whole: set[str] = field(default_factory=set)
    """UIDs of the groups whose members are all there."""
    there: set[str] = field(default_factory=set)
    """UIDs of all groups."""


def group_steps(sources: Sequence[Source], target: Format, contacts: Contacts) -> list[Step]:
    """The steps that groups need for a target; none where no source has any.

    `contacts` gives all contacts of the sources, in a pass of their own.
    """
    cards = [source for source in sources if source.format.sort == "card"]
    ways = _MARKED if target.has_groups else _GROUPS
    if not any(_holds(source, ways) for source in cards):
        return []
    groups = _found(contacts)
    if target.has_groups:
        return [GroupsHome(groups)]
    return [GroupsAway(groups, keeps_cards=target.sort == "card")] if groups.there else []


def _holds(source: Source, ways: Sequence[Sequence[bytes]]) -> bool:
    """Whether all marks of one of some ways stand in a source, in whatever case."""
    first = _standing(source, [way[0] for way in ways])
    return any(way[0] in first and _standing(source, way) >= set(way) for way in ways)


def _standing(source: Source, marks: Sequence[bytes]) -> set[bytes]:
    """Those marks that stand in a source."""
    found: set[bytes] = set()
    most = max(map(len, marks))
    before = b""
    with source.open() as stream:
        while len(found) < len(marks) and (octets := stream.read(CHUNK)):
            octets = octets.replace(b"\0", b"").upper()
            between = before + octets[:most]
            found.update(mark for mark in marks if mark in octets or mark in between)
            before = (before + octets[-most:])[-most:]
    return found


def _found(contacts: Contacts) -> Groups:
    groups = Groups()
    wanted: dict[str, set[str]] = {}
    for contact in contacts():
        if is_group(contact):
            uid, name = _uid(contact), _name(contact)
            groups.there.add(uid)
            wanted[uid] = {identity(prop.text) for prop in contact.all("member")}
            for member in wanted[uid]:
                groups.of.setdefault(member, []).append((name, uid))
    if not groups.of:
        groups.whole = set(groups.there)
        return groups
    missing = {uid: set(members) for uid, members in wanted.items()}
    for contact in contacts():
        for key in _keys(contact):
            for _, uid in groups.of.get(key, ()):
                missing[uid].discard(key)
    groups.whole = {uid for uid, members in missing.items() if not members}
    return groups


def is_group(contact: Contact) -> bool:
    """Whether a contact is a group of others."""
    kind = contact.first("kind")
    return kind is not None and kind.text.strip().lower() == "group"


def _uid(contact: Contact) -> str:
    uid = contact.first("uid")
    return identity(uid.text) if uid is not None else f"name:{_name(contact)}"


def _name(contact: Contact) -> str:
    whole = contact.first("fn")
    return whole.text if whole is not None else ""


def _keys(contact: Contact) -> Iterable[str]:
    """The keys under which a contact may be a member."""
    for prop in contact.properties:
        if prop.head.name == "uid":
            yield identity(prop.text)
        elif prop.head.name == "email":
            yield f"mailto:{prop.text.strip().lower()}"


class GroupsAway:
    """Makes categories of groups, for a target that has no groups."""

    def __init__(self, groups: Groups, *, keeps_cards: bool) -> None:
        self._groups = groups
        self._keeps_cards = keeps_cards

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """Put the categories of its groups on a contact; a group itself goes as the target asks."""
        if is_group(contact):
            if self._keeps_cards:
                return contact
            self._away(contact, tally)
            return None
        there = {text.casefold() for prop in contact.all("categories") for text in prop.components
                 if isinstance(text, str)}  # fmt: skip
        for name, uid in dict.fromkeys(
            group for key in _keys(contact) for group in self._groups.of.get(key, ())
        ):
            if name and name.casefold() not in there:
                params = ((GROUP, (uid,)),) if self._keeps_cards else ()
                origin = added_by(Reason(Fate.ADDED, Why.BY_GROUP, "category", (name,)))
                contact.properties.append(Property(head("categories", params), (name,), origin))
                there.add(name.casefold())
        return contact

    def _away(self, contact: Contact, tally: Tally) -> None:
        if _uid(contact) in self._groups.whole:
            tally.count(_IN_CATEGORIES, sum(map(tally.read_of, contact.properties)), people=1)
            return
        tally.count(_NOT_WHOLE, people=1)
        for prop in contact.properties:
            if prop.size():
                tally.leave_behind(contact, prop, _NOT_WHOLE)


class GroupsHome:
    """Takes the categories off again that stand for a group which is there itself."""

    def __init__(self, groups: Groups) -> None:
        self._groups = groups

    def __call__(self, contact: Contact, tally: Tally) -> Contact:
        """Fold such categories; one whose group is not there becomes a plain category."""
        kept = []
        for prop in contact.properties:
            uid = prop.head.param(GROUP)
            if not uid:
                kept.append(prop)
            elif uid[0] in self._groups.there:
                tally.count(_OF_GROUP, tally.read_of(prop))
            else:
                plain = with_params(prop.head, **{GROUP: None})
                kept.append(Property(plain, prop.value, prop.origin))
        contact.properties = kept
        return contact
