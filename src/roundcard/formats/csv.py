"""Separated values (RFC 4180, and what there is): bytes to rows of cells, and back."""

from __future__ import annotations

import codecs
import contextlib
import csv
import io
import re
from collections import Counter, deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import BinaryIO, Literal, NamedTuple, cast

csv.field_size_limit(1 << 26)  # a photo in a cell is longer than the library's 128 KiB

SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
"""The usual separators and what they are called."""
LINE_ENDS = {"crlf": "\r\n", "lf": "\n", "cr": "\r"}
QUOTES = ("needed", "always")

_MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"),
          (codecs.BOM_UTF16_BE, "utf-16"))  # fmt: skip
_SAYS_SEPARATOR = re.compile(r'"?sep=(.)"?', re.IGNORECASE)
_TEXT_CONTROLS = frozenset(b"\t\n\r\x0b\x0c\x1a\x1b")


@dataclass(frozen=True, slots=True)
class Dialect:
    """How the rows of a file are written down."""

    encoding: str = "utf-8"
    separator: str = ","
    line_end: str = "crlf"
    byte_order_mark: bool = False
    quote: Literal["needed", "always"] = "needed"


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
    if sample.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return True
    controls = sum(1 for octet in sample if octet < 0x20 and octet not in _TEXT_CONTROLS)
    return controls == 0 or (b"\x00" not in sample and controls * 200 < len(sample))


def mark_of(sample: bytes) -> str:
    """The encoding that a byte order mark names; empty where there is no mark."""
    return next((encoding for mark, encoding in _MARKS if sample.startswith(mark)), "")


def guess_dialect(sample: bytes) -> Dialect:
    """The dialect of a file that begins with `sample`: its mark or its bytes tell the encoding,
    the first rows the separator."""
    encoding = mark_of(sample)
    if not encoding:
        decoder = codecs.getincrementaldecoder("utf-8")()
        try:
            decoder.decode(sample)  # a sequence cut off at the end is no error
            encoding = "utf-8"
        except UnicodeDecodeError:
            encoding = "windows-1252"
    text = sample.decode(encoding, "replace")
    marked = encoding == "utf-8-sig"
    line_end = "crlf" if b"\r\n" in sample else "lf"
    return Dialect("utf-8" if marked else encoding, _separator(text), line_end, marked)


def _separator(text: str) -> str:
    """The separator of which the most of the first lines hold the same number.

    A first line ``sep=;``, which some spreadsheet programs write and read, says it outright.
    """
    lines = [line for line in text.splitlines()[:30] if line.strip()]
    if lines and (said := _SAYS_SEPARATOR.fullmatch(lines[0].strip())):
        return said[1]
    best, most = ",", (0, 0)
    for separator in SEPARATORS:
        # what stands in quotes does not count
        counts = Counter("".join(line.split('"')[::2]).count(separator) for line in lines)
        del counts[0]
        if counts:
            number, often = max(counts.items(), key=lambda item: (item[1], item[0]))
            if (often, number) > most:
                best, most = separator, (often, number)
    return best


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
    before = _Undecoded.met
    source = _Lines(text)
    line = 0
    try:
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
    finally:
        with contextlib.suppress(ValueError):  # the stream is closed already
            text.detach()


def _decoded(cell: str) -> bool:
    """Whether no byte of a cell stands as a lone surrogate."""
    return cell.isascii() or not any("\udc00" <= char <= "\udcff" for char in cell)


class CsvWriter:
    """Makes the bytes of rows, one row after another."""

    def __init__(self, dialect: Dialect) -> None:
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
