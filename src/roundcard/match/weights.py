"""What agreement is worth, in points: bits of the odds that two contacts are one person.

After Fellegi and Sunter (1969) each level of each feature has its points. Names and values do not
speak independently of each other (a given name that differs is nothing beside a house's number, and
much beside somebody's own), so that each kind of agreement of names has further points for each
kind of value that two have in common. All are in ``weights.toml``, fitted to made books of several
kinds (``bench/matching/fit_weights.py``); what is told from the books at hand is which values are
shared, and how rare a name is.
"""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib import resources
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from roundcard.match import compare, person_names
from roundcard.match.compare import LEVELS, Levels

Floats = npt.NDArray[np.float64]
NAME_CLASSES = (
    "no name on a side", "the whole name", "a name for short", "a slip in the given name",
    "given names that may go for one another", "an initial", "a family name that is alike",
    "another family name", "a family name alone", "a given name alone", "names that are alike",
    "one family, other given names", "other names", "an organisation",
)  # fmt: skip
"""Kinds of agreement of names."""
VALUE_CLASSES = (
    "nothing else", "an address", "a number that others share",
    "a number that others share, and the address", "a mailbox or mobile that others share",
    "a mailbox or mobile that others share, and the house", "a number of their own",
    "number and address", "a mobile number of their own", "an e-mail address of their own",
    "an e-mail address that tells the name", "mobile number and e-mail address",
)  # fmt: skip
"""Kinds of values that two have in common, the weakest first."""
(
    _NAMELESS,
    _FULL,
    _SHORT,
    _SLIP,
    _NEAR,
    _INITIAL,
    _FAMILY_ALIKE,
    _CHANGED,
    _FAMILY_ONLY,
    _GIVEN_ONLY,
    _MIXED,
    _HOUSEHOLD,
    _OTHER,
    _FIRM,
) = range(len(NAME_CLASSES))
(
    _NONE,
    _ADDRESS,
    _DESK,
    _HOUSE,
    _MAILBOX,
    _HOUSE_MAILBOX,
    _NUMBER,
    _NUMBER_ADDRESS,
    _MOBILE,
    _EMAIL,
    _TELLING,
    _BOTH,
) = range(len(VALUE_CLASSES))
_AT_HOME = (_ADDRESS, _DESK, _HOUSE, _MAILBOX, _HOUSE_MAILBOX, _NUMBER, _NUMBER_ADDRESS)
"""What people of one house have in common."""
WEAK = (_NONE, *_AT_HOME)
"""Where it matters how rare a name is."""


class Weights(NamedTuple):
    """What everything is worth."""

    points: dict[str, tuple[float, ...]]
    """The points of each feature, by the numbers of `compare.LEVELS`."""
    rare: dict[str, tuple[float, float]]
    """The points of each bit by which a name is rarer than usual: where people of one house or
    nothing have the rest in common, and where it is somebody's own."""
    elsewhere: tuple[float, ...]
    """The points of what `elsewhere` finds."""
    unopposed: float
    """The points of what `unopposed` finds."""
    born: float
    """The points of what `of_one_day` finds."""
    bearers: tuple[float, ...]
    """The points of a whole name that only so many in the books bear, by their number."""
    together: tuple[tuple[float, ...], ...]
    """Further points of each kind of agreement of names with each kind of value."""
    lead: tuple[tuple[float, ...], ...]
    """By how many fewer points two are sure with each of these; more where it is negative."""


@cache
def weights() -> Weights:
    """The weights that come with the program."""
    told = tomllib.loads((resources.files(__package__) / "weights.toml").read_text("utf-8"))
    return Weights({name: tuple(told["points"][name]) for name in LEVELS},
                   {name: tuple(each) for name, each in told["rare"].items()},
                   tuple(told["elsewhere"]), told["unopposed"], told["born"],
                   tuple(told["bearers"]),
                   tuple(tuple(row) for row in told["together"]), _leads(told["lead"]))  # fmt: skip


def _leads(told: Sequence[tuple[str, str, float]]) -> tuple[tuple[float, ...], ...]:
    found = [[0.0] * len(VALUE_CLASSES) for _ in NAME_CLASSES]
    for name, value, points in told:
        found[NAME_CLASSES.index(name)][VALUE_CLASSES.index(value)] = points
    return tuple(map(tuple, found))


def name_classes(levels: dict[str, Levels]) -> npt.NDArray[np.int64]:
    """How the names of pairs agree, by the numbers of `NAME_CLASSES`."""
    given, family, firm = levels["given"], levels["family"], levels["firm"]
    near = np.isin(family, (person_names.SAME, person_names.OTHER_FORM))
    some = np.isin(family, (person_names.FAMILY_ALIKE, person_names.OF_SEVERAL))
    other = family == person_names.FAMILY_DIFFERENT
    close = np.isin(given, (person_names.SHORT, person_names.SECOND, person_names.HALF))
    perhaps = np.isin(given, (person_names.NEAR, person_names.BORNE))
    apart = np.isin(given, (person_names.DIFFERENT, person_names.COUPLE))
    named = (given > 0) | (family > 0)
    return np.select(
        [firm > 0, ~named, apart & (near | some), apart, (given == person_names.SAME) & near,
         close & near, (given == person_names.ALIKE) & near, perhaps & near,
         (given == person_names.INITIAL) & near, ((given == person_names.SAME) | close) & some,
         ((given == person_names.SAME) | close) & other, (given == 0) & (near | some),
         (family == 0) & (given > 0), some],
        [_FIRM, _NAMELESS, _HOUSEHOLD, _OTHER, _FULL, _SHORT, _SLIP, _NEAR, _INITIAL,
         _FAMILY_ALIKE, _CHANGED, _FAMILY_ONLY, _GIVEN_ONLY, _MIXED], _OTHER,
    )  # fmt: skip


def value_classes(levels: dict[str, Levels]) -> npt.NDArray[np.int64]:
    """What pairs have in common beside the name, by the numbers of `VALUE_CLASSES`."""
    email, mobile, phone = levels["email"], levels["mobile"], levels["phone"]
    place = levels["address"] == compare.SAME_PLACE
    own_mobile = mobile == compare.OWN
    own = (email == compare.OWN_EMAIL) | (email == compare.TELLING_EMAIL)
    mailbox = (email == compare.SHARED_EMAIL) | (mobile == compare.SHARED)
    number = phone == compare.OWN
    desk = phone == compare.SHARED
    return np.select(
        [own_mobile & own, email == compare.TELLING_EMAIL, own, own_mobile, number & place,
         mailbox & (place | desk | number), number, mailbox, desk & place, desk, place],
        [_BOTH, _TELLING, _EMAIL, _MOBILE, _NUMBER_ADDRESS, _HOUSE_MAILBOX, _NUMBER, _MAILBOX,
         _HOUSE, _DESK, _ADDRESS], _NONE,
    )  # fmt: skip


def elsewhere(levels: dict[str, Levels], values: npt.NDArray[np.int64]) -> Levels:
    """Where two have a house in common, in how many ways they are reached elsewhere."""
    differ = (levels["email"] == compare.EMAIL_DIFFERS).astype(np.int8)
    differ += levels["mobile"] == compare.NUMBER_DIFFERS
    return np.where(np.isin(values, _AT_HOME), differ, 0).astype(np.int8)


def unopposed(
    levels: dict[str, Levels], names: npt.NDArray[np.int64], values: npt.NDArray[np.int64]
) -> npt.NDArray[np.bool_]:
    """Whether whole names agree, something else does, and nothing at all differs: that says more
    than each value by itself."""
    found: npt.NDArray[np.bool_] = np.isin(names, (_FULL, _SHORT, _SLIP, _NEAR)) & (values != _NONE)
    for name, differ in _DIFFER.items():
        found &= ~np.isin(levels[name], differ)
    return found


_DIFFER = {
    name: [at for at, text in enumerate(texts) if "differ" in text]
    for name, texts in LEVELS.items()
    if name in ("given", "family", "email", "mobile", "phone", "birthday", "address", "org")
}


def of_one_day(
    levels: dict[str, Levels], names: npt.NDArray[np.int64], values: npt.NDArray[np.int64]
) -> npt.NDArray[np.bool_]:
    """Whether the whole name and the birthday agree, as those of two of one house hardly ever do,
    and nothing of their own does."""
    found: npt.NDArray[np.bool_] = (
        (names == _FULL) & (levels["birthday"] == 1) & np.isin(values, WEAK)
    )
    return found


def name_alone(
    names: npt.NDArray[np.int64], values: npt.NDArray[np.int64]
) -> npt.NDArray[np.bool_]:
    """Whether two have the whole name in common, and nothing else."""
    found: npt.NDArray[np.bool_] = (names == _FULL) & (values == _NONE)
    return found


ELSEWHERE = ("", "one house, but a number or address of their own",
             "one house, but number and address of their own")  # fmt: skip


def together(one: int, other: int) -> str:
    """What further points for names and values are given for."""
    return f"{NAME_CLASSES[one]} and {VALUE_CLASSES[other]} together"
