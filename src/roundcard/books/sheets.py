"""Sheets for people: rows written as a workbook or as CSV, as the file's name says."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from roundcard.books.transaction import Transaction
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.formats.sheets import guarded
from roundcard.formats.workbook import WorkbookWriter

_BLOCK = 256


def write_rows(
    files: Transaction, path: Path, rows: Iterable[list[str]], title: str, *, force: bool = False
) -> int:
    """Write rows, the first of them headings, into a sheet that is one of the files to write; how
    many rows there are below the headings. Cells of CSV are guarded against running as formulas.

    Raises `TargetError`.
    """
    target = files.file(path, force=force)
    count = -1
    if path.suffix.lower() == ".xlsx":
        book = WorkbookWriter(title)
        try:
            for row in rows:
                book.add([row])
                count += 1
            with target.told():
                book.save(target.stream)
        except BaseException:
            book.discard()
            raise
        return count
    writer = CsvWriter(Dialect(byte_order_mark=True))
    held: list[list[str]] = []
    for row in rows:
        held.append(list(map(guarded, row)))
        count += 1
        if len(held) >= _BLOCK:
            target.write(writer.encode(held))
            held = []
    target.write(writer.encode(held))
    return count
