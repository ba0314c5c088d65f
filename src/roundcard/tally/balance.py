"""The two equations: each value read has one fate, each value written has one reason to be there.

::

    read    = blank + set aside + left out + folded + left behind + carried + changed
    written = carried + changed + added + derived
"""

from __future__ import annotations

from typing import NamedTuple

from roundcard.errors import BalanceError
from roundcard.tally.tally import Counts, Tally


class Balance(NamedTuple):
    """What remains of each equation; zero everywhere when nothing went missing."""

    people_in: int
    values_in: int
    people_out: int
    values_out: int

    @classmethod
    def of(cls, tally: Tally) -> Balance:
        """The remainders of a tally."""
        people, values = tally.people, tally.values
        return cls(_in(people), _in(values), _out(people), _out(values))

    @property
    def even(self) -> bool:
        """Whether all four remainders are zero."""
        return not any(self)

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
        raise BalanceError(
            f"the balance is not zero: {'; '.join(told)}; nothing was written. "
            "This is a defect of Round Card: please report it with the command"
        )


def _in(counts: Counts) -> int:
    fates = counts.blank + counts.set_aside + counts.left_out + counts.folded
    return counts.read - fates - counts.left_behind - counts.carried - counts.changed


def _out(counts: Counts) -> int:
    return counts.written - counts.carried - counts.changed - counts.added - counts.derived
