"""Text for comparison by people: without letter case, accents and invisible marks."""

from __future__ import annotations

import hashlib
import re
import unicodedata
from collections.abc import Iterable
from functools import lru_cache

_KEEPS_MARKS = re.compile(
    r"[\u0900-\u0dff\u0e00-\u0fff\u3040-\u30ff]"  # Indic, Thai, Lao, Tibetan, kana
)
"""Scripts in which a combining mark is part of the letter and no accent."""
_SPELLED = str.maketrans(
    {"ø": "o", "đ": "d", "ł": "l", "ı": "i", "æ": "ae", "œ": "oe", "þ": "th", "ð": "d", "ħ": "h",
     "ё": "е", "ґ": "г", "ى": "ي", "أ": "ا", "إ": "ا", "آ": "ا", "ة": "ه", "ک": "ك", "ی": "ي"}
)  # fmt: skip


_ALONE = "\u02ff"
"""Up to here each letter is folded by itself: what is put onto the one before comes behind."""


def bare(text: str) -> str:
    """`text` without letter case and accents, in NFKC; letters with a stroke as plain ones."""
    if text.isascii():
        return text.lower()
    if max(text) <= _ALONE:
        return text.translate(_BARE_LETTERS)
    return _bare(text)


@lru_cache(maxsize=65_536)
def _bare(text: str) -> str:
    text = text.casefold()
    text = unicodedata.normalize("NFKC", text).casefold().translate(_SPELLED)
    if _KEEPS_MARKS.search(text):
        return unicodedata.normalize("NFC", text)
    parts = unicodedata.normalize("NFD", text)
    plain = "".join(char for char in parts if not unicodedata.combining(char))
    return unicodedata.normalize("NFC", plain).translate(_SPELLED)


class _Letters(dict[int, str]):
    """What is left of each letter, learnt when it is first met."""

    def __missing__(self, letter: int) -> str:
        found = self[letter] = _bare(chr(letter))
        return found


_BARE_LETTERS = _Letters()


def loosely(text: str) -> str:
    """`text` as conditions compare it: `bare`, with runs of white space as one space."""
    return " ".join(bare(text).split())


def fingerprint(texts: Iterable[str], digits: int = 8) -> str:
    """So many hexadecimal digits that tell whether some texts are what they were."""
    octets = "\x1f".join(texts).encode("utf-8", "surrogatepass")
    return hashlib.sha256(octets).hexdigest()[:digits]
