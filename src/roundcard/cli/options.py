"""Options that several commands have, said once."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

Files = Annotated[
    list[str],
    typer.Argument(
        metavar="SOURCE... TARGET",
        help="The files to read, and last the one to write; - is standard input or output.",
        show_default=False,
    ),
]
Layouts = Annotated[
    list[str] | None,
    typer.Option(
        "--layout", "-l", metavar="LAYOUT",
        help="Read tables by this layout (a file, a folder of them, a name).",
    ),
]  # fmt: skip
ToLayout = Annotated[
    str | None, typer.Option(help="Layout of the table that is written.", metavar="LAYOUT")
]
To = Annotated[str, typer.Option(help="Format to write.", metavar="FORMAT")]
From = Annotated[
    str,
    typer.Option("--from", help="Format to read, where content and name mislead.",
                 metavar="FORMAT"),
]  # fmt: skip
Encoding = Annotated[
    str, typer.Option(help="The tables' character set, where they do not tell it.", metavar="NAME")
]
Separator = Annotated[
    str,
    typer.Option(help="What parts the cells: comma, semicolon, tab, bar or a character.",
                 metavar="MARK"),
]  # fmt: skip
HeadingRow = Annotated[
    int | None,
    typer.Option(help="The row of the headings, from 1; 0 for none.", min=0, metavar="N"),
]
Sheet = Annotated[str, typer.Option(help="The sheet of a workbook.", metavar="NAME")]
Region = Annotated[
    str,
    typer.Option(
        help="Cleaning: the country of numbers without a country code, as GB; a contact's own "
        "address beats it.",
        metavar="CODE",
    ),
]
RulesFile = Annotated[
    Path | None,
    typer.Option(help="Cleaning: rules, forms and replacements from a file.", metavar="FILE.toml"),
]
Changes = Annotated[
    Path | None,
    typer.Option(help="Cleaning: list every change and every doubt.", metavar="FILE.csv"),
]
RenameCategory = Annotated[
    list[str] | None,
    typer.Option(
        help="Rename a category; into the name of another one, the two are merged.",
        metavar="OLD=NEW",
    ),
]
RemoveCategory = Annotated[
    list[str] | None, typer.Option(help="Take a category off everybody.", metavar="NAME")
]
Sure = Annotated[
    float, typer.Option(help="Points from which two are the same unasked.", metavar="N")
]
Ask = Annotated[float, typer.Option(help="Points from which a person is asked.", metavar="N")]
NumbersOf = Annotated[
    str, typer.Option(help="The country of numbers without a country code, as GB.", metavar="CODE")
]
Decisions = Annotated[
    Path | None,
    typer.Option(
        help="Where decisions are kept; roundcard-decisions.jsonl beside what is written.",
        metavar="FILE",
        show_default=False,
    ),
]
Prove = Annotated[
    bool,
    typer.Option("--prove", help="Read the target again, and hold it against what was meant."),
]
Force = Annotated[bool, typer.Option("--force", help="Replace existing files.")]
DryRun = Annotated[bool, typer.Option("--dry-run", help="Write nothing.")]
Json = Annotated[bool, typer.Option("--json", help="Report for machines.")]
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help="No report, no progress.")]
Verbose = Annotated[bool, typer.Option("--verbose", "-v", help="All of the report.")]
