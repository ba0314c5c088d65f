"""The commands of the program in the order of work, each loaded only when it is asked for.

What the program's own help page and the completion of a command's name show lies here, so that
neither loads a command; a test holds the summaries against the commands' docstrings.
"""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import cache
from importlib import import_module
from typing import Any

import typer
from typer.main import get_command

from roundcard.cli import plain

ABOUT = (
    "Gather address books, CSV files and vCards, and move them on complete, clean and provably so. "
    "Every value read is accounted for."
)
IN_ORDER: dict[str, dict[str, str]] = {
    "Look": {
        "survey": "Look at files before anything is moved: what they hold, how full it is, what is "
        "wrong.",
        "preview": "Look at one record at a time: the cell, the field that it becomes, the value "
        "as it will be.",
    },
    "Map": {
        "layout": "Layouts say what the columns of a table mean, for reading it and for writing "
        "it.",
    },
    "Choose and clean": {
        "convert": "Convert whole books: CSV to vCard, vCard to CSV, CSV to CSV, vCard version to "
        "version.",
        "pick": "Pick people: by a condition, a category, words, ticks in a sheet, or at random.",
        "clean": "Clean values by named rules. Sure repairs are made and listed, doubts are "
        "reported and left.",
        "update": "Take a sheet that people edited back into its book.",
    },
    "Doubles": {
        "match": "Find who is the same person, however differently written; nothing is changed.",
        "review": "Decide group by group, side by side, who is the same person.",
        "merge": "Merge what is the same person into one contact; the originals stay as they are.",
        "unmerge": "Take merges back: the originals stand again as they were.",
    },
    "Destination": {
        "destination": "Destinations say what a contact service takes: formats, limits, needs, "
        "allowed words.",
        "check": "Check files before they are sent: what the service would refuse, merge, cut, "
        "ignore, change.",
        "compare": "Compare two books: who is new, gone, changed, field by field and value by "
        "value.",
    },
    "The whole way": {
        "job": "A job is the whole way in one file: sources, cleaning, merging, destination, and "
        "what happens when it runs again.",
        "run": "Do the whole way of a job: plan, ask, do, prove.",
        "runs": "The runs of a job: 'roundcard runs JOB' lists them with where each stands.",
        "undo": "Take back the newest run that stands: what is as it left it goes back to what it "
        "was before.",
        "trace": "Tell the life of a person, or of one value: where it stood, what became of it, "
        "and why.",
        "backup": "Make a dated copy of a book, byte for byte, and prove it: read again, with the "
        "same people.",
    },
    "This tool": {
        "demo": "Lay out the address books of the Withy Canal Trust and run the whole example on "
        "them.",
        "settings": "Show the settings, each with where it comes from, or change them.",
        "help": "Show the help page of a command, or of the whole program.",
    },
}
"""The summary of each command, by the panel of the help page that it stands in."""

SUMMARIES = {name: text for panel in IN_ORDER.values() for name, text in panel.items()}


class Catalog(plain.Group):
    """The program: its commands are known by name, and loaded when one is to run or to tell."""

    def __init__(self, **attributes: Any) -> None:
        super().__init__(**attributes)
        for panel, entries in IN_ORDER.items():
            for name, summary in entries.items():
                self.add_command(plain.Command(name=name, help=summary, rich_help_panel=panel))

    def resolve_command(self, ctx: Any, args: list[str]) -> tuple[str | None, Any, list[str]]:
        """The command that the first argument names, loaded, and the arguments behind it."""
        name, command, rest = super().resolve_command(ctx, args)
        if name is None or command is None:
            return name, command, rest
        return name, load(name), rest


@cache
def load(name: str) -> Any:
    """A command of the catalogue, or a group of them, with its options."""
    from roundcard.cli import options

    module = import_module(f"roundcard.cli.commands.{name}")
    app: typer.Typer | None = getattr(module, "app", None)
    if app is None:
        app = typer.Typer(rich_markup_mode="rich", add_completion=False)
        app.command(name, epilog=module.EXAMPLES)(getattr(module, name))
    for each in app.registered_commands:
        if each.callback is not None:
            each.help = _paragraphs(each.callback)
            each.callback = options.with_blocks(each.callback)
            each.cls = plain.Command
    app._add_completion = False
    app.pretty_exceptions_enable = False
    command = get_command(app)
    command.name = name
    return command


def _paragraphs(function: Callable[..., object]) -> str:
    """A docstring with its paragraphs on one line each, for the help page to wrap."""
    text = inspect.getdoc(function) or ""
    return "\n\n".join(" ".join(part.split()) for part in text.split("\n\n"))
