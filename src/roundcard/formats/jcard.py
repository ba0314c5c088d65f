"""jCard (RFC 7095): contacts as JSON, the model's own mirror.

A file holds one jCard, an array of them, or one after another. Written is an array, one jCard a
line, so that a book can be streamed and its lines compared.
"""

from __future__ import annotations

import codecs
import json
import re
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from roundcard.card.contact import Contact, Property
from roundcard.card.envelopes import paired
from roundcard.card.fields import CUSTOM, field_of
from roundcard.card.head import Component, Head, Params, Value, head
from roundcard.card.names import formatted_name
from roundcard.card.origin import PLACE_STEP, RIDES, pack
from roundcard.errors import SourceError
from roundcard.formats.vcard.reader import settle
from roundcard.formats.vcard.syntax import escape
from roundcard.formats.vcard.values import is_uri
from roundcard.tally import Fate, Reason, SetAside, Tally, Why, name_from
from roundcard.values.dates import parse_iso
from roundcard.values.phones import says_more

_BEGINS = re.compile(rb'[\s\[]*\[\s*"vcard"\s*,', re.IGNORECASE)
_BETWEEN = re.compile(r"[\s,\[\]\x1e]*")
_ADR_SIZE = 7
_URI_LOST = Reason(Fate.CHANGED, Why.PARAMETERS_LOST, "phone")


def recognise(sample: bytes) -> bool:
    """Whether a file that begins with `sample` is jCard."""
    return bool(_BEGINS.match(sample.removeprefix(b"\xef\xbb\xbf")))


def read(
    chunks: Iterable[bytes],
    *,
    source: int,
    tally: Tally,
    on_record: Callable[[int], None] | None = None,
) -> Iterator[Contact]:
    """Contacts from the octets of a jCard file (UTF-8, RFC 8259), in chunks of any size.

    People and values read are counted in `tally`; what is no jCard is set aside there. Raises
    `SourceError` where the text is no JSON.
    """
    record = 0
    for line, found in _values(chunks):
        record += 1
        if on_record is not None:
            on_record(record)
        try:
            contact = _contact(found, pack(source, record))
        except (ValueError, TypeError, IndexError, KeyError) as error:
            text = json.dumps(found, ensure_ascii=False)
            reason = f"not a jCard: {error}"
            tally.set_aside(SetAside(source, record, line, reason, text), _filled(found))
            continue
        size = contact.size()
        tally.people.read += 1
        tally.values.read += size
        if size:
            yield contact
        else:
            tally.people.blank += 1


def _values(chunks: Iterable[bytes]) -> Iterator[tuple[int, Any]]:
    """The JSON arrays in a stream, each with the line at which it begins.

    Brackets and commas around them are passed over, so that one array of many is many.
    """
    decoder = json.JSONDecoder()
    text = codecs.getincrementaldecoder("utf-8-sig")()  # drops a mark at the very beginning only
    held, line = "", 1
    pending = iter(chunks)
    more = True
    while more or held:
        octets = next(pending, None)
        more = octets is not None
        try:
            held += text.decode(octets or b"", final=not more)
        except UnicodeDecodeError:
            raise SourceError(f"line {line}: bytes that are not UTF-8") from None
        while True:
            skipped = _BETWEEN.match(held)
            begin = skipped.end() if skipped else 0
            at = held.rfind("[", 0, begin + 1)
            if begin >= len(held):
                # the last bracket may begin a jCard of which no more is here yet
                keep = max(held.rfind("["), 0) if more and "[" in held else len(held)
                line += held.count("\n", 0, keep)
                held = held[keep:]
                break
            if at < 0:
                shown = "".join(char for char in held[begin:][:20] if char.isprintable())
                raise SourceError(f"line {line}: no jCard begins here, found '{shown}'")
            try:
                found, end = decoder.raw_decode(held, at)
            except ValueError as error:
                if more:
                    break
                raise SourceError(f"line {line}: this is not JSON: {error}") from None
            except RecursionError:
                raise SourceError(f"line {line}: nested too deeply") from None
            line += held.count("\n", 0, at)
            yield line, found
            line += held.count("\n", at, end)
            held = held[end:]
        if not more and not held:
            return


def _contact(found: Any, base: int) -> Contact:
    """The contact of one jCard. Raises `ValueError` where it is none."""
    if not isinstance(found, list) or len(found) < 2 or str(found[0]).lower() != "vcard":
        raise ValueError('it does not begin with "vcard"')
    props = []
    for number, each in enumerate(found[1], 1):
        if not isinstance(each, list) or len(each) < 4:
            raise ValueError(f"property {number} has fewer than four elements")
        name = str(each[0]).lower()
        if name in ("version", "begin", "end"):
            continue
        prop = _property(name, each, base + number * PLACE_STEP)
        if prop.raw is not None or any(_texts(prop.value)) or prop.head.field.kind == "parts":
            props.append(prop)
    props = settle(props)
    return Contact(props, base)


def _property(name: str, each: list[Any], origin: int) -> Property:
    group, params = "", []
    for key, said in dict(each[1]).items():
        texts = tuple(str(text) for text in (said if isinstance(said, list) else [said]))
        if key.lower() == "group":
            group = texts[0]
        else:
            params.append((key.lower(), texts))
    field = field_of(name)
    made = head(name, tuple(params), group)
    if not field.counts or (name == "fn" and made.derived):
        origin |= RIDES
    values = each[3:]
    if field.kind == "raw":
        texts = tuple(_plain(value) for value in values)
        known = each[2] == "unknown"
        raw = texts[0] if known else ",".join(escape(text) for text in texts)
        return Property(Head(name, tuple(params), group), None, origin, raw)
    value: Value
    if field.kind == "parts":
        parts = values[0] if isinstance(values[0], list) else [values[0]]
        value = tuple(_component(part) for part in parts)
    elif field.kind == "list":
        value = tuple(_plain(text) for text in values)
    else:
        value = _plain(values[0])
    return Property(made, value, origin)


def _component(part: Any) -> Component:
    return tuple(_plain(text) for text in part) if isinstance(part, list) else _plain(part)


def _plain(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list | dict):
        raise ValueError("a list where text is expected")
    return "" if value is None else str(value)


def _texts(value: Value) -> Iterator[str]:
    for part in (value,) if isinstance(value, str) else value:
        yield from (part,) if isinstance(part, str) else part


def _filled(found: Any) -> int:
    """How many properties a bad record seems to hold."""
    inner = found[1] if isinstance(found, list) and len(found) > 1 else []
    return sum(1 for each in inner if isinstance(each, list)) if isinstance(inner, list) else 0


class JCardWriter:
    """Writes contacts one after another as an array of jCards."""

    opening, closing = "[\n", "\n]\n"

    def __init__(self, tally: Tally) -> None:
        self.tally = tally
        self._first = True

    def restart(self) -> None:
        """Begin another file."""
        self._first = True

    def encode(self, contact: Contact) -> str:
        """One jCard, with the comma that parts it from the one before."""
        tally = self.tally
        made: list[list[Any]] = [["version", {}, "text", "4.0"]]
        written = 0
        if contact.first("fn") is None:
            said, made_from = formatted_name(contact)
            made.append(["fn", {"derived": "true"}, "text", said])
            tally.count(name_from(made_from), 1)
            written += 1
        texts = paired(contact.properties)
        addresses = {address: text for text, address in texts.items()}
        for at, prop in enumerate(contact.properties):
            element, count = _element(prop)
            if at in addresses:  # RFC 6350 section 6.3.1
                element[1]["label"] = contact.properties[addresses[at]].text
            if at not in texts:
                made.append(element)
            if prop.size():
                written += count
                tally.place(prop, _URI_LOST if says_more(prop) else None)
        tally.people.carried += 1
        tally.people.written += 1
        tally.values.written += written
        before, self._first = "" if self._first else ",\n", False
        return before + json.dumps(["vcard", made], ensure_ascii=False, separators=(",", ":"))


def _element(prop: Property) -> tuple[list[Any], int]:
    """A property as jCard has it (RFC 7095 section 3.3), and how many values it holds."""
    field, value = prop.head.field, prop.value
    params = _params(prop.head.params, prop.head.group)
    name = prop.head.name
    if field.kind == "raw":
        raw = prop.raw if prop.raw is not None and not prop.head.coded else prop.text
        return [name, params, "unknown", raw], 1 if raw and not raw.isspace() else 0
    if isinstance(value, str):
        if name == "label":
            return ["adr", params | {"label": value}, "text", [""] * _ADR_SIZE], 1 if value else 0
        return [name, params, _type(field.kind, value), value], 1 if value else 0
    count = sum(1 for text in _texts(value) if text)
    if field.kind == "list":
        return [name, params, "text", *value], count
    if name == CUSTOM:
        count -= 1 if value[0] else 0
    return [name, params, "text", [list(p) if isinstance(p, tuple) else p for p in value]], count


def _params(params: Params, group: str) -> dict[str, Any]:
    told: dict[str, Any] = {}
    for key, values in params:
        before = told.get(key, [])
        every = [*(before if isinstance(before, list) else [before]), *values]
        told[key] = every[0] if len(every) == 1 else every
    return told | ({"group": group} if group else {})


def _type(kind: str, value: str) -> str:
    """The type of a value, as RFC 7095 section 3.5 names them."""
    if kind == "date":
        return "date-and-or-time" if parse_iso(value) else "text"
    if kind in ("uri", "geo", "media"):
        return "uri" if is_uri(value) else "text"
    return "text"
