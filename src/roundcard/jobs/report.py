"""The report of a run, as one page that a manager reads and a careful colleague decides on."""

from __future__ import annotations

import csv
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple

from jinja2 import Environment, PackageLoader
from markupsafe import Markup

from roundcard.destinations.model import Destination
from roundcard.jobs.plan import RunReport
from roundcard.match.page import Questions, questions_of, rendered
from roundcard.match.sheet import SheetRow, Shown, said
from roundcard.tally import Fate, Reason

REPORT = "report.html"
_MOST = 100
"""Rows of a list on the page; all of them are in the run's files."""
_FATES: dict[Fate, str] = {
    Fate.PASSED_OVER: "passed over", Fate.SET_ASIDE: "set aside: unreadable",
    Fate.LEFT_OUT: "left out, or there already", Fate.FOLDED: "said twice, or merged",
    Fate.LEFT_BEHIND: "left behind: no room", Fate.NOT_SENT: "not sent",
    Fate.HELD_BACK: "held back: asked", Fate.REFUSED: "refused by the service",
    Fate.CHANGED: "changed by rule", Fate.SPLIT: "separated", Fate.ADDED: "added",
    Fate.DERIVED: "derived",
}  # fmt: skip
_ENDS = (Fate.PASSED_OVER, Fate.SET_ASIDE, Fate.LEFT_OUT, Fate.FOLDED, Fate.LEFT_BEHIND,
         Fate.NOT_SENT, Fate.HELD_BACK, Fate.REFUSED)  # fmt: skip
_HEIGHT, _GAP, _TOP = 240.0, 24.0, 12.0
_THIN = 3.0


@dataclass(frozen=True, slots=True)
class Doubles:
    """Who is the same, and who is asked about, with what the records say."""

    rows: Sequence[SheetRow]
    people: Mapping[int, Shown]
    places: Mapping[int, str]
    decided: Mapping[int, str]

    def questions(self, name: str) -> Questions:
        """What is to be decided."""
        return questions_of(self.rows, self.people, self.places, self.decided, name)

    def merged(self) -> list[Merged]:
        """People of several records, with the reasons."""
        found: dict[str, list[SheetRow]] = {}
        for row in self.rows:
            found.setdefault(row.group, []).append(row)
        return [
            Merged(self.people[group[0].contact].name,
                   "; ".join(self.places[row.contact] for row in group),
                   "; ".join(said(row.reasons) for row in group if row.verdict == "same"))
            for group in found.values() if len(group) > 1
        ]  # fmt: skip


class Merged(NamedTuple):
    """Somebody of several records."""

    name: str
    records: str
    why: str


class _Way(NamedTuple):
    """A fate in the picture of the flow."""

    text: str
    other: bool
    y0: float
    y1: float
    y2: float
    y3: float
    h: float
    t: float


def page(
    report: RunReport, doubles: Doubles | None, folder: Path, files: Sequence[str],
    left: Path | None, say: Callable[[Reason], str],
) -> str:  # fmt: skip
    """The page of a run; `left` is where the list of values left behind can be read."""
    found, job = report.found, report.plan.job
    questions = doubles.questions("doubles.csv") if doubles is not None else Questions()
    merged = doubles.merged() if doubles is not None else []
    rows, total = _left_rows(left)
    name = report.run.folder if report.run is not None else ""
    people = [(number, what) for what, number in found.counts.items() if number]
    return rendered(
        "report.html", ["roundcard.jobs"],
        title=_title(report), job=job.name, to=job.to.title or job.to.name,
        kind=report.run.kind if report.run is not None else "run", run=name,
        when=_moment(report.plan.now), version=report.plan.version,
        even=report.report is None or report.report.balance.even, verdict=_verdict(report),
        open_points=_open_points(report), people=sorted(people, key=lambda each: -each[0]),
        sources=_sources(report), damage=[(source, "; ".join(why))
                                          for source, why in found.damage.why.items()],
        flow=_flow(report), balance=_balance(report), reasons=_reasons(report, say),
        merged=merged[:_MOST], merged_total=len(merged), found=questions,
        next_merge=f"roundcard run {job.file.name} --sheet doubles.csv",
        rules=_rules(report), changed=found.changed, held=found.held, told=found.told,
        not_sent=found.not_sent, left=rows, left_total=total,
        removals=[{"name": each.name, "reason": each.reason, "since": each.since}
                  for each in found.removals],
        forecast=list(_forecast(report, job.to)), unreachable=found.unreachable[:_MOST],
        unreachable_total=len(found.unreachable), next=_next(report, folder), files=files,
    )  # fmt: skip


def _title(report: RunReport) -> str:
    kind = "Taken back" if report.run is not None and report.run.kind == "undo" else "Report"
    return f"{kind}: {report.plan.job.name}"


def _verdict(report: RunReport) -> str:
    found, done = report.found, report.report
    if done is None:
        return "Nothing was read: nothing changed."
    if not done.balance.even:
        return "The counts do not balance: this is a defect."
    read = f"All {done.tally.people.read:,} records and {done.tally.values.read:,} values that "
    read += "were read are accounted for. "
    if report.ended == "waiting":
        return read + "Nothing goes out yet: it waits for decisions."
    if found.delivered:
        proved = ", read again from disk and every value as meant" if done.proved else ""
        return read + f"Ready to go out: {_count(found.delivered, 'person', 'people')}{proved}."
    return read + "Nobody is new or changed: nothing goes out."


def _open_points(report: RunReport) -> list[str]:
    found = report.found
    told = []
    if found.questions:
        told.append(f"{_count(found.questions, 'record')} in question: the same person, or two?")
    if found.held:
        told.append(
            f"{_count(len(found.held), 'answer')} wanted: what is asked about is held back."
        )
    if found.not_sent:
        lack = _count(len(found.not_sent), "person", "people")
        told.append(f"{lack} without what the destination needs: not sent.")
    if found.damage.why:
        told.append(f"{_count(len(found.damage.why), 'source')} with signs of damage.")
    aside = report.report.tally.people.set_aside if report.report is not None else 0
    if aside:
        told.append(f"{_count(aside, 'record')} set aside: not readable.")
    return told


def _count(number: int, one: str, many: str = "") -> str:
    return f"{number:,} {one if number == 1 else many or one + 's'}"


def _moment(now: str) -> str:
    """A moment (RFC 3339) as people write it, to the minute."""
    return now.replace("T", " ")[:16] + (" UTC" if now.endswith(("Z", "+00:00")) else "")


def _sources(report: RunReport) -> list[dict[str, Any]]:
    read_as = report.report.read_as if report.report is not None else []
    whole = sum(each.people for each in read_as) or 1
    found = []
    for each in read_as:
        how = [f"layout {each.layout}" + (" (drafted)" if each.draft else "")] * bool(each.layout)
        if each.encoding:
            sure = f" ({each.encoding_sure:.0%} sure)" if each.encoding_sure < 0.985 else ""
            how.append(each.encoding + sure)
        found.append({
            "name": each.name, "people": each.people, "format": each.format,
            "how": ", ".join(how) or "–", "share": f"{each.people / whole:.0%} of all",
            "width": round(120 * each.people / whole, 1),
        })  # fmt: skip
    return found


def _balance(report: RunReport) -> list[tuple[str, int, int]]:
    if report.report is None:
        return []
    people, values = report.report.tally.people, report.report.tally.values
    rows = [("read", people.read, values.read)]
    rows += [("blank", people.blank, 0)] * bool(people.blank)
    for fate in (*_ENDS, Fate.CHANGED, Fate.SPLIT, Fate.ADDED, Fate.DERIVED):
        if people.of(fate) or values.of(fate):
            rows.append((_FATES[fate], people.of(fate), values.of(fate)))
    rows.append(("carried as they were", people.carried, values.carried))
    rows.append(("written", people.written, values.written))
    return rows


def _reasons(report: RunReport, say: Callable[[Reason], str]) -> list[tuple[str, str, int, int]]:
    if report.report is None:
        return []
    tally = report.report.tally
    every = sorted({*tally.why, *tally.why_people},
                   key=lambda each: (-tally.why[each], -tally.why_people[each]))  # fmt: skip
    return [(_FATES[each.fate], say(each), tally.why_people[each], tally.why[each])
            for each in every[:_MOST]]  # fmt: skip


def _flow(report: RunReport) -> Markup:
    """The way of all values, as a picture: how many of those read met which fate."""
    if report.report is None:
        return Markup("")
    values = report.report.tally.values
    parts = [("carried as they were", values.carried, False),
             (_FATES[Fate.CHANGED], values.changed, False)]  # fmt: skip
    parts += [(_FATES[fate], values.of(fate), True) for fate in _ENDS]
    parts = [part for part in parts if part[1]]
    whole = sum(number for _, number, _ in parts)
    if not whole:
        return Markup("")
    ways: list[_Way] = []
    left = right = _TOP
    for text, number, other in parts:
        share = _HEIGHT * number / whole
        tall = max(share, _THIN)
        ways.append(_Way(f"{text}: {number:,}", other, round(left, 1), round(right, 1),
                         round(right + tall, 1), round(left + share, 1), round(tall, 1),
                         round(right + tall / 2 + 4.5, 1)))  # fmt: skip
        left += share
        right += max(tall, 14.0) + _GAP / 2
    text = ", ".join(f"{name} {number:,}" for name, number, _ in parts)
    made = Environment(loader=PackageLoader("roundcard.jobs", "pages"), autoescape=True,
                       trim_blocks=True)  # fmt: skip
    picture = made.get_template("flow.svg").render(
        ways=ways, height=round(max(right, left) + _TOP), top=_TOP, whole=_HEIGHT,
        read=f"{whole:,}", title=f"Of {whole:,} values read: {text}",
    )  # fmt: skip
    return Markup(picture)


def _rules(report: RunReport) -> list[dict[str, Any]]:
    told = report.changes
    if told is None:
        return []
    names = sorted({*told.counts, *told.doubts},
                   key=lambda name: (-told.counts[name], -told.doubts[name]))  # fmt: skip
    return [{
        "rule": name, "changed": told.counts[name], "doubts": told.doubts[name],
        "samples": [(each.before, each.after) for each in told.samples.get(name, ())
                    if each.before != each.after],
    } for name in names if told.counts[name] or told.doubts[name]]  # fmt: skip


def _left_rows(left: Path | None) -> tuple[list[list[str]], int]:
    """The first rows of the list of what was left behind, and how many there are."""
    if left is None:
        return [], 0
    with left.open(newline="", encoding="utf-8-sig") as stream:
        rows = list(csv.reader(stream))[1:]
    return [row[:4] for row in rows[:_MOST]], len(rows)


def _forecast(report: RunReport, to: Destination) -> list[str]:
    found = report.found
    told = []
    new = found.counts["new"] + found.counts["there already, put beside"]
    updates = found.delivered - new - found.counts["not sent"]
    if found.delivered:
        told.append(f"It should take {new:,} people as new, and {max(updates, 0):,} as updates of "
                    "people whom it has.")  # fmt: skip
    if to.on_import.matches_on:
        keys = ", or ".join(" and ".join(map(str, key)) for key in to.on_import.matches_on)
        told.append(f"It finds people whom it has by {keys}.")
    if to.rewrites:
        words = "; ".join(f"{path}: {', '.join(each)}" for path, each in to.rewrites.items())
        told.append(f"It is known to rewrite some values ({words}); that is no loss.")
    if to.drops:
        told.append(f"It does not keep {', '.join(map(str, to.drops))}; these stay behind here.")
    if not told:
        told.append("Nothing: nothing goes to it.")
    return told


def _next(report: RunReport, folder: Path) -> list[tuple[str, str]]:
    found, job = report.found, report.plan.job.file
    if report.ended == "waiting":
        return [("Decide who is the same, above, in doubles.csv, or at a terminal",
                 f"roundcard review {folder / 'doubles.csv'}"),
                ("Then go on", f"roundcard run {job}")]  # fmt: skip
    told: list[tuple[str, str]] = []
    if found.delivered:
        told.append(("Import the files in outbox/", ""))
    if found.removals:
        told.append(("Remove whom outbox/to-remove.csv lists", ""))
    if found.by_hand:
        told.append(("Clear what outbox/to-clear.csv lists", ""))
    if found.delivered or found.removals:
        told.append(("Say that it was done", f"roundcard runs confirm {folder}"))
    if found.held:
        told.append(("Decide in held-back.csv (source or there), and run again",
                     f"roundcard run {job} --answers {folder / 'held-back.csv'}"))  # fmt: skip
    if found.damage.why:
        told.append(("If a source that looks damaged is right as it is, say so",
                     f"roundcard run {job} --trust {next(iter(found.damage.why))}"))  # fmt: skip
    if found.delivered:
        told.append(("If it was wrong, take it back", f"roundcard undo {folder}"))
    return told or [("Run it again when there are newer exports", f"roundcard run {job}")]
