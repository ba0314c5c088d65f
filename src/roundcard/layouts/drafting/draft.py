"""A layout drafted from headings and cells, each column with its reason and how sure it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from roundcard.card.paths import FieldPath, uses_of
from roundcard.formats.csv import Dialect
from roundcard.layouts.drafting.assign import assign
from roundcard.layouts.drafting.candidates import (
    LOOK,
    UNSURE,
    Candidate,
    candidates_of,
    competing,
)
from roundcard.layouts.drafting.context import in_context
from roundcard.layouts.drafting.date_styles import date_style_of
from roundcard.layouts.drafting.evidence import KINDS_SAID, most_usual
from roundcard.layouts.drafting.heading_parser import (
    HeadingRead,
    languages_of,
    read_headings,
    uses_said,
)
from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.layouts.drafting.shifted import moved_back, names_turned
from roundcard.layouts.model import Column, Layout

_MANY = ("phone", "email", "category", "nickname", "url")
_SEVERAL_FROM = 0.04
_LISTED_FROM = 0.15
_MOST_USES = 30
_WORTH_NAMING = 0.02


@dataclass(frozen=True, slots=True)
class DraftedColumn:
    """One column of the draft: what it holds, how sure that is, and what else it may be."""

    column: Column
    sure: float
    why: str
    look: bool = False
    """Whether a person should look at it."""
    notes: tuple[str, ...] = ()
    others: tuple[Candidate, ...] = ()
    """What else it may be, the likeliest first."""
    samples: tuple[str, ...] = ()
    fill: float = 0.0

    @property
    def is_custom(self) -> bool:
        """Whether no standard field was found for it."""
        return bool(self.column.holds) and self.column.holds[0].field == "custom"


@dataclass(frozen=True, slots=True)
class Draft:
    """The layout that a table suggests."""

    layout: Layout
    columns: tuple[DraftedColumn, ...]
    profiles: tuple[ColumnProfile, ...] = field(default=(), repr=False)

    @property
    def sure(self) -> float:
        """How sure the columns are on average, those that are skipped not counted."""
        told = [each.sure for each in self.columns if not each.column.skip]
        return sum(told) / len(told) if told else 0.0

    @property
    def understood(self) -> int:
        """Columns that hold a standard field."""
        return sum(1 for each in self.columns if each.column.holds and not each.is_custom)

    @property
    def unsure(self) -> list[DraftedColumn]:
        """Columns that a person should look at."""
        return [each for each in self.columns if each.look]


def draft_layout(
    headings: Sequence[str] | None,
    profiles: Sequence[ColumnProfile],
    dialect: Dialect,
    name: str,
    *,
    skip_empty: bool = False,
) -> Draft:
    """The layout that headings (None: there are none) and cells suggest together.

    `skip_empty` has wholly empty columns skipped; it is for profiles of the whole table.
    """
    said = list(headings) if headings is not None else [""] * len(profiles)
    persons = [profile.share("person", "person, comma", "given") for profile in profiles]
    reads = names_turned(moved_back(read_headings(said, persons), profiles), profiles)
    columns = [candidates_of(read, profile) for read, profile in zip(reads, profiles, strict=True)]
    columns = in_context(competing(columns), reads, profiles)
    chosen = assign(columns)
    languages = languages_of(said)
    seen: dict[str, int] = {}
    drafted = []
    for at, candidate in enumerate(chosen):
        heading = said[at].strip()
        seen[heading] = seen.get(heading, 0) + 1
        maker = _Maker(reads[at], profiles[at], columns[at], at + 1, seen[heading], languages)
        drafted.append(maker.drafted(candidate, skip_empty))
    drafted = _joined(drafted, chosen)
    placeholders = _placeholders(profiles)
    layout = Layout(
        name=name,
        dialect=dialect,
        heading_row=1 if headings is not None else 0,
        empty=placeholders,
        columns=tuple(each.column for each in drafted),
    )
    return Draft(layout, tuple(drafted), tuple(profiles))


@dataclass(frozen=True, slots=True)
class _Maker:
    """Makes the column of the layout from what was found."""

    read: HeadingRead
    profile: ColumnProfile
    candidates: Sequence[Candidate]
    number: int
    nth: int
    languages: dict[str, float]

    def drafted(self, chosen: Candidate, skip_empty: bool) -> DraftedColumn:
        profile = self.profile
        empty = skip_empty and profile.rows > 0 and not profile.filled
        others = tuple(
            each for each in self.candidates
            if each.paths and each.paths != chosen.paths and each.sure > _WORTH_NAMING
        )  # fmt: skip
        if empty:
            column = replace(self.named(), skip=True)
            return DraftedColumn(column, 1.0, "no cell of it is filled", others=others)
        kept_as_custom = not chosen.paths or chosen.sure < UNSURE
        if kept_as_custom:
            best = next((each for each in self.candidates if each.paths), None)
            column = replace(self.named(), holds=(self.custom(),))
            why, sure = chosen.why, chosen.sure
            if chosen.paths:
                why = f"unsure: {chosen.path or chosen.paths[0]}? ({chosen.why})"
                sure = 1 - chosen.sure
            elif best is not None and best.meant and "but its cells" in best.why:
                why = best.why.replace("says so", f"says {best.paths[0]}", 1)
            elif best is not None and best.sure > 0.3 and chosen.sure < 0.9:
                why = f"{why}; perhaps {best.paths[0]} ({best.sure:.0%})".replace("%", " %")
            look = sure < LOOK and profile.filled > 0
            return self.finished(column, sure, why, look, others)
        column = replace(self.named(), holds=chosen.paths)
        if chosen.paths[0].field == "custom":
            return self.finished(column, chosen.sure, chosen.why, False, others)
        column, notes = self.with_style(column)
        moved = self.read.moved if chosen.meant is not None else ""
        look = chosen.sure < LOOK or bool(chosen.lies or moved)
        made = self.finished(column, chosen.sure, moved or chosen.why, look, others)
        return replace(made, notes=(*made.notes, *notes), look=look or any("?" in n for n in notes))

    def finished(
        self, column: Column, sure: float, why: str, look: bool, others: tuple[Candidate, ...]
    ) -> DraftedColumn:
        profile = self.profile
        notes = []
        if profile.filled > 3 and len(profile.values) == 1 and not profile.distinct[1]:
            value = next(iter(profile.values))
            everywhere = "in every row" if profile.filled == profile.rows else "wherever filled"
            notes.append(f'the same {everywhere}: "{value.strip()[:40]}"')
        column = replace(column, why=why)
        samples = tuple(sample for sample in profile.samples if sample)
        return DraftedColumn(column, sure, why, look, tuple(notes), others, samples, profile.fill)

    def named(self) -> Column:
        heading = self.read.heading
        if not heading:
            return Column(number=self.number)
        return Column(heading=heading, nth=self.nth)

    def custom(self) -> FieldPath:
        heading = " ".join(self.read.heading.split())
        label = heading or f"column {self.number}"
        return FieldPath("custom", label=label if self.nth == 1 else f"{label} ({self.nth})")

    def with_style(self, column: Column) -> tuple[Column, list[str]]:
        """The column with what stands between several values, and how dates are written."""
        profile, path = self.profile, column.holds[0]
        notes: list[str] = []
        if len(column.holds) > 1:
            return replace(column, parted=self.parting()), notes
        if path.field in _MANY and not path.part and not path.position:
            several = profile.share("phones", "emails")
            listed = path.field in ("category", "nickname", "url")
            counted = sum(profile.separators.values()) / max(profile.told, 1)
            if several >= _SEVERAL_FROM or (listed and counted >= _LISTED_FROM):
                mark = profile.separators.most_common(1)[0][0]
                spaced = all(mark not in cell.replace(f"{mark} ", "") for cell in profile.values)
                column = replace(column, many=f"{mark} " if spaced else mark)
        if path.part == "use" and not self.read.is_path:
            column = replace(column, values=self.said_uses(path.field))
        if path.field in ("birthday", "anniversary", "revised") and not path.part:
            style, note = date_style_of(profile, self.languages)
            if style is not None and path.field != "revised":
                column = replace(column, date=style)
            if note:
                notes.append(note)
        return column, notes

    def said_uses(self, field: str) -> dict[str, str]:
        """Their words for uses ("mobil", "dienstlich") to ours, where these differ."""
        known = uses_of(field)
        said = {}
        for word in list(self.profile.values)[:_MOST_USES]:
            uses = [use for use in uses_said(word) if use in known]
            if uses and word.strip().casefold() != "+".join(uses):
                said[word.strip()] = "+".join(uses)
        return said

    def parting(self) -> str:
        commas = sum(1 for value in self.profile.values if "," in value)
        return ", " if commas > 0.5 * max(len(self.profile.values), 1) else " "


def _joined(drafted: list[DraftedColumn], chosen: Sequence[Candidate]) -> list[DraftedColumn]:
    """Streets and the house numbers that go behind them say how they are joined."""
    behind = {
        each.paths[0] for each in chosen
        if each.meant and each.meant.joined and each.paths and each.sure >= UNSURE
    }  # fmt: skip
    if not behind:
        return drafted
    return [
        replace(each, column=replace(each.column, join=" "))
        if each.column.holds and each.column.holds[0] in behind
        else each
        for each in drafted
    ]


def _placeholders(profiles: Sequence[ColumnProfile]) -> frozenset[str]:
    """Cells that mean nothing, wherever they stand: "-", "n/a"."""
    found = {
        value
        for profile in profiles
        for value, times in profile.placeholders.items()
        if times > 1 or len(value) < 4
    }
    return frozenset(sorted(found)[:20])


def said_kind(profile: ColumnProfile) -> str:
    """What most cells of a column look like, in plain words, with the share of them."""
    shares = {said: profile.share(*kinds) for said, kinds in _LOOKS.items()}
    kind, share = most_usual(profile)
    if not kind:
        return ""
    said = max(shares, key=lambda each: shares[each])
    if shares[said] > share:
        share = shares[said]
    else:
        said = KINDS_SAID.get(kind, kind)
    return f"{said} {share:.0%}".replace("%", " %")


_LOOKS = {
    "names": ("person", "person, comma", "title case", "given"),
    "words": ("single", "given", "few words", "title case"),
    "phone numbers": ("phone", "phones", "digits"),
    "e-mail addresses": ("email", "emails", "named email"),
    "dates": ("date", "moment", "worded date"),
    "text": ("sentence", "long", "few words"),
    "streets and addresses": ("street", "address"),
}
"""Kinds of cells that are told as one."""
