"""``roundcard trace``: the life of a person, or of one value, through a run."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options

EXAMPLES = """[bold]Examples[/bold]

  roundcard trace runs/2026-11-28-1 Weirside

  roundcard trace runs/2026-11-28-1 '07700 900301'

  roundcard trace runs/2026-11-28-1 Una Ropewalker --json
"""


def trace(
    run: Annotated[
        Path, typer.Argument(metavar="RUN", help="The folder of a run.", show_default=False)
    ],
    words: Annotated[
        list[str],
        typer.Argument(
            metavar="WORDS...", help="Words that stand in a record, or a UID.", show_default=False
        ),
    ],
    *,
    report: options.ReportBlock,
) -> int:
    """Tell the life of a person, or of one value: where it stood, what became of it, and why.

    Source, record, column or line, and cell as it stood; each rule with before and after; with whom
    it was merged; where it stands in the outbox, or why it does not; what the destination holds. It
    is told from what the run kept, and from its sources, as long as these are what they were.
    """
    from roundcard.cli import jobs
    from roundcard.cli.places import own_layouts
    from roundcard.cli.render import trace as render
    from roundcard.cli.render.text import write_json
    from roundcard.jobs.trace import trace as traced

    job, name = jobs.of_run(run)
    found = traced(job, name, " ".join(words), own_layouts())
    if report.json:
        write_json(render.for_machines(found))
    else:
        sys.stdout.write(render.for_people(found))
    return 0 if found.lives else 1
