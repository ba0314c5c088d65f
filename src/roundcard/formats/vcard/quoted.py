"""Quoted-printable and base64 as vCard 2.1 holds them (versit 1996, section 2.1.5; RFC 2045).

A quoted-printable value goes on over a line that ends in ``=``, whatever the next line starts
with; base64 goes on until a blank line or, in practice, until a line that looks like a property.
"""

from __future__ import annotations

import binascii
import codecs
import re
from collections.abc import Callable, Iterator

from roundcard.card.head import Params, Value

_PROPERTY = re.compile(rb"[A-Za-z][A-Za-z0-9.-]*[;:]")
_QUOTED = re.compile(rb"^[^:]*;\s*(ENCODING=)?QUOTED-PRINTABLE", re.IGNORECASE)
_BASE64 = re.compile(rb"^[^:]*;\s*(ENCODING=)?BASE64", re.IGNORECASE)


def soft_lines(lines: list[bytes]) -> Iterator[tuple[int, bytes]]:
    """Logical lines, each with the index of its first physical line; see the module."""
    held, first = b"", 0
    mode = ""
    for index, line in enumerate(lines):
        stripped = line.rstrip(b"\r\n")
        if mode == "quoted" and held.endswith(b"="):
            held = held[:-1] + stripped
            continue
        if mode == "base64" and stripped and not _PROPERTY.match(stripped):
            held += stripped.strip()
            continue
        if line[:1] in (b" ", b"\t") and held:
            held += stripped[1:]
            continue
        if held:
            yield first, held
        held, first = stripped, index
        mode = "quoted" if _QUOTED.match(held) else "base64" if _BASE64.match(held) else ""
    if held:
        yield first, held


def is_quoted(params: Params) -> bool:
    """Whether parameters say that a value is quoted-printable."""
    return any(key == "encoding" and "quoted-printable" in " ".join(values).lower()
               for key, values in params)  # fmt: skip


def without_encoding(
    decode: Callable[[str], Value] | None, params: Params
) -> Callable[[str], Value]:
    """`decode`, with quoted-printable and the character set that `params` name undone first."""
    said = dict(params)
    charset = said.get("charset", ("utf-8",))[0]
    try:
        codecs.lookup(charset)
    except LookupError:
        charset = "utf-8"

    def both(raw: str) -> Value:
        octets = binascii.a2b_qp(raw.encode("utf-8"))
        try:
            text = octets.decode(charset)
        except UnicodeDecodeError:
            text = octets.decode("latin-1")  # says something of every byte
        text = text.replace("\r\n", "\n")
        return decode(text) if decode else text

    return both
