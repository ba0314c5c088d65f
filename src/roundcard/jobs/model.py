"""A job: the whole way from sources to a destination, written down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from roundcard.card.paths import FieldPath
from roundcard.clean.user_rules import Wishes
from roundcard.destinations.model import Destination
from roundcard.layouts.model import Layout

Answer = Literal["there", "source", "ask"]
Gone = Literal["list", "remove", "keep"]
Asking = Literal["stop", "apart"]
Existing = Literal["update", "beside", "leave"]


@dataclass(frozen=True, slots=True)
class JobSource:
    """One of the sources."""

    name: str
    """As the job file names it; records are told from run to run by it."""
    path: Path
    layout: Layout | None = None
    key: str = ""
    """The heading or field path that tells a record from run to run."""
    category: str = ""
    each: bool = False
    """Whether it stands for one file after another."""


@dataclass(frozen=True, slots=True)
class Cleaning:
    """How values are cleaned."""

    wishes: Wishes = Wishes()
    rules_file: Path | None = None


@dataclass(frozen=True, slots=True)
class Merging:
    """How people are found who are the same, and made one."""

    decisions: Path
    prefer: tuple[str, ...] = ()
    ask: Asking = "stop"


@dataclass(frozen=True, slots=True)
class Again:
    """What becomes of what changed on either side since the last delivery."""

    edited_there: Answer = "there"
    conflict: Answer = "ask"
    cleared: Answer = "ask"
    removed_there: Answer = "there"
    gone: Gone = "list"
    most_gone: float = 0.05
    """The part of a source's records that may be gone; more is a damaged export."""
    most_cleared: float = 0.05
    blind: bool = False
    """Whether updates are written without knowing what the destination holds."""


@dataclass(frozen=True, slots=True)
class Deliver:
    """How people get to the destination."""

    how: Literal["files", "service"] = "files"
    existing: Existing = "update"


@dataclass(frozen=True, slots=True)
class Job:
    """The whole way in one file."""

    name: str
    id: str
    """A UUID, from which the identities of people are derived."""
    to: Destination
    sources: Sequence[JobSource]
    file: Path = Path("job.toml")
    runs: Path = Path("runs")
    region: str = ""
    keep_sources: bool = False
    where: tuple[str, ...] = ()
    clean: Cleaning | None = None
    sets: Sequence[tuple[FieldPath, str]] = ()
    merge: Merging | None = None
    again: Again = Again()
    deliver: Deliver = Deliver()
    each: str = ""
    """The file that the source with ``each = true`` stands for, as the job's folder names it."""

    @property
    def state(self) -> Path:
        """Where its state lies."""
        return self.runs / "state.sqlite"
