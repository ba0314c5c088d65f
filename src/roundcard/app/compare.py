"""Comparing two books: who is new, gone, changed, value by value."""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple

from roundcard import formats
from roundcard.books.conversion import convert_into
from roundcard.books.hidden import spare_originals
from roundcard.books.options import ReadOptions
from roundcard.books.pipeline import Step
from roundcard.books.plan import Plan, Watch
from roundcard.books.sheets import RowSheet, demand_sheet
from roundcard.books.source import STANDARD, Source, sources_of
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.card.names import called
from roundcard.card.origin import unpack
from roundcard.compare.pairing import How, Pair, Pairing, Side
from roundcard.compare.values import Difference, differences, digest_of, said_by, spelling_of
from roundcard.destinations.fitting import Fit
from roundcard.destinations.model import Destination
from roundcard.destinations.rewrites import Rewriting
from roundcard.destinations.take_back import TakeBack
from roundcard.errors import UsageError
from roundcard.merge.contact_store import Store
from roundcard.tally import Fate, Reason, Tally, Why

HEADINGS = ["person", "what", "field", "before", "after", "paired by", "old record", "new record"]
MOST_SHOWN = 8
"""People who are shown side by side."""
_MOST_NAMES = 200
"""Of people who are new or gone so many are named."""
_WEIGHTS = {"removed": 3, "changed": 3, "added": 2, "moved": 1, "spelled": 0}


@dataclass(frozen=True, slots=True)
class ComparePlan:
    """What to compare, and how."""

    old: str | Path
    new: str | Path
    read: ReadOptions = ReadOptions()
    to: Destination | None = None
    """The service that holds the new book: what it does to values is taken as equal."""
    region: str = ""
    decisions: Path | None = None
    sheet: Path | None = None
    """Where each difference is listed."""
    new_people: Path | None = None
    changed_people: Path | None = None
    gone_people: Path | None = None
    force: bool = False


class Person(NamedTuple):
    """Somebody who is told of."""

    name: str
    how: How | None
    """By what the pair is told; None for who is new or gone."""
    old: tuple[int, int] | None
    """Source and record."""
    new: tuple[int, int] | None
    differences: tuple[Difference, ...] = ()


@dataclass(slots=True)
class CompareReport:
    """What a comparison found."""

    names: list[str]
    """The sources' names, those of the old book first."""
    olds: int
    """How many of them are the old book's."""
    old_people: int = 0
    new_people: int = 0
    same: int = 0
    new: int = 0
    gone: int = 0
    changed: int = 0
    spelled: int = 0
    """People of whom something is spelled otherwise, and nothing changed."""
    ways: dict[How, int] = field(default_factory=dict)
    fields: dict[str, Counter[str]] = field(default_factory=dict)
    """By field how many values were added, removed, changed, moved, spelled otherwise."""
    taken: Counter[str] = field(default_factory=Counter)
    """By field how many differences were taken as equal, since the service makes them."""
    taken_shown: list[tuple[str, Difference]] = field(default_factory=list)
    shown: list[Person] = field(default_factory=list)
    new_named: list[Person] = field(default_factory=list)
    gone_named: list[Person] = field(default_factory=list)
    files: list[Path] = field(default_factory=list)

    @property
    def differs(self) -> bool:
        """Whether the books differ in more than spelling."""
        return bool(self.new or self.gone or self.changed)


def compare_books(wanted: ComparePlan, watch: Watch | None = None) -> CompareReport:
    """Compare two books; nothing is changed but what sheet and books of people ask for.

    Raises `SourceError`, `LayoutError`, `PlanError`, `UsageError` and `TargetError`.
    """
    return _Comparison(wanted, watch).run()


class _Comparison:
    def __init__(self, wanted: ComparePlan, watch: Watch | None) -> None:
        self.wanted = wanted
        self.watch = watch
        if str(wanted.old) == str(wanted.new) == STANDARD:
            raise UsageError("standard input can be read only once")
        self.olds = self._open(wanted.old)
        self.news = self._open(wanted.new)
        self.sources = [*self.olds, *self.news]
        self.plan = self._plan(self.sources)
        to = wanted.to
        self.fits = {table: Fit(to, table=table, region=wanted.region)
                     for table in (True, False)} if to is not None else {}  # fmt: skip
        self.rewrite = Rewriting(to, wanted.region) if to is not None else None
        self.back = TakeBack(to) if to is not None and to.overflow is not None else None
        self.old_side, self.new_side = Side(to), Side(to)
        names = [source.name for source in self.sources]
        self.report = CompareReport(names, len(self.olds))

    def _open(self, name: str | Path) -> list[Source]:
        read = self.wanted.read
        return sources_of([str(name)], read.stdin, read.how)

    def _plan(self, sources: list[Source]) -> Plan:
        read, to = self.wanted.read, self.wanted.to
        plan = Plan.of([source.name for source in sources], "", read)
        plan.opened = sources
        if to is not None and to.layout is not None:
            plan.layouts, plan.where_they_fit = [*plan.layouts, to.layout], True
        return plan

    def run(self) -> CompareReport:
        """Do it all."""
        wanted = self.wanted
        targets = (wanted.sheet, wanted.new_people, wanted.changed_people, wanted.gone_people)
        with Transaction(next((each for each in targets if each is not None), None)) as files:
            if wanted.sheet is not None:
                demand_sheet(wanted.sheet, "--sheet")
            for path in targets:
                if path is not None:
                    spare_originals(path, (each.path for each in self.sources))
            self._look()
            pairing = Pairing(self.old_side, self.new_side)
            pairing.surely()
            self._likely(pairing)
            sheet = None
            if wanted.sheet is not None:
                sheet = RowSheet(files, wanted.sheet, "differences", HEADINGS, force=wanted.force)
            changed = self._compare(pairing, sheet)
            self._alone(pairing, sheet)
            if sheet is not None:
                sheet.end()
                self.report.files.append(sheet.path)
            self._books(files, pairing, changed)
            files.commit()
        self.report.ways = dict(pairing.ways())
        return self.report

    def _look(self) -> None:
        """The first pass: a few numbers of each person."""
        done = 0
        octets = sum(source.octets for source in self.sources)
        for reading in self.plan.readings(Tally()):
            old = reading.number < len(self.olds)
            side = self.old_side if old else self.new_side
            before = done

            def progress(read: int, records: int, before: int = before) -> None:
                if self.watch is not None:
                    self.watch("comparing", before + read, octets, records)

            for contact in reading.contacts(progress):
                raw, held = self._forms(contact, old=old)
                said = said_by(raw)
                mine = digest_of(said if held is raw else said_by(held))
                side.add(held if old else raw, mine, spelling_of(said))
            done += reading.source.octets
        self.report.old_people = len(self.old_side)
        self.report.new_people = len(self.new_side)

    def _forms(self, contact: Contact, *, old: bool) -> tuple[Contact, Contact]:
        """A person as they stand there, and as they count: of the old book as the service would
        hold them, of the new one as they were sent."""
        to = self.wanted.to
        if to is None or self.rewrite is None:
            return contact, contact
        held = contact
        if self.back is not None:
            held = self.back(held, Tally()) or held
        if old:  # what the service holds was fitted when it was sent
            table = to.accepts[0] in ("table", "workbook")
            fitted = self.fits[table](held, Tally())
            if fitted is None:
                return contact, contact
            held = fitted
            if self.back is not None:
                held = self.back(held, Tally()) or held
        return contact, self.rewrite(held)

    def _likely(self, pairing: Pairing) -> None:
        olds, news = pairing.alone()
        if not olds or not news:
            return
        places = {self.old_side.places[at] for at in olds}
        places |= {self.new_side.places[at] for at in news}
        names = [source.name for source in self.sources]
        store = self.wanted.decisions
        pairing.likely(self.plan.picked(places), self.wanted.region, len(self.olds), names, store)

    def _compare(self, pairing: Pairing, sheet: RowSheet | None) -> set[tuple[int, int]]:
        """Look at those pairs again that do not say the same; the new places of who changed."""
        report = self.report
        unlike: dict[tuple[int, int], Pair] = {}
        for pair in pairing.pairs:
            alike = self.old_side.digests[pair.old] == self.new_side.digests[pair.new]
            as_it_is = self.old_side.raw[pair.old] == self.new_side.raw[pair.new]
            if alike and as_it_is:
                report.same += 1
            else:
                unlike[self.old_side.places[pair.old]] = pair
        changed: set[tuple[int, int]] = set()
        if not unlike:
            return changed
        by_new = {self.new_side.places[pair.new]: pair for pair in unlike.values()}
        with Store() as store:
            kept = {_place(contact): store.put(contact) for contact in self._at(unlike)}
            for contact in self._at(by_new):
                pair = by_new[_place(contact)]
                old = store.get(kept[self.old_side.places[pair.old]])
                if self._pair(pair, old, contact, sheet):
                    changed.add(_place(contact))
        return changed

    def _at(self, places: Container[tuple[int, int]]) -> Iterator[Contact]:
        return self.plan.picked(places)

    def _pair(self, pair: Pair, old: Contact, new: Contact, sheet: RowSheet | None) -> bool:
        """Tell what two persons say otherwise; whether any of it is more than spelling."""
        report = self.report
        old_raw, old_held = self._forms(old, old=True)
        new_raw, new_held = self._forms(new, old=False)
        found = differences(said_by(old_held), said_by(new_held), self.wanted.region)
        person = called(old) or called(new)
        if self.wanted.to is not None:
            raw = differences(said_by(old_raw), said_by(new_raw), self.wanted.region)
            said = {(each.path, each.before, each.after) for each in found}
            for each in raw:
                if (each.path, each.before, each.after) not in said and each.what != "spelled":
                    report.taken[each.path] += 1
                    if len(report.taken_shown) < MOST_SHOWN:
                        report.taken_shown.append((person, each))
                    if sheet is not None:
                        sheet.add(self._row(person, f"taken as equal: {each.what}", each, pair))
        for each in found:
            report.fields.setdefault(each.path, Counter())[each.what] += 1
            if sheet is not None:
                sheet.add(self._row(person, each.what, each, pair))
        weight = sum(_WEIGHTS[each.what] for each in found)
        if not weight:
            report.same += not found
            report.spelled += bool(found)
            return False
        report.changed += 1
        self._show(Person(person, pair.how, self.old_side.places[pair.old],
                          self.new_side.places[pair.new], tuple(found)))  # fmt: skip
        return True

    def _show(self, person: Person) -> None:
        """Keep the most telling people."""
        shown = self.report.shown
        shown.append(person)
        shown.sort(key=lambda each: -sum(_WEIGHTS[one.what] for one in each.differences))
        del shown[MOST_SHOWN:]

    def _where(self, pair: Pair | None, old: int = -1, new: int = -1) -> tuple[str, str]:
        """The records of a pair, or of somebody alone, in words."""
        old = pair.old if pair is not None else old
        new = pair.new if pair is not None else new
        names = self.report.names

        def said(side: Side, at: int) -> str:
            if at < 0:
                return ""
            source, record = side.places[at]
            return f"{names[source]}:{record}"

        return said(self.old_side, old), said(self.new_side, new)

    def _row(self, person: str, what: str, each: Difference, pair: Pair) -> list[str]:
        """A difference of a pair, as the sheet lists it."""
        where = self._where(pair)
        return [person, what, each.path, each.before, each.after, pair.how, *where]

    def _alone(self, pairing: Pairing, sheet: RowSheet | None) -> None:
        report = self.report
        olds, news = pairing.alone()
        report.gone, report.new = len(olds), len(news)
        every = sheet is not None
        both = ((self.old_side, olds, report.gone_named, True),
                (self.new_side, news, report.new_named, False))  # fmt: skip
        for side, alone, named, gone in both:
            numbers = {side.places[at]: at for at in (alone if every else alone[:_MOST_NAMES])}
            if not numbers:
                continue
            for contact in self.plan.picked(numbers):
                place = _place(contact)
                at = numbers[place]
                name = called(contact)
                if len(named) < _MOST_NAMES:
                    named.append(Person(name, None, place if gone else None,
                                        None if gone else place))  # fmt: skip
                if sheet is not None:
                    where = self._where(None, at if gone else -1, -1 if gone else at)
                    sheet.add([name, "gone" if gone else "new", "", "", "", "", *where])

    def _books(self, files: Transaction, pairing: Pairing, changed: set[tuple[int, int]]) -> None:
        """Write who is new, changed and gone as books."""
        olds, news = pairing.alone()
        gone = {self.old_side.places[at] for at in olds}
        new = {self.new_side.places[at] for at in news}
        count = len(self.olds)
        for path, places, old in ((self.wanted.new_people, new, False),
                                  (self.wanted.changed_people, changed, False),
                                  (self.wanted.gone_people, gone, True)):  # fmt: skip
            if path is None:
                continue
            if formats.by_suffix(str(path)) is None:
                raise UsageError(f"cannot tell the format from the name '{path}'; name a .vcf, "
                                 ".csv or .xlsx file")  # fmt: skip
            sources = self.olds if old else self.news
            plan = self._plan(sources)
            plan.target = str(path)
            mine = {(source - (0 if old else count), record) for source, record in places}
            steps: list[Step] = [_AtPlaces(mine)]
            plan.steps, plan.force, plan.processes = steps, self.wanted.force, 1
            convert_into(files, plan)
            self.report.files.append(path)


class _AtPlaces:
    """Lets the people at some places pass."""

    def __init__(self, places: Container[tuple[int, int]]) -> None:
        self._places = places

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        if _place(contact) in self._places:
            return contact
        size = sum(map(tally.read_of, contact.properties))
        tally.count(Reason(Fate.LEFT_OUT, Why.NOT_PICKED), size, people=1)
        return None


def _place(contact: Contact) -> tuple[int, int]:
    place = unpack(contact.origin)
    return (place.source, place.record) if place is not None else (-1, 0)
