"""Names of other scripts in Latin letters: for comparison, never for display.

Cyrillic and Greek letter by letter, as most passports do; Hangul by its parts (Unicode 15, section
3.12) in the revised romanisation of Korean; kana by their syllables. Han characters have no letters
of their own: only usual Chinese characters and usual Japanese names are known, the latter as whole
words.
"""

from __future__ import annotations

import re
import tomllib
import unicodedata
from functools import cache, lru_cache
from importlib import resources

_LETTERS = str.maketrans(
    {"а": "a", "б": "b", "в": "v", "г": "g", "д": "d", "е": "e", "ж": "zh", "з": "z", "и": "i",
     "й": "i", "к": "k", "л": "l", "м": "m", "н": "n", "о": "o", "п": "p", "р": "r", "с": "s",
     "т": "t", "у": "u", "ф": "f", "х": "kh", "ц": "ts", "ч": "ch", "ш": "sh", "щ": "shch",
     "ъ": "", "ы": "y", "ь": "", "э": "e", "ю": "yu", "я": "ya", "і": "i", "ї": "i", "є": "ye",
     "ў": "u", "ђ": "dj", "ј": "j", "љ": "lj", "њ": "nj", "ћ": "c", "џ": "dz", "ѓ": "g", "ќ": "k",
     "ѕ": "dz",
     "α": "a", "β": "v", "γ": "g", "δ": "d", "ε": "e", "ζ": "z", "η": "i", "θ": "th", "ι": "i",
     "κ": "k", "λ": "l", "μ": "m", "ν": "n", "ξ": "x", "ο": "o", "π": "p", "ρ": "r", "σ": "s",
     "ς": "s", "τ": "t", "υ": "y", "φ": "f", "χ": "ch", "ψ": "ps", "ω": "o",
     "ა": "a", "ბ": "b", "გ": "g", "დ": "d", "ე": "e", "ვ": "v", "ზ": "z", "თ": "t", "ი": "i",
     "კ": "k", "ლ": "l", "მ": "m", "ნ": "n", "ო": "o", "პ": "p", "ჟ": "zh", "რ": "r", "ს": "s",
     "ტ": "t", "უ": "u", "ფ": "p", "ქ": "k", "ღ": "gh", "ყ": "q", "შ": "sh", "ჩ": "ch",
     "ც": "ts", "ძ": "dz", "წ": "ts", "ჭ": "ch", "ხ": "kh", "ჯ": "j", "ჰ": "h"}
)  # fmt: skip
_GREEK = (("ου", "ou"), ("αυ", "av"), ("ευ", "ev"), ("γγ", "ng"), ("γκ", "gk"), ("μπ", "b"),
          ("ντ", "nt"))  # fmt: skip
_LEADS_SAID = "g kk n d tt r m b pp s ss - j jj ch k t p h"
_LEADS = _LEADS_SAID.replace("-", "").split(" ")
_VOWELS_SAID = "a ae ya yae eo e yeo ye o wa wae oe yo u wo we wi yu eu ui i"
_VOWELS = _VOWELS_SAID.replace("-", "").split(" ")
_TAILS_SAID = "- k k k n n n t l k m l l l p l m p p t t ng t t k t p t"
_TAILS = _TAILS_SAID.replace("-", "").split(" ")
_HANGUL, _SYLLABLES = 0xAC00, 11_172
_KANA = re.compile(r"[\u3041-\u3096\u30a1-\u30fa]")
_ANY = re.compile(r"[\u0370-\u052f\u10d0-\u10ff\u3041-\u30fa\u3400-\u9fff\uac00-\ud7a3]")


@lru_cache(maxsize=16_384)
def latin(text: str) -> str:
    """A folded text with what can be said in Latin letters said so; the rest as it is."""
    if text.isascii() or not _ANY.search(text):
        return text
    if said := _japanese().get(text):
        return said
    for two, said in _GREEK:
        text = text.replace(two, said)
    text = text.translate(_LETTERS)
    return "".join(map(_one, text)) if not text.isascii() else text


@cache
def _han() -> dict[str, str]:
    told = tomllib.loads((resources.files(__package__) / "han.toml").read_text("utf-8"))
    return dict(zip(told["han"].split(), told["han_said"].split(), strict=True))


@cache
def _japanese() -> dict[str, str]:
    told = tomllib.loads((resources.files(__package__) / "japanese.toml").read_text("utf-8"))
    words = [*told["given"].split(), *told["family"].split()]
    return dict(zip(words[::2], words[1::2], strict=True))


def _one(char: str) -> str:
    syllable = ord(char) - _HANGUL
    if 0 <= syllable < _SYLLABLES:
        lead, rest = divmod(syllable, 588)
        return _LEADS[lead] + _VOWELS[rest // 28] + _TAILS[rest % 28]
    if said := _han().get(char):
        return said
    if _KANA.match(char):  # HIRAGANA LETTER KA
        said = unicodedata.name(char).rpartition(" ")[2].lower()
        return {"si": "shi", "ti": "chi", "tu": "tsu", "hu": "fu", "zi": "ji"}.get(said, said)
    return char


_SPELLINGS = (("shch", "s"), ("tsch", "h"), ("sch", "s"), ("sh", "s"), ("zh", "z"), ("tch", "h"),
              ("ch", "h"), ("kh", "h"), ("gh", "g"), ("ph", "f"), ("th", "t"), ("ck", "k"),
              ("cz", "c"), ("ts", "c"), ("tz", "c"), ("dj", "j"), ("eo", "o"), ("oo", "u"),
              ("ou", "u"), ("ee", "i"), ("w", "v"), ("q", "k"), ("x", "ks"), ("j", "i"), ("y", "i"),
              ("ie", "i"), ("io", "e"), ("ae", "a"), ("oe", "o"), ("ue", "u"))  # fmt: skip
_KOREAN = {
    "kim": "gim", "lee": "i", "yi": "i", "rhee": "i", "ri": "i", "park": "bak", "pak": "bak",
    "choi": "choe", "jung": "jeong", "chung": "jeong", "kang": "gang", "cho": "jo", "yoon": "yun",
    "chang": "jang", "lim": "im", "rim": "im", "oh": "o", "suh": "seo", "shin": "sin",
    "kwon": "gwon", "moon": "mun", "pae": "bae", "ahn": "an", "yoo": "yu", "ryu": "yu", "ko": "go",
    "paik": "baek", "hur": "heo", "shim": "sim", "noh": "no", "roh": "no", "joo": "ju",
    "koo": "gu", "woo": "u", "jeon": "jeon", "chun": "jeon", "son": "son", "sohn": "son",
}  # fmt: skip
"""Usual spellings of Korean family names, and what the revised romanisation makes of them."""


@lru_cache(maxsize=16_384)
def spelling(word: str) -> str:
    """What is common to the usual spellings of one name in Latin letters."""
    for long, short in _SPELLINGS:
        if long in word:
            word = word.replace(long, short)
    out = word[:1]
    for char in word[1:]:
        if char != out[-1] and char != "h":
            out += char
    return out


def korean(family: str) -> str:
    """A family name as the revised romanisation of Korean has it, where it is a usual spelling."""
    return _KOREAN.get(family, family)
