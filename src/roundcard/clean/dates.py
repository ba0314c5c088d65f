"""The rule for dates written in words (month names: Unicode CLDR, through Babel)."""

from __future__ import annotations

import re
from functools import cache

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

_LANGUAGES = ("en", "de", "fr", "es", "it", "nl", "pt", "pl", "sv", "da", "nb", "fi", "cs", "hu",
              "ro", "tr", "ru", "uk", "el")  # fmt: skip
_DAY_FIRST = re.compile(
    r"(?:(\d{1,2})(?:\.|st|nd|rd|th|er|º|ª)?[ /-]+(?:de |d['’] ?|of )?)?([^\W\d_]{3,14})\.?"
    r"(?:[ ,/-]+(?:de |del )?(\d{4}))?", re.IGNORECASE)  # fmt: skip
_MONTH_FIRST = re.compile(r"([^\W\d_]{3,14})\.? (\d{1,2})(?:st|nd|rd|th)?,? (\d{4})", re.IGNORECASE)
_YEAR_FIRST = re.compile(r"(\d{4})[.,]? ([^\W\d_]{3,14})\.? (\d{1,2})\.?")
_NUMBERS = re.compile(r"(\d{1,4})\s?[./ -]\s?(\d{1,2})(?:\s?[./ -]\s?(\d{2,4}))?\.?", re.ASCII)
_MIDNIGHT = re.compile(r"[T ]00:00(?::00)?(?:\.0+)?Z?")
_UNTOLD = {
    "": "no date of this field tells whether the day or the month stands first",
    "mixed": "dates in this field are in two orders",
    "year": "elsewhere in this field the year stands first",
}
_DIGITS = 5
_FEW = 2
_MONTHS = range(1, 13)
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
    return {name: next(iter(numbers)) for name, numbers in found.items() if len(numbers) == 1}


def date_words(text: str, _: Around) -> Verdict:
    """A date with its month in words is written as numbers, year first (ISO 8601)."""
    said = text.strip()
    if said.isascii() and said.replace("-", "").isdecimal():
        return LEFT
    if found := _MARKED.fullmatch(said):
        return _iso(int(found[1]), int(found[2]), int(found[3]), text)
    if found := _MONTH_FIRST.fullmatch(said):
        return _iso(int(found[3]), months().get(bare(found[1]), 0), int(found[2]), text)
    if found := _YEAR_FIRST.fullmatch(said):
        return _iso(int(found[1]), months().get(bare(found[2]), 0), int(found[3]), text)
    if (found := _DAY_FIRST.fullmatch(said)) and (found[1] or found[3]):
        return _iso(int(found[3] or 0), months().get(bare(found[2]), 0), int(found[1] or 0), text)
    return LEFT


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
    order = around.orders.get(around.path, "")
    if order not in ("day", "month"):
        return Verdict(doubt=_UNTOLD.get(order, _UNTOLD[""]))
    day, month = (first, second) if order == "day" else (second, first)
    if int(month) not in _MONTHS or not int(day):
        return Verdict(doubt=f"elsewhere in this field the {order} comes first")
    if third is None or len(third) == 4:
        return _iso(int(third or 0), int(month), int(day), text)
    if len(third) != 2:
        return Verdict(doubt="its year has three digits")
    if around.years_from:
        return _iso(full_year(int(third), around.years_from), int(month), int(day), text)
    century = 2000 if around.this_year and int(third) <= around.this_year - 2000 else 1900
    if century == 2000 or not around.this_year:
        return Verdict(doubt=f"the year 19{third} or 20{third}?")
    return _iso(century + int(third), int(month), int(day), text)


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


def order_told(text: str) -> str:
    """What a date in numbers tells of its order: ``day`` or ``month``, ``dots`` where points
    stand between that nothing else tells, ``either`` where nothing does, ``number`` for a count of
    days; empty for other texts."""
    if is_day_number(text):
        return "number"
    found = _NUMBERS.fullmatch(text.strip())
    if found is None or len(found[1]) == 4:
        return ""
    first, second = int(found[1]), int(found[2])
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
