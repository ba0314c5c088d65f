"""How much two contacts agree: for each feature a level, for all pairs at once."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from rapidfuzz.distance import JaroWinkler, Levenshtein

from roundcard.match.blocking import Pairs
from roundcard.match.features import Features, Ints, Lists
from roundcard.match.names import called, initials_of

Levels = npt.NDArray[np.int8]
Bools = npt.NDArray[np.bool_]

LEVELS: dict[str, tuple[str, ...]] = {
    "given": ("", "same given name", "called for short", "initial fits", "given names alike",
              "given names differ", "second name fits"),
    "family": ("", "same family name", "family names alike", "family names differ"),
    "middle": ("", "same second name", "second names differ"),
    "whole": ("", "same words in the name", "one name holds the other", "names differ"),
    "email": ("", "same e-mail address", "e-mail addresses alike", "e-mail addresses differ"),
    "phone": ("", "same phone number", "phone numbers differ"),
    "birthday": ("", "same birthday", "birthdays alike", "birthdays differ"),
    "address": ("", "same address", "same street or post code", "addresses differ"),
    "org": ("", "same organisation", "organisations differ"),
    "uid": ("", "same identity", "identities differ"),
}  # fmt: skip
"""The levels of each feature by their number: 0 is missing on a side, 1 is the same."""

GIVEN_SHORT, GIVEN_INITIAL, GIVEN_CLOSE, GIVEN_OTHER, GIVEN_SECOND = 2, 3, 4, 5, 6
_CLOSE_NAME, _CLOSE_FAMILY = 0.92, 0.90
_SHORTEST_CLOSE = 4
_SHORTEST_HOST = 5
"""Letters of a mail host's name from which another one is taken for a slip of it."""
_DIGITS = re.compile(r"\d+")
_LETTERS = re.compile(r"[^\W\d_]+")


class Compared(NamedTuple):
    """The levels of all pairs, and what contradicts."""

    levels: dict[str, Levels]
    veto: npt.NDArray[np.int8]
    """Number of a reason in `VETOES`; 0 for none."""


VETOES = ("", "birthdays differ", "given names differ", "one is senior, the other junior",
          "a person and an organisation")  # fmt: skip


def compared(features: Features, pairs: Pairs) -> Compared:
    """The levels of agreement of pairs of contacts."""
    if len(pairs) <= _MOST_PAIRS:
        return _compared(features, pairs)
    levels = {name: np.zeros(len(pairs), dtype=np.int8) for name in LEVELS}
    veto = np.zeros(len(pairs), dtype=np.int8)
    for begin in range(0, len(pairs), _MOST_PAIRS):
        part = slice(begin, begin + _MOST_PAIRS)
        some = _compared(features, pairs[part])
        veto[part] = some.veto
        for name, each in some.levels.items():
            levels[name][part] = each
    return Compared(levels, veto)


def _compared(features: Features, pairs: Pairs) -> Compared:
    one, other = pairs[:, 0], pairs[:, 1]
    column = _Columns(features, one, other)
    given, family = _names(features, column)
    levels = {
        "given": given,
        "family": family,
        "middle": _equal(*column("middle"), _initials(features)),
        "whole": _whole(features, column, given, family),
        "email": _shared(features.emails, one, other, _close_emails(features)),
        "phone": _shared(features.phones, one, other, None),
        "birthday": _birthdays(*column("birthday")),
        "address": _addresses(column),
        "org": _equal(*column("org"), None),
        "uid": _equal(*column("uid"), None),
    }
    return Compared(levels, _vetoes(column, levels))


class _Columns:
    """The values of both contacts of each pair."""

    def __init__(self, features: Features, one: Pairs, other: Pairs) -> None:
        self._features, self._one, self._other = features, one, other

    def __call__(self, name: str) -> tuple[Ints, Ints]:
        values = self._features.column(name)
        return values[self._one], values[self._other]


Close = Callable[[int, int], bool]


def _unique(one: Ints, other: Ints, which: Bools, close: Close) -> Bools:
    """Where a function of two numbers holds; each combination is asked once."""
    out = np.zeros(len(one), dtype=bool)
    at = np.flatnonzero(which)
    if not len(at):
        return out
    low, high = np.minimum(one[at], other[at]), np.maximum(one[at], other[at])
    codes = low.astype(np.int64) << 32 | high.astype(np.int64)
    distinct, back = np.unique(codes, return_inverse=True)
    told = np.fromiter((close(int(code >> 32), int(code & 0xFFFFFFFF)) for code in distinct),
                       dtype=bool, count=len(distinct))  # fmt: skip
    out[at] = told[back]
    return out


def _equal(one: Ints, other: Ints, close: Close | None) -> Levels:
    """Missing, the same (or close), different."""
    both = (one >= 0) & (other >= 0)
    same = both & (one == other)
    if close is not None:
        same |= _unique(one, other, both & ~same, close)
    return np.where(both, np.where(same, 1, 2), 0).astype(np.int8)


def _names(features: Features, column: _Columns) -> tuple[Levels, Levels]:
    (given, given2), (family, family2) = column("given"), column("family")
    middle, middle2 = column("middle")
    words = features.name_words.texts

    def short(a: int, b: int) -> bool:
        return not called(words[a]).isdisjoint(called(words[b]))

    def initial(a: int, b: int) -> bool:
        few, many = sorted((words[a], words[b]), key=len)
        return len(few) == 1 and (many.startswith(few) or few in initials_of(many))

    def alike(a: int, b: int) -> bool:
        x, y = words[a], words[b]
        if min(len(x), len(y)) < _SHORTEST_CLOSE:
            return False
        return JaroWinkler.similarity(x, y) >= _CLOSE_NAME and Levenshtein.distance(x, y) <= 2

    def alike_family(a: int, b: int) -> bool:
        x, y = sorted((words[a], words[b]), key=len)
        if len(x) < _SHORTEST_CLOSE:
            return False
        if y.startswith(x) or y.endswith(x):
            return True
        return JaroWinkler.similarity(x, y) >= _CLOSE_FAMILY and Levenshtein.distance(x, y) <= 2

    def fits(a: int, b: int) -> bool:
        return alike(a, b) or initial(a, b) or short(a, b)

    has = (given >= 0) & (given2 >= 0)
    has_family = (family >= 0) & (family2 >= 0)
    both = has & has_family & (given != given2) & (family != family2)
    one_way, other_way = both & (given == family2), both & (family == given2)
    turned = (one_way & other_way) | (one_way & _unique(family, given2, one_way, fits))
    turned |= other_way & _unique(given, family2, other_way, fits)
    same = has & ((given == given2) | turned)
    level = np.where(has, GIVEN_OTHER, 0)
    rest = has & ~same
    second = rest & (((middle >= 0) & (middle == given2)) | ((middle2 >= 0) & (middle2 == given)))
    level[second] = GIVEN_SECOND
    level[_unique(given, given2, rest, alike)] = GIVEN_CLOSE
    level[_unique(given, given2, rest, initial)] = GIVEN_INITIAL
    level[_unique(given, given2, rest, short)] = GIVEN_SHORT
    level[same] = 1
    level_family = np.where(has_family, 3, 0)
    same_family = has_family & ((family == family2) | turned)
    level_family[_unique(family, family2, has_family & ~same_family, alike_family)] = 2
    level_family[same_family] = 1
    return level.astype(np.int8), level_family.astype(np.int8)


def _initials(features: Features) -> Close:
    words = features.name_words.texts

    def fits(a: int, b: int) -> bool:
        few, many = sorted((words[a], words[b]), key=len)
        return many.startswith(few)

    return fits


def _whole(features: Features, column: _Columns, given: Levels, family: Levels) -> Levels:
    """Whole names where the parts cannot be compared on both sides."""
    one, other = column("whole")
    words = features.whole_words.texts

    def holds(a: int, b: int) -> bool:
        few, many = sorted((set(words[a].split()), set(words[b].split())), key=len)
        return bool(few) and few <= many

    needed = (one >= 0) & (other >= 0) & ((given == 0) | (family == 0))
    level = np.where(needed, 3, 0)
    same = needed & (one == other)
    level[_unique(one, other, needed & ~same, holds)] = 2
    level[same] = 1
    return level.astype(np.int8)


_MOST_PAIRS = 1_000_000
"""Pairs that are compared at once."""
_AT_ONCE = 200_000
"""Pairs whose values are laid side by side at once."""


def crossed(values: Lists, one: Pairs, other: Pairs) -> tuple[Pairs, Ints, Ints]:
    """Each value of a contact beside each one of the other: which pair, and the two values."""
    every, bounds = values.values, values.bounds
    count, count2 = np.diff(bounds)[one], np.diff(bounds)[other]
    times = count * count2
    pair = np.repeat(np.arange(len(one)), times)
    nth = np.arange(len(pair)) - np.repeat(np.cumsum(times) - times, times)
    wide = count2[pair]
    mine = every[bounds[one][pair] + nth // np.maximum(wide, 1)]
    theirs = every[bounds[other][pair] + nth % np.maximum(wide, 1)]
    return pair, mine, theirs


def _shared(values: Lists, one: Pairs, other: Pairs, close: Close | None) -> Levels:
    """Whether two contacts share any of several values."""
    out = np.zeros(len(one), dtype=np.int8)
    for begin in range(0, len(one), _AT_ONCE):
        part = slice(begin, begin + _AT_ONCE)
        pair, mine, theirs = crossed(values, one[part], other[part])
        level = out[part]
        level[pair] = 2 if close is None else 3
        same = mine == theirs
        if close is not None:
            equal = np.zeros(len(level), dtype=bool)
            equal[pair[same]] = True
            level[pair[_unique(mine, theirs, ~equal[pair], close)]] = 2
        level[pair[same]] = 1
    return out


def _close_emails(features: Features) -> Close:
    texts = features.email_words.texts
    names = set(features.name_words.texts)

    def named(local: str) -> bool:
        return any(len(word) > 1 and word in names for word in _LETTERS.findall(local))

    def mistyped(one: str, other: str) -> bool:
        short = min(len(one.partition(".")[0]), len(other.partition(".")[0]))
        if _DIGITS.findall(one) != _DIGITS.findall(other):
            return False
        return short >= _SHORTEST_HOST and Levenshtein.distance(one, other, score_cutoff=2) <= 2

    def near(a: int, b: int) -> bool:
        (local, _, host), (local2, _, host2) = texts[a].partition("@"), texts[b].partition("@")
        if local != local2 and _DIGITS.sub("", local) == _DIGITS.sub("", local2):
            return False  # numbers tell people apart
        if host == host2:
            return len(local) > 4 and Levenshtein.distance(local, local2, score_cutoff=1) <= 1
        if local != local2 or len(local) < 5:
            return False
        # at another host the name says again what is known, and anything else tells
        return not named(local) or mistyped(host, host2)

    return near


def _birthdays(one: Ints, other: Ints) -> Levels:
    both = (one >= 0) & (other >= 0)
    year, month, day = one // 10_000, one // 100 % 100, one % 100
    year2, month2, day2 = other // 10_000, other // 100 % 100, other % 100
    same = both & (one == other)
    unsaid = (year == 0) | (year2 == 0) | (day == 0) | (day2 == 0)
    fits = (((year == year2) | (year == 0) | (year2 == 0))
            & ((month == month2) | (month == 0) | (month2 == 0))
            & ((day == day2) | (day == 0) | (day2 == 0)))  # fmt: skip
    swapped = (year == year2) & (month == day2) & (day == month2)
    apart = (year != year2).astype(int) + (month != month2) + (day != day2)
    slip = (apart == 1) & ((year == year2) | (np.abs(year - year2) % 10 == 0)
                           | (np.abs(year - year2) == 1))  # fmt: skip
    close = both & ~same & ((unsaid & fits) | swapped | (slip & ~unsaid & (year == year2)))
    return np.where(both, np.where(same, 1, np.where(close, 2, 3)), 0).astype(np.int8)


def _addresses(column: _Columns) -> Levels:
    (street, street2), (house, house2), (code, code2) = (
        column("street"), column("house"), column("code"))  # fmt: skip
    has_street = (street >= 0) & (street2 >= 0)
    has_code = (code >= 0) & (code2 >= 0)
    same_house = (house >= 0) & (house == house2)
    same_street = has_street & (street == street2)
    same_code = has_code & (code == code2)
    same = (same_street & (same_house | (house == house2)) & (same_code | ~has_code)) | (
        same_code & same_house
    )
    half = same_street | same_code
    return np.where(has_street | has_code, np.where(same, 1, np.where(half, 2, 3)), 0).astype(
        np.int8
    )


def _vetoes(column: _Columns, levels: dict[str, Levels]) -> Levels:
    """What no likeness can outweigh; the same identity can."""
    (generation, generation2), (org, org2) = column("generation"), column("is_org")
    veto = np.zeros(len(org), dtype=np.int8)
    veto[org != org2] = 4
    veto[(generation > 0) & (generation2 > 0) & (generation != generation2)] = 3
    veto[levels["given"] == GIVEN_OTHER] = 2
    veto[levels["birthday"] == 3] = 1
    veto[levels["uid"] == 1] = 0
    return veto
