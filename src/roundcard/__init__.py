"""Round Card: address books gathered, converted and proved, with no value lost unseen.

>>> import roundcard
>>> path = roundcard.parse_path("phone/work/2")
>>> path.field, path.uses, path.position
('phone', ('work',), 2)
"""

from roundcard._version import __version__
from roundcard.card.contact import Contact, Property
from roundcard.card.paths import FieldPath
from roundcard.card.paths import parse as parse_path
from roundcard.errors import (
    BalanceError,
    LayoutError,
    PathError,
    PlanError,
    RoundCardError,
    SourceError,
    TargetError,
    UsageError,
)

__all__ = [
    "BalanceError",
    "Contact",
    "FieldPath",
    "LayoutError",
    "PathError",
    "PlanError",
    "Property",
    "RoundCardError",
    "SourceError",
    "TargetError",
    "UsageError",
    "__version__",
    "parse_path",
]
