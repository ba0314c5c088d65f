"""A contact is an ordered list of properties, and nothing more.

The three open spellings of a contact (vCard text, jCard, xCard) agree on it: RFC 6350 section
3.3, RFC 7095 section 3.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from roundcard.card.fields import CUSTOM, is_label
from roundcard.card.head import Component, Head, Value, head
from roundcard.card.labels import unwrapped
from roundcard.card.origin import RIDES, Spread, rides, unpack

Origin = int | Spread | tuple[int | tuple[int, ...], ...]
"""One origin for the whole value, or one a component (and one a part of a component)."""


class Property:
    """A property: its head, its value, and where that came from.

    The value is kept as it stood in the file and decoded when somebody asks. A property is never
    changed: :meth:`replaced` makes another.
    """

    __slots__ = ("head", "known", "origin", "raw")

    def __init__(
        self, head: Head, value: Value | None, origin: Origin, raw: str | None = None
    ) -> None:
        self.head = head
        self.origin = origin
        self.raw = raw
        """The undecoded text in the spelling of ``head.version``; None where there is none."""
        self.known = value
        """The decoded value where it is known already; ask `value` for it."""

    @property
    def name(self) -> str:
        """The property's name in the standard's words, lower case."""
        return self.head.name

    @property
    def value(self) -> Value:
        """The decoded value, in the form that the field's kind says."""
        value = self.known
        if value is None:
            raw = self.raw or ""
            decode = self.head.decode
            value = self.known = decode(raw) if decode else raw
        return value

    @property
    def text(self) -> str:
        """The value where it is one string; of a tuple, its parts with spaces between."""
        value = self.known
        if value is None:
            value = self.value
        return value if isinstance(value, str) else " ".join(flat(value))

    @property
    def components(self) -> tuple[Component, ...]:
        """The value where it is a tuple; a string as a tuple of one."""
        value = self.known
        if value is None:
            value = self.value
        return (value,) if isinstance(value, str) else value

    @property
    def rides(self) -> bool:
        """Whether it takes no place of its own (bookkeeping, a label, another script)."""
        origin = self.origin
        return isinstance(origin, int) and rides(origin)

    def size(self) -> int:
        """How many values it holds: non-empty components, list entries, or one."""
        origin = self.origin
        if origin.__class__ is int and origin >= 0 and origin & RIDES:
            return 0
        value = self.known
        if value is None:
            if self.head.field.kind not in ("parts", "list"):
                return 1 if self.raw and not self.raw.isspace() else 0
            value = self.value
        if value.__class__ is str:
            return 1 if value else 0
        if self.head.name == CUSTOM:  # the label rides on the value
            value = value[1:]
        return count_values(value)  # type: ignore[arg-type]

    def replaced(self, value: Value, origin: Origin | None = None) -> Property:
        """The same property with another value, by default from the same place."""
        return Property(self.head, value, self.origin if origin is None else origin)

    def origins(self) -> list[int | tuple[int, ...]]:
        """The origins of all components, one by one."""
        return [
            self.origin_of(at)
            if isinstance(component, str)
            else tuple(self.origin_of(at, inner) for inner in range(len(component)))
            for at, component in enumerate(self.components)
        ]

    def entries(self, places: Sequence[int]) -> Property:
        """A list with some of its entries only."""
        value = tuple(self.components[at] for at in places)
        return self.replaced(value, tuple(self.origin_of(at) for at in places))

    def only(self, places: Collection[int]) -> Property:
        """A structured value with all components but some blanked."""
        value = tuple(part if at in places else "" for at, part in enumerate(self.components))
        origin = self.origin
        return self.replaced(value, origin if isinstance(origin, int | Spread)
                             else tuple(self.origins()))  # fmt: skip

    def origin_of(self, index: int, inner: int = 0) -> int:
        """The origin of one component (and of one value in it)."""
        origin = self.origin
        if isinstance(origin, Spread):
            return origin.base + (origin.steps[index] if index < len(origin.steps) else 0)
        if isinstance(origin, int):
            return origin
        one = origin[index] if index < len(origin) else 0
        if isinstance(one, int):
            return one
        return one[inner] if inner < len(one) else one[0]

    def __repr__(self) -> str:
        return f"<Property {self.head!r} {self.value!r}>"


def flat(value: tuple[Component, ...]) -> Iterator[str]:
    """The non-empty strings in a tuple of components, in order."""
    for component in value:
        if isinstance(component, str):
            if component:
                yield component
        else:
            yield from filter(None, component)


def count_values(value: tuple[Component, ...]) -> int:
    """How many non-empty strings a tuple of components holds."""
    count = 0
    for component in value:
        if component:
            count += 1 if component.__class__ is str else sum(1 for inner in component if inner)
    return count


class Contact:
    """One person, organisation or group: properties in order, and the record they came from."""

    __slots__ = ("origin", "properties")

    def __init__(self, properties: list[Property], origin: int = 0) -> None:
        self.properties = properties
        self.origin = origin
        """The packed source and record, without a place; see :mod:`roundcard.card.origin`."""

    def all(self, name: str) -> list[Property]:
        """The properties of that name (lower case), in order."""
        return [prop for prop in self.properties if prop.head.name == name]

    def first(self, name: str) -> Property | None:
        """The first property of that name, or None."""
        for prop in self.properties:
            if prop.head.name == name:
                return prop
        return None

    def size(self) -> int:
        """How many values the contact holds."""
        return sum(prop.size() for prop in self.properties)

    def label_of(self, prop: Property) -> str:
        """The user's own label of a property: that of its group, or an empty string."""
        group = prop.head.group
        return self.labels().get(group.lower(), "") if group else ""

    def labels(self) -> dict[str, str]:
        """The labels of all groups, by the group's name in lower case; the first one counts."""
        found: dict[str, str] = {}
        for other in self.properties:
            head = other.head
            if head.group and is_label(head.name, head.group):
                found.setdefault(head.group.lower(), other.text)
        lent = {prop.head.group.lower() for prop in self.properties if prop.head.lent}
        return {group: "" if group in lent else unwrapped(text) for group, text in found.items()}

    def append(self, prop: Property, label: str = "") -> None:
        """Append a property; under a label of the user's own, in a group with its label."""
        if not label:
            self.properties.append(prop)
            return
        taken = {other.head.group for other in self.properties}
        group = next(name for name in (f"g{n}" for n in range(1, 1_000_000)) if name not in taken)
        labelled = head(prop.head.name, prop.head.params, group)
        origin = prop.origin_of(0)
        rider = origin | RIDES if origin >= 0 else RIDES
        self.properties.append(Property(labelled, prop.value, prop.origin))
        self.properties.append(Property(head("x-ablabel", (), group), label, rider))

    @property
    def record(self) -> int:
        """The number of the record that it came from, from 1; 0 where it came from none."""
        place = unpack(self.origin)
        return place.record if place is not None else 0

    @property
    def source(self) -> int:
        """The number of the source that it came from, from 0; -1 where it came from none."""
        place = unpack(self.origin)
        return place.source if place is not None else -1

    def __repr__(self) -> str:
        return f"<Contact of {len(self.properties)} properties>"
