"""``roundcard destination``: what a service takes, as a file that people can read."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options, plain
from roundcard.cli.catalog import SUMMARIES
from roundcard.cli.render.text import styled, table, width, write_json

app = typer.Typer(
    cls=plain.Group,
    no_args_is_help=True,
    rich_markup_mode="rich",
    help=SUMMARIES["destination"],
)

_DESTINATION = Annotated[
    str, typer.Argument(metavar="DESTINATION", help="A destination file, or a kept one's name.",
                        show_default=False),
]  # fmt: skip


@app.command("list", epilog="[bold]Example[/bold]\n\n  roundcard destination list")
def list_(json: options.Json = False) -> None:
    """List the kept destinations: the user's own, and those that come with the tool."""
    from roundcard.cli.places import destination_places, home, layout_places
    from roundcard.cli.render import machines
    from roundcard.destinations import library
    from roundcard.destinations.model import Destination

    own = home() / "destinations"
    if json:
        every = library.kept(destination_places(), layout_places())
        write_json(machines.kept(every, own, "destinations"))
        return
    rows = [("name", "title", "accepts", "kept")]
    for path, found in library.kept(destination_places(), layout_places()):
        kept = str(path) if path.parent == own else "comes with roundcard"
        if isinstance(found, Destination):
            rows.append((found.name, found.title, ", ".join(found.accepts), kept))
        else:
            rows.append((path.stem, styled("wrong", "red", sys.stdout), "–", str(found)))
    lines = table(rows, most=width(sys.stdout))
    lines[0] = styled(lines[0], "dim", sys.stdout)
    sys.stdout.write("\n".join(lines) + "\n")
    if not own.is_dir():
        sys.stdout.write(f"\ndestinations of your own are kept in {own}\n")


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard destination show lockside\n\n"
    "  roundcard destination show narrow-lock"
)
def show(destination: _DESTINATION, json: options.Json = False) -> None:
    """Show in words what a service takes, insists on, and does to what it gets."""
    from roundcard.cli import planning
    from roundcard.cli.render import destinations as render
    from roundcard.cli.render import machines

    found = planning.destination(destination)
    if json:
        write_json(machines.destination(found))
    else:
        sys.stdout.write(render.for_people(found))


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard destination draft ledger.csv -o ledger-keeper.toml"
    "\n\n  roundcard destination draft skippers.vcf -o phone-book.toml"
)
def draft(
    export: Annotated[
        str,
        typer.Argument(
            metavar="EXPORT",
            help="What the service exported, or its empty import template.",
            show_default=False,
        ),
    ],
    output: Annotated[
        Path,
        typer.Option(
            "--output", "-o", metavar="FILE.toml", help="The destination file to write.",
            show_default=False,
        ),
    ],
    name: Annotated[
        str, typer.Option(help="The destination's name, instead of FILE's.", metavar="NAME")
    ] = "",
    force: options.Force = False,
    json: options.Json = False,
    quiet: options.Quiet = False,
    *,
    read: options.TableBlock,
) -> None:  # fmt: skip
    """Draft a destination from an export of the service, or from its empty import template.

    Headings become a layout beside the file, in 'layouts'; the longest values, the words and the
    uses that were seen stand in it as comments, as the limits do, to be filled in.
    """
    from roundcard.app.destinations import DraftDestination, draft_destination
    from roundcard.books.source import sources_of
    from roundcard.cli.planning import how_to_read
    from roundcard.cli.render import machines, progress

    source = sources_of([export], sys.stdin.buffer, how_to_read(read))[0]
    with progress.shown(quiet) as watch:
        made = draft_destination(DraftDestination(source, output, name, force), watch)
    if json:
        write_json(machines.told(files=[str(path) for path in made.files], people=made.seen.people))
    elif not quiet:
        people = f"{made.seen.people:,} people"
        sys.stderr.write(f"{output}: drafted from {people}; its limits are yours to fill in\n")
        sys.stderr.writelines(f"its layout: {path}\n" for path in made.files[1:])


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard destination check lockside\n\n"
    "  roundcard destination check destinations/narrow-lock.toml"
)
def check(destination: _DESTINATION, json: options.Json = False) -> None:
    """Check a destination file, and the layout that it names: is it written right?

    What is wrong is told with file, line and a suggestion; exit code 4.
    """
    from roundcard.cli import planning
    from roundcard.cli.render import machines

    found = planning.destination(destination)
    if json:
        write_json(machines.destination(found))
        return
    layout = f", layout '{found.layout.name}'" if found.layout is not None else ""
    sys.stdout.write(f"{found.file}: '{found.name}' is right{layout}\n")


@app.command(
    epilog="[bold]Example[/bold]\n\n  roundcard destination keep destinations/narrow-lock.toml"
)
def keep(
    file: Annotated[
        Path, typer.Argument(metavar="FILE", help="A destination file.", show_default=False)
    ],
    force: options.Force = False,
    json: options.Json = False,
) -> None:
    """Keep a destination under its name, and its layout with it, for every command that writes."""
    from roundcard.app.destinations import keep_destination
    from roundcard.cli.places import home, layout_places
    from roundcard.cli.render import machines

    kept = keep_destination(file, home(), layout_places(), force=force)
    if json:
        write_json(machines.told(files=[str(path) for path in kept]))
    else:
        sys.stderr.writelines(f"kept: {path}\n" for path in kept)
