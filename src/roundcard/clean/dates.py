"""The rule for dates written in words (month names: Unicode CLDR, through Babel)."""

from __future__ import annotations

import re
from functools import cache, lru_cache

from roundcard.clean.rule import LEFT, Around, Rule, Verdict
from roundcard.values.dates import (
    LIKELY_DAY_NUMBERS,
    PartialDate,
    date_style,
    full_year,
    parse_iso,
    valid,
)
from roundcard.values.text import bare

_LANGUAGES = (
    "en", "de", "de_AT", "fr", "es", "it", "nl", "pt", "pl", "sv", "da", "nb", "fi",
    "cs", "hu", "ro", "tr", "ru", "uk", "el", "hr", "sk", "sl", "bg", "ca", "lt",
    "lv", "et", "sr", "is", "id"
)  # fmt: skip
_DAYS_LANGUAGES = (
    "en", "de", "fr", "es", "it", "nl", "pt", "pl", "sv", "da", "nb", "fi", "cs",
    "hu", "ru", "uk"
)  # fmt: skip
_BEFORE = re.compile(r"^(?:le|el|den|am|de|dne|il|on|born|geb\.?|né le|née le|nat[oa] il|\*)\s+",
                     re.IGNORECASE)  # fmt: skip
_BEHIND = re.compile(r"\s*(?:г\.?|р\.?|года|року|r\.|roku|m\.|g\.|god\.)$", re.IGNORECASE)
_ABOUT = re.compile(r"^(?:circa|ca\.?|c\.|about|approx\.?|around|um|vers|env\.?|hacia|~)\s*\d",
                    re.IGNORECASE)  # fmt: skip
_TIGHT = re.compile(r"(\d{1,2})([A-Za-z]{3})(\d{4})")
_TOGETHER = re.compile(r"(?<=\d)\.(?=[^\W\d_])|(?<=[^\W\d_])\.(?=\d)")
"""A point without a space behind it, between a number and a word."""
_SHORT_YEAR = re.compile(r"(?<=[\s./-])['’](\d{2})$")
_DAY_AND_SHORT_YEAR = re.compile(
    r"\d{1,2}(?:\.|st|nd|rd|th)?[ ./-]+[^\W\d_]{3,14}\.?[ ,./-]+(\d{2})", re.IGNORECASE
)
_MORE_MONTHS = {"mrz": 3}
"""Abbreviations that people write and the library does not list."""
_ERAS = {"明治": 1867, "大正": 1911, "昭和": 1925, "平成": 1988, "令和": 2018}
_ERA = re.compile(r"(明治|大正|昭和|平成|令和)(\d{1,2}|元)年(\d{1,2})月(\d{1,2})日")
_DAY_FIRST = re.compile(
    r"(?:(\d{1,2})(?:\.|st|nd|rd|th|er|º|ª)?[ /-]+(?:de |d['’] ?|of )?)?([^\W\d_]{3,14})\.?"
    r"(?:[ ,/-]+(?:de |del )?(\d{4}))?", re.IGNORECASE)  # fmt: skip
_MONTH_FIRST = re.compile(r"([^\W\d_]{3,14})\.? (\d{1,2})(?:st|nd|rd|th)?(?:,? (\d{4}))?",
                          re.IGNORECASE)  # fmt: skip
_YEAR_FIRST = re.compile(r"(\d{4})(?:[.,]? |[-/])([^\W\d_]{3,14})(?:\.? |[-/])(\d{1,2})\.?")
_NUMBERS = re.compile(r"(\d{1,4})\s?[./ -]\s?(\d{1,2})(?:\s?[./ -]\s?(\d{1,4}))?\.?", re.ASCII)
_MIDNIGHT = re.compile(r"[T ]00:00(?::00)?(?:\.0+)?Z?")
_UNTOLD = {
    "": "no date of this field tells whether the day or the month stands first",
    "mixed": "dates in this field are in two orders",
    "year": "elsewhere in this field the year stands first",
}
_DIGITS = 5
_FEW = 2
_MONTHS = range(1, 13)
_TIMED = re.compile(r"\dT\d|\d:\d\d|^--|^text$")
_LAST_DAY = 31
_MARKED = re.compile(r"(\d{4})[年년]\s?(\d{1,2})[月월]\s?(\d{1,2})[日일]")


@cache
def months() -> dict[str, int]:
    """The number of each month by its names and abbreviations, without accents and case; names
    that mean different months in different languages are left out."""
    from babel import Locale  # only where dates stand in words

    found: dict[str, set[int]] = {}
    for language in _LANGUAGES:
        for context in Locale.parse(language).months.values():
            for width in ("wide", "abbreviated"):
                for number, name in context.get(width, {}).items():
                    found.setdefault(bare(name.rstrip(".")), set()).add(number)
    told = {name: next(iter(numbers)) for name, numbers in found.items() if len(numbers) == 1}
    return told | _MORE_MONTHS


@cache
def _weekdays() -> re.Pattern[str]:
    """A day of the week in front, by its names and abbreviations."""
    from babel import Locale

    found: set[str] = set()
    for language in _DAYS_LANGUAGES:
        for context in Locale.parse(language).days.values():
            for width in ("wide", "abbreviated", "short"):
                found.update(name.rstrip(".") for name in context.get(width, {}).values())
    names = sorted((re.escape(name) for name in found if len(name) > 1), key=len, reverse=True)
    return re.compile(rf"^(?:{'|'.join(names)})\.?,?\s+", re.IGNORECASE)


def date_words(text: str, around: Around) -> Verdict:
    """A date with its month in words is written as numbers, year first (ISO 8601); a day of the
    week, an article or a word for year beside it goes. What is no date that is known is
    reported."""
    said = text.strip()
    if said.isascii() and said.replace("-", "").isdecimal():
        return LEFT
    if (
        _NUMBERS.fullmatch(said)
        or parse_iso(said) is not None
        or not any(char.isalpha() for char in said)
    ):
        return LEFT
    if _ABOUT.match(said):
        return Verdict(doubt="about a year: kept as text")
    if found := _MARKED.fullmatch(said):
        return _iso(int(found[1]), int(found[2]), int(found[3]), text)
    if found := _ERA.fullmatch(said):
        year = _ERAS[found[1]] + (1 if found[2] == "元" else int(found[2]))
        return _iso(year, int(found[3]), int(found[4]), text)
    bare_said = _BEHIND.sub("", _BEFORE.sub("", _weekdays().sub("", said)))
    bare_said = _TOGETHER.sub(". ", _BEFORE.sub("", bare_said))
    if found := _TIGHT.fullmatch(bare_said):
        bare_said = " ".join(found.groups())
    if found := _SHORT_YEAR.search(bare_said) or _DAY_AND_SHORT_YEAR.fullmatch(bare_said):
        century = 2000 if int(found[1]) <= (around.this_year or 2100) - 2000 else 1900
        if century == 2000:
            return Verdict(doubt=f"the year 19{found[1]} or 20{found[1]}?")
        before = bare_said[: found.start(1)].rstrip("'’")
        bare_said = f"{before}{century + int(found[1])}"
    return _in_words(bare_said, text)


def _in_words(said: str, text: str) -> Verdict:
    if (found := _MONTH_FIRST.fullmatch(said)) and months().get(bare(found[1])):
        return _iso(int(found[3] or 0), months()[bare(found[1])], int(found[2]), text)
    if found := _YEAR_FIRST.fullmatch(said):
        return _iso(int(found[1]), months().get(bare(found[2]), 0), int(found[3]), text)
    if (found := _DAY_FIRST.fullmatch(said)) and (found[1] or found[3]):
        month = months().get(bare(found[2]), 0)
        if month:
            return _iso(int(found[3] or 0), month, int(found[1] or 0), text)
    if _TIMED.search(said):
        return LEFT
    return Verdict(doubt="not a date that is known")


def date_order(text: str, around: Around) -> Verdict:
    """A date in numbers is written year first (ISO 8601). Which number is the day is told by the
    whole field of the book, never by the one date; a year of two digits only where one of the
    two centuries has not come yet."""
    said = text.strip()
    if parse_iso(said) is not None:
        plain = said[:10]
        midnight = _MIDNIGHT.fullmatch(said[10:]) and parse_iso(plain)
        return Verdict(plain) if midnight and plain != text else LEFT
    found = _NUMBERS.fullmatch(said)
    if found is None:
        return LEFT
    first, second, third = found.groups()
    if len(first) == 4:
        if len(third or "") > _FEW:
            return LEFT
        if int(second) not in _MONTHS:
            return Verdict(doubt="there is no such month")
        if third is not None and not int(third):
            return Verdict(doubt="no such day")
        return _iso(int(first), int(second), int(third or 0), text)
    if third is not None and len(third) == 1:
        return LEFT
    order = around.orders.get(around.path, "")
    if order == "year" and third is not None and len(third) <= _FEW:
        return _short_year(first, int(second), int(third), text, around)
    if first == second and third is not None and len(third) == 4 and int(first) in _MONTHS:
        return _iso(int(third), int(first), int(second), text)
    if order not in ("day", "month"):
        return Verdict(doubt=_UNTOLD.get(order, _UNTOLD[""]))
    day, month = (first, second) if order == "day" else (second, first)
    if int(month) not in _MONTHS or not int(day):
        return Verdict(doubt=f"elsewhere in this field the {order} comes first")
    if third is None or len(third) == 4:
        return _iso(int(third or 0), int(month), int(day), text)
    if len(third) != 2:
        return Verdict(doubt="its year has three digits")
    return _short_year(third, int(month), int(day), text, around)


def _short_year(year: str, month: int, day: int, text: str, around: Around) -> Verdict:
    """A date with a year of two digits; a doubt where both centuries have seen it."""
    if month not in _MONTHS or not day:
        return Verdict(doubt="there is no such month" if month not in _MONTHS else "no such day")
    if around.years_from:
        return _iso(full_year(int(year), around.years_from), month, day, text)
    if not around.this_year or int(year) <= around.this_year - 2000:
        return Verdict(doubt=f"the year 19{year} or 20{year}?")
    return _iso(1900 + int(year), month, day, text)


def date_number(text: str, around: Around) -> Verdict:
    """A number that a spreadsheet counts days by becomes the day, where all dates of the field in
    this book are such numbers, or a workbook has it as a number; elsewhere it is reported."""
    if not is_day_number(text):
        return LEFT
    if around.orders.get(around.path) != "number":
        return Verdict(doubt="a number: a spreadsheet's count of days?")
    found = date_style("day-number").read(text.strip())
    return Verdict(found.iso()) if found is not None else LEFT


def is_day_number(text: str) -> bool:
    """Whether a text is a number by which a spreadsheet may count a day of somebody's life."""
    said = text.strip()
    plain = said.partition(".")[0] if said.endswith(".0") else said
    return len(plain) == _DIGITS and plain.isascii() and plain.isdecimal() \
        and int(plain) in LIKELY_DAY_NUMBERS  # fmt: skip


@lru_cache(maxsize=16_384)
def order_told(text: str) -> str:
    """What a date in numbers tells of its order: ``day`` or ``month``, ``dots`` where points
    stand between that nothing else tells, ``either`` where nothing does, ``number`` for a count of
    days, ``year`` for a year of two digits in front; empty for other texts."""
    if is_day_number(text):
        return "number"
    found = _NUMBERS.fullmatch(text.strip())
    if found is None or len(found[1]) == 4:
        return ""
    first, second = int(found[1]), int(found[2])
    if first > _LAST_DAY:
        return "year"
    if first > 12:
        return "day"
    if second > 12:
        return "month"
    return "dots" if "." in text else "either"


def _iso(year: int, month: int, day: int, text: str) -> Verdict:
    if not month:
        return LEFT
    if not valid(year, month, day):
        return Verdict(doubt="no such day")
    made = PartialDate(year, month, day).iso()
    return LEFT if made == text else Verdict(made)


RULES = (
    Rule("date-number", ("birthday", "anniversary", "deathdate"),
         "days that a spreadsheet counted, where the whole field is such numbers",
         (("birthday", "20000", "20000"), ("birthday", "1980-04-12", "1980-04-12")), date_number),
    Rule("date-words", ("birthday", "anniversary", "deathdate"),
         "dates with their month in words, as numbers",
         (("birthday", "12 April 1980", "1980-04-12"), ("birthday", "1980年4月12日", "1980-04-12"),
          ("birthday", "spring 1980", "spring 1980")), date_words),
    Rule("date-order", ("birthday", "anniversary", "deathdate"),
         "dates in numbers year first, by the order that the whole field tells",
         (("birthday", "1980/4/12", "1980-04-12"), ("birthday", "12/04/1980", "12/04/1980")),
         date_order),
)  # fmt: skip
