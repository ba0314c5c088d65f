"""Which letters the languages of the world write, and which character sets they were saved in.

What `roundcard.formats.charset` weighs its guesses with. Of a language in Latin script only the
letters beyond a to z stand here, in lower case; of another script, all of its letters.
"""

from __future__ import annotations

import re
from typing import NamedTuple


class Alphabet(NamedTuple):
    """The letters of one language or of a few that are written alike."""

    letters: frozenset[str]
    latin: bool
    rarity: float
    """How much less often it is met than the most usual ones, as a natural logarithm."""
    never: re.Pattern[str] | None = None
    """Where its letters never stand in a word (in lower case)."""


def _latin(letters: str, rarity: float = 0.0, never: str = "") -> Alphabet:
    return Alphabet(frozenset(letters), True, rarity, re.compile(never) if never else None)


def _script(first: str, last: str, more: str = "", rarity: float = 0.0) -> Alphabet:
    letters = frozenset(map(chr, range(ord(first), ord(last) + 1)))
    return Alphabet(letters | frozenset(more), False, rarity)


_WEST = {
    "German": _latin("äöüß"),
    "French": _latin("éèêëàâçîïôûùœ"),
    "Spanish": _latin("áéíóúñü"),
    "Portuguese": _latin("áéíóúãõâêôçà", never="õ(?!e)|ã(?![oe]|s?$)"),
    "Italian": _latin("àèéìòù", 0.3),
    "Swedish, Danish, Norwegian": _latin("åäöæøé"),
    "Dutch": _latin("ëïéèöüó", 0.5),
    "Catalan": _latin("àçèéíïòóúü", 1.0),
    "Icelandic, Faroese": _latin("áðéíóúýþæöø", 1.5, never="(?<=.)þ|^ð"),
    "Irish": _latin("áéíóú", 0.5),
}
_CENTRE = {
    "German": _latin("äöüß", 0.2),
    "Polish": _latin("ąćęłńóśźż"),
    "Czech": _latin("áčďéěíňóřšťúůýž"),
    "Slovak": _latin("áäčďéíĺľňóôŕšťúýž", 0.3),
    "Hungarian": _latin("áéíóöőúüű"),
    "Romanian": _latin("ăâîşţ", 0.3),
    "Croatian, Slovene": _latin("čćđšž"),
    "French": _latin("éâçëîô", 1.0),
}
_TURKISH = {
    "Turkish": _latin("çğıöşüâîû", 0.3),
    "German": _latin("äöüß", 0.5),
    "French": _latin("éèêëàâçîïôûùœ", 0.5),
}
_BALTIC = {
    "Latvian": _latin("āčēģīķļņšūž", 0.5),
    "Lithuanian": _latin("ąčęėįšųūž", 0.5),
    "Estonian": _latin("äöõüšž", 0.5),
    "Polish": _latin("ąćęłńóśźż", 1.0),
}
_CYRILLIC = {
    "Russian, Bulgarian": _script("а", "я", "ё"),
    "Ukrainian, Belarusian": _script("а", "я", "іїєґўё", 0.3),
    "Serbian, Macedonian": _script("а", "я", "ђјљњћџѓќѕ", 0.6),
}
_GREEK = {"Greek": _script("ά", "ώ", "ΐΰϊϋ")}
_HEBREW = {"Hebrew": _script("א", "ת")}
_ARABIC = {"Arabic": _script("ء", "ي", "پچژگک\u0640\u064b\u064c\u064d\u064e\u064f\u0650\u0651")}
_VIETNAMESE = {"Vietnamese": _latin("ăâđêôơưàáãèéìíòóùúýñ\u0300\u0301\u0303\u0309\u0323", 1.0)}
_CELTIC = {"Welsh, Irish": _latin("âêîôûŵŷáéíóú", 2.0)}
_MALTESE = {"Maltese, Esperanto": _latin("ċġħżĉĝĥĵŝŭàèìòù", 2.0)}
_SAMI = {"Sami": _latin("áčđŋšŧžåäöøæ", 2.0)}

SINGLE: tuple[tuple[str, float, dict[str, Alphabet]], ...] = (
    ("windows-1252", 0.0, _WEST),
    ("windows-1250", 1.2, _CENTRE),
    ("windows-1251", 0.5, _CYRILLIC),
    ("windows-1253", 0.5, _GREEK),
    ("windows-1254", 0.8, _TURKISH),
    ("windows-1255", 0.5, _HEBREW),
    ("windows-1256", 0.5, _ARABIC),
    ("windows-1257", 0.8, _BALTIC),
    ("windows-1258", 2.0, _VIETNAMESE),
    ("iso-8859-1", 0.3, _WEST),
    ("iso-8859-15", 0.6, _WEST),
    ("iso-8859-2", 1.8, _CENTRE),
    ("iso-8859-5", 1.5, _CYRILLIC),
    ("iso-8859-7", 1.0, _GREEK),
    ("iso-8859-8", 1.0, _HEBREW),
    ("iso-8859-6", 1.0, _ARABIC),
    ("iso-8859-9", 1.2, _TURKISH),
    ("iso-8859-4", 2.5, _BALTIC),
    ("iso-8859-13", 1.5, _BALTIC),
    ("iso-8859-16", 2.5, {"Romanian": _latin("ăâîșț", 0.3)}),
    ("iso-8859-3", 2.5, _MALTESE),
    ("iso-8859-10", 2.5, _SAMI),
    ("iso-8859-14", 2.5, _CELTIC),
    ("koi8-r", 1.5, _CYRILLIC),
    ("cp866", 1.5, _CYRILLIC),
    ("cp850", 1.0, _WEST),
    ("cp437", 1.5, _WEST),
    ("cp852", 2.0, _CENTRE),
    ("mac-roman", 1.0, _WEST),
)
"""Character sets of one octet a character: how much less usual, and what is written in them."""

MULTI: tuple[tuple[str, float, str, tuple[int, int]], ...] = (
    ("shift_jis", 0.5, "euc_jp", (0xB0, 0xCF)),
    ("euc_jp", 1.5, "euc_jp", (0xB0, 0xCF)),
    ("euc_kr", 0.5, "euc_kr", (0xB0, 0xC8)),
    ("gb18030", 0.7, "gb2312", (0xB0, 0xD7)),
    ("big5", 0.7, "big5", (0xA4, 0xC6)),
)
"""Character sets of several octets: how much less usual, and the set and lead octets by which the
characters of everyday use are told (the first level of JIS X 0208, GB 2312 and Big5, and the
Hangul of KS X 1001)."""
