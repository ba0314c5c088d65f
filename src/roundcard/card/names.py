"""Whole names made from their parts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from roundcard.card.contact import Contact, flat
from roundcard.card.equality import folded
from roundcard.card.fields import CUSTOM
from roundcard.card.head import Component, Value
from roundcard.patterns import pattern

_ORDER = (3, 1, 2, 0, 5, 4, 6)
"""Prefix, given, additional, family, second family name, suffix, generation."""
MadeFrom = Literal["parts", "org", "nickname", "email", "phone", "rest"]
"""What a whole name was made from where none was read."""
OTHERS: tuple[tuple[str, MadeFrom], ...] = (
    ("org", "org"), ("nickname", "nickname"), ("email", "email"), ("tel", "phone"),
)  # fmt: skip
"""Where a whole name is taken from where there is none, and no parts of one."""
_MOST = 60
_BEYOND = pattern(r"[^\x00-\u07ff]")
_FAR_EAST = pattern("[\u3040-\u9fff\uac00-\ud7af]")
"""Han, kana and Hangul; asked only of what is beyond it, for compiling it takes long."""
WESTERN = (3, 1, 2, 0, 4)
"""The parts of a name in the order in which Western languages say them."""


def joined_name(value: Value) -> str:
    """The parts of a name (RFC 6350 section 6.2.2) as one text, in the Western order.

    Names whose given and family parts are both written in Han, kana or Hangul stand family first
    and without a space.
    """
    if isinstance(value, str):
        return value
    if len(value) == 5 and (value[1].__class__ is not str or value[1].isascii()):
        try:  # the usual case: one text in each part
            return " ".join([value[at] for at in WESTERN if value[at]])  # type: ignore[misc]
        except TypeError:
            pass
    parts = [c if c.__class__ is str else _text(c) for c in value]
    if len(parts) == 5:
        family, given, additional, prefix, suffix = parts
        if not given.isascii() and family and _east_asian(family) and _east_asian(given):
            return family + given
        return " ".join([part for part in (prefix, given, additional, family, suffix) if part])
    parts += [""] * 7
    # RFC 9554 section 2.2: a writer repeats these in the older places, so they are said once
    said: list[str] = []
    for at in _ORDER:
        if parts[at] and not (at >= 5 and parts[at] in said):
            said.append(parts[at])
    return " ".join(said)


def joined_names(parts: Sequence[Sequence[str]]) -> list[str]:
    """The same for many names, given as a column of texts for each part."""
    family, given, *rest = parts
    if not any(map(any, rest)) and not _has_far_east("".join(given)):
        return [f"{one} {other}" if one and other else one or other
                for one, other in zip(given, family, strict=True)]  # fmt: skip
    return [joined_name(value) for value in zip(*parts, strict=True)]


def formatted_name(contact: Contact) -> tuple[str, MadeFrom]:
    """A whole name for a contact that has none, and what it was made from."""
    for prop in contact.properties:
        if prop.head.name == "n" and not prop.head.phonetic and (said := joined_name(prop.value)):
            return said, "parts"
    for name, made_from in OTHERS:
        prop_or_none = contact.first(name)
        if prop_or_none is not None and prop_or_none.text.strip():
            return next(flat(prop_or_none.components)), made_from
    for prop in contact.properties:
        if prop.size() and prop.head.field.kind != "media" and (words := prop.text.split()):
            text = " ".join(words)
            return (text if len(text) <= _MOST else text[: _MOST - 1] + "…"), "rest"
    return "(no name)", "rest"


def says_same(whole: str, value: Value) -> bool:
    """Whether a whole name holds the same words as the parts of a name, in whatever order."""
    if isinstance(value, str):
        return folded(whole) == folded(value)
    words = sorted(_words(whole))
    every = sorted(word for text in flat(value) for word in _words(text))
    if words == every or "".join(words) == "".join(every):
        return True
    main = sorted(word for component in value[:2] for word in _words(_text(component)))
    return bool(main) and (words == main or folded(whole) == folded(joined_name(value)))


def _words(text: str) -> list[str]:
    return folded(text).replace(",", " ").replace(".", " ").split()


def _text(component: Component) -> str:
    return component if isinstance(component, str) else " ".join(filter(None, component))


def _has_far_east(text: str) -> bool:
    return bool(_BEYOND.search(text) and _FAR_EAST.search(text))


def _east_asian(text: str) -> bool:
    return all(_FAR_EAST.match(char) for char in text)


def called(contact: Contact) -> str:
    """What a contact is called on one line, or how it is reached where it has no name."""
    for name in ("fn", "n", "org", "email", "tel", CUSTOM):
        prop = contact.first(name)
        if prop is None:
            continue
        said = joined_name(prop.value) if name == "n" else " ".join(prop.text.split())
        if said:
            return said
    return "no name"
