"""``roundcard check``: is it ready for that service?"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold], on the data that 'roundcard demo' lays out

  roundcard check skippers.vcf --destination lockside

  roundcard check for-lockside.csv --destination lockside --there skippers.vcf

  roundcard check skippers.vcf --destination narrow-lock --findings findings.csv
"""


def check(
    files: Annotated[
        list[str],
        typer.Argument(
            metavar="FILE...",
            help="The files that are to be sent, all of them; '-' is standard input.",
            show_default=False,
        ),
    ],
    destination: Annotated[
        str,
        typer.Option(
            help="The service: its name, or a destination file.", metavar="NAME", show_default=False
        ),
    ],
    there: Annotated[
        str,
        typer.Option(help="An export of what the service has, to tell who is new.", metavar="FILE"),
    ] = "",
    existing: Annotated[
        str,
        typer.Option(
            help="What the import is to do with people whom it knows: update, beside, leave.",
            metavar="WORD",
        ),
    ] = "",
    findings: Annotated[
        Path | None,
        typer.Option(help="List each finding in a sheet, a row each.", metavar="FILE.csv|.xlsx"),
    ] = None,
    region: options.NumbersOf = "",
    force: options.Force = False,
    *,
    read: options.ReadBlock,
    report: options.ReportBlock,
) -> int:
    """Check files before they are sent: what the service would refuse, merge, cut, ignore, change.

    Nothing is changed. Each kind of finding has its count, the first records, and what mends it;
    the set of files is looked at as a whole, too: two people with one key, too many people, one
    person in two files. The forecast says how many will be taken. Exit code 1 with findings.
    """
    from roundcard.app.check import CheckPlan, check_files
    from roundcard.cli import planning, settings
    from roundcard.cli.render import check as render
    from roundcard.cli.render import progress
    from roundcard.cli.render.text import write_json

    to = planning.destination(destination)
    region = settings.region(region)
    wanted = CheckPlan(files, to, planning.reading(read), there, findings, region, existing,
                       force)  # fmt: skip
    with progress.shown(report.quiet) as watch:
        done = check_files(wanted, render.row_in_words, watch)
    if report.json:
        write_json(render.for_machines(done))
    elif not report.quiet:
        sys.stdout.write(render.for_people(done, files, destination, verbose=report.verbose))
        if findings is not None:
            sys.stderr.write(f"findings: {findings}\n")
    return 1 if done.findings else 0
