"""``roundcard update``: a sheet that people edited, taken back into its book."""

from __future__ import annotations

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
    from roundcard.cli import sheets  # noqa: PLC0415
    from roundcard.cli.planning import Usual  # noqa: PLC0415

    usual = Usual(layout, to_layout, to, from_, prove, force, dry_run)
    plan = usual.plan([book], target)
    if plan.to_layout is None:
        plan.keep_layout()
    return sheets.take_back(plan, sheet, yes=yes, json=json_, quiet=quiet, verbose=verbose)
