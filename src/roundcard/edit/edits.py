"""What people did to a sheet: found by holding it against the book, and done to the contacts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import by_path
from roundcard.card.names import called, joined_name, says_same
from roundcard.card.origin import ADDED
from roundcard.card.paths import FieldPath, parse
from roundcard.edit.sheet import Sheet, key_of, plain, record_of
from roundcard.edit.sheet_values import SheetSlot, add, editable, joined, parted, slots_of
from roundcard.errors import PathError, PlanError
from roundcard.tally import Fate, Reason, Tally, Why, changed_by
from roundcard.values.cells import from_cell

Kind = Literal["changed", "emptied", "added"]
_ROW_DELETED = Reason(Fate.LEFT_OUT, Why.ROW_DELETED)
_EMPTIED = Reason(Fate.LEFT_OUT, Why.EMPTIED)
_EDITED_OUT = Reason(Fate.LEFT_OUT, Why.EDITED)
_EDITED = Reason(Fate.CHANGED, Why.EDITED)
_NAME_FOLLOWS = Reason(Fate.CHANGED, Why.NAME_FOLLOWS, "name")


class Edit(NamedTuple):
    """One cell that a person edited."""

    path: str
    kind: Kind
    before: str
    after: str


@dataclass(slots=True)
class Edits:
    """All that was done to a sheet."""

    cells: dict[int, list[Edit]] = field(default_factory=dict)
    """Edited cells by the record of the book."""
    deleted: dict[int, str] = field(default_factory=dict)
    """Records whose rows are gone, each with the person's name."""
    new: list[dict[str, str]] = field(default_factory=list)
    """Rows of people who are not in the book: text by path."""
    names: dict[int, str] = field(default_factory=dict)
    """Whom the edited records are of."""
    refused: list[str] = field(default_factory=list)
    """Rows of which nothing is done, and why."""
    told: list[str] = field(default_factory=list)

    def counts(self) -> Counter[str]:
        """How many cells were changed, emptied and added."""
        return Counter(edit.kind for edits in self.cells.values() for edit in edits)

    @property
    def nothing(self) -> bool:
        """Whether the sheet says what the book says."""
        return not (self.cells or self.deleted or self.new)


def edits_of(sheet: Sheet, contacts: Iterable[Contact], where: str) -> Edits:
    """What was done to a sheet, held against the book that it was made from.

    Where a record of the book is not what it was when the sheet was made, nothing is done to it.
    Raises `PlanError`, which names the sheet as `where`.
    """
    found = Edits(told=list(sheet.told))
    paths = _paths(sheet, where)
    rows: dict[int, tuple[int, str, list[str]]] = {}
    for line, key, cells in sheet.rows:
        said = {path: cell for path, cell in zip(paths, cells, strict=True) if path and cell}
        if not key:
            if said:
                found.new.append(said)
            continue
        record, digest = record_of(key, f"{where}, row {line}")
        if record in rows:
            found.refused.append(f"row {line} is a copy of row {rows[record][0]}; to add a person, "
                                 "empty its cell in the first column")  # fmt: skip
            continue
        rows[record] = line, digest, cells
    shown = {record_of(key, where)[0]: record_of(key, where)[1] for key in sheet.keys}
    lost = set(rows)
    for contact in contacts:
        record = contact.record
        if record not in rows and record not in shown:
            continue
        lost.discard(record)
        slots = {slot.path: slot.text for slot in slots_of(contact)}
        cells_then = [slots.get(path, "") for path in sheet.columns]
        digest = key_of(contact, cells_then).partition("-")[2]
        _compare(found, rows.get(record), contact, slots, paths, digest, shown.get(record, ""))
    for record in sorted(lost):
        line = rows[record][0]
        found.refused.append(f"row {line} is of record {record:,}, which the book does not have")
    return found


def _paths(sheet: Sheet, where: str) -> list[str]:
    """The paths of the columns; empty for a column without heading. Raises `PlanError`."""
    paths = []
    for heading in sheet.headings:
        if not heading:
            paths.append("")
            continue
        try:
            paths.append(heading if heading in sheet.columns else str(editable(heading)))
        except PathError as error:
            raise PlanError(f"{where}: column '{heading}': {error.problem}") from None
    if double := next((path for path in paths if path and paths.count(path) > 1), ""):
        raise PlanError(f"{where}: two columns are headed '{double}'; leave one")
    return paths


def _compare(
    found: Edits, row: tuple[int, str, list[str]] | None, contact: Contact,
    slots: dict[str, str], paths: Sequence[str], digest: str, shown: str,
) -> None:  # fmt: skip
    """Hold one row against its contact."""
    record, name = contact.record, called(contact)
    if row is None:
        if shown == digest:
            found.deleted[record] = name
        else:
            found.refused.append(f"record {record:,} ({name}) was deleted in the sheet and is not "
                                 "in the book what it was then; it stays")  # fmt: skip
        return
    line, then, cells = row
    edits = []
    for path, cell in zip(paths, cells, strict=True):
        before = slots.get(path, "")
        if path and plain(before) != cell:
            kind: Kind = "added" if not before else "changed" if cell else "emptied"
            edits.append(Edit(path, kind, before, cell))
    if not edits:
        return
    if then != digest:
        found.refused.append(f"row {line} ({name}): the book is not what it was when the sheet was "
                             "made; nothing of the row is done")  # fmt: skip
        return
    found.cells[record] = edits
    found.names[record] = name


class Edited:
    """Does to contacts what people did to the sheet."""

    def __init__(self, edits: Edits) -> None:
        self.cells = edits.cells
        self.deleted = frozenset(edits.deleted)

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact as its row says; None where the row was deleted."""
        record = contact.record
        if record in self.deleted:
            tally.count(_ROW_DELETED, sum(map(tally.read_of, contact.properties)), people=1)
            return None
        edits = self.cells.get(record)
        if not edits:
            return contact
        out = Contact(list(contact.properties), contact.origin)
        slots = {slot.path: slot for slot in slots_of(contact)}
        same = _names_agree(contact)
        for edit in edits:
            if edit.kind == "added":
                add(out, parse(edit.path), edit.after)
            elif slots[edit.path].at < 0:
                _edit_list(out, edit, tally)
            else:
                _edit_one(out, slots[edit.path], edit, tally)
        if same and any(edit.path.startswith("name/") for edit in edits):
            _follow(out)
        out.properties = [prop for prop in out.properties if prop.rides or prop.size()]
        return out


def people_of(edits: Edits) -> list[Contact]:
    """The people whom the sheet has and the book has not; all of their values are added."""
    found = []
    for said in edits.new:
        contact = Contact([], ADDED)
        for path, text in said.items():
            add(contact, parse(path), text)
        found.append(contact)
    return found


def _edit_one(out: Contact, slot: SheetSlot, edit: Edit, tally: Tally) -> None:
    """Change or empty one value; emptied properties are dropped by the caller."""
    prop = out.properties[slot.at]
    origin = prop.origin_of(max(slot.part, 0))
    gone = _size_of(prop, slot.part)
    if edit.kind == "emptied":
        tally.count(_EMPTIED, gone if origin >= 0 else 0)
    elif origin >= 0:
        tally.count(_EDITED_OUT, gone - 1)
    after = "" if edit.kind == "emptied" else edit.after
    if slot.part < 0:
        text = from_cell(prop.head.field, after) if after else ""
        out.properties[slot.at] = prop.replaced(text, changed_by(origin, _EDITED))
        return
    values = list(prop.components)
    origins = prop.origins()
    values[slot.part], origins[slot.part] = after, changed_by(origin, _EDITED)
    out.properties[slot.at] = prop.replaced(tuple(values), tuple(origins))


def _size_of(prop: Property, part: int) -> int:
    if part < 0:
        return prop.size()
    component = prop.components[part]
    return 1 if isinstance(component, str) else sum(1 for text in component if text)


def _edit_list(out: Contact, edit: Edit, tally: Tally) -> None:
    """The entries of a list: those that are gone are left out, new ones are added."""
    field = by_path(parse(edit.path).field)[0]
    wanted = parted(edit.after)
    for at, prop in enumerate(out.properties):
        if prop.head.name != field.name or prop.rides:
            continue
        kept: list[int] = []
        for index, entry in enumerate(prop.components):
            if entry in wanted:
                wanted.remove(str(entry))
                kept.append(index)
            elif prop.origin_of(index) >= 0:
                tally.count(_EMPTIED, 1)
        values = tuple(prop.components[index] for index in kept)
        out.properties[at] = prop.replaced(values, tuple(prop.origin_of(index) for index in kept))
    if wanted:
        add(out, FieldPath(field.path), joined(wanted))


def _names_agree(contact: Contact) -> bool:
    """Whether the whole name says what the parts say, so that it follows them."""
    whole, parts = contact.first("fn"), _name_parts(contact)
    return whole is not None and parts is not None and says_same(whole.text, parts.value)


def _follow(out: Contact) -> None:
    """The whole name made anew from the parts, which it said before."""
    parts = _name_parts(out)
    for at, prop in enumerate(out.properties):
        if prop.head.name == "fn" and not prop.rides:
            text = joined_name(parts.value) if parts is not None else ""
            if text:
                origin = changed_by(prop.origin_of(0), _NAME_FOLLOWS)
                out.properties[at] = prop.replaced(text, origin)
            return


def _name_parts(contact: Contact) -> Property | None:
    for prop in contact.all("n"):
        if not prop.head.phonetic and any(flat(prop.components)):
            return prop
    return None
