"""The runs of a job: listed, confirmed, cleared away."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

from roundcard.books.hidden import remove
from roundcard.errors import JobError
from roundcard.jobs.folder import MANIFEST
from roundcard.jobs.model import Job
from roundcard.jobs.plan import RunPlan, RunReport
from roundcard.jobs.standing import confirm, refuse, seen_there, settle
from roundcard.jobs.state import Run, State


@dataclass(frozen=True, slots=True)
class Runs:
    """The runs of a job."""

    job: Job
    runs: list[Run]
    people: int
    """How many people were delivered, and are confirmed."""
    notes: list[str]


def runs_of(job: Job) -> Runs:
    """All runs, the oldest first. Raises `JobError`."""
    if not job.state.exists():
        return Runs(job, [], 0, [])
    with State(job.state, job.id) as state:
        notes = settle(state, job)
        return Runs(job, state.runs(), state.size(), notes)


def confirm_run(wanted: RunPlan, name: str, *, imported: bool) -> list[str]:
    """Say whether the files of a run were imported; in words what that did. Raises `JobError`."""
    job = wanted.job
    with State(job.state, job.id) as state:
        notes = settle(state, job)
        run = _run(state, name)
        if run.status != "pending":
            return [*notes, f"{name}: is {run.status}; there is nothing to confirm"]
        if wanted.there is not None:
            report = RunReport(wanted)
            seen_there(state, wanted, wanted.there, run, report)
            return [*notes, *report.notes, f"{name}: {run.status}"]
        if imported:
            confirm(state, run)
        else:
            refuse(state, run)
        return [*notes, f"{name}: {run.status}"]


def files_of(job: Job, name: str) -> list[Path]:
    """What would go with a run's folder. Raises `JobError` for a folder that is no run's."""
    with State(job.state, job.id) as state:
        run = _run(state, name)
        if run.status in ("pending", "waiting"):
            raise JobError(f"{name}: is {run.status}; confirm it first ('roundcard runs confirm')"
                           if run.status == "pending" else
                           f"{name}: is waiting for decisions; run the job first")  # fmt: skip
    folder = _folder(job, name)
    return sorted(each for each in folder.rglob("*") if not each.is_dir())


def delete_run(job: Job, name: str) -> None:
    """Remove the folder of a run. Raises `JobError`."""
    files_of(job, name)
    remove(_folder(job, name))


def _folder(job: Job, name: str) -> Path:
    folder = job.runs / name
    if folder.is_symlink() or not folder.is_dir() or folder.resolve().parent != job.runs.resolve():
        raise JobError(f"{folder}: is not a folder of this job's runs")
    try:
        told = json.loads((folder / MANIFEST).read_text("utf-8"))
    except (OSError, ValueError):
        told = {}
    if told.get("folder") != name or told.get("id") != job.id:
        raise JobError(f"{folder}: its {MANIFEST} is missing, or of another job; look into it, and "
                       "remove it by hand")  # fmt: skip
    return folder


def _run(state: State, name: str) -> Run:
    found = next((run for run in state.runs() if run.folder == name), None)
    if found is None:
        raise JobError(f"{name}: the state of the job does not know this run")
    return found
