"""How the raw text of each kind of value is read, and how each version writes it.

Readers turn raw text into the form that the table of fields promises, the same for all versions;
writers turn that form into the text of one version, with the parameters that it needs there.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import NamedTuple

from roundcard.card.fields import CUSTOM
from roundcard.card.head import Params, Value
from roundcard.formats.vcard.property_heads import exact_params
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
from roundcard.patterns import pattern
from roundcard.values.dates import extended_time, parse_iso

_URI = pattern(r"[A-Za-z][A-Za-z0-9+.-]*:\S+")
_OVER_ESCAPED = pattern(r"\\([:,;\\])")
_TEL = pattern(r"tel:[+0-9(*#]", re.IGNORECASE)
DATA = pattern(r"data:([^;,]*)((?:;[^;,]+)*?);base64,", re.IGNORECASE)
_TWO_NUMBERS = pattern(r"\s*([+-]?\d+(?:\.\d*)?)\s*[;,]\s*([+-]?\d+(?:\.\d*)?)\s*", re.ASCII)
_GEO = pattern(
    r"geo:([+-]?\d+(?:\.\d*)?),([+-]?\d+(?:\.\d*)?)((?:,[+-]?\d+(?:\.\d*)?)?(?:;[^\s;]+)*)",
    re.ASCII | re.IGNORECASE,
)
_TIME_ALONE = pattern(r"T\d\d(?::?[0-5]\d(?::?[0-5]\d)?)?(?:Z|[+-]\d\d(?::?\d\d)?)?", re.ASCII)
"""RFC 6350 section 4.3.4, where a date and time is in part not known."""
_WHOLE_TIME = pattern(r"T\d\d:\d\d:\d\d(?:Z|[+-]\d\d:\d\d)?", re.ASCII)
"""What vCard 3.0 takes behind a date (RFC 2426 section 4)."""
_STAND_IN = "1604"
"""A year in which every day of the others is found, long before anybody in an address book."""
_OFFSET_PARTS = pattern(r"([+-]\d\d):?(\d\d)?", re.ASCII)
_OFFSET = pattern(r"[+-]\d\d:?(?:\d\d)?|Z")
STAMPS = frozenset({"rev", "created"})
"""Properties that hold a point in time."""
_STAMP = pattern(
    r"(\d{4})-?(\d\d)-?(\d\d)T(\d\d):?(\d\d):?(\d\d)(Z|[+-]\d\d(?::?\d\d)?)?", re.ASCII
)
_EXTENDED_STAMP = pattern(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(Z|[+-]\d\d(:?\d\d)?)?", re.ASCII)
_DAY = pattern(r"\d{4}-\d\d-\d\d", re.ASCII)
BASE64 = pattern(r"[A-Za-z0-9+/]*={0,2}")
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
    if name == "tz":
        return read_timezone
    if kind == "text":
        return unescape
    if kind == "list":
        return read_list
    if kind == "parts":
        return read_inner_parts if name in ("n", "adr") else read_parts
    if kind == "phone":
        return read_phone
    if kind == "date":
        return year_left_out(read_date, params)
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


def is_tel(raw: str) -> bool:
    """Whether the raw text of a number is a ``tel:`` URI (RFC 3966)."""
    return bool(_TEL.match(raw))


def tel_uri(raw: str) -> str:
    """The plain ``tel:`` URI that a number stands for, written by `write_head` and its like."""
    number, there, extension = unescape(raw).partition(" ext. ")
    return f"tel:{number}" + (f";ext={extension}" if there else "")


def read_date(raw: str) -> str:
    """A date, or a time alone, in ISO 8601 extended form as far as it is known; other text as it
    is."""
    found = parse_iso(raw)
    if found is None and _TIME_ALONE.fullmatch(raw):
        return extended_time(raw)
    return found.iso() if found else unescape(raw)


def year_left_out(read: Callable[[str], Value], params: Params) -> Callable[[str], Value]:
    """A reader of dates that leaves off a year which a parameter says only stands there because
    vCard 3.0 wants one."""
    year = next((values[0] for key, values in params if key.endswith("omit-year") and values), "")

    def shorter(raw: str) -> Value:
        text = read(raw)
        left = isinstance(text, str) and year and text.startswith(f"{year}-") and len(text) == 10
        return f"-{str(text)[4:]}" if left else text

    return shorter if year else read


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


class Position(NamedTuple):
    """What a ``geo:`` URI says (RFC 5870 section 3.3), its numbers as they stand there."""

    latitude: str
    longitude: str
    more: str
    """Altitude, system, uncertainty."""


def position(text: str) -> Position | None:
    """The numbers in a ``geo:`` URI; None for what is none."""
    found = _GEO.fullmatch(text)
    return Position(found[1], found[2], found[3]) if found else None


def read_geo(raw: str) -> str:
    """A position as a ``geo:`` URI (RFC 5870), from that or from 3.0's two numbers; other text as
    it is."""
    if raw[:4].lower() == "geo:":
        return read_uri(raw)
    text = unescape(raw)
    found = _TWO_NUMBERS.fullmatch(text)
    return f"geo:{found[1]},{found[2]}" if found else text


def read_geo_21(raw: str) -> str:
    """A position of 2.1, where the longitude comes first (versit 1996, section 2.3.2)."""
    text = unescape_21(raw)
    found = _TWO_NUMBERS.fullmatch(text)
    return f"geo:{found[2]},{found[1]}" if found else text


def read_timezone(raw: str) -> str:
    """An offset from UTC in extended form; other text as it is."""
    text = unescape(raw)
    found = _OFFSET_PARTS.fullmatch(text)
    return f"{found[1]}:{found[2] or '00'}" if found else text


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
        if date is None and _TIME_ALONE.fullmatch(text):
            return text.replace(":", ""), ()
        return (date.basic(), ()) if date else (escape(text), _TEXT)
    if date is None or not (date.month and date.day):
        return None
    if not date.year:  # other programs read a whole date only; ours leaves the year off again
        stands = (("X-ROUNDCARD-OMIT-YEAR", (_STAND_IN,)),)
        return (_STAND_IN + date.iso()[1:], stands) if not date.time else None
    if date.time and not _WHOLE_TIME.fullmatch(date.time):
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
    """A position: a URI in 4.0, two numbers in 3.0 (RFC 2426 section 3.4.2), and the URI beside
    them where it says more; other text is marked as such."""
    found = position(text)
    if version == "4.0":
        return (text, ()) if found or is_uri(text) else (escape(text), _TEXT)
    if found is None:
        return escape(text), _TEXT
    whole = f"geo:{found.latitude},{found.longitude}"
    return f"{found.latitude};{found.longitude}", exact_params(text if text != whole else "")


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
    if len(data) % 4 or not BASE64.fullmatch(data):
        return None
    kind = found[1].partition("/")[2].upper()
    types: Params = (("TYPE", (kind,)),) if kind and kind != "OCTET-STREAM" else ()
    return data, (("ENCODING", ("b",)), *types)


def write_timezone(text: str, version: str) -> Written:
    """A time zone: text in 4.0, an offset from UTC in 3.0, the other kind marked. An offset is in
    basic form in 4.0 (RFC 6350 section 4.7), in extended form in 3.0 (RFC 2426 section 4)."""
    offset = is_offset(text)
    written = text.replace(":", "") if offset and version == "4.0" else escape(text)
    if offset == (version == "3.0"):
        return written, ()
    return written, ((("VALUE", ("utc-offset",)),) if offset else _TEXT)


def is_offset(text: str) -> bool:
    """Whether text is an offset from UTC."""
    return bool(_OFFSET.fullmatch(text))
