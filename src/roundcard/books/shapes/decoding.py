"""Columns of undecoded text, decoded at once where nothing in them is escaped."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import zip_longest

from roundcard.books.shapes.batch import Column
from roundcard.card.head import Head, Value
from roundcard.formats.vcard.syntax import (
    read_inner_parts,
    read_parts,
    read_parts_21,
    unescape,
    unescape_21,
)
from roundcard.formats.vcard.values import read_phone, read_uri

_AS_IT_IS = frozenset({None, unescape, unescape_21, read_uri})
"""Readers that change nothing in text without a backslash."""
_AT_SEMICOLONS = frozenset({read_inner_parts, read_parts, read_parts_21})
"""Readers that only cut text without a backslash (nor, some, a comma) at its semicolons."""


def decoded(head: Head, column: Column) -> Sequence[Value]:
    """The values of a column."""
    if column.values is not None:
        return column.values
    if column.parts is not None:
        return list(zip(*column.parts, strict=True))
    raws = column.raws or ()
    decode = head.decode
    if decode is None:
        return raws
    joined = "\n".join(raws)
    if "\\" not in joined and (
        decode in _AS_IT_IS or (decode is read_phone and "tel:" not in joined.lower())
    ):
        return raws
    known = {raw: decode(raw) for raw in set(raws)}
    return [known[raw] for raw in raws]


def components(head: Head, column: Column) -> tuple[list[Sequence[str]], set[int]]:
    """A column for each component of a structured value; and the records that cannot be told so,
    since a component of theirs holds several texts."""
    if column.parts is not None:
        return list(column.parts), set()
    rows: Sequence[Sequence[object]]
    joined = "".join(column.raws or "\\")
    cuts = head.decode in _AT_SEMICOLONS and "\\" not in joined
    if cuts and not ("," in joined and head.decode is read_inner_parts):
        raws = column.raws or ()
        marks = {raw.count(";") for raw in raws}
        if len(marks) == 1:  # as programs write them: all cut at once
            size = marks.pop() + 1
            pieces = ";".join(raws).split(";")
            return [pieces[at::size] for at in range(size)], set()
        rows = [raw.split(";") for raw in raws]
    else:
        rows = [(value,) if isinstance(value, str) else value for value in decoded(head, column)]
        odd = {at for at, row in enumerate(rows) if not all(text.__class__ is str for text in row)}
        if odd:
            return [], odd
    return list(zip_longest(*rows, fillvalue="")), set()  # type: ignore[arg-type]
