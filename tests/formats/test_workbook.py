"""Workbooks: what cells are as text, which sheet is read, what is written."""

from __future__ import annotations

import datetime
import io
from typing import Any

import openpyxl
import pytest

from roundcard import SourceError, TargetError
from roundcard.formats import workbook


def made(
    *rows: list[Any], formats: dict[str, str] | None = None, **sheets: list[Any]
) -> io.BytesIO:
    """A workbook with these rows in its first sheet, and a row in each of the others."""
    book = openpyxl.Workbook()
    for row in rows:
        book.worksheets[0].append(row)
    for place, shown in (formats or {}).items():
        book.worksheets[0][place].number_format = shown
    for title, row in sheets.items():
        book.create_sheet(title).append(row)
    stream = io.BytesIO()
    book.save(stream)
    return stream


CELLS = [  # a cell, how it is shown, its text, what is told of it
    ("x", "General", "x", ""),
    ("=1+1", "General", "=1+1", "formulas that were never worked out; their text was kept"),
    (True, "General", "TRUE", ""),
    (False, "General", "FALSE", ""),
    (7, "General", "7", "column A: numbers, not text (leading zeros may be gone)"),
    (7.5, "General", "7.5", "column A: numbers, not text (leading zeros may be gone)"),
    (7, "000", "007", "column A: numbers that are shown with leading zeros, which were kept"),
    (777, "000", "777", "column A: numbers, not text (leading zeros may be gone)"),
    (7777, "000", "7777", "column A: numbers, not text (leading zeros may be gone)"),
    (datetime.date(1980, 4, 12), "yyyy-mm-dd", "1980-04-12",
     "column A: a spreadsheet's dates, read as ISO 8601"),
    (datetime.datetime(1980, 4, 12, 10, 30), "yyyy-mm-dd", "1980-04-12T10:30:00",
     "column A: a spreadsheet's dates, read as ISO 8601"),
    (datetime.datetime(1980, 4, 12), "yyyy-mm-dd", "1980-04-12",
     "column A: a spreadsheet's dates, read as ISO 8601"),
    (datetime.time(10, 30), "hh:mm", "10:30:00",
     "column A: a spreadsheet's dates, read as ISO 8601"),
    ("a_x000B_b", "General", "a\vb", ""),
    ("a_xZZ_b", "General", "a_xZZ_b", ""),
]  # fmt: skip


@pytest.mark.parametrize(("cell", "shown", "text", "said"), CELLS)
def test_a_cell_as_text(cell: Any, shown: str, text: str, said: str) -> None:
    told: list[tuple[str, str]] = []
    stream = made(["Head", "End"], [cell, "e"], formats={"A2": shown})
    rows = list(workbook.read(stream, tell=lambda *what: told.append(what)))
    assert rows == [(1, ["Head", "End"], ""), (2, [text, "e"], "")]
    assert told == ([(said, "row 2")] if said else [])


def test_rows_end_with_their_last_cell_and_keep_their_numbers() -> None:
    rows = list(workbook.read(made(["a", "b", None], [None, None], [None, "c"])))
    assert [(row.line, row.cells) for row in rows] == [(1, ["a", "b"]), (2, []), (3, ["", "c"])]


def test_which_sheet_is_read() -> None:
    told: list[str] = []
    stream = made(["first"], Second=["second"], Third=[None])
    assert [row.cells for row in workbook.read(stream, tell=lambda what, _: told.append(what))] == [
        ["first"]
    ]
    assert told == ["sheets that were not read: 'Second'; --sheet names one"]
    told.clear()
    assert [row.cells for row in workbook.read(stream, sheet="SECOND",
                                               tell=lambda what, _: told.append(what))] == [
        ["second"]
    ]  # fmt: skip
    assert told == []
    assert [row.cells for row in workbook.read(made(Second=["second"]))] == [["second"]]
    with pytest.raises(SourceError, match="sheet 'Other' not found; choose from 'Sheet', 'Second'"):
        list(workbook.read(stream, sheet="Other"))
    with pytest.raises(SourceError, match="no sheet of the workbook holds anything"):
        list(workbook.read(made()))


def test_hidden_sheets_come_after_those_that_are_shown() -> None:
    book = openpyxl.Workbook()
    book.worksheets[0].append(["hidden"])
    book.create_sheet("Shown").append(["shown"])
    book.worksheets[0].sheet_state = "hidden"
    stream = io.BytesIO()
    book.save(stream)
    assert [row.cells for row in workbook.read(stream)] == [["shown"]]


def test_what_is_written_is_text_with_headings_that_stay_in_sight() -> None:
    writer = workbook.WorkbookWriter("people: all/of'em'")
    rows = [["Name", "No."], ["=Ada", "007"], ["a\vb", ""], ["x" * 200, "1"]]
    writer.add(rows)
    writer.hide("keys", [["secret"]])
    stream = io.BytesIO()
    writer.save(stream)
    assert [row.cells for row in workbook.read(stream)] == [
        ["Name", "No."], ["=Ada", "007"], ["a\vb"], ["x" * 200, "1"]
    ]  # fmt: skip
    book = openpyxl.load_workbook(stream)
    sheet = book.worksheets[0]
    assert (sheet.title, sheet.freeze_panes) == ("people  all of'em", "A2")
    assert (sheet["A1"].font.bold, bool(sheet["A2"].font.bold)) == (True, False)
    assert {cell.number_format for row in sheet.iter_rows() for cell in row if cell.value} == {"@"}
    assert {cell.data_type for row in sheet.iter_rows() for cell in row if cell.value} == {"s"}
    widths = [sheet.column_dimensions[letter].width for letter in "AB"]
    assert widths[0] > widths[1]
    assert [each.sheet_state for each in book.worksheets] == ["visible", "hidden"]


def test_more_rows_than_a_sheet_holds_are_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workbook, "MOST_ROWS", 300)
    writer = workbook.WorkbookWriter("people")
    writer.add([["a"]] * 300)
    with pytest.raises(TargetError, match="holds 300 rows"):
        writer.add([["b"]])


@pytest.mark.parametrize(("limit", "value"), [("_MOST_OCTETS", 10), ("_SMALL", 0)])
def test_an_archive_made_to_fill_the_memory_is_refused(
    monkeypatch: pytest.MonkeyPatch, limit: str, value: int
) -> None:
    monkeypatch.setattr(workbook, limit, value)
    monkeypatch.setattr(workbook, "_MOST_DENSE", 1)
    with pytest.raises(SourceError, match="refused: the workbook expands from"):
        list(workbook.read(made(["a"])))
