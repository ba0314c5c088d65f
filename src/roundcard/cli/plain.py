"""Commands and groups whose help pages name no type beside a flag."""

from __future__ import annotations

from typing import Any

from typer.core import TyperCommand, TyperGroup


class _PlainFlags:
    """What has flags, the library's own among them, that take no value and so show none."""

    def get_params(self, ctx: Any) -> list[Any]:
        """The arguments and options."""
        params: list[Any] = super().get_params(ctx)  # type: ignore[misc]
        for each in params:
            if getattr(each, "is_flag", False):
                each.metavar = " "
        return params


class Command(_PlainFlags, TyperCommand):
    """A command of the program."""


class Group(_PlainFlags, TyperGroup):
    """A group of commands."""
