"""Writing vCard 2.1 (versit consortium, 1996), which has few words.

Bare types, quoted-printable for what is not plain ASCII, base64 with a blank line after it. What
2.1 cannot say rides along where no reader stumbles over it, as words of hexadecimal digits: all the
parameters in the words of 4.0 (``X-ROUNDCARD-PARAMS``), the value in the spelling of 4.0
(``X-ROUNDCARD-EXACT``). A property that 2.1 does not define gets an extension's name.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from roundcard.card.contact import Property, flat
from roundcard.card.fields import CUSTOM, LEAST_PARTS
from roundcard.card.head import Head, Value
from roundcard.formats.vcard.lines import demand_one_line
from roundcard.formats.vcard.property_heads import OURS, exact_param, tel_params, write_head
from roundcard.formats.vcard.syntax import escape, unescape, write_list, write_parts
from roundcard.formats.vcard.values import BASE64, DATA, is_tel, is_uri, position
from roundcard.values.dates import parse_iso

UNKNOWN = OURS + "AS-"
"""Begins the name of a property that nobody knows and that is no ``X-`` word."""
_TYPES = frozenset({
    "dom", "intl", "postal", "parcel", "home", "work", "pref", "voice", "fax", "msg", "cell",
    "pager", "bbs", "modem", "car", "isdn", "video", "internet", "x400", "aol", "applelink",
    "attmail", "cis", "eworld", "ibmmail", "mcimail", "powershare", "prodigy", "tlx",
})  # fmt: skip
"""The types of versit 1996, section 2.4, that no picture has."""
_URIS = frozenset({"uri", "geo", "media"})
_WIDTH = 76
_MARKS = frozenset("BEbe")
_SAFE = re.compile(r"[!-<>-~ ]*[!-<>-~]|")
"""ASCII that quoted-printable need not touch, with no space at the end (RFC 2045 section 6.7)."""


def encoder(head: Head, *, again: bool = False) -> Callable[[Property], tuple[str, int]]:
    """The function that writes properties with this head: physical lines, and values written.

    With `again` under an extension's name, since the card has one such property already.
    """
    name = head.name.upper()
    kept: list[str] = []
    full = not _plain_params(head, kept)
    params = "".join(f";{word}" for word in kept)
    if full:
        text = write_head(head, "4.0", name="X").partition(";")[2]
        params += f";{OURS}PARAMS={text.encode('utf-8').hex().upper()}"
    known = "2.1" in head.field.versions and not again
    if not head.field.versions:
        came = head.text.partition(";")[0].rpartition(".")[2].strip() or name
        name = came if came.upper().startswith("X-") else UNKNOWN + came
    elif not known and head.name != CUSTOM:
        name = OURS + name
    if head.group:
        name = f"{head.group}.{name}"

    def write(prop: Property) -> tuple[str, int]:
        raw, count = exact(prop)
        if head.field.kind == "raw" and "\\n" in raw.lower():  # 2.1 knows no such escape
            whole = "" if head.coded else exact_param(raw)
            return line(name + params + whole, _lines_of(prop)), count
        if not known:
            return line(name + params, raw), count
        if head.field.kind == "media":
            return _media(name, params, prop.text), count
        plain = _plain_value(prop)
        if plain is None and head.field.kind == "date":
            return line(OURS + name + params, raw), count
        if plain is None:
            plain = _nearly(prop)
            return line(name + params + exact_param(raw), plain), count
        if head.field.kind == "phone" and prop.raw and is_tel(prop.raw) and not head.coded:
            whole = "".join(f";{key}={said[0]}" for key, said in tel_params(prop.raw or "", plain))
            return line(name + params + whole, plain), count
        return line(name + params, plain), count

    return write


def _plain_params(head: Head, kept: list[str]) -> bool:
    """Put the parameters that 2.1 knows into `kept`; whether there are no others."""
    whole = True
    for key, values in head.params:
        if key == "type" and head.field.versions:
            kept += [value.upper() for value in values if value in _TYPES]
            whole &= all(value in _TYPES for value in values)
        elif key == "pref" and values == ("1",):
            kept.append("PREF")
        else:
            whole = False
    return whole


def exact(prop: Property) -> tuple[str, int]:
    """The value in the spelling of 4.0, and how many values it holds."""
    if prop.head.field.kind == "raw" and prop.raw is not None and not prop.head.coded:
        return prop.raw, 1 if prop.raw and not prop.raw.isspace() else 0
    if prop.head.field.kind == "raw":
        return prop.text.replace("\n", "\\n"), 1 if prop.text else 0
    value: Value = prop.value
    if isinstance(value, str):
        uri = prop.head.field.kind in _URIS and is_uri(value)
        return value if uri else escape(value), 1 if value else 0
    if prop.head.field.kind == "list":
        return write_list(value)
    raw, count = write_parts(value, LEAST_PARTS.get(prop.head.name, 0))
    return raw, count - 1 if prop.head.name == CUSTOM and value[0] else count


def _plain_value(prop: Property) -> str | None:
    """The value as 2.1 says it; None where it cannot say all of it."""
    value, kind = prop.value, prop.head.field.kind
    if not isinstance(value, str):
        simple = all(isinstance(part, str) and "\\" not in part for part in value)
        most = LEAST_PARTS.get(prop.head.name, len(value))
        return _nearly(prop) if simple and not any(value[most:]) else None
    if "\\" in value:
        return None
    if kind == "date":
        date = parse_iso(value)
        whole = date is not None and date.year and date.month and date.day
        return value if whole else None
    if kind == "geo":
        numbers = position(value)
        return _geo(value) if numbers is None or not numbers.more else None
    return value


def _nearly(prop: Property) -> str:
    """The value as near as 2.1 comes: one text a component, only semicolons escaped."""
    value = prop.value
    if isinstance(value, str):
        return _geo(value) or value if prop.head.field.kind == "geo" else value
    most = LEAST_PARTS.get(prop.head.name, len(value))
    texts = [",".join(flat((part,))).replace(";", "\\;") for part in value[:most]]
    texts += [""] * (LEAST_PARTS.get(prop.head.name, 0) - len(texts))
    return ";".join(texts)


def _geo(text: str) -> str | None:
    """A position as longitude, latitude (versit 1996, section 2.3.2)."""
    numbers = position(text)
    return f"{numbers.longitude},{numbers.latitude}" if numbers is not None else None


def _lines_of(prop: Property) -> str:
    """Undecoded text of a property that nobody knows, with its line breaks."""
    return prop.text if prop.head.coded or prop.raw is None else unescape(prop.raw)


def _media(name: str, params: str, text: str) -> str:
    """A picture inline, in lines of base64 that end with a blank one; or where it lies."""
    found = DATA.match(text)
    if found and not BASE64.fullmatch(text, found.end()):
        return line(OURS + name + params, text)
    if not found:
        kind = ";VALUE=URL" if is_uri(text) else ""
        return line(name + params + kind, text)
    family = found[1].partition("/")[2].upper()
    said = f";TYPE={family}" if family and family != "OCTET-STREAM" else ""
    data = text[found.end() :]
    lines = [data[at : at + _WIDTH - 2] for at in range(0, len(data), _WIDTH - 2)]
    return f"{name}{params};ENCODING=BASE64{said}:\r\n " + "\r\n ".join(lines) + "\r\n"


def line(head: str, text: str) -> str:
    """A property on one line where it is short and plain, else in quoted-printable.

    A long parameter of ours is no reason to encode what is plain.
    """
    demand_one_line(head)
    length = len(head.partition(f";{OURS}")[0]) + len(text)
    if _SAFE.fullmatch(text.replace("=", "")) and length < _WIDTH:
        return f"{head}:{text}"
    head += ";CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:"
    octets = text.replace("\r\n", "\n").replace("\n", "\r\n").encode("utf-8")
    pieces = [head]
    room = _WIDTH - 1 - len(head)
    last = len(octets) - 1
    for at, octet in enumerate(octets):
        plain = 33 <= octet <= 126 and octet != 61
        plain |= octet in (9, 32) and at != last
        token = chr(octet) if plain else f"={octet:02X}"
        if room < len(token):
            pieces.append("=\r\n")
            room = _WIDTH - 1
            if token in _MARKS:  # or the line might say BEGIN:VCARD, or END
                token = f"={octet:02X}"
        pieces.append(token)
        room -= len(token)
    return "".join(pieces)
