"""From bytes to cards of logical lines, and from logical lines back to folded ones.

RFC 6350 section 3.2: a line break before a space or tab is removed together with that one
character. Bytes are unfolded before they are decoded, since sloppy writers fold inside a UTF-8
sequence.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

BEGIN, END = b"BEGIN:VCARD", b"END:VCARD"
_FOLDS = (b" ", b"\t")
_FOLD_AT = 75
"""Octets on a line, the break not counted (RFC 6350 section 3.2)."""


class RawCard(NamedTuple):
    """The physical lines of one card, BEGIN and END left off, or of text that is in no card."""

    first_line: int
    """Number in the file of the first of `lines`, from 1."""
    lines: list[bytes]
    inside: bool
    """False for text that stands in no card."""
    ended: bool
    """Whether END:VCARD was there."""


def cards(lines: Iterable[bytes]) -> Iterator[RawCard]:
    """Cut a file into cards, in order.

    A card within a card belongs to the outer one where an AGENT line leads to it (vCard 2.1);
    elsewhere a new BEGIN ends a card whose END is missing.
    """
    held: list[bytes] = []
    first, depth = 1, 0
    for number, line in enumerate(lines, 1):
        start = line[:1]
        if start in b"BbEe \t\xef" and start:
            mark = line.strip().removeprefix(b"\xef\xbb\xbf").upper()
            if mark == BEGIN and depth and not _leads_to_agent(held):
                yield RawCard(first, held, True, False)
                held, first, depth = [], number + 1, 1
                continue
            if mark == BEGIN:
                depth += 1
                if depth == 1:
                    if held:
                        yield RawCard(first, held, False, True)
                    held, first = [], number + 1
                    continue
            elif mark == END and depth:
                depth -= 1
                if depth == 0:
                    yield RawCard(first, held, True, True)
                    held, first = [], number + 1
                    continue
        if depth == 0:
            if not line.strip(b"\xef\xbb\xbf \t\r\n\x1a\x00"):
                continue
            if not held:
                first = number
        held.append(line)
    if held or depth:
        yield RawCard(first, held, depth > 0, depth == 0)


def _leads_to_agent(held: list[bytes]) -> bool:
    last = next((line for line in reversed(held) if line.strip()), b"")
    return last.strip().upper().startswith(b"AGENT") or b"AGENT:" in last.upper()


def unfold(lines: list[bytes]) -> Iterator[tuple[int, bytes]]:
    """Logical lines without their breaks, each with the index of its first physical line."""
    held, first = b"", 0
    for index, line in enumerate(lines):
        stripped = line.rstrip(b"\r\n")
        if line[:1] in _FOLDS and held:
            held += stripped[1:]
            continue
        if held:
            yield first, held
        held, first = stripped, index
    if held:
        yield first, held


def fold(line: str) -> str:
    """A logical line folded at 75 octets of UTF-8, never inside a character; no final break."""
    if line.isascii():
        if len(line) <= _FOLD_AT:
            return line
        rest = range(_FOLD_AT, len(line), _FOLD_AT - 1)
        pieces = [line[:_FOLD_AT], *(line[at : at + _FOLD_AT - 1] for at in rest)]
        return "\r\n ".join(pieces)
    octets = line.encode("utf-8")
    pieces = []
    room = _FOLD_AT
    begin = 0
    while len(octets) - begin > room:
        end = begin + room
        while octets[end] & 0xC0 == 0x80:  # inside a sequence
            end -= 1
        pieces.append(octets[begin:end])
        begin, room = end, _FOLD_AT - 1
    pieces.append(octets[begin:])
    return b"\r\n ".join(pieces).decode("utf-8")
