"""Rows of the usual contacts, made in one go.

Where each value of a contact goes is told by the heads of its properties, as long as no value is
refused, none has a label of its own, and none is a list that must be parted. So the places are
worked out once for each sequence of heads, and the next contact that looks the same is only
written down. A contact that turns out to need a second look is handed back untouched.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from roundcard.card.contact import Property
from roundcard.card.fields import CUSTOM, FIELDS
from roundcard.card.head import Head
from roundcard.card.names import says_same
from roundcard.card.origin import MARKS, RIDES, TIED, Spread, reason_in
from roundcard.layouts.cell import Cell, Row
from roundcard.layouts.column_allocation import is_uri
from roundcard.layouts.slots import PartsSlot, Slot
from roundcard.tally import Fate, Reason, Tally, Why, reason_of

if TYPE_CHECKING:
    from roundcard.layouts.row_writer import RowWriter

_MOST_PLANS = 4_000
_SAYS_PARTS = Reason(Fate.FOLDED, Why.PARTS_SAY_WHOLE, "name")

_TEXT, _PARTS, _LIST, _RIDES, _SAID = range(5)
Action = tuple[int, int, tuple[int, ...], str, Reason | None]
"""What is done with one property: the kind of it; its cell, or the place of the property that it is
held against; the cells of its components (below zero where there is none); the mark that parts a
list; and what is lost of the value, if anything."""
_NOWHERE = -1


class Straight:
    """Knows, by the heads of a contact, where its values go."""

    def __init__(self, writer: RowWriter) -> None:
        self._writer = writer
        self._plans: dict[tuple[Head, ...], list[Action] | None] = {}
        self._encoding = writer.encoding
        self._words = {field.name: field.path for field in FIELDS.values() if field.path}

    def place(self, props: Sequence[Property], row: Row, tally: Tally) -> int:  # noqa: PLR0915
        """Write the values into a row; how many, or 0 (the row to be thrown away, and nothing
        counted) where that cannot be done in one go."""
        key = tuple([prop.head for prop in props])
        try:
            plan = self._plans[key]
        except KeyError:
            plan = self._plan(key)
            if len(self._plans) < _MOST_PLANS:
                self._plans[key] = plan
        if plan is None:
            return 0
        encoding = self._encoding
        plain = folded = 0
        lost: list[tuple[Reason, int]] = []
        for prop, (kind, at, cells, mark, loses) in zip(props, plan, strict=True):
            origin = prop.origin
            marks = 0
            if origin.__class__ is int:
                if origin < 0:
                    return 0
                marks = origin & MARKS
            elif origin.__class__ is not Spread:
                return 0
            if (marks & (RIDES | TIED)) != (RIDES if kind == _RIDES else 0):
                return 0
            value = prop.known
            if value is None:
                value = prop.value
            if kind == _TEXT:
                if value.__class__ is not str or not value:
                    return 0
                if encoding and not value.isascii() and not _writable(value, encoding):
                    return 0
                row[at] = value
                count = 1
            elif kind == _PARTS:
                count = 0
                for index, text in enumerate(value):
                    if text:
                        place = cells[index] if index < len(cells) else _NOWHERE
                        if place < 0 or text.__class__ is not str:
                            return 0
                        if encoding and not text.isascii() and not _writable(text, encoding):
                            return 0
                        row[place] = text
                        count += 1
            elif kind == _LIST:
                for text in value:
                    if not text or mark in text or text.__class__ is not str:
                        return 0
                text = mark.join(value)  # type: ignore[arg-type]
                if encoding and not text.isascii() and not _writable(text, encoding):
                    return 0
                row[at] = text
                count = len(value)
            elif kind == _SAID:
                if not value or not says_same(prop.text, props[at].value):
                    return 0
                folded += 1
                continue
            else:
                continue
            if not count and prop.head.name != "n":
                return 0  # what is empty must not take a place from another
            if marks:
                lost.append((reason_of(reason_in(marks)), count))
            elif loses is not None and count:
                lost.append((loses, count))
            else:
                plain += count
        written = plain
        for why, count in lost:
            tally.count(why, count)
            written += count
        tally.count(_SAYS_PARTS, folded)
        tally.values.carried += plain
        return written

    def _plan(self, heads: tuple[Head, ...]) -> list[Action] | None:
        """What is done with properties of these heads; None where that hangs on their values."""
        plan: dict[int, Action] = {}
        fields: dict[str, list[int]] = {}
        for at, head in enumerate(heads):
            if head.name in ("n", "fn"):
                continue
            word = self._words.get(head.name)
            if head.rides:
                plan[at] = (_RIDES, 0, (), "", None)
            elif head.group or head.special or not word or head.name == CUSTOM:
                return None
            else:
                fields.setdefault(word, []).append(at)
        if not self._names(heads, plan):
            return None
        for word, places in fields.items():
            actions = self._field(word, [heads[at] for at in places])
            if actions is None:
                return None
            plan.update(zip(places, actions, strict=True))
        return [plan[at] for at in range(len(heads))]

    def _names(self, heads: tuple[Head, ...], plan: dict[int, Action]) -> bool:
        """Plan the whole name and its parts; false where they need a second look."""
        names = self._writer.names
        parts = [at for at, head in enumerate(heads) if head.name == "n"]
        wholes = [at for at, head in enumerate(heads) if head.name == "fn"]
        if len(parts) != 1 or len(wholes) > 1 or heads[parts[0]].special or not names.parts:
            return False
        if not all(cell.plain for cell in names.parts.values()):
            return False
        plan[parts[0]] = (_PARTS, 0, _by_index(names.parts), "", None)
        for at in wholes:
            if heads[at].special and not heads[at].rides:
                return False
            if heads[at].rides:
                plan[at] = (_RIDES, 0, (), "", None)
            elif names.whole is not None:
                if not names.whole.plain:
                    return False
                plan[at] = (_TEXT, names.whole.index, (), "", None)
            else:
                plan[at] = (_SAID, parts[0], (), "", None)
        return True

    def _field(self, word: str, heads: list[Head]) -> list[Action] | None:
        writer = self._writer
        field = writer.fields.get(word)
        if field is None or word in writer.every or any(head.name == "label" for head in heads):
            return None
        slots = field.assignment(heads)
        if slots is None:
            return None
        actions = [self._action(slot, head, first=n == 0)
                   for n, (slot, head) in enumerate(zip(slots, heads, strict=True))]  # fmt: skip
        return None if any(action is None for action in actions) else actions  # type: ignore[return-value]

    def _action(self, slot: Slot, head: Head, *, first: bool) -> Action | None:
        if slot.use is not None or slot.preferred is not None or slot.extension is not None:
            return None  # there are cells beside the value
        loses = slot.loses(head, first=first)
        if isinstance(slot, PartsSlot):
            cells = slot.parts.values()
            if slot.lines or not cells or not all(cell.plain for cell in cells):
                return None
            return (_PARTS, 0, _by_index(slot.parts), "", loses)
        cell = slot.value
        if cell is None or type(slot) is not Slot:
            return None
        if slot.simple and head.field.kind != "list" and not is_uri(head):
            return (_TEXT, cell.index, (), "", loses)
        several = head.field.kind == "list" and slot.many and not head.params
        if several and not (cell.words or cell.date or cell.longest):
            return (_LIST, cell.index, (), slot.many, None)
        return None


def _by_index(cells: Mapping[int, Cell]) -> tuple[int, ...]:
    """The cells of components, by the component's index."""
    size = max(cells) + 1
    return tuple(cells[at].index if at in cells else _NOWHERE for at in range(size))


def _writable(text: str, encoding: str) -> bool:
    try:
        text.encode(encoding)
    except UnicodeEncodeError:
        return False
    return True
