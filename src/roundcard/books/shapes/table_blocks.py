"""Rows of a table as batches of one shape.

A place of a contact that only puts cells down gives its columns as they are; what any other place
makes of its cells is asked of it once for each different ones.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from itertools import chain
from typing import Any, NamedTuple

from roundcard.books.shapes.batch import Batch, Column, Ends, Item
from roundcard.books.shapes.records import (
    ABSENT,
    GONE,
    MAYBE,
    THERE,
    Records,
    Seen,
    Source,
    Take,
    everything,
    taking,
)
from roundcard.books.shapes.work import Block, Into
from roundcard.card.contact import Contact, Property
from roundcard.card.fields import CUSTOM
from roundcard.card.head import Value
from roundcard.card.origin import pack, reason_in
from roundcard.formats import csv
from roundcard.formats.csv import Row
from roundcard.formats.grid import Grid
from roundcard.formats.sheets import unguarded
from roundcard.layouts.column_compiler import Build, Place, Plain
from roundcard.layouts.model import Every
from roundcard.layouts.row_reader import RowReader, of_layout, said_of_everybody
from roundcard.tally import Findings, Reason, Tally, added_by, reason_of
from roundcard.values.set_value import put

_MOST_KNOWN = 50_000
_RARE_SPACE = "\t\n\r\x0b\x0c\x1c\x1d\x1e\x1f"
_SPACE = re.compile(r"\|\s")
"""A cell that begins with white space, or a mark in a cell before some."""

Cells = Sequence[str]
SetAside = Callable[[Row, int], None]
"""Sets a row aside that cannot be read; with the number of its record."""


class _Held(dict[object, Any]):
    """By the cells that a place was asked of, one thing that came of them."""

    def __init__(self, hole: Any) -> None:
        super().__init__()
        self.hole = hole
        """What stands for cells of which nothing came."""

    def __missing__(self, key: object) -> Any:
        return self.hole


class _Made(NamedTuple):
    """One property that a place makes: by the cells, its value, its undecoded text where it goes
    on as it is, and how its values end."""

    values: _Held
    raws: _Held
    ends: _Held


class _Cells:
    """A place that puts the text of one cell down."""

    def __init__(self, field: str, plain: Plain) -> None:
        self.tells = field == "name"
        self._at = plain.cells[0]
        self._items = (Item(plain.head, plain.label),)

    def look(self, records: _Rows) -> Seen:
        """See `Source`."""
        cells = records.columns[self._at]
        if "" not in cells:
            return Seen(THERE, tuple)
        return Seen(MAYBE if records.filled(self._at) else GONE, lambda: list(map(bool, cells)))

    def items(self, kind: int) -> Sequence[Item]:  # noqa: ARG002
        """See `Source`."""
        return self._items

    def columns(self, kind: int, records: _Rows, seen: Seen, take: Take) -> Iterator[Column]:  # noqa: ARG002
        """See `Source`."""
        joined = (records.joined[self._at],) if take is everything else None
        yield Column(take(records.columns[self._at]), joined=joined)


class _Parts:
    """A place that puts cells down as the components of one value."""

    def __init__(self, field: str, plain: Plain) -> None:
        self.tells = field == "name"
        self._cells = plain.cells
        self._lines = plain.lines
        self._items = (Item(plain.head),)

    def look(self, records: _Rows) -> Seen:
        """See `Source`; a cell that breaks into lines is none that is put down."""
        if self._lines >= 0 and "\n" in records.joined[self._lines]:
            street = records.columns[self._lines]
            records.odd |= {n for n, cell in enumerate(street) if "\n" in cell}
        filled = [records.columns[at] for at in self._cells if at >= 0 and records.filled(at)]
        if not filled:
            return Seen(GONE, tuple)
        if any("" not in cells for cells in filled):
            return Seen(THERE, tuple)
        kinds = list(map(any, zip(*filled, strict=True)))
        return Seen(THERE if all(kinds) else MAYBE, lambda: kinds)

    def items(self, kind: int) -> Sequence[Item]:  # noqa: ARG002
        """See `Source`."""
        return self._items

    def columns(self, kind: int, records: _Rows, seen: Seen, take: Take) -> Iterator[Column]:  # noqa: ARG002
        """See `Source`."""
        joined = [records.joined[at] for at in self._cells] if take is everything else None
        yield Column(parts=[take(records.columns[at]) for at in self._cells], joined=joined)


class _Asked:
    """A place that is asked of each different cells."""

    def __init__(
        self,
        field: str,
        build: Build,
        cells: tuple[int, ...],
        width: int,
        tally: Tally,
        *,
        quiet: bool = False,
    ) -> None:
        """`quiet` where somebody else tells what is found in these cells."""
        self.tells = field == "name"
        self._quiet = quiet
        self._cells = cells
        self._shapes: list[tuple[Item, ...]] = [()]
        self._build = build
        self._tally = tally
        self._row = [""] * (width + 1)
        self._ends = False
        """Whether any values had ends of their own."""
        self._kinds: dict[object, int] = {}
        """By cells, a number for the properties that come of them; `ABSENT` for none."""
        self._made: list[list[_Made]] = [[]]
        """By that number, what each of the properties is."""
        self._findings: dict[object, Findings] = {}
        self.grouped: set[object] = set()
        """The cells of which a group was made, whose name no other may have."""

    def look(self, records: _Rows) -> Seen:
        """See `Source`."""
        taken = [records.columns[at] for at in self._cells]
        keys: Sequence[object] = taken[0] if len(taken) == 1 else list(zip(*taken, strict=True))
        different = set(keys)
        known = self._kinds
        if len(known) > _MOST_KNOWN:
            self._forget()
        for key in [key for key in different if key not in known]:
            self._learn(key, (key,) if len(taken) == 1 else key)  # type: ignore[arg-type]
        if not self._findings.keys().isdisjoint(different):
            for n, key in enumerate(keys):
                if key in self._findings:
                    records.told.setdefault(n, []).append(self._findings[key])
        kinds = frozenset(map(known.__getitem__, different))
        return Seen(kinds, lambda: list(map(known.__getitem__, keys)), keys)

    def items(self, kind: int) -> Sequence[Item]:
        """See `Source`."""
        return self._shapes[kind]

    def columns(self, kind: int, records: _Rows, seen: Seen, take: Take) -> Iterator[Column]:  # noqa: ARG002
        """See `Source`; empty values stand for those of rows that have none."""
        keys = take(seen.told)
        for made in self._made[kind]:
            column = Column(list(map(made.values.__getitem__, keys)))
            if self._ends:
                column.ends = list(map(made.ends.__getitem__, keys))
            if made.raws:
                column.raws = list(map(made.raws.__getitem__, keys))
            yield column

    def _forget(self) -> None:
        self._kinds.clear()
        self._findings.clear()
        self.grouped.clear()
        for each in self._made:
            for held in chain.from_iterable(each):
                held.clear()

    def _learn(self, key: object, texts: Sequence[str]) -> None:
        for at, text in zip(self._cells, texts, strict=True):
            self._row[at] = text
        contact = Contact([])
        _, findings = self._tally.overhear(lambda: self._build(self._row, pack(0, 1), contact))
        if findings and not self._quiet:
            self._findings[key] = findings
        props = contact.properties
        labels = contact.labels()
        items = tuple([_item_of(prop, labels) for prop in props])
        if items not in self._shapes:
            self._shapes.append(items)
            self._made.append([_made_like(prop) for prop in props])
        kind = self._kinds[key] = self._shapes.index(items)
        if any(prop.head.group for prop in props):
            self.grouped.add(key)
        for prop, made in zip(props, self._made[kind], strict=True):
            made.values[key] = _value_of(prop)
            made.ends[key] = ends = _ends_of(prop)
            self._ends = self._ends or ends is not None
            if prop.raw is not None:
                made.raws[key] = prop.raw


def _made_like(prop: Property) -> _Made:
    hole: Value = "" if isinstance(_value_of(prop), str) else ()
    return _Made(_Held(hole), _Held(""), _Held(()))


def _item_of(prop: Property, labels: dict[str, str]) -> Item:
    head = prop.head
    label = str(prop.components[0]) if head.name == CUSTOM else labels.get(head.group.lower(), "")
    return Item(head, label, rides=prop.rides)


def _value_of(prop: Property) -> Value:
    """The value; of what no standard field holds the text without its label."""
    return str(prop.components[1]) if prop.head.name == CUSTOM else prop.value


def _ends_of(prop: Property) -> Ends | None:
    found = []
    for origin, count in Tally.ends(prop):
        number = reason_in(origin)
        found.append((reason_of(number) if number else None, count))
    if found == [(None, 1)] and isinstance(prop.value, str):
        return None
    return tuple(found)


class _Fixed(NamedTuple):
    """A column whose cells are left out where they hold what was expected."""

    at: int
    text: str | None
    reason: Reason


class TableBlocks:
    """Makes blocks of the rows of one table, as `RowReader` makes a contact of each."""

    def __init__(self, reader: RowReader, tally: Tally) -> None:
        self.reader = reader
        self.sources: list[Source] = []
        width = reader.width + len(reader.made.cells)
        every = _by_field(reader.layout.every, reader.places)
        self.possible = every is not None
        behind: list[Source] = []

        def asked(place: Place | None, wanted: Sequence[Every], *, later: bool) -> _Asked:
            build = _with_every(place, wanted, later=later)
            cells = place.cells if place is not None else (width,)
            return _Asked(wanted[0].holds.field, build, cells, width, tally, quiet=later)

        for place in reader.places:
            field = place.path.field
            if every and field in every:
                self.sources.append(asked(place, every[field], later=False))
                behind.append(asked(place, every[field], later=True))
            elif place.plain is None:
                self.sources.append(_Asked(field, place.build, place.cells, width, tally))
            else:
                plain = _Parts if place.plain.parts else _Cells
                self.sources.append(plain(field, place.plain))
        fields = {place.path.field for place in reader.places}
        behind += [asked(None, wanted, later=True)
                   for field, wanted in (every or {}).items() if field not in fields]  # fmt: skip
        self.own = len(self.sources)
        """How many of the sources read cells; the others say what the layout says of everybody."""
        self.sources += behind
        self.fixed = [_Fixed(at, text, said_of_everybody(label))
                      for at, label, text in reader.apart]  # fmt: skip

    def block(
        self, rows: Sequence[Cells], first: int, aside: dict[int, Row], set_aside: SetAside
    ) -> TableBlock:
        """A block of rows, of which the first is record number `first`; those in `aside`, by their
        place, are set aside."""
        return TableBlock(self, rows, first, aside, set_aside)


class _Rows(Records):
    """The columns of some rows."""

    def __init__(self, blocks: TableBlocks, rows: Sequence[Cells], aside: Collection[int]) -> None:
        super().__init__(blocks.sources, len(rows))
        self.odd |= set(aside)
        self._blocks = blocks
        self._reader = blocks.reader
        self.emptied: list[tuple[int, list[int]]] = []
        """The cells that mean nothing: column, and rows."""
        self.told: dict[int, list[Findings]] = {}
        self.joined: list[str] = []
        """All cells of each column together, a mark before each."""
        self.columns = self._cells(rows)

    def filled(self, at: int) -> bool:
        """Whether a column holds anything."""
        return len(self.joined[at]) > self.size

    def look(self) -> None:
        """See what the sources make of the rows, and which rows are odd whatever they are written
        into."""
        super().look()
        seen = self.seen[: self._blocks.own]
        if all(ABSENT in each.kinds for each in seen):
            # a blank row, or one that nobody wants, is no contact
            there = [each.kind_of() for each in seen if any(each.kinds)]
            filled = list(map(any, zip(*there, strict=True))) if there else [False] * self.size
            self.odd |= {n for n, any_there in enumerate(filled) if not any_there}
        columns, reader = self.columns, self._reader
        self.odd |= reader.damage.broken(columns, self.joined)
        for at, text, _ in self._blocks.fixed:
            if set(columns[at]) - {"", text}:
                self.odd |= {n for n, cell in enumerate(columns[at]) if cell not in ("", text)}
        for at in reader.photo_columns:
            self.odd |= {n for n, cell in enumerate(columns[at]) if cell}
        groups = [[key in source.grouped for key in each.told]
                  for source, each in zip(self.sources, self.seen, strict=True)
                  if isinstance(source, _Asked) and source.grouped]  # fmt: skip
        if len(groups) > 1:  # no group may have the name of another
            self.odd |= {n for n, each in enumerate(zip(*groups, strict=True)) if sum(each) > 1}

    def _cells(self, rows: Sequence[Cells]) -> list[Cells]:
        """The columns, made cells and an empty one behind them."""
        reader = self._reader
        columns: list[Cells] = []
        for at, cells in enumerate(self._as_they_came(rows)):
            joined = _join(cells)
            if "\r" in joined:
                cells = csv.in_one_way(cells)
                joined = _join(cells)
            if _may_be_blank(joined) and any(map(str.isspace, cells)):
                cells = ["" if cell.isspace() else cell for cell in cells]
                joined = _join(cells)
            if reader.layout.formula_guard:
                cells = list(map(unguarded, cells))
                joined = _join(cells)
            if reader.empty:
                gone = [n for n, cell in enumerate(cells) if cell and cell.strip() in reader.empty]
                if gone:
                    self.emptied.append((at, gone))
                    out = set(gone)
                    cells = ["" if n in out else cell for n, cell in enumerate(cells)]
                    joined = _join(cells)
            columns.append(cells)
            self.joined.append(joined)
        for taken, make in reader.made.cells:
            columns.append(list(map(make, *[columns[at] for at in taken])))
            self.joined.append(_join(columns[-1]))
        columns.append([""] * len(rows))
        self.joined.append("|" * len(rows))
        return columns

    def _as_they_came(self, rows: Sequence[Cells]) -> Iterable[Cells]:
        """The columns of the layout; rows that are wider are odd."""
        width = self._reader.width
        if isinstance(rows, Grid) and len(rows.columns) == width:
            return rows.columns
        if set(map(len, rows)) != {width}:
            self.odd |= {n for n, row in enumerate(rows) if len(row) > width}
            rows = [[*row[:width], *[""] * (width - len(row))] for row in rows]
        return zip(*rows, strict=True)


class TableBlock(Block):
    """Some rows that follow each other."""

    def __init__(
        self,
        blocks: TableBlocks,
        rows: Sequence[Cells],
        first: int,
        aside: dict[int, Row],
        set_aside: SetAside,
    ) -> None:
        super().__init__(len(rows))
        self._blocks = blocks
        self._reader = blocks.reader
        self._rows = rows
        self._first = first
        self._aside = aside
        self._set_aside = set_aside
        self._taken: list[int] = []
        self._records = _Rows(blocks, rows, aside)

    def batches(self, into: Into) -> Iterator[Batch]:
        """The rows by their shapes, without those that go the long way in any case."""
        self._records.look()
        self.told = self._records.told
        yield from self._records.batches(into)

    def count(self, batch: Batch) -> None:
        """Count that the rows of a batch were read."""
        tally = self._reader.tally
        tally.people.read += len(batch)
        tally.values.read += batch.read()
        self._taken += batch.places

    def origin(self, at: int) -> int:
        """The origin of one row."""
        return pack(self._reader.source, self._first + at)

    def long(self, at: int) -> Iterator[Contact]:
        """The contact of one row, made the long way; none where there is none."""
        row = self._aside.get(at)
        if row is not None:
            self._set_aside(row, self._first + at)
            return
        contact = self._reader.contact(csv.in_one_way(self._rows[at]), self._first + at)
        if contact is not None:
            yield contact

    def end(self) -> None:
        """Count what was left out of the rows that did not go the long way."""
        reader, tally, columns = self._reader, self._reader.tally, self._records.columns
        if not self._taken:
            return
        every = len(self._taken) == len(self)
        take = taking(self._taken, len(self))
        left = 0
        for at, reason in [*reader.left_out, *[(each.at, each.reason) for each in
                                               self._blocks.fixed]]:  # fmt: skip
            cells = take(columns[at])
            count = len(cells) - cells.count("")
            tally.count(reason, count)
            left += count
        taken = set(self._taken) if not every else range(len(self))
        for at, places in self._records.emptied:
            count = sum([1 for n in places if n in taken])
            tally.count(reader.means_nothing(at), count)
            left += count
        tally.values.read += left
        if every:
            reader.damage.see_columns(columns, self._records.joined)
        else:
            reader.damage.see_columns([take(column) for column in columns])


def _join(cells: Cells) -> str:
    return "|" + "|".join(cells)


def _may_be_blank(joined: str) -> bool:
    """Whether a cell of a joined column may hold nothing but white space."""
    if joined.isascii():
        return "| " in joined or any(map(joined.__contains__, _RARE_SPACE))
    return bool(_SPACE.search(joined))


def _by_field(every: Sequence[Every], places: Sequence[Place]) -> dict[str, list[Every]] | None:
    """What the layout says of everybody, by the field; None where it cannot be told apart."""
    found: dict[str, list[Every]] = {}
    last = ""
    for each in every:
        field = each.holds.field
        if field in found and field != last:
            return None
        found.setdefault(field, []).append(each)
        last = field
    many = [field for field in found
            if sum(1 for place in places if place.path.field == field) > 1]  # fmt: skip
    return None if many else found


def _with_every(place: Place | None, wanted: Sequence[Every], *, later: bool) -> Build:
    """What a place makes, with what the layout says of everybody put into it; or, `later`, what
    comes of that behind all others."""

    def build(cells: Cells, base: int, contact: Contact) -> int:
        read = place.build(cells, base, contact) if place is not None else 0
        own = len(contact.properties)
        for each in wanted:
            put(contact, each.holds, each.value, added_by(of_layout(each)))
        if later:
            del contact.properties[:own]
            return 0
        del contact.properties[own:]
        return read

    return build
