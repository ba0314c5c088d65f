"""``roundcard update``: a sheet that people edited, taken back into its book."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold]

  roundcard convert skippers.vcf to-edit.xlsx --to-edit

  roundcard update skippers.vcf to-edit.xlsx edited.vcf --dry-run

  roundcard update skippers.vcf to-edit.xlsx edited.vcf --yes
"""


def update(
    book: Annotated[
        str, typer.Argument(metavar="BOOK", help="The book that the sheet was made from.")
    ],
    sheet: Annotated[
        str,
        typer.Argument(metavar="SHEET", help="The workbook of 'roundcard convert --to-edit'."),
    ],
    target: Annotated[
        str, typer.Argument(metavar="TARGET", help="The book to write, with what was edited.")
    ],
    yes: Annotated[bool, typer.Option("--yes", "-y", help="Do it without asking.")] = False,
    layout: options.Layouts = None,
    to_layout: options.ToLayout = None,
    to: options.To = "",
    from_: options.From = "",
    prove: options.Prove = False,
    force: options.Force = False,
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Write nothing; show what was edited.")
    ] = False,
    json_: options.Json = False,
    quiet: options.Quiet = False,
    verbose: options.Verbose = False,
) -> int:
    """Take a sheet that people edited back into its book.

    Cells that were changed, emptied and filled, rows that were added and deleted: all of it is
    shown, and done when you agree. What the sheet never showed stays as it is. Where the book is
    no longer what it was when the sheet was made, the row is told and left.
    """
    from roundcard.books.plan import Plan  # noqa: PLC0415
    from roundcard.books.source import HowToRead  # noqa: PLC0415
    from roundcard.cli import sheets  # noqa: PLC0415
    from roundcard.cli.places import layout_places, own_layouts  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415

    places = layout_places()
    targets = shelf.find(to_layout, places) if to_layout else []
    plan = Plan(
        sources=[book],
        target=target,
        layouts=[found for name in layout or () for found in shelf.find(name, places)],
        kept=own_layouts(),
        to_layout=targets[0] if targets else None,
        how=HowToRead(from_),
        to_format=to,
        force=force,
        dry_run=dry_run,
        prove=prove,
        stdin=sys.stdin.buffer,
        stdout=sys.stdout.buffer,
    )
    if plan.to_layout is None:
        plan.keep_layout()
    return sheets.take_back(plan, sheet, yes=yes, json=json_, quiet=quiet, verbose=verbose)
