"""What a cleaning rule is."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from types import MappingProxyType
from typing import NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.head import Head, Value
from roundcard.card.origin import changed
from roundcard.errors import RoundCardError
from roundcard.tally import Fate, Reason, Why, number_of


class Around(NamedTuple):
    """What a rule may know beside the value itself."""

    path: str
    """The field path of the value, without position."""
    region: str = ""
    """The ISO 3166 code of the country that numbers without a country code are of; empty where
    that is not known."""
    at_home: bool = False
    """Whether it is the contact's own address that names the region."""
    phone: str = "international"
    """The form that phone numbers get: ``international`` or ``national``."""
    uniform: frozenset[str] = frozenset()
    """The paths of names that the whole book writes in one letter case."""
    countries: str = ""
    """How countries are written: ``code``, or the code of a language; empty to leave them."""
    orders: Mapping[str, str] = MappingProxyType({})
    """By path, what the whole book tells of an order: for dates ``day``, ``month`` or ``year``
    (which stands first), for names ``given`` or ``family``; missing where it does not tell."""
    years_from: int = 0
    """The first of the hundred years in which years of two digits lie; 0 where nobody said."""
    this_year: int = 0
    """The year in which the work is done: no birthday is after it. 0 where it is not known."""
    known_names: bool = False
    """Whether nearly all whole names of the book hold a known given name."""
    sure_only: bool = False
    """Whether a change that is not sure is only reported."""


class Verdict(NamedTuple):
    """What a rule says of a value."""

    text: str | None = None
    """The value as it should be; empty to drop it, None to leave it."""
    doubt: str = ""
    """What is doubtful about it, for a person to decide."""


UNNAMED = number_of(Reason(Fate.CHANGED, Why.UNSAID))
"""The reason in the origin of what a rule changed, until it gets the rule's name."""


def marked(origin: int) -> int:
    """The origin of a value that a rule changes, which need not know its own name."""
    return changed(origin, UNNAMED)


LEFT = Verdict()
"""The rule has nothing to say."""


def broke_down(error: Exception) -> str:
    """The doubt about what a rule was at when an error stopped it."""
    return f"the rule broke down on it ({type(error).__name__}); left as it is"


class Reshaped(NamedTuple):
    """What becomes of one property of a contact."""

    at: int
    """Which of the contact's properties, from 0; all of them for what is put behind them."""
    made: tuple[Property, ...]
    """What stands in its place: itself changed, several, or nothing."""
    path: str
    before: str
    after: str
    """As a person reads it in a list of changes."""
    doubt: str = ""
    """Why nothing is done, where a person should look; then the rest says only what it is."""


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule: its name, what it is for, and the function that says what becomes of a value."""

    name: str
    fields: tuple[str, ...]
    """The first words of the paths it is for; empty for all fields of text."""
    what: str
    examples: tuple[tuple[str, str, str], ...]
    """Path, before and after; the same before and after where it must do nothing."""
    judge: Callable[[str, Around], Verdict]
    usual: bool = True
    """Whether it is one of the usual rules, which are applied where none is named."""
    region: str = ""
    """The region that the examples are for."""
    quiet: re.Pattern[str] | None = None
    """What matches it whole is a text of which the rule says nothing, wherever it stands."""

    def says(self, text: str, around: Around) -> Verdict:
        """What the rule says of a value. Where it breaks down, the value stays, and is told: one
        value ends no run."""
        if self.quiet is not None and self.quiet.fullmatch(text):
            return LEFT
        try:
            found = self.judge(text, around)
            if around.sure_only and found.doubt and found.text is not None:
                return Verdict(doubt=found.doubt)
            return found
        except RoundCardError:
            raise
        except Exception as error:  # whatever it is, the rest goes on
            return Verdict(doubt=broke_down(error))

    def loud(self, texts: Iterable[str], around: Around) -> dict[str, Verdict]:
        """Those texts of which the rule has something to say, with what it says."""
        asked = self.says if around.sure_only else self.judge
        try:
            return {text: said for text in texts if (said := asked(text, around)) is not LEFT}
        except Exception:  # on one of them, of which it says so
            asked = self.says
            return {text: said for text in texts if (said := asked(text, around)) is not LEFT}

    def concerns(self, path: str) -> bool:
        """Whether the rule is for values at a path."""
        return not self.fields or path.startswith(self.fields)


class Derived(NamedTuple):
    """What a rule puts behind the properties of many contacts with the same heads."""

    head: Head
    of: int
    """Which of the properties it is derived from."""
    values: Sequence[tuple[str, ...] | None]
    """A structured value for each contact: empty for one that gets none, None for one that the
    rule must see as a whole."""


class Folded(NamedTuple):
    """Which values of many contacts say what others of the same contact say."""

    gone: dict[int, list[int]]
    """By property, the contacts (both by their numbers) whose text is folded into another one."""
    odd: set[int]
    """Contacts that the rule must see as a whole."""


@dataclass(frozen=True, slots=True)
class Reshaping:
    """A rule that looks at a whole contact: splits, joins and folds its properties.

    Its work is a pure function: it gives what should become of which property, and changes
    nothing itself.
    """

    name: str
    fields: tuple[str, ...]
    what: str
    examples: tuple[tuple[str, str, str], ...]
    work: Callable[[Contact, Around], Iterable[Reshaped]]
    needs: Callable[[Sequence[Head]], bool]
    """Whether it may have anything to do with a contact whose properties have these heads."""
    usual: bool = True
    may: (
        Callable[[Sequence[Head], Sequence[bool], Sequence[Sequence[Value]]], Iterable[int]] | None
    ) = None
    """Which of many contacts with such heads it may reshape, by their numbers: given are also
    which properties are no values of their own, and a column of values for each; None for all."""
    beside: (
        Callable[
            [Sequence[Head], Sequence[bool], Sequence[Sequence[Value]], Around], Derived | None
        ]
        | None
    ) = None
    """What it derives from one value of many contacts, given as for `may`; None where it must see
    them."""
    folds: Callable[[Sequence[Head], Sequence[bool], Sequence[Sequence[Value]]], Folded] | None = (
        None
    )
    """Which values of many contacts, given as for `may`, it folds into others of theirs; asked in
    the rule's turn, in place of `may`."""
    shown: Callable[[tuple[str, ...]], str] = " ".join
    """What it derived, for a list of changes."""
    grows: bool = False
    """Whether it makes values for which a table that keeps its layout may have no column."""


AnyRule = Rule | Reshaping


def with_names(*names: str) -> Callable[[Sequence[Head]], bool]:
    """Tells contacts that have a property of all these names."""
    return partial(_has_all, names)


def _has_all(names: Sequence[str], heads: Sequence[Head]) -> bool:
    return {head.name for head in heads}.issuperset(names)
