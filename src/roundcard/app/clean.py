"""Cleaning whole books, each change listed."""

from __future__ import annotations

from contextlib import closing
from dataclasses import dataclass, replace
from pathlib import Path

from roundcard.books.conversion import Report, convert_into
from roundcard.books.hidden import spare_originals
from roundcard.books.plan import Plan, Watch
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.clean.changes import Changes, refused_in
from roundcard.clean.setup import cleaning, demand
from roundcard.clean.user_rules import Wishes, wishes_in
from roundcard.survey.preview import Cleaned, Cleans
from roundcard.tally import Tally


@dataclass(frozen=True, slots=True)
class CleanPlan:
    """What to clean, and how."""

    plan: Plan
    wishes: Wishes = Wishes()
    rules_file: Path | None = None
    """Rules of the user's own; `wishes` beat them."""
    changes: Path | None = None
    """Where every change and every doubt is listed."""
    refusals: Path | None = None
    """A list of changes in which some are marked; those are not made."""
    keeps_layout: bool = False
    """Whether the table keeps its columns, so that no rule makes values that need others."""
    this_year: int = 0
    """No birthday is after it; 0 where it is not known."""
    sure_only: bool = False
    """Whether changes that are not sure are only reported."""
    usual: Wishes = Wishes()
    """What holds where neither these nor a layout say anything."""


@dataclass(frozen=True, slots=True, repr=False)
class CleanReport:
    """What cleaning did."""

    report: Report
    changes: Changes

    def __repr__(self) -> str:
        made, doubts = self.changes.counts.total(), self.changes.doubts.total()
        return f"<CleanReport {made} changes, {doubts} doubts, {self.report!r}>"


def clean_books(wanted: CleanPlan, watch: Watch | None = None) -> CleanReport:
    """Convert books with their values cleaned, before all other steps of the plan.

    Raises what `convert` raises, and `PlanError` for a rules file or a list of changes.
    """
    plan = wanted.plan
    demand(wanted.wishes.over(wanted.usual))
    wishes = wanted.wishes
    if wanted.rules_file is not None:
        wishes = wishes.over(wishes_in(wanted.rules_file))
    refused = refused_in(wanted.refusals) if wanted.refusals is not None else frozenset()
    sources = plan.open()
    with Transaction(plan.place) as files:
        listed = None
        if wanted.changes is not None:
            spare_originals(wanted.changes, (each.path for each in sources))
            listed = files.file(wanted.changes, force=plan.force)
        with closing(Changes([each.name for each in sources], listed)) as told:
            step = cleaning(plan, wishes, this_year=wanted.this_year, tell=told.tell,
                            count=None if told.lists else told.count,
                            keeps_layout=wanted.keeps_layout, sure_only=wanted.sure_only,
                            refused=refused, usual=wanted.usual)  # fmt: skip

            def begin() -> None:
                told.begin()
                step.begin()

            whole = replace(plan, steps=[step, *plan.steps], on_pass=begin)
            written = convert_into(files, whole, watch)
            told.end()
        files.commit()
    return CleanReport(written.report, told)


def cleaned(
    plan: Plan,
    wishes: Wishes,
    rules_file: Path | None,
    this_year: int,
    usual: Wishes = Wishes(),  # noqa: B008  (it cannot be changed)
) -> Cleans:
    """What tells, contact by contact, what cleaning would make of a source."""
    demand(wishes.over(usual))
    if rules_file is not None:
        wishes = wishes.over(wishes_in(rules_file))
    step = cleaning(plan, wishes, this_year=this_year, usual=usual)
    told = step.gather()

    def cleans(contact: Contact) -> list[Cleaned]:
        told.clear()
        step(contact, Tally())
        return [Cleaned(each.path, each.before, each.after, each.rule, each.doubt)
                for each in told]  # fmt: skip

    return cleans
