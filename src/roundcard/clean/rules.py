"""All cleaning rules, in the order in which they are applied."""

from __future__ import annotations

from collections.abc import Sequence

from roundcard.clean import countries, dates, emails, names, phones, text
from roundcard.clean.rule import Rule
from roundcard.errors import UsageError, did_you_mean

RULES: tuple[Rule, ...] = (
    *text.RULES, *names.RULES, *emails.RULES, *phones.RULES, *dates.RULES, *countries.RULES,
)  # fmt: skip


def chosen(only: Sequence[str], without: Sequence[str]) -> tuple[Rule, ...]:
    """The rules of some names (all where `only` is empty) but for others. Raises `UsageError`."""
    names = [rule.name for rule in RULES]
    for name in (*only, *without):
        if name not in names:
            hint = did_you_mean(name, names) or f"; there are {', '.join(names)}"
            raise UsageError(f"'{name}' is no cleaning rule{hint}")
    return tuple(
        rule for rule in RULES if (not only or rule.name in only) and rule.name not in without
    )
