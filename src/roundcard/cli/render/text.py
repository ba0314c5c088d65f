"""Small pieces of text for terminals: plain, aligned, coloured only where it is wanted."""

from __future__ import annotations

import os
import shutil
import sys
import unicodedata
from collections.abc import Sequence
from typing import TextIO

_STYLES = {"bold": "1", "dim": "2", "red": "31", "green": "32", "yellow": "33", "cyan": "36"}


def styled(text: str, style: str, stream: TextIO | None = None) -> str:
    """`text` in a style, where the stream is a terminal and NO_COLOR is not set."""
    stream = stream or sys.stderr
    if not text or os.environ.get("NO_COLOR") or not stream.isatty():
        return text
    codes = ";".join(_STYLES[name] for name in style.split())
    return f"\x1b[{codes}m{text}\x1b[0m"


def error_line(message: str) -> str:
    """A message as an error is shown."""
    first, _, rest = message.partition("\n")
    return styled("error: ", "bold red") + first + "\n" + (f"{rest}\n" if rest else "")


def width(stream: TextIO | None = None) -> int:
    """Columns of the terminal; 100 where there is none."""
    stream = stream or sys.stderr
    return shutil.get_terminal_size((100, 24)).columns if stream.isatty() else 100


def columns_of(text: str) -> int:
    """How many terminal columns a text takes."""
    if text.isascii():
        return len(text)
    wide = sum(1 for char in text if unicodedata.east_asian_width(char) in "WF")
    return len(text) + wide - sum(1 for char in text if unicodedata.combining(char))


def pad(text: str, columns: int, right: bool = False) -> str:
    """`text` filled up with spaces to so many columns."""
    spaces = " " * max(columns - columns_of(text), 0)
    return spaces + text if right else text + spaces


def cut(text: str, columns: int) -> str:
    """`text` in at most so many columns, with a mark where something was cut off."""
    text = text.replace("\n", "⏎")
    if columns_of(text) <= columns:
        return text
    while text and columns_of(text) > columns - 1:
        text = text[:-1]
    return text + "…"


def table(rows: Sequence[Sequence[str]], right: Sequence[int] = (), gap: int = 2,
          indent: str = "", most: int = 0) -> list[str]:  # fmt: skip
    """Rows as aligned lines; the columns in `right` stand to the right; `most` is the widest."""
    widths = [max(columns_of(cell) for cell in column) for column in zip(*rows, strict=True)]
    lines = []
    for row in rows:
        cells = [pad(cell, widths[at], at in right) for at, cell in enumerate(row)]
        line = indent + (" " * gap).join(cells).rstrip()
        lines.append(cut(line, most) if most else line)
    return lines


def count(number: int, one: str, many: str = "") -> str:
    """``1 record``, ``1,204 records``."""
    return f"{number:,} {one if number == 1 else many or one + 's'}"
