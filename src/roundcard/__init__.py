"""Round Card: address books gathered, converted and proved, with no value lost unseen.

>>> import roundcard
>>> path = roundcard.parse_path("phone/work/2")
>>> path.field, path.uses, path.position
('phone', ('work',), 2)

Whole books are converted by a plan, and the report says what became of each value::

    plan = roundcard.Plan(["ledger.csv"], "ledger.vcf", layouts=[roundcard.load_layout("l.toml")])
    report = roundcard.convert(plan)
    assert report.balance.even
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from roundcard._version import __version__
from roundcard.card.contact import Contact, Property
from roundcard.card.paths import FieldPath
from roundcard.card.paths import parse as parse_path
from roundcard.errors import (
    BalanceError,
    LayoutError,
    PathError,
    PlanError,
    ProofError,
    RoundCardError,
    SourceError,
    TargetError,
    UsageError,
)

if TYPE_CHECKING:
    from roundcard.books.conversion import Report, convert
    from roundcard.books.plan import Plan
    from roundcard.layouts.library import load as load_layout

_LATER = {
    "Plan": ("roundcard.books.conversion", "Plan"),
    "Report": ("roundcard.books.conversion", "Report"),
    "convert": ("roundcard.books.conversion", "convert"),
    "load_layout": ("roundcard.layouts.library", "load"),
}
"""Names whose modules are loaded when they are asked for, so that the command starts quickly."""


def __getattr__(name: str) -> Any:
    if name not in _LATER:
        raise AttributeError(f"module 'roundcard' has no attribute '{name}'")
    module, attribute = _LATER[name]
    return getattr(import_module(module), attribute)


__all__ = [
    "BalanceError",
    "Contact",
    "FieldPath",
    "LayoutError",
    "PathError",
    "Plan",
    "PlanError",
    "ProofError",
    "Property",
    "Report",
    "RoundCardError",
    "SourceError",
    "TargetError",
    "UsageError",
    "__version__",
    "convert",
    "load_layout",
    "parse_path",
]
