"""One closure a place: the text of some cells made into properties of a contact."""

from __future__ import annotations

from collections.abc import Callable
from operator import itemgetter

from roundcard.card.contact import Contact, Origin, Property, count_values
from roundcard.card.fields import CUSTOM, LEAST_PARTS, STREET, by_path
from roundcard.card.head import Head, Value, head, typed
from roundcard.card.origin import PLACE_STEP, Spread
from roundcard.card.paths import FieldPath
from roundcard.layouts.cell import changed_in
from roundcard.layouts.inputs import Cells, Input
from roundcard.layouts.plainly import Plainly, does, done_by
from roundcard.tally import Tally, Why, changed_by
from roundcard.values.cells import YES, from_cell, read_uses, street_lines
from roundcard.values.dates import PartialDate, valid
from roundcard.values.phones import with_extension
from roundcard.values.set_value import is_extension, part_index

"""Index of the street among the components of an address."""

Build = Callable[[Cells, int, Contact], int]
"""Takes a row, the origin of its record, and the contact to which it adds properties; gives the
number of values that it read."""


def builder(group: list[Input], tally: Tally) -> Build:
    """The closure for one place, from the inputs that belong to it."""
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


def _single(each: Input, tally: Tally) -> Build:
    """A value in a cell of its own, or several in one cell."""
    path = each.path
    field = by_path(path.field)[0]
    made = typed(field.name, path.uses)
    get, step = each.get, each.column * PLACE_STEP
    read = _text_reader(each, tally)
    mark = each.many
    label = path.label

    def add(text: str, base: int, contact: Contact) -> int:
        flag = 0
        if read is not None:
            text, flag = read(text)
        prop = Property(made, text, base + step + flag)
        contact.append(prop, label)
        return 1

    if mark:

        def several(cells: Cells, base: int, contact: Contact) -> int:
            pieces = [piece.strip() for piece in get(cells).split(mark)]
            return sum([add(piece, base, contact) for piece in pieces if piece])

        return several
    if read is None and not label:
        return _text_into(made, each)

    def one(cells: Cells, base: int, contact: Contact) -> int:
        text = get(cells)
        return add(text, base, contact) if text else 0

    return one


def _nothing(_: Cells) -> str:
    return ""


def _described(group: list[Input], tally: Tally) -> Build:
    """A value with columns beside it that tell its use, preference or extension."""
    parts = {each.path.part: each for each in group}
    path = group[0].path
    word = path.field
    field = by_path(word)[0]
    step = parts.get("", group[0]).column * PLACE_STEP
    main = parts.get("")
    value = main.get if main else _nothing
    read = _text_reader(main, tally) if main else None
    extension = parts["extension"].get if "extension" in parts else None
    describe = _describer(parts, path, tally)

    def build(cells: Cells, base: int, contact: Contact) -> int:
        text, flag = value(cells), 0
        if text and read is not None:
            text, flag = read(text)
        if extension is not None and (digits := extension(cells)):
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
        said = use.get(cells) if use else ""
        first = preferred.get(cells) if preferred else ""
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

    def build(cells: Cells, base: int, contact: Contact) -> int:
        return sum([one(cells, base, contact) for one in builds])

    plainly = [done_by(one) for one in builds]
    if None in plainly:
        return build
    return does(build, *[what for each in plainly for what in each or ()])


def _text_into(made: Head, each: Input) -> Build:
    get, step, at = each.get, each.column * PLACE_STEP, each.at
    if at < 0:

        def build(cells: Cells, base: int, contact: Contact) -> int:
            text = get(cells)
            if not text:
                return 0
            contact.properties.append(Property(made, text, base + step))
            return 1

        return build

    def direct(cells: Cells, base: int, contact: Contact) -> int:
        text = cells[at]
        if not text:
            return 0
        contact.properties.append(Property(made, text, base + step))
        return 1

    return does(direct, Plainly(made, (at,)))


def _parts(name: str, made: Head, group: list[Input]) -> Build:
    """A structured value out of several columns."""
    indexes = [part_index(each.path) for each in group]
    size = max([index + 1 for index in indexes] + [LEAST_PARTS.get(name, 1)])
    steps = [0] * size
    for index, each in zip(indexes, group, strict=True):
        steps[index] = each.column * PLACE_STEP
    spread = tuple(steps)
    if size > 1 and all(each.at >= 0 for each in group):
        places = [-1] * size  # the row ends with an empty cell
        for index, each in zip(indexes, group, strict=True):
            places[index] = each.at
        take = itemgetter(*places)

        def direct(cells: Cells, base: int, contact: Contact) -> int:
            value: tuple[str, ...] = take(cells)
            count = size - value.count("")
            if count:
                contact.properties.append(Property(made, value, Spread(base, spread)))
            return count

        return does(direct, Plainly(made, tuple(places), parts=True))

    def build(cells: Cells, base: int, contact: Contact) -> int:
        value = [""] * size
        for index, each in zip(indexes, group, strict=True):
            value[index] = each.get(cells)
        count = size - value.count("")
        if count:
            contact.properties.append(Property(made, tuple(value), Spread(base, spread)))
        return count

    return build


def _address(group: list[Input], tally: Tally) -> Build:
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
    taken = [(part_index(e.path), e.get, e.column * PLACE_STEP) for e in by_part.values()]
    size = max([at + 1 for at, _, _ in taken] + [7])
    street = next((get for at, get, _ in taken if at == STREET), None)
    if not (described or lines or whole or path.label):
        simple = _parts("adr", typed("adr", path.uses), list(by_part.values()))
        if street is None:
            return simple

        def plain(cells: Cells, base: int, contact: Contact) -> int:
            return build(cells, base, contact) if "\n" in street(cells) \
                else simple(cells, base, contact)  # fmt: skip

        if plainly := done_by(simple):  # a plain cell holds no line break
            does(plain, *plainly)

    def build(cells: Cells, base: int, contact: Contact) -> int:
        value: list[str | tuple[str, ...]] = [""] * size
        origins: list[int | tuple[int, ...]] = [0] * size
        there = False
        for at, get, step in taken:
            text = get(cells)
            if text:
                there = True
                if at == STREET and "\n" in text:
                    inner = street_lines(text)
                    value[at] = inner[0] if len(inner) == 1 else tuple(inner)
                else:
                    value[at] = text
                origins[at] = base + step
        numbered = [(text, base + each.column * PLACE_STEP)
                    for each in lines if (text := each.get(cells))]  # fmt: skip
        if numbered:
            there = True
            street = [(line, int(origins[STREET] or 0)) for line in street_lines(value[STREET])]  # type: ignore[arg-type]
            street += numbered
            value[STREET] = street[0][0] if len(street) == 1 else tuple(text for text, _ in street)
            origins[STREET] = street[0][1] if len(street) == 1 else tuple(o for _, o in street)
        envelope = whole.get(cells) if whole else ""
        count = count_values(tuple(value)) + (1 if envelope else 0)
        made, label = describe(cells, "adr", there or bool(envelope))
        if there:
            prop = Property(made, tuple(value), tuple(origins))
            contact.append(prop, label)
        if envelope and whole:
            origin = base + whole.column * PLACE_STEP
            on_envelope = Property(head("label", made.params), envelope, origin)
            contact.append(on_envelope, label)
        return count

    return build if described or lines or whole or path.label else plain


def _gender(group: list[Input]) -> Build:
    """Sex as the standard's one letter (RFC 6350 section 6.2.7), anything else as identity."""
    taken = [(each.path.part, each.get, each.column * PLACE_STEP) for each in group]

    def build(cells: Cells, base: int, contact: Contact) -> int:
        value, origins = ["", ""], [0, 0]
        for part, get, step in taken:
            text = get(cells)
            if text:
                at = 1 if part == "identity" or text not in ("M", "F", "O", "N", "U") else 0
                value[at] = text if not value[at] else f"{value[at]} {text}"
                origins[at] = base + step
        if any(value):
            contact.properties.append(Property(head("gender"), tuple(value), tuple(origins)))
        return sum(1 for text in value if text)

    return build


def _custom(each: Input, tally: Tally) -> Build:
    """A column that no standard field holds, or an extension property under its own name."""
    label = each.path.label
    get, step, mark = each.get, each.column * PLACE_STEP, each.many
    read = _text_reader(each, tally)
    extension = is_extension(label)
    made = head(label.lower()) if extension else head(CUSTOM)

    def add(text: str, base: int, contact: Contact) -> int:
        flag = 0
        if read is not None:
            text, flag = read(text)
        value: Value = text if extension else (label, text)
        raw = text.replace("\n", "\\n") if extension else None
        contact.properties.append(Property(made, value, base + step + flag, raw))
        return 1

    def build(cells: Cells, base: int, contact: Contact) -> int:
        text = get(cells)
        if not text or not mark:
            return add(text, base, contact) if text else 0
        pieces = [piece.strip() for piece in text.split(mark)]
        return sum([add(piece, base, contact) for piece in pieces if piece])

    return build


def _items(group: list[Input], tally: Tally) -> Build:
    """Categories or nicknames from all their columns, as one list."""
    name = by_path(group[0].path.field)[0].name
    made = head(name)
    taken = [
        (each.get, each.column * PLACE_STEP, each.many, _text_reader(each, tally))
        for each in sorted(group, key=lambda each: each.path.position or 1000)
    ]

    if len(taken) == 1 and taken[0][3] is None:
        get, step, mark, _ = taken[0]
        at = group[0].at

        def plain(cells: Cells, base: int, contact: Contact) -> int:
            cell = get(cells)
            if not cell:
                return 0
            pieces = [piece.strip() for piece in cell.split(mark)] if mark else [cell]
            items = tuple([piece for piece in pieces if piece])
            if items:
                contact.properties.append(Property(made, items, base + step))
            return len(items)

        return does(plain, Plainly(made, (at,), mark=mark)) if at >= 0 else plain

    def build(cells: Cells, base: int, contact: Contact) -> int:
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
        return len(items)

    return build


def _date_parts(group: list[Input], tally: Tally) -> Build:
    """A date out of columns for year, month and day."""
    name = by_path(group[0].path.field)[0].name
    taken = {each.path.part: each.get for each in group}
    step = group[0].column * PLACE_STEP
    made = head(name)

    def build(cells: Cells, base: int, contact: Contact) -> int:
        said = {part: get(cells).strip() for part, get in taken.items()}
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
