"""Running a job: plan, ask, do, prove.

All that a run writes is made hidden in its folder first, so the plan tells what was really done and
not what might be; it takes its place when somebody says so. The state learns of it in three steps:
what is about to be written, the files, that they are written; a run that is killed at any moment is
completed or abandoned by the next command that names the job.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import closing
from dataclasses import replace
from pathlib import Path
from typing import Any

from roundcard.app.fit import fit_to
from roundcard.books.conversion import convert_into
from roundcard.books.options import ReadOptions, WriteOptions
from roundcard.books.pipeline import Step
from roundcard.books.plan import Plan, Watch
from roundcard.books.source import Source, sources_of
from roundcard.books.transaction import Transaction
from roundcard.clean.changes import Changes
from roundcard.clean.setup import CleanEach, cleaning
from roundcard.clean.user_rules import wishes_in
from roundcard.errors import JobError, SourceError
from roundcard.jobs import sheets
from roundcard.jobs.deciding import Deciding
from roundcard.jobs.desk import FROM_BEFORE, FROM_THERE, Settings
from roundcard.jobs.folder import (
    BALANCE,
    MANIFEST,
    OUTBOX,
    PEOPLE,
    PLAN,
    SHEET,
    balance_of,
    clear_folder,
    digest_of_file,
    free_name,
    make_folder,
    manifest_of,
    outbox_name,
    sources_told,
)
from roundcard.jobs.model import Job
from roundcard.jobs.plan import Answers, Asks, RunPlan, RunReport, outside
from roundcard.jobs.report import REPORT, Doubles, page
from roundcard.jobs.standing import after_writing, closing_if, settle, settle_pending
from roundcard.jobs.state import Run, State
from roundcard.jobs.there import Export, Model, demand_whole, read_export
from roundcard.match.decision_store import (
    Decision,
    decision_as_json,
    read_decisions,
    write_decisions,
)
from roundcard.match.sheet import places_of as places_in
from roundcard.match.sheet import rows_of, shown_of, write_sheet
from roundcard.match.sheet_decisions import MatchSheet, answers
from roundcard.merge.policy import Policy, preferences_in
from roundcard.merge.record import RecordFile
from roundcard.pick.conditions import Condition
from roundcard.pick.people import Picked
from roundcard.tally import Why
from roundcard.tally.reasons import number_of

_ADDRESS = re.compile(r" at 0x[0-9a-f]+")
_CHUNK = 1 << 20


def run_job(
    wanted: RunPlan,
    asks: Asks | None = None,
    words: Callable[[RunReport], str] = repr,
    watch: Watch | None = None,
) -> RunReport:
    """Run a job. Without `asks` all is done unasked that can be; `words` puts the plan into words
    for the run's folder.

    Raises `JobError`, `SourceError`, `LayoutError`, `PlanError`, `TargetError`, `BalanceError` and
    `ProofError`.
    """
    job, asks = wanted.job, asks or Answers()
    if any(source.each for source in job.sources):
        raise JobError(f"{job.file}: has a source with 'each = true'; say which files it stands "
                       "for with --for-each")  # fmt: skip
    opened = _open_sources(job, first=not job.state.exists())
    if wanted.dry_run and not job.state.exists():
        return _Running(wanted, None, opened, asks, words, watch).do()
    make_folder(job.runs)
    with State(job.state, job.id, create=True) as state:
        notes = settle(state, job)
        running = _Running(wanted, state, opened, asks, words, watch)
        running.report.notes += notes
        return running.do()


def done_already(wanted: RunPlan) -> Run | None:
    """The run that did just this before, whether it is confirmed or not; None where none did.

    Raises what `run_job` raises.
    """
    job = wanted.job
    if not job.state.exists():
        return None
    with State(job.state, job.id) as state:
        settle(state, job)
        last = next((run for run in reversed(state.runs())
                     if run.status in ("pending", "confirmed", "nothing")), None)  # fmt: skip
        if last is None or last.kind != "run":
            return None
        opened = _open_sources(job, first=True)
        inputs, _ = _Running(wanted, state, opened, Answers(), repr, None).digests()
        return last if last.told.get("inputs") == inputs else None


def _open_sources(job: Job, *, first: bool) -> list[tuple[int, list[Source]] | tuple[int, str]]:
    """The sources, opened; why one cannot be read, where that is not the first time."""
    found: list[tuple[int, list[Source]] | tuple[int, str]] = []
    for number, source in enumerate(job.sources):
        try:
            found.append((number, sources_of([str(source.path)])))
        except SourceError as error:
            if first:
                raise
            found.append((number, str(error)))
    return found


class _Running:
    """One run from beginning to end."""

    def __init__(
        self, wanted: RunPlan, state: State | None,
        opened: Sequence[tuple[int, list[Source]] | tuple[int, str]], asks: Asks,
        words: Callable[[RunReport], str], watch: Watch | None,
    ) -> None:  # fmt: skip
        self.wanted = wanted
        self.job = wanted.job
        self.state = state
        self.asks = asks
        self.words = words
        self.watch = watch
        self.report = RunReport(wanted)
        self.sources: list[Source] = []
        self.owners: list[int] = []
        self.unread: dict[str, str] = {}
        self.cleaner: CleanEach | None = None
        for number, each in opened:
            if isinstance(each, str):
                self.unread[self.job.sources[number].name] = each
                continue
            self.sources += each
            self.owners += [number] * len(each)
        self.report.outside = outside(self.job)
        self.report.notes += self.unread.values()

    def do(self) -> RunReport:
        """Do it all."""
        state, job = self.state, self.job
        if state is None:  # a dry run of a job that never ran
            with (
                _Scratch() as scratch,
                State(scratch / "state.sqlite", job.id, create=True) as made,
            ):
                self.state = made
                self.report.first = True
                return self.work(made, scratch)
        if not settle_pending(state, self.wanted, self.asks, self.report):
            return self.report
        runs = state.runs()
        self.report.first = not any(run.status in ("confirmed", "nothing") for run in runs)
        inputs, ways = self.digests()
        last = next((run for run in reversed(runs)
                     if run.status in ("confirmed", "nothing", "undone")), None)  # fmt: skip
        waiting = next((run for run in runs if run.status == "waiting"), None)
        counts = last is not None and last.status != "undone" and last.kind == "run"
        if last is not None and counts and last.told.get("inputs") == inputs and waiting is None:
            self.report.ended = "nothing"
            self.report.held_before = int(last.told.get("held", 0))
            self.report.run = last
            return self.report
        changed = [run for run in runs if run.kind == "run"
                   and run.status in ("confirmed", "nothing")]  # fmt: skip
        job_changed = bool(changed) and changed[-1].told.get("ways") != ways
        return self.work(state, job.runs, waiting, inputs, ways, job_changed=job_changed)

    def digests(self) -> tuple[str, str]:
        """What this run goes by: all of it, and all but the sources."""
        job, wanted = self.job, self.wanted
        ways = hashlib.blake2b(digest_size=16)
        ways.update(wanted.version.encode())
        ways.update(job.file.read_bytes())
        layouts = [repr(replace(job.to, file=""))]
        layouts += [repr(replace(source.layout, file="")) for source in job.sources
                 if source.layout is not None]  # fmt: skip
        ways.update(_ADDRESS.sub("", "".join(layouts)).encode())
        if job.clean is not None and job.clean.rules_file is not None:
            ways.update(job.clean.rules_file.read_bytes())
        whole = ways.copy()
        files = [source.path for source in self.sources if source.path is not None]
        said = (wanted.there, wanted.answers, wanted.sheet)
        files += [each for each in said if each is not None]
        for path in files:
            whole.update(f"\0{path.name}\0".encode())
            for each in [path] if path.is_file() else sorted(path.rglob("*")):
                if each.is_file():
                    whole.update(digest_of_file(each).encode())
        said_now = (sorted(wanted.trusted), sorted(self.unread), wanted.blind, wanted.apart)
        whole.update(repr(said_now).encode())
        decisions = read_decisions(job.merge.decisions) if job.merge is not None else []
        return f"{whole.hexdigest()} {_told_of(decisions)}", ways.hexdigest()

    def work(
        self, state: State, runs: Path, waiting: Run | None = None, inputs: str = "",
        ways: str = "", *, job_changed: bool = False,
    ) -> RunReport:  # fmt: skip
        """Read, decide, write, ask."""
        name = waiting.folder if waiting is not None else free_name(runs, self.wanted.today)
        folder = runs / name
        run = waiting or state.add_run(name, "run", self.wanted.now)
        self.report.run, self.report.folder = run, folder
        try:
            make_folder(folder / OUTBOX)
            return self.in_folder(state, run, folder, inputs, ways, job_changed=job_changed)
        except BaseException:
            if run.status not in ("waiting", "writing"):
                clear_folder(folder)
                state.drop_run(run)
            raise

    def in_folder(
        self, state: State, run: Run, folder: Path, inputs: str, ways: str, *, job_changed: bool
    ) -> RunReport:
        job, wanted, report = self.job, self.wanted, self.report
        sheet = wanted.sheet or folder / SHEET
        settings = Settings(
            self.owners, wanted.today,
            export=self.export(state),
            trusted=wanted.trusted,
            unread=frozenset(self.unread),
            job_changed=job_changed,
            blind=wanted.blind or job.again.blind,
            sheet=MatchSheet(sheet) if wanted.sheet or sheet.is_file() else None,
            answers=sheets.answers_in(wanted.answers) if wanted.answers is not None else {},
            policy=self.policy(),
            say=wanted.say,
        )  # fmt: skip
        export = settings.export
        with closing(Deciding(job, state, run, settings)) as deciding, closing_if(export):
            report.found = deciding.found
            report.found.by_likeness = export.likely if export is not None else 0
            return self.written(state, run, folder, deciding, inputs, ways)

    def written(
        self, state: State, run: Run, folder: Path, deciding: Deciding, inputs: str, ways: str
    ) -> RunReport:
        """Write all of it, and ask whether it is to stay."""
        wanted, report = self.wanted, self.report
        with Transaction(folder / MANIFEST) as files:
            try:
                with state.together():
                    self.write(files, deciding, folder)
                    found = self.beside(files, deciding, folder)
                    delivers = bool(report.found.delivered or report.found.removals)
                    report.ended = "delivered" if delivers else "nothing"
                    run.told = self.told(deciding, inputs, ways, delivers=delivers)
                    self.last_files(files, folder, run, found)
                    if wanted.dry_run:
                        report.ended = "planned"
                        raise _StopError
                    if self.waits:
                        report.ended = "waiting"
                        raise _WaitError
                    if delivers and not self.asks.go_ahead(report):
                        report.ended = "declined"
                        raise _StopError
                    before = run.status
                    run.status = "writing"
                    state.set_run(run)
            except _StopError:
                self.give_up(state, run, folder, files)
                return report
            except _WaitError:
                files.discard()
                self.wait(state, run, folder, deciding)
                return report
            except BaseException:
                if run.status == "writing":
                    run.status = before
                raise
            files.commit()
        after_writing(state, run)
        return report

    def give_up(self, state: State, run: Run, folder: Path, files: Transaction) -> None:
        """Nothing of the run is to stay."""
        files.discard()
        if run.status != "waiting":
            clear_folder(folder)
            state.drop_run(run)
            self.report.folder = None

    def export(self, state: State) -> Export | None:
        """What the destination holds, where it is told."""
        if self.wanted.there is None:
            return None
        there, model = self.wanted.there, Model(self.job.to, self.job.region)
        found = read_export(there, self.job.to, model, self.job.region, number_of(FROM_THERE),
                            state.people(number_of(FROM_BEFORE)))  # fmt: skip
        try:
            if str(there) not in self.wanted.trusted:
                demand_whole(found, there, state.size())
        except JobError:
            found.close()
            raise
        return found

    def policy(self) -> Policy:
        """Which values survive where records are one person."""
        prefer = self.job.merge.prefer if self.job.merge is not None else ()
        names = [source.name for source in self.sources]
        known = [each for each in prefer if not _is_unread(each, self.unread)]
        return Policy(preferences_in(known, names), region=self.job.region)

    def write(self, files: Transaction, deciding: Deciding, folder: Path) -> None:
        """Read the sources, and write the outbox."""
        job, report = self.job, self.report
        target = folder / OUTBOX / outbox_name(job)
        plan = Plan.of(
            [source.name for source in self.sources], target, ReadOptions(kept=self.wanted.kept),
            WriteOptions(prove=True, force=True, side_folder=folder, say=self.wanted.say,
                         left_sheet=folder / "left-behind.csv"),
        )  # fmt: skip
        plan.opened = self.sources
        plan.layouts_of = {
            source.name: [layout]
            for source, owner in zip(self.sources, self.owners, strict=True)
            if (layout := job.sources[owner].layout) is not None
            and source.format.sort == "table"
        }  # fmt: skip
        changes = files.file(folder / "changes.csv", force=True)
        with closing(
            Changes(
                [source.name for source in self.sources], changes if job.clean is not None else None
            )
        ) as told:
            if job.clean is None:
                files.drop(changes)
            plan.steps = self.steps(plan, told)
            fit_to(plan, job.to, job.region)
            plan.last = [*plan.last, deciding.recorder]
            plan.supply = deciding
            deciding.desk.people = files.file(folder / PEOPLE, force=True)
            plan.on_pass = told.begin
            plan.processes = 1
            began = time.monotonic()
            written = convert_into(files, plan, self.watch)
            stages = deciding.found.stages
            stages["prove"] = round(time.monotonic() - began - sum(stages.values()), 2)
            told.end()
        report.changes = told
        report.report = written.report
        if not deciding.found.delivered:
            files.drop_place(target)
        else:
            report.outbox = [piece.path for piece in written.report.pieces] or [target]

    def steps(self, plan: Plan, told: Changes) -> list[Step]:
        """Cleaning, and choosing."""
        job = self.job
        steps: list[Step] = []
        if job.clean is not None:
            wishes = job.clean.wishes
            if job.clean.rules_file is not None:
                wishes = wishes.over(wishes_in(job.clean.rules_file))
            year = int(self.wanted.today[:4])
            self.cleaner = cleaning(plan, wishes, this_year=year, tell=told.tell)
            steps.append(self.cleaner)
        if job.where:
            names = [source.name for source in self.sources]
            steps.append(Picked([Condition(text, names) for text in job.where], Why.CONDITION))
        return steps

    def beside(self, files: Transaction, deciding: Deciding, folder: Path) -> Doubles | None:
        """The lists for people, the merge record, the sheet of doubles, decisions."""
        found = deciding.found
        doubles = self.sheet_of_doubles(files, deciding, folder)
        if found.lines:
            record = RecordFile(files, folder / "merges.jsonl", force=True)
            for number in range(found.lines):
                line, result = deciding.together.lines.get(number)
                record.add_told(line, result)
        sheets.write_lists(files, found, self.job, folder, folder / OUTBOX)
        self.keep_decisions(files, deciding)
        return doubles

    def keep_decisions(self, files: Transaction, deciding: Deciding) -> None:
        """Keep what was learned from a sheet."""
        people = deciding.found.people
        if people is not None and people.known.learned and self.job.merge is not None:
            write_decisions(files, self.job.merge.decisions, people.known.decisions)

    def doubles(self, deciding: Deciding) -> Doubles | None:
        """Who is the same, and who is asked about; None where nobody is either."""
        people, gathered = deciding.found.people, deciding.found.gathered
        if people is None or people.matches is None or gathered is None:
            return None
        matches = people.matches
        if not matches.groups:
            return None
        features = matches.features
        contacts = (gathered.contact(at) for at in range(len(gathered)))
        shown = shown_of(contacts, places_in(matches))
        places = {at: f"{self.sources[features.source[at]].name}:{features.record[at]}"
                  for at in shown}  # fmt: skip
        return Doubles(list(rows_of(matches)), shown, places, answers(people.known.resolved))

    def sheet_of_doubles(
        self, files: Transaction, deciding: Deciding, folder: Path
    ) -> Doubles | None:
        """The sheet of all groups, to be decided in."""
        found, people = self.doubles(deciding), deciding.found.people
        if found is None or people is None or people.matches is None:
            return None
        write_sheet(files, folder / SHEET, people.matches, found.people,
                    [source.name for source in self.sources], force=True, decided=found.decided,
                    rows=found.rows)  # fmt: skip
        return found

    def last_files(
        self, files: Transaction, folder: Path, run: Run, doubles: Doubles | None
    ) -> None:
        """The balance, the plan, and last the manifest, which says what all others are."""
        report = self.report
        if report.report is not None:
            balance = json.dumps(balance_of(report.report, self.wanted.say), indent=1)
            files.file(folder / BALANCE, force=True).write(f"{balance}\n".encode())
        files.file(folder / PLAN, force=True).write(self.words(report).encode())
        self.page(files, folder, doubles)
        if self.job.keep_sources:
            make_folder(folder / "sources")
            for number, source in enumerate(self.sources, 1):
                if source.path is not None:
                    kept = files.file(folder / "sources" / f"{number}-{source.path.name}",
                                      force=True)  # fmt: skip
                    with source.open() as stream:
                        while octets := stream.read(_CHUNK):
                            kept.write(octets)
        told = sources_told(self.job, folder, self.sources, self.owners, report.report)
        for each, step in zip(told, self.cleaner.steps if self.cleaner else (), strict=False):
            each["habits"] = {"orders": dict(step.habits.orders),
                              "one_case": sorted(step.habits.uniform)}  # fmt: skip
        made = manifest_of(report, run, files, folder, told, self.unread)
        files.file(folder / MANIFEST, force=True).write(made.encode())

    def page(self, files: Transaction, folder: Path, doubles: Doubles | None) -> None:
        """The report that people read, and decide on."""
        parts = dict(files.so_far())
        left = parts.get(Path(os.path.realpath(folder / "left-behind.csv")))
        within = os.path.realpath(folder)
        names = sorted(os.path.relpath(place, within).replace(os.sep, "/") for place in parts)
        text = page(self.report, doubles, folder, [*names, MANIFEST], left, self.wanted.say)
        files.file(folder / REPORT, force=True).write(text.encode("utf-8", "replace"))

    def told(self, deciding: Deciding, inputs: str, ways: str, *, delivers: bool) -> dict[str, Any]:
        """What the state keeps of the run."""
        found = deciding.found
        people = found.people
        known = people.known if people is not None else None
        learned = known.decisions[len(known.decisions) - known.learned :] if known else []
        if known is not None and known.learned:  # it is what the next run finds
            inputs = f"{inputs.partition(' ')[0]} {_told_of(known.decisions)}"
        return {
            "inputs": inputs, "ways": ways, "delivers": delivers, "columns": found.columns,
            "aliases": people.merged if people is not None else {},
            "decisions": [decision_as_json(each) for each in learned],
            "held": len(found.held), "counts": dict(found.counts),
            "delivered": found.delivered, "removals": len(found.removals),
        }  # fmt: skip

    @property
    def waits(self) -> bool:
        """Whether the job says to stop for questions, and there are some."""
        merge, questions = self.job.merge, self.report.found.questions
        return (
            merge is not None
            and merge.ask == "stop"
            and bool(questions)
            and (not self.wanted.apart)
        )

    def wait(self, state: State, run: Run, folder: Path, deciding: Deciding) -> None:
        """Write the sheet and the plan, and no outbox: somebody is asked who is the same."""
        with Transaction(folder / SHEET) as files:
            found = self.sheet_of_doubles(files, deciding, folder)
            self.page(files, folder, found)
            files.file(folder / PLAN, force=True).write(self.words(self.report).encode())
            self.keep_decisions(files, deciding)
            files.commit()
        run.status = "waiting"
        run.told = {"held": self.report.found.questions}
        state.set_run(run)


class _StopError(Exception):
    """The run ends without writing anything."""


class _WaitError(Exception):
    """The run waits for decisions."""


class _Scratch:
    """A folder for a run that leaves nothing."""

    def __init__(self) -> None:
        import tempfile

        self._folder = tempfile.TemporaryDirectory(prefix="roundcard-")

    def __enter__(self) -> Path:
        return Path(self._folder.name)

    def __exit__(self, *_: object) -> None:
        self._folder.cleanup()


def _told_of(decisions: Iterable[Decision]) -> str:
    """A digest of what people decided."""
    last = {(each.one, each.other): each for each in decisions}
    text = "\n".join(json.dumps(decision_as_json(each)) for each in last.values())
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


def _is_unread(name: str, unread: Mapping[str, str]) -> bool:
    return any(each == name or each.rpartition("/")[2] == name for each in unread)
