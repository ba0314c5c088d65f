"""What ``match``, ``review``, ``merge`` and ``unmerge`` share: decisions, and where they stand."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from pathlib import Path

from roundcard.books.source import STANDARD
from roundcard.books.target import AtomicFile
from roundcard.cli.render.text import count, styled
from roundcard.errors import TargetError, UsageError
from roundcard.match.deciding import Known
from roundcard.match.decisions import FILE, Decision, write_decisions


def today() -> str:
    """The day, as decisions and records tell it."""
    return datetime.date.today().isoformat()


def demand_order(sure: float, ask: float) -> None:
    """Raise `UsageError` where nobody would ever be asked."""
    if ask > sure:
        raise UsageError(f"--ask {ask:g} is above --sure {sure:g}: nobody would ever be asked")


def demand_new(sheet: Path, *, force: bool) -> None:
    """Raise `TargetError` where a sheet is there already and may not be written anew."""
    if sheet.exists() and not force:
        raise TargetError(f"{sheet}: exists already; add --force to write it anew, with what was "
                          "decided in it kept")  # fmt: skip


def store_of(said: Path | None, beside: str | Path) -> Path:
    """The file of decisions: as said, or beside another file."""
    if said is not None:
        return said
    return Path(FILE) if str(beside) == STANDARD else Path(beside).parent / FILE


def demand_place(store: Path) -> None:
    """Raise `TargetError` where decisions could not be kept, before anything else is written."""
    AtomicFile(store, force=True).discard()


def keep(known: Known, store: Path) -> None:
    """Keep what was learned from a sheet. Raises `TargetError`."""
    if known.learned:
        write_decisions(store, known.decisions)


def told(known: Known, store: Path) -> list[str]:
    """Lines about the decisions that were used, and those that are asked again."""
    resolved = known.resolved
    lines = []
    if resolved.held:
        lines.append(f"{store}: {count(resolved.held, 'pair')} decided before")
    for decision in resolved.again:
        lines.append(styled("asked again", "yellow") + f": {_pair(decision)}, decided "
                     f"{_when(decision)}{decision.said}; names, addresses and numbers are not what "
                     "they were")  # fmt: skip
    return lines


def lost(decisions: Sequence[Decision], sheet: Path) -> list[str]:
    """Lines about decisions of a sheet that could not be followed."""
    return [f"{sheet}: {_pair(each)}: not in these books as the sheet has them; '{each.said}' was "
            "not followed" for each in decisions]  # fmt: skip


def _pair(decision: Decision) -> str:
    one, other = decision.one, decision.other
    return (f"{one.name or one.uid or 'no name'} ({one.source}:{one.record}) and "
            f"{other.name or other.uid or 'no name'} ({other.source}:{other.record})")  # fmt: skip


def _when(decision: Decision) -> str:
    return f"on {decision.when} " if decision.when else ""
