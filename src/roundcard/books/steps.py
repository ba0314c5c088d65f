"""What is done to contacts between reading and writing."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Protocol

from roundcard.card.contact import Contact
from roundcard.tally import Tally


class Step(Protocol):
    """Takes a contact and gives it back, changed or as it was, or None where it is left out."""

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """Do the step's work, counting what it does."""


def after_steps(
    contacts: Iterable[Contact], steps: Sequence[Step], tally: Tally
) -> Iterator[Contact]:
    """The contacts that remain after all steps, in order."""
    return _after(contacts, steps, tally) if steps else iter(contacts)


def _after(contacts: Iterable[Contact], steps: Sequence[Step], tally: Tally) -> Iterator[Contact]:
    for contact in contacts:
        kept: Contact | None = contact
        for step in steps:
            kept = step(contact, tally)
            if kept is None:
                break
            contact = kept
        if kept is not None:
            yield kept
