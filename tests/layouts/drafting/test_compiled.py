"""The files of words that are read at run time say what the languages' own files say."""

from __future__ import annotations

from roundcard.clean.countries import codes_by_name, compile_codes
from roundcard.layouts.drafting.vocabulary import compile_words, compiled, vocabulary


def test_the_compiled_files_are_those_of_the_vocabulary() -> None:
    made = compile_words()  # what is stale is made anew by scripts/compile-words
    assert {name: compiled(name) for name in made} == made
    assert vocabulary().phrases["e mail"]["email"] >= {"en", "de"}
    assert "street" in vocabulary().cells


def test_the_codes_of_countries_are_those_of_their_names() -> None:
    assert codes_by_name() == compile_codes()
    assert codes_by_name()["deutschland"] == "DE"
