"""Contacts outside the memory: in a file of their own while books are merged, and as JSON.

A property is written as jCard has it (RFC 7095 section 3.3), with its value in the spelling of the
model: ``[name, {parameter: [values]}, value]``. Behind it stands, where needed, what a writer must
know beside: how the property was written in its file, and that it is no value of its own.
"""

from __future__ import annotations

import contextlib
import marshal
import tempfile
from array import array
from collections.abc import Iterator, Sequence
from typing import Any, Self

from roundcard.card.contact import Contact, Property
from roundcard.card.head import Component, Head, Params, Value, head, lending
from roundcard.card.origin import RIDES, added, tied
from roundcard.errors import TargetError

_GROUP = "group"
_URI = "VALUE=URI"


class Spool:
    """Plain objects in a temporary file, by a number; compact where there are hundreds of
    thousands."""

    def __init__(self) -> None:
        self._file = tempfile.TemporaryFile()  # noqa: SIM115  # closed by `close`
        self._ends = array("q")

    def put(self, made: Any) -> int:
        """Keep an object of numbers, texts, lists, tuples and dictionaries; its number."""
        begin = self._ends[-1] if self._ends else 0
        octets = marshal.dumps(made)
        with _told():
            self._file.seek(begin)
            self._file.write(octets)
        self._ends.append(begin + len(octets))
        return len(self._ends) - 1

    def get(self, number: int) -> Any:
        """What was put."""
        begin = self._ends[number - 1] if number else 0
        with _told():
            self._file.seek(begin)
            octets = self._file.read(self._ends[number] - begin)
        return marshal.loads(octets)  # written by ourselves

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        with contextlib.suppress(OSError):  # what is still held need not be written
            self._file.close()


class Store:
    """Contacts in a temporary file, by a number."""

    def __init__(self) -> None:
        self._spool = Spool()
        self.beside = Spool()
        """What is kept beside the contacts."""
        self._heads: list[Head] = []
        self._numbers: dict[tuple[str, Params, str, str, str, bool], int] = {}

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._spool.__exit__()
        self.beside.__exit__()

    def put(self, contact: Contact) -> int:
        """Keep a contact, with the origins of its values; its number."""
        made = [(self._number(prop.head), prop.value if prop.raw is None else None, prop.raw,
                 _origins(prop)) for prop in contact.properties]  # fmt: skip
        return self._spool.put((contact.origin, made))

    def get(self, number: int) -> Contact:
        """A contact that was put."""
        origin, made = self._spool.get(number)
        heads = self._heads
        props = [Property(heads[at], known, where, raw) for at, known, raw, where in made]
        return Contact(props, origin)

    def _number(self, found: Head) -> int:
        """The number of a head; those that look alike share one."""
        key = (found.name, found.params, found.group, found.version, found.text, found.coded)
        number = self._numbers.setdefault(key, len(self._heads))
        if number == len(self._heads):
            self._heads.append(found)
        return number


@contextlib.contextmanager
def _told() -> Iterator[None]:
    """Raise `TargetError` for what the system refuses meanwhile."""
    try:
        yield
    except OSError as error:
        folder = tempfile.gettempdir()
        raise TargetError(
            f"{folder}: a temporary file cannot be written: {error.strerror}"
        ) from None


def _origins(prop: Property) -> Any:
    return prop.origin if isinstance(prop.origin, int) else tuple(prop.origins())


def as_json(properties: Sequence[Property]) -> list[list[Any]]:
    """Properties for a file of JSON."""
    found = []
    for prop in properties:
        old = prop.head
        params: dict[str, Any] = {key: list(values) for key, values in old.params}
        if old.group:
            params[_GROUP] = old.group
        more: dict[str, Any] = {}
        if prop.rides:
            more["tied" if prop.size() else "rides"] = True
        if old.lent:
            more["lent"] = list(old.lent)
        unknown = old.field.kind == "raw" and not old.coded
        if old.text and prop.raw and (unknown or (old.name == "tel" and _URI in old.text.upper())):
            more |= {"as": old.text, "version": old.version, "raw": prop.raw}
        value = prop.raw if unknown and prop.raw is not None else prop.value
        found.append([old.name, params, value, *([more] if more else [])])
    return found


def from_json(elements: object, reason: int = 0) -> list[Property]:
    """Properties out of a file of JSON; their values are added ones, for a reason by its number.

    Raises `ValueError` where they are none.
    """
    if not isinstance(elements, list):
        raise ValueError("the properties are not a list")
    return [_property(each, added(reason)) for each in elements]


def _property(each: object, origin: int) -> Property:
    if not isinstance(each, list) or len(each) < 3 or not isinstance(each[1], dict):
        raise ValueError("a property is not [name, {parameters}, value]")
    name = str(each[0]).lower()
    params = dict(each[1])
    more = dict(each[3]) if len(each) > 3 else {}
    group = str(params.pop(_GROUP, ""))
    said = tuple((str(key), _texts(values)) for key, values in params.items())
    if more.get("rides"):
        origin = RIDES
    elif more.get("tied"):
        origin = tied(origin)
    made = head(name, said, group)
    raw = str(more["raw"]) if "raw" in more else None
    if raw is not None or made.field.kind == "raw":
        made = Head(name, said, group, version=str(more.get("version", "")),
                    text=str(more.get("as", "")))  # fmt: skip
    if more.get("lent"):
        made = lending(made, _texts(more["lent"]))
    if made.field.kind == "raw":
        return Property(made, None, origin, str(each[2]) if raw is None else raw)
    return Property(made, _value(each[2]), origin, raw)


def _value(value: object) -> Value:
    if isinstance(value, list):
        return tuple(_component(part) for part in value)
    return str(value)


def _component(part: object) -> Component:
    return tuple(str(text) for text in part) if isinstance(part, list) else str(part)


def _texts(values: object) -> tuple[str, ...]:
    return tuple(str(text) for text in values) if isinstance(values, list) else (str(values),)
