"""What is compared of contacts, as numbers: one row a contact, one number for each text."""

from __future__ import annotations

import re
from array import array
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, NamedTuple, overload

import numpy as np
import numpy.typing as npt

from roundcard.books.groups import is_group
from roundcard.books.shapes.batch import Batch, Shape
from roundcard.books.shapes.decoding import decoded
from roundcard.books.shapes.work import Event
from roundcard.card.contact import Contact
from roundcard.card.equality import email, folded, identity
from roundcard.card.fields import ADR_PARTS, STREET
from roundcard.card.head import Component
from roundcard.card.origin import unpack
from roundcard.clean.countries import country_code
from roundcard.clean.splitting import split_name
from roundcard.match.names import generation, one_word, words_of
from roundcard.values.dates import parse_iso
from roundcard.values.phones import number_key

Ints = npt.NDArray[np.int32]

_COUNTRY = ADR_PARTS.index("country")
_CODE = ADR_PARTS.index("postcode")
_NUMBER = re.compile(r"\d+")
_GENERATIONS = {"": 0, "senior": 1, "junior": 2}


class Texts(Sequence[str]):
    """Many texts in little room."""

    def __init__(self) -> None:
        self._octets = bytearray()
        self._ends = array("q")

    def append(self, text: str) -> None:
        """One more text."""
        self._octets += text.encode("utf-8", "surrogatepass")
        self._ends.append(len(self._octets))

    def __len__(self) -> int:
        return len(self._ends)

    @overload
    def __getitem__(self, at: int) -> str: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[str]: ...
    def __getitem__(self, at: int | slice) -> str | Sequence[str]:
        if isinstance(at, slice):
            return [self[each] for each in range(*at.indices(len(self)))]
        begin = self._ends[at - 1] if at else 0
        return self._octets[begin : self._ends[at]].decode("utf-8", "surrogatepass")


class Words:
    """Numbers for texts, from 0 in the order of their coming; -1 for nothing.

    While they come only the hash of each is looked up (64 bits: of a million texts two share one
    once in thirty million books).
    """

    def __init__(self, texts: list[str] | Texts) -> None:
        """`texts` is where the texts are kept."""
        self.texts = texts
        """The texts by their numbers."""
        self._numbers: dict[int, int] = {}

    def number(self, text: str) -> int:
        """The number of a text; -1 where it is empty."""
        if not text:
            return -1
        key = hash(text)
        found = self._numbers.get(key)
        if found is None:
            found = self._numbers[key] = len(self._numbers)
            self.texts.append(text)
        return found

    def end(self) -> None:
        """No more texts come."""
        self._numbers = {}


class Lists:
    """Several numbers a contact, one after another."""

    def __init__(self) -> None:
        self._values = array("i")
        self._ends = array("q")

    def append(self, numbers: Iterable[int]) -> None:
        """The numbers of one more contact, each once."""
        self._values.extend(dict.fromkeys(numbers))
        self._ends.append(len(self._values))

    def __len__(self) -> int:
        return len(self._ends)

    def __getitem__(self, at: int) -> array[int]:
        return self._values[self._ends[at - 1] if at else 0 : self._ends[at]]

    def extend(self, values: Ints, bounds: npt.NDArray[np.int64]) -> None:
        """The numbers of some more contacts, as `values` and `bounds` give them."""
        self._ends.frombytes((bounds[1:] + len(self._values)).astype(np.int64).tobytes())
        self._values.frombytes(values.astype(np.int32).tobytes())

    @property
    def values(self) -> Ints:
        """All numbers."""
        return np.asarray(self._values, dtype=np.int32)

    @property
    def bounds(self) -> npt.NDArray[np.int64]:
        """Where the numbers of each contact begin, and where the last one's end."""
        return np.concatenate([[0], np.asarray(self._ends, dtype=np.int64)]).astype(np.int64)


def _numbers() -> array[int]:
    return array("i")


@dataclass(slots=True)
class Features:
    """All contacts, column by column; -1 stands for what is missing."""

    source: array[int] = field(default_factory=_numbers)
    record: array[int] = field(default_factory=_numbers)
    family: array[int] = field(default_factory=_numbers)
    given: array[int] = field(default_factory=_numbers)
    middle: array[int] = field(default_factory=_numbers)
    whole: array[int] = field(default_factory=_numbers)
    """The words of the whole name in alphabetical order."""
    generation: array[int] = field(default_factory=_numbers)
    org: array[int] = field(default_factory=_numbers)
    is_org: array[int] = field(default_factory=_numbers)
    birthday: array[int] = field(default_factory=_numbers)
    """As yyyymmdd, with zeros for what is not known."""
    street: array[int] = field(default_factory=_numbers)
    house: array[int] = field(default_factory=_numbers)
    code: array[int] = field(default_factory=_numbers)
    uid: array[int] = field(default_factory=_numbers)
    emails: Lists = field(default_factory=Lists)
    phones: Lists = field(default_factory=Lists)
    name_words: Words = field(default_factory=lambda: Words([]))
    whole_words: Words = field(default_factory=lambda: Words(Texts()))
    other_words: Words = field(default_factory=lambda: Words(Texts()))
    email_words: Words = field(default_factory=lambda: Words(Texts()))
    phone_words: Words = field(default_factory=lambda: Words(Texts()))

    def __len__(self) -> int:
        return len(self.record)

    def end(self) -> Features:
        """No more contacts come; the same."""
        for words in self.words():
            words.end()
        for cached in (_number_key, _one_word, _joined_words):
            cached.cache_clear()
        return self

    def words(self) -> list[Words]:
        """All words that have numbers."""
        return [getattr(self, name) for name in _NUMBERED]

    def column(self, name: str) -> Ints:
        """One column as an array."""
        return np.asarray(getattr(self, name), dtype=np.int32)

    def join(self, more: Features, records: int) -> None:
        """Put contacts behind these that were gathered elsewhere; `records` came before them in
        their source. Words get the numbers that they would have got here."""
        for words_name, columns in _NUMBERED.items():
            mine: Words = getattr(self, words_name)
            theirs: Words = getattr(more, words_name)
            numbers = np.array([*map(mine.number, theirs.texts), -1], dtype=np.int32)
            for name in columns:
                if name in _SEVERAL:
                    lists: Lists = getattr(more, name)
                    getattr(self, name).extend(numbers[lists.values], lists.bounds)
                else:
                    getattr(self, name).frombytes(numbers[more.column(name)].tobytes())
        for name in _PLAIN:
            getattr(self, name).extend(getattr(more, name))
        self.record.frombytes((more.column("record") + np.int32(records)).tobytes())


_NUMBERED = {
    "name_words": ("family", "given", "middle"),
    "whole_words": ("whole",),
    "other_words": ("org", "street", "code", "uid"),
    "email_words": ("emails",),
    "phone_words": ("phones",),
}
"""The columns that hold numbers of words, by the words."""
_SEVERAL = frozenset({"emails", "phones"})
_PLAIN = ("source", "generation", "is_org", "birthday", "house")


class Told(NamedTuple):
    """What is asked of one contact."""

    origin: int
    whole: str = ""
    name: Sequence[Component] = ()
    org: Component = ""
    kind: str = ""
    birthday: str = ""
    address: Sequence[Component] = ()
    uid: str = ""
    phones: Sequence[str] = ()
    emails: Sequence[str] = ()


_FIRSTS = {"fn": "whole", "n": "name", "org": "org", "kind": "kind", "bday": "birthday",
           "adr": "address", "uid": "uid"}  # fmt: skip
"""Of these properties the first one counts."""


class FeaturesOf:
    """Gathers the features of contacts, one after another; takes records of one shape at once."""

    labels = False

    def __init__(self, region: str = "") -> None:
        """`region` is that of numbers without a code."""
        self.found = Features()
        self._region = region.upper()

    def add(self, contact: Contact) -> None:
        """Take one more contact."""
        self.give([_told(contact)])

    def give(self, told: Sequence[Told]) -> None:
        """Take what some more contacts tell."""
        for each in told:
            _add(self.found, each, self._region)

    def takes_optional(self, shape: Shape) -> bool:  # noqa: ARG002
        """No: the first value counts that is there."""
        return False

    def make(self, batch: Batch) -> tuple[Sequence[Told], set[int]]:
        """What each record tells; a group is no person, and goes the long way."""
        columns: dict[str, Sequence[Any]] = {}
        several: dict[str, list[Sequence[Any]]] = {"tel": [], "email": []}
        for item, column in zip(batch.shape, batch.columns, strict=True):
            name = item.head.name
            if name in several:
                if "fax" not in item.head.uses:
                    several[name].append(decoded(item.head, column))
                continue
            key = _FIRSTS.get(name)
            unsaid = name == "n" and (item.head.phonetic or item.empty)
            if key is not None and key not in columns and not unsaid:
                columns[key] = decoded(item.head, column)
        if "org" in columns:
            columns["org"] = [value[0] if value else "" for value in columns["org"]]
        if "kind" in columns:
            odd = {at for at, kind in enumerate(columns["kind"]) if kind.lower() == "group"}
            if odd:
                return (), odd
        none: Sequence[str] = ()
        for name, key in (("tel", "phones"), ("email", "emails")):
            columns[key] = list(zip(*several[name], strict=True)) if several[name] \
                else [none] * len(batch)  # fmt: skip
        origins = [batch.origin(at) for at in batch.places]
        keys = list(columns)
        return [Told(origin, **dict(zip(keys, values, strict=True)))
                for origin, values in zip(origins, zip(*columns.values(), strict=True),
                                          strict=True)], set()  # fmt: skip

    def count(self, batch: Batch) -> None:
        """Nothing is counted."""

    def events(self) -> dict[int, Event]:
        """Nothing is told."""
        return {}


def features_of(contacts: Iterable[Contact], region: str = "") -> Features:
    """The features of all contacts, in one pass; `region` is that of numbers without a code."""
    gathered = FeaturesOf(region)
    for contact in contacts:
        gathered.add(contact)
    return gathered.found.end()


def _told(contact: Contact) -> Told:
    first: dict[str, Any] = {}
    phones, emails = [], []
    group = is_group(contact)  # no person: only its identity tells it
    for prop in contact.properties if not group else contact.all("uid"):
        name = prop.head.name
        if name == "tel":
            if "fax" not in prop.head.uses:
                phones.append(prop.text)
        elif name == "email":
            emails.append(prop.text)
        elif (key := _FIRSTS.get(name)) and key not in first:
            if name in ("n", "adr"):
                if name == "n" and (prop.head.phonetic or not prop.size()):
                    continue
                first[key] = prop.components
            elif name == "org":
                first[key] = prop.components[0] if prop.components else ""
            else:
                first[key] = prop.text
    return Told(contact.origin, phones=phones, emails=emails, **first)


def _add(out: Features, told: Told, region: str) -> None:
    place = unpack(told.origin)
    out.source.append(place.source if place is not None else 0)
    out.record.append(place.record if place is not None else 0)
    where = _region_in(told.address) or region
    number, numbered = out.phone_words.number, out.email_words.number
    out.phones.append([number(key) for text in told.phones if (key := _number_key(text, where))])
    out.emails.append([numbered(said) for text in told.emails if (said := email(text))])
    _add_name(out, told, where)
    _add_rest(out, told)


def _region_in(address: Sequence[Component]) -> str:
    country = address[_COUNTRY] if len(address) > _COUNTRY else ""
    return country_code(country) if country and isinstance(country, str) else ""


_number_key = lru_cache(maxsize=16_384)(number_key)
_one_word = lru_cache(maxsize=16_384)(one_word)


@lru_cache(maxsize=16_384)
def _joined_words(text: str) -> str:
    return " ".join(words_of(text))


def _add_name(out: Features, told: Told, region: str) -> None:
    family = given = middle = suffix = ""
    whole = told.whole if "@" not in told.whole else ""
    parts = told.name
    if parts:
        texts = [part if isinstance(part, str) else " ".join(part) for part in parts] + [""] * 5
        family, given, middle, suffix = texts[0], texts[1], texts[2], texts[4]
        if len(texts) > 11 and texts[6]:
            suffix = f"{suffix} {texts[6]}"
        if not family and " " in given.strip() and not whole:
            whole, given = given, ""
    company = told.org if isinstance(told.org, str) else " ".join(told.org)
    same = bool(company) and folded(company) == folded(whole)
    if not (family or given) and whole and not same:
        said = dict(split_name(whole, region).parts)
        family, given = said.get("family", ""), said.get("given", "")
        middle, suffix = said.get("additional", ""), said.get("suffix", "")
    is_org = told.kind.lower() == "org" or (
        not (family or given) and (same or (not whole and bool(company)))
    )
    out.is_org.append(is_org)
    out.family.append(out.name_words.number(_one_word(family)))
    out.given.append(out.name_words.number(_one_word(given.split(" ")[0]) if given else ""))
    rest = " ".join(given.split(" ")[1:])
    out.middle.append(out.name_words.number(_one_word(f"{rest} {middle}")))
    words = _joined_words(f"{given} {middle} {family}" if family or given else whole)
    out.whole.append(out.whole_words.number(" ".join(sorted(words.split(" ")))))
    out.generation.append(_GENERATIONS[generation(suffix or "")])
    out.org.append(out.other_words.number(_joined_words(company)))


def _add_rest(out: Features, told: Told) -> None:
    date = parse_iso(told.birthday) if told.birthday else None
    out.birthday.append(date.year * 10_000 + date.month * 100 + date.day if date else -1)
    street = house = code = ""
    if told.address:
        parts = [part if isinstance(part, str) else " ".join(part)
                 for part in told.address] + [""] * 7  # fmt: skip
        street = _joined_words(_NUMBER.sub(" ", parts[STREET]))
        if number := _NUMBER.search(parts[STREET]):
            house = number[0]
        code = _joined_words(parts[_CODE]).replace(" ", "")
    out.street.append(out.other_words.number(street))
    out.house.append(int(house[-6:]) if house else -1)
    out.code.append(out.other_words.number(f"code {code}" if code else ""))
    uid = told.uid
    out.uid.append(out.other_words.number(f"uid {identity(uid)}" if uid else ""))
