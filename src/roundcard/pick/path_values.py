"""The values of a contact that a field path reaches, as text."""

from __future__ import annotations

from collections.abc import Iterator

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import CUSTOM
from roundcard.card.paths import FieldPath, parse
from roundcard.values.cells import write_uses
from roundcard.values.dates import parse_iso
from roundcard.values.set_value import part_index

_LINES = "line"


def values_at(contact: Contact, path: FieldPath | str) -> Iterator[str]:
    """Any value that fits the path: of any use and position that it does not name.

    Raises `PathError` for a text that is not a path.
    """
    if isinstance(path, str):
        path = parse(path)
    if path.field == "custom":
        yield from _custom(contact, path.label)
        return
    seen = 0
    for prop in contact.properties:
        head = prop.head
        if head.field.path != path.field or head.name == CUSTOM:
            continue
        if path.uses and not set(path.uses) <= head.uses:
            continue
        if path.label and contact.label_of(prop).casefold() != path.label.casefold():
            continue
        if head.field.kind == "list":
            entries = list(flat(prop.components))
            if path.position:
                entries = entries[path.position - seen - 1 : path.position - seen]
                seen += len(list(flat(prop.components)))
            yield from entries
            continue
        if path.position:
            seen += 1
            if seen != path.position:
                continue
        yield from _parts(contact, prop, path)


def _custom(contact: Contact, label: str) -> Iterator[str]:
    wanted = label.casefold()
    for prop in contact.properties:
        if prop.head.name == CUSTOM:
            said, *values = prop.components
            if str(said).casefold() == wanted:
                yield from flat(tuple(values))
        elif not prop.head.field.path and prop.head.name.casefold() == wanted:
            yield prop.text


def _parts(contact: Contact, prop: Property, path: FieldPath) -> Iterator[str]:
    name, part = prop.head.name, path.part
    if part == "":
        whole = prop.text
        if path.field == "org":
            whole = next(flat(prop.components[:1]), "")
        if whole.strip():
            yield whole
    elif part == "use":
        label = contact.label_of(prop)
        if said := write_uses(prop.head, label, path.field):
            yield said
    elif part == "preferred":
        if prop.head.preferred:
            yield "yes"
    elif part == "full":
        if name in ("fn", "label"):
            yield prop.text
        elif name == "adr":
            yield ", ".join(flat(prop.components))
    elif part in ("year", "month", "day"):
        date = parse_iso(prop.text)
        number = getattr(date, part) if date else 0
        if number:
            yield str(number)
    elif part == "extension":
        if " ext. " in prop.text:
            yield prop.text.rpartition(" ext. ")[2]
    elif part == _LINES:
        street = prop.components[2:3] if name == "adr" else ()
        yield from [line for text in flat(street) for line in text.split("\n")][
            path.number - 1 : path.number
        ]
    elif part.startswith("phonetic-"):
        if name == "n" and prop.head.phonetic:
            at = 0 if part.endswith("family") else 1
            yield from flat(prop.components[at : at + 1])
    elif name not in ("fn", "label") and not prop.head.phonetic:
        at = part_index(path)
        yield from flat(prop.components[at : at + 1])
