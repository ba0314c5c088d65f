"""A layout for a table that came without one, from its headings.

A first, simple matching: field paths, and English words. What it does not know becomes a custom
value under its own heading, so that nothing is put into a wrong field and nothing is lost.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Sequence
from functools import cache
from importlib import resources

from roundcard.card.paths import FieldPath, parse, takes_many
from roundcard.errors import LayoutError, PathError
from roundcard.formats.csv import Dialect
from roundcard.layouts.model import Column, Layout

_WHOLE_ADDRESS = FieldPath("address", part="full")
_STREET = FieldPath("address", part="street")
_BESIDE = {"kind": "use", "type": "use", "use": "use", "label": "use"}
"""A heading that ends so, after the words of a field, names the use of the value beside it."""

_VALUE = re.compile(
    r"[^\s@]+@[^\s@]+\.\w\w+|^[+(]?\d[\d ()./-]{5,}$|https?://|^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$"
)
"""An e-mail address, a phone number, a link, a date."""
_MOST_IN_TOTALS = 4
_NUMBER = re.compile(r"[\d.,' ]+")
_TOTAL = re.compile(
    r"(?:(?:grand |sub-?)?total[es]?|sum|summe|gesamt|insgesamt|anzahl|somme|nombre|totaal|"
    r"aantal|suma|razem|ogółem|celkem|összesen|toplam|итого|всего|合計|总计|總計|합계)"
    r"[\s:=]*(?:\d[\d.,' ]*)?(?:\s*(?:records?|rows?|people|persons?|contacts?|members?|entries))?"
    r"|\d[\d.,' ]*\s+(?:records?|rows?|people|persons?|contacts?|members?|entries|zeilen|"
    r"datensätze|einträge|mitglieder|personen|lignes|membres|personnes|filas|registros)",
    re.IGNORECASE,
)
"""How a row of totals begins, in the languages that such rows were met in."""


@cache
def vocabulary(language: str = "en") -> dict[str, FieldPath]:
    """The paths that the headings of a language stand for, by the heading's letters and digits."""
    data = resources.files("roundcard.layouts").joinpath("vocabulary", f"{language}.toml")
    words = tomllib.loads(data.read_text(encoding="utf-8"))
    return {_bare(word): parse(path) for path, listed in words.items() for word in listed}


def from_headings(headings: Sequence[str], dialect: Dialect, name: str, file: str) -> Layout:
    """The layout that the headings of a table suggest, each column with its reason.

    Raises `LayoutError` where not one heading is understood.
    """
    columns: list[Column] = []
    seen: dict[str, int] = {}
    taken: set[FieldPath] = set()
    understood = 0
    meanings = [_meaning(raw.strip()) for raw in headings]
    split = any(path and path.field == "address" and path.part not in ("", "full")
                for path, _ in meanings)  # fmt: skip
    for at, raw in enumerate(headings):
        heading = raw.strip()
        nth = seen[heading] = seen.get(heading, 0) + 1
        path, why = meanings[at]
        if split and path == _WHOLE_ADDRESS:
            path, why = _STREET, "its heading, and there are columns for the rest of the address"
        if path is not None and path in taken and not _again(path):
            path, why = None, f"{path} is taken already; kept under its heading"
        if path is None:
            label = heading or f"column {at + 1}"
            path = FieldPath("custom", label=label if nth == 1 else f"{label} ({nth})")
        else:
            understood += 1
            taken.add(path)
        many = "; " if path.field in ("category", "nickname") else ""
        if not heading:
            columns.append(Column(number=at + 1, holds=(path,), why="it has no heading"))
        else:
            columns.append(Column(heading=heading, nth=nth, holds=(path,), many=many, why=why))
    if not understood:
        begin = ", ".join(f"'{' '.join(heading.split())[:30]}'" for heading in headings[:4])
        raise LayoutError(
            f"{file}: none of its {len(headings)} columns is understood (the first row begins "
            f"{begin}); say what they hold in a layout file and give it with --layout"
        )
    return Layout(name=name, dialect=dialect, columns=tuple(columns))


def understood(cells: Sequence[str]) -> int:
    """How many cells of a row are headings that are known."""
    return sum(1 for cell in cells if _meaning(cell.strip())[0] is not None)


def looks_like_a_record(cells: Sequence[str]) -> bool:
    """Whether a row holds what stands in records, and not above them: an address, a number."""
    return any(_VALUE.search(cell.strip()) for cell in cells)


def is_total(cells: Sequence[str]) -> bool:
    """Whether a row is one of totals: a word that says so, and nothing beside it but numbers."""
    if cells.count("") < len(cells) - _MOST_IN_TOTALS:
        return False
    filled = [cell.strip() for cell in cells if cell and not cell.isspace()]
    if not filled or len(filled) > _MOST_IN_TOTALS or not _TOTAL.fullmatch(filled[0]):
        return False
    return all(_NUMBER.fullmatch(cell) for cell in filled[1:])


def _meaning(heading: str) -> tuple[FieldPath | None, str]:
    if not heading:
        return None, "it has no heading"
    known = vocabulary().get(_bare(heading))
    if known is not None:
        return known, "its heading"
    if "/" in heading or heading.islower():
        try:
            path = parse(heading)
        except PathError:
            pass
        else:
            if path.part or path.field not in ("name", "address"):
                return path, "its heading is a field path"
    words = heading.replace("-", " ").split()
    if not words:
        return None, "nothing in its heading is known; kept under it"
    number = next((int(word) for word in words if word.isdecimal() and 0 < int(word) < 100), 0)
    part = _BESIDE.get(words[-1].lower(), "")
    plain = [word for word in words if not word.isdecimal()]
    found = vocabulary().get(_bare(" ".join(plain[:-1] if part else plain)))
    if found and (number or part) and not found.part and takes_many(found.field):
        if not number and part and not found.uses:
            return FieldPath(found.field, part=part), "its heading"
        return FieldPath(found.field, found.uses, position=number, part=part), "its heading"
    return None, "nothing in its heading is known; kept under it"


def _again(path: FieldPath) -> bool:
    return not path.part and not path.position and takes_many(path.field)


def _bare(heading: str) -> str:
    return "".join(char for char in heading.casefold() if char.isalnum())
