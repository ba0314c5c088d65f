"""Places in a row for the values of one field, and the order in which they are served."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import by_path
from roundcard.card.head import Component
from roundcard.card.paths import FieldPath
from roundcard.layouts.model import Column
from roundcard.tally import Tally
from roundcard.values.cells import split_extension, street_lines, to_cell, write_uses
from roundcard.values.dates import parse_iso
from roundcard.values.putting import part_index

Row = list[str]
_NAMED_USES = frozenset({"fax", "pager"})
"""A column takes these only where it names them, or has a column beside it that does."""
_STREET = 2
_QUIET_PARAMS = frozenset({"type", "pref", "altid"})


class Cell:
    """One cell of a row, and what may go into it."""

    __slots__ = ("date", "encoding", "forbids", "index", "name", "words")

    def __init__(self, index: int, column: Column, encoding: str, forbids: str = "") -> None:
        self.index = index
        self.name = column.name
        self.encoding = encoding
        """The table's character set, where there are characters that it lacks."""
        self.forbids = forbids
        """A mark that would be taken for the end of the value."""
        self.date = column.date
        self.words: dict[str, str] = {}
        for theirs, ours in column.values.items():
            self.words.setdefault(ours, theirs)

    def refusal(self, text: str) -> str:
        """Why a text cannot go into the cell; empty where it can."""
        if self.forbids and self.forbids in text:
            return f"holds '{self.forbids.strip() or self.forbids}', which parts values there"
        if self.encoding and not text.isascii():
            try:
                text.encode(self.encoding)
            except UnicodeEncodeError:
                return f"no characters for it in {self.encoding}"
        return ""

    def said(self, text: str) -> tuple[str, str]:
        """The text in the column's own words and dates, and the rule that changed it, if any."""
        if self.words:
            theirs = self.words.get(text, text)
            return theirs, f"values of column '{self.name}'" if theirs != text else ""
        if self.date is not None:
            date = parse_iso(text)
            written = self.date.write(date) if date else text
            return written, f"dates of column '{self.name}'" if written != text else ""
        return text, ""


def leave(contact: Contact, prop: Property, why: str, tally: Tally) -> None:
    """Leave a value behind, its field named first."""
    word = prop.head.field.path or prop.head.name.upper()
    if word == "custom" and isinstance(prop.components[0], str):
        word = prop.components[0]
    tally.leave_behind(contact, prop, f"{word}: {why}")


def part_of(prop: Property, index: int) -> Property:
    """A structured property with all components but one blanked."""
    value: list[Component] = ["" for _ in prop.components]
    value[index] = prop.components[index]
    origins = prop.origin if isinstance(prop.origin, int) else prop.origin[: len(value)]
    return prop.replaced(tuple(value), origins)


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

    def counts(self, prop: Property, label: str) -> bool:
        """Whether a value is among those that the slot's position counts."""
        if self.label:
            return label == self.label
        return self.uses <= prop.head.uses

    def fits(self, prop: Property, label: str) -> bool:
        """Whether a value may go here."""
        if not self.counts(prop, label):
            return False
        uses = prop.head.uses
        return not uses or self.use is not None or not (uses - self.uses) & _NAMED_USES

    def fill(
        self, contact: Contact, prop: Property, label: str, row: Row, tally: Tally, first: bool
    ) -> int | None:
        """Put a value here; how many values were written, or None where a cell refuses it."""
        text = to_cell(self.field, _plain(prop))
        altered = self.describe(prop, label, row, first)
        if self.extension is not None:
            text, digits = split_extension(text)
            row[self.extension.index] = digits
        if self.value is not None:
            text, rule = self.value.said(text)
            if why := self.value.refusal(text):
                self.undescribe(row)
                leave(contact, prop, why, tally)
                return None
            mark = self.value.forbids if self.many else ""
            there = row[self.value.index]
            row[self.value.index] = f"{there}{mark}{text}" if there else text
            altered = rule or altered
        tally.place(prop, altered)
        return 1

    def describe(self, prop: Property, label: str, row: Row, first: bool) -> str:
        """Fill the cells that say a value's use and preference; what of that finds no cell."""
        head = prop.head
        lost = ""
        if self.use is not None:
            words, _ = self.use.said(write_uses(head, label, self.path.field))
            row[self.use.index] = words
        elif label != self.label or not head.uses <= self.uses:
            lost = "use or label not kept"
        if self.preferred is not None:
            row[self.preferred.index] = "yes" if head.preferred else ""
        elif head.preferred and not first:
            lost = lost or "preference not kept"
        if not lost and any(key not in _QUIET_PARAMS for key, _ in head.params):
            lost = "parameters not kept"
        return lost

    def undescribe(self, row: Row) -> None:
        for cell in (self.use, self.preferred, self.extension):
            if cell is not None:
                row[cell.index] = ""


class DateSlot(Slot):
    """A date in columns for year, month and day."""

    def fill(
        self, contact: Contact, prop: Property, label: str, row: Row, tally: Tally, first: bool
    ) -> int | None:
        date = parse_iso(prop.text)
        there = {part: getattr(date, part) for part in ("year", "month", "day")} if date else {}
        if self.value is not None:
            return super().fill(contact, prop, label, row, tally, first)
        if not there or any(number and part not in self.cells for part, number in there.items()):
            leave(contact, prop, "no column for all of the date", tally)
            return None
        for part, cell in self.cells.items():
            row[cell.index] = str(there[part] or "")
        tally.place(prop)
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

    def fill(
        self, contact: Contact, prop: Property, label: str, row: Row, tally: Tally, first: bool
    ) -> int | None:
        written = 0
        altered = self.describe(prop, label, row, first)
        whole = self.cells.get("full")
        if whole is not None and prop.head.name == "label":
            return self.envelope(contact, prop, whole, altered, row, tally)
        for index, component in enumerate(prop.components):
            if not component or not any(flat((component,))):
                continue
            written += self.part(contact, prop, index, altered, row, tally)
        if not written:
            self.undescribe(row)
        return written or None

    def envelope(
        self, contact: Contact, prop: Property, cell: Cell, altered: str, row: Row, tally: Tally
    ) -> int | None:
        if why := cell.refusal(prop.text):
            leave(contact, prop, why, tally)
            return None
        row[cell.index] = prop.text
        tally.place(prop, altered)
        return 1

    def part(
        self, contact: Contact, prop: Property, index: int, altered: str, row: Row, tally: Tally
    ) -> int:
        """Write one component; how many values that were."""
        component = prop.components[index]
        one = part_of(prop, index)
        texts = list(flat((component,)))
        cell = self.parts.get(index)
        if cell is None and self.field.name == "gender":
            cell = self.parts.get(0)
        if index == _STREET and self.lines:
            return self.street(contact, one, altered, row, tally)
        if cell is None:
            leave(contact, one, f"no column for {_part_name(self.field.name, index)}", tally)
            return 0
        if index == _STREET:
            text = "\n".join(texts)
        else:
            text = ", ".join(texts)
            altered = altered or ("several values in one part joined" if len(texts) > 1 else "")
        text, rule = cell.said(text)
        if why := cell.refusal(text):
            leave(contact, one, why, tally)
            return 0
        row[cell.index] = text
        tally.place(one, rule or altered)
        return len(texts)

    def street(
        self, contact: Contact, one: Property, altered: str, row: Row, tally: Tally
    ) -> int:
        """The street over its lines; what is over stands in the last one."""
        texts = list(flat((one.components[_STREET],)))
        lines = street_lines(one.components[_STREET])
        street = self.parts.get(_STREET)
        cells = ([street] if street else []) + self.lines
        if why := next((why for cell in cells for line in lines if (why := cell.refusal(line))), ""):
            leave(contact, one, why, tally)
            return 0
        if len(lines) > len(cells):
            lines = [*lines[: len(cells) - 1], ", ".join(lines[len(cells) - 1 :])]
            altered = altered or "street lines joined"
        for cell, line in zip(cells, lines, strict=False):
            row[cell.index] = line
        tally.place(one, altered)
        return len(texts)


class Field:
    """All slots of one field, in the order in which they are served."""

    def __init__(self, slots: Iterable[Slot]) -> None:
        every = list(slots)
        self.exact = sorted((s for s in every if s.position), key=_specific)
        self.open = sorted((s for s in every if not s.position), key=_specific)

    def place(self, contact: Contact, props: Sequence[Property], row: Row, tally: Tally) -> int:
        """Place the values of the field; how many were written."""
        props = list(_singles(props))
        labels = [contact.label_of(p) if p.head.group else "" for p in props]
        free = dict.fromkeys(range(len(props)))
        waiting: list[Slot] = []
        written = 0

        def serve(slot: Slot, at: int) -> None:
            nonlocal written
            del free[at]
            filled = slot.fill(contact, props[at], labels[at], row, tally, at == 0)
            written += filled or 0
            if filled is None and slot.many == "":
                waiting.append(slot)

        for slot in self.exact:
            counted = [at for at, p in enumerate(props) if slot.counts(p, labels[at])]
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
            some = "no free column" if self.exact or self.open else "no column"
            leave(contact, props[at], some, tally)
        return written


def _specific(slot: Slot) -> tuple[int, int, bool]:
    """Sort key: labels and several uses first, then by position, single cells before `many`."""
    named = 9 if slot.label else len(slot.uses)
    return -named if not slot.position or slot.uses else 0, slot.position, bool(slot.many)


def _singles(props: Sequence[Property]) -> Iterable[Property]:
    """Lists as one property an entry."""
    for prop in props:
        if prop.head.field.kind != "list":
            yield prop
            continue
        for at, text in enumerate(prop.components):
            if text:
                yield prop.replaced((text,), (prop.origin_of(at),))


def _plain(prop: Property) -> str:
    """The value as one text: of a custom value without its label, of an unknown one as it came."""
    if prop.head.field.kind == "raw" and prop.raw is not None:
        return prop.raw
    value = prop.value
    if isinstance(value, str):
        return value
    return " ".join(flat(value[1:] if prop.head.field.path == "custom" else value))


def _part_name(name: str, index: int) -> str:
    parts = by_path({"adr": "address"}.get(name, name))[0].parts
    if name == "org":
        return "the organisation" if index == 0 else f"unit {index}"
    return parts[index] if index < len(parts) else f"part {index + 1}"


Virtual = list[tuple[FieldPath, Cell, Column]]


def make_slots(virtual: Virtual) -> dict[str, Field]:
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
    return {word: Field(slots) for word, slots in fields.items()}


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


