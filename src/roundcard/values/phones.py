"""Telephone numbers: all that "the same number" means, and the forms of one number.

From the weakest to the strongest notion:

- `roundcard.values.cell_kinds.is_phone`: a text looks like a number at all;
- `number_key`: the last digits, which tell a number however it is written (for finding candidates);
- `roundcard.card.equality.number`: the same characters are dialled, as typed (for folding);
- `same_number`: the same number is reached, where region or the other one supplies the country;
- `in_form`: the one form of a possible number (ITU-T E.164 and E.123; the metadata are the
  library's).
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from typing import NamedTuple

from roundcard.card.contact import Property
from roundcard.card.equality import number
from roundcard.patterns import pattern
from roundcard.values.cell_kinds import pieces_of
from roundcard.values.number_plans import calling_code, doubts, international, keeps_zero

_SAID_EXTENSION = pattern(
    r"(?<!\s)\s*+(?:;ext=|\b(?:ext(?:ension)?|extn|int|poste|app|dw|wew|tlw|durchwahl|anknytning)\.?"
    r"|[#x]|内線)\s*+:?\s*+(\d{1,6})\s*+$",
    re.IGNORECASE,
)
_FEWEST_DIGITS = 6
_SEVERAL = 2
"""Digits of a number that stands beside others in one cell."""
LONGEST_ALONE = 13
"""Characters of a text that holds one number at the most."""
MAY_SEPARATE = pattern(r"[;,|/\n]|\s\w{1,4}\s")
_TAIL, _SHORT, _LONG = 3, 10, 11
"""Last digits of a number that tell neither whether it is possible nor how it is grouped; none
where it has few digits, one more where it has many."""
_LEAD = pattern(
    r"^(?:(?:t[eé]l|t[eé]l[eé]phone|telefon|tel[eé]fono|telefone|telefoon|telefonu|puhelin|phone|ph"
    r"|fon|mobile|mobil|mob|m[oó]vil|cell|cel|celular|cellulare|telem[oó]vel|portable|port|handy"
    r"|natel|gsm|kom|тел|телефон|моб|τηλ|κιν|電話|携帯|电话|手机|전화)\s*[.:：]*\s*"
    r"|[tmp]\s*[.:]+\s*)(?=[+(\d])",
    re.IGNORECASE,
)
"""A word for a number before it."""
_TRUNK = pattern(r"(\+\d{1,3}[ -]?)\(0\)\s*")
_SIMPLE = pattern(r"\+?[0-9][0-9 .-]*|\(0[0-9]+\) ?[0-9 -]+", re.ASCII)
_ODD = pattern(r"[^\d\s+().,/\-\u2010-\u2015\u00a0\uff0b\uff08\uff09\uff0d\u30fc*#]")
NOT_IN_USE = "possible, but not listed as in use"
"""The doubt of a number that a plan has room for and no list has; made-up ones are such."""


_TEL_MORE = pattern(r"tel:[^;]*(?:;ext=[^;]*)?;(?!ext=)", re.IGNORECASE)
_WITH_EXTENSION = pattern(r"(.*?) ext\. (\S+)")
_DIGITS_TELLING = 9
"""Last digits that tell a number."""
_LONGEST_CODE = 3
"""Digits of a country code at the most (ITU-T E.164)."""


class Formed(NamedTuple):
    """What a text is as a number in form."""

    text: str | None = None
    """The form; None where it is in form already, or cannot be put in form."""
    doubt: str = ""
    """What is not sure about it."""


_IN_FORM = Formed()


def in_form(text: str, region: str, form: str = "international") -> Formed:
    """A possible number in ``international`` or ``national`` form; several in one text are each put
    into form, and a ``tel:`` URI (RFC 3966) is in form. `region` is an ISO 3166 code."""
    if text.startswith("tel:") and not text[4:5].isspace():
        return _IN_FORM
    apart = len(text) > LONGEST_ALONE and MAY_SEPARATE.search(text)
    if apart and len(numbers := several(text, region)) > 1:
        return _each(text, numbers, region, form)
    return _formed(text, region, form)


def several(text: str, region: str) -> list[str]:
    """The telephone numbers in a cell that holds more than one; none where it holds less, anything
    else beside them, or where it is one possible number as a whole. `region` is an ISO 3166
    code."""
    pieces = [piece.strip() for piece in pieces_of(text)[0]]
    full = all(sum(char.isdecimal() for char in piece) >= _FEWEST_DIGITS for piece in pieces)
    if len(pieces) < _SEVERAL or not full:
        return []
    return pieces if _formed(text, region, "international").doubt else []


def number_key(text: str, region: str) -> str:
    """What tells a telephone number however it is written: its last digits, without the code of its
    country."""
    said = (in_form(text, region).text or text).partition(" ext")[0]
    digits = "".join([char for char in said if char.isdecimal()])
    if said.startswith("+"):  # as long as it is told without its country, too
        digits = digits[min(len(calling_code(digits)), max(len(digits) - _FEWEST_DIGITS, 0)) :]
    return digits[-_DIGITS_TELLING:] if len(digits) >= _FEWEST_DIGITS else ""


def same_number(one: str, other: str, region: str) -> bool:
    """Whether two texts are one number; where one of them has no country code, `region` or the
    other one supplies it. Their extensions must agree."""
    mine, theirs = _dialled(one, region), _dialled(other, region)
    if mine == theirs:
        return True
    (number1, extension1), (number2, extension2) = mine, theirs
    if extension1 != extension2 or number1.startswith("+") == number2.startswith("+"):
        return False
    long, short = (number1, number2) if number1.startswith("+") else (number2, number1)
    bare = short.lstrip("0")
    lead = len(long) - 1 - len(bare)
    return len(bare) > 6 and long.endswith(bare) and 0 < lead <= _LONGEST_CODE


def _dialled(text: str, region: str) -> tuple[str, str]:
    """The digits of a number, in the international form where that can be told, and its
    extension."""
    formed = in_form(text, region).text or text
    digits, _, extension = number(formed.replace(" ext. ", " x").replace(" ext ", " x")).partition(
        "x"
    )
    return digits, extension


def split_extension(text: str) -> tuple[str, str]:
    """A telephone number and its extension; the extension empty where there is none."""
    found = _WITH_EXTENSION.fullmatch(text)
    return (found[1].strip(), found[2]) if found else (text, "")


def with_extension(main: str, extension: str) -> str:
    """A telephone number with its extension, as contacts hold it."""
    return f"{main} ext. {extension}" if main else f"ext. {extension}"


def uri_says_more(raw: str) -> bool:
    """Whether a ``tel:`` URI holds parameters beside the extension (RFC 3966 section 5.1): without
    its context, a local number is another one."""
    return bool(_TEL_MORE.match(raw))


def says_more(prop: Property) -> bool:
    """Whether a number is read from a ``tel:`` URI that says more than number and extension."""
    return prop.raw is not None and prop.head.name == "tel" and uri_says_more(prop.raw)


def _each(text: str, numbers: list[str], region: str, form: str) -> Formed:
    made, doubt = text, ""
    for one in numbers:
        found = _formed(one, region, form)
        if found.text is None and found.doubt:
            return found
        made = made.replace(one, found.text or one, 1)
        doubt = doubt or found.doubt
    return _IN_FORM if made == text else Formed(made, doubt)


def _formed(text: str, region: str, form: str) -> Formed:
    last = text[-_TAIL:]
    if last.isdecimal() and last.isascii():
        begin = _begun(text[:-_TAIL], region, form)
        if begin is not None:
            start, (one, two, three), doubt = begin
            made = f"{start}{one}{last[0]}{two}{last[1]}{three}{last[2]}"
            return _IN_FORM if made == text else Formed(made, doubt)
    return _in_full(text, region, form)


@lru_cache(maxsize=65_536)
def _begun(text: str, region: str, form: str) -> tuple[str, tuple[str, ...], str] | None:
    """How a number in form begins, what stands before each of its last three digits, and its
    doubt, where all numbers that begin so are put in form alike; None where they are not."""
    if not _SIMPLE.fullmatch(text):
        return None
    said = "+" + text[2:] if text.startswith("00") and not text.startswith("000") else text
    plus = said.lstrip("(").startswith("+")
    digits = "".join([char for char in said if char.isdecimal()])
    length = len(digits) + _TAIL
    if length < _SHORT or not (plus or region):
        return None
    first = length - _TAIL - (length >= _LONG)
    start, marks, doubt = _template(plus, digits[:first], length, region, form)
    if not start:
        return None
    for mark, digit in zip(marks, digits[first:], strict=False):
        start += mark + digit
    return start, marks[-_TAIL:], doubt


@lru_cache(maxsize=65_536)
def _in_full(text: str, region: str, form: str) -> Formed:
    said, extension = text, ""
    if not _SIMPLE.fullmatch(text):
        said = _LEAD.sub("", text.strip())
        if found := _SAID_EXTENSION.search(said):
            said, extension = said[: found.start()].strip(), found[1]
        if _ODD.search(said):
            return Formed(doubt="contains more than a phone number")
        if found := _TRUNK.search(said):
            begins = "".join(char for char in said if char.isdecimal())
            said = _TRUNK.sub(r"\g<1>0" if keeps_zero(begins) else r"\1", said)
    if said.startswith("00") and not said.startswith("000"):
        said = "+" + said[2:]
    plus = said.lstrip("(").startswith(("+", "\uff0b"))
    if not plus and not region:
        return Formed(doubt="no country is known for it")
    digits = "".join([char for char in said if char.isdecimal()])
    if not digits.isascii():
        digits = "".join(str(unicodedata.decimal(char)) for char in digits)
    first = len(digits) - (0 if len(digits) < _SHORT else _TAIL + (len(digits) >= _LONG))
    start, marks, doubt = _template(plus, digits[:first], len(digits), region, form)
    if doubt and not start:
        return Formed(doubt=doubt)
    made = start
    for mark, digit in zip(marks, digits[first:], strict=True):
        made += mark + digit
    if extension:
        made += f" ext. {extension}"
    return _IN_FORM if made == text else Formed(made, doubt)


@lru_cache(maxsize=131_072)
def _template(
    plus: bool, first: str, length: int, region: str, form: str
) -> tuple[str, tuple[str, ...], str]:
    """How a number in form begins (empty where it cannot be put in form), what stands before each
    of its last digits, and the doubt of all numbers like it.

    Whether a number is possible, and how its digits are grouped, is told by its length and its
    first digits, so that numbers of one exchange need the library once.
    """
    tail = length - len(first)
    if form == "international":
        usual = international(first + "0" * tail, region, plus=plus)
        if usual is not None:
            code, _, rest = usual.text[1:].partition(" ")
            return _judged(usual.text, rest, code, plus, length, tail, in_use=usual.in_use)
    import phonenumbers  # heavy, and only where numbers are cleaned

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
    made = phonenumbers.format_number(number, shape)
    national = phonenumbers.national_significant_number(number)
    return _judged(made, national, str(number.country_code), plus, length, tail,
                   in_use=phonenumbers.is_valid_number(number))  # fmt: skip


def _judged(
    made: str, national: str, code: str, plus: bool, length: int, tail: int, *, in_use: bool
) -> tuple[str, tuple[str, ...], str]:  # fmt: skip
    """A number in form as `_template` gives it; none where it may not be the whole number."""
    national = "".join([char for char in national if char.isdecimal()])
    why = doubts(national, code, 0 if plus else length, in_use=in_use)
    return ("", (), why) if why else _cut(made, tail, in_use=in_use)


def _cut(made: str, tail: int, *, in_use: bool) -> tuple[str, tuple[str, ...], str]:
    """A number in form as `_template` gives it, without its last digits."""
    made = made.replace("-", " ")
    marks: list[str] = []
    end = at = len(made)
    while at and len(marks) < tail:
        at -= 1
        if made[at].isdecimal():
            end = at
            while end and not made[end - 1].isdecimal():
                end -= 1
            marks.insert(0, made[end:at])
    return made[:end], tuple(marks), "" if in_use else NOT_IN_USE


def _why(reason: int) -> str:
    import phonenumbers

    told = {
        phonenumbers.ValidationResult.TOO_SHORT: "it is too short for its country",
        phonenumbers.ValidationResult.TOO_LONG: "it is too long for its country",
        phonenumbers.ValidationResult.IS_POSSIBLE_LOCAL_ONLY: "its area code is missing",
        phonenumbers.ValidationResult.INVALID_COUNTRY_CODE: "unknown country code",
    }
    return told.get(reason, "it is not possible in its country")
