"""Workbooks (.xlsx, ECMA-376): the cells of a sheet as rows of text, and back.

Written, every cell is text, so that a phone number stays what it is. Read, a cell that a
spreadsheet program made a number or a date is given as it is shown there, and told of. The library
that knows the format is loaded where a workbook is really met.
"""

from __future__ import annotations

import contextlib
import datetime
import re
import warnings
import zipfile
import zlib
from collections.abc import Callable, Iterator
from functools import cache
from typing import IO, Any, BinaryIO

from roundcard.errors import SourceError, TargetError
from roundcard.formats.csv import Row
from roundcard.patterns import pattern

LONGEST_CELL = 32_767
"""Characters that a cell of a workbook holds (ECMA-376 part 1, section 18.18.11)."""
MOST_ROWS = 1_048_576
"""Rows of a sheet that spreadsheet programs open."""

_MOST_OCTETS = 4_000_000_000
_SMALL, _MOST_DENSE = 50_000_000, 300
"""A workbook that unpacks to more than so much, and so many times its size, is a trap."""
_ENTRY = "xl/workbook.xml"
_CONTROL = pattern("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]|_(?=x[0-9A-Fa-f]{4}_)")
_TOLD_CONTROL = pattern("_x([0-9A-Fa-f]{4})_")
_ZEROS = pattern(r"0{2,15}")
_NARROWEST, _WIDEST = 8, 60
_SAMPLE_ROWS = 200

Tell = Callable[[str, str], None]
"""Told of something worth knowing, and where it stands."""


def recognise(stream: BinaryIO) -> bool:
    """Whether a file is a workbook: a zip archive with the part that all workbooks have."""
    if stream.read(4) != b"PK\x03\x04":
        return False
    stream.seek(0)
    try:
        with zipfile.ZipFile(stream) as archive:
            return _ENTRY in archive.namelist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        return False


def read(stream: BinaryIO, *, sheet: str = "", tell: Tell | None = None) -> Iterator[Row]:
    """The rows of a sheet, the first that is filled where `sheet` names none.

    `tell` hears of cells that were numbers or dates, of formulas, and of other sheets. Raises
    `SourceError` for what is not a workbook, for a trap, and for a sheet that is not there.
    """
    _demand_harmless(stream)
    book = _opened(stream, values=True)
    try:
        chosen, others = _sheet(book, sheet)
        if tell is not None and others:
            tell(f"sheets that were not read: {', '.join(others)}; --sheet names one", "")
        texts = _Texts(tell)
        with_formulas = _formulas(stream, chosen)
        pairs = with_formulas.iter_rows() if with_formulas is not None else None
        for number, cells in enumerate(chosen.iter_rows(), 1):
            beside = next(pairs, ()) if pairs is not None else ()
            row = [texts.of(cell, number) for cell in cells]
            wrong = next((each.value for each in cells if isinstance(each.value, Damaged)), "")
            for at, cell in enumerate(beside):
                if not row[at] and isinstance(cell.value, str) and cell.value.startswith("="):
                    row[at] = cell.value
                    texts.told("formulas that were never worked out; their text was kept", number)
            while row and not row[-1]:
                row.pop()
            yield Row(number, row, str(wrong))
    except (KeyError, ValueError, TypeError, zipfile.BadZipFile, OSError, SyntaxError,
            EOFError, zlib.error) as error:  # fmt: skip
        raise SourceError(f"the workbook is damaged ({type(error).__name__})") from None
    finally:
        book.close()


def _demand_harmless(stream: BinaryIO) -> None:
    """Raise `SourceError` for an archive that is damaged, or made to fill memory or disk."""
    stream.seek(0)
    try:
        with zipfile.ZipFile(stream) as archive:
            unpacked = sum(entry.file_size for entry in archive.infolist())
            packed = sum(entry.compress_size for entry in archive.infolist())
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        raise SourceError("the workbook is damaged (its archive cannot be read)") from None
    dense = unpacked > _SMALL and unpacked > _MOST_DENSE * max(packed, 1)
    if unpacked > _MOST_OCTETS or dense:
        raise SourceError(
            f"refused: the workbook expands from {packed:,} to {unpacked:,} bytes (zip bomb?)"
        )


def _opened(stream: BinaryIO, *, values: bool) -> Any:
    from openpyxl import load_workbook

    stream.seek(0)
    try:
        _bear_damage()
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of styles and drawings, which we do not read
            return load_workbook(stream, read_only=True, data_only=values, keep_links=False)
    except Exception as error:  # the library's errors of a hostile file are of many kinds
        if isinstance(error, MemoryError):
            raise
        raise SourceError(f"the workbook cannot be read ({type(error).__name__})") from None


def _sheet(book: Any, name: str) -> tuple[Any, list[str]]:
    """The sheet to read, and the names of the others that hold anything."""
    sheets = book.worksheets
    if name:
        found = [each for each in sheets if each.title.casefold() == name.casefold()]
        if not found:
            there = ", ".join(f"'{each.title}'" for each in sheets)
            raise SourceError(f"sheet '{name}' not found; choose from {there}")
        return found[0], []
    filled = [each for each in sheets if _filled(each)]
    if not filled:
        raise SourceError("no sheet of the workbook holds anything")
    shown = [each for each in filled if each.sheet_state == "visible"] or filled
    return shown[0], [f"'{each.title}'" for each in filled if each is not shown[0]]


def _filled(sheet: Any) -> bool:
    rows = sheet.iter_rows(max_row=1000, values_only=True)
    return any(value is not None for row in rows for value in row)


def _formulas(stream: BinaryIO, sheet: Any) -> Any:
    """The same sheet with its formulas, where it has any; None where it has none."""
    with zipfile.ZipFile(stream) as archive, archive.open(sheet._worksheet_path) as text:
        if not _holds(text, b"<f"):
            return None
    return _opened(stream, values=False)[sheet.title]


def _holds(stream: IO[bytes], mark: bytes) -> bool:
    tail = b""
    while octets := stream.read(1 << 20):
        if mark in tail + octets:
            return True
        tail = octets[-len(mark) :]
    return False


class Damaged(str):
    """What is said of a cell that cannot be read, in its place."""

    __slots__ = ()


@cache
def _bear_damage() -> None:
    """Have the library read a cell that it cannot read as one of which that is said: it would
    give up the whole sheet."""
    from openpyxl.utils.cell import coordinate_to_tuple
    from openpyxl.worksheet import _read_only, _reader

    class Bearing(_reader.WorkSheetParser):
        def parse_dimensions(self) -> None:
            # without a word of its own on its size, the library would read the whole sheet for it
            return None

        def parse_cell(self, element: Any) -> dict[str, Any]:
            try:
                text = element.findtext(_reader.VALUE_TAG, None)
                if element.get("t") == "s" and text is not None and int(text) < 0:
                    raise IndexError
                found: dict[str, Any] = super().parse_cell(element)
            except (ValueError, IndexError, OverflowError):
                at = element.get("r") or ""
                row, column = coordinate_to_tuple(at)
                value = Damaged(f"cell {at} is damaged")
                return {"row": row, "column": column, "value": value, "data_type": "s",
                        "style_id": 0}  # fmt: skip
            return found

    vars(_read_only)["WorkSheetParser"] = Bearing


class _Texts:
    """Cells as text."""

    def __init__(self, tell: Tell | None) -> None:
        self._tell = tell

    def told(self, what: str, row: int) -> None:
        if self._tell is not None:
            self._tell(what, f"row {row}")

    def of(self, cell: Any, row: int) -> str:
        """A cell as it is shown in a spreadsheet program, as far as that is certain."""
        value = cell.value
        if value is None:
            return ""
        if isinstance(value, Damaged):
            return ""
        if isinstance(value, str):
            return _unescaped(value) if "_x" in value else value
        column = f"column {cell.column_letter}"
        if isinstance(value, bool):
            return "TRUE" if value else "FALSE"
        if isinstance(value, datetime.datetime | datetime.date | datetime.time):
            self.told(f"{column}: a spreadsheet's dates, read as ISO 8601", row)
            return _iso(value)
        if isinstance(value, datetime.timedelta):
            return str(value)
        return self.number(value, cell.number_format or "", column, row)

    def number(self, value: float, shown: str, column: str, row: int) -> str:
        """A number with the leading zeros that its cell shows."""
        whole = int(value) if value == int(value) else None
        text = str(whole) if whole is not None else repr(value)
        if whole is not None and _ZEROS.fullmatch(shown) and len(text) < len(shown):
            self.told(f"{column}: numbers that are shown with leading zeros, which were kept", row)
            return text.zfill(len(shown))
        self.told(f"{column}: numbers, not text (leading zeros may be gone)", row)
        return text


def _iso(value: datetime.datetime | datetime.date | datetime.time) -> str:
    if isinstance(value, datetime.datetime) and value.time() == datetime.time():
        value = value.date()
    return value.isoformat()


def _unescaped(text: str) -> str:
    """Text in which ``_xHHHH_`` is the character it stands for (ECMA-376 part 1, 22.9.2.19)."""
    return _TOLD_CONTROL.sub(lambda found: chr(int(found[1], 16)), text)


def _escaped(text: str) -> str:
    return _CONTROL.sub(lambda found: f"_x{ord(found[0]):04X}_", text)


class WorkbookWriter:
    """Writes rows into the one sheet of a workbook: all text, headings frozen, widths fitted."""

    def __init__(self, title: str, heading_row: int = 1) -> None:
        from openpyxl import Workbook
        from openpyxl.cell import WriteOnlyCell
        from openpyxl.styles import Font
        from openpyxl.utils import get_column_letter

        self._letter = get_column_letter
        self._cell: Callable[[Any], Any] = WriteOnlyCell
        self._book = Workbook(write_only=True)
        self._sheet = self._book.create_sheet(_sheet_title(title))
        if heading_row:
            self._sheet.freeze_panes = f"A{heading_row + 1}"
        self._heading_row = heading_row
        self._held: list[list[str]] = []
        self._begun = False
        self._rows = 0
        text: Any = self._cell(self._sheet)
        heading: Any = self._cell(self._sheet)
        text.number_format = heading.number_format = "@"
        heading.font = Font(bold=True)
        self._styles = text._style, heading._style

    def add(self, rows: list[list[str]]) -> None:
        """Take more rows."""
        if self._begun:
            self._append(rows)
            return
        self._held += rows
        if len(self._held) >= _SAMPLE_ROWS:
            self._begin()

    def _begin(self) -> None:
        self._begun = True
        for at in range(max(map(len, self._held), default=0)):
            texts = [row[at] for row in self._held if at < len(row)]
            lengths = sorted(max(map(len, text.split("\n"))) for text in texts)
            usual = lengths[int(len(lengths) * 0.95)] if len(lengths) > 1 else lengths[0]
            usual = max(usual, len(texts[0]))
            width = min(max(usual + 2, _NARROWEST), _WIDEST)
            column = self._sheet.column_dimensions[self._letter(at + 1)]
            column.width = width
            column.number_format = "@"  # what is typed below the last row stays text, too
        held, self._held = self._held, []
        self._append(held)

    def _append(self, rows: list[list[str]]) -> None:
        plain, heading = self._styles
        for row in rows:
            self._rows += 1
            if self._rows > MOST_ROWS:
                self.discard()
                raise TargetError(f"a sheet of a workbook holds {MOST_ROWS:,} rows, and these are "
                                  "more; write CSV")  # fmt: skip
            style = heading if self._rows == self._heading_row else plain
            cells: list[Any] = []
            for text in row:
                if not text:
                    cells.append(None)
                    continue
                cell = self._cell(self._sheet)
                cell._value = _escaped(text)
                cell.data_type = "s"  # also where the text begins with an equals sign
                cell._style = style
                cells.append(cell)
            self._sheet.append(cells)

    def hide(self, title: str, rows: list[list[str]]) -> None:
        """Put rows into another sheet, which spreadsheet programs do not show."""
        if not self._begun:
            self._begin()
        shown, self._sheet = self._sheet, self._book.create_sheet(title)
        self._sheet.sheet_state = "hidden"
        rows_so_far, self._rows = self._rows, self._heading_row
        self._append(rows)
        self._sheet, self._rows = shown, rows_so_far

    def discard(self) -> None:
        """Close what is open, where the workbook will not be saved."""
        with contextlib.suppress(Exception):  # whatever the library says of a half sheet
            self._sheet.close()

    def save(self, stream: BinaryIO) -> None:
        """Write the workbook out."""
        if not self._begun:
            self._begin()
        from openpyxl.writer.excel import ExcelWriter

        archive = zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED, allowZip64=True)
        try:
            ExcelWriter(self._book, archive).save()
        except BaseException:
            archive.fp = None  # or it would be ended later, when the stream is closed
            raise


def _sheet_title(title: str) -> str:
    """A name that a sheet may bear: 31 characters, none of seven (ECMA-376; as programs check)."""
    return re.sub(r"[\[\]:*?/\\]", " ", title).strip("' ")[:31] or "people"
