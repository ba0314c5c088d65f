"""What a comparison found, for people and for machines."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from typing import Any

from roundcard.app.compare import CompareReport, Person
from roundcard.cli.render.text import columns_of, count, cut, pad, styled, table, width
from roundcard.compare.pairing import How
from roundcard.compare.values import Difference

SCHEMA = 1
_WAYS: dict[How, str] = {
    "uid": "by uid", "identity": "by the service's own field", "values": "by all that they say",
    "key": "by a key that is theirs alone", "decision": "by kept decisions",
    "likely": "by points: likely, not sure",
}  # fmt: skip
_WHAT = ("added", "removed", "changed", "moved", "spelled")
_HEADS = {"moved": "moved to another use", "spelled": "spelled otherwise"}
_MOST_NAMES = 6
_MOST_FIELDS = 12
_MOST_LINES = 6


def for_people(report: CompareReport, *, verbose: bool = False) -> str:
    """The report of a comparison."""
    most = width(sys.stdout)
    old = ", ".join(report.names[: report.olds])
    new = ", ".join(report.names[report.olds :])
    lines = [f"old: {old}, {count(report.old_people, 'person', 'people')}",
             f"new: {new}, {count(report.new_people, 'person', 'people')}", ""]  # fmt: skip
    rows = [(report.same, "the same"), (report.spelled, "the same, spelled otherwise"),
            (report.changed, "changed"), (report.new, "new"), (report.gone, "gone")]  # fmt: skip
    rows = [row for row in rows if row[0]] or [(0, "people in both")]
    digits = max(len(f"{number:,}") for number, _ in rows)
    lines += [f"  {number:>{digits},}  {what}" for number, what in rows]
    if report.ways:
        lines += ["", styled("paired", "bold", sys.stdout)]
        digits = max(len(f"{number:,}") for number in report.ways.values())
        lines += [f"  {number:>{digits},}  {_WAYS[how]}" for how, number in report.ways.items()]
    lines += _fields(report, verbose=verbose)
    for person in report.shown if verbose else report.shown[:4]:
        lines += ["", *_person(report, person, most, verbose=verbose)]
    for head, named, number in (("new", report.new_named, report.new),
                                ("gone", report.gone_named, report.gone)):  # fmt: skip
        if number:
            lines += ["", styled(head, "bold", sys.stdout)]
            shown = named if verbose else named[:_MOST_NAMES]
            lines += [cut(f"  {person.name}  {_record(report, person)}", most) for person in shown]
            if number > len(shown):
                lines.append(f"  … and {number - len(shown):,} more (--sheet lists all)")
    lines += _taken(report, most)
    if not (report.differs or report.spelled):
        lines += ["", styled("no difference", "green", sys.stdout)]
    return "\n".join(lines) + "\n"


def _fields(report: CompareReport, *, verbose: bool) -> Iterator[str]:
    """A table of what is said otherwise, by field."""
    if not report.fields:
        return
    used = [what for what in _WHAT if any(told[what] for told in report.fields.values())]
    order = sorted(report.fields, key=lambda path: -report.fields[path].total())
    shown = order if verbose else order[:_MOST_FIELDS]
    rows = [["field", *(_HEADS.get(what, what) for what in used)]]
    rows += [[path, *(f"{report.fields[path][what]:,}" if report.fields[path][what] else "–"
                      for what in used)] for path in shown]  # fmt: skip
    yield ""
    lines = table(rows, right=range(1, len(used) + 1), indent="  ", most=width(sys.stdout))
    yield styled(lines[0], "dim", sys.stdout)
    yield from lines[1:]
    if len(order) > len(shown):
        yield f"  … and {len(order) - len(shown)} more fields (--verbose shows all)"


def _person(report: CompareReport, person: Person, most: int, *, verbose: bool) -> Iterator[str]:
    """Somebody who changed, side by side."""
    likely = ", likely" if person.how == "likely" else ""
    said = f"{person.name}  {_record(report, person)}{likely}"
    yield styled(cut(said, most), "bold", sys.stdout)
    told: Sequence[Difference] = person.differences
    shown = told if verbose else told[:_MOST_LINES]
    first = min(max((columns_of(each.path) for each in shown), default=0), 30)
    room = max((most - first - 9) // 2, 10)
    room = min(room, max((columns_of(each.before) for each in shown), default=1) or 1)
    left = most - first - room - 9
    for each in shown:
        before, after = cut(each.before or "–", room), cut(each.after or "–", left)
        yield f"  {pad(each.path, first)}  {pad(before, room)}  →  {after}"
    if len(told) > len(shown):
        yield f"  … and {len(told) - len(shown)} more"


def _record(report: CompareReport, person: Person) -> str:
    places = [place for place in (person.old, person.new) if place is not None]
    return " → ".join(f"{report.names[source]}:{record}" for source, record in places)


def _taken(report: CompareReport, most: int) -> Iterator[str]:
    """What was taken as equal, since the service makes it so."""
    if not report.taken:
        return
    yield ""
    yield styled("taken as equal, since the service makes it so", "bold", sys.stdout)
    digits = max(len(f"{number:,}") for number in report.taken.values())
    for path, number in report.taken.most_common(_MOST_FIELDS):
        yield f"  {number:>{digits},}  {path}"
    for name, each in report.taken_shown[:3]:
        yield cut(f"  {' ' * digits}  {name}, {each.path}: '{each.before}' → '{each.after}'", most)


def for_machines(report: CompareReport) -> dict[str, Any]:
    """The report as JSON; its shape is told in docs/destinations.md."""

    def person(each: Person) -> dict[str, object]:
        return {
            "name": each.name,
            "paired_by": each.how,
            "old": _place(report, each.old),
            "new": _place(report, each.new),
            "differences": [one._asdict() for one in each.differences],
        }

    return {
        "schema": SCHEMA,
        "old": {"sources": report.names[: report.olds], "people": report.old_people},
        "new": {"sources": report.names[report.olds :], "people": report.new_people},
        "same": report.same,
        "spelled_otherwise": report.spelled,
        "changed": report.changed,
        "new_people": report.new,
        "gone": report.gone,
        "paired_by": dict(report.ways),
        "fields": {path: dict(told) for path, told in sorted(report.fields.items())},
        "taken_as_equal": dict(sorted(report.taken.items())),
        "shown": [person(each) for each in report.shown],
        "new_named": [person(each) for each in report.new_named],
        "gone_named": [person(each) for each in report.gone_named],
    }  # fmt: skip


def _place(report: CompareReport, place: tuple[int, int] | None) -> dict[str, object] | None:
    return None if place is None else {"source": report.names[place[0]], "record": place[1]}
