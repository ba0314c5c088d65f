"""``roundcard run``: a job, from its sources to import-ready files."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from roundcard.cli import options

if TYPE_CHECKING:
    from roundcard.cli.jobs import Terminal
    from roundcard.jobs.plan import RunPlan

EXAMPLES = """[bold]Examples[/bold]

  roundcard run move.toml --dry-run

  roundcard run move.toml

  roundcard run move.toml --there lockside-export.csv --yes

  roundcard run move.toml --trust ledger.csv

  roundcard run colleagues.toml --for-each 'colleagues/*.csv' --yes
"""


def run(
    job: Annotated[Path, typer.Argument(metavar="JOB", help="A job file.", show_default=False)],
    yes: Annotated[
        bool,
        typer.Option("--yes", "-y", help="Do not ask; what would be asked is held back."),
    ] = False,
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Show the plan, and stop there.")
    ] = False,
    there: Annotated[
        Path | None,
        typer.Option(
            help="What the destination holds now: an export of it, or a folder of cards.",
            metavar="FILE",
        ),
    ] = None,
    trust: Annotated[
        list[str] | None,
        typer.Option(
            help="This source is as it should be: what is missing in it is gone.",
            metavar="SOURCE",
        ),
    ] = None,
    for_each: Annotated[
        str,
        typer.Option(
            help="Run the job for each of these files: a pattern, in quotes. The source with 'each "
            "= true' stands for one after another.",
            metavar="PATTERN",
        ),
    ] = "",
    decided_in: Annotated[
        Path | None,
        typer.Option(
            "--sheet",
            help="A sheet of doubles with decisions, such as a report's page saves.",
            metavar="SHEET",
        ),
    ] = None,
    answers: Annotated[
        Path | None,
        typer.Option(
            help="Values that a run held back, decided in its held-back.csv.", metavar="FILE.csv"
        ),
    ] = None,
    blind: Annotated[
        bool,
        typer.Option("--blind", help="Write updates without knowing what the destination holds."),
    ] = False,
    apart: Annotated[
        bool,
        typer.Option("--apart", help="Leave doubtful pairs apart for now, and go on."),
    ] = False,
    *,
    report: options.ReportBlock,
) -> int:
    """Do the whole way of a job: plan, ask, do, prove.

    The plan says what is read, who is new, changed or gone, and which files will come; nothing
    appears before you agree. Run it again with newer exports, and only what is new or changed goes
    out. What waits for an answer is held back, and listed; then the exit code is 1.
    """
    from roundcard.cli import jobs
    from roundcard.cli.render import progress
    from roundcard.cli.render import run as render
    from roundcard.cli.render.text import write_json
    from roundcard.jobs.plan import trusted_of
    from roundcard.jobs.run import run_job

    loaded = jobs.load(job)
    asks = jobs.Terminal(yes=yes, quiet=not report.people)
    wanted = jobs.plan(
        loaded, there=there, sheet=decided_in, answers=answers,
        trusted=trusted_of(trust or [], loaded, there),
        blind=blind or asks.there, apart=apart, dry_run=dry_run,
    )  # fmt: skip
    if for_each:
        return _each(wanted, for_each, asks, report)
    with progress.shown(report.quiet) as watch:
        done = run_job(wanted, asks, render.whole_plan, watch)
    if report.json:
        write_json(render.for_machines(done))
    elif report.people:
        sys.stderr.write(render.ended(done, verbose=report.verbose))
    return 1 if done.asks or done.ended == "declined" else 0


def _each(wanted: RunPlan, pattern: str, asks: Terminal, report: options.ReportBlock) -> int:
    """Run a job for each of some files, and sum up."""
    from roundcard.cli.render import progress
    from roundcard.cli.render import run as render
    from roundcard.cli.render.text import write_json
    from roundcard.jobs.each import run_each

    asks.quiet = True
    members = []
    with progress.shown(report.quiet) as watch:
        for member in run_each(wanted, pattern, asks, render.whole_plan, watch):
            members.append(member)
            if report.people:
                sys.stderr.write(render.member(member) + "\n")
    if report.json:
        write_json(render.members_for_machines(members))
    elif report.people:
        sys.stderr.write(render.members(members))
    return 1 if any(member.asks for member in members) else 0
