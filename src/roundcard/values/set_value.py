"""Putting one more value into a contact, at the place that a field path names."""

from __future__ import annotations

from roundcard.card.contact import Contact, Origin, Property
from roundcard.card.equality import same_value
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS, by_path
from roundcard.card.head import Head, Value, head, typed
from roundcard.card.paths import FieldPath, takes_many
from roundcard.errors import PathError
from roundcard.values.cells import from_cell

EXTENSION_NAME = "x-"
"""A custom label that begins so, and could be a property's name, is that property."""


def is_extension(label: str) -> bool:
    """Whether a custom label is the name of an extension property (``X-BERTH``)."""
    plain = label.replace("-", "")
    return label.lower().startswith(EXTENSION_NAME) and plain.isascii() and plain.isalnum()


def settable(path: FieldPath) -> None:
    """Raise `PathError` for a path under which no single value can be put."""
    text = str(path)
    parts = ("use", "preferred", "extension", "full", "line", "year", "month", "day")
    if path.field == "name" and path.part in ("", "phonetic-given", "phonetic-family"):
        raise PathError("say which part of the name is meant", text, 0, len(text))
    if path.part in parts and path.field != "name":
        raise PathError("a value cannot be put here on its own", text, 0, len(text))
    if path.field == "address" and not path.part:
        raise PathError("say which part of the address is meant", text, 0, len(text))
    if path.position:
        raise PathError("a value is added after those that are there; leave out the position",
                        text, 0, len(text))  # fmt: skip


def put(contact: Contact, path: FieldPath, text: str, origin: int) -> bool:
    """Add a value where `path` says, once; whether it was added.

    Where a contact may have several, it is added unless an equal one is there; where there is
    one place only, it is added if the place is free.
    """
    if path.field == "name" and path.part == "full":
        return _add(contact, head("fn"), text, origin, once=True)
    if path.part or path.field in ("org", "gender"):
        return _put_part(contact, path, text, origin)
    if path.field == "custom":
        if is_extension(path.label):
            return _add(contact, head(path.label.lower()), text, origin)
        return _add(contact, head(CUSTOM), (path.label, text), origin)
    field = by_path(path.field)[0]
    if field.kind == "list":
        return _put_item(contact, head(field.name), text, origin)
    value = from_cell(field, text)
    if path.label:
        before = len(contact.properties)
        if not any(same_value(Property(head(field.name), value, origin), prop)
                   for prop in contact.all(field.name)):  # fmt: skip
            contact.append(Property(head(field.name), value, origin), path.label)
        return len(contact.properties) > before
    made = typed(field.name, path.uses)
    return _add(contact, made, value, origin, once=not takes_many(path.field))


def _add(contact: Contact, made: Head, value: Value, origin: int, *, once: bool = False) -> bool:
    added = Property(made, value, origin)
    there = contact.all(made.name)
    if (once and there) or any(same_value(added, prop) for prop in there):
        return False
    contact.properties.append(added)
    return True


def _put_item(contact: Contact, made: Head, text: str, origin: int) -> bool:
    """Add one entry to a list, in the property that holds the list already if there is one."""
    wanted = Property(made, (text,), origin)
    there = contact.all(made.name)
    for prop in there:
        for item in prop.components:
            if same_value(Property(made, (item,), origin), wanted):
                return False
    if not there:
        contact.properties.append(Property(made, (text,), (origin,)))
        return True
    last = there[-1]
    origins: Origin = (*[last.origin_of(at) for at in range(len(last.components))], origin)
    at = next(i for i, prop in enumerate(contact.properties) if prop is last)
    contact.properties[at] = last.replaced((*last.components, text), origins)
    return True


def _put_part(contact: Contact, path: FieldPath, text: str, origin: int) -> bool:
    """Fill one component of a structured value where it is empty."""
    field = by_path(path.field)[0]
    index = part_index(path)
    made = typed(field.name, path.uses)
    for at, prop in enumerate(contact.properties):
        if prop.head.name != field.name or not set(path.uses) <= prop.head.uses:
            continue
        values = list(prop.components) + [""] * (index + 1 - len(prop.components))
        if values[index]:
            return False
        origins = [prop.origin_of(i) for i in range(len(values))]
        values[index], origins[index] = text, origin
        contact.properties[at] = prop.replaced(tuple(values), tuple(origins))
        return True
    value = tuple("" if at != index else text for at in range(index + 1))
    contact.properties.append(Property(made, value, tuple(origin for _ in value)))
    return True


def part_index(path: FieldPath) -> int:
    """Which component of the standard's structured value a path's part is, from 0."""
    if path.field == "name":
        return N_PARTS.index(path.part)
    if path.field == "address":
        return ADR_PARTS.index(path.part)
    if path.field == "gender":
        return 1 if path.part == "identity" else 0
    return path.number  # org: its name, then the units from 1
