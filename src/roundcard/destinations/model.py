"""A destination: what a contact service takes, insists on, and does to what it gets.

The file that describes one is read by `roundcard.destinations.file`; what all keys mean is told in
``docs/destinations.md``.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from roundcard.card.fields import by_path
from roundcard.card.paths import FieldPath
from roundcard.layouts.model import Layout
from roundcard.values.dates import DateStyle

FORMATS = {"table": "csv", "workbook": "xlsx", "vcard-4.0": "vcard-4.0", "vcard-3.0": "vcard-3.0",
           "vcard-2.1": "vcard-2.1", "jcard": "jcard"}  # fmt: skip
"""The formats of other rooms by the words of ``accepts``."""
Lacking = Literal["nearest", "leave-behind"]
Rewrite = Literal["digits", "international", "lower-case", "spaces", "trimmed", "code", "replaced",
                  "from-parts", "uses-lost", "resized", "cut", "order"]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Length:
    """How long a value may be."""

    most: int
    octets: bool = False
    """Whether octets of the character set are counted, and not characters (code points)."""

    def of(self, text: str, encoding: str) -> int:
        """How long a text is, by what is counted here."""
        return len(text.encode(encoding, "replace")) if self.octets else len(text)


@dataclass(frozen=True, slots=True)
class Limits:
    """How much fits; 0 where there is no limit."""

    people_per_file: int = 0
    octets_per_file: int = 0
    people_in_all: int = 0
    values: Mapping[FieldPath, int] = field(default_factory=dict)
    """How many values a person may have in a field, or in a field with a use."""
    length: Mapping[FieldPath, Length] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Allowed:
    """The values that a field may have."""

    values: tuple[str, ...]
    otherwise: str = ""
    """What others become; empty where they are refused."""


@dataclass(frozen=True, slots=True)
class Style:
    """How values are written; what is empty is written as it is."""

    phone: str = ""
    date: DateStyle | None = None
    country: str = ""
    """``code``, or the language (ISO 639-1) of the country's name."""
    name: str = ""


@dataclass(frozen=True, slots=True)
class OnImport:
    """What the service does with people and cells when it takes a file."""

    matches_on: tuple[tuple[FieldPath, ...], ...] = ()
    existing: tuple[str, ...] = ()
    empty_cell: str = "unknown"
    many: str = "unknown"
    blank_rows: str = "ignored"


@dataclass(frozen=True, slots=True)
class Destination:
    """What a contact service takes."""

    name: str
    title: str = ""
    accepts: tuple[str, ...] = ("table",)
    """Words of `FORMATS`, the preferred first."""
    layout: Layout | None = None
    identity: FieldPath | None = None
    """The field that carries our uid through; None where there is none."""
    drops: tuple[FieldPath, ...] = ()
    limits: Limits = Limits()
    needs_any: tuple[FieldPath, ...] = ()
    needs_all: tuple[FieldPath, ...] = ()
    allowed: Mapping[FieldPath, Allowed] = field(default_factory=dict)
    encoding: str = ""
    """The character set; empty for that of the layout, or UTF-8."""
    lacking: Lacking = "leave-behind"
    line_breaks: bool = True
    beyond_basic_plane: bool = True
    style: Style = Style()
    overflow: FieldPath | None = None
    """The field in which rides what has no room."""
    on_import: OnImport = OnImport()
    rewrites: Mapping[FieldPath, tuple[Rewrite, ...]] = field(default_factory=dict)
    service: Mapping[str, Any] = field(default_factory=dict)
    """What is said of reaching it over a network; read by who does."""
    file: str = ""
    """Where it was read from."""

    @property
    def charset(self) -> str:
        """The character set of its files."""
        if self.encoding:
            return self.encoding
        return self.layout.dialect.encoding if self.layout is not None else "utf-8"

    def takes(self, form: str) -> bool:
        """Whether it accepts files of a format, by the format's name."""
        return form in {FORMATS[word] for word in self.accepts}

    def length_of(self, *paths: FieldPath) -> Length | None:
        """The limit of the first path that has one."""
        return next((self.limits.length[p] for p in paths if p in self.limits.length), None)


def dropping(destination: Destination, path: FieldPath) -> list[FieldPath]:
    """What is said of values in a field, for some uses, or under a label, that are not kept: whole
    ones, or (with a part) a part of each."""
    return [
        each for each in destination.drops
        if each.field == path.field and set(each.uses) <= set(path.uses)
        and (not each.label or each.label.casefold() == path.label.casefold())
    ]  # fmt: skip


def counts_many(word: str) -> bool:
    """Whether a field's values are the entries of lists."""
    return by_path(word)[0].kind == "list"
