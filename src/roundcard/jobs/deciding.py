"""The heart of a run: of all records of the sources, whom the destination is to get, and how.

It stands between reading and writing (`Plan.supply`): the sources are read once, people are told
and put together, held against what was delivered and against what the destination holds, and who is
new or changed goes on to be fitted and written. What becomes of everybody else is counted.
"""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence

from roundcard.books.pipeline import Step
from roundcard.books.plan import Watch
from roundcard.books.source_reader import Reading
from roundcard.card.contact import Contact
from roundcard.card.names import called
from roundcard.jobs.damage import damage_in
from roundcard.jobs.desk import AS_DELIVERED, PERSON_ASKED, Desk, Settings
from roundcard.jobs.found import Row
from roundcard.jobs.gather import Gathered, Gathering
from roundcard.jobs.kept import digest_of
from roundcard.jobs.known import Known
from roundcard.jobs.missing import Missing
from roundcard.jobs.model import Job
from roundcard.jobs.newcomers import Newcomers
from roundcard.jobs.state import Run, State
from roundcard.jobs.together import Together
from roundcard.jobs.who import People, Person, everybody, put_together, recognised
from roundcard.tally import Tally


class Deciding:
    """Decides who is written, and keeps in the state what was decided."""

    def __init__(self, job: Job, state: State, run: Run, settings: Settings) -> None:
        self.desk = Desk(job, state, run, settings)
        self.found = self.desk.found
        self.recorder = self.desk.recorder
        self.names = [source.name for source in job.sources]
        self.together = Together(self.desk, self.names)
        self.newcomers = Newcomers(self.desk)
        self.known = Known(self.desk)
        self._seen: set[str] = set()
        self._gathering: Gathering | None = None

    def __call__(
        self, readings: Sequence[Reading], steps: Sequence[Step], tally: Tally, watch: Watch | None
    ) -> Iterator[Contact]:
        """Whom to write; see `roundcard.books.plan.Supply`."""
        desk = self.desk
        desk.begin()
        desk.opened = [reading.source.name for reading in readings]
        began = time.monotonic()
        gathered = self._gathered(readings, steps, tally, watch)
        began = self._stage("read", began)
        people = self._people(gathered)
        began = self._stage("tell people apart", began)
        done = 0
        for person in everybody(people, len(gathered)):
            desk.uid = person.uid
            yield from self._person(person, gathered, people, tally)
            desk.listed([(desk.opened[gathered.opened[at]], gathered.records[at])
                         for at in person.records])  # fmt: skip
            done += len(person.records)
            if watch is not None and not done % 500:
                watch("deciding", done, len(gathered), done)
        Missing(desk)(self._seen)
        desk.end()
        self._stage("decide and write", began)

    def _gathered(
        self, readings: Sequence[Reading], steps: Sequence[Step], tally: Tally, watch: Watch | None
    ) -> Gathered:
        """All records of the sources, read once."""
        job, settings = self.desk.job, self.desk.settings
        fill = {"date": settings.today, "job": job.name}
        self._gathering = Gathering(
            job.sources, settings.owners, job.merge is not None, job.region, fill
        )
        self.found.gathered = self._gathering.read(readings, steps, tally, watch)
        return self.found.gathered

    def _people(self, gathered: Gathered) -> People:
        """Who they are, who is the same, and which sources look damaged."""
        desk, job, settings = self.desk, self.desk.job, self.desk.settings
        people = recognised(gathered, self.names, desk.state, job.region, desk.before)
        self.found.people = people
        if job.merge is not None:
            put_together(people, gathered, desk.opened, job.merge.decisions, settings.sheet,
                         settings.today, desk.state, desk.before)  # fmt: skip
        self.found.questions = people.questions + len(people.doubtful)
        damage = damage_in(gathered, people, self.names, desk.state, job.again, settings.trusted,
                           gathered.set_aside, desk.before)  # fmt: skip
        for name in settings.unread - settings.trusted:
            damage.add(name, "cannot be read")
        self.found.damage = damage
        self.found.columns = {name: dict(columns) for name, columns
                              in zip(self.names, gathered.columns, strict=True)
                              if name not in damage.why}  # fmt: skip
        return people

    def _stage(self, name: str, began: float) -> float:
        now = time.monotonic()
        self.found.stages[name] = round(now - began, 2)
        return now

    def close(self) -> None:
        """Give back what was kept on disk meanwhile."""
        self.together.lines.__exit__()
        if self._gathering is not None:
            self._gathering.found.store.__exit__()

    def _person(
        self, person: Person, gathered: Gathered, people: People, tally: Tally
    ) -> Iterator[Contact]:
        """Whether somebody is written, and how."""
        desk = self.desk
        size = sum(gathered.sizes[at] for at in person.records)
        if not person.uid and any(at in people.doubtful for at in person.records):
            desk.count(PERSON_ASKED, tally, size, len(person.records))
            desk.found.counts["held back"] += 1
            desk.became = "held back: it is asked who they are"
            name = called(gathered.contact(person.records[0]))
            desk.found.held.append(Row("", name, "may be one of several who were there before"))
            return
        self._seen.add(person.uid)
        if self._as_delivered(person, gathered, people):
            desk.count(AS_DELIVERED, tally, size, len(person.records))
            desk.found.counts["the same"] += 1
            desk.became = "the same"
            return
        kept = desk.state.person(person.uid, desk.before) if person.uid else None
        if kept is not None:
            person.stay = self.together.staying(person, kept)
        members, found = self.together(person, kept, tally)
        if kept is None:
            yield from self.newcomers(found, members, tally)
        else:
            yield from self.known(person, kept, found, members, tally)

    def _as_delivered(self, person: Person, gathered: Gathered, people: People) -> bool:
        """Whether nothing can be new of somebody: their records, the job and the destination are
        as they were."""
        settings = self.desk.settings
        if not person.uid or settings.job_changed or person.apart:
            return False
        if settings.export is not None and person.uid not in settings.export.same:
            return False
        if any(at in people.replaced for at in person.records):
            return False
        told = [(self.names[gathered.owner[at]], gathered.digests[at]) for at in person.records]
        return self.desk.state.digest(person.uid) == ("there", digest_of(told))
