"""Guessing how the rows of a file are written down, with how sure each guess is."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from itertools import islice
from typing import NamedTuple

from roundcard.formats import charset
from roundcard.formats.csv import SEPARATORS, Dialect, Row, Rows

_SAYS_SEPARATOR = re.compile(r'"?sep=(.)"?', re.IGNORECASE)
_BACKSLASH_QUOTE = re.compile(r'(?<!\\)(?:\\\\)*\\"')
_ROWS = 200


class GuessedDialect(NamedTuple):
    """A dialect, and how sure its character set and its separator are, 0 to 1."""

    dialect: Dialect
    encoding: float
    separator: float


def guess_dialect(
    sample: bytes, telling: bytes | None = None, expected: str = ""
) -> GuessedDialect:
    """The dialect of a file that begins with `sample`.

    A mark or the bytes tell the encoding, the first rows the separator and the quotes. `telling`
    are the lines of the whole file that hold more than ASCII; see `charset.telling`. An `expected`
    encoding is believed where nothing speaks against it.
    """
    marked = charset.mark_of(sample) or charset.wide_of(sample)
    telling = charset.telling([sample]) if telling is None and not marked else telling or b""
    if marked:
        encoding, sure = marked, 1.0
    elif expected and not charset.plainly_not(expected, telling):
        encoding, sure = expected, 1.0
    else:
        encoding, sure = charset.guess(telling)
    text = sample.decode(encoding, "replace").removeprefix("\ufeff")
    separator, separates = guess_separator(text)
    line_end = "crlf" if "\r\n" in text else "lf" if "\n" in text or "\r" not in text else "cr"
    dialect = Dialect(
        "utf-8" if marked == "utf-8-sig" else encoding,
        separator,
        line_end,
        encoding in ("utf-8-sig", "utf-16"),
    )
    return GuessedDialect(replace(dialect, backslash=backslashed(text, dialect)), sure, separates)


def said_separator(text: str) -> str:
    """The separator that a first line ``sep=;`` names, which some spreadsheet programs write and
    read; empty where there is none."""
    first = text.removeprefix("\ufeff").lstrip().partition("\n")[0].rstrip("\r")
    said = _SAYS_SEPARATOR.fullmatch(first) or _SAYS_SEPARATOR.fullmatch(first.strip())
    return said[1] if said else ""


def guess_separator(text: str) -> tuple[str, float]:
    """The separator with which the first rows come out most evenly wide, and how evenly, 0 to 1.

    Whole rows are tried, since a cell may hold line breaks, quotes and the other marks.
    """
    if said := said_separator(text):
        return said, 1.0
    best, most, sure = ",", 0.0, 0.0
    for separator in SEPARATORS:
        if separator not in text:
            continue
        rows = _first_rows(text, Dialect(separator=separator))
        width, even = _most_even(rows)
        if width > 1 and (score := even + _EACH_COLUMN * min(width, _MANY)) > most:
            right = sum(1 for row in rows if not row.wrong)
            best, most, sure = separator, score, even * len(rows) / max(right, 1)
    return best, min(max(sure, 0.0), 1.0)


_EACH_COLUMN, _MANY = 0.02, 12
"""What a column more is worth beside the evenness of the rows, and how many count."""


def backslashed(text: str, dialect: Dialect) -> bool:
    """Whether quotes inside of cells stand behind a backslash: the rows come out more even so."""
    if not _BACKSLASH_QUOTE.search(text):
        return False
    doubled = _evenness(text, replace(dialect, backslash=False))
    return _evenness(text, replace(dialect, backslash=True)) > doubled


def _evenness(text: str, dialect: Dialect) -> float:
    """The share of the first rows that are as wide as the most of them, and read without harm."""
    return _most_even(_first_rows(text, dialect))[1]


def _first_rows(text: str, dialect: Dialect) -> list[Row]:
    """The first rows of a text that hold anything; the last one, which the sample may have cut,
    only where there is no other."""
    rows = [row for row in islice(rows_of(text, dialect), _ROWS) if any(row.cells)]
    return rows[:-1] if len(rows) > 1 and len(rows) < _ROWS and not text.endswith("\n") else rows


def _most_even(rows: list[Row]) -> tuple[int, float]:
    """How wide the most rows are, and the share of those, less for quotes that stand in cells."""
    widths = Counter(len(row.cells) for row in rows if not row.wrong)
    width, count = max(widths.items(), key=lambda item: (item[1], item[0]), default=(0, 0))
    stray = sum('"' in cell.strip('"') and not row.wrong for row in rows for cell in row.cells)
    return width, (count - 0.01 * stray) / max(len(rows), 1)


def rows_of(text: str, dialect: Dialect) -> Iterator[Row]:
    """The rows of a text."""
    return Rows([text], dialect)
