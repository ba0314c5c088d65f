"""Small pieces of text for terminals: plain, aligned, coloured only where it is wanted."""

from __future__ import annotations

import json
import os
import re
import shutil
import sys
import unicodedata
from collections.abc import Iterable, Sequence
from typing import Any, TextIO

from roundcard.cli import settings
from roundcard.patterns import pattern

_STYLES = {"bold": "1", "dim": "2", "red": "31", "green": "32", "yellow": "33", "cyan": "36"}


_STYLE = r"\x1b\[(?!8m)[0-9;]*m"
_UNSEEN = pattern(
    rf"({_STYLE})|[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]"
)
"""Control characters and marks of direction, which a terminal obeys; a style is none."""
_PICTURES = 0x2400


def visible(text: str) -> str:
    """Text in which what a terminal would obey is seen instead: control characters as their
    pictures, marks of direction by their code. Line breaks, tabs and styles stay."""
    if text.isprintable():
        return text
    return _UNSEEN.sub(_seen, text)


def _seen(found: re.Match[str]) -> str:
    if found[1]:
        return found[1]
    code = ord(found[0])
    if code < 0x20:
        return chr(_PICTURES + code)
    return "␡" if code == 0x7F else f"‹U+{code:04X}›"


class Screen:
    """A stream of text for people: nothing in what is shown is obeyed."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        """Write text as it can be seen, its lines parted where they do not fit."""
        return self._stream.write(fitted(visible(text), room_of(self._stream)))

    def plain(self, text: str) -> None:
        """Write text as it can be seen, line for line: it is data."""
        self._stream.write(visible(text))

    def writelines(self, lines: Iterable[str]) -> None:
        """Write lines, each with its break."""
        for line in lines:
            self.write(line)

    def obeyed(self, codes: str) -> None:
        """Write what the terminal is to obey: codes of ours."""
        self._stream.write(codes)

    def __getattr__(self, name: str) -> Any:
        """All else is the stream's own affair."""
        return getattr(self._stream, name)


def obey(codes: str, stream: TextIO) -> None:
    """Have the terminal obey codes of ours, which move and clear."""
    getattr(stream, "obeyed", stream.write)(codes)


def write_data(text: str, stream: TextIO) -> None:
    """Write what is read by programs, or kept: its lines stay as they are."""
    getattr(stream, "plain", stream.write)(text)


def write_json(told: object, stream: TextIO | None = None) -> None:
    """Write JSON for machines, with all that a terminal would obey written as escapes (RFC 8259
    section 7)."""
    text = json.dumps(told, ensure_ascii=False, indent=2)
    text = _UNSEEN.sub(lambda found: f"\\u{ord(found[0]):04x}", text)
    write_data(f"{text}\n", stream or sys.stdout)


def coloured(stream: TextIO) -> bool:
    """Whether a stream is to be coloured: a terminal, unless NO_COLOR or the settings speak against
    it; anything where the settings say always."""
    if os.environ.get("NO_COLOR"):
        return False
    wanted = settings.colours()
    return wanted == "always" or (wanted == "auto" and stream.isatty())


def styled(text: str, style: str, stream: TextIO | None = None) -> str:
    """`text` in a style, where a stream is coloured."""
    if not text or not coloured(stream or sys.stderr):
        return text
    codes = ";".join(_STYLES[name] for name in style.split())
    return f"\x1b[{codes}m{text}\x1b[0m"


def error_line(message: str) -> str:
    """A message as an error is shown."""
    first, _, rest = visible(message).partition("\n")
    return styled("error: ", "bold red") + first + "\n" + (f"{rest}\n" if rest else "")


def width(stream: TextIO | None = None) -> int:
    """Columns of the terminal, or as ``COLUMNS`` says; 100 where nothing tells."""
    stream = stream or sys.stderr
    said = os.environ.get("COLUMNS", "")
    if said.isdecimal() and int(said):
        return int(said)
    return shutil.get_terminal_size((100, 24)).columns if stream.isatty() else 100


def room_of(stream: TextIO) -> int:
    """The columns into which lines must fit: those of the terminal, or what ``COLUMNS`` says; 0 in
    a pipe of which nothing is said, where a line may be as long as it is."""
    said = os.environ.get("COLUMNS", "")
    if said.isdecimal() and int(said):
        return int(said)
    return shutil.get_terminal_size((0, 0)).columns if stream.isatty() else 0


def fitted(text: str, room: int) -> str:
    """Text whose lines fit into so many columns (0: any), parted at spaces; words stay whole."""
    if not room or len(text) <= room // 2:
        return text
    return "\n".join([part for line in text.split("\n") for part in wrapped(line, room)])


def wrapped(line: str, room: int, hang: int | None = None) -> list[str]:
    """A line in lines of at most so many columns; words stay whole, but in scripts without spaces.

    The further ones are indented by `hang`, or as the last cell that begins in the left half.
    """
    if columns_of(line) <= room:
        return [line]
    indent = " " * (_hanging(line, room) if hang is None else hang)
    lines, here, taken = [], "", 0
    for word in _WORD.findall(line):
        for piece in _pieces(word, room - len(indent)):
            size = columns_of(piece)
            if here.strip() and taken + size > room:
                lines.append(here.rstrip(" "))
                here, taken = indent, len(indent)
                piece = piece.lstrip(" ")
                size = columns_of(piece)
            here += piece
            taken += size
    return [*lines, here]


_WORD = pattern(r" *[^ ]+(?: %(?= |$))?| +$")
_CELL = pattern(r"(?<=\S) {2,}(?=\S)")


def _hanging(line: str, room: int) -> int:
    plain = re.sub(_STYLE, "", line)
    begins = [found.end() for found in _CELL.finditer(plain) if found.end() <= room // 2]
    return begins[-1] if begins else min(len(plain) - len(plain.lstrip(" ")) + 2, room // 2)


def _pieces(word: str, room: int) -> Iterable[str]:
    """A word, cut between its characters where it is too long and needs no spaces."""
    if word.isascii() or columns_of(word) <= room or "\x1b" in word:
        return (word,)
    wide = any(unicodedata.east_asian_width(char) in "WF" for char in word)
    step = max(room // 2, 1)
    return [word[at : at + step] for at in range(0, len(word), step)] if wide else (word,)


def columns_of(text: str) -> int:
    """How many terminal columns a text takes; styles take none."""
    if "\x1b" in text:
        text = re.sub(_STYLE, "", text)
    if text.isascii():
        return len(text)
    wide = sum(1 for char in text if unicodedata.east_asian_width(char) in "WF")
    return len(text) + wide - sum(1 for char in text if unicodedata.combining(char))


def pad(text: str, columns: int, right: bool = False) -> str:
    """`text` filled up with spaces to so many columns."""
    spaces = " " * max(columns - columns_of(text), 0)
    return spaces + text if right else text + spaces


_AT_MOST = 20
"""Characters that one column holds at the most, styles and combining marks among them."""


def cut(text: str, columns: int) -> str:
    """`text` in at most so many columns, with a mark where something was cut off."""
    # of what is much longer than the room the rest need not be looked at
    text = visible(text[: _AT_MOST * max(columns, 1)].replace("\n", "⏎").replace("\t", " "))
    if columns_of(text) <= columns:
        return text
    taken = 0
    for at, char in enumerate(text):
        taken += columns_of(char)
        if taken > columns - 1:
            return text[:at] + "…"
    return text


def table(rows: Sequence[Sequence[str]], right: Sequence[int] = (), gap: int = 2,
          indent: str = "", most: int = 0) -> list[str]:  # fmt: skip
    """Rows as aligned text, each of one line or, where it does not fit into `most` columns, of
    several; the columns in `right` stand to the right."""
    rows = [[visible(cell) for cell in row] for row in rows]
    widths = [max(columns_of(cell) for cell in column) for column in zip(*rows, strict=True)]
    if most:
        widths = narrowed(widths, most - len(indent) - gap * (len(widths) - 1))
    return [in_cells(row, widths, right, gap, indent) for row in rows]


_LEAST = 9
"""Columns that a cell keeps, however narrow the terminal is."""


def narrowed(widths: Sequence[int], room: int) -> list[int]:
    """Widths that fit into so many columns together, the widest made less first."""
    found = list(widths)
    while sum(found) > room and (most := max(found)) > _LEAST:
        found[len(found) - 1 - found[::-1].index(most)] -= 1
    return found


def in_cells(
    row: Sequence[str],
    widths: Sequence[int],
    right: Sequence[int] = (),
    gap: int = 2,
    indent: str = "",
) -> str:
    """The cells of a row beside one another; one that is too wide goes on below, at its words."""
    parts = [_in_lines(cell, room) for cell, room in zip(row, widths, strict=True)]
    lines = []
    for number in range(max(map(len, parts))):
        texts = [part[number] if number < len(part) else "" for part in parts]
        cells = [pad(text, room, at in right)
                 for at, (text, room) in enumerate(zip(texts, widths, strict=True))]  # fmt: skip
        lines.append((indent + (" " * gap).join(cells)).rstrip())
    return "\n".join(lines)


def _in_lines(cell: str, room: int) -> list[str]:
    """A cell in lines; a name of a file or a path that is too long goes on behind a mark of its
    own: a slash, a dot, a hyphen."""
    if columns_of(cell) <= room or "\x1b" in cell:
        return [cell]
    found: list[str] = []
    for line in wrapped(cell, room, 0):
        while columns_of(line) > room:
            at = max(line.rfind(mark, 1, room - 1) for mark in "/\\.-_, ") + 1
            at = at if at > room // 3 else room
            found.append(line[:at])
            line = line[at:]
        found.append(line)
    return found


def count(number: int, one: str, many: str = "") -> str:
    """``1 record``, ``1,204 records``."""
    return f"{number:,} {one if number == 1 else many or one + 's'}"
