"""Cutting a source at record boundaries, so that several processes can work on it.

Cards are cut before a BEGIN that follows an END, where no card can be open. Rows are cut at a line
break that no quoted cell holds: where each quote of a piece belongs to a well-formed quoted cell
that is told at once; elsewhere the rows are read one by one to find out.
"""

from __future__ import annotations

import re
from array import array
from collections.abc import Iterator
from itertools import pairwise
from typing import BinaryIO, NamedTuple

from roundcard.formats.csv import Dialect, Rows

PIECE = 1 << 20
"""Octets of a piece, about."""
_WINDOW = 1 << 16
_LONGEST_MARK = 1_000
"""Octets that an END, blank lines and the next BEGIN may have together."""
_BETWEEN_CARDS = re.compile(
    rb"^END:VCARD[ \t]*\r?\n(?:[ \t]*\r?\n)*(?=BEGIN:VCARD[ \t]*\r?\n)",
    re.IGNORECASE | re.MULTILINE,
)
_QUOTED = re.compile(rb'"[^"]*(?:""[^"]*)*"')
_CANDIDATES = 20


class Piece(NamedTuple):
    """A part of a file that begins and ends with a record."""

    offset: int
    length: int
    last: bool


def card_pieces(stream: BinaryIO, octets: int, piece: int = PIECE) -> Iterator[Piece]:
    """The pieces of a vCard file."""
    begin = 0
    while begin < octets:
        at = begin + piece
        cut = octets
        held = b""
        stream.seek(min(at, octets))
        while found := stream.read(_WINDOW):
            held += found
            # not from the very beginning, which may stand in the middle of a line
            if match := _BETWEEN_CARDS.search(held, 1):
                cut = at + match.end()
                break
            keep = max(len(held) - _LONGEST_MARK, 0)
            at += keep
            held = held[keep:]
        cut = octets if octets - cut < _WINDOW else cut
        yield Piece(begin, cut - begin, cut >= octets)
        begin = cut


def row_pieces(
    stream: BinaryIO, begin: int, octets: int, dialect: Dialect, piece: int = PIECE
) -> Iterator[Piece]:
    """The pieces of a table of text that has a record at `begin`.

    The encoding must be one in which the octets of quote and line break mean nothing else.
    """
    beside = dialect.separator.encode(dialect.encoding) + b"\r\n"
    while begin < octets:
        stream.seek(begin)
        block = stream.read(piece + _WINDOW)
        if begin + len(block) >= octets:
            yield Piece(begin, octets - begin, True)
            return
        length = _row_cut(block, piece, beside) or _read_cut(stream, begin, piece, dialect)
        if octets - begin - length < _WINDOW:
            length = octets - begin
        yield Piece(begin, length, begin + length >= octets)
        begin += length


def _row_cut(block: bytes, piece: int, beside: bytes) -> int:
    """Where a block can be cut, not far behind `piece`; 0 where that cannot be told.

    `beside` are the octets that may stand on either side of a quoted cell.
    """
    at = block.find(b"\n", piece) + 1
    if not at or b'"' not in block[:at]:
        return at
    for _ in range(_CANDIDATES):
        begin, *others = _QUOTED.split(block[:at])
        last = others[-1] if others else begin
        for before, after in pairwise([begin, *others]):
            if (before and before[-1] not in beside) or (after and after[0] not in beside):
                return 0
        if b'"' not in last:
            return at
        # a cell is open here: it ends behind the next quote
        close = block.find(b'"', at)
        at = block.find(b"\n", close) + 1
        if close < 0 or not at:
            return 0
    return 0


def _read_cut(stream: BinaryIO, begin: int, piece: int, dialect: Dialect) -> int:
    """The length of the rows that begin within `piece`, found by reading them."""
    stream.seek(begin)
    ends = array("Q", [0])

    def lines() -> Iterator[str]:
        for line in stream:
            ends.append(ends[-1] + len(line))
            yield line.decode("latin-1")

    for row in Rows(lines(), dialect):
        if ends[row.line - 1] >= piece:
            return ends[row.line - 1]
    return ends[-1]
