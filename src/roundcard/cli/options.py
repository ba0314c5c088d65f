"""Options that several commands have, declared once.

A command names the blocks that it has as parameters (``read: ReadBlock``); `with_blocks` makes
options of their fields, and gives the command the block back.
"""

from __future__ import annotations

import copy
import dataclasses
import functools
import inspect
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, get_type_hints

import typer

Files = Annotated[
    list[str] | None,
    typer.Argument(
        metavar="SOURCE... TARGET",
        help="The files to read, and last the one to write; - is standard input or output.",
        show_default=False,
    ),
]
Only = Annotated[str, typer.Option(help="Fields to write, separated by commas.", metavar="PATHS")]
Where = Annotated[
    list[str] | None,
    typer.Option(
        help="Only people that meet this condition; several must all hold.", metavar="CONDITION"
    ),
]
SetValues = Annotated[
    list[str] | None,
    typer.Option(
        "--set",
        metavar="PATH=VALUE",
        help="A value that each contact gets, such as 'category=Batch {date}'.",
    ),
]
Region = Annotated[
    str,
    typer.Option(
        help="Cleaning: the country of numbers without a country code, such as GB; a contact's "
        "own address beats it.",
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
    float,
    typer.Option(
        help="Score at or above which two contacts are the same without asking.", metavar="N"
    ),
]
Ask = Annotated[float, typer.Option(help="Score at or above which a person is asked.", metavar="N")]
NumbersOf = Annotated[
    str,
    typer.Option(help="The country of numbers without a country code, such as GB.", metavar="CODE"),
]
Decisions = Annotated[
    Path | None,
    typer.Option(
        help="Where decisions are kept; roundcard-decisions.jsonl beside what is written.",
        metavar="FILE",
        show_default=False,
    ),
]
Force = Annotated[bool, typer.Option("--force", help="Replace existing files.")]
Json = Annotated[bool, typer.Option("--json", help="Report for machines.")]
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help="No report, no progress.")]


@dataclasses.dataclass(slots=True)
class TableBlock:
    """How the cells of tables are read: had by every command that reads."""

    from_: Annotated[
        str,
        typer.Option("--from", help="Input format, if detection gets it wrong.", metavar="FORMAT"),
    ] = ""
    encoding: Annotated[
        str,
        typer.Option(
            help="Character set of the tables, if detection gets it wrong.", metavar="NAME"
        ),
    ] = ""
    separator: Annotated[
        str,
        typer.Option(
            help="The separator between cells: comma, semicolon, tab, bar, or a character.",
            metavar="MARK",
        ),
    ] = ""
    heading_row: Annotated[
        int | None,
        typer.Option(help="The row of the headings, from 1; 0 for none.", min=0, metavar="N"),
    ] = None
    sheet_name: Annotated[
        str,
        typer.Option("--sheet", "--sheet-name", help="The sheet of a workbook.", metavar="NAME"),
    ] = ""


@dataclasses.dataclass(slots=True)
class ReadBlock(TableBlock):
    """How sources are read: had by every command that reads books."""

    layout: Annotated[
        list[str] | None,
        typer.Option(
            "--layout", "-l", metavar="LAYOUT",
            help="Layout of the tables that are read: a file, a kept layout's name, or a folder. "
            "Of several, each table takes the one that fits it best.",
        ),
    ] = None  # fmt: skip
    from_destination: Annotated[
        str,
        typer.Option(
            help="The sources are what this service takes or gives: its layout, and values out of "
            "the note.", metavar="NAME",
        ),
    ] = ""  # fmt: skip


@dataclasses.dataclass(slots=True)
class WriteBlock:
    """How a target is written: had by every command that writes one."""

    to: Annotated[
        str,
        typer.Option(
            help="Format to write: vcard-4.0, vcard-3.0, vcard-2.1, jcard, csv, xlsx.",
            metavar="FORMAT",
        ),
    ] = ""
    to_layout: Annotated[
        str | None, typer.Option(help="Layout of the table that is written.", metavar="LAYOUT")
    ] = None
    destination: Annotated[
        str,
        typer.Option(
            help="Write what this service takes: its name, or a destination file.", metavar="NAME"
        ),
    ] = ""
    left_behind: Annotated[
        Path | None,
        typer.Option(
            help="List what is left behind, and who is not sent, as a sheet too.",
            metavar="FILE.csv|.xlsx",
        ),
    ] = None
    side: Annotated[
        Path | None,
        typer.Option(
            help="Folder for what is left behind or set aside, instead of TARGET's.",
            metavar="FOLDER",
        ),
    ] = None
    prove: Annotated[
        bool,
        typer.Option("--prove", help="Read the target again, and compare it with what was meant."),
    ] = False
    force: Force = False
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Write nothing; show what would be done.")
    ] = False
    strict: Annotated[
        bool,
        typer.Option(
            "--strict", help="Fail at the first bad record; exit 1 if anything is left behind."
        ),
    ] = False
    processes: Annotated[
        int,
        typer.Option(
            help="Processes that share the work; 0 for as many as are worth it.", metavar="N", min=0
        ),
    ] = 0


@dataclasses.dataclass(slots=True)
class ReportBlock:
    """How a command reports: had by every command that reports."""

    json: Json = False
    quiet: Quiet = False
    verbose: Annotated[bool, typer.Option("--verbose", "-v", help="All of the report.")] = False

    @property
    def people(self) -> bool:
        """Whether people read the report."""
        return not (self.json or self.quiet)


_BLOCKS: dict[Any, str] = {
    TableBlock: "Reading", ReadBlock: "Reading", WriteBlock: "Writing", ReportBlock: "Report",
}  # fmt: skip
"""The blocks, each with the panel of the help page in which its options stand."""


@functools.cache
def _hints_of(block: type) -> dict[str, Any]:
    return get_type_hints(block, include_extras=True)


def _spellings(hint: Any) -> tuple[str, ...]:
    """The spellings of an option that are said; typer keeps the first one as its default."""
    option = getattr(hint, "__metadata__", (None,))[0]
    said = (getattr(option, "default", None), *(getattr(option, "param_decls", None) or ()))
    return tuple(each for each in said if isinstance(each, str) and each.startswith("-"))


def _without(hint: Any, taken: set[str]) -> Any:
    """An option without the spellings that mean something else in a command."""
    kept = tuple(each for each in _spellings(hint) if each not in taken)
    if len(kept) == len(_spellings(hint)):
        return hint
    option = copy.copy(hint.__metadata__[0])
    option.default, option.param_decls = ..., kept
    return Annotated[hint.__origin__, option]


def _in_panel(hint: Any, panel: str) -> Any:
    """An option of a block in the panel of its block."""
    option = copy.copy(hint.__metadata__[0])
    option.rich_help_panel = panel
    return Annotated[hint.__origin__, option]


def with_blocks(command: Callable[..., Any]) -> Callable[..., Any]:
    """A command with an option for each field of the blocks that it takes."""
    hints = get_type_hints(command, include_extras=True)
    taken = {spelling for hint in hints.values() for spelling in _spellings(hint)}
    parameters: list[inspect.Parameter] = []
    blocks: dict[str, type] = {}
    for each in inspect.signature(command).parameters.values():
        hint = hints[each.name]
        if hint not in _BLOCKS:
            parameters.append(each.replace(annotation=hint))
            continue
        blocks[each.name] = hint
        inner = {name: _in_panel(_without(each, taken), _BLOCKS[hint])
                 for name, each in _hints_of(hint).items()}  # fmt: skip
        parameters += [
            inspect.Parameter(field.name, each.kind, default=field.default,
                              annotation=inner[field.name])
            for field in dataclasses.fields(hint)
        ]  # fmt: skip

    def called(**given: Any) -> Any:
        for name, block in blocks.items():
            fields = [field.name for field in dataclasses.fields(block)]
            given[name] = block(**{field: given.pop(field) for field in fields})
        return command(**given)

    called.__name__, called.__doc__ = command.__name__, command.__doc__
    called.__annotations__ = {each.name: each.annotation for each in parameters}
    called.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    return called
