"""Names of other scripts in Latin letters, by the habits of passports and of people."""

from __future__ import annotations

from random import Random

RUSSIAN = {
    "а": "a", "б": "b", "в": "v", "г": "g", "д": "d", "е": "e", "ё": "e", "ж": "zh", "з": "z",
    "и": "i", "й": "y", "к": "k", "л": "l", "м": "m", "н": "n", "о": "o", "п": "p", "р": "r",
    "с": "s", "т": "t", "у": "u", "ф": "f", "х": "kh", "ц": "ts", "ч": "ch", "ш": "sh",
    "щ": "shch", "ъ": "", "ы": "y", "ь": "", "э": "e", "ю": "yu", "я": "ya",
}  # fmt: skip
RUSSIAN_OTHER = {**RUSSIAN, "й": "i", "х": "h", "ю": "iu", "я": "ia", "ё": "yo"}
GREEK = {
    "α": "a", "β": "v", "γ": "g", "δ": "d", "ε": "e", "ζ": "z", "η": "i", "θ": "th", "ι": "i",
    "κ": "k", "λ": "l", "μ": "m", "ν": "n", "ξ": "x", "ο": "o", "π": "p", "ρ": "r", "σ": "s",
    "ς": "s", "τ": "t", "υ": "y", "φ": "f", "χ": "ch", "ψ": "ps", "ω": "o",
    "ά": "a", "έ": "e", "ή": "i", "ί": "i", "ό": "o", "ύ": "y", "ώ": "o", "ϊ": "i",
}  # fmt: skip
GREEK_OTHER = {**GREEK, "χ": "h", "β": "b", "η": "e"}
LEADS_SAID = "g kk n d tt r m b pp s ss - j jj ch k t p h"
LEADS = LEADS_SAID.replace("-", "").split(" ")
VOWELS_SAID = "a ae ya yae eo e yeo ye o wa wae oe yo u wo we wi yu eu ui i"
VOWELS = VOWELS_SAID.replace("-", "").split(" ")
TAILS_SAID = "- k k k n n n t l k m l l l p l m p p t t ng t t k t p t"
TAILS = TAILS_SAID.replace("-", "").split(" ")
FAMILIES = {"김": "Kim", "이": "Lee", "박": "Park", "최": "Choi", "정": "Jung", "강": "Kang",
            "조": "Cho", "윤": "Yoon", "장": "Jang", "임": "Lim", "한": "Han", "오": "Oh",
            "서": "Seo", "신": "Shin"}  # fmt: skip


def _korean(text: str) -> str:
    out = []
    for char in text:
        code = ord(char) - 0xAC00
        if 0 <= code < 11_172:
            out.append(LEADS[code // 588] + VOWELS[code % 588 // 28] + TAILS[code % 28])
        else:
            out.append(char)
    return "".join(out)


def romanised(text: str, script: str, chance: Random, *, family: bool = False) -> str:
    """`text` in Latin letters; which of several habits is taken by chance."""
    if script == "kr":
        if family and text in FAMILIES and chance.random() < 0.9:
            return FAMILIES[text]
        made = "-".join(_korean(char) for char in text) if chance.random() < 0.4 else _korean(text)
        return made[:1].upper() + made[1:]
    if script == "ru":
        table = RUSSIAN if chance.random() < 0.7 else RUSSIAN_OTHER
    else:
        table = GREEK if chance.random() < 0.7 else GREEK_OTHER
    words = []
    for word in text.split(" "):
        lower = word.lower()
        if script == "gr":
            for two, one in (("ου", "ou"), ("ού", "ou"), ("αυ", "av"), ("ευ", "ev"), ("γγ", "ng"),
                             ("γκ", "gk"), ("μπ", "b"), ("ντ", "nt")):  # fmt: skip
                lower = lower.replace(two, one)
        made = "".join(table.get(char, char) for char in lower)
        words.append(made[:1].upper() + made[1:] if word[:1].isupper() else made)
    return " ".join(words)
