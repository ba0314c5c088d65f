"""One person at the fitter's desk: what is still theirs, what was refused, what is to count."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.head import head
from roundcard.destinations.room import Refused
from roundcard.tally import Fate, Reason

GONE = Property(head("x-roundcard-gone"), "", 0)
"""Stands where a property was until the list is put in order."""


class Effect(NamedTuple):
    """What fitting does to a value of a person, or to the person."""

    source: int
    record: int
    person: str
    fate: Fate
    rule: str
    """A `Why`."""
    path: str
    before: str
    after: str = ""
    detail: str = ""


TellEffect = Callable[[Effect], None]
"""Called with each effect."""


class Desk:
    """One person at the fitter's desk."""

    def __init__(self, contact: Contact) -> None:
        self.contact = contact
        self.before = contact.properties
        self.props = list(contact.properties)
        self.labels = contact.labels()
        self.refused: list[Refused] = []
        """What may still ride in the note."""
        self.left: list[Refused] = []
        """What may not."""
        self.aside: list[Refused] = []
        """Originals of which something else is written."""
        self.shortened: dict[int, Property] = {}
        """Beginnings that are written, by the `id` of the whole value that is refused."""
        self.counts: list[tuple[Reason, int]] = []
        self.effects: list[tuple[Fate, str, str, str, str, str]] = []
        self.note_made = False
        """Whether there was no note, so that the first value that rides makes one."""

    def label_of(self, prop: Property) -> str:
        """The user's own label of a value; empty where it has none."""
        group = prop.head.group
        return self.labels.get(group.lower(), "") if group else ""

    def tell(
        self, fate: Fate, rule: str, path: str, before: str, after: str = "", detail: str = ""
    ) -> None:
        """Note what is done to a value."""
        self.effects.append((fate, rule, path, before, after, detail))
