from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.values.dates import PartialDate, date_style, parse_iso, valid


@pytest.mark.parametrize(
    ("text", "iso", "basic"),
    [
        ("1980-04-12", "1980-04-12", "19800412"),
        ("19800412", "1980-04-12", "19800412"),
        ("1980-04", "1980-04", "1980-04"),
        ("1980", "1980", "1980"),
        ("--04-12", "--04-12", "--0412"),
        ("--0412", "--04-12", "--0412"),
        ("--04", "--04", "--04"),
        ("---12", "---12", "---12"),
        ("2000-02-29", "2000-02-29", "20000229"),
        ("--02-29", "--02-29", "--0229"),
        ("1980-04-12T09:30:00Z", "1980-04-12T09:30:00Z", "19800412T093000Z"),
    ],
)
def test_dates_of_the_standard(text: str, iso: str, basic: str) -> None:
    date = parse_iso(text)
    assert date is not None
    assert (date.iso(), date.basic()) == (iso, basic)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "spring 1980",
        "1900-02-29",
        "1980-13-01",
        "0000-00-00",
        "1980-04-31",
        "198004",
        "12.04.1980",
        "１９８０",
    ],
)
def test_what_is_no_date(text: str) -> None:
    assert parse_iso(text) is None


STYLES = [
    ("day.month.year", "12.04.1980", "1980-04-12", "12.04.1980"),
    ("day.month.year", "1.4.1980", "1980-04-01", "01.04.1980"),
    ("day.month.year", "12/4/1980", "1980-04-12", "12.04.1980"),
    ("day.month.year", "12.04.", "--04-12", "12.04."),
    ("day.month.year", "04.1980", "1980-04", "04.1980"),
    ("day.month.year", "1980-04-12", "1980-04-12", "12.04.1980"),
    ("month/day/year", "04/12/1980", "1980-04-12", "04/12/1980"),
    ("month/day/year", "4/12", "--04-12", "04/12"),
    ("year-month-day", "1980-04-12", "1980-04-12", "1980-04-12"),
    ("year/month/day", "1980/4/12", "1980-04-12", "1980/04/12"),
    ("year-month-day", "1980", "1980", "1980"),
]


@pytest.mark.parametrize(("style", "cell", "iso", "written"), STYLES)
def test_styles_of_columns(style: str, cell: str, iso: str, written: str) -> None:
    date = date_style(style).read(cell)
    assert date is not None
    assert date.iso() == iso
    assert date_style(style).write(date) == written


@pytest.mark.parametrize("cell", ["31.02.1980", "12.04.62", "soon", "13.13.1980", "1.2.3.4", "."])
def test_a_cell_that_holds_no_date_of_the_style(cell: str) -> None:
    assert date_style("day.month.year").read(cell) is None


@pytest.mark.parametrize(
    ("style", "problem"),
    [
        ("day-mnth-year", "'mnth' is not a part of a date; did you mean 'month'?"),
        ("day-month", "names day, month and year once"),
        ("day.month/year", "names day, month and year once"),
        ("day_month_year", "between day, month and year comes one of"),
        ("day:month:year", "between day, month and year comes one of"),
    ],
)
def test_a_wrong_style_is_refused(style: str, problem: str) -> None:
    with pytest.raises(ValueError, match=r"date|between") as caught:
        date_style(style)
    assert problem in str(caught.value)


@given(
    st.builds(PartialDate, st.integers(0, 9999), st.integers(0, 12), st.integers(0, 31)).filter(
        lambda date: valid(date.year, date.month, date.day) and (date.year or not date.time)
    ),
    st.sampled_from(["day.month.year", "month/day/year", "year-month-day", "day month year"]),
)
def test_each_date_reads_back_as_written(date: PartialDate, style: str) -> None:
    assert parse_iso(date.iso()) == date
    assert parse_iso(date.basic()) == date
    assert date_style(style).read(date_style(style).write(date)) == date
