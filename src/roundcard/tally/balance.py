"""The balance: each value read has one fate, each value written a reason to be there.

::

    read + split = blank + passed over + set aside + left out + folded + left behind
                 + not sent + held back + set aside by the service + carried + changed
    written      = carried + changed + added + derived

*Split* are the further values that one read text became. Besides, the reasons for each fate add up
to what was counted for it, so that no report can tell two fates of one value.
"""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from roundcard.errors import BalanceError
from roundcard.tally.reasons import Fate, Reason
from roundcard.tally.tally import Counts, Tally

_ENDED = (
    Fate.PASSED_OVER, Fate.SET_ASIDE, Fate.LEFT_OUT, Fate.FOLDED, Fate.LEFT_BEHIND, Fate.NOT_SENT,
    Fate.HELD_BACK, Fate.REFUSED,
)  # fmt: skip
"""The fates of what is read and not written."""


class Balance(NamedTuple):
    """What remains of each equation; zero everywhere when nothing went missing."""

    people_in: int
    values_in: int
    people_out: int
    values_out: int
    people_reasons: int
    """How far the reasons are from the counts, over all fates."""
    values_reasons: int

    @classmethod
    def of(cls, tally: Tally) -> Balance:
        """The remainders of a tally."""
        people, values = tally.people, tally.values
        return cls(_in(people), _in(values), _out(people), _out(values),
                   _apart(people, tally.why_people), _apart(values, tally.why))  # fmt: skip

    @property
    def even(self) -> bool:
        """Whether all remainders are zero."""
        return not any(self)

    @property
    def people(self) -> int:
        """All that remains of the equations and reasons of people."""
        return abs(self.people_in) + abs(self.people_out) + self.people_reasons

    @property
    def values(self) -> int:
        """All that remains of the equations and reasons of values."""
        return abs(self.values_in) + abs(self.values_out) + self.values_reasons

    def demand(self) -> None:
        """Raise `BalanceError` where a remainder is not zero."""
        if self.even:
            return
        told = [
            f"{abs(rest):,} {unit} {'missing' if (rest > 0) == inward else 'too many'} "
            f"{'after reading' if inward else 'in what was written'}"
            for rest, unit, inward in (
                (self.people_in, "people", True),
                (self.values_in, "values", True),
                (self.people_out, "people", False),
                (self.values_out, "values", False),
            )
            if rest
        ]
        told += [
            f"the reasons are {rest:,} {unit} away from the counts"
            for rest, unit in ((self.people_reasons, "people"), (self.values_reasons, "values"))
            if rest
        ]
        raise BalanceError(
            f"the balance is not zero: {'; '.join(told)}; nothing was written. "
            "This is a defect of Round Card: please report it with the command"
        )


def _in(counts: Counts) -> int:
    ended = sum(map(counts.of, _ENDED))
    return counts.read + counts.split - counts.blank - ended - counts.carried - counts.changed


def _out(counts: Counts) -> int:
    return counts.written - counts.carried - counts.changed - counts.added - counts.derived


def _apart(counts: Counts, why: Counter[Reason]) -> int:
    told: Counter[Fate] = Counter()
    for reason, count in why.items():
        told[reason.fate] += count
    return sum(abs(counts.of(fate) - told[fate]) for fate in Fate)
