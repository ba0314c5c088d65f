"""Sheets for people: rows written as a workbook or as CSV, as the file's name says."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

from roundcard.books.hidden import AtomicFile
from roundcard.books.transaction import Transaction
from roundcard.errors import UsageError
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.formats.sheets import guarded
from roundcard.formats.workbook import WorkbookWriter

_BLOCK = 256
_SUFFIXES = (".csv", ".xlsx")


def demand_sheet(path: Path, option: str) -> None:
    """Raise `UsageError` for a name that is neither CSV nor a workbook; `option` names it."""
    if path.suffix.lower() not in _SUFFIXES:
        raise UsageError(f"{option} {path}: a sheet is .csv or .xlsx")


class RowSheet:
    """A sheet that is written row by row, and is one of the files to write. Cells of CSV are
    guarded against running as formulas; those of a workbook are text."""

    def __init__(
        self, files: Transaction, path: Path, title: str, headings: Sequence[str], *, force: bool
    ) -> None:
        """Raises `TargetError`."""
        self.path = path
        self._target = files.file(path, force=force)
        self._book = WorkbookWriter(title) if path.suffix.lower() == ".xlsx" else None
        self._csv = CsvWriter(Dialect(byte_order_mark=True))
        self._held: list[list[str]] = []
        self.add(headings)

    def add(self, row: Sequence[str]) -> None:
        """Write one more row."""
        if self._book is not None:
            self._book.add([list(row)])
            return
        self._held.append(list(map(guarded, row)))
        if len(self._held) >= _BLOCK:
            self._flush()

    def _flush(self) -> None:
        self._target.write(self._csv.encode(self._held))
        self._held = []

    def end(self) -> None:
        """Write what is still held. Raises `TargetError`."""
        if self._book is None:
            self._flush()
        elif isinstance(self._target, AtomicFile):
            with self._target.told():
                self._book.save(self._target.stream)

    def discard(self) -> None:
        """Give the sheet up."""
        if self._book is not None:
            self._book.discard()


def write_rows(
    files: Transaction, path: Path, rows: Iterable[list[str]], title: str, *, force: bool = False
) -> int:
    """Write rows, the first of them headings, into a sheet that is one of the files to write; how
    many rows there are below the headings.

    Raises `TargetError`.
    """
    every = iter(rows)
    sheet = RowSheet(files, path, title, next(every, []), force=force)
    count = 0
    try:
        for row in every:
            sheet.add(row)
            count += 1
        sheet.end()
    except BaseException:
        sheet.discard()
        raise
    return count
