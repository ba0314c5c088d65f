"""Cleaning many contacts of one shape at once: a rule on single values is a memo on a column.

What the rules say of a value is asked of the step once for each different one; a contact that a
rule may reshape, or of which a value would be dropped, is left to the step itself.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from functools import lru_cache, partial
from itertools import chain, compress, zip_longest
from operator import itemgetter
from typing import TYPE_CHECKING, Any, NamedTuple

from roundcard.books.shapes.batch import Batch, Column, Ends, Item
from roundcard.books.shapes.decoding import components, decoded
from roundcard.books.shapes.steps import MayLack
from roundcard.card.contact import count_values
from roundcard.card.fields import ADR_PARTS
from roundcard.card.head import Component, Head, Value
from roundcard.clean.countries import country_code
from roundcard.clean.rule import Reshaping, Verdict
from roundcard.clean.text import odd_ones
from roundcard.formats.vcard.syntax import escape, write_list, write_parts
from roundcard.tally import MOST_EXAMPLES, Fate, Reason, Tally

if TYPE_CHECKING:
    from roundcard.clean.step import Clean

_MOST_KNOWN, _MOST_COLUMNS = 50_000, 4_000
_COUNTRY = ADR_PARTS.index("country")
Where = tuple[str, bool]
Event = Callable[[int, Tally], None]
"""Tells what was done to one record; takes its origin."""


Kind = tuple[str, str, bool]
"""A rule, what it doubts, and whether it changed anything."""
_KIND = itemgetter(5)


class Said(NamedTuple):
    """What a rule said of a value."""

    path: str
    before: str
    after: str
    rule: str
    doubt: str
    kind: Kind


def said_of(path: str, before: str, after: str, rule: str, doubt: str = "") -> Said:
    """What a rule said of a value, with the kind of it."""
    return Said(path, before, after, rule, doubt, (rule, doubt, before != after))


Told = dict[int, Verdict]
"""By the place of each rule that has something to say of a text, what it says."""


class Judged(NamedTuple):
    """A value after all rules of one pass."""

    value: Value
    ends: Ends
    said: tuple[Said, ...] = ()


class _Work:
    """A batch while it is cleaned."""

    def __init__(self, batch: Batch) -> None:
        self.shape = batch.shape
        self.columns = list(batch.columns)
        self.values: list[Sequence[Value]] = [
            decoded(item.head, column)
            for item, column in zip(batch.shape, batch.columns, strict=True)
        ]
        self.places = list(range(len(batch)))
        """Where the records that are left stand in the batch."""
        self.said: list[list[Said]] = []
        """What was said of each record; empty where nothing was."""
        self.changed: set[str] = set()
        """The first words of the paths of what is not as it was."""

    @property
    def heads(self) -> tuple[Head, ...]:
        """The heads of all properties."""
        return tuple([item.head for item in self.shape])

    @property
    def rides(self) -> list[bool]:
        """Which properties are no values of their own."""
        return [item.rides or item.empty for item in self.shape]

    def say(self, said: Mapping[int, Sequence[Said]]) -> None:
        """Note what was said of some records."""
        if said and not self.said:
            self.said = [[] for _ in self.places]
        for n, each in said.items():
            self.said[n] += each

    def drop(self, odd: Collection[int]) -> None:
        """Go on without some records."""
        if not odd:
            return
        kept = [n not in odd for n in range(len(self.places))]

        def take(column: Sequence[Any]) -> Sequence[Any]:
            return list(compress(column, kept))

        self.columns = [column.taken(take) for column in self.columns]
        self.values = [take(column) for column in self.values]
        self.places = list(take(self.places))
        self.said = list(take(self.said)) if self.said else []

    def add(self, item: Item, column: Column, values: Sequence[Value]) -> None:
        """Put a property behind the others."""
        self.changed.add(_first_word(item.head.field.path))
        self.shape = (*self.shape, item)
        self.columns.append(column)
        self.values.append(values)


class ByColumns:
    """Cleans batches as a step cleans contacts."""

    def __init__(self, step: Clean) -> None:
        self._step = step
        self._known: dict[tuple[int, Item, Where], dict[Value, Judged | None]] = {}
        self._texts: dict[tuple[int, str, Where], dict[str, _Verdict]] = {}
        self._loudness: dict[tuple[int, str, Where], dict[str, Told | None]] = {}
        self._told: dict[Kind, list[str]] = {}
        """The first few values of which something of a kind was said."""
        self._enough: set[Kind] = set()
        """Kinds of which so much was told that more need only be counted."""
        self._soon_enough: set[Kind] = set()
        """Those of which so much was told since, though not yet in order."""
        self.said: list[list[Said]] = []
        """What was said of each record of the last batch; empty where nothing was."""

    def clean(self, batch: Batch, may_lack: MayLack) -> tuple[Batch, set[int]]:
        """The batch with its values cleaned, without the records that the step must see itself;
        and the places of these. `may_lack` is as for `Shaped`."""
        self.said = []
        work = _Work(batch)
        where, odd = self._regions(batch)
        work.drop(odd)
        reshaping = self._needed(work)
        # what is reshaped in any case need not be judged here
        work.drop(self._reshaped(
            work, [rule for rule in reshaping if rule.beside is None and rule.folds is None]
        ))  # fmt: skip
        for number, rules in enumerate(self._step.passes):
            if not work.places:
                break
            if not isinstance(rules, Reshaping):
                self._judged(work, number, where)
            elif rules not in reshaping:
                continue
            elif rules.beside is not None:
                if self._beside(work, rules, where):
                    reshaping = self._needed(work)
            elif rules.folds is not None:
                self._fold(work, rules, may_lack)
            elif work.changed.intersection(map(_first_word, rules.fields)):
                # else nothing of it has changed since it was asked
                work.drop(self._reshaped(work, [rules]))
        self.said = work.said
        made = Batch(work.shape, work.columns, [batch.places[at] for at in work.places])
        made.origin = batch.origin
        return made, set(range(len(batch))).difference(work.places)

    def events(self) -> dict[int, Event]:
        """What is to be told of the records of the last batch."""
        tell = self._step.tell_again
        if self._step.each:
            return {at: partial(tell, said) for at, said in enumerate(self.said) if said}
        if self._enough.issuperset(map(_KIND, chain.from_iterable(self.said))):
            first = next(filter(self.said.__getitem__, range(len(self.said))), None)
            return {} if first is None else {first: self._counted(self.said)}
        found: dict[int, Event] = {}
        again: list[list[Said]] = []
        first = -1
        for at, said in enumerate(self.said):
            if not said:
                continue
            if self._enough.issuperset(map(_KIND, said)):
                first = at if first < 0 else first
                again.append(said)
            else:
                found[at] = partial(tell, said)
                self._tells(said)
        if first >= 0:
            found[first] = self._counted(again)
        return found

    def _counted(self, said: Iterable[list[Said]]) -> Event:
        """Tells of many records how much of each kind was said."""
        return partial(self._step.count_again, Counter(map(_KIND, chain.from_iterable(said))))

    def _tells(self, said: Sequence[Said]) -> None:
        """Note what is told, until that is enough of a kind: the first few, and as many different
        values."""
        for one in said:
            kind = one.kind
            if kind in self._enough or kind in self._soon_enough:
                continue
            if len(self._told) > _MOST_COLUMNS:  # doubts that speak of the value
                self._told.clear()
            told = self._told.setdefault(kind, [])
            if len(told) < MOST_EXAMPLES or one.before not in told:
                told.append(one.before)
            if len(set(told)) >= MOST_EXAMPLES:
                self._soon_enough.add(kind)

    def settle(self) -> None:
        """All records so far, of whatever shape, were told of: no later one stands before them."""
        self._enough |= self._soon_enough
        self._soon_enough.clear()

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

    def _needed(self, work: _Work) -> list[Reshaping]:
        heads = work.heads
        return [rules for rules in self._step.passes
                if isinstance(rules, Reshaping) and rules.needs(heads)]  # fmt: skip

    @staticmethod
    def _reshaped(work: _Work, rules: Sequence[Reshaping]) -> set[int]:
        """The records that some rules may reshape."""
        odd: set[int] = set()
        if not work.places:
            return odd
        heads, rides = work.heads, work.rides
        for rule in rules:
            if rule.may is None:
                return set(range(len(work.places)))
            odd.update(rule.may(heads, rides, work.values))
        return odd

    def _beside(self, work: _Work, rule: Reshaping, where: Where) -> bool:
        """Put what a rule derives behind the other properties; whether it derived anything."""
        assert rule.beside is not None
        path = rule.fields[0]
        around = self._step.about(path, where)
        derived = rule.beside(work.heads, work.rides, work.values, around)
        if derived is None:
            work.drop(self._reshaped(work, [rule]))
            return False
        if not any(derived.values):
            work.drop({n for n, value in enumerate(derived.values) if value is None})
            return False
        work.drop({n for n, value in enumerate(derived.values) if not value})
        values = list(filter(None, derived.values))
        of = work.values[derived.of]
        kind = rule.name, "", True
        if not self._step.each and kind in self._enough:  # what nobody will read
            work.say(dict.fromkeys(range(len(values)), (Said(path, "", "", rule.name, "", kind),)))
        else:
            work.say({
                n: [said_of(path, str(before), rule.shown(value), rule.name)]
                for n, (before, value) in enumerate(zip(of, values, strict=True))
            })  # fmt: skip
        reason = Reason(Fate.DERIVED, rule.name, derived.head.field.path)
        each = [((reason, 1),) * count for count in range(len(values[0]) + 1)]
        ends = [each[len(value) - value.count("")] for value in values]
        parts = list(zip(*values, strict=True))
        work.add(Item(derived.head), Column(parts=parts, ends=ends), values)
        return True

    @staticmethod
    def _fold(work: _Work, rule: Reshaping, may_lack: MayLack) -> None:
        """Leave out what a rule folds into other values, where records may lack it."""
        assert rule.folds is not None
        gone, odd = rule.folds(work.heads, work.rides, work.values)
        shape = tuple([item._replace(optional=True) if at in gone else item
                       for at, item in enumerate(work.shape)])  # fmt: skip
        if gone and not may_lack(shape):
            odd, gone, shape = odd.union(*gone.values()), {}, work.shape
        for at, those in gone.items():
            column, old, path = work.columns[at], work.values[at], shape[at].head.field.path
            reason = Reason(Fate.FOLDED, rule.name, path)
            values = list(old)
            ends = list(column.ends) if column.ends is not None else _as_read(old)
            raws = list(column.raws) if column.raws is not None else None
            for n in those:
                values[n], ends[n] = "", ((reason, 1),)
                if raws is not None:
                    raws[n] = ""
            work.say({n: [said_of(path, str(old[n]), "", rule.name)] for n in those})
            work.columns[at] = Column(values if raws is None else None, raws=raws, ends=ends)
            work.values[at] = values
        work.shape = shape
        work.drop(odd)

    def _judged(self, work: _Work, number: int, where: Where) -> None:
        """Put a run of rules to all columns; go on without the records of which a value is
        dropped, or cannot be judged by itself."""
        odd: set[int] = set()
        for at, item in enumerate(work.shape):
            if item.rides or item.empty or not self._step.judges(item.head, number, where):
                continue
            loud = self._loud(item, work.columns[at], work.values[at], number, where)
            if not loud:
                continue
            column = work.values[at]
            known = self._judgements(item, number, where)
            found: dict[int, Judged] = {}
            for n in loud:
                value = column[n]
                if value not in known:
                    known[value] = self._judge(item, value, number, where)
                judged = known[value]
                if judged is None or (  # units that are cut off make another shape
                    work.columns[at].parts is not None and len(judged.value) != len(value)
                ):
                    odd.add(n)
                elif judged.said:
                    found[n] = judged
            if not found:
                continue
            if not self._may_change(item, work.columns[at]):
                odd |= found.keys()
                continue
            _change(work, at, found)
        work.drop(odd)

    def _judgements(self, item: Item, number: int, where: Where) -> dict[Value, Judged | None]:
        if len(self._known) > _MOST_COLUMNS:  # a hostile file must not fill the memory
            self._known.clear()
        known = self._known.setdefault((number, item, where), {})
        if len(known) > _MOST_KNOWN:
            known.clear()
        return known

    def _loud(
        self, item: Item, column: Column, values: Sequence[Value], number: int, where: Where
    ) -> Sequence[int]:
        """The records of whose value the rules of one pass may have something to say."""
        if column.parts is not None:
            loud: set[int] = set()
            for at, part in enumerate(column.parts):
                path = self._step.path_of(item, at)
                loud.update(self._loud_texts(path, part, number, where))
            return sorted(loud)
        if values and isinstance(values[0], str):
            path = self._step.path_of(item, 0)
            return self._loud_texts(path, values, number, where)  # type: ignore[arg-type]
        different = list(set(values))
        loud_values: set[Value] = set()
        for at, texts in enumerate(zip_longest(*different, fillvalue="")):
            if not all(map(_is_text, texts)):
                return range(len(values))
            path = self._step.path_of(item, at)
            places = self._loud_texts(path, texts, number, where)  # type: ignore[arg-type]
            loud_values.update([different[n] for n in places])
        return [n for n, value in enumerate(values) if value in loud_values] if loud_values else ()

    def _loud_texts(
        self, path: str, texts: Sequence[str], number: int, where: Where
    ) -> Sequence[int]:
        # where only the rules for any text have a say, those that are ordinary are passed at once
        own = self._step.has_own_rules(path, number, where)
        asked = range(len(texts)) if own else odd_ones(texts)
        if not asked:
            return ()
        if len(self._loudness) > _MOST_COLUMNS:
            self._loudness.clear()
        known = self._loudness.setdefault((number, path, where), {"": None})
        if len(known) > _MOST_KNOWN:
            known.clear()
            known[""] = None
        different = set(texts if len(asked) == len(texts) else [texts[n] for n in asked])
        if fresh := [text for text in different if text not in known]:
            known |= dict.fromkeys(fresh)
            known |= self._step.loud(fresh, path, number, where)
        return [n for n in asked if known[texts[n]]]

    def _told_of(self, text: str, path: str, number: int, where: Where) -> Told | None:
        """What the rules of one pass said of a text; None where they were not asked."""
        known = self._loudness.get((number, path, where), {})
        return known[text] or {} if text in known else None

    @staticmethod
    def _may_change(item: Item, column: Column) -> bool:
        """Whether values of a column can be others without going through the step."""
        if column.raws is None:
            return True
        return item.head.version != "2.1" and "URI" not in item.head.text.upper()

    def _verdict(self, text: str, path: str, number: int, where: Where) -> _Verdict:
        """What the rules of one pass say of a text; the answer is kept."""
        if len(self._texts) > _MOST_COLUMNS:
            self._texts.clear()
        known = self._texts.setdefault((number, path, where), {})
        found = known.get(text)
        if found is None:
            if len(known) > _MOST_KNOWN:
                known.clear()
            told = self._told_of(text, path, number, where)
            found = known[text] = self._step.verdict(text, path, number, where, told)
        return found

    def _judge(self, item: Item, value: Value, number: int, where: Where) -> Judged | None:
        """What the rules of one pass make of a value; None where that is more than a change."""
        if isinstance(value, str):
            if not value:
                return Judged(value, ())
            path = self._step.path_of(item, 0)
            told = self._told_of(value, path, number, where)
            new, reason, said = self._step.verdict(value, path, number, where, told)
            return Judged(new, _ends_of(reason), tuple(said)) if new else None
        path_of = self._step.path_of
        texts: list[Component] = []
        reasons: list[Reason | None] = []
        every: list[Said] = []
        for at, component in enumerate(value):
            if not component:
                texts.append(component)
                continue
            if not isinstance(component, str):
                return None
            new, reason, said = self._verdict(component, path_of(item, at), number, where)
            if not new:
                return None
            texts.append(new)
            reasons.append(reason)
            every += said
        if item.head.name == "org" and any(reasons):  # as the step cuts off what is empty
            while texts and not texts[-1]:
                texts.pop()
        return Judged(tuple(texts), _ends_of(*reasons), tuple(every))


def _is_text(component: Component) -> bool:
    return isinstance(component, str)


def _first_word(path: str) -> str:
    return path.partition("/")[0]


def _change(work: _Work, at: int, found: Mapping[int, Judged]) -> None:
    """Put cleaned values of some records into a column, each with what came of it."""
    work.say({n: each.said for n, each in found.items()})
    item, column, old = work.shape[at], work.columns[at], work.values[at]
    work.changed.add(_first_word(item.head.field.path))
    made = list(old)
    ends = list(column.ends) if column.ends is not None else _as_read(old)
    raws = list(column.raws) if column.raws is not None else None
    for n, each in found.items():
        ends[n] = _both(ends[n], each) if column.ends is not None else each.ends
        if raws is not None and each.value != old[n]:
            raws[n] = _written(item, each.value)
        made[n] = each.value
    parts = list(zip(*made, strict=True)) if column.parts is not None else None
    keep_values = made if raws is None and parts is None else None
    work.columns[at] = Column(keep_values, raws=raws, parts=parts, ends=ends)
    work.values[at] = made


def _as_read(values: Sequence[Value]) -> list[Ends | None]:
    """What came of values of which nothing was said."""
    if isinstance(values[0], str):
        return [None if value else () for value in values]
    return [_NOTHING_SAID * count_values(value) for value in values]  # type: ignore[arg-type]


@lru_cache(maxsize=4_096)
def _ends_of(*reasons: Reason | None) -> Ends:
    """What came of some texts: the same for all to which the same was done."""
    return tuple([(reason, 1) for reason in reasons])


_NOTHING_SAID: Ends = ((None, 1),)
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
