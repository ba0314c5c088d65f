"""Pairs that are a question however many points they have, and what makes them one."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from roundcard.match.compare import OWN, OWN_EMAIL, TELLING_EMAIL, Compared
from roundcard.match.person_names import BORNE, DIFFERENT, FAMILY_DIFFERENT, NEAR, UNREAD
from roundcard.match.weights import elsewhere, value_classes

DOUBTS = (
    "",
    "given names differ, though number and e-mail address are the same",
    "nothing but the name agrees",
    "both given names are borne in their own right, by two of one house perhaps",
    "another family name, and only one thing of their own is the same",
    "fits two who exclude each other: only one of them can be the same",
    "one name is in characters whose reading is not known",
    "one name at one workplace, and each has a number or address of their own",
    "given names that two of one house may bear",
    "one is senior or junior, and nothing but a house tells that the other is",
    "not enough, of two who agree in this way",
)
"""Why two contacts are a question although they have the points."""
UNLIKE, _NAME_ALONE, _BORNE, _CHANGED, RIVALS, _UNREAD, _COLLEAGUES, _OF_TWO, _HEIR, SCARCE = range(
    1, 11
)


def doubts_of(told: Compared) -> npt.NDArray[np.int8]:
    """Pairs that are a question however many points they have; the number of a reason in `DOUBTS`,
    0 for none."""
    levels = told.levels
    values = value_classes(levels)
    alone = (values == 0) & (levels["birthday"] != 1) & (
        (levels["email"] != 4) & (levels["mobile"] != 3) & (levels["phone"] != 3)
    ) & (levels["org"] != 1) & (levels["address"] != 2)  # fmt: skip
    borne = (levels["given"] == BORNE) & (levels["birthday"] != 1)
    changed = (levels["family"] == FAMILY_DIFFERENT) & (levels["birthday"] != 1) & (
        (levels["mobile"] != OWN) | ~np.isin(levels["email"], (OWN_EMAIL, TELLING_EMAIL))
    ) & (levels["firm"] == 0)  # fmt: skip
    at_work = (levels["org"] == 1) & (elsewhere(levels, values) > 0) & (levels["birthday"] != 1)
    of_their_own = (levels["mobile"] == OWN) | np.isin(levels["email"], (OWN_EMAIL, TELLING_EMAIL))
    of_two = (levels["given"] == NEAR) & ~of_their_own
    heir = (levels["generation"] == 1) & ~of_their_own & (levels["birthday"] != 1)
    unread = (levels["order"] == UNREAD) & (levels["birthday"] != 1)
    asked = {UNLIKE: levels["given"] == DIFFERENT, _NAME_ALONE: alone, _BORNE: borne,
             _CHANGED: changed, _UNREAD: unread, _COLLEAGUES: at_work, _OF_TWO: of_two,
             _HEIR: heir}  # fmt: skip
    found = np.select(list(asked.values()), list(asked), 0)
    return np.where(levels["uid"] == 1, 0, found).astype(np.int8)
