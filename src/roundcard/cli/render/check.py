"""What a check found, for people and for machines."""

from __future__ import annotations

import shlex
import sys
from collections.abc import Sequence
from typing import Any

from roundcard.cli.render.reasons import SENTENCES
from roundcard.cli.render.text import count, cut, styled, width
from roundcard.destinations.check import KINDS, CheckReport, Finding, Kind, Row
from roundcard.destinations.model import Destination
from roundcard.formats.csv import SEPARATORS
from roundcard.tally import Why

SCHEMA = 1
HEADS: dict[Kind, str] = {
    "refused": "would be refused",
    "merged": "would be put on top of each other",
    "cut": "would be cut",
    "ignored": "would be ignored",
    "changed": "would be changed",
}
_STYLES: dict[Kind, str] = {"refused": "bold red", "merged": "bold red", "cut": "bold yellow",
                            "ignored": "bold yellow", "changed": "bold"}  # fmt: skip
_MOST = 12
"""Kinds of finding under one head before the rest are counted."""
_FILES: dict[str, str] = {
    "format": "the file is {0}; it takes {1}",
    "unreadable": "records that cannot be read: {0}",
    "headings-missing": "column '{path}' is missing",
    "headings-unknown": "column '{path}' is none of its own",
    "headings-order": "its columns stand in another order",
    "not-its-table": "none of its columns is there; the headings begin {0}",
    "character-set": "the file is in {0}; it reads {1}",
    "separator": "the cells are separated by {0}; it reads {1}",
    "blank-rows": "blank rows",
    "people-in-file": "{0} people in one file; it takes {1}",
    "file-size": "{0} bytes in one file; it takes {1}",
    "people-in-all": "more than the {0} people that it takes in all",
    "same-key": "{path}: somebody else in the file has the same",
    "in-two-files": "{path}: somebody in another file has the same",
    "rewritten": "{path}: it writes them in its own way ({0})",
}
_VALUES: dict[str, str] = {
    Why.CUT: "{path}: longer than {0}",
    Why.TOO_LONG_THERE: "{path}: too long",
    Why.OVER_LIMIT: "{path}: more than the {0} that it takes",
    Why.DROPPED_THERE: "{path}: it does not keep them",
    Why.NOT_ALLOWED: "{path}: not among what it allows",
    Why.ALLOWED_OTHERWISE: "{path}: not among what it allows",
    Why.NO_CHARACTERS: "{path}: letters that {0} lacks",
    Why.NEAREST: "{path}: letters that {0} lacks",
    Why.ON_ONE_LINE: "{path}: line breaks",
    Why.STYLED: "{path}: in another form than it wants",
    Why.LACKS_NEEDED: "people without {0}",
    Why.TOO_BIG_THERE: "people of more than {0} bytes",
}
_BY_DESTINATION = frozenset({
    "format", "headings-missing", "headings-unknown", "headings-order", "not-its-table",
    "character-set", "separator", "blank-rows", "people-in-file", "file-size",
})  # fmt: skip
_BY_HAND = frozenset({"people-in-all"})


def words_of(finding: Finding) -> str:
    """What is found, in a few words."""
    details = finding.detail.split("|") if finding.detail else [""]
    if finding.rule in ("people-in-file", "file-size"):
        details = [f"{int(each):,}" for each in details]
    if finding.rule == "separator":
        details = [SEPARATORS.get(each, each) for each in details]
    told = _FILES.get(finding.rule) or _VALUES.get(finding.rule)
    if told is None:
        sentence = SENTENCES.get(Why(finding.rule), finding.rule)
        told = f"{{path}}: {sentence}"
    filled = told.replace("{path}", finding.path).replace("{field}", finding.path)
    for at, text in enumerate([*details, ""]):
        filled = filled.replace(f"{{{at}}}", text)
    return filled


def row_in_words(row: Row) -> str:
    """What a row of the sheet says that it is."""
    return words_of(row[0])


def mend_of(finding: Finding, files: Sequence[str], name: str) -> str:
    """The command, or what else, that mends a finding; empty where nothing can be done about it."""
    said = " ".join(shlex.quote(each) for each in files) if len(files) <= 2 else "FILE…"
    to = f"--destination {shlex.quote(name)}"
    if finding.kind == "merged":
        return f"roundcard match {said}, and merge who is the same; or import with 'beside'"
    if finding.rule == "unreadable":
        return f"roundcard survey {said}, and mend these records"
    if finding.rule == Why.LACKS_NEEDED:
        return "give them what they lack; the others can be sent without them"
    if finding.rule in _BY_HAND:
        return f"roundcard pick {said} TARGET --where CONDITION, for those who are wanted most"
    if finding.rule == "rewritten":
        return ""
    return f"roundcard convert {said} TARGET {to}"


def for_people(
    report: CheckReport, files: Sequence[str], name: str, *, verbose: bool = False
) -> str:
    """The report of a check."""
    to, most = report.destination, width(sys.stdout)
    lines = [f"{count(report.files, 'file')} for {to.title}, "
             f"{count(report.forecast.people, 'person', 'people')}"]  # fmt: skip
    mended: list[str] = []
    for kind in KINDS:
        mine = [each for each in report.findings if each.kind == kind]
        if not mine:
            continue
        lines += ["", styled(HEADS[kind], _STYLES[kind], sys.stdout)]
        shown = mine if verbose else mine[:_MOST]
        digits = max(len(f"{each.count:,}") for each in shown)
        for each in shown:
            lines.append(cut(f"  {each.count:>{digits},}  {words_of(each)}", most))
            lines += _examples(each, digits, most, verbose=verbose)
            mend = mend_of(each, files, name)
            if mend and mend not in mended:
                mended.append(mend)
        if len(mine) > len(shown):
            rest = sum(each.count for each in mine[len(shown) :])
            lines.append(f"  … and {rest:,} of {len(mine) - len(shown)} more kinds "
                         "(--verbose shows all)")  # fmt: skip
    if not report.findings:
        lines += ["", styled("nothing to mend: it takes all of it as it is", "green", sys.stdout)]
    lines += ["", *_forecast(report, to)]
    if mended:
        lines += [
            "",
            styled("what mends it", "bold", sys.stdout),
            *(f"  {each}" for each in mended),
        ]
    return "\n".join(lines) + "\n"


def _examples(finding: Finding, digits: int, most: int, *, verbose: bool) -> list[str]:
    lines = []
    for each in finding.examples[: 3 if verbose or finding.kind in ("refused", "merged") else 1]:
        where = f"{each.source}, record {each.record:,}" if each.record else each.source
        said = f"{where}: {each.person}" if each.person else where
        if each.after:
            said += f": '{each.before}' → '{each.after}'" if finding.kind != "merged" \
                else f": {each.before} ({each.after})"  # fmt: skip
        elif each.before:
            said += f": '{each.before}'"
        room = most - digits - 4
        lines.append(" " * (digits + 4) + styled(cut(said, room), "dim", sys.stdout))
    return lines


def _forecast(report: CheckReport, to: Destination) -> list[str]:
    told = report.forecast
    lines = [styled("forecast", "bold", sys.stdout)]
    rows = [(told.taken, "people will be taken"), (told.refused, "people will be refused")]
    if told.asked:
        known = f"of them it knows already: {_existing(report, to)}"
        rows += [(told.known, known), (told.new, "are new")]
    digits = max(len(f"{number:,}") for number, _ in rows)
    lines += [f"  {number:>{digits},}  {what}" for number, what in rows]
    if not told.asked:
        lines.append(f"  {'':>{digits}}  new or known: not asked (--there FILE tells)")
    return lines


def _existing(report: CheckReport, to: Destination) -> str:
    words = {"update": "update them", "beside": "put them beside", "leave": "leave its own"}
    chosen = [report.forecast.existing] if report.forecast.existing else to.on_import.existing
    return " or ".join(words[each] for each in chosen) or "what it does is not said"


def for_machines(report: CheckReport) -> dict[str, Any]:
    """The report as JSON; its shape is told in docs/destinations.md."""
    told = report.forecast
    return {
        "schema": SCHEMA,
        "destination": report.destination.name,
        "files": report.files,
        "findings": [
            {
                "kind": each.kind,
                "rule": str(each.rule),
                "field": each.path or None,
                "what": words_of(each),
                "count": each.count,
                "examples": [example._asdict() for example in each.examples],
            }
            for each in report.findings
        ],
        "forecast": {
            "people": told.people,
            "taken": told.taken,
            "refused": told.refused,
            "asked": told.asked,
            "known": told.known if told.asked else None,
            "new": told.new if told.asked else None,
            "existing": told.existing or list(report.destination.on_import.existing),
        },
    }  # fmt: skip
