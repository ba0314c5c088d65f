"""Merging as a step of a conversion: the first of a group becomes all of it, the rest goes in."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from roundcard.books.shapes.batch import Batch
from roundcard.books.shapes.steps import MayLack
from roundcard.books.shapes.work import Event
from roundcard.card.contact import Contact, Property
from roundcard.card.equality import identity
from roundcard.card.names import called
from roundcard.card.origin import unpack
from roundcard.merge.combine import merged
from roundcard.merge.contact_store import Store
from roundcard.merge.equivalence import told
from roundcard.merge.policy import Member, Policy, order_of
from roundcard.merge.record import line_of
from roundcard.merge.selection import Left, Merged
from roundcard.tally import Fate, Reason, Tally, Why, changed_by

Place = tuple[int, int]
"""Number of the source, from 0, and record, from 1."""
_POINTERS = ("member", "related")
IN_THE_BOOK = Reason(Fate.LEFT_OUT, Why.IN_BOOK)
MERGED_PERSON = Reason(Fate.FOLDED, Why.MERGED_PERSON)
_MEMBER_MERGED = Reason(Fate.FOLDED, Why.MEMBER_MERGED)
_SAID_IN_ONE = Reason(Fate.FOLDED, Why.SAID_IN_ONE)


@dataclass(slots=True)
class Joined:
    """Contacts that are to be one."""

    number: str
    """As the sheet has it."""
    places: list[Place]
    reasons: str = ""
    decided: bool = False
    """Whether a person said so."""
    leads: Place | None = None
    keeps: Mapping[Place, frozenset[str]] = field(default_factory=dict)


class Pointed(NamedTuple):
    """Members or relations of a contact that pointed at records which were merged."""

    of: str
    """The UID of the contact."""
    name: str
    """The property's name."""
    now: str
    """The UID of the merged contact."""
    before: list[str]
    """What stood there before."""


class Conflict(NamedTuple):
    """Two single values that differ, of which one was taken."""

    number: str
    name: str
    field: str
    taken: str
    other: str
    where: str
    """Source and record of the other one."""


class Line(NamedTuple):
    """A line of the merge record, which is kept on disk."""

    place: int
    """Of the merged contact in the target, from 0."""
    told: int
    """Its number in the spool of lines."""
    made: int
    """The number of the merged contact in the store, for want of a target that can be read
    again."""


class Merging:
    """Makes one contact of each group; the members are read in a pass of their own before."""

    joins = True
    """It makes one person of several records."""

    def __init__(
        self, joined: Sequence[Joined], names: Sequence[str], policy: Policy, *,
        book: int = -1, leave: Iterable[Place] = (), when: str = "",
        say: Callable[[Reason], str] = str,
    ) -> None:  # fmt: skip
        """`book` is the number of the source that is added to; who stands in `leave` is in it
        already and is left out; `when` is the day that the record tells, and `say` its words for
        reasons."""
        self.joined = joined
        self.names = names
        self.policy = policy
        self.book = book
        self.leave = frozenset(leave)
        self.when = when
        self.say = say
        self.groups = {place: at for at, each in enumerate(joined) for place in each.places}
        self.firsts = {min(each.places): at for at, each in enumerate(joined)}
        self.stored: dict[Place, int] = {}
        self.moved: dict[str, str] = {}
        """The UID of a record that was merged, and that of the contact it became."""
        self.store = Store()
        self.record = self.store.beside
        self.begin()

    def begin(self) -> None:
        """Forget what was done: the sources are read from the beginning."""
        self.lines: list[Line] = []
        """The lines of the merge record, by the places of their contacts in the target."""
        self.conflicts: list[Conflict] = []
        self.pointed: list[Pointed] = []
        self.written = 0

    def gather(self, contacts: Iterable[Contact]) -> None:
        """Keep the members of all groups, in one pass over the sources."""
        uids: dict[Place, str] = {}
        for contact in contacts:
            place = _place(contact)
            if place in self.groups:
                self.stored[place] = self.store.put(contact)
                uid = contact.first("uid")
                if uid is not None and uid.text:
                    uids[place] = uid.text
        for each in self.joined:
            members = [self._member(each, place, Contact([])) for place in each.places]
            order = order_of(members, self.policy)
            known = [uids[each.places[at]] for at in order if each.places[at] in uids]
            self.moved |= {identity(uid): known[0] for uid in known[1:] if uid != known[0]}

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """A merged contact for the first of a group; nothing for the others."""
        place = _place(contact)
        if place in self.leave:
            values = sum(map(tally.read_of, contact.properties))
            tally.count(IN_THE_BOOK, values, people=1)
            return None
        group = self.groups.get(place)
        if group is None:
            out = contact
        elif place not in self.firsts:
            tally.count(MERGED_PERSON, people=1)
            return None
        else:
            out = self._merged(self.joined[group], tally)
        if self.moved:
            self._point_anew(out, tally)
        self.written += 1
        return out

    def shaped(self, batch: Batch, may_lack: MayLack) -> tuple[Batch, set[int]]:  # noqa: ARG002
        """Whom no group and no pointer concerns stays as read."""
        heads = {item.head.name for item in batch.shape}
        if self.moved and not heads.isdisjoint(_POINTERS):
            every = set(range(len(batch)))
            return batch.without(every), every
        odd = set()
        for at, number in enumerate(batch.places):
            place = unpack(batch.origin(number))
            key = (place.source, place.record) if place is not None else (-1, 0)
            if key in self.groups or key in self.leave:
                odd.add(at)
        return batch.without(odd) if odd else batch, odd

    def events(self) -> dict[int, Event]:
        """Nothing is told of others."""
        return {}

    def passed(self, records: int) -> None:
        """So many others were written."""
        self.written += records

    def _member(self, joined: Joined, place: Place, contact: Contact) -> Member:
        return Member(contact, self.names[place[0]], place == joined.leads,
                      frozenset(joined.keeps.get(place, ())), place[0] == self.book)  # fmt: skip

    def _merged(self, joined: Joined, tally: Tally) -> Contact:
        places = joined.places
        contacts = [self.store.get(self.stored[place]) for place in places]
        members = [self._member(joined, place, contact)
                   for place, contact in zip(places, contacts, strict=True)]  # fmt: skip
        found = merged(members, self.policy)
        count_merged(found, members, tally)
        originals = [(self.names[place[0]], place[1], contact)
                     for place, contact in zip(places, contacts, strict=True)]  # fmt: skip
        line = line_of(joined.number, found, originals, joined.reasons, joined.decided, self.when,
                       self.say)  # fmt: skip
        made = self.store.put(found.contact)
        self.lines.append(Line(self.written, self.record.put(line), made))
        if found.labels:
            tally.find("a label of a value that is said twice (kept in the merge record)")
        whole = {left.member for left in found.conflicts if left.prop.head.name == "fn"}
        for left in found.conflicts:
            if left.prop.head.name != "n" or left.member not in whole:  # one name, told once
                self._tell_conflict(joined, found, left, tally)
        return found.contact

    def _tell_conflict(self, joined: Joined, found: Merged, left: Left, tally: Tally) -> None:
        source, record = joined.places[left.member]
        word = left.prop.head.field.path or left.prop.head.name
        taken = told(left.taken) if left.taken is not None else ""
        where = f"{self.names[source]}:{record}"
        self.conflicts.append(Conflict(joined.number, called(found.contact), word, taken,
                                       told(left.prop), where))  # fmt: skip
        tally.find(f"{word}: two records of one person differ, and one was taken")

    def _note_pointers(self, contact: Contact) -> None:
        """Keep what members and relations of a contact are before they point anew."""
        before: dict[tuple[str, str], list[str]] = {}
        for prop in contact.properties:
            if prop.head.name in _POINTERS:
                now = identity(self.moved.get(identity(prop.text), prop.text))
                before.setdefault((prop.head.name, now), []).append(prop.text)
        uid = contact.first("uid")
        if uid is not None:
            self.pointed += [
                Pointed(uid.text, name, now, texts)
                for (name, now), texts in before.items()
                if any(identity(text) != now for text in texts)
            ]

    def _point_anew(self, contact: Contact, tally: Tally) -> None:
        """Members and relations that point at a merged record point at what it became."""
        seen: set[tuple[str, str]] = set()
        kept: list[Property] = []
        self._note_pointers(contact)
        for prop in contact.properties:
            if prop.head.name not in _POINTERS:
                kept.append(prop)
                continue
            now = self.moved.get(identity(prop.text))
            if now is not None:
                points_anew = Reason(Fate.CHANGED, Why.POINTS_ANEW, prop.head.name)
                prop = prop.replaced(now, changed_by(prop.origin_of(0), points_anew))
            key = (prop.head.name, identity(prop.text))
            if prop.head.name == "member" and key in seen:
                tally.count(_MEMBER_MERGED, tally.read_of(prop))
                continue
            seen.add(key)
            kept.append(prop)
        contact.properties = kept


def count_merged(found: Merged, members: Sequence[Member], tally: Tally) -> None:
    """Count what became of the values that are not in the merged contact."""
    for folded in found.folded:
        tally.count(folded.why, tally.read_of(folded.prop))
    for left in found.left:
        tally.leave_behind(members[left.member].contact, left.prop, left.why)
    for kept in found.kept:  # all of it as one text, with the origin of its first part
        first = next(tally.ends(kept.prop))[0]
        tally.count(_SAID_IN_ONE, tally.read_of(kept.prop) - (first >= 0))


def _place(contact: Contact) -> Place:
    place = unpack(contact.origin)
    return (place.source, place.record) if place is not None else (-1, 0)
