"""What a cleaning rule is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple


class Around(NamedTuple):
    """What a rule may know beside the value itself."""

    path: str
    """The field path of the value, without position."""
    region: str = ""
    """The ISO 3166 code of the country that numbers without a country code are of; empty where
    that is not known."""
    phone: str = "international"
    """The form that phone numbers get: ``international`` or ``national``."""
    uniform: frozenset[str] = frozenset()
    """The paths of names that the whole book writes in one letter case."""
    countries: str = ""
    """How countries are written: ``code``, or the code of a language; empty to leave them."""


class Verdict(NamedTuple):
    """What a rule says of a value."""

    text: str | None = None
    """The value as it should be; empty to drop it, None to leave it."""
    doubt: str = ""
    """What is doubtful about a value that is left, for a person to decide."""


LEFT = Verdict()
"""The rule has nothing to say."""


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule: its name, what it is for, and the function that says what becomes of a value."""

    name: str
    fields: tuple[str, ...]
    """The first words of the paths it is for; empty for all fields of text."""
    what: str
    examples: tuple[tuple[str, str, str], ...]
    """Path, before and after; the same before and after where it must do nothing."""
    judge: Callable[[str, Around], Verdict]

    def concerns(self, path: str) -> bool:
        """Whether the rule is for values at a path."""
        return not self.fields or path.startswith(self.fields)
