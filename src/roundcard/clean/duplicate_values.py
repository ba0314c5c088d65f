"""The rule for values that are said twice within one contact."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from itertools import combinations

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.equality import key
from roundcard.card.head import Component, Head, Value, with_params
from roundcard.clean.rule import Around, Folded, Reshaped, Reshaping

_FIELDS = frozenset(
    ("tel", "email", "adr", "label", "url", "impp", "socialprofile", "note", "org", "title",
     "role", "photo", "x-roundcard-custom", "related")
)  # fmt: skip
_TEXTS = frozenset(("tel", "email", "url", "impp", "note", "title", "role"))
"""Fields whose values are one text each."""
_NO_MARKS = {ord(mark): None for mark in " +-().\u00a0"}
_LISTS = frozenset(("categories", "nickname"))


def said_twice(contact: Contact, _: Around) -> Iterator[Reshaped]:
    """A value that an earlier equal one says is folded into it, where the earlier one has all its
    uses, or takes them over because it has none. The same number as home and as work stays."""
    properties = contact.properties
    lists = sum(1 for prop in properties if prop.head.name in _LISTS)
    apart = set()
    for name, places in _repeated(tuple([prop.head for prop in properties])):
        # equal values end alike: where all ends differ, nothing is said twice
        ends = [_end(properties[at].text) for at in places] if len(places) > 1 else []
        if len(set(ends)) == len(ends):
            apart.add(name)
    seen: dict[tuple[str, Value], int] = {}
    kept: dict[int, Property] = {}
    entries: dict[str, set[Value]] = {}
    for at, prop in enumerate(properties):
        name = prop.head.name
        if name in _LISTS:
            if len(prop.components) > 1 or lists > 1:
                yield from _entries(at, prop, entries.setdefault(name, set()))
            continue
        if name in apart or name not in _FIELDS or prop.rides or not prop.size():
            continue
        said = name, key(prop.value, prop.head.field.equality)
        first = seen.setdefault(said, at)
        if first == at:
            kept[at] = prop
            continue
        earlier = kept[first]
        if not _tied(contact, prop) and (made := _together(earlier.head, prop.head)) is not None:
            if made is not earlier.head:
                kept[first] = Property(made, earlier.value, earlier.origin)
                yield Reshaped(first, (kept[first],), "", "", "")
            yield Reshaped(at, (), prop.head.field.path, prop.text, "")


@lru_cache(maxsize=32_768)
def _repeated(heads: tuple[Head, ...]) -> tuple[tuple[str, tuple[int, ...]], ...]:
    """The fields that may say something twice, and where their values stand."""
    found: dict[str, list[int]] = {}
    for at, head in enumerate(heads):
        if head.name in _FIELDS:
            found.setdefault(head.name, []).append(at)
    return tuple((name, tuple(places)) for name, places in found.items())


def _end(text: str) -> str:
    """How a text ends, so that texts with other ends cannot be equal."""
    plain = text.translate(_NO_MARKS)
    return plain[-6:] if plain.isdecimal() and plain.isascii() else text[-1:].casefold()


def _tied(contact: Contact, prop: Property) -> bool:
    """Whether a group ties the property to a label or to others."""
    group = prop.head.group.lower()
    return bool(group) and any(
        other is not prop and other.head.group.lower() == group for other in contact.properties
    )


def _together(one: Head, other: Head) -> Head | None:
    """The head of two equal values as one; None where one would lose what it is for."""
    if other.altid or one.altid:
        return None
    if other.uses <= one.uses and (one.preferred or not other.preferred):
        return one
    if one.uses and not other.uses <= one.uses:
        return None
    types = tuple(use for use in other.param("type")) or one.param("type")
    best = min(filter(None, (one.preferred, other.preferred)), default=0)
    return with_params(one, type=types or None, pref=(str(best),) if best else None)


def _entries(at: int, prop: Property, said: set[Value]) -> Iterator[Reshaped]:
    """The entries of a list that no earlier one says."""
    value = prop.components
    fresh: list[int] = []
    gone: list[int] = []
    for index, entry in enumerate(value):
        told = key((entry,), prop.head.field.equality)
        (gone if told in said else fresh).append(index)
        said.add(told)
    if not gone:
        return
    texts = [str(value[index]) for index in gone]
    made: tuple[Property, ...] = ()
    if fresh:
        origins = tuple(prop.origin_of(index) for index in fresh)
        made = (prop.replaced(tuple(value[index] for index in fresh), origins),)
    yield Reshaped(at, made, prop.head.field.path, ", ".join(texts), "")


def _may_repeat(heads: Sequence[Head]) -> bool:
    """Whether a field stands there several times, or holds a list."""
    names = [head.name for head in heads if head.name in _FIELDS or head.name in _LISTS]
    return len(set(names)) < len(names) or not _LISTS.isdisjoint(names)


def _folded(
    heads: Sequence[Head], rides: Sequence[bool], columns: Sequence[Sequence[Value]]
) -> Folded:
    """Texts that an earlier one of the same field says, as `said_twice` folds them; contacts with
    anything else that may be said twice are left to it."""
    odd = set(_with_lists(heads, columns))
    gone: dict[int, list[int]] = {}
    for name, every in _repeated(tuple(heads)):
        places = [at for at in every if not rides[at]]
        alike = set(_alike(places, columns))
        if name not in _TEXTS or any(heads[at].group or heads[at].altid for at in places):
            odd |= alike
            continue
        for n in sorted(alike):
            seen: dict[Value, int] = {}
            for at in places:
                value = columns[at][n]
                first = seen.setdefault(key(value, heads[at].field.equality), at) if value else at
                made = _together(heads[first], heads[at]) if first != at else None
                if made is heads[first]:
                    gone.setdefault(at, []).append(n)
                elif made is not None:
                    odd.add(n)
    return Folded({at: [n for n in those if n not in odd] for at, those in gone.items()}, odd)


def _with_lists(heads: Sequence[Head], columns: Sequence[Sequence[Value]]) -> Iterator[int]:
    """The contacts with lists that may say something twice."""
    lists = [at for at, head in enumerate(heads) if head.name in _LISTS]
    if len(lists) > 1:
        yield from range(len(columns[0]))
    for at in lists:
        known = {value: _repeats(value) for value in set(columns[at])}
        yield from (n for n, value in enumerate(columns[at]) if known[value])


def _alike(places: Sequence[int], columns: Sequence[Sequence[Value]]) -> Iterator[int]:
    """The contacts of whom two values at some places may be equal."""
    for one, other in combinations(places, 2):
        for n, (mine, its) in enumerate(zip(columns[one], columns[other], strict=True)):
            if mine and its and _may_end_alike(mine[-1], its[-1]) and _end_of(mine) == _end_of(its):
                yield n


def _may_end_alike(one: Component, other: Component) -> bool:
    """Whether values may end alike whose last characters (or components) these are: those of two
    numbers are the same digit."""
    return one == other or not (str(one).isdecimal() and str(other).isdecimal())


@lru_cache(maxsize=65_536)
def _end_of(value: Value) -> str:
    return _end(_text(value))


def _repeats(value: Value) -> bool:
    keys = [key(item, "folded") for item in value]
    return len(set(keys)) < len(keys)


def _text(value: Value) -> str:
    return value if isinstance(value, str) else " ".join(flat(value))


RULE = Reshaping(
    "said-twice", ("phone", "email", "address", "url", "category", "note", "org"),
    "values that an equal one says, folded into it",
    (("category", "Skippers, skippers", "Skippers"),
     ("phone", "home 01632 960001, work 01632 960001", "home 01632 960001, work 01632 960001")),
    said_twice, _may_repeat, folds=_folded,
)  # fmt: skip
