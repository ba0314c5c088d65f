r"""What has no room rides in the note: one marked block at its end, and back.

::

    the person's own text
    [more]
    phone/work: +44 1632 960001
    address/home/street: 3 Lock Lane\, Upper Bridge

A line is one value: its field path, a colon, and its text with line breaks, backslashes and ``;``
escaped as in a vCard. Where a note has one line only, `` | `` stands for the breaks. A block is
read back where it is the last one and each of its lines is one; else it is a note.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import ADR_PARTS, CUSTOM, LEAST_PARTS, N_PARTS, by_path
from roundcard.card.head import Component, head, typed
from roundcard.card.paths import FieldPath, parse
from roundcard.errors import PathError
from roundcard.values.cells import from_cell
from roundcard.values.extensions import read_extension, shown_extension
from roundcard.values.set_value import is_extension, part_index

MARK = "[more]"
_ONE_LINE = " | "
_UNESCAPE = re.compile(r"\\(.)", re.DOTALL)
_MOST = 500


class Line(NamedTuple):
    """One value as it rides."""

    path: FieldPath
    text: str
    origin: int = 0

    def written(self, *, one_line: bool) -> str:
        """The line."""
        text = self.text.replace("\\", "\\\\").replace(";", "\\;").replace("\n", "\\n")
        path = str(self.path)
        if one_line:
            text, path = text.replace("|", "\\|"), path.replace("|", "\\|")
        return f"{path}: {text}"


def lines_of(prop: Property, label: str, number: int) -> list[Line] | None:
    """A value as lines, of an address one a component; None where no path says all of it.

    `number` tells several structured values of one field apart; 0 for the only one.
    """
    made, field = prop.head, prop.head.field
    if prop.rides or field.kind == "media" or made.phonetic or made.altid:
        return None
    uses = tuple(use for use in field.uses if use in made.uses)
    if made.name == CUSTOM:
        said, *values = prop.components
        title = " ".join(flat((said,)))
        texts = list(flat(tuple(values)))
        if not title or len(texts) != 1:
            return None
        return [Line(FieldPath("custom", label=title), texts[0], prop.origin_of(1))]
    if not field.path:
        name = made.name.upper()
        if not is_extension(name) or (prop.raw is not None and made.coded):
            return None
        text = shown_extension(prop.raw) if prop.raw is not None else prop.text
        return [Line(FieldPath("custom", label=name), text, prop.origin_of(0))]
    if label and (uses or not field.uses):
        return None
    place = FieldPath(field.path, () if label else uses, label, number)
    if field.kind == "list":
        entries = [(at, text) for at, text in enumerate(prop.components) if text]
        return [Line(FieldPath(field.path), str(text), prop.origin_of(at)) for at, text in entries]
    if field.kind != "parts":
        if made.name in ("fn", "label"):
            return [Line(FieldPath(field.path, place.uses, label, number, "full"), prop.text,
                         prop.origin_of(0))]  # fmt: skip
        return [Line(place, prop.text, prop.origin_of(0))] if prop.text else None
    return _components(prop, place)


def _components(prop: Property, place: FieldPath) -> list[Line] | None:
    found = []
    for at, component in enumerate(prop.components):
        texts = list(flat((component,)))
        if not texts:
            continue
        path = _part(place, at)
        if path is None:
            return None
        found.append(Line(path, "\n".join(texts), prop.origin_of(at)))
    return found or None


def _part(place: FieldPath, at: int) -> FieldPath | None:
    field, uses, label, number = place.place
    if field == "org":
        return FieldPath("org", part="unit" if at else "", number=at)
    if field == "gender":
        return FieldPath("gender", part="identity" if at else "sex")
    names = {"name": N_PARTS, "address": ADR_PARTS}.get(field, ())
    if at >= len(names):
        return None
    return FieldPath(field, uses, label, number, names[at])


def ridden(text: str, lines: Sequence[Line], *, one_line: bool) -> str:
    """A note with values riding in it: after its own text, in a block of its own, or in the block
    that stands at its end already."""
    joint = _ONE_LINE if one_line else "\n"
    written = joint.join(line.written(one_line=one_line) for line in lines)
    if not text:
        return f"{MARK}{joint}{written}"
    if read_block(text) is not None:
        return f"{text}{joint}{written}"
    return f"{text}{joint}{MARK}{joint}{written}"


def read_block(text: str) -> tuple[str, list[Line]] | None:
    """A note's own text and what rides in it; None where nothing does."""
    for joint in ("\n", _ONE_LINE):
        found = _read(text, joint)
        if found is not None:
            return found
    return None


def _read(text: str, joint: str) -> tuple[str, list[Line]] | None:
    mark = f"{MARK}{joint}"
    at = text.rfind(f"{joint}{mark}")
    if at >= 0:
        own, block = text[:at], text[at + len(joint) + len(mark) :]
    elif text.startswith(mark):
        own, block = "", text[len(mark) :]
    else:
        return None
    pieces = block.split(joint, _MOST)
    lines = [_line(piece, one_line=joint == _ONE_LINE) for piece in pieces]
    if None in lines or len(lines) > _MOST:
        return None
    return own, [line for line in lines if line is not None]


def _line(text: str, *, one_line: bool) -> Line | None:
    path, mark, value = text.partition(": ")
    if not mark or not value or "\n" in text:
        return None
    try:
        found = parse(path.replace("\\|", "|") if one_line else path)
    except PathError:
        return None
    plain = _UNESCAPE.sub(lambda each: "\n" if each[1] in "nN" else each[1], value)
    made = Line(found, plain)
    return made if made.written(one_line=one_line) == text else None


def put_back(contact: Contact, lines: Sequence[Line]) -> list[Property]:
    """Give a contact the values that rode in its note; those that only began what one of them says
    in full go, and are given back."""
    back = _Back(contact)
    for line in lines:
        path = line.path
        if path.part not in ("", "full") or path.field in ("org", "gender"):
            back.part(line)
        else:
            back.whole(line)
    return back.gone


class _Back:
    """Puts values back into a contact, one after another."""

    def __init__(self, contact: Contact) -> None:
        self.contact = contact
        self.there = {id(prop) for prop in contact.properties}
        """The `id` of what was there before, and of what it became."""
        self.made: dict[tuple[str, tuple[str, ...], str, int], Property] = {}
        self.gone: list[Property] = []

    def whole(self, line: Line) -> None:
        """Put back a value of one text."""
        prop, label = _made_of(line)
        props = self.contact.properties
        alike = [p for p in props if id(p) in self.there and p.head.name == prop.head.name]
        short = next((each for each in alike if _begins(each, prop)), None)
        if short is None:
            self.contact.append(prop, label)
            return
        self.gone.append(short)
        self.replace(short, Property(short.head, prop.value, prop.origin))

    def replace(self, old: Property, new: Property) -> None:
        """Put a property into the place of another one."""
        props = self.contact.properties
        props[next(at for at, prop in enumerate(props) if prop is old)] = new
        if id(old) in self.there:
            self.there.add(id(new))

    def part(self, line: Line) -> None:
        """Put a component into the value that it was taken from, or into one made anew."""
        path = line.path
        name, index = by_path(path.field)[0].name, part_index(path)
        texts = tuple(line.text.split("\n"))
        value = texts if len(texts) > 1 and name == "adr" else line.text
        target = self.made.get(path.place) or self._origin_of(path, name)
        said = " ".join(flat(target.components[index : index + 1])) if target is not None else ""
        if target is not None and (not said or _starts(said, line.text)):
            values: list[Component] = list(target.components)
            origins = target.origins()
            missing = range(index + 1 - len(values))
            values += [""] * len(missing)
            origins += [0] * len(missing)
            if said:
                self.gone.append(target.only([index]))
            values[index], origins[index] = value, line.origin
            made = target.replaced(tuple(values), tuple(origins))
            self.replace(target, made)
            if path.place in self.made:
                self.made[path.place] = made
            return
        size = max(index + 1, LEAST_PARTS.get(name, 1))
        whole = tuple(value if at == index else "" for at in range(size))
        self.contact.append(Property(typed(name, path.uses), whole, line.origin), path.label)
        self.made[path.place] = self.contact.properties[-2 if path.label else -1]

    def _origin_of(self, path: FieldPath, name: str) -> Property | None:
        """The value that a component was taken from: the one of its uses, or the only one."""
        named = [prop for prop in self.contact.properties if prop.head.name == name]
        every = [prop for prop in named if id(prop) in self.there and not prop.rides]
        known = set(by_path(path.field)[0].uses)
        same = [prop for prop in every if set(path.uses) == prop.head.uses & known
                and self.contact.label_of(prop) == path.label]  # fmt: skip
        nth = path.position or 1
        if nth <= len(same):
            return same[nth - 1]
        return every[0] if not same and not path.position and len(every) == 1 else None


def _starts(short: str, whole: str) -> bool:
    return short != whole and whole.startswith(short)


def _begins(short: Property, whole: Property) -> bool:
    """Whether a value is only the beginning of another one."""
    if short.head.field.kind != "text" or short.head.name == "note":
        return False
    return _starts(short.text, whole.text)


def _made_of(line: Line) -> tuple[Property, str]:
    """The property that a line of one value stands for, and its label."""
    path, text, origin = line.path, line.text, line.origin
    if path.field == "custom":
        if is_extension(path.label):
            return Property(head(path.label.lower()), text, origin, read_extension(text)), ""
        return Property(head(CUSTOM), (path.label, text), origin), ""
    if path.part == "full":
        name = "fn" if path.field == "name" else "label"
        return Property(typed(name, path.uses), text, origin), path.label
    field = by_path(path.field)[0]
    if field.kind == "list":
        return Property(head(field.name), (text,), (origin,)), ""
    return Property(typed(field.name, path.uses), from_cell(field, text), origin), path.label
