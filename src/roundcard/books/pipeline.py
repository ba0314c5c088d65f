"""What is done to contacts between reading and writing."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any, Protocol, runtime_checkable

from roundcard.card.contact import Contact
from roundcard.tally import Tally


class Step(Protocol):
    """Takes a contact and gives it back, changed or as it was, or None where it is left out."""

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """Do the step's work, counting what it does."""


@runtime_checkable
class Tells(Protocol):
    """A step that tells of what it does, and may do it in another process than who listens."""

    def gather(self) -> list[Any]:
        """Keep what is told in a list, which crosses to the parent."""

    def listen(self, also: Callable[[int, int, str, str], None]) -> None:
        """Tell each change to somebody else, too: source, record, before, after."""

    def give(self, gathered: Sequence[Any], records: int) -> None:
        """Tell what another process gathered; `records` were read before what it worked on."""


def telling(steps: Sequence[Step]) -> list[Tells]:
    """The steps that tell of what they do."""
    return [step for step in steps if isinstance(step, Tells)]


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
