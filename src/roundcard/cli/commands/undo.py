"""``roundcard undo``: a run taken back."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold]

  roundcard undo runs/2026-11-28-2 --dry-run

  roundcard undo runs/2026-11-28-2 --there lockside-export.csv --yes

  roundcard undo runs/2026-11-28-1 --and-later
"""


def undo(
    run: Annotated[
        Path, typer.Argument(metavar="RUN", help="The folder of a run.", show_default=False)
    ],
    and_later: Annotated[
        bool, typer.Option("--and-later", help="Take back all later runs, too.")
    ] = False,
    there: Annotated[
        Path | None,
        typer.Option(
            help="What the destination holds now; what was edited there since, stays.",
            metavar="FILE",
        ),
    ] = None,
    yes: Annotated[bool, typer.Option("--yes", "-y", help="Do not ask.")] = False,
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Show the plan, and stop there.")
    ] = False,
    *,
    report: options.ReportBlock,
) -> int:
    """Take back the newest run that stands: what is as it left it goes back to what it was before.

    Where files are imported by hand that is a file that restores, and a list of whom to remove.
    What was edited since stays, and is listed. Undone, the job can run again, with the same files.
    """
    from roundcard.cli import jobs
    from roundcard.cli.render import progress
    from roundcard.cli.render import run as render
    from roundcard.cli.render.text import write_json
    from roundcard.jobs.undo import UndoPlan, undo_run

    job, name = jobs.of_run(run)
    asks = jobs.Terminal(yes=yes, quiet=not report.people)
    wanted = UndoPlan(jobs.plan(job, there=there, dry_run=dry_run), name, and_later)
    with progress.shown(report.quiet) as watch:
        done = undo_run(wanted, asks, render.whole_plan, watch)
    if report.json:
        write_json(render.for_machines(done))
    elif report.people:
        sys.stderr.write(render.undone(done, name))
    return 1 if done.asks or done.ended == "declined" else 0
