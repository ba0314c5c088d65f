"""Merging whole books: who is the same, one contact of each, and the record of it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from roundcard.books.conversion import Report, convert
from roundcard.books.plan import Plan, Watch
from roundcard.books.source import STANDARD, HowToRead
from roundcard.card.contact import Contact, Property
from roundcard.errors import RoundCardError
from roundcard.match.decisions import Resolved
from roundcard.match.matching import Matches
from roundcard.merge.planning import Existing, Planned, planned
from roundcard.merge.policy import Policy
from roundcard.merge.record import RecordFile
from roundcard.merge.saying import identity
from roundcard.merge.step import Conflict, Merging, Place


@dataclass(frozen=True, slots=True)
class Wanted:
    """How books are to be merged."""

    policy: Policy = Policy()
    record: Path | None = None
    """Where the merge record goes; None for no record (a dry run)."""
    beside: bool = True
    """Whether a record that is there already keeps its name, and the new one gets a number."""
    book: int = -1
    """Number of the source that the others are added to; -1 for none."""
    existing: Existing = "update"
    when: str = ""
    """The day, for the record."""


@dataclass(frozen=True, slots=True)
class Outcome:
    """What merging did."""

    report: Report
    planned: Planned
    conflicts: Sequence[Conflict]
    record: Path | None
    """The merge record; None where nothing was merged or written."""


def merge(
    plan: Plan, matches: Matches, resolved: Resolved, numbers: Mapping[Place, str],
    wanted: Wanted, watch: Watch | None = None,
) -> Outcome:  # fmt: skip
    """Convert books with what is the same merged, and keep the record.

    `numbers` are the sheet's of groups. Raises what `convert` raises.
    """
    names = [source.name for source in plan.open()]
    todo = planned(matches, resolved, numbers, wanted.book, wanted.existing)
    merging = Merging(todo.joined, names, wanted.policy, book=wanted.book, leave=todo.leave,
                      when=wanted.when, say=plan.say)  # fmt: skip
    with merging.store:
        merging.gather(plan.as_taken())
        record = None
        if wanted.record is not None and todo.joined and not plan.dry_run:
            record = RecordFile(wanted.record, force=plan.force, beside=wanted.beside)
        whole = replace(plan, steps=[*plan.steps, merging], on_pass=merging.begin, jobs=1)
        try:
            report = convert(whole, watch)
            if record is not None:
                _keep(record, merging, whole)
        except BaseException:
            if record is not None:
                record.discard()
            raise
    return Outcome(report, todo, merging.conflicts, record.path if record is not None else None)


def _keep(record: RecordFile, merging: Merging, plan: Plan) -> None:
    """Write the record, with the contacts as the target has them."""
    written = _as_written(plan, {place for place, _ in merging.lines}, merging.written)
    pointers = defaultdict(list)
    for each in merging.pointed:
        pointers[each.now].append(each._asdict())
    for (place, line), made in zip(merging.lines, merging.results, strict=True):
        uid = next((prop.text for prop in made if prop.head.name == "uid"), "")
        line["pointers"] = pointers.get(identity(uid), []) if uid else []
        record.add(line, written.get(place, made))
    record.commit()


def _as_written(plan: Plan, wanted: set[int], count: int) -> dict[int, list[Property]]:
    """Contacts as they stand in the target, by their place in it; none where it tells no places."""
    if plan.target == STANDARD:
        return {}
    layouts = [plan.to_layout] if plan.to_layout is not None else []
    again = Plan([plan.target], "", layouts=layouts, kept=plan.kept, how=HowToRead())
    found: dict[int, list[Property]] = {}
    place = 0
    try:
        for contact in again.as_read():
            if place in wanted:
                found[place] = Contact(contact.properties).properties
            place += 1
    except RoundCardError:
        return {}  # what was meant is kept instead
    return found if place == count else {}
