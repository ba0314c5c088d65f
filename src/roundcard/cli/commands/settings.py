"""``roundcard settings``: what holds where nobody says otherwise, and where it comes from."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold]

  roundcard settings

  roundcard settings region=GB names=given-first

  roundcard settings 'owner=I. Harrow'

  roundcard settings region=
"""


def settings(
    assignments: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="[KEY=VALUE]...",
            help="What to keep in the settings file; KEY= takes it out.",
            show_default=False,
        ),
    ] = None,
    *,
    json: options.Json = False,
) -> None:
    """Show the settings, each with where it comes from, or change them.

    The command line, a rules file, a layout and a job beat the environment's variables
    (ROUNDCARD_REGION and so on), and those beat the settings file. A job takes none of them: it
    says itself how it goes.
    """
    from roundcard.app.settings import change
    from roundcard.cli import settings as ours
    from roundcard.cli.render import settings as render
    from roundcard.cli.render.text import write_json

    path = ours.place()
    if assignments:
        change(path, assignments)
    now = ours.current()
    if json:
        write_json(render.for_machines(now, path))
    else:
        sys.stdout.write(render.for_people(now, path))
