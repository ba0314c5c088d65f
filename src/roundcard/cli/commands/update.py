"""``roundcard update``: a sheet that people edited, taken back into its book."""

from __future__ import annotations

from pathlib import Path
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
    edited: Annotated[
        Path,
        typer.Argument(metavar="SHEET", help="The workbook of 'roundcard convert --to-edit'."),
    ],
    target: Annotated[
        str, typer.Argument(metavar="TARGET", help="The book to write, with what was edited.")
    ],
    yes: Annotated[bool, typer.Option("--yes", "-y", help="Do it without asking.")] = False,
    *,
    read: options.ReadBlock,
    write: options.WriteBlock,
    report: options.ReportBlock,
) -> int:
    """Take a sheet that people edited back into its book.

    Cells that were changed, emptied and filled, rows that were added and deleted: all of it is
    shown, and done when you agree. What the sheet never showed stays as it is. Where the book is
    no longer what it was when the sheet was made, the row is reported and left.
    """
    from roundcard.cli.edit import take_back
    from roundcard.cli.planning import plan_of

    plan = plan_of([book], target, read, write)
    if len(plan.open()) == 1 and plan.to_layout is None:
        plan.keep_layout()
    return take_back(plan, edited, report, yes=yes)
