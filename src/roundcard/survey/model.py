"""What a survey finds."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from roundcard.layouts.drafting.draft import Draft
from roundcard.layouts.drafting.profile import ColumnProfile


class Unreachable(NamedTuple):
    """A person with no e-mail address, no phone, no postal address, or none of them."""

    source: str
    record: int
    name: str
    email: bool
    phone: bool
    address: bool


@dataclass(slots=True)
class Reach:
    """Who can be reached, in people."""

    people: int = 0
    email: int = 0
    phone: int = 0
    address: int = 0
    none: int = 0
    """People with none of the three."""

    def add(self, email: bool, phone: bool, address: bool) -> None:
        """Count one person."""
        self.people += 1
        self.email += email
        self.phone += phone
        self.address += address
        self.none += not (email or phone or address)


@dataclass(frozen=True, slots=True)
class ColumnSurvey:
    """One column of a table, or one field of a book of cards."""

    name: str
    """The heading, or the field path."""
    holds: str
    """What it is taken for; empty for fields of cards, which say it themselves."""
    seems: str
    """What its cells look like, in words, with the share of them."""
    profile: ColumnProfile
    sure: float = 1.0
    why: str = ""
    look: bool = False
    trouble: tuple[str, ...] = ()
    usual: tuple[tuple[str, int], ...] = ()
    """The most usual values, each with how often it stands there."""


@dataclass(slots=True, repr=False)
class FileSurvey:
    """One source."""

    name: str
    format: str
    octets: int
    people: int = 0
    blank: int = 0
    unreadable: int = 0
    totals: int = 0
    encoding: str = ""
    encoding_sure: float = 1.0
    separator: str = ""
    separator_sure: float = 1.0
    heading_row: int | None = None
    """Counted from 1; 0 where there are no headings; None for cards."""
    layout: str = ""
    """The layout that it is read by; empty where that was drafted, and for cards."""
    taken: float = 0.0
    """How well that fits, where it is a kept one that was taken unasked; else 0."""
    draft: Draft | None = None
    columns: list[ColumnSurvey] = field(default_factory=list)
    reach: Reach = field(default_factory=Reach)
    trouble: list[str] = field(default_factory=list)
    """What is wrong with the file as a whole."""
    seconds: float = 0.0

    def __repr__(self) -> str:
        return (f"<FileSurvey {self.name}: {self.format}, {self.people} people, "
                f"trouble {self.troubled}>")  # fmt: skip

    @property
    def troubled(self) -> int:
        """How many things are wrong, in the file and in its columns."""
        return len(self.trouble) + sum(len(column.trouble) for column in self.columns)
