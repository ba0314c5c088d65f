"""The nearest spelling of a text in a character set that lacks some of its characters."""

from __future__ import annotations

import unicodedata
from functools import lru_cache

_LETTERS = {
    "ß": "ss", "ẞ": "SS", "æ": "ae", "Æ": "AE", "œ": "oe", "Œ": "OE", "ø": "o", "Ø": "O",
    "ł": "l", "Ł": "L", "đ": "d", "Đ": "D", "ð": "d", "Ð": "D", "þ": "th", "Þ": "TH",
    "ħ": "h", "Ħ": "H", "ı": "i", "ŋ": "n", "Ŋ": "N", "ŧ": "t", "Ŧ": "T", "ĸ": "k", "ſ": "s",
    "ŀ": "l", "Ŀ": "L", "ə": "e", "Ə": "E", "ƒ": "f", "ɓ": "b", "ɗ": "d", "ƙ": "k",
    "\u2018": "'", "\u2019": "'", "\u201a": "'", "\u201b": "'", "\u2032": "'", "\u02bc": "'",
    "\u201c": '"', "\u201d": '"', "\u201e": '"', "\u201f": '"', "\u2033": '"',
    "\u00ab": '"', "\u00bb": '"', "\u2039": "'", "\u203a": "'",
    "\u2010": "-", "\u2011": "-", "\u2012": "-", "\u2013": "-", "\u2014": "-", "\u2015": "-",
    "\u2212": "-", "\u2026": "...", "\u2022": "*", "\u00b7": ".", "\u2044": "/", "\u00d7": "x",
    "\u20ac": "EUR", "\u00a3": "GBP", "\u00a5": "JPY", "\u00a9": "(c)", "\u00ae": "(R)",
    "\u2122": "TM", "\u2116": "No.", "\u00ba": "o", "\u00aa": "a", "\u00b0": "o",
}  # fmt: skip
_DROPPED = frozenset({"So", "Sk", "Cf", "Mn", "Me"})
"""Categories of characters that say nothing which letters could say: symbols, modifiers, marks."""


@lru_cache(maxsize=65_536)
def nearest(text: str, encoding: str) -> str | None:
    """`text` with each character that `encoding` lacks as its nearest letters: ``ō`` as ``o``,
    ``Ł`` as ``L``, ``ß`` as ``ss``; symbols such as emoji are left out.

    None where a letter has none near it, since what would be left is another word.
    """
    if text.isascii():
        return text
    out: list[str] = []
    for char in unicodedata.normalize("NFC", text):
        if writes(char, encoding):
            out.append(char)
            continue
        near = _near(char, encoding)
        if near is None:
            return None
        out.append(near)
    made = "".join(out)
    return made if made == text else " ".join(made.split(" ")) if made.strip() else None


def writes(text: str, encoding: str) -> bool:
    """Whether a character set has all characters of a text."""
    try:
        text.encode(encoding)
    except UnicodeEncodeError:
        return False
    return True


def _near(char: str, encoding: str) -> str | None:
    said = _LETTERS.get(char)
    if said is not None and writes(said, encoding):
        return said
    base, *marks = list(unicodedata.normalize("NFKD", char))
    made = base
    for mark in marks:  # as many marks as there is a letter with
        more = unicodedata.normalize("NFC", made + mark)
        if writes(more, encoding):
            made = more
    if made != char and writes(made, encoding) and (marks or base != char):
        return made
    said = _LETTERS.get(base)
    if said is not None and writes(said, encoding):
        return said
    return "" if unicodedata.category(char) in _DROPPED else None


def in_basic_plane(text: str) -> str | None:
    """A text without the characters beyond the basic multilingual plane (U+10000 and above), and
    what joins them; None where one of them is a letter."""
    if all(ord(char) < 0x10000 for char in text):
        return text
    out = []
    for at, char in enumerate(text):
        if ord(char) < 0x10000:
            beside = (text[at - 1 : at], text[at + 1 : at + 2])
            joins = char in "\u200d\ufe0f\ufe0e\u20e3"
            if not (joins and any(each and ord(each) >= 0x10000 for each in beside)):
                out.append(char)
            continue
        plain = unicodedata.normalize("NFKC", char)
        if all(ord(each) < 0x10000 for each in plain):
            out.append(plain)
        elif unicodedata.category(char) not in _DROPPED:
            return None
    made = "".join(out)
    return made if made.strip() else None
