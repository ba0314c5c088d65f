"""One closure a place: the text of some cells made into properties of a contact.

A place says which cells it reads, so that what it makes of equal cells need be asked once only;
and, where it only puts cells down as they are, which property they are.
"""

from __future__ import annotations

from collections.abc import Callable
from operator import itemgetter
from typing import NamedTuple

from roundcard.card.contact import Contact, Origin, Property, count_values
from roundcard.card.fields import CUSTOM, LEAST_PARTS, STREET, by_path
from roundcard.card.head import Head, Value, head, typed
from roundcard.card.origin import PLACE_STEP, Spread
from roundcard.card.paths import FieldPath
from roundcard.layouts.cell import changed_in
from roundcard.layouts.inputs import Cells, Input
from roundcard.tally import Tally, Why, changed_by
from roundcard.values.cells import YES, from_cell, read_uses, street_lines
from roundcard.values.dates import PartialDate, valid
from roundcard.values.extensions import read_extension
from roundcard.values.phones import with_extension
from roundcard.values.set_value import is_extension, part_index

Build = Callable[[Cells, int, Contact], int]
"""Takes a row, the origin of its record, and the contact to which it adds properties; gives the
number of values that it read."""


class Plain(NamedTuple):
    """A property that is made from cells as they are."""

    head: Head
    cells: tuple[int, ...]
    """The cell of the text, or one for each component; below zero for one that is empty."""
    parts: bool = False
    """Whether the cells are the components of one value."""
    label: str = ""
    """The label of a value that no standard field holds."""
    lines: int = -1
    """The cell in which a line break parts lines, so that it is not put down as it is."""


class Place(NamedTuple):
    """What one place of the contact is made from."""

    path: FieldPath
    build: Build
    cells: tuple[int, ...]
    """All cells that `build` reads; what it makes hangs on nothing else."""
    plain: Plain | None = None
    """What it makes, where it only puts cells down."""


def places_of(group: list[Input], tally: Tally) -> list[Place]:
    """The places that inputs of one place of the contact fill: one, or those of a name."""
    path = group[0].path
    if path.field == "name":
        return _name(group)
    if path.field == "org":
        return [_parts("org", typed("org", path.uses), group)]
    if path.field == "address":
        return [_address(group, tally)]
    if path.field == "custom":
        return [_custom(group[0], tally)]
    if path.field not in ("category", "nickname", "gender") and len(group) == 1 and not path.part:
        return [_single(group[0], tally)]
    if path.field in ("category", "nickname"):
        build = _items(group, tally)
    elif path.field == "gender":
        build = _gender(group)
    elif path.part in ("year", "month", "day"):
        build = _date_parts(group, tally)
    else:
        build = _described(group, tally)
    return [Place(path, build, tuple(each.at for each in group))]


def _text_reader(each: Input, tally: Tally) -> Callable[[str], tuple[str, int]] | None:
    """What a column's dates and words become, and the mark they get; None for plain text."""
    column = each.source
    field = by_path(each.path.field)[0]
    if column.values:
        known = dict(column.values)
        changed = changed_by(0, changed_in(Why.COLUMN_VALUES, column.name))

        def mapped(text: str) -> tuple[str, int]:
            ours = known.get(text)
            if ours is None:
                tally.find(f"column '{column.name}' contains words that its values do not list",
                           f"'{text}'")  # fmt: skip
                return text, 0
            if ours == text:
                return text, 0
            return ours, changed

        return mapped
    style = column.date
    if style is not None:
        changed = changed_by(0, changed_in(Why.COLUMN_DATES, column.name))

        def dated(text: str) -> tuple[str, int]:
            found = style.read(text)
            if found is None:
                tally.find(f"column '{column.name}' contains text that is not a date written "
                           f"{style.text}; kept as it is", f"'{text}'")  # fmt: skip
                return text, 0
            iso = found.iso()
            if iso == text:
                return text, 0
            return iso, changed

        return dated
    if field.kind in ("date", "geo") and not each.path.part:
        return lambda text: (from_cell(field, text), 0)
    return None


def _single(each: Input, tally: Tally) -> Place:
    """A value in a cell of its own, or several in one cell."""
    path, at = each.path, each.at
    made = typed(by_path(path.field)[0].name, path.uses)
    step = each.column * PLACE_STEP
    read = _text_reader(each, tally)
    mark = each.many
    label = path.label
    if read is None and not label and not mark:
        return _text_into(made, each)

    def add(text: str, base: int, contact: Contact) -> int:
        flag = 0
        if read is not None:
            text, flag = read(text)
        contact.append(Property(made, text, base + step + flag), label)
        return 1

    def build(cells: Cells, base: int, contact: Contact) -> int:
        text = cells[at]
        if not mark:
            return add(text, base, contact) if text else 0
        pieces = [piece.strip() for piece in text.split(mark)]
        return sum([add(piece, base, contact) for piece in pieces if piece])

    return Place(path, build, (at,))


def _described(group: list[Input], tally: Tally) -> Build:
    """A value with columns beside it that tell its use, preference or extension."""
    parts = {each.path.part: each for each in group}
    path = group[0].path
    word = path.field
    field = by_path(word)[0]
    step = parts.get("", group[0]).column * PLACE_STEP
    main = parts.get("")
    value = main.at if main else -1
    read = _text_reader(main, tally) if main else None
    extension = parts["extension"].at if "extension" in parts else -1
    describe = _describer(parts, path, tally)

    def build(cells: Cells, base: int, contact: Contact) -> int:
        text, flag = cells[value], 0
        if text and read is not None:
            text, flag = read(text)
        if digits := cells[extension]:
            text = with_extension(text, digits)
        made, label = describe(cells, field.name, bool(text))
        if not text:
            return 0
        prop = Property(made, text, base + step + flag)
        contact.append(prop, label)
        return 1

    return build


Describe = Callable[[Cells, str, bool], tuple[Head, str]]


def _describer(parts: dict[str, Input], path: FieldPath, tally: Tally) -> Describe:
    """Reads the columns ``use`` and ``preferred`` of a place into a head and a label."""
    use = parts.get("use")
    preferred = parts.get("preferred")
    known: dict[tuple[str, str], tuple[tuple[str, ...], str, bool]] = {}

    def describe(cells: Cells, name: str, there: bool) -> tuple[Head, str]:
        said = cells[use.at] if use else ""
        first = cells[preferred.at] if preferred else ""
        if said and not there and use:
            tally.find(f"column '{use.source.name}' names a use without a value beside it")
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


def _name(group: list[Input]) -> list[Place]:
    """The whole name, its parts, and how it sounds (RFC 9554, tied by ALTID)."""
    whole = [each for each in group if each.path.part == "full"]
    spoken = [each for each in group if each.path.part.startswith("phonetic")]
    parts = [each for each in group if each not in whole and each not in spoken]
    places = [_text_into(head("fn"), each) for each in whole]
    named = _parts("n", head("n"), parts) if parts else None
    if spoken:
        script = head("n", (*_TIED, ("phonetic", ("script",))))
        plain = [
            each._replace(path=FieldPath("name", part=each.path.part.removeprefix("phonetic-")))
            for each in spoken
        ]
        sounds = _parts("n", script, plain)
        named = _tying(named, sounds) if named is not None else sounds
    return [*places, named] if named is not None else places


_TIED = (("altid", ("1",)),)


def _tying(named: Place, sounds: Place) -> Place:
    """A name and how it sounds, tied by ALTID where both are there (RFC 9554)."""

    def build(cells: Cells, base: int, contact: Contact) -> int:
        at = len(contact.properties)
        count = named.build(cells, base, contact)
        spoken = sounds.build(cells, base, contact)
        if count and spoken:
            prop = contact.properties[at]
            contact.properties[at] = Property(head("n", _TIED), prop.value, prop.origin)
        return count + spoken

    return Place(named.path, build, (*named.cells, *sounds.cells))


def _text_into(made: Head, each: Input) -> Place:
    step, at = each.column * PLACE_STEP, each.at

    def build(cells: Cells, base: int, contact: Contact) -> int:
        text = cells[at]
        if not text:
            return 0
        contact.properties.append(Property(made, text, base + step))
        return 1

    return Place(each.path, build, (at,), Plain(made, (at,)))


def _parts(name: str, made: Head, group: list[Input]) -> Place:
    """A structured value out of several columns."""
    indexes = [part_index(each.path) for each in group]
    size = max([index + 1 for index in indexes] + [LEAST_PARTS.get(name, 1)])
    steps, ats = [0] * size, [-1] * size  # the last cell of a row is empty
    for index, each in zip(indexes, group, strict=True):
        steps[index] = each.column * PLACE_STEP
        ats[index] = each.at
    spread, cells_of = tuple(steps), tuple(ats)
    take: Callable[[Cells], tuple[str, ...]] = itemgetter(*cells_of, -1)  # a tuple also for one

    def build(cells: Cells, base: int, contact: Contact) -> int:
        value = take(cells)[:-1]
        count = size - value.count("")
        if count:
            contact.properties.append(Property(made, value, Spread(base, spread)))
        return count

    read = tuple(each.at for each in group)
    return Place(group[0].path, build, read, Plain(made, cells_of, parts=True))


def _address(group: list[Input], tally: Tally) -> Place:
    """An address out of its columns: components, lines of the street, or all in one cell."""
    path = group[0].path
    by_part = {each.path.part: each for each in group if each.path.part != "line"}
    lines = sorted((each for each in group if each.path.part == "line"),
                   key=lambda each: each.path.number)  # fmt: skip
    whole = by_part.pop("full", None)
    described: dict[str, Input] = {
        key: by_part.pop(key) for key in ("use", "preferred") if key in by_part
    }
    describe = _describer(described, path, tally)
    taken = [(part_index(e.path), e.at, e.column * PLACE_STEP) for e in by_part.values()]
    size = max([at + 1 for at, _, _ in taken] + [7])
    street = next((cell for at, cell, _ in taken if at == STREET), -1)

    def build(cells: Cells, base: int, contact: Contact) -> int:
        value: list[str | tuple[str, ...]] = [""] * size
        origins: list[int | tuple[int, ...]] = [0] * size
        there = False
        for at, cell, step in taken:
            text = cells[cell]
            if text:
                there = True
                if at == STREET and "\n" in text:
                    inner = street_lines(text)
                    value[at] = inner[0] if len(inner) == 1 else tuple(inner)
                else:
                    value[at] = text
                origins[at] = base + step
        numbered = [(text, base + each.column * PLACE_STEP)
                    for each in lines if (text := cells[each.at])]  # fmt: skip
        if numbered:
            there = True
            every = [(line, int(origins[STREET] or 0)) for line in street_lines(value[STREET])]  # type: ignore[arg-type]
            every += numbered
            value[STREET] = every[0][0] if len(every) == 1 else tuple(text for text, _ in every)
            origins[STREET] = every[0][1] if len(every) == 1 else tuple(o for _, o in every)
        envelope = cells[whole.at] if whole else ""
        count = count_values(tuple(value)) + (1 if envelope else 0)
        made, label = describe(cells, "adr", there or bool(envelope))
        if there:
            prop = Property(made, tuple(value), tuple(origins))
            contact.append(prop, label)
        if envelope and whole:
            origin = base + whole.column * PLACE_STEP
            if there and label:  # in the group of its address, and of the label of both
                beside = head("label", made.params, contact.properties[-1].head.group)
                contact.append(Property(beside, envelope, origin))
            else:
                contact.append(Property(head("label", made.params), envelope, origin), label)
        return count

    read = tuple(each.at for each in group)
    if described or lines or whole or path.label:
        return Place(path, build, read)
    simple = _parts("adr", typed("adr", path.uses), list(by_part.values()))

    def plain(cells: Cells, base: int, contact: Contact) -> int:
        way = build if "\n" in cells[street] else simple.build
        return way(cells, base, contact)

    stands = simple.plain and simple.plain._replace(lines=street)
    return Place(path, plain, read, stands)


def _gender(group: list[Input]) -> Build:
    """Sex as the standard's one letter (RFC 6350 section 6.2.7), anything else as identity."""
    taken = [(each.path.part, each.at, each.column * PLACE_STEP) for each in group]

    def build(cells: Cells, base: int, contact: Contact) -> int:
        value, origins = ["", ""], [0, 0]
        for part, cell, step in taken:
            text = cells[cell]
            if text:
                at = 1 if part == "identity" or text not in ("M", "F", "O", "N", "U") else 0
                value[at] = text if not value[at] else f"{value[at]} {text}"
                origins[at] = base + step
        if any(value):
            contact.properties.append(Property(head("gender"), tuple(value), tuple(origins)))
        return sum(1 for text in value if text)

    return build


def _custom(each: Input, tally: Tally) -> Place:
    """A column that no standard field holds, or an extension property under its own name."""
    label, at = each.path.label, each.at
    step, mark = each.column * PLACE_STEP, each.many
    read = _text_reader(each, tally)
    extension = is_extension(label)
    made = head(label.lower()) if extension else head(CUSTOM)

    def add(text: str, base: int, contact: Contact) -> int:
        flag = 0
        if read is not None:
            text, flag = read(text)
        value: Value = text if extension else (label, text)
        raw = read_extension(text) if extension else None
        contact.properties.append(Property(made, value, base + step + flag, raw))
        return 1

    def build(cells: Cells, base: int, contact: Contact) -> int:
        text = cells[at]
        if not text or not mark:
            return add(text, base, contact) if text else 0
        pieces = [piece.strip() for piece in text.split(mark)]
        return sum([add(piece, base, contact) for piece in pieces if piece])

    as_it_is = bool(label) and not (extension or mark or read)
    plain = Plain(made, (at,), label=label) if as_it_is else None
    return Place(each.path, build, (at,), plain)


def _items(group: list[Input], tally: Tally) -> Build:
    """Categories or nicknames from all their columns, as one list."""
    name = by_path(group[0].path.field)[0].name
    made = head(name)
    taken = [
        (each.at, each.column * PLACE_STEP, each.many, _text_reader(each, tally))
        for each in sorted(group, key=lambda each: each.path.position or 1000)
    ]

    def build(cells: Cells, base: int, contact: Contact) -> int:
        items: list[str] = []
        origins: list[int] = []
        for at, step, mark, read in taken:
            cell = cells[at]
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
        return len(items)

    return build


def _date_parts(group: list[Input], tally: Tally) -> Build:
    """A date out of columns for year, month and day."""
    name = by_path(group[0].path.field)[0].name
    taken = {each.path.part: each.at for each in group}
    step = group[0].column * PLACE_STEP
    made = head(name)

    def build(cells: Cells, base: int, contact: Contact) -> int:
        said = {part: cells[at].strip() for part, at in taken.items()}
        if not any(said.values()):
            return 0
        numbers = {part: int(text) for part, text in said.items() if text.isdecimal()}
        date = PartialDate(numbers.get("year", 0), numbers.get("month", 0), numbers.get("day", 0))
        told = len(numbers) == sum(1 for text in said.values() if text)
        if told and date.year < 10_000 and valid(date.year, date.month, date.day):
            text = date.iso()
        else:
            text = " ".join(filter(None, [said.get(p, "") for p in ("day", "month", "year")]))
            tally.find(f"columns that hold the parts of {group[0].path.field} do not make a date; "
                       "kept as text", f"'{text}'")  # fmt: skip
        contact.properties.append(Property(made, text, base + step))
        return 1

    return build
