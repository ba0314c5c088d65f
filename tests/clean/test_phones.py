"""Phone numbers in form."""

from __future__ import annotations

import phonenumbers
import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.clean.phones import phone_form
from roundcard.clean.rule import Around
from roundcard.values.phones import several

PHONES = [
    ("GB", "01632 960001", "+44 1632 960001"),
    ("GB", "01632-960001", "+44 1632 960001"),
    ("GB", "(01632) 960001", "+44 1632 960001"),
    ("GB", "01632960001", "+44 1632 960001"),
    ("GB", "07700 900123", "+44 7700 900123"),
    ("GB", "+44 (0)1632 960001", "+44 1632 960001"),
    ("GB", "+44(0)1632960001", "+44 1632 960001"),
    ("GB", "0044 1632 960001", "+44 1632 960001"),
    ("GB", "Tel. 01632 960001", "+44 1632 960001"),
    ("FR", "tél 06 39 98 12 34", "+33 6 39 98 12 34"),
    ("ES", "Móvil: 612 345 678", "+34 612 34 56 78"),
    ("GB", "01632 960001 ext. 12", "+44 1632 960001 ext. 12"),
    ("GB", "01632 960001 x12", "+44 1632 960001 ext. 12"),
    ("GB", "01632 960001 #12", "+44 1632 960001 ext. 12"),
    ("GB", "+44 1632 960001", "+44 1632 960001"),
    ("GB", "\uff10\uff11\uff16\uff13\uff12 960001", "+44 1632 960001"),
    ("GB", "+49 30 23125001", "+49 30 23125001"),
    ("GB", "960001 and 960002", "960001 and 960002"),
    ("GB", "01632 960001 / 07700 900123", "+44 1632 960001 / +44 7700 900123"),
    ("GB", "01632 960001; 01632 960002", "+44 1632 960001; +44 1632 960002"),
    ("GB", "01632 960001, ext. 12", "+44 1632 960001 ext. 12"),
    ("GB", "01632 960001/2", "01632 960001/2"),
    ("GB", "m: 07700 900123", "+44 7700 900123"),
    ("GB", "016977 2345", "+44 16977 2345"),
    ("GB", "020 7946 0123", "+44 20 7946 0123"),
    ("GB", "+447700900123", "+44 7700 900123"),
    ("GB", "+44.7700.900123", "+44 7700 900123"),
    ("GB", "+44 7700\u2011900123", "+44 7700 900123"),
    ("GB", "07700 90012", "07700 90012"),
    ("GB", "7700900123", "7700900123"),
    ("GB", "7400123456", "+44 7400 123456"),
    ("GB", "01632 96059", "01632 96059"),
    ("GB", "0000 000000", "0000 000000"),
    ("DE", "23125 077", "23125 077"),
    ("DE", "0049 (0) 30 / 23125-046", "+49 30 23125046"),
    ("DE", "030 / 23125-046", "+49 30 23125046"),
    ("DE", "030 23125046 / 030 23125047", "+49 30 23125046 / +49 30 23125047"),
    ("AU", "5550 0198", "5550 0198"),
    ("CH", "044 0000 37", "044 0000 37"),
    ("NL", "0000 458", "0000 458"),
    ("NL", "+31 000458", "+31 000458"),
    ("IT", "+39 (0)2 0000 0346", "+39 02 0000 0346"),
    ("US", "202 555 0123", "+1 202 555 0123"),
    ("GB", "0800 1111", "+44 800 1111"),
    ("GB", "01632 96000O", "01632 96000O"),
    ("GB", "01632 960001 ext 0", "+44 1632 960001 ext. 0"),
    ("GB", "4.47701E+11", "4.47701E+11"),
    ("GB", "0", "0"),
    ("GB", "ada@x.test", "ada@x.test"),
    ("GB", "ask Bo", "ask Bo"),
    ("GB", "12", "12"),
    ("GB", "01632 960001 960002 960003", "01632 960001 960002 960003"),
    ("DE", "030 23125 001", "+49 30 23125001"),
    ("DE", "030/23125-001", "+49 30 23125001"),
    ("DE", "(030) 23125001", "+49 30 23125001"),
    ("DE", "0171 3920001", "+49 171 3920001"),
    ("DE", "+49 (0) 30 23125001", "+49 30 23125001"),
    ("DE", "0049-30-23125001", "+49 30 23125001"),
    ("DE", "0171-3920001", "+49 171 3920001"),
    ("DE", "030 23125-0 Durchwahl 17", "+49 30 231250 ext. 17"),
    ("DE", "(0 30) 23 12 50 01", "+49 30 23125001"),
    ("AT", "01 234567", "+43 1 234567"),
    ("CH", "044 668 18 00", "+41 44 668 18 00"),
    ("FR", "01 99 00 12 34", "+33 1 99 00 12 34"),
    ("FR", "01.99.00.12.34", "+33 1 99 00 12 34"),
    ("FR", "06 39 98 12 34", "+33 6 39 98 12 34"),
    ("FR", "0033 6 39 98 12 34", "+33 6 39 98 12 34"),
    ("FR", "+33 (0)6 39 98 12 34", "+33 6 39 98 12 34"),
    ("FR", "06 39 98 12", "06 39 98 12"),
    ("BE", "0470 12 34 56", "+32 470 12 34 56"),
    ("ES", "600 123 456", "+34 600 12 34 56"),
    ("PT", "912 345 678", "+351 912 345 678"),
    ("PL", "512 345 678", "+48 512 345 678"),
    ("CZ", "601 123 456", "+420 601 123 456"),
    ("HU", "06 20 123 4567", "+36 20 123 4567"),
    ("DK", "32 12 34 56", "+45 32 12 34 56"),
    ("NO", "406 12 345", "+47 40 61 23 45"),
    ("FI", "041 2345678", "+358 41 2345678"),
    ("IE", "(01) 234 5678", "+353 1 234 5678"),
    ("GR", "21 2345 6789", "+30 21 2345 6789"),
    ("NL", "06-12345678", "+31 6 12345678"),
    ("NL", "020 000 1234", "+31 20 000 1234"),
    ("SE", "08-465 004 12", "+46 8 465 004 12"),
    ("SE", "070-174 06 12", "+46 70 174 06 12"),
    ("US", "(202) 555-0123", "+1 202 555 0123"),
    ("US", "202.555.0123", "+1 202 555 0123"),
    ("US", "1-202-555-0123", "+1 202 555 0123"),
    ("US", "555-0123", "555-0123"),
    ("JP", "03-0000-1234", "+81 3 0000 1234"),
    ("JP", "090-0000-1234", "+81 90 0000 1234"),
    ("JP", "\uff10\uff13\uff0d0000\uff0d1234", "+81 3 0000 1234"),
    ("KR", "010-2000-1234", "+82 10 2000 1234"),
    ("CN", "131 2345 6789", "+86 131 2345 6789"),
    ("IN", "081234 56789", "+91 81234 56789"),
    ("AU", "0412 345 678", "+61 412 345 678"),
    ("NZ", "021 123 4567", "+64 21 123 4567"),
    ("ZA", "071 123 4567", "+27 71 123 4567"),
    ("BR", "(11) 96123-4567", "+55 11 96123 4567"),
    ("MX", "55 1234 5678", "+52 55 1234 5678"),
    ("IT", "02 000 1234", "+39 02 000 1234"),
    ("", "01632 960001", "01632 960001"),
    ("", "+44 1632-960001", "+44 1632 960001"),
    ("", "0044 1632 960001", "+44 1632 960001"),
    ("", "tel:+44-1632-960001", "tel:+44-1632-960001"),
    ("", "", ""),
]


def formed(text: str, region: str, form: str = "international") -> str:
    """A number after the rule."""
    verdict = phone_form(text, Around("phone", region, phone=form))
    return text if verdict.text is None else verdict.text


@pytest.mark.parametrize(("region", "before", "after"), PHONES)
def test_phone_numbers(region: str, before: str, after: str) -> None:
    assert formed(before, region) == after
    assert formed(after, region) == after


def test_phone_numbers_in_national_form() -> None:
    assert formed("+44 1632 960001", "GB", "national") == "01632 960001"
    assert formed("01632-960001", "GB", "national") == "01632 960001"
    assert formed("+49 30 23125001", "GB", "national") == "+49 30 23125001"


REGIONS = sorted(phonenumbers.SUPPORTED_REGIONS)


@given(st.sampled_from(REGIONS), st.integers(0, 4), st.integers(1, 8), st.randoms())
def test_numbers_of_one_exchange_are_formed_as_the_library_forms_each(
    region: str, kind: int, kept: int, chance: object
) -> None:
    example = phonenumbers.example_number_for_type(region, kind)
    if example is None:
        return
    digits = f"{example.country_code}{phonenumbers.national_significant_number(example)}"
    start = digits[: len(str(example.country_code)) + kept]
    made = start + "".join(chance.choice("0123456789") for _ in digits[len(start) :])  # type: ignore[attr-defined]
    number = phonenumbers.parse(f"+{made}", None)
    shape = phonenumbers.PhoneNumberFormat.INTERNATIONAL
    expected = phonenumbers.format_number(number, shape).replace("-", " ")
    verdict = phone_form(f"+{made}", Around("phone"))
    if verdict.text is not None:
        assert verdict.text == expected
    elif not verdict.doubt:
        assert f"+{made}" == expected
    else:
        zero = number.italian_leading_zero  # where no number begins so, it is a slip
        assert zero or not phonenumbers.is_possible_number(number)


@pytest.mark.parametrize(
    ("text", "numbers"),
    [("01632 960001 / 07700 900123", ["01632 960001", "07700 900123"]),
     ("01632 960001, 960002", ["01632 960001", "960002"]),
     ("01632 960001 or 07700 900123", ["01632 960001", "07700 900123"]),
     ("01632 960001 ext. 12", []), ("01632 960001/2", []), ("01632 960001; ask Bo", []),
     ("01632 960001", []), ("", []), ("0049 (0) 30 / 23125-046", [])],
)  # fmt: skip
def test_several_numbers_in_one_cell(text: str, numbers: list[str]) -> None:
    assert several(text, "GB") == numbers


def test_numbers_that_no_plan_lists_are_formed_and_told() -> None:
    assert phone_form("01632-960001", Around("phone", "GB")).doubt == (
        "possible, but not listed as in use"
    )
    assert phone_form("020 7946 0018", Around("phone", "GB")) == ("+44 20 7946 0018", "")
