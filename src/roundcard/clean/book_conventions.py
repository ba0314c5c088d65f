"""What a whole book tells of its own habits, which no single value can."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from itertools import islice
from typing import NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import ADR_PARTS
from roundcard.clean.dates import order_told
from roundcard.clean.names import in_one_case
from roundcard.clean.splitting import reads_as

_SHARE, _FEWEST = 0.8, 5
_NAME_PARTS = ("name/family", "name/given", "name/additional")
_ENOUGH = 5_000
"""Whole names that tell which part of them stands first."""
_DATES = {"bday": "birthday", "anniversary": "anniversary", "deathdate": "deathdate"}
_LOCALITY = ADR_PARTS.index("locality")
_WHOLE = "name/full"


class Habits(NamedTuple):
    """How a book writes some of its fields, by their paths."""

    uniform: frozenset[str] = frozenset()
    """Names that it writes in one letter case."""
    orders: Mapping[str, str] = {}
    """The order of dates (``day``, ``month``, ``mixed``) and whole names (``family``)."""


def habits_of(
    contacts: Iterable[Contact], known: Mapping[str, str] | None = None, most: int = 0
) -> Habits:
    """What all contacts together tell, in one pass that keeps counts only.

    `known` are orders that are told already, as by the date style of a table's column; they
    stand whatever the dates that are left over tell. `most` stops after so many contacts, where
    there are no dates that a later one could put in another order.
    """
    cases: dict[str, list[int]] = {}
    dates: dict[str, Counter[str]] = {}
    names: Counter[str] = Counter()
    seen = 0
    for contact in islice(contacts, most or None):
        for prop in contact.properties:
            name = prop.head.name
            if name in _DATES:
                if told := order_told(prop.text):
                    dates.setdefault(_DATES[name], Counter())[told] += 1
                continue
            for path, text in _names(name, prop):
                counts = cases.get(path)
                if counts is None:
                    counts = cases[path] = [0, 0, 0]
                counts[0] += 1
                if (text.isupper() or text.islower()) and in_one_case(text):
                    counts[1 if text.isupper() else 2] += 1
                if path == _WHOLE and seen < _ENOUGH and not prop.rides:
                    seen += 1
                    names[reads_as(text)] += 1
    orders = {path: order for path, told in dates.items() if (order := _order(told))}
    first, second = names["given"], names["family"]
    if second >= _FEWEST and second >= _SHARE * (first + second):
        orders[_WHOLE] = "family"
    return Habits(_uniform(cases), orders | dict(known or {}))


def _names(name: str, prop: Property) -> Iterator[tuple[str, str]]:
    if name == "fn":
        yield _WHOLE, prop.text
    elif name == "n":
        for path, component in zip(_NAME_PARTS, prop.components, strict=False):
            if component:
                yield path, component if isinstance(component, str) else " ".join(component)
    elif name == "nickname":
        yield "nickname", prop.text
    elif name == "adr":
        parts = prop.components
        if len(parts) > _LOCALITY and parts[_LOCALITY]:
            yield "address/locality", str(parts[_LOCALITY])


def _uniform(cases: Mapping[str, list[int]]) -> frozenset[str]:
    return frozenset(
        path
        for path, (count, large, small) in cases.items()
        if count >= _FEWEST and max(large, small) >= _SHARE * count
    )


def _order(told: Counter[str]) -> str:
    if told["day"] and told["month"]:
        return "mixed"
    for order in ("day", "month"):
        if told[order]:
            return order
    return "day" if told["dots"] and not told["either"] else ""
