"""Reading what commands wrote, with nothing of the package: what stands there, and how much."""

from __future__ import annotations

import base64
import csv
import io
import json
import quopri
import re
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

from audit.made import digits

_WORD = re.compile(r"[^\W_]+")
_NUMBER = re.compile(r"\+?\d[\d ().-]{6,}\d")
_BLOB = re.compile(r"[A-Za-z0-9+/]{24,}={0,2}")
_DATES = (re.compile(r"(?P<y>\d{4})-(?P<m>\d\d)-(?P<d>\d\d)"),
          re.compile(r"(?<!\d)(?P<y>\d{4})(?P<m>\d\d)(?P<d>\d\d)(?!\d)"),
          re.compile(r"(?P<d>\d\d)/(?P<m>\d\d)/(?P<y>\d{4})"))  # fmt: skip
_FRAME = {"BEGIN", "END", "VERSION", "PRODID"}
_STRUCTURED = {"N", "ADR", "ORG", "GENDER"}
_LISTS = {"CATEGORIES", "NICKNAME"}


class Found:
    """All that some texts hold, by what facts are found by."""

    def __init__(self) -> None:
        self.keys: set[tuple[str, str]] = set()

    def add(self, text: str) -> None:
        self.keys |= {("word", word.lower()) for word in _WORD.findall(text)}
        self.keys |= {("number", digits(number)) for number in _NUMBER.findall(text)}
        self.keys |= {("blob", blob.lower()) for blob in _BLOB.findall(text)}
        for shape in _DATES:
            for one in shape.finditer(text):
                self.keys.add(("date", f"{one['y']}-{one['m']}-{one['d']}"))

    def file(self, path: Path) -> None:
        """All of a file, or of the files of a folder."""
        if path.is_dir():
            for each in path.iterdir():
                self.file(each)
        elif path.suffix in (".vcf", ".vcard"):
            for lines in vcards(path):
                for head, value in lines:
                    self.add(f"{head}\n{_unescaped(value)}")
        elif path.suffix == ".jcard":
            for prop in (each for card in jcards(path) for each in card):
                self.add(" ".join(leaves(prop)))
        elif path.suffix == ".jsonl":
            for line in path.read_text("utf-8").split("\n"):
                self.add(" ".join(leaves(json.loads(line))) if line else "")
        elif path.suffix == ".csv":
            for row in rows(path):
                self.add("\n".join(row))
        elif path.suffix == ".png":
            self.keys.add(("blob", _base64(path)))
        elif path.suffix == ".xlsx":
            for row in sheet(path):
                self.add("\n".join(row))


def _base64(path: Path) -> str:
    return base64.b64encode(path.read_bytes()).decode().lower()


def leaves(value: Any) -> Iterator[str]:
    if isinstance(value, dict):
        for key, each in value.items():
            yield str(key)
            yield from leaves(each)
    elif isinstance(value, list):
        for each in value:
            yield from leaves(each)
    else:
        yield str(value)


def vcards(path: Path) -> Iterator[list[tuple[str, str]]]:
    """The cards of a file: heads, and values as they are spelled, quoted-printable undone."""
    if path.is_dir():
        for each in path.iterdir():
            yield from vcards(each)
        return
    text = path.read_bytes().replace(b"\r\n ", b"").decode("utf-8")
    lines: list[tuple[str, str]] = []
    held = ""
    for line in text.split("\r\n"):
        line = held + line
        held = line[:-1] if line.endswith("=") and "QUOTED-PRINTABLE" in line else ""
        if held:
            continue
        head, _, value = split_line(line)
        if "QUOTED-PRINTABLE" in head:
            value = quopri.decodestring(value.encode()).decode("utf-8")
        if head == "END":
            yield lines
            lines = []
        elif head and head != "BEGIN":
            lines.append((head, value))


def split_line(line: str) -> tuple[str, str, str]:
    """A line at the first colon outside quotes."""
    found = re.match(r'((?:"[^"]*"|[^":])*):', line)
    return (found[1], ":", line[found.end() :]) if found else (line, "", "")


def _unescaped(value: str) -> str:
    return re.sub(r"\\(.)", lambda one: "\n" if one[1] in "nN" else one[1], value, flags=re.DOTALL)


def jcards(path: Path) -> Iterator[list[Any]]:
    """The properties of each jCard of an array."""
    for card in json.loads(path.read_text("utf-8")):
        yield card[1]


def rows(path: Path) -> list[list[str]]:
    """The rows of a table of UTF-8 text."""
    text = path.read_text("utf-8-sig")
    first = text.split("\n", 1)[0]
    mark = max(",;\t", key=first.count)
    return list(csv.reader(io.StringIO(text, newline=""), delimiter=mark))


def sheet(path: Path) -> list[list[str]]:
    """The rows of the first sheet of a workbook."""
    space = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
    with zipfile.ZipFile(path) as book:
        tree = ElementTree.fromstring(book.read("xl/worksheets/sheet1.xml"))
    return [["".join(text.text or "" for text in cell.iter(f"{space}t"))
             for cell in row.iter(f"{space}c")] for row in tree.iter(f"{space}row")]  # fmt: skip


def counted(path: Path) -> tuple[int, int]:
    """People and values of a book."""
    if path.suffix == ".csv":
        return _of_table(rows(path))
    if path.suffix == ".jcard":
        found = [[_of_jcard(prop) for prop in card] for card in jcards(path)]
    else:
        found = [_of_card(lines) for lines in vcards(path)]
    return len(found), sum(map(sum, found))


def _of_card(lines: list[tuple[str, str]]) -> list[int]:
    groups = {head.partition(".")[0].lower() for head, _ in lines
              if "." in head.partition(";")[0] and "LABEL" not in head.upper()}  # fmt: skip
    return [values_of(head, value, groups) for head, value in lines]


def values_of(head: str, value: str, groups: set[str]) -> int:
    first, *params = head.split(";")
    group, _, name = first.rpartition(".")
    upper = head.upper()
    name = name.upper()
    if name in _FRAME or (name == "X-ABLABEL" and group.lower() in groups):
        return 0
    if "X-ROUNDCARD-OF=" in upper:
        return 0
    name = name.removeprefix("X-ROUNDCARD-").removeprefix("AS-") if name != _CUSTOM else name
    envelope = sum(1 for param in params if param.upper().startswith("LABEL=")) if name == "ADR" \
        else 0  # fmt: skip
    if name == _CUSTOM:
        return 1
    if name in _STRUCTURED:
        pieces = re.split(r"(?<!\\);", value)
        if name in ("N", "ADR"):
            pieces = [inner for piece in pieces for inner in re.split(r"(?<!\\),", piece)]
        return sum(1 for piece in pieces if piece.strip()) + envelope
    if name in _LISTS:
        return sum(1 for piece in re.split(r"(?<!\\),", value) if piece.strip())
    return 1 if value.strip() else 0


_CUSTOM = "X-ROUNDCARD-CUSTOM"


def _of_jcard(prop: list[Any]) -> int:
    name, params, _, *values = prop
    if name in ("version", "x-ablabel"):
        return 0
    count = sum(1 for text in leaves(values) if text)
    return count + ("label" in params) if name != "x-roundcard-custom" else 1


def _of_table(lines: list[list[str]]) -> tuple[int, int]:
    """A table whose headings are field paths; cells beside a value say how it is meant."""
    headings, people = lines[0], lines[1:]
    values = 0
    for row in people:
        for heading, cell in zip(headings, row, strict=False):
            if not cell or heading.endswith(("/use", "/preferred")):
                continue
            mark = next((each for each in ("; ", " | ", " / ", "\n") if each in cell), "")
            many = heading in ("category", "nickname") or heading.startswith("phone")
            values += len(cell.split(mark)) if many and mark else 1
    return len(people), values
