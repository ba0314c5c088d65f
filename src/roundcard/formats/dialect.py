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
_LINES = 40


class GuessedDialect(NamedTuple):
    """A dialect, and how sure its character set and its separator are, 0 to 1."""

    dialect: Dialect
    encoding: float
    separator: float


def guess_dialect(sample: bytes, telling: bytes | None = None) -> GuessedDialect:
    """The dialect of a file that begins with `sample`.

    A mark or the bytes tell the encoding, the first rows the separator and the quotes. `telling`
    are the lines of the whole file that hold more than ASCII; see `charset.telling`.
    """
    marked = charset.mark_of(sample) or charset.wide_of(sample)
    if marked:
        encoding, sure = marked, 1.0
    else:
        encoding, sure = charset.guess(charset.telling([sample]) if telling is None else telling)
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
    """The separator of which the most of the first lines hold the same number, and the share of
    lines that do."""
    if said := said_separator(text):
        return said, 1.0
    lines = [line for line in text.splitlines()[:_LINES] if line.strip()]
    if len(lines) > 1 and len(text) > 1:
        del lines[-1]  # the sample may have cut it
    best, most = ",", (0, 0)
    for separator in SEPARATORS:
        # what stands in quotes does not count
        counts = Counter("".join(line.split('"')[::2]).count(separator) for line in lines)
        del counts[0]
        if counts:
            number, often = max(counts.items(), key=lambda item: (item[1], item[0]))
            if (often, number) > most:
                best, most = separator, (often, number)
    return best, most[0] / max(len(lines), 1)


def backslashed(text: str, dialect: Dialect) -> bool:
    """Whether quotes inside of cells stand behind a backslash: the rows come out more even so."""
    if not _BACKSLASH_QUOTE.search(text):
        return False
    doubled = _evenness(text, replace(dialect, backslash=False))
    return _evenness(text, replace(dialect, backslash=True)) > doubled


def _evenness(text: str, dialect: Dialect) -> float:
    """The share of the first rows that are as wide as the most of them, and read without harm."""
    rows = list(islice(rows_of(text, dialect), 200))
    widths = Counter(len(row.cells) for row in rows if not row.wrong)
    stray = sum('"' in cell.strip('"') and not row.wrong for row in rows for cell in row.cells)
    return (max(widths.values(), default=0) - 0.01 * stray) / max(len(rows), 1)


def rows_of(text: str, dialect: Dialect) -> Iterator[Row]:
    """The rows of a text."""
    return Rows([text.splitlines(keepends=True)], dialect)
