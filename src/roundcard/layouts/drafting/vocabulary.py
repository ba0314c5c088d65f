"""The words of headings and cells in many languages, read from data files.

Each file is one language; `docs/vocabulary.md` tells what the keys mean. Words are compared as
`roundcard.layouts.drafting.words` folds them.
"""

from __future__ import annotations

import json
import tomllib
from collections.abc import Iterable
from functools import cache, cached_property
from importlib import resources
from typing import Any

from roundcard.layouts.drafting.words import spellings, tokens
from roundcard.values.latin import latin

LONGEST = 6
"""Words in the longest phrase that is looked for."""


class Vocabulary:
    """All languages together. What is needed is read where it is needed first."""

    longest = LONGEST

    @cached_property
    def phrases(self) -> dict[str, dict[str, frozenset[str]]]:
        """Phrase, its words parted by spaces, to what it stands for, to the languages that say
        so."""
        told = compiled("phrases.json")
        sets = [frozenset(each.split()) for each in told["languages"]]
        keys = told["keys"]
        return {
            phrase: {keys[key]: sets[languages] for key, languages in said}
            for phrase, said in told["phrases"].items()
        }

    @cached_property
    def cells(self) -> dict[str, frozenset[str]]:
        """What a cell may hold (``street``, ``given``) to the words that tell it."""
        return {kind: frozenset(words) for kind, words in compiled("cells.json").items()}


def compiled(name: str) -> Any:
    """One of the files that ``scripts/compile-words`` makes of the languages' own."""
    folder = resources.files("roundcard.layouts.drafting").joinpath("compiled")
    return json.loads(folder.joinpath(name).read_bytes())


@cache
def vocabulary() -> Vocabulary:
    """The one vocabulary."""
    return Vocabulary()


def language_files() -> dict[str, str]:
    """The text of each language's file, by the language's code."""
    folder = resources.files("roundcard.layouts.drafting").joinpath("vocabulary")
    return {
        item.name.removesuffix(".toml"): item.read_text(encoding="utf-8")
        for item in sorted(folder.iterdir(), key=lambda item: item.name)
        if item.name.endswith(".toml")
    }


def compile_words() -> dict[str, Any]:
    """All that the data files say, in one index: what the compiled files hold, by their names."""
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
    _add_latin(phrases)
    keys = list(dict.fromkeys(key for said in phrases.values() for key in said))
    sets = list(dict.fromkeys(" ".join(sorted(languages)) for said in phrases.values()
                              for languages in said.values()))  # fmt: skip
    number = {each: at for at, each in enumerate([*keys, *sets])}
    told = {
        phrase: [[number[key], number[" ".join(sorted(languages))] - len(keys)]
                 for key, languages in said.items()]
        for phrase, said in phrases.items()
    }  # fmt: skip
    return {
        "phrases.json": {"keys": keys, "languages": sets, "phrases": told},
        "cells.json": {kind: sorted(words) for kind, words in cells.items()},
        "countries.json": sorted(_countries(files)),
    }


def _countries(languages: Iterable[str]) -> set[str]:
    """Names and codes of countries, folded (Unicode CLDR, through Babel)."""
    from babel import Locale, UnknownLocaleError

    found: set[str] = set()
    for language in languages:
        try:
            names = Locale.parse(language).territories
        except (UnknownLocaleError, ValueError):
            continue
        for code, name in names.items():
            if len(code) == 2 and code.isalpha() and code not in ("ZZ", "EU", "EZ", "UN", "QO"):
                found.add(" ".join(tokens(name, camel=False)))
                found.add(code.casefold())
    return found | {
        "uk", "usa", "u s a", "gb", "great britain", "england", "scotland", "wales", "holland",
        "deu", "gbr", "fra", "nld", "aut", "che", "ita", "esp", "prt", "swe", "nor", "dnk", "fin",
        "pol", "cze", "jpn", "chn", "bel", "irl",
    }  # fmt: skip


def _add_latin(phrases: dict[str, dict[str, set[str]]]) -> None:
    """Add phrases of other alphabets in Latin letters, as they are typed where there are no
    others."""
    for phrase, keys in list(phrases.items()):
        said = latin(phrase)
        if said == phrase or not said.isascii() or len(said) < 3:
            continue
        for form in {said, said.replace("kh", "h"), said.replace("iya", "ia")}:
            there = phrases.setdefault(form, {})
            for key, languages in keys.items():
                there.setdefault(key, set()).update(languages)


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
