"""Steps that choose the fields that go out, and put fixed values in."""

from __future__ import annotations

from collections.abc import Sequence

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import is_label
from roundcard.card.head import Component
from roundcard.card.paths import FieldPath, parse
from roundcard.errors import PathError
from roundcard.tally import Fate, Reason, Tally, Why, added_by
from roundcard.values.set_value import part_index, put, settable

_NOT_CHOSEN = Reason(Fate.LEFT_OUT, Why.NOT_CHOSEN)
_NOTHING_CHOSEN = Reason(Fate.LEFT_OUT, Why.NOTHING_CHOSEN)


class OnlyFields:
    """Keeps the values that any of some paths means, and leaves out all others."""

    def __init__(self, paths: Sequence[FieldPath]) -> None:
        """Raises `PathError` for a path that names less than a value."""
        for path in paths:
            if path.part in ("year", "month", "day", "extension", "line"):
                text = str(path)
                raise PathError("a value is chosen whole; leave out the last part", text,
                                text.rindex("/") + 1, len(text))  # fmt: skip
        self.paths = paths

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """Leave out what is not chosen; the whole person where nothing of them is."""
        kept: list[Property] = []
        left = 0
        seen: dict[tuple[str, FieldPath], int] = {}
        for prop in contact.properties:
            if is_label(prop.head.name, prop.head.group):
                kept.append(prop)
                continue
            chosen = self.chosen(contact, prop, seen)
            left += tally.read_of(prop)
            if chosen is None:
                continue
            left -= tally.read_of(chosen)
            kept.append(chosen)
        groups = {p.head.group.lower() for p in kept if not is_label(p.head.name, p.head.group)}
        alone = [prop for prop in kept if is_label(prop.head.name, prop.head.group)
                 and prop.head.group.lower() not in groups]  # fmt: skip
        left += sum(map(tally.read_of, alone))
        kept = [prop for prop in kept if prop not in alone]
        tally.count(_NOT_CHOSEN, left)
        out = Contact(kept, contact.origin)
        if not out.size():
            tally.count(_NOTHING_CHOSEN, people=1)
            return None
        return out

    def chosen(
        self, contact: Contact, prop: Property, seen: dict[tuple[str, FieldPath], int]
    ) -> Property | None:
        """The part of a property that is chosen; None where nothing is."""
        if prop.rides and not prop.head.altid:
            return None  # bookkeeping, or a name made from parts that may not be chosen
        indexes: set[int] = set()
        for path in self.paths:
            found = self._means(contact, prop, path, seen)
            if found is None:
                return prop
            indexes |= found
        if not indexes:
            return None
        value: tuple[Component, ...] = tuple(
            component if at in indexes else "" for at, component in enumerate(prop.components)
        )
        return prop.replaced(value) if any(flat(value)) else None

    def _means(
        self,
        contact: Contact,
        prop: Property,
        path: FieldPath,
        seen: dict[tuple[str, FieldPath], int],
    ) -> set[int] | None:
        """Which components a path means; None for all of them."""
        head = prop.head
        if path.field == "custom":
            label = prop.components[0] if head.field.path == "custom" else head.name.upper()
            return None if str(label).casefold() == path.label.casefold() else set()
        if head.field.path != path.field:
            return set()
        if path.uses and not set(path.uses) <= head.uses:
            return set()
        if path.label and contact.label_of(prop) != path.label:
            return set()
        if path.position and head.field.kind != "list":
            seen[head.name, path] = seen.get((head.name, path), 0) + 1
            if seen[head.name, path] != path.position:
                return set()
        elif path.position:
            return {path.position - 1}
        return _part(prop, path)


def _part(prop: Property, path: FieldPath) -> set[int] | None:
    name = prop.head.name
    if path.part in ("", "use", "preferred"):
        return None
    if path.part == "full":
        return None if name in ("fn", "label") else set()
    if path.part.startswith("phonetic-"):
        wanted = 0 if path.part.endswith("family") else 1
        return {wanted} if name == "n" and prop.head.phonetic else set()
    if name in ("fn", "label") or prop.head.phonetic:
        return set()
    return {part_index(path)}


class SetValue:
    """Gives each contact a fixed value, once; never over one that is there."""

    def __init__(self, path: FieldPath, text: str) -> None:
        """Raises `PathError` for a path under which no single value can be put."""
        settable(path)
        self.path = path
        self.text = text
        self.reason = Reason(Fate.ADDED, Why.SET, str(path), (text,))

    @classmethod
    def parse(cls, assignment: str) -> SetValue:
        """From ``path=value``, as the command line has it. Raises `PathError`."""
        path, equals, text = assignment.partition("=")
        if not equals or not text.strip():
            raise PathError("this is written path=value, as in 'category=Skippers'", assignment,
                            len(path), len(path) + 1)  # fmt: skip
        return cls(parse(path.strip()), text.strip())

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:  # noqa: ARG002
        """Put the value in where it is not there."""
        put(contact, self.path, self.text, added_by(self.reason))
        return contact
