"""Batches of records into the rows of a table.

Where the values of a shape go is told by the heads of its properties, as long as no value is
refused: it is asked once for each shape. Where it hangs on the values, what the long way does with
a field is kept for each different value.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from itertools import repeat
from operator import attrgetter
from types import MappingProxyType
from typing import NamedTuple

from roundcard.books.shapes.batch import Batch, Column, Ends, Item, Shape
from roundcard.books.shapes.decoding import components, decoded
from roundcard.books.shapes.work import Event
from roundcard.card.contact import Contact, Origin, Property
from roundcard.card.fields import CUSTOM
from roundcard.card.head import Value
from roundcard.card.names import says_same
from roundcard.card.origin import RIDES
from roundcard.layouts.cell import Cell, Row, RowDraft
from roundcard.layouts.column_allocation import is_uri
from roundcard.layouts.row_writer import FIXED, RowWriter
from roundcard.layouts.slots import PartsSlot, Slot
from roundcard.tally import (
    Fate,
    Reason,
    SetAside,
    Tally,
    Why,
    added_by,
    changed_by,
    derived_by,
)
from roundcard.values.extensions import shown_extension

_MOST_PLANS, _MOST_KNOWN = 4_000, 20_000
_SAYS_PARTS = Reason(Fate.FOLDED, Why.PARTS_SAY_WHOLE, "name")
_NOWHERE = -1
_FAMILY, _GIVEN = 0, 1

_One = tuple[str | None, Value | None, Ends | None]
"""The undecoded or the decoded value of a property, and what came of it before."""
_Key = tuple[_One, ...]
PlaceIn = Callable[[RowDraft, list[Property]], int]
"""Puts the values of one field into a row; how many were written."""


class Odd(Exception):  # noqa: N818  # a signal, no error of the user's
    """Some records must go the long way."""

    def __init__(self, places: set[int]) -> None:
        super().__init__(places)
        self.places = places


class _Text(NamedTuple):
    """One text goes into one cell as it is."""

    item: int
    at: int
    encoding: str


class _Parts(NamedTuple):
    """Components go into cells of their own; what has none must be empty."""

    item: int
    cells: tuple[int, ...]
    encoding: str


class _Said(NamedTuple):
    """A whole name that only says again what the parts say."""

    item: int
    parts: int
    """The item that holds them."""


class _Asked(NamedTuple):
    """What is done hangs on the values: it is kept for each different ones."""

    items: tuple[int, ...]
    place: PlaceIn


_Action = _Text | _Parts | _Said


class _Field(NamedTuple):
    """What is done with the values of one field."""

    simple: tuple[_Action, ...]
    """What does for all values that find their cells; nothing where that cannot be told."""
    asked: _Asked
    """What does for any values."""
    constant: Mapping[int, str] = MappingProxyType({})
    """Cells that are the same in all rows then: what is said of the uses of values."""


class _Plan(NamedTuple):
    """How rows of one shape are written."""

    fields: list[_Field]
    altered: dict[int, Reason | None]
    """The items that are placed whole, and what is not kept of their values, if anything."""


class _Counted(NamedTuple):
    """What is counted of the values of a field."""

    written: int
    carried: int
    why: tuple[tuple[Reason, int], ...]


class _Filled(NamedTuple):
    """What the long way does with the values of a field."""

    cells: dict[int, str]
    counted: int
    """What is counted, by its number: many do the same."""
    left: tuple[tuple[Property, Reason], ...]
    """What is left behind, and why."""
    tells: bool
    """Whether there is anything to tell of the record."""


_COUNTED_OF = attrgetter("counted")


class IntoRows:
    """Writes batches as rows, as `RowWriter` writes each contact."""

    labels = True

    def __init__(self, writer: RowWriter, give: Callable[[Sequence[Sequence[str]]], None]) -> None:
        """`give` takes the rows of records that follow each other."""
        self.give = give
        self._writer = writer
        self._plans: dict[Shape, _Plan | None] = {}
        self._known: dict[tuple[Item, ...], dict[_Key, _Filled]] = {}
        self._counted: list[_Counted] = []
        self._numbers: dict[_Counted, int] = {}
        self._blank = writer.blank_row + writer.no_cells
        self._made: _Plan | None = None
        self._batch: Batch | None = None
        self._whole: tuple[int, ...] = ()
        """The items that `make` placed whole."""
        self._asked: list[list[_Filled]] = []
        self._folded = 0
        self._parts: dict[int, list[Sequence[str]]] = {}

    def takes_optional(self, shape: Shape) -> bool:  # noqa: ARG002
        """No: where a value goes hangs on what else is there."""
        return False

    def make(self, batch: Batch) -> tuple[Sequence[Sequence[str]], set[int]]:
        """The row of each record, or the places of those that must go the long way."""
        plan = self._plan_of(batch.shape)
        if plan is None:
            return (), set(range(len(batch)))
        self._made, self._asked, self._folded, self._parts = plan, [], 0, {}
        if len(self._counted) > _MOST_PLANS:  # a hostile file must not fill the memory
            self._known.clear()
            self._counted.clear()
            self._numbers.clear()
        self._whole = ()
        self._batch = batch
        cells: dict[int, Sequence[str]] = {}
        blank = self._blank.copy()
        try:
            for field in plan.fields:
                homeless = any(self._is_homeless(batch, each) for each in field.simple
                               if isinstance(each, _Parts))  # fmt: skip
                if homeless or not field.simple:
                    self._ask(cells, batch, field.asked)
                    continue
                for action in field.simple:
                    self._fill(cells, batch, action)
                self._whole += field.asked.items
                for index, text in field.constant.items():
                    blank[index] = text
            if not self._whole:  # somebody of whom nothing may find a cell
                _demand([any(self._counted[each.counted].written for each in filled) for filled
                         in zip(*self._asked, strict=True)])  # fmt: skip
        except Odd as odd:
            return (), odd.places
        columns = [cells.get(index) or repeat(text, len(batch))
                   for index, text in enumerate(blank)]  # fmt: skip
        rows: list[Sequence[str]] = list(zip(*columns, strict=True))
        writer = self._writer
        if writer.behind or writer.layout.formula_guard:
            rows = [writer.put_together(list(row)) for row in rows]
        return rows, set()

    def count(self, batch: Batch) -> None:
        """Count what `make` made of the batch last."""
        tally, count, fixed = self._writer.tally, len(batch), self._writer.fixed
        plan = self._made
        altered = plan.altered if plan is not None else {}
        written = batch.count(tally, {at: altered[at] for at in self._whole if at in altered})
        times_of: Counter[int] = Counter()
        for column in self._asked:
            times_of.update(map(_COUNTED_OF, column))
        for number, times in times_of.items():
            counted = self._counted[number]
            written += counted.written * times
            tally.values.carried += counted.carried * times
            for reason, values in counted.why:
                tally.count(reason, values * times)
        tally.count(_SAYS_PARTS, self._folded)
        tally.count(FIXED, fixed * count)
        tally.values.written += written + fixed * count
        tally.people.carried += count
        tally.people.written += count

    def events(self) -> dict[int, Event]:
        """What `make` left behind last, by the record's place in the batch."""
        batch = self._batch
        if batch is None or self._writer.tally.sink is None:
            return {}
        return {at: _leaver(batch, at, left) for at, left in self._left().items()}

    def _left(self) -> dict[int, list[tuple[Property, Reason]]]:
        found: dict[int, list[tuple[Property, Reason]]] = {}
        for column in self._asked:
            for at, filled in enumerate(column):
                if filled.left:
                    found.setdefault(at, []).extend(filled.left)
        return found

    def _plan_of(self, shape: Shape) -> _Plan | None:
        if shape in self._plans:
            return self._plans[shape]
        plan = _Planner(self._writer, shape).plan()
        if len(self._plans) < _MOST_PLANS:
            self._plans[shape] = plan
        return plan

    def _fill(self, cells: dict[int, Sequence[str]], batch: Batch, action: _Action) -> None:
        """Do one action. Raises `Odd`."""
        if isinstance(action, _Text):
            item, column = batch.shape[action.item], batch.columns[action.item]
            unknown = item.head.field.kind == "raw" and column.raws is not None
            texts = [shown_extension(raw) for raw in column.raws or ()] if unknown \
                else decoded(item.head, column)  # fmt: skip
            if column.raws is not None and item.head.name == "tel":
                _demand([text[:4].lower() != "tel:" for text in column.raws])
            cells[action.at] = _writable(texts, action.encoding)  # type: ignore[arg-type]
        elif isinstance(action, _Parts):
            for index, part in enumerate(self._components(batch, action.item)):
                if any(part):
                    cells[action.cells[index]] = _writable(part, action.encoding)
        else:
            self._say(batch, action)

    def _is_homeless(self, batch: Batch, action: _Parts) -> bool:
        """Whether a component has no cell in some record that has it. Raises `Odd`."""
        parts = self._components(batch, action.item)
        ats = [*action.cells, *[_NOWHERE] * len(parts)]
        return any(at == _NOWHERE and any(part) for at, part in zip(ats, parts, strict=False))

    def _components(self, batch: Batch, item: int) -> list[Sequence[str]]:
        """The columns of components of a structured value. Raises `Odd`."""
        found = self._parts.get(item)
        if found is None:
            parts, odd = components(batch.shape[item].head, batch.columns[item])
            if odd:
                raise Odd(odd)
            found = self._parts[item] = parts
        return found

    def _say(self, batch: Batch, action: _Said) -> None:
        """See that whole names say what the parts say."""
        parts = self._components(batch, action.parts)
        wholes = decoded(batch.shape[action.item].head, batch.columns[action.item])
        usual = [f"{given} {family}" for given, family in zip(parts[_GIVEN], parts[_FAMILY],
                                                              strict=True)]  # fmt: skip
        if usual != wholes:
            same = [whole == name or says_same(str(whole), value) for whole, name, value
                    in zip(wholes, usual, zip(*parts, strict=True), strict=True)]  # fmt: skip
            _demand(same)
        self._folded += len(batch)

    def _ask(self, cells: dict[int, Sequence[str]], batch: Batch, action: _Asked) -> None:
        """Fill the cells of a field as the long way fills them. Raises `Odd`."""
        items = tuple([batch.shape[at] for at in action.items])
        columns = [batch.columns[at] for at in action.items]
        if len(self._known) > _MOST_PLANS:  # a hostile file must not fill the memory
            self._known.clear()
        known = self._known.setdefault(items, {})
        if len(known) > _MOST_KNOWN:
            known.clear()
        keys: list[_Key] = list(zip(*[_keys(column) for column in columns], strict=True))
        different = set(keys)
        for key in different:
            if key not in known:
                known[key] = self._filled(items, key, action.place)
        filled = list(map(known.__getitem__, keys))
        if any(known[key].tells for key in different):
            raise Odd({at for at, each in enumerate(filled) if each.tells})
        self._asked.append(filled)
        for index in {index for key in different for index in known[key].cells}:
            cells[index] = [each.cells.get(index, "") for each in filled]

    def _filled(self, items: Sequence[Item], key: _Key, place: PlaceIn) -> _Filled:
        """What the long way does with values."""
        sink = _Left()
        tally = Tally(sink)
        props, labels = [], {}
        for item, (raw, value, ends) in zip(items, key, strict=True):
            if item.head.name == CUSTOM:
                value = (item.label, str(value))
            elif item.head.group:
                labels[item.head.group.lower()] = item.label
            prop = Property(item.head, value, RIDES if item.rides else 0, raw)
            if ends is not None:
                prop.origin = _origins(prop, ends)
            props.append(prop)
        row: Row = [""] * len(self._blank)
        draft = RowDraft(Contact(props), row, tally, None, labels)
        written = place(draft, props)
        cells = {index: text for index, text in enumerate(row) if text}
        counted = _Counted(written, tally.values.carried, tuple(tally.why.items()))
        number = self._numbers.get(counted)
        if number is None:
            number = self._numbers[counted] = len(self._counted)
            self._counted.append(counted)
        return _Filled(cells, number, tuple(sink.left), bool(tally.findings))


def _leaver(batch: Batch, at: int, left: Sequence[tuple[Property, Reason]]) -> Event:
    """Tells the sink what was left behind of a record."""

    def leave(origin: int, tally: Tally) -> None:
        contact = batch.contact(at, origin)
        for prop, reason in left:
            if tally.sink is not None:
                tally.sink.left_behind(contact, prop, reason)

    return leave


class _Left:
    """A tally's sink that keeps what is left behind."""

    def __init__(self) -> None:
        self.left: list[tuple[Property, Reason]] = []

    def left_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:  # noqa: ARG002
        """Keep it."""
        self.left.append((prop, reason))

    def set_aside(self, item: SetAside) -> None:
        """Nothing is read here."""


class _Planner:
    """Works out what is done with records of one shape."""

    def __init__(self, writer: RowWriter, shape: Shape) -> None:
        self._writer = writer
        self._shape = shape
        self._made = _Plan([], {})

    def plan(self) -> _Plan | None:
        """The plan; None where such records must go the long way, one by one."""
        fields: dict[str, list[int]] = {}
        names = []
        for at, item in enumerate(self._shape):
            head = item.head
            if head.name in ("n", "fn"):
                names.append(at)
            elif head.coded or (head.field.kind == "media" and self._writer.photos is not None):
                return None
            elif not item.rides:
                label = item.label if head.name == CUSTOM else head.name.upper()
                fields.setdefault(self._writer.word_of(head, label), []).append(at)
        if names and not self._names(names):
            return None
        if not all(self._field(word, items) for word, items in fields.items()):
            return None
        return self._made if self._made.fields else None

    def _names(self, items: list[int]) -> bool:
        """Plan the whole name and its parts."""
        names, shape = self._writer.names, self._shape
        there = [at for at in items if not shape[at].empty]
        parts = [at for at in there if shape[at].head.name == "n" and not shape[at].rides]
        wholes = [at for at in there if shape[at].head.name == "fn" and not shape[at].rides]
        usual = len(parts) <= 1 and len(wholes) <= 1
        usual = usual and sum(1 for at in items if shape[at].head.name == "n") <= 1
        usual = usual and not any(shape[at].head.altid for at in there)
        if parts:
            usual = usual and bool(names.parts) and all(c.plain for c in names.parts.values())
        elif wholes:
            usual = usual and len(there) == 1 and names.whole is not None
        if names.whole is not None:
            usual = usual and names.whole.plain
        asked = _Asked(tuple(items), names.place)
        if not usual:
            self._made.fields.append(_Field((), asked))
            return True
        actions: list[_Action] = []
        for at in parts:
            actions.append(_Parts(at, *_by_index(names.parts)))
            self._made.altered[at] = None
        for at in wholes:
            if names.whole is not None:
                action: _Action = _Text(at, names.whole.index, names.whole.encoding)
                self._made.altered[at] = None
            else:
                action = _Said(at, parts[0])
            actions.append(action)
        if actions:
            self._made.fields.append(_Field(tuple(actions), asked))
        return True

    def _field(self, word: str, items: list[int]) -> bool:
        """Plan the values of one field; false where they cannot be placed."""
        writer, shape = self._writer, self._shape
        field = writer.fields.get(word)
        empty = [shape[at].empty for at in items]
        if all(empty):
            return True
        room = field.room if field is not None else 0
        if writer.widens and word.startswith("custom/") and len(items) > room:
            return False
        heads = [shape[at].head for at in items]
        labels = [shape[at].label if shape[at].head.name != CUSTOM else "" for at in items]
        slots = None
        if field is not None and word not in writer.every and not any(empty):
            slots = field.assignment(heads, labels)

        def place(draft: RowDraft, props: list[Property]) -> int:
            return writer.place_field(draft, word, props)

        asked = _Asked(tuple(items), place)
        if slots is None or not all(map(self._simple, slots, [shape[at] for at in items])):
            self._made.fields.append(_Field((), asked))
            return True
        actions: list[_Action] = []
        constant: dict[int, str] = {}
        for number, (slot, at, label) in enumerate(zip(slots, items, labels, strict=True)):
            head = heads[number]
            use, preferred = slot.says(head, label)
            for cell, said in ((slot.use, use), (slot.preferred, preferred)):
                if cell is not None:
                    constant[cell.index] = said
            self._made.altered[at] = slot.loses(head, label, first=number == 0)
            if isinstance(slot, PartsSlot):
                actions.append(_Parts(at, *_by_index(slot.parts)))
            elif slot.value is not None:
                actions.append(_Text(at, slot.value.index, slot.value.encoding))
        self._made.fields.append(_Field(tuple(actions), asked, constant))
        return True

    @staticmethod
    def _simple(slot: Slot, item: Item) -> bool:
        """Whether any text can go into a slot as it is."""
        if isinstance(slot, PartsSlot):
            cells = slot.parts.values()
            return not slot.lines and bool(cells) and all(cell.plain for cell in cells) \
                and item.head.name != "label"  # fmt: skip
        plain = type(slot) is Slot and slot.value is not None and slot.value.plain
        plain = plain and slot.extension is None and not slot.many
        return plain and item.head.field.kind not in ("geo", "media", "list") \
            and not is_uri(item.head)  # fmt: skip


def _by_index(cells: Mapping[int, Cell]) -> tuple[tuple[int, ...], str]:
    """The cells of components by the component's index, and the character set that they lack."""
    size = max(cells) + 1
    found = tuple(cells[at].index if at in cells else _NOWHERE for at in range(size))
    return found, next((cell.encoding for cell in cells.values()), "")


def _origin_of(reason: Reason | None) -> int:
    """An origin of a value that tells of a reason."""
    if reason is None:
        return 0
    if reason.fate is Fate.ADDED:
        return added_by(reason)
    return derived_by(reason) if reason.fate is Fate.DERIVED else changed_by(0, reason)


def _origins(prop: Property, ends: Ends) -> Origin:
    """The origins of a property's values, which tell of the reasons."""
    if len(ends) == 1:
        return _origin_of(ends[0][0])
    each = iter(ends)
    return tuple([
        (_origin_of(next(each)[0]) if component else 0)
        if isinstance(component, str)
        else tuple([_origin_of(next(each)[0]) if text else 0 for text in component])
        for component in prop.components
    ])  # fmt: skip


def _keys(column: Column) -> Sequence[_One]:
    """The values of a column with all that the long way must know of them. Raises `Odd`."""
    if column.ends is not None:  # of a component of several values it is not known which is which
        _demand([ends is None or all(count == 1 for _, count in ends) for ends in column.ends])
    none = repeat(None)
    values: Iterable[Value | None] = none
    if column.parts is not None:
        values = zip(*column.parts, strict=True)
    elif column.values is not None:
        values = column.values
    return list(zip(column.raws or none, values, column.ends or none, strict=False))


def _writable(texts: Sequence[str], encoding: str) -> Sequence[str]:
    """The same texts; raises `Odd` where a character set lacks what they hold."""
    joined = "".join(texts) if encoding else ""
    if not joined.isascii():
        try:
            joined.encode(encoding)
        except UnicodeEncodeError:
            _demand([_can_be(text, encoding) for text in texts])
    return texts


def _can_be(text: str, encoding: str) -> bool:
    try:
        text.encode(encoding)
    except UnicodeEncodeError:
        return False
    return True


def _demand(good: Sequence[bool]) -> None:
    """Raise `Odd` for the records of which something is not so."""
    if not all(good):
        raise Odd({at for at, each in enumerate(good) if not each})
