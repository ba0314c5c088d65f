"""Taking runs back: what is still as it was held after them goes back to what it was before.

For files that were imported by hand that is a file that restores, a list of whom to remove, and
what a person must do; what was edited since stays, and is listed. An undo is a run of its own: it
waits to be confirmed, and is completed or abandoned like any other.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from roundcard.app.fit import fit_to
from roundcard.books.conversion import convert_into
from roundcard.books.options import WriteOptions
from roundcard.books.pipeline import Step
from roundcard.books.plan import Plan, Watch
from roundcard.books.source_reader import Reading
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.card.names import called
from roundcard.errors import JobError
from roundcard.jobs import sheets
from roundcard.jobs.desk import FROM_BEFORE, FROM_THERE
from roundcard.jobs.folder import (
    MANIFEST,
    OUTBOX,
    PLAN,
    clear_folder,
    free_name,
    make_folder,
    manifest_of,
    outbox_name,
)
from roundcard.jobs.found import Found, Removal, Row
from roundcard.jobs.kept import Kept
from roundcard.jobs.model import Again, Job
from roundcard.jobs.plan import Answers, Asks, RunPlan, RunReport
from roundcard.jobs.standing import after_writing, closing_if, settle, settle_pending
from roundcard.jobs.state import Delivery, Run, State
from roundcard.jobs.there import Export, Model, read_export
from roundcard.jobs.three_way import Side, States, held_against
from roundcard.match.decision_store import (
    decision_of,
    read_decisions,
    without,
    write_decisions,
)
from roundcard.tally import Tally, added_by
from roundcard.tally.reasons import number_of

_POLICY = Again(edited_there="there", conflict="there", cleared="source")


@dataclass(frozen=True, slots=True)
class UndoPlan:
    """What to take back."""

    run: RunPlan
    """How a run would be made; its job, day, export."""
    folder: str
    """The name of the run's folder."""
    and_later: bool = False


def undo_run(
    wanted: UndoPlan,
    asks: Asks | None = None,
    words: Callable[[RunReport], str] = repr,
    watch: Watch | None = None,
) -> RunReport:
    """Take a run back. Raises `JobError`, `SourceError` and `TargetError`."""
    job, asks = wanted.run.job, asks or Answers()
    with State(job.state, job.id) as state:
        report = RunReport(wanted.run)
        report.notes += settle(state, job)
        done = [run for run in state.runs() if run.folder == wanted.folder]
        if done and done[0].status in ("undone", "not imported"):
            report.ended = "nothing"
            report.notes.append(
                f"{wanted.folder} is {done[0].status}: there is nothing to take back"
            )
            return report
        if not settle_pending(state, wanted.run, asks, report):
            return report
        runs = _meant(state, wanted)
        if not runs:
            report.ended = "nothing"
            report.notes.append(f"the files of {wanted.folder} never got there: there is nothing "
                                "to take back")  # fmt: skip
            return report
        return _Undoing(wanted.run, state, runs, report, asks, words, watch).do()


def _meant(state: State, wanted: UndoPlan) -> list[Run]:
    """The runs to take back, the newest first; none where that is done already."""
    runs = state.runs()
    found = next((run for run in runs if run.folder == wanted.folder), None)
    if found is None or found.kind != "run":
        known = ", ".join(run.folder for run in runs if run.stands) or "none"
        raise JobError(f"{wanted.folder}: is no run of this job that stands; those that do: "
                       f"{known}")  # fmt: skip
    if found.status in ("undone", "not imported"):
        return []
    later = [run for run in runs if run.number > found.number and run.kind == "run"
             and run.status in ("confirmed", "nothing")]  # fmt: skip
    standing = [run for run in later if run.status == "confirmed"]
    if standing and not wanted.and_later:
        names = ", ".join(run.folder for run in standing)
        raise JobError(f"{wanted.folder}: later runs stand on it: {names}; undo these first, or "
                       "all of them with --and-later")  # fmt: skip
    return [*reversed(later), found]


class _Undoing:
    def __init__(
        self, wanted: RunPlan, state: State, runs: Sequence[Run], report: RunReport, asks: Asks,
        words: Callable[[RunReport], str], watch: Watch | None,
    ) -> None:  # fmt: skip
        self.wanted = wanted
        self.job: Job = wanted.job
        self.state = state
        self.runs = runs
        self.report = report
        self.asks = asks
        self.words = words
        self.watch = watch
        self.model = Model(self.job.to, self.job.region)
        self.before = number_of(FROM_BEFORE)
        self.export: Export | None = None
        self.found: Found = report.found
        self.place = 0

    def do(self) -> RunReport:
        """Do it all."""
        state, job, wanted = self.state, self.job, self.wanted
        if wanted.there is not None:
            self.export = read_export(wanted.there, job.to, self.model, job.region,
                                      number_of(FROM_THERE), state.people(self.before))  # fmt: skip
        with closing_if(self.export):
            return self.written()

    def written(self) -> RunReport:
        """Write what restores, and ask whether it is to stay."""
        state, job, wanted, report = self.state, self.job, self.wanted, self.report
        name = free_name(job.runs, wanted.today)
        folder = job.runs / name
        run = state.add_run(name, "undo", wanted.now)
        make_folder(folder / OUTBOX)
        self.undo = run
        report.run, report.folder = run, folder
        try:
            with Transaction(folder / MANIFEST) as files:
                with state.together():
                    target = folder / OUTBOX / outbox_name(job)
                    plan = Plan.of([], target, write=WriteOptions(
                        prove=True, force=True, side_folder=folder, say=wanted.say))  # fmt: skip
                    plan.opened = []
                    plan.supply = self
                    plan.processes = 1
                    fit_to(plan, job.to, job.region)
                    written = convert_into(files, plan, self.watch)
                    report.report = written.report
                    if not self.found.delivered:
                        files.drop_place(target)
                    else:
                        pieces = written.report.pieces
                        report.outbox = [piece.path for piece in pieces] or [target]
                    sheets.write_lists(files, self.found, job, folder, folder / OUTBOX)
                    delivers = bool(self.found.delivered or self.found.removals)
                    report.ended = "delivered" if delivers else "nothing"
                    run.told = {
                        "delivers": delivers, "undoes": [each.number for each in self.runs],
                        "counts": dict(self.found.counts), "delivered": self.found.delivered,
                        "removals": len(self.found.removals),
                        "columns": self.columns(),
                    }  # fmt: skip
                    self.forget_decisions(files)
                    files.file(folder / PLAN, force=True).write(self.words(report).encode())
                    files.file(folder / MANIFEST, force=True).write(
                        manifest_of(report, run, files, folder, [], {}).encode())  # fmt: skip
                    if wanted.dry_run or not self.asks.go_ahead(report):
                        report.ended = "planned" if wanted.dry_run else "declined"
                        raise _StopError
                    for each in self.runs:
                        each.status = "undone"
                        state.set_run(each)
                    run.status = "writing"
                    state.set_run(run)
                files.commit()
        except BaseException as error:
            if run.status != "writing":
                clear_folder(folder)
                state.drop_run(run)
            if isinstance(error, _StopError):
                report.folder = None
                return report
            raise
        after_writing(state, run)
        return report

    def columns(self) -> dict[str, dict[str, int]]:
        """The columns of the sources before the runs that are taken back."""
        first = min(run.number for run in self.runs)
        before = [run for run in self.state.runs() if run.number < first and run.kind == "run"
                  and run.status in ("confirmed", "nothing")]  # fmt: skip
        found: dict[str, dict[str, int]] = before[-1].told.get("columns", {}) if before else {}
        return found

    def __call__(
        self,
        readings: Sequence[Reading],  # noqa: ARG002
        steps: Sequence[Step],  # noqa: ARG002
        tally: Tally,
        watch: Watch | None,  # noqa: ARG002
    ) -> Iterator[Contact]:
        """Whom the restoring file is to hold; see `roundcard.books.plan.Supply`."""
        self.state.drop_deliveries(self.undo)
        firsts: dict[str, Delivery] = {}
        for run in self.runs:  # the newest first: the oldest says what stood before all
            for delivery in self.state.deliveries(run, self.before):
                firsts[delivery.uid] = delivery
        before = tally.people.carried
        for uid, delivery in firsts.items():
            yield from self.back(uid, delivery)
        restored = tally.people.carried - before
        tally.people.carried -= restored  # they are in no source
        tally.count(FROM_BEFORE, people=restored)

    def back(self, uid: str, delivery: Delivery) -> Iterator[Contact]:
        """One person as they were before."""
        now = self.state.person(uid, self.before)
        before = delivery.before
        if now is None and before is None:
            return
        if before is None:
            assert now is not None
            self.created(uid, now)
        elif now is None or (delivery.kind == "gone" and not self.is_there(uid)):
            self.found.counts["there again"] += 1
            yield self.write(before.meant)
            self.keep(uid, now, before)
        elif delivery.kind in ("gone", "noted") or now.sent is None or before.sent is None:
            self.found.counts["noted as before"] += 1
            self.keep(uid, now, before)
        else:
            yield from self.changed(uid, now, before)

    def is_there(self, uid: str) -> bool:
        """Whether the destination is known to hold somebody."""
        return self.export is not None and uid in self.export.of

    def created(self, uid: str, now: Kept) -> None:
        """Somebody who was not there before."""
        name = called(now.meant)
        if self.export is not None and uid not in self.export.of:
            self.found.counts["removed there already"] += 1
            self.keep(uid, now, None)
        elif self.export is not None and uid not in self.export.same:
            self.found.counts["edited since, and stays"] += 1
            self.found.told.append(Row(uid, name, "edited since, and stays"))
        else:
            self.found.counts["to be removed"] += 1
            self.found.removals.append(Removal(uid, now.meant, "created by the run that is undone",
                                               self.wanted.today))  # fmt: skip
            self.keep(uid, now, None)

    def changed(self, uid: str, now: Kept, before: Kept) -> Iterator[Contact]:
        """Somebody whom the run changed."""
        assert now.sent is not None
        assert before.sent is not None
        there = None
        if self.export is not None:
            if uid not in self.export.of:
                self.found.counts["removed there since"] += 1
                self.found.told.append(Row(uid, called(now.meant), "removed there since"))
                return
            same = uid in self.export.same
            there = self.model.of(now) if same else self.export.contact(self.export.of[uid])
        states = States(before.meant, self.model.held(now.sent), self.model.held(before.sent),
                        now.held, there)  # fmt: skip
        outcome = held_against(states, _POLICY, _origin, self.job.region)
        for change in outcome.changes:
            row = Row(uid, called(now.meant), change.kind, change.path, change.before,
                      change.source, change.there)  # fmt: skip
            if change.kind in ("edited there", "conflict"):
                self.found.told.append(row._replace(what="edited since, and stays"))
            elif change.taken == "source":
                self.found.changed.append(row)
        if outcome.travels:
            self.found.counts["restored"] += 1
            yield self.write(outcome.written)
        else:
            self.found.counts["as they were"] += 1
        held = before.held
        if outcome.written is not before.meant:
            sent = self.model.fitted(outcome.written)
            held = self.model.held(sent) if sent is not None else held
        self.keep(uid, now, before._replace(held=held))

    def write(self, contact: Contact) -> Contact:
        """Somebody goes into the restoring file."""
        self.found.delivered += 1
        return Contact(list(contact.properties), contact.origin)

    def keep(self, uid: str, now: Kept | None, before: Kept | None) -> None:
        """What the state is to say of somebody, once this is confirmed."""
        self.place += 1
        self.state.deliver(self.undo, self.place, Delivery(uid, "changed", now, before))

    def forget_decisions(self, files: Transaction) -> None:
        """Of decisions only those go that the runs learned."""
        if self.job.merge is None:
            return
        learned = [decision_of(told) for run in self.runs for told in run.told.get("decisions", ())]
        kept = read_decisions(self.job.merge.decisions)
        rest = without(kept, learned)
        if learned and len(rest) != len(kept):
            write_decisions(files, self.job.merge.decisions, rest)


class _StopError(Exception):
    """Nothing is to be written."""


def _origin(side: Side) -> int:
    return added_by(FROM_THERE if side == "there" else FROM_BEFORE)
