"""Rows of a table that are no ordinary headings: records, and totals."""

from __future__ import annotations

import re
from collections.abc import Sequence

_VALUE = re.compile(
    r"(?<![^\s@])[^\s@]+@[^\s@]+\.\w\w+|^[+(]?\d[\d ()./-]{5,}$|https?://|^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$"
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


def looks_like_a_record(cells: Sequence[str]) -> bool:
    """Whether a row holds what stands in records, and not above them: an address, a number."""
    return any(_VALUE.search(cell.strip()) for cell in cells)


def is_total(cells: Sequence[str]) -> bool:
    """Whether a row is one of totals: a word that says so, and nothing beside it but numbers."""
    if len(cells) > _MOST_IN_TOTALS and cells.count("") < len(cells) - _MOST_IN_TOTALS:
        return False
    filled = [cell.strip() for cell in cells if cell and not cell.isspace()]
    if not filled or len(filled) > _MOST_IN_TOTALS or not _TOTAL.fullmatch(filled[0]):
        return False
    return all(_NUMBER.fullmatch(cell) for cell in filled[1:])
