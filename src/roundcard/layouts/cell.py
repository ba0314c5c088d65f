"""One cell of a row in the making, and what may go into it."""

from __future__ import annotations

from typing import Protocol

from roundcard.card.contact import Contact, Property
from roundcard.layouts.model import Column
from roundcard.tally import Fate, Reason, Tally, Why
from roundcard.values.dates import parse_iso

Row = list[str]


class KeepsPhotos(Protocol):
    """Keeps the photos of a table beside it."""

    def keep(self, uri: str, origin: int) -> str:
        """Keep an inline photo; what its cell holds, or nothing where it was not taken."""


class Cell:
    """One cell of a row, and what may go into it."""

    __slots__ = ("date", "encoding", "forbids", "index", "longest", "name", "plain", "words")

    def __init__(
        self, index: int, column: Column, encoding: str, forbids: str = "", longest: int = 0
    ) -> None:
        self.index = index
        self.name = column.name
        self.encoding = encoding
        """The table's character set, where there are characters that it lacks."""
        self.forbids = forbids
        """A mark that would be taken for the end of the value."""
        self.longest = longest
        """Characters that the cell holds at the most; 0 for as many as there are."""
        self.date = column.date
        self.words: dict[str, str] = {}
        for theirs, ours in column.values.items():
            self.words.setdefault(ours, theirs)
        self.plain = not (column.values or column.date or forbids or longest or column.dated)
        """Whether any text that the encoding can write may go in, as it is."""

    def refusal(self, text: str) -> Reason | None:
        """Why a text cannot go into the cell; None where it can."""
        if self.forbids and self.forbids in text:
            return left_behind(Why.SEPARATES_THERE, self.forbids.strip() or self.forbids)
        if self.longest and len(text) > self.longest:
            return left_behind(Why.TOO_LONG, f"{self.longest:,}")
        if self.encoding and not text.isascii():
            try:
                text.encode(self.encoding)
            except UnicodeEncodeError:
                return left_behind(Why.NO_CHARACTERS, self.encoding)
        return None

    def said(self, text: str) -> tuple[str, Reason | None]:
        """The text in the column's own words and dates, and why it is another one, if it is."""
        if self.words:
            theirs = self.words.get(text, text)
            return theirs, changed_in(Why.COLUMN_VALUES, self.name) if theirs != text else None
        if self.date is not None:
            date = parse_iso(text)
            written = self.date.write(date) if date else text
            return written, changed_in(Why.COLUMN_DATES, self.name) if written != text else None
        return text, None


class RowDraft:
    """A row in the making: whose it is, its cells, and the tally that counts what goes in."""

    __slots__ = ("_labels", "contact", "envelopes", "photos", "row", "tally")

    def __init__(
        self,
        contact: Contact,
        row: Row,
        tally: Tally,
        photos: KeepsPhotos | None = None,
        labels: dict[str, str] | None = None,
    ) -> None:
        """`labels` are those of the contact's groups, where they are known."""
        self.contact = contact
        self.row = row
        self.tally = tally
        self.photos = photos
        self.envelopes: dict[int, Property] = {}
        """Texts on envelopes that are still to be placed, by the `id` of their address."""
        self._labels = labels

    def label_of(self, prop: Property) -> str:
        """The user's own label of a value; an empty string where it has none."""
        group = prop.head.group
        if not group:
            return ""
        if self._labels is None:
            self._labels = self.contact.labels()
        return self._labels.get(group.lower(), "")

    def leave(self, prop: Property, why: Reason) -> None:
        """Leave a value behind; the reason gets the field's name."""
        word = prop.head.field.path or prop.head.name.upper()
        if word == "custom" and isinstance(prop.components[0], str):
            word = prop.components[0]
        self.tally.leave_behind(self.contact, prop, why._replace(field=word))

    def fold(self, prop: Property, why: Reason) -> None:
        """Count a value that was read as said by another one."""
        self.tally.count(why, self.tally.read_of(prop))


def left_behind(why: Why, *details: str) -> Reason:
    """A reason for leaving a value behind, still without its field."""
    return Reason(Fate.LEFT_BEHIND, why, details=details)


def changed_in(why: Why, column: str) -> Reason:
    """The reason for which a column's own words or dates change a value."""
    return Reason(Fate.CHANGED, why, details=(column,))
