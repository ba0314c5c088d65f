"""A sheet of people in which some are ticked."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import chain
from pathlib import Path

from roundcard.books.sheets import write_rows
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact, flat
from roundcard.card.fields import ADR_PARTS
from roundcard.card.names import formatted_name
from roundcard.card.origin import unpack
from roundcard.errors import PlanError
from roundcard.formats.sheets import sheet_rows
from roundcard.pick.people import Sampled
from roundcard.survey.cards import values_of
from roundcard.values.text import fingerprint

TICK, KEY = "pick", "record"
HEADINGS = [TICK, KEY, "name", "org", "email", "phone", "town", "category"]
_TOWN = ADR_PARTS.index("locality")


def write_ticks(files: Transaction, path: Path, contacts: Iterable[Contact]) -> int:
    """Write a sheet of people, none of them ticked; how many they are.

    A workbook or CSV, as the name says. Raises `TargetError`.
    """
    rows = (_row(contact) for contact in contacts)
    return write_rows(files, path, chain([HEADINGS], rows), "people")


def ticked_in(path: Path, contacts: Iterable[Contact]) -> tuple[Sampled, list[str]]:
    """The people whose rows are ticked, and what to tell of rows that cannot be followed.

    Anything in the column ``pick`` is a tick. Raises `SourceError`, and `PlanError` for what is
    no such sheet.
    """
    wanted: dict[tuple[int, int], tuple[int, str]] = {}
    for line, key in _ticked(path):
        wanted[_place(key, f"{path}, row {line}")] = line, key.partition("-")[2]
    found, told = [], []
    for contact in contacts:
        place = unpack(contact.origin)
        if place is None or (place.source, place.record) not in wanted:
            continue
        line, digest = wanted.pop((place.source, place.record))
        if _digest(contact) == digest:
            found.append((place.source, place.record))
        else:
            told.append(f"row {line}: {_name(contact)} is not what it was when the sheet was made; "
                        "not picked")  # fmt: skip
    told += [f"row {line}: not found in the sources" for line, _ in wanted.values()]
    return Sampled(found), told


def _ticked(path: Path) -> Iterator[tuple[int, str]]:
    """The rows that are ticked: their number and key."""
    rows = sheet_rows(path)
    headings = [cell.strip().lower() for cell in next(rows, (0, []))[1]]
    if TICK not in headings or KEY not in headings:
        raise PlanError(f"{path}: is not a sheet of people to tick; missing columns: "
                        f"'{TICK}' and '{KEY}'")  # fmt: skip
    tick, key = headings.index(TICK), headings.index(KEY)
    for line, cells in rows:
        if len(cells) > max(tick, key) and cells[tick].strip() and cells[key].strip():
            yield line, cells[key].strip()


def _row(contact: Contact) -> list[str]:
    place = unpack(contact.origin)
    source, record = (place.source, place.record) if place is not None else (0, 0)
    key = f"{source + 1}.{record}-{_digest(contact)}"
    town = next((str(prop.components[_TOWN]) for prop in contact.all("adr")
                 if len(prop.components) > _TOWN and prop.components[_TOWN]), "")  # fmt: skip
    said = [_first(contact, name) for name in ("org", "email", "tel")]
    groups = [entry for prop in contact.all("categories") for entry in flat(prop.components)]
    return ["", key, _name(contact), *said, town, "; ".join(groups)]


def _place(key: str, where: str) -> tuple[int, int]:
    source, _, record = key.partition("-")[0].partition(".")
    if not source.isdecimal() or not record.isdecimal() or not int(source):
        raise PlanError(f"{where}: '{key}' in the column '{KEY}' does not name a record")
    return int(source) - 1, int(record)


def _digest(contact: Contact) -> str:
    return fingerprint(text for pair in values_of(contact) for text in pair)


def _name(contact: Contact) -> str:
    whole = contact.first("fn")
    return whole.text if whole is not None else formatted_name(contact)[0]


def _first(contact: Contact, name: str) -> str:
    prop = contact.first(name)
    return next(flat(prop.components), "") if prop is not None else ""
