"""``roundcard compare``: who is new, gone, changed between two books."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold], on the data that 'roundcard demo' lays out

  roundcard compare skippers.vcf skippers-now.vcf

  roundcard compare skippers.vcf skippers-now.vcf --sheet differences.csv --new new-skippers.vcf

  roundcard compare ledger.csv for-lockside.csv --layout layouts --as lockside
"""


def compare(
    old: Annotated[
        str,
        typer.Argument(metavar="OLD", help="The book as it was; a file, a folder, or '-'.",
                       show_default=False),
    ],
    new: Annotated[
        str,
        typer.Argument(metavar="NEW", help="The book as it is now.", show_default=False),
    ],
    as_: Annotated[
        str,
        typer.Option(
            "--as", metavar="NAME",
            help="NEW is what this service holds of OLD: what it does to values is taken as equal, "
            "and listed apart.",
        ),
    ] = "",
    sheet: Annotated[
        Path | None,
        typer.Option(
            "--sheet", help="List each difference in a sheet.", metavar="FILE.csv|.xlsx"
        ),
    ] = None,
    new_: Annotated[
        Path | None, typer.Option("--new", help="Write who is new as a book.", metavar="FILE")
    ] = None,
    changed: Annotated[
        Path | None,
        typer.Option(help="Write who is changed, as they are now, as a book.", metavar="FILE"),
    ] = None,
    gone: Annotated[
        Path | None, typer.Option(help="Write who is gone as a book.", metavar="FILE")
    ] = None,
    region: options.NumbersOf = "",
    decisions: options.Decisions = None,
    force: options.Force = False,
    *,
    read: options.ReadBlock,
    report: options.ReportBlock,
) -> int:  # fmt: skip
    """Compare two books: who is new, gone, changed, field by field and value by value.

    People are paired by uid, by the service's own field for it, by all that they say, by a key that
    only one has on each side, by kept decisions, and last by points; the last are likely and never
    sure. The order of records and of values does not matter. Exit code 1 with differences.
    """
    from roundcard.app.compare import ComparePlan, compare_books
    from roundcard.cli import planning, settings
    from roundcard.cli.render import compare as render
    from roundcard.cli.render import progress
    from roundcard.cli.render.text import write_json

    to = planning.destination(as_) if as_ else None
    region = settings.region(region)
    wanted = ComparePlan(old, new, planning.reading(read), to, region, decisions, sheet, new_,
                         changed, gone, force)  # fmt: skip
    with progress.shown(report.quiet) as watch:
        done = compare_books(wanted, watch)
    if report.json:
        write_json(render.for_machines(done))
    elif not report.quiet:
        sys.stdout.write(render.for_people(done, verbose=report.verbose))
        sys.stderr.writelines(f"written: {path}\n" for path in done.files)
    return 1 if done.differs else 0
