"""``roundcard review``: the questions of a sheet of matches, one after another."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard match skippers.vcf skippers-now.vcf --region GB --sheet doubles.csv

  roundcard review doubles.csv

  roundcard review doubles.csv --list
"""


def review(
    sheet: Annotated[
        Path, typer.Argument(metavar="SHEET", help="The sheet of 'roundcard match --sheet'.")
    ],
    all_: Annotated[
        bool, typer.Option("--all", help="All groups, those that are sure as well.")
    ] = False,
    list_: Annotated[
        bool, typer.Option("--list", help="Only tell how far the sheet is decided.")
    ] = False,
    decisions: options.Decisions = None,
    json: Annotated[
        bool, typer.Option("--json", help="With --list: tell it for machines.")
    ] = False,
) -> int:
    """Decide group by group, side by side, who is the same person.

    The sheet is the memory: it can be left at any time and taken up again, here or in a spreadsheet
    program. Decisions are also kept for later runs, with what they went by.

    Keys: s same, a apart, l later, b back, 1 to 9 another contact of the group, f this one leads,
    v take a value from this one, u undecided again, q leave.
    """
    from roundcard.app.review import Session
    from roundcard.cli import planning
    from roundcard.cli.prompts import review_prompt
    from roundcard.cli.render import machines
    from roundcard.cli.render import review as render
    from roundcard.cli.render.text import write_json

    session = Session(sheet, decisions, every=all_, when=planning.today().isoformat())
    if json and not list_:
        raise UsageError("--json goes with --list; deciding itself needs a terminal")
    if list_:
        if json:
            write_json(machines.sheet(session.review))
        else:
            sys.stdout.write(render.listed(session.review))
        return 0
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise UsageError("this command needs a terminal; write same or apart into the column "
                         "'decision' of the sheet instead, or use --list")  # fmt: skip
    return review_prompt.run(session)
