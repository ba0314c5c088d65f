"""Which value survives where contacts are merged: the whole policy, in one place.

Of what there is one of (a name, a birthday), one value is taken: what was picked in the sheet, then
that of the contact picked as the lead, then as `Policy.preferences` say, then the newest, then the
fullest, then the first. Of what there are many of (numbers, addresses, categories, notes) all are
taken, equal ones once, in the best spelling; those of preferred sources come first.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import TABLE
from roundcard.card.paths import FIELD_WORDS
from roundcard.errors import UsageError, did_you_mean
from roundcard.merge.equivalence import fullness

Update = Literal["fill", "add", "replace"]
Losers = Literal["", "note", "extension"]
LOSERS: tuple[Losers, ...] = ("", "note", "extension")
UPDATES: tuple[Update, ...] = ("fill", "add", "replace")
NEWEST, FULLEST = "newest", "fullest"
OWN_WAYS = {
    "uid": "that of the contact that leads, or comes first",
    "revised": "the newest",
    "created": "the oldest",
}
"""Fields of the record itself, of which no policy decides."""
_ONE = "one: picked in the sheet, of the lead you picked, {}, first"
_ALL = "all of them, equal ones once, the best spelling"


class Preference(NamedTuple):
    """What is preferred for a field."""

    field: str
    """The trade word of the field; empty for all of them."""
    what: str
    """`NEWEST`, `FULLEST`, or the name of a source."""


@dataclass(frozen=True, slots=True)
class Policy:
    """How values survive."""

    preferences: tuple[Preference, ...] = ()
    updates: tuple[tuple[str, Update], ...] = (("", "fill"),)
    """What becomes of a field of a person whom the book has; the first pair without a field is
    for all others."""
    losers: Losers = ""
    """Where single values go that were not taken, besides the merge record."""
    region: str = ""
    """The country of telephone numbers without a country code."""

    def criteria(self, field: str) -> list[str]:
        """What decides of a field, the weightiest first: source names, newest, fullest."""
        own = [each.what for each in self.preferences if each.field == field]
        general = [each.what for each in self.preferences if not each.field]
        return list(dict.fromkeys([*own, *general, NEWEST, FULLEST]))

    def update(self, field: str) -> Update:
        """What an update does to a field of a person whom the book has."""
        ways = dict(self.updates)
        return ways.get(field, ways.get("", "fill"))

    def explained(self) -> list[tuple[str, str]]:
        """Each field with the way in which its values survive, in words."""
        rows = []
        for word in FIELD_WORDS:
            fields = [field for field in TABLE if field.path == word]
            if word in OWN_WAYS:
                rows.append((word, OWN_WAYS[word]))
            elif fields[0].many:
                first = [what for what in self.criteria(word) if what not in (NEWEST, FULLEST)]
                more = f"; those of {', then '.join(first)} first" if first else ""
                rows.append((word, _ALL + more))
            else:
                rows.append((word, _ONE.format(", ".join(self.criteria(word)))))
        return rows


@dataclass(slots=True)
class Member:
    """A contact that is merged with others."""

    contact: Contact
    source: str = ""
    leads: bool = False
    """Whether it was picked as the one whose values go first."""
    keeps: frozenset[str] = frozenset()
    """Fields of which its value was picked."""
    book: bool = False
    """Whether it is of the book that is added to."""

    @property
    def stamp(self) -> str:
        """When it last changed, as digits; empty where that is not known."""
        revised = self.contact.first("rev")
        return "".join(filter(str.isdecimal, revised.text))[:14] if revised is not None else ""


def order_of(members: Sequence[Member], policy: Policy, field: str = "") -> list[int]:
    """The members in the order in which values of many are taken."""
    sources = [what for what in policy.criteria(field) if what not in (NEWEST, FULLEST)]

    def rank(at: int) -> tuple[bool, bool, int, int]:
        member = members[at]
        preferred = sources.index(member.source) if member.source in sources else len(sources)
        return not member.book, not member.leads, preferred, at

    return sorted(range(len(members)), key=rank)


def winner_of(
    members: Sequence[Member], values: dict[int, Property], policy: Policy, field: str
) -> int:
    """Whose single value of a field survives; `values` has those of the members that have one."""

    def rank(at: int) -> tuple[float, ...]:
        member = members[at]
        told: list[float] = [field not in member.keeps]
        if any(each.book for each in members):
            told.append(member.book == (policy.update(field) == "replace"))
        told.append(not member.leads)
        for what in policy.criteria(field):
            if what == NEWEST:
                told.append(-float(member.stamp.ljust(14, "0") or 0) if member.stamp else 0.0)
            elif what == FULLEST:
                told += [-fullness(values[at]), -member.contact.size()]
            else:
                told.append(member.source != what)
        return (*told, at)

    return min(values, key=rank)


def preferences_in(texts: Sequence[str], sources: Sequence[str]) -> tuple[Preference, ...]:
    """The preferences of a command line: ``SOURCE``, ``newest``, ``FIELD=SOURCE``, …

    Raises `UsageError`.
    """
    found = []
    for text in texts:
        field, equals, what = text.partition("=")
        if not equals or (text in sources and field not in FIELD_WORDS):
            field, what = "", text
        _demand_field(field.strip(), "--prefer", text)
        found.append(Preference(field.strip(), _preferred(what.strip(), sources, text)))
    return tuple(found)


def _preferred(what: str, sources: Sequence[str], text: str) -> str:
    if what in (NEWEST, FULLEST):
        return what
    named = [name for name in sources if what in (name, name.replace("\\", "/").rpartition("/")[2])]
    if len(set(named)) != 1:
        ways = ", ".join(["newest", "fullest", *sources])
        raise UsageError(f"--prefer {text}: unknown source '{what}'; choose from {ways}")
    return named[0]


def updates_in(texts: Sequence[str]) -> tuple[tuple[str, Update], ...]:
    """What ``--update`` says: ``add``, ``phone=add``, … Raises `UsageError`."""
    if not texts:
        return (("", "fill"),)
    found: list[tuple[str, Update]] = []
    for text in texts:
        field, equals, way = text.rpartition("=")
        _demand_field(field.strip(), "--update", text)
        known = next((each for each in UPDATES if each == way.strip()), None)
        if known is None or (equals and not field.strip()):
            raise UsageError(
                f"--update {text}: unknown choice; use fill, add or replace, such as 'add' or "
                "'phone=add'"
            )
        found.append((field.strip(), known))
    return tuple(found)


def losers_in(text: str) -> Losers:
    """What ``--losers`` says. Raises `UsageError`."""
    found = next((each for each in LOSERS if each == text), None)
    if found is None:
        raise UsageError(f"--losers {text}: unknown choice; choose from note, extension")
    return found


def _demand_field(field: str, option: str, text: str) -> None:
    if field and field not in FIELD_WORDS:
        guess = did_you_mean(field, FIELD_WORDS)
        raise UsageError(f"{option} {text}: unknown field '{field}'{guess}")
