"""Whom a destination takes as they are, told for many people of one shape at once.

What a person has (which heads, how many, which components) says whether there is room for it, and
that is looked at once for all of a shape; their texts are looked at column by column. Whoever is
not plainly within all limits is left to `roundcard.destinations.fitting.Fit`.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from roundcard.books.shapes.batch import Batch, Column, Item
from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import CUSTOM, is_label
from roundcard.card.head import Value
from roundcard.card.paths import FieldPath
from roundcard.destinations.model import dropping
from roundcard.destinations.pieces import FULL

if TYPE_CHECKING:
    from roundcard.destinations.fitting import Fit

_WIDEST = 4
"""Octets of a character at the most."""


class ByColumns:
    """Tells whom a destination takes as they are."""

    def __init__(self, fit: Fit) -> None:
        self._fit = fit
        self._rooms: dict[tuple[object, ...], bool] = {}
        to = fit.to
        self._styled = {word for word, said in (("phone", to.style.phone),
                                                ("address", to.style.country))
                        if said not in ("", "as-typed")}  # fmt: skip
        self._never = (to.identity is not None and to.identity.field == "custom") or (
            to.style.name == "whole" and not fit.table
        )
        self._all_characters = to.charset.replace("-", "").startswith("utf") \
            and to.line_breaks and to.beyond_basic_plane  # fmt: skip
        self._lengths: dict[str, int] = {}
        for path, limit in to.limits.length.items():
            most = limit.most // _WIDEST if limit.octets else limit.most
            self._lengths[path.field] = min(most, self._lengths.get(path.field, most))

    def odd(self, batch: Batch) -> set[int]:
        """The places of those who must be looked at one by one."""
        everybody = set(range(len(batch)))
        if self._never or not self._may_pass(batch.shape) or not self._has_room(batch):
            return everybody
        found: set[int] = set()
        longest = 0
        for item, column in zip(batch.shape, batch.columns, strict=True):
            if item.rides or item.empty:
                continue
            texts = _texts(column)
            longest += max(map(len, texts), default=0)
            if not self._all_characters and not "".join(texts).isascii():
                found.update(at for at, text in enumerate(texts) if not text.isascii())
            if not self._fit.to.line_breaks:
                found.update(at for at, text in enumerate(texts) if "\n" in text or "\\" in text)
            if most := self._lengths.get(item.head.field.path):
                found.update(at for at, text in enumerate(texts) if len(text) > most)
            for mark in self._marks(item):
                found.update(at for at, text in enumerate(texts) if mark in text)
            most_entries = self._fit.to.limits.values.get(FieldPath(item.head.field.path or "note"))
            if item.head.field.kind == "list" and most_entries is not None:
                found.update(at for at, text in enumerate(texts) if text.count(",") >= most_entries)
        octets = self._fit.to.limits.octets_per_file
        if octets and _WIDEST * 2 * longest > octets:
            return everybody
        return found | self._needy(batch)

    def _may_pass(self, shape: Sequence[Item]) -> bool:
        """Whether nothing of what such people have is dropped, styled, or allowed only in part."""
        to = self._fit.to
        names = {item.head.name for item in shape if not item.empty}
        if to.style.name == "parts" and "n" not in names and "fn" in names:
            return False
        if FULL in to.limits.length and not self._fit.table and "fn" not in names:
            return False  # one is made, which may be too long
        for item in shape:
            if item.empty:
                continue
            word = item.head.field.path or "custom"
            if item.label and item.head.name != CUSTOM:
                return False
            if item.rides and not is_label(item.head.name, item.head.group):
                if item.head.altid or item.head.phonetic:
                    return False
                continue
            if item.head.group and not item.rides:
                return False
            label = item.label or ("" if item.head.field.path else item.head.name.upper())
            uses = tuple(item.head.uses)
            if word in self._styled or dropping(to, FieldPath(word, uses, label)):
                return False
            if not self._may_stand(item, word, label):
                return False
        return True

    def _may_stand(self, item: Item, word: str, label: str) -> bool:
        for path, allowed in self._fit.to.allowed.items():
            if path.field != word or (path.label and path.label.casefold() != label.casefold()):
                continue
            if path.part != "use":
                return False
            uses = "+".join(use for use in item.head.field.uses if use in item.head.uses)
            if uses and uses not in [each.casefold() for each in allowed.values]:
                return False
        return True

    def _has_room(self, batch: Batch) -> bool:
        """Whether there is room for all that such people have, whoever has most of it."""
        props: list[Property] = []
        key: list[object] = []
        for item, column in zip(batch.shape, batch.columns, strict=True):
            if item.empty:
                continue
            value = _fullest(item, column)
            if value is None and not item.rides:
                continue
            filled = tuple(bool(part) for part in value) if isinstance(value, tuple) else ()
            key += [item.head, item.label, filled]
            props.append(Property(item.head, value if value is not None else "", 1 * item.rides))
        known = self._rooms.get(tuple(key))
        if known is None:
            contact = Contact(props)
            known = self._rooms[tuple(key)] = not self._fit.room.refused(contact, props)
        return known

    def _marks(self, item: Item) -> Sequence[str]:
        columns = self._fit.columns
        return columns.marks(item.head.field.path) if columns is not None else ()

    def _needy(self, batch: Batch) -> set[int]:
        """Those who may lack what the service insists on."""
        to = self._fit.to
        found: set[int] = set()
        for path in to.needs_all:
            found |= set(range(len(batch))) - _having(batch, path)
        if to.needs_any:
            having: set[int] = set()
            for path in to.needs_any:
                having |= _having(batch, path)
            found |= set(range(len(batch))) - having
        return found


def _texts(column: Column) -> Sequence[str]:
    """The text of each record, of a structured value all of it; undecoded where it is so yet."""
    if column.raws is not None:
        return column.raws
    if column.parts is not None:
        return list(map("\x1f".join, zip(*column.parts, strict=True)))
    return [value if isinstance(value, str) else ",".join(flat(value))
            for value in column.values or ()]  # fmt: skip


def _fullest(item: Item, column: Column) -> Value | None:
    """A value that says all that any of the records says in this property; None where none says
    anything."""
    kind = item.head.field.kind
    if item.head.name == CUSTOM:
        return (item.label, "x")
    if kind == "parts":
        rows = column.parts
        if rows is None:
            split = [raw.split(";") for raw in column.raws] if column.raws is not None else \
                [value for value in column.values or () if not isinstance(value, str)]  # fmt: skip
            width = max(map(len, split), default=0)
            found = tuple("x" if any(len(each) > at and each[at] for each in split) else ""
                          for at in range(width))  # fmt: skip
        else:
            found = tuple("x" if any(part) else "" for part in rows)
        return found if any(found) else None
    texts = _texts(column)
    at = next((at for at, text in enumerate(texts) if text and not text.isspace()), None)
    if at is None:
        return None
    return ("x",) if kind == "list" else column.prop(item, at).value


def _having(batch: Batch, path: FieldPath) -> set[int]:
    """The records that have a value under a path, as far as that is told without decoding."""
    found: set[int] = set()
    for item, column in zip(batch.shape, batch.columns, strict=True):
        head = item.head
        if item.rides or item.empty or head.field.path != path.field or path.label:
            continue
        if path.uses and not set(path.uses) <= head.uses:
            continue
        texts = _texts(column)
        whole = head.field.kind != "parts" and path.part in ("", "full")
        if (path.field == "name" and path.part == "full") or whole:
            found.update(at for at, text in enumerate(texts) if text.strip(" ;\x1f"))
        elif path.field in ("org", "name") and path.part in ("", "family") and head.name != "fn":
            found.update(at for at, text in enumerate(texts) if text[:1] not in ("", ";", "\x1f"))
    return found
