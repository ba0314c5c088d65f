"""Pairs that are a question however many points they have, and what makes them one."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from roundcard.match.compare import Compared
from roundcard.match.person_names import DIFFERENT
from roundcard.match.weights import value_classes

DOUBTS = (
    "",
    "given names differ, though number and e-mail address are the same",
    "nothing but the name agrees",
    "fits two who exclude each other: only one of them can be the same",
)
"""Why two contacts are a question although they have the points."""
_GIVEN, _NAME_ALONE, RIVALS = 1, 2, 3


def doubts_of(told: Compared) -> npt.NDArray[np.int8]:
    """Pairs that are a question however many points they have; the number of a reason in `DOUBTS`,
    0 for none."""
    levels = told.levels
    alone = (value_classes(levels) == 0) & (levels["birthday"] != 1) & (
        (levels["email"] != 4) & (levels["mobile"] != 3) & (levels["phone"] != 3)
    ) & (levels["org"] != 1) & (levels["address"] != 2)  # fmt: skip
    found = np.select([levels["given"] == DIFFERENT, alone], [_GIVEN, _NAME_ALONE], 0)
    return np.where(levels["uid"] == 1, 0, found).astype(np.int8)
