"""The rule for letter case in names of people and places."""

from __future__ import annotations

import re

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

FIELDS = ("name/full", "name/given", "name/family", "name/additional", "name/family2", "nickname",
          "address/locality")  # fmt: skip
_PARTICLES = frozenset(
    ("van", "von", "der", "den", "de", "del", "della", "di", "da", "do", "dos", "das", "du", "des",
     "la", "le", "las", "los", "zu", "zur", "zum", "ter", "ten", "te", "af", "av", "al", "el",
     "bin", "ibn", "bint", "ben", "ap", "ab", "y", "e", "und", "i", "o")
)  # fmt: skip
"""Words inside a name that are small; at its beginning they are as the word is."""
_LEADING = re.compile(r"^(?:Van|Von|Vom|Zu|Zur|Ter|Ten|De|Den|Der|Del|Dos|Da|Af|Av)"
                      r"(?: (?:de|der|den|la|las|los|het|'t))?(?= )")  # fmt: skip
_LARGE_PARTICLES = frozenset(("IT", "US", "BE", "GB", "IE", "CA", "AU"))
"""Countries in which a family name begins large, whatever its first word is."""
_LARGE = frozenset(
    ("II", "III", "IV", "VI", "VII", "VIII", "IX", "JR", "SR", "PHD", "MD", "OBE", "MBE", "CBE")
)
_SMALL_FORMS = {"JR": "Jr", "SR": "Sr", "PHD": "PhD"}
_WORD = re.compile(r"[^\W\d_]+(?:['’`][^\W\d_]+)*\.?")
_MAC = re.compile(r"^(mc)(.{2,})$", re.IGNORECASE)
_IRISH = re.compile(r"^(o|d|l|dell|all|nell)(['’`])(.+)$", re.IGNORECASE)
_TURKISH = re.compile("[İĞŞ]")
_GREEK = re.compile("[\u0370-\u03ff\u1f00-\u1fff]")


def name_case(text: str, around: Around) -> Verdict:
    """Names in capitals alone, or in small letters alone, get the usual case, where the whole
    field of the book is written so; elsewhere they are reported. A family name in capitals beside
    a given name that is not is a usage of its own, and left."""
    if not in_one_case(text):
        return LEFT
    if around.path in around.uniform:
        made = cased(text)
        if around.path == "name/family" and around.region not in _LARGE_PARTICLES:
            made = _LEADING.sub(lambda found: found[0].lower(), made)
        return LEFT if made == text else Verdict(made)
    if text.islower() and len(text) > 3 and around.path.startswith("name/"):
        return Verdict(doubt="it is all in small letters")
    if text.isupper() and around.path == "name/full" and " " in text:
        return Verdict(doubt="it is all in capitals")
    return LEFT


def in_one_case(text: str) -> bool:
    """Whether a text of two letters and more is in capitals alone, or in small letters alone."""
    if not (text.isupper() or text.islower()):
        return False
    if text.isascii():
        return sum(map(str.isalpha, text)) > 1
    letters = [char for char in text if char.isalpha() and char.lower() != char.upper()]
    # Greek capitals have no accents to come back
    return len(letters) > 1 and not _GREEK.search(text)


def cased(text: str) -> str:
    """A name in usual letter case: ``O'DWYER-MCCABE`` is ``O'Dwyer-McCabe``."""
    first = True

    def one(found: re.Match[str]) -> str:
        nonlocal first
        word = found[0]
        begins, first = first, False
        before = text[found.start() - 1 : found.start()]
        if before in ("'", "’", "`") and len(word) == 1:
            return word.lower()  # 't Hart
        if word.upper().rstrip(".") in _LARGE and not begins:
            return _SMALL_FORMS.get(word.upper().rstrip("."), word.upper())
        if not begins and before != "-" and word.lower() in _PARTICLES:
            return word.lower()
        return _cased_word(word)

    return _WORD.sub(one, text)


def _cased_word(word: str) -> str:
    if _TURKISH.search(word):
        return word[:1] + word[1:].replace("İ", "i").replace("I", "ı").lower()
    if found := _IRISH.match(word):
        return found[1].capitalize() + found[2] + _cased_word(found[3])
    if found := _MAC.match(word):
        return "Mc" + found[2].capitalize()
    if word.lower().startswith("ij"):
        return "IJ" + word[2:].lower()  # a Dutch letter of two signs
    return word[:1].upper() + word[1:].lower()


RULES = (
    Rule("name-case", FIELDS, "names in one letter case, where the whole field is written so",
         (("name/family", "van der Berg", "van der Berg"), ("name/full", "JOHN WEIR", "JOHN WEIR")),
         name_case),
)  # fmt: skip
