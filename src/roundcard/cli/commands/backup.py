"""``roundcard backup``: a dated, proved copy."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.cli.render.text import count, write_json

EXAMPLES = """[bold]Examples[/bold]

  roundcard backup skippers.vcf

  roundcard backup colleagues --to backups
"""


def backup(
    book: Annotated[
        Path | None,
        typer.Argument(metavar="BOOK", help="A book, or a folder of them.", show_default=False),
    ] = None,
    to: Annotated[
        Path | None,
        typer.Option(
            "--to", help="Folder for the copy; beside BOOK by default.", metavar="FOLDER",
            show_default=False,
        ),
    ] = None,
    destination: Annotated[
        str,
        typer.Option(help="What this service holds, in place of BOOK.", metavar="NAME"),
    ] = "",
    json: options.Json = False,
    quiet: options.Quiet = False,
) -> None:  # fmt: skip
    """Make a dated copy of a book, byte for byte, and prove it: read again, with the same people.

    A copy that is there already is never replaced; the new one gets a number.
    """
    from roundcard.app.backup import back_up
    from roundcard.cli.planning import today
    from roundcard.cli.render import machines
    from roundcard.errors import UsageError

    if destination:
        raise UsageError("--destination needs a client for services, which this version does not "
                         "have; export what the service holds, and name the file")  # fmt: skip
    if book is None:
        raise UsageError("missing argument: give a BOOK: roundcard backup BOOK")
    made = back_up(book, to, today().isoformat())
    if json:
        write_json(machines.backup(made))
    elif not quiet:
        people = count(made.people, "person", "people")
        files = f" in {count(made.files, 'file')}" if made.files > 1 else ""
        sys.stderr.write(f"{made.path}: {people}{files}, read again and the same\n")
