"""The heart of a run: of all records of the sources, whom the destination is to get, and how.

It stands between reading and writing (`Plan.supply`): the sources are read once, people are told
and put together, held against what was delivered and against what the destination holds, and who is
new or changed goes on to be fitted and written. What becomes of everybody else is counted.
"""

from __future__ import annotations

import time
import uuid
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from roundcard.books.pipeline import Step
from roundcard.books.plan import Watch
from roundcard.books.source_reader import Reading
from roundcard.card.contact import Contact, Property
from roundcard.card.equality import identity
from roundcard.card.head import head
from roundcard.card.names import called
from roundcard.jobs.damage import Damage, damage_in
from roundcard.jobs.gather import Gathered, Gathering, filled
from roundcard.jobs.items import Item, items_of, put_together
from roundcard.jobs.kept import Kept, Member, digest_of
from roundcard.jobs.model import Again, Answer, Job
from roundcard.jobs.state import Delivery, Kind, Run, State
from roundcard.jobs.there import Export, Model
from roundcard.jobs.three_way import Change, Outcome, Side, States, held_against, still_open
from roundcard.jobs.who import People, Person, everybody, recognised
from roundcard.jobs.who import put_together as put_people_together
from roundcard.match.sheet_decisions import MatchSheet
from roundcard.merge.combine import merged
from roundcard.merge.contact_store import Spool
from roundcard.merge.merge_step import IN_THE_BOOK, MERGED_PERSON, count_merged
from roundcard.merge.policy import Member as Merging
from roundcard.merge.policy import Policy, order_of
from roundcard.merge.record import line_of
from roundcard.tally import Fate, Reason, Tally, Why, added_by
from roundcard.tally.reasons import number_of
from roundcard.values.set_value import put

AS_DELIVERED = Reason(Fate.LEFT_OUT, Why.AS_DELIVERED)
STANDS_THERE = Reason(Fate.LEFT_OUT, Why.STANDS_THERE)
AWAY_THERE = Reason(Fate.LEFT_OUT, Why.AWAY_THERE)
BLIND = Reason(Fate.HELD_BACK, Why.BLIND)
VALUE_ASKED = Reason(Fate.HELD_BACK, Why.VALUE_ASKED)
PERSON_ASKED = Reason(Fate.HELD_BACK, Why.PERSON_ASKED)
MERGED_UID = Reason(Fate.FOLDED, Why.MERGED_UID, "uid")
FROM_BEFORE = Reason(Fate.ADDED, Why.FROM_BEFORE)
FROM_THERE = Reason(Fate.ADDED, Why.FROM_THERE)
RESTORED = Reason(Fate.ADDED, Why.RESTORED)
OUR_UID = Reason(Fate.ADDED, Why.IDENTITY, "uid")
_SINGLE = ("name", "birthday", "anniversary", "gender", "birthplace", "deathdate", "deathplace")
"""Fields of which a person has one."""


class Row(NamedTuple):
    """Something of a person that people are to read of."""

    uid: str
    person: str
    what: str
    field: str = ""
    before: str = ""
    source: str = ""
    there: str = ""
    since: str = ""


class Removal(NamedTuple):
    """Somebody whom the destination is to lose."""

    uid: str
    person: Contact
    reason: str
    since: str


@dataclass(slots=True)
class Found:
    """What a run found out, besides what the ledger counts."""

    counts: Counter[str] = field(default_factory=Counter)
    """People by what they are."""
    values: Counter[str] = field(default_factory=Counter)
    """Values of known people by what they are."""
    held: list[Row] = field(default_factory=list)
    """What waits for an answer."""
    told: list[Row] = field(default_factory=list)
    """What the destination has otherwise, or keeps."""
    changed: list[Row] = field(default_factory=list)
    """What changes at people whom the destination has."""
    removals: list[Removal] = field(default_factory=list)
    not_sent: list[Row] = field(default_factory=list)
    by_hand: list[Row] = field(default_factory=list)
    """Values that a person must clear there, since an empty cell does not."""
    damage: Damage = field(default_factory=Damage)
    columns: dict[str, dict[str, int]] = field(default_factory=dict)
    questions: int = 0
    people: People | None = None
    gathered: Gathered | None = None
    resting: int = 0
    """People whose state there is told from what was sent and what the service does to values."""
    by_likeness: int = 0
    delivered: int = 0
    """People whom the outbox holds."""
    noted: int = 0
    """People of whom something is kept, and nothing written."""
    lines: int = 0
    """Merges in the record."""
    stages: dict[str, float] = field(default_factory=dict)
    """Seconds by stage."""


@dataclass(slots=True)
class _Current:
    """The person who is being written."""

    uid: str
    kind: Kind
    before: Kept | None
    meant: Contact
    written: Contact
    members: tuple[Member, ...]
    there: Contact | None
    sent: Contact | None = None


class Recorder:
    """The step behind the fitting: keeps how a person is sent."""

    joins = True

    def __init__(self) -> None:
        self.current: _Current | None = None

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:  # noqa: ARG002
        """The same contact."""
        if self.current is not None:
            self.current.sent = Contact(list(contact.properties), contact.origin)
        return contact


@dataclass(slots=True)
class Settings:
    """What a run goes by, besides its job."""

    owners: Sequence[int]
    """The job's source of each opened one."""
    today: str
    export: Export | None = None
    trusted: frozenset[str] = frozenset()
    unread: frozenset[str] = frozenset()
    """Sources that cannot be read this time."""
    job_changed: bool = False
    """Whether job, layouts, rules, destination or version are others than last time."""
    blind: bool = False
    sheet: MatchSheet | None = None
    answers: Mapping[tuple[str, str, str], Answer] = field(default_factory=dict)
    """What a person decided of values: by person, field and what the source says."""
    policy: Policy = Policy()
    say: Callable[[Reason], str] = str


class Deciding:
    """Decides who is written, and keeps in the state what was decided."""

    def __init__(self, job: Job, state: State, run: Run, settings: Settings) -> None:
        self.job = job
        self.state = state
        self.run = run
        self.settings = settings
        self.model = Model(job.to, job.region)
        self.recorder = Recorder()
        self.found = Found()
        self.names = [source.name for source in job.sources]
        self.lines = Spool()
        """The lines of the merge record, without their results."""
        self._seen: set[str] = set()
        self._place = 0
        self._minted: set[str] = set()
        self._opened: list[str] = []
        self._before = number_of(FROM_BEFORE)
        self._gathering: Gathering | None = None

    def __call__(
        self, readings: Sequence[Reading], steps: Sequence[Step], tally: Tally, watch: Watch | None
    ) -> Iterator[Contact]:
        """Whom to write; see `roundcard.books.plan.Supply`."""
        self.state.drop_deliveries(self.run)
        began = time.monotonic()
        job, settings = self.job, self.settings
        self._opened = [reading.source.name for reading in readings]
        fill = {"date": settings.today, "job": job.name}
        gathering = Gathering(job.sources, settings.owners, job.merge is not None, job.region, fill)
        self._gathering = gathering
        gathered = self.found.gathered = gathering.read(readings, steps, tally, watch)
        began = self._stage("read", began)
        people = recognised(gathered, self.names, self.state, job.region, self._before)
        self.found.people = people
        if job.merge is not None:
            put_people_together(people, gathered, self._opened, job.merge.decisions, settings.sheet,
                                settings.today, self.state, self._before)  # fmt: skip
        self.found.questions = people.questions + len(people.doubtful)
        self.found.damage = damage_in(
            gathered, people, self.names, self.state, job.again, settings.trusted,
            gathered.set_aside, self._before)  # fmt: skip
        for name in settings.unread - settings.trusted:
            self.found.damage.add(name, "cannot be read")
        self.found.columns = {name: dict(columns) for name, columns
                              in zip(self.names, gathered.columns, strict=True)
                              if name not in self.found.damage.why}  # fmt: skip
        began = self._stage("tell people apart", began)
        if watch is not None:
            watch("deciding", 0, len(gathered), 0)
        done = 0
        for person in everybody(people, len(gathered)):
            yield from self._person(person, tally)
            done += len(person.records)
            if watch is not None and not done % 500:
                watch("deciding", done, len(gathered), done)
        yield from self._missing()
        self._stage("decide and write", began)

    def _stage(self, name: str, began: float) -> float:
        now = time.monotonic()
        self.found.stages[name] = round(now - began, 2)
        return now

    def close(self) -> None:
        """Give back what was kept on disk meanwhile."""
        self.lines.__exit__()
        if self._gathering is not None:
            self._gathering.found.store.__exit__()

    # people who are in the sources

    def _person(self, person: Person, tally: Tally) -> Iterator[Contact]:
        gathered, people = self.found.gathered, self.found.people
        assert gathered is not None
        assert people is not None
        if any(at in people.doubtful for at in person.records) and not person.uid:
            self._hold_person(person, tally, "may be one of several who were there before")
            return
        known = self.state.digest(person.uid) if person.uid else None
        self._seen.add(person.uid)
        export = self.settings.export
        if known is not None and not self.settings.job_changed and not person.apart:
            told = [(self.names[gathered.owner[at]], gathered.digests[at]) for at in person.records]
            there = export is None or person.uid in export.same
            if (
                known == ("there", digest_of(told))
                and there
                and not any(at in people.replaced for at in person.records)
            ):
                size = sum(gathered.sizes[at] for at in person.records)
                self._count(AS_DELIVERED, tally, size, len(person.records))
                self.found.counts["the same"] += 1
                return
        kept = self.state.person(person.uid, self._before) if person.uid else None
        if kept is not None:
            person.stay = self._staying(person, kept)
        members, found = self._put_together(person, kept, tally)
        if kept is None:
            yield from self._new(found, members, tally)
        else:
            yield from self._known(person, kept, found, members, tally)

    def _count(self, reason: Reason, tally: Tally, values: int, records: int) -> None:
        """All values, and people, of somebody end alike."""
        tally.count(reason, values, people=1)
        if records > 1:
            tally.count(MERGED_PERSON, people=records - 1)

    def _hold_person(self, person: Person, tally: Tally, why: str) -> None:
        gathered = self.found.gathered
        assert gathered is not None
        size = sum(gathered.sizes[at] for at in person.records)
        self._count(PERSON_ASKED, tally, size, len(person.records))
        self.found.counts["held back"] += 1
        contact = gathered.contact(person.records[0])
        self.found.held.append(Row(person.uid, called(contact), why))

    def _staying(self, person: Person, kept: Kept) -> list[Member]:
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

    def _put_together(
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
            opened.append(self._opened[contact.source] if contact.source >= 0 else "")
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
        self.lines.put((line, self._as_result(found.contact)))
        self.found.lines += 1
        return tuple(members[n] for n in order), found.contact

    @staticmethod
    def _as_result(contact: Contact) -> list[object]:
        from roundcard.merge.contact_store import as_json

        return as_json(contact.properties)  # type: ignore[return-value]

    def _completed(
        self, uid: str, meant: Contact, members: Sequence[Member], first: str, tally: Tally
    ) -> Contact:
        """A person with the job's fixed values, and with their identity."""
        lead = members[0].contact
        opened = self._opened[lead.source] if 0 <= lead.source < len(self._opened) else ""
        words = {"date": first, "source": members[0].source, "file": opened, "job": self.job.name}
        for path, text in self.job.sets:
            said = filled(text, words)
            put(meant, path, said, added_by(Reason(Fate.ADDED, Why.SET, str(path), (said,))))
        own = meant.first("uid")
        if own is not None and identity(own.text) == identity(uid):
            return meant
        if own is not None:
            tally.count(MERGED_UID, sum(tally.read_of(p) for p in meant.all("uid")))
            meant.properties = [p for p in meant.properties if p.head.name != "uid"]
        meant.properties.append(Property(head("uid"), uid, added_by(OUR_UID)))
        return meant

    def _uid(self, members: Sequence[Member]) -> str:
        """The identity of a new person: the leading record's own, else one that is derived."""
        own = members[0].contact.first("uid")
        if own is not None and own.text.strip():
            said = own.text.strip()
            if said not in self._minted and self.state.digest(said) is None:
                self._minted.add(said)
                return said
        lead = members[0]
        made = uuid.uuid5(uuid.UUID(self.job.id), f"{lead.source}\n{lead.identity}")
        found = f"urn:uuid:{made}"
        number = 1
        while found in self._minted or self.state.digest(found) is not None:
            number += 1
            made = uuid.uuid5(uuid.UUID(self.job.id), f"{lead.source}\n{lead.identity}\n{number}")
            found = f"urn:uuid:{made}"
        self._minted.add(found)
        return found

    def _new(self, meant: Contact, members: tuple[Member, ...], tally: Tally) -> Iterator[Contact]:
        """Somebody who was never delivered."""
        export, to = self.settings.export, self.job.to
        uid = self._uid(members)
        meant = self._completed(uid, meant, members, self.settings.today, tally)
        there = export.theirs(meant, to) if export is not None else -1
        written, stands = meant, None
        if there >= 0 and export is not None:
            existing = self.job.deliver.existing
            if existing == "leave":
                self._count_of(meant, IN_THE_BOOK, tally)
                self.found.counts["there already, left"] += 1
                return
            if existing == "update":
                stands = export.contact(there)
                own = stands.first("uid")
                if own is not None and self.state.digest(own.text) is None:
                    uid = own.text
                    meant = self._completed(uid, meant, members, self.settings.today, tally)
                empty = Contact([])
                states = States(meant, empty, self._modelled(meant), empty, stands)
                policy = Again(conflict="source", edited_there="there")
                written = held_against(states, policy, self._origin, self.job.region).written
                self._drop(meant, written, 0, tally)
                self.found.counts["there already, updated"] += 1
            else:
                self.found.counts["there already, put beside"] += 1
        self.found.counts["new"] += there < 0
        current = _Current(uid, "new", None, meant, written, members, stands)
        yield from self._write(current)
        if current.sent is None:
            self.found.not_sent.append(Row(uid, called(meant), "lacks what the destination needs"))
            self.found.counts["not sent"] += 1
            return
        held = self._held_after(current)
        self._keep(current, Kept(meant, self._sent(current), held, members, self.settings.today))

    def _modelled(self, meant: Contact) -> Contact:
        sent = self.model.fitted(meant)
        return self.model.held(sent) if sent is not None else Contact([])

    def _sent(self, current: _Current) -> Contact | None:
        """How what is meant is sent: what later states are told from."""
        return current.sent if current.written is current.meant else self.model.fitted(
            current.meant)  # fmt: skip

    def _held_after(self, current: _Current) -> Contact | None:
        """What the destination will hold; None where that is told from what was sent."""
        if current.sent is None or current.written is current.meant:
            return None
        return self.model.held(current.sent)

    def _write(self, current: _Current) -> Iterator[Contact]:
        self.recorder.current = current
        yield Contact(list(current.written.properties), current.written.origin)
        self.recorder.current = None
        self.found.delivered += current.sent is not None

    def _keep(self, current: _Current, after: Kept | None, kind: Kind | None = None) -> None:
        self._place += 1
        made = Delivery(current.uid, kind or current.kind, current.before, after)
        self.state.deliver(self.run, self._place, made)

    def _origin(self, side: Side) -> int:
        return added_by(FROM_THERE if side == "there" else FROM_BEFORE)

    def _count_of(self, contact: Contact, reason: Reason, tally: Tally) -> None:
        """All that a person still says ends alike."""
        tally.count(reason, sum(map(tally.read_of, contact.properties)), people=1)

    @staticmethod
    def _drop(meant: Contact, written: Contact, held: int, tally: Tally) -> None:
        """Count what the source says and is not written, so many of it held back."""
        dropped = sum(map(tally.read_of, meant.properties)) - sum(
            map(tally.read_of, written.properties))  # fmt: skip
        waits = min(dropped, held)
        tally.count(VALUE_ASKED, waits)
        tally.count(STANDS_THERE, dropped - waits)

    # people who were delivered

    def _known(
        self, person: Person, kept: Kept, meant: Contact, members: tuple[Member, ...], tally: Tally
    ) -> Iterator[Contact]:
        export, again = self.settings.export, self.job.again
        uid = person.uid
        meant = self._completed(uid, meant, members, kept.first, tally)
        base = Kept(meant, kept.sent, kept.held, members, kept.first)
        source_changed = base.digest != kept.digest
        absent = export is not None and uid not in export.of
        if (kept.status == "away" and export is None) or absent:
            away = kept._replace(status="away", since=kept.since or self.settings.today)
            policy = again.conflict if source_changed else again.removed_there
            if policy != "source":
                yield from self._away(uid, kept, away, meant, policy, tally,
                                      changed=source_changed)  # fmt: skip
                return
            self.found.counts["sent again"] += 1
            current = _Current(uid, "changed", kept, meant, meant, members, None)
            yield from self._write(current)
            self._keep(current, base._replace(sent=current.sent, held=None))
            return
        sent = self.model.fitted(meant)
        if sent is None or kept.sent is None:
            yield from self._unfit(uid, kept, meant, members)
            return
        there = self._there(uid, kept)
        if kept.held is None:
            self.found.resting += 1
        states = States(meant, self.model.held(kept.sent), self.model.held(sent), kept.held, there)
        outcome = held_against(states, again, self._origin, self.job.region,
                               by_the_job=not source_changed,
                               answers=self._answers(uid))  # fmt: skip
        name = called(meant)
        if outcome.travels and export is None and not self.settings.blind:
            self._count_of(meant, BLIND, tally)
            self.found.counts["held back, written blind"] += 1
            self.found.held += [_row(uid, name, each, "not known what the destination holds")
                                for each in outcome.changes]  # fmt: skip
            return
        self._tell(uid, name, outcome, source_changed=source_changed)
        settled = self._settled(meant, kept, outcome)
        basis = self.model.fitted(settled) if settled is not meant else sent
        if not outcome.travels:
            held_values = sum(1 for each in outcome.held if each.source)
            size = sum(map(tally.read_of, meant.properties))
            tally.count(VALUE_ASKED, min(held_values, size))
            tally.count(AS_DELIVERED, size - min(held_values, size), people=1)
            held = there if export is not None and uid not in export.same else kept.held
            held = self._open(held, outcome)
            after = Kept(settled, basis, held, members, kept.first, asked=bool(outcome.held))
            if (
                source_changed
                or held is not kept.held
                or kept.status != "there"
                or (settled is not meant or self.settings.job_changed)
            ):
                current = _Current(uid, "noted", kept, settled, settled, members, there)
                self._keep(current, after)
                self.found.noted += 1
            return
        self._drop(meant, outcome.written, sum(1 for each in outcome.held if each.source), tally)
        current = _Current(uid, "changed", kept, settled, outcome.written, members, there)
        yield from self._write(current)
        if current.sent is None:
            self.found.not_sent.append(Row(uid, name, "lacks what the destination needs"))
            return
        held = None if outcome.written is settled else self.model.held(current.sent)
        held = self._open(held, outcome)
        self._keep(current, Kept(settled, basis, held, members, kept.first,
                                 asked=bool(outcome.held)))  # fmt: skip

    def _open(self, held: Contact | None, outcome: Outcome) -> Contact | None:
        """What is held there, with what waits for an answer left open."""
        if held is None or not outcome.waiting or self.settings.export is None:
            return held
        return still_open(held, outcome.waiting, added_by(FROM_THERE))

    def _unfit(
        self, uid: str, kept: Kept, meant: Contact, members: tuple[Member, ...]
    ) -> Iterator[Contact]:
        """Somebody whom the destination would refuse now: told, and left there as they are."""
        current = _Current(uid, "changed", kept, meant, meant, members, None)
        yield from self._write(current)
        self.found.not_sent.append(Row(uid, called(meant), "lacks what the destination needs"))
        self.found.counts["not sent"] += 1

    def _there(self, uid: str, kept: Kept) -> Contact | None:
        """What the destination holds of somebody now; None where that is not known."""
        export = self.settings.export
        if export is None:
            return None
        if uid in export.same:
            return self.model.of(kept)
        return export.contact(export.of[uid])

    def _away(
        self, uid: str, kept: Kept, away: Kept, meant: Contact, policy: Answer, tally: Tally, *,
        changed: bool,
    ) -> Iterator[Contact]:  # fmt: skip
        """Somebody who was removed at the destination."""
        if changed:
            self.found.values["conflict"] += 1
        what = "removed there" + (", and changed here" if changed else "")
        if policy == "ask":
            self._count_of(meant, PERSON_ASKED, tally)
            self.found.counts["held back"] += 1
            self.found.held.append(Row(uid, called(meant), what))
            return
        self._count_of(meant, AWAY_THERE, tally)
        self.found.counts["removed there"] += 1
        self.found.told.append(Row(uid, called(meant), what))
        if kept.status != "away":
            self._keep(_Current(uid, "noted", kept, meant, meant, kept.members, None), away)
            self.found.noted += 1
        yield from ()

    def _answers(self, uid: str) -> Callable[[Change], Answer | None]:
        said = self.settings.answers
        return lambda change: said.get((uid, change.path, change.source))

    def _tell(self, uid: str, name: str, outcome: Outcome, *, source_changed: bool) -> None:
        """Count what became of a known person."""
        kinds = {change.kind for change in outcome.changes}
        counts = self.found.counts
        for change in outcome.changes:
            self.found.values[change.kind] += 1
            row = _row(uid, name, change, change.kind)
            if change.held:
                self.found.held.append(row)
            elif change.taken == "source" and change.kind != "same now":
                self.found.changed.append(row)
                if change.kind in ("cleared", "removed") and self.job.to.on_import.empty_cell != (
                    "clears"
                ):
                    self.found.by_hand.append(row)
            elif change.kind in ("edited there", "conflict"):
                self.found.told.append(row)
        if outcome.travels:
            counts["changed" if source_changed else "changed by the job"] += 1
        else:
            counts["the same"] += 1
        counts["edited there"] += "edited there" in kinds
        counts["in conflict"] += "conflict" in kinds
        counts["with values held back"] += bool(outcome.held)

    @staticmethod
    def _settled(meant: Contact, kept: Kept, outcome: Outcome) -> Contact:
        """What counts as meant from now on: of values that are held back what was meant before, so
        that they are asked about again."""
        waiting = {(change.slot, change.use, change.source, change.before)
                   for change in outcome.held}  # fmt: skip
        if not waiting:
            return meant
        old, now = items_of(kept.meant), items_of(meant)
        texts_now = {(slot, text) for slot, _, text, _ in waiting if text}
        texts_old = {(slot, text) for slot, _, _, text in waiting if text}
        without = [item for item in now if (item.slot, item.text) in texts_now]
        more = [(item, added_by(FROM_BEFORE)) for item in old
                if (item.slot, item.text) in texts_old]  # fmt: skip
        return put_together(meant, without, more)

    # people who are not in the sources any more

    def _missing(self) -> Iterator[Contact]:
        """Who is not in the sources: gone, merged into somebody else, or kept as they were."""
        people, export = self.found.people, self.settings.export
        assert people is not None
        frozen = set(self.found.damage.why)
        for uid in list(self.state.uids()):
            if uid in self._seen and uid not in people.merged:
                continue
            kept = self.state.person(uid, self._before)
            if kept is None:
                continue
            name = called(kept.meant)
            current = _Current(uid, "gone", kept, kept.meant, kept.meant, kept.members, None)
            if uid in people.merged:
                elder = people.merged[uid]
                self.found.counts["merged since"] += 1
                self.found.removals.append(Removal(uid, kept.meant, f"merged into {elder}",
                                                   self.settings.today))  # fmt: skip
                self._keep(current, None, "merged")
                continue
            waits = any((m.source, m.identity) in people.claimed for m in kept.members)
            if any(m.source in frozen for m in kept.members) or waits:
                self.found.counts["kept as they were"] += 1
                continue
            if kept.status == "away" or (export is not None and uid not in export.of):
                self.found.counts["gone, and removed there"] += 1
                self._keep(current, None)
                continue
            self._gone(uid, name, kept, current)
        yield from ()

    def _gone(self, uid: str, name: str, kept: Kept, current: _Current) -> None:
        export, gone = self.settings.export, self.job.again.gone
        self.found.counts["gone"] += 1
        if export is not None and uid not in export.same:
            self.found.values["conflict"] += 1
            self.found.held.append(Row(uid, name, "gone from the sources, and edited there"))
            return
        since = kept.since if kept.status == "gone" else self.settings.today
        if gone != "keep":
            self.found.removals.append(Removal(uid, kept.meant, "gone from the sources", since))
        if gone == "remove":
            self._keep(current, None)
        elif kept.status != "gone":
            self._keep(current, kept._replace(status="gone", since=since),
                       "gone" if gone == "list" else "noted")  # fmt: skip
            self.found.noted += 1


def _row(uid: str, name: str, change: Change, what: str) -> Row:
    return Row(uid, name, what, change.path, change.before, change.source, change.there)


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
