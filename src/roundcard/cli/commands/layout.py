"""``roundcard layout``: what a table's columns mean, as a file that people can read."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from roundcard.cli.render.text import count, styled, table

app = typer.Typer(
    no_args_is_help=True,
    rich_markup_mode="rich",
    help="Layouts say what the columns of a table mean, for reading it and for writing it.",
)

_LAYOUT = Annotated[
    str, typer.Argument(metavar="LAYOUT", help="A layout file, or the name of a kept layout.",
                        show_default=False),
]  # fmt: skip


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard layout show lockside\n\n"
    "  roundcard layout show layouts/membership-ledger.toml"
)
def show(layout: _LAYOUT) -> None:
    """Show a layout as a table: each column and what it holds."""
    from roundcard.cli.places import layout_places  # noqa: PLC0415
    from roundcard.cli.render import layouts as render  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415

    for found in shelf.find(layout, layout_places()):
        sys.stdout.write(render.for_people(found))


@app.command("list", epilog="[bold]Example[/bold]\n\n  roundcard layout list")
def list_() -> None:
    """List the kept layouts: the user's own, and those that come with the tool."""
    from roundcard.cli.places import home, layout_places  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415
    from roundcard.layouts.model import Layout  # noqa: PLC0415

    own = home() / "layouts"
    rows = [("name", "title", "columns", "kept")]
    for path, found in shelf.kept(layout_places()):
        kept = str(path) if path.parent == own else "comes with roundcard"
        if isinstance(found, Layout):
            rows.append((found.name, found.title, str(len(found.columns)), kept))
        else:
            rows.append((path.stem, styled("wrong", "red", sys.stdout), "–", str(found)))
    lines = table(rows, right=(2,))
    lines[0] = styled(lines[0], "dim", sys.stdout)
    sys.stdout.write("\n".join(lines) + "\n")
    if not own.is_dir():
        sys.stdout.write(f"\nlayouts of your own are kept in {own}\n")


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard layout check layouts/membership-ledger.toml\n\n"
    "  roundcard layout check lockside ledger.csv"
)
def check(
    layout: _LAYOUT,
    sources: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="[SOURCE]...", help="Tables to hold the layout against.", show_default=False
        ),
    ] = None,
) -> int:
    """Check a layout: is it written right, and, given a SOURCE, does it fit that table?

    Exit code 1 where a column is missing or new.
    """
    from roundcard.books.source import Source  # noqa: PLC0415
    from roundcard.books.tables import held_against  # noqa: PLC0415
    from roundcard.cli.places import layout_places  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415

    found = 0
    for each in shelf.find(layout, layout_places()):
        if not sources:
            columns = count(len(each.columns), "column")
            sys.stdout.write(f"{each.where}: '{each.name}' is right, {columns}\n")
        for name in sources or ():
            notes = held_against(each, Source(name, sys.stdin.buffer))
            found += len(notes)
            told = count(len(notes), "finding") if notes else "fits"
            sys.stdout.write(f"{styled(name, 'bold', sys.stdout)}: {told}\n")
            sys.stdout.writelines(f"  {note}\n" for note in notes)
    return 1 if found else 0
