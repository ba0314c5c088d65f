"""Dates of which only a part may be known, in the spellings of formats and of people.

Inside, a date is text in ISO 8601 extended form as far as it is known: ``1980-04-12``,
``1980-04``, ``1980``, ``--04-12``, ``--04``, ``---12`` (RFC 6350 section 4.3.1 has the same, in
basic form). What follows a ``T`` is kept as it came.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cache, lru_cache

from roundcard.errors import did_you_mean
from roundcard.patterns import pattern

_ISO = pattern(
    r"(?:(?P<year>\d{4})(?:-?(?P<month>\d{2})-?(?P<day>\d{2})|-(?P<month2>\d{2}))?"
    r"|--(?P<month3>\d{2})(?:-?(?P<day3>\d{2}))?"
    r"|---(?P<day4>\d{2}))"
    r"(?P<time>[T ]\d{2}.*)?",
    re.ASCII,
)
_TIME = pattern(
    r"T(\d\d)(?::?(\d\d)(?::?(\d\d))?)?(?:(Z)|([+-]\d\d)(?::?(\d\d))?)?", re.ASCII | re.IGNORECASE
)
_WORDS = ("day", "month", "year")
_LONGEST = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)


@dataclass(frozen=True, slots=True)
class PartialDate:
    """A date as far as it is known: zero for what is not."""

    year: int = 0
    month: int = 0
    day: int = 0
    time: str = ""
    """What followed the date (``T09:30:00Z``), in extended form."""

    def iso(self) -> str:
        """ISO 8601 extended: the spelling used inside."""
        if self.year:
            text = f"{self.year:04}"
            if self.month:
                text += f"-{self.month:02}" + (f"-{self.day:02}" if self.day else "")
        elif self.month:
            text = f"--{self.month:02}" + (f"-{self.day:02}" if self.day else "")
        else:
            text = f"---{self.day:02}"
        return text + self.time

    def basic(self) -> str:
        """The basic form that vCard 4.0 wants (RFC 6350 section 4.3.1)."""
        if self.year and self.month and not self.day:
            return f"{self.year:04}-{self.month:02}"  # without the hyphen it would be a time
        date = self.iso().removesuffix(self.time) if self.time else self.iso()
        lead = len(date) - len(date.lstrip("-"))
        return date[:lead] + date[lead:].replace("-", "") + self.time.replace(":", "")


def valid(year: int, month: int, day: int) -> bool:
    """Whether there is such a day, as far as it is given (zero: not given)."""
    if not (year or month or day) or month > 12 or (day and not month and year):
        return False
    if day > (_LONGEST[month - 1] if month else 31):
        return False
    leap = year % 4 == 0 and (year % 100 != 0 or year % 400 == 0)
    return not (year and month == 2 and day == 29 and not leap)


@lru_cache(maxsize=65_536)
def parse_iso(text: str) -> PartialDate | None:
    """A date in ISO 8601 basic or extended form, whole or partial; None where it is none."""
    found = _ISO.fullmatch(text.strip())
    if not found:
        return None
    group = found.groupdict(default="")
    month = group["month"] or group["month2"] or group["month3"] or "0"
    day = group["day"] or group["day3"] or group["day4"] or "0"
    year = group["year"] or "0"
    if "00" in (month, day) or year == "0000" or not valid(int(year), int(month), int(day)):
        return None
    return PartialDate(int(year), int(month), int(day), extended_time(group["time"]))


def is_date(text: str) -> bool:
    """Whether text is a date or a time, whole or in part, of which something can be told."""
    return parse_iso(text) is not None or bool(_TIME.fullmatch(text))


def extended_time(text: str) -> str:
    """A time of day (``T101500Z``) in extended form; what is none as it came."""
    found = _TIME.fullmatch(text)
    if found is None:
        return text
    clock = ":".join(filter(None, found.group(1, 2, 3)))
    offset = ":".join(filter(None, found.group(5, 6)))
    return f"T{clock}{found[4] or ''}{offset}"


@dataclass(frozen=True, slots=True)
class DateStyle:
    """How a column writes its dates: the three words in some order, with what stands between.

    ``day.month.year`` writes ``12.04.1980``. Reading takes any of ``. / - `` and spaces between
    the numbers, with or without leading zeros, and leaves the year out where it is not there.
    """

    text: str
    order: tuple[str, str, str]
    between: tuple[str, str]
    years_from: int = 0
    """The first of the hundred years in which those of two digits lie; 0 where none are taken."""

    def read(self, text: str) -> PartialDate | None:
        """The date in a cell; None where the cell holds none in this order.

        A year of two digits is only taken where somebody said in which hundred years it lies:
        nothing in the cell tells its century.
        """
        numbers = re.split(r"\s*[-./\s]\s*", text.strip().rstrip("."))
        if not all(number.isdecimal() and number.isascii() for number in numbers):
            return parse_iso(text)
        found = dict.fromkeys(_WORDS, 0)
        if len(numbers) == 3:
            wanted: tuple[str, ...] = self.order
        elif len(numbers) == 2:
            yearly = ("month", "year") if self.order[2] == "year" else ("year", "month")
            has_year = len(numbers[yearly.index("year")]) == 4
            wanted = yearly if has_year else tuple(w for w in self.order if w != "year")
        elif len(numbers) == 1 and len(numbers[0]) == 4:
            wanted = ("year",)
        else:
            return None
        for word, number in zip(wanted, numbers, strict=True):
            if word == "year" and len(number) == 2 and self.years_from:
                found[word] = full_year(int(number), self.years_from)
                continue
            if len(number) != 4 if word == "year" else len(number) > 2 or int(number) == 0:
                return parse_iso(text)
            found[word] = int(number)
        if not valid(found["year"], found["month"], found["day"]):
            return None
        return PartialDate(found["year"], found["month"], found["day"])

    def write(self, date: PartialDate) -> str:
        """The date in this style; ISO where the style cannot say what is known of it."""
        if date.time or (not date.year and not (date.month and date.day)):
            return date.iso()
        if not date.year and self.order[0] == "year":
            return date.iso()
        text = ""
        for word, mark in zip(self.order, (*self.between, ""), strict=True):
            number = getattr(date, word)
            if number:
                text += f"{number:04}" if word == "year" else f"{number:02}"
                text += mark
        trailing = self.between[1]
        if text.endswith(trailing) and not (trailing == "." and not date.year):
            text = text.removesuffix(trailing)
        return text


def full_year(short: int, years_from: int) -> int:
    """The year of two digits that lies in the hundred years from `years_from`."""
    return years_from + (short - years_from) % 100


DAY_NUMBERS = {"day-number": date(1899, 12, 30), "day-number-1904": date(1904, 1, 1)}
"""The styles of days that a spreadsheet counts, and the day before day 1 of each.

That of 1900 counts a 29 February 1900 that there was not, so that its first two months are one day
late (ECMA-376 part 1, 18.17.4.1).
"""
LIKELY_DAY_NUMBERS = range(10_000, 60_000)
"""Day numbers that dates of people have: from 1927 to 2064."""
_DAY_NUMBER = pattern(r"\d{1,7}(?:[.,]0+)?", re.ASCII)
_NO_DAY = 60
_FIRST_YEAR, _LAST_DAY = 1900, 2_958_465


@dataclass(frozen=True, slots=True)
class DayNumberStyle(DateStyle):
    """A column of days that a spreadsheet counts."""

    def read(self, text: str) -> PartialDate | None:
        """The date in a cell; None where it holds neither a number nor a date of ISO 8601."""
        said = text.strip()
        if not _DAY_NUMBER.fullmatch(said):
            return parse_iso(said)
        number = int(re.split("[.,]", said)[0])
        old = self.text == "day-number"
        if not 0 < number <= _LAST_DAY or (old and number == _NO_DAY):
            return None
        day = DAY_NUMBERS[self.text] + timedelta(number + (old and number < _NO_DAY))
        return PartialDate(day.year, day.month, day.day)

    def write(self, date_: PartialDate) -> str:
        """The number of a whole date; ISO where only a part is known, or it lies before."""
        if date_.time or not (date_.year >= _FIRST_YEAR and date_.month and date_.day):
            return date_.iso()
        old = self.text == "day-number"
        number = (date(date_.year, date_.month, date_.day) - DAY_NUMBERS[self.text]).days
        if old and number <= _NO_DAY:
            number -= 1
        return str(number) if number > 0 else date_.iso()


@cache
def date_style(text: str) -> DateStyle:
    """The style that a layout names: day, month and year in some order, a mark between them; or
    days that a spreadsheet counts.

    Raises `ValueError` with a sentence that says what is wrong.
    """
    if text in DAY_NUMBERS:
        return DayNumberStyle(text, ("year", "month", "day"), ("-", "-"))
    words = re.findall(r"[^\W\d_]+", text)
    for word in words:
        if word not in _WORDS:
            hint = did_you_mean(word, _WORDS) or (
                "; a style names day, month and year, as in 'day.month.year', or is 'day-number' "
                "for days that a spreadsheet counts"
            )
            raise ValueError(f"'{word}' is not a part of a date{hint}")
    marks = re.split("|".join(_WORDS), text)
    if sorted(words) != sorted(_WORDS) or marks[0] or marks[-1] or marks[1] != marks[2]:
        raise ValueError("a date style names day, month and year once, as in 'day.month.year'")
    if marks[1] not in ("-", ".", "/", " "):
        raise ValueError("between day, month and year comes one of - . / or a space")
    return DateStyle(text, (words[0], words[1], words[2]), (marks[1], marks[2]))
