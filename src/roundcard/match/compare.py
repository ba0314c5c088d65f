"""How much two contacts agree: for each feature a level, for all pairs at once."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import chain
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from rapidfuzz.distance import OSA, Levenshtein

from roundcard.match.blocking import MOST, Pairs
from roundcard.match.features import Features, Ints, Lists
from roundcard.match.person_names import (
    COUPLE,
    DIFFERENT,
    FAMILY_ALIKE,
    FAMILY_DIFFERENT,
    INITIAL,
    SAME,
    Comparing,
    Name,
)  # fmt: skip
from roundcard.values.word_lists import word_list

Levels = npt.NDArray[np.int8]
Bools = npt.NDArray[np.bool_]

LEVELS: dict[str, tuple[str, ...]] = {
    "given": ("", "same given name", "called for short", "initial fits", "given names alike",
              "given names differ", "second name fits", "one of two given names",
              "given names that may go for one another", "one of a couple",
              "one name called two ways, or two names"),
    "family": ("", "same family name", "family names alike", "family names differ",
               "one of several family names", "family name in the other form"),
    "second": ("", "same second name", "second names differ"),
    "order": ("", "names turned round", "names in two scripts, one of them not read"),
    "firm": ("", "same name of an organisation", "one name holds the other", "names alike",
             "names of organisations differ"),
    "email": ("", "same e-mail address", "same e-mail address, which tells the name",
              "same e-mail address, which others share", "e-mail addresses alike",
              "e-mail addresses differ", "the e-mail address tells the name",
              "e-mail addresses alike but for the host"),
    "mobile": ("", "same mobile number", "same mobile number, which others share",
               "mobile numbers alike", "mobile numbers differ"),
    "phone": ("", "same phone number", "same phone number, which others share",
              "phone numbers alike", "phone numbers differ"),
    "birthday": ("", "same birthday", "birthdays alike", "birthdays differ"),
    "address": ("", "same address", "addresses alike", "same street or post code",
                "addresses differ"),
    "org": ("", "same organisation", "organisations alike", "organisations differ"),
    "uid": ("", "same identity", "identities differ"),
}  # fmt: skip
"""The levels of each feature by their number: 0 is missing on a side, 1 is the same."""

(OWN_EMAIL, TELLING_EMAIL, SHARED_EMAIL, EMAIL_ALIKE, EMAIL_DIFFERS, EMAIL_TELLS, OTHER_HOST) = (
    range(1, 8)
)
OWN, SHARED, NUMBER_ALIKE, NUMBER_DIFFERS = range(1, 5)
SAME_PLACE, PLACE_ALIKE, HALF_PLACE = 1, 2, 3
_SHORTEST_HOST = 5
"""Letters of a mail host's name from which another one is taken for a slip of it."""
_DIGITS = re.compile(r"\d+")
_LETTERS = re.compile(r"[^\W\d_]+")
_ROLES = frozenset(word_list(__package__, "roles"))
"""Local parts of addresses that are nobody's own."""


class Compared(NamedTuple):
    """The levels of all pairs, and what contradicts."""

    levels: dict[str, Levels]
    veto: npt.NDArray[np.int8]
    """Number of a reason in `VETOES`; 0 for none."""
    bearers: Ints
    """How many have the address or number that two share with others; 0 where they share none."""

    def part(self, which: slice) -> Compared:
        """Those of some pairs."""
        levels = {name: each[which] for name, each in self.levels.items()}
        return Compared(levels, self.veto[which], self.bearers[which])


VETOES = ("", "birthdays differ", "given names differ", "one is senior, the other junior",
          "a person and an organisation", "a couple and one of them",
          "names of organisations differ")  # fmt: skip
_BORN, _GIVEN, _GENERATION, _KIND, _COUPLE_VETO, _FIRMS = range(1, 7)


@dataclass(frozen=True, slots=True)
class Shared:
    """Which addresses and numbers of some books are several people's, by their numbers."""

    emails: Bools
    phones: Bools


class Comparer:
    """Compares the contacts of some books."""

    def __init__(self, features: Features) -> None:
        self.features = features
        given = features.column("given")
        counts = np.bincount(given[given >= 0], minlength=len(features.name_words.texts))
        self._common = {
            features.name_words.texts[at]
            for at in np.flatnonzero(counts >= max(_COMMON, len(features) * _COMMON_SHARE)).tolist()
        }
        family = features.column("family")
        self._families = {features.name_words.texts[at]
                          for at in np.unique(family[family >= 0]).tolist()}  # fmt: skip
        self._names = Comparing(self._common.__contains__, self._families.__contains__)
        self._unpacked: dict[int, Name] = {}
        born = features.column("birthday")
        days, bearers = np.unique(born[born >= 10_000], return_counts=True)
        usual = int(bearers.sum()) // max(len(days), _DAYS_OF_A_YEAR)
        most = max(_COMMON_DAY, _COMMON_DAY_TIMES * usual)
        self._no_birthdays = days[bearers > most].astype(np.int32)
        mobile = features.mobiles()
        numbers = _of_few(features.phones, len(mobile))
        self._emails_of_few = _only(
            features.emails, _of_few(features.emails, len(features.email_words.texts))
        )
        self._mobiles = _only(features.phones, mobile & numbers)
        self._houses = _only(features.phones, ~mobile & numbers)
        self.shared = Shared(np.zeros(len(features.email_words.texts), dtype=bool),
                             np.zeros(len(features.phone_words.texts), dtype=bool))  # fmt: skip

    def learn(self, pairs: Pairs) -> Compared:
        """Compare all pairs of the books, and tell by them what is shared: what stands with people
        of names that cannot be one person's."""
        names = self._in_parts(pairs, self._name_levels)
        apart = (names["given"] == DIFFERENT) | (names["given"] == COUPLE) | (
            (names["family"] == FAMILY_DIFFERENT) & np.isin(names["given"], (0, INITIAL))
        )  # fmt: skip
        is_org = self.features.column("is_org")
        named = (self.features.column("name")[pairs] >= 0).all(axis=1)
        apart |= named & (is_org[pairs[:, 0]] != is_org[pairs[:, 1]])
        values = self.features
        roles = np.fromiter((text.partition("@")[0].strip("0123456789.-_") in _ROLES
                             for text in values.email_words.texts), dtype=bool,
                            count=len(values.email_words.texts))  # fmt: skip
        self.shared = Shared(_shared(values.emails, pairs[apart], len(roles)) | roles,
                             _shared(values.phones, pairs[apart],
                                     len(values.phone_words.texts)))  # fmt: skip
        return self._compared(pairs, names)

    def compare(self, pairs: Pairs) -> Compared:
        """The levels of agreement of pairs of contacts."""
        return self._compared(pairs, self._in_parts(pairs, self._name_levels))

    def _compared(self, pairs: Pairs, names: dict[str, Levels]) -> Compared:
        levels = names | self._in_parts(pairs, self._value_levels)
        bearers = np.zeros(len(pairs), dtype=np.int32)
        for values, which in (
            (self.features.emails, levels["email"] == SHARED_EMAIL),
            (self.features.phones, (levels["mobile"] == SHARED) | (levels["phone"] == SHARED)),
        ):
            few = _bearers(values, pairs, which)
            bearers = np.where(bearers == 0, few, np.where(few == 0, bearers,
                                                           np.minimum(few, bearers)))  # fmt: skip
        return Compared(levels, self._vetoes(pairs, levels), bearers)

    @staticmethod
    def _in_parts(
        pairs: Pairs, levels: Callable[[Pairs], dict[str, Levels]]
    ) -> dict[str, Levels]:  # fmt: skip
        found: dict[str, list[Levels]] = {}
        for begin in range(0, max(len(pairs), 1), _MOST_PAIRS):
            for name, each in levels(pairs[begin : begin + _MOST_PAIRS]).items():
                found.setdefault(name, []).append(each)
        return {name: parts[0] if len(parts) == 1 else np.concatenate(parts)
                for name, parts in found.items()}  # fmt: skip

    def _name_levels(self, pairs: Pairs) -> dict[str, Levels]:
        """What the names say; each combination of names is asked once."""
        column = _Columns(self.features, pairs)
        one, other = column("name")
        is_org, is_org2 = column("is_org")
        firms = (is_org == 1) | (is_org2 == 1)
        both = (one >= 0) & (other >= 0) & ~firms
        found = np.zeros((4, len(pairs)), dtype=np.int8)
        at = np.flatnonzero(both)
        if len(at):
            low, high = np.minimum(one[at], other[at]), np.maximum(one[at], other[at])
            distinct, back = np.unique(low.astype(np.int64) << 32 | high, return_inverse=True)
            names = self._name
            compare = self._names.compare
            said = (compare(names(code >> 32), names(code & 0xFFFFFFFF))
                    for code in _one_by_one(distinct))  # fmt: skip
            told = np.fromiter(chain.from_iterable(said), np.int8, len(found) * len(distinct))
            found[:, at] = told.reshape(-1, len(found))[back].T
        levels = dict(zip(("given", "family", "second", "order"), found, strict=True))
        levels["firm"] = self._firms(column, firms)
        one, other = column("generation")
        levels["generation"] = np.asarray((one > 0) != (other > 0), dtype=np.int8)
        return levels

    def _name(self, number: int) -> Name:
        found = self._unpacked.get(number)
        if found is None:
            if len(self._unpacked) > _MOST_NAMES:
                self._unpacked.clear()
            found = self._unpacked[number] = Name.unpacked(self.features.names.texts[number])
        return found

    def _firms(self, column: _Columns, firms: Bools) -> Levels:
        """The names of organisations."""
        one, other = column("firm")
        org, org2 = column("is_org")
        texts = self.features.other_words.texts
        level = np.zeros(len(one), dtype=np.int8)
        both = firms & (one >= 0) & (other >= 0) & (org == 1) & (org2 == 1)
        level[both] = 4
        rest = both & (one != other)
        level[_unique(one, other, rest, lambda a, b: _firm_alike(texts[a], texts[b]))] = 3
        level[_unique(one, other, rest, lambda a, b: _holds(texts[a], texts[b]))] = 2
        level[both & (one == other)] = 1
        return level

    def _value_levels(self, pairs: Pairs) -> dict[str, Levels]:
        """What everything but the names says."""
        column = _Columns(self.features, pairs)
        return {
            "email": self._emails(pairs),
            "mobile": self._numbers(self._mobiles, pairs),
            "phone": self._numbers(self._houses, pairs),
            "birthday": _birthdays(*self._born(column)),
            "address": self._addresses(pairs, column),
            "org": self._orgs(column),
            "uid": _equal(*column("uid")),
        }

    def _born(self, column: _Columns) -> tuple[Ints, Ints]:
        """Birthdays, without those that so many have that they are nobody's."""
        one, other = column("birthday")
        return (np.where(np.isin(one, self._no_birthdays), -1, one),
                np.where(np.isin(other, self._no_birthdays), -1, other))  # fmt: skip

    def _emails(self, pairs: Pairs) -> Levels:
        features = self.features
        out = _several(self._emails_of_few, pairs, self.shared.emails, EMAIL_DIFFERS,
                       {OTHER_HOST: _other_host(features), EMAIL_ALIKE: _close_emails(features)},
                       SHARED_EMAIL)  # fmt: skip
        out[(out == SHARED_EMAIL) & self._both_firms(pairs)] = OWN_EMAIL
        tells = self._telling(pairs, (out == OWN_EMAIL) | (out == SHARED_EMAIL))
        out[(out == OWN_EMAIL) & (tells > 0)] = TELLING_EMAIL
        out[(out == SHARED_EMAIL) & (tells > 1)] = TELLING_EMAIL
        name = features.column("name")
        lone = ((out == 0) | (out == EMAIL_DIFFERS)) & (
            (name[pairs[:, 0]] < 0) != (name[pairs[:, 1]] < 0)
        )  # fmt: skip
        out[lone & (self._telling(pairs, lone, shared=False) > 0)] = EMAIL_TELLS
        return out

    def _telling(self, pairs: Pairs, which: Bools, *, shared: bool = True) -> Levels:
        """How well an address (the one that two share, or that of who has no name) tells the name:
        2 by the given name, 1 by initial and family name."""
        out = np.zeros(len(pairs), dtype=np.int8)
        emails, names = self.features.emails, self.features.name
        texts = self.features.email_words.texts
        known: dict[tuple[int, int], int] = {}
        for at in np.flatnonzero(which).tolist():
            one, other = int(pairs[at, 0]), int(pairs[at, 1])
            told = set(emails[one]).intersection(emails[other]) if shared else \
                emails[one] if names[one] < 0 else emails[other]  # fmt: skip
            levels = [0, 0]
            for side, who in enumerate((one, other)):
                if names[who] >= 0:
                    for email in told:
                        key = (email, names[who])
                        if key not in known:
                            known[key] = tells(texts[email].partition("@")[0],
                                               self._name(names[who]))  # fmt: skip
                        levels[side] = max(levels[side], known[key])
            named = [level for who, level in zip((one, other), levels, strict=True)
                     if names[who] >= 0]  # fmt: skip
            out[at] = max(named, default=0)
        return out

    def _numbers(self, numbers: Lists, pairs: Pairs) -> Levels:
        texts = self.features.phone_words.texts
        out = _several(numbers, pairs, self.shared.phones, NUMBER_DIFFERS,
                       {NUMBER_ALIKE: lambda a, b: _number_slip(texts[a], texts[b])},
                       SHARED)  # fmt: skip
        out[(out == SHARED) & self._both_firms(pairs)] = OWN
        return out

    def _both_firms(self, pairs: Pairs) -> Bools:
        """Where both are organisations: what people share with one is its own."""
        return np.asarray((self.features.column("is_org")[pairs] == 1).all(axis=1))

    def _addresses(self, pairs: Pairs, column: _Columns) -> Levels:
        (street, street2), (house, house2), (code, code2), (town, town2) = (
            column("street"), column("house"), column("code"), column("town"))  # fmt: skip
        places = self.features.places
        same = _several(places, pairs, None, 2, {}, 0) == 1
        texts = self.features.other_words.texts
        both = (street >= 0) & (street2 >= 0)
        same_code = (code >= 0) & (code == code2)
        same_town = (town >= 0) & (town == town2)
        alike = _unique(
            street,
            street2,
            both & (house == house2) & (street != street2) & (same_code | same_town),
            lambda a, b: _streets(texts[a], texts[b]),
        )
        same_street = both & (street == street2) & (house == house2)
        bare = same_street & ((code < 0) | (code2 < 0)) & ((town < 0) | (town2 < 0) | same_town)
        half = (both & (street == street2)) | same_code
        has = (both | ((code >= 0) & (code2 >= 0)) | (_counts(places, pairs) > 0)) & (
            (street >= 0) | (code >= 0)
        )  # fmt: skip
        found = np.select([same | bare, alike | same_street, half & has, has],
                          [SAME_PLACE, PLACE_ALIKE, HALF_PLACE, 4], 0)  # fmt: skip
        return np.asarray(found, dtype=np.int8)

    def _orgs(self, column: _Columns) -> Levels:
        one, other = column("org")
        texts = self.features.other_words.texts
        both = (one >= 0) & (other >= 0)
        level = np.where(both, 3, 0).astype(np.int8)
        level[_unique(one, other, both & (one != other), lambda a, b: _holds(texts[a], texts[b])
                      or _firm_alike(texts[a], texts[b]))] = 2  # fmt: skip
        level[both & (one == other)] = 1
        return level

    def _vetoes(self, pairs: Pairs, levels: dict[str, Levels]) -> Levels:
        """What no likeness can outweigh; the same identity can."""
        column = _Columns(self.features, pairs)
        (generation, generation2), (org, org2) = column("generation"), column("is_org")
        given, firm = levels["given"], levels["firm"]
        veto = np.zeros(len(org), dtype=np.int8)
        personal = (levels["mobile"] > 0) & (levels["mobile"] <= SHARED) & (
            (levels["email"] > 0) & (levels["email"] <= SHARED_EMAIL)
        ) & np.isin(levels["family"], (SAME, FAMILY_ALIKE))  # fmt: skip
        texts = self.features.name_words.texts
        one, other = column("given")
        personal &= (given == DIFFERENT) & (one >= 0) & (other >= 0)
        personal &= _unique(one, other, personal, lambda a, b: _akin(texts[a], texts[b]))
        named = (self.features.column("name")[pairs] >= 0).all(axis=1)
        veto[firm == 4] = _FIRMS
        veto[(org != org2) & named] = _KIND
        veto[(generation > 0) & (generation2 > 0) & (generation != generation2)] = _GENERATION
        veto[(given == DIFFERENT) & ~personal] = _GIVEN
        veto[given == COUPLE] = _COUPLE_VETO
        veto[levels["birthday"] == 3] = _BORN
        veto[levels["uid"] == 1] = 0
        return veto


def tells(local: str, name: Name) -> int:
    """How well the local part of an address tells a name: 2 by the given name with the family name
    (or alone, where it is long), 1 by an initial and the family name; 0 not at all."""
    letters = "".join(_LETTERS.findall(local.lower()))
    words = [half for word in name.whole or name.family for half in word.split("-")]
    family = [word for word in words if len(word) > 2]
    givens = [each.replace("-", "") for each in (*name.given, *name.whole)]
    behind = any(word in letters for word in family)
    for given in givens:
        if len(given) > 2 and given in letters and (
            len(given) > 4 or letters == given or any(
                word in letters.replace(given, "", 1) for word in family if word != given)
        ):  # fmt: skip
            return 2
    if behind and not name.both:
        for given in givens:
            for word in family:
                if word != given and given and letters in (given[0] + word, word + given[0]):
                    return 1
    return 0


class _Columns:
    """The values of both contacts of each pair."""

    def __init__(self, features: Features, pairs: Pairs) -> None:
        self._features, self._one, self._other = features, pairs[:, 0], pairs[:, 1]

    def __call__(self, name: str) -> tuple[Ints, Ints]:
        values = self._features.column(name)
        return values[self._one], values[self._other]


Close = Callable[[int, int], bool]


def _unique(one: Ints, other: Ints, which: Bools, close: Close) -> Bools:
    """Where a function of two numbers holds, whichever of them comes first; each combination is
    asked once."""
    return _asked(np.minimum(one, other), np.maximum(one, other), which, close)


def _asked(one: Ints, other: Ints, which: Bools, close: Close) -> Bools:
    """Where a function of two numbers holds; each combination is asked once."""
    out = np.zeros(len(one), dtype=bool)
    at = np.flatnonzero(which)
    if not len(at):
        return out
    codes = one[at].astype(np.int64) << 32 | other[at].astype(np.int64)
    distinct, back = np.unique(codes, return_inverse=True)
    told = np.fromiter((close(int(code >> 32), int(code & 0xFFFFFFFF)) for code in distinct),
                       dtype=bool, count=len(distinct))  # fmt: skip
    out[at] = told[back]
    return out


def _equal(one: Ints, other: Ints) -> Levels:
    """Missing, the same, different."""
    both = (one >= 0) & (other >= 0)
    return np.where(both, np.where(one == other, 1, 2), 0).astype(np.int8)


def _akin(one: str, other: str) -> bool:
    """Whether two given names may yet be one: they begin alike, or have a syllable in common."""
    syllables = {one[at : at + 3] for at in range(len(one) - 2)}
    return one[:1] == other[:1] or any(each in other for each in syllables)


def _holds(one: str, other: str) -> bool:
    """Whether the words of one name are all in the other."""
    few, many = sorted((set(one.split()), set(other.split())), key=len)
    return bool(few) and few <= many and len("".join(few)) > 3


def _firm_alike(one: str, other: str) -> bool:
    most = 2 if min(len(one), len(other)) > 7 else 1
    return Levenshtein.distance(one.replace(" ", ""), other.replace(" ", ""),
                                score_cutoff=most) <= most  # fmt: skip


def _streets(one: str, other: str) -> bool:
    """Whether two streets may be one: words cut short, or letters wrong."""
    mine, theirs = one.split(), other.split()
    joined, joined2 = one.replace(" ", ""), other.replace(" ", "")
    if OSA.distance(joined, joined2, score_cutoff=2) <= 2 and min(len(joined), len(joined2)) > 4:
        return True
    if len(mine) != len(theirs):
        return False
    return all(a == b or (a[0] == b[0] and _cut(*sorted((a, b), key=len)))
               for a, b in zip(mine, theirs, strict=True))  # fmt: skip


def _cut(few: str, many: str) -> bool:
    """Whether the letters of a word come in their order in a longer one: rd, road."""
    letters = iter(many)
    return len(few) < len(many) and all(char in letters for char in few)


def _number_slip(one: str, other: str) -> bool:
    """Whether one digit is wrong, or two are turned."""
    return len(one) == len(other) and len(one) > 6 and OSA.distance(one, other, score_cutoff=1) <= 1


def _of_few(values: Lists, size: int) -> Bools:
    """Which values no more have than can be looked at: what more have says nothing of anybody."""
    return np.asarray(np.bincount(values.values, minlength=size) <= MOST)


def _only(values: Lists, which: Bools) -> Lists:
    """The numbers of each contact for which something holds."""
    every = values.values
    keep = which[every] if len(every) else np.zeros(0, dtype=bool)
    found = Lists()
    before = np.concatenate([[0], np.cumsum(keep)]).astype(np.int64)
    found.extend(every[keep], before[values.bounds])
    return found


def _counts(values: Lists, pairs: Pairs) -> npt.NDArray[np.int64]:
    """The fewer of the values that the two of each pair have."""
    counts = np.diff(values.bounds)
    return np.asarray(np.minimum(counts[pairs[:, 0]], counts[pairs[:, 1]]))


def _shared(values: Lists, apart: Pairs, size: int) -> Bools:
    """Which values stand with two who cannot be one person, or with more than can be looked at."""
    out = ~_of_few(values, size)
    for begin in range(0, len(apart), _MOST_PAIRS):
        part = apart[begin : begin + _MOST_PAIRS]
        _, mine, theirs = crossed(values, part[:, 0], part[:, 1])
        out[mine[mine == theirs]] = True
    return np.asarray(out)


def _bearers(values: Lists, pairs: Pairs, which: Bools) -> Ints:
    """How many contacts have the rarest of the values that two of some pairs have in common."""
    counts = np.bincount(values.values, minlength=1)
    out = np.zeros(len(pairs), dtype=np.int32)
    at = np.flatnonzero(which)
    for begin in range(0, len(at), _MOST_PAIRS):
        part = at[begin : begin + _MOST_PAIRS]
        pair, mine, theirs = crossed(values, pairs[part, 0], pairs[part, 1])
        same = mine == theirs
        fewest = np.full(len(part), np.iinfo(np.int32).max, dtype=np.int64)
        np.minimum.at(fewest, pair[same], counts[mine[same]])
        out[part] = np.where(fewest == np.iinfo(np.int32).max, 0, fewest)
    return out


def _several(
    values: Lists, pairs: Pairs, shared: Bools | None, differs: int, close: dict[int, Close],
    of_shared: int,
) -> Levels:  # fmt: skip
    """Whether two contacts have any of several values in common; one that is theirs alone counts
    more than one that others share."""
    out = np.zeros(len(pairs), dtype=np.int8)
    for begin in range(0, len(pairs), _MOST_PAIRS):
        part = slice(begin, begin + _MOST_PAIRS)
        pair, mine, theirs = crossed(values, pairs[part, 0], pairs[part, 1])
        level = out[part]
        level[pair] = differs
        same = mine == theirs
        equal = np.zeros(len(level), dtype=bool)
        equal[pair[same]] = True
        for near, check in close.items():
            level[pair[_unique(mine, theirs, ~equal[pair], check)]] = near
        if shared is not None:
            level[pair[same]] = of_shared
            same &= ~shared[mine]
        level[pair[same]] = 1
    return out


def _one_by_one(codes: Pairs) -> Iterator[int]:
    """Numbers as Python has them, without a list of all."""
    for begin in range(0, len(codes), _MOST_NAMES):
        yield from codes[begin : begin + _MOST_NAMES].tolist()


_MOST_PAIRS = 200_000
"""Pairs that are compared at once."""
_COMMON_DAY, _COMMON_DAY_TIMES, _DAYS_OF_A_YEAR = 8, 4, 365
"""Contacts that have one birthday, and how many times as many as a usual one of these books has,
beyond which it is what stands where nothing is known; pupils of one year share many."""
_COMMON, _COMMON_SHARE = 3, 0.0005
"""Contacts that bear a given name which is no slip, and their share of large books."""
_MOST_NAMES = 20_000
"""Names that are kept as they are compared."""


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


def _other_host(features: Features) -> Close:
    texts = features.email_words.texts

    def same(a: int, b: int) -> bool:
        (local, _, host), (local2, _, host2) = texts[a].partition("@"), texts[b].partition("@")
        return local == local2 and host != host2 and len(local) > 4 and local not in _ROLES

    return same


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
