"""``merge`` from its options to its report."""

from __future__ import annotations

import math
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from roundcard.books.plan import Plan
from roundcard.books.source import STANDARD
from roundcard.books.target import spare_originals
from roundcard.cli import matching
from roundcard.cli.picking import tell
from roundcard.cli.planning import Usual
from roundcard.cli.render import merge as render
from roundcard.cli.render import progress
from roundcard.cli.render.text import table
from roundcard.errors import TargetError, UsageError
from roundcard.match.deciding import MatchSheet, known
from roundcard.match.features import features_of
from roundcard.match.matching import matches_of
from roundcard.merge.planning import EXISTING
from roundcard.merge.policy import Losers, Policy, preferences_in, updates_in
from roundcard.merge.whole import Wanted, merge

_LOSERS: tuple[Losers, ...] = ("", "note", "extension")


@dataclass(slots=True)
class Asked:
    """What a command line asks for."""

    sources: Sequence[str]
    target: str
    sheet: Path | None
    decided_only: bool
    prefer: Sequence[str]
    losers: str
    into: str
    existing: str
    update: Sequence[str]
    record: Path | None
    decisions: Path | None
    sure: float
    ask: float
    region: str
    usual: Usual
    json: bool
    quiet: bool
    verbose: bool


def explained(policy: Policy) -> str:
    """The policy in words, a line for each field."""
    return "\n".join(table(policy.explained(), gap=3)) + "\n"


def run(asked: Asked) -> int:
    """Merge, keep the record and the decisions, and tell; the exit code."""
    plan = _plan(asked)
    wanted = _wanted(asked, plan)
    sheet = MatchSheet(asked.sheet) if asked.sheet is not None else None
    names = [source.name for source in plan.open()]
    store = matching.store_of(asked.decisions, asked.target)
    with progress.shown(asked.quiet) as watch:
        features = features_of(plan.as_read(), asked.region)
        decided = known(features, names, store, sheet, wanted.when)
        if decided.learned and not asked.usual.dry_run:
            matching.demand_place(store)
        sure = math.inf if asked.decided_only else asked.sure
        matches = matches_of(features, sure, asked.ask, decided.resolved.pairs)
        numbers = sheet.numbers() if sheet is not None else {}
        places = {(names.index(source), record): group
                  for (source, record), group in numbers.items() if source in names}  # fmt: skip
        done = merge(plan, matches, decided.resolved, places, wanted, watch)
    if not asked.usual.dry_run:
        matching.keep(decided, store)
    more = {"merge": render.for_machines(done, decided)}
    code = tell(done.report, plan, json_=asked.json, quiet=asked.quiet, verbose=asked.verbose,
                more=more)  # fmt: skip
    strange = matching.lost(decided.lost, asked.sheet) if asked.sheet is not None else []
    if not asked.quiet and not asked.json:
        lines = [*matching.told(decided, store), *render.for_people(done, verbose=asked.verbose)]
        sys.stderr.write("".join(f"{line}\n" for line in lines))
    sys.stderr.write("".join(f"{line}\n" for line in strange))
    return code or (1 if strange else 0)


def _plan(asked: Asked) -> Plan:
    """The conversion, the book that is added to first."""
    sources = [*([asked.into] if asked.into else []), *asked.sources]
    plan = asked.usual.plan(sources, asked.target)
    if plan.to_layout is None:
        plan.keep_layout()
    return plan


def _wanted(asked: Asked, plan: Plan) -> Wanted:
    """How to merge. Raises `UsageError` and `TargetError`."""
    matching.demand_order(asked.sure, asked.ask)
    existing = next((each for each in EXISTING if each == asked.existing), None)
    if existing is None:
        raise UsageError(f"--existing {asked.existing}: say {', '.join(EXISTING)}")
    if asked.update and not asked.into:
        raise UsageError("--update is for --into: it says what becomes of people the book has")
    losers = next((each for each in _LOSERS if each == asked.losers), None)
    if losers is None:
        raise UsageError(f"--losers {asked.losers}: say note or extension")
    names = [source.name for source in plan.open()]
    policy = Policy(preferences_in(asked.prefer, names),
                    updates_in(asked.update) or (("", "fill"),), losers, asked.region)  # fmt: skip
    record = asked.record
    if record is None and asked.target != STANDARD:
        target = Path(asked.target)
        record = target.with_name(f"{target.stem}.merges.jsonl")
    if record is None:
        raise UsageError("say where the merge record goes, with --record FILE.jsonl: standard "
                         "output is for the book")  # fmt: skip
    spare_originals(record, (source.path for source in plan.open()))
    if asked.record is not None and record.exists() and not asked.usual.force:
        raise TargetError(f"{record}: exists already; add --force to replace it")
    return Wanted(policy, record, asked.record is None, 0 if asked.into else -1, existing,
                  matching.today())  # fmt: skip
