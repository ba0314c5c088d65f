"""The sheet to edit: a workbook whose rows know whom they are.

The first sheet holds the people, with a column that tells which record a row is and what the row
said when it was made; the other, hidden, holds what was shown, so that a row that is gone is told
from a person who was left out.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.card.origin import unpack
from roundcard.card.paths import parse, parse_list
from roundcard.edit.sheet_values import order_of, slots_of
from roundcard.errors import PlanError, SourceError
from roundcard.formats import workbook
from roundcard.formats.workbook import WorkbookWriter
from roundcard.values.text import fingerprint

KEY = "record"
"""The heading of the column that tells which record a row is."""
ABOUT = "about"
_NOTE = "Leave this sheet as it is: it tells rows that were deleted from people never shown."
_DIGITS = 8


class Columns:
    """The columns of a sheet: those that some contact fills, found in a pass over the book."""

    def __init__(self, only: str = "") -> None:
        """`only` names the fields that are shown, parted by commas. Raises `PathError`."""
        self.only = parse_list(only) if only else ()
        self.paths: dict[str, None] = {}
        """Paths in the order in which they are met, so that two runs give one sheet."""
        self.people = 0

    def see(self, contact: Contact) -> None:
        """Look at one contact."""
        self.people += 1
        self.paths |= dict.fromkeys(slot.path for slot in slots_of(contact))

    def _wanted(self, path: str) -> bool:
        found = parse(path)
        return not self.only or any(
            found.field == each.field
            and set(each.uses) <= set(found.uses)
            and each.part in ("", found.part)
            and each.label in ("", found.label)
            for each in self.only
        )

    def headings(self) -> list[str]:
        """The paths in the order of the columns."""
        return sorted(filter(self._wanted, self.paths), key=order_of)


def row_of(contact: Contact, columns: Sequence[str]) -> list[str]:
    """The cells of a contact."""
    said = {slot.path: slot.text for slot in slots_of(contact)}
    return [said.get(path, "") for path in columns]


def key_of(contact: Contact, cells: Sequence[str]) -> str:
    """Which record a row is, and a digest of what it says."""
    place = unpack(contact.origin)
    digest = fingerprint(map(plain, cells), _DIGITS)
    return f"{place.record if place is not None else 0}-{digest}"


def plain(cell: str) -> str:
    """A cell for comparison: line breaks as a spreadsheet program writes them."""
    return cell.replace("\r\n", "\n").replace("\r", "\n").strip()


def write_sheet(
    files: Transaction, path: Path, contacts: Iterable[Contact], columns: Sequence[str], book: str,
    *, force: bool,
) -> int:  # fmt: skip
    """Write the sheet of some contacts; how many there are. Raises `TargetError`."""
    target = files.file(path, force=force)
    writer = WorkbookWriter("people")
    try:
        writer.add([[KEY, *columns]])
        keys = []
        for contact in contacts:
            cells = row_of(contact, columns)
            keys.append(key_of(contact, cells))
            writer.add([[keys[-1], *cells]])
        about = [[_NOTE], ["book", book], ["columns", *columns], *([key] for key in keys)]
        writer.hide(ABOUT, about)
        with target.told():
            writer.save(target.stream)
    except BaseException:
        writer.discard()
        raise
    return len(keys)


@dataclass(slots=True)
class Sheet:
    """A sheet that came back."""

    headings: list[str]
    """The columns as they are now, without the one of the records."""
    rows: list[tuple[int, str, list[str]]]
    """Number of the row (from 1), key (empty for a new person), cells."""
    columns: list[str]
    """The columns as the sheet was made."""
    keys: list[str] = field(default_factory=list)
    """The rows as the sheet was made; empty where that is not known any more."""
    told: list[str] = field(default_factory=list)
    """What a spreadsheet program did to cells, and what else is worth knowing."""


def read_sheet(path: Path) -> Sheet:
    """Read a sheet that came back. Raises `SourceError`, and `PlanError` for what is no such
    sheet."""
    told: dict[str, str] = {}

    def tell(what: str, where: str) -> None:
        told.setdefault(what, where)

    try:
        with path.open("rb") as stream:
            if not workbook.recognise(stream):
                raise PlanError(f"{path}: is not a workbook (.xlsx)")
            rows = [(row.line, row.cells) for row in workbook.read(stream, tell=tell)]
            columns, keys = _about(path)
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror or error}") from None
    filled = [(line, cells) for line, cells in rows if any(cell.strip() for cell in cells)]
    headings = [cell.strip() for cell in filled[0][1]] if filled else []
    if KEY not in headings:
        raise PlanError(f"{path}: its first row has no column '{KEY}'; a sheet to edit is made "
                         "by 'roundcard convert BOOK SHEET --to-edit'")  # fmt: skip
    at = headings.index(KEY)
    found = Sheet([each for place, each in enumerate(headings) if place != at], [], columns, keys)
    for line, cells in filled[1:]:
        padded = [*cells, *[""] * (len(headings) - len(cells))]
        key = padded.pop(at).strip()
        found.rows.append((line, key, [plain(cell) for cell in padded[: len(found.headings)]]))
    found.told = [f"{what} ({where})" if where else what for what, where in told.items()
                  if not what.startswith("sheets that were not read")]  # fmt: skip
    if not keys:
        found.columns = list(found.headings)
        found.told.append("the hidden sheet is missing: rows that were deleted cannot be told from "
                          "people who were never shown, and nobody is taken out")  # fmt: skip
    return found


def _about(path: Path) -> tuple[list[str], list[str]]:
    """The columns and the keys that a sheet was made with; nothing where they are gone."""
    try:
        with path.open("rb") as stream:
            rows = [row.cells for row in workbook.read(stream, sheet=ABOUT)]
    except SourceError:
        return [], []
    if len(rows) < 3 or rows[2][:1] != ["columns"]:
        return [], []
    return rows[2][1:], [row[0] for row in rows[3:] if row]


def record_of(key: str, where: str) -> tuple[int, str]:
    """The record and the digest of a key. Raises `PlanError`."""
    number, _, digest = key.partition("-")
    if not number.isdecimal() or len(digest) != _DIGITS:
        raise PlanError(f"{where}: '{key}' in the column '{KEY}' does not name a record; leave "
                         "that column as it is, and empty for a new person")  # fmt: skip
    return int(number), digest
