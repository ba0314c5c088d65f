"""``roundcard survey``: what is in these files, and what is wrong with them."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold]

  roundcard survey ledger.csv

  roundcard survey *.csv *.vcf --unreachable to-ask.csv

  roundcard survey ledger.csv --figure ledger.png
"""


def survey(
    sources: Annotated[
        list[str],
        typer.Argument(
            metavar="SOURCE...",
            help="Files to look at; '-' is standard input, a folder all its files.",
            show_default=False,
        ),
    ],
    layout: options.Layouts = None,
    from_: options.From = "",
    encoding: options.Encoding = "",
    separator: options.Separator = "",
    heading_row: options.HeadingRow = None,
    sheet: options.Sheet = "",
    unreachable: Annotated[
        Path | None,
        typer.Option(
            help="List the people who lack an e-mail address, a phone or a postal address.",
            metavar="FILE.csv",
        ),
    ] = None,
    figure: Annotated[
        Path | None,
        typer.Option(help="Draw fill, reach and trouble.", metavar="FILE.png"),
    ] = None,
    force: options.Force = False,
    json_: options.Json = False,
    quiet: options.Quiet = False,
    verbose: Annotated[
        bool, typer.Option("--verbose", "-v", help="Reasons and usual values of each column.")
    ] = False,
) -> None:
    """Look at files before anything is moved: what they hold, how full it is, what is wrong.

    For each file its format, character set and separator, its people, and each column or field:
    how full, what it seems to hold, samples, trouble. Then who can be reached. Nothing is written
    but what --unreachable and --figure ask for.
    """
    from roundcard.books.source import HowToRead  # noqa: PLC0415  # --help needs none of it
    from roundcard.cli.places import layout_places, own_layouts  # noqa: PLC0415
    from roundcard.cli.render import progress  # noqa: PLC0415
    from roundcard.cli.render import survey as render  # noqa: PLC0415
    from roundcard.formats.csv import named_separators  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415
    from roundcard.survey.survey import SurveyPlan  # noqa: PLC0415
    from roundcard.survey.survey import survey as run  # noqa: PLC0415

    places = layout_places()
    plan = SurveyPlan(
        sources=sources,
        layouts=[found for name in layout or () for found in shelf.find(name, places)],
        kept=own_layouts(),
        how=HowToRead(
            from_, encoding, named_separators().get(separator, separator), heading_row, sheet
        ),
        unreachable=unreachable,
        force=force,
        stdin=sys.stdin.buffer,
    )
    if figure is not None:
        from roundcard.books.figures import demand_free  # noqa: PLC0415

        demand_free(figure, force=force)
    with progress.shown(quiet) as watch:
        found = run(plan, watch)
    if figure is not None:
        from roundcard.survey.figure import draw  # noqa: PLC0415

        draw(found, figure, force=force)
    if json_:
        text = json.dumps(render.for_machines(found), ensure_ascii=False, indent=2)
        sys.stdout.write(text + "\n")
    else:
        sys.stdout.write(render.for_people(found, verbose))
    for path, what in ((unreachable, "people to ask"), (figure, "figure")):
        if path is not None:
            sys.stderr.write(f"{what}: {path}\n")
