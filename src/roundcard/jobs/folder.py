"""The folder of a run: its name, its files, the manifest that says what they are."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from roundcard.books.conversion import Report
from roundcard.books.hidden import PART
from roundcard.books.source import Source
from roundcard.books.transaction import Transaction
from roundcard.destinations.model import FORMATS
from roundcard.errors import SourceError, TargetError
from roundcard.formats import by_name
from roundcard.jobs.model import Job
from roundcard.jobs.plan import RunReport
from roundcard.jobs.state import Run
from roundcard.tally import Reason

MANIFEST, PLAN, BALANCE, SHEET = "manifest.json", "plan.txt", "balance.json", "doubles.csv"
OUTBOX, PEOPLE = "outbox", "people.jsonl"
SCHEMA = 1
"""Version of the manifest and of the balance; see docs/jobs.md."""
_OWNER_ONLY = 0o700
_CHUNK = 1 << 20


def make_folder(folder: Path) -> None:
    """Make a folder for its owner only. Raises `TargetError`."""
    try:
        for each in (folder.parent, folder):
            each.mkdir(mode=_OWNER_ONLY, parents=True, exist_ok=True)
    except OSError as error:
        raise TargetError(f"{folder}: cannot be created: {error.strerror}") from None


def clear_folder(folder: Path) -> None:
    """Remove the folder of a run that came to nothing; only one of ours, and no link."""
    if folder.is_symlink() or not folder.is_dir():
        return
    inside = [each for each in folder.rglob("*") if not each.is_dir()]
    if any(not each.name.endswith(PART) for each in inside):
        return  # what is there was written, and stays
    shutil.rmtree(folder, ignore_errors=True)


def outbox_name(job: Job) -> str:
    """The name of the file for the destination."""
    form = by_name(FORMATS[job.to.accepts[0]])
    return f"for-{job.to.name}{form.suffixes[0]}"


def free_name(runs: Path, today: str) -> str:
    """The name of a new run's folder, never one that is there."""
    number = 1
    while os.path.lexists(runs / f"{today}-{number}"):
        number += 1
    return f"{today}-{number}"


def digest_of_file(path: Path) -> str:
    """A file's digest (BLAKE2b, RFC 7693). Raises `SourceError`."""
    told = hashlib.blake2b(digest_size=16)
    try:
        with path.open("rb") as stream:
            while octets := stream.read(_CHUNK):
                told.update(octets)
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror}") from None
    return told.hexdigest()


def manifest_of(
    report: RunReport, run: Run, files: Transaction, folder: Path,
    sources: Sequence[dict[str, Any]], unread: Mapping[str, str],
) -> str:  # fmt: skip
    """What a run went by, and what it wrote, as JSON."""
    job = report.plan.job
    within = os.path.realpath(folder)
    written = {os.path.relpath(place, within).replace(os.sep, "/"): digest_of_file(part)
               for place, part in files.so_far()}  # fmt: skip
    made = {
        "schema": SCHEMA, "job": job.name, "id": job.id, "each": job.each, "run": run.number,
        "kind": run.kind,
        "folder": run.folder, "job_file": os.path.relpath(job.file, folder), "began": run.began,
        "version": report.plan.version, "destination": job.to.name, "ended": report.ended,
        "undoes": run.told.get("undoes", []), "sources": list(sources), "unread": dict(unread),
        "files": written, "counts": dict(report.found.counts), "values": dict(report.found.values),
        "seconds": report.found.stages,
    }  # fmt: skip
    return json.dumps(made, indent=1, ensure_ascii=False) + "\n"


def sources_told(
    job: Job, folder: Path, sources: Sequence[Source], owners: Sequence[int], report: Report | None
) -> list[dict[str, Any]]:
    """What the manifest says of the sources: how each was read, and what was in it."""
    read_as = {each.name: each for each in report.read_as} if report is not None else {}
    found = []
    for source, owner in zip(sources, owners, strict=True):
        how = read_as.get(source.name)
        found.append({
            "source": job.sources[owner].name, "file": source.name,
            "path": os.path.relpath(source.path, folder) if source.path is not None else "",
            "bytes": source.octets,
            "digest": digest_of_file(source.path) if source.path is not None else "",
            "people": how.people if how is not None else 0,
            "layout": how.layout if how is not None else "",
            "encoding": how.encoding if how is not None else "",
        })  # fmt: skip
    return found


def balance_of(report: Report, say: Callable[[Reason], str]) -> dict[str, Any]:
    """The balance for machines: counts, reasons, and what remains."""
    tally = report.tally

    def reasons() -> Iterator[dict[str, Any]]:
        for reason in sorted({*tally.why, *tally.why_people}, key=str):
            yield {"fate": str(reason.fate), "rule": str(reason.rule), "field": reason.field,
                   "says": say(reason), "values": tally.why[reason],
                   "people": tally.why_people[reason]}  # fmt: skip

    return {"schema": SCHEMA, "people": asdict(tally.people), "values": asdict(tally.values),
            "reasons": list(reasons()), "even": report.balance.even,
            "proved": report.proved}  # fmt: skip
