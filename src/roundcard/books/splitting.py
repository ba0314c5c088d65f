"""A target as several files, none of which holds more than a destination takes.

The whole is written once, and cut between people: in the order of the book, each file as full as it
may be, with the headings of a table in each. Memory does not grow with the book, but for a
workbook, whose rows are held.
"""

from __future__ import annotations

import codecs
import os
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import IO, NamedTuple

from roundcard.books.hidden import AtomicFile
from roundcard.books.options import Room
from roundcard.books.transaction import Stream, Transaction
from roundcard.errors import BalanceError, TargetError
from roundcard.formats import Format, workbook
from roundcard.formats.csv import LINE_ENDS, Dialect
from roundcard.formats.workbook import WorkbookWriter

_CHUNK = 1 << 20
_MARKS = (codecs.BOM_UTF8, codecs.BOM_UTF32_LE, codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)


class Piece(NamedTuple):
    """A file of a target that is split."""

    path: Path
    people: int
    octets: int


class _Run(NamedTuple):
    """People who stand one after another: octets from, octets to, how many."""

    begin: int
    end: int
    people: int


class Frame(NamedTuple):
    """What stands around the people of each file."""

    head: bytes = b""
    tail: bytes = b""
    between: bytes = b""
    """What parts two people, and belongs to neither."""


def piece_names(path: Path, count: int) -> list[Path]:
    """The names of the files of a target: ``NAME-1-of-3.csv``; its own where one is enough."""
    if count == 1:
        return [path]
    return [path.with_name(f"{path.stem}-{n}-of-{count}{path.suffix}")
            for n in range(1, count + 1)]  # fmt: skip


def earlier_pieces(path: Path) -> list[Path]:
    """Files of an earlier run that was split otherwise, perhaps."""
    name = re.compile(re.escape(path.stem) + r"-\d+-of-\d+" + re.escape(path.suffix))
    if not path.parent.is_dir():
        return []
    return sorted(each for each in path.parent.iterdir() if name.fullmatch(each.name))


def split_target(
    files: Transaction, whole: AtomicFile, form: Format, dialect: Dialect, above: int, room: Room
) -> list[Piece]:
    """Cut a target that is written, and has not taken its name, into files within `room`; the only
    one is the target itself. `above` are the rows above the people of a table.

    Raises `TargetError` where one person is more than a file holds.
    """
    part = whole.so_far()
    if form.sort == "table" and not form.of_text:
        return _split_workbook(files, whole, part, above, room)
    with part.open("rb") as stream:
        frame, people = _frame(stream, form, dialect, above)
        runs = list(_packed(people, frame, room, whole.path))
        if len(runs) < 2:
            size = os.fstat(stream.fileno()).st_size
            return [Piece(whole.path, runs[0].people if runs else 0, size)]
        pieces = []
        for name, run in zip(piece_names(whole.path, len(runs)), runs, strict=True):
            target = files.file(name, force=whole.force)
            target.write(frame.head)
            _copy(stream, run, target)
            target.write(frame.tail)
            octets = len(frame.head) + run.end - run.begin + len(frame.tail)
            pieces.append(Piece(name, run.people, octets))
        held = sum(run.end - run.begin for run in runs)
        between = len(frame.between) * (len(runs) - 1)
        if held + between + len(frame.head) + len(frame.tail) != os.fstat(stream.fileno()).st_size:
            raise BalanceError(f"{whole.path}: the files together are not the whole; nothing was "
                               "written. This is a defect of Round Card")  # fmt: skip
    files.drop(whole)
    return pieces


def _copy(stream: IO[bytes], run: _Run, target: AtomicFile | Stream) -> None:
    stream.seek(run.begin)
    left = run.end - run.begin
    while left:
        octets = stream.read(min(left, _CHUNK))
        target.write(octets)
        left -= len(octets)


def _packed(
    people: Iterator[tuple[int, int]], frame: Frame, room: Room, path: Path
) -> Iterator[_Run]:
    """The runs of people that fill one file each."""
    around = len(frame.head) + len(frame.tail)
    run: _Run | None = None
    for begin, end in people:
        if room.octets and around + end - begin > room.octets:
            raise TargetError(f"{path}: one person is {around + end - begin:,} bytes, and a file "
                              f"may have {room.octets:,}")  # fmt: skip
        if run is not None:
            full = room.people and run.people >= room.people
            if not full and not (room.octets and around + end - run.begin > room.octets):
                run = _Run(run.begin, end, run.people + 1)
                continue
            yield run
        run = _Run(begin, end, 1)
    if run is not None:
        yield run


def _frame(
    stream: IO[bytes], form: Format, dialect: Dialect, above: int
) -> tuple[Frame, Iterator[tuple[int, int]]]:
    """What is around the people of a text, and where each of them stands."""
    if form.sort == "card":
        if form.version:
            return Frame(), _cards(stream)
        return Frame(b"[\n", b"\n]\n", b",\n"), _json_cards(stream)
    text = stream.read(4)
    head = next((len(mark) for mark in _MARKS if text.startswith(mark)), 0)
    records = _records(stream, dialect, head)
    for _ in range(above):
        head = next(records, (0, head))[1]
    stream.seek(0)
    text = stream.read(head)
    return Frame(text), _records(stream, dialect, head)


def _records(stream: IO[bytes], dialect: Dialect, start: int) -> Iterator[tuple[int, int]]:
    """Where each row of a table begins and ends; a quoted cell may hold line breaks."""
    stream.seek(start)
    width = {"utf-16": 2, "utf-32": 4}.get(dialect.encoding[:6].replace("_", "-"), 1)
    mark = LINE_ENDS[dialect.line_end][-1:]
    code = dialect.encoding if width == 1 else f"{dialect.encoding[:6]}-le"
    if dialect.encoding.endswith("be"):
        code = dialect.encoding
    ends, quote = mark.encode(code), '"'.encode(code)
    begin = at = start
    within = False
    rest = b""
    while chunk := stream.read(_CHUNK):
        rest += chunk
        done = 0
        while True:
            end = _find(rest, ends, done, width)
            if end < 0:
                break
            within ^= _count(rest, quote, done, end, width) % 2 == 1
            done = end + width
            if not within:
                yield begin, at + done
                begin = at + done
        at += done
        rest = rest[done:]
    if rest:
        yield begin, at + len(rest)


def _find(octets: bytes, mark: bytes, start: int, width: int) -> int:
    at = octets.find(mark, start)
    while at >= 0 and (at - start) % width:
        at = octets.find(mark, at + 1)
    return at


def _count(octets: bytes, mark: bytes, start: int, end: int, width: int) -> int:
    if width == 1:
        return octets.count(mark, start, end)
    return sum(1 for at in range(start, end, width) if octets[at : at + width] == mark)


def _cards(stream: IO[bytes]) -> Iterator[tuple[int, int]]:
    """Where each card begins and ends; one may stand within another (vCard 2.1)."""
    begin = at = depth = 0
    for line in stream:
        at += len(line)
        if line == b"BEGIN:VCARD\r\n":
            depth += 1
        elif line == b"END:VCARD\r\n":
            depth -= 1
            if not depth:
                yield begin, at
                begin = at


def _json_cards(stream: IO[bytes]) -> Iterator[tuple[int, int]]:
    """Where each card of a list begins and ends: one a line (see the writer)."""
    at = 0
    for line in stream:
        begin, at = at, at + len(line)
        if line not in (b"[\n", b"]\n", b"[\r\n"):
            text = line.rstrip(b"\r\n")
            yield begin, begin + len(text.removesuffix(b","))


def _split_workbook(
    files: Transaction, whole: AtomicFile, part: Path, above: int, room: Room
) -> list[Piece]:
    """A workbook as several: as many rows in each as it takes, by trying."""
    with part.open("rb") as stream:
        rows = [list(row.cells) for row in workbook.read(stream)]
    head, people = rows[:above], rows[above:]
    size = part.stat().st_size
    if len(people) <= (room.people or len(people)) and size <= (room.octets or size):
        return [Piece(whole.path, len(people), size)]
    cuts: list[tuple[int, int]] = []
    begin, most = 0, room.people or len(people)
    scratch = whole.part.with_name(whole.part.name + "-try")
    while begin < len(people):
        end = min(begin + most, len(people))
        while room.octets and _saved(scratch, whole.path, head, people[begin:end]) > room.octets:
            if end - begin == 1:
                scratch.unlink(missing_ok=True)
                raise TargetError(f"{whole.path}: one person is more than the {room.octets:,} "
                                  "bytes that a file may have")  # fmt: skip
            end = begin + (end - begin) // 2
        cuts.append((begin, end))
        begin = end
    scratch.unlink(missing_ok=True)
    pieces = []
    for name, (first, last) in zip(piece_names(whole.path, len(cuts)), cuts, strict=True):
        target = files.file(name, force=whole.force)
        if isinstance(target, AtomicFile):
            _write(target.stream, whole.path, head, people[first:last])
            pieces.append(Piece(name, last - first, target.so_far().stat().st_size))
    files.drop(whole)
    return pieces


def _saved(scratch: Path, path: Path, head: list[list[str]], rows: Sequence[list[str]]) -> int:
    with scratch.open("wb") as stream:
        _write(stream, path, head, rows)
    return scratch.stat().st_size


def _write(stream: IO[bytes], path: Path, head: list[list[str]], rows: Sequence[list[str]]) -> None:
    book = WorkbookWriter(path.stem, len(head))
    book.add(head)
    book.add(list(rows))
    book.save(stream)  # type: ignore[arg-type]
