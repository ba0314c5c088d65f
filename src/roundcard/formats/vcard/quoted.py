"""Quoted-printable and base64 as vCard 2.1 holds them (versit 1996, section 2.1.5; RFC 2045).

A quoted-printable value goes on over a line that ends in ``=``, whatever the next line starts
with; base64 goes on until a blank line or, in practice, until a line that looks like a property.
"""

from __future__ import annotations

import base64
import binascii
import re
from collections.abc import Callable, Iterator

from roundcard.card.head import Params, Value
from roundcard.tally import Fate, Reason, Why

_PROPERTY = re.compile(rb"[A-Za-z][A-Za-z0-9.-]*[;:]")
_QUOTED = re.compile(rb"^[^:]*;\s*(ENCODING=)?QUOTED-PRINTABLE", re.IGNORECASE)
_BASE64 = re.compile(rb"^[^:]*;\s*(ENCODING=)?BASE64", re.IGNORECASE)


def soft_lines(lines: list[bytes]) -> Iterator[tuple[int, bytes]]:
    """Logical lines, each with the index of its first physical line; see the module."""
    held: list[bytes] = []
    first = 0
    mode = ""
    for index, line in enumerate(lines):
        stripped = line.rstrip(b"\r\n")
        if mode == "quoted" and held[-1].rstrip(b" \t").endswith(b"="):  # RFC 2045 6.7 rule 3
            held[-1] = held[-1].rstrip(b" \t")[:-1]
            held.append(stripped)
            continue
        if mode == "base64" and stripped and not _PROPERTY.match(stripped):
            held.append(stripped.strip())
            continue
        if line[:1] in (b" ", b"\t") and held:
            held.append(stripped[1:])
            continue
        if held:
            yield first, b"".join(held)
        held, first = [stripped] if stripped else [], index
        mode = "quoted" if _QUOTED.match(stripped) else "base64" if _BASE64.match(stripped) else ""
    if held:
        yield first, b"".join(held)


def is_coded(params: Params, *, text: bool) -> bool:
    """Whether parameters say that a value is quoted-printable, or `text` in base64."""
    said = _encoding(params)
    return "quoted-printable" in said or (text and said in _BASE64_SAID)


def _encoding(params: Params) -> str:
    return next((" ".join(values).lower() for key, values in params if key == "encoding"), "")


_BASE64_SAID = ("b", "base64")


def without_encoding(
    decode: Callable[[str], Value] | None, params: Params
) -> Callable[[str], Value]:
    """`decode`, with the encoding and the character set that `params` name undone first."""

    def both(raw: str) -> Value:
        text = _decoded(raw, params)[0]
        return decode(text) if decode else text

    return both


def wrong_bytes(charset: str) -> Reason:
    """Why bytes were read otherwise than their character set says."""
    return Reason(Fate.CHANGED, Why.BYTES_REPAIRED, details=(charset,))


def doubt(raw: str, params: Params) -> Reason | None:
    """How an encoded value had to be repaired; None where it is what it says."""
    return _decoded(raw, params)[1]


def _decoded(raw: str, params: Params) -> tuple[str, Reason | None]:
    """The text, and the repair it needed."""
    charset = dict(params).get("charset", ("utf-8",))[0]
    repair = None
    try:
        "a".encode(charset)
    except (LookupError, ValueError):
        repair = Reason(Fate.CHANGED, Why.CHARSET_UNKNOWN, details=(charset[:30],))
        charset = "utf-8"
    if _encoding(params) in _BASE64_SAID:
        try:
            octets = base64.b64decode("".join(raw.split()), validate=True)
        except ValueError:
            return raw, Reason(Fate.CHANGED, Why.NOT_BASE64)
    else:
        octets = binascii.a2b_qp(raw.encode("utf-8"))
    try:
        text = octets.decode(charset)
    except ValueError:
        repair = wrong_bytes(charset)
        try:
            text = octets.decode("windows-1252")
        except UnicodeDecodeError:
            text = octets.decode("latin-1")  # says something of every byte
    return text.replace("\r\n", "\n"), repair
