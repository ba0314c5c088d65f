"""A merged contact taken apart again: its originals, with what was edited since on its own side."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.equality import folded, key, normal
from roundcard.card.fields import CUSTOM
from roundcard.card.head import with_params
from roundcard.card.origin import ADDED, TIED, is_added, tied
from roundcard.merge.equivalence import same, told
from roundcard.tally import Fate, Reason, Tally, Why, changed_by

_AS_BEFORE = Reason(Fate.CHANGED, Why.AS_BEFORE)
_MADE_BY_MERGE = Reason(Fate.LEFT_OUT, Why.MADE_BY_MERGE)
GONE = "taken out since the merge"


class Since(NamedTuple):
    """Something that was done to a merged contact after it was merged."""

    field: str
    before: str
    """Empty where a value was added."""
    after: str
    """Empty where a value was taken out."""
    sides: tuple[int, ...]
    """The originals that it went to."""


@dataclass(slots=True)
class Separated:
    """The originals again."""

    contacts: list[Contact]
    since: list[Since] = field(default_factory=list)
    unclaimed: list[Property] = field(default_factory=list)
    """Values of the merged contact that belong to none of them: the merge had made them of what
    they say."""
    kept: list[Property] = field(default_factory=list)
    """Values of which no original holds even a part; they stay with the first."""


def parted(
    now: Contact, result: Sequence[Property], originals: Sequence[Sequence[Property]]
) -> Separated:
    """The originals of a contact that is `now` what was merged into `result`.

    What was changed in it since is changed in the originals that said it; what was taken out is
    taken out of them; what was added goes to the first. Values that the contact has keep their
    origin, all others are added ones.
    """
    mine = _single(now.properties)
    then = _single(result)
    gone, new = _differences(then, mine)
    sides = [_Side(each) for each in originals]
    out = Separated([])
    for old, fresh in _changes(gone, new):
        _apply(sides, old, fresh, out)
    rest = [prop for prop in mine if _is_value(prop)]
    _claim(sides, rest)
    words = _words(prop for each in originals for prop in each)
    for prop in rest:
        (out.unclaimed if _is_made_of(prop, words) else out.kept).append(prop)
    for prop in out.kept:
        sides[0].append(prop)
    out.contacts = [Contact(side.joined(), now.origin if at == 0 else ADDED)
                    for at, side in enumerate(sides)]  # fmt: skip
    return out


def count(parted_: Separated, tally: Tally) -> None:
    """Count what became of the values of the merged contact."""
    for prop in parted_.unclaimed:
        tally.count(_MADE_BY_MERGE, tally.read_of(prop))


def likeness(now: Contact, result: Sequence[Property]) -> float:
    """How much of what was merged a contact still says, from 0 to 1."""
    then, there = _said(result), _said(now.properties)
    return len(then & there) / len(then) if then else 0.0


def nearness(now: Contact, result: Sequence[Property]) -> float:
    """How near a contact is to being just what was merged, from 0 to 1: values that both have
    among those that either has (Jaccard, 1901)."""
    then, there = _said(result), _said(now.properties)
    return len(then & there) / len(then | there) if then or there else 0.0


def _said(properties: Sequence[Property]) -> set[tuple[str, object]]:
    return {_exact(prop) for prop in _single(properties) if _is_value(prop)}


def _single(properties: Sequence[Property]) -> list[Property]:
    """Properties with one entry each where they are lists."""
    found = []
    for prop in properties:
        if prop.head.field.kind == "list" and len(prop.components) > 1 and not prop.rides:
            found += [
                prop.replaced((entry,), prop.origin_of(at))
                for at, entry in enumerate(prop.components)
            ]
        else:
            found.append(prop)
    return found


class _Side:
    """An original, its lists entry by entry."""

    def __init__(self, properties: Sequence[Property]) -> None:
        self.props: list[Property] = []
        self.of: list[int] = []
        """Which of the original's properties each one is, or is an entry of; -1 for a new one."""
        for at, prop in enumerate(properties):
            entries = _single([prop])
            self.props += entries
            self.of += [at] * len(entries)

    def remove(self, place: int) -> None:
        """Take a property out."""
        del self.props[place], self.of[place]

    def append(self, prop: Property) -> None:
        """Add a property that no original had."""
        self.props.append(prop)
        self.of.append(-1)

    def joined(self) -> list[Property]:
        """The properties, with the entries of each list together again."""
        found: list[Property] = []
        last = -1
        for prop, of in zip(self.props, self.of, strict=True):
            if of == last >= 0:
                both = (found[-1], prop)
                origins = tuple(
                    each.origin_of(at) for each in both for at in range(len(each.components))
                )
                value = (*found[-1].components, *prop.components)
                found[-1] = Property(found[-1].head, value, origins)
            else:
                found.append(prop)
            last = of
        return found


def _exact(prop: Property) -> tuple[str, object]:
    if prop.head.field.kind == "raw":
        return prop.head.name, normal(prop.raw if prop.raw is not None else prop.text)
    return prop.head.name, key(prop.value)


def _differences(
    then: Sequence[Property], now: Sequence[Property]
) -> tuple[list[Property], list[Property]]:
    """What is gone, and what is new."""
    left = [prop for prop in now if _is_value(prop)]
    gone = []
    for prop in then:
        if not _is_value(prop):
            continue
        at = next((at for at, each in enumerate(left) if _exact(each) == _exact(prop)), None)
        if at is None:
            gone.append(prop)
        else:
            del left[at]
    return gone, left


def _changes(
    gone: list[Property], new: list[Property]
) -> list[tuple[Property | None, Property | None]]:
    """Each value that is gone with the one that stands in its place, if any."""
    found: list[tuple[Property | None, Property | None]] = []
    left = list(new)
    for old in gone:
        near = [prop for prop in left if prop.head.name == old.head.name]
        fresh = max(near, key=lambda prop: len(prop.head.uses & old.head.uses), default=None)
        if fresh is not None:
            left = [prop for prop in left if prop is not fresh]
        found.append((old, fresh))
    return found + [(None, prop) for prop in left]


def _apply(
    sides: list[_Side], old: Property | None, fresh: Property | None, out: Separated
) -> None:
    """Do to the originals what was done to the merged contact."""
    went: list[int] = []
    for at, side in enumerate(sides):
        if old is None:
            break
        for place, prop in enumerate(side.props):
            if not _is_value(prop) or not same(prop, old):
                continue
            went.append(at)
            if fresh is None:
                side.remove(place)
            else:
                side.props[place] = Property(with_params(prop.head), fresh.value, ADDED, fresh.raw)
            break
    if fresh is not None and not went:
        sides[0].append(Property(with_params(fresh.head), fresh.value, ADDED, fresh.raw))
        went = [0]
    if went or fresh is not None:
        word = (old or fresh).head  # type: ignore[union-attr]
        out.since.append(Since(
            word.field.path or word.name, told(old) if old is not None else "",
            told(fresh) if fresh is not None else "", tuple(went),
        ))  # fmt: skip


def _words(properties: Iterable[Property]) -> dict[str, set[str]]:
    """The words that originals say, by field."""
    found: dict[str, set[str]] = {}
    for prop in properties:
        field_words = found.setdefault(prop.head.field.path or prop.head.name, set())
        field_words.update(folded(prop.text).split())
    return found


def _is_made_of(prop: Property, words: Mapping[str, set[str]]) -> bool:
    """Whether a merge can have made a value: of words that its originals have in that field, or as
    the bookkeeping of a new record."""
    if prop.head.name in _BOOKKEEPING:
        return True
    loser = prop.components[0] if prop.head.name == CUSTOM else prop.text
    if prop.head.name in (CUSTOM, "note") and str(loser).startswith("other "):
        return True  # "other name: Ada Quern", as single values are kept that were not taken
    known = words.get(prop.head.field.path or prop.head.name, set())
    return set(folded(prop.text).split()) <= known


_BOOKKEEPING = frozenset({"uid", "rev", "created", "kind"})


def _is_value(prop: Property) -> bool:
    """Whether a property is a value, or may become one: no label and no bookkeeping."""
    return not prop.rides or bool(prop.size())


def _claim(sides: list[_Side], rest: list[Property]) -> None:
    """Give the originals' values the origins of those that the contact has."""
    for exactly in (True, False):
        for side in sides:
            for at, prop in enumerate(side.props):
                if not _is_value(prop) or not is_added(prop.origin_of(0)):
                    continue
                found = next((each for each in rest
                              if (_exact(each) == _exact(prop) if exactly else same(each, prop))
                              and each.size() == prop.size()), None)  # fmt: skip
                if found is None:
                    continue
                rest[:] = [each for each in rest if each is not found]
                first = next((at for at, part in enumerate(found.components) if part), 0)
                origin = found.origin
                if not exactly:
                    origin = changed_by(found.origin_of(first), _AS_BEFORE)
                if isinstance(origin, int) and origin >= 0:
                    origin = tied(origin) if prop.rides else origin & ~TIED
                side.props[at] = Property(prop.head, prop.known, origin, prop.raw)
