"""``roundcard clean``: values cleaned by named rules, each change listed."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from roundcard.cli import options

if TYPE_CHECKING:
    from roundcard.app.clean import CleanPlan

EXAMPLES = """[bold]Examples[/bold]

  roundcard clean --rules

  roundcard clean newsletter.csv clean.csv --changes changes.csv

  roundcard clean ledger.csv clean-ledger.csv --layout membership-ledger --region GB --dry-run

  roundcard clean skippers.vcf clean.vcf --rule phone-form --region GB

  roundcard clean newsletter.csv people.vcf --rule usual --rule name-join
"""


def clean(
    files: options.Files = None,
    rules: Annotated[bool, typer.Option("--rules", help="List the rules and stop.")] = False,
    rule: Annotated[
        list[str] | None,
        typer.Option(
            help="Only this rule; can be repeated. 'usual' stands for the usual ones.",
            metavar="NAME",
        ),
    ] = None,
    no_rule: Annotated[
        list[str] | None, typer.Option(help="All but this rule.", metavar="NAME")
    ] = None,
    rules_file: options.RulesFile = None,
    region: options.Region = "",
    phone: Annotated[
        str,
        typer.Option(help="The form of phone numbers: international or national.", metavar="FORM"),
    ] = "",
    countries: Annotated[
        str,
        typer.Option(
            help="Write countries alike: 'code', or in a language such as en, de, fr.",
            metavar="FORM",
        ),
    ] = "",
    names: Annotated[
        str,
        typer.Option(
            help="What comes first in whole names, where the book does not tell: "
            "given-first or family-first.",
            metavar="ORDER",
        ),
    ] = "",
    changes: options.Changes = None,
    decisions: Annotated[
        Path | None,
        typer.Option(
            help="A list of changes in which some are marked in the column 'refuse'; "
            "those are not made.",
            metavar="FILE.csv",
        ),
    ] = None,
    sure_only: Annotated[
        bool,
        typer.Option(
            "--sure-only", help="Make the sure changes only; others are reported and left."
        ),
    ] = False,
    *,
    read: options.ReadBlock,
    write: options.WriteBlock,
    report: options.ReportBlock,
) -> int:
    """Clean values by named rules. Sure repairs are made and listed, doubts are reported and left.

    A table that becomes a table keeps its layout; what is several values in one is taken apart
    where the table has columns for them. With --dry-run and --changes the list is written, and
    nothing else. Cleaning twice changes nothing the second time.
    """
    from roundcard.app.clean import CleanPlan
    from roundcard.clean.user_rules import Wishes
    from roundcard.cli import planning
    from roundcard.cli.render import clean as render

    if rules:
        sys.stdout.write(render.rules())
        return 0
    sources, target = planning.sources_and_target(files, "clean")
    plan = planning.plan_of(sources, target, read, write, region=region)
    wishes = Wishes(tuple(rule or ()), tuple(no_rule or ()), region, phone, countries, names)
    keeps = plan.to_layout is None and plan.keep_layout()
    wanted = CleanPlan(plan, wishes, rules_file, changes, decisions, keeps_layout=keeps,
                       usual=planning.usual_wishes(), this_year=planning.today().year,
                       sure_only=sure_only)  # fmt: skip
    return run_and_tell(wanted, report)


def run_and_tell(wanted: CleanPlan, report: options.ReportBlock) -> int:
    """Clean, and tell each rule's changes; the exit code."""
    from roundcard.app.clean import clean_books
    from roundcard.cli.picking import tell
    from roundcard.cli.render import clean as render
    from roundcard.cli.render import progress

    with progress.shown(report.quiet) as watch:
        done = clean_books(wanted, watch)
    code = tell(done.report, wanted.plan, report)
    if report.people:
        sys.stderr.write(render.changed(done.changes, done.report.tally))
    return code
