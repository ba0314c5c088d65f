"""``roundcard job``: the whole way in one file, drafted and checked."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options, plain
from roundcard.cli.catalog import SUMMARIES
from roundcard.cli.render.text import count, write_json

app = typer.Typer(
    cls=plain.Group,
    no_args_is_help=True,
    rich_markup_mode="rich",
    help=SUMMARIES["job"],
)


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard job draft coordinator-phone.vcf ledger.csv "
    "--destination lockside -o move.toml\n\n"
    "  roundcard job draft skippers.vcf --destination narrow-lock --region GB -o skippers-job.toml"
)
def draft(
    sources: Annotated[
        list[str],
        typer.Argument(
            metavar="SOURCE...", help="The files and folders to move.", show_default=False
        ),
    ],
    destination: Annotated[
        str,
        typer.Option(
            help="The destination: its name, or a destination file.", metavar="NAME",
            show_default=False,
        ),
    ],
    output: Annotated[
        Path,
        typer.Option(
            "--output", "-o", metavar="FILE.toml", help="The job file to write.",
            show_default=False,
        ),
    ],
    name: Annotated[
        str, typer.Option(help="The job's name, instead of FILE's.", metavar="NAME")
    ] = "",
    region: options.NumbersOf = "",
    force: options.Force = False,
    json: options.Json = False,
    quiet: options.Quiet = False,
) -> None:  # fmt: skip
    """Draft a job from a look at its sources, with comments that say why.

    Layouts that fit are named, as is the region that numbers and addresses speak of. Nothing is
    read for good, and nothing written but the job file: 'roundcard run FILE --dry-run' shows the
    plan.
    """
    from roundcard.cli import planning, settings
    from roundcard.cli.places import layout_places
    from roundcard.cli.render import machines, progress
    from roundcard.jobs.draft import DraftJob, draft_job
    from roundcard.layouts import library
    from roundcard.layouts.model import Layout

    to = planning.destination(destination)
    own = output.parent / "layouts"
    layouts = [(found.name, found) for _, found in library.kept([own, *layout_places()])
               if isinstance(found, Layout)]  # fmt: skip
    region = settings.region(region)
    wanted = DraftJob(sources, to, destination, output, name, layouts, region, force)
    with progress.shown(quiet) as watch:
        made = draft_job(wanted, watch)
    if json:
        write_json(machines.told(files=[str(output)], sources=len(sources), people=made.people))
    elif not quiet:
        people = count(made.people, "person", "people")
        sys.stderr.write(f"{output}: drafted from {count(len(sources), 'source')}, {people}\n"
                         f"see the plan: roundcard run {output} --dry-run\n")  # fmt: skip


@app.command(epilog="[bold]Example[/bold]\n\n  roundcard job check move.toml")
def check(
    job: Annotated[
        Path, typer.Argument(metavar="JOB", help="A job file.", show_default=False)
    ],
    json: options.Json = False,
) -> None:  # fmt: skip
    """Check a job file and everything that it names: is it written right, and is it there?

    What is wrong is told with file, line and a suggestion; exit code 4.
    """
    from roundcard.cli import jobs
    from roundcard.cli.render import machines
    from roundcard.jobs.plan import missing_in

    found = jobs.load(job)
    missing = missing_in(found)
    if json:
        write_json(machines.job(found, missing))
        raise typer.Exit(1 if missing else 0)
    for line in missing:
        sys.stdout.write(f"{line}\n")
    sources = count(len(found.sources), "source")
    if not missing:
        sys.stdout.write(f"{job}: '{found.name}' is right: {sources} to {found.to.title}\n")
    raise typer.Exit(1 if missing else 0)
