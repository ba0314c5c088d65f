"""Names of organisations: their legal forms, and which words a person's name never has."""

from __future__ import annotations

import re
from functools import lru_cache

from roundcard.clean.name_words import is_given, is_organisation
from roundcard.match.names import words_of
from roundcard.values.legal_forms import has_legal_form
from roundcard.values.word_lists import word_list

_LEGAL = frozenset(word_list(__package__, "legal"))
_STICHTING = re.compile(r"\bstichting\b|\bstiftung\b|\bfoundation\b|\bassociation\b", re.IGNORECASE)


@lru_cache(maxsize=16_384)
def is_firm(name: str) -> bool:
    """Whether a name as it is said is an organisation's: it has a legal form, or a word of trade
    that no person is called by."""
    return has_legal_form(name) or bool(_STICHTING.search(name)) or is_organisation(name)


@lru_cache(maxsize=16_384)
def firm_words(name: str) -> str:
    """The words of what an organisation is called, without its legal form."""
    words = words_of(name.replace(".", ""))
    kept = [word for word in words if word not in _LEGAL]
    return " ".join(kept or words)


def begins_given(name: str) -> bool:
    """Whether a name begins with a known given name."""
    first = name.split(maxsplit=1)[0] if name.split() else ""
    return is_given(first.split("-")[0])
