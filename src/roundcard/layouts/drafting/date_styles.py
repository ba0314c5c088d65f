"""How a whole column writes its dates; a single cell never tells."""

from __future__ import annotations

from collections.abc import Mapping

from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.values.dates import LIKELY_DAY_NUMBERS, DateStyle, date_style

_MOST = 0.9


def _are_day_numbers(profile: ColumnProfile) -> bool:
    """Whether all cells are numbers by which a spreadsheet may count days of people's lives."""
    return (
        bool(profile.values)
        and profile.numbers[_DIGITS] == profile.told
        and all(value.isdecimal() and int(value) in LIKELY_DAY_NUMBERS for value in profile.values)
    )


_DIGITS = 5


def date_style_of(
    profile: ColumnProfile, languages: Mapping[str, float]
) -> tuple[DateStyle | None, str]:
    """The style that the dates of a column have, where all of them agree, and what to know of it.

    `languages` are those of the headings, each with its weight; they break the tie where no date
    of the column tells day from month.
    """
    if _are_day_numbers(profile):
        return date_style("day-number"), "days that a spreadsheet counts, from 1900"
    orders, marks = profile.orders, profile.date_marks
    if not orders or not marks:
        return None, ""
    mark, times = marks.most_common(1)[0]
    note = "" if times >= _MOST * sum(marks.values()) else "dates with different marks between"
    day, month, year = orders["day first"], orders["month first"], orders["year first"]
    if orders["short year"] > 0.5 * sum(marks.values()):
        return None, "years of two digits: kept as they stand"
    if (day and month) or (year and (day or month)):
        return None, "dates in two orders?"
    if year:
        return (None if mark == "-" else date_style(f"year{mark}month{mark}day")), note
    if month:
        return date_style(f"month{mark}day{mark}year"), note
    if day:
        return date_style(f"day{mark}month{mark}year"), note
    if orders["either"]:
        if mark == "/" and languages.get("en", 0.0) >= 0.99:
            return None, "day or month first? no date tells; kept as they stand"
        return date_style(f"day{mark}month{mark}year"), "the day is taken to stand first"
    return None, note
