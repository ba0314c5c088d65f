"""What a cell holds, told from its characters and from the words of the vocabulary."""

from __future__ import annotations

import re
from functools import cache, lru_cache

from roundcard.layouts.drafting.vocabulary import compiled, vocabulary
from roundcard.layouts.drafting.words import tokens, unspaced
from roundcard.values.cell_kinds import kind_of
from roundcard.values.legal_forms import has_dotted_form

_DASHES = re.compile(
    r"[-–—_.?/\\*0 ]{1,5}|x{2,5}|\(?(?:-|none|null|nil)\)?|0000-00-00|00[./]00[./]0000|#N/A",
    re.IGNORECASE,
)
_CODE_TOWN = re.compile(
    r"(?:[A-Z]{1,3}[- ])?(?:\d{4,6}|\d{3} \d{2}|\d{2}-\d{3}|\d{4} ?[A-Z]{2}|\d{4}-\d{3})[ ,]+"
    r"[^\W\d_][^\d]{1,40}"
)
_TOWN_CODE = re.compile(
    r"[^\W\d_][^\d,]{1,40}[ ,]+(?:[A-Z]{2}[ ,]+)?"
    r"(?:\d{4,6}(?:-\d{4})?|[A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2})"
)
_NUMBERED = re.compile(r"\b\d{1,4}\s?[a-z]?(?:\s?[-/]\s?\d{1,4}[a-z]?)?\b", re.IGNORECASE)
_HOUSE = re.compile(r"(?:n[.º°]\s?|nr\.?\s?|s/n)?\d{0,4}\s?[a-z]?(?:[-/]\d{1,4}[a-z]?)?",
                    re.IGNORECASE)  # fmt: skip
_STREET_ENDS = ("strasse", "straße", "str", "weg", "platz", "allee", "gasse", "straat", "laan",
                "gracht", "gatan", "vagen", "vej", "gade", "veien", "gata", "katu", "tie", "ufer",
                "damm", "ring", "steig", "plein", "kade", "dijk", "gränd", "torg", "utca", "ulice",
                "iela", "gatve", "maantee", "tänav", "tanav", "pst", "plads", "alle")  # fmt: skip
_CJK_ADDRESS = re.compile(
    r"[都道府県市区町村郡丁目番地号省縣縣路街巷弄號号室村镇鎮시군구동로길읍면]"
)
_CAPITAL = re.compile(r"[A-ZÀ-ÖØ-ÞŀŁА-ЯЁҐІЇЄΑ-Ω]")
_PARTICLES = frozenset(
    [
        "van",
        "de",
        "der",
        "den",
        "von",
        "zu",
        "zur",
        "zum",
        "la",
        "le",
        "di",
        "da",
        "del",
        "della",
        "dos",
        "das",
        "do",
        "du",
        "el",
        "al",
        "bin",
        "ibn",
        "bint",
        "ten",
        "ter",
        "af",
        "av",
        "und",
        "y",
        "e",
        "i",
        "mac",
        "o",
        "d",
        "st",
        "san",
    ]
)
_NTH = re.compile(r"(?i)(?:\b(?:nr|no|n[º°]|num|č|br)\.? ?|№ ?|#)\d{1,4}$")
"""One of several things that are counted: ``nr 3``."""
_INITIALS = re.compile(r"(?:[^\W\d_]\.?[ -]?){1,3}", re.UNICODE)


@lru_cache(maxsize=131_072)
def cell_kind(text: str) -> str:
    """The kind of one cell: a kind of `roundcard.values.cell_kinds`, or one that words tell.

    The latter are ``none``, ``yes-no``, ``gender``, ``prefix``, ``suffix``, ``use``, ``country``,
    ``language``, ``given``, ``person``, ``person, comma``, ``street``, ``address``, ``code and
    town``, ``org``, ``job``, ``initials``, ``single`` (one word), ``title case`` (two to four),
    ``sentence``.
    """
    text = text.strip()
    shape = kind_of(text)
    if shape in ("words", "mixed", "post code", "code", "long", "number", "phone", "phones"):
        return _worded(text, shape)
    return "none" if shape == "date" and _DASHES.fullmatch(text) else shape


def _worded(text: str, shape: str) -> str:
    if _DASHES.fullmatch(text) and text != "0":
        return "none"
    if shape in ("phone", "phones", "number"):
        return shape
    words = tokens(text, camel=False)
    whole = " ".join(words)
    cells = vocabulary().cells
    if not words:
        return "none"
    if whole in cells["none"]:
        return "none"
    if shape == "words" and len(words) <= 4:
        if whole in cells["yes-no"]:
            return "yes-no"
        if len(whole) > 1 and all(word in cells["prefix"] for word in words):
            return "prefix"
        if whole in cells["gender"] and not (len(whole) > 1 and whole in _uses()):
            return "gender"
        if whole in cells["suffix"] or all(word in cells["suffix"] for word in words):
            return "suffix"
        if whole in _uses():
            return "use"
        if whole in cells["language"]:
            return "language"
        # "Cy" and "Bo" are names; codes are not written so
        if whole in countries() and (len(whole) > 3 or not text.strip().istitle()):
            return "country"
    if shape == "post code":
        return shape
    return _name_or_place(text, words, shape)


def _name_or_place(text: str, words: list[str], shape: str) -> str:
    cells = vocabulary().cells
    numbered = shape != "words" and bool(_NUMBERED.search(text))
    marked = any(word in cells["street"] or word.endswith(_STREET_ENDS) for word in words)
    org = any(word in cells["org"] for word in words) or has_dotted_form(text)
    if shape != "words":
        if org and not marked and _NTH.search(text):
            return "org"
        if _whole_address(text, marked):
            return "address"
        if _CODE_TOWN.fullmatch(text) or _TOWN_CODE.fullmatch(text):
            return "code and town" if not marked or _CODE_TOWN.fullmatch(text) else "street"
        if numbered and len(words) > 1 and len(text) < 60:
            short = len(words) <= 6 and (text[-1].isdigit() or text[0].isdigit()
                                         or text[-2:-1].isdigit())  # fmt: skip
            if marked or (short and any(len(word) > 3 and word.isalpha() for word in words)):
                return "street"
    if unspaced(words[0]) and not words[0].isascii():
        return _unspaced_kind(text, words)
    if len(words) > 6 and shape in ("words", "mixed", "long"):
        return "sentence"
    if shape == "words" and "," in text and _comma_name(text, cells["given"]):
        return "person, comma"
    if shape == "words" and not org:
        if len(words) == 1 and words[0] in cells["given"]:
            return "given"
        if whole_name(words, cells["given"], cells["prefix"]):
            return "person" if len(words) > 1 else "given"
    if org and (len(words) > 1 or words[0] in cells["org"]):
        return "org"
    if _job(words, cells["job"]):
        return "job"
    if _INITIALS.fullmatch(text) and len(text) < 7 and ("." in text or text.isupper()):
        return "initials"
    if marked and len(words) > 1 and shape == "words":
        return "street"
    if shape == "code":
        return "code"
    if len(words) == 1:
        return "single"
    if len(words) <= 4 and shape == "words" and _capitals(text):
        return "title case"
    return "sentence" if len(words) > 3 else "few words"


def _whole_address(text: str, marked: bool) -> bool:
    """A street, a town and what stands between them, in one cell."""
    if "," not in text and "\n" not in text and ";" not in text:
        return False
    numbers = re.findall(r"\d+", text)
    pieces = [piece for piece in re.split(r"[,;\n]", text) if piece.strip()]
    if len(pieces) == 2 and _HOUSE.fullmatch(pieces[1].strip()):
        return False  # a street, and the number behind a comma
    if len(pieces) < 2 or len(text) < 14 or not numbers:
        return False
    coded = any(len(number) >= 4 for number in numbers) or bool(
        re.search(r"\b[A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2}\b|\b\d{3} \d{2}\b|\b\d{2}-\d{3}\b", text)
    )
    return coded or (marked and len(pieces) > 1)


def _unspaced_kind(text: str, words: list[str]) -> str:
    if any(char.isdecimal() for char in text) or len(text) > 7:
        marks = len(_CJK_ADDRESS.findall(text))
        if marks >= 2:
            return "street" if len(text) < 14 else "address"
        return "sentence" if len(text) > 16 else "few words"
    given = vocabulary().cells["given"]
    if len(words) == 2 and all(len(word) <= 4 for word in words):
        return "person"
    if words[0] in given and len(words) == 1:
        return "given"
    if any(words[0].endswith(word) for word in vocabulary().cells["org"] if unspaced(word)):
        return "org"
    if len(words) == 1 and 3 <= len(words[0]) <= 4 and words[0][-2:] in given:
        return "person"
    return "single" if len(words) == 1 else "few words"


def whole_name(words: list[str], given: frozenset[str], prefix: frozenset[str]) -> bool:
    """Whether words are the whole name of a person: a given name among two to five words."""
    bare = [word for word in words if word not in prefix and word not in _PARTICLES]
    if not 1 <= len(bare) <= 4 or len(words) > 6:
        return False
    return any(word in given for word in bare) and (len(bare) > 1 or len(words) > 1)


def _comma_name(text: str, given: frozenset[str]) -> bool:
    before, _, after = text.partition(",")
    first = tokens(after, camel=False)
    if not tokens(before, camel=False) or not first or "," in after:
        return False
    return first[0] in given and len(first) <= 4


def _job(words: list[str], jobs: frozenset[str]) -> bool:
    if len(words) > 5:
        return False
    return " ".join(words) in jobs or words[-1] in jobs or words[0] in jobs


def _capitals(text: str) -> bool:
    words = [word for word in text.split() if word.casefold() not in _PARTICLES]
    return bool(words) and all(_CAPITAL.match(word) or not word[0].isalpha() or unspaced(word)
                               or word[0].lower() == word[0].upper() for word in words)  # fmt: skip


@cache
def _uses() -> frozenset[str]:
    """Words that a column of uses holds: "work", "mobile", "Fax privat"."""
    phrases = vocabulary().phrases
    return frozenset(
        phrase
        for phrase, keys in phrases.items()
        if len(phrase) > 1
        and any(
            key.startswith("use/") or key in ("phone/cell", "phone/fax", "phone/home")
            for key in keys
        )
    )


@cache
def countries() -> frozenset[str]:
    """Names and codes of countries, folded, in the languages of the vocabulary."""
    return frozenset(compiled("countries.json"))
