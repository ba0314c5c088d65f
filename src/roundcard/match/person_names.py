"""Two names held against each other, by their words and not by the fields in which they stand."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from functools import cache, lru_cache
from itertools import product
from typing import NamedTuple

from rapidfuzz.distance import OSA

from roundcard.match.names import both_full, called, initials_of, others_called, short_forms
from roundcard.values.latin import korean, spelling
from roundcard.values.word_lists import word_list

SAME, SHORT, INITIAL, ALIKE, DIFFERENT, SECOND, HALF, NEAR, COUPLE, BORNE = range(1, 11)
"""Levels of given names; 0 is missing on a side."""
OF_SEVERAL, OTHER_FORM = 4, 5
"""Levels of family names beside `SAME`, `FAMILY_ALIKE` and `FAMILY_DIFFERENT`."""
FAMILY_ALIKE, FAMILY_DIFFERENT = 2, 3
SECOND_SAME, SECOND_DIFFERENT = 1, 2
FIT = frozenset((SAME, SHORT, ALIKE, SECOND, HALF))
"""Levels of given names that one person may well have."""
_MERIT = (0.0, 10, 8, 4, 7, -6, 5, 7, 5, 3, 6)
_FAMILY_MERIT = (0.0, 10, 7, -5, 7, 8)
_PARTICLES = frozenset(word_list(__package__, "particles"))
_FEW, _MANY = 3, 8
"""Letters of a word from which one letter, and two, may be wrong."""
_TWO_SLIPS = 6
"""Letters of given names that may each have one wrong."""
_FAMILY_FEW = 4
_CLIPPED_BEHIND, _CLIPPED_BEFORE = 3, 4
_VOWELS = "aeio"
_DIGIT = re.compile(r"\d")
_ENDING = re.compile(r"(?:ie|y|i|a|o|ek|ka|ko|ka|us|ica|ek|ik|e)$")
_BOTH_SEXES = re.compile(
    r"(?:[aeiouy]{1,2}|[ln]?[ei](?:[tnl]{1,2}[aeo]|ia?|s)?|in[aeh]?a?|k[aou])$"
)
_FORMS = frozenset(
    (("", "a"), ("", "ova"), ("ek", "kova"), ("ec", "cova"), ("a", "ova"), ("o", "ova"),
     ("y", "a"), ("i", "a"), ("ii", "aya"), ("iy", "aya"), ("yi", "aya"), ("y", "aya"),
     ("i", "aya"), ("ii", "aia"), ("iy", "aia"), ("ij", "aja"), ("i", "aia"), ("yi", "aia"),
     ("os", "ou"), ("s", ""), ("as", "iene"), ("as", "aite"), ("is", "iene"), ("is", "yte"),
     ("us", "iene"), ("us", "ute"), ("as", "a"), ("is", "e"), ("s", "a"), ("ys", "iene"),
     ("ys", "yte"), ("ius", "iene"), ("ius", "iute"))
)  # fmt: skip
"""How a man's family name ends, and a woman's: in Czech, Slovak, Polish, Russian, Bulgarian, Greek,
Lithuanian, Latvian."""
_A = ("v", "n", "k", "s")
_SEPARATOR = "\x1f"


class Name(NamedTuple):
    """A name as its words, folded and in Latin letters."""

    given: tuple[str, ...] = ()
    """The given name, and those behind it in the same place; of a double one both halves with a
    hyphen between."""
    second: tuple[str, ...] = ()
    family: tuple[str, ...] = ()
    nicknames: tuple[str, ...] = ()
    both: tuple[str, ...] = ()
    """The given names of two people who stand in one name."""
    whole: tuple[str, ...] = ()
    """The words of a name of which it is not known what they are."""
    script: tuple[str, ...] = ()
    """``han`` where it was written in Han characters, whose reading may not be known."""

    def packed(self) -> str:
        """As one text; empty where there is no name."""
        text = _SEPARATOR.join(" ".join(part) for part in self)
        return text if text.strip(_SEPARATOR) else ""

    @classmethod
    def unpacked(cls, text: str) -> Name:
        """From one text."""
        return cls(*(tuple(part.split()) for part in text.split(_SEPARATOR)))


class Names(NamedTuple):
    """What two names say of each other, by levels."""

    given: int = 0
    family: int = 0
    second: int = 0
    turned: int = 0
    """1 where given and family name stand in each other's place; `UNREAD` where the reading of one
    name is not known, and the other is in Latin letters."""

    @property
    def merit(self) -> float:
        """How well they fit."""
        return _MERIT[self.given] + _FAMILY_MERIT[self.family] - 0.5 * self.turned


NOTHING = Names()
UNREAD = 2
_NOT_READ = Names(turned=UNREAD)
Known = Callable[[str], bool]


class Comparing:
    """Compares the names of some books."""

    def __init__(self, common: Known, family: Known) -> None:
        """`common`: whether many in the books bear a given name, so that it is no slip of another
        one; `family`: whether somebody there bears a word as family name."""
        self._common = common
        self._family = family
        self._readings: dict[Name, list[Name]] = {}
        self._givens: dict[tuple[str, str], int] = {}

    def compare(self, one: Name, other: Name) -> Names:
        """What two names say of each other."""
        if one.both or other.both:
            return self._couples(one, other)
        if readable(one) != readable(other) and not (one.script and other.script):
            return _NOT_READ
        if (one.whole or other.whole) and (slip := self._one_slip(one, other)) is not None:
            return slip
        if one.whole or other.whole:
            if one.whole and sorted(one.whole) == sorted(other.whole):
                return Names(SAME, SAME) if len(one.whole) > 1 else Names(SAME)
            return self._whole(one, other)
        return self._parts(one, other)

    def given(self, one: str, other: str) -> int:
        """What two given names say of each other."""
        if one == other:
            return SAME
        key = (one, other) if one < other else (other, one)
        found = self._givens.get(key)
        if found is None:
            found = self._givens[key] = self._given(*key)
        return found

    def _given(self, one: str, other: str) -> int:
        if "-" in one or "-" in other:
            return self._double(one, other)
        few, many = (one, other) if len(one) <= len(other) else (other, one)
        if len(few) == 1:
            return INITIAL if many[:1] == few or few in initials_of(many) else DIFFERENT
        if not called(one).isdisjoint(called(other)):
            return BORNE if both_full(one, other) else SHORT
        if spelling(one) == spelling(other):
            return ALIKE
        if any(spelling(few) == spelling(each) for each in others_called(many)):
            return SHORT
        if self._known(one) and self._known(other):
            return NEAR if _shortened(few, many) else DIFFERENT
        if slipped(one, other, _FEW):
            return NEAR if _of_other_sex(few, many) else ALIKE
        if _clipped(few, many):
            return NEAR
        if not self._known(few) and any(
            slipped(few, each, _FAMILY_FEW) for each in others_called(many)
        ):
            return NEAR
        if slipped(few, many, _TWO_SLIPS, _TWO_SLIPS):  # each may have a slip of its own
            return NEAR
        return DIFFERENT

    def _known(self, word: str) -> bool:
        return self._common(word) or word in short_forms()

    def _double(self, one: str, other: str) -> int:
        """Given names of which one at least has two halves."""
        plain, plain2 = one.replace("-", ""), other.replace("-", "")
        if plain == plain2 or slipped(plain, plain2, _FEW):
            return SAME if plain == plain2 else ALIKE
        if not called(plain).isdisjoint(called(plain2)):
            return SHORT
        halves, halves2 = one.split("-"), other.split("-")
        if len(halves) > 1 and len(halves2) > 1:
            first = self.given(halves[0], halves2[0])
            last = self.given(halves[1], halves2[1])
            if first in FIT and last in (*FIT, INITIAL):
                return ALIKE
            return DIFFERENT
        single, several = (halves[0], halves2) if len(halves) == 1 else (halves2[0], halves)
        level = self.given(single, several[0])
        if level in (SAME, SHORT, ALIKE, INITIAL):
            return HALF if level in (SAME, SHORT) else level
        if len(single) == len(several) and all(
            each.startswith(char) for char, each in zip(single, several, strict=True)
        ):
            return INITIAL
        return SECOND if self.given(single, several[1]) == SAME else DIFFERENT

    def _parts(self, one: Name, other: Name) -> Names:
        """Names of which the parts are known."""
        found = self._straight(one, other)
        if found.given in (SAME, SHORT, ALIKE) and found.family != FAMILY_DIFFERENT:
            return found
        if not found.given and not found.family:
            found = self._across(one, other)
        elif found.family == FAMILY_DIFFERENT or found.given == DIFFERENT:
            return max((found, self._turned(one, other), self._swallowed(one, other)),
                       key=lambda each: each.merit)  # fmt: skip
        return found

    def _straight(self, one: Name, other: Name) -> Names:
        """Given name beside given name, family name beside family name."""
        family = family_level(one.family, other.family)
        if not one.given or not other.given:
            return Names(0, family)
        given = self.given(one.given[0], other.given[0])
        second = _second((*one.given[1:], *one.second), (*other.given[1:], *other.second))
        if given not in (SAME, SHORT):
            given = self._further(one, other, given)
        return Names(given, family, second)

    def _further(self, one: Name, other: Name, level: int) -> int:
        """A given name by what else stands there: second names, what somebody is called, words
        that are joined in one and not in the other."""
        ones, others = (*one.given, *one.second), (*other.given, *other.second)
        for nick, names in ((one.nicknames, others), (other.nicknames, ones)):
            if any(self.given(word, each) in (SAME, SHORT) for word in nick for each in names[:1]):
                return SHORT
        if (
            _joined(ones) == _joined(others)
            or _joined(ones[:1]) == _joined(others[:2])
            or (_joined(ones[:2]) == _joined(others[:1]))
        ):
            return SAME
        if level in (ALIKE, NEAR, HALF):
            return level
        first, first2 = ones[0], others[0]
        if any(self.given(each, first2) in (SAME, SHORT) for each in ones[1:]) or any(
            self.given(each, first) in (SAME, SHORT) for each in others[1:]
        ):
            return SECOND
        return level

    def _across(self, one: Name, other: Name) -> Names:
        """One has a given name alone, the other a family name alone."""
        mine, theirs = one.given or one.family, other.given or other.family
        if not mine or not theirs:
            return NOTHING
        return Names(SAME) if mine == theirs else NOTHING

    def _turned(self, one: Name, other: Name) -> Names:
        """The given name beside the family name; only where both find a partner."""
        if not (one.given and one.family and other.given and other.family):
            few, many = (one, other) if not (one.given and one.family) else (other, one)
            alone = few.given or few.family
            if not alone or not (many.given and many.family):
                return Names(DIFFERENT, FAMILY_DIFFERENT)
            if few.given and family_level(alone, many.family) == SAME:
                return Names(0, SAME, 0, turned=1)
            if few.family and self.given(alone[0], many.given[0]) in (SAME, SHORT):
                return Names(self.given(alone[0], many.given[0]), 0, 0, turned=1)
            return Names(DIFFERENT, FAMILY_DIFFERENT)
        found = Names(DIFFERENT, FAMILY_DIFFERENT)
        for mine, theirs in ((one, other), (other, one)):
            given = self.given(mine.family[0], theirs.given[0])
            if given in (DIFFERENT, NEAR, BORNE, INITIAL) and not (
                given == INITIAL and mine.given == theirs.family
            ):
                continue
            family = family_level(mine.given, theirs.family)
            if family == OF_SEVERAL:  # a second name stands behind the given one
                family = family_level(mine.given[:1], theirs.family)
            if family in (SAME, FAMILY_ALIKE, OTHER_FORM):
                level = Names(given, family, 0, turned=1)
                found = max(found, level, key=lambda each: each.merit)
        return found

    def _swallowed(self, one: Name, other: Name) -> Names:
        """Words of a name that stand in another part: all of one name within the other."""
        mine = (*one.given, *one.second, *one.family)
        theirs = (*other.given, *other.second, *other.family)
        if len(mine) > 2 and len(theirs) > 2 and sorted(mine) == sorted(theirs):
            return Names(SAME, SAME, 0, turned=1)
        return Names(DIFFERENT, FAMILY_DIFFERENT)

    def _whole(self, one: Name, other: Name) -> Names:
        """Names of which one at least is not known in its parts: the readings that fit best."""
        best = NOTHING
        for mine, theirs in product(self._likely(one), self._likely(other)):
            found = self._parts(mine, theirs)
            if best is NOTHING or found.merit > best.merit:
                best = found
        return best

    def _one_slip(self, one: Name, other: Name) -> Names | None:
        """Names of three words and more that are the same but for a slip in the first or the
        last."""
        mine = one.whole or (*one.given, *one.second, *one.family)
        theirs = other.whole or (*other.given, *other.second, *other.family)
        if len(mine) != len(theirs) or len(mine) < _FEW:
            return None
        wrong = [at for at, pair in enumerate(zip(mine, theirs, strict=True)) if pair[0] != pair[1]]
        if len(wrong) != 1 or self.given(mine[wrong[0]], theirs[wrong[0]]) != ALIKE:
            return None
        return Names(SAME, FAMILY_ALIKE) if wrong[0] == len(mine) - 1 else Names(ALIKE, SAME)

    def _likely(self, name: Name) -> list[Name]:
        """The readings of a name that are as likely as any."""
        if not name.whole:
            return [name]
        found = self._readings.get(name)
        if found is None:
            rated = [(self._likelihood(each), each) for each in readings(name)]
            best = max(rate for rate, _ in rated)
            found = [each for rate, each in rated if rate >= best - _LESS_LIKELY]
            self._readings[name] = found
        return found

    def _likelihood(self, name: Name) -> int:
        """How likely a reading is: known given names stand for given names."""
        if not name.given:
            return -2 if len(name.family) > 1 else 0
        given = self._known(name.given[0].split("-")[0])
        family = bool(name.family) and self._known(name.family[0])
        borne = self._family(name.given[0])
        return 2 * given - family - 2 * (borne and not given)

    def _couples(self, one: Name, other: Name) -> Names:
        """Names of which one at least is of two people."""
        family = family_level(one.family, other.family)
        if one.both and other.both:
            fits = [[self.given(a, b) in FIT for b in other.both] for a in one.both]
            both = any(all(fits[at][each] for at, each in enumerate(order))
                       for order in ((0, 1), (1, 0)))  # fmt: skip
            return Names(SAME if both else DIFFERENT, family)
        couple, single = (one, other) if one.both else (other, one)
        first = (single.given or single.whole)[:1]
        if not first:
            return Names(0, family)
        fit = any(self.given(first[0], each) != DIFFERENT for each in couple.both)
        return Names(COUPLE if fit else DIFFERENT, family)


@lru_cache(maxsize=16_384)
def readable(name: Name) -> bool:
    """Whether all words of a name could be put in Latin letters."""
    return all(word.isascii() for part in name for word in part)


def readings(name: Name) -> Iterator[Name]:
    """What the words of a name may be."""
    words = name.whole
    last = len(words) - 1
    for given, second, family in _ORDERS.get(len(words), _ORDERS[4]):
        yield Name(words[given], words[second], _halves(words[family]), name.nicknames)
    if last < 2:
        yield Name(family=_halves(words), nicknames=name.nicknames)


def _halves(words: tuple[str, ...]) -> tuple[str, ...]:
    """The words of a family name, the halves of a double one each by itself."""
    return tuple(half for word in words for half in word.split("-"))


_NO, _ALL, _FIRST, _LAST = slice(0, 0), slice(None), slice(0, 1), slice(-1, None)
_ORDERS = {
    1: [(_FIRST, _NO, _NO)],
    2: [(_FIRST, _NO, _LAST), (_LAST, _NO, _FIRST)],
    3: [(_FIRST, slice(1, -1), _LAST), (slice(1, 2), _LAST, _FIRST),
        (_FIRST, _NO, slice(1, None)), (_LAST, _NO, slice(0, -1)), (_LAST, slice(1, 2), _FIRST)],
    4: [(_FIRST, slice(1, -1), _LAST), (slice(1, 2), slice(2, None), _FIRST),
        (_FIRST, _NO, slice(1, None)), (_FIRST, slice(1, 2), slice(2, None)),
        (slice(-2, -1), _LAST, slice(0, -2)), (_LAST, slice(1, -1), _FIRST)],
}  # fmt: skip
"""Where given name, second names and family name may stand among so many words."""
_LESS_LIKELY = 1


def slipped(one: str, other: str, few: int, many: int = _MANY) -> bool:
    """Whether one word may be the other with a letter wrong, left out, doubled or turned; two such
    slips in words of `many` letters and more."""
    short, long = min(len(one), len(other)), max(len(one), len(other))
    if short < few or long - short > 2 or _DIGIT.search(one) or _DIGIT.search(other):
        return False  # numbers tell apart
    most = 2 if short >= many else 1
    if OSA.distance(one, other, score_cutoff=most) > most:
        return False
    return short > few or one[0] == other[0] or sorted(one) == sorted(other)


def _of_other_sex(few: str, many: str) -> bool:
    """Whether two given names differ in how they end alone, as Martin and Martina do."""
    return many[:-1] in (few, few[:-1]) and many[-1] in _VOWELS


def _shortened(few: str, many: str) -> bool:
    """Whether a known name is the beginning of another and no form of the same for a man or woman:
    Kim of Kimberly, and not Paul of Paula or Gabriel of Gabrielle."""
    return len(few) >= _CLIPPED_BEHIND and many.startswith(few) and (
        _BOTH_SEXES.match(many, len(few)) is None
    )  # fmt: skip


def _clipped(few: str, many: str) -> bool:
    """Whether a short name may be made of the beginning of a longer one, or of its end."""
    if len(few) == len(many):
        return False
    if many.startswith(few) and len(few) >= _CLIPPED_BEHIND:
        return True
    if many.endswith(few) and len(few) >= _CLIPPED_BEFORE:
        return True
    stem = _ENDING.sub("", few)
    if len(stem) > _CLIPPED_BEHIND and stem[-1] == stem[-2]:
        stem = stem[:-1]
    return len(stem) >= _CLIPPED_BEHIND and stem != few and many.startswith(stem)


def _second(one: tuple[str, ...], other: tuple[str, ...]) -> int:
    """What second names say of each other: by their initials where there are no more."""
    if not one or not other:
        return 0
    for mine, theirs in zip(one, other, strict=False):
        few, many = (mine, theirs) if len(mine) <= len(theirs) else (theirs, mine)
        fits = many.startswith(few) if len(few) == 1 else (
            few == many or spelling(few) == spelling(many) or slipped(few, many, _FAMILY_FEW)
        )  # fmt: skip
        if not fits:
            return SECOND_DIFFERENT
    return SECOND_SAME


def _joined(words: tuple[str, ...]) -> str:
    return "".join(words).replace("-", "")


@cache
def _core(words: tuple[str, ...]) -> tuple[str, ...]:
    """The words of a family name without particles."""
    return tuple(word for word in words if word not in _PARTICLES) or words


@lru_cache(maxsize=16_384)
def _joined_core(words: tuple[str, ...]) -> str:
    return "".join(_core(words))


@lru_cache(maxsize=16_384)
def family_level(one: tuple[str, ...], other: tuple[str, ...]) -> int:
    """What two family names, as their words, say of each other."""
    if not one or not other:
        return 0
    if one == other:
        return SAME
    joined, joined2 = _joined_core(one), _joined_core(other)
    if joined == joined2:
        return SAME
    if spelling(joined) == spelling(joined2) or korean(joined) == korean(joined2):
        return FAMILY_ALIKE
    if other_form(joined, joined2):
        return OTHER_FORM
    few, many = sorted((_core(one), _core(other)), key=len)
    if len(few) == len(many) > 1 and all(map(_one_family, few, many)):
        return FAMILY_ALIKE
    if len(many) > 1:
        for mine in few:
            if len(mine) > 2 and any(_one_family(mine, each) for each in many):
                return OF_SEVERAL
    if slipped(joined, joined2, _FAMILY_FEW):
        return FAMILY_ALIKE
    return FAMILY_DIFFERENT


def _one_family(one: str, other: str) -> bool:
    return one == other or other_form(one, other) or (
        len(one) > _FAMILY_FEW and slipped(one, other, _FAMILY_FEW)
    )  # fmt: skip


def other_form(one: str, other: str) -> bool:
    """Whether one word is the form of the other that women bear, or men."""
    start = 0
    for a, b in zip(one, other, strict=False):
        if a != b:
            break
        start += 1
    for back in range(3):
        at = start - back
        if at < _FEW:
            return False
        mine, theirs = one[at:], other[at:]
        for man, woman in ((mine, theirs), (theirs, mine)):
            if (man, woman) in _FORMS and not (
                (man, woman) in (("", "a"), ("s", "")) and one[at - 1] not in (*_A, "i", "o", "a")
            ):
                return True
    return False
