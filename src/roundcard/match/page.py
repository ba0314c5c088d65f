"""The page on which it is decided who is the same person: one file, which asks no network.

A Content Security Policy (W3C, CSP Level 3) allows nothing but the page's own style and its one
script, each by its digest; values of contacts are text, never links or pictures.
"""

from __future__ import annotations

import base64
import hashlib
import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from jinja2 import ChoiceLoader, Environment, PackageLoader, StrictUndefined
from markupsafe import Markup, escape

from roundcard.formats.sheets import guarded
from roundcard.match.sheet import HEADINGS, SheetRow, Shown, grounds_of, nearness

MOST_QUESTIONS = 300
_MOST_RECORDS = 900
"""Questions on one page, and records in them, so that it stays small."""
_FIELDS = ("name", "email", "phone", "organisation", "address", "birthday")
_LONGEST = 300
_UNSEEN = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f]")


@dataclass(slots=True)
class Asked:
    """A record of a group in question."""

    number: int
    row: int
    """Its row in the data of the page."""
    cells: Mapping[str, str]
    unlike: Mapping[str, bool]
    where: str
    reasons: str
    asked: bool
    decision: str


@dataclass(slots=True)
class Question:
    """A group in which somebody is in question."""

    people: list[Asked]
    fields: list[str]


@dataclass(slots=True)
class Questions:
    """All that a page asks."""

    groups: list[Question] = field(default_factory=list)
    total: int = 0
    data: str = "{}"
    """The rows of the sheet, as JSON that is safe in HTML."""

    @property
    def more(self) -> bool:
        """Whether there are more than are shown."""
        return self.total > len(self.groups)


def questions_of(
    rows: Sequence[SheetRow], people: Mapping[int, Shown], places: Mapping[int, str],
    decided: Mapping[int, str], name: str, most: int = MOST_QUESTIONS,
) -> Questions:  # fmt: skip
    """The questions among the rows of a sheet; `places` says where each contact stands
    (``source:record``), `name` is that of the sheet which the page saves."""
    groups: dict[str, list[SheetRow]] = {}
    for row in rows:
        groups.setdefault(row.group.partition(".")[0], []).append(row)
    asked = [group for group in groups.values() if any(row.verdict == "ask" for row in group)]
    found = Questions(total=len(asked))
    kept: list[list[str]] = []
    for group in asked[:most]:
        if found.groups and len(kept) + len(group) > _MOST_RECORDS:
            break
        lead = dict(zip(_FIELDS, people[group[0].contact], strict=True))
        told: list[Asked] = []
        for number, row in enumerate(group, 1):
            cells = dict(zip(_FIELDS, people[row.contact], strict=True))
            unlike = {heading: number > 1
                      and nearness(heading, cells[heading], lead[heading]) in ("close", "different")
                      for heading in _FIELDS}  # fmt: skip
            where = places[row.contact]
            told.append(Asked(number, len(kept), cells, unlike, where, grounds_of(row),
                              row.verdict == "ask", decided.get(row.contact, "")))  # fmt: skip
            source, _, record = where.rpartition(":")
            score = "" if row.score is None else f"{row.score:.1f}"
            line = [row.group, row.verdict, score, grounds_of(row), decided.get(row.contact, ""),
                    source, record, *people[row.contact]]  # fmt: skip
            kept.append(list(map(guarded, line)))
        fields = [heading for heading in _FIELDS if any(each.cells[heading] for each in told)]
        found.groups.append(Question(told, fields))
    found.data = _in_html({"headings": HEADINGS, "rows": kept, "name": name})
    return found


def _in_html(made: Any) -> str:
    """JSON that ends no element of HTML, whatever it holds."""
    text = json.dumps(made, ensure_ascii=False, separators=(",", ":"))
    for char in "<>&\u2028\u2029":
        text = text.replace(char, f"\\u{ord(char):04x}")
    return text


def said(text: object) -> Markup:
    """A value of a contact: text, isolated from what stands around it, control characters seen."""
    shown = _UNSEEN.sub(lambda found: chr(0x2400 + min(ord(found[0]), 0x21)), str(text))
    if len(shown) > _LONGEST:
        shown = f"{shown[:_LONGEST]}…"
    return Markup("<bdi>{}</bdi>").format(shown) if shown else Markup("")


def rendered(template: str, packages: Sequence[str] = (), **told: Any) -> str:
    """A page of a template; `packages` hold templates besides this one."""
    loaders = [PackageLoader(package, "pages") for package in (*packages, "roundcard.match")]
    made = Environment(loader=ChoiceLoader(loaders), autoescape=True, undefined=StrictUndefined,
                       trim_blocks=True, lstrip_blocks=True)  # fmt: skip
    made.filters["said"] = said
    source = made.loader
    assert source is not None
    css, js = (_plain(source.get_source(made, name)[0]) for name in ("page.css", "page.js"))
    policy = (f"default-src 'none'; style-src '{_digest(css)}'; script-src '{_digest(js)}'; "
              "base-uri 'none'; form-action 'none'")  # fmt: skip
    return made.get_template(template).render(css=css, js=js, policy=Markup(policy), **told)


def _plain(text: str) -> str:
    return text.replace("\r\n", "\n")


def _digest(text: str) -> str:
    """A source expression of a policy (CSP Level 3, section 2.3.1)."""
    told = base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()
    return f"sha256-{told}"


__all__ = ["MOST_QUESTIONS", "Questions", "escape", "questions_of", "rendered", "said"]
