"""A layout for a table that has none: the columns that a book's own values ask for."""

from __future__ import annotations

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.envelopes import paired
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS, TABLE
from roundcard.card.names import says_same
from roundcard.card.paths import FieldPath, takes_many
from roundcard.formats.csv import Dialect
from roundcard.layouts.model import Column, Layout
from roundcard.layouts.row_writer import label_of, own_columns

_MOST_POSITIONS = 200
"""Columns for values of one field; what one contact has beyond that is left behind, and kept."""
_MARKS = ("; ", " | ", " / ", "\n")
"""What may part several values in a cell, the first that no value holds being taken."""


class Shape:
    """What a book holds, learned contact by contact, in memory that does not grow with it."""

    def __init__(self, *, photos: bool = False) -> None:
        """With `photos` there is a place beside the table for them."""
        self.photos = photos
        self.most: dict[str, int] = {}
        """The most values that one contact has of a field, by the field's word."""
        self.described: dict[str, set[str]] = {}
        """Whether values of a field carry uses or a preference."""
        self.parts: dict[str, set[int]] = {}
        self.spoken: set[int] = set()
        self.whole_name = False
        self.whole_address = False
        self.labels: dict[str, int] = {}
        """Labels of values that no standard field holds, and the most that one contact has."""
        self.marks: dict[str, list[str]] = {}

    def add(self, contact: Contact) -> None:
        """Learn from one contact."""
        here: dict[str, int] = {}
        own: dict[str, int] = {}
        labels = contact.labels()
        names = [prop for prop in contact.properties if prop.head.name in ("n", "fn")]
        on_envelopes = paired(contact.properties)
        self.whole_address |= bool(on_envelopes)
        parts = next((p for p in names if p.head.name == "n" and not p.head.phonetic), None)
        for at, prop in enumerate(contact.properties):
            head = prop.head
            field = head.field
            if at in on_envelopes or prop.rides:
                continue
            if field.kind == "media" and not (self.photos and field.path):
                continue
            if head.name == "fn":
                self.whole_name |= parts is None or not says_same(prop.text, parts.value)
            elif head.name == "n":
                used = {at for at, part in enumerate(prop.components) if any(flat((part,)))}
                if head.phonetic:
                    self.spoken |= used
                else:
                    self.parts.setdefault("name", set()).update(used)
            elif not field.path or head.name == CUSTOM:
                label = label_of(prop)
                own[label] = own.get(label, 0) + 1
            else:
                self._count(prop, here, labels)
        for word, count in here.items():
            if count > self.most.get(word, 0):
                self.most[word] = count
        for label, count in own.items():
            if count > self.labels.get(label, 0):
                self.labels[label] = count

    def merge(self, other: Shape) -> None:
        """Add what another one learned from the contacts that come after."""
        for mine, theirs in ((self.most, other.most), (self.labels, other.labels)):
            for word, count in theirs.items():
                mine[word] = max(mine.get(word, 0), count)
        for word, told in other.described.items():
            self.described.setdefault(word, set()).update(told)
        for word, parts in other.parts.items():
            self.parts.setdefault(word, set()).update(parts)
        self.spoken |= other.spoken
        self.whole_name |= other.whole_name
        self.whole_address |= other.whole_address
        for word, marks in other.marks.items():
            there = self.marks.setdefault(word, list(_MARKS))
            self.marks[word] = [mark for mark in there if mark in marks]

    def _count(self, prop: Property, here: dict[str, int], labels: dict[str, str]) -> None:
        head = prop.head
        word = head.field.path
        here[word] = here.get(word, 0) + 1
        told = self.described.setdefault(word, set())
        if head.field.uses:
            if head.uses or head.group.lower() in labels:
                told.add("use")
            if head.preferred:
                told.add("preferred")
        if head.name == "label":
            self.whole_address = True
        elif head.field.kind == "parts":
            used = {at for at, part in enumerate(prop.components) if any(flat((part,)))}
            self.parts.setdefault(word, set()).update(used)
        elif head.field.kind == "list":
            marks = self.marks.setdefault(word, list(_MARKS))
            here[word] += sum(1 for text in prop.components if text) - 1
            for text in flat(prop.components):
                for mark in [mark for mark in marks if (mark.strip() or mark) in text]:
                    marks.remove(mark)

    def layout(self, name: str) -> Layout:
        """Columns for all that was seen, under headings that are their field paths.

        A table has one column at least: where nothing was seen, it is that of the whole name.
        """
        paths: list[tuple[FieldPath, str]] = []
        if self.whole_name:
            paths.append((FieldPath("name", part="full"), ""))
        for at in sorted(self.parts.get("name", set()) & set(range(len(N_PARTS)))):
            paths.append((FieldPath("name", part=N_PARTS[at]), ""))
        for at in sorted(self.spoken & {0, 1}):
            paths.append((FieldPath("name", part=f"phonetic-{N_PARTS[at]}"), ""))
        words = dict.fromkeys(f.path for f in TABLE if f.path and f.path not in ("name", "custom"))
        for word in words:
            if self.most.get(word):
                paths += self._field(word)
        columns = [Column(heading=str(path), holds=(path,), many=many) for path, many in paths]
        columns += own_columns(self.labels, lambda label: str(FieldPath("custom", label=label)))
        if not columns:
            whole = FieldPath("name", part="full")
            columns = [Column(heading=str(whole), holds=(whole,))]
        return Layout(name=name, dialect=Dialect(), columns=tuple(columns))

    def _field(self, word: str) -> list[tuple[FieldPath, str]]:
        most = self.most[word] if takes_many(word) else 1
        marks = self.marks.get(word)
        if marks:
            return [(FieldPath(word), marks[0])]
        out = []
        for position in range(1, min(most, _MOST_POSITIONS) + 1) if most > 1 else (0,):
            out += [(path, "") for path in self._value(word, position)]
        return out

    def _value(self, word: str, position: int) -> list[FieldPath]:
        told = self.described.get(word, set())
        names: list[str] = [part for part in ("use", "preferred") if part in told]
        parts = sorted(self.parts.get(word, ()))
        if word == "org":
            values = [FieldPath(word, position=position)]
            values += [FieldPath(word, position=position, part="unit", number=at)
                       for at in range(1, max(parts, default=0) + 1)]  # fmt: skip
            return values
        if word == "address":
            names += ["full"] if self.whole_address else []
            names += [ADR_PARTS[at] for at in parts if at < len(ADR_PARTS)]
            return [FieldPath(word, position=position, part=part) for part in names]
        if word == "gender":
            return [FieldPath(word, part=("sex", "identity")[at]) for at in parts if at < 2]
        values = [FieldPath(word, position=position)]
        return values + [FieldPath(word, position=position, part=part) for part in names]
