"""Candidate pairs: contacts that share a key, none of which alone is trusted."""

from __future__ import annotations

from array import array
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from roundcard.match.features import Features
from roundcard.match.names import called, sounding

Pairs = npt.NDArray[np.int64]
MOST = 24
"""Contacts that may share one key before a second one narrows it."""
_NEIGHBOURS = 8
"""In what is still too many, so many that stand next to each other by name are compared."""
_FEW = 60
_HINTED, _FEWEST_HINTED, _HINTED_IN = 12, 4, 1_200_000
"""Contacts that may have a hint in common for it to be one: so many at the most, in a large book
fewer, and how many they are times the book's contacts."""
_LEAST, _SOME = 3, 6
_LARGE, _LARGEST = 480_000, 900_000
"""The same of contacts that may share a name: `MOST` in a small book, then `_SOME`, then `_LEAST`;
and how many they are times the book's contacts."""
_AT_ONCE = 50_000
"""Contacts of which the hints are looked at together."""
_MIX = np.int64(0x9E3779B97F4A7C5)
"""Spreads numbers over all of their bits."""
BY_NAME = ("whole name", "name")
"""The kinds of keys that are narrowed by what else may be the same."""
_END = 4
"""Letters at the end of an address of mail, or figures of a number, that tell it apart."""


@dataclass(slots=True)
class Blocked:
    """The pairs to compare, as two columns of contacts, the smaller number first."""

    pairs: Pairs
    narrowed: dict[str, int]
    """How many keys of a kind gathered too many, and were narrowed by a second one."""


def candidates(features: Features) -> Blocked:
    """All pairs that share a key; in keys that gather too many, those that share another or stand
    next to each other by name."""
    codes: list[Pairs] = []
    narrowed: dict[str, int] = {}
    size = len(features)
    hints: _Hints | None = None
    for kind, keys in _kinds(features):
        members, sizes = _blocks(size, keys)
        most = _most_of_name(size) if kind in BY_NAME else MOST
        codes += _within(members, sizes, most, size)
        large = sizes > most
        if large.any():
            narrowed[kind] = int(large.sum())
            members, sizes = members[np.repeat(large, sizes)], sizes[large]
            if kind in BY_NAME:
                hints = hints or _Hints(features)
                codes += _hinted(hints, members, sizes, size)
            else:
                codes.append(_by_second_key(features, members, sizes))
        codes = [_once(np.concatenate(codes))] if codes else []
    every = codes[0] if codes else np.zeros(0, dtype=np.int64)
    return Blocked(np.stack([every // max(size, 1), every % max(size, 1)], axis=1), narrowed)


def _within(members: Pairs, sizes: Pairs, most: int, size: int) -> Iterator[Pairs]:
    """All pairs within blocks of up to so many contacts, as one number each."""
    begins = np.cumsum(sizes) - sizes
    for count in range(2, most + 1):
        those = begins[sizes == count]
        if len(those):
            block = members[those[:, None] + np.arange(count)]
            one, other = np.triu_indices(count, 1)
            yield (block[:, one] * size + block[:, other]).ravel()


def _once(codes: Pairs) -> Pairs:
    """Each number once, in order; sorts what it is given."""
    codes.sort()
    return np.asarray(codes[np.concatenate([[True], codes[1:] != codes[:-1]])[: len(codes)]])


def _blocks(size: int, keys: Callable[[int], Sequence[object]]) -> tuple[Pairs, Pairs]:
    """Contacts in order of their keys, those of one key in their own order; and how many contacts
    each key has. Of a key only its hash is kept."""
    hashes, contacts = array("q"), array("i")
    for at in range(size):
        for key in dict.fromkeys(keys(at)):
            hashes.append(hash(key))
            contacts.append(at)
    return _in_order(np.asarray(hashes, dtype=np.int64), np.asarray(contacts, dtype=np.int64))


def _in_order(keys: Pairs, contacts: Pairs) -> tuple[Pairs, Pairs]:
    """Contacts in order of their keys, and how many each key has."""
    order = np.argsort(keys, kind="stable")
    keys = keys[order]
    new = np.concatenate([[True], keys[1:] != keys[:-1]])[: len(keys)]
    sizes = np.diff(np.append(np.flatnonzero(new), len(keys))).astype(np.int64)
    return contacts[order], sizes


def _by_second_key(features: Features, members: Pairs, sizes: Pairs) -> Pairs:
    """The pairs of keys that gather too many."""
    found = array("q")
    size, end = len(features), 0
    for count in sizes.tolist():
        for block in _narrowed(features, members[end : end + count].tolist()):
            for at, one in enumerate(block):
                found.extend([one * size + other for other in block[at + 1 :]])
        end += count
    return np.asarray(found, dtype=np.int64)


def _narrowed(features: Features, members: list[int]) -> Iterator[list[int]]:
    """The contacts of a key that gathers too many, by a second key; none is dropped."""
    second: dict[int, list[int]] = defaultdict(list)
    nameless = []
    for at in members:
        if features.whole[at] < 0:
            nameless.append(at)
            continue
        second[features.given[at]].append(at)
        if features.family[at] >= 0:
            second[-2 - features.family[at]].append(at)
    for block in second.values():
        if 1 < len(block) <= _FEW:
            yield block
    ordered = sorted(members, key=lambda at: (_name(features, at), at))
    for at, one in enumerate(ordered):
        for other in ordered[at + 1 : at + 1 + _NEIGHBOURS]:
            yield sorted((one, other))
    if nameless and len(nameless) <= _FEW:
        yield nameless


def _most_of_name(size: int) -> int:
    """How many contacts may share a name, and nothing else, to be compared in a book of so many:
    the more there are, the more strangers share one by chance."""
    size = max(size, 1)
    return max(_LEAST, min(_SOME, _LARGEST // size), min(MOST, _LARGE // size))


class _Hints:
    """The hints of all contacts, as numbers."""

    def __init__(self, features: Features) -> None:
        codes = array("q")
        ends = array("q", [0])
        for at in range(len(features)):
            codes.extend(map(hash, dict.fromkeys(_hints(features, at))))
            ends.append(len(codes))
        self.codes = np.asarray(codes, dtype=np.int64)
        self.ends = np.asarray(ends, dtype=np.int64)


def _hinted(hints: _Hints, members: Pairs, sizes: Pairs, size: int) -> Iterator[Pairs]:
    """The pairs of those of many who share a name that may have something else nearly in common:
    without it nobody could tell that they are one."""
    most = max(_FEWEST_HINTED, min(_HINTED, _HINTED_IN // max(size, 1)))
    begin = 0
    for some in np.split(sizes, np.flatnonzero(np.diff(np.cumsum(sizes) // _AT_ONCE)) + 1):
        those = members[begin : begin + some.sum()]
        begin += some.sum()
        first, counts = hints.ends[those], hints.ends[those + 1] - hints.ends[those]
        places = np.arange(counts.sum()) + np.repeat(first - (np.cumsum(counts) - counts), counts)
        block = np.repeat(np.repeat(np.arange(len(some)), some), counts)
        keys = (hints.codes[places] ^ (block * _MIX)) * _MIX
        yield from _within(*_in_order(keys, np.repeat(those, counts)), most, size)


def _hints(features: Features, at: int) -> Iterator[object]:
    """What two have in common if a value of theirs is nearly the same: one slip leaves one end of
    a number, or of an address of mail, as it is."""
    for number in features.phones[at]:
        text = features.phone_words.texts[number]
        yield "begins", text[:-_END]
        yield "ends", text[-_END:]
    for number in features.emails[at]:
        local, _, domain = features.email_words.texts[number].partition("@")
        yield "local", local
        yield domain, local[-_END:]
    if features.code[at] >= 0:
        yield "code", features.code[at]
    for place in features.places[at]:
        yield "place", place
    if features.street[at] >= 0:
        yield "street", features.street[at], features.town[at]
    if features.org[at] >= 0:
        yield "org", features.org[at]
    if (birthday := features.birthday[at]) > 0:
        year, month, day = birthday // 10_000, birthday // 100 % 100, birthday % 100
        yield "year", year, max(month, day), min(month, day)
        yield "year", year, month
        yield "day", month, day


def _name(features: Features, at: int) -> str:
    whole = features.whole[at]
    return features.whole_words.texts[whole] if whole >= 0 else ""


def _kinds(features: Features) -> Iterator[tuple[str, Callable[[int], Sequence[object]]]]:
    """The kinds of keys, and the keys that a contact has of each."""
    names = features.name_words.texts

    def text(at: int) -> str:
        return names[at] if at >= 0 else ""

    def by_name(at: int) -> Sequence[object]:
        family, given = text(features.family[at]), text(features.given[at])
        if not family or not given:
            return ()
        groups = called(given)
        sound = sounding(family)
        turned = [f"{given} {sound}" if not groups else "", f"{family} {sounding(given)}"]
        return [key for key in (*((sound, group) for group in groups), f"{given} {sound}",
                                f"{family} {given[0]}", *turned) if key]  # fmt: skip

    def by_address(at: int) -> Sequence[object]:
        code, house = features.code[at], features.house[at]
        if code < 0 or house < 0:
            return ()
        given = text(features.given[at])
        return ((code, house, given[:1]),)

    def by_birthday(at: int) -> Sequence[object]:
        birthday = features.birthday[at]
        if birthday < 10_000_000 or birthday % 100 == 0:
            return ()
        return ((birthday, text(features.given[at])[:2]), (birthday, text(features.family[at])[:3]))

    def by_org(at: int) -> Sequence[object]:
        if features.org[at] < 0:
            return ()
        family = text(features.family[at])
        return ((features.org[at], family),) if family or features.is_org[at] else ()

    yield "e-mail address", lambda at: features.emails[at]
    yield "phone number", lambda at: features.phones[at]
    yield "identity", lambda at: (features.uid[at],) if features.uid[at] >= 0 else ()
    yield "whole name", lambda at: (features.whole[at],) if features.whole[at] >= 0 else ()
    yield "name", by_name
    yield "address", by_address
    yield "birthday", by_birthday
    yield "organisation", by_org
