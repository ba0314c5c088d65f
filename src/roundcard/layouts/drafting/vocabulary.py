"""The words of headings and cells in many languages, read from data files.

Each file is one language; `docs/vocabulary.md` tells what the keys mean. Words are compared as
`roundcard.layouts.drafting.words` folds them.
"""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, field
from functools import cache
from importlib import resources

from roundcard.layouts.drafting.words import spellings, tokens

LONGEST = 6
"""Words in the longest phrase that is looked for."""


@dataclass(frozen=True, slots=True)
class Vocabulary:
    """All languages together."""

    languages: tuple[str, ...]
    phrases: dict[str, dict[str, frozenset[str]]]
    """Phrase, its words parted by spaces, to what it stands for, to the languages that say so."""
    cells: dict[str, frozenset[str]]
    """What a cell may hold (``street``, ``given``) to the words that tell it."""
    longest: int = field(default=LONGEST)


def language_files() -> dict[str, str]:
    """The text of each language's file, by the language's code."""
    folder = resources.files("roundcard.layouts.drafting").joinpath("vocabulary")
    return {
        item.name.removesuffix(".toml"): item.read_text(encoding="utf-8")
        for item in sorted(folder.iterdir(), key=lambda item: item.name)
        if item.name.endswith(".toml")
    }


@cache
def vocabulary() -> Vocabulary:
    """All that the data files say, in one index. Read once, where first needed."""
    phrases: dict[str, dict[str, set[str]]] = {}
    cells: dict[str, set[str]] = {}
    files = language_files()
    for language, text in files.items():
        for key, listed in tomllib.loads(text).items():
            if key.startswith("cell/"):
                cells.setdefault(key[5:], set()).update(
                    " ".join(tokens(word, camel=False)) for word in listed
                )
                continue
            for word in listed:
                for phrase in spellings(word):
                    phrases.setdefault(phrase, {}).setdefault(key, set()).add(language)
    _add_glued(phrases)
    return Vocabulary(
        tuple(files),
        {phrase: {k: frozenset(v) for k, v in keys.items()} for phrase, keys in phrases.items()},
        {kind: frozenset(words) for kind, words in cells.items()},
    )


def _add_glued(phrases: dict[str, dict[str, set[str]]]) -> None:
    """Add phrases of several words as they are written together (``firstname``)."""
    for phrase, keys in list(phrases.items()):
        glued = phrase.replace(" ", "")
        if glued == phrase or len(glued) < 4 or glued.isdecimal():
            continue
        if any(char.isdecimal() for char in glued):
            continue
        there = phrases.setdefault(glued, {})
        for key, languages in keys.items():
            there.setdefault(key, set()).update(languages)
