"""``roundcard survey``: what is in these files, and what is wrong with them."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.cli.render.text import write_json

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
    *,
    read: options.ReadBlock,
    report: options.ReportBlock,
) -> None:
    """Look at files before anything is moved: what they hold, how full it is, what is wrong.

    For each file its format, character set and separator, its people, and each column or field:
    how full, what it seems to hold, samples, trouble. Then who can be reached. Nothing is written
    but what --unreachable and --figure ask for.
    """
    from roundcard.app.survey import (
        SurveyPlan,  # --help needs none of it
        survey_sources,
    )
    from roundcard.cli import planning
    from roundcard.cli.render import progress
    from roundcard.cli.render import survey as render

    plan = SurveyPlan(sources, planning.reading(read), unreachable, figure, force)
    with progress.shown(report.quiet) as watch:
        found = survey_sources(plan, watch)
    if report.json:
        write_json(render.for_machines(found))
    else:
        sys.stdout.write(render.for_people(found, report.verbose))
    for path, what in ((unreachable, "people to ask"), (figure, "figure")):
        if path is not None:
            sys.stderr.write(f"{what}: {path}\n")
