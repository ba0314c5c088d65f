"""The proof against the sources: what stood there stands in the target, or somebody told of it.

The sources are read a second time, by small readers that know nothing of the others: a card is
lines, a value is the text in them; a row is cells. Of each record that was written every value is
looked for in the record of the target as a reader finds it there, whatever its field: as it was, or
as a change made it that tells before and after, or in the file of what was left behind. What is
not found so must be counted as left out, set aside or changed by a layout.
"""

from __future__ import annotations

import base64
import binascii
import csv
import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple

from roundcard.books.proof import logical_values
from roundcard.books.source import wide_encoding
from roundcard.books.source_reader import Reading
from roundcard.errors import ProofError
from roundcard.formats.csv import Dialect
from roundcard.layouts.binding import bind
from roundcard.layouts.model import Column
from roundcard.patterns import pattern
from roundcard.tally import Fate, Tally

_BEGIN, _END = "BEGIN:VCARD", "END:VCARD"
_QUIET = frozenset({"VERSION", "PRODID", "BEGIN", "END", "PROFILE", "AGENT"})
_PICTURES = frozenset({"photo", "logo"})
_MEDIA = frozenset({"PHOTO", "LOGO", "SOUND", "KEY"})
_NOT_THERE = frozenset({Fate.LEFT_OUT, Fate.SET_ASIDE, Fate.FOLDED, Fate.PASSED_OVER})
_ESCAPED = pattern(r"\\([\\,;:nN\"])")
_EXACT = pattern("X-ROUNDCARD-EXACT=((?:[0-9A-F]{2})+)")
_FROM = pattern(r"(.*), record (\d+)", re.DOTALL)
_QUOTED = pattern(r";(?:ENCODING=)?\"?QUOTED-PRINTABLE\"?(?:[;:]|$)")
_BASE64 = pattern(r";(?:ENCODING=)?\"?(?:B|BASE64)\"?(?:[;:]|$)")
_LEAST = 2
"""Characters of a value that is looked for; of shorter ones one is found anywhere."""


class Place(NamedTuple):
    """A record of a source, both counted as origins count them."""

    source: int
    record: int


@dataclass(frozen=True, slots=True)
class SourceText:
    """A source that the second reader can read."""

    path: Path
    name: str
    dialect: Dialect | None = None
    """That of a table; None for cards."""
    above: int = 0
    """Rows above the records."""
    columns: dict[int, Column] = field(default_factory=dict)
    """What the columns hold that do not simply hold their cells."""


@dataclass(slots=True)
class Held:
    """What came of holding a target against its sources, in values."""

    found: int = 0
    """As they were."""
    changed: int = 0
    """As a change made them that tells before and after."""
    aside: int = 0
    """In the file of what was left behind."""
    counted: int = 0
    """Not found, and counted as left out, folded, set aside, or changed by a layout."""


class SourceProof:
    """Holds targets against sources."""

    def __init__(self, sources: Sequence[SourceText | None]) -> None:
        """`sources` has None for those that the second reader does not read."""
        self.sources = sources
        self._changes: dict[Place, list[tuple[str, str]]] = defaultdict(list)

    def changed(self, source: int, record: int, before: str, after: str) -> None:
        """Take one change, as it is told."""
        self._changes[Place(source, record)].append((_loose(before), _loose(after)))

    def hold(
        self, name: str, origins: Iterable[tuple[int, int]], written: Iterable[Sequence[str]],
        left_behind: Path | None, tally: Tally,
    ) -> Held:  # fmt: skip
        """Look for all values of the records that were written, in their order.

        `written` gives the values of each record of the target. Raises `ProofError` where more are
        not found than the tally says.
        """
        held = Held()
        aside = _left_behind(left_behind, self.sources) if left_behind is not None else {}
        reading: dict[int, Iterator[tuple[int, list[str]]]] = {}
        first = ""
        for (number_, record), texts in zip(origins, written, strict=False):
            place = Place(number_, record)
            source = self.sources[place.source] if place.source >= 0 else None
            if source is None:
                continue
            records = reading.setdefault(place.source, _records(source))
            values = next((values for number, values in records if number == place.record), None)
            if values is None:
                continue
            there = "\x1f".join(map(_loose, texts))
            lost = self._hold(place, values, there, aside.get(place, ""), held)
            if lost and not first:
                first = f"'{lost[0][:60]}' of {source.name}, record {place.record:,}"
        allowed = sum(count for reason, count in tally.why.items()
                      if reason.fate in _NOT_THERE or reason.fate is Fate.CHANGED)  # fmt: skip
        if held.counted > allowed:
            raise ProofError(
                f"{name}: the proof failed: {held.counted - allowed:,} values of the sources are "
                f"not in it, and nothing tells of them, such as {first}; nothing was written. This "
                "is a defect of Round Card: please report it with the command"
            )
        return held

    def _hold(
        self, place: Place, values: Sequence[str], there: str, aside: str, held: Held
    ) -> list[str]:
        """Look for the values of one record; those that are not found."""
        changes = self._changes.get(place, ())
        lost = []
        for value in values:
            text = _loose(value)
            short = text.lstrip("0") if len(text) == _LEAST else text  # "04", where a month is 4
            if len(short) < _LEAST or short in there or _in_words(value, there):
                held.found += 1
            elif any(before and (before in text or text in before) and after in there
                     for before, after in changes):  # fmt: skip
                held.changed += 1
            elif text in aside or _in_words(value, aside):
                held.aside += 1
            else:
                held.counted += 1
                lost.append(value)
        return lost


def source_text(reading: Reading, *, cards_only: bool = False) -> SourceText | None:
    """What the second reader must know of a source; None where it cannot read it."""
    source = reading.source
    if source.path is None or source.is_workbook:
        return None
    if source.format.version:
        return SourceText(source.path, source.name)
    if cards_only or not source.format.of_text or source.format.sort != "table":
        return None
    table = reading.table
    if table.dialect.backslash or wide_encoding(source.sample):
        return None
    with source.open() as stream:
        rows = table.rows(stream, Tally())
        head = table.head(rows)
    above = table.layout.heading_row + bool(head.explained)
    binding = bind(table.layout, head.headings, head.width)
    columns = {at: column for at, column in binding.columns
               if column.skip or column.blank or column.fixed is not None or column.many
               or column.values or column.date or column.parted
               or any(path.part in ("use", "preferred") or path.field in _PICTURES
                      for path in column.holds)}  # fmt: skip
    unlisted = table.layout.unlisted == "skip"
    columns |= {at: Column(skip=True) for at, _ in binding.unlisted if unlisted}
    return SourceText(source.path, source.name, table.dialect, above, columns)


def _loose(text: str) -> str:
    """The letters, digits and signs of a text, without the marks that spellings differ in."""
    if text[:4].lower() == "tel:":
        text = text[4:]
    text = text.replace("\\n", "").replace("\\N", "")  # which may be an escape, or two letters
    return "".join([char for char in text if char.isalnum() or (char > "\x7f" and
                                                                char.isprintable())])  # fmt: skip


def _in_words(value: str, there: str) -> bool:
    """Whether all words of a value are there, as where a name was parted."""
    words = [_loose(word) for word in re.split(r"[\s,;/]+", value)]
    return bool(there) and len(words) > 1 and all(word in there for word in words)


def _records(source: SourceText) -> Iterator[tuple[int, list[str]]]:
    if source.dialect is None:
        yield from enumerate(_cards(source.path), 1)
        return
    for number, cells in enumerate(_rows(source.path, source.dialect), 1 - source.above):
        if number > 0:
            yield number, [text for at, cell in enumerate(cells) if cell.strip()
                           for text in _of_cell(cell, source.columns.get(at))]  # fmt: skip


def _rows(path: Path, dialect: Dialect) -> Iterator[list[str]]:
    """The rows of a table, by the library alone."""
    with path.open(encoding=dialect.encoding, errors="surrogateescape", newline="") as stream:
        if stream.read(1) != "\ufeff":
            stream.seek(0)
        yield from csv.reader(stream, delimiter=dialect.separator)


def _of_cell(cell: str, column: Column | None) -> Iterator[str]:
    """The values in a cell, as its column says them."""
    if column is not None and (column.skip or column.fixed is not None or column.blank):
        return
    if column is not None and any(path.part in ("use", "preferred") for path in column.holds):
        return  # what is said of a value, and none itself
    if column is not None and any(path.field in _PICTURES for path in column.holds):
        return
    if cell[:5].lower() == "data:":  # looked for by nobody's eyes
        return
    if cell[:4].lower() == "geo:":  # whose numbers stand in another order in some versions
        yield from re.split("[,;]", cell[4:])
        return
    if column is None:
        yield cell
        return
    for piece in cell.split(column.parts_at) if column.many else [cell]:
        text = column.values.get(piece.strip(), piece)
        date = column.date.read(text) if column.date is not None else None
        yield date.basic() if date is not None else text


def _cards(path: Path) -> Iterator[list[str]]:
    """The values in each card of a file, the cards within them left off."""
    values: list[str] | None = None
    inner, agent = 0, False
    for line in _lines(path):
        mark = line.strip().upper()
        if not mark:
            continue
        if inner:
            inner += (mark == _BEGIN) - (mark == _END)
        elif mark == _BEGIN and values is not None and agent:
            inner = 1
        elif mark == _BEGIN:
            if values is not None:
                yield values
            values = []
        elif mark == _END and values is not None:
            yield values
            values = None
        elif values is not None:
            values += _of_line(line)
            agent = re.match(r"(?:[\w-]+\.)?AGENT\b", line, re.IGNORECASE) is not None
    if values is not None:
        yield values


def _lines(path: Path) -> Iterator[str]:
    """Logical lines, as far as they can be told without knowing more."""
    held: list[bytes] = []
    head = ""
    for line in _physical(path):
        last = held[-1].rstrip(b" \t") if held else b""
        if last.endswith(b"=") and _QUOTED.search(head):
            held[-1] = last[:-1]
            held.append(line)
        elif held and line[:1] in (b" ", b"\t"):
            held.append(line[1:])
        elif line and _BASE64.search(head) and not re.search(rb"[:;]", line):
            held.append(line.strip())
        else:
            if any(held):
                yield _decoded(b"".join(held))
            held, head = [line], ""
        if not head.endswith(":"):
            head = "".join(b"".join(held).decode("latin-1").upper().partition(":")[:2])
    if any(held):
        yield _decoded(b"".join(held))


def _physical(path: Path) -> Iterator[bytes]:
    """The lines of a file, whatever ends them, in UTF-8 where the file is in UTF-16."""
    with path.open("rb") as file:
        mark = file.read(3)
        file.seek(3 if mark == b"\xef\xbb\xbf" else 0)
        wide = mark[:2] in (b"\xff\xfe", b"\xfe\xff")
        lines = [file.read().decode("utf-16", "replace").encode()] if wide else file
        for line in lines:
            yield from re.split(rb"\r+\n|\r|\n", line.removesuffix(b"\n").removesuffix(b"\r"))


def _decoded(line: bytes) -> str:
    head = line.partition(b":")[0]
    charset = re.search(rb"CHARSET=\"?([\w.:-]+)", head, re.IGNORECASE)
    for name in (charset[1].decode("ascii", "replace") if charset else "utf-8", "windows-1252"):
        try:
            return line.decode(name)
        except (ValueError, LookupError):
            continue
    return line.decode("latin-1")


def _of_line(line: str) -> Iterator[str]:
    """The values of a line; none of one that is no property."""
    found = re.match(r"((?:\"[^\"]*\"|[^\":])*):(.*)", line, re.DOTALL)
    if found is None:
        return
    head, raw = found[1].upper(), found[2]
    name = re.split("[;]", head)[0].rpartition(".")[2].strip()
    if not re.fullmatch(r"(?:[\w-]+\.)?[\w-]+", re.split("[;]", head)[0].strip(), re.ASCII):
        return  # no property, of which the reader tells
    if name in _QUIET or (name.startswith("X-") and name.endswith("LABEL")):
        return
    if "X-ROUNDCARD-" in head or name in _MEDIA or "DERIVED=TRUE" in head:
        return  # said in another way, or looked for by nobody's eyes
    if head.count("ENCODING=") > 1:
        return  # who knows which one holds
    charset = re.search(r"CHARSET=\"?([\w.:-]+)", head)
    try:
        if _QUOTED.search(head):
            octets = binascii.a2b_qp(raw.encode("utf-8"))
            raw = octets.decode(charset[1] if charset else "utf-8")
        elif _BASE64.search(head):
            raw = base64.b64decode(raw, validate=True).decode(charset[1] if charset else "utf-8")
    except (ValueError, LookupError):
        return  # which the reader tells of
    if re.match("tel:", raw, re.IGNORECASE):
        raw = raw[4:].partition(";")[0]
    for piece in re.split(r"(?<!\\)[;,]", raw):
        text = _ESCAPED.sub(lambda each: "\n" if each[1] in "nN" else each[1], piece)
        if text.strip() and not (name == "GEO" and "geo:" in text.lower()):
            yield text


def _left_behind(path: Path, sources: Sequence[SourceText | None]) -> dict[Place, str]:
    """What was left behind of each record."""
    numbers = {source.name: at for at, source in enumerate(sources) if source is not None}
    found: dict[Place, str] = defaultdict(str)
    exact = _said_exactly(path)
    for values in logical_values(path):
        texts = [text for name, text in values if name != "X-ROUNDCARD-FROM"] + next(exact, [])
        for name, text in values:
            said = _FROM.fullmatch(text) if name == "X-ROUNDCARD-FROM" else None
            if said and said[1] in numbers:
                place = Place(numbers[said[1]], int(said[2]))
                found[place] += "\x1f".join(map(_loose, texts)) + "\x1f"
    return found


def _said_exactly(path: Path) -> Iterator[list[str]]:
    """What the parameters of each card say that its values cannot: parts that no version has."""
    texts: list[str] = []
    for line in _lines(path):
        texts += [bytes.fromhex(said).decode("utf-8", "replace") for said in _EXACT.findall(line)]
        if line == "END:VCARD":
            yield texts
            texts = []
