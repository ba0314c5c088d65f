"""When two values of a contact say the same, and which of the two says it better."""

from __future__ import annotations

import base64
import binascii
import hashlib
import re

from roundcard.card.contact import Property, flat
from roundcard.card.equality import folded, identity, key
from roundcard.card.fields import ADR_PARTS
from roundcard.card.head import Component, Head, head, with_params
from roundcard.card.names import joined_name
from roundcard.match.names import words_of
from roundcard.values.dates import PartialDate, parse_iso
from roundcard.values.phones import same_number

_PARTLY = frozenset(("adr", "org"))
"""Structured values of which one may say less than the other, and nothing else."""
_DATA = re.compile(r"data:[^,]*;base64,", re.IGNORECASE)
_COUNTRY = ADR_PARTS.index("country")


def same(one: Property, other: Property, region: str = "") -> bool:
    """Whether two properties of one name say the same, or one of them a part of it.

    Telephone numbers of which one has no country code are the same where `region` (or the other
    one) supplies it; their extensions must agree.
    """
    name = one.head.name
    if name != other.head.name:
        return False
    if name == "tel":
        return same_number(one.text, other.text, region)
    if name in _PARTLY:
        return covers(one, other) or covers(other, one)
    kind = one.head.field.kind
    if kind == "date":
        return says_less(one.text, other.text) or says_less(other.text, one.text)
    if kind == "media":
        return picture(one.text) == picture(other.text)
    if kind == "text":
        return folded(one.text) == folded(other.text)
    if name in ("url", "member", "related", "uid"):
        return identity(one.text).rstrip("/") == identity(other.text).rstrip("/")
    if kind == "raw":
        return (one.raw or one.text) == (other.raw or other.text)
    equality = one.head.field.equality
    if kind == "parts":
        equality = "folded"
    return key(one.value, equality) == key(other.value, equality)


def picture(uri: str) -> bytes:
    """The digest of what a data URI holds (RFC 2397); of the text itself where it is none."""
    start = _DATA.match(uri)
    octets = uri.encode()
    if start is not None:
        try:
            octets = base64.b64decode("".join(uri[start.end() :].split()), validate=True)
        except (binascii.Error, ValueError):
            octets = uri.encode()
    return hashlib.blake2b(octets, digest_size=16).digest()


def covers(fuller: Property, other: Property) -> bool:
    """Whether a structured value says all that another one says, and perhaps more."""
    mine, theirs = fuller.components, other.components
    said = False
    for at, component in enumerate(theirs):
        wanted = _words(component)
        if not wanted:
            continue
        said = True
        have = _words(mine[at]) if at < len(mine) else ()
        if have != wanted:
            return False
    return said


def _words(component: Component) -> tuple[str, ...]:
    return words_of(component if isinstance(component, str) else " ".join(component))


def says_less(less: str, more: str) -> bool:
    """Whether a date is the same as another one as far as it is known."""
    if folded(less) == folded(more):
        return True
    one, other = parse_iso(less), parse_iso(more)
    if one is None or other is None:
        return False
    return all(mine in (0, theirs) for mine, theirs in zip(_known(one), _known(other), strict=True))


def _known(date: PartialDate) -> tuple[int, int, int]:
    return date.year, date.month, date.day


def fullness(prop: Property) -> int:
    """How much a value says: components of a name, known parts of a date."""
    if prop.head.field.kind == "date":
        date = parse_iso(prop.text)
        return sum(1 for part in _known(date) if part) if date is not None else 0
    if prop.head.name in ("n", "fn"):
        return sum(len(word) for word in words_of(prop.text))
    return prop.size()


def better(one: Property, other: Property) -> Property:
    """Of two that say the same, the one that says it better; the first where neither does."""
    return other if _merit(other) > _merit(one) else one


def _merit(prop: Property) -> tuple[int, ...]:
    text = prop.text
    if prop.head.name == "tel":
        return (text.lstrip().startswith("+"), " " in text.strip())
    if prop.head.name == "email":
        return (text == text.strip(), text == text.lower())
    if prop.head.field.kind == "date":
        return (fullness(prop),)
    if prop.head.name in _PARTLY:
        return (prop.size(), *spelling(text))
    spelled = prop.head.field.equality == "folded" or prop.head.name in ("title", "role")
    return spelling(text) if spelled else ()


def spelling(text: str) -> tuple[int, int]:
    """How well words are spelled: neither shouted nor all small, with their accents."""
    shouted = text.isupper() or text.islower()
    return (not shouted, sum(1 for char in text if char.isalpha() and not char.isascii()))


def united(kept: Head, other: Head) -> Head:
    """A head with the uses of both; that of the first where the other adds none."""
    more = other.uses - kept.uses
    if not more:
        return kept
    types = kept.param("type") + tuple(
        use for use in other.param("type") if use in more
    )  # fmt: skip
    return (
        with_params(kept, type=types)
        if kept.params
        else head(kept.name, (("type", types),), kept.group)
    )


def told(prop: Property) -> str:
    """A value as people read it, on one line."""
    if prop.head.name == "n":
        return joined_name(prop.value)
    if prop.head.field.kind == "media":
        return "a picture" if prop.head.name == "photo" else prop.head.name
    if prop.head.field.kind in ("parts", "list"):
        return ", ".join(flat(prop.components))
    return " ".join(prop.text.split())
