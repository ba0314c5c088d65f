"""Records one at a time: each source cell beside the field that it becomes, and its value there."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import NamedTuple

from roundcard.books.photos import PhotosBeside
from roundcard.books.source import Source
from roundcard.books.source_reader import Reading
from roundcard.books.tables import Table, open_table
from roundcard.card.contact import Contact, Property
from roundcard.card.equality import folded
from roundcard.card.origin import is_derived, unpack
from roundcard.card.paths import FieldPath, parse
from roundcard.errors import PathError
from roundcard.layouts.binding import bind, demand_fit
from roundcard.layouts.drafting.evidence import class_of, for_and_against
from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.layouts.model import Layout
from roundcard.layouts.row_reader import RowReader
from roundcard.survey.cards import parts_of_value
from roundcard.survey.profile_table import records_of
from roundcard.tally import Tally

KEPT = 500
"""Records that are kept for going back; further back the source is read again."""


class Cleaned(NamedTuple):
    """What cleaning would make of a value."""

    path: str
    before: str
    after: str
    """The same where a rule only doubts it; empty where it would be dropped."""
    rule: str
    doubt: str


Cleans = Callable[[Contact], Sequence[Cleaned]]
"""Tells what cleaning would make of a contact."""


@dataclass(slots=True)
class PreviewLine:
    """A cell and what becomes of it."""

    name: str
    """The heading of the column, or the line of the card; empty where no cell is behind it."""
    cell: str
    path: str
    """The field, or what else becomes of the cell, in brackets."""
    value: str
    finding: str = ""

    @property
    def changed(self) -> bool:
        """Whether the value is another text than the cell, or the end of a card's line."""
        return bool(self.cell) and not self.cell.strip().endswith(self.value)


@dataclass(slots=True)
class Record:
    """One record of a source."""

    number: int
    """From 1."""
    place: int
    """The line of the file at which it begins."""
    lines: list[PreviewLine] = field(default_factory=list)
    findings: list[str] = field(default_factory=list)
    cleaned: Sequence[Cleaned] = ()
    """What cleaning would make of it, where that is asked."""
    state: str = ""
    """What becomes of the whole record where it becomes no person: blank, set aside."""

    @property
    def name(self) -> str:
        """Whom it is about, as well as that can be told."""
        for wanted in ("name/full", "name/", "org", "email"):
            found = [line.value for line in self.lines if line.path.startswith(wanted)]
            if found:
                return " ".join(found[:3]) if wanted == "name/" else found[0]
        return ""

    def holds(self, words: Sequence[str]) -> bool:
        """Whether all words stand in it, case and order aside."""
        text = " ".join(folded(f"{line.cell} {line.value}") for line in self.lines)
        return all(folded(word) in text for word in words)

    def filled(self, name: str) -> bool:
        """Whether something stands under a heading or in a field."""
        wanted = folded(name)
        return any(line.cell.strip() and wanted in (folded(line.name), folded(line.path))
                   for line in self.lines)  # fmt: skip


class Records:
    """The records of a source by number, read as far as anybody asks."""

    def __init__(
        self,
        source: Source,
        layouts: Sequence[Layout],
        kept: Sequence[Layout] = (),
        cleans: Cleans | None = None,
    ) -> None:
        """Raises `SourceError` and `LayoutError`."""
        self.source = source
        self.cleans = cleans
        self.table: Table | None = None
        if source.format.sort != "card":
            self.table = open_table(source, layouts, kept)
        self._restart()

    def _restart(self) -> None:
        self._kept: deque[Record] = deque(maxlen=KEPT)
        self._rest = (_of_cards(self.source, self.cleans) if self.table is None
                      else _of_table(self.source, self.table, self.cleans))  # fmt: skip
        self._read = 0
        self.ended = False
        """Whether the last record has been read."""

    @property
    def count(self) -> int:
        """How many records have been read."""
        return self._read

    def get(self, number: int) -> Record | None:
        """A record by its number; None beyond the last."""
        if number < 1:
            return None
        if number <= self._read - len(self._kept):
            self._restart()
        while self._read < number:
            record = next(self._rest, None)
            if record is None:
                self.ended = True
                return None
            self._read = record.number
            self._kept.append(record)
        for record in self._kept:
            if record.number >= number:
                return record
        return None

    def next_that(self, after: int, wanted: Callable[[Record], bool]) -> Record | None:
        """The first record behind `after` that is wanted; None where there is none."""
        number = after + 1
        while (record := self.get(number)) is not None:
            if wanted(record):
                return record
            number = record.number + 1
        return None


Looked = Callable[[int, Callable[[], str]], bool]
"""Whether a record is looked for, by its number and, if it asks for that, its text."""


def looked_for(
    source: Source, layouts: Sequence[Layout], kept: Sequence[Layout], wanted: Looked
) -> Iterator[Record]:
    """The records of a source that are looked for; the others cost little more than reading.

    Raises `SourceError` and `LayoutError`.
    """
    if source.format.sort == "card":
        return _of_cards(source, None, wanted)
    return _of_table(source, open_table(source, layouts, kept), None, wanted)


def _of_table(
    source: Source, table: Table, cleans: Cleans | None, wanted: Looked | None = None
) -> Iterator[Record]:
    tally = Tally()
    with source.open() as stream:
        headings, width, *_ = table.head(table.rows(stream, Tally()))
    binding = bind(table.layout, headings, width)
    demand_fit(table.layout, binding, headings, source.name)
    photos = PhotosBeside(source.path) if source.path is not None else None
    reader = RowReader(table.layout, binding, 0, tally, photos)
    listed = dict(binding.columns)
    names = [(headings[at].strip() if headings is not None else "") or f"column {at + 1}"
             for at in range(width)]  # fmt: skip
    for number, (row, total) in enumerate(records_of(source, table.dialect, table.layout), 1):
        if wanted is not None and not wanted(number, partial(" ".join, row.cells)):
            continue
        record = Record(number, row.line)
        if row.wrong or total:
            record.state = f"set aside: {row.wrong or 'a row of totals, not a person'}"
            record.lines = [
                PreviewLine(name, cell, "", "") for name, cell in _beside(names, row.cells)
            ]
            yield record
            continue
        before = {what: finding.count for what, finding in tally.findings.items()}
        contact = reader.contact(list(row.cells), number)
        record.findings = [what for what, finding in tally.findings.items()
                           if finding.count > before.get(what, 0)]  # fmt: skip
        if contact is None:
            record.state = "blank" if not any(cell.strip() for cell in row.cells) else "left out"
        became = _by_place(contact) if contact is not None else {}
        if cleans is not None and contact is not None:
            record.cleaned = cleans(contact)
        for at, (name, cell) in enumerate(_beside(names, row.cells)):
            column = listed.get(at)
            made = became.pop(at + 1, [])
            if not made and cell.strip():
                meaning = column.meaning if column is not None else table.layout.unlisted
                told = meaning if meaning.startswith("(") else f"({meaning})"
                if cell.strip() in table.layout.empty:
                    told = "(means nothing)"
                record.lines.append(PreviewLine(name, cell, told, ""))
            elif not made:
                record.lines.append(PreviewLine(name, cell, column.meaning if column else "", ""))
            for count, (path, value) in enumerate(made):
                line = PreviewLine(
                    name if not count else "", cell if not count else "", path, value
                )
                line.finding = against(path, value)
                record.lines.append(line)
        for place, made in became.items():
            origin = "(derived)" if is_derived(place) else "(layout)"
            record.lines += [PreviewLine("", origin, path, value) for path, value in made]
        record.findings += [f"{line.name or 'a value'}: {line.finding}"
                            for line in record.lines if line.finding]  # fmt: skip
        yield record


def _beside(names: Sequence[str], cells: Sequence[str]) -> Iterator[tuple[str, str]]:
    """Each heading with its cell; cells beyond the headings by their number."""
    for at in range(max(len(names), len(cells))):
        name = names[at] if at < len(names) else f"column {at + 1}"
        yield name, cells[at] if at < len(cells) else ""


def _by_place(contact: Contact) -> dict[int, list[tuple[str, str]]]:
    """Paths and values of a contact by the column or line they came from; negative for none."""
    found: dict[int, list[tuple[str, str]]] = {}
    for prop in contact.properties:
        if prop.rides:
            continue
        for path, value, at, inner in parts_of_value(prop):
            origin = prop.origin_of(at, inner)
            place = unpack(origin)
            found.setdefault(place.place if place else origin, []).append((path, value))
    return found


def against(path: str, value: str) -> str:
    """What a value looks like where that speaks against its field."""
    try:
        parsed = parse(path)
    except PathError:
        return ""
    if parsed.field == "custom":
        return ""
    profile = ColumnProfile()
    profile.add([value])
    agree, against = for_and_against(class_of(_plain(parsed)), profile)
    if against >= 0.5 and against > agree and _telling(profile):
        return f"does not look like {parsed.field}"
    return ""


def _plain(path: FieldPath) -> FieldPath:
    return FieldPath(path.field, part=path.part, number=path.number)


def _telling(profile: ColumnProfile) -> bool:
    """Whether the kind of a single cell says much; words say little."""
    return any(profile.kinds[kind] for kind in ("email", "emails", "phone", "phones", "url",
                                                "date", "moment", "address", "coordinates",
                                                "uuid", "iban", "digits"))  # fmt: skip


def _of_cards(
    source: Source, cleans: Cleans | None, wanted: Looked | None = None
) -> Iterator[Record]:
    tally = Tally()
    reading = Reading(source, 0, (), tally)
    for contact in reading.contacts():
        origin = unpack(contact.origin)
        number = origin.record if origin else 0
        if wanted is not None and not wanted(number, partial(_text_of, contact)):
            continue
        record = Record(number, 0)
        for prop in contact.properties:
            record.lines += _card_lines(prop)
        if cleans is not None:
            record.cleaned = cleans(contact)
        numbers = [line for line in (_line_of(prop) for prop in contact.properties) if line]
        record.place = min(numbers, default=0)
        record.findings = [f"{line.path}: {line.finding}" for line in record.lines
                           if line.finding]  # fmt: skip
        yield record


def _text_of(contact: Contact) -> str:
    return " ".join([prop.text for prop in contact.properties if prop.head.field.kind != "media"])


def _line_of(prop: Property) -> int:
    place = unpack(prop.origin_of(0))
    return place.place if place else 0


def _card_lines(prop: Property) -> Iterator[PreviewLine]:
    number = _line_of(prop)
    name = f"line {number:,}" if number else ""
    said = _said(prop)
    if prop.rides:
        yield PreviewLine(name, said, "(a label)" if prop.head.name.startswith("x-") else "", "")
        return
    for count, (path, value, _, _) in enumerate(parts_of_value(prop)):
        line = PreviewLine("" if count else name, "" if count else said, path, value)
        line.finding = against(path, value)
        yield line


def _said(prop: Property) -> str:
    """The line of a card as it stood, unfolded."""
    head = prop.head
    params = "".join(f";{name.upper()}={','.join(values)}" if name else f";{','.join(values)}"
                     for name, values in head.params)  # fmt: skip
    group = f"{head.group}." if head.group else ""
    raw = prop.raw if prop.raw is not None else prop.text
    return f"{group}{head.name.upper()}{params}:{raw}"
