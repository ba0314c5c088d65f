"""Drafting the layout of a table into a file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from roundcard.books.hidden import spare_originals
from roundcard.books.source import Source
from roundcard.books.transaction import Transaction
from roundcard.layouts.drafting.draft import Draft
from roundcard.layouts.drafting.written import as_file
from roundcard.survey.profile_table import Watch, draft_whole, named


@dataclass(frozen=True, slots=True)
class DraftPlan:
    """What to draft a layout of."""

    samples: Sequence[Source]
    """Tables of one layout."""
    output: Path | None = None
    """The file to write; None for none."""
    name: str = ""
    """The layout's name; empty for that of the file."""
    bare: bool = False
    """Map nothing: headings and samples as comments."""
    only_filled: bool = False
    """Leave out empty columns."""
    force: bool = False


@dataclass(frozen=True, slots=True, repr=False)
class DraftReport:
    """A drafted layout."""

    draft: Draft
    text: str
    """The layout file."""

    def __repr__(self) -> str:
        return f"<DraftReport {self.draft.layout.name}: {len(self.draft.columns)} columns>"


def draft_layout(wanted: DraftPlan, watch: Watch | None = None) -> DraftReport:
    """Draft the layout of some tables. Raises `SourceError`, `LayoutError` and `TargetError`."""
    path = wanted.output
    with Transaction(path) as files:
        target = None
        if path is not None:
            spare_originals(path, (source.path for source in wanted.samples))
            target = files.file(path, force=wanted.force)
        made = draft_whole(wanted.samples, watch)
        made = named(made, wanted.name or (path.stem if path is not None else ""))
        made_from = " ".join(source.name for source in wanted.samples)
        text = as_file(made, made_from, bare=wanted.bare, only_filled=wanted.only_filled)
        if target is not None:
            target.write(text.encode("utf-8"))
        files.commit()
    return DraftReport(made, text)
