"""Places in a row for the values of one field, and the order in which they are served."""

from __future__ import annotations

from roundcard.card.contact import Property, flat
from roundcard.card.fields import STREET, by_path
from roundcard.card.head import Head
from roundcard.card.paths import FieldPath
from roundcard.layouts.cell import Cell, RowDraft, left_behind
from roundcard.tally import Fate, Reason, Why
from roundcard.values.cells import street_lines, to_cell, write_uses
from roundcard.values.dates import is_date, parse_iso
from roundcard.values.extensions import shown_extension
from roundcard.values.phones import says_more, split_extension

_NAMED_USES = frozenset({"fax", "pager"})
"""A column takes these only where it names them, or has a column beside it that does."""
_QUIET_PARAMS = frozenset({"type", "pref", "altid"})
_BESIDE = ("use", "preferred", "extension")
_MOST_KNOWN = 10_000
PARTS_JOINED = Reason(Fate.CHANGED, Why.PARTS_JOINED)
_STREET_JOINED = Reason(Fate.CHANGED, Why.STREET_JOINED)
_USE_LOST = Reason(Fate.CHANGED, Why.USE_LOST)
_PARAMETERS_LOST = Reason(Fate.CHANGED, Why.PARAMETERS_LOST)
_BLANKS_LOST = Reason(Fate.CHANGED, Why.BLANKS_LOST)
_PREFERENCE_LOST = Reason(Fate.CHANGED, Why.PREFERENCE_LOST)

Described = tuple[str, str, Reason | None, Reason | None]
"""Cells of ``use`` and ``preferred``, and what is not kept of a first and of a later value."""


class Slot:
    """A place for one value (or, with `many`, for all that are left) of a field."""

    def __init__(self, path: FieldPath, cells: dict[str, Cell], many: str = "") -> None:
        self.path = path
        self.uses = frozenset(path.uses)
        self.label = path.label if path.field != "custom" else ""
        self.position = path.position
        self.cells = cells
        self.many = many
        self.value = cells.get("")
        self.use = cells.get("use")
        self.preferred = cells.get("preferred")
        self.extension = cells.get("extension")
        self.field = by_path(path.field)[0]
        self.holds = any(part not in _BESIDE for part in cells)
        """Whether there is a cell for the value itself, and not only for what stands beside it."""
        self._known: dict[Head, tuple[bool, Described]] = {}

    def counts(self, head: Head, label: str) -> bool:
        """Whether a value is among those that the slot's position counts."""
        if self.label:
            return label == self.label
        return self.uses <= head.uses

    def fits(self, prop: Property, label: str) -> bool:
        """Whether a value may go here."""
        if not self.takes(prop.head, label):
            return False
        forbids = self.value.forbids if self.value is not None else ""
        return not forbids or forbids not in plain_text(prop)

    def takes(self, head: Head, label: str) -> bool:
        """Whether values with this head may go here, whatever their text."""
        return self._learned(head, label)[0]

    def loses(self, head: Head, label: str, *, first: bool) -> Reason | None:
        """What is not kept of a value with this head; None for nothing."""
        _, _, lost, later = self._learned(head, label)[1]
        return lost if first else later

    def says(self, head: Head, label: str) -> tuple[str, str]:
        """The cells of ``use`` and ``preferred`` beside a value with this head."""
        return self._learned(head, label)[1][:2]

    def _learned(self, head: Head, label: str) -> tuple[bool, Described]:
        """What is the same for all values with one head (and no label of their own)."""
        found = None if head.group else self._known.get(head)
        if found is None:
            uses = head.uses
            fits = self.holds and self.counts(head, label)
            fits = fits and not (uses and self.use is None and (uses - self.uses) & _NAMED_USES)
            found = fits, self._describe(head, label)
            if not head.group and len(self._known) < _MOST_KNOWN:
                self._known[head] = found
        return found

    def _describe(self, head: Head, label: str) -> Described:
        use = preferred = ""
        lost = None
        if self.use is not None:
            use, _ = self.use.said(write_uses(head, label, self.path.field))
            if self.use.refusal(use) is not None:  # a label that the table has no characters for
                use, lost = "", _USE_LOST
        elif label != self.label or not head.uses <= self.uses:
            lost = _USE_LOST
        if head.telling and not head.altid:
            lost = lost or _PARAMETERS_LOST
        if any(key not in _QUIET_PARAMS for key, _ in head.params):
            lost = lost or _PARAMETERS_LOST
        later = lost
        if self.preferred is not None:
            preferred = "yes" if head.preferred else ""
        elif head.preferred:
            later = lost or _PREFERENCE_LOST
        return use, preferred, lost, later

    def describe(self, draft: RowDraft, prop: Property, label: str, first: bool) -> Reason | None:
        """Fill the cells that say a value's use and preference; what of that finds no cell."""
        use, preferred = self.says(prop.head, label)
        if self.use is not None:
            draft.row[self.use.index] = use
        if self.preferred is not None:
            draft.row[self.preferred.index] = preferred
        return self.loses(prop.head, label, first=first)

    def undescribe(self, draft: RowDraft) -> None:
        """Empty the cells beside a value that was refused."""
        for cell in (self.use, self.preferred, self.extension):
            if cell is not None:
                draft.row[cell.index] = ""

    def fill(self, draft: RowDraft, prop: Property, label: str, first: bool) -> int | None:
        """Put a value here; how many values were written, or None where a cell refuses it."""
        altered = self.describe(draft, prop, label, first)
        cell, row = self.value, draft.row
        text = plain_text(prop)
        if says_more(prop):
            altered = altered or _PARAMETERS_LOST
        text = to_cell(self.field, text)
        if draft.photos is not None and self.field.kind == "media":
            text = draft.photos.keep(text, draft.contact.origin) or text
        if self.extension is not None:
            text, row[self.extension.index] = split_extension(text)
        if cell is not None:
            if self.field.kind == "date" and not is_date(text):
                draft.tally.find(f"column '{cell.name}': text that is no date, written as it is",
                                 "record", draft.contact.record)  # fmt: skip
            text, rule = cell.said(text)
            if self.many and text != text.strip():
                text, altered = text.strip(), altered or _BLANKS_LOST
            if why := cell.refusal(text):
                self.undescribe(draft)
                draft.leave(prop, why)
                return None
            there = row[cell.index]
            text = f"{there}{self.many}{text}" if there else text
            if cell.longest and len(text) > cell.longest:
                draft.leave(prop, left_behind(Why.CELL_FULL))
                return None
            row[cell.index] = text
            altered = rule or altered
        draft.tally.place(prop, altered)
        return 1


class DateSlot(Slot):
    """A date in columns for year, month and day."""

    def fill(self, draft: RowDraft, prop: Property, label: str, first: bool) -> int | None:
        """Put a date here, if there is a column for all that is known of it."""
        if self.value is not None:
            return super().fill(draft, prop, label, first)
        date = parse_iso(prop.text)
        there = {part: getattr(date, part) for part in ("year", "month", "day")} if date else {}
        if not there or any(number and part not in self.cells for part, number in there.items()):
            draft.leave(prop, left_behind(Why.NO_COLUMNS_FOR_DATE))
            return None
        for part, cell in self.cells.items():
            draft.row[cell.index] = str(there[part] or "")
        draft.tally.place(prop)
        return 1


class PartsSlot(Slot):
    """A structured value: organisation, address, gender."""

    def __init__(
        self, path: FieldPath, cells: dict[str, Cell], parts: dict[int, Cell], lines: list[Cell]
    ) -> None:
        super().__init__(path, cells)
        self.parts = parts
        """Cells by the index of the component."""
        self.lines = lines
        """Cells for the lines of the street, in order."""

    def fill(self, draft: RowDraft, prop: Property, label: str, first: bool) -> int | None:
        """Write all components that have a column, and leave the others behind; likewise the text
        on an envelope that belongs to an address."""
        whole = self.cells.get("full")
        if prop.head.name == "label" and whole is not None:
            altered = self.describe(draft, prop, label, first)
            return self._envelope(draft, prop, whole, altered)
        written = self._components(draft, prop, label, first)
        text = draft.envelopes.pop(id(prop), None) if draft.envelopes else None
        if text is None:
            return written
        if whole is None:
            draft.leave(text, left_behind(Why.NO_COLUMN_FOR_LABEL))
            return written
        lost = self.describe(draft, text, label, first)
        return (written or 0) + (self._envelope(draft, text, whole, lost) or 0) or None

    def _components(self, draft: RowDraft, prop: Property, label: str, first: bool) -> int | None:
        altered = self.describe(draft, prop, label, first)
        written = fill_parts(draft, prop, self.parts, altered) if not self.lines else 0
        if written:
            return written
        for index, component in enumerate(prop.components):
            if component and any(flat((component,))):
                written += self._part(draft, prop, index, altered)
        if not written:
            self.undescribe(draft)
        return written or None

    def _envelope(
        self, draft: RowDraft, prop: Property, cell: Cell, altered: Reason | None
    ) -> int | None:
        if why := cell.refusal(prop.text):
            draft.leave(prop, why)
            return None
        draft.row[cell.index] = prop.text
        draft.tally.place(prop, altered)
        return 1

    def _part(self, draft: RowDraft, prop: Property, index: int, altered: Reason | None) -> int:
        """Write one component; how many values that were."""
        one = prop.only({index})
        texts = list(flat((prop.components[index],)))
        cell = self.parts.get(index)
        if cell is None and self.field.name == "gender":
            cell = self.parts.get(0)
        if index == STREET and self.lines:
            return self._street(draft, one, altered)
        if cell is None:
            part = _part_name(self.field.name, index)
            draft.leave(one, left_behind(Why.NO_COLUMN_FOR_PART, part))
            return 0
        if index != STREET and len(texts) > 1:
            altered = altered or PARTS_JOINED
        text, rule = cell.said(("\n" if index == STREET else ", ").join(texts))
        if why := cell.refusal(text):
            draft.leave(one, why)
            return 0
        draft.row[cell.index] = text
        draft.tally.place(one, rule or altered)
        return len(texts)

    def _street(self, draft: RowDraft, one: Property, altered: Reason | None) -> int:
        """The street over its lines; what is over stands in the last one."""
        texts = list(flat((one.components[STREET],)))
        lines = street_lines(one.components[STREET])
        street = self.parts.get(STREET)
        cells = ([street] if street else []) + self.lines
        refusals = [why for cell in cells for line in lines if (why := cell.refusal(line))]
        if refusals:
            draft.leave(one, refusals[0])
            return 0
        if len(lines) > len(cells):
            lines = [*lines[: len(cells) - 1], ", ".join(lines[len(cells) - 1 :])]
            altered = altered or _STREET_JOINED
        for cell, line in zip(cells, lines, strict=False):
            draft.row[cell.index] = line
        draft.tally.place(one, altered)
        return len(texts)


def fill_parts(
    draft: RowDraft, prop: Property, cells: dict[int, Cell], altered: Reason | None = None
) -> int:
    """Write a structured value of which each filled component is one text with a plain cell.

    How many values were written; 0 (and nothing counted) for a value that is not so simple.
    """
    row = draft.row
    written = 0
    for index, text in enumerate(prop.components):
        if text:
            cell = cells.get(index)
            if cell is None or not cell.plain or not isinstance(text, str):
                return 0
            if cell.encoding and not text.isascii() and cell.refusal(text):
                return 0
            row[cell.index] = text
            written += 1
    draft.tally.place(prop, altered)
    return written


def plain_text(prop: Property) -> str:
    """The value as one text: of a custom value without its label, of an unknown one as it came."""
    if prop.head.field.kind == "raw" and prop.raw is not None and not prop.head.coded:
        return shown_extension(prop.raw)
    value = prop.value
    if isinstance(value, str):
        return value
    return " ".join(flat(value[1:] if prop.head.field.path == "custom" else value))


def _part_name(name: str, index: int) -> str:
    parts = by_path({"adr": "address"}.get(name, name))[0].parts
    if name == "org":
        return "the organisation" if index == 0 else f"unit {index}"
    return parts[index] if index < len(parts) else f"part {index + 1}"
