"""The rule for addresses in one text: its parts, where they are sure."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import ADR_PARTS, STREET
from roundcard.card.head import Component, Head, Value, head
from roundcard.card.origin import DERIVED
from roundcard.clean.countries import country_code
from roundcard.clean.rule import Around, Reshaped, Reshaping, marked

_BETWEEN = re.compile(r"\s*(?:\r?\n|,|;|\s·\s)\s*")
_BRITISH = re.compile(r"(?:(.*\S)\s+)?([A-Z]{1,2}\d[A-Z\d]?\s?\d[A-Z]{2})", re.IGNORECASE)
_DUTCH = re.compile(r"(?:NL-)?(\d{4}\s?[A-Z]{2})\s+(\D.+)")
_CODE_FIRST = re.compile(r"(?:[A-Z]{1,3}-)?(\d{2}-\d{3}|\d{3}\s\d{2}|\d{4,5})\s+([^\W\d].*)")
_AMERICAN = re.compile(r"([A-Z]{2})\s+(\d{5}(?:-\d{4})?|[A-Z]\d[A-Z]\s?\d[A-Z]\d)")
_AMERICAN_ALL = re.compile(r"(.+\S)\s+([A-Z]{2})\s+(\d{5}(?:-\d{4})?|[A-Z]\d[A-Z]\s?\d[A-Z]\d)")
_JAPANESE = re.compile(
    r"〒?\s?(\d{3}-\d{4})\s?(東京都|北海道|(?:京都|大阪)府|[^\s\d]{2,3}県)([^\s\d]+?[市区町村])(\S.*)"
)
_UNIT = re.compile(
    r"(?:unit|flat|suite|apt\.?|apartment|level|floor|room|shop|lot|top|wohnung|whg\.?)\s*\S{1,5}",
    re.IGNORECASE,
)
_TOWN = ADR_PARTS.index("locality")
_LONGEST_PLACE = 60


class AddressSplit(NamedTuple):
    """The parts of an address that one text held."""

    street: str = ""
    locality: str = ""
    region: str = ""
    postcode: str = ""
    country: str = ""
    extended: str = ""

    def shown(self) -> str:
        """The parts for a list of changes."""
        return " · ".join(f"{part} {text}" for part, text in self._asdict().items() if text)


def address_parts(text: str) -> AddressSplit | None:
    """The parts of an address in one text; None where they are not sure.

    Sure is a street, a town with its post code in a shape that tells which is which, and at the
    end the name of a country, or none.
    """
    if found := _JAPANESE.fullmatch(text.strip()):
        return AddressSplit(found[4], found[3], found[2], found[1])
    pieces = [piece for piece in _BETWEEN.split(text.strip()) if piece]
    country = ""
    if len(pieces) > 2 and not any(char.isdigit() for char in pieces[-1]):
        if not country_code(pieces[-1]):
            return None
        country = pieces.pop()
    if len(pieces) < 2:
        return None
    place, used = _place(pieces)
    if place is None:
        return None
    street = pieces[: len(pieces) - used]
    if len(street) == 2 and not _numbered(street[0]) and _numbered(street[1]):
        place = place._replace(extended=street.pop(0))
    if len(street) != 1 or len(place.locality) > _LONGEST_PLACE:
        return None
    if ":" in street[0] or _UNIT.fullmatch(street[0]):
        return None  # words about the address, or a part of a house alone
    if not _numbered(street[0]) and used < 2:
        return None  # nothing tells a street from a name
    return place._replace(street=street[0], country=country)


def _place(pieces: list[str]) -> tuple[AddressSplit | None, int]:
    """Town, region and post code out of the last pieces, and how many of them they were."""
    last = pieces[-1]
    before = pieces[-2] if len(pieces) > 2 else ""
    if found := _BRITISH.fullmatch(last):
        if found[1]:
            return AddressSplit(locality=found[1], postcode=found[2]), 1
        town = before and not _numbered(before)
        return (AddressSplit(locality=before, postcode=found[2]), 2) if town else (None, 0)
    for shape in (_DUTCH, _CODE_FIRST):
        if found := shape.fullmatch(last):
            return AddressSplit(locality=found[2], postcode=found[1]), 1
    if found := _AMERICAN.fullmatch(last):
        town = before and not _numbered(before)
        made = AddressSplit(locality=before, region=found[1], postcode=found[2])
        return (made, 2) if town else (None, 0)
    if found := _AMERICAN_ALL.fullmatch(last):
        return AddressSplit(locality=found[1], region=found[2], postcode=found[3]), 1
    return None, 0


def _numbered(text: str) -> bool:
    return any(char.isdigit() for char in text)


def addresses_apart(contact: Contact, _: Around) -> Iterator[Reshaped]:
    """The parts of addresses that stand in one text, beside the text as it was written, or, where
    the text stands in the street's place, instead of it."""
    for at, prop in enumerate(contact.properties):
        name = prop.head.name
        if prop.rides or name not in ("adr", "label"):
            continue
        in_street = name == "adr"
        if in_street:
            text = _street_alone(prop.components)
        else:
            text = "" if _has_parts(contact, prop.head) else prop.text
        if not text or not _BETWEEN.search(text):
            continue
        found = address_parts(text)
        path = "address/street" if in_street else "address/full"
        if found is None:
            if _numbered(text) and text.count(",") + text.count("\n") > 1:
                yield Reshaped(at, (), path, text, text, "its parts are uncertain")
            continue
        made = _parted(prop, found)
        yield Reshaped(at, (made,) if in_street else (prop, made), path, text, found.shown())


def _has_town(value: Value) -> bool:
    return len(value) > _TOWN and not isinstance(value, str) and bool(value[_TOWN])


def _street_alone(value: Value) -> str:
    """The street where nothing else of an address is there; else nothing."""
    parts = (value,) if isinstance(value, str) else value
    if len(parts) <= STREET or not isinstance(street := parts[STREET], str):
        return ""
    return "" if any(parts[:STREET]) or any(parts[STREET + 1 :]) else street


def _has_parts(contact: Contact, head: Head) -> bool:
    """Whether an address of the same use stands there in parts."""
    return any(
        prop.head.uses == head.uses and any(flat(prop.components)) for prop in contact.all("adr")
    )


def _parted(prop: Property, found: AddressSplit) -> Property:
    said = found._asdict()
    value: tuple[Component, ...] = tuple(said.get(part, "") for part in ADR_PARTS[:7])
    if prop.head.name == "adr":
        return prop.replaced(value, (marked(prop.origin_of(STREET)),) * len(value))
    return Property(head("adr", prop.head.params, prop.head.group), value, DERIVED)


def _may_be_apart(
    heads: Sequence[Head], riding: Sequence[bool], columns: Sequence[Sequence[Value]]
) -> Iterator[int]:
    for at_head, none, column in zip(heads, riding, columns, strict=True):
        if none or at_head.name not in ("adr", "label"):
            continue
        alone = [at for at, value in enumerate(column) if not _has_town(value)]
        known = {value: at_head.name == "label" or bool(_BETWEEN.search(_street_alone(value)))
                 for value in {column[at] for at in alone}}  # fmt: skip
        yield from (at for at in alone if known[column[at]])


def _has_address(heads: Sequence[Head]) -> bool:
    return any(head.name in ("adr", "label") for head in heads)


RULE = Reshaping(
    "address-apart", ("address/full", "address/street"), "addresses in one text, in parts",
    (("address/full", "1 Lock Lane, Withy Bridge, QX4 4AP",
      "street 1 Lock Lane · locality Withy Bridge · postcode QX4 4AP"),
     ("address/full", "the boat by the bridge", "the boat by the bridge")),
    addresses_apart, _has_address, may=_may_be_apart, grows=True,
)  # fmt: skip
