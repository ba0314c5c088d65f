"""One contact of all records of a person."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from roundcard.card.contact import Contact
from roundcard.jobs.desk import RESTORED, Desk
from roundcard.jobs.items import Item, items_of, put_together
from roundcard.jobs.kept import Kept, Member
from roundcard.jobs.who import Person
from roundcard.merge.combine import merged
from roundcard.merge.contact_store import Spool, as_json
from roundcard.merge.merge_step import MERGED_PERSON, count_merged
from roundcard.merge.policy import Member as Merging
from roundcard.merge.policy import order_of
from roundcard.merge.record import line_of
from roundcard.tally import Tally, added_by

_SINGLE = ("name", "birthday", "anniversary", "gender", "birthplace", "deathdate", "deathplace")
"""Fields of which a person has one."""


class Together:
    """Puts the records of people together."""

    def __init__(self, desk: Desk, names: Sequence[str]) -> None:
        """`names` are those of the job's sources."""
        self.desk = desk
        self.settings = desk.settings
        self.found = desk.found
        self.names = names
        self.lines = Spool()
        """The lines of the merge record, without their results."""

    def staying(self, person: Person, kept: Kept) -> list[Member]:
        """Records that are not there this time, of sources of which nothing counts as gone."""
        frozen = self.found.damage.why
        if not frozen:
            return []
        gathered, people = self.found.gathered, self.found.people
        assert gathered is not None
        assert people is not None
        there = {people.replaced.get(at, (self.names[gathered.owner[at]], gathered.identities[at]))
                 for at in person.records}  # fmt: skip
        return [each for each in kept.members
                if each.source in frozen and (each.source, each.identity) not in there]  # fmt: skip

    def __call__(
        self, person: Person, kept: Kept | None, tally: Tally
    ) -> tuple[tuple[Member, ...], Contact]:
        """One contact of all records of a person, with the records as they are kept."""
        gathered = self.found.gathered
        assert gathered is not None
        members: list[Member] = []
        opened: list[str] = []
        for at in person.records:
            owner = gathered.owner[at]
            contact = gathered.contact(at)
            if self.names[owner] in self.found.damage.why and at in self.found.damage.emptied:
                again = [(item, added_by(RESTORED)) for item in self.found.damage.emptied[at]]
                contact = put_together(contact, [], again)
            members.append(Member(self.names[owner], gathered.identities[at],
                                  gathered.digests[at], contact))  # fmt: skip
            opened.append(self.desk.opened[contact.source] if contact.source >= 0 else "")
        members += person.stay
        opened += [each.source for each in person.stay]
        if len(members) == 1:
            contact = members[0].contact
            return tuple(members), Contact(list(contact.properties), contact.origin)
        resolved = self.found.people.known.resolved if self.found.people is not None else None
        keeps = _keeps(kept, members) if kept is not None else {}
        whole = [
            Merging(each.contact, name,
                    resolved is not None and n < len(person.records)
                    and person.records[n] in resolved.leads,
                    frozenset(keeps.get(n, ())) | (
                        resolved.keeps.get(person.records[n], frozenset())
                        if resolved is not None and n < len(person.records) else frozenset()))
            for n, (each, name) in enumerate(zip(members, opened, strict=True))
        ]  # fmt: skip
        order = order_of(whole, self.settings.policy)
        if kept is not None:  # who led, leads
            lead = kept.members[0]
            order.sort(key=lambda n: (members[n].source, members[n].identity)
                       != (lead.source, lead.identity))  # fmt: skip
        found = merged(whole, self.settings.policy)
        count_merged(found, whole, tally)
        tally.count(MERGED_PERSON, people=len(person.records) - 1)
        originals = [(name, each.contact.record, each.contact)
                     for each, name in zip(members, opened, strict=True)]  # fmt: skip
        line = line_of(str(self.found.lines + 1), found, originals, "", False, self.settings.today,
                       self.settings.say)  # fmt: skip
        line["result"] = None
        self.lines.put((line, as_json(found.contact.properties)))
        self.found.lines += 1
        return tuple(members[n] for n in order), found.contact


def _keeps(kept: Kept, members: Sequence[Member]) -> dict[int, set[str]]:
    """Of which records the single values are taken that were delivered, where no source changed
    that field: nothing changes only because another record is newer now."""
    before = {(each.source, each.identity): each for each in kept.members}
    found: dict[int, set[str]] = {}
    old = [before.get((each.source, each.identity)) for each in members]
    for word in _SINGLE:
        wanted = _said(kept.meant, word)
        if not wanted:
            continue
        now = [_said(each.contact, word) for each in members]
        if any(_said(then.contact, word) != said if then is not None else bool(said)
               for then, said in zip(old, now, strict=True)):  # fmt: skip
            continue
        holder = next((n for n, said in enumerate(now) if said == wanted), None)
        if holder is not None:
            found.setdefault(holder, set()).add(word)
    return found


def _said(contact: Contact, word: str) -> list[tuple[str, tuple[str, ...]]]:
    return sorted((item.slot, item.key) for item in _items(contact, word))


def _items(contact: Contact, word: str) -> Iterable[Item]:
    return (item for item in items_of(contact) if item.slot.partition("/")[0] == word)
