"""Rows to contacts: a layout, held against a table, compiled into one closure a place.

Reading a column, a value goes to the use and position that its path names, or to the next free
place; gaps close up.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from roundcard.card.contact import Contact, Origin, Property
from roundcard.card.fields import CUSTOM, by_path
from roundcard.card.head import Head, Value, head, typed
from roundcard.card.origin import ADDED, CHANGED, PLACE_STEP, pack
from roundcard.card.paths import FieldPath
from roundcard.layouts.binding import Binding
from roundcard.layouts.model import Column, Layout
from roundcard.tally import Tally
from roundcard.values.cells import (
    YES,
    from_cell,
    read_uses,
    street_lines,
    with_extension,
)
from roundcard.values.dates import PartialDate, valid
from roundcard.values.putting import is_extension, part_index, put

TRIGGERS = ("=", "+", "-", "@", "\t", "\r")
"""A cell that begins so can run as a formula in a spreadsheet program."""

Cells = Sequence[str]
Get = Callable[[Cells], str]
Build = Callable[[Cells, int, Contact], None]
"""Takes a row, the origin of its record, and the contact to which it adds properties."""


class Input(NamedTuple):
    """A place of the contact, and where in the row its text comes from."""

    path: FieldPath
    get: Get
    column: int
    """Number of the column, from 1."""
    source: Column
    many: str = ""


class RowReader:
    """Makes contacts from the rows of one table."""

    def __init__(self, layout: Layout, binding: Binding, source: int, tally: Tally) -> None:
        self.layout = layout
        self.binding = binding
        self.source = source
        self.tally = tally
        self.empty = layout.empty
        self.width = binding.width
        self.headings = {at: column.name for at, column in binding.columns}
        self.left_out: list[tuple[int, str]] = []
        self.apart: list[tuple[int, str, str | None]] = []
        """Columns that hold nothing by rights: index, label, and the text that is expected."""
        inputs: list[Input] = []
        for at, column in binding.columns:
            if column.skip:
                self.left_out.append((at, f"column '{column.name}'"))
            elif column.blank or column.fixed is not None:
                self.apart.append((at, column.heading or column.name, column.fixed))
            else:
                inputs += _inputs(at, column, tally)
        for at, heading in binding.unlisted:
            name = heading or f"column {at + 1}"
            if layout.unlisted == "skip":
                self.left_out.append((at, f"column '{name}' (not listed)"))
            else:
                column = Column(heading=name, holds=(FieldPath("custom", label=name),))
                inputs += _inputs(at, column, tally)
        self.builds = compile_inputs(inputs, tally)

    def contact(self, cells: list[str], record: int) -> Contact | None:
        """The contact of a row that is not blank; None where nothing in it is wanted."""
        tally = self.tally
        if len(cells) < self.width:
            cells = cells + [""] * (self.width - len(cells))
        if self.layout.formula_guard:
            cells = [_unguarded(cell) for cell in cells]
        if self.empty:
            cells = ["" if cell.strip() in self.empty else cell for cell in cells]
        base = pack(self.source, record)
        contact = Contact([], base)
        for build in self.builds:
            build(cells, base, contact)
        left = 0
        for at, reason in self.left_out:
            if cells[at] and not cells[at].isspace():
                left += 1
                tally.leave_out(1, reason)
        if self.apart:
            left += self.keep_apart(cells, base, contact, record)
        if len(cells) > self.width:
            self.keep_extra(cells, base, contact, record)
        size = contact.size()
        tally.values.read += size + left
        if not size:
            # without any value of its own the row is blank, or nobody wants what it holds
            tally.people.read += 1
            if left:
                tally.leave_out_person("nothing but columns that are left out")
            else:
                tally.people.blank += 1
            return None
        tally.people.read += 1
        for every in self.layout.every:
            if put(contact, every.holds, every.value, ADDED):
                tally.why["added", f"{every.holds} '{every.value}' (layout)"] += 1
        return contact

    def keep_apart(self, cells: Cells, base: int, contact: Contact, record: int) -> int:
        """Cells of fixed and blank columns: what was expected is left out, the rest kept."""
        left = 0
        for at, label, fixed in self.apart:
            cell = cells[at]
            if not cell or cell.isspace():
                continue
            if cell == fixed:
                left += 1
                self.tally.leave_out(1, f"column '{label}' (the layout says it of everybody)")
                continue
            what = f"'{fixed}'" if fixed is not None else "nothing"
            self.tally.find(f"column '{label}' should hold {what} and does not; kept",
                            f"record {record}")  # fmt: skip
            origin = base + (at + 1) * PLACE_STEP
            contact.properties.append(Property(head(CUSTOM), (label, cell), origin))
        return left

    def keep_extra(self, cells: Cells, base: int, contact: Contact, record: int) -> None:
        """Cells beyond the last column are kept under their number."""
        for at in range(self.width, len(cells)):
            if cells[at] and not cells[at].isspace():
                label = f"column {at + 1}"
                self.tally.find("a row is longer than the headings; what is over was kept",
                                f"record {record}")  # fmt: skip
                origin = base + (at + 1) * PLACE_STEP
                contact.properties.append(Property(head(CUSTOM), (label, cells[at]), origin))


def _unguarded(cell: str) -> str:
    """The cell without the apostrophe that guards a trigger character; others keep theirs."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in TRIGGERS and cell[1:] else cell


def _inputs(at: int, column: Column, tally: Tally) -> list[Input]:
    """What a bound column gives: one place, or several where its cell holds several things."""
    if column.parted:
        last = len(column.holds) - 1

        def piece(number: int) -> Get:
            def get(cells: Cells) -> str:
                pieces = cells[at].split(column.parted, last)
                return pieces[number].strip() if number < len(pieces) else ""

            return get

        return [
            Input(path, piece(number), at + 1, column) for number, path in enumerate(column.holds)
        ]

    def cell(cells: Cells) -> str:
        text = cells[at]
        return "" if not text or text.isspace() else text

    return [Input(column.holds[0], cell, at + 1, column, column.many)]


def compile_inputs(inputs: list[Input], tally: Tally) -> list[Build]:
    """One closure for each place in the contact, in the order of the table."""
    places: dict[tuple[object, ...], list[Input]] = {}
    for number, each in enumerate(_joined(inputs)):
        path = each.path
        part_of_one = path.part or path.field in ("org", "gender") or path.position
        key: tuple[object, ...] = path.place
        if path.field in ("category", "nickname"):
            key = (path.field,)
        elif not part_of_one or each.many:
            has_parts = any(o.path.part and o.path.place == path.place for o in inputs)
            if each.many or not has_parts:
                key = (*path.place, number)
        places.setdefault(key, []).append(each)
    builds: list[tuple[FieldPath, Build]] = []
    for group in places.values():
        builds.append((group[0].path, _builder(group, tally)))
    return _placed(builds)


def _joined(inputs: list[Input]) -> list[Input]:
    """Columns that hold one place, with `join` between their cells, as one input."""
    found: dict[FieldPath, list[Input]] = {}
    for each in inputs:
        if each.source.join is not None:
            found.setdefault(each.path, []).append(each)
    out = []
    for each in inputs:
        together = found.get(each.path, [])
        if each.source.join is None or len(together) < 2:
            out.append(each)
        elif each is together[0]:
            out.append(each._replace(get=_join_of([i.get for i in together], each.source.join)))
    return out


def _join_of(gets: list[Get], mark: str) -> Get:
    return lambda cells: mark.join(filter(None, [get(cells) for get in gets]))


def _placed(builds: list[tuple[FieldPath, Build]]) -> list[Build]:
    """Put the values of one field in the order that their positions ask for."""
    fields: dict[str, list[tuple[FieldPath, Build]]] = {}
    for path, build in builds:
        fields.setdefault(path.field, []).append((path, build))
    done: set[str] = set()
    out: list[Build] = []
    for path, build in builds:
        group = fields[path.field]
        if not any(each.position for each, _ in group):
            out.append(build)
        elif path.field not in done:
            done.add(path.field)
            out.append(_in_order(group))
    return out


def _in_order(group: list[tuple[FieldPath, Build]]) -> Build:
    """Values with a position go there, those with none to the next free place."""
    fixed = {path.position: build for path, build in group if path.position and not _used(path)}
    loose = [pair for pair in group if not pair[0].position or _used(pair[0])]
    # of one use, those with a position come first, in its order
    by_use: dict[object, list[tuple[FieldPath, Build]]] = {}
    for pair in loose:
        by_use.setdefault((pair[0].uses, pair[0].label), []).append(pair)
    others = [
        build
        for pairs in by_use.values()
        for _, build in sorted(pairs, key=lambda pair: pair[0].position or 1000)
    ]
    if not others:
        ordered = [fixed[position] for position in sorted(fixed)]

        def straight(cells: Cells, base: int, contact: Contact) -> None:
            for build in ordered:
                build(cells, base, contact)

        return straight

    def build(cells: Cells, base: int, contact: Contact) -> None:
        placed: dict[int, list[Property]] = {}
        for position, one in fixed.items():
            if found := _collect(one, cells, base, contact):
                placed[position] = found
        free = [found for one in others if (found := _collect(one, cells, base, contact))]
        position = 1
        while free or placed:
            if position in placed:
                contact.properties += placed.pop(position)
            elif free:
                contact.properties += free.pop(0)
            position += 1

    return build


def _used(path: FieldPath) -> bool:
    return bool(path.uses or path.label)


def _collect(build: Build, cells: Cells, base: int, contact: Contact) -> list[Property]:
    """What a closure would add, taken off the contact again."""
    before = len(contact.properties)
    build(cells, base, contact)
    found = contact.properties[before:]
    del contact.properties[before:]
    return found


def _builder(group: list[Input], tally: Tally) -> Build:
    path = group[0].path
    if path.field == "name":
        return _name(group)
    if path.field in ("category", "nickname"):
        return _items(group, tally)
    if path.field == "address":
        return _address(group, tally)
    if path.field == "org":
        return _parts("org", typed("org", path.uses), group)
    if path.field == "gender":
        return _gender(group)
    if path.field == "custom":
        return _custom(group[0], tally)
    if path.part in ("year", "month", "day"):
        return _date_parts(group, tally)
    if len(group) == 1 and not path.part:
        return _single(group[0], tally)
    return _described(group, tally)


def _text_reader(each: Input, tally: Tally) -> Callable[[str], tuple[str, int]] | None:
    """What a column's dates and words become, and the mark they get; None for plain text."""
    column = each.source
    field = by_path(each.path.field)[0]
    if column.values:
        known = dict(column.values)

        def mapped(text: str) -> tuple[str, int]:
            ours = known.get(text)
            if ours is None:
                tally.find(f"column '{column.name}' holds words that its values do not list",
                           f"'{text}'")  # fmt: skip
                return text, 0
            if ours == text:
                return text, 0
            tally.change(f"values of column '{column.name}'")
            return ours, CHANGED

        return mapped
    style = column.date
    if style is not None:

        def dated(text: str) -> tuple[str, int]:
            found = style.read(text)
            if found is None:
                tally.find(f"column '{column.name}' holds text that is no date written "
                           f"{style.text}; kept as it stands", f"'{text}'")  # fmt: skip
                return text, 0
            iso = found.iso()
            if iso == text:
                return text, 0
            tally.change(f"dates of column '{column.name}'")
            return iso, CHANGED

        return dated
    if field.kind in ("date", "geo") and not each.path.part:
        return lambda text: (from_cell(field, text), 0)
    return None


def _single(each: Input, tally: Tally) -> Build:
    """A value in a cell of its own, or several in one cell."""
    path = each.path
    field = by_path(path.field)[0]
    made = typed(field.name, path.uses)
    get, step = each.get, each.column * PLACE_STEP
    read = _text_reader(each, tally)
    mark = each.many
    label = path.label

    def add(text: str, base: int, contact: Contact) -> None:
        flag = 0
        if read is not None:
            text, flag = read(text)
        prop = Property(made, text, base + step + flag)
        if label:
            contact.add_labelled(prop, label)
        else:
            contact.properties.append(prop)

    if mark:

        def several(cells: Cells, base: int, contact: Contact) -> None:
            for piece in get(cells).split(mark):
                if piece and not piece.isspace():
                    add(piece.strip(), base, contact)

        return several
    if read is None and not label:

        def plain(cells: Cells, base: int, contact: Contact) -> None:
            text = get(cells)
            if text:
                contact.properties.append(Property(made, text, base + step))

        return plain

    def one(cells: Cells, base: int, contact: Contact) -> None:
        text = get(cells)
        if text:
            add(text, base, contact)

    return one


def _described(group: list[Input], tally: Tally) -> Build:
    """A value with columns beside it that tell its use, preference or extension."""
    parts = {each.path.part: each for each in group}
    path = group[0].path
    word = path.field
    field = by_path(word)[0]
    step = parts.get("", group[0]).column * PLACE_STEP
    main = parts.get("")
    value = main.get if main else lambda cells: ""
    read = _text_reader(main, tally) if main else None
    extension = parts["extension"].get if "extension" in parts else None
    describe = _describer(parts, path, tally)

    def build(cells: Cells, base: int, contact: Contact) -> None:
        text, flag = value(cells), 0
        if text and read is not None:
            text, flag = read(text)
        if extension is not None and (digits := extension(cells)):
            text = with_extension(text, digits)
        made, label = describe(cells, field.name, bool(text))
        if not text:
            return
        prop = Property(made, text, base + step + flag)
        if label:
            contact.add_labelled(prop, label)
        else:
            contact.properties.append(prop)

    return build


Describe = Callable[[Cells, str, bool], tuple[Head, str]]


def _describer(parts: dict[str, Input], path: FieldPath, tally: Tally) -> Describe:
    """Reads the columns ``use`` and ``preferred`` of a place into a head and a label."""
    use = parts.get("use")
    preferred = parts.get("preferred")
    known: dict[tuple[str, str], tuple[tuple[str, ...], str, bool]] = {}

    def describe(cells: Cells, name: str, there: bool) -> tuple[Head, str]:
        said = use.get(cells) if use else ""
        first = preferred.get(cells) if preferred else ""
        if said and not there and use:
            tally.find(f"column '{use.source.name}' names a use where no value stands beside it")
        found = known.get((said, first))
        if found is None:
            uses, label = path.uses, path.label
            if said:
                if use and use.source.values:
                    said_in_ours = use.source.values.get(said, said)
                else:
                    said_in_ours = said
                more, label = read_uses(said_in_ours, path.field)
                uses = tuple(dict.fromkeys(uses + more))
                label = label or path.label
            found = uses, label, first.strip().lower() in YES
            if len(known) < 10_000:
                known[said, first] = found
        uses, label, prefers = found
        return typed(name, uses, preferred=prefers), label

    return describe


def _name(group: list[Input]) -> Build:
    """The whole name, its parts, and how it sounds (RFC 9554, tied by ALTID)."""
    whole = [each for each in group if each.path.part == "full"]
    spoken = [each for each in group if each.path.part.startswith("phonetic")]
    parts = [each for each in group if each not in whole and each not in spoken]
    tied = (("altid", ("1",)),) if spoken else ()
    builds: list[Build] = []
    for each in whole:
        builds.append(_text_into(head("fn"), each))
    if parts:
        builds.append(_parts("n", head("n", tied), parts))
    if spoken:
        script = head("n", (*tied, ("phonetic", ("script",))))
        plain = [
            each._replace(path=FieldPath("name", part=each.path.part.removeprefix("phonetic-")))
            for each in spoken
        ]
        builds.append(_parts("n", script, plain))
    if len(builds) == 1:
        return builds[0]

    def build(cells: Cells, base: int, contact: Contact) -> None:
        for one in builds:
            one(cells, base, contact)

    return build


def _text_into(made: Head, each: Input) -> Build:
    get, step = each.get, each.column * PLACE_STEP

    def build(cells: Cells, base: int, contact: Contact) -> None:
        text = get(cells)
        if text:
            contact.properties.append(Property(made, text, base + step))

    return build


def _parts(name: str, made: Head, group: list[Input]) -> Build:
    """A structured value out of several columns."""
    taken = [(part_index(each.path), each.get, each.column * PLACE_STEP) for each in group]
    least = {"n": 5, "adr": 7}.get(name, 1)
    size = max([at + 1 for at, _, _ in taken] + [least])
    blank: list[str] = [""] * size
    nowhere = [0] * size

    def build(cells: Cells, base: int, contact: Contact) -> None:
        value = None
        for at, get, step in taken:
            text = get(cells)
            if text:
                if value is None:
                    value, origins = blank.copy(), nowhere.copy()
                value[at] = text
                origins[at] = base + step
        if value is not None:
            contact.properties.append(Property(made, tuple(value), tuple(origins)))

    return build


def _address(group: list[Input], tally: Tally) -> Build:
    """An address out of its columns: components, lines of the street, or all in one cell."""
    path = group[0].path
    by_part = {each.path.part: each for each in group if each.path.part != "line"}
    lines = sorted((each for each in group if each.path.part == "line"),
                   key=lambda each: each.path.number)  # fmt: skip
    whole = by_part.pop("full", None)
    described = {key: by_part.pop(key) for key in ("use", "preferred") if key in by_part}
    describe = _describer(described, path, tally)
    taken = [(part_index(e.path), e.get, e.column * PLACE_STEP) for e in by_part.values()]
    size = max([at + 1 for at, _, _ in taken] + [7])

    def build(cells: Cells, base: int, contact: Contact) -> None:
        value: list[str | tuple[str, ...]] = [""] * size
        origins: list[int | tuple[int, ...]] = [0] * size
        there = False
        for at, get, step in taken:
            text = get(cells)
            if text:
                there = True
                if at == 2 and "\n" in text:
                    inner = street_lines(text)
                    value[at] = inner[0] if len(inner) == 1 else tuple(inner)
                else:
                    value[at] = text
                origins[at] = base + step
        numbered = [(text, base + each.column * PLACE_STEP)
                    for each in lines if (text := each.get(cells))]  # fmt: skip
        if numbered:
            there = True
            street = [(line, int(origins[2] or 0)) for line in street_lines(value[2])]  # type: ignore[arg-type]
            street += numbered
            value[2] = street[0][0] if len(street) == 1 else tuple(text for text, _ in street)
            origins[2] = street[0][1] if len(street) == 1 else tuple(o for _, o in street)
        envelope = whole.get(cells) if whole else ""
        made, label = describe(cells, "adr", there or bool(envelope))
        if there:
            prop = Property(made, tuple(value), tuple(origins))
            if label:
                contact.add_labelled(prop, label)
            else:
                contact.properties.append(prop)
        if envelope and whole:
            origin = base + whole.column * PLACE_STEP
            on_envelope = Property(head("label", made.params), envelope, origin)
            if label:
                contact.add_labelled(on_envelope, label)
            else:
                contact.properties.append(on_envelope)

    return build


def _gender(group: list[Input]) -> Build:
    """Sex as the standard's one letter (RFC 6350 section 6.2.7), anything else as identity."""
    taken = [(each.path.part, each.get, each.column * PLACE_STEP) for each in group]

    def build(cells: Cells, base: int, contact: Contact) -> None:
        value, origins = ["", ""], [0, 0]
        for part, get, step in taken:
            text = get(cells)
            if text:
                at = 1 if part == "identity" or text not in ("M", "F", "O", "N", "U") else 0
                value[at] = text if not value[at] else f"{value[at]} {text}"
                origins[at] = base + step
        if any(value):
            contact.properties.append(Property(head("gender"), tuple(value), tuple(origins)))

    return build


def _custom(each: Input, tally: Tally) -> Build:
    """A column that no standard field holds, or an extension property under its own name."""
    label = each.path.label
    get, step, mark = each.get, each.column * PLACE_STEP, each.many
    read = _text_reader(each, tally)
    extension = is_extension(label)
    made = head(label.lower()) if extension else head(CUSTOM)

    def add(text: str, base: int, contact: Contact) -> None:
        flag = 0
        if read is not None:
            text, flag = read(text)
        value: Value = text if extension else (label, text)
        raw = text.replace("\n", "\\n") if extension else None
        contact.properties.append(Property(made, value, base + step + flag, raw))

    def build(cells: Cells, base: int, contact: Contact) -> None:
        text = get(cells)
        if text and not mark:
            add(text, base, contact)
        elif text:
            for piece in text.split(mark):
                if piece and not piece.isspace():
                    add(piece.strip(), base, contact)

    return build


def _items(group: list[Input], tally: Tally) -> Build:
    """Categories or nicknames from all their columns, as one list."""
    name = by_path(group[0].path.field)[0].name
    made = head(name)
    taken = [
        (each.get, each.column * PLACE_STEP, each.many, _text_reader(each, tally))
        for each in sorted(group, key=lambda each: each.path.position or 1000)
    ]

    def build(cells: Cells, base: int, contact: Contact) -> None:
        items: list[str] = []
        origins: list[int] = []
        for get, step, mark, read in taken:
            cell = get(cells)
            if not cell:
                continue
            for piece in cell.split(mark) if mark else (cell,):
                text, flag = piece.strip() if mark else piece, 0
                if not text:
                    continue
                if read is not None:
                    text, flag = read(text)
                items.append(text)
                origins.append(base + step + flag)
        if items:
            found: Origin = tuple(origins)
            contact.properties.append(Property(made, tuple(items), found))

    return build


def _date_parts(group: list[Input], tally: Tally) -> Build:
    """A date out of columns for year, month and day."""
    name = by_path(group[0].path.field)[0].name
    taken = {each.path.part: each.get for each in group}
    step = group[0].column * PLACE_STEP
    made = head(name)

    def build(cells: Cells, base: int, contact: Contact) -> None:
        said = {part: get(cells).strip() for part, get in taken.items()}
        if not any(said.values()):
            return
        numbers = {part: int(text) for part, text in said.items() if text.isdecimal()}
        date = PartialDate(numbers.get("year", 0), numbers.get("month", 0), numbers.get("day", 0))
        told = len(numbers) == sum(1 for text in said.values() if text)
        if told and date.year < 10_000 and valid(date.year, date.month, date.day):
            text = date.iso()
        else:
            text = " ".join(filter(None, [said.get(p, "") for p in ("day", "month", "year")]))
            tally.find(f"columns that hold the parts of {group[0].path.field} make no date; "
                       "kept as text", f"'{text}'")  # fmt: skip
        contact.properties.append(Property(made, text, base + step))

    return build
