"""A dated copy of a book, proved: read again, and the same."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from roundcard.books.plan import Plan
from roundcard.books.transaction import Transaction, write_whole
from roundcard.errors import ProofError, SourceError, TargetError
from roundcard.tally import Tally

_CHUNK = 1 << 20


@dataclass(frozen=True, slots=True)
class Backup:
    """A copy that was made."""

    path: Path
    files: int
    people: int


def back_up(book: Path | str, folder: Path | str | None, today: str) -> Backup:
    """Copy a book, or a folder of books, under a name with the day.

    Raises `SourceError`, `TargetError`, and `ProofError` where the copy is not the same.
    """
    book = Path(book)
    folder = Path(folder) if folder is not None else None
    people = _people(book)
    beside = folder or book.parent
    if folder is not None:
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise TargetError(f"{folder}: cannot be created: {error.strerror}") from None
    target = _free(beside, book, today)
    count = 0
    if book.is_dir():
        try:
            target.mkdir(mode=0o700)
        except OSError as error:
            raise TargetError(f"{target}: cannot be created: {error.strerror}") from None
        for path in _files(book):
            place = target / path.relative_to(book)
            place.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            _copy(path, place)
            count += 1
    else:
        _copy(book, target)
        count = 1
    if _people(target) != people:
        raise ProofError(f"{target}: does not hold the people of {book}; the book changed while it "
                         "was copied, so do it again")  # fmt: skip
    return Backup(target, count, people)


def _files(book: Path) -> Iterator[Path]:
    for path in sorted(book.rglob("*")):
        if path.is_file() and not path.is_symlink():
            yield path


def _people(book: Path) -> int:
    plan, tally = Plan.of(str(book), ""), Tally()
    for reading in plan.readings(tally):
        for _ in reading.contacts():
            pass
    return tally.people.read


def _copy(path: Path, place: Path) -> None:
    """Copy a file whole, and hold the copy against it."""
    try:
        octets = path.read_bytes() if path.stat().st_size < _CHUNK else None
        if octets is not None:
            write_whole(place, octets)
        else:
            with Transaction(place) as files, path.open("rb") as stream:
                target = files.file(place)
                while piece := stream.read(_CHUNK):
                    target.write(piece)
                files.commit()
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror}") from None
    if _digest(path) != _digest(place):
        raise ProofError(f"{place}: is not the same as {path}; it changed while it was copied, so "
                         "do it again")  # fmt: skip


def _digest(path: Path) -> str:
    told = hashlib.blake2b(digest_size=16)
    with path.open("rb") as stream:
        while piece := stream.read(_CHUNK):
            told.update(piece)
    return told.hexdigest()


def _free(beside: Path, book: Path, today: str) -> Path:
    """A name that is not taken: the book's, with the day."""
    stem, suffix = (book.name, "") if book.is_dir() else (book.stem, book.suffix)
    path, number = beside / f"{stem}.{today}{suffix}", 2
    while os.path.lexists(path):
        path = beside / f"{stem}.{today}-{number}{suffix}"
        number += 1
    return path
