"""How sources are read and targets written: the same for all that reads or writes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from roundcard.books.pipeline import Step
from roundcard.books.sidefiles import Say
from roundcard.books.source import HowToRead
from roundcard.layouts.model import Layout


@dataclass(frozen=True, slots=True)
class Room:
    """How much a file may hold; 0 where there is no limit."""

    people: int = 0
    octets: int = 0


@dataclass(frozen=True, slots=True)
class ReadOptions:
    """How sources are read; what is empty is found out from each of them."""

    layouts: Sequence[Layout] = ()
    """Layouts of the tables; of several, each table takes the one that fits it best."""
    kept: Sequence[Layout] = ()
    """Layouts of the user's that may be taken unasked where they fit."""
    how: HowToRead = HowToRead()
    """What the user says of the sources' format and dialect."""
    strict: bool = False
    """Fail at the first record that cannot be read."""
    processes: int = 0
    """Processes that share the work; 0 for as many as there are cores and work for."""
    first: Sequence[Step] = ()
    """Steps that see contacts as they are read, before all others."""
    stdin: BinaryIO | None = None
    """What the source ``-`` stands for."""


@dataclass(frozen=True, slots=True)
class WriteOptions:
    """How a target is written."""

    format: str = ""
    """Name of the format; empty where the target's name tells it."""
    layout: Layout | None = None
    """Layout of the table."""
    prove: bool = False
    """Read the target again from disk, and hold it against what was meant."""
    force: bool = False
    """Replace what is there."""
    dry_run: bool = False
    """Write nothing."""
    side_folder: Path | None = None
    """Where side files go; None for beside the target."""
    last: Sequence[Step] = ()
    """Steps right before the writer."""
    left_sheet: Path | None = None
    """A sheet (``.csv``, ``.xlsx``) that lists what was left behind, and who was not sent."""
    room: Room | None = None
    """How much goes into one file."""
    stdout: BinaryIO | None = None
    """What the target ``-`` stands for."""
    say: Say = str
    """Puts reasons into words, for people who read side files."""
