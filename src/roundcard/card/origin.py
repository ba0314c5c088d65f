"""Where a value came from, and what became of it on the way, as one plain integer.

An origin packs the number of the source (from 0), the record in it (from 1) and the place in
the record (the line of a card file or the column of a table, both from 1) above two marks::

    source << 98 | record << 50 | place << 2 | RIDES | CHANGED

A structured value may hold a tuple of origins, one a component, since an address comes out of
five cells. Values that came from no source have an origin below zero.
"""

from __future__ import annotations

from typing import NamedTuple

CHANGED = 1
"""Mark: a named rule changed the value since it was read."""
RIDES = 2
"""Mark: no value of its own (a label, a second script of one value, bookkeeping)."""
ADDED = -1
"""Origin of a value that the user asked to add."""
DERIVED = -2
"""Origin of a value that was made from others of the same contact."""

PLACE_STEP = 4


class Spread:
    """Origins of the components of one value that came from several columns of one record."""

    __slots__ = ("base", "steps")

    def __init__(self, base: int, steps: tuple[int, ...]) -> None:
        self.base = base
        """The origin of the record."""
        self.steps = steps
        """What each component's column adds to it."""


_PLACE_BITS, _RECORD_BITS, _MARK_BITS = 48, 48, 2


class Place(NamedTuple):
    """An unpacked origin: source from 0, record from 1, line or column from 1."""

    source: int
    record: int
    place: int


def pack(source: int, record: int, place: int = 0) -> int:
    """The origin of a value; add ``place * PLACE_STEP`` to one packed without a place."""
    return (((source << _RECORD_BITS) | record) << _PLACE_BITS | place) << _MARK_BITS


def unpack(origin: int) -> Place | None:
    """Source, record and place of an origin; None for a value that came from no source."""
    if origin < 0:
        return None
    origin >>= _MARK_BITS
    place = origin & ((1 << _PLACE_BITS) - 1)
    record = (origin >> _PLACE_BITS) & ((1 << _RECORD_BITS) - 1)
    return Place(origin >> (_PLACE_BITS + _RECORD_BITS), record, place)


def marked(origin: int) -> int:
    """An origin with the mark of a change; one of no source stays as it is."""
    return origin | CHANGED if origin >= 0 else origin
