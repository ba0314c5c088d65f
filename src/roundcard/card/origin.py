"""Where a value came from, and what became of it on the way, as one plain integer.

An origin packs the number of the source (from 0), the record in it (from 1) and the place in
the record (the line of a card file or the column of a table, both from 1) above the number of the
reason for which a rule changed the value, and two marks::

    source << 118 | record << 70 | place << 22 | reason << 2 | TIED | RIDES

A structured value may hold a tuple of origins, one a component, since an address comes out of
five cells. Values that came from no source have an origin below zero, which says whether they were
added or derived, and for what reason::

    ~(reason << 2 | TIED | derived)

What the numbers of reasons mean is the tally's; here they are numbers.
"""

from __future__ import annotations

from typing import NamedTuple

RIDES = 1
"""Mark: no value of its own (a label, bookkeeping)."""
TIED = 2
"""Mark: the value says in another script what one before it says (ALTID, RFC 6350 section 5.4).
It is counted, but takes no place of its own."""
_REASON_AT, _REASON_BITS = 2, 20
CHANGED = ((1 << _REASON_BITS) - 1) << _REASON_AT
"""The bits that are not all zero where a rule changed the value since it was read."""
MOST_REASONS = (1 << _REASON_BITS) - 1
"""The highest number that a reason can have."""
ADDED = ~0
"""Origin of a value that the user asked to add, for a reason that the tally is yet to be told."""
DERIVED = ~1
"""Origin of a value that was made from others of the same contact, likewise."""
_MARK_BITS = _REASON_AT + _REASON_BITS
MARKS = (1 << _MARK_BITS) - 1
"""All that stands below the place."""
PLACE_STEP = 1 << _MARK_BITS
"""What the next line or column adds to an origin."""


class Spread:
    """Origins of the components of one value that came from several columns of one record."""

    __slots__ = ("base", "steps")

    def __init__(self, base: int, steps: tuple[int, ...]) -> None:
        self.base = base
        """The origin of the record."""
        self.steps = steps
        """What each component's column adds to it."""


_PLACE_BITS, _RECORD_BITS = 48, 48


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


def changed(origin: int, reason: int) -> int:
    """An origin with the reason for which a rule changed the value.

    The first rule that changes a value is the one that the value tells of; a value that came from
    no source is not changed, but added or derived as it is.
    """
    return origin if origin < 0 or origin & CHANGED else origin | reason << _REASON_AT


def added(reason: int = 0) -> int:
    """The origin of a value that is added for a reason."""
    return ~(reason << _REASON_AT)


def derived(reason: int = 0) -> int:
    """The origin of a value that is made from others of its contact by a rule."""
    return ~(reason << _REASON_AT | 1)


def is_derived(origin: int) -> bool:
    """Whether the value was made from others of the same contact."""
    return origin < 0 and bool(~origin & 1)


def is_added(origin: int) -> bool:
    """Whether the value came from no source, and from no other value either."""
    return origin < 0 and not ~origin & 1


def reason_in(origin: int) -> int:
    """The number of the reason that an origin carries; 0 for none."""
    return ((~origin if origin < 0 else origin) & CHANGED) >> _REASON_AT


def tied(origin: int) -> int:
    """An origin with the mark of a value in another script."""
    return ~(~origin | TIED) if origin < 0 else origin | TIED


def rides(origin: int) -> bool:
    """Whether the value takes no place of its own: it is none, or says another one again."""
    return bool(~origin & TIED) if origin < 0 else bool(origin & (RIDES | TIED))
