"""Whether a survey would find something wrong with the values of one contact."""

from __future__ import annotations

from collections.abc import Iterator

from roundcard.card.contact import Contact
from roundcard.layouts.drafting.profile import GARBLED, SCIENTIFIC
from roundcard.survey.cards import values_of
from roundcard.survey.preview import against


def troubles_of(contact: Contact) -> Iterator[str]:
    """What is wrong with the values of a contact, each as ``path: what``."""
    for path, value in values_of(contact):
        if GARBLED.search(value):
            yield f"{path}: garbled accents"
        elif SCIENTIFIC.fullmatch(value.strip()):
            yield f"{path}: scientific notation"
        elif told := against(path, value):
            yield f"{path}: {told}"


def has_trouble(contact: Contact) -> bool:
    """Whether anything is wrong with the values of a contact."""
    return next(troubles_of(contact), None) is not None
