"""Rows of a table that are no ordinary headings: records, and totals."""

from __future__ import annotations

import re
from collections.abc import Sequence

from roundcard.patterns import pattern

_VALUE = pattern(
    r"(?<![^\s@])[^\s@]+@[^\s@]+\.\w\w+|^[+(]?\d[\d ()./-]{5,}$|https?://|^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$"
)
"""An e-mail address, a phone number, a link, a date."""
_MOST_IN_TOTALS = 4
_NUMBER = pattern(r"[\d.,' ]+")
_TOTAL = pattern(
    r"(?:(?:grand |sub-?)?total[es]?|sum|summe|gesamt|insgesamt|anzahl|somme|nombre|totaal|"
    r"aantal|suma|razem|ogółem|celkem|összesen|toplam|итого|всего|合計|总计|總計|합계)"
    r"[\s:=]*(?:\d[\d.,' ]*)?(?:\s*(?:records?|rows?|people|persons?|contacts?|members?|entries))?"
    r"|\d[\d.,' ]*\s+(?:records?|rows?|people|persons?|contacts?|members?|entries|zeilen|"
    r"datensätze|einträge|mitglieder|personen|lignes|membres|personnes|filas|registros)",
    re.IGNORECASE,
)
"""How a row of totals begins, in the languages that such rows were met in."""

_EXPLAINING = pattern(
    r"(?<![^\W\d_])(?:te[xk]st[eoi]?|texte|testo|szöveg|metin|текст|строка|strings?|varchar|char|"
    r"alphanumeric|alphanumerisch|num(?:ber|eric|mer|éro|ero|er)|número|zahl|liczba|číslo|szám|"
    r"numara|номер|число|int(?:eger)?|bool(?:ean)?|dates?|datum|fecha|data|dato|dátum|tarih|дата|"
    r"addresse?|adresse?|dirección|indirizzo|endereço|adres|cím|адрес|format|formato|"
    r"required|mandatory|optional|pflicht\w*|erforderlich|obligat\w+|obrigat\w+|obligatoire|opcional|"
    r"facultati\w+|optionnel|verplicht|wymagane|povinné|обязательно|max|chars?|characters?|zeichen|"
    r"caract\w+|tekens|znak\w*|символов|yyyy|jjjj|aaaa|rrrr|гггг|mm|e-?mail|phone|telefon|name|"
    r"example|beispiel|ejemplo|exemple|esempio|exemplo|voorbeeld|przykład|пример|"
    r"文字|文本|数字|数値|日付|日期|必填|必須|任意|文字列|텍스트|숫자|날짜|필수)(?![^\W\d_])",
    re.IGNORECASE,
)
"""Words of a row that says what the columns below it hold: kinds of data, formats, duties."""


def explaining_cells(cells: Sequence[str]) -> int:
    """How many cells say what a column is to hold: ``text``, ``number, with country``."""
    return sum(1 for cell in cells if _EXPLAINING.search(cell))


def looks_like_a_record(cells: Sequence[str]) -> bool:
    """Whether a row holds what stands in records, and not above them: an address, a number."""
    return any(_VALUE.search(cell.strip()) for cell in cells)


def trimmed(cells: Sequence[str]) -> tuple[str, ...]:
    """The cells without the blanks around them, and without the empty ones at the end."""
    stripped = [cell.strip() for cell in cells]
    while stripped and not stripped[-1]:
        stripped.pop()
    return tuple(stripped)


def explains(cells: Sequence[str], explained_by: tuple[str, ...]) -> bool:
    """Whether this is the row under the headings that a layout knows to explain them."""
    return bool(explained_by) and trimmed(cells) == explained_by


def is_total(cells: Sequence[str]) -> bool:
    """Whether a row is one of totals: a word that says so, and nothing beside it but numbers."""
    if len(cells) > _MOST_IN_TOTALS and cells.count("") < len(cells) - _MOST_IN_TOTALS:
        return False
    filled = [cell.strip() for cell in cells if cell and not cell.isspace()]
    if not filled or len(filled) > _MOST_IN_TOTALS or not _TOTAL.fullmatch(filled[0]):
        return False
    return all(_NUMBER.fullmatch(cell) for cell in filled[1:])
