"""All cleaning rules, in the order in which they are applied."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from roundcard.clean import (
    addresses,
    countries,
    dates,
    duplicate_values,
    emails,
    labels,
    names,
    phones,
    postcodes,
    several,
    text,
    titles,
    urls,
    whole_names,
)
from roundcard.clean.rule import AnyRule, Reshaping, Rule
from roundcard.errors import UsageError, did_you_mean

RULES: tuple[AnyRule, ...] = (
    phones.APART, several.EMAILS, several.URLS, addresses.RULE,
    *text.RULES,
    *names.RULES, *emails.RULES, *phones.RULES, *dates.RULES, *urls.RULES, *countries.RULES,
    *postcodes.RULES,
    titles.TITLES, titles.SUFFIXES, whole_names.SPLIT, whole_names.JOIN,
    labels.RULE, duplicate_values.RULE,
)  # fmt: skip
USUAL = "usual"
"""Stands for all the usual rules where rules are named."""
FOLDS = duplicate_values.RULE.name
"""The rule that folds values into equal ones."""
_OWN_AFTER = "placeholders"


def chosen(
    only: Sequence[str],
    without: Sequence[str],
    own: Sequence[Rule] = (),
    has_room: Callable[[str], bool] = lambda _: True,
) -> tuple[AnyRule, ...]:
    """The rules of some names (the usual ones where `only` is empty) but for others.

    `own` are rules of the user's, applied after those for any text. Rules that make more values
    than there were are left off, unless they are named, where the target has no room for what they
    make, which `has_room` tells by their names. Raises `UsageError`.
    """
    names = [rule.name for rule in RULES]
    for name in (*only, *without):
        if name not in names and name != USUAL:
            hint = did_you_mean(name, names) or f"; there are {', '.join(names)}"
            raise UsageError(f"'{name}' is not a cleaning rule{hint}")
    every = not only or USUAL in only
    found: list[AnyRule] = []
    for rule in RULES:
        grows = isinstance(rule, Reshaping) and rule.grows and not has_room(rule.name)
        if rule.name not in without and (rule.name in only or (every and rule.usual and not grows)):
            found.append(rule)
        if rule.name == _OWN_AFTER:
            found += own
    return tuple(found)
