"""``roundcard help``: the help page of a command."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from roundcard.errors import UsageError, did_you_mean

EXAMPLES = """[bold]Examples[/bold]

  roundcard help

  roundcard help convert

  roundcard help layout draft

  roundcard help --man
"""


def help(  # noqa: A001
    context: typer.Context,
    command: Annotated[
        list[str] | None,
        typer.Argument(metavar="[COMMAND]...", help="A command.", show_default=False),
    ] = None,
    man: Annotated[
        bool, typer.Option("--man", help="The manual page of the whole program, for 'man -l -'.")
    ] = False,
) -> None:
    """Show the help page of a command, or of the whole program."""
    if man:
        from roundcard.cli.described import man_page
        from roundcard.cli.render.text import write_data

        write_data(man_page(), sys.stdout)
        return
    at = context.find_root()
    for name in command or ():
        commands = getattr(at.command, "commands", {})
        if name not in commands:
            guess = did_you_mean(name, list(commands)) or "; 'roundcard help' lists them"
            raise UsageError(f"'{name}' is no command of {at.command_path}{guess}")
        _, found, _ = at.command.resolve_command(at, [name])  # type: ignore[attr-defined]
        at = type(at)(found, info_name=name, parent=at)
    sys.stdout.write(f"{at.get_help()}\n")
