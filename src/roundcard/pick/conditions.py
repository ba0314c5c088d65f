"""Conditions: a small language to say which people are meant.

::

    condition = and-part *( "or" and-part )
    and-part  = not-part *( "and" not-part )
    not-part  = "not" not-part | "(" condition ")" | test
    test      = path ( "present" | "missing" )
              | path [ "exactly" ] compare value
              | path [ "exactly" ] "in" "(" value *( "," value ) ")"
              | path ( "before" | "after" | "on" ) date
              | "count" path number-compare number
              | "record" number-compare number | "record" "in" "(" number … ")"
              | "source" compare value
              | "has" "trouble"
    compare   = "=" | "!=" | "starts" | "ends" | "contains" | number-compare
    number-compare = "=" | "!=" | "<" | "<=" | ">" | ">="
    value     = "text in quotes" | 'text in quotes' | word
    date      = 2024-12-31 | 2024-12 | 2024 | --12-31

A path is a field path; one with a space in it stands in quotes. Letter case and accents do not
count unless ``exactly`` stands before the comparison. A test of a path holds where *any* value that
fits meets it; ``!=`` holds where none is equal.
"""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Sequence
from typing import NamedTuple, NoReturn

from roundcard.card import equality
from roundcard.card.contact import Contact
from roundcard.card.origin import unpack
from roundcard.card.paths import FIELD_WORDS, FieldPath, parse
from roundcard.errors import ConditionError, PathError, did_you_mean
from roundcard.pick.path_values import values_at
from roundcard.survey.finding import has_trouble
from roundcard.values.dates import PartialDate, parse_iso
from roundcard.values.text import loosely

Test = Callable[[Contact], bool]
Key = Callable[[str], str]

_TOKEN = re.compile(
    r"""\s*(?:(?P<quoted>"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*')|(?P<mark><=|>=|!=|[=<>(),])"""
    r"""|(?P<word>[^\s"'()=<>!,]+)|(?P<odd>\S))"""
)
_NUMBERS: dict[str, Callable[[float, float], bool]] = {
    "=": operator.eq, "!=": operator.ne, "<": operator.lt, "<=": operator.le,
    ">": operator.gt, ">=": operator.ge,
}  # fmt: skip
_TEXTS: dict[str, Callable[[str, str], bool]] = {
    "=": operator.eq, "starts": str.startswith, "ends": str.endswith,
    "contains": operator.contains,
}  # fmt: skip
_OPERATORS = (*_NUMBERS, "starts", "ends", "contains", "in", "present", "missing", "before",
              "after", "on", "exactly")  # fmt: skip
_WORDS = ("and", "or", "not", "count", "record", "source", "has")
_DEEPEST = 100


class _Token(NamedTuple):
    kind: str
    """``quoted``, ``mark``, ``word``, ``odd`` or ``end``."""
    text: str
    start: int
    end: int

    @property
    def lower(self) -> str:
        return (
            self.text.lower() if self.kind == "word" else self.text if self.kind == "mark" else ""
        )


class Condition:
    """A condition, compiled. It is called with a contact."""

    def __init__(self, text: str, sources: Sequence[str] = ()) -> None:
        """Compile `text`; `sources` are the names that ``source`` is compared with.

        Raises `ConditionError`.
        """
        self.text = text
        self.sources = tuple(sources)
        self._test = _Parser(text, self.sources).condition()

    def __call__(self, contact: Contact) -> bool:
        """Whether a contact meets it."""
        return self._test(contact)

    def __reduce__(self) -> tuple[type[Condition], tuple[str, tuple[str, ...]]]:
        """Other processes compile it again."""
        return Condition, (self.text, self.sources)


class _Parser:
    """Takes a condition from left to right, and makes a closure of it."""

    def __init__(self, text: str, sources: Sequence[str]) -> None:
        self.text = text
        self.sources = sources
        self.tokens = _tokens(text)
        self.at = 0
        self.depth = 0

    def condition(self) -> Test:
        """The whole condition."""
        if self.peek().kind == "end":
            self.fail("a condition is empty", self.peek())
        test = self.either()
        if self.peek().kind != "end":
            token = self.peek()
            hint = did_you_mean(token.text, ("and", "or"))
            self.fail(
                f"'{token.text}' does not belong here; 'and' or 'or' joins tests{hint}", token
            )
        return test

    def peek(self) -> _Token:
        return self.tokens[self.at]

    def take(self) -> _Token:
        token = self.tokens[self.at]
        self.at = min(self.at + 1, len(self.tokens) - 1)
        return token

    def fail(self, problem: str, token: _Token) -> NoReturn:
        raise ConditionError(
            problem, self.text or " ", token.start, max(token.end, token.start + 1)
        )

    def either(self) -> Test:
        tests = [self.both()]
        while self.peek().lower == "or":
            self.take()
            tests.append(self.both())
        if len(tests) == 1:
            return tests[0]
        return lambda contact: any(test(contact) for test in tests)

    def both(self) -> Test:
        tests = [self.one()]
        while self.peek().lower == "and":
            self.take()
            tests.append(self.one())
        if len(tests) == 1:
            return tests[0]
        return lambda contact: all(test(contact) for test in tests)

    def one(self) -> Test:
        self.depth += 1
        if self.depth > _DEEPEST:
            self.fail("too many nested brackets or 'not'", self.peek())
        try:
            if self.peek().lower == "not":
                self.take()
                test = self.one()
                return lambda contact: not test(contact)
            if self.peek().lower == "(":
                opened = self.take()
                test = self.either()
                if self.take().lower != ")":
                    self.fail("this bracket is not closed", opened)
                return test
            return self.test()
        finally:
            self.depth -= 1

    def test(self) -> Test:
        token = self.take()
        following = self.peek().lower
        if token.lower == "count":
            return self.count()
        if token.lower == "has":
            if self.peek().lower != "trouble":
                self.fail("'has' is followed by 'trouble'", self.peek())
            self.take()
            return has_trouble
        if token.lower == "record":
            return self.record()
        if token.lower == "source" and following in _OPERATORS:
            return self.source()
        return self.compared(self.path(token))

    def path(self, token: _Token) -> FieldPath:
        if token.kind == "end":
            self.fail("something is missing here: a field path", token)
        if token.kind not in ("word", "quoted") or token.lower in ("and", "or"):
            self.fail(f"'{token.text}' where a field path is expected", token)
        inside = token.kind == "quoted"
        text = _unquoted(token.text) if inside else token.text
        try:
            return parse(text)
        except PathError as error:
            start = token.start + inside + error.start
            problem = error.problem
            if error.start == 0 and "is not a field" in problem:
                hint = did_you_mean(text, (*FIELD_WORDS, *_WORDS))
                hint = hint or "; field paths look like phone/cell, name/family"
                problem = f"'{text}' is not a field{hint}"
            raise ConditionError(
                problem, self.text, start, start + error.end - error.start
            ) from None

    def compared(self, path: FieldPath) -> Test:
        token = self.take()
        said = token.lower
        if said == "present":
            return lambda contact: any(text.strip() for text in values_at(contact, path))
        if said == "missing":
            return lambda contact: not any(text.strip() for text in values_at(contact, path))
        if said in ("before", "after", "on"):
            return _dated(path, said, self.date())
        exact = said == "exactly"
        if exact:
            token = self.take()
            said = token.lower
        key = _key(path, exact)
        if said == "in":
            wanted = {key(text) for text in self.values()}
            return lambda contact: any(key(text) in wanted for text in values_at(contact, path))
        if said == "!=":
            other = key(self.value())
            return lambda contact: all(key(text) != other for text in values_at(contact, path))
        if said in _TEXTS:
            return _texted(path, key, _TEXTS[said], self.value())
        if said in _NUMBERS:
            return _ordered(path, _NUMBERS[said], self.number())
        if token.kind == "end":
            self.fail(
                f"what about {path}? 'present', '=', 'starts', 'contains' … may follow", token
            )
        hint = did_you_mean(token.text, _OPERATORS)
        hint = hint or f"; there are {', '.join(_OPERATORS)}"
        return self.fail(f"'{token.text}' is not a comparison{hint}", token)

    def value(self) -> str:
        token = self.take()
        if token.kind == "quoted":
            return _unquoted(token.text)
        if token.kind != "word" or token.lower in ("and", "or"):
            self.fail("a value is expected here; put it in quotes", token)
        return token.text

    def values(self) -> list[str]:
        opened = self.take()
        if opened.lower != "(":
            self.fail('\'in\' is followed by values in brackets: in ("A", "B")', opened)
        found = [self.value()]
        while self.peek().lower == ",":
            self.take()
            found.append(self.value())
        if self.take().lower != ")":
            self.fail("this bracket is not closed", opened)
        return found

    def number(self) -> float:
        token = self.peek()
        try:
            return float(self.value())
        except ValueError:
            self.fail("a number is expected here", token)

    def date(self) -> PartialDate:
        token = self.peek()
        date = parse_iso(self.value())
        if date is None:
            self.fail(
                "a date is expected here, such as 2024-12-31, 2024-12, 2024 or --12-31", token
            )
        return date

    def count(self) -> Test:
        path = self.path(self.take())
        compare = self.number_compare()
        wanted = self.number()
        return lambda contact: compare(sum(1 for _ in values_at(contact, path)), wanted)

    def number_compare(self) -> Callable[[float, float], bool]:
        token = self.take()
        if token.lower not in _NUMBERS:
            self.fail(f"one of {' '.join(_NUMBERS)} is expected here", token)
        return _NUMBERS[token.lower]

    def record(self) -> Test:
        if self.peek().lower == "in":
            self.take()
            opened = self.peek()
            try:
                numbers = {int(text) for text in self.values()}
            except ValueError:
                self.fail("records are numbered from 1", opened)
            return lambda contact: contact.record in numbers
        compare = self.number_compare()
        wanted = self.number()
        return lambda contact: compare(contact.record, wanted)

    def source(self) -> Test:
        token = self.take()
        if token.lower == "!=":
            wanted = loosely(self.value())
            return lambda contact: loosely(self.named(contact)) != wanted
        if token.lower not in _TEXTS:
            self.fail("'source' is compared with =, !=, starts, ends or contains", token)
        compare, wanted = _TEXTS[token.lower], loosely(self.value())
        return lambda contact: compare(loosely(self.named(contact)), wanted)

    def named(self, contact: Contact) -> str:
        place = unpack(contact.origin)
        at = place.source if place else -1
        return self.sources[at] if 0 <= at < len(self.sources) else ""


def _tokens(text: str) -> list[_Token]:
    found, at = [], 0
    while at < len(text) and (match := _TOKEN.match(text, at)):
        kind = match.lastgroup or "odd"
        found.append(_Token(kind, match[kind], match.start(kind), match.end(kind)))
        at = match.end()
    for token in found:
        if token.kind == "odd":
            problem = "this quote is not closed" if token.text in "\"'" else (
                f"'{token.text}' does not belong in a condition")  # fmt: skip
            raise ConditionError(problem, text, token.start, token.end)
    return [*found, _Token("end", "", len(text.rstrip()), len(text.rstrip()) + 1)]


def _unquoted(text: str) -> str:
    return re.sub(r"\\(.)", r"\1", text[1:-1])


def _key(path: FieldPath, exact: bool) -> Key:
    """How the values of a field are compared."""
    if exact:
        return str.strip
    if path.field == "phone" and not path.part:
        return equality.number
    if path.field == "email" and not path.part:
        return equality.email
    return loosely


def _texted(path: FieldPath, key: Key, compare: Callable[[str, str], bool], said: str) -> Test:
    if compare is not operator.eq and key is equality.number:
        key = loosely  # a part of a number is compared as it is written
    wanted = key(said)
    return lambda contact: any(compare(key(text), wanted) for text in values_at(contact, path))


def _ordered(path: FieldPath, compare: Callable[[float, float], bool], wanted: float) -> Test:
    def test(contact: Contact) -> bool:
        for text in values_at(contact, path):
            try:
                if compare(float(text.replace(",", ".")), wanted):
                    return True
            except ValueError:
                continue
        return False

    return test


def _dated(path: FieldPath, said: str, wanted: PartialDate) -> Test:
    goal = [part for part in (wanted.year, wanted.month, wanted.day) if part]

    def test(contact: Contact) -> bool:
        for text in values_at(contact, path):
            date = parse_iso(text)
            if date is None:
                continue
            parts = ([date.year, date.month, date.day] if wanted.year
                     else [date.month, date.day])  # fmt: skip
            here = parts[: len(goal)]
            if 0 in here or (wanted.year and not date.year):
                continue
            if here == goal if said == "on" else here < goal if said == "before" else here > goal:
                return True
        return False

    return test
