"""The life of a person, or of one value, through a run: told from what the run kept, and from its
sources, as long as they are what they were."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from dataclasses import field as made_by
from functools import partial
from typing import Any

from roundcard.books.plan import Plan
from roundcard.books.source import Source
from roundcard.card.contact import Contact, flat
from roundcard.card.equality import folded, identity
from roundcard.card.names import called
from roundcard.errors import JobError, SourceError
from roundcard.formats.sheets import unguarded
from roundcard.jobs.desk import FROM_BEFORE
from roundcard.jobs.folder import MANIFEST, OUTBOX, PEOPLE, SHEET, digest_of_file
from roundcard.jobs.items import Item, items_of
from roundcard.jobs.model import Job
from roundcard.jobs.state import State
from roundcard.jobs.there import Model
from roundcard.layouts.model import Layout
from roundcard.merge.record import read_record
from roundcard.survey.preview import Looked, Record, looked_for
from roundcard.tally import Tally
from roundcard.tally.reasons import number_of
from roundcard.values.phones import same_number

MOST = 25
"""People who are told of at once."""


@dataclass(slots=True)
class Step:
    """What a rule made of a value, or doubted."""

    rule: str
    before: str
    after: str
    doubt: str = ""


@dataclass(slots=True)
class Value:
    """One value of a record, and where it ended."""

    place: str
    """The heading of its column, or its line."""
    cell: str
    """As it stood there."""
    field: str
    value: str
    """As it was read."""
    ends: str = ""
    steps: list[Step] = made_by(default_factory=list)


@dataclass(slots=True)
class Origin:
    """A record of a source."""

    source: str
    record: int
    line: int
    values: list[Value] = made_by(default_factory=list)
    name: str = ""
    state: str = ""


@dataclass(slots=True)
class Life:
    """What became of somebody."""

    uid: str
    name: str
    became: str
    """What the run decided of them."""
    records: list[Origin] = made_by(default_factory=list)
    merged: list[str] = made_by(default_factory=list)
    """By which records they came together, and why."""
    outbox: str = ""
    """The file, and which record of it, where they stand in it."""
    written: list[tuple[str, str]] = made_by(default_factory=list)
    """Field and value, as they stand there."""
    waits: list[str] = made_by(default_factory=list)
    stays: list[str] = made_by(default_factory=list)
    """What the destination keeps as it has it."""
    left: list[str] = made_by(default_factory=list)
    holds: list[tuple[str, str]] = made_by(default_factory=list)
    """What the destination held after the last delivery, as far as that is known."""


@dataclass(slots=True)
class Trace:
    """What was found for some words."""

    run: str
    stands: str
    lives: list[Life] = made_by(default_factory=list)
    notes: list[str] = made_by(default_factory=list)
    more: int = 0


def trace(job: Job, name: str, words: str, kept: Sequence[Layout] = ()) -> Trace:
    """The lives of those in whose records all words stand, or whose UID it is.

    Raises `JobError`, `SourceError` and `LayoutError`.
    """
    return _Tracing(job, name, words.split(), kept).run()


class _Tracing:
    def __init__(self, job: Job, name: str, words: Sequence[str], kept: Sequence[Layout]) -> None:
        self.job = job
        self.folder = job.runs / name
        self.said = words
        self.words = [folded(word) for word in words]
        self.kept = kept
        try:
            self.manifest = json.loads((self.folder / MANIFEST).read_text("utf-8"))
        except (OSError, ValueError):
            raise JobError(f"{self.folder}: has no {MANIFEST}; the run wrote nothing") from None
        with State(job.state, job.id) as state:
            run = next((each for each in state.runs() if each.folder == name), None)
        if run is None:
            raise JobError(f"{name}: the state of the job does not know this run")
        self.found = Trace(name, run.status)
        self.books: dict[str, Source] = {}
        self.layouts: dict[str, list[Layout]] = {}
        self.records: dict[tuple[str, int], Record] = {}
        self.places: set[tuple[str, str]] = set()
        """The records of those who are told of, as lists name them."""
        self.lists: dict[str, list[dict[str, str]]] = {}

    def run(self) -> Trace:
        """Find them, and tell."""
        self._open()
        records = [(name, record) for name, source in self.books.items()
                   for record in self._looked_for(name, source, self._holds)]  # fmt: skip
        uids = {identity(" ".join(self.said))}
        if self.found.notes:  # a source cannot be asked any more
            uids |= {identity(uid) for uid in self._outbox(None)}
        lines = list(self._people({(name, record.number) for name, record in records}, uids))
        of = {place: line for line in lines for place in line["records"]}
        told: list[dict[str, Any]] = []
        alone: list[Origin] = []
        for name, record in records:
            line = of.get((name, record.number))
            if line is None:
                alone.append(_origin(name, record))
            elif line not in told:
                told.append(line)
        told += [line for line in lines if line not in told]
        self.found.more = max(len(told) + len(alone) - MOST, 0)
        self._read([place for line in told[:MOST] for place in line["records"]])
        self.places = {(source, str(number)) for line in told[:MOST]
                       for source, number in line["records"]}  # fmt: skip
        self.places |= {(each.source, str(each.record)) for each in alone[:MOST]}
        outbox = self._outbox({line["uid"] for line in told[:MOST]})
        for line in told[:MOST]:
            self.found.lives.append(self._life(line, outbox))
        for origin in alone[: MOST - len(self.found.lives)]:
            self.found.lives.append(self._alone(origin))
        self.found.lives += self._set_aside()
        return self.found

    def _set_aside(self) -> Iterator[Life]:
        """Records that could not be read, and in which the words stand."""
        told = {(each.source, each.line) for life in self.found.lives for each in life.records}
        for path in sorted(self.folder.glob("*.set-aside.csv")):
            for row in self._rows(path.name):
                held = row.get("what it held", "")
                line = int(row["line"]) if row.get("line", "").isdecimal() else 0
                if not self._holds(0, lambda held=held: held) or (row["source"], line) in told:  # type: ignore[misc]
                    continue
                record = int(row["record"]) if row.get("record", "").isdecimal() else 0
                became = f"set aside: {row.get('reason', '')}"
                value = Value(f"line {line:,}", held, "", held, became)
                origin = Origin(row["source"], record, line, [value], state=became)
                yield Life("", " ".join(held.split())[:60], became, [origin])

    def _holds(self, _: int, text: Callable[[], str]) -> bool:
        said = folded(text())
        return all(word in said for word in self.words)

    def _looked_for(self, name: str, source: Source, wanted: Looked) -> Iterator[Record]:
        return looked_for(source, self.layouts[name], self.kept, wanted)

    def _read(self, places: Sequence[tuple[str, int]]) -> None:
        """Read all records of those who are told of."""
        for name, source in self.books.items():
            numbers = {number for each, number in places if each == name}
            if numbers:
                found = self._looked_for(name, source, lambda number, _, n=numbers: number in n)  # type: ignore[misc]
                self.records |= {(name, record.number): record for record in found}

    # what the run kept

    def _people(
        self, places: set[tuple[str, int]], uids: Collection[str]
    ) -> Iterator[dict[str, Any]]:
        """What became of those who have records in some places, or have some UIDs."""
        path = self.folder / PEOPLE
        if not path.is_file():
            raise JobError(f"{path}: not found; the run kept no list of its people")
        with path.open(encoding="utf-8") as stream:
            for line in stream:
                made = json.loads(line)
                made["records"] = [(str(source), int(record)) for source, record in made["records"]]
                if identity(made["uid"]) in uids or not places.isdisjoint(made["records"]):
                    yield made

    def _rows(self, name: str) -> Iterator[dict[str, str]]:
        path = self.folder / name
        if not path.is_file():
            return
        with path.open(newline="", encoding="utf-8-sig") as stream:
            for row in csv.DictReader(stream):
                yield {key: unguarded(value or "") for key, value in row.items() if key}

    def _theirs(self, name: str) -> list[dict[str, str]]:
        """The rows of a list that speak of records of those who are told of, or of no record; read
        once."""
        if name not in self.lists:
            self.lists[name] = [
                row for row in self._rows(name)
                if "record" not in row or (row.get("source", ""), row["record"]) in self.places
            ]  # fmt: skip
        return self.lists[name]

    def _outbox(self, uids: Collection[str] | None) -> dict[str, tuple[str, Contact]]:
        """Whom of some people the run wrote, by UID, with where they stand; without `uids` those of
        whom the words speak."""
        found: dict[str, tuple[str, Contact]] = {}
        for name in sorted(self.manifest.get("files", {})):
            path = self.folder / name
            if not name.startswith(f"{OUTBOX}/for-") or not path.is_file():
                continue
            plan = Plan.of(str(path), "")
            if self.job.to.layout is not None:
                plan.layouts, plan.where_they_fit = [self.job.to.layout], True
            model = Model(self.job.to, self.job.region)
            for reading in plan.readings(Tally()):
                for contact in reading.contacts():
                    uid = contact.first("uid")
                    if uid is None:
                        continue
                    texts = partial(" ".join, [prop.text for prop in contact.properties])
                    if uid.text in uids if uids is not None else self._holds(0, texts):
                        where = f"{name}, record {contact.record}"
                        found[uid.text] = (where, model.read(contact))
        return found

    # the sources

    def _open(self) -> None:
        """Open the sources, as long as they are what they were; or their copies."""
        layouts = {source.name: source.layout for source in self.job.sources}
        for at, told in enumerate(self.manifest.get("sources", []), 1):
            name = str(told["file"])
            there = self.folder / str(told.get("path", name))
            copy = self.folder / "sources" / f"{at}-{there.name}"
            path = copy if copy.is_file() else there
            try:
                if path is not copy and digest_of_file(path) != told["digest"]:
                    raise SourceError(f"{name}: changed since the run")
                opened = Source(str(path))
            except SourceError as error:
                self.found.notes.append(f"{error}; of it only what the run kept is told")
                continue
            layout = layouts.get(str(told["source"]))
            fitting = [layout] if layout is not None else []
            self.books[name], self.layouts[name] = opened, fitting

    # lives

    def _life(self, line: dict[str, Any], outbox: dict[str, tuple[str, Contact]]) -> Life:
        uid = str(line["uid"])
        where, written = outbox.get(uid, ("", Contact([])))
        life = Life(uid, called(written) if written.properties else "", str(line["is"]))
        life.outbox = where
        items = items_of(written)
        life.written = [(_path(item), item.text) for item in items]
        for source, number in line["records"]:
            record = self.records.get((source, number))
            life.records.append(_origin(source, record) if record is not None
                                else Origin(source, number, 0))  # fmt: skip
        life.name = life.name or next((each.name for each in life.records if each.name), "")
        self._merges(life)
        self._lists(life)
        for origin in life.records:
            self._changes(origin)
            for value in origin.values:
                value.ends = self._ends(value, origin, life, items)
        self._state(life)
        life.name = life.name or uid
        return life

    def _alone(self, origin: Origin) -> Life:
        """A record that became nobody: left out, blank, or unreadable."""
        self._changes(origin)
        became = origin.state or "left out by a condition of the job"
        for value in origin.values:
            value.ends = became
        return Life("", origin.name, became, [origin])

    def _merges(self, life: Life) -> None:
        places = {(each.source, each.record) for each in life.records}
        if len(places) < 2:
            return
        for row in self._theirs(SHEET):
            number = int(row["record"]) if row.get("record", "").isdecimal() else 0
            if (row.get("source", ""), number) in places and row.get("reasons"):
                word = "asked about" if row.get("verdict") == "ask" else "the same"
                life.merged.append(f"{row['source']}:{number} {word}: {row['reasons']}")
        path = self.folder / "merges.jsonl"
        for merge in read_record(path) if path.is_file() else ():
            if {(each.source, each.record) for each in merge.originals} == places:
                for each in merge.told.get("not_taken", ()):
                    life.left.append(f"{each['field']} '{each['value']}': {each['why']}")

    def _lists(self, life: Life) -> None:
        """What waits for an answer, stays as the destination has it, had no room."""
        for name, into in (("held-back.csv", life.waits), ("kept-there.csv", life.stays),
                           ("not-sent.csv", life.waits)):  # fmt: skip
            into += [_said(row) for row in self._theirs(name) if row.get("uid") == life.uid]
        places = {(each.source, str(each.record)) for each in life.records}
        life.left += [f"{row['field']} '{row['value']}': {row['reason']}"
                      for row in self._theirs("left-behind.csv")
                      if (row.get("source", ""), row.get("record", "")) in places]  # fmt: skip

    def _changes(self, origin: Origin) -> None:
        """What the rules made of each value, in order."""
        for row in self._theirs("changes.csv"):
            if (row["source"], row["record"]) != (origin.source, str(origin.record)):
                continue
            step = Step(row["rule"], row["before"], row["after"], row["doubt"])
            for value in origin.values:
                now = value.steps[-1].after if value.steps else value.value
                if step.before in (now, value.value, value.cell) and _alike(row["field"], value):
                    value.steps.append(step)
                    break

    def _ends(self, value: Value, origin: Origin, life: Life, items: Sequence[Item]) -> str:
        """Where a value ended."""
        if value.field.startswith("("):
            return value.field.strip("()")
        if value.field == "uid" and life.outbox:
            own = value.value == life.uid
            return "in the outbox, as uid" if own else "the identity of a record that was merged"
        now = next((step.after for step in reversed(value.steps) if step.after), value.value)
        texts = {folded(now), folded(value.value)}
        kin = value.field.partition("/")[0]
        for item in sorted(items, key=lambda each: each.slot.partition("/")[0] != kin):
            near = item.slot == kin != "name"
            alike = item.slot == kin == "phone" and same_number(item.text, now, self.job.region)
            if alike or folded(item.text) in texts or (near and texts & _parts(item)):
                return f"in the outbox, as {_path(item)}"
        named = kin == "name" and bool(items) and bool(life.name)
        if named and set(folded(now).split()) & set(folded(life.name).split()):
            return f"in the outbox, in the name {life.name}"
        for row in (*life.waits, *life.left):
            if f"'{now}'" in row or f"'{value.value}'" in row:
                return row.partition(": ")[2] or row
        alone = sum(each.field == value.field for each in origin.values) == 1
        for listed in self._theirs("left-behind.csv") if alone else ():
            place = (listed.get("source", ""), listed.get("record", ""), listed["field"])
            if place == (origin.source, str(origin.record), value.field):
                return listed["reason"]
        if any(step.doubt and not step.after for step in value.steps):
            return "dropped by a rule"
        if life.outbox:
            others = [each for each in life.records if each is not origin]
            if any(folded(other.value) in texts for each in others for other in each.values):
                return "said by another record of theirs"
            return f"in the outbox, {f'spelled {life.name}' if named else 'in another form'}"
        return life.became

    def _state(self, life: Life) -> None:
        """What the destination holds of them, as far as the state knows."""
        if not life.uid:
            return
        with State(self.job.state, self.job.id) as state:
            kept = state.person(life.uid, number_of(FROM_BEFORE))
        if kept is not None:
            life.name = life.name or called(kept.meant)
            held = Model(self.job.to, self.job.region).of(kept)
            life.holds = [(_path(item), item.text) for item in items_of(held)]


def _origin(source: str, record: Record) -> Origin:
    values = [Value(line.name, line.cell, line.path, line.value) for line in record.lines
              if line.cell.strip() or line.value]  # fmt: skip
    return Origin(source, record.number, record.place, values, record.name, record.state)


def _path(item: Item) -> str:
    head, slash, part = item.slot.partition("/")
    if item.use and head != "custom":
        return f"{head}/{item.use}{slash}{part}"
    return item.slot


def _parts(item: Item) -> set[str]:
    """The components of a structured value."""
    return {folded(text) for text in flat(item.prop.components)}


def _said(row: dict[str, str]) -> str:
    told = f"{row['field']} '{row['before']}' → '{row['source']}'" if row.get("field") else ""
    return f"{told}: {row['what']}" if told else row["what"]


def _alike(path: str, value: Value) -> bool:
    """Whether a change of a field may be one of a value."""
    return path.partition("/")[0] == value.field.partition("/")[0] or not value.field
