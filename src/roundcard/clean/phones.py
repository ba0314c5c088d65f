"""The rule for phone numbers (ITU-T E.164 and E.123; the metadata are the library's)."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from functools import lru_cache

from roundcard.card.contact import Contact, Property
from roundcard.card.head import with_params
from roundcard.clean.rule import (
    LEFT,
    Around,
    Reshaped,
    Reshaping,
    Rule,
    Verdict,
    marked,
    with_names,
)
from roundcard.values.kinds import pieces_of

_EXTENSION = re.compile(
    r"\s*(?:;ext=|\b(?:ext(?:ension)?|extn|int|poste|app|dw|wew|tlw|durchwahl|anknytning)\.?"
    r"|[#x]|内線)\s*:?\s*(\d{1,6})\s*$",
    re.IGNORECASE,
)
_FEWEST_DIGITS = 6
"""Digits of a number that stands beside others in one cell."""
_LONGEST_ALONE = 13
"""Characters of a text that holds one number at the most."""
_MAY_PART = re.compile(r"[;,|/\n]|\s\w{1,4}\s")
_TAIL, _SHORT, _LONG = 3, 10, 11
"""Last digits of a number that tell neither whether it is possible nor how it is grouped; none
where it has few digits, one more where it has many."""
_LEAD = re.compile(r"^(?:tel|phone|ph|mob|cell|handy|fon|t|m|p)\s*[.:]\s*", re.IGNORECASE)
_TRUNK = re.compile(r"(\+\d{1,3}[ -]?)\(0\)\s*")
_SIMPLE = re.compile(r"\+?[0-9][0-9 .-]*|\(0[0-9]+\) ?[0-9 -]+", re.ASCII)
_ODD = re.compile(r"[^\d\s+().,/\-\u2010-\u2015\u00a0\uff0b\uff08\uff09\uff0d\u30fc*#]")


def phone_form(text: str, around: Around) -> Verdict:
    """A possible number in international or national form; what is none, or lacks its country or
    area code, stays as it is and is reported. Several in one cell are each put into form."""
    if text.startswith("tel:"):
        return LEFT  # a URI (RFC 3966) is in form
    apart = len(text) > _LONGEST_ALONE and _MAY_PART.search(text)
    if apart and len(numbers := several(text)) > 1:
        return _each(text, numbers, around)
    return _formed(text, around.region, around.phone)


def several(text: str) -> list[str]:
    """The telephone numbers in a cell that holds more than one; none where it holds less, or
    anything else beside them."""
    pieces = [piece.strip() for piece in pieces_of(text)[0]]
    full = all(sum(char.isdecimal() for char in piece) >= _FEWEST_DIGITS for piece in pieces)
    return pieces if len(pieces) > 1 and full else []


def _each(text: str, numbers: list[str], around: Around) -> Verdict:
    made, doubt = text, ""
    for number in numbers:
        verdict = _formed(number, around.region, around.phone)
        if verdict.text is None and verdict.doubt:
            return verdict
        made = made.replace(number, verdict.text or number, 1)
        doubt = doubt or verdict.doubt
    return LEFT if made == text else Verdict(made, doubt)


def phones_apart(contact: Contact, _: Around) -> Iterator[Reshaped]:
    """Each of several numbers in one value as a value of its own."""
    for at, prop in enumerate(contact.properties):
        if prop.head.name != "tel" or len(prop.text) <= _LONGEST_ALONE:
            continue
        text = prop.text
        numbers = several(text) if _MAY_PART.search(text) else []
        if len(numbers) < 2:
            continue
        origin = marked(prop.origin_of(0))
        first = prop.replaced(numbers[0], origin)
        later = with_params(prop.head, pref=None)
        others = (Property(later, number, origin) for number in numbers[1:])
        yield Reshaped(at, (first, *others), "phone", text, " · ".join(numbers))


@lru_cache(maxsize=65_536)
def _formed(text: str, region: str, form: str) -> Verdict:
    said, extension = text, ""
    if not _SIMPLE.fullmatch(text):
        said = _LEAD.sub("", text.strip())
        if found := _EXTENSION.search(said):
            said, extension = said[: found.start()].strip(), found[1]
        if _ODD.search(said):
            return Verdict(doubt="contains more than a phone number")
        said = _TRUNK.sub(r"\1", said)
    if said.startswith("00") and not said.startswith("000"):
        said = "+" + said[2:]
    plus = said.lstrip("(").startswith(("+", "\uff0b"))
    if not plus and not region:
        return Verdict(doubt="no country is known for it")
    digits = "".join([char for char in said if char.isdecimal()])
    if not digits.isascii():
        digits = "".join(str(unicodedata.decimal(char)) for char in digits)
    first = len(digits) - (0 if len(digits) < _SHORT else _TAIL + (len(digits) >= _LONG))
    start, marks, doubt = _template(plus, digits[:first], len(digits), region, form)
    if doubt and not start:
        return Verdict(doubt=doubt)
    made = start
    for mark, digit in zip(marks, digits[first:], strict=True):
        made += mark + digit
    if extension:
        made += f" ext. {extension}"
    return LEFT if made == text else Verdict(made, doubt)


@lru_cache(maxsize=131_072)
def _template(
    plus: bool, first: str, length: int, region: str, form: str
) -> tuple[str, tuple[str, ...], str]:
    """How a number in form begins (empty where it cannot be put in form), what stands before each
    of its last digits, and the doubt of all numbers like it.

    Whether a number is possible, and how its digits are grouped, is told by its length and its
    first digits, so that numbers of one exchange need the library once.
    """
    import phonenumbers  # noqa: PLC0415  # heavy, and only where numbers are cleaned

    tail = length - len(first)
    for digit in "01" if tail else "0":
        dialled = first + digit * tail
        try:
            number = phonenumbers.parse(f"+{dialled}" if plus else dialled, region or None)
        except phonenumbers.NumberParseException:
            return "", (), "not a phone number"
        reason = phonenumbers.is_possible_number_with_reason(number)
        if reason == phonenumbers.ValidationResult.IS_POSSIBLE:
            break
    else:
        return "", (), _why(reason)
    shape = phonenumbers.PhoneNumberFormat.INTERNATIONAL
    own = phonenumbers.country_code_for_region(region) if region else 0
    if form == "national" and number.country_code == own:
        shape = phonenumbers.PhoneNumberFormat.NATIONAL
    made = phonenumbers.format_number(number, shape).replace("-", " ")
    marks: list[str] = []
    end = len(made)
    for at in range(len(made) - 1, -1, -1):
        if len(marks) == tail:
            break
        if made[at].isdecimal():
            before = re.search(r"\D*$", made[:at])
            marks.insert(0, before[0] if before else "")
            end = at - len(marks[0])
    used = phonenumbers.is_valid_number(number)
    return made[:end], tuple(marks), "" if used else "possible, but not listed as in use"


def _why(reason: int) -> str:
    import phonenumbers  # noqa: PLC0415

    told = {
        phonenumbers.ValidationResult.TOO_SHORT: "it is too short for its country",
        phonenumbers.ValidationResult.TOO_LONG: "it is too long for its country",
        phonenumbers.ValidationResult.IS_POSSIBLE_LOCAL_ONLY: "its area code is missing",
        phonenumbers.ValidationResult.INVALID_COUNTRY_CODE: "unknown country code",
    }
    return told.get(reason, "it is not possible in its country")


RULES = (
    Rule(
        "phone-form",
        ("phone",),
        "possible numbers in one form, others reported and left",
        (
            ("phone", "+44 (0)1632-960001", "+44 1632 960001"),
            ("phone", "0049 30 23125 001", "+49 30 23125001"),
            ("phone", "960001", "960001"),
        ),
        phone_form,
    ),
)
APART = Reshaping(
    "phone-apart", ("phone",), "several numbers in one value apart",
    (("phone", "01632 960001 / 07700 900001", "01632 960001 · 07700 900001"),
     ("phone", "01632 960001/2", "01632 960001/2")),
    phones_apart, with_names("tel"), grows=True,
)  # fmt: skip
