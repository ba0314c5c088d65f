"""The ledger: the fates of values and people, each with its reason, balanced at the end."""

from roundcard.tally.balance import Balance
from roundcard.tally.reasons import (
    NAMES_MADE,
    Fate,
    Reason,
    Why,
    added_by,
    changed_by,
    derived_by,
    name_from,
    number_of,
    reason_of,
)
from roundcard.tally.tally import (
    MOST_EXAMPLES,
    Counts,
    Fates,
    Finding,
    Findings,
    SetAside,
    Sink,
    Tally,
)

__all__ = [
    "MOST_EXAMPLES",
    "NAMES_MADE",
    "Balance",
    "Counts",
    "Fate",
    "Fates",
    "Finding",
    "Findings",
    "Reason",
    "SetAside",
    "Sink",
    "Tally",
    "Why",
    "added_by",
    "changed_by",
    "derived_by",
    "name_from",
    "number_of",
    "reason_of",
]
