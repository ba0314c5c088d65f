"""Contacts to vCard text, version 2.1, 3.0 or 4.0."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from typing import Literal, NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.envelopes import paired
from roundcard.card.fields import CUSTOM, LEAST_PARTS, field_of
from roundcard.card.head import Head, Params, Value, head, with_params
from roundcard.card.names import MadeFrom, formatted_name, joined_name
from roundcard.card.origin import DERIVED, RIDES
from roundcard.formats.vcard import v21, values
from roundcard.formats.vcard.lines import FOLD_AT, demand_one_line, fold
from roundcard.formats.vcard.property_heads import (
    OURS,
    exact_param,
    exact_params,
    in_label,
    tel_params,
    well_formed,
    write_head,
)
from roundcard.formats.vcard.reader import read
from roundcard.formats.vcard.syntax import (
    escape,
    free_of_controls,
    has_controls,
    one_line,
    unescape,
    write_list,
    write_parts,
)
from roundcard.formats.vcard.translate import again, is_said_again
from roundcard.formats.vcard.values import is_tel
from roundcard.tally import Fate, Reason, Tally, Why, name_from

_LEAST = {**LEAST_PARTS, CUSTOM: 2}
"""How many components a structured value is written with at least."""
_MOST_HEADS, _MOST_EXTRA = 20_000, 50
_CONTROLS = Reason(Fate.CHANGED, Why.CONTROLS_REPLACED)
FN, N = 1, 2
_AGAIN, _ON_ENVELOPE = -1, -2
"""Roles of properties that are looked at again when all lines of a card are made."""
_MADE = head("fn", (("derived", ("true",)),))
"""The head of a whole name that was made."""
_PLAIN = frozenset({"text", "phone"})
_INNER = re.compile(r"\s*BEGIN:VCARD\s*\n", re.IGNORECASE)
_INNER_21 = re.compile(r"^VERSION:2\.1\s*$", re.IGNORECASE | re.MULTILINE)

Encoder = Callable[[Property], tuple[str, int]]
"""Makes the logical line of a property, and says how many values it holds."""
Stands = Literal["", "text", "parts", "uri", "raw"]
"""What stands behind the prefix as it is: text, or components with semicolons between them, in
which nothing needs an escape; text that is a URI; the undecoded text; or (empty) nothing that can
be told before a value is looked at."""


class Way(NamedTuple):
    """How properties with one head are written."""

    prefix: str
    """What the line begins with."""
    encode: Encoder
    once: int = 0
    """A bit for each property that may stand once only; 0 for others."""
    role: int = 0
    """A bit for a name, or a number below zero where the value is looked at again when all lines
    of the card are made."""
    stands: Stands = ""
    least: int = 0
    """How many components are written at least."""


class VCardWriter:
    """Writes contacts one after another as the text of one version."""

    opening = closing = ""

    def __init__(self, version: str, tally: Tally) -> None:
        self.version = version
        self.tally = tally
        self.begin = "BEGIN:VCARD\r\nVERSION:" + version
        self.made_prefix = write_head(_MADE, version) + ":"
        self._ways: dict[Head, Way] = {}
        self._bits: dict[str, int] = {}
        """A bit for each property that may stand once only."""
        self._demanded = FN if version == "4.0" else N | FN
        self.folds = version != "2.1"  # which comes in its own lines

    def restart(self) -> None:
        """Begin another file: each card stands for itself."""

    def encode(self, contact: Contact) -> str:
        """The card of one contact, with CRLF at each line's end (RFC 6350 section 3.2)."""
        lines, version = [self.begin], self.version
        written = names = once = 0
        named: Property | None = None
        roles: set[int] = set()
        ties: dict[int, str] = {}  # what a property that stands once is tied to others by
        for prop in contact.properties:
            way = self._ways.get(prop.head) or self.way(prop.head)
            altid, bit = prop.head.altid, way.once
            if way.role > 0:
                names |= way.role
                if way.role == N and named is None and not prop.head.phonetic:
                    named = prop
            elif way.role:
                roles.add(way.role)
            if way.role == N and version == "4.0" and not any(flat(prop.components)):
                lines.append("")  # which older versions demand
                continue
            if bit and once & bit and not (self.version == "4.0" and ties.get(bit) == altid):
                # a second birthday is kept, but no reader may take it for the first
                line, count = self._again(prop)
            else:
                line, count = way.encode(prop)
                if altid:
                    ties.setdefault(bit, altid)
            once |= bit
            lines.append(fold(line) if self.folds else line)
            origin = prop.origin
            if origin.__class__ is int and origin >= 0 and origin & RIDES:
                continue
            written += count
            self.tally.place(prop, _CONTROLS if _has_controls(prop) else None)
        if _ON_ENVELOPE in roles:
            self._join(contact.properties, lines)
        if "" in lines:
            lines = list(filter(None, lines))
        if names & self._demanded != self._demanded:
            written += self._names(contact, names, lines, named)
        if _AGAIN in roles:
            lines += again(contact, self.version)
        lines.append("END:VCARD\r\n")
        tally = self.tally
        tally.people.carried += 1
        tally.people.written += 1
        tally.values.written += written
        return "\r\n".join(lines)

    def _names(self, contact: Contact, names: int, lines: list[str], named: Property | None) -> int:
        """Add the names that the version demands: FN always, N in 3.0."""
        version = self.version
        count = 0
        if not names & FN:
            made_from: MadeFrom = "parts"
            said = joined_name(named.value) if named is not None else ""
            if not said:
                said, made_from = formatted_name(contact)
            lines.insert(1, self.derived_name(said))
            self.tally.count(name_from(made_from), 1)
            count = 1
        if version != "4.0" and not names & N:  # RFC 2426 section 3.1.2
            lines.insert(1 + count, "N:;;;;")
        return count

    def _join(self, props: Sequence[Property], lines: list[str]) -> None:
        """Put the text on an envelope into the line of its address (RFC 6350 section 6.3.1)."""
        pairs = paired(props)
        for text, address in pairs.items():
            labelled = with_params(props[address].head, label=(in_label(props[text].text),))
            parts, _ = write_parts(props[address].value, _LEAST["adr"])
            lines[address + 1] = fold(f"{write_head(labelled, self.version)}:{parts}")
        for text in sorted(pairs, reverse=True):
            del lines[text + 1]

    def derived_name(self, said: str) -> str:
        """The line of a whole name that was made, marked as such (RFC 9554)."""
        if self.version == "2.1":
            return v21.encoder(_MADE)(Property(_MADE, said, DERIVED))[0]
        line = self.made_prefix + escape(said)
        demand_one_line(line)
        return line if len(line) <= FOLD_AT and line.isascii() else fold(line)

    def way(self, head: Head) -> Way:
        """How properties with this head are written."""
        found = self._ways.get(head)
        if found is None:
            found = self._learn(head)
            if len(self._ways) < _MOST_HEADS:
                self._ways[head] = found
        return found

    def _learn(self, head: Head) -> Way:
        field, version = head.field, self.version
        once = 0
        if not field.many or (head.name == "fn" and version != "4.0"):
            once = self._bits.setdefault(head.name, 1 << len(self._bits))
        role = {"fn": FN, "n": N}.get(head.name, 0)
        if is_said_again(head, version):
            role = _AGAIN
        elif head.name == "label" and version == "4.0":
            role = _ON_ENVELOPE
        if version == "2.1":
            nested = head.name == "agent"
            return Way("", self._nested(head) if nested else v21.encoder(head), once, role)
        if field.kind == "raw":
            same = head.version == version and bool(head.text) and not head.coded
            same = same and not field.versions and well_formed(head.text)
            prefix = (head.text if same else write_head(head, version)) + ":"
            return Way(prefix, _raw(prefix), once, role, "" if head.coded else "raw")
        prefix = write_head(head, version) + ":"
        encode, stands = self._encoder(head, prefix)
        return Way(prefix, encode, once, role, stands, _LEAST.get(head.name, 0))

    def _encoder(self, head: Head, prefix: str) -> tuple[Encoder, Stands]:
        kind, name, version = head.field.kind, head.name, self.version
        if name == "label" and version == "4.0":
            return _label, ""
        if name == "tz":
            return self._valued(head, lambda text: values.write_timezone(text, version)), ""
        if name in values.STAMPS:
            return self._valued(head, lambda text: values.write_stamp(text, version)), ""
        if kind == "phone" and not head.coded:
            uri = (
                write_head(head, version, (("VALUE", ("uri",)),)) + ":" if version == "4.0" else ""
            )
            return _phone(prefix, uri), "text"
        if kind in _PLAIN:
            return (_text(prefix), "") if head.coded else (_plain(prefix), "text")
        if kind == "list":
            return _structured(prefix, write_list), ""
        if name == CUSTOM:
            return _custom(prefix), "text"
        if kind == "parts":
            encode = self._parts(head, prefix)
            return encode, "" if head.coded else "parts"
        if kind == "date":
            return self._valued(head, lambda text: values.write_date(text, version)), ""
        if kind == "uri":
            return self._valued(head, lambda text: values.write_uri(name, text, version)), "uri"
        if kind == "geo":
            return self._valued(head, lambda text: values.write_geo(text, version)), ""
        return self._valued(head, lambda text: values.write_media(name, text, version)), ""

    def _valued(self, head: Head, write: Callable[[str], values.Written | None]) -> Encoder:
        """An encoder for values that bring parameters of their own."""
        version = self.version
        known: dict[Params, str] = {}

        def encode(prop: Property) -> tuple[str, int]:
            text = free_of_controls(prop.text)
            found = write(text)
            if found is None:
                return self._again(prop)
            raw, extra = found
            prefix = known.get(extra)
            if prefix is None:
                prefix = write_head(head, version, extra) + ":"
                if len(known) < _MOST_EXTRA:
                    known[extra] = prefix
            return prefix + one_line(raw), 1 if text else 0

        return encode

    def _parts(self, head: Head, prefix: str) -> Encoder:
        """An encoder for structured values; components that the version does not know ride along
        with all others (RFC 9554 sections 2.1 and 2.2 have more of them than RFC 6350)."""
        least = _LEAST.get(head.name, 0)
        most = self._most(head.name)
        plain = _parts(prefix, least)

        def encode(prop: Property) -> tuple[str, int]:
            value = prop.components
            if not most or not any(value[most:]):
                return plain(prop)
            raw, count = write_parts(value, least)
            said, _ = write_parts(value[:most], least)
            return f"{write_head(head, self.version, exact_params(raw))}:{said}", count

        return encode

    def _most(self, name: str) -> int:
        """How many components a version knows; 0 for no limit."""
        if self.version == "4.0":
            return len(field_of(name).parts) if name in LEAST_PARTS else 0
        return LEAST_PARTS.get(name, 0)

    def _nested(self, head: Head) -> Encoder:
        """An encoder for agents in 2.1, which are cards within the card (versit 1996, section
        2.4.4)."""
        plain = v21.encoder(head)

        def encode(prop: Property) -> tuple[str, int]:
            raw = prop.raw if prop.raw is not None else escape(prop.text)
            inner = unescape(raw)
            if prop.head.coded or not _INNER.match(inner):
                return plain(prop)
            found = inner
            if prop.head.version != "2.1" or not _INNER_21.search(inner):
                found = "".join(self._inner_cards(inner))
            if not found:
                return plain(prop)
            lines = found.replace("\r\n", "\n").strip("\n").split("\n")
            for line in lines:
                demand_one_line(line)
            same = escape("\n".join(lines)) == raw
            named = plain(Property(head, "", prop.origin))[0].rstrip(":")
            start = f"{named}{'' if same else exact_param(raw)}:"
            return "\r\n".join([start, *lines]), 1

        return encode

    @staticmethod
    def _inner_cards(text: str) -> Iterator[str]:
        """Cards of any version as 2.1 says them; nothing is counted."""
        tally = Tally()
        writer = VCardWriter("2.1", tally)
        for contact in read([text.encode("utf-8", "replace")], source=0, tally=tally):
            yield writer.encode(contact)

    def _again(self, prop: Property) -> tuple[str, int]:
        """A property under an extension's name: the version has no place for it under its own."""
        head, value = prop.head, prop.value
        if self.version == "2.1":
            return v21.encoder(head, again=True)(prop)
        prefix = write_head(head, self.version, name=OURS + head.name.upper()) + ":"
        if head.field.kind == "raw":
            return _raw(prefix)(prop)
        if isinstance(value, str):
            return prefix + escape(value), 1 if value else 0
        if head.field.kind == "list":
            raw, count = write_list(value)
        else:
            raw, count = write_parts(value, _LEAST.get(head.name, 0))
        return prefix + raw, count


def _has_controls(prop: Property) -> bool:
    """Whether characters of a value are replaced when it is written."""
    text = prop.raw
    if text is not None and not prop.head.coded:
        return has_controls(text)
    value = prop.value
    if isinstance(value, str):
        return has_controls(value)
    return any(map(has_controls, flat(value)))


def _plain(prefix: str) -> Encoder:
    """Text; where nothing in it is escaped, or needs to be, it goes on as it came."""

    def encode(prop: Property) -> tuple[str, int]:
        text = prop.text if prop.raw is None else prop.raw
        if "\\" in text or "," in text or ";" in text or not text.isprintable():
            text = escape(prop.text)
        return prefix + text, 1 if text else 0

    return encode


def _text(prefix: str) -> Encoder:
    """Text whose raw spelling no other version reads."""

    def encode(prop: Property) -> tuple[str, int]:
        text = prop.text
        return prefix + escape(text), 1 if text else 0

    return encode


def _phone(prefix: str, uri_prefix: str) -> Encoder:
    """A number. A ``tel:`` URI stays one in 4.0 (RFC 6350 section 6.4.1); elsewhere it stands
    beside the number in it."""
    plain = _plain(prefix)
    head = prefix.removesuffix(":")

    def encode(prop: Property) -> tuple[str, int]:
        raw = prop.raw
        if raw is None or not is_tel(raw):
            return plain(prop)
        if uri_prefix:
            return uri_prefix + raw, 1
        text = prop.text
        whole = "".join(f";{key}={said[0]}" for key, said in tel_params(raw, text))
        return f"{head}{whole}:{escape(text)}", 1 if text else 0

    return encode


def _raw(prefix: str) -> Encoder:
    """A property that the table does not know goes on as it is."""

    def encode(prop: Property) -> tuple[str, int]:
        raw = prop.raw
        if raw is None:
            raw = escape(prop.text)
        elif prop.head.coded:  # how it was escaped cannot be known; a line break must be
            raw = prop.text
        return prefix + one_line(raw), 1 if raw and not raw.isspace() else 0

    return encode


def _structured(prefix: str, write: Callable[[Value], tuple[str, int]]) -> Encoder:
    def encode(prop: Property) -> tuple[str, int]:
        raw, count = write(prop.value)
        return prefix + raw, count

    return encode


def _parts(prefix: str, least: int) -> Encoder:
    """A structured value; text without escapes goes on as it came."""

    def encode(prop: Property) -> tuple[str, int]:
        raw = prop.raw
        if raw is None or prop.head.coded or "\\" in raw or "," in raw or not raw.isprintable():
            raw, count = write_parts(prop.value, least)
            return prefix + raw, count
        parts = raw.split(";")
        return f"{prefix}{raw}{';' * (least - len(parts))}", len(parts) - parts.count("")

    return encode


def _custom(prefix: str) -> Encoder:
    def encode(prop: Property) -> tuple[str, int]:
        raw, count = write_parts(prop.value, 2)
        return prefix + raw, count - 1 if prop.components[0] else count

    return encode


def _label(prop: Property) -> tuple[str, int]:
    """An address as on an envelope: in 4.0 a parameter of ADR (RFC 6350 section 6.3.1)."""
    head = with_params(prop.head, label=(in_label(prop.text),))
    return write_head(head, "4.0", name="ADR") + ":;;;;;;", 1 if prop.text else 0
