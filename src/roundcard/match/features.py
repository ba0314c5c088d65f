"""What is compared of contacts, as numbers: one row a contact, one number for each text."""

from __future__ import annotations

import re
from array import array
from bisect import bisect_left
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
from roundcard.card.head import Component, Head
from roundcard.card.origin import unpack
from roundcard.clean.countries import country_code
from roundcard.clean.splitting import bare_family, bare_given, split_name
from roundcard.clean.unspaced_names import unspaced_parts
from roundcard.match.firms import begins_given, firm_words, is_firm
from roundcard.match.names import generation, one_word, words_of
from roundcard.match.reading import couple, name_of
from roundcard.values.dates import parse_iso
from roundcard.values.number_plans import mobile
from roundcard.values.phones import in_form, number_key
from roundcard.values.word_lists import word_list

Ints = npt.NDArray[np.int32]

_COUNTRY = ADR_PARTS.index("country")
_CODE = ADR_PARTS.index("postcode")
_TOWN = ADR_PARTS.index("locality")
_FAMILY2, _GENERATION = 5, 6
"""Places in N of the second family name and the generation (RFC 9554)."""
_SAID, _AGAINST, _ASSUMED = 1, 2, 4
"""Of a mobile number: it is said to be one, its range is another, its range is one in the country
that was assumed."""
_PERHAPS = 2
"""In `Features.is_org`: an organisation, if there is one of that name."""
_NUMBER = re.compile(r"\d+")
_UNITS = "|".join(word_list(__package__, "units"))
_UNIT = re.compile(rf"^\W*(?:{_UNITS})\b[.#\s]*\w{{0,2}}?\d+\w?[\s,/-]+(?=.*\d)", re.IGNORECASE)
"""A flat's number that stands before the house's."""
_FEW_LATELY = 1 << 15
"""Texts whose numbers a dictionary keeps, at the least."""
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
    once in thirty million books): of those met lately in a dictionary, of the others in a sorted
    column, which takes a tenth of its room.
    """

    def __init__(self, texts: list[str] | Texts) -> None:
        """`texts` is where the texts are kept."""
        self.texts = texts
        """The texts by their numbers."""
        self._lately: dict[int, int] = {}
        self._hashes = array("q")
        self._numbers = array("i")
        """The numbers of the sorted hashes."""

    def number(self, text: str) -> int:
        """The number of a text; -1 where it is empty."""
        if not text:
            return -1
        key = hash(text)
        found = self._lately.get(key)
        if found is None:
            at = bisect_left(self._hashes, key)
            if at < len(self._hashes) and self._hashes[at] == key:
                found = self._numbers[at]
            else:
                found = len(self.texts)
                self.texts.append(text)
            self._lately[key] = found
            if len(self._lately) > max(_FEW_LATELY, len(self._hashes) // 4):
                self._sort()
        return found

    def _sort(self) -> None:
        """Put what was met lately into the sorted column."""
        known = len(self._hashes)
        fresh = {key: number for key, number in self._lately.items() if number >= known}
        self._lately.clear()
        hashes = np.concatenate([np.frombuffer(self._hashes, np.int64),
                                 np.fromiter(fresh, np.int64, len(fresh))])  # fmt: skip
        numbers = np.concatenate([np.frombuffer(self._numbers, np.int32),
                                  np.fromiter(fresh.values(), np.int32, len(fresh))])  # fmt: skip
        order = np.argsort(hashes)
        self._hashes = array("q", hashes[order].tobytes())
        self._numbers = array("i", numbers[order].tobytes())

    def end(self) -> None:
        """No more texts come."""
        self._lately = {}
        self._hashes, self._numbers = array("q"), array("i")


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
    name: array[int] = field(default_factory=_numbers)
    """The name as `person_names.Name` packs it; of an organisation the words of what it is called,
    without its legal form, in `firm`."""
    firm: array[int] = field(default_factory=_numbers)
    generation: array[int] = field(default_factory=_numbers)
    org: array[int] = field(default_factory=_numbers)
    is_org: array[int] = field(default_factory=_numbers)
    birthday: array[int] = field(default_factory=_numbers)
    """As yyyymmdd, with zeros for what is not known."""
    street: array[int] = field(default_factory=_numbers)
    house: array[int] = field(default_factory=_numbers)
    code: array[int] = field(default_factory=_numbers)
    town: array[int] = field(default_factory=_numbers)
    uid: array[int] = field(default_factory=_numbers)
    places: Lists = field(default_factory=Lists)
    """Of each address the post code with the house, and the street with house and town."""
    emails: Lists = field(default_factory=Lists)
    phones: Lists = field(default_factory=Lists)
    name_words: Words = field(default_factory=lambda: Words([]))
    whole_words: Words = field(default_factory=lambda: Words(Texts()))
    names: Words = field(default_factory=lambda: Words(Texts()))
    other_words: Words = field(default_factory=lambda: Words(Texts()))
    email_words: Words = field(default_factory=lambda: Words(Texts()))
    phone_words: Words = field(default_factory=lambda: Words(Texts()))
    mobile: bytearray = field(default_factory=bytearray)
    """What is known of each number's being a mobile one, by the numbers of `phone_words`."""

    def __len__(self) -> int:
        return len(self.record)

    def end(self) -> Features:
        """No more contacts come; the same."""
        for words in self.words():
            words.end()
        self._tell_firms()
        for cached in (_number, _one_word, _joined_words, _names_of, words_of, firm_words,
                       is_firm, couple, parse_iso):  # fmt: skip
            cached.cache_clear()
        return self

    def _tell_firms(self) -> None:
        """Tell names that are no person's: those of organisations that others in the books are
        with, where no given name stands in front."""
        known = {*self.org, *(firm for firm, is_org in zip(self.firm, self.is_org, strict=True)
                              if is_org == 1)} - {-1}  # fmt: skip
        for at, firm in enumerate(self.firm):
            if firm in known and self.is_org[at] == _PERHAPS:
                self.is_org[at] = 1
            elif self.is_org[at] == _PERHAPS:
                self.is_org[at] = 0

    def mobiles(self) -> npt.NDArray[np.bool_]:
        """Whether each number is a mobile one: it is said so, or its range tells it; where the
        country was assumed, only if nothing speaks against it."""
        told = np.frombuffer(bytes(self.mobile), dtype=np.uint8)
        assumed = (told & (_ASSUMED | _AGAINST)) == _ASSUMED
        return np.asarray(((told & _SAID) > 0) | assumed)

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
            if words_name == "phone_words":
                self.mobile.extend(bytes(len(mine.texts) - len(self.mobile)))
                for number, mobile in zip(numbers.tolist(), more.mobile, strict=False):
                    self.mobile[number] |= mobile
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
    "names": ("name",),
    "other_words": ("org", "firm", "street", "code", "town", "uid", "places"),
    "email_words": ("emails",),
    "phone_words": ("phones",),
}
"""The columns that hold numbers of words, by the words."""
_SEVERAL = frozenset({"emails", "phones", "places"})
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
    cells: Sequence[str] = ()
    """Numbers of which it is said that they are mobile ones."""
    emails: Sequence[str] = ()
    addresses: Sequence[Sequence[Component]] = ()
    """Those behind the first."""
    nicknames: Sequence[Sequence[Component]] = ()


_FIRSTS = {"fn": "whole", "n": "name", "org": "org", "kind": "kind", "bday": "birthday",
           "adr": "address", "uid": "uid"}  # fmt: skip
"""Of these properties the first one counts."""
_LISTED = {"tel": "phones", "email": "emails", "nickname": "nicknames", "": "cells",
           "addresses": "addresses"}  # fmt: skip
"""Of these all count."""
_STRUCTURED = frozenset(("n", "adr", "nickname"))


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
        several: dict[str, list[Sequence[Any]]] = {key: [] for key in _LISTED.values()}
        for item, column in zip(batch.shape, batch.columns, strict=True):
            name = item.head.name
            key = _key_of(item.head)
            if key is None or (name == "n" and (item.head.phonetic or item.empty)):
                continue
            if key in columns:
                key = "addresses" if key == "address" else None
            if key in several:
                several[key].append(decoded(item.head, column))
            elif key is not None:
                columns[key] = decoded(item.head, column)
        if "org" in columns:
            columns["org"] = [value[0] if value else "" for value in columns["org"]]
        if "kind" in columns:
            odd = {at for at, kind in enumerate(columns["kind"]) if kind.lower() == "group"}
            if odd:
                return (), odd
        for key, gathered in several.items():
            if gathered:
                columns[key] = list(zip(*gathered, strict=True))
        origins = [batch.origin(at) for at in batch.places]
        keys = list(columns)
        rows = zip(*columns.values(), strict=True) if keys else ((),) * len(batch)
        return [Told(origin, **dict(zip(keys, values, strict=True)))
                for origin, values in zip(origins, rows, strict=True)], set()  # fmt: skip

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


def _key_of(head: Head) -> str | None:
    """What a property tells; None for what is not compared."""
    name = head.name
    if name == "tel":
        return None if "fax" in head.uses else "cells" if "cell" in head.uses else "phones"
    return _LISTED.get(name) or _FIRSTS.get(name)


def _told(contact: Contact) -> Told:
    first: dict[str, Any] = {}
    several: dict[str, Any] = {}
    group = is_group(contact)  # no person: only its identity tells it
    for prop in contact.properties if not group else contact.all("uid"):
        name = prop.head.name
        key = _key_of(prop.head)
        if key is None or (name == "n" and (prop.head.phonetic or not prop.size())):
            continue
        if key in first:
            if key == "address":
                several.setdefault("addresses", []).append(prop.components)
        elif name == "org":
            first[key] = prop.components[0] if prop.components else ""
        else:
            value = prop.components if name in _STRUCTURED else prop.text
            if name in _LISTED or name == "tel":
                several.setdefault(key, []).append(value)
            else:
                first[key] = value
    return Told(contact.origin, **several, **first)


def _add(out: Features, told: Told, region: str) -> None:
    place = unpack(told.origin)
    out.source.append(place.source if place is not None else 0)
    out.record.append(place.record if place is not None else 0)
    where = _region_in(told.address) or region
    phones = []
    for named in (False, True):
        for text in told.cells if named else told.phones:
            key, is_mobile = _number(text, where)
            if key:
                number = out.phone_words.number(key)
                if number == len(out.mobile):
                    out.mobile.append(0)
                out.mobile[number] |= _SAID if named else is_mobile
                phones.append(number)
    out.phones.append(phones)
    numbered = out.email_words.number
    out.emails.append([numbered(said) for text in told.emails if (said := email(text))])
    _add_name(out, told, where)
    _add_rest(out, told)


def _region_in(address: Sequence[Component]) -> str:
    country = address[_COUNTRY] if len(address) > _COUNTRY else ""
    return country_code(country) if country and isinstance(country, str) else ""


@lru_cache(maxsize=16_384)
def _number(text: str, region: str) -> tuple[str, int]:
    """What tells a number, and what its range says of its being a mobile one."""
    whole = (in_form(text, region).text or text).partition(" ext")[0]
    if not whole.startswith("+"):
        return number_key(text, region), 0
    found = mobile("".join([char for char in whole if char.isdecimal()]))
    if text.lstrip(" (").startswith(("+", "00")):
        return number_key(text, region), _SAID if found else _AGAINST
    return number_key(text, region), _ASSUMED * found


_one_word = lru_cache(maxsize=16_384)(one_word)


@lru_cache(maxsize=16_384)
def _joined_words(text: str) -> str:
    return " ".join(words_of(text))


def _text(part: Component) -> str:
    return part if isinstance(part, str) else " ".join(part)


def _add_name(out: Features, told: Told, region: str) -> None:
    company = _text(told.org)
    parts = tuple(map(_text, told.name))
    nick = " ".join(_text(part) for value in told.nicknames for part in value)
    found = _names_of(parts, told.whole if "@" not in told.whole else "", company, nick, region)
    numbers = out.name_words.number
    out.is_org.append(1 if told.kind.lower() == "org" else found.is_org)
    out.family.append(numbers(found.family))
    out.given.append(numbers(found.given))
    out.middle.append(numbers(found.middle))
    out.whole.append(out.whole_words.number(found.words))
    out.name.append(out.names.number(found.name))
    out.generation.append(_GENERATIONS[found.generation])
    out.org.append(out.other_words.number(firm_words(company)))
    is_firm = out.is_org[-1] != 0
    out.firm.append(out.other_words.number(firm_words(found.called or company)) if is_firm else -1)


class _Named(NamedTuple):
    """What a name comes to."""

    name: str
    family: str
    given: str
    middle: str
    words: str
    generation: str
    is_org: int
    called: str
    """The name as it is said."""


@lru_cache(maxsize=16_384)
def _names_of(
    parts: tuple[str, ...], whole: str, company: str, nick: str, region: str
) -> _Named:  # fmt: skip
    texts = (*parts, "", "", "", "", "")
    family, given, middle, suffix = texts[0], texts[1], texts[2], texts[4]
    if len(parts) > _FAMILY2 and parts[_FAMILY2] and parts[_FAMILY2] not in family:
        family = f"{family} {parts[_FAMILY2]}"
    if len(parts) > _GENERATION and parts[_GENERATION]:
        suffix = f"{suffix} {parts[_GENERATION]}"
    given, behind_given = bare_family(bare_given(given))
    family, behind = bare_family(family)
    suffix = f"{suffix} {behind} {behind_given}".strip()
    if not family and " " in given.strip() and not whole:
        whole, given = given, ""
    said = " ".join(filter(None, (given, middle, family))) or whole
    unsure = ""
    same = bool(company) and folded(company) == folded(whole)
    if not (family or given) and whole and not same and not couple(whole):
        split = dict(split_name(whole, region).parts or unspaced_parts(whole))
        family, given = split.get("family", ""), split.get("given", "")
        family = f"{family} {split['family2']}" if "family2" in split else family
        middle, suffix = split.get("additional", ""), split.get("suffix", "")
        if given and "," not in whole and " " in whole.strip():  # which word is what is a guess
            ends = {*split.get("prefix", "").split(), *suffix.split()}
            unsure = " ".join(word for word in whole.split() if word not in ends)
    firm = (not (family or given) and (same or (not whole and bool(company)))) or (
        bool(said) and is_firm(said)
    )
    perhaps = bool(said) and not firm and len(said.split()) > 1 and not begins_given(said)
    words = _joined_words(f"{given} {middle} {family}" if family or given else whole)
    if unsure or not (family or given):
        name = name_of("", "", "", nick, unsure or whole)
    else:
        name = name_of(given, middle, family, nick, "")
    first, _, rest = given.partition(" ")
    return _Named(
        name.packed(), _one_word(family), _one_word(first),
        _one_word(f"{rest} {middle}"), " ".join(sorted(words.split(" "))),
        generation(suffix or ""), 1 if firm else _PERHAPS if perhaps else 0, said or company,
    )  # fmt: skip


def _add_rest(out: Features, told: Told) -> None:
    date = parse_iso(told.birthday) if told.birthday else None
    out.birthday.append(date.year * 10_000 + date.month * 100 + date.day if date else -1)
    numbers = out.other_words.number
    street, house, code, town = _place(told.address)
    out.street.append(numbers(street))
    out.house.append(int(house[-6:]) if house else -1)
    out.code.append(numbers(f"code {code}" if code else ""))
    out.town.append(numbers(f"town {town}" if town else ""))
    out.places.append([
        numbers(key)
        for each in (told.address, *told.addresses)
        for key in _place_keys(*_place(each))
    ])  # fmt: skip
    uid = told.uid
    out.uid.append(numbers(f"uid {identity(uid)}" if uid else ""))


def _place(address: Sequence[Component]) -> tuple[str, str, str, str]:
    """Street, house, post code and town of an address, for comparison."""
    if not address:
        return "", "", "", ""
    parts = [_text(part) for part in address] + [""] * 7
    said = parts[STREET]
    street = _joined_words(_NUMBER.sub(" ", said))
    number = _NUMBER.search(_UNIT.sub("", said))
    return (street, number[0] if number else "", _joined_words(parts[_CODE]).replace(" ", ""),
            _joined_words(parts[_TOWN]))  # fmt: skip


def _place_keys(street: str, house: str, code: str, town: str) -> list[str]:
    keys = [f"place {code} {house}"] if code and house else []
    if street and (house or code):
        keys.append(f"place {street} {house} {code or town}")
    return keys
