"""Where runs stand: interrupted, waiting to be confirmed, confirmed, never imported."""

from __future__ import annotations

from contextlib import AbstractContextManager, closing, nullcontext
from pathlib import Path

from roundcard.books.transaction import recover
from roundcard.jobs.desk import FROM_BEFORE
from roundcard.jobs.folder import MANIFEST, clear_folder
from roundcard.jobs.model import Job
from roundcard.jobs.plan import Asks, RunPlan, RunReport
from roundcard.jobs.state import Delivery, Run, State
from roundcard.jobs.there import Export, Model, read_export
from roundcard.jobs.three_way import differences_between
from roundcard.tally.reasons import number_of


def settle(state: State, job: Job) -> list[str]:
    """Complete, or abandon, what a killed process left of the job's runs; what was done."""
    notes = []
    for run in state.runs():
        folder = job.runs / run.folder
        if run.status == "working":
            clear_folder(folder)
            state.drop_run(run)
            notes.append(f"run {run.folder} was interrupted before it wrote anything, and is "
                         "abandoned")  # fmt: skip
        elif run.status == "writing":
            manifest = folder / MANIFEST
            recover(manifest)
            if manifest.is_file():
                after_writing(state, run)
                notes.append(f"run {run.folder} was interrupted while its files took their names; "
                             "it is completed")  # fmt: skip
            else:
                clear_folder(folder)
                state.drop_run(run)
                notes.append(f"run {run.folder} was interrupted before its files were complete, "
                             "and is abandoned")  # fmt: skip
    return notes


def after_writing(state: State, run: Run) -> None:
    """The files of a run have their names: it waits to be confirmed, or counts at once where there
    is nothing to import."""
    with state.together():
        if run.told.get("delivers"):
            run.status = "pending"
        else:
            _count(state, run)
            run.status = "nothing"
        state.set_run(run)


def confirm(state: State, run: Run) -> None:
    """What a run wrote is there."""
    with state.together():
        _count(state, run)
        run.status = "confirmed"
        state.set_run(run)
    state.shrink()


def _count(state: State, run: Run) -> None:
    state.apply(run)
    state.set_columns(run.told.get("columns", {}))
    state.set_aliases(run.told.get("aliases", {}))


def refuse(state: State, run: Run) -> None:
    """What a run wrote never got there."""
    with state.together():
        state.drop_deliveries(run)
        run.status = "not imported"
        state.set_run(run)
        undone = run.told.get("undoes", ())
        for each in state.runs():
            if each.number in undone:  # it was not undone, then
                each.status = "confirmed"
                state.set_run(each)


def settle_pending(state: State, wanted: RunPlan, asks: Asks, report: RunReport) -> bool:
    """Ask whether the files of earlier runs were imported; whether the work may go on."""
    for run in [each for each in state.runs() if each.status == "pending"]:
        folder = wanted.job.runs / run.folder
        report.run, report.folder = run, folder
        if wanted.there is not None:
            seen_there(state, wanted, wanted.there, run, report)
            continue
        said = asks.imported(run, folder)
        if said == "yes":
            confirm(state, run)
        elif said == "no":
            refuse(state, run)
        else:
            report.ended = "unconfirmed"
            return False
    report.run, report.folder = None, None
    return True


def seen_there(state: State, wanted: RunPlan, there: Path, run: Run, report: RunReport) -> None:
    """An export tells who of a run's people got there. Raises `SourceError`."""
    job = wanted.job
    model = Model(job.to, job.region)
    deliveries = [each for each in state.deliveries(run, number_of(FROM_BEFORE))
                  if each.after is not None and each.kind in ("new", "changed")]  # fmt: skip
    people = ((each.uid, each.after) for each in deliveries if each.after is not None)
    with closing(read_export(there, job.to, model, job.region, 0, people)) as export:
        lost = [each.uid for each in deliveries
                if each.uid not in export.of or _stands(model, export, each)]  # fmt: skip
    with state.together():
        state.drop_deliveries(run, lost)
        _count(state, run)
        run.status = "confirmed" if len(lost) < max(len(deliveries), 1) else "not imported"
        state.set_run(run)
    if lost:
        report.notes.append(f"run {run.folder}: {len(lost):,} of {len(deliveries):,} people are "
                            "not there, and count as not delivered")  # fmt: skip


def closing_if(export: Export | None) -> AbstractContextManager[object]:
    """An export that is closed at the end, where there is one."""
    return closing(export) if export is not None else nullcontext()


def _stands(model: Model, export: Export, each: Delivery) -> bool:
    """Whether somebody stands in an export as before a delivery, and not as after it."""
    if each.before is None or each.after is None or each.uid in export.same:
        return False
    there = export.contact(export.of[each.uid])
    old = differences_between(model.of(each.before), there)
    new = differences_between(model.of(each.after), there)
    return len(old) < len(new)
