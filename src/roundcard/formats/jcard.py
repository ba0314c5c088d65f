"""jCard (RFC 7095): contacts as JSON, the model's own mirror.

A file holds one jCard, an array of them, or one after another. Written is an array, one jCard a
line, so that a book can be streamed and its lines compared.
"""

from __future__ import annotations

import codecs
import json
import re
from collections.abc import Callable, Iterable, Iterator
from functools import lru_cache
from typing import Any

from roundcard.card.contact import Contact, Property
from roundcard.card.envelopes import paired
from roundcard.card.fields import CUSTOM, LEAST_PARTS, field_of
from roundcard.card.head import Component, Head, Params, Value, head
from roundcard.card.names import formatted_name
from roundcard.card.origin import PLACE_STEP, RIDES, pack
from roundcard.errors import SourceError
from roundcard.formats.vcard.property_heads import is_name
from roundcard.formats.vcard.reader import MOST_PARTS, settle
from roundcard.formats.vcard.syntax import escape, one_line, split, unescape
from roundcard.formats.vcard.values import (
    STAMPS,
    is_offset,
    is_tel,
    is_uri,
    read_date,
    read_phone,
    read_stamp,
    read_uri,
    write_date,
    write_stamp,
)
from roundcard.patterns import pattern
from roundcard.tally import Fate, Reason, SetAside, Tally, Why, changed_by, name_from

_BEGINS = re.compile(rb'[\s\[]*\[\s*"vcard"\s*,', re.IGNORECASE)
_BETWEEN = pattern(r"[\s,\[\]\x1e]*")
_ADR_SIZE = 7
_DAYS = frozenset({"date", "time", "date-time", "date-and-or-time", "timestamp"})
_WHOLE = pattern(r"-?\d+", re.ASCII)
_FLOAT = pattern(r"-?\d+\.\d+", re.ASCII)
_OURS_IN_TEXT = {"clientpidmap": "text", "xml": "text", "prodid": "text"}
"""Properties that the standard defines and whose text is kept as it came, with their types."""


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
    record = line = 0

    def aside(each: Any, reason: str) -> None:
        text = json.dumps(each, ensure_ascii=False)
        tally.set_aside(SetAside(source, record, line, reason, text), _filled_in(each), people=0)

    for line, found in _values(chunks):
        record += 1
        if on_record is not None:
            on_record(record)
        try:
            contact = _contact(found, pack(source, record), aside)
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


def _contact(found: Any, base: int, bad: Callable[[Any, str], None]) -> Contact:
    """The contact of one jCard; `bad` is told of a property that is none, and why. Raises
    `ValueError` where it is no jCard."""
    if not isinstance(found, list) or len(found) < 2 or str(found[0]).lower() != "vcard":
        raise ValueError('it does not begin with "vcard"')
    if not isinstance(found[1], list):
        raise ValueError("a list of properties is missing")
    props = []
    for number, each in enumerate(found[1], 1):
        try:
            name = _name_of(each)
            if name in ("version", "begin", "end"):
                continue
            prop = _property(name, each, base + number * PLACE_STEP)
        except (ValueError, TypeError) as error:
            bad(each, f"property {number}: {error}")
            continue
        if prop.raw is not None or any(_texts(prop.value)) or prop.head.field.kind == "parts":
            props.append(prop)
    props = settle(props)
    return Contact(props, base)


def _name_of(each: Any) -> str:
    """The name of a property. Raises `ValueError` where it has none, or fewer than four
    elements (RFC 7095 section 3.3)."""
    if not isinstance(each, list) or len(each) < 4:
        raise ValueError("it has fewer than four elements")
    name, params, kind = each[:3]
    if not isinstance(name, str) or not is_name(name):
        raise ValueError("its name is none by the standard")
    if not isinstance(params, dict) or not isinstance(kind, str):
        raise ValueError("its second element is an object, its third the name of a type")
    return name.lower()


def _property(name: str, each: list[Any], origin: int) -> Property:
    group, params = "", []
    lost = False
    for key, said in each[1].items():
        texts = tuple(_plain(text) for text in (said if isinstance(said, list) else [said]))
        if key.lower() != "group":
            params.append((key.lower(), texts))
        elif is_name(texts[0]):
            group = texts[0]
        else:
            lost = bool(texts[0])
    field, kind, values = field_of(name), each[2].lower(), each[3:]
    if lost:
        origin = changed_by(origin, Reason(Fate.CHANGED, Why.GROUP_NAME_LOST, field.path))
    if field.kind == "raw":
        if kind not in ("unknown", _OURS_IN_TEXT.get(name, "unknown")):
            params.append(("value", (kind,)))
        raw = one_line(_plain(values[0])) if kind == "unknown" else _raw(kind, values)
        return Property(Head(name, tuple(params), group), None, origin, raw)
    if field.kind == "phone" and kind == "uri" and is_uri(_plain(values[0])):
        raw = _plain(values[0])
        return Property(_uri_head(name, tuple(params), group), None, origin, raw)
    made = head(name, tuple(params), group)
    if not field.counts or (name == "fn" and made.derived):
        origin |= RIDES
    value: Value
    if field.kind == "parts":
        parts = values[0] if isinstance(values[0], list) else [values[0]]
        if len(parts) > MOST_PARTS:
            raise ValueError("a structured value of more parts than any has")
        value = tuple(_component(part) for part in parts)
    elif field.kind == "list":
        value = tuple(_plain(text) for text in values)
    else:
        value = _plain(values[0])
    return Property(made, value, origin)


@lru_cache(maxsize=4_096)
def _uri_head(name: str, params: Params, group: str) -> Head:
    """The head of a number that is a ``tel:`` URI, as the reader of cards makes it."""
    return Head(name, params, group, version="4.0", decode=read_phone,
                text=f"{name.upper()};VALUE=uri")  # fmt: skip


def _raw(kind: str, values: list[Any]) -> str:
    """The undecoded text, as vCard 4.0 spells it, of a property that the table does not know."""
    if kind == "uri":
        return ",".join(one_line(_plain(value)) for value in values)
    if kind in _DAYS:
        return ",".join(_basic(_plain(value)) for value in values)
    return ",".join(
        ";".join(
            ",".join(escape(_plain(text)) for text in (part if isinstance(part, list) else [part]))
            for part in (value if isinstance(value, list) else [value])
        )
        for value in values
    )


def _basic(text: str) -> str:
    """A date or time in the form of vCard 4.0 (RFC 7095 sections 3.5.3 to 3.5.7)."""
    written = write_stamp(text, "4.0") or write_date(text, "4.0")
    return written[0] if written is not None and not written[1] else escape(text)


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


def _filled_in(each: Any) -> int:
    """How many values a bad property seems to hold."""
    values = each[3:] if isinstance(each, list) else [each]
    return sum(1 for value in values if value not in ("", None, [], {}))


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
            if prop.head.name == "n" and not any(_texts(prop.value)):
                continue  # which older versions demand
            element, count = _element(prop)
            if at in addresses:  # RFC 6350 section 6.3.1
                element[1]["label"] = contact.properties[addresses[at]].text
            if at not in texts:
                made.append(element)
            if prop.size():
                written += count
                tally.place(prop)
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
        kind = str(params.pop("value", _OURS_IN_TEXT.get(name, "unknown"))).lower()
        if prop.raw is None or prop.head.coded:
            text = prop.text
            return [name, params, "text", text], 1 if text and not text.isspace() else 0
        raw = prop.raw
        return [name, params, kind, *_values_of(kind, raw)], 1 if raw and not raw.isspace() else 0
    params.pop("value", None)
    if isinstance(value, str):
        count = 1 if value else 0
        if name == "label":
            return ["adr", params | {"label": value}, "text", [""] * _ADR_SIZE], count
        if (
            prop.raw is not None
            and field.kind == "phone"
            and is_tel(prop.raw)
            and not (prop.head.coded)
        ):
            return [name, params, "uri", prop.raw], count
        return [name, params, _type(name, field.kind, value), value], count
    count = sum(1 for text in _texts(value) if text)
    if field.kind == "list":
        return [name, params, "text", *value], count
    if name == CUSTOM:
        count -= 1 if value[0] else 0
    parts = [list(part) if isinstance(part, tuple) else part for part in value]
    alone = len(parts) == 1 and name not in LEAST_PARTS
    return [name, params, "text", parts[0] if alone else parts], count


def _values_of(kind: str, raw: str) -> list[Any]:
    """The values in undecoded text of a type (RFC 7095 section 3.5)."""
    if kind == "unknown":
        return [raw]
    if kind in ("integer", "float", "boolean"):
        found = [_said_as(kind, text) for text in raw.split(",")]
        return found if None not in found else [raw]
    if kind == "uri":
        return [read_uri(raw)]
    if kind in _DAYS:
        return [read_stamp(text) if "T" in text else str(read_date(text))
                for text in split(raw, ",")]  # fmt: skip
    parts = split(raw, ";")
    if len(parts) > 1:
        return [[_inner(part) for part in parts]]
    return [unescape(text) for text in split(raw, ",")]


def _inner(part: str) -> str | list[str]:
    texts = [unescape(text) for text in split(part, ",")]
    return texts if len(texts) > 1 else texts[0]


def _said_as(kind: str, text: str) -> Any:
    """A number or a truth as JSON has it; None where it is none."""
    said = text.strip()
    if kind == "boolean":
        return {"true": True, "false": False}.get(said.lower())
    if _WHOLE.fullmatch(said) and str(int(said)) == said:
        return int(said)
    if kind == "float" and _FLOAT.fullmatch(said) and repr(float(said)) == said:
        return float(said)
    return None


def _params(params: Params, group: str) -> dict[str, Any]:
    told: dict[str, Any] = {}
    for key, values in params:
        before = told.get(key, [])
        every = [*(before if isinstance(before, list) else [before]), *values]
        told[key] = every[0] if len(every) == 1 else every
    return told | ({"group": group} if group else {})


def _type(name: str, kind: str, value: str) -> str:
    """The type of a value, as RFC 7095 section 3.5 names them."""
    if name in STAMPS:
        return "timestamp" if write_stamp(value, "4.0") else "text"
    if name == "tz":
        return "utc-offset" if is_offset(value) else "text"
    if name == "lang":
        return "language-tag"
    if kind == "date":
        written = write_date(value, "4.0")
        return "date-and-or-time" if written is not None and not written[1] else "text"
    if kind in ("uri", "geo", "media"):
        return "uri" if is_uri(value) else "text"
    return "text"
