"""Picking people, and writing the rest apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from roundcard import formats
from roundcard.books.conversion import Report, convert_into
from roundcard.books.hidden import spare_originals
from roundcard.books.pipeline import Step
from roundcard.books.plan import Plan, Watch
from roundcard.books.transaction import Transaction
from roundcard.pick.people import Chooses, Picked, sample_of
from roundcard.pick.ticks import ticked_in, write_ticks
from roundcard.tally import Why


@dataclass(frozen=True, slots=True)
class PickPlan:
    """Whom to pick."""

    plan: Plan
    tests: Sequence[Chooses] = ()
    """All of them must hold."""
    ticks: Path | None = None
    """A sheet in which the people wanted are ticked."""
    sample: int = 0
    """So many of them by chance, the same ones each time; 0 for all."""
    after: Sequence[Step] = ()
    """What is done to those who are picked."""
    rest: str = ""
    """Where the others go; empty for nowhere."""


@dataclass(frozen=True, slots=True, repr=False)
class PickReport:
    """Who was picked."""

    report: Report
    rest: Report | None = None
    strange: list[str] = field(default_factory=list)
    """Rows of the sheet that could not be followed."""

    def __repr__(self) -> str:
        rest = f", the rest {self.rest!r}" if self.rest is not None else ""
        return f"<PickReport {self.report!r}{rest}>"


def pick_people(wanted: PickPlan, watch: Watch | None = None) -> PickReport:
    """Write those who are picked, and the rest apart; both appear, or none.

    Raises what `convert` raises, and `PlanError` for a sheet.
    """
    plan = wanted.plan
    tests = list(wanted.tests)
    strange: list[str] = []
    if wanted.ticks is not None:
        ticked, strange = ticked_in(wanted.ticks, plan.as_read())
        tests.append(ticked)
    with Transaction(plan.place) as files:
        if wanted.sample:
            tests = [sample_of(plan.as_read(), tests, wanted.sample)]
        chosen = replace(plan, steps=[Picked(tests, Why.NOT_PICKED), *wanted.after])
        done = convert_into(files, chosen, watch)
        left = None
        if wanted.rest:
            others = replace(plan, target=wanted.rest, to_format=_format_of(wanted.rest, plan),
                             steps=[Picked(tests, Why.PICKED, rest=True)])  # fmt: skip
            left = convert_into(files, others, watch).report
        files.commit()
    return PickReport(done.report, left, strange)


def _format_of(rest: str, plan: Plan) -> str:
    """The format of the rest: as said for the target, where the name of the file is for that."""
    promised = formats.by_suffix(rest)
    said = formats.by_name(plan.to_format) if plan.to_format else None
    if said is None or promised is None or said.name == promised.name:
        return plan.to_format
    return plan.to_format if said.version and promised.version else ""


def write_people(wanted: PickPlan, sheet: Path) -> int:
    """Write a sheet in which people can be ticked; how many they are. Raises `TargetError`."""
    plan = wanted.plan
    spare_originals(sheet, (each.path for each in plan.open()))
    shown = (each for each in plan.as_read() if all(test(each) for test in wanted.tests))
    with Transaction(sheet) as files:
        people = write_ticks(files, sheet, shown)
        files.commit()
    return people
