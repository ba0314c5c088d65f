"""What ``clean`` and ``convert --clean`` share: a conversion with cleaning, each change told."""

from __future__ import annotations

import datetime
import sys
from dataclasses import dataclass, replace
from pathlib import Path

from roundcard.books.conversion import convert
from roundcard.books.plan import Plan
from roundcard.books.target import spare_originals
from roundcard.card.contact import Contact
from roundcard.clean.changes import Changes, refused_in
from roundcard.clean.own import Wishes, wishes_in
from roundcard.clean.preparing import cleaning, demand
from roundcard.cli.picking import tell
from roundcard.cli.render import clean as render
from roundcard.cli.render import progress
from roundcard.errors import UsageError
from roundcard.survey.preview import Cleaned, Cleans
from roundcard.tally import Tally


@dataclass(slots=True)
class Asked:
    """What a command line asks of cleaning and of the report."""

    wishes: Wishes = Wishes()
    rules_file: Path | None = None
    changes: Path | None = None
    decisions: Path | None = None
    keeps_layout: bool = False
    json: bool = False
    quiet: bool = False
    verbose: bool = False


def run(plan: Plan, asked: Asked) -> int:
    """Convert with cleaning before all other steps of the plan, and tell; the exit code."""
    demand(asked.wishes)
    wishes = asked.wishes
    if asked.rules_file is not None:
        wishes = wishes.over(wishes_in(asked.rules_file))
    refused = refused_in(asked.decisions) if asked.decisions is not None else frozenset()
    sources = plan.open()
    if asked.changes is not None:
        spare_originals(asked.changes, (each.path for each in sources))
        if asked.changes.resolve() == Path(plan.target).resolve():
            raise UsageError(
                f"{asked.changes}: this is the target, too; name another file for the list"
            )
    listed = None if plan.dry_run else asked.changes
    told = Changes([each.name for each in sources], listed, force=plan.force)
    try:
        step = cleaning(
            plan,
            wishes,
            this_year=datetime.date.today().year,
            keeps_layout=asked.keeps_layout,
            tell=told.tell,
            refused=refused,
        )
        whole = replace(plan, steps=[step, *plan.steps], on_pass=told.begin)
        with progress.shown(asked.quiet) as watch:
            done = convert(whole, watch)
        told.commit()
    except BaseException:
        told.discard()
        raise
    code = tell(done, plan, json_=asked.json, quiet=asked.quiet, verbose=asked.verbose)
    if not asked.quiet and not asked.json:
        sys.stderr.write(render.changed(told))
    return code


def looking(plan: Plan, region: str, rules_file: Path | None) -> Cleans:
    """What tells, contact by contact, what cleaning would make of a source."""
    wishes = Wishes(region=region)
    demand(wishes)
    if rules_file is not None:
        wishes = wishes.over(wishes_in(rules_file))
    step = cleaning(plan, wishes, this_year=datetime.date.today().year)
    told = step.gather()

    def cleans(contact: Contact) -> list[Cleaned]:
        told.clear()
        step(contact, Tally())
        return [Cleaned(each.path, each.before, each.after, each.rule, each.doubt)
                for each in told]  # fmt: skip

    return cleans
