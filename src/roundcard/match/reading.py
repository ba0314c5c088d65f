"""The name of a contact as words to be held against others."""

from __future__ import annotations

import re
from functools import lru_cache

from roundcard.clean.name_words import is_given
from roundcard.match.names import one_word, short_forms, words_of
from roundcard.match.person_names import Name

_AND = re.compile(
    r"\s+(?:and|und|u\.?|et|ed|en|og|och|ja|és|и|та|και)\s+|\s*[&+]\s*", re.IGNORECASE
)
_AND_OR_NAME = re.compile(r"\s+(?:y|e|i|a)\s+", re.IGNORECASE)
_HYPHENS = re.compile(r"(?<=\w)\s*[-‐‑]\s*(?=\w)")
_HAN = re.compile(r"[\u3400-\u9fff]")
_MOST_WORDS = 6


def name_of(given: str, second: str, family: str, nicknames: str, whole: str) -> Name:
    """A name of these parts, or of a `whole` of which the parts are not known."""
    both: tuple[str, ...] = ()
    for text in (given, family, whole):
        if pair := couple(text, within=text is given):
            both = tuple(_units(each)[0] for each in pair)
            behind = " ".join(pair[1].split()[1:])
            family = given if text is family and family else family if text is given else behind
            if text is whole and "," in whole:
                family = whole.partition(",")[0]
            given = whole = ""
            break
    script = ("han",) if _HAN.search(f"{given}{family}{whole}") else ()
    return Name(_units(given), _units(second), tuple(_plain(family)), _units(nicknames), both,
                _units(whole)[:_MOST_WORDS], script)  # fmt: skip


@lru_cache(maxsize=16_384)
def couple(text: str, *, within: bool = False) -> tuple[str, str] | None:
    """What stands on both sides of an and between two given names; None where there is no such.

    Short words for and (y, e, i) may join the two family names of one person, so that they count
    only `within` a given name, before a known one, or between the first word of a name and two.
    """
    text = text.rpartition(",")[2].strip()
    pair = _AND.split(text)
    if len(pair) == 1:
        pair = _AND_OR_NAME.split(text)
        if (
            len(pair) == 2
            and not within
            and not (_given(pair[1]) and (_given(pair[0]) or len(pair[0].split()) == 1))
            and not (len(pair[0].split()) == 1 and len(pair[1].split()) > 1)
        ):
            return None
    if len(pair) != 2 or not all(_units(each) for each in pair):
        return None
    return pair[0], pair[1]


def _given(text: str) -> bool:
    """Whether a text begins with a known given name."""
    words = text.split()
    return bool(words) and (is_given(words[0]) or one_word(words[0]) in short_forms())


@lru_cache(maxsize=16_384)
def _units(text: str) -> tuple[str, ...]:
    """The names in a text; the halves of a double one with a hyphen between."""
    found = []
    for part in _HYPHENS.sub("-", text).split():
        halves = [one_word(half) for half in part.split("-")]
        if unit := "-".join(half for half in halves if half):
            found.append(unit)
    return tuple(found)


@lru_cache(maxsize=16_384)
def _plain(text: str) -> tuple[str, ...]:
    """All words of a text."""
    return tuple(one_word(word) for word in words_of(text) if one_word(word))
