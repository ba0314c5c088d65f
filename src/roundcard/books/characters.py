"""The step before a table whose layout asks for the nearest letters of a character set."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from roundcard.card.contact import Contact, Property
from roundcard.card.head import Component
from roundcard.card.origin import unpack
from roundcard.tally import Fate, Reason, Tally, Why, changed_by
from roundcard.values.nearest import nearest, writes

_Change = tuple[int, int, str, str]
"""Source, record, before, after."""


class Nearest:
    """Writes characters that a character set lacks as the nearest letters that it has; the original
    is kept aside, and a value that cannot be said so is left to the writer."""

    joins = False

    def __init__(self, encoding: str) -> None:
        self.encoding = encoding
        self._also: Callable[[int, int, str, str], None] | None = None
        self._told: list[_Change] | None = None

    def __getstate__(self) -> dict[str, Any]:
        """Without what is told to."""
        return self.__dict__ | {"_also": None, "_told": None}

    def gather(self) -> list[Any]:
        """Keep what is told in a list."""
        self._told = []
        return self._told

    def listen(self, also: Callable[[int, int, str, str], None]) -> None:
        """Tell each change to somebody else."""
        self._also = also

    def give(self, gathered: Sequence[Any], records: int) -> None:
        """Tell what another process gathered."""
        for source, record, before, after in gathered:
            if self._also is not None:
                self._also(source, record + records, before, after)

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact in the character set."""
        props = None
        for at, prop in enumerate(contact.properties):
            if prop.head.field.kind == "media" or not prop.size():
                continue
            if writes(prop.raw if prop.raw is not None else prop.text, self.encoding):
                continue
            made = self._made(contact, prop)
            if made is None:
                continue
            props = props if props is not None else list(contact.properties)
            props[at] = made
            if tally.sink is not None and tally.read_of(prop):
                tally.sink.left_behind(contact, prop, self._reason(prop))
        return contact if props is None else Contact(props, contact.origin)

    def _reason(self, prop: Property) -> Reason:
        return Reason(Fate.CHANGED, Why.NEAREST, prop.head.field.path, (self.encoding,))

    def _made(self, contact: Contact, prop: Property) -> Property | None:
        """The property with what can be said in other letters; None where nothing can."""
        if prop.head.field.kind == "raw":
            return None
        reason = self._reason(prop)
        values: list[Component] = []
        origins: list[int | tuple[int, ...]] = []
        for at, component in enumerate(prop.components):
            inner = (component,) if isinstance(component, str) else component
            said = [nearest(text, self.encoding) or text for text in inner]
            told = [changed_by(prop.origin_of(at, n), reason) if text != inner[n]
                    else prop.origin_of(at, n) for n, text in enumerate(said)]  # fmt: skip
            self._tell(contact, inner, said)
            values.append(said[0] if isinstance(component, str) else tuple(said))
            origins.append(told[0] if isinstance(component, str) else tuple(told))
        if values == list(prop.components):
            return None
        if isinstance(prop.value, str):
            only, origin = values[0], origins[0]
            assert isinstance(only, str)
            return prop.replaced(only, origin if isinstance(origin, int) else origin[0])
        return prop.replaced(tuple(values), tuple(origins))

    def _tell(self, contact: Contact, before: Sequence[str], after: Sequence[str]) -> None:
        place = unpack(contact.origin)
        source, record = (place.source, place.record) if place is not None else (0, 0)
        for old, new in zip(before, after, strict=True):
            if old != new:
                if self._told is not None:
                    self._told.append((source, record, old, new))
                elif self._also is not None:
                    self._also(source, record, old, new)
