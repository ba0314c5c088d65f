"""The rule for dates written in words (month names: Unicode CLDR, through Babel)."""

from __future__ import annotations

import re
from functools import cache

from roundcard.clean.rule import LEFT, Around, Rule, Verdict
from roundcard.values.dates import PartialDate, valid
from roundcard.values.text import bare

_LANGUAGES = ("en", "de", "fr", "es", "it", "nl", "pt", "pl", "sv", "da", "nb", "fi", "cs", "hu",
              "ro", "tr", "ru", "uk", "el")  # fmt: skip
_DAY_FIRST = re.compile(
    r"(?:(\d{1,2})(?:\.|st|nd|rd|th|er|º|ª)?[ /-]+(?:de |d['’] ?|of )?)?([^\W\d_]{3,14})\.?"
    r"(?:[ ,/-]+(?:de |del )?(\d{4}))?", re.IGNORECASE)  # fmt: skip
_MONTH_FIRST = re.compile(r"([^\W\d_]{3,14})\.? (\d{1,2})(?:st|nd|rd|th)?,? (\d{4})", re.IGNORECASE)
_YEAR_FIRST = re.compile(r"(\d{4})[.,]? ([^\W\d_]{3,14})\.? (\d{1,2})\.?")
_MARKED = re.compile(r"(\d{4})[年년]\s?(\d{1,2})[月월]\s?(\d{1,2})[日일]")


@cache
def months() -> dict[str, int]:
    """The number of each month by its names and abbreviations, without accents and case; names
    that mean different months in different languages are left out."""
    from babel import Locale  # noqa: PLC0415  # only where dates stand in words

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


def _iso(year: int, month: int, day: int, text: str) -> Verdict:
    if not month:
        return LEFT
    if not valid(year, month, day):
        return Verdict(doubt="there is no such day")
    made = PartialDate(year, month, day).iso()
    return LEFT if made == text else Verdict(made)


RULES = (
    Rule("date-words", ("birthday", "anniversary", "deathdate"),
         "dates with their month in words, as numbers",
         (("birthday", "12 April 1980", "1980-04-12"), ("birthday", "1980年4月12日", "1980-04-12"),
          ("birthday", "spring 1980", "spring 1980")), date_words),
)  # fmt: skip
