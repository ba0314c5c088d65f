"""Names for comparison: folded, transliterated, and by what people are called for short."""

from __future__ import annotations

import re
import tomllib
from functools import cache, lru_cache
from importlib import resources
from typing import Any

from roundcard.values.latin import latin
from roundcard.values.text import bare

_MARKS = re.compile(r"[^\w\s]|_")
_UMLAUTS = (("ae", "a"), ("oe", "o"), ("ue", "u"), ("ss", "s"))
_SENIOR = frozenset(("senior", "sen", "sr", "snr", "i", "the elder"))
_JUNIOR = frozenset(("junior", "jun", "jr", "jnr", "ii", "iii", "the younger"))


@lru_cache(maxsize=16_384)
def words_of(text: str) -> tuple[str, ...]:
    """The words of a name for comparison: without accents, case and marks, in Latin letters."""
    folded = latin(bare(text))
    return tuple(_MARKS.sub(" ", folded.replace("'", "").replace("’", "")).split())


@lru_cache(maxsize=16_384)
def one_word(text: str) -> str:
    """A whole name part as one word: ``van der Berg`` is ``vanderberg``; umlauts that are written
    out are as those that are not."""
    joined = "".join(words_of(text))
    for long, short in _UMLAUTS:
        joined = joined.replace(long, short)
    return joined


@cache
def _told() -> dict[str, Any]:
    return tomllib.loads((resources.files(__package__) / "nicknames.toml").read_text("utf-8"))


@cache
def _groups() -> list[list[str]]:
    lines = "\n".join(_told()["groups"].values()).split("\n")
    return [line.split() for line in lines if line]


@cache
def short_forms() -> dict[str, frozenset[int]]:
    """The numbers of the groups of names that people take for one another, by name."""
    found: dict[str, set[int]] = {}
    for number, group in enumerate(_groups()):
        for name in group:
            found.setdefault(one_word(name), set()).add(number)
    return {name: frozenset(groups) for name, groups in found.items()}


@lru_cache(maxsize=16_384)
def called(name: str) -> frozenset[int]:
    """The groups of names that people take for one another, to which a given name belongs."""
    return short_forms().get(name, frozenset())


@cache
def _members() -> list[tuple[str, ...]]:
    return [tuple(map(one_word, group)) for group in _groups()]


@lru_cache(maxsize=16_384)
def others_called(name: str) -> tuple[str, ...]:
    """The names that people take for this one."""
    found = (each for group in called(name) for each in _members()[group])
    return tuple(dict.fromkeys(each for each in found if each != name))


@cache
def _full_names() -> frozenset[str]:
    return frozenset(map(one_word, [*(group[0] for group in _groups()), *_told()["full"].split()]))


def both_full(one: str, other: str) -> bool:
    """Whether two names that are taken for one another are both borne in their own right."""
    return one in _full_names() and other in _full_names()


@cache
def _initials() -> dict[int, frozenset[str]]:
    found: dict[int, set[str]] = {}
    for name, groups in short_forms().items():
        for group in groups:
            found.setdefault(group, set()).add(name[0])
    return {group: frozenset(letters) for group, letters in found.items()}


@lru_cache(maxsize=16_384)
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


@lru_cache(maxsize=16_384)
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
