"""Separated values (RFC 4180, and what there is): bytes to rows of cells, and back."""

from __future__ import annotations

import codecs
import csv
import io
import re
from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import BinaryIO, Literal, NamedTuple

from roundcard.formats.charset import mark_of, wide_of
from roundcard.formats.grid import Grid, grid_of

OPEN_QUOTE = "a quote that is never closed"
"""What is wrong with a row that was read as a line of its own."""
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
        """`text` gives some lines at a time."""
        self._text = iter(text)
        self._back: deque[str] = deque()
        self.given: list[str] = []
        self.ended = False
        """Whether somebody asked for a line and there was none."""

    def __iter__(self) -> _Lines:
        return self

    def __next__(self) -> str:
        while not self._back:
            try:
                self._back.extend(_lines(next(self._text)))
            except StopIteration:
                self.ended = True
                raise
        line = self._back.popleft()
        self.given.append(line)
        return line

    def many(self) -> str:
        """Some lines at once, none at the end; they are not remembered."""
        if self._back:
            found = "".join(self._back)
            self._back.clear()
            return found
        return next(self._text, "")

    def give_back(self, lines: list[str]) -> None:
        """Give these lines once more, before all others."""
        self._back.extendleft(reversed(lines))
        self.given = []
        self.ended = False


def _lines(text: str) -> list[str]:
    """The lines of a text, each with its break."""
    return io.StringIO(text, newline="").readlines()


def _lines_in(text: str) -> int:
    """How many lines a text has."""
    count = text.count("\n")
    if "\r" in text:
        count += text.count("\r") - text.count("\r\n")
    return count + (not text.endswith(("\n", "\r")))


_AT_ONCE = 1 << 18
"""Octets that are read at once."""
_MOST_LINES = 40_000
"""Lines among which the end of a row is looked for."""
_MOST_ROWS, _FEW = 2_000, 100
_END = "\x00end of the block\x00"
_UNDECODED = re.compile("[\udc80-\udcff]")


class Rows(Iterator[Row]):
    """The rows of decoded lines: one by one, or in blocks."""

    def __init__(self, text: Iterable[str], dialect: Dialect, encoding: str = "") -> None:
        """`text` gives some whole lines at a time.

        A row with bytes that do not decode is marked; so is the line of a quote that is never
        closed, and the rest of the file goes on after that line."""
        self._source = _Lines(map(_doubled, text) if dialect.backslash else text)
        self._separator = dialect.separator
        self._encoding = encoding
        self._met = _Undecoded.met
        self._line = 0
        self._rows = self._read()

    def __iter__(self) -> Rows:
        return self

    def __next__(self) -> Row:
        return next(self._rows)

    def _read(self) -> Iterator[Row]:
        source = self._source
        while not source.ended:
            try:
                for cells in csv.reader(source, delimiter=self._separator):
                    if source.ended:  # a reader asks for one more line only inside quotes
                        break
                    lines = len(source.given)
                    if lines > 1 and self._strays(source.given, len(cells)):
                        break
                    source.given.clear()
                    if lines > 1:
                        cells = in_one_way(cells)
                    wrong = ""
                    if _Undecoded.met != self._met and not all(map(_decoded, cells)):
                        wrong = f"bytes that are not {self._encoding} (is that the right " \
                                "character set?)"  # fmt: skip
                    line = self._line + 1
                    self._line += lines
                    yield Row(line, cells, wrong)
            except csv.Error:  # a cell without end
                pass
            if source.given:
                first, *rest = source.given
                source.give_back(rest)
                self._line += 1
                yield Row(self._line, [first.rstrip("\r\n")], OPEN_QUOTE)

    def _strays(self, lines: Sequence[str], width: int) -> bool:
        """Whether a row of several lines is several rows, in which quotes that open and never
        close have met by chance: text stands behind a closing quote, and each line alone has as
        many cells as all together."""
        mark = self._separator
        try:
            list(csv.reader(lines, delimiter=mark, strict=True))
        except csv.Error:
            alone = csv.reader(lines, delimiter=mark, quoting=csv.QUOTE_NONE)
            return width > 1 and all(len(cells) == width for cells in alone)
        return False

    def blocks(self, *, to_the_end: bool = True) -> Iterator[Sequence[list[str]] | list[Row]]:
        """What is left, in blocks of cells alone (line breaks in them as they stand) where nothing
        is wrong with any row, elsewhere of rows.

        With `to_the_end` the last block is always of rows, and of more than a few if there are.
        """
        source = self._source
        text = source.many()
        while text:
            more = source.many()
            while more and len(more.split("\n", _FEW)) <= _FEW:
                further = source.many()
                if not further:
                    text += more
                    more = ""
                    break
                more += further
            if to_the_end and not more:
                source.give_back(_lines(text))
                yield list(self)
                return
            cells = self._cells(text)
            while cells is None and more and _lines_in(text) < _MOST_LINES:
                text += more
                more = source.many()
                cells = self._cells(text)
            if cells is None or (to_the_end and not more):
                source.give_back(_lines(text + more))
                yield list(islice(self, _MOST_ROWS) if more else self)
                text = source.many()
                continue
            by_lines = isinstance(cells, Grid) and cells.by_lines
            self._line += len(cells) if by_lines else _lines_in(text)
            yield cells
            text = more

    def _cells(self, text: str) -> Sequence[list[str]] | None:
        """The rows of some lines; None where they do not end with a row, or must be looked at."""
        if _Undecoded.met != self._met and _UNDECODED.search(text):
            return None
        if (found := grid_of(text, self._separator)) is not None:
            return found
        lines = _lines(text)
        try:
            rows = list(csv.reader([*lines, _END], delimiter=self._separator))
        except csv.Error:
            return None
        if rows.pop() != [_END]:
            return None
        if len(rows) != len(lines):  # cells of several lines
            try:
                list(csv.reader(lines, delimiter=self._separator, strict=True))
            except csv.Error:
                return None
        return rows


def in_blocks(rows: Iterator[Row]) -> Iterator[list[Row]]:
    """Rows of whatever source in blocks, of which the last is no short one if there are others."""
    held = list(islice(rows, _MOST_ROWS))
    while held:
        more = list(islice(rows, _MOST_ROWS))
        if len(more) < _FEW:
            yield held + more
            return
        yield held
        held = more


def in_one_way(cells: Sequence[str]) -> list[str]:
    """Cells in which a line break is one character, however it is written."""
    return [_with_breaks(cell) if "\r" in cell else cell for cell in cells]


def read(stream: BinaryIO, dialect: Dialect, sample: bytes = b"") -> Rows:
    """The rows of a file, blank ones included; see `Rows`.

    `sample` is how the stream begins: a byte order mark in it beats the encoding of `dialect`.
    """
    encoding = mark_of(sample) or dialect.encoding
    return Rows(_lines_of(stream, encoding), dialect, encoding)


def _lines_of(stream: BinaryIO, encoding: str) -> Iterator[str]:
    """The text of a file, some whole lines at a time."""
    decoder = codecs.getincrementaldecoder(encoding)("roundcard-keep")
    held: list[str] = []
    while octets := stream.read(_AT_ONCE):
        text = decoder.decode(octets)
        # a return at the end may be half of a line break
        end = max(text.rfind("\n"), text.rfind("\r", 0, -1)) + 1
        if end:
            yield "".join([*held, text[:end]])
            held = [text[end:]]
        else:
            held.append(text)
    if rest := "".join([*held, decoder.decode(b"", final=True)]):
        yield rest


def _doubled(text: str) -> str:
    """Text in which quotes behind a backslash are doubled, as the standard wants them."""
    return _BACKSLASHES.sub(_one_doubled, text) if '\\"' in text else text


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
        self._mark, self._end = dialect.separator, LINE_ENDS[dialect.line_end]
        self._always = dialect.quote == "always"
        self._lone_returns = dialect.line_end == "lf"
        self._quoted_for = re.compile(f'[{re.escape(dialect.separator)}"\r\n]')
        self.encoding = dialect.encoding
        self._begin = dialect.byte_order_mark or dialect.encoding.lower() == "utf-16"
        self._begin = self._begin and not begun
        if dialect.encoding.lower().replace("_", "-") in ("utf-16", "utf-8-sig"):
            self.encoding = {"utf-16": "utf-16-le", "utf-8-sig": "utf-8"}[
                dialect.encoding.lower().replace("_", "-")
            ]

    def encode(self, rows: Sequence[Sequence[str]]) -> bytes:
        """The bytes of some rows. Raises `UnicodeEncodeError` for what the encoding lacks."""
        widths = set(map(len, rows))
        if len(widths) == 1 and widths != {0}:
            text = self._together([self._column(cells) for cells in zip(*rows, strict=True)])
        else:
            text = "".join([
                self._together([self._column((cell,)) for cell in row]) if row else self._end
                for row in rows
            ])  # fmt: skip
        if self._begin:
            text = "\ufeff" + text
            self._begin = False
        return text.encode(self.encoding)

    def _together(self, columns: Sequence[Sequence[str]]) -> str:
        """Rows, given as columns of cells as they are written."""
        if len(columns) == 1:  # a blank line is no row
            columns = [[cell or '""' for cell in columns[0]]]
        lines = map(self._mark.join, zip(*columns, strict=True))
        return self._end.join([*lines, ""])

    def _column(self, cells: Sequence[str]) -> Sequence[str]:
        """Cells as they are written (RFC 4180 section 2)."""
        joined = "".join(cells)
        if self._lone_returns and "\r" in joined:
            # with LF at the rows' ends a carriage return in a cell would be read as another
            cells = [_with_breaks(cell) for cell in cells]
        quotes = '"' in joined
        if self._always:
            return [_quoted(cell) for cell in cells] if quotes else [f'"{cell}"' for cell in cells]
        if not (quotes or self._mark in joined or "\n" in joined or "\r" in joined):
            return cells
        wanted = self._quoted_for.search
        return [_quoted(cell) if wanted(cell) else cell for cell in cells]


def _quoted(cell: str) -> str:
    """A cell in quotes."""
    return '"' + cell.replace('"', '""') + '"'


def _with_breaks(cell: str) -> str:
    """A cell in which every line break is LF."""
    return cell.replace("\r\n", "\n").replace("\r", "\n")


def lacks(encoding: str) -> bool:
    """Whether there are characters that an encoding cannot write."""
    name = codecs.lookup(encoding).name
    return not (name.startswith("utf") or name == "gb18030")
