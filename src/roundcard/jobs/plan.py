"""What to run, what came of it, and who is asked."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal, Protocol

from roundcard.books.conversion import Report
from roundcard.books.source import sources_of
from roundcard.clean.changes import Changes
from roundcard.errors import SourceError, UsageError
from roundcard.jobs.found import Found
from roundcard.jobs.model import Job
from roundcard.jobs.state import Run
from roundcard.layouts.model import Layout
from roundcard.tally import Reason

Imported = Literal["yes", "no", "partly", "unknown"]
Ended = Literal["delivered", "nothing", "waiting", "declined", "planned", "unconfirmed"]


@dataclass(frozen=True, slots=True)
class RunPlan:
    """What to run, and how."""

    job: Job
    today: str
    """The day, as ``2026-11-28``."""
    now: str
    """The moment (RFC 3339)."""
    version: str
    """Of the program."""
    there: Path | None = None
    """An export of what the destination holds."""
    sheet: Path | None = None
    """A sheet of doubles with decisions, as the page saves it; else that of a run that waits."""
    answers: Path | None = None
    """A sheet of values that were held back, with decisions."""
    trusted: frozenset[str] = frozenset()
    """Sources that are as they should be, however damaged they look."""
    blind: bool = False
    """Whether updates are written without knowing what the destination holds."""
    apart: bool = False
    """Whether doubtful pairs stay apart for now."""
    dry_run: bool = False
    kept: Sequence[Layout] = ()
    say: Callable[[Reason], str] = str


@dataclass(slots=True, repr=False)
class RunReport:
    """What a run did, or would do."""

    plan: RunPlan
    ended: Ended = "nothing"
    run: Run | None = None
    folder: Path | None = None
    report: Report | None = None
    """Of reading and writing; None where nothing was read."""
    changes: Changes | None = None
    found: Found = field(default_factory=Found)
    notes: list[str] = field(default_factory=list)
    """What was found of runs that were interrupted, and such."""
    outbox: list[Path] = field(default_factory=list)
    held_before: int = 0
    """Of a run that found nothing new: what still waits since the last one."""
    outside: list[Path] = field(default_factory=list)
    """Files outside the job's folder that it reads."""
    first: bool = False

    def __repr__(self) -> str:
        counts = {what: number for what, number in self.found.counts.items() if number}
        told = ", ".join(f"{number:,} {what}" for what, number in counts.items())
        name = self.run.folder if self.run is not None else "no run"
        return f"<RunReport {name} {self.ended}: {told or 'nobody is new'}>"

    @property
    def asks(self) -> bool:
        """Whether anything waits for somebody: not all was done."""
        found = self.found
        tally = self.report.tally if self.report is not None else None
        aside = tally is not None and bool(tally.people.set_aside or tally.values.set_aside)
        waits = self.ended in ("waiting", "unconfirmed") or bool(self.held_before)
        return bool(found.held or found.not_sent or found.damage.why or aside or waits)


@dataclass(frozen=True, slots=True)
class Answers:
    """Answers that are given beforehand, where nobody is asked."""

    were_imported: Imported = "unknown"
    go: bool = True

    def imported(self, run: Run, folder: Path) -> Imported:  # noqa: ARG002
        """Whether the files of a run got there."""
        return self.were_imported

    def go_ahead(self, report: RunReport) -> bool:  # noqa: ARG002
        """Whether what was planned is to be done."""
        return self.go


class Asks(Protocol):
    """Asks a person; the core asks nothing itself."""

    def imported(self, run: Run, folder: Path) -> Imported:
        """Whether the files of a run got there."""

    def go_ahead(self, report: RunReport) -> bool:
        """Whether what was planned is to be done."""


def missing_in(job: Job) -> list[str]:
    """What a job names and is not there, in words."""
    found = []
    for source in job.sources:
        try:
            if not source.each:
                sources_of([str(source.path)])
        except SourceError as error:
            found.append(str(error))
    return found


def trusted_of(said: Collection[str], job: Job, there: Path | None = None) -> frozenset[str]:
    """The sources (and the export) whose damage is none, as a person says. Raises `UsageError`."""
    found = {text for text in said if there is not None and text == str(there)}
    names = [each.name for each in job.sources]
    for text in set(said) - found:
        meant = [name for name in names if text in (name, name.rpartition("/")[2])]
        if not meant:
            raise UsageError(f"--trust {text}: is no source of the job; choose from "
                             f"{', '.join(names)}")  # fmt: skip
        found |= set(meant)
    return frozenset(found)


def outside(job: Job) -> list[Path]:
    """Files that a job names outside its folder."""
    folder = job.file.parent.resolve()
    named = [source.path for source in job.sources]
    named.append(job.runs)
    if job.merge is not None:
        named.append(job.merge.decisions)
    if job.clean is not None and job.clean.rules_file is not None:
        named.append(job.clean.rules_file)
    return [path for path in named if not path.resolve().is_relative_to(folder)]
