"""The proof: the written file is read again from disk, and held against what was meant.

The readers here are small, slow and know nothing of the writers: they share no code with them. Of
each record a digest of its values is kept while it is written, eight octets; the second reader
makes the same digest from the file. What a value means is told apart from how a version spells it:
escapes, folds, marks between parts, and the marks of dates and URIs are no part of a digest.
"""

from __future__ import annotations

import binascii
import hashlib
import json
import re
import xml.etree.ElementTree as ET
import zipfile
from array import array
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Any

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.origin import unpack
from roundcard.errors import ProofError
from roundcard.formats import Format
from roundcard.formats.csv import Dialect
from roundcard.patterns import pattern

SIZE = 8
"""Octets of a digest."""

_SOURCE_AT = 40
_OURS = "X-ROUNDCARD-"
_MEDIA = frozenset({"PHOTO", "LOGO", "SOUND", "KEY"})
_FRAME = frozenset({"BEGIN", "VERSION", "END"})
_ESCAPED = pattern(r"\\(.)", re.DOTALL)
_DATE_LIKE = pattern(r"[\dTZ:+.-]+")
_ADR_LABEL = pattern(
    r'(?:[\w-]+\.)?ADR(?:;(?:[^:"]|"[^"]*")*?)?;LABEL=("[^"]*"|[^;:]*)', re.IGNORECASE
)
_AGENT = pattern(r"(?:[\w-]+\.)?AGENT(?:;[^:]*)?:$", re.IGNORECASE)
_CARET = {"^n": "\n", "^N": "\n", "^^": "^", "^'": '"'}
_CELL = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
_CONTROL = pattern("_x([0-9A-Fa-f]{4})_")


class Proof:
    """Digests of the records that are written, in their order."""

    def __init__(self, form: Format, dialect: Dialect | None = None, above: int = 0) -> None:
        """`dialect` is that of a table, `above` the number of rows above its records."""
        self.format = form
        self.dialect = dialect
        self.above = above
        self.digests = bytearray()
        self.places = array("q")
        """Which record of which source each one was, in the order of the digests."""

    @property
    def people(self) -> int:
        """How many records there are."""
        return len(self.digests) // SIZE

    def card(self, contact: Contact) -> None:
        """Note what a card should hold."""
        self.note(self.of_card(contact), contact.origin)

    def of_card(self, contact: Contact) -> bytes:
        """A digest of what a card should hold."""
        return _digest(_meant(prop, self.format.version) for prop in contact.properties)

    def row(self, cells: Iterable[str], origin: int = -1) -> None:
        """Note what a row should hold."""
        self.note(_digest(_cells(cells)), origin)

    def note(self, digest: bytes, origin: int) -> None:
        """Note a record by its digest, and where it came from."""
        self.digests += digest
        place = unpack(origin)
        self.places.append(place.source << _SOURCE_AT | place.record if place is not None else -1)

    def origins(self) -> Iterator[tuple[int, int]]:
        """Source and record of each record that was written; -1 and 0 for one that was made."""
        for place in self.places:
            yield (place >> _SOURCE_AT, place & (1 << _SOURCE_AT) - 1) if place >= 0 else (-1, 0)

    def add(self, digests: bytes, places: Sequence[int], records: int) -> None:
        """Add what another process noted of a piece, before which so many records came."""
        self.digests += digests
        self.places.extend([place + records if place >= 0 else place for place in places])

    def texts(self, path: Path) -> Iterator[list[str]]:
        """The texts of each record that was written, without what a spelling adds."""
        if self.format.sort == "card":
            version = self.format.version
            cards = _vcards(path, version) if version else _jcards(path)
            yield from ([value.partition("\x1f")[2] for value in values] for values in cards)
            return
        rows = _rows(path, self.dialect or Dialect()) if self.format.of_text else _sheet_rows(path)
        for number, cells in enumerate(rows):
            if number >= self.above:
                yield [bare_text(cell) for cell in cells if cell]

    def hold_against(self, path: Path, name: str) -> None:
        """Read a file (or a folder of cards) and compare. Raises `ProofError`."""
        try:
            self._compare(path, name)
        except (ValueError, LookupError, ET.ParseError, zipfile.BadZipFile) as error:
            raise _failed(name, f"it cannot be read ({error})") from None

    def _compare(self, path: Path, name: str) -> None:
        if path.is_dir():
            found = sorted(
                digest
                for file in path.iterdir()
                for digest in self._read(file)
            )  # fmt: skip
            meant = sorted(bytes(self.digests[at : at + SIZE])
                           for at in range(0, len(self.digests), SIZE))  # fmt: skip
            if found != meant:
                raise _failed(name, "the files do not hold the values that were meant")
            return
        number = 0
        for number, digest in enumerate(self._read(path), 1):
            at = (number - 1) * SIZE
            if number > self.people:
                raise _failed(name, f"it holds more than the {self.people:,} records written")
            if digest != self.digests[at : at + SIZE]:
                raise _failed(name, f"record {number:,} does not hold the values that were meant")
        if number != self.people:
            raise _failed(name, f"it holds {number:,} records, and {self.people:,} were written")

    def _read(self, path: Path) -> Iterator[bytes]:
        if self.format.sort == "card":
            version = self.format.version
            cards = _vcards(path, version) if version else _jcards(path)
            yield from map(_digest, cards)
            return
        rows = _rows(path, self.dialect or Dialect()) if self.format.of_text else _sheet_rows(path)
        for number, cells in enumerate(rows):
            if number >= self.above:
                yield _digest(_cells(cells))


def _failed(name: str, what: str) -> ProofError:
    return ProofError(
        f"{name}: the proof failed: {what}; nothing was written. "
        "This is a defect of Round Card: please report it with the command"
    )


def _digest(texts: Iterable[str]) -> bytes:
    """A digest of texts in whatever order; empty ones do not count."""
    text = "\n".join(sorted(filter(None, texts)))
    return hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=SIZE).digest()


def _cells(cells: Iterable[str]) -> Iterator[str]:
    for at, cell in enumerate(cells):
        if cell:
            text = cell.replace("\r\n", "\n").replace("\r", "\n")
            yield f"{at}\x1f{text}"


def _bare(name: str, text: str) -> str:
    """A value of a property without what a spelling adds: the property's name and its text."""
    name = name.upper()
    while name.startswith(_OURS) and name != _OURS + "CUSTOM":
        name = name.removeprefix(_OURS).removeprefix("AS-")
    if name in _FRAME:
        return ""
    if name in _MEDIA and text[:5].lower() == "data:" and ";base64," in text:
        text = text.partition(";base64,")[2]
    if name == "TEL" and text[:4].lower() == "tel:":
        text = text[4:].replace(";ext=", "ext.")
    if name == "GEO":
        text = text[4:] if text[:4].lower() == "geo:" else text
        text = ";".join(sorted(re.split("[;,]", text)))
    text = text.replace("\\n", "").replace("\\N", "")
    kept = "".join(char for char in text if char not in "\\;,\x1f" and char.isprintable())
    kept = kept.replace(" ", "")
    if _DATE_LIKE.fullmatch(kept):
        kept = kept.replace("-", "").replace(":", "")
    return f"{name}\x1f{kept}" if kept else ""


def bare_text(text: str) -> str:
    """A text without what a spelling adds."""
    return _bare("", text).partition("\x1f")[2]


def logical_values(path: Path) -> Iterator[list[tuple[str, str]]]:
    """Name and text of each property of the cards of a file that is ours."""
    values: list[tuple[str, str]] = []
    for line in _logical_lines(path, soft_breaks=False):
        head, _, text = line.partition(":")
        if line.strip().upper() == "END:VCARD":
            yield values
            values = []
        else:
            name, _, params = head.partition(";")
            values.append((name.upper(), _unescaped(text)))
            values.append(("", params))  # the text on an envelope is one


def _meant(prop: Property, version: str) -> str:
    head = prop.head
    if head.name == "fn" and head.derived:
        return ""
    said = head.field.kind == "phone" and version in ("4.0", "")
    if said and (prop.raw or "")[:4].lower() == "tel:":
        return _bare(head.name, prop.raw or "")
    if head.field.kind == "raw" and prop.raw is not None and not head.coded:
        truth = not version and head.param("value") == ("boolean",)
        truth = truth and {*prop.raw.strip().lower().split(",")} <= {"true", "false"}
        return _bare(head.name, _unescaped(prop.raw.lower() if truth else prop.raw))
    value = prop.value
    return _bare(head.name, value if isinstance(value, str) else "\x1f".join(flat(value)))


def _unescaped(raw: str) -> str:
    if "\\" not in raw:
        return raw
    return _ESCAPED.sub(lambda found: "\n" if found[1] in "nN" else found[1], raw)


def _vcards(path: Path, version: str) -> Iterator[list[str]]:
    """The values of each card of a file."""
    values: list[str] | None = None
    agent: list[str] = []
    for line in _logical_lines(path, soft_breaks=version == "2.1"):
        mark = line.strip().upper()
        if agent or _AGENT.match(line):  # a card within the card
            agent.append(line)
            if mark == "END:VCARD":
                head, *inner = agent
                agent = []
                assert values is not None
                values += _values(head + "\n".join(inner))
            continue
        if (mark == "BEGIN:VCARD") != (values is None) and mark:
            raise ValueError(f"'{line[:40]}' outside of a card, or inside one that is still open")
        if values is None:
            values = []
        elif mark == "END:VCARD":
            yield values
            values = None
        elif mark:
            values += _values(line)
    if values is not None:
        raise ValueError("the last card has no end")


def _logical_lines(path: Path, *, soft_breaks: bool) -> Iterator[str]:
    """Lines with their folds and soft breaks undone."""
    held = b""
    soft = False
    with path.open("rb") as stream:
        for raw in stream:
            line = raw.rstrip(b"\r\n")
            if soft:
                held = held[:-1] + line
            elif line[:1] in (b" ", b"\t"):
                held += line[1:]
            else:
                if held:
                    yield held.decode("utf-8")
                held = line
            quoted = soft_breaks and b"QUOTED-PRINTABLE" in held.partition(b":")[0]
            soft = quoted and held.endswith(b"=")
    if held:
        yield held.decode("utf-8")


def _values(line: str) -> list[str]:
    """What one logical line says: its value, and the text on an envelope that stands in its head
    (RFC 6350 section 6.3.1)."""
    found = _ADR_LABEL.match(line)
    if found is None or not line.rpartition(":")[2].strip(";"):
        return [_value(line)]
    label = re.sub(r"\^[nN^']", lambda each: _CARET[each[0]], found[1].strip('"'))
    return [_value(line), _bare("LABEL", _unescaped(label))]


def _value(line: str) -> str:
    """What one logical line says."""
    quoted = False
    at = -1
    for at, char in enumerate(line):  # noqa: B007  # where the value begins
        if char == '"':
            quoted = not quoted
        elif char == ":" and not quoted:
            break
    head, text = line[:at], line[at + 1 :]
    name, *params = re.split(r';(?=(?:[^"]*"[^"]*")*[^"]*$)', head)
    name = name.rpartition(".")[2]
    said = {key.upper(): value for key, _, value in (param.partition("=") for param in params)}
    if _OURS + "OF" in said:
        return ""
    told = bytes.fromhex(said.get(_OURS + "PARAMS", "")).decode("utf-8").upper()
    derived = said.get("DERIVED", said.get(_OURS + "DERIVED", "")).upper() == "TRUE"
    if name.upper().removeprefix(_OURS) == "FN" and (derived or "DERIVED=TRUE" in told.split(";")):
        return ""
    if _OURS + "EXACT" in said and name.upper() != "TEL":
        text = bytes.fromhex(said[_OURS + "EXACT"]).decode("utf-8")
    elif "QUOTED-PRINTABLE" in said.get("ENCODING", ""):
        text = binascii.a2b_qp(text).decode("utf-8")
    if (year := said.get(_OURS + "OMIT-YEAR")) is not None:
        text = text.removeprefix(year)
    if name.upper() == "ADR" and "LABEL" in said and not text.strip(";"):
        label = said["LABEL"].strip('"')
        name, text = "LABEL", re.sub(r"\^[nN^']", lambda found: _CARET[found[0]], label)
        return _bare(name, text)
    return _bare(name, _unescaped(text))


def _jcards(path: Path) -> Iterator[list[str]]:
    """The values of each card of an array with one card a line."""
    with path.open(encoding="utf-8") as stream:
        for line in stream:
            text = line.strip().removesuffix(",")
            if text in ("[", "]", ""):
                continue
            kind, properties = json.loads(text)
            if kind != "vcard":
                raise ValueError(f"'{kind}' is not a card")
            labels = [_bare("label", params["label"]) for name, params, _, *values in properties
                      if name == "adr" and "label" in params and any(_leaves(values))]  # fmt: skip
            yield [*(_jvalue(*each) for each in properties), *labels]


def _jvalue(name: str, params: dict[str, Any], kind: str, *values: Any) -> str:
    if name == "fn" and params.get("derived") == "true":
        return ""
    if name == "adr" and "label" in params and not any(_leaves(values)):
        return _bare("label", params["label"])
    text = "\x1f".join(_leaves(values))
    return _bare(name, _unescaped(text) if kind == "unknown" else text)


def _leaves(value: Any) -> Iterator[str]:
    if isinstance(value, list | tuple):
        for each in value:
            yield from _leaves(each)
    elif value is not None:
        yield str(value).lower() if isinstance(value, bool) else str(value)


def _rows(path: Path, dialect: Dialect) -> Iterator[list[str]]:
    """The rows of a table of text."""
    mark = re.escape(dialect.separator)
    token = re.compile(rf'(?:"((?:[^"]|"")*)"|([^{mark}\r\n"]*))({mark}|\r\n|\n|\r|\Z)')
    with path.open(encoding=dialect.encoding, newline="") as stream:
        held, cells, at = "", [], 0
        begun = False
        while chunk := stream.read(1 << 18):
            if not begun:
                chunk, begun = chunk.removeprefix("\ufeff"), True
            held = held[at:] + chunk
            at = 0
            # a token that ends with the chunk may go on in the next one
            while (found := token.match(held, at)) and found.end() < len(held) - 1:
                cells.append(_cell(found))
                at = found.end()
                if found[3] != dialect.separator:
                    yield cells
                    cells = []
        held = held[at:]
        at = 0
        while at < len(held) and (found := token.match(held, at)):
            cells.append(_cell(found))
            at = found.end()
            if found[3] != dialect.separator:
                yield cells
                cells = []
        if cells:
            yield cells


def _cell(found: re.Match[str]) -> str:
    return found[1].replace('""', '"') if found[1] is not None else found[2]


def _sheet_rows(path: Path) -> Iterator[list[str]]:
    """The rows of the first sheet of a workbook whose cells are text (ECMA-376 part 1, 18.3.1)."""
    with zipfile.ZipFile(path) as archive, archive.open("xl/worksheets/sheet1.xml") as stream:
        for _, element in ET.iterparse(stream):
            if element.tag != _CELL + "row":
                continue
            row: list[str] = []
            for cell in element:
                at = _column(cell.get("r", ""))
                text = "".join(part.text or "" for part in cell.iter(_CELL + "t"))
                row += [""] * (at - len(row))
                row.append(_CONTROL.sub(lambda found: chr(int(found[1], 16)), text))
            yield row
            element.clear()


def _column(reference: str) -> int:
    """The index of a cell's column, from 0."""
    number = 0
    for char in reference:
        if char.isalpha():
            number = number * 26 + ord(char.upper()) - 64
    return number - 1
