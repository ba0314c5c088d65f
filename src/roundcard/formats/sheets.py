"""Sheets that people edited in a spreadsheet program: a workbook, or CSV as it was saved."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator
from pathlib import Path

from roundcard.errors import SourceError
from roundcard.formats import workbook

TRIGGERS = ("=", "+", "-", "@", "\t", "\r")
"""A cell of CSV that begins so can run as a formula in a spreadsheet program."""
_GUARDED = re.compile(r"'+[=+@\t\r-]")


def sheet_rows(path: Path) -> Iterator[tuple[int, list[str]]]:
    """The rows of a sheet with their numbers, from 1; the separator is told from the first one.
    What guards cells of CSV is taken off.

    Raises `SourceError` where it cannot be read.
    """
    try:
        with path.open("rb") as stream:
            if workbook.recognise(stream):
                yield from ((row.line, row.cells) for row in workbook.read(stream))
                return
        with path.open(newline="", encoding="utf-8-sig") as text:
            start = text.readline()
            separator = max(",;\t", key=start.count)
            text.seek(0)
            for number, cells in enumerate(csv.reader(text, delimiter=separator), 1):
                yield number, list(map(unguarded, cells))
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror or error}") from None
    except UnicodeDecodeError:
        raise SourceError(f"{path}: is neither a workbook nor UTF-8 text") from None
    except csv.Error as error:
        raise SourceError(f"{path}: is not CSV: {error}") from None


def guarded(cell: str) -> str:
    """A cell of CSV that no spreadsheet program takes for a formula."""
    return f"'{cell}" if cell.startswith(TRIGGERS) or _GUARDED.match(cell) else cell


def unguarded(cell: str) -> str:
    """The cell without the apostrophe that guards it; others keep theirs."""
    return cell[1:] if _GUARDED.match(cell) else cell
