"""Which values of a person have room: the destination's limits and its layout's columns at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.envelopes import paired
from roundcard.card.paths import FieldPath
from roundcard.destinations.model import Destination, counts_many
from roundcard.layouts.cell import RowDraft
from roundcard.layouts.model import Layout
from roundcard.layouts.row_writer import RowWriter, label_of
from roundcard.tally import Fate, Reason, SetAside, Tally, Why

_MOST_KNOWN = 20_000


class Refused(NamedTuple):
    """A value, or a part of one, that has no room, and why."""

    piece: Property
    reason: Reason


class _Catch:
    """A tally's sink that keeps what a row has no place for."""

    def __init__(self) -> None:
        self.found: list[Refused] = []

    def left_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:  # noqa: ARG002
        """Keep it."""
        self.found.append(Refused(prop, reason))

    def set_aside(self, item: SetAside) -> None:
        """No row sets anything aside."""


def fitted_layout(to: Destination) -> Layout | None:
    """The layout by which a destination's tables are written: its character set and its dates are
    the destination's where that says them."""
    layout = to.layout
    if layout is None:
        return None
    date = to.style.date
    columns = tuple(replace(column, date=date) if date is not None and column.dated else column
                    for column in layout.columns)  # fmt: skip
    dialect = replace(layout.dialect, encoding=to.charset)
    return replace(layout, columns=columns, dialect=dialect)


class Columns:
    """The columns of a table, asked what of a person has a place in them."""

    def __init__(self, layout: Layout) -> None:
        self._catch = _Catch()
        self._writer = RowWriter(layout, Tally(self._catch))
        self._widens = layout.unlisted == "custom" and layout.heading_row > 0
        marks: dict[str, set[str]] = {}
        for column in layout.columns:
            for path in column.holds:
                marks.setdefault(path.field, set()).update({column.parts_at, column.parted} - {""})
        self._marks = {word: tuple(found) for word, found in marks.items()}
        self._known: set[tuple[object, ...]] = set()
        self._empty = self._writer.blank_row + self._writer.no_cells

    def marks(self, word: str) -> tuple[str, ...]:
        """What no value of a field may hold, since it parts values there."""
        return self._marks.get(word, ())

    def word(self, prop: Property) -> str:
        """The word of the columns that a property goes to."""
        return self._writer.word_of(prop.head, label_of(prop))

    def refused(self, contact: Contact, word: str, props: Sequence[Property]) -> list[Refused]:
        """What of some values of one field has no place when all of them are put down."""
        if word.startswith("custom/") and self._widens:
            return []
        key: tuple[object, ...] | None = (word,)
        for prop in props:
            key = self._shape(key, prop, word)
            if key is None:
                break
        if key in self._known:
            return []
        self._catch.found = []
        draft = RowDraft(contact, self._empty.copy(), self._writer.tally)
        if word == "name":
            self._writer.names.place(draft, list(props))
        else:
            self._writer.place_field(draft, word, list(props))
        if key is not None and not self._catch.found and len(self._known) < _MOST_KNOWN:
            self._known.add(key)
        return self._catch.found

    def _shape(
        self, key: tuple[object, ...] | None, prop: Property, word: str
    ) -> tuple[object, ...] | None:
        """What the place of a value hangs on, besides the others; None where it hangs on its text,
        too."""
        made = prop.head
        if key is None or made.group or made.field.kind == "list" or made.name in ("n", "fn"):
            return None
        if word in self._marks and any(mark in prop.text for mark in self._marks[word]):
            return None
        if made.field.kind == "parts":
            filled = tuple(bool(part) if isinstance(part, str) else 2 for part in prop.components)
            return (*key, made, filled)
        return None if made.field.kind == "date" else (*key, made)


class Room:
    """Gives each value its place, or says why it has none: preferred ones first, then as the
    columns can take them, then by use, then in order."""

    def __init__(self, to: Destination, columns: Columns | None) -> None:
        self._to = to
        self._columns = columns
        self._uses: dict[str, Mapping[str, int]] = {
            path.field: {word.casefold(): at for at, word in enumerate(allowed.values)}
            for path, allowed in to.allowed.items() if path.part == "use"
        }  # fmt: skip
        self._limits: dict[str, list[tuple[FieldPath, int]]] = {}
        for path, most in to.limits.values.items():
            self._limits.setdefault(path.field, []).append((path, most))

    def refused(self, contact: Contact, props: Sequence[Property]) -> list[Refused]:
        """All that has no room."""
        by_word: dict[str, list[Property]] = {}
        found: list[Refused] = []
        for prop in props:
            name = prop.head.name
            if name in ("n", "fn"):
                by_word.setdefault("name", []).append(prop)
            elif prop.size() and not prop.rides:
                columns = self._columns
                word = columns.word(prop) if columns is not None else prop.head.field.path or name
                by_word.setdefault(word, []).append(prop)
            elif prop.size() and self._columns is not None:  # in another script
                found.append(Refused(prop, Reason(Fate.LEFT_BEHIND, Why.NO_COLUMN_FOR_SCRIPT)))
        for word, mine in by_word.items():
            found += self._of_field(contact, word, mine)
        return found

    def _of_field(self, contact: Contact, word: str, props: list[Property]) -> list[Refused]:
        homeless = self._columns.refused(contact, word, props) if self._columns is not None else []
        limits = self._limits.get(word.partition("/")[0], ())
        if word == "name" or not (limits or homeless):
            return homeless
        if counts_many(word) if "/" not in word else False:
            return self._of_list(props, homeless, limits[0][1] if limits else None)
        if not self._over(props, limits) and not _some_whole(homeless, props):
            return homeless
        return self._chosen(contact, word, props, homeless, limits)

    @staticmethod
    def _over(props: Sequence[Property], limits: Sequence[tuple[FieldPath, int]]) -> bool:
        return any(
            sum(1 for prop in props if prop.head.name != "label" and _under(prop, path)) > most
            for path, most in limits
        )

    @staticmethod
    def _of_list(
        props: Sequence[Property], homeless: list[Refused], most: int | None
    ) -> list[Refused]:
        """The entries beyond a limit, besides those that have no place."""
        gone = [text for each in homeless for text in flat(each.piece.components)]
        found, left = list(homeless), most
        for prop in props:
            beyond = []
            for at, text in enumerate(prop.components):
                if not text:
                    continue
                if text in gone:
                    gone.remove(str(text))
                elif left is not None and left <= 0:
                    beyond.append(at)
                elif left is not None:
                    left -= 1
            if beyond:
                whole = len(beyond) == len(prop.components)
                found.append(Refused(prop if whole else prop.entries(beyond), _over(most or 0)))
        return found

    def _chosen(
        self,
        contact: Contact,
        word: str,
        props: list[Property],
        homeless: list[Refused],
        limits: Sequence[tuple[FieldPath, int]],
    ) -> list[Refused]:
        """The values that find no room when the best ones are served first."""
        pairs = paired(props)
        units = [[prop] for at, prop in enumerate(props) if at not in pairs]
        for text, address in pairs.items():
            next(unit for unit in units if unit[0] is props[address]).append(props[text])
        order = sorted(range(len(units)), key=lambda at: self._rank(word, units[at][0], at))
        kept: list[int] = []
        found: list[Refused] = []
        partly = 0
        for at in order:
            unit = units[at]
            beyond = next((most for path, most in limits if _under(unit[0], path) and sum(
                1 for n in kept if _under(units[n][0], path)) >= most), None)  # fmt: skip
            if beyond is not None:
                found += [Refused(prop, _over(beyond)) for prop in unit]
                continue
            if self._columns is None:
                kept.append(at)
                continue
            trial = [prop for n in sorted([*kept, at]) for prop in units[n]]
            left = self._columns.refused(contact, word, trial)
            size = sum(each.piece.size() for each in left)
            if size - partly >= unit[0].size():
                why = {id(each.piece): each.reason for each in (*homeless, *left)}
                common = left[-1].reason
                found += [Refused(prop, why.get(id(prop), common)) for prop in unit]
                continue
            kept.append(at)
            partly = size
        if self._columns is not None and kept:
            whole = [prop for n in sorted(kept) for prop in units[n]]
            found += self._columns.refused(contact, word, whole)
        return found

    def _rank(self, word: str, prop: Property, at: int) -> tuple[int, int, int]:
        made = prop.head
        uses = self._uses.get(word, {})
        use = min((uses[each] for each in made.uses if each in uses), default=len(uses))
        return made.preferred or 1_000, use, at


def _under(prop: Property, path: FieldPath) -> bool:
    return prop.head.name != "label" and set(path.uses) <= prop.head.uses


def _over(most: int) -> Reason:
    return Reason(Fate.LEFT_BEHIND, Why.OVER_LIMIT, details=(str(most),))


def _some_whole(homeless: Sequence[Refused], props: Sequence[Property]) -> bool:
    """Whether a value is refused as a whole, so that another choice may be a better one."""
    return len(props) > 1 and any(each.piece is prop for each in homeless for prop in props)


def without(props: Sequence[Property], pieces: Sequence[Property]) -> list[Property]:
    """Properties without some of them, or without some components or entries of theirs."""
    left = list(props)
    for piece in pieces:
        at = next((n for n, prop in enumerate(left) if prop is piece), -1)
        if at >= 0:
            del left[at]
            continue
        at = next((n for n, prop in enumerate(left) if _holds(prop, piece)), -1)
        if at < 0:
            continue
        rest = _rest(left[at], piece)
        if rest is None:
            del left[at]
            continue
        left[at] = rest
    return left


def _holds(prop: Property, piece: Property) -> bool:
    """Whether a piece was taken from a property."""
    if prop.head is not piece.head or prop.head.field.kind not in ("parts", "list"):
        return False
    if prop.head.field.kind == "list":
        mine = list(prop.components)
        return all(text in mine for text in piece.components)
    theirs = piece.components
    return len(theirs) <= len(prop.components) and all(
        not any(flat((part,))) or part == prop.components[at] for at, part in enumerate(theirs)
    )


def _rest(prop: Property, piece: Property) -> Property | None:
    if prop.head.field.kind == "list":
        gone = list(piece.components)
        places = []
        for at, text in enumerate(prop.components):
            if text in gone:
                gone.remove(text)
            else:
                places.append(at)
        return prop.entries(places) if places else None
    taken = {at for at, part in enumerate(piece.components) if any(flat((part,)))}
    rest = prop.only([at for at in range(len(prop.components)) if at not in taken])
    return rest if rest.size() else None
