"""The order in which the places of a row are served, and who gets which."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from roundcard.card.contact import Property, flat
from roundcard.card.envelopes import paired
from roundcard.card.head import Head
from roundcard.card.paths import FieldPath
from roundcard.layouts.cell import Cell, RowDraft, left_behind
from roundcard.layouts.model import Column
from roundcard.layouts.slots import DateSlot, PartsSlot, Slot, plain_text
from roundcard.tally import Reason, Why
from roundcard.values.set_value import part_index

_NO_FREE_COLUMN = left_behind(Why.NO_FREE_COLUMN)

Virtual = list[tuple[FieldPath, Cell, Column]]
"""All paths of all columns, each with the cell that it fills."""


class FieldColumns:
    """All slots of one field, in the order in which they are served."""

    def __init__(self, slots: Iterable[Slot]) -> None:
        every = list(slots)
        self.exact = sorted((s for s in every if s.position), key=_specific)
        self.open = sorted((s for s in every if not s.position), key=_specific)
        first = [slot for slot in self.exact if slot.position == 1]
        self.for_one = [*first, *self.open, *(s for s in self.exact if s.position > 1)]
        """The order in which a value that stands alone tries the slots."""
        self.room = 1_000_000 if any(slot.many for slot in every) else len(every)
        """How many values the slots can take."""
        cells = [cell for slot in every for cell in slot.cells.values()]
        self.encoding = next((cell.encoding for cell in cells if not cell.words), "")

    def assignment(self, heads: Sequence[Head], labels: Sequence[str]) -> list[Slot] | None:
        """The slots of values with these heads and labels; None where it hangs on their text, or
        where one finds no slot."""
        if any(head.field.kind == "list" or head.name == "label" for head in heads):
            return None
        if any(slot.many or (slot.value and slot.value.forbids) for slot in self.for_one):
            return None
        values = list(zip(heads, labels, strict=True))
        if len(heads) == 1:
            found = next((slot for slot in self.for_one if slot.takes(*values[0])), None)
            return None if found is None else [found]
        given: dict[int, Slot] = {}
        waiting: list[Slot] = []
        for slot in self.exact:
            counted = [at for at, value in enumerate(values) if slot.counts(*value)]
            at = counted[slot.position - 1] if len(counted) >= slot.position else -1
            if at >= 0 and at not in given and slot.takes(*values[at]):
                given[at] = slot
            else:
                waiting.append(slot)
        for slot in self.open + waiting:
            fits = (n for n, value in enumerate(values) if n not in given and slot.takes(*value))
            at = next(fits, -1)
            if at >= 0:
                given[at] = slot
        return [given[at] for at in range(len(heads))] if len(given) == len(heads) else None

    def place(self, draft: RowDraft, props: Sequence[Property]) -> int:
        """Place the values of the field; how many were written."""
        pairs = paired(props) if len(props) > 1 else None
        if not pairs:
            return self._place(draft, props)
        draft.envelopes = {id(props[address]): props[text] for text, address in pairs.items()}
        written = self._place(draft, [prop for at, prop in enumerate(props) if at not in pairs])
        for text in draft.envelopes.values():
            draft.leave(text, _NO_FREE_COLUMN)
        draft.envelopes = {}
        return written

    def _place(self, draft: RowDraft, props: Sequence[Property]) -> int:
        if len(props) > 1 or props[0].head.field.kind == "list":
            props = list(_singles(props))
            if self.encoding:
                # before any is placed: what cannot be written must not move the others
                props = [prop for prop in props if self._writable(draft, prop)]
        if len(props) != 1:
            return self._place_many(draft, props)
        prop = props[0]
        label = draft.label_of(prop)
        for slot in self.for_one:
            if slot.fits(prop, label):
                return slot.fill(draft, prop, label, True) or 0
        draft.leave(prop, self._why_not(prop, label))
        return 0

    def _writable(self, draft: RowDraft, prop: Property) -> bool:
        """Whether any of a value can be written; if not, it is left behind."""
        value = prop.value
        texts = [plain_text(prop)] if isinstance(value, str) else list(flat(value))
        for text in texts:
            try:
                text.encode(self.encoding)
            except UnicodeEncodeError:
                continue
            return True
        draft.leave(prop, left_behind(Why.NO_CHARACTERS, self.encoding))
        return False

    def _place_many(self, draft: RowDraft, props: Sequence[Property]) -> int:
        labels = [draft.label_of(prop) for prop in props]
        # what fits nowhere is no value that positions count, or others would move the next time
        there = [any(s.fits(p, labels[at]) for s in self.for_one) for at, p in enumerate(props)]
        if not all(there):
            for at, prop in enumerate(props):
                if not there[at]:
                    draft.leave(prop, self._why_not(prop, labels[at]))
            props = [prop for at, prop in enumerate(props) if there[at]]
            labels = [label for at, label in enumerate(labels) if there[at]]
        free = dict.fromkeys(range(len(props)))
        waiting: list[Slot] = []
        written = 0

        def serve(slot: Slot, at: int) -> None:
            nonlocal written
            del free[at]
            filled = slot.fill(draft, props[at], labels[at], at == 0)
            written += filled or 0
            if filled is None and not slot.many:
                waiting.append(slot)

        for slot in self.exact:
            counted = [at for at, p in enumerate(props) if slot.counts(p.head, labels[at])]
            at = counted[slot.position - 1] if len(counted) >= slot.position else -1
            if at in free and slot.fits(props[at], labels[at]):
                serve(slot, at)
            else:
                waiting.append(slot)
        for slot in self.open:
            for at in list(free):
                if slot.fits(props[at], labels[at]):
                    serve(slot, at)
                    if not slot.many:
                        break
        while waiting and free:
            slot = waiting.pop(0)
            fitting = [at for at in free if slot.fits(props[at], labels[at])]
            if fitting:
                serve(slot, fitting[0])
        for at in free:
            draft.leave(props[at], self._why_not(props[at], labels[at]))
        return written

    def _why_not(self, prop: Property, label: str) -> Reason:
        """Why a value found no place."""
        cells = [
            slot.value for slot in self.for_one if slot.counts(prop.head, label) and slot.value
        ]
        refusals = (cell.refusal(plain_text(prop)) for cell in cells)
        return next(filter(None, refusals), _NO_FREE_COLUMN)


def _specific(slot: Slot) -> tuple[int, int, bool]:
    """Sort key: labels and several uses first, then by position, single cells before `many`."""
    named = 9 if slot.label else len(slot.uses)
    return -named if not slot.position or slot.uses else 0, slot.position, bool(slot.many)


def is_uri(head: Head) -> bool:
    """Whether the head says that a number is a URI, which may say more than the number."""
    return head.name == "tel" and "URI" in head.text.upper()


def _singles(props: Sequence[Property]) -> Iterable[Property]:
    """Lists as one property an entry."""
    for prop in props:
        if prop.head.field.kind != "list":
            yield prop
            continue
        for at, text in enumerate(prop.components):
            if text:
                yield prop.replaced((text,), (prop.origin_of(at),))


def make_slots(virtual: Virtual) -> dict[str, FieldColumns]:
    """The slots of all fields but names, by the word that paths begin with.

    A custom field's word is ``custom/`` and its label.
    """
    groups: dict[tuple[object, ...], Virtual] = {}
    for number, (path, cell, column) in enumerate(virtual):
        if path.field == "name":
            continue
        alone = not path.part and not path.position and path.field not in ("org", "gender")
        has_parts = any(p.part and p.place == path.place for p, _, _ in virtual)
        key = (*path.place, number) if alone and (column.many or not has_parts) else path.place
        groups.setdefault(key, []).append((path, cell, column))
    fields: dict[str, list[Slot]] = {}
    for group in groups.values():
        slot = _slot(group)
        word = slot.path.field
        if word == "custom":
            word = f"custom/{slot.path.label}"
        fields.setdefault(word, []).append(slot)
    return {word: FieldColumns(slots) for word, slots in fields.items()}


def _slot(group: Virtual) -> Slot:
    path, _, column = group[0]
    cells = {p.part: cell for p, cell, _ in group}
    if path.field in ("org", "gender", "address"):
        parts = {
            part_index(p): cell
            for p, cell, _ in group
            if p.part not in ("use", "preferred", "full", "line")
        }
        lines = sorted(((p.number, cell) for p, cell, _ in group if p.part == "line"),
                       key=lambda pair: pair[0])  # fmt: skip
        return PartsSlot(path, cells, parts, [cell for _, cell in lines])
    if path.part in ("year", "month", "day"):
        return DateSlot(path, cells)
    return Slot(path, cells, column.many)
