r"""Escapes, lists and structured values of vCard text.

RFC 6350 section 3.4 and RFC 2426 section 4: ``\\ \, \; \n \N``. Files in the wild also escape
colons, and leave commas bare where a property takes no list. vCard 2.1 knows only ``\;``.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from roundcard.card.head import Component, Value

_ESCAPE = re.compile(r"\\([\\,;:nN\"])")
_ESCAPE_21 = re.compile(r"\\(;)")
_MEANING = {"n": "\n", "N": "\n"}
_NEEDS_ESCAPE = re.compile(r"[\\,;\n]")
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f]")
_BETWEEN = "\x1f"
_PRINTABLE = bytes(range(0x20, 0x7F))
_REPLACED = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]|\r(?!\n)")


def unescape(raw: str) -> str:
    """Text as it was meant; a backslash before anything else stands for itself."""
    if "\\" not in raw:
        return raw
    return _ESCAPE.sub(lambda found: _MEANING.get(found[1], found[1]), raw)


def unescape_21(raw: str) -> str:
    """Text of a vCard 2.1 value, where only the semicolon is escaped."""
    return _ESCAPE_21.sub(r"\1", raw) if "\\" in raw else raw


def escape(text: str) -> str:
    """Text as vCard 3.0 and 4.0 write it.

    White space of other kinds (carriage returns, form feeds) cannot stand in a value: what ends a
    line becomes a line break, other control characters a space.
    """
    if "\\" not in text and "," not in text and ";" not in text and text.isprintable():
        return text
    return _NEEDS_ESCAPE.sub(
        lambda found: "\\n" if found[0] == "\n" else "\\" + found[0], free_of_controls(text)
    )


def escaped(texts: Sequence[str]) -> list[str]:
    """`escape` of many texts at once, of which none `has_controls`."""
    together = _BETWEEN.join(texts)
    for mark in ("\\", ",", ";"):
        together = together.replace(mark, f"\\{mark}")
    return together.replace("\r\n", "\\n").replace("\n", "\\n").split(_BETWEEN)


def free_of_controls(text: str) -> str:
    """Text whose control characters are replaced, as `escape` says."""
    if text.isprintable() or not _CONTROL.search(text):
        return text
    return _CONTROL.sub(" ", re.sub(r"\r\n?|[\x0b\x0c\x1c-\x1e]", "\n", text))


def all_printable(text: str) -> bool:
    """``text.isprintable()``, asked of a long text; ASCII is told four times as fast by octets."""
    if text.isascii():
        return not text.encode("ascii").translate(None, _PRINTABLE)
    return text.isprintable()


def has_controls(text: str) -> bool:
    """Whether text holds characters that no value of a card may hold, so that they are replaced
    (RFC 6350 section 3.3)."""
    return not text.isprintable() and bool(_REPLACED.search(text))


def one_line(raw: str) -> str:
    """Undecoded text as it can stand on a line: breaks escaped, other controls made spaces."""
    if raw.isprintable():
        return raw
    raw = raw.replace("\r\n", "\n").replace("\r", "\n").replace("\n", "\\n")
    return _CONTROL.sub(" ", raw)


def split(raw: str, mark: str) -> list[str]:
    """`raw` cut at the marks that no backslash stands before; the pieces stay escaped."""
    if "\\" not in raw:
        return raw.split(mark)
    pieces, begin, at = [], 0, 0
    while (at := raw.find(mark, at)) >= 0:
        slashes = len(raw[:at]) - len(raw[:at].rstrip("\\"))
        if slashes % 2 == 0:
            pieces.append(raw[begin:at])
            begin = at + 1
        at += 1
    pieces.append(raw[begin:])
    return pieces


def read_list(raw: str) -> Value:
    """A value of several texts parted by commas."""
    return tuple([unescape(piece) for piece in split(raw, ",")])


def read_parts(raw: str) -> Value:
    """A structured value whose components hold one text each (ORG, GENDER).

    Files forget to escape the commas here, so a comma parts nothing.
    """
    return tuple([unescape(piece) for piece in split(raw, ";")])


def read_inner_parts(raw: str) -> Value:
    """A structured value whose components may hold several texts (N, ADR)."""
    if "\\" not in raw and "," not in raw:
        return tuple(raw.split(";"))
    return tuple([_component(piece) for piece in split(raw, ";")])


def read_parts_21(raw: str) -> Value:
    """A structured value of 2.1, where a comma parts nothing and only semicolons are escaped."""
    if "\\" not in raw:
        return tuple(raw.split(";"))
    return tuple([unescape_21(piece) for piece in split(raw, ";")])


def _component(piece: str) -> Component:
    if "," not in piece:
        return unescape(piece)
    inner = [unescape(text) for text in split(piece, ",")]
    return inner[0] if len(inner) == 1 else tuple(inner)


def write_list(value: Value) -> tuple[str, int]:
    """A list as vCard text, and how many values it holds."""
    texts = [value] if isinstance(value, str) else [str(text) for text in value]
    raw = ",".join(texts)
    if raw.count(",") == len(texts) - 1 and _plain(raw, ";"):
        return raw, len(texts) - texts.count("")
    return ",".join([escape(text) for text in texts]), sum(1 for text in texts if text)


def _plain(raw: str, mark: str) -> bool:
    """Whether joined text needs no escape, its own marks apart."""
    return "\\" not in raw and mark not in raw and raw.isprintable()


def write_parts(value: Value, least: int = 0) -> tuple[str, int]:
    """Components as vCard text with at least `least` of them, and how many values they hold."""
    if value.__class__ is tuple:
        try:
            raw = ";".join(value)  # type: ignore[arg-type]
        except TypeError:  # a component of several values
            pass
        else:
            if raw.count(";") == len(value) - 1 and _plain(raw, ","):
                return raw + ";" * (least - len(value)), len(value) - value.count("")
    count = 0
    pieces = []
    for component in (value,) if isinstance(value, str) else value:
        if not component:
            pieces.append("")
        elif isinstance(component, str):
            if (
                "\\" in component or "," in component or ";" in component
                or not component.isprintable()
            ):  # fmt: skip
                component = escape(component)
            pieces.append(component)
            count += 1
        else:
            pieces.append(",".join([escape(text) for text in component]))
            count += sum(1 for text in component if text)
    raw = ";".join(pieces)
    return raw + ";" * (least - len(pieces)), count
