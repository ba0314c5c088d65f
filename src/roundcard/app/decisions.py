"""Where decisions about who is the same are kept, and how they come there."""

from __future__ import annotations

from pathlib import Path

from roundcard.books.hidden import AtomicFile
from roundcard.books.source import STANDARD
from roundcard.books.transaction import Transaction
from roundcard.errors import UsageError
from roundcard.match.decision_store import FILE, write_decisions
from roundcard.match.sheet_decisions import Known


def store_of(said: Path | None, beside: str | Path) -> Path:
    """The file of decisions: as said, or beside another file."""
    if said is not None:
        return said
    return Path(FILE) if str(beside) == STANDARD else Path(beside).parent / FILE


def demand_order(sure: float, ask: float) -> None:
    """Raise `UsageError` where nobody would ever be asked."""
    if ask > sure:
        raise UsageError(f"--ask {ask:g} is above --sure {sure:g}: nobody would ever be asked")


def demand_place(store: Path) -> None:
    """Raise `TargetError` where decisions could not be kept, before anything else is done."""
    AtomicFile(store, force=True).discard()


def keep(files: Transaction, known: Known, store: Path) -> None:
    """Keep what was learned from a sheet. Raises `TargetError`."""
    if known.learned:
        write_decisions(files, store, known.decisions)
