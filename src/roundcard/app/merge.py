"""Merging whole books: who is the same, one contact of each, and the record of it."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from roundcard.app.decisions import demand_order, demand_place, keep, store_of
from roundcard.app.match import ASK, SURE
from roundcard.books.conversion import Report, Written, convert_into
from roundcard.books.hidden import demand_new, spare_originals
from roundcard.books.plan import Plan, Watch, target_format
from roundcard.books.shapes.steps import Wanted
from roundcard.books.source import HowToRead
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Property
from roundcard.card.equality import identity
from roundcard.errors import RoundCardError, UsageError
from roundcard.match.decision_store import Decision
from roundcard.match.gathering import features_in
from roundcard.match.matching import matches_of
from roundcard.match.sheet_decisions import Known, MatchSheet, known
from roundcard.merge.merge_step import Conflict, Merging
from roundcard.merge.planning import Existing, Planned, planned
from roundcard.merge.policy import Policy
from roundcard.merge.record import RecordFile
from roundcard.tally import Tally


@dataclass(frozen=True, slots=True)
class MergePlan:
    """What to merge, and how."""

    plan: Plan
    policy: Policy = Policy()
    """Which values survive; its region is that of numbers without a country code."""
    into: bool = False
    """Whether the first source is a book to which the others are added."""
    existing: Existing = "update"
    """What becomes of people whom that book has."""
    sheet: Path | None = None
    """A sheet of matches with decisions."""
    decided_only: bool = False
    sure: float = SURE
    ask: float = ASK
    record: Path | None = None
    """Where the merge record goes; None for beside the target, under a name that is free."""
    store: Path | None = None
    """Where decisions are kept; None for beside the target."""
    when: str = ""
    """The day, for record and decisions."""


@dataclass(frozen=True, slots=True, repr=False)
class MergeReport:
    """What merging did."""

    report: Report
    planned: Planned
    conflicts: Sequence[Conflict]
    record: Path | None
    """The merge record; None where nothing was merged or written."""
    known: Known
    store: Path
    lost: Sequence[Decision] = ()
    """Decisions of the sheet that could not be followed."""

    def __repr__(self) -> str:
        merged = sum(len(each.places) for each in self.planned.joined)
        return (f"<MergeReport {merged} contacts became {len(self.planned.joined)}, "
                f"{self.planned.to_ask} to be asked about, {self.report!r}>")  # fmt: skip


def merge_people(wanted: MergePlan, watch: Watch | None = None) -> MergeReport:
    """Convert books with what is the same merged; target, record and decisions appear, or none.

    Raises what `convert` raises, and `PlanError` for a sheet or decisions.
    """
    demand_order(wanted.sure, wanted.ask)
    plan = wanted.plan
    names = [source.name for source in plan.open()]
    path = _record_path(wanted)
    sheet = MatchSheet(wanted.sheet) if wanted.sheet is not None else None
    store = store_of(wanted.store, plan.target)
    features = features_in(plan, wanted.policy.region)
    decided = known(features, names, store, sheet, wanted.when)
    if decided.learned and not plan.dry_run:
        demand_place(store)
    sure = math.inf if wanted.decided_only else wanted.sure
    matches = matches_of(features, sure, wanted.ask, decided.resolved.pairs)
    numbers = sheet.numbers() if sheet is not None else {}
    places = {(names.index(source), record): group
              for (source, record), group in numbers.items() if source in names}  # fmt: skip
    book = 0 if wanted.into else -1
    todo = planned(matches, decided.resolved, places, book, wanted.existing)
    del features, matches  # they are large, and done with
    merging = Merging(todo.joined, names, wanted.policy, book=book, leave=todo.leave,
                      when=wanted.when, say=plan.say)  # fmt: skip
    with Transaction(plan.place) as files, merging.store:
        record = None
        if todo.joined and not plan.dry_run:
            record = RecordFile(files, path, force=plan.force, beside=wanted.record is None)
        done = merge_into(files, plan, merging, record, watch)
        if not plan.dry_run:
            keep(files, decided, store)
        files.commit()
    lost = decided.lost if wanted.sheet is not None else ()
    kept = record.path if record is not None else None
    return MergeReport(done.report, todo, merging.conflicts, kept, decided, store, lost)


def merge_into(
    files: Transaction, plan: Plan, merging: Merging, record: RecordFile | None,
    watch: Watch | None = None,
) -> Written:  # fmt: skip
    """Write the target of a plan with groups of contacts merged, and their record.

    Raises what `convert` raises.
    """
    merging.gather(plan.as_taken(merging.groups))
    whole = replace(plan, steps=[*plan.steps, merging], on_pass=merging.begin, processes=1)
    done = convert_into(files, whole, watch)
    if record is not None:
        _write_record(record, merging, done, whole)
    return done


def _record_path(wanted: MergePlan) -> Path:
    """Where the merge record goes. Raises `UsageError` and `TargetError`."""
    plan, path = wanted.plan, wanted.record
    if path is None and plan.place is not None:
        path = plan.place.with_name(f"{plan.place.stem}.merges.jsonl")
    if path is None:
        raise UsageError("use --record FILE.jsonl to say where the merge record goes: standard "
                         "output is for the book")  # fmt: skip
    spare_originals(path, (source.path for source in plan.open()))
    if wanted.record is not None:
        demand_new(path, force=plan.force)
    return path


def _write_record(record: RecordFile, merging: Merging, done: Written, plan: Plan) -> None:
    """Write the record, with the contacts as the target has them."""
    pointers = defaultdict(list)
    for each in merging.pointed:
        pointers[each.now].append(each._asdict())
    written = _as_written(done, plan, {line.place for line in merging.lines}, merging.written)
    for line in merging.lines:
        told = merging.record.get(line.told)
        made = merging.store.get(line.made).properties
        uid = next((prop.text for prop in made if prop.head.name == "uid"), "")
        told["pointers"] = pointers.get(identity(uid), []) if uid else []
        there = next(written, None)
        record.add(told, made if there is None else there)


def _as_written(
    done: Written, plan: Plan, wanted: set[int], count: int
) -> Iterator[list[Property]]:
    """Contacts as they stand in the target, in the order of their places; none where it tells no
    places."""
    if done.part is None:
        return
    layouts = [plan.to_layout] if plan.to_layout is not None else []
    how = HowToRead(target_format(plan).name)
    again = Plan([str(done.part)], "", layouts=layouts, kept=plan.kept, how=how)
    people = (tally := Tally()).people
    try:
        for source in again.open():
            source.photos = done.photos
        for reading in again.readings(tally):
            for _ in reading.contacts(into=Wanted(lambda _: False)):
                pass
        if people.read != count or people.blank or people.set_aside:
            return  # what was meant is kept instead
        for contact in again.picked({(0, place + 1) for place in wanted}):
            yield contact.properties
    except RoundCardError:
        return
