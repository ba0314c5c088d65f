"""Looking at one record at a time."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from roundcard.app.clean import cleaned
from roundcard.books.plan import Plan
from roundcard.clean.user_rules import Wishes
from roundcard.errors import UsageError
from roundcard.survey.preview import Record, Records

__all__ = ["PreviewPlan", "Record", "Records", "preview_records"]


@dataclass(frozen=True, slots=True)
class PreviewPlan:
    """What to look through."""

    plan: Plan
    clean: bool = False
    """Whether to tell what cleaning would make of each record."""
    region: str = ""
    rules_file: Path | None = None
    this_year: int = 0
    usual: Wishes = Wishes()
    """What holds in cleaning where nothing else is said."""


def preview_records(wanted: PreviewPlan) -> Records:
    """The records of a source. Raises `SourceError`, `LayoutError` and `UsageError`."""
    plan = wanted.plan
    opened = plan.open()
    if len(opened) > 1:
        raise UsageError(f"{plan.sources[0]} is a folder; name one of its {len(opened)} files")
    cleans = None
    if wanted.clean:
        wishes = Wishes(region=wanted.region)
        cleans = cleaned(plan, wishes, wanted.rules_file, wanted.this_year, wanted.usual)
    return Records(opened[0], plan.layouts, plan.kept, cleans)
