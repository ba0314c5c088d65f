"""Batches of records into the text of cards."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Callable, Sequence
from itertools import repeat
from typing import Any

from roundcard.books.shapes.batch import Batch, Column, Item, Shape
from roundcard.books.shapes.decoding import decoded
from roundcard.books.shapes.work import Event
from roundcard.card.contact import Property, flat
from roundcard.card.fields import CUSTOM
from roundcard.card.head import Head, Value
from roundcard.card.names import OTHERS, MadeFrom, joined_name, joined_names
from roundcard.formats.vcard import VCardWriter
from roundcard.formats.vcard.lines import FOLD_AT, demand_one_line, fold
from roundcard.formats.vcard.syntax import (
    all_printable,
    escape,
    escaped,
    has_controls,
    read_inner_parts,
    read_parts,
    unescape,
)
from roundcard.formats.vcard.values import is_uri
from roundcard.formats.vcard.writer import FN, Way
from roundcard.formats.vcard.writer import N as PARTS_OF_NAME
from roundcard.patterns import pattern
from roundcard.tally import name_from

_MOST_PLANS, _MOST_LINES = 4_000, 20_000
_TEXT_OF_OURS = pattern(r"(?:[^\\,;\x00-\x08\x0a-\x1f\x7f]++|\\[\\,;n])*+")
"""Raw text that comes out of `unescape` and `escape` as it went in."""


_STRUCTURES_OF_OURS: dict[object, re.Pattern[str]] = {
    read_parts: pattern(r"(?:[^\\,\x00-\x08\x0a-\x1f\x7f]++|\\[\\,n])*+"),
    read_inner_parts: pattern(r"(?:[^\\\x00-\x08\x0a-\x1f\x7f]++|\\[\\,n])*+"),
}
"""The same for structured values, by what reads them."""
_THREE_OCTETS = pattern(r"[^\x00-\u07ff]")
"""What takes three octets of UTF-8 or more."""


class Pieces(list[str | Sequence[str]]):
    """What cards are put together from: texts that all have, and columns of texts."""

    def text(self, text: str) -> None:
        """A text that all cards have here."""
        if self and self[-1].__class__ is str:
            self[-1] = f"{self[-1]}{text}"
        else:
            self.append(text)

    def cards(self, count: int) -> list[str]:
        """So many cards."""
        if all(isinstance(piece, str) for piece in self):
            return ["".join(map(str, self))] * count
        columns = [repeat(piece) if isinstance(piece, str) else piece for piece in self]
        return list(map("".join, zip(*columns, strict=False)))


class _Plan:
    """How cards of one shape are written."""

    def __init__(self, shape: Shape, writer: VCardWriter) -> None:
        self.ways = [writer.way(item.head) for item in shape]
        roles = [way.role for way in self.ways]
        bits = [way.once for way in self.ways if way.once]
        names = sum({role for role in roles if role > 0})
        self.possible = min(roles, default=0) >= 0 and len(bits) == len(set(bits))
        self.named = -1
        """The item that holds the parts of the name from which the whole one is made."""
        self.makes_name = not names & FN
        if self.makes_name:
            self.named = next((at for at, item in enumerate(shape) if item.head.name == "n"
                               and not item.head.phonetic and not item.empty), -1)  # fmt: skip
        self.no_parts = writer.version != "4.0" and not names & PARTS_OF_NAME


class IntoCards:
    """Writes batches as cards of one version, as `VCardWriter` writes each contact."""

    labels = False

    def __init__(self, writer: VCardWriter, give: Callable[[Sequence[str]], None]) -> None:
        """`give` takes the cards of records that follow each other."""
        self.give = give
        self._writer = writer
        self._plans: dict[Shape, _Plan] = {}
        self._lines: dict[Item, dict[Value, str]] = {}
        self._made_from: MadeFrom = "parts"
        self._written: dict[int, None] = {}
        """The items of which `make` made lines last: what it forgets is not counted."""

    def takes_optional(self, shape: Shape) -> bool:
        """Yes, where the whole name does not hang on what else is there."""
        plan = self._plan_of(shape)
        return plan.possible and not (plan.makes_name and plan.named < 0)

    def make(self, batch: Batch) -> tuple[Sequence[str], set[int]]:
        """The card of each record, or the places of those that must go the long way."""
        plan = self._plan_of(batch.shape)
        if not plan.possible:
            return (), set(range(len(batch)))
        self._written = {}
        pieces = Pieces()
        pieces.text(self._writer.begin + "\r\n")
        try:
            odd = self._lines_of(pieces, batch, plan)
        except _Odd as found:
            odd = found.places
        if odd:
            return (), odd
        pieces.text("END:VCARD\r\n")
        return pieces.cards(len(batch)), set()

    def _lines_of(self, pieces: Pieces, batch: Batch, plan: _Plan) -> set[int]:
        """Put the lines of all properties together; the records that must go the long way. Raises
        `_Odd`."""
        if plan.makes_name:
            names = self._names(batch, plan)
            if names is None:
                return set(range(len(batch)))
            if "" in names:
                return _at(names)
            if self._writer.folds:
                _text(pieces, self._writer.made_prefix, names)
            else:
                pieces.append([self._writer.derived_name(name) + "\r\n" for name in names])
        if plan.no_parts:
            pieces.text("N:;;;;\r\n")  # RFC 2426 section 3.1.2
        for at, (item, column) in enumerate(zip(batch.shape, batch.columns, strict=True)):
            if self._column(pieces, item, column, plan.ways[at]):
                self._written[at] = None
        return set()

    def count(self, batch: Batch) -> None:
        """Count what `make` made of the batch last."""
        tally = self._writer.tally
        count = len(batch)
        written = batch.count(tally, self._written)
        if self._plan_of(batch.shape).makes_name:
            tally.count(name_from(self._made_from), count)
            written += count
        tally.values.written += written
        tally.people.carried += count
        tally.people.written += count

    def events(self) -> dict[int, Event]:
        """Nothing: cards have room for everything."""
        return {}

    def _plan_of(self, shape: Shape) -> _Plan:
        plan = self._plans.get(shape)
        if plan is None:
            plan = _Plan(shape, self._writer)
            if len(self._plans) < _MOST_PLANS:
                self._plans[shape] = plan
        return plan

    def _names(self, batch: Batch, plan: _Plan) -> Sequence[str] | None:
        """Whole names made of what there is; empty ones, or None, where it is not so simple."""
        if plan.named >= 0:
            self._made_from = "parts"
            column = batch.columns[plan.named]
            if column.parts is not None:
                return joined_names(column.parts)
            head = batch.shape[plan.named].head
            return [joined_name(value) for value in decoded(head, column)]
        for name, made_from in OTHERS:
            for item, column in zip(batch.shape, batch.columns, strict=True):
                if item.head.name != name:
                    continue
                if item.empty:
                    break
                self._made_from = made_from
                return _firsts(item, column)
        return None

    def _column(self, pieces: Pieces, item: Item, column: Column, way: Way) -> bool:
        """The lines of one property, none for records that lack it; that they were made."""
        head, stands, raws = item.head, way.stands, column.raws
        if item.empty and head.name == "n" and self._writer.version == "4.0":
            return False  # which older versions demand
        texts: Sequence[Any] = raws if raws is not None else column.values or ()
        joined = column.joined[0] if column.joined else ""
        marks: Sequence[int] = ()
        if stands == "parts" and raws is not None:
            marks = list(map(str.count, raws, repeat(";")))
        if head.name == CUSTOM and stands and column.values is not None:
            prefix = f"{way.prefix}{escape(item.label)};"
            _text(pieces, prefix, texts, joined, optional=item.optional)
        elif raws is not None and head.name == "tel" and "tel:" in "".join(raws).lower():
            pieces.append(self._by_value(item, column, way))
        elif stands == "text" and raws is None:
            _text(pieces, way.prefix, texts, joined, optional=item.optional)
        elif stands == "text":
            _folded(pieces, way.prefix, _as_they_came(head, texts), optional=item.optional)
        elif stands == "raw" and raws is not None:
            _folded(pieces, way.prefix, texts, optional=item.optional)
        elif stands == "uri" and _all_uris(texts):
            _folded(pieces, way.prefix, texts, joined, optional=item.optional)
        elif stands == "parts" and _is_more(column, marks, way):
            pieces.append(self._by_value(item, column, way))
        elif stands == "parts" and column.parts is not None:
            _components(pieces, way, column, optional=item.optional)
        elif stands == "parts" and raws is not None:
            _folded(pieces, way.prefix, _structured(head, texts, marks, way),
                    optional=item.optional)  # fmt: skip
        else:
            pieces.append(self._by_value(item, column, way))
        return True

    def _by_value(self, item: Item, column: Column, way: Way) -> Sequence[str]:
        """The line of each value, as the long way writes it; equal ones are asked for once."""
        head, raws = item.head, column.raws
        known: dict[Value, str] = {}
        if head.field.kind != "media":  # pictures are never alike, and long
            if len(self._lines) > _MOST_PLANS:  # a hostile file must not fill the memory
                self._lines.clear()
            known = self._lines.setdefault(item, known)
        if len(known) > _MOST_LINES:
            known.clear()
        values = raws if raws is not None else decoded(head, column)
        if not known.keys() >= (different := set(values)):
            if item.optional:
                known |= {value: "" for value in different if not any(value)}
            for at, value in enumerate(values):
                if value not in known:
                    if any(map(has_controls, flat((value,) if isinstance(value, str) else value))):
                        raise _Odd({at})
                    line = way.encode(column.prop(item, at))[0]
                    known[value] = f"{fold(line) if self._writer.folds else line}\r\n"
        return list(map(known.__getitem__, values))


def _is_more(column: Column, marks: Sequence[int], way: Way) -> bool:
    """Whether structured values have more components than a version may know; `marks` are how many
    marks each has between them."""
    if column.parts is not None:
        return way.least > 2 and len(column.parts) > way.least
    return way.least > 2 and max(marks, default=0) >= way.least


class _Odd(Exception):  # noqa: N818  # a signal within this module
    """Some records must go the long way."""

    def __init__(self, places: set[int]) -> None:
        self.places = places


def _needs_escape(joined: str, texts: Sequence[str]) -> bool:
    """Whether anything in texts must be escaped. Raises `_Odd` where something is replaced."""
    if all_printable(joined):
        return "," in joined or ";" in joined or "\\" in joined
    if has_controls(joined):
        raise _Odd({at for at, text in enumerate(texts) if has_controls(text)})
    return True


def _text(
    pieces: Pieces, prefix: str, texts: Sequence[str], joined: str = "", *, optional: bool = False
) -> None:
    """Lines of text, escaped where it must be."""
    joined = joined or "".join(texts)
    if _needs_escape(joined, texts):
        texts, joined = escaped(texts), ""
    _folded(pieces, prefix, texts, joined, optional=optional)


def _folded(
    pieces: Pieces, prefix: str, texts: Sequence[str], joined: str = "", *, optional: bool = False
) -> None:
    """Lines of a prefix and text, folded where they are too long."""
    joined = joined or "".join(texts)
    if not all_printable(joined):
        _needs_escape(joined, texts)
        demand_one_line(joined)
    begin, room = len(prefix), FOLD_AT - len(prefix)
    if room <= 0 or not prefix.isascii():
        pieces.append([f"{fold(prefix + text)}\r\n" if text or not optional else ""
                       for text in texts])  # fmt: skip
        return
    sure = room // _most_octets(joined)
    sizes = list(map(len, texts))
    if max(sizes) > sure:
        texts = list(texts)
        for at in [at for at, size in enumerate(sizes) if size > sure]:
            if len(text := texts[at]) > room or len(text.encode()) > room:
                texts[at] = fold(prefix + text)[begin:]
    if optional and "" in texts:
        pieces.append([f"{prefix}{text}\r\n" if text else "" for text in texts])
        return
    pieces.text(prefix)
    pieces.append(texts)
    pieces.text("\r\n")


def _most_octets(text: str) -> int:
    """How many octets of UTF-8 a character of a text takes at the most, or a few more."""
    if text.isascii():
        return 1
    with contextlib.suppress(UnicodeEncodeError):
        text.encode("latin-1")  # far quicker than a look at each character
        return 2
    return 4 if _THREE_OCTETS.search(text) else 2


def _as_they_came(head: Head, raws: Sequence[str]) -> Sequence[str]:
    """Raw text as it is written again."""
    joined = " ".join(raws)
    ours = head.decode is unescape
    # a blank between them keeps what ends with a backslash from what follows
    if not _needs_escape(joined, raws) or (ours and _TEXT_OF_OURS.fullmatch(joined)):
        return raws
    found = []
    for raw in raws:
        plain = not ("," in raw or ";" in raw or "\\" in raw) and raw.isprintable()
        if not (plain or (ours and _TEXT_OF_OURS.fullmatch(raw))):
            raw = escape(str(head.decode(raw) if head.decode else raw))
        found.append(raw)
    return found


def _all_uris(texts: Sequence[str]) -> bool:
    """Whether all texts (but those that lack) are URIs, and nothing in them is escaped."""
    return "\\" not in "".join(texts) and all(map(is_uri, filter(None, texts)))


def _structured(
    head: Head, raws: Sequence[str], marks: Sequence[int], way: Way
) -> Sequence[str]:  # fmt: skip
    """Structured values as they are written again; `marks` are how many marks each has."""
    joined = " ".join(raws)
    least = way.least
    _needs_escape(joined, raws)
    if not ("," in joined or "\\" in joined) and all_printable(joined):
        return _filled_up(raws, marks, least)
    begin = len(way.prefix)
    ours = _STRUCTURES_OF_OURS.get(head.decode) if "\\;" not in joined else None
    if ours is not None and ours.fullmatch(joined):
        return _filled_up(raws, marks, least)
    return [raw and way.encode(Property(head, None, 0, raw))[0][begin:] for raw in raws]


def _filled_up(raws: Sequence[str], marks: Sequence[int], least: int) -> Sequence[str]:
    """Values with as many marks as there are at the least between their components."""
    if min(marks, default=0) >= least - 1:
        return raws
    return [raw and raw + ";" * (least - 1 - mark) for raw, mark in zip(raws, marks, strict=True)]


def _components(pieces: Pieces, way: Way, column: Column, *, optional: bool) -> None:
    """A structured value out of the columns of its components."""
    columns: list[Sequence[str] | None] = []
    missing = ";" * (way.least - len(column.parts or ()))
    room = FOLD_AT - len(way.prefix) - len(column.parts or ()) + 1 - len(missing)
    all_there = False
    for at, part in enumerate(column.parts or ()):
        joined = column.joined[at] if column.joined else "".join(part)
        if not joined or not any(part):
            columns.append(None)
            continue
        if _needs_escape(joined, part):
            part = escaped(part)
            joined = "".join(part)
        all_there = all_there or "" not in part
        room -= max(map(len, part)) * _most_octets(joined)
        columns.append(part)
    if room < 0 or not way.prefix.isascii() or not (all_there or not optional):
        blank = [""] * len((column.parts or ((),))[0])
        lines = zip(*[blank if part is None else part for part in columns], strict=True)
        texts = [";".join(line) + missing for line in lines]
        if optional and not all_there:
            nothing = ";" * (len(columns) - 1) + missing
            texts = ["" if text == nothing else text for text in texts]
        _folded(pieces, way.prefix, texts, optional=optional)
        return
    pieces.text(way.prefix)
    for number, texts_or_none in enumerate(columns):
        if number:
            pieces.text(";")
        if texts_or_none is not None:
            pieces.append(texts_or_none)
    pieces.text(f"{missing}\r\n")


def _firsts(item: Item, column: Column) -> Sequence[str]:
    """The first text in each value of a column; empty where a value is but white space."""
    found = []
    for value in decoded(item.head, column):
        texts = [value] if isinstance(value, str) else list(flat(value))
        found.append(texts[0] if " ".join(texts).strip() else "")
    return found


def _at(texts: Sequence[str]) -> set[int]:
    """Where there is no text."""
    return {at for at, text in enumerate(texts) if not text}
