"""Words of headings that are not known as they stand: mistyped, or cut short.

What they may be is a guess that only the cells can bear out.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Iterator
from functools import cache, lru_cache
from itertools import islice, takewhile
from operator import ne

from rapidfuzz.distance import OSA

from roundcard.layouts.drafting.vocabulary import vocabulary
from roundcard.layouts.drafting.words import unspaced

_TYPED = 5
"""Letters of a word in which one may be wrong."""
_LONG = 6
"""Letters of a word that is hardly another one where one is wrong."""
_CUT, _LONGEST_CUT = 3, 6
"""Letters of a word that was cut short."""
_VOWELS = frozenset("aeiouyаеиоуыюяєіїαεηιουω")
_MOST = 4
_NO_FIELD = ("custom", "is/", "cell/")


@cache
def _by_letter() -> dict[str, dict[str, frozenset[str]]]:
    """Words of fields with the languages that have them, by their first letter."""
    found: dict[str, dict[str, frozenset[str]]] = defaultdict(dict)
    for phrase, keys in vocabulary().phrases.items():
        if unspaced(phrase) or all(key.startswith(_NO_FIELD) for key in keys):
            continue
        languages = frozenset[str]().union(*keys.values())
        for word in phrase.split():
            if len(word) >= _CUT:
                found[word[0]][word] = found[word[0]].get(word, frozenset()) | languages
    return found


@lru_cache(maxsize=2048)
def near_words(word: str, languages: frozenset[str]) -> tuple[str, ...]:
    """Known words of some languages (all where there are none) that a word may be, the nearest
    first; at the most four."""
    if not word.isalpha() or len(word) < _CUT:
        return ()
    rated = []
    for near, spoken in (*_by_letter().get(word[0], {}).items(), *_turned(word)):
        if languages and not spoken & languages:
            continue
        far = _far(word, near)
        if far is not None:
            rated.append((far, abs(len(near) - len(word)), near))
    return tuple(near for _, _, near in sorted(rated)[:_MOST])


@cache
def _phrases() -> list[str]:
    """Phrases of fields that have several words, in their order."""
    return sorted(
        phrase
        for phrase, keys in vocabulary().phrases.items()
        if " " in phrase and not all(key.startswith(_NO_FIELD) for key in keys)
    )


@lru_cache(maxsize=2048)
def cut_phrases(phrase: str) -> tuple[str, ...]:
    """Known phrases of as many words that some words may be of which the last was cut short; at the
    most four."""
    every = _phrases()
    first = bisect_left(every, phrase)
    begun = takewhile(lambda each: each.startswith(phrase), islice(every, first, None))
    same = (each for each in begun if each.count(" ") == phrase.count(" "))
    return tuple(islice(same, _MOST))


def _turned(word: str) -> Iterator[tuple[str, frozenset[str]]]:
    """Words that begin with the second letter of a word, the first two turned."""
    return ((near, spoken) for near, spoken in _by_letter().get(word[1], {}).items()
            if near[:2] == word[1::-1])  # fmt: skip


def _far(word: str, phrase: str) -> int | None:
    """How far a word is from a known one; None where it cannot be that."""
    if len(word) == len(phrase) == _TYPED - 1:
        return 0 if sorted(word) == sorted(phrase) and _slips(word, phrase) else None
    if len(word) >= _TYPED and len(phrase) >= _TYPED:
        if _slips(word, phrase):
            return 0
        if phrase.startswith(word):
            return 1
    if not _CUT <= len(word) <= _LONGEST_CUT or len(phrase) <= len(word) or word[0] != phrase[0]:
        return None
    if phrase.startswith(word) and len(word) > _CUT:
        return 1
    rest = iter(phrase)
    if all(char in rest for char in word) and _consonants(word) >= len(word) - 1:
        inner = "".join(char for char in phrase if char not in _VOWELS)
        said = "".join(char for char in word if char not in _VOWELS)
        return 2 if inner.startswith(said) or inner.endswith(said[-1:]) else None
    return 3 if phrase.startswith(word) else None


def _slips(word: str, phrase: str) -> bool:
    """Whether one letter is wrong, missing or too many, or two of them changed places."""
    return OSA.distance(word, phrase, score_cutoff=1) <= 1 or (
        min(len(word), len(phrase)) >= _LONG
        and sorted(word) == sorted(phrase)
        and sum(map(ne, word, phrase)) == 2
    )


def surely_mistyped(word: str, phrase: str) -> bool:
    """Whether a long word is another one with a letter wrong, so that hardly another is meant."""
    return min(len(word), len(phrase)) >= _LONG and _slips(word, phrase)


def _consonants(word: str) -> int:
    return sum(char not in _VOWELS for char in word)
