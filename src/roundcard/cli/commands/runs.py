"""``roundcard runs``: the runs of a job, confirmed and cleared away."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from roundcard.cli import options, plain
from roundcard.cli.catalog import SUMMARIES


class _OrList(plain.Group):
    """What is no command of the group is a job, whose runs are listed."""

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        """The command, and what is left of the line."""
        if args and args[0] not in self.commands and not args[0].startswith("-"):
            args = ["list", *args]
        return super().resolve_command(ctx, args)


app = typer.Typer(
    cls=_OrList,
    no_args_is_help=True,
    rich_markup_mode="rich",
    help=SUMMARIES["runs"],
)

_RUN = Annotated[
    Path, typer.Argument(metavar="RUN", help="The folder of a run.", show_default=False)
]


@app.command("list", epilog="[bold]Example[/bold]\n\n  roundcard runs move.toml")
def list_(
    job: Annotated[Path, typer.Argument(metavar="JOB", help="A job file.", show_default=False)],
    *,
    report: options.ReportBlock,
) -> None:
    """List the runs of a job, with where each stands."""
    from roundcard.cli import jobs
    from roundcard.cli.render import run as render
    from roundcard.cli.render.text import write_json
    from roundcard.jobs.history import runs_of

    found = runs_of(jobs.load(job))
    if report.json:
        write_json(render.runs_for_machines(found))
    else:
        sys.stdout.write(render.runs(found))


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard runs confirm runs/2026-11-28-1\n\n"
    "  roundcard runs confirm runs/2026-11-28-1 --not-imported\n\n"
    "  roundcard runs confirm runs/2026-11-28-1 --there lockside-export.csv"
)
def confirm(
    run: _RUN,
    not_imported: Annotated[
        bool, typer.Option("--not-imported", help="Its files never got there.")
    ] = False,
    there: Annotated[
        Path | None,
        typer.Option(help="An export that shows who got there.", metavar="FILE"),
    ] = None,
    json: options.Json = False,
) -> None:
    """Say that the files of a run were imported; the next one goes by it."""
    from roundcard.cli import jobs
    from roundcard.cli.render import machines
    from roundcard.cli.render.text import write_json
    from roundcard.jobs.history import confirm_run

    job, name = jobs.of_run(run)
    done = confirm_run(jobs.plan(job, there=there), name, imported=not not_imported)
    if json:
        write_json(machines.told(run=str(run), imported=not not_imported, told=list(done)))
    else:
        sys.stderr.writelines(f"{line}\n" for line in done)


@app.command(epilog="[bold]Example[/bold]\n\n  roundcard runs delete runs/2026-11-28-1")
def delete(
    run: _RUN,
    yes: Annotated[bool, typer.Option("--yes", "-y", help="Do not ask.")] = False,
) -> int:
    """Remove the folder of a run: its files, lists and record. What was delivered still counts.

    Only a folder that the job's state knows, and whose manifest agrees, is removed; no link is
    followed.
    """
    from roundcard.cli import jobs
    from roundcard.jobs.history import delete_run, files_of

    job, name = jobs.of_run(run)
    going = files_of(job, name)
    for path in going:
        sys.stderr.write(f"  {path}\n")
    if not yes and not (sys.stdin.isatty() and typer.confirm("Remove these?", err=True)):
        sys.stderr.write("nothing was removed; use --yes to remove without being asked\n")
        return 1
    delete_run(job, name)
    sys.stderr.write(f"removed: {run}\n")
    return 0
