"""Pairs that are a question however many points they have, and what makes them one."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from roundcard.match.blocking import Pairs
from roundcard.match.compare import GIVEN_INITIAL, GIVEN_SECOND, GIVEN_SHORT, Compared
from roundcard.match.features import Features
from roundcard.match.names import both_full

DOUBTS = (
    "",
    "the names are not the same, and the rest may be shared by a household or an office",
    "nothing but the name agrees",
    "strangers of one name may have the rest in common, and addresses or numbers differ",
)
"""Why two contacts are a question although they have the points."""


class Shared(NamedTuple):
    """What people share who are certainly not one."""

    emails: frozenset[int]
    phones: frozenset[int]


def shared_in(features: Features, pairs: Pairs, told: Compared) -> Shared:
    """Addresses and numbers of two who contradict each other: of a household, an office, a desk."""
    found: list[frozenset[int]] = []
    for name, values in (("email", features.emails), ("phone", features.phones)):
        common: set[int] = set()
        for at in np.flatnonzero((told.levels[name] == 1) & (told.veto > 0)).tolist():
            common.update(set(values[pairs[at, 0]]).intersection(values[pairs[at, 1]]))
        found.append(frozenset(common))
    return Shared(*found)


def _own_phone(
    features: Features, pairs: Pairs, told: Compared, shared: frozenset[int]
) -> npt.NDArray[np.bool_]:
    """Where two have a number in common that nobody shares who is another person."""
    own = np.asarray(told.levels["phone"] == 1)
    for at in np.flatnonzero(own).tolist() if shared else ():
        common = set(features.phones[pairs[at, 0]]).intersection(features.phones[pairs[at, 1]])
        own[at] = not common <= shared
    return own


def _own_email(
    features: Features, pairs: Pairs, told: Compared, shared: frozenset[int]
) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.bool_]]:
    """Where two have an e-mail address in common that nobody shares who is another person; and
    where it also names one of the two by the given name."""
    own = np.asarray(told.levels["email"] == 1)
    named = np.zeros(len(own), dtype=bool)
    names, texts = features.name_words.texts, features.email_words.texts
    for at in np.flatnonzero(own).tolist():
        one, other = int(pairs[at, 0]), int(pairs[at, 1])
        common = set(features.emails[one]).intersection(features.emails[other]) - shared
        own[at] = bool(common)
        given = [names[each] for each in (features.given[one], features.given[other]) if each >= 0]
        named[at] = any(
            len(word) > 1 and word in texts[each].partition("@")[0].replace("-", "")
            for each in common
            for word in given
        )
    return own, named


def _variants(
    features: Features, pairs: Pairs, short: npt.NDArray[np.bool_]
) -> npt.NDArray[np.bool_]:
    """Where given names that go for one another are both full ones: John and Jean may share a
    house."""
    out = np.zeros(len(short), dtype=bool)
    names, given = features.name_words.texts, features.given
    for at in np.flatnonzero(short).tolist():
        one, other = given[int(pairs[at, 0])], given[int(pairs[at, 1])]
        out[at] = one >= 0 and other >= 0 and both_full(names[one], names[other])
    return out


def doubts_of(
    features: Features, pairs: Pairs, told: Compared, shared: Shared
) -> npt.NDArray[np.int8]:
    """Pairs that are a question however many points they have; the number of a reason in `DOUBTS`,
    0 for none."""
    levels = told.levels
    named = (levels["given"] == 1) | (levels["given"] == 2) | (levels["whole"] == 1)
    close = (levels["given"] == 4) & ((levels["family"] == 1) | (levels["family"] == 2))
    own_email, named_email = _own_email(features, pairs, told, shared.emails)
    own_phone = _own_phone(features, pairs, told, shared.phones)
    told_apart = (levels["birthday"] == 1) | (levels["uid"] == 1)
    variant = _variants(features, pairs, levels["given"] == GIVEN_SHORT)
    initial = levels["given"] == GIVEN_INITIAL
    shaky = ~named & ~((own_email | told_apart) & close) & ~((named_email | told_apart) & initial)
    shaky |= variant & ~told_apart & ~named_email
    shaky |= ((levels["given"] == GIVEN_SECOND) | (levels["family"] == 3)) & ~told_apart
    shaky |= (levels["family"] == 2) & ~told_apart & ~own_email & ~own_phone
    reached = np.any([levels[name] == 1 for name in ("email", "phone", "address", "org")], axis=0)
    only_name = named & ~reached & ~told_apart & (levels["email"] != 2)
    elsewhere = np.sum([levels["email"] >= 2, levels["phone"] == 2, levels["address"] >= 2], axis=0)
    by_chance = ~reached & (elsewhere >= 2)
    found = np.select([shaky, only_name, by_chance], [1, 2, 3], 0).astype(np.int8)
    return np.where(levels["uid"] == 1, 0, found).astype(np.int8)
