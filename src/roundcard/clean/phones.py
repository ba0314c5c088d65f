"""The rule for phone numbers (ITU-T E.164 and E.123; the metadata are the library's)."""

from __future__ import annotations

import re
from functools import lru_cache

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

_EXTENSION = re.compile(
    r"\s*(?:;ext=|\b(?:ext(?:ension)?|extn|int|poste|app|dw|wew|tlw|durchwahl|anknytning)\.?"
    r"|[#x]|内線)\s*:?\s*(\d{1,6})\s*$",
    re.IGNORECASE,
)
_LEAD = re.compile(r"^(?:tel|phone|ph|mob|cell|handy|fon|t|m|p)\s*[.:]\s*", re.IGNORECASE)
_TRUNK = re.compile(r"(\+\d{1,3}[ -]?)\(0\)\s*")
_ODD = re.compile(r"[^\d\s+().,/\-\u2010-\u2015\u00a0\uff0b\uff08\uff09\uff0d\u30fc*#]")


def phone_form(text: str, around: Around) -> Verdict:
    """A possible number in international or national form; what is none, or lacks its country or
    area code, stays as it is and is reported."""
    if text.startswith("tel:"):
        return LEFT  # a URI (RFC 3966) is in form
    return _formed(text, around.region, around.phone)


@lru_cache(maxsize=65_536)
def _formed(text: str, region: str, form: str) -> Verdict:
    import phonenumbers  # noqa: PLC0415  # heavy, and only where numbers are cleaned

    said = _LEAD.sub("", text.strip().removeprefix("tel:"))
    extension = ""
    if found := _EXTENSION.search(said):
        said, extension = said[: found.start()].strip(), found[1]
    if _ODD.search(said):
        return Verdict(doubt="it holds more than a number")
    said = _TRUNK.sub(r"\1", said)
    if said.startswith("00") and not said.startswith("000"):
        said = "+" + said[2:]
    plus = said.lstrip("(").startswith(("+", "\uff0b"))
    if not plus and not region:
        return Verdict(doubt="no country is known for it")
    try:
        number = phonenumbers.parse(said, None if plus else region)
    except phonenumbers.NumberParseException:
        return Verdict(doubt="this is no phone number")
    reason = phonenumbers.is_possible_number_with_reason(number)
    if reason != phonenumbers.ValidationResult.IS_POSSIBLE:
        short = phonenumbers.ValidationResult
        told = {
            short.TOO_SHORT: "it is too short for its country",
            short.TOO_LONG: "it is too long for its country",
            short.IS_POSSIBLE_LOCAL_ONLY: "its area code is missing",
            short.INVALID_COUNTRY_CODE: "there is no such country code",
        }
        return Verdict(doubt=told.get(reason, "it is not possible in its country"))
    shape = phonenumbers.PhoneNumberFormat.INTERNATIONAL
    own = phonenumbers.country_code_for_region(region) if region else 0
    if form == "national" and number.country_code == own:
        shape = phonenumbers.PhoneNumberFormat.NATIONAL
    made = phonenumbers.format_number(number, shape).replace("-", " ")
    if extension:
        made += f" ext. {extension}"
    return LEFT if made == text else Verdict(made)


RULES = (
    Rule("phone-form", ("phone",), "possible numbers in one form, others reported and left",
         (("phone", "+44 (0)1632-960001", "+44 1632 960001"),
          ("phone", "0049 30 23125 001", "+49 30 23125001"),
          ("phone", "960001", "960001")), phone_form),
)  # fmt: skip
