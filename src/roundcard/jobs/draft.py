"""Drafting a job file from its sources: which layouts fit, which region the numbers speak."""

from __future__ import annotations

import os
import uuid
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from roundcard.books.hidden import spare_originals
from roundcard.books.plan import Plan, Watch
from roundcard.books.source import Source, sources_of
from roundcard.books.tables import FITS_WELL, dialect_for, fits_table, guessed_dialect, open_table
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.clean.countries import country_code
from roundcard.destinations.file import NAME
from roundcard.destinations.model import Destination
from roundcard.errors import JobError
from roundcard.layouts.model import Layout
from roundcard.tally import Tally
from roundcard.values.number_plans import region_of_number
from roundcard.values.toml_text import quoted

_LOOKED_AT = 2_000
"""Records of a source that tell its region."""
_FEWEST = 0.6
"""Of the numbers that speak a region, so many must speak the one that is drafted."""
_KEYS = ("no", "no.", "nr", "nr.", "id", "number", "member no.", "nummer", "key", "ref")
"""Headings under which a running number may stand, in small letters."""


@dataclass(frozen=True, slots=True)
class DraftJob:
    """What to draft a job of."""

    sources: Sequence[str]
    to: Destination
    destination: str
    """As the job file is to name it."""
    output: Path
    name: str = ""
    layouts: Sequence[tuple[str, Layout]] = ()
    """Layouts that may fit, each under the name that the job file gives it."""
    region: str = ""
    force: bool = False


@dataclass(slots=True)
class _Seen:
    """What a look at a source told."""

    name: str
    folder: bool
    layout: str = ""
    fits: float = 0.0
    key: str = ""
    people: int = 0
    uids: int = 0
    notes: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class JobDraft:
    """A job that was drafted."""

    path: Path
    people: int
    region: str
    text: str


def draft_job(wanted: DraftJob, watch: Watch | None = None) -> JobDraft:
    """Write a job file, with comments that say why. Raises `SourceError`, `JobError` and
    `TargetError`."""
    path = wanted.output
    name = wanted.name or path.stem
    if not NAME.fullmatch(name):
        raise JobError(f"'{name}' cannot be a name: small letters, digits and hyphens; use --name")
    regions: Counter[str] = Counter()
    seen = []
    with Transaction(path) as files:
        opened = [(each, sources_of([each])) for each in wanted.sources]
        for _, inside in opened:
            spare_originals(path, (source.path for source in inside))
        target = files.file(path, force=wanted.force, private=False)
        for number, (each, inside) in enumerate(opened):
            seen.append(_look(each, inside, wanted, path.parent, regions))
            if watch is not None:
                watch("looking", number + 1, len(opened), sum(one.people for one in seen))
        region = wanted.region.upper() or _region(regions)
        text = "\n".join(_lines(wanted, name, seen, region, regions)) + "\n"
        target.write(text.encode())
        files.commit()
    return JobDraft(path, sum(each.people for each in seen), region, text)


def _look(
    name: str, inside: Sequence[Source], wanted: DraftJob, beside: Path, regions: Counter[str]
) -> _Seen:
    folder = Path(name).is_dir()
    seen = _Seen(_relative(name, beside), folder)
    plan = Plan.of(name, "")
    plan.opened = list(inside)
    first = inside[0]
    if first.format.sort == "table":
        guessed = guessed_dialect(first)
        fitting = [(fits_table(layout, first, dialect_for(first, layout, guessed)), said, layout)
                   for said, layout in wanted.layouts]  # fmt: skip
        best = max(fitting, key=lambda each: each[0], default=None)
        if best is not None and best[0] >= FITS_WELL:
            seen.fits, seen.layout = best[0], best[1]
            plan.layouts = [best[2]]
        table = open_table(first, plan.layouts)
        headings = [column.heading or "" for column in table.layout.columns if column.holds]
        seen.key = next((each for each in headings if each.casefold() in _KEYS), "")
    for reading in plan.readings(Tally()):
        for number, contact in enumerate(reading.contacts()):
            seen.people += 1
            if number < _LOOKED_AT:
                regions.update(_regions(contact))
                seen.uids += contact.first("uid") is not None
    return seen


def _regions(contact: Contact) -> Iterator[str]:
    """What regions a contact speaks of: in its addresses, and by its numbers' country codes."""
    for prop in contact.properties:
        if prop.head.name == "adr":
            country = prop.components[6] if len(prop.components) > 6 else ""
            code = country_code(country) if isinstance(country, str) and country else ""
            if code:
                yield code
        elif prop.head.name == "tel":
            found = region_of_number(prop.text)
            if found:
                yield found


def _region(regions: Counter[str]) -> str:
    if not regions:
        return ""
    found, times = regions.most_common(1)[0]
    return found if times >= _FEWEST * regions.total() else ""


def _relative(name: str, beside: Path) -> str:
    """A source as the job file names it: from its own folder."""
    return os.path.relpath(Path(name).resolve(), beside.resolve()).replace(os.sep, "/")


def _lines(
    wanted: DraftJob, name: str, seen: Sequence[_Seen], region: str, regions: Counter[str]
) -> Iterator[str]:
    to = wanted.to
    yield f"# The whole way to {to.title or to.name}, in one file. See the plan: roundcard run "
    yield f"# {wanted.output.name} --dry-run; it shows what would be done, and does nothing."
    yield ""
    yield f"name        = {quoted(name)}"
    yield f"id          = {quoted(str(uuid.uuid4()))}   # identities are derived from it; keep it"
    yield f"destination = {quoted(wanted.destination)}"
    if region:
        share = regions[region] / regions.total() if regions else 1
        why = f"{share:.0%} of the numbers and addresses speak of it" if regions else "as you said"
        yield f"region      = {quoted(region)}".ljust(40) + f" # {why}"
    else:
        told = ", ".join(code for code, _ in regions.most_common(3))
        yield '# region    = "GB"'.ljust(40) + (
            f" # the numbers speak of {told}" if told else " # no number tells its country"
        )
    yield 'runs        = "runs"'.ljust(40) + " # each run gets a dated folder in it"
    for each in seen:
        yield from ("", *_source(each))
    yield ""
    yield "# [pick]"
    yield "# where = 'not category = \"Donors\"'   # only people who meet a condition"
    yield ""
    yield "[clean]                                  # all the usual rules; leave it out for none"
    yield ""
    yield "[set]"
    yield 'category = "Moved {date}"'.ljust(40) + " # {date} of the run that first delivers someone"
    yield ""
    yield "[merge]                                  # who is the same becomes one person"
    yield 'decisions = "decisions.jsonl"'
    yield 'ask       = "stop"'.ljust(40) + ' # or "apart": doubtful pairs stay apart for now'
    yield ""
    yield "[again]                                  # when the job runs again, with newer exports"
    yield 'edited_there  = "there"'.ljust(40) + " # there, source, ask: whose value stays"
    yield 'conflict      = "ask"'.ljust(40) + " # both changed it"
    yield 'cleared       = "ask"'.ljust(40) + " # a field that is empty in the sources now"
    yield 'removed_there = "there"'.ljust(40) + " # there: they stay away; source: sent again"
    yield 'gone          = "list"'.ljust(40) + " # list, remove, keep: who is in no source any more"
    yield 'most_gone     = "5 %"'.ljust(40) + " # of a source; more is taken for a damaged export"
    yield 'most_cleared  = "5 %"'
    yield ""
    yield "[deliver]"
    yield 'how      = "files"'
    may = to.on_import.existing
    if may:
        existing = "update" if "update" in may else may[0]
        yield f"existing = {quoted(existing)}".ljust(40) + f" # it can {', '.join(may)}"


def _source(each: _Seen) -> Iterator[str]:
    yield "[[source]]"
    word = "folder" if each.folder else "file  "
    yield f"{word}   = {quoted(each.name)}".ljust(40) + f" # {each.people:,} people"
    if each.layout:
        yield f"layout   = {quoted(each.layout)}".ljust(40) + f" # fits {each.fits:.0%}"
    if each.key:
        yield f"key      = {quoted(each.key)}".ljust(40) + " # tells a record from run to run"
    elif each.uids and each.uids * 10 >= min(each.people, _LOOKED_AT) * 9:
        yield "# its cards have identities (UID) of their own, which tell them from run to run"
    else:
        yield '# key    = "No."'.ljust(40) + " # a heading that tells a record from run to run"
    yield f"# category = {quoted('From ' + Path(each.name).stem)}"
