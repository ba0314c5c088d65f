"""Numbers by the plans of their countries, held against all that the library can do."""

from __future__ import annotations

import phonenumbers as library
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from roundcard.values import phones
from roundcard.values.number_plans import international

REGIONS = sorted(library.SUPPORTED_REGIONS)
SORTS = list(library.PhoneNumberType.values())


@st.composite
def dialled(draw: st.DrawFn) -> tuple[str, str, bool]:
    """Digits near those of an example number, its country, and whether a plus stands before."""
    region = draw(st.sampled_from(REGIONS))
    example = library.example_number_for_type(region, draw(st.sampled_from(SORTS)))
    example = example or library.example_number(region)
    assert example
    digits = library.national_significant_number(example)
    kept = draw(st.integers(2, len(digits)))
    digits = digits[:kept] + draw(st.text("0123456789", max_size=len(digits) - kept + 1))
    plus = draw(st.booleans())
    lead = draw(st.sampled_from(["", "", "0", "1", "8", "00"]))
    code = str(library.country_code_for_region(region)) if plus else ""
    return code + lead + digits, region, plus


@given(dialled())
def test_what_is_put_in_form_is_what_the_library_makes_of_it(case: tuple[str, str, bool]) -> None:
    digits, region, plus = case
    found = international(digits, region, plus=plus)
    assume(found is not None)
    assert found is not None
    number = library.parse(f"+{digits}" if plus else digits, region)
    assert library.is_possible_number(number)
    shape = library.PhoneNumberFormat.INTERNATIONAL
    assert found.text == library.format_number(number, shape)
    assert found.in_use == library.is_valid_number(number)


@pytest.mark.parametrize(
    ("digits", "region", "plus", "text"),
    [
        ("441632960001", "", True, "+44 1632 960001"),
        ("01632960001", "GB", False, "+44 1632 960001"),
        ("07700900001", "GB", False, "+44 7700 900001"),
        ("493023125001", "GB", True, "+49 30 23125001"),
        ("0612345678", "IT", False, "+39 06 1234 5678"),
        ("12015550123", "", True, "+1 201-555-0123"),
    ],
)
def test_usual_numbers_need_no_library(digits: str, region: str, plus: bool, text: str) -> None:
    found = international(digits, region, plus=plus)
    assert found is not None
    assert found.text == text


@pytest.mark.parametrize(
    ("digits", "region", "plus"),
    [
        ("", "GB", False),
        ("960001", "GB", False),  # an area code is missing
        ("441632960001", "GB", False),  # the calling code without a plus
        ("00491234567", "GB", False),
        ("99912345", "", True),  # no country
        ("80012345678", "", True),  # of no country
        ("0000000000", "GB", False),
        ("1632960001", "", False),
        ("1632960001", "QX", False),
    ],
)
def test_what_is_not_usual_is_left_to_the_library(digits: str, region: str, plus: bool) -> None:
    assert international(digits, region, plus=plus) is None


@given(
    st.sampled_from(
        ["0", "+44", "0044", "(01632) ", "01632 ", "+1", "07", "+39 0", "020 ", "00", ""]
    ),
    st.text("0123456789 -.", max_size=12),
    st.sampled_from(["GB", "DE", "IT", "US", ""]),
    st.sampled_from(["international", "national"]),
)
def test_numbers_that_begin_alike_are_put_in_form_as_each_by_itself(
    begin: str, rest: str, region: str, form: str
) -> None:
    text = begin + rest
    assert phones._formed(text, region, form) == phones._in_full(text, region, form)
