"""How the raw text of each kind of value is read, and how each version writes it.

Readers turn raw text into the form that the table of fields promises, the same for all versions;
writers turn that form into the text of one version, with the parameters that it needs there.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from roundcard.card.fields import CUSTOM
from roundcard.card.head import Params, Value
from roundcard.formats.vcard.syntax import (
    escape,
    read_inner_parts,
    read_list,
    read_parts,
    read_parts_21,
    split,
    unescape,
    unescape_21,
)
from roundcard.values.dates import parse_iso

_URI = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:\S+")
_OVER_ESCAPED = re.compile(r"\\([:,;\\])")
_TEL = re.compile(r"tel:[+0-9(*#]", re.IGNORECASE)
DATA = re.compile(r"data:([^;,]*)((?:;[^;,]+)*?);base64,", re.IGNORECASE)
_OFFSET = re.compile(r"[+-]\d\d:?(?:\d\d)?|Z")
STAMPS = frozenset({"rev", "created"})
"""Properties that hold a point in time."""
_STAMP = re.compile(
    r"(\d{4})-?(\d\d)-?(\d\d)T(\d\d):?(\d\d):?(\d\d)(Z|[+-]\d\d(?::?\d\d)?)?", re.ASCII
)
_EXTENDED_STAMP = re.compile(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(Z|[+-]\d\d(:?\d\d)?)?", re.ASCII)
_DAY = re.compile(r"\d{4}-\d\d-\d\d", re.ASCII)
_BASE64 = re.compile(r"[A-Za-z0-9+/]*={0,2}")
_PICTURES = (("/9j/", "image/jpeg"), ("iVBOR", "image/png"), ("R0lGOD", "image/gif"))
"""How base64 text of the common pictures begins."""


def reader_of(name: str, kind: str, version: str, params: Params) -> Callable[[str], Value] | None:
    """The function that decodes raw text of a known property; None where it stays raw.

    `params` are those of the file, before they were put into new words.
    """
    if name == CUSTOM:
        return read_custom
    if version == "2.1" and kind in ("text", "parts", "geo") and name not in STAMPS:
        return {"text": unescape_21, "parts": read_parts_21, "geo": read_geo_21}[kind]
    if name in STAMPS:
        return read_stamp
    if kind == "text":
        return unescape
    if kind == "list":
        return read_list
    if kind == "parts":
        return read_inner_parts if name in ("n", "adr") else read_parts
    if kind == "phone":
        return read_phone
    if kind == "date":
        return read_date
    if kind == "uri":
        return read_uri
    if kind == "geo":
        return read_geo
    if kind == "media":
        return media_reader(name, params)
    return None


def read_custom(raw: str) -> Value:
    """Label and text of a value that no standard field holds; what has no mark is all text."""
    label, *rest = split(raw, ";")
    text = unescape(";".join(rest))
    return (unescape(label), text) if text else ("", unescape(label))


def read_phone(raw: str) -> str:
    """A number as text; of a ``tel:`` URI (RFC 3966) the number, with ``ext. 12`` after it."""
    if not _TEL.match(raw):
        return unescape(raw)
    number, *params = raw[4:].split(";")
    extension = next((p[4:] for p in params if p.lower().startswith("ext=")), "")
    return f"{number} ext. {extension}" if extension else number


def read_date(raw: str) -> str:
    """A date in ISO 8601 extended form as far as it is known; other text as it is."""
    found = parse_iso(raw)
    return found.iso() if found else unescape(raw)


def read_stamp(raw: str) -> str:
    """A point in time in ISO 8601 extended form; other text as it is."""
    found = _STAMP.fullmatch(raw)
    if not found:
        return unescape(raw)
    year, month, day, hour, minute, second, zone = found.groups()
    return f"{year}-{month}-{day}T{hour}:{minute}:{second}{zone or ''}"


def read_uri(raw: str) -> str:
    """A URI; no backslash is ever part of one, so what is escaped was escaped too much."""
    if "\\" not in raw:
        return raw
    return _OVER_ESCAPED.sub(r"\1", raw) if _URI.match(raw) else unescape(raw)


def read_geo(raw: str) -> str:
    """A position as a ``geo:`` URI (RFC 5870), from that or from 3.0's two numbers."""
    if raw[:4].lower() == "geo:":
        return raw
    return "geo:" + unescape(raw).replace(";", ",").replace(" ", "")


def read_geo_21(raw: str) -> str:
    """A position of 2.1, where the longitude comes first (versit 1996, section 2.3.2)."""
    numbers = [number.strip() for number in raw.replace(";", ",").split(",")]
    return f"geo:{numbers[1]},{numbers[0]}" if len(numbers) == 2 else "geo:" + raw


def media_reader(name: str, params: Params) -> Callable[[str], Value]:
    """Reads a picture, sound or key into a URI: its own, or a ``data:`` one (RFC 2397).

    The base64 text is never decoded.
    """
    said = dict(params)
    encoding = said.get("encoding", ("",))[0].lower()
    kinds = [kind for kind in said.get("type", ()) if kind.lower() not in ("home", "work", "pref")]
    kind = kinds[0].lower() if kinds else ""

    def inline(raw: str) -> str:
        data = raw if " " not in raw and "\t" not in raw else "".join(raw.split())
        return f"data:{media_type(name, kind, data)};base64,{data}"

    return inline if encoding in ("b", "base64") else read_uri


def media_type(name: str, kind: str, data: str) -> str:
    """The media type of inline data: as said, or as the first octets tell."""
    if "/" in kind:
        return kind
    if not kind:
        return next(
            (t for stamp, t in _PICTURES if data.startswith(stamp)), "application/octet-stream"
        )
    family = {"sound": "audio", "key": "application"}.get(name, "image")
    return f"{family}/{'basic' if kind == 'basic' else kind}"


def is_uri(text: str) -> bool:
    """Whether text is a URI by its looks (RFC 3986 section 3)."""
    return bool(_URI.fullmatch(text))


Written = tuple[str, Params]
"""Raw text, and the parameters that it needs."""
_TEXT: Params = (("VALUE", ("text",)),)


def write_date(text: str, version: str) -> Written | None:
    """A date; None where the version cannot say it.

    4.0 takes any part of a date in basic form, and text (RFC 6350 section 6.2.5); 3.0 a whole
    date or date and time in extended form (RFC 2426 section 3.1.5).
    """
    date = parse_iso(text)
    if version == "4.0":
        return (date.basic(), ()) if date else (escape(text), _TEXT)
    if date is None or not (date.year and date.month and date.day):
        return None
    return date.iso(), ((("VALUE", ("date-time",)),) if date.time else ())


def write_stamp(text: str, version: str) -> Written | None:
    """A point in time; None where the version cannot say it.

    4.0 wants a whole one in basic form (RFC 6350 section 4.3.5), 3.0 takes a date too (RFC 2426
    section 3.6.4).
    """
    if version == "4.0":
        if not _EXTENDED_STAMP.fullmatch(text):
            return None
        date, _, time = text.partition("T")
        return f"{date.replace('-', '')}T{time.replace(':', '')}", ()
    return (text, ()) if _EXTENDED_STAMP.fullmatch(text) or _DAY.fullmatch(text) else None


def write_uri(name: str, text: str, version: str) -> Written:
    """A URI, or text marked as such where 4.0 expects a URI."""
    if is_uri(text):
        return text, ()
    expects_uri = version == "4.0" or name != "uid"
    return escape(text), (_TEXT if expects_uri else ())


def write_geo(text: str, version: str) -> Written:
    """A position: a URI in 4.0, two numbers in 3.0 (RFC 2426 section 3.4.2)."""
    if version == "4.0":
        return text, ()
    return text.removeprefix("geo:").partition(";")[0].replace(",", ";"), ()


def write_media(name: str, text: str, version: str) -> Written | None:
    """Inline data or a link: a URI in 4.0, base64 or ``VALUE=uri`` in 3.0; None where it is none of
    these."""
    if version == "4.0":
        return (text, ()) if is_uri(text) else (escape(text), _TEXT)
    found = DATA.match(text)
    if not found:
        if is_uri(text):
            return text, (("VALUE", ("uri",)),)
        return (escape(text), _TEXT) if name == "key" else None
    data = text[found.end() :]
    if len(data) % 4 or not _BASE64.fullmatch(data):
        return None
    kind = found[1].partition("/")[2].upper()
    types: Params = (("TYPE", (kind,)),) if kind and kind != "OCTET-STREAM" else ()
    return data, (("ENCODING", ("b",)), *types)


def write_timezone(text: str, version: str) -> Written:
    """A time zone: text in 4.0, an offset from UTC in 3.0, the other kind marked."""
    offset = bool(_OFFSET.fullmatch(text))
    if offset == (version == "3.0"):
        return escape(text), ()
    return escape(text), ((("VALUE", ("utc-offset",)),) if offset else _TEXT)
