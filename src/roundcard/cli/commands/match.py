"""``roundcard match``: who is the same person, in one book or across several."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold]

  roundcard match skippers.vcf skippers-now.vcf --region GB

  roundcard match skippers.vcf ledger.csv --layout layouts --region GB --sheet doubles.xlsx

  roundcard match skippers.vcf skippers-now.vcf ledger.csv --region GB --page doubles.html

  roundcard match skippers.vcf skippers-now.vcf --explain skippers.vcf:1 skippers-now.vcf:2
"""


def match(
    sources: Annotated[
        list[str], typer.Argument(metavar="SOURCE...", help="The books.", show_default=False)
    ],
    groups: Annotated[
        Path | None,
        typer.Option(
            "--sheet", help="Write the groups to a sheet (.csv or .xlsx).", metavar="FILE"
        ),
    ] = None,
    explain: Annotated[
        tuple[str, str] | None,
        typer.Option(
            help="Every reason for and against two records, such as book.vcf:12.", metavar="A B"
        ),
    ] = None,
    figure: Annotated[
        Path | None,
        typer.Option(help="Draw scores, thresholds and sizes of groups.", metavar="FILE.png"),
    ] = None,
    page: Annotated[
        Path | None,
        typer.Option(
            help="Write a page on which it is decided in a browser; it saves a sheet for 'merge "
            "--sheet'.",
            metavar="FILE.html",
        ),
    ] = None,
    decisions: options.Decisions = None,
    sure: options.Sure = 13.0,
    ask: options.Ask = 6.0,
    show: Annotated[int, typer.Option(help="Groups to show.", min=0, metavar="N")] = 6,
    region: options.NumbersOf = "",
    force: options.Force = False,
    *,
    read: options.ReadBlock,
    report: options.ReportBlock,
) -> int:
    """Find who is the same person, however differently written; nothing is changed.

    Each verdict has its reasons, in points: what agrees and what does not, rare values weighing
    more than common ones. Families, namesakes, and people who only share an office's number are
    kept apart. What is not sure is asked: in the sheet, or with 'roundcard review SHEET'. What was
    decided before holds, as long as its grounds stand.
    """
    from roundcard.app.match import MatchPlan, match_people
    from roundcard.cli import planning, settings
    from roundcard.cli.render import match as render
    from roundcard.cli.render.text import write_json

    region = settings.region(region)
    wanted = MatchPlan(planning.plan_of(sources, "", read), sure, ask, region, groups, figure,
                       page, 0 if report.quiet else None if report.json else show, decisions, force,
                       planning.today().isoformat())  # fmt: skip
    found = match_people(wanted, look=not explain)
    if explain:
        one, other = map(found.record, explain)
        shown = found.shown(one, other)
        sys.stdout.write(render.explained(found.matches, one, other, shown, explain))
    elif report.json:
        told = render.for_machines(found.matches, found.people, found.names, found.known.resolved)
        write_json(told)
    elif not report.quiet:
        sys.stdout.write(render.for_people(found))
    return 0
