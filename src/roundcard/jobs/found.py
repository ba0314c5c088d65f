"""What a run found out of people, besides what the ledger counts."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from typing import NamedTuple

from roundcard.card.contact import Contact
from roundcard.card.names import called
from roundcard.jobs.damage import Damage
from roundcard.jobs.gather import Gathered
from roundcard.jobs.three_way import Change
from roundcard.jobs.who import People


class Row(NamedTuple):
    """Something of a person that people are to read of."""

    uid: str
    person: str
    what: str
    field: str = ""
    before: str = ""
    source: str = ""
    there: str = ""
    since: str = ""


class Removal(NamedTuple):
    """Somebody whom the destination is to lose."""

    uid: str
    person: Contact
    reason: str
    since: str

    @property
    def name(self) -> str:
        """What they are called."""
        return called(self.person)


@dataclass(slots=True)
class Found:
    """What a run found out, besides what the ledger counts."""

    counts: Counter[str] = field(default_factory=Counter)
    """People by what they are."""
    values: Counter[str] = field(default_factory=Counter)
    """Values of known people by what they are."""
    held: list[Row] = field(default_factory=list)
    """What waits for an answer."""
    told: list[Row] = field(default_factory=list)
    """What the destination has otherwise, or keeps."""
    changed: list[Row] = field(default_factory=list)
    """What changes at people whom the destination has."""
    removals: list[Removal] = field(default_factory=list)
    not_sent: list[Row] = field(default_factory=list)
    by_hand: list[Row] = field(default_factory=list)
    """Values that a person must clear there, since an empty cell does not."""
    damage: Damage = field(default_factory=Damage)
    columns: dict[str, dict[str, int]] = field(default_factory=dict)
    questions: int = 0
    people: People | None = None
    gathered: Gathered | None = None
    resting: int = 0
    """People whose state there is told from what was sent and what the service does to values."""
    by_likeness: int = 0
    delivered: int = 0
    """People whom the outbox holds."""
    noted: int = 0
    """People of whom something is kept, and nothing written."""
    lines: int = 0
    """Merges in the record."""
    unreachable: list[str] = field(default_factory=list)
    """Who goes out, and has neither an address of mail nor a telephone number."""
    stages: dict[str, float] = field(default_factory=dict)
    """Seconds by stage."""


def row_of(uid: str, name: str, change: Change, what: str) -> Row:
    """A change of a person, for people to read."""
    return Row(uid, name, what, change.path, change.before, change.source, change.there)
