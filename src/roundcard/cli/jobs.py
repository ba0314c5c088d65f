"""What the commands about jobs share: the job loaded, runs named, people asked."""

from __future__ import annotations

import datetime
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from roundcard import __version__
from roundcard.cli.places import destination_places, layout_places, own_layouts
from roundcard.cli.planning import today
from roundcard.cli.render.reasons import sentence
from roundcard.errors import JobError

if TYPE_CHECKING:
    from roundcard.jobs.model import Job
    from roundcard.jobs.plan import Imported, RunPlan, RunReport
    from roundcard.jobs.state import Run


def load(path: Path) -> Job:
    """The job in a file. Raises `JobError`."""
    from roundcard.jobs.file import Places, load_job

    return load_job(path, Places(layout_places(), destination_places()))


def of_run(folder: Path) -> tuple[Job, str]:
    """The job of a run's folder, and the run's name. Raises `JobError`."""
    import json

    manifest = folder / "manifest.json"
    try:
        told = json.loads(manifest.read_text("utf-8"))
        path = folder / str(told["job_file"])
        name = str(told["folder"])
        if name != folder.resolve().name:
            raise ValueError("a copy")
    except (OSError, ValueError, KeyError, TypeError):
        raise JobError(f"{folder}: is not the folder of a run; 'roundcard runs JOB' lists them"
                       ) from None  # fmt: skip
    job = load(Path(os.path.normpath(path)))
    if each := told.get("each"):
        from roundcard.jobs.each import member_of

        job = member_of(job, str(each))
    return job, name


def plan(job: Job, **more: object) -> RunPlan:
    """How to run a job, as of now."""
    from roundcard.jobs.plan import RunPlan

    now = datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds")
    return RunPlan(job, today().isoformat(), now, __version__, kept=own_layouts(), say=sentence,
                   **more)  # type: ignore[arg-type]  # fmt: skip


class Terminal:
    """Asks at the terminal, where there is somebody to ask."""

    def __init__(self, *, yes: bool, quiet: bool) -> None:
        self.yes = yes
        self.quiet = quiet

    @property
    def there(self) -> bool:
        """Whether anybody can answer."""
        return not self.yes and sys.stdin.isatty()

    def imported(self, run: Run, folder: Path) -> Imported:
        """Whether the files of a run got there."""
        if not self.there:
            return "unknown"
        sys.stderr.write(f"The files of run {run.folder} wait to be confirmed: {folder}\n")
        while True:
            said = typer.prompt("Were they imported? (yes, no, partly)", err=True).strip().lower()
            if said in ("yes", "y"):
                return "yes"
            if said in ("no", "n"):
                return "no"
            if said in ("partly", "p"):
                sys.stderr.write("Export what the destination holds, and name it: --there FILE\n")
                return "partly"

    def go_ahead(self, report: RunReport) -> bool:
        """Whether what was planned is to be done."""
        from roundcard.cli.render import run as render

        if not self.quiet:
            sys.stderr.write(render.plan_of(report))
        if self.yes:
            return True
        if not sys.stdin.isatty():
            return False
        return typer.confirm("Write these files?", err=True)
