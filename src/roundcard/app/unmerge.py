"""Taking merges back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import NamedTuple

from roundcard.app.decisions import demand_place, store_of
from roundcard.books.conversion import Report, convert_into
from roundcard.books.plan import Plan, Watch
from roundcard.books.transaction import Transaction
from roundcard.errors import PlanError, UsageError
from roundcard.match.decision_store import read_decisions, write_decisions
from roundcard.merge.record import RecordLine, chosen, read_record, records_beside
from roundcard.merge.unmerge import Undoing, apart, undoing
from roundcard.tally import Why


@dataclass(frozen=True, slots=True)
class UnmergePlan:
    """Which merges to take back; all of the record where neither words nor number are said."""

    plan: Plan
    record: Path
    words: str = ""
    """The merges in whose values all these words stand."""
    number: str = ""
    """The merge of this number."""
    also: Sequence[Path] = ()
    """Records of later merges; those beside the book and the record are known."""
    store: Path | None = None
    """Where decisions are kept; None for beside the target."""
    region: str = ""
    when: str = ""


@dataclass(frozen=True, slots=True, repr=False)
class UnmergeReport:
    """What was taken back."""

    report: Report
    undoing: Undoing
    store: Path | None
    """Where it was written that they are apart; None where nothing was."""

    def __repr__(self) -> str:
        undone = self.undoing
        return (f"<UnmergeReport {len(undone.done)} merges taken back, {len(undone.missing)} not "
                f"found, {self.report!r}>")  # fmt: skip


class ListedMerge(NamedTuple):
    """A merge of a record."""

    line: RecordLine
    there: bool
    """Whether its contact is in the book."""


def merges_of(wanted: UnmergePlan) -> list[ListedMerge]:
    """The merges of a record that are meant, and whether each can be taken back in the book.

    Nothing is written. Raises `SourceError` and `PlanError`.
    """
    lines = chosen(read_record(wanted.record), wanted.words, wanted.number)
    missing = undoing(lines, wanted.plan.as_read()).missing
    return [ListedMerge(line, all(line is not each for each in missing)) for line in lines]


def unmerge_people(wanted: UnmergePlan, watch: Watch | None = None) -> UnmergeReport:
    """Write a book with merges taken back; book and decisions appear, or none.

    Raises what `convert` raises, and `PlanError` where the record has no such merge.
    """
    plan = replace(wanted.plan, more_why=Why.FROM_RECORD, processes=1)
    if len(plan.open()) != 1:
        raise UsageError(f"{plan.sources[0]}: merges are taken back in one book, and this is "
                         f"{len(plan.open())} files")  # fmt: skip
    lines = chosen(read_record(wanted.record), wanted.words, wanted.number)
    if not lines:
        which = f" with number {wanted.number}" if wanted.number else ""
        which = which or (f" with the words '{wanted.words}'" if wanted.words else "")
        raise PlanError(f"{wanted.record}: no merge{which} found")
    store = store_of(wanted.store, plan.target)
    if not plan.dry_run:
        demand_place(store)
    book = Path(plan.sources[0])
    later = [line for each in (*wanted.also, *records_beside(wanted.record, book))
             for line in read_record(each)]  # fmt: skip
    found = undoing(lines, plan.as_read(), later)
    with Transaction(plan.place) as files:
        done = convert_into(files, replace(plan, first=[found], more=found.others), watch)
        kept = bool(found.done) and not plan.dry_run
        if kept:
            new = apart(found.done, wanted.region, wanted.when)
            write_decisions(files, store, [*read_decisions(store), *new])
        files.commit()
    return UnmergeReport(done.report, found, store if kept else None)
