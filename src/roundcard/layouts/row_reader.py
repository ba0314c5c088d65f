"""Rows to contacts: a layout, held against a table, compiled into one closure a place.

Reading a column, a value goes to the use and position that its path names, or to the next free
place; gaps close up.
"""

from __future__ import annotations

from typing import Protocol

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import CUSTOM
from roundcard.card.head import head
from roundcard.card.origin import PLACE_STEP, pack
from roundcard.card.paths import FieldPath
from roundcard.formats.sheets import unguarded
from roundcard.layouts.binding import Binding
from roundcard.layouts.column_compiler import Build, Place, places_of
from roundcard.layouts.damage import DamageWatch
from roundcard.layouts.inputs import Cells, Input, MadeCells, inputs_of, joined
from roundcard.layouts.model import Column, Every, Layout
from roundcard.tally import Fate, Reason, Tally, Why, added_by
from roundcard.values.set_value import put

_NOTHING_WANTED = Reason(Fate.LEFT_OUT, Why.NOTHING_WANTED)


_PICTURES = frozenset({"photo", "logo"})
"""Fields whose values stand in files beside a table."""


class BringsPhotos(Protocol):
    """Brings the photos that stand beside a table."""

    def bring(self, cell: str) -> str | None:
        """The photo that a cell names, as a ``data:`` URI; None where there is none."""


class RowReader:
    """Makes contacts from the rows of one table."""

    def __init__(
        self,
        layout: Layout,
        binding: Binding,
        source: int,
        tally: Tally,
        photos: BringsPhotos | None = None,
    ) -> None:
        self.layout = layout
        self.binding = binding
        self.source = source
        self.tally = tally
        self.empty = layout.empty
        self.width = binding.width
        self.headings = {at: column.name for at, column in binding.columns}
        self.headings |= {at: heading for at, heading in binding.unlisted if heading}
        self.left_out: list[tuple[int, Reason]] = []
        self.apart: list[tuple[int, str, str | None]] = []
        """Columns that hold nothing by rights: index, label, and the text that is expected."""
        inputs: list[Input] = []
        self.made = MadeCells(binding.width)
        for at, column in binding.columns:
            if column.skip:
                self.left_out.append((at, left_out(Why.COLUMN_SKIPPED, column.name)))
            elif column.blank or column.fixed is not None:
                self.apart.append((at, column.heading or column.name, column.fixed))
            else:
                inputs += inputs_of(at, column, self.made)
        for at, heading in binding.unlisted:
            name = heading or f"column {at + 1}"
            if layout.unlisted == "skip":
                self.left_out.append((at, left_out(Why.COLUMN_UNLISTED, name)))
            else:
                column = Column(heading=name, holds=(FieldPath("custom", label=name),))
                inputs += inputs_of(at, column, self.made)
        self.photos = photos
        self.photo_columns = {each.at: each.path.field for each in inputs
                              if each.path.field in _PICTURES and each.own}  # fmt: skip
        self.places = compile_inputs(joined(inputs, self.made), tally)
        self.builds = [place.build for place in self.places]
        self.damage = DamageWatch(inputs, source, tally)

    def contact(self, cells: list[str], record: int) -> Contact | None:
        """The contact of a row that is not blank; None where nothing in it is wanted."""
        tally = self.tally
        cells = ["" if cell.isspace() else cell for cell in cells]
        extra = cells[self.width :]
        cells = cells[: self.width] + [""] * (self.width - len(cells))
        if self.layout.formula_guard:
            cells = [unguarded(cell) for cell in cells]
            extra = [unguarded(cell) for cell in extra]
        emptied = self.empty_out(cells, 0) + self.empty_out(extra, self.width) if self.empty else 0
        self.damage.see(cells, record)
        if self.photo_columns and self.photos is not None:
            self.bring_photos(self.photos, cells, record)
        self.made.extend(cells)
        cells.append("")  # for parts that have no column
        base = pack(self.source, record)
        contact = Contact([], base)
        size = 0
        for build in self.builds:
            size += build(cells, base, contact)
        left = 0
        for at, reason in self.left_out:
            if cells[at]:
                left += 1
                tally.count(reason, 1)
        if self.apart:
            apart, kept = self.keep_apart(cells, base, contact, record)
            left += apart
            size += kept
        if extra:
            size += self.keep_extra(extra, base, contact, record)
        tally.values.read += size + left + emptied
        if not size:
            # without any value of its own the row is blank, or nobody wants what it holds
            tally.people.read += 1
            if left:
                tally.count(_NOTHING_WANTED, people=1)
            else:
                tally.people.blank += 1
            return None
        tally.people.read += 1
        for every in self.layout.every:
            put(contact, every.holds, every.value, added_by(of_layout(every)))
        return contact

    def empty_out(self, cells: list[str], first: int) -> int:
        """Empty the cells that mean nothing; how many there are. `first` is the first one's
        column."""
        count = 0
        for at, cell in enumerate(cells):
            if cell and cell.strip() in self.empty:
                cells[at] = ""
                count += 1
                self.tally.count(self.means_nothing(first + at), 1)
        return count

    def means_nothing(self, at: int) -> Reason:
        """Why cells of a column that mean nothing are left out."""
        return left_out(Why.MEANS_NOTHING, self.headings.get(at) or f"column {at + 1}")

    def end(self) -> None:
        """At the end of the rows: add up what was seen of a spreadsheet program's damage."""
        self.damage.end()

    def bring_photos(self, photos: BringsPhotos, cells: list[str], record: int) -> None:
        """Put the photos that cells name into the cells."""
        for at, field in self.photo_columns.items():
            if cells[at] and not cells[at].startswith("data:") and "://" not in cells[at]:
                photo = photos.bring(cells[at])
                if photo is None and field != "photo" and "." not in cells[at]:
                    continue  # words, and no name of a file
                if photo is None:
                    self.tally.find("photos whose files were not found; the names were kept",
                                    "record", record)  # fmt: skip
                else:
                    cells[at] = photo

    def keep_apart(self, cells: Cells, base: int, contact: Contact, record: int) -> tuple[int, int]:
        """Cells of fixed and blank columns: what was expected is left out, the rest kept.

        Gives how many were left out and how many kept.
        """
        left = kept = 0
        for at, label, fixed in self.apart:
            cell = cells[at]
            if not cell:
                continue
            if cell == fixed:
                left += 1
                self.tally.count(said_of_everybody(label), 1)
                continue
            what = f"'{fixed}'" if fixed is not None else "nothing"
            self.tally.find(f"column '{label}' should contain {what} and does not; kept",
                            "record", record)  # fmt: skip
            origin = base + (at + 1) * PLACE_STEP
            contact.properties.append(Property(head(CUSTOM), (label, cell), origin))
            kept += 1
        return left, kept

    def keep_extra(self, cells: Cells, base: int, contact: Contact, record: int) -> int:
        """Cells beyond the last column are kept under their number; how many there are."""
        kept = 0
        for at, cell in enumerate(cells, self.width):
            if cell:
                label = f"column {at + 1}"
                self.tally.find("a row is longer than the headings; the extra cells were kept",
                                "record", record)  # fmt: skip
                origin = base + (at + 1) * PLACE_STEP
                contact.properties.append(Property(head(CUSTOM), (label, cell), origin))
                kept += 1
        return kept


def said_of_everybody(label: str) -> Reason:
    """Why the cell of a fixed column is left out."""
    return left_out(Why.COLUMN_FIXED, label)


def left_out(why: Why, column: str) -> Reason:
    """Why the cells of a column, or some of them, are left out."""
    return Reason(Fate.LEFT_OUT, why, details=(column,))


def of_layout(every: Every) -> Reason:
    """Why everybody has a value."""
    return Reason(Fate.ADDED, Why.BY_LAYOUT, str(every.holds), (every.value,))


def compile_inputs(inputs: list[Input], tally: Tally) -> list[Place]:
    """The places of the contact that the columns fill, in the order of the table."""
    groups: dict[tuple[object, ...], list[Input]] = {}
    for number, each in enumerate(inputs):
        path = each.path
        part_of_one = path.part or path.field in ("org", "gender") or path.position
        key: tuple[object, ...] = path.place
        if path.field in ("category", "nickname"):
            key = (path.field,)
        elif not part_of_one or each.many:
            has_parts = any(o.path.part and o.path.place == path.place for o in inputs)
            if each.many or not has_parts:
                key = (*path.place, number)
        groups.setdefault(key, []).append(each)
    return _placed([place for group in groups.values() for place in places_of(group, tally)])


def _placed(places: list[Place]) -> list[Place]:
    """Put the values of one field in the order that their positions ask for."""
    fields: dict[str, list[Place]] = {}
    for place in places:
        fields.setdefault(place.path.field, []).append(place)
    done: set[str] = set()
    out: list[Place] = []
    for place in places:
        group = fields[place.path.field]
        if not any(each.path.position for each in group):
            out.append(place)
        elif place.path.field not in done:
            done.add(place.path.field)
            out += _in_order(group)
    return out


def _in_order(group: list[Place]) -> list[Place]:
    """Values with a position go there, those with none to the next free place."""
    fixed = {each.path.position: each for each in group
             if each.path.position and not _used(each.path)}  # fmt: skip
    loose = [each for each in group if not each.path.position or _used(each.path)]
    # of one use, those with a position come first, in its order
    by_use: dict[object, list[Place]] = {}
    for each in loose:
        by_use.setdefault((each.path.uses, each.path.label), []).append(each)
    others = [
        each
        for places in by_use.values()
        for each in sorted(places, key=lambda place: place.path.position or 1000)
    ]
    if not others or not fixed:
        return others or [fixed[position] for position in sorted(fixed)]

    def build(cells: Cells, base: int, contact: Contact) -> int:
        placed: dict[int, list[Property]] = {}
        count = 0
        for position, one in fixed.items():
            found, values = _collect(one.build, cells, base, contact)
            count += values
            if found:
                placed[position] = found
        free: list[list[Property]] = []
        for one in others:
            found, values = _collect(one.build, cells, base, contact)
            count += values
            for prop in found:  # a label goes with its value
                if prop.rides and free:
                    free[-1].append(prop)
                else:
                    free.append([prop])
        position = 1
        while free or placed:
            if position in placed:
                contact.properties += placed.pop(position)
            elif free:
                contact.properties += free.pop(0)
            position += 1
        return count

    return [Place(group[0].path, build, tuple(at for each in group for at in each.cells))]


def _used(path: FieldPath) -> bool:
    return bool(path.uses or path.label)


def _collect(build: Build, cells: Cells, base: int, contact: Contact) -> tuple[list[Property], int]:
    """What a closure would add, taken off the contact again, and how many values that is."""
    before = len(contact.properties)
    count = build(cells, base, contact)
    found = contact.properties[before:]
    del contact.properties[before:]
    return found, count
