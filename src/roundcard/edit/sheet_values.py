"""The values of a contact that a sheet to edit shows, each at a place with a name of its own."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import CUSTOM, N_PARTS, by_path
from roundcard.card.head import Component, head, typed
from roundcard.card.names import says_same
from roundcard.card.paths import FieldPath, parse, takes_many
from roundcard.errors import PathError
from roundcard.survey.cards import parts_of_value
from roundcard.tally import Fate, Reason, Why, added_by
from roundcard.values.cells import from_cell, to_cell
from roundcard.values.set_value import part_index

_SHOWN = ("name", "nickname", "org", "title", "role", "email", "phone", "address", "url", "chat",
          "social", "birthday", "anniversary", "related", "category", "note", "custom")  # fmt: skip
"""The fields of a lean sheet, in the order of its columns; all others stay as they are."""
_BETWEEN = "; "
_ORDER = ("prefix", "given", "additional", "family", "family2", "suffix", "generation", "full")
_PHONETIC = {0: "phonetic-family", 1: "phonetic-given"}


class SheetSlot(NamedTuple):
    """One value of a contact, and where a sheet shows it."""

    path: str
    """The field path, with a position where several values would have the same."""
    text: str
    at: int
    """Which of the contact's properties it is, from 0; -1 for a list out of several."""
    part: int
    """Which component of it; -1 where the value is one text."""


def slots_of(contact: Contact) -> Iterator[SheetSlot]:
    """The values of a contact that a sheet shows; no two have the same path.

    A whole name that only says what its parts say is left out.
    """
    seen: Counter[str] = Counter()
    labels = contact.labels()
    lists: dict[str, list[str]] = {}
    for at, prop in enumerate(contact.properties):
        prop_head = prop.head
        field = prop_head.field
        if prop.rides or field.path not in _SHOWN:
            continue
        if field.kind == "list":
            lists.setdefault(field.path, []).extend(flat(prop.components))
        elif prop_head.name == "n":
            yield from _name(prop, at, seen)
        elif prop_head.name == "fn":
            if not _said_by_parts(contact, prop) and not seen["name/full"]:
                seen["name/full"] += 1
                yield SheetSlot("name/full", prop.text, at, -1)
        elif prop_head.name == CUSTOM:
            path = str(FieldPath("custom", label=str(prop.components[0]) or "?"))
            if not seen[path] and len(prop.components) == 2 and prop.text:
                seen[path] += 1
                yield SheetSlot(path, _text(prop.components[1]), at, 1)
        elif prop_head.name == "label":
            base = _base(prop, labels, "address-whole", seen)
            yield SheetSlot(str(_with_part(base, "full")), prop.text, at, -1)
        elif field.kind == "parts":
            yield from _parts(prop, at, _base(prop, labels, field.path, seen))
        elif prop.text.strip() and (
            takes_many(field.path) or not seen[f"{field.path} {field.path}"]
        ):
            base = _base(prop, labels, field.path, seen)
            yield SheetSlot(str(base), to_cell(field, prop.text), at, -1)
    for path, entries in lists.items():
        yield SheetSlot(path, joined(entries), -1, -1)


def _single(word: str) -> bool:
    """Whether a path takes no position; a second value of such a field is not shown."""
    return not takes_many(word)


def joined(entries: list[str]) -> str:
    """The entries of a list in one cell."""
    return _BETWEEN.join(entry.replace("\\", "\\\\").replace(";", "\\;") for entry in entries)


def parted(text: str) -> list[str]:
    """The entries that `joined` put into one cell, and those that a person typed."""
    entries, entry, at = [], "", 0
    while at < len(text):
        if text[at] == "\\" and text[at + 1 : at + 2] in ("\\", ";"):
            entry += text[at + 1]
            at += 2
            continue
        if text[at] in ";\n":
            entries.append(entry.strip())
            entry = ""
        else:
            entry += text[at]
        at += 1
    return [each for each in [*entries, entry.strip()] if each]


def _said_by_parts(contact: Contact, whole: Property) -> bool:
    return any(
        says_same(whole.text, prop.value) for prop in contact.all("n") if any(flat(prop.components))
    )


def _name(prop: Property, at: int, seen: Counter[str]) -> Iterator[SheetSlot]:
    for index, component in enumerate(prop.components):
        part = _PHONETIC.get(index, "") if prop.head.phonetic else N_PARTS[index]
        if component and part and not seen[f"name/{part}"]:
            seen[f"name/{part}"] += 1
            yield SheetSlot(f"name/{part}", _text(component), at, index)


def _parts(prop: Property, at: int, base: FieldPath) -> Iterator[SheetSlot]:
    for path, _, index, inner in parts_of_value(prop):
        if inner:
            continue
        part = parse(path).part
        text = _text(prop.components[index])
        yield SheetSlot(
            str(_with_part(base, part, index if part == "unit" else 0)), text, at, index
        )


def _base(prop: Property, labels: dict[str, str], word: str, seen: Counter[str]) -> FieldPath:
    """The path of a whole value, with its position among those that would have the same."""
    field = prop.head.field
    label = labels.get(prop.head.group.lower(), "") if prop.head.group else ""
    uses = () if label else tuple(use for use in field.uses if use in prop.head.uses)
    base = FieldPath(field.path, uses, label)
    seen[f"{word} {base}"] += 1
    position = seen[f"{word} {base}"]
    return FieldPath(field.path, uses, label, position if position > 1 else 0)


def _with_part(base: FieldPath, part: str, number: int = 0) -> FieldPath:
    return FieldPath(base.field, base.uses, base.label, base.position, part, number)


def _text(component: Component) -> str:
    return component if isinstance(component, str) else ", ".join(filter(None, component))


def order_of(path: str) -> tuple[int, int, str, int, int]:
    """Where the column of a path stands in a sheet."""
    found = parse(path)
    word = _SHOWN.index(found.field) if found.field in _SHOWN else len(_SHOWN)
    part = 0
    if found.field == "name":
        part = _ORDER.index(found.part) if found.part in _ORDER else len(_ORDER)
        return word, part, "", 0, 0
    if found.part == "full":
        part = -1
    elif found.part:
        part = part_index(found) + 1
    use = " ".join(found.uses) or f"~{found.label}" * bool(found.label)
    return word, 0, use, found.position, part


def editable(heading: str) -> FieldPath:
    """The path that a column of an edited sheet names. Raises `PathError`."""
    path = parse(heading)
    plain = path.part not in ("use", "preferred", "extension", "year", "month", "day", "line")
    if path.field not in _SHOWN or not plain:
        raise PathError("a sheet to edit has no such column", heading, 0, len(heading))
    if path.field == "name" and not path.part:
        raise PathError("say which part of the name is meant", heading, 0, len(heading))
    if path.field == "address" and not path.part:
        raise PathError("say which part of the address is meant", heading, 0, len(heading))
    return path


def add(contact: Contact, path: FieldPath, text: str) -> None:
    """Put in a value that a sheet has and the contact has not.

    A part goes to the address, name or organisation that the path means, where that is there.
    """
    field = by_path(path.field)[0]
    origin = added_by(Reason(Fate.ADDED, Why.IN_SHEET, path.field))
    if field.kind == "list":
        entries = tuple(parted(text))
        made = Property(head(field.name), entries, tuple(origin for _ in entries))
        contact.properties.append(made)
    elif path.field == "custom":
        contact.properties.append(Property(head(CUSTOM), (path.label, text), origin))
    elif path.part == "full":
        name = "fn" if path.field == "name" else "label"
        contact.append(Property(typed(name, path.uses), text, origin), path.label)
    elif field.kind == "parts":
        _add_part(contact, path, text, origin)
    else:
        made = Property(typed(field.name, path.uses), from_cell(field, text), origin)
        contact.append(made, path.label)


def _add_part(contact: Contact, path: FieldPath, text: str, origin: int) -> None:
    name = by_path(path.field)[0].name
    phonetic = path.part.startswith("phonetic-")
    index = 0 if path.part == "phonetic-family" else 1 if phonetic else part_index(path)
    at = _whole_of(contact, path, phonetic)
    if at < 0:
        value = tuple("" if each != index else text for each in range(max(index + 1, 1)))
        params = (("altid", ("1",)), ("phonetic", ("script",))) if phonetic else ()
        made = head("n", params) if phonetic else typed(name, path.uses)
        contact.append(Property(made, value, tuple(origin for _ in value)), path.label)
        return
    prop = contact.properties[at]
    values = list(prop.components) + [""] * (index + 1 - len(prop.components))
    origins = [prop.origin_of(each) for each in range(len(values))]
    values[index], origins[index] = text, origin
    contact.properties[at] = prop.replaced(tuple(values), tuple(origins))


def _whole_of(contact: Contact, path: FieldPath, phonetic: bool) -> int:
    """Which property a part belongs to; -1 where it is not there."""
    wanted = (path.uses, path.label, path.position)
    for slot in slots_of(contact):
        there = parse(slot.path)
        if there.field != path.field or there.part == "full":
            continue
        is_phonetic = there.part.startswith("phonetic-")
        if is_phonetic == phonetic and (there.uses, there.label, there.position) == wanted:
            return slot.at
    if path.field == "name" and not takes_many("name"):
        for at, prop in enumerate(contact.properties):
            if prop.head.name == "n" and prop.head.phonetic == phonetic:
                return at
    return -1
