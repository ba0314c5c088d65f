"""A run in words: its plan, what came of it, the list of runs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from roundcard.cli.render import report as whole
from roundcard.cli.render.clean import changed
from roundcard.cli.render.text import count, cut, styled, table, width
from roundcard.jobs.found import Row
from roundcard.jobs.plan import RunReport

if TYPE_CHECKING:
    from roundcard.jobs.each import Member
    from roundcard.jobs.history import Runs

SCHEMA = 1
"""Version of the JSON report; see docs/jobs.md."""
_MOST = 8
_PEOPLE = (
    "new", "the same", "changed", "changed by the job", "sent again", "there already, updated",
    "there already, left", "there already, put beside", "gone", "gone, and removed there",
    "merged since", "removed there", "kept as they were", "not sent", "held back",
    "held back, written blind", "edited there", "in conflict", "with values held back",
    "restored", "to be removed", "removed there already", "removed there since",
    "edited since, and stays", "as they were", "noted as before", "there again",
)  # fmt: skip
"""Counts of people in the order in which they are told."""


def whole_plan(report: RunReport) -> str:
    """The plan as the run's folder keeps it."""
    return "\n".join([*_plan(report, verbose=True), *_balance(report), ""])


def plan_of(report: RunReport) -> str:
    """The plan, as it is shown before anything is written."""
    return "\n".join([*_plan(report, verbose=False), ""])


def _plan(report: RunReport, *, verbose: bool) -> Iterator[str]:
    job, found = report.plan.job, report.found
    blind = found.counts["held back, written blind"]
    updates = found.counts["changed"] + found.counts["changed by the job"]
    unknown = ": what the destination holds of them is not known (--there FILE)"
    if blind:
        told = f"{count(blind, 'person', 'people')} would be written blind, and are held back"
        yield styled(told, "bold yellow") + unknown
    elif updates and report.plan.there is None:
        yield styled(f"{count(updates, 'person', 'people')} written blind", "bold yellow") + unknown
    name = report.run.folder if report.run is not None else ""
    yield styled(f"{job.name} to {job.to.title}, run {name}", "bold")
    for note in report.notes:
        yield f"  {note}"
    for path in report.outside:
        yield f"  outside the job's folder: {path}"
    if report.report is not None:
        yield ""
        yield from whole.sources_of(report.report, verbose=verbose)
    for source, why in found.damage.why.items():
        yield styled(f"{source} looks damaged", "bold yellow") + f": {'; '.join(why)}"
        yield f"  nothing of it counts as cleared or gone; if it is right: --trust {source}"
    yield ""
    yield from _people(report)
    yield from _values(report)
    if report.changes is not None and (report.changes.counts or report.changes.doubts):
        yield from (_rules(report) if not verbose else changed(report.changes).splitlines())
    yield from _lists(report, verbose=verbose)
    yield from _files(report)


def _people(report: RunReport) -> Iterator[str]:
    found = report.found
    counts = dict(found.counts)
    rows = [(f"{counts[word]:,}", word) for word in _PEOPLE if counts.get(word)]
    if not rows:
        return
    yield styled("people", "bold")
    yield from table(rows, right=(0,), indent="  ", most=width())
    people = found.people
    if people is not None and people.edited:
        yield f"  {people.edited:,} known again by the matcher, although their records were edited"
    if found.by_likeness:
        yield f"  {found.by_likeness:,} are likely who they are there: paired by likeness alone"
    if found.resting and (report.plan.there is None):
        told = f"{found.resting:,} of those that were looked at rest on what is known of"
        yield f"  {told} {report.plan.job.to.title}, not on an export"
    if found.lines:
        yield f"  {count(found.lines, 'person', 'people')} made of several records"
    if found.questions:
        yield f"  {styled(f'{found.questions:,} to be asked about', 'yellow')}: doubles.csv"


def _values(report: RunReport) -> Iterator[str]:
    values = report.found.values
    rows = [(f"{number:,}", kind) for kind, number in values.most_common()
            if kind not in ("same", "theirs")]  # fmt: skip
    if rows:
        yield ""
        yield styled("values of people who are there", "bold")
        yield from table(rows, right=(0,), indent="  ", most=width())


def _rules(report: RunReport) -> Iterator[str]:
    assert report.changes is not None
    told = [f"{rule} {number:,}" for rule, number in report.changes.counts.most_common() if number]
    if told:
        yield ""
        yield styled("changed by rule", "bold")
        line = "  "
        for each in told:
            if len(line) + len(each) > width() - 2:
                yield line.rstrip()
                line = "  "
            line += f"{each}, "
        yield line.rstrip(", ")


def _lists(report: RunReport, *, verbose: bool) -> Iterator[str]:
    found = report.found
    for title, rows in (("changes", found.changed), ("held back", found.held),
                        ("kept as the destination has it", found.told),
                        ("not sent", found.not_sent)):  # fmt: skip
        if rows:
            yield ""
            yield styled(title, "bold")
            yield from _rows(rows, None if verbose else _MOST)


def _rows(rows: Sequence[Row], most: int | None) -> Iterator[str]:
    for row in rows[:most]:
        told = f"  {row.person}: "
        if row.field:
            told += f"{row.field} {_shown(row.before)} → {_shown(row.source)}"
            if row.there and row.there not in (row.before, row.source):
                told += f", there {_shown(row.there)}"
            told += f" ({row.what})"
        else:
            told += row.what
        yield cut(told, width() - 1)
    if most is not None and len(rows) > most:
        yield f"  … and {len(rows) - most:,} more, in the run's folder"


def _shown(text: str) -> str:
    return f"'{text}'" if text else "nothing"


def _files(report: RunReport) -> Iterator[str]:
    found = report.found
    if report.ended == "waiting":  # nothing of it is written
        return
    tally = report.report.tally if report.report is not None else None
    rows: list[tuple[str, str]] = []
    pieces = list(report.report.pieces) if report.report is not None else []
    if len(pieces) > 1:
        rows += [(f"outbox/{piece.path.name}", count(piece.people, "person", "people"))
                 for piece in pieces]  # fmt: skip
    elif report.outbox:
        people = count(found.delivered, "person", "people")
        rows.append((f"outbox/{report.outbox[0].name}", people))
    if found.removals:
        told = f"{count(len(found.removals), 'person', 'people')} to remove by hand"
        rows.append(("outbox/to-remove.csv", told))
    if found.by_hand:
        rows.append(("outbox/to-clear.csv", f"{count(len(found.by_hand), 'value')} to clear"))
    if found.held:
        rows.append(("held-back.csv", f"{count(len(found.held), 'answer')} wanted"))
    if tally is not None and (tally.values.left_behind or tally.people.not_sent):
        rows.append(("left-behind.csv", count(tally.values.left_behind, "value")))
    if rows:
        yield ""
        yield styled("files that will come", "bold")
        yield from table(rows, indent="  ", most=width())


def _balance(report: RunReport) -> list[str]:
    return ["", *whole.balance_of(report.report)] if report.report is not None else []


def ended(report: RunReport, *, verbose: bool) -> str:
    """What a run came to."""
    lines: list[str] = []
    job = report.plan.job
    folder = report.folder
    if report.ended == "planned":
        lines += [*_plan(report, verbose=verbose), *_balance(report), "",
                  "dry run: nothing was written" + _would_wait(report)]  # fmt: skip
    elif report.ended == "waiting":
        lines += [*_plan(report, verbose=verbose), ""]
        asked = count(report.found.questions, "contact")
        lines.append(styled("waiting", "bold yellow") + f": it is asked about {asked} who they are")
        if folder is not None:
            lines += ["decide: " + f"roundcard review {folder / 'doubles.csv'}",
                      f"then:   roundcard run {job.file}"]  # fmt: skip
    elif report.ended == "unconfirmed":
        name = report.run.folder if report.run is not None else ""
        lines += report.notes
        lines.append(styled("waiting", "bold yellow")
                     + f": were the files of run {name} imported? Nothing was done.")  # fmt: skip
        lines += [f"they were:       roundcard runs confirm {folder}",
                  f"they were not:   roundcard runs confirm {folder} --not-imported",
                  f"some of them:    roundcard run {job.file} --there EXPORT"]  # fmt: skip
    elif report.ended == "declined":
        lines.append("nothing was written" + (
            "; use --yes to write without being asked" if not report.notes else ""))  # fmt: skip
    elif report.ended == "nothing":
        lines += _nothing(report)
    else:
        lines += [*_balance(report), ""]
        lines += _proved(report)
        lines.append(styled(f"{folder}", "bold") + f": {_delivered(report)}")
        lines += [f"next: import outbox/, then say so: roundcard runs confirm {folder}"]
    return "\n".join(lines) + "\n"


def _would_wait(report: RunReport) -> str:
    merge = report.plan.job.merge
    if merge is None or merge.ask != "stop" or not report.found.questions:
        return ""
    return '; the run would stop for its questions (ask = "stop")'


def _proved(report: RunReport) -> list[str]:
    proved = report.report.proved if report.report is not None else None
    if not proved:
        return []
    told = f": {count(proved, 'record')} read again from disk, every value as meant"
    return [styled("proved", "bold green") + told]


def _delivered(report: RunReport) -> str:
    found = report.found
    told = [f"{count(found.delivered, 'person', 'people')} to import"] * bool(found.delivered)
    told += [f"{len(found.removals):,} to remove"] * bool(found.removals)
    told += [f"{len(found.held):,} held back"] * bool(found.held)
    return ", ".join(told) or "nothing to import"


def _nothing(report: RunReport) -> list[str]:
    lines = [*report.notes]
    if report.report is not None:
        lines += [*_plan(report, verbose=False), *_balance(report), ""]
        lines.append("nothing is new: there is nothing to import")
    else:
        lines.append("nothing changed since the last run: nothing was read, nothing is delivered")
    if report.held_before:
        held = count(report.held_before, "answer")
        lines.append(f"still held back since then: {held} wanted")
    return lines


def undone(report: RunReport, name: str) -> str:
    """What an undo came to."""
    if report.ended in ("planned", "unconfirmed", "declined"):
        return ended(report, verbose=False)
    if report.report is None:
        return "\n".join(report.notes) + "\n"
    folder = report.folder
    lines = [styled(f"{name} is taken back", "bold"), *_proved(report)]
    if report.ended == "delivered":
        lines.append("what to do at the destination:")
        if report.outbox:
            people = count(report.found.delivered, "person", "people")
            lines.append(f"  import {_near(report.outbox[0])}: {people} as they were before")
        if report.found.removals:
            people = count(len(report.found.removals), "person", "people")
            lines.append(f"  remove {people}: {folder}/outbox/to-remove.csv")
        if report.found.by_hand:
            lines.append(f"  clear what is listed in {folder}/outbox/to-clear.csv")
        lines.append(f"then say so: roundcard runs confirm {folder}")
    if report.found.told:
        lines.append(f"edited since, and stays: {count(len(report.found.told), 'value')}, listed "
                     f"in {folder}/kept-there.csv")  # fmt: skip
    return "\n".join(lines) + "\n"


def _near(path: Path) -> str:
    return str(path)


def runs(found: Runs) -> str:
    """The runs of a job as a table."""
    lines = list(found.notes)
    if not found.runs:
        return "\n".join([*lines, f"{found.job.name}: has not run yet"]) + "\n"
    heads = ("run", "what", "stands", "people", "new", "changed", "to remove", "held back")
    rows: list[tuple[str, ...]] = [heads]
    for run in found.runs:
        counts = run.told.get("counts", {})
        changed = counts.get("changed", 0) + counts.get("changed by the job", 0)
        told = [run.told.get("delivered", 0), counts.get("new", 0), changed,
                run.told.get("removals", 0), run.told.get("held", 0)]  # fmt: skip
        rows.append((run.folder, run.kind, run.status,
                     *(f"{number:,}" if number else "–" for number in told)))  # fmt: skip
    body = table(rows, right=(3, 4, 5, 6, 7), most=width())
    body[0] = styled(body[0], "dim")
    people = count(found.people, "person", "people")
    return "\n".join([*lines, *body, "", f"confirmed at {found.job.to.title}: {people}"]) + "\n"


def runs_for_machines(found: Runs) -> dict[str, Any]:
    """The runs of a job for machines."""
    return {
        "schema": SCHEMA, "job": found.job.name, "people": found.people,
        "runs": [{"run": run.folder, "number": run.number, "kind": run.kind, "status": run.status,
                  "began": run.began, "delivered": run.told.get("delivered", 0),
                  "removals": run.told.get("removals", 0), "held_back": run.told.get("held", 0),
                  "counts": run.told.get("counts", {})} for run in found.runs],
    }  # fmt: skip


def for_machines(report: RunReport) -> dict[str, Any]:
    """A run for machines."""
    found = report.found
    return {
        "schema": SCHEMA,
        "job": report.plan.job.name,
        "ended": report.ended,
        "run": report.run.folder if report.run is not None else None,
        "folder": str(report.folder) if report.folder is not None else None,
        "notes": report.notes,
        "people": dict(found.counts),
        "values": dict(found.values),
        "questions": found.questions,
        "delivered": found.delivered,
        "outbox": [str(path) for path in report.outbox],
        "removals": len(found.removals),
        "held_back": [row._asdict() for row in found.held],
        "changes": [row._asdict() for row in found.changed],
        "kept_there": [row._asdict() for row in found.told],
        "damaged": found.damage.why,
        "written_blind_held_back": found.counts["held back, written blind"],
        "report": whole.for_machines(report.report) if report.report is not None else None,
    }


def member(found: Member) -> str:
    """What came of one of many files, in a line."""
    name = styled(found.file, "bold")
    if found.error:
        return f"{name}: {styled('stopped', 'bold red')}: {found.error}"
    if found.done:
        return f"{name}: done before, in run {found.done}"
    assert found.report is not None
    report = found.report
    if report.ended == "delivered":
        return f"{name}: {_delivered(report)} ({report.folder})"
    if report.ended == "planned":
        return f"{name}: would be {_delivered(report)}"
    return f"{name}: {_ENDED.get(report.ended, report.ended)}"


_ENDED = {"nothing": "nothing is new", "waiting": "waits for decisions",
          "declined": "nothing was written; use --yes to write without being asked",
          "unconfirmed": "waits: were the files of its last run imported?"}  # fmt: skip


def members(found: Sequence[Member]) -> str:
    """What came of all files, summed up."""
    delivered = sum(each.report.found.delivered for each in found if each.report is not None)
    stopped = sum(1 for each in found if each.error)
    before = sum(1 for each in found if each.done)
    waits = sum(1 for each in found if each.asks and not each.error)
    told = [f"{count(len(found), 'file')}: {count(delivered, 'person', 'people')} to import"]
    told += [f"{before:,} done before"] * bool(before)
    told += [f"{waits:,} with something to answer"] * bool(waits)
    told += [f"{stopped:,} stopped"] * bool(stopped)
    return "\n" + ", ".join(told) + "\n"


def members_for_machines(found: Sequence[Member]) -> dict[str, Any]:
    """What came of all files, for machines."""
    return {
        "schema": SCHEMA,
        "members": [{
            "file": each.file, "error": each.error or None, "done_before": each.done or None,
            "run": for_machines(each.report) if each.report is not None else None,
        } for each in found],
    }  # fmt: skip
