"""Steps out of the options of choosing, and telling what was done."""

from __future__ import annotations

import sys
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from roundcard.books.conversion import Report
from roundcard.books.pipeline import Step
from roundcard.books.plan import Plan
from roundcard.books.source import STANDARD, sources_of
from roundcard.card.paths import parse_list
from roundcard.cli import settings
from roundcard.cli.options import ReportBlock
from roundcard.cli.planning import today
from roundcard.cli.render import report
from roundcard.cli.render.text import write_json
from roundcard.errors import ConditionError, PathError, PlanError, UsageError
from roundcard.tally import Why

if TYPE_CHECKING:
    from roundcard.pick.conditions import Condition

DATE = "{date}"
"""Stands for today in a fixed value."""
OWNER = "{owner}"
"""Stands for the owner of whom the settings speak."""


def conditions(texts: Sequence[str] | None, option: str, sources: Sequence[str]) -> list[Condition]:
    """The conditions of an option. Raises `PlanError` that names it."""
    if not texts:
        return []
    from roundcard.pick.conditions import Condition

    names: Sequence[str] = ()
    if any("source" in text.lower() for text in texts) and STANDARD not in sources:
        names = [source.name for source in sources_of(sources)]
    found = []
    for text in texts:
        try:
            found.append(Condition(text, names))
        except ConditionError as error:
            raise PlanError(f"{option}: {error}") from None
    return found


def who(tests: Sequence[Condition]) -> list[Step]:
    """The step of ``--where``; none where nothing is said."""
    if not tests:
        return []
    from roundcard.pick.people import Picked

    return [Picked(tests, Why.CONDITION)]


def only_fields(paths: str) -> list[Step]:
    """The step of ``--only``; none where nothing is said. Raises `UsageError`."""
    if not paths:
        return []
    from roundcard.pick.fields import OnlyFields

    try:
        return [OnlyFields(parse_list(paths))]
    except PathError as error:
        raise UsageError(f"--only: {error.problem}\n{error.marked()}") from None


def fixed_values(assignments: Sequence[str] | None) -> list[Step]:
    """The steps of ``--set``; ``{date}`` in a value is today, ``{owner}`` what the settings say.
    Raises `UsageError`."""
    if not assignments:
        return []
    from roundcard.pick.fields import SetValue

    day = today().isoformat()
    if any(OWNER in each for each in assignments):
        owner = settings.current()["owner"]
        if not owner:
            raise UsageError(f"--set: {OWNER} is not known; roundcard settings 'owner=A. Name'")
        assignments = [each.replace(OWNER, owner) for each in assignments]
    try:
        return [SetValue.parse(each.replace(DATE, day)) for each in assignments]
    except PathError as error:
        raise UsageError(f"--set: {error.problem}\n{error.marked()}") from None


def relabelled(renames: Sequence[str] | None, removes: Sequence[str] | None) -> list[Step]:
    """The step of ``--rename-category`` and ``--remove-category``; none where neither is said.

    ``{date}`` in a new name is today. Raises `UsageError`.
    """
    day = today().isoformat()
    if not renames and not removes:
        return []
    from roundcard.pick.categories import Categories

    return [Categories.parse([each.replace(DATE, day) for each in renames or ()], removes or ())]


def tell(
    done: Report, plan: Plan, wanted: ReportBlock, more: Mapping[str, object] | None = None
) -> int:
    """Say what was done; the exit code. `more` goes into the report for machines."""
    if wanted.json:
        whole = report.for_machines(done) | dict(more or {})
        write_json(whole, sys.stderr if plan.target == STANDARD and not plan.dry_run else None)
    elif not wanted.quiet:
        sys.stderr.write(report.for_people(done, wanted.verbose))
    tally = done.tally
    found = tally.people.set_aside or tally.values.set_aside or tally.people.not_sent
    return 1 if found or (plan.strict and tally.values.left_behind) else 0
