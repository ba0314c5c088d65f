"""The user's own wishes for cleaning: which rules, in which forms, and rules of their own.

They stand in a file (TOML), or under ``[clean]`` in a layout or job, with the same keys.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

from roundcard.card.paths import parse
from roundcard.clean.rule import LEFT, Around, Rule, Verdict
from roundcard.errors import PathError, PlanError, did_you_mean
from roundcard.values.toml_text import read_toml

if TYPE_CHECKING:
    import regex

_TEXTS = ("region", "phone", "countries", "names")
_YEARS = "years_from"
_LISTS = ("rules", "without")
_TABLES = ("replace", "words")
_REPLACE_KEYS = ("field", "find", "with", "whole", "pattern", "case")
_WORDS_KEYS = ("field", "values")


@dataclass(frozen=True, slots=True)
class Wishes:
    """What a file says of cleaning; empty where it says nothing."""

    rules: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    region: str = ""
    phone: str = ""
    countries: str = ""
    names: str = ""
    own: tuple[Rule, ...] = ()
    years_from: int = 0

    def over(self, other: Wishes) -> Wishes:
        """These wishes where they say something, else those of another; own rules of both."""
        return Wishes(
            self.rules or other.rules, self.without or other.without,
            self.region or other.region, self.phone or other.phone,
            self.countries or other.countries, self.names or other.names, self.own + other.own,
            self.years_from or other.years_from,
        )  # fmt: skip


def wishes_in(path: Path) -> Wishes:
    """The wishes of a file. Raises `PlanError` with what is wrong and where."""
    try:
        tree = read_toml(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise PlanError(f"{path}: cannot be read: {error.strerror or error}") from None
    except ValueError as error:
        raise PlanError(f"{path}: not valid TOML: {error}") from None
    return wishes_of(tree, str(path))


def wishes_of(tree: Mapping[str, Any], where: str) -> Wishes:
    """The wishes that a table of keys describes; `where` names it in messages.

    Raises `PlanError`.
    """
    _known(tree, (*_LISTS, *_TEXTS, _YEARS, *_TABLES), where)
    years = tree.get(_YEARS, 0)
    if not isinstance(years, int) or not (years == 0 or 1000 <= years <= 2900):
        _fail(where, f"'{_YEARS}' is the first of the hundred years in which years of two digits "
                     "lie, such as 1930")  # fmt: skip
    for key in _LISTS:
        value = tree.get(key, [])
        if not isinstance(value, list) or not all(isinstance(each, str) for each in value):
            _fail(where, f"'{key}' takes a list of names of rules")
    for key in _TEXTS:
        if not isinstance(tree.get(key, ""), str):
            _fail(where, f"'{key}' takes a text in quotes")
    own = [_replacing(keys, f"{where}, [[replace]] {number}")
           for number, keys in enumerate(_tables(tree, "replace", where), 1)]  # fmt: skip
    own += [_mapping(keys, f"{where}, [[words]] {number}")
            for number, keys in enumerate(_tables(tree, "words", where), 1)]  # fmt: skip
    texts = {key: str(tree.get(key, "")) for key in _TEXTS}
    return Wishes(tuple(tree.get("rules", ())), tuple(tree.get("without", ())), **texts,
                  own=tuple(own), years_from=years)  # fmt: skip


def _tables(tree: Mapping[str, Any], key: str, where: str) -> list[Mapping[str, Any]]:
    value = tree.get(key, [])
    if not isinstance(value, list) or not all(isinstance(each, dict) for each in value):
        _fail(where, f"'{key}' is written as [[{key}]]")
    return value


def _known(keys: Mapping[str, Any], allowed: Sequence[str], where: str) -> None:
    for key in keys:
        if key not in allowed:
            hint = did_you_mean(key, allowed) or f"; known are {', '.join(allowed)}"
            _fail(where, f"unknown key '{key}'{hint}")


def _fail(where: str, problem: str) -> NoReturn:
    raise PlanError(f"{where}: {problem}")


def _field(keys: Mapping[str, Any], where: str) -> tuple[str, ...]:
    """The beginning of the paths that a rule is for; empty for all."""
    said = keys.get("field", "")
    if not isinstance(said, str):
        _fail(where, "'field' takes a field path")
    if not said:
        return ()
    try:
        path = parse(said)
    except PathError as error:
        raise PlanError(f"{where}: {error.problem}\n{error.marked()}") from None
    if path.uses or path.position or (path.label and path.field != "custom"):
        _fail(where, f"'{said}': a rule is for a field and its part; leave out use and position")
    return (said,)


def _replacing(keys: Mapping[str, Any], where: str) -> Rule:
    import regex  # it can be told to stop; and is only needed where such a rule is

    _known(keys, _REPLACE_KEYS, where)
    find, new = keys.get("find", ""), keys.get("with", "")
    if not isinstance(find, str) or not find or not isinstance(new, str):
        _fail(where, "it needs 'find' and 'with', each a text in quotes")
    for key in ("whole", "pattern", "case"):
        if not isinstance(keys.get(key, False), bool):
            _fail(where, f"'{key}' takes true or false")
    flags = 0 if keys.get("case", True) else regex.IGNORECASE
    try:
        pattern = regex.compile(find if keys.get("pattern") else regex.escape(find), flags)
    except regex.error as error:
        _fail(where, f"'{find}' is not a regular expression: {error}")
    try:
        template = new if keys.get("pattern") else new.replace("\\", r"\\")
        pattern.sub(template, "")
        if pattern.groups == 0 and re.search(r"\\[1-9]", template) and keys.get("pattern"):
            _fail(where, f"'{new}' names a group that 'find' does not have")
    except (regex.error, IndexError) as error:
        _fail(where, f"'{new}' cannot be put in: {error}")
    judge = _Replacing(pattern, template, new, bool(keys.get("whole")), where)
    return Rule("replace", _field(keys, where), f"'{find}' by '{new}'", (), judge)


@dataclass(slots=True)
class _Replacing:
    """Find and replace; what says the new text already stays, so that twice is as good as once.

    A pattern that tries a text in too many ways is stopped, and the value left.
    """

    pattern: regex.Pattern[str]
    template: str
    new: str
    whole: bool
    where: str
    slow: int = 0

    def __call__(self, text: str, _: Around) -> Verdict:
        """The verdict on a text. Raises `PlanError` where the pattern is slow again and again."""
        try:
            made = self._made(text)
        except TimeoutError:
            self.slow += 1
            if self.slow >= _MOST_SLOW:
                _fail(self.where, f"'{self.pattern.pattern}' took longer than {_SECONDS:g} s on "
                      f"{self.slow} values; write it so that it finds in one way only")  # fmt: skip
            return Verdict(doubt=f"'{self.pattern.pattern}' takes too long for this value; left")
        return LEFT if made == text else Verdict(made)

    def _made(self, text: str) -> str:
        pattern, new = self.pattern, self.new
        if self.whole:
            found = pattern.fullmatch(text, timeout=_SECONDS)
            return str(found.expand(self.template)) if found else text
        if new and new in text and pattern.search(new, timeout=_SECONDS):
            pieces = [pattern.sub(self.template, piece, timeout=_SECONDS)
                      for piece in text.split(new)]  # fmt: skip
            return new.join(pieces)
        return str(pattern.sub(self.template, text, timeout=_SECONDS))


_SECONDS, _MOST_SLOW = 1.0, 5
"""How long a pattern may look at one value, and how many values it may give up on."""


def _mapping(keys: Mapping[str, Any], where: str) -> Rule:
    _known(keys, _WORDS_KEYS, where)
    values = keys.get("values", {})
    if not isinstance(values, dict) or not values:
        _fail(where, "it needs 'values', as { A = \"Active\" }")
    if not all(isinstance(each, str) for each in values.values()):
        _fail(where, "'values' takes texts in quotes")
    if chained := next((new for new in values.values() if values.get(new, new) != new), ""):
        _fail(where, f"'{chained}' is both a word to replace and one to put in")
    return Rule("words", _field(keys, where), ", ".join(values), (),
                partial(_said_otherwise, dict(values)))  # fmt: skip


def _said_otherwise(values: Mapping[str, str], text: str, _: Around) -> Verdict:
    new = values.get(text.strip(), text)
    return LEFT if new == text else Verdict(new)
