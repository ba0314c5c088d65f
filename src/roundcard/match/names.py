"""Names for comparison: folded, transliterated, and by what people are called for short."""

from __future__ import annotations

import re
import tomllib
from functools import cache, lru_cache
from importlib import resources

from roundcard.values.text import bare

_LATIN = str.maketrans(
    {"а": "a", "б": "b", "в": "v", "г": "g", "д": "d", "е": "e", "ж": "zh", "з": "z", "и": "i",
     "й": "i", "к": "k", "л": "l", "м": "m", "н": "n", "о": "o", "п": "p", "р": "r", "с": "s",
     "т": "t", "у": "u", "ф": "f", "х": "kh", "ц": "ts", "ч": "ch", "ш": "sh", "щ": "shch",
     "ъ": "", "ы": "y", "ь": "", "э": "e", "ю": "yu", "я": "ya", "і": "i", "ї": "i", "є": "ye",
     "α": "a", "β": "v", "γ": "g", "δ": "d", "ε": "e", "ζ": "z", "η": "i", "θ": "th", "ι": "i",
     "κ": "k", "λ": "l", "μ": "m", "ν": "n", "ξ": "x", "ο": "o", "π": "p", "ρ": "r", "σ": "s",
     "ς": "s", "τ": "t", "υ": "y", "φ": "f", "χ": "ch", "ψ": "ps", "ω": "o"}
)  # fmt: skip
_MARKS = re.compile(r"[^\w\s]|_")
_UMLAUTS = (("ae", "a"), ("oe", "o"), ("ue", "u"), ("ss", "s"))
_SENIOR = frozenset(("senior", "sen", "sr", "snr", "i", "the elder"))
_JUNIOR = frozenset(("junior", "jun", "jr", "jnr", "ii", "iii", "the younger"))


@lru_cache(maxsize=262_144)
def words_of(text: str) -> tuple[str, ...]:
    """The words of a name for comparison: without accents, case and marks, in Latin letters."""
    folded = bare(text).translate(_LATIN)
    return tuple(_MARKS.sub(" ", folded.replace("'", "").replace("’", "")).split())


@lru_cache(maxsize=262_144)
def one_word(text: str) -> str:
    """A whole name part as one word: ``van der Berg`` is ``vanderberg``; umlauts that are written
    out are as those that are not."""
    joined = "".join(words_of(text))
    for long, short in _UMLAUTS:
        joined = joined.replace(long, short)
    return joined


@cache
def _short_forms() -> dict[str, frozenset[int]]:
    text = (resources.files(__package__) / "nicknames.toml").read_text(encoding="utf-8")
    found: dict[str, set[int]] = {}
    for number, group in enumerate(tomllib.loads(text)["groups"]):
        for name in group.split():
            found.setdefault(one_word(name), set()).add(number)
    return {name: frozenset(groups) for name, groups in found.items()}


@lru_cache(maxsize=131_072)
def called(name: str) -> frozenset[int]:
    """The groups of names that people take for one another, to which a given name belongs."""
    return _short_forms().get(name, frozenset())


@cache
def _full_names() -> frozenset[str]:
    told = tomllib.loads((resources.files(__package__) / "nicknames.toml").read_text("utf-8"))
    firsts = [group.split()[0] for group in told["groups"]]
    return frozenset(map(one_word, (*firsts, *" ".join(told["full"]).split())))


def both_full(one: str, other: str) -> bool:
    """Whether two names that are taken for one another are both borne in their own right."""
    return one in _full_names() and other in _full_names()


@cache
def _initials() -> dict[int, frozenset[str]]:
    found: dict[int, set[str]] = {}
    for name, groups in _short_forms().items():
        for group in groups:
            found.setdefault(group, set()).add(name[0])
    return {group: frozenset(letters) for group, letters in found.items()}


@lru_cache(maxsize=131_072)
def initials_of(name: str) -> frozenset[str]:
    """The letters with which the names begin that people take for this one."""
    return frozenset(letter for group in called(name) for letter in _initials()[group])


def generation(text: str) -> str:
    """``senior`` or ``junior`` where a suffix says so; empty otherwise."""
    for word in words_of(text):
        if word in _SENIOR:
            return "senior"
        if word in _JUNIOR:
            return "junior"
    return ""


@lru_cache(maxsize=131_072)
def sounding(name: str) -> str:
    """The consonants of a name, doubled and silent ones once: for finding, never for deciding."""
    if not name:
        return ""
    plain = name.replace("ph", "f").replace("ck", "k").replace("th", "t").replace("sch", "sh")
    plain = plain.replace("c", "k").replace("z", "s").replace("y", "i").replace("v", "f")
    out = plain[0]
    for char in plain[1:]:
        if char not in "aeiouhw" and char != out[-1]:
            out += char
    return out
