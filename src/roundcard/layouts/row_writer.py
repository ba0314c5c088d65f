"""Contacts to rows: each column takes the first value that fits, the most specific columns first.

A position takes the value that stands there; then columns with a use are served, then plain ones;
positions that found nothing take what is still free. Each value is placed once; what finds no
column is left behind.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.equality import folded
from roundcard.card.fields import CUSTOM, FIELDS
from roundcard.card.head import Head
from roundcard.card.paths import FieldPath
from roundcard.errors import LayoutError
from roundcard.formats.csv import lacks
from roundcard.formats.sheets import guarded
from roundcard.layouts.cell import Cell, KeepsPhotos, Row, RowDraft, left_behind
from roundcard.layouts.column_allocation import Virtual, make_slots
from roundcard.layouts.model import Column, Layout
from roundcard.layouts.name_columns import NamePlacer
from roundcard.tally import Fate, Reason, Tally, Why

_WORDS = {field.name: field.path for field in FIELDS.values() if field.path}
"""The word that paths begin with, by property name."""
_NO_COLUMN = left_behind(Why.NO_COLUMN)
_NO_SCRIPT = left_behind(Why.NO_COLUMN_FOR_SCRIPT)
_NOBODY = left_behind(Why.NO_COLUMN_FOR_PERSON)
FIXED = Reason(Fate.ADDED, Why.COLUMNS_FIXED)
_OF_EVERYBODY = Reason(Fate.FOLDED, Why.SAID_BY_LAYOUT)


class MoreColumns(Exception):  # noqa: N818  # a signal between rooms, no error of the user's
    """A custom value has no column, and the layout wants one made for it."""


class RowWriter:
    """Makes the rows of one table out of contacts, and counts what becomes of each value.

    Cells that hold several things, and things that stand over several cells, are first written
    into places of their own behind the row, and put together at the end.
    """

    def __init__(
        self,
        layout: Layout,
        tally: Tally,
        extra: Mapping[str, int] | None = None,
        *,
        widens: bool = False,
        longest: int = 0,
        photos: KeepsPhotos | None = None,
    ) -> None:
        """`extra` are labels of custom values that get so many columns after the layout's own.

        With `widens`, `MoreColumns` is raised for a custom value that has no column. A cell holds
        `longest` characters at the most (0 for any number); `photos` keeps inline photos.
        """
        self.longest = longest
        self.photos = photos
        self.widens = widens
        self.made_by = layout, dict(extra or {}), widens
        """What another writer of the same table is made from."""
        self.layout = layout
        self.tally = tally
        self.columns = _in_file_order(layout) + tuple(own_columns(extra or {}, str))
        self.encoding = layout.dialect.encoding if lacks(layout.dialect.encoding) else ""
        self._demand_writable()
        self.blank_row: Row = [column.fixed or "" for column in self.columns]
        self.fixed = sum(1 for column in self.columns if column.fixed)
        self.parted: list[tuple[int, str, range]] = []
        self.joined: list[tuple[list[int], str, int]] = []
        virtual = self._virtual()
        self.names = NamePlacer(virtual)
        self.fields = make_slots(virtual)
        self.loose = {folded(word): word for word in self.fields}
        self.no_cells = [""] * self.behind
        self.every: dict[str, set[str]] = {}
        for each in layout.every:
            self.every.setdefault(each.holds.field, set()).add(each.value)

    def _virtual(self) -> Virtual:
        """All paths of all columns with the cells, real or behind the row, that they fill."""
        virtual: Virtual = []
        together: dict[FieldPath, list[int]] = {}
        for at, column in enumerate(self.columns):
            if column.join is not None and column.holds:
                together.setdefault(column.holds[0], []).append(at)
        width = len(self.blank_row)
        for at, column in enumerate(self.columns):
            if column.parted:
                last = len(column.holds) - 1
                self.parted.append((at, column.parted, range(width, width + last + 1)))
                for number, path in enumerate(column.holds):
                    forbids = column.parted if number < last else ""
                    cell = Cell(width + number, column, self.encoding, forbids, self.longest)
                    virtual.append((path, cell, column))
                width += last + 1
            elif column.holds:
                indexes = together.get(column.holds[0], [at]) if column.join is not None else [at]
                if len(indexes) > 1 and at != indexes[0]:
                    continue
                cell = Cell(at, column, self.encoding, column.parts_at, self.longest)
                if len(indexes) > 1:
                    self.joined.append((indexes, column.join or "", width))
                    cell.index = width
                    width += 1
                virtual.append((column.holds[0], cell, column))
        self.behind = width - len(self.blank_row)
        return virtual

    def _demand_writable(self) -> None:
        """Raise `LayoutError` for headings or fixed values that the encoding cannot write."""
        for column in self.columns:
            for text in (column.heading, column.fixed or ""):
                try:
                    text.encode(self.encoding or "utf-8")
                except UnicodeEncodeError:
                    line = f", line {column.line}" if column.line else ""
                    raise LayoutError(
                        f"{self.layout.where}{line}: '{text}' holds characters that "
                        f"{self.encoding} lacks; choose another encoding"
                    ) from None

    @property
    def headings(self) -> Row | None:
        """The heading row; None for a layout without headings."""
        if self.layout.heading_row == 0:
            return None
        return [column.heading or column.name for column in self.columns]

    @property
    def above(self) -> list[Row]:
        """The rows that stand above the records: blank ones, and the headings."""
        if self.headings is None:
            return []
        return [[""] * len(self.columns)] * (self.layout.heading_row - 1) + [self.headings]

    def row(self, contact: Contact) -> Row | None:
        """The cells of one contact; None (and the person left behind) where no cell is filled."""
        tally = self.tally
        row = self.blank_row + self.no_cells
        written = self._place(contact, row)
        if not written:
            tally.count(_NOBODY, people=1)
            return None
        if self.fixed:
            tally.count(FIXED, self.fixed)
        tally.values.written += written + self.fixed
        tally.people.carried += 1
        tally.people.written += 1
        return self.put_together(row) if self.behind or self.layout.formula_guard else row

    def _place(self, contact: Contact, row: Row) -> int:
        """Place the values of a contact one field after another; how many were written."""
        tally = self.tally
        by_word: dict[str, list[Property]] = {}
        names: list[Property] = []
        draft = RowDraft(contact, row, tally, self.photos)
        for prop in contact.properties:
            name = prop.head.name
            if name in ("n", "fn"):
                names.append(prop)
            elif prop.size() or not prop.rides:
                word = self.word_of(prop.head, label_of(prop))
                if prop.rides:
                    draft.leave(prop, _NO_SCRIPT if word in self.fields else _NO_COLUMN)
                else:
                    by_word.setdefault(word, []).append(prop)
        written = self.names.place(draft, names) if names else 0
        for word, props in by_word.items():
            written += self.place_field(draft, word, props)
        return written

    def word_of(self, head: Head, label: str) -> str:
        """The word of the columns for a property, which has a label if no standard field holds
        it."""
        word = _WORDS.get(head.name)
        if word is not None and head.name != CUSTOM:
            return word
        word = "custom/" + label
        return word if word in self.fields else self.loose.get(folded(word), word)

    def place_field(self, draft: RowDraft, word: str, props: list[Property]) -> int:
        """Place all values of one field; how many were written. Raises `MoreColumns`."""
        if word in self.every:
            props = self._without_every(draft, self.every[word], props)
            if not props:
                return 0
        field = self.fields.get(word)
        room = field.room if field is not None else 0
        if self.widens and word.startswith("custom/") and len(props) > room:
            raise MoreColumns
        if field is not None:
            return field.place(draft, props)
        for prop in props:
            draft.leave(prop, _NO_COLUMN)
        return 0

    def put_together(self, row: Row) -> Row:
        """The row as the file has it, from one with the places behind it."""
        for at, mark, pieces in self.parted:
            texts = [row[piece] for piece in pieces]
            while texts and not texts[-1]:
                texts.pop()
            row[at] = mark.join(texts)
        for indexes, mark, behind in self.joined:
            texts = row[behind].split(mark, len(indexes) - 1) if mark else [row[behind]]
            for at, text in zip(indexes, texts, strict=False):
                row[at] = text
        del row[len(self.blank_row) :]
        if self.layout.formula_guard:
            return list(map(guarded, row))
        return row

    def _without_every(
        self, draft: RowDraft, said: set[str], props: list[Property]
    ) -> list[Property]:
        """Values that the layout says of everybody need no cell: reading brings them back."""
        kept = []
        for prop in props:
            texts = prop.components
            gone = [at for at, text in enumerate(texts) if text in said]
            if not gone:
                kept.append(prop)
                continue
            folds = prop if len(gone) == len(texts) else prop.entries(gone)
            draft.fold(folds, _OF_EVERYBODY)
            if folds is not prop:
                kept.append(prop.entries([at for at in range(len(texts)) if at not in gone]))
        return kept


def own_columns(labels: Mapping[str, int], heading: Callable[[str], str]) -> Iterator[Column]:
    """Columns for values that no standard field holds, by label and how many are needed."""
    for label, count in labels.items():
        for nth in range(1, count + 1):
            path = FieldPath("custom", label=label)
            yield Column(heading=heading(label), nth=nth, holds=(path,))


def label_of(prop: Property) -> str:
    """The label under which a value that no standard field holds goes into a table."""
    if prop.head.name == CUSTOM:
        return " ".join(flat(prop.components[:1]))
    return prop.head.name.upper()


def _in_file_order(layout: Layout) -> tuple[Column, ...]:
    """The columns as they are written: skipped ones left off, or blank where numbers count."""
    columns = tuple(column for column in layout.columns if not column.skip)
    if layout.heading_row:
        return columns
    last = max(column.number for column in layout.columns)
    by_number = {column.number: column for column in columns}
    return tuple(by_number.get(at, Column(number=at, blank=True)) for at in range(1, last + 1))
