"""One job for each of many files: a run of its own each, and no matching across them."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from roundcard.books.plan import Watch
from roundcard.errors import JobError, RoundCardError
from roundcard.jobs.model import Job
from roundcard.jobs.plan import Asks, RunPlan, RunReport
from roundcard.jobs.run import done_already, run_job


@dataclass(frozen=True, slots=True)
class Member:
    """What came of one file."""

    file: str
    report: RunReport | None = None
    """None where it stopped."""
    error: str = ""
    done: str = ""
    """The run that did it before, where the file was finished already."""

    @property
    def asks(self) -> bool:
        """Whether it stopped, or something of it waits."""
        return bool(self.error) or (self.report is not None and self.report.asks)


def member_of(job: Job, file: str) -> Job:
    """The job for one file: the source with ``each = true`` stands for it, and state, runs and
    identities are its own.

    Raises `JobError` where no source has it.
    """
    if sum(source.each for source in job.sources) != 1:
        raise JobError(f"{job.file}: --for-each needs just one [[source]] with each = true")
    sources = [replace(source, name=file, path=job.file.parent / file, each=False)
               if source.each else source for source in job.sources]  # fmt: skip
    made = str(uuid.uuid5(uuid.UUID(job.id), file))
    runs = job.runs / file.replace("\\", "/").replace("/", "~")
    return replace(job, id=made, sources=sources, runs=runs, each=file)


def run_each(
    wanted: RunPlan, pattern: str, asks: Asks | None = None,
    words: Callable[[RunReport], str] = repr, watch: Watch | None = None,
) -> Iterator[Member]:  # fmt: skip
    """Run a job for each file that a pattern names, from the job's folder; what came of each. A
    bad file stops only itself, and one that is finished is not done again.

    Raises `JobError`.
    """
    job = wanted.job
    folder = job.file.parent
    files = sorted(path for path in folder.glob(pattern) if path.is_file())
    if not files:
        raise JobError(f"'{pattern}': no file found in {folder.resolve()}")
    member_of(job, "x")
    for path in files:
        file = path.relative_to(folder).as_posix()
        one = replace(wanted, job=member_of(job, file))
        try:
            if not wanted.dry_run and (run := done_already(one)) is not None:
                yield Member(file, done=run.folder)
                continue
            yield Member(file, run_job(one, asks, words, watch))
        except RoundCardError as error:
            yield Member(file, error=str(error))
