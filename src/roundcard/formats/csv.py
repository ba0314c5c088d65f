"""Separated values (RFC 4180, and what there is): bytes to rows of cells, and back."""

from __future__ import annotations

import codecs
import contextlib
import csv
import io
import re
from collections import deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import BinaryIO, Literal, NamedTuple, cast

from roundcard.formats.charset import mark_of, wide_of

csv.field_size_limit(1 << 26)  # a photo in a cell is longer than the library's 128 KiB

SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
"""The usual separators and what they are called."""
LINE_ENDS = {"crlf": "\r\n", "lf": "\n", "cr": "\r"}
QUOTES = ("needed", "always")

_BACKSLASHES = re.compile(r'(\\+)"')
_TEXT_CONTROLS = frozenset(b"\t\n\r\x0b\x0c\x1a\x1b")


@dataclass(frozen=True, slots=True)
class Dialect:
    """How the rows of a file are written down."""

    encoding: str = "utf-8"
    separator: str = ","
    line_end: str = "crlf"
    byte_order_mark: bool = False
    quote: Literal["needed", "always"] = "needed"
    backslash: bool = False
    """On reading: whether a quote inside of a cell stands behind a backslash."""


def named_separators() -> dict[str, str]:
    """The usual separators by what they are called."""
    return {name: mark for mark, name in SEPARATORS.items()}


class Row(NamedTuple):
    """One row of cells."""

    line: int
    """The line in the file at which it begins, from 1."""
    cells: list[str]
    wrong: str = ""
    """Why it cannot be read; empty where it can. Bytes that do not decode stand as surrogates."""


class _Undecoded:
    """Counts, for the whole process, how often bytes did not decode."""

    met = 0

    @classmethod
    def keep(cls, error: UnicodeError) -> tuple[str, int]:
        """Codec error handler: each byte becomes the surrogate U+DC00 above it."""
        if not isinstance(error, UnicodeDecodeError):
            raise error
        cls.met += 1
        octets = error.object[error.start : error.end]
        return "".join(chr(0xDC00 + octet) for octet in octets), error.end


codecs.register_error("roundcard-keep", _Undecoded.keep)


def shown(text: str) -> str:
    """Text in which bytes that did not decode are spelled ``\\xNN``."""
    return "".join(
        f"\\x{ord(char) - 0xDC00:02x}" if "\udc00" <= char <= "\udcff" else char for char in text
    )


def recognise(sample: bytes) -> bool:
    """Whether a file that begins with `sample` is text that rows may be made of."""
    if not sample.strip():
        return False
    if mark_of(sample) == "utf-16" or wide_of(sample):
        return True
    controls = sum(1 for octet in sample if octet < 0x20 and octet not in _TEXT_CONTROLS)
    return controls == 0 or (b"\x00" not in sample and controls * 200 < len(sample))


class _Lines:
    """The lines of a file, which remembers what it gave since it was last asked to forget."""

    def __init__(self, text: Iterable[str]) -> None:
        self._text = iter(text)
        self._back: deque[str] = deque()
        self.given: list[str] = []
        self.ended = False
        """Whether somebody asked for a line and there was none."""

    def __iter__(self) -> _Lines:
        return self

    def __next__(self) -> str:
        if self._back:
            line = self._back.popleft()
        else:
            try:
                line = next(self._text)
            except StopIteration:
                self.ended = True
                raise
        self.given.append(line)
        return line

    def give_back(self, lines: list[str]) -> None:
        """Give these lines once more, before all others."""
        self._back.extendleft(reversed(lines))
        self.given = []
        self.ended = False


def read(stream: BinaryIO, dialect: Dialect, sample: bytes = b"") -> Iterator[Row]:
    """The rows of a file, blank ones included.

    `sample` is how the stream begins: a byte order mark in it beats the encoding of `dialect`. A
    row with bytes that do not decode is marked; so is the line of a quote that is never closed, and
    the rest of the file goes on after that line.
    """
    encoding = mark_of(sample) or dialect.encoding
    text = io.TextIOWrapper(
        cast("io.BufferedReader", stream), encoding, errors="roundcard-keep", newline=""
    )
    try:
        yield from read_text(text, dialect, encoding)
    finally:
        with contextlib.suppress(ValueError):  # the stream is closed already
            text.detach()


def read_text(text: Iterable[str], dialect: Dialect, encoding: str = "") -> Iterator[Row]:
    """The rows of decoded lines, each with its break; see `read`."""
    before = _Undecoded.met
    source = _Lines(map(_doubled, text) if dialect.backslash else text)
    line = 0
    while not source.ended:
        try:
            for cells in csv.reader(source, delimiter=dialect.separator):
                if source.ended:  # a reader asks for one more line only inside quotes
                    break
                lines = len(source.given)
                source.given.clear()
                if lines > 1:  # however a line break in a cell is written, it is one character
                    cells = [_with_breaks(cell) if "\r" in cell else cell for cell in cells]
                wrong = ""
                if _Undecoded.met != before and not all(map(_decoded, cells)):
                    wrong = f"bytes that are not {encoding} (is that the right character set?)"
                yield Row(line + 1, cells, wrong)
                line += lines
        except csv.Error:  # a cell without end
            pass
        if source.given:
            first, *rest = source.given
            source.give_back(rest)
            yield Row(line + 1, [first.rstrip("\r\n")], "a quote that is never closed")
            line += 1


def _doubled(line: str) -> str:
    """A line in which quotes behind a backslash are doubled, as the standard wants them."""
    if '\\"' not in line:
        return line
    return _BACKSLASHES.sub(_one_doubled, line)


def _one_doubled(found: re.Match[str]) -> str:
    count = len(found[1])
    return "\\" * (count // 2) + ('""' if count % 2 else '"')


def _decoded(cell: str) -> bool:
    """Whether no byte of a cell stands as a lone surrogate."""
    return cell.isascii() or not any("\udc00" <= char <= "\udcff" for char in cell)


class CsvWriter:
    """Makes the bytes of rows, one row after another."""

    def __init__(self, dialect: Dialect, *, begun: bool = False) -> None:
        """`begun` where the rows go on in a file that others began."""
        self._text = io.StringIO(newline="")
        quoting: Literal[0, 1] = csv.QUOTE_ALL if dialect.quote == "always" else csv.QUOTE_MINIMAL
        self._rows = csv.writer(
            self._text,
            delimiter=dialect.separator,
            quoting=quoting,
            lineterminator=LINE_ENDS[dialect.line_end],
        )
        self._lone_returns = dialect.line_end == "lf"
        self.encoding = dialect.encoding
        self._begin = dialect.byte_order_mark or dialect.encoding.lower() == "utf-16"
        self._begin = self._begin and not begun
        if dialect.encoding.lower().replace("_", "-") in ("utf-16", "utf-8-sig"):
            self.encoding = {"utf-16": "utf-16-le", "utf-8-sig": "utf-8"}[
                dialect.encoding.lower().replace("_", "-")
            ]

    def _take(self) -> str:
        text = self._text.getvalue()
        self._text.seek(0)
        self._text.truncate()
        return text

    def encode(self, rows: list[list[str]]) -> bytes:
        """The bytes of some rows. Raises `UnicodeEncodeError` for what the encoding lacks."""
        self._rows.writerows(rows)
        text = self._take()
        if "\r" in text and self._lone_returns:
            # with LF at the rows' ends the library does not quote a carriage return in a cell
            rows = [[_with_breaks(cell) for cell in row] for row in rows]
            self._rows.writerows(rows)
            text = self._take()
        if self._begin:
            text = "\ufeff" + text
            self._begin = False
        return text.encode(self.encoding)


def _with_breaks(cell: str) -> str:
    """A cell in which every line break is LF."""
    return cell.replace("\r\n", "\n").replace("\r", "\n")


def lacks(encoding: str) -> bool:
    """Whether there are characters that an encoding cannot write."""
    name = codecs.lookup(encoding).name
    return not (name.startswith("utf") or name == "gb18030")
