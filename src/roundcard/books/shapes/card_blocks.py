r"""Cards of a vCard file as batches of one shape.

A piece of the file is unfolded and decoded at once, and cut into the values of all its cards by one
regular expression, ``BEGIN … (?:EMAIL:(…)\n)?(?:TEL;TYPE=cell:(…)\n)? … END``: all heads that the
cards of this source were seen to have, in an order that holds the order of each of them. What does
not match is odd.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from itertools import accumulate, groupby
from typing import NamedTuple

from roundcard.books.shapes.batch import Batch, Column, Item, Shape
from roundcard.books.shapes.records import ABSENT, GONE, MAYBE, THERE, Records, Seen, Take
from roundcard.books.shapes.work import Block, Into
from roundcard.card.contact import Contact
from roundcard.card.fields import CUSTOM, is_label
from roundcard.card.head import Head, lending
from roundcard.card.labels import unwrapped, uses_of, wrapped
from roundcard.card.origin import pack
from roundcard.formats.vcard.lines import BEGIN, END, cards, plain_breaks, whole_cards
from roundcard.formats.vcard.reader import MOST_PARTS, VERSIONS, CardReader
from roundcard.formats.vcard.syntax import unescape

_PIECE = 1 << 18
"""Octets that are worked off at once, about."""
_MOST_LINES, _MOST_OF_ONE, _MOST_CHANGES = 80, 5, 12
_LEARNED_FROM = 400
"""Cards that are looked at to learn which heads there are."""
_ODD_SHARE = 0.02
"""The share of cards that may not match before the others are learned from again."""
_UNDECODED = re.compile("[\udc80-\udcff]")


class _Begin(NamedTuple):
    """How a line begins, as cards are told apart by it."""

    text: str
    """The head and its colon; with them the label of what no standard field holds."""
    empty: bool = False
    """Whether nothing but marks follows, in a line that is there all the same."""


Begins = tuple[_Begin, ...]


class _Line:
    """The lines that begin in one way, at one place of the cards."""

    def __init__(self, at: int, head: Head, begin: _Begin, *, labels: bool) -> None:
        """`at` is the column that holds them. With `labels` it matters how the user labelled a
        value."""
        self.at = at
        self.head = head
        self.labels = is_label(head.name, head.group)
        """Whether it is the label of the others in its group, or such a value itself."""
        self.tells = head.name in ("n", "fn") or bool(head.group) or begin.empty
        self._kinds: dict[str | None, int] = {None: ABSENT}
        self._by_label = labels and self.labels
        label = _label_in(begin.text) if head.name == CUSTOM else ""
        self._items = (Item(head, label, head.rides or self.labels, begin.empty),)

    def look(self, records: _Cards) -> Seen:
        """See `Source`."""
        raws = records.columns[self.at]
        if (
            self.head.several is not None
            and max(map(len, filter(None, raws)), default=0) > MOST_PARTS
        ):
            long = ((n, raw) for n, raw in enumerate(raws) if raw and len(raw) > MOST_PARTS)
            records.odd.update(n for n, raw in long if raw.count(";") > MOST_PARTS)
        if self._by_label or (self.labels and any(raw and wrapped(raw) for raw in set(raws))):
            known = self._kinds
            kinds = [known.setdefault(raw, len(known)) for raw in raws]
            return Seen(frozenset(kinds), lambda: kinds)
        if None not in raws:
            return Seen(THERE, tuple)
        there = [raw is not None for raw in raws]
        return Seen(MAYBE if any(there) else GONE, lambda: there)

    def items(self, kind: int) -> Sequence[Item]:  # noqa: ARG002
        """See `Source`."""
        return self._items

    def label(self, kind: int) -> str:
        """The label that a kind stands for."""
        found = next((label for label, each in self._kinds.items() if label and each == kind), "")
        return unescape(found)

    def columns(
        self,
        kind: int,  # noqa: ARG002
        records: _Cards,
        seen: Seen,
        take: Take,
    ) -> Iterator[Column]:
        """See `Source`."""
        raws = take(records.columns[self.at])
        if seen.kinds != THERE:
            raws = [raw or "" for raw in raws]
        if self.head.name != CUSTOM:
            yield Column(raws=raws)
        elif "\\" in "".join(raws):
            yield Column([unescape(raw) for raw in raws])
        else:
            yield Column(raws)


class _Cards(Records):
    """The columns of some cards of one version."""

    def __init__(self, lines: Sequence[_Line], columns: Sequence[Sequence[str | None]]) -> None:
        super().__init__(lines, len(columns[0]))
        self.columns = columns

    def shape(self, kinds: dict[int, int], optional: Sequence[int]) -> Shape | None:
        """The shape; the label of a group becomes that of its values. None where there is a label
        and no value, since that is a value itself."""
        shape = super().shape(kinds, optional)
        if shape is None or not any(item.head.group for item in shape):
            return shape
        lines: Sequence[_Line] = self.sources  # type: ignore[assignment]
        labels = {line.head.group.lower(): line.label(kinds[at]) for at, line in enumerate(lines)
                  if line.labels and kinds[at]}  # fmt: skip
        groups = {item.head.group.lower() for item in shape
                  if not is_label(item.head.name, item.head.group)}  # fmt: skip
        if not groups.issuperset(labels):
            return None
        return tuple([
            _labelled(item, labels.get(item.head.group.lower(), "")) if item.head.group else item
            for item in shape
        ])  # fmt: skip


def _labelled(item: Item, label: str) -> Item:
    """A property under its group's label, which may say its use."""
    if item.rides:
        return item
    uses = uses_of(label)
    if uses and set(uses) <= set(item.head.field.uses):
        return item._replace(head=lending(item.head, uses))
    return item._replace(label=unwrapped(label))


class _Pattern:
    """All ways in which lines of the cards of one version begin, and what cuts such cards into
    values."""

    def __init__(self, version: str, reader: CardReader, *, labels: bool) -> None:
        self.version = version
        self._reader = reader
        self._labels = labels
        self._begins: list[_Begin] = []
        self._heads: dict[str, Head | None] = {}
        self._made: dict[tuple[str, bool], re.Pattern[str]] = {}
        self.lines: list[_Line] = []
        self.changes = 0

    def learn(self, rests: Iterable[str | None], line_end: str) -> bool:
        """Learn of the cards that did not match; whether anything is new."""
        before = self._begins
        for begins, _ in self._begins_in(rests, line_end).most_common():
            self._begins = _merged(self._begins, begins)
        if self._begins == before:
            return False
        self.changes += 1
        self._made = {}
        self.lines = []
        for begin in self._begins:
            head = self._head(begin.text)
            if head is not None and not head.again:
                line = _Line(len(self.lines), head, begin, labels=self._labels)
                self.lines.append(line)
        return True

    def cut(self, text: str, line_end: str, *, broken: bool) -> list[Sequence[str | None]]:
        """What stands between the cards that match, and a column for each line of them. With
        `broken`, octets that did not decode match nowhere."""
        made = self._made.get((line_end, broken))
        if made is None:
            made = self._made[line_end, broken] = self._compiled(line_end, broken=broken)
        flat: list[str | None] = made.split(text)
        step = made.groups + 1
        return [flat[at::step] for at in range(step)]

    def _compiled(self, line_end: str, *, broken: bool) -> re.Pattern[str]:
        # possessive all the way: what has found its place is never tried elsewhere
        more = "[^\r\n\udc80-\udcff]*+" if broken else "[^\r\n]*+"
        first = "[^\\s\udc80-\udcff]" if broken else "\\S"
        end = re.escape(line_end)
        pieces = [f"BEGIN:VCARD{end}VERSION:{re.escape(self.version)}{end}"]
        for begin, run in groupby(self._begins):
            head = self._head(begin.text)
            if head is None or head.again:
                value = more
            elif begin.empty:
                value = "([;,]*)" if head.several is not None else "()"
            elif head.name == CUSTOM:
                value = f"({first}{more})"
            elif head.rides:
                value = f"({more})"
            elif _is_kept(head):
                marks = f"{_marks(head)}*" if _marks(head) else ""
                value = f"((?!{marks}[\r\n]){more})"
            else:  # of an empty line nothing is left
                value = f"({first}{more})?+[ \t]*+"
            # lines that begin alike stand within each other, so that a card that does not match
            # is not tried in many ways
            count = sum(1 for _ in run)
            pieces += [f"(?:{re.escape(begin.text)}{value}{end}"] * count + [")?+"] * count
        return re.compile("".join([*pieces, f"END:VCARD{end}"]))

    def _begins_in(self, rests: Iterable[str | None], line_end: str) -> Counter[Begins]:
        """How the lines of cards begin that did not match."""
        seen: Counter[Begins] = Counter()
        begin = f"BEGIN:VCARD{line_end}VERSION:{self.version}{line_end}"
        for rest in rests:
            for card in str(rest).split(begin)[1:] if rest else ():
                lines = card.partition(f"END:VCARD{line_end}")[0].split(line_end)[:-1]
                begins = tuple([self._begin(line) for line in lines])
                if None not in begins and _may_repeat(begins):
                    seen[begins] += 1  # type: ignore[index]
            if seen.total() >= _LEARNED_FROM:
                break
        return seen

    def _begin(self, line: str) -> _Begin | None:
        """How a line begins; None for one with which a card goes the long way."""
        text, colon, raw = line.partition(":")
        head = self._head(text + ":") if colon else None
        if head is None:
            return None
        if head.name == CUSTOM:
            label, mark, value = raw.partition(";")
            if not (mark and label and value) or "\\" in label or _UNDECODED.search(label):
                return None
            return _Begin(f"{text}:{label};")
        empty = _is_kept(head) and not head.rides and not raw.strip(_marks(head))
        return _Begin(text + ":", empty)

    def _head(self, begin: str) -> Head | None:
        """What a head means; None where lines with it go the long way."""
        text = begin.partition(":")[0]
        if text not in self._heads:
            self._heads[text] = self._read(text)
        return self._heads[text]

    def _read(self, text: str) -> Head | None:
        if not text or text[0].isspace() or '"' in text or _UNDECODED.search(text):
            return None
        try:
            head = self._reader.heads[self.version].get(text)
            head = head or self._reader.head(text, self.version)
        except ValueError:
            return None
        odd = head.told is not None or head.doubt is not None or head.coded or bool(head.altid)
        odd = odd or head.name in ("version", "begin", "end")
        return None if odd or (head.name == "adr" and head.param("label")) else head


def _is_kept(head: Head) -> bool:
    """Whether a line with this head is there even if nothing is in it."""
    return head.rides or head.special or head.several is not None


def _marks(head: Head) -> str:
    """What stands between the values of a line."""
    if head.several is None:
        return ""
    return ";" if head.field.kind == "parts" else ","


def _label_in(begin: str) -> str:
    return begin.partition(":")[2].removesuffix(";")


def _may_repeat(begins: Sequence[_Begin | None]) -> bool:
    return max(Counter(begins).values(), default=0) <= _MOST_OF_ONE


class CardBlocks:
    """Makes blocks of the cards of one source, as `CardReader` makes a contact of each."""

    def __init__(self, reader: CardReader, *, labels: bool) -> None:
        """With `labels`, cards whose values the user labelled otherwise are of other shapes."""
        self.reader = reader
        self.patterns = {version: _Pattern(version, reader, labels=labels) for version in VERSIONS}

    def blocks(self, chunks: Iterable[bytes]) -> Iterator[CardBlock]:
        """The whole source, given as chunks of octets."""
        line = 1
        for piece in whole_cards(plain_breaks(chunks), _PIECE):
            yield CardBlock(self, piece, line)
            line += piece.count(b"\n")


class CardBlock(Block):
    """Some cards that follow each other."""

    def __init__(self, blocks: CardBlocks, octets: bytes, line: int) -> None:
        self._reader = blocks.reader
        self._octets = octets.removeprefix(b"\xef\xbb\xbf") if line == 1 else octets
        self._line = line
        count = self._octets.startswith(BEGIN) + self._octets.count(b"\n" + BEGIN)
        self._cut = _cut(blocks, self._octets, count)
        super().__init__(count if self._cut is not None else 1)
        self._next = 0
        """The first card that has not been passed yet."""
        self._where = (0, 0)
        """A place in the octets, and the number of lines before it."""
        self._begins: list[int] = []

    def batches(self, into: Into) -> Iterator[Batch]:
        """The cards by their shapes, without those that go the long way in any case."""
        for records, places in self._cut or ():
            records.look()
            for batch in records.batches(into):
                if len(places) < len(self):
                    batch.places = [places[at] for at in batch.places]
                yield batch

    def count(self, batch: Batch) -> None:
        """Count that the cards of a batch were read."""
        tally = self._reader.tally
        tally.people.read += len(batch)
        tally.values.read += batch.read()

    def origin(self, at: int) -> int:
        """The origin of one card."""
        return pack(self._reader.source, self._reader.record + at - self._next + 1)

    def long(self, at: int) -> Iterator[Contact]:
        """The contact of one card, read the long way; of the whole piece where it could not be
        cut at once."""
        reader = self._reader
        begin, end = 0, len(self._octets)
        if self._cut is not None:
            begins = self._begins = self._begins or _begins(self._octets)
            begin = begins[at]
            end = begins[at + 1] if at + 1 < len(begins) else end
        reader.record += at - self._next
        self._next = at + 1
        before, lines = self._where
        lines += self._octets.count(b"\n", before, begin)
        self._where = begin, lines
        for raw in cards([self._octets[begin:end]], self._line + lines):
            contact = reader.card(raw)
            if contact is not None:
                yield contact

    def after(self) -> None:
        """Pass the cards that are left."""
        if self._cut is not None:
            self._reader.record += len(self) - self._next


def _cut(
    blocks: CardBlocks, octets: bytes, count: int
) -> list[tuple[_Cards, Sequence[int]]] | None:
    """Cut so many cards at once: those of each version, and which cards these are; None where the
    lines cannot be told apart."""
    line_end = "\r\n" if octets[: octets.find(b"\n") + 1].endswith(b"\r\n") else "\n"
    octets = octets.replace(line_end.encode() + b" ", b"")
    broken = False
    try:
        text = octets.decode("utf-8")
    except UnicodeDecodeError:
        text, broken = octets.decode("utf-8", "surrogateescape"), True
    if not text.endswith(line_end):
        text += line_end
    begin = BEGIN.decode() + line_end
    if not text.count(begin) == text.count(END.decode() + line_end) == count:
        return None
    found = []
    for version in VERSIONS:
        if f"\nVERSION:{version}{line_end}" not in text:
            continue
        pattern = blocks.patterns[version]
        between, *columns = _values(pattern, text, line_end, count, broken=broken)
        # what does not match begins with a card, or is blank; or its lines would be nobody's
        rests = [str(rest).lstrip() for rest in between if rest]
        if not all(rest.startswith(begin) for rest in rests if rest):
            return None
        if not columns or not columns[0]:
            continue
        places: Sequence[int] = range(count)
        if len(columns[0]) < count:
            passed = accumulate([str(rest).count(begin) for rest in between])
            places = [at + more for at, more in zip(range(len(columns[0])), passed, strict=False)]
        found.append((_Cards(pattern.lines, columns), places))
    return found


def _values(
    pattern: _Pattern, text: str, line_end: str, count: int, *, broken: bool
) -> list[Sequence[str | None]]:
    """What stands between the cards of one version, and their columns; many that do not match are
    learned from first."""
    found: list[Sequence[str | None]] = [[text]]
    if pattern.lines:
        found = pattern.cut(text, line_end, broken=broken)
    while pattern.changes < _MOST_CHANGES:
        missing = sum([str(rest).count(BEGIN.decode()) for rest in found[0] if rest])
        if missing <= _ODD_SHARE * count or not pattern.learn(found[0], line_end):
            break
        found = pattern.cut(text, line_end, broken=broken)
    return found


def _merged(one: list[_Begin], other: Sequence[_Begin]) -> list[_Begin]:
    """A sequence that holds two others in their order; only the first where it grows too long."""
    lengths = [[0] * (len(other) + 1) for _ in range(len(one) + 1)]
    for i in range(len(one) - 1, -1, -1):
        for j in range(len(other) - 1, -1, -1):
            lengths[i][j] = (lengths[i + 1][j + 1] + 1 if one[i] == other[j]
                             else max(lengths[i + 1][j], lengths[i][j + 1]))  # fmt: skip
    made: list[_Begin] = []
    i = j = 0
    while i < len(one) or j < len(other):
        if i < len(one) and j < len(other) and one[i] == other[j]:
            made.append(one[i])
            i, j = i + 1, j + 1
        elif j >= len(other) or (i < len(one) and lengths[i + 1][j] >= lengths[i][j + 1]):
            made.append(one[i])
            i += 1
        else:
            made.append(other[j])
            j += 1
    return made if len(made) <= _MOST_LINES and _may_repeat(made) else one


def _begins(octets: bytes) -> list[int]:
    """Where the cards begin."""
    found = [0] if octets.startswith(BEGIN) else []
    at = -1
    while (at := octets.find(b"\n" + BEGIN, at + 1)) >= 0:
        found.append(at + 1)
    return found
