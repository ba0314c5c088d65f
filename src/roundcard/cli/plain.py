"""Commands and groups whose help pages say what an option takes in words, and never a type."""

from __future__ import annotations

from functools import partial
from typing import Any

from typer.core import TyperArgument, TyperCommand, TyperGroup

from roundcard.cli.converted import at_once


class _Plain:
    """What has flags, the library's own among them, that take no value and so show none, and
    arguments that are called by their names alone."""

    def get_params(self, ctx: Any) -> list[Any]:
        """The arguments and options, which make their values at once."""
        params: list[Any] = super().get_params(ctx)  # type: ignore[misc]
        for each in params:
            at_once(each)
            if getattr(each, "is_flag", False):
                each.metavar = " "
            elif isinstance(each, TyperArgument):
                name = each.metavar or each.name or ""
                vars(each).update(
                    display_type_rich=partial(_shown, None),
                    get_usage_pieces=partial(_shown, [name]),
                )
        return params


def _shown(what: Any, ctx: Any) -> Any:  # noqa: ARG001
    """What stands for an argument, whatever is asked for."""
    return what


class Command(_Plain, TyperCommand):
    """A command of the program."""


class Group(_Plain, TyperGroup):
    """A group of commands."""
