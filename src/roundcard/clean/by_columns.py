"""Cleaning many contacts of one shape at once: a rule on single values is a memo on a column.

What the rules say of a value is asked of the step once for each different one; a contact that a
rule may reshape, or of which a value would be dropped, is left to the step itself.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from roundcard.books.shapes.batch import Batch, Column, Ends, Item
from roundcard.books.shapes.decoding import components, decoded
from roundcard.card.fields import ADR_PARTS
from roundcard.card.head import Component, Head, Value
from roundcard.clean.countries import country_code
from roundcard.clean.rule import Reshaping
from roundcard.formats.vcard.syntax import escape, write_list, write_parts
from roundcard.tally import Reason, Tally

if TYPE_CHECKING:
    from roundcard.clean.step import Clean

_MOST_KNOWN, _MOST_COLUMNS = 50_000, 4_000
_COUNTRY = ADR_PARTS.index("country")
Where = tuple[str, bool]
Event = Callable[[int, Tally], None]
"""Tells what was done to one record; takes its origin."""


class Said(NamedTuple):
    """What a rule said of a value."""

    path: str
    before: str
    after: str
    rule: str
    doubt: str


class Judged(NamedTuple):
    """A value after all rules of one pass."""

    value: Value
    ends: Ends
    said: tuple[Said, ...] = ()


class ByColumns:
    """Cleans batches as a step cleans contacts."""

    def __init__(self, step: Clean) -> None:
        self._step = step
        self._known: dict[tuple[int, Item, Where], dict[Value, Judged | None]] = {}
        self._texts: dict[tuple[int, str, Where], dict[str, _Verdict]] = {}
        self.said: list[list[Said]] = []
        """What was said of each record of the last batch; empty where nothing was."""

    def clean(self, batch: Batch) -> tuple[Batch, set[int]]:
        """The batch with its values cleaned; or the same one, and the places of those that the
        step must see itself."""
        self.said = []
        columns = list(batch.columns)
        wheres, odd = self._regions(batch)
        if odd:
            return batch, odd
        heads = tuple([item.head for item in batch.shape])
        values = {at: decoded(item.head, column) for at, (item, column)
                  in enumerate(zip(batch.shape, columns, strict=True))}  # fmt: skip
        reshaping = [work for work in self._step.passes
                     if isinstance(work, Reshaping) and work.needs(heads)]  # fmt: skip
        # what is reshaped in any case need not be judged here
        if odd := self._reshaped(batch, heads, reshaping, values):
            return batch, odd
        for number, work in enumerate(self._step.passes):
            if not isinstance(work, Reshaping):
                odd = self._judged(batch, columns, number, wheres, values)
            elif work in reshaping and self.said:  # else nothing has changed since it was asked
                odd = self._reshaped(batch, heads, [work], values)
            if odd:
                return batch, odd
        made = Batch(batch.shape, columns, batch.places)
        made.origin = batch.origin
        return made, set()

    def events(self) -> dict[int, Event]:
        """What is to be told of the records of the last batch."""
        return {at: self._teller(said) for at, said in enumerate(self.said) if said}

    def _teller(self, said: Sequence[Said]) -> Event:
        def tell(origin: int, tally: Tally) -> None:
            for each in said:
                self._step.tell_again(each, origin, tally)

        return tell

    def _regions(self, batch: Batch) -> tuple[Where, set[int]]:
        """The region of all records; those that are of another one are odd."""
        forms = self._step.forms
        countries: list[Sequence[str]] = []
        for item, column in zip(batch.shape, batch.columns, strict=True):
            if item.head.name != "adr" or item.empty:
                continue
            parts, odd = components(item.head, column)
            if odd:
                return (forms.region, False), odd
            if len(parts) > _COUNTRY and any(parts[_COUNTRY]):
                countries.append(parts[_COUNTRY])
        if not countries:
            return (forms.region, False), set()
        said = [next(filter(None, each), "") for each in zip(*countries, strict=True)]
        codes = {text: country_code(text) if text else "" for text in set(said)}
        own = [codes[text] for text in said]
        usual = max(set(own), key=own.count)
        return (usual or forms.region, bool(usual)), {n for n, code in enumerate(own)
                                                      if code != usual}  # fmt: skip

    @staticmethod
    def _reshaped(
        batch: Batch, heads: Sequence[Head], rules: Sequence[Reshaping],
        values: Mapping[int, Sequence[Value]],
    ) -> set[int]:  # fmt: skip
        """The records that some rules may reshape."""
        rides = [item.rides or item.empty for item in batch.shape]
        every = [values[at] for at in range(len(values))]
        odd: set[int] = set()
        for rule in rules:
            odd |= set(range(len(batch)) if rule.may is None else rule.may(heads, rides, every))
        return odd

    def _judged(
        self, batch: Batch, columns: list[Column], number: int, where: Where,
        values: dict[int, Sequence[Value]],
    ) -> set[int]:  # fmt: skip
        """Put a run of rules to all columns; the records of which a value is dropped, or cannot be
        judged by itself."""
        odd: set[int] = set()
        for at, item in enumerate(batch.shape):
            if item.rides or item.empty or not self._step.judges(item.head, number, where):
                continue
            if len(self._known) > _MOST_COLUMNS:  # a hostile file must not fill the memory
                self._known.clear()
            known = self._known.setdefault((number, item, where), {})
            if len(known) > _MOST_KNOWN:
                known.clear()
            column = values[at]
            different = set(column)
            for value in different - known.keys():
                known[value] = self._judge(item, value, number, where)
            if all((judged := known[value]) is not None and not judged.said
                   for value in different):  # fmt: skip
                continue
            found = [known[value] for value in column]
            lost = {n for n, each in enumerate(found) if each is None}
            if columns[at].parts is not None:  # units that are cut off make another shape
                lost |= {n for n, (each, old) in enumerate(zip(found, column, strict=True))
                         if each is not None and len(each.value) != len(old)}  # fmt: skip
            if lost or not self._may_change(item, columns[at]):
                odd |= lost or {n for n, each in enumerate(found) if each and each.said}
                continue
            self._change(item, columns, at, found, values)  # type: ignore[arg-type]
        return odd

    @staticmethod
    def _may_change(item: Item, column: Column) -> bool:
        """Whether values of a column can be others without going through the step."""
        if column.raws is None:
            return True
        return item.head.version != "2.1" and "URI" not in item.head.text.upper()

    def _change(
        self, item: Item, columns: list[Column], at: int, found: Sequence[Judged],
        values: dict[int, Sequence[Value]],
    ) -> None:  # fmt: skip
        """Put cleaned values into a column, each with what came of it."""
        if not self.said:
            self.said = [[] for _ in found]
        for n, each in enumerate(found):
            if each.said:
                self.said[n] += each.said
        column = columns[at]
        ends: list[Ends | None] = [
            _both(column.ends[n] if column.ends is not None else None, each)
            for n, each in enumerate(found)
        ]
        made = [each.value for each in found]
        raws = None
        if column.raws is not None:
            raws = [raw if each.value == old else _written(item, each.value) for raw, each, old
                    in zip(column.raws, found, values[at], strict=True)]  # fmt: skip
        parts = None
        if column.parts is not None:
            parts = list(zip(*made, strict=True))
        keep_values = made if raws is None and parts is None else None
        columns[at] = Column(keep_values, raws=raws, parts=parts, ends=ends)
        values[at] = made

    def _verdict(self, text: str, path: str, number: int, where: Where) -> _Verdict:
        """What the rules of one pass say of a text; the answer is kept."""
        if len(self._texts) > _MOST_COLUMNS:
            self._texts.clear()
        known = self._texts.setdefault((number, path, where), {})
        found = known.get(text)
        if found is None:
            if len(known) > _MOST_KNOWN:
                known.clear()
            found = known[text] = self._step.verdict(text, path, number, where)
        return found

    def _judge(self, item: Item, value: Value, number: int, where: Where) -> Judged | None:
        """What the rules of one pass make of a value; None where that is more than a change."""
        if isinstance(value, str):
            if not value:
                return Judged(value, ())
            judge = self._step.verdict  # the column keeps the answer
            path = self._step.path_of(item, 0)
            new, reason, said = judge(value, path, number, where)
            return Judged(new, ((reason, 1),), tuple(said)) if new else None
        judge = self._verdict
        texts: list[Component] = []
        reasons: list[Reason | None] = []
        every: list[Said] = []
        for at, component in enumerate(value):
            if not component:
                texts.append(component)
                continue
            if not isinstance(component, str):
                return None
            new, reason, said = judge(component, self._step.path_of(item, at), number, where)
            if not new:
                return None
            texts.append(new)
            reasons.append(reason)
            every += said
        if item.head.name == "org" and any(reasons):  # as the step cuts off what is empty
            while texts and not texts[-1]:
                texts.pop()
        return Judged(tuple(texts), tuple((reason, 1) for reason in reasons), tuple(every))


_Verdict = tuple[str, Reason | None, list[Said]]


def _both(before: Ends | None, judged: Judged) -> Ends | None:
    """What came of a value before, and now: the first rule that changed it is told."""
    if before is None:
        return judged.ends
    if not before or len(before) != len(judged.ends):
        return before
    return tuple((mine or now, count) for (mine, count), (now, _)
                 in zip(before, judged.ends, strict=True))  # fmt: skip


def _written(item: Item, value: Value) -> str:
    """Undecoded text that is read as a value."""
    kind: Any = item.head.field.kind
    if isinstance(value, str):
        return value if kind in ("uri", "date") else escape(value)
    return write_list(value)[0] if kind == "list" else write_parts(value)[0]
