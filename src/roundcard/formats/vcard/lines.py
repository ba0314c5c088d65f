"""From bytes to cards of logical lines, and from logical lines back to folded ones.

RFC 6350 section 3.2: a line break before a space or tab is removed together with that one
character. Bytes are unfolded before they are decoded, since sloppy writers fold inside a UTF-8
sequence.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from roundcard.patterns import pattern

BEGIN, END = b"BEGIN:VCARD", b"END:VCARD"
_FOLDS = (b" ", b"\t")
_ALONE = re.compile(rb"\r(?!\n)")
_LONE = re.compile(rb"\r+\n|\r")
_CONTROL = pattern(r"[\x00-\x08\x0a-\x1f\x7f]")
"""What stands in no logical line (RFC 6350 section 3.3, VALUE-CHAR)."""
_TRIES = 10
FOLD_AT = 75
"""Octets on a line, the break not counted (RFC 6350 section 3.2)."""


class RawCard(NamedTuple):
    """The physical lines of one card, BEGIN and END left off, or of text that is in no card."""

    first_line: int
    """Number in the file of the first line of `block`, from 1."""
    block: bytes
    """The lines with their breaks."""
    inside: bool
    """False for text outside of any card."""
    ended: bool
    """Whether END:VCARD was there."""


def plain_breaks(chunks: Iterable[bytes]) -> Iterator[bytes]:
    """The same octets, in which a carriage return stands before a line feed or nowhere.

    No value holds one (RFC 6350 section 3.3), so one alone can only end a line, and several before
    a line feed are what a copy in text mode makes of one.
    """
    held = b""
    for chunk in chunks:
        octets = held + chunk if held else chunk
        held = b""
        if octets.endswith(b"\r"):
            kept = octets.rstrip(b"\r")
            octets, held = kept, octets[len(kept) :]
        if _ALONE.search(octets):
            octets = _LONE.sub(_one_break, octets)
        if octets:
            yield octets
    if held:
        yield b"\n"


def _one_break(found: re.Match[bytes]) -> bytes:
    return b"\r\n" if found[0].endswith(b"\n") else b"\n"


def whole_cards(chunks: Iterable[bytes], octets: int) -> Iterator[bytes]:
    """A file in pieces of so many octets or more, each of which begins and ends with a card.

    It is cut before a BEGIN that follows an END, where no card can be open.
    """
    held: list[bytes] = []
    size = 0
    for chunk in chunks:
        held.append(chunk)
        size += len(chunk)
        if size < octets:
            continue
        piece = b"".join(held)
        cut = len(piece)
        for _ in range(_TRIES):
            cut = piece.rfind(b"\n" + BEGIN, 0, cut)
            if cut < 0 or piece[max(cut - _LONGEST_END, 0) : cut].rstrip().endswith(b"\n" + END):
                break
        else:
            cut = -1
        if cut >= 0:
            yield piece[: cut + 1]
            piece = piece[cut + 1 :]
        held, size = [piece], 0
    if rest := b"".join(held):
        yield rest


def cards(chunks: Iterable[bytes], line: int = 1) -> Iterator[RawCard]:
    """Cut a file, given as chunks of octets that begin at a line, into cards, in order.

    A card that begins and ends as the standard says is cut out as one piece; anything else goes
    line by line through `_Cutter`.
    """
    cutter = _Cutter()
    for block in _blocks(chunks):
        lines = block.count(b"\n")
        if cutter.idle and block.startswith(_CLEAN) and block.upper().count(BEGIN) == 1:
            head = block.index(b"\n") + 1
            tail = block.rindex(b"END:VCARD") if block.rstrip().endswith(b"END:VCARD") else -1
            if tail >= head and not block[:tail].rstrip().endswith(b"="):
                yield RawCard(line + 1, block[head:tail], True, True)
                line += lines
                continue
        for number, text in enumerate(physical_lines(block), line):
            yield from cutter.feed(number, text)
        line += lines
    yield from cutter.end()


_CLEAN = (b"BEGIN:VCARD\r\n", b"BEGIN:VCARD\n")
_LONGEST_END = 200
_LONGEST_MARK = 40
_QUOTED = re.compile(rb"[^:]*;\s*(?:ENCODING=)?QUOTED-PRINTABLE", re.IGNORECASE)
_AGENT = re.compile(rb"(?:[A-Z0-9_-]+\.)?AGENT\s*[;:]", re.IGNORECASE)
"""Octets that a line END:VCARD with white space around it may have."""
_ENDS = re.compile(rb"^END:VCARD[ \t]*\r?\n", re.IGNORECASE | re.MULTILINE)


def physical_lines(block: bytes) -> list[bytes]:
    """The lines of a block with their breaks, which are plain (see `plain_breaks`)."""
    lines = [line + b"\n" for line in block.split(b"\n")]
    last = lines.pop()[:-1]
    return [*lines, last] if last else lines


def _blocks(chunks: Iterable[bytes]) -> Iterator[bytes]:
    """Pieces that end where a line END:VCARD does; the last one may not.

    What has been searched is not searched or copied again, so that a line may be of any length.
    """
    held: list[bytes] = []
    tail, begins = b"", True
    """The end of what is held, from where the search goes on, and whether a line begins there."""
    for chunk in chunks:
        window = tail + chunk
        begin = 0
        for found in _ENDS.finditer(window, 0 if begins else 1):
            held.append(window[begin : found.end()])
            yield b"".join(held)
            held, begin = [], found.end()
        cut = max(window.rfind(b"\n") + 1, begin)
        begins = bool(cut) or begins
        if len(window) - cut > _LONGEST_END:
            cut, begins = len(window) - 1, False
        held.append(window[begin:cut])
        tail = window[cut:]
    held.append(tail)
    if rest := b"".join(held):
        yield rest


class _Cutter:
    """Takes lines one by one, and gives cards.

    A card within a card belongs to the outer one where an AGENT line leads to it (vCard 2.1);
    elsewhere a new BEGIN ends a card whose END is missing.
    """

    def __init__(self) -> None:
        self.held: list[bytes] = []
        self.first = 1
        self.depth = 0
        self.soft = False
        """Whether a value in quoted-printable goes on in the next line, whatever that says."""

    @property
    def idle(self) -> bool:
        """Whether nothing is held."""
        return not self.depth and not self.held

    def take(self, inside: bool, ended: bool, following: int) -> RawCard:
        card = RawCard(self.first, b"".join(self.held), inside, ended)
        self.held, self.first = [], following
        return card

    def feed(self, number: int, line: bytes) -> Iterator[RawCard]:
        """Take one line; the cards that are complete with it.

        White space before BEGIN is forgiven where no card is open; inside one it makes the line a
        fold of the line before (RFC 6350 section 3.2).
        """
        mark = b""
        on, ends = self.soft, line.rstrip().endswith(b"=")
        self.soft = ends and (on or _QUOTED.match(line) is not None)
        if len(line) < _LONGEST_MARK and not on:
            mark = line.rstrip() if self.depth else line.strip().removeprefix(b"\xef\xbb\xbf")
            mark = mark.upper()
        if mark == BEGIN and self.depth and not _leads_to_agent(self.held):
            yield self.take(True, False, number + 1)
            self.depth = 1
            return
        if mark == BEGIN:
            self.depth += 1
            if self.depth == 1:
                if self.held:
                    yield self.take(False, True, number + 1)
                self.first = number + 1
                return
        elif mark == END and self.depth:
            self.depth -= 1
            if self.depth == 0:
                yield self.take(True, True, number + 1)
                return
        if self.depth == 0:
            if not line.strip(b"\xef\xbb\xbf \t\r\n\x1a\x00"):
                return
            if not self.held:
                self.first = number
        self.held.append(line)

    def end(self) -> Iterator[RawCard]:
        """What is left at the end of the file."""
        if not self.idle:
            yield self.take(self.depth > 0, self.depth == 0, 0)


def _leads_to_agent(held: list[bytes]) -> bool:
    last = next((line for line in reversed(held) if line.strip()), b"")
    return _AGENT.match(last.strip()) is not None


def unfold(lines: list[bytes]) -> Iterator[tuple[int, bytes]]:
    """Logical lines without their breaks, each with the index of its first physical line."""
    held: list[bytes] = []
    first = 0
    for index, line in enumerate(lines):
        stripped = line.rstrip(b"\r\n")
        if line[:1] in _FOLDS and held:
            held.append(stripped[1:])
            continue
        if held:
            yield first, b"".join(held)
        held, first = [stripped] if stripped else [], index
    if held:
        yield first, b"".join(held)


def demand_one_line(line: str) -> None:
    """Raise `ValueError` where text holds what cannot stand in a logical line."""
    if not line.isprintable() and (found := _CONTROL.search(line)):
        raise ValueError(f"a line of a card cannot hold the character U+{ord(found[0]):04X}")


def fold(line: str) -> str:
    """A logical line folded at 75 octets of UTF-8, never inside a character; no final break.

    Raises `ValueError` for what would be more than one line, or holds control characters.
    """
    demand_one_line(line)
    if line.isascii():
        if len(line) <= FOLD_AT:
            return line
        rest = range(FOLD_AT, len(line), FOLD_AT - 1)
        pieces = [line[:FOLD_AT], *(line[at : at + FOLD_AT - 1] for at in rest)]
        return "\r\n ".join(pieces)
    octets = line.encode("utf-8")
    if len(octets) <= FOLD_AT:
        return line
    cut = []
    room = FOLD_AT
    begin = 0
    while len(octets) - begin > room:
        end = begin + room
        while octets[end] & 0xC0 == 0x80:  # inside a sequence
            end -= 1
        cut.append(octets[begin:end])
        begin, room = end, FOLD_AT - 1
    cut.append(octets[begin:])
    return b"\r\n ".join(cut).decode("utf-8")
