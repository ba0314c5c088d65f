"""The desk at which it is decided about people: what all parts of deciding share.

Who is written goes through it to the fitting and back; what is kept of people goes through it into
the state; what becomes of values is counted here.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from roundcard.books.hidden import AtomicFile
from roundcard.books.transaction import Stream
from roundcard.card.contact import Contact, Property
from roundcard.card.equality import identity
from roundcard.card.head import head
from roundcard.card.names import called
from roundcard.jobs.found import Found
from roundcard.jobs.gather import filled
from roundcard.jobs.kept import Kept, Member
from roundcard.jobs.model import Answer, Job
from roundcard.jobs.state import Delivery, Kind, Run, State
from roundcard.jobs.there import Export, Model
from roundcard.jobs.three_way import Side
from roundcard.match.sheet_decisions import MatchSheet
from roundcard.merge.merge_step import MERGED_PERSON
from roundcard.merge.policy import Policy
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
_BLOCK = 500
OUR_UID = Reason(Fate.ADDED, Why.IDENTITY, "uid")


@dataclass(slots=True)
class Current:
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
        self.current: Current | None = None

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


class Desk:
    """What all parts of deciding share."""

    def __init__(self, job: Job, state: State, run: Run, settings: Settings) -> None:
        self.job = job
        self.state = state
        self.run = run
        self.settings = settings
        self.model = Model(job.to, job.region)
        self.recorder = Recorder()
        self.found = Found()
        self.before = number_of(FROM_BEFORE)
        """Why values are added that stood before, by the reason's number."""
        self.opened: list[str] = []
        """The names of the opened sources."""
        self.uid, self.became = "", ""
        """Who was decided about last, and what became of them."""
        self.people: AtomicFile | Stream | None = None
        """Where it is listed what became of whom, a line of JSON each."""
        self._lines: list[str] = []
        self._place = 0

    def completed(
        self, uid: str, meant: Contact, members: Sequence[Member], first: str, tally: Tally
    ) -> Contact:
        """A person with the job's fixed values, and with their identity."""
        lead = members[0].contact
        opened = self.opened[lead.source] if 0 <= lead.source < len(self.opened) else ""
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

    def write(self, current: Current) -> Iterator[Contact]:
        """Give somebody to the fitting; afterwards `Current.sent` says how they are sent."""
        self.recorder.current = current
        yield Contact(list(current.written.properties), current.written.origin)
        self.recorder.current = None
        if current.sent is None:
            return
        self.found.delivered += 1
        if not any(p.head.name in ("email", "tel") and p.size() for p in current.sent.properties):
            self.found.unreachable.append(called(current.sent))

    def keep(self, current: Current, after: Kept | None, kind: Kind | None = None) -> None:
        """Keep what is to count of somebody once the run is confirmed."""
        self._place += 1
        made = Delivery(current.uid, kind or current.kind, current.before, after)
        self.state.deliver(self.run, self._place, made)

    def begin(self) -> None:
        """All is decided anew."""
        self.state.drop_deliveries(self.run)
        self._lines = []
        if self.people is not None:
            self.people.restart()

    def listed(self, records: Sequence[tuple[str, int]] = ()) -> None:
        """List what became of whom it was decided about last; `records` are theirs."""
        made = {"uid": self.uid, "is": self.became, "records": records}
        self._lines.append(json.dumps(made, ensure_ascii=False, separators=(",", ":")))
        if len(self._lines) >= _BLOCK:
            self.end()

    def end(self) -> None:
        """Write what is still held of the list."""
        if self.people is not None and self._lines:
            self.people.write(("\n".join(self._lines) + "\n").encode("utf-8", "replace"))
        self._lines = []

    @staticmethod
    def origin(side: Side) -> int:
        """The origin of a value that no source says now."""
        return added_by(FROM_THERE if side == "there" else FROM_BEFORE)

    @staticmethod
    def count_of(contact: Contact, reason: Reason, tally: Tally) -> None:
        """All that a person still says ends alike."""
        tally.count(reason, sum(map(tally.read_of, contact.properties)), people=1)

    @staticmethod
    def drop(meant: Contact, written: Contact, held: int, tally: Tally) -> None:
        """Count what the source says and is not written, so many of it held back."""
        dropped = sum(map(tally.read_of, meant.properties)) - sum(
            map(tally.read_of, written.properties))  # fmt: skip
        waits = min(dropped, held)
        tally.count(VALUE_ASKED, waits)
        tally.count(STANDS_THERE, dropped - waits)

    @staticmethod
    def count(reason: Reason, tally: Tally, values: int, records: int) -> None:
        """All values, and people, of somebody end alike."""
        tally.count(reason, values, people=1)
        if records > 1:
            tally.count(MERGED_PERSON, people=records - 1)
