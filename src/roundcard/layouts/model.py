"""A layout: the columns of a table and what each of them holds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from roundcard.card.fields import by_path
from roundcard.card.paths import FieldPath
from roundcard.formats.csv import Dialect
from roundcard.values.dates import DateStyle

Unlisted = Literal["custom", "skip", "refuse"]
"""What becomes of a column that the layout does not list."""


@dataclass(frozen=True, slots=True)
class Column:
    """One column, as the layout file's ``[[column]]`` says it."""

    heading: str = ""
    number: int = 0
    """Place from 1, for files without headings; 0 where the heading names the column."""
    nth: int = 1
    """Which of several columns under the same heading."""
    aliases: tuple[str, ...] = ()
    holds: tuple[FieldPath, ...] = ()
    many: str = ""
    """Stands between several values in one cell."""
    parted: str = ""
    """Parts the several things that `holds` lists."""
    join: str | None = None
    """Stands between the cells of two columns that hold one place."""
    date: DateStyle | None = None
    values: Mapping[str, str] = field(default_factory=dict)
    """Their word to ours."""
    fixed: str | None = None
    skip: bool = False
    blank: bool = False
    line: int = 0
    """Where it stands in the layout file, from 1; 0 where there is no file."""
    why: str = ""
    """Why a column was taken for what it holds, where the layout was not written by a person."""

    @property
    def name(self) -> str:
        """What people call the column."""
        if self.number:
            return f"column {self.number}"
        return self.heading if self.nth == 1 else f"{self.heading} ({self.nth})"

    @property
    def parts_at(self) -> str:
        """What parts several values in a cell: `many`, without blanks at the end."""
        return self.many.rstrip() or self.many

    @property
    def dated(self) -> bool:
        """Whether whole dates stand in it."""
        return any(by_path(path.field)[0].kind == "date" and not path.part for path in self.holds)

    @property
    def headings(self) -> tuple[str, ...]:
        """All headings under which the column may stand."""
        return (self.heading, *self.aliases)

    @property
    def meaning(self) -> str:
        """What the column is for, in one short phrase."""
        if self.skip:
            return "(skipped)"
        if self.blank:
            return "(left blank)"
        if self.fixed is not None:
            return f"(always '{self.fixed}')"
        return ", ".join(str(path) for path in self.holds)


@dataclass(frozen=True, slots=True)
class Every:
    """A value that each contact gets although no column has it."""

    holds: FieldPath
    value: str
    line: int = 0


@dataclass(frozen=True, slots=True)
class Layout:
    """What the columns of a table mean, for reading it and for writing it."""

    name: str
    title: str = ""
    dialect: Dialect = Dialect()
    heading_row: int = 1
    explained_by: tuple[str, ...] = ()
    """The cells of the row under the headings that says what they are for, and is nobody."""
    formula_guard: bool = False
    years_from: int = 0
    """The first of the hundred years in which years of two digits lie; 0 where none are taken."""
    lacking: str = "leave-behind"
    """What becomes of characters that the character set lacks: ``nearest`` writes the nearest
    letters."""
    empty: frozenset[str] = frozenset()
    unlisted: Unlisted = "custom"
    columns: tuple[Column, ...] = ()
    every: tuple[Every, ...] = ()
    file: str = ""
    """Where it was read from; empty where it was made."""
    clean: Mapping[str, Any] = field(default_factory=dict)
    """How its tables are cleaned, as the rules' own room reads it."""

    @property
    def where(self) -> str:
        """How messages name it."""
        return self.file or f"layout '{self.name}'"
