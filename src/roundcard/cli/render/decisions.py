"""Decisions about who is the same: those that were used, and those that are asked again."""

from __future__ import annotations

from pathlib import Path

from roundcard.cli.render.text import count, styled
from roundcard.match.decision_store import Decision
from roundcard.match.sheet_decisions import Known


def told(known: Known, store: Path) -> list[str]:
    """Lines about the decisions that were used, and those that are asked again."""
    resolved = known.resolved
    lines = []
    if resolved.held:
        lines.append(f"{store}: {count(resolved.held, 'pair')} decided before")
    if resolved.absent:
        lines.append(f"{store}: {count(len(resolved.absent), 'decision')} of people who are not in "
                     "these books")  # fmt: skip
    for decision in resolved.again:
        lines.append(styled("asked again", "yellow") + f": {pair(decision)}, decided "
                     f"{_when(decision)}{decision.said}; names, addresses and numbers are not what "
                     "they were")  # fmt: skip
    return lines


def pair(decision: Decision) -> str:
    """The two contacts of which a decision speaks."""
    one, other = decision.one, decision.other
    return (f"{one.name or one.uid or 'no name'} ({one.source}:{one.record}) and "
            f"{other.name or other.uid or 'no name'} ({other.source}:{other.record})")  # fmt: skip


def _when(decision: Decision) -> str:
    return f"on {decision.when} " if decision.when else ""
