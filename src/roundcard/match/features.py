"""What is compared of contacts, as numbers: one row a contact, one number for each text."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from roundcard.books.groups import is_group
from roundcard.card.contact import Contact, Property
from roundcard.card.equality import email, folded, identity
from roundcard.card.fields import ADR_PARTS, STREET
from roundcard.card.origin import unpack
from roundcard.clean.splitting import split_name
from roundcard.clean.step import region_of
from roundcard.match.names import generation, one_word, words_of
from roundcard.values.dates import parse_iso
from roundcard.values.phones import number_key

Ints = npt.NDArray[np.int32]

_CODE = ADR_PARTS.index("postcode")
_NUMBER = re.compile(r"\d+")
_GENERATIONS = {"": 0, "senior": 1, "junior": 2}


class Words:
    """Numbers for texts, from 0 in the order of their coming; -1 for nothing."""

    def __init__(self) -> None:
        self.texts: list[str] = []
        self._numbers: dict[str, int] = {}

    def number(self, text: str) -> int:
        """The number of a text; -1 where it is empty."""
        if not text:
            return -1
        found = self._numbers.get(text)
        if found is None:
            found = self._numbers[text] = len(self.texts)
            self.texts.append(text)
        return found


@dataclass(slots=True)
class Features:
    """All contacts, column by column; -1 stands for what is missing."""

    source: list[int] = field(default_factory=list)
    record: list[int] = field(default_factory=list)
    family: list[int] = field(default_factory=list)
    given: list[int] = field(default_factory=list)
    middle: list[int] = field(default_factory=list)
    whole: list[int] = field(default_factory=list)
    """The words of the whole name in alphabetical order."""
    generation: list[int] = field(default_factory=list)
    org: list[int] = field(default_factory=list)
    is_org: list[bool] = field(default_factory=list)
    birthday: list[int] = field(default_factory=list)
    """As yyyymmdd, with zeros for what is not known."""
    street: list[int] = field(default_factory=list)
    house: list[int] = field(default_factory=list)
    code: list[int] = field(default_factory=list)
    uid: list[int] = field(default_factory=list)
    emails: list[tuple[int, ...]] = field(default_factory=list)
    phones: list[tuple[int, ...]] = field(default_factory=list)
    name_words: Words = field(default_factory=Words)
    whole_words: Words = field(default_factory=Words)
    other_words: Words = field(default_factory=Words)
    email_words: Words = field(default_factory=Words)
    phone_words: Words = field(default_factory=Words)

    def __len__(self) -> int:
        return len(self.record)

    def column(self, name: str) -> Ints:
        """One column as an array."""
        return np.asarray(getattr(self, name), dtype=np.int32)


def features_of(contacts: Iterable[Contact], region: str = "") -> Features:
    """The features of all contacts, in one pass; `region` is that of numbers without a code."""
    found = Features()
    for contact in contacts:
        _add(found, contact, region.upper())
    return found


def _add(out: Features, contact: Contact, region: str) -> None:
    place = unpack(contact.origin)
    out.source.append(place.source if place is not None else 0)
    out.record.append(place.record if place is not None else 0)
    where = region_of(contact) or region
    first: dict[str, Property] = {}
    phones: list[int] = []
    emails: list[int] = []
    group = is_group(contact)  # no person: only its identity tells it
    for prop in contact.properties if not group else contact.all("uid"):
        name = prop.head.name
        if name == "tel":
            if "fax" not in prop.head.uses and (dialled := number_key(prop.text, where)):
                phones.append(out.phone_words.number(dialled))
        elif name == "email":
            if said := email(prop.text):
                emails.append(out.email_words.number(said))
        elif name not in first and not (name == "n" and (prop.head.phonetic or not prop.size())):
            first[name] = prop
    out.phones.append(tuple(dict.fromkeys(phones)))
    out.emails.append(tuple(dict.fromkeys(emails)))
    _add_name(out, first, where)
    _add_rest(out, first)


def _add_name(out: Features, first: dict[str, Property], region: str) -> None:
    family = given = middle = suffix = ""
    whole = first["fn"].text if "fn" in first and "@" not in first["fn"].text else ""
    parts = first["n"].components if "n" in first else ()
    if parts:
        texts = [part if isinstance(part, str) else " ".join(part) for part in parts] + [""] * 5
        family, given, middle, suffix = texts[0], texts[1], texts[2], texts[4]
        if len(texts) > 11 and texts[6]:
            suffix = f"{suffix} {texts[6]}"
        if not family and " " in given.strip() and not whole:
            whole, given = given, ""
    org = first["org"].components[0] if "org" in first and first["org"].components else ""
    company = org if isinstance(org, str) else " ".join(org)
    kind = first["kind"].text.lower() if "kind" in first else ""
    same = bool(company) and folded(company) == folded(whole)
    if not (family or given) and whole and not same:
        said = dict(split_name(whole, region).parts)
        family, given = said.get("family", ""), said.get("given", "")
        middle, suffix = said.get("additional", ""), said.get("suffix", "")
    is_org = kind == "org" or (not (family or given) and (same or (not whole and bool(company))))
    out.is_org.append(is_org)
    out.family.append(out.name_words.number(one_word(family)))
    out.given.append(out.name_words.number(one_word(given.split(" ")[0]) if given else ""))
    rest = " ".join(given.split(" ")[1:])
    out.middle.append(out.name_words.number(one_word(f"{rest} {middle}")))
    words = words_of(f"{given} {middle} {family}" if family or given else whole)
    out.whole.append(out.whole_words.number(" ".join(sorted(words))))
    out.generation.append(_GENERATIONS[generation(suffix or "")])
    out.org.append(out.other_words.number(" ".join(words_of(company))))


def _add_rest(out: Features, first: dict[str, Property]) -> None:
    date = parse_iso(first["bday"].text) if "bday" in first else None
    out.birthday.append(date.year * 10_000 + date.month * 100 + date.day if date else -1)
    street = house = code = ""
    if "adr" in first:
        parts = [part if isinstance(part, str) else " ".join(part)
                 for part in first["adr"].components] + [""] * 7  # fmt: skip
        street = " ".join(words_of(_NUMBER.sub(" ", parts[STREET])))
        if number := _NUMBER.search(parts[STREET]):
            house = number[0]
        code = "".join(words_of(parts[_CODE]))
    out.street.append(out.other_words.number(street))
    out.house.append(int(house[-6:]) if house else -1)
    out.code.append(out.other_words.number(f"code {code}" if code else ""))
    uid = first["uid"].text if "uid" in first else ""
    out.uid.append(out.other_words.number(f"uid {identity(uid)}" if uid else ""))
