"""How well a layout fits a table that it was not made for: both ways, and by its cells."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from roundcard.card.paths import FieldPath
from roundcard.layouts.binding import bind, missing_note
from roundcard.layouts.drafting.evidence import KINDS_SAID, class_of, for_and_against, most_usual
from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.layouts.model import Column, Layout

TAKEN_FROM = 0.85
"""From this fit on a kept layout is taken unasked."""
_HEADLESS = 0.9
_STRICT = frozenset(("email", "phone", "url", "date", "date part", "address/postcode", "gender",
                     "address/country", "uid", "geo", "use", "preferred"))  # fmt: skip
"""Classes of fields of which a single cell tells that it is none."""
_LITTLE = 0.05
"""Cells that may be otherwise before it is worth saying."""


@dataclass(frozen=True, slots=True)
class Fit:
    """A layout held against the headings and cells of a table."""

    layout: Layout
    score: float
    """0 to 1: the smaller of the shares of the layout's columns that the table has and of the
    table's columns that the layout lists; 0 where the cells are of another meaning."""
    missing: tuple[str, ...] = ()
    """One line for each column that the table lacks."""
    new: tuple[str, ...] = ()
    """One line for each column that the layout does not list."""
    against: tuple[str, ...] = ()
    """One line for each column whose cells speak against its field."""
    skipped: tuple[str, ...] = ()
    """One line for each skipped column in which something stands."""

    @property
    def findings(self) -> tuple[str, ...]:
        """All that does not fit."""
        return (*self.missing, *self.new, *self.against, *self.skipped)


def fit_of(
    layout: Layout, headings: Sequence[str] | None, profiles: Sequence[ColumnProfile]
) -> Fit:
    """Hold a layout against a table, of which the profiles may show the first rows only."""
    binding = bind(layout, headings, len(profiles))
    if not binding.columns:
        return Fit(layout, 0.0, tuple(missing_note(c, headings) for c in binding.missing))
    told = len(binding.columns) + len(binding.missing)
    there = len(binding.columns) / told
    listed = len(binding.columns) / (len(binding.columns) + len(binding.unlisted))
    score = min(there, listed)
    if headings is None:
        last = max(column.number for column in layout.columns)
        score = _HEADLESS if last == len(profiles) else 0.0
    against = [note for at, column in binding.columns
               if (note := content_against(column, profiles[at]))]  # fmt: skip
    skipped = [note for at, column in binding.columns if (note := _skipped(column, profiles[at]))]
    new = []
    for at, heading in binding.unlisted:
        what = {"custom": "kept as custom", "skip": "skipped"}.get(layout.unlisted, "refused")
        filled = f", filled in {profiles[at].fill:.0%}" if profiles[at].rows else ""
        name = heading or str(at + 1)
        new.append(f"column '{name}' of the file is not in the layout{filled}; it is {what}"
                   .replace("%", " %"))  # fmt: skip
    return Fit(
        layout,
        0.0 if any(_plainly_against(c, profiles[at]) for at, c in binding.columns) else score,
        tuple(missing_note(column, headings) for column in binding.missing),
        tuple(new),
        tuple(against),
        tuple(skipped),
    )


def content_against(column: Column, profile: ColumnProfile) -> str:
    """What the cells of a column say against what it holds; empty where nothing does."""
    if not column.holds or column.holds[0].field == "custom" or profile.told == 0:
        return ""
    if len(column.holds) > 1 or column.join is not None or column.values:
        return ""
    path = column.holds[0]
    _, against = for_and_against(class_of(path), profile)
    if against < _LITTLE:
        return ""
    kind, share = most_usual(profile)
    if against >= 0.5:
        said = KINDS_SAID.get(kind, kind)
        return (f"column '{column.name}' holds {path}, and {share:.0%} of its cells are {said}"
                .replace("%", " %"))  # fmt: skip
    if class_of(path) not in _STRICT:
        return ""  # a few words in a column of words may be anything
    cell, record = _first_against(class_of(path), profile)
    where = f": '{cell[:40]}' in record {record:,}" if cell else ""
    return (f"column '{column.name}' holds {path}, and {against:.0%} of its cells do not look "
            f"like it{where}").replace("%", " %")  # fmt: skip


def path_against(path: FieldPath, profile: ColumnProfile) -> str:
    """What most cells of a column say against a field; empty where they do not."""
    agree, against = for_and_against(class_of(path), profile)
    if path.field == "custom" or profile.told == 0 or against < 0.5 or against < agree:
        return ""
    kind, share = most_usual(profile)
    return f"{share:.0%} of its cells are {KINDS_SAID.get(kind, kind)}".replace("%", " %")


def _plainly_against(column: Column, profile: ColumnProfile) -> bool:
    if not column.holds or len(column.holds) > 1 or profile.told == 0 or column.join is not None:
        return False
    agree, against = for_and_against(class_of(column.holds[0]), profile)
    return against >= 0.5 and against > agree and not column.values


def _first_against(row: str, profile: ColumnProfile) -> tuple[str, int]:
    """The first cell of a kind that speaks against a field, and its record."""
    alone = ColumnProfile()
    found = []
    for kind, (cell, record) in profile.odd.items():
        alone.kinds.clear()
        alone.kinds[kind] = 1
        if for_and_against(row, alone)[1] >= 0.5:
            found.append((record, cell))
    if not found:
        return "", 0
    record, cell = min(found)
    return cell.strip().replace("\n", " "), record


def _skipped(column: Column, profile: ColumnProfile) -> str:
    if not column.skip or not profile.filled:
        return ""
    values = "value" if profile.filled == 1 else "values"
    sample = f", as '{profile.samples[0][:40]}'" if profile.samples else ""
    return f"column '{column.name}' is skipped, and holds {profile.filled:,} {values}{sample}"
