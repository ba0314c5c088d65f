"""The head of a property: everything but its value, shared by all properties that look alike.

A book of a million people has a few dozen different heads (``TEL;TYPE=CELL``), so each is built
once and the properties point at it.
"""

from __future__ import annotations

from collections.abc import Callable
from copy import copy
from functools import lru_cache
from typing import Any
from weakref import WeakValueDictionary

from roundcard.card.fields import Field, field_of

Component = str | tuple[str, ...]
"""One component of a structured value: a string, or several values parted by commas."""
Value = str | tuple[Component, ...]
"""A decoded value, by the kind of its field: text, a tuple of texts, or a tuple of components."""
Params = tuple[tuple[str, tuple[str, ...]], ...]
"""Parameters in order, each a name in lower case and its values."""

_QUIET_TYPES = frozenset({"voice", "internet", "intl", "parcel", "postal", "dom", "x400"})
"""TYPE values that say only what a reader takes for granted (RFC 2426 sections 3.2.1 to 3.3.2)."""

_TELLING_TYPES = frozenset({"dom", "x400"})
"""Those of them that say what is not the default (RFC 2426 sections 3.2.1 and 3.3.2)."""

_heads: WeakValueDictionary[tuple[str, Params, str], Head] = WeakValueDictionary()
"""The heads that are in use: a hostile file cannot fill the memory with others."""


class Head:
    """Name, parameters and group of a property, shared by all properties that look alike.

    `head` gives one object for one name, group and sequence of parameters, so these are compared
    with ``is``; what a reader makes besides knows how its own file spells things.

    Params are in the words of vCard 4.0 (RFC 6350 section 5) whichever version they came from:
    names and TYPE values in lower case, a preference as ``pref``, no encoding and no charset.
    """

    __slots__ = (
        "__weakref__",
        "again",
        "altid",
        "coded",
        "decode",
        "doubt",
        "field",
        "group",
        "lent",
        "name",
        "params",
        "preferred",
        "rides",
        "several",
        "special",
        "telling",
        "text",
        "told",
        "uses",
        "version",
    )  # fmt: skip

    def __init__(
        self,
        name: str,
        params: Params = (),
        group: str = "",
        *,
        version: str = "",
        decode: Callable[[str], Value] | None = None,
        text: str = "",
    ) -> None:
        self.name = name
        self.field: Field = field_of(name)
        self.params = params
        self.group = group
        self.version = version
        """The vCard version whose spelling `Property.raw` has; empty where there is no raw text."""
        self.decode = decode
        """Turns the raw text into the value."""
        self.text = text
        """The head as it stood in the file; empty where it came from no file."""
        self.special = False
        """Whether a reader must look twice: properties like this may be no value of their own."""
        self.told: Callable[[str], str] | None = None
        """Gives the raw text that parameters tell in place of the value, which says it badly."""
        self.coded = False
        """Whether the raw text stands in a content encoding, as in vCard 2.1."""
        self.doubt: Callable[[str], Any] | None = None
        """Tells how raw text in an encoding had to be repaired, as a reason of the tally; None
        where it is what it says."""
        self.again = False
        """Whether properties like this only say again what another one says in full."""
        self.rides = False
        """Whether properties like this are no value of their own (bookkeeping, what is derived)."""
        self.several: Callable[[str], int] | None = None
        """Counts the values in raw text without escapes and commas, where there may be several
        (components, or the entries of a list); None where a value is one."""
        types: tuple[str, ...] = ()
        self.altid = ""
        self.preferred = 0
        for key, values in params:
            if key == "type":
                types += values
            elif key == "altid" and values:
                self.altid = values[0]
            elif key == "pref" and values:
                self.preferred = int(values[0]) if values[0].isdecimal() else 0
        self.uses: frozenset[str] = frozenset(types) - _QUIET_TYPES
        """The uses that the TYPE parameter names, without those that go without saying; and those
        that are lent."""
        self.lent: tuple[str, ...] = ()
        """Uses that no parameter says, but the label of the value's group."""
        self.telling = not _TELLING_TYPES.isdisjoint(types)
        """Whether a type that is no use says what does not go without saying."""

    def param(self, name: str) -> tuple[str, ...]:
        """The values of a parameter; an empty tuple where it is absent."""
        return next((values for key, values in self.params if key == name), ())

    @property
    def phonetic(self) -> bool:
        """Whether the value says how another one of the same ALTID sounds (RFC 9554)."""
        return bool(self.param("phonetic"))

    @property
    def derived(self) -> bool:
        """Whether the value is marked as made from others of the same card (RFC 9554)."""
        return self.param("derived") == ("true",)

    def __repr__(self) -> str:
        params = "".join(f";{key}={','.join(values)}" for key, values in self.params)
        return f"<Head {self.group + '.' if self.group else ''}{self.name}{params}>"


@lru_cache(maxsize=4_096)
def lending(old: Head, uses: tuple[str, ...]) -> Head:
    """The same head with uses that the label of its group says; it is written as before."""
    made = copy(old)
    made.lent = uses
    made.uses = old.uses | frozenset(uses)
    return made


def head(name: str, params: Params = (), group: str = "") -> Head:
    """The one head of that name (in lower case), those params and that group."""
    key = (name, params, group)
    found = _heads.get(key)
    if found is None:
        found = _heads[key] = Head(name, params, group)
    return found


def with_params(old: Head, **changes: tuple[str, ...] | None) -> Head:
    """`old` with parameters replaced, added, or (None) taken away; no link to any raw text."""
    kept = [(key, changes.get(key, values)) for key, values in old.params]
    new = [(key, values) for key, values in changes.items() if not old.param(key)]
    params = tuple((key, values) for key, values in kept + new if values is not None)
    return head(old.name, params, old.group)


def typed(name: str, uses: tuple[str, ...], group: str = "", preferred: bool = False) -> Head:
    """The head of a value with these uses, as a table's columns give them."""
    params: Params = (("type", uses),) if uses else ()
    if preferred:
        params += (("pref", ("1",)),)
    return head(name, params, group)
