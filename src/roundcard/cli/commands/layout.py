"""``roundcard layout``: what a table's columns mean, as a file that people can read."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from roundcard.cli import options, plain
from roundcard.cli.catalog import SUMMARIES
from roundcard.cli.render.text import count, styled, table, width, write_data, write_json
from roundcard.errors import SourceError, UsageError

if TYPE_CHECKING:
    from roundcard.books.source import Source

app = typer.Typer(
    cls=plain.Group,
    no_args_is_help=True,
    rich_markup_mode="rich",
    help=SUMMARIES["layout"],
)

_LAYOUT = Annotated[
    str, typer.Argument(metavar="LAYOUT", help="A layout file, or the name of a kept layout.",
                        show_default=False),
]  # fmt: skip


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard layout draft ledger.csv\n\n"
    "  roundcard layout draft ledger.csv -o ledger.toml\n\n"
    "  roundcard layout draft ledger.csv -o few.toml --bare"
)
def draft(
    sources: Annotated[
        list[str],
        typer.Argument(
            metavar="SOURCE...",
            help="Sample files of one layout; '-' is standard input.",
            show_default=False,
        ),
    ],
    output: Annotated[
        str,
        typer.Option(
            "--output",
            "-o",
            metavar="FILE",
            help="The layout file to write; '-' is standard output. SOURCE's name with .toml by "
            "default.",
            show_default=False,
        ),
    ] = "",
    name: Annotated[
        str, typer.Option(help="The layout's name, instead of FILE's.", metavar="NAME")
    ] = "",
    bare: Annotated[
        bool, typer.Option("--bare", help="Map nothing: headings and samples as comments.")
    ] = False,
    only_filled: Annotated[
        bool, typer.Option("--only-filled", help="Leave out empty columns.")
    ] = False,
    force: options.Force = False,
    json: options.Json = False,
    quiet: options.Quiet = False,
    *,
    read: options.TableBlock,
) -> None:
    """Draft the layout of a table from its headings and from what stands in its cells.

    Each column gets its reason and how sure it is, as a comment; what is unsure is marked LOOK,
    what fits no standard field is kept as custom, and empty columns are skipped.
    """
    from roundcard.app.draft import (
        DraftPlan,  # --help needs none of it
        draft_layout,
    )
    from roundcard.cli.render import layouts as render
    from roundcard.cli.render import machines, progress

    if not output:
        if sources[0] == "-":
            raise UsageError("of standard input the layout needs a name; give one with -o FILE")
        output = Path(sources[0]).with_suffix(".toml").name
    path = Path(output) if output != "-" else None
    wanted = DraftPlan(_tables(sources, read), path, name, bare, only_filled, force)
    with progress.shown(quiet) as watch:
        made = draft_layout(wanted, watch)
    if path is None:
        write_data(made.text, sys.stdout)
    if json:
        write_json(machines.drafted(made.draft, output), None if path else sys.stderr)
    elif not quiet:
        sys.stderr.write(render.draft_told(made.draft, output, bare=bare))


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard layout show lockside\n\n"
    "  roundcard layout show layouts/membership-ledger.toml\n\n"
    "  roundcard layout show layouts/membership-ledger.toml ledger.csv"
)
def show(
    layout: _LAYOUT,
    source: Annotated[
        str,
        typer.Argument(metavar="[SOURCE]", help="A table to show samples of.", show_default=False),
    ] = "",
    json: options.Json = False,
) -> None:
    """Show a layout as a table: each column, what it holds, samples, reason and sureness.

    The comments that a draft writes tell reasons and sureness; with a SOURCE, samples come from
    there.
    """
    from roundcard.cli.places import layout_places
    from roundcard.cli.render import layouts as render
    from roundcard.cli.render import machines
    from roundcard.layouts import library
    from roundcard.layouts.drafting.written import remarks_in
    from roundcard.survey.checking import samples_of

    shown = []
    for found in library.find(layout, layout_places()):
        samples = samples_of(found, _tables([source])[0]) if source else {}
        remarks = remarks_in(library.text_of(found, layout_places()), found)
        if json:
            shown.append(machines.layout(found, remarks, samples))
        else:
            sys.stdout.write(render.for_people(found, remarks, samples))
    if json:
        write_json(machines.told(layouts=shown))


@app.command("list", epilog="[bold]Example[/bold]\n\n  roundcard layout list")
def list_(json: options.Json = False) -> None:
    """List the kept layouts: the user's own, and those that come with the tool."""
    from roundcard.cli.places import home, layout_places
    from roundcard.cli.render import machines
    from roundcard.layouts import library
    from roundcard.layouts.model import Layout

    own = home() / "layouts"
    if json:
        write_json(machines.kept(library.kept(layout_places()), own, "layouts"))
        return
    rows = [("name", "title", "columns", "kept")]
    for path, found in library.kept(layout_places()):
        kept = str(path) if path.parent == own else "comes with roundcard"
        if isinstance(found, Layout):
            rows.append((found.name, found.title, str(len(found.columns)), kept))
        else:
            rows.append((path.stem, styled("wrong", "red", sys.stdout), "–", str(found)))
    lines = table(rows, right=(2,), most=width(sys.stdout))
    lines[0] = styled(lines[0], "dim", sys.stdout)
    sys.stdout.write("\n".join(lines) + "\n")
    if not own.is_dir():
        sys.stdout.write(f"\nlayouts of your own are kept in {own}\n")


@app.command(
    epilog="[bold]Examples[/bold]\n\n  roundcard layout check layouts/membership-ledger.toml\n\n"
    "  roundcard layout check layouts/membership-ledger.toml ledger.csv\n\n"
    "  roundcard layout check lockside ledger.csv"
)
def check(
    layout: _LAYOUT,
    sources: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="[SOURCE]...", help="Tables to compare the layout with.", show_default=False
        ),
    ] = None,
    json: options.Json = False,
    *,
    read: options.TableBlock,
) -> int:
    """Check a layout: is it written right, and, given a SOURCE, does it still fit that table?

    Told are columns that are missing, new or renamed, cells that speak against their field, and
    skipped columns in which something stands. Exit code 1 with findings.
    """
    from roundcard.cli.places import layout_places
    from roundcard.cli.render import machines, progress
    from roundcard.layouts import library
    from roundcard.survey.checking import check_layout

    found = 0
    checked = []
    layouts = library.find(layout, layout_places())
    for each in layouts:
        if not sources and not json:
            columns = count(len(each.columns), "column")
            sys.stdout.write(f"{each.where}: '{each.name}' is right, {columns}\n")
        for source in _tables(sources or [], read):
            with progress.shown() as watch:
                notes = check_layout(each, source, watch)
            found += len(notes)
            checked.append({"layout": each.name, "source": source.name, "findings": notes})
            if json:
                continue
            told = count(len(notes), "finding") if notes else "fits"
            sys.stdout.write(f"{styled(source.name, 'bold', sys.stdout)}: {told}\n")
            sys.stdout.writelines(f"  {note}\n" for note in notes)
    if json:
        right = [{"layout": each.name, "file": each.where} for each in layouts]
        write_json(machines.told(layouts=right, checked=checked))
    return 1 if found else 0


@app.command(
    epilog="[bold]Example[/bold]\n\n  roundcard layout keep layouts/membership-ledger.toml "
    "--name ledger"
)
def keep(
    file: Annotated[
        Path, typer.Argument(metavar="FILE", help="A layout file.", show_default=False)
    ],
    name: Annotated[
        str, typer.Option(help="The name to keep it under, instead of its own.", metavar="NAME")
    ] = "",
    force: options.Force = False,
    json: options.Json = False,
) -> None:
    """Keep a layout under its name, for the next file of the same layout.

    'convert' and 'survey' take a kept layout by themselves where it fits, and say so.
    """
    from roundcard.app.keep import keep_layout
    from roundcard.cli.places import home
    from roundcard.cli.render import machines

    path = keep_layout(file, home() / "layouts", name, force=force)
    if json:
        write_json(machines.told(files=[str(path)]))
    else:
        sys.stdout.write(f"kept as '{path.stem}': {path}\n")


@app.command(epilog="[bold]Example[/bold]\n\n  roundcard layout match ledger.csv school-visits.csv")
def match(
    sources: Annotated[
        list[str],
        typer.Argument(metavar="SOURCE...", help="Tables to find layouts for.", show_default=False),
    ],
    layouts: Annotated[
        list[str] | None,
        typer.Option(
            "--layout",
            "-l",
            metavar="LAYOUT",
            help="Look among these (files, folders, names) instead of the kept ones.",
        ),
    ] = None,
    all_: Annotated[bool, typer.Option("--all", help="Also show layouts that hardly fit.")] = False,
    json: options.Json = False,
) -> int:
    """Say which kept layout fits a table, and how well.

    Exit code 1 where none fits one of the tables well enough to be taken by itself.
    """
    from roundcard.books.tables import fits_of, guessed_dialect
    from roundcard.cli.places import layout_places
    from roundcard.cli.render import layouts as render
    from roundcard.cli.render import machines
    from roundcard.layouts import library
    from roundcard.layouts.fitting import TAKEN_FROM
    from roundcard.layouts.model import Layout

    places = layout_places()
    if layouts:
        among = [found for name in layouts for found in library.find(name, places)]
    else:
        among = [found for _, found in library.kept(places) if isinstance(found, Layout)]
    without = 0
    held = []
    for source in _tables(sources):
        fits = fits_of(source, among, guessed_dialect(source))
        without += not fits or fits[0].score < TAKEN_FROM
        held.append((source.name, fits))
        if not json:
            sys.stdout.write(render.fits_told(source.name, fits, everything=all_))
    if json:
        write_json(machines.fits(held))
    return 1 if without else 0


@app.command(
    epilog="[bold]Example[/bold]\n\n"
    "  roundcard layout draft ledger.csv -o ledger.toml\n\n"
    "  roundcard layout edit ledger.toml ledger.csv\n\n"
    "  roundcard layout edit ledger.toml ledger.csv --column Joined"
)
def edit(
    file: Annotated[
        Path, typer.Argument(metavar="FILE", help="A layout file.", show_default=False)
    ],
    source: Annotated[
        str,
        typer.Argument(
            metavar="[SOURCE]", help="A table to show samples and proposals of.", show_default=False
        ),
    ] = "",
    all_: Annotated[
        bool, typer.Option("--all", help="Go through all columns, not only the unsure ones.")
    ] = False,
    columns: Annotated[
        list[str] | None,
        typer.Option(
            "--column",
            help="Ask about this column only, by its heading or its number; may be given again.",
            metavar="COLUMN",
        ),
    ] = None,
) -> int:
    """Go through the unsure columns of a layout file at the terminal, and write what is decided.

    For each column its samples and the best proposals are shown; a number takes a proposal, a
    field path is completed with Tab. Where the cells speak against an answer, it is asked again;
    how dates are written, what separates several values and what codes mean is asked where the
    cells need it. Comments in the file are kept.
    """
    from roundcard.cli.prompts.layout_editor import edit_layout

    table = _tables([source])[0] if source else None
    return edit_layout(file, table, everything=all_, columns=columns or ())


def _tables(names: Sequence[str], read: options.TableBlock | None = None) -> list[Source]:
    """The sources that a command names, of which each must be a table."""
    from roundcard.books.source import sources_of
    from roundcard.cli.planning import how_to_read

    how = how_to_read(read or options.TableBlock())
    found = sources_of(names, sys.stdin.buffer, how, tables=True)
    for source in found:
        if source.format.sort == "card":
            raise SourceError(f"{source.name}: a layout is for tables, and this is "
                              f"{source.format.title}")  # fmt: skip
    return found
