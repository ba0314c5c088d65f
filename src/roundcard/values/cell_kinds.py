"""What one cell is, told from its characters alone: an e-mail address, a number, a date …

No word of any language is looked at here. The kinds say what a cell looks like, and not whether
it is right: an e-mail address need not exist.
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from typing import Literal

from roundcard.patterns import pattern

Kind = Literal[
    "email", "emails", "named email", "url", "phone", "phones", "digits", "date", "worded date",
    "moment", "number", "decimal", "scientific", "uuid", "iban", "coordinates", "data", "picture",
    "post code", "post code or phone", "code", "handle", "words", "mixed", "long",
]  # fmt: skip
"""``digits`` are six to fifteen digits and nothing else; ``moment`` is a date with a time of day;
``code`` is letters and digits without a space; ``words`` holds no digit, ``mixed`` some; ``long``
is a text of sentences."""

LONG = 80
"""Characters from which a text is long."""

_EMAIL = pattern(r"(?:mailto:)?[^\s@<>,;:()]+@[^\s@<>,;:()]+\.[^\s@<>,;:().]{2,}", re.IGNORECASE)
_NAMED_EMAIL = pattern(r"[^@<>]*<[^\s@<>]+@[^\s@<>]+\.\w+>")
_URL = pattern(r"(?:https?|ftp)://\S+|www\.[^\s.]+\.\S+"
               r"|(?:[a-z0-9-]+\.)+[a-z]{2,6}(?:/\S*)?", re.IGNORECASE)  # fmt: skip
_MARKED_URL = pattern(r"(?:https?|ftp)://|www\.", re.IGNORECASE)
_PHONE = pattern(
    r"(?:tel:|[^\W\d_]{1,6}[.:]\s*)?[+(]?[\d(][\d\s().\u2010-\u2015/\-\u00a0\u2060\u200b-\u200f]*\d\)?"
    r"(?:\s*(?:;ext=|ext(?:ension)?\.?|x|#|int\.?|poste|app\.?|dw\.?|wew\.?)\s*\d{1,6})?",
    re.IGNORECASE,
)
_DATE = pattern(
    r"\d{4}[-./]\s?\d{1,2}[-./]\s?\d{1,2}\.?|\d{1,2}[-./]\s?\d{1,2}[-./]\s?(?:\d{4}|\d{2})\.?"
    r"|\d{1,2}[-./]\d{4}|\d{4}-\d{2}|--\d{2}-?\d{2}|\d{1,2}\.\s?\d{1,2}\."
)
_BASIC_DATE = pattern(r"(?:19|20)\d{2}(?:0[1-9]|1[0-2])(?:0[1-9]|[12]\d|3[01])")
_TIME = pattern(r"[T ,]\s?\d{1,2}[:.]\d{2}(?::\d{2}(?:[.,]\d+)?)?\s?(?:[AaPp][Mm]|Z|UTC)?"
                r"\s?(?:[+-]\d{2}:?\d{2})?$")  # fmt: skip
_WORDED_DATE = pattern(
    r"\d{1,2}(?:\.|st|nd|rd|th)?[\s/-](?:de |d')?[^\W\d_]{3,12}[.,]?[\s/-](?:de )?(?:\d{4}|\d{2})"
    r"|[^\W\d_]{3,12}\.? \d{1,2}(?:st|nd|rd|th)?,? \d{4}|\d{4}年\s?\d{1,2}月\s?\d{1,2}日"
    r"|\d{4}년 ?\d{1,2}월 ?\d{1,2}일|[^\W\d_]{2}\d{1,2}年\s?\d{1,2}月\s?\d{1,2}日"
    r"|\d{1,2}\.? [^\W\d_]{3,12}"
)
_DECIMAL = pattern(
    r"(?:[€$£¥]|[A-Z]{3}|kr\.?|R\$)?\s?-?\d{1,3}(?:[ .,'\u00a0]\d{3})*[.,]\d{1,2}"
    r"\s?(?:[€$£¥%]|[A-Z]{3}|kr\.?|zł|Kč|lei|Ft)?"
    r"|(?:[€$£¥]|R\$)\s?\d[\d.,]*|\d+\s?(?:[€$£¥%]|EUR|CHF|kr|zł|Kč|lei|Ft)"
)
_SCIENTIFIC = pattern(r"\d(?:[.,]\d+)?E\+?\d{1,3}", re.IGNORECASE)
_UUID = pattern(r"(?:urn:uuid:)?\{?[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}\}?", re.I)
_IBAN = pattern(r"[A-Z]{2}\d{2}(?: ?[A-Z0-9]{4}){2,7}(?: ?[A-Z0-9]{1,4})?")
_COORDINATES = pattern(r"(?:geo:)?-?\d{1,2}\.\d{3,}\s?[,; ]\s?-?\d{1,3}\.\d{3,}")
_PICTURE = pattern(r"[^\n]{1,120}\.(?:jpe?g|png|gif|bmp|webp|heic|tiff?)", re.IGNORECASE)
_POST_CODE = pattern(
    r"\d{5}-\d{4}|\d{5}-\d{3}|〒\s?\d{3}-?\d{4}|[A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2}|\d{4} ?[A-Z]{2}"
    r"|[A-Z]\d[A-Z] ?\d[A-Z]\d|\d{2}-\d{3}|\d{3} \d{2}|[A-Z]{1,2}-\d{3} ?\d{1,2}"
    r"|[A-Z]\d{2} ?[A-Z0-9]{4}|\d{4}-\d{3}",
    re.IGNORECASE,
)
_EITHER_CODE = pattern(r"\d{3}-\d{4}")
_HANDLE = pattern(r"@\w[\w.]{1,30}|(?:xmpp|sip|sips|im|irc):\S+")
_BETWEEN = pattern(
    r"(?:(?<!\s)\s+)?(?:[;,|\n]|\s/\s|/(?=[+0(\s])|\s(?:und|and|or|oder|et|ou|y|e|o)\s)\s*"
)
_NOISE = dict.fromkeys([*range(0x200B, 0x2010), *range(0x202A, 0x202F), 0x2060, 0xFEFF])


@lru_cache(maxsize=65_536)
def kind_of(text: str) -> Kind:
    """The kind of a cell; white space around it and invisible marks are passed over."""
    text = text.strip()
    if not text.isascii():
        text = unicodedata.normalize("NFKC", text.translate(_NOISE)).strip()
    if len(text) > 2000 or text.startswith("data:"):
        return "data" if " " not in text.strip()[:400] else "long"
    if any(char.isdecimal() for char in text):
        return _with_digits(text)
    return _without_digits(text)


def _without_digits(text: str) -> Kind:
    if "@" in text:
        return _with_at(text)
    if "." in text and not _MARKED_URL.match(text) and _PICTURE.fullmatch(text):
        return "picture"
    if "." in text and _is_url(text):
        return "url"
    return "long" if len(text) > LONG or "\n\n" in text else "words"


def _with_at(text: str) -> Kind:
    if _EMAIL.fullmatch(text):
        return "email"
    if _NAMED_EMAIL.fullmatch(text):
        return "named email"
    pieces = [piece for piece in _BETWEEN.split(text) if piece]
    if len(pieces) > 1 and all(_EMAIL.fullmatch(piece) or _NAMED_EMAIL.fullmatch(piece)
                               for piece in pieces):  # fmt: skip
        return "emails"
    if _is_url(text):
        return "url"
    if _HANDLE.fullmatch(text):
        return "handle"
    return "long" if len(text) > LONG else "mixed"


def _is_url(text: str) -> bool:
    if not _URL.fullmatch(text):
        return False
    return bool(_MARKED_URL.match(text)) or "/" in text or text.islower()


def _with_digits(text: str) -> Kind:
    if text.isdecimal():
        if len(text) == 8 and _BASIC_DATE.fullmatch(text):
            return "date"
        return "digits" if 6 <= len(text) <= 15 else "number"
    if "@" in text:
        return _with_at(text)
    for kind, shape in _SHAPES:
        if shape.fullmatch(text):
            return kind
    if _MARKED_URL.match(text) or ("." in text and text[0].isalpha() and _is_url(text)):
        return "url"
    if found := _TIME.search(text):
        before = text[: found.start()].strip()
        if _DATE.fullmatch(before) or _WORDED_DATE.fullmatch(before):
            return "moment"
    if is_phone(text):
        return "phone"
    if len(text) < 120:
        pieces = [piece for piece in _BETWEEN.split(text) if piece]
        if len(pieces) > 1 and all(is_phone(piece) or _bare(piece) for piece in pieces):
            return "phones"
    if _WORDED_DATE.fullmatch(text):
        return "worded date"
    if not any(char.isspace() for char in text) and len(text) <= 40:
        return "code"
    return "long" if len(text) > LONG and "\n" not in text.strip() else "mixed"


_SHAPES: tuple[tuple[Kind, re.Pattern[str]], ...] = (
    ("date", _DATE),
    ("post code", _POST_CODE),
    ("post code or phone", _EITHER_CODE),
    ("decimal", _DECIMAL),
    ("scientific", _SCIENTIFIC),
    ("coordinates", _COORDINATES),
    ("uuid", _UUID),
    ("iban", _IBAN),
    ("handle", _HANDLE),
    ("picture", _PICTURE),
)


def is_phone(text: str) -> bool:
    """Whether a text looks like a telephone number with something that says so: a plus, brackets,
    a zero that leads, or marks between groups of digits."""
    if not _PHONE.fullmatch(text):
        return False
    digits = sum(char.isdecimal() for char in text)
    if not 6 <= digits <= 19:
        return False
    return any(not char.isdecimal() for char in text) or text.startswith("0")


def _bare(text: str) -> bool:
    return text.isdecimal() and 5 <= len(text) <= 15


def pieces_of(text: str) -> tuple[list[str], str]:
    """The several values in a cell, and what stands between the first two of them."""
    pieces: list[str] = []
    mark, end = "", 0
    for found in _BETWEEN.finditer(text):
        if text[end : found.start()]:
            pieces.append(text[end : found.start()])
            mark = mark or found[0]
        end = found.end()
    pieces.append(text[end:])
    return [piece for piece in pieces if piece.strip()], mark
