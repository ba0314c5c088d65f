"""The words by which names of people are told from those of firms, offices and households.

Given names, trades, legal forms and jobs are those of the vocabulary of headings and cells and of
``words.toml``.
"""

from __future__ import annotations

import re
from functools import cache, lru_cache

from roundcard.layouts.drafting.vocabulary import vocabulary
from roundcard.layouts.drafting.words import tokens, unspaced
from roundcard.values.legal_forms import has_dotted_form
from roundcard.values.text import bare
from roundcard.values.word_lists import word_list

PARTICLES = frozenset(
    ("van", "von", "vom", "der", "den", "de", "del", "della", "dello", "delle", "degli", "di",
     "da", "do", "dos", "das", "du", "des", "d'", "la", "le", "las", "los", "zu", "zur", "zum",
     "ter", "ten", "te", "af", "av", "al", "el", "bin", "ibn", "bint", "ben", "ap", "ab", "mac",
     "'t", "’t", "op", "in")
)  # fmt: skip
"""Words with which a family name may begin, and that stand behind a given name."""
CUT_PARTICLES = frozenset(("v.", "v.d.", "v.d", "vd", "v.h.", "d."))
"""Particles cut short, in small letters: in large ones they are initials."""
_NOT_FIRST = frozenset(("der", "den", "in", "op", "te", "la", "las", "los", "ab"))
"""Particles that begin no family name unless another stands before them."""
BETWEEN = PARTICLES - {"ben", "mac"}
"""Particles that are nothing else."""
LEADING = (PARTICLES - _NOT_FIRST) | {"la", "den", "te"}
"""Particles that may begin the family name behind a given name."""
TURNED = BETWEEN - {"das", "der", "da", "do", "le"}
"""Particles that begin neither the name of an organisation nor are given names."""
ENDINGS = re.compile(r"(?:gmbh|schule|verein|gesellschaft|stiftung)\b", re.IGNORECASE)
_LEGAL = frozenset(("ltd", "inc"))
INITIAL = re.compile(r"[A-Z]|[^\W\d_]\.|[^\W\d_]\.-?[^\W\d_]\.?|[A-Z]{2}")
"""A name cut to its first letter, or two such."""
HOUSEHOLDS = frozenset(word_list(__package__, "households"))
"""Words that say that a name is a household's."""
TRADES = frozenset(word_list(__package__, "trades")).union(
    map(bare, word_list(__package__, "trades"))
)
"""Words of trade that no person is called by, as the first or the last word of a name."""
_NOUNS = frozenset(map(bare, word_list(__package__, "nouns")))
"""Words that stand in what offices and firms are called or for nobody, and seldom in a name."""
_OF_OFFICES = tuple(map(bare, word_list(__package__, "compounds")))
"""How words end that are put together for offices and clubs."""
_SHORTEST_COMPOUND = 7
POSSESSIVE = ("'s", "’s", "s'", "s’")
"""How a word ends that tells whose something is."""
_LABELS = frozenset(map(bare, word_list(__package__, "labels")))
"""What stands behind a name to tell which of somebody's numbers it is: Anna Mobile."""


def is_particle(word: str) -> bool:
    """Whether a word may begin a family name behind a given one."""
    return word.lower() in PARTICLES or word in CUT_PARTICLES


@lru_cache(maxsize=32_768)
def is_given(word: str) -> bool:
    """Whether a word is a known given name."""
    found = _folded(word)
    return bool(found) and found[0] in vocabulary().cells["given"]


def is_compound(folded: str) -> bool:
    """Whether a word, folded, is put together as the names of offices and clubs are."""
    if len(folded) < _SHORTEST_COMPOUND:
        return False
    return folded.endswith(_OF_OFFICES) or any(
        folded[at:] in TRADES or folded[at:] in _NOUNS for at in range(3, len(folded) - 4)
    )


def is_organisation(text: str) -> bool:
    """Whether a name as it is said has a word that tells an organisation's."""
    words = _folded(text)
    if not words:
        return False
    if unspaced(words[-1]) and words[-1].endswith(_unspaced_trades()):
        return True
    if words[0] in ("the", "die", "das", "der", "les") and len(words) > 1:
        return True
    if len(words) > 1 and _names_a_trade(words, text):
        return True
    between = text.split()[1:-1]
    person = len(words) > 1 and is_given(words[0]) and all(map(is_particle, between))
    last = text.rsplit(maxsplit=1)[-1].strip(".")
    known = organisations()
    for at, word in enumerate(words):
        if word not in known[0]:
            continue
        for size in (1, 2, 3):
            said = " ".join(words[at : at + size])
            if said in known[1] and at + size <= len(words):
                behind = at + size == len(words) and at > 0
                if len(said) > 3 and not person:
                    return True
                if behind and (said in _LEGAL or last.isupper()):
                    return True
    return bool(ENDINGS.search(text)) or has_dotted_form(text)


def _names_a_trade(words: list[str], text: str) -> bool:
    """Whether a name begins or ends with a word of trade; one that is a given name, too (Marina),
    is no trade where a given name stands."""
    if words[-1] in TRADES and not ("," in text and is_given(words[-1])):
        return True
    return words[0] in TRADES and not is_given(words[0])


def _folded(text: str) -> list[str]:
    """The words of a text, folded."""
    if text.isascii() and text.replace(" ", "").isalpha():
        return text.lower().split()
    return tokens(text, camel=False)


@cache
def headings() -> frozenset[str]:
    """Single words of the headings of columns."""
    return frozenset(word for word in vocabulary().phrases if " " not in word and len(word) > 3)


@cache
def of_offices() -> frozenset[str]:
    """Words that stand in what offices, jobs and columns are called."""
    return _NOUNS.union(vocabulary().cells["job"], headings())


def may_be_none(words: list[str]) -> bool:
    """Whether words that could be a name may be none: no given name is among them that is known,
    and at one end stands what offices, jobs or columns are called."""
    if bare(words[-1]) in _LABELS:
        return True
    if any(word.endswith(POSSESSIVE) for word in words):
        return True
    if any(is_given(word) or INITIAL.fullmatch(word) for word in words):
        return False
    ends = {bare(words[0]), bare(words[-1])}
    return is_compound(bare(words[0])) or not ends.isdisjoint(of_offices())


@cache
def _unspaced_trades() -> tuple[str, ...]:
    """How organisations end in scripts without spaces; a single letter may end a name, too."""
    return tuple(word for word in vocabulary().cells["org"] if unspaced(word) and len(word) > 1)


@cache
def organisations() -> tuple[frozenset[str], frozenset[str]]:
    """The first words of what names an organisation, and the whole of it."""
    phrases = vocabulary().cells["org"]
    return frozenset(phrase.partition(" ")[0] for phrase in phrases), frozenset(phrases)
