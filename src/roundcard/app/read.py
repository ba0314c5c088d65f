"""Contacts of any source, for programs."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from roundcard.books.options import ReadOptions
from roundcard.books.plan import Plan
from roundcard.card.contact import Contact


def read(*sources: str | Path, options: ReadOptions | None = None) -> Iterator[Contact]:
    """The contacts of files and folders, one after another, as they are read.

    `sources` are paths of vCard, jCard, CSV or workbook files, or of folders of them; a table
    without a layout is read by a draft. Raises `SourceError` and `LayoutError`.
    """
    yield from Plan.of(sources, "", options).as_read()
