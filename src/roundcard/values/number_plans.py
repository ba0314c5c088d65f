"""Telephone numbers by the numbering plans of their countries (ITU-T E.164).

The plans are those that the library of telephone numbers holds; read straight from them, a usual
number is put in form in a fifth of the time that the library takes for all it can do. What is not
usual is left to the library.
"""

from __future__ import annotations

import re
from functools import cache
from typing import Any, NamedTuple

_LONGEST_CODE = 3
_OPEN = 2
"""Where the lengths of a plan's numbers differ by more, each area has its own."""
_LONG = 9
"""Digits of a number that has its area code, where each area has its own length."""
_RANGE = 3
"""First digits of a number by which its range is told."""
_FILLS = ("123456789", "2", "555", "70", "0")
"""What is tried behind the first digits."""
_NOT_A_COUNTRY = "001"
"""The library's name for calling codes of no country."""
_SORTS = ("premium_rate", "toll_free", "shared_cost", "voip", "personal_number", "pager", "uan",
          "voicemail", "fixed_line", "mobile")  # fmt: skip


class International(NamedTuple):
    """A possible number in international form (ITU-T E.123)."""

    text: str
    in_use: bool
    """Whether the plan lists numbers like it."""


def keeps_zero(digits: str) -> bool:
    """Whether numbers of a calling code, with which the digits begin, have a zero of their own in
    front, which is dialled from abroad as well."""
    code = calling_code(digits)
    main = _regions(code)[0] if code else _NOT_A_COUNTRY
    return main != _NOT_A_COUNTRY and _plan(main).zero


def region_of_number(text: str) -> str:
    """The country that a number in international form speaks of, the main one of its calling
    code; empty where it tells none."""
    digits = "".join(char for char in text if char.isdecimal())
    if not text.lstrip().startswith(("+", "(+", "00", "tel:+")):
        return ""
    code = calling_code(digits.removeprefix("00"))
    main = _regions(code)[0] if code else _NOT_A_COUNTRY
    return "" if main == _NOT_A_COUNTRY else main


def doubts(national: str, code: str, dialled: int, *, in_use: bool) -> str:
    """Why the significant digits of a number may not be the whole of it; empty where they are.

    `dialled` is how many digits were typed in the country; 0 where the calling code stood before
    them.
    """
    main = _regions(code)[0] if code in _codes() else _NOT_A_COUNTRY
    if main == _NOT_A_COUNTRY or (in_use and not dialled):
        return ""
    plan = _plan(main)
    if national.startswith("0") and not (in_use or plan.zero):
        return "it is not possible in its country"
    whole = plan.whole(national)
    if dialled == len(national) and plan.trunk and not (whole and in_use):
        return "its area code is missing"
    return "" if not dialled or in_use or whole else "it is too short for its area"


def international(digits: str, region: str, *, plus: bool) -> International | None:
    """The international form of a usual number; None for what only the library can tell.

    `digits` are ASCII, and begin with a calling code where `plus` stood before them; otherwise
    they are as dialled in the country `region` (ISO 3166).
    """
    code = calling_code(digits) if plus else _code_of(region)
    if not code or (not plus and digits.startswith(code)):
        return None
    main, *others = _regions(code)
    if main == _NOT_A_COUNTRY:
        return None
    plan = _plan(main)
    own = plan if plus else _plan(region)
    national = own.national(digits[len(code) if plus else 0 :], dialled=not plus)
    if not national or len(national) not in plan.lengths:
        return None
    return International(f"+{code} {plan.grouped(national)}", _in_use(national, (main, *others)))


def mobile(digits: str) -> bool:
    """Whether an international number, as its digits, stands in a range of mobile numbers alone;
    that the plan does not list the very number as in use does not matter."""
    code = calling_code(digits)
    national = digits[len(code) :]
    return bool(code) and _mobile_range(code, national[:_RANGE], len(national))


@cache
def _mobile_range(code: str, lead: str, length: int) -> bool:
    main = _regions(code)[0]
    if main == _NOT_A_COUNTRY:
        return False
    plan = _plan(main)
    for known in range(len(lead), 1, -1):
        tried = [lead[:known] + (fill * length)[: length - known] for fill in _FILLS]
        is_mobile = any(map(plan.is_mobile, tried))
        if is_mobile or any(map(plan.is_fixed, tried)):
            return is_mobile and not any(map(plan.is_fixed, tried))
    return False


class _Plan:
    """The numbering plan of one country."""

    def __init__(self, metadata: Any) -> None:
        general = metadata.general_desc
        self.trunk = (metadata.national_prefix or "1") != "1"
        """Whether something is dialled in front within the country; a 1 mostly is not."""
        fixed, mobile = metadata.fixed_line, metadata.mobile
        self.zero = bool(fixed and (fixed.example_number or "").startswith("0"))
        self._fixed = sorted(fixed.possible_length) if fixed else [0]
        self._usual = {self._fixed[-1], *(mobile.possible_length if mobile else ())}
        self.lengths = frozenset(general.possible_length)
        self._viable = re.compile(general.national_number_pattern or r"(?!)")
        self._sorts = [
            re.compile((each and each.national_number_pattern) or r"(?!)")
            for each in (fixed, mobile)
        ]
        self._trunk = re.compile(metadata.national_prefix_for_parsing or r"(?!)")
        self._transforms = bool(metadata.national_prefix_transform_rule)
        self._abroad = re.compile(metadata.international_prefix or r"(?!)")
        self.leads = re.compile(metadata.leading_digits) if metadata.leading_digits else None
        self._formats: list[tuple[re.Pattern[str], re.Pattern[str], str]] = [
            (re.compile((each.leading_digits_pattern or [""])[-1]), re.compile(each.pattern),
             each.format)
            for each in metadata.intl_number_format or metadata.number_format
        ]  # fmt: skip
        sorts = [desc for sort in _SORTS if (desc := getattr(metadata, sort)) is not None
                 and desc.national_number_pattern]  # fmt: skip
        self._used = {
            length: re.compile("|".join([
                f"(?:{desc.national_number_pattern})" for desc in sorts
                if not desc.possible_length or length in desc.possible_length
            ]) or r"(?!)")
            for length in self.lengths
        }  # fmt: skip

    def national(self, digits: str, *, dialled: bool) -> str:
        """The significant digits, without what is dialled before them in the country; empty where
        it is not plain which these are."""
        if dialled and self._abroad.match(digits):
            return ""
        found = self._trunk.match(digits)
        if found is not None:
            if self._transforms:
                return ""
            rest = digits[found.end() :]
            if not (self._viable.fullmatch(digits) and not self._viable.fullmatch(rest)):
                digits = rest
        return digits if len(digits) in self.lengths and digits.strip("0") else ""

    def whole(self, national: str) -> bool:
        """Whether a number has as many digits as those with their area code."""
        if self._fixed[-1] - self._fixed[0] > _OPEN:
            return len(national) >= _LONG
        return len(national) in self._usual

    def grouped(self, national: str) -> str:
        """The digits in the groups in which they are written."""
        for leads, pattern, written in self._formats:
            if leads.match(national) and pattern.fullmatch(national):
                return pattern.sub(written, national)
        return national

    def is_fixed(self, national: str) -> bool:
        """Whether it is a number of a house or an office."""
        return bool(self._sorts[0].fullmatch(national))

    def is_mobile(self, national: str) -> bool:
        """Whether it is a mobile number."""
        return bool(self._sorts[1].fullmatch(national))

    def uses(self, national: str) -> bool:
        """Whether the plan lists numbers like it."""
        used = self._used.get(len(national))
        return bool(used and self._viable.fullmatch(national) and used.fullmatch(national))


def _in_use(national: str, regions: tuple[str, ...]) -> bool:
    """Whether a plan among those of countries that share a calling code lists numbers like it."""
    for region in regions:
        plan = _plan(region)
        if plan.leads is not None and plan.leads.match(national):
            return plan.uses(national)
        if plan.leads is None and plan.uses(national):
            return True
    return False


@cache
def _plan(region: str) -> _Plan:
    from phonenumbers import PhoneMetadata  # heavy, and only where numbers are cleaned

    return _Plan(PhoneMetadata.metadata_for_region(region))


@cache
def _codes() -> dict[str, tuple[str, ...]]:
    from phonenumbers import COUNTRY_CODE_TO_REGION_CODE

    return {str(code): regions for code, regions in COUNTRY_CODE_TO_REGION_CODE.items()}


def calling_code(digits: str) -> str:
    """The calling code with which a number begins; empty where there is none."""
    codes = _codes()
    begins = (digits[:length] for length in range(1, _LONGEST_CODE + 1))
    return next((code for code in begins if code in codes), "")


@cache
def _code_of(region: str) -> str:
    return next((code for code, regions in _codes().items()
                 if region in regions and region != _NOT_A_COUNTRY), "")  # fmt: skip


def _regions(code: str) -> tuple[str, ...]:
    """The countries of a calling code, the one whose plan says how numbers are written first."""
    return _codes()[code]
