"""Finding who is the same person."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from roundcard.app.decisions import demand_order, demand_place, keep, store_of
from roundcard.books.figures import demand_free
from roundcard.books.hidden import demand_new, spare_originals
from roundcard.books.plan import Plan
from roundcard.books.transaction import Transaction
from roundcard.errors import UsageError
from roundcard.match.gathering import features_in
from roundcard.match.matching import Matches, matches_of
from roundcard.match.sheet import (
    SheetRow,
    Shown,
    most_telling,
    places_of,
    rows_of,
    shown_of,
    write_sheet,
)
from roundcard.match.sheet_decisions import Known, MatchSheet, answers, known

SURE, ASK = 13.0, 6.0
"""Points at or above which two are the same unasked, and a person is asked."""


@dataclass(frozen=True, slots=True)
class MatchPlan:
    """What to look through, and what to make of it."""

    plan: Plan
    sure: float = SURE
    ask: float = ASK
    region: str = ""
    """The country of numbers without a country code."""
    sheet: Path | None = None
    figure: Path | None = None
    page: Path | None = None
    """Where the page goes on which it is decided, as one file of HTML."""
    show: int | None = None
    """How many groups are to be shown, with their contacts; None for the contacts of all."""
    store: Path | None = None
    """Where decisions are kept; None for beside the sheet, or the first source."""
    force: bool = False
    when: str = ""
    """The day, for what is decided."""


@dataclass(frozen=True, slots=True, repr=False)
class MatchReport:
    """Who is the same."""

    wanted: MatchPlan
    names: list[str]
    """The sources' names."""
    matches: Matches
    known: Known
    store: Path
    people: Mapping[int, Shown] = field(default_factory=dict)
    """What the contacts of all groups say, for people to see."""
    telling: Sequence[Sequence[SheetRow]] = ()
    """The rows of the groups that are shown, the most telling ones first."""
    rows: int = 0
    """Rows of the sheet."""
    seconds: float = 0.0

    def __repr__(self) -> str:
        groups = self.matches.groups
        return f"<MatchReport {len(self.matches.features)} contacts, {len(groups)} groups>"

    def record(self, text: str) -> int:
        """The number of a contact that is named as ``source:record``. Raises `UsageError`."""
        source, _, number = text.rpartition(":")
        found = [at for at, name in enumerate(self.names) if source in (name, Path(name).name)]
        if not number.isdecimal() or len(found) != 1:
            raise UsageError(f"'{text}' is not the name of a record; use SOURCE:RECORD, such as "
                             f"{self.names[0]}:12")  # fmt: skip
        features = self.matches.features
        for at in range(len(features)):
            if features.source[at] == found[0] and features.record[at] == int(number):
                return at
        raise UsageError(f"'{text}': record not found")

    def shown(self, *contacts: int) -> Mapping[int, Shown]:
        """What some contacts say, for people to see."""
        features = self.matches.features
        places = {(features.source[at], features.record[at]): at for at in contacts}
        return shown_of(self.wanted.plan.picked(places), places)


def match_people(wanted: MatchPlan, *, look: bool = True) -> MatchReport:
    """Find who is the same; nothing is changed but what sheet, figure and decisions ask for.

    Without `look` nothing is written, and nobody shown. Raises `SourceError`, `LayoutError`,
    `PlanError`, `TargetError` and `UsageError`.
    """
    demand_order(wanted.sure, wanted.ask)
    plan, sheet = wanted.plan, wanted.sheet
    names = [source.name for source in plan.open()]
    if sheet is not None:
        spare_originals(sheet, (source.path for source in plan.open()))
        demand_new(sheet, force=wanted.force)
    if wanted.figure is not None:
        demand_free(wanted.figure, force=wanted.force)
    if wanted.page is not None:
        demand_new(wanted.page, force=wanted.force)
    began = time.monotonic()
    features = features_in(plan, wanted.region)
    store = store_of(wanted.store, sheet or plan.sources[0])
    old = MatchSheet(sheet) if sheet is not None and sheet.exists() else None
    decided = known(features, names, store, old, wanted.when)
    if decided.learned:
        demand_place(store)
    found = matches_of(features, wanted.sure, wanted.ask, decided.resolved.pairs)
    spent = time.monotonic() - began
    if not look:
        return MatchReport(wanted, names, found, decided, store, seconds=spent)
    telling = most_telling(found, wanted.show) if wanted.show is not None else []
    places = places_of(found)
    if wanted.show is not None and sheet is None and wanted.page is None:
        features = found.features
        there = [row.contact for rows in telling for row in rows]
        places = {(features.source[at], features.record[at]): at for at in there}
    people = shown_of(plan.picked(places), places)
    rows = 0
    with Transaction(sheet or wanted.figure or wanted.page) as files:
        if sheet is not None:
            rows = write_sheet(files, sheet, found, people, names, force=wanted.force,
                               decided=answers(decided.resolved))  # fmt: skip
            keep(files, decided, store)
        if wanted.page is not None:
            _page(files, wanted.page, found, people, names, decided, force=wanted.force)
        if wanted.figure is not None:
            from roundcard.match.figure import draw  # heavy

            draw(files, found, wanted.figure, force=wanted.force)
        files.commit()
    return MatchReport(wanted, names, found, decided, store, people, telling, rows, spent)


def _page(
    files: Transaction, path: Path, found: Matches, people: Mapping[int, Shown],
    names: Sequence[str], decided: Known, *, force: bool,
) -> None:  # fmt: skip
    """Write the page on which it is decided who is the same."""
    from roundcard.match.page import questions_of, rendered  # not needed by most

    features = found.features
    places = {at: f"{names[features.source[at]]}:{features.record[at]}" for at in people}
    questions = questions_of(list(rows_of(found)), people, places, answers(decided.resolved),
                             f"{path.stem}.csv")  # fmt: skip
    sure = sum(1 for group in found.groups for cluster in group.clusters if len(cluster) > 1)
    text = rendered("match.html", title="Who is the same person?", contacts=len(features),
                    sources=names, sure=sure, found=questions,
                    next=f"roundcard merge … --sheet {path.stem}.csv")  # fmt: skip
    files.file(path, force=force).write(text.encode("utf-8", "replace"))
