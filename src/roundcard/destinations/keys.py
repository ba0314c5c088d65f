"""The keys by which a service finds people whom it has."""

from __future__ import annotations

from collections.abc import Iterator

from roundcard.card.contact import Contact
from roundcard.card.equality import email, identity, number
from roundcard.card.paths import FieldPath
from roundcard.destinations.model import Destination
from roundcard.pick.path_values import values_at
from roundcard.values.text import loosely

Key = tuple[int, tuple[str, ...]]
"""Which of the service's keys it is, from 0, and the values of its fields."""


def keys_of(contact: Contact, to: Destination) -> Iterator[Key]:
    """The keys of a person: of a key of several fields all must be there; of a field with several
    values each is one."""
    for at, paths in enumerate(to.on_import.matches_on):
        columns = [list(dict.fromkeys(_plain(text, path) for text in values_at(contact, path)))
                   for path in paths]  # fmt: skip
        if not all(columns):
            continue
        if len(columns) == 1:
            for text in columns[0]:
                if text:
                    yield at, (text,)
            continue
        first = tuple(column[0] for column in columns)
        if all(first):
            yield at, first


def named(at: int, to: Destination) -> str:
    """The fields of a key, for people."""
    return " and ".join(map(str, to.on_import.matches_on[at]))


def _plain(text: str, path: FieldPath) -> str:
    if path.field == "email":
        return email(text)
    if path.field == "uid":
        return identity(text)
    if path.field == "phone":
        return number(text)
    return loosely(text)
