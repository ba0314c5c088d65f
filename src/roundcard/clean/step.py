"""The step that cleans contacts, and tells each change and each doubt."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import filterfalse
from typing import Any, NamedTuple

from roundcard.books.shapes.batch import Batch, Item
from roundcard.books.shapes.steps import MayLack
from roundcard.card.contact import Contact, Property
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS
from roundcard.card.head import Component, Head, Value
from roundcard.card.origin import CHANGED, DERIVED, reason_in, rides, unpack
from roundcard.card.origin import changed as changed_origin
from roundcard.card.paths import FieldPath
from roundcard.clean.book_conventions import Habits
from roundcard.clean.by_columns import ByColumns, Event, Kind, Said, Told, said_of
from roundcard.clean.countries import country_code
from roundcard.clean.rule import LEFT, UNNAMED, AnyRule, Around, Reshaping, Rule, broke_down
from roundcard.clean.text import RULES as TEXT_RULES
from roundcard.clean.text import all_ordinary, ordinary
from roundcard.errors import RoundCardError
from roundcard.tally import Fate, Reason, Tally, Why, changed_by, derived_by, number_of

_KINDS = ("text", "phone", "uri", "date", "list", "parts")
_MOST_KEPT = 50_000
"""Heads, and sequences of them, of which it is remembered how they are looked at."""
_MOST_PLAIN = 20_000
"""Values of one field that are remembered as those of which no rule has anything to say."""
_COUNTRY = ADR_PARTS.index("country")
_NOTHING_LEFT = Reason(Fate.LEFT_OUT, Why.NOTHING_LEFT)


class Change(NamedTuple):
    """What a rule did to a value, or doubts of it."""

    source: int
    """Number of the source, from 0."""
    record: int
    path: str
    before: str
    after: str
    """The same as before where the rule only doubts it; empty where the value is dropped."""
    rule: str
    doubt: str = ""
    """What is not sure about it; the change is made all the same."""


class Again(NamedTuple):
    """How often a rule did, or doubted, once more what enough was told of."""

    rule: str
    changed: bool
    doubted: bool
    times: int


Tell = Callable[[Change], None]
Count = Callable[[Again], None]
_Where = tuple[str, bool]
"""The region, and whether the contact's own address names it."""
Refused = tuple[int, str, str, str]
"""A change that is not made: record, path, the value before, and the rule."""


@lru_cache(maxsize=1_024)
def _finding(rule: str, doubt: str, *, changed: bool) -> str:
    """How a doubt is told among what is worth knowing."""
    return f"{rule}: {doubt if changed else doubt.partition(':')[0]}"


@lru_cache(maxsize=1_024)
def _changed_reason(rule: str, word: str) -> Reason:
    return Reason(Fate.CHANGED, rule, word)


@dataclass(frozen=True, slots=True)
class Forms:
    """The forms that values get, as the user wishes them."""

    region: str = ""
    """The country of numbers without a code where the contact's own address does not tell it."""
    phone: str = "international"
    countries: str = ""
    this_year: int = 0
    years_from: int = 0
    sure_only: bool = False
    """Whether changes that are not sure are only reported."""


class _Desk(NamedTuple):
    """All that is needed to look at the values of one path."""

    path: str
    rules: tuple[Rule, ...]
    few: tuple[Rule, ...]
    """Those that may speak of a text in which nothing is out of the ordinary."""
    about: Around
    plain: set[str]
    """Values of which no rule has anything to say."""


class Clean:
    """Applies rules to the values of contacts; a changed value carries the mark of it."""

    def __init__(
        self,
        rules: Sequence[AnyRule],
        forms: Forms | None = None,
        habits: Habits | None = None,
        *,
        tell: Tell | None = None,
        count: Count | None = None,
        refused: frozenset[Refused] = frozenset(),
    ) -> None:
        """`tell` is called with each change and each doubt or, where `count` is given, with the
        first few of each kind; `refused` are changes that are not made."""
        self.forms = forms or Forms()
        self.habits = habits or Habits()
        self.tell = tell
        self.count = count
        self.each = count is None
        """Whether each change is told, and not only counted."""
        self.refused = refused
        self.passes = _passes(rules)
        self._by_columns: ByColumns | None = None
        self._needed: dict[tuple[Head, ...], tuple[int, ...]] = {}
        self._abouts: dict[tuple[str, _Where], Around] = {}
        self._desks: dict[tuple[int, str, _Where], _Desk] = {}
        self._parts: dict[tuple[int, Head, _Where], list[_Desk | None]] = {}
        self._by_head: dict[tuple[int, _Where], dict[Head, _Desk | bool]] = {}

    def __getstate__(self) -> dict[str, Any]:
        """Without what is told to: another process gathers it, and the parent tells."""
        return self.__dict__ | {"tell": None, "count": None, "_by_columns": None}

    def begin(self) -> None:
        """Tell the first few of each kind once more: the work begins again."""
        self._by_columns = None

    def give(self, gathered: Sequence[Change | Again], records: int) -> None:
        """Tell what another process gathered; `records` came before what it worked on."""
        if self.tell is None:
            return
        for each in gathered:
            if isinstance(each, Change):
                self.tell(each._replace(record=each.record + records))
            elif self.count is not None:
                self.count(each)

    def shaped(self, batch: Batch, may_lack: MayLack) -> tuple[Batch, set[int]]:
        """Many contacts of one shape cleaned at once; see `ByColumns`."""
        if self.refused:
            every = set(range(len(batch)))
            return batch.without(every), every
        if self._by_columns is None:
            self._by_columns = ByColumns(self)
        return self._by_columns.clean(batch, may_lack)

    def events(self) -> dict[int, Event]:
        """What is to be told of the contacts that `shaped` took last."""
        return self._by_columns.events() if self._by_columns is not None else {}

    def passed(self, records: int) -> None:  # noqa: ARG002
        """So many were written."""
        if self._by_columns is not None:
            self._by_columns.settle()

    def judges(self, head: Head, number: int, where: _Where) -> bool:
        """Whether a pass has rules for values with a head."""
        by_head = self._by_head.setdefault((number, where), {})
        desk = by_head.get(head)
        if desk is None:
            desk = self._desk_for(number, head, where, by_head)
        return desk is not False

    def has_own_rules(self, path: str, number: int, where: _Where) -> bool:
        """Whether a pass has rules for values at a path beside those for any text."""
        return bool(self._desk(number, path, where).few)

    def loud(
        self, texts: Collection[str], path: str, number: int, where: _Where
    ) -> dict[str, Told]:
        """Those texts of which some rule of a pass has something to say, with what it says."""
        desk = self._desk(number, path, where)
        found: dict[str, Told] = {}
        odd = [text for text in texts if not text.isascii()]
        plain = [text for text in texts if text.isascii()] if odd else texts
        if plain and not all_ordinary(plain):
            odd += [text for text in plain if not ordinary(text)]
        asked: dict[re.Pattern[str], list[str]] = {}
        for place, rule in enumerate(desk.rules):
            some: Collection[str] = texts if rule in desk.few else odd
            if rule.quiet is not None and some is texts:
                if rule.quiet not in asked:
                    asked[rule.quiet] = list(filterfalse(rule.quiet.fullmatch, texts))
                some = asked[rule.quiet]
            for text, verdict in rule.loud(some, desk.about).items():
                found.setdefault(text, {})[place] = verdict
        return found

    @staticmethod
    def path_of(item: Item, at: int) -> str:
        """The path of a value, or of one component of it, without uses and position."""
        if item.head.name == CUSTOM:
            return str(FieldPath("custom", label=item.label or "?"))
        return _path_at(item.head, at)

    def verdict(
        self, text: str, path: str, number: int, where: _Where, told: Told | None = None
    ) -> tuple[str, Reason | None, list[Said]]:
        """A value after all rules of one pass: what it is, the first reason for a change, and all
        that was said of it. `told` is what `loud` gave for it."""
        said: list[Said] = []
        reason = None
        desk = self._desk(number, path, where)
        read = text
        for place, rule in enumerate(desk.few if told is None and ordinary(text) else desk.rules):
            if told is not None and text is read:
                verdict = told.get(place, LEFT)
            else:
                verdict = rule.says(text, desk.about)
            if verdict is LEFT:
                continue
            made = text if verdict.text is None else verdict.text
            if made == text and verdict.text is not None:
                continue
            said.append(said_of(path, text, made, rule.name, verdict.doubt))
            if made != text:
                reason = reason or _changed_reason(rule.name, path.partition("/")[0])
                text = made
            if not text:
                break
        return text, reason, said

    def tell_again(self, said: Sequence[Said], origin: int, tally: Tally) -> None:
        """Tell of one record what the rules said of its values."""
        place = unpack(origin)
        source, record = (place.source, place.record) if place else (0, 0)
        tell = self.tell
        for path, before, after, rule, doubt, _ in said:
            if doubt:
                tally.find(_finding(rule, doubt, changed=before != after), "record", record)
            if tell is not None:
                tell(Change(source, record, path, before, after, rule, doubt))

    def count_again(self, kinds: Counter[Kind], _: int, tally: Tally) -> None:
        """Count what rules said of the values of many records, where enough was told of each
        kind."""
        for (rule, doubt, changed), times in kinds.items():
            if doubt:
                tally.find(_finding(rule, doubt, changed=changed), times=times)
            if self.count is not None:
                self.count(Again(rule, changed, bool(doubt), times))

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact with its values cleaned; the same one where nothing changed."""
        original = contact
        own = region_of(contact)
        where = own or self.forms.region, bool(own)
        looked_at, needed = contact, self._needs(contact)
        for number, work in enumerate(self.passes):
            if not isinstance(work, Reshaping):
                contact = self._judged(contact, number, where, tally)
                continue
            if contact is not looked_at:
                looked_at, needed = contact, self._needs(contact)
            if number in needed:
                contact = self._reshaped(contact, work, where, tally)
        if contact is not original and not contact.size():
            tally.count(_NOTHING_LEFT, people=1)
            return None
        return contact

    def _needs(self, contact: Contact) -> tuple[int, ...]:
        """The rules that may reshape contacts with such heads, by their number."""
        heads = tuple([prop.head for prop in contact.properties])
        found = self._needed.get(heads)
        if found is None:
            found = tuple(
                number
                for number, work in enumerate(self.passes)
                if isinstance(work, Reshaping) and work.needs(heads)
            )
            if len(self._needed) < _MOST_KEPT:
                self._needed[heads] = found
        return found

    def _judged(self, contact: Contact, number: int, where: _Where, tally: Tally) -> Contact:
        """The contact after a run of rules that look at single values."""
        properties = contact.properties
        out: list[Property | None] | None = None
        by_head = self._by_head.get((number, where))
        if by_head is None:
            by_head = self._by_head[number, where] = {}
        for at, prop in enumerate(properties):
            desk = by_head.get(prop.head)
            if desk is None:
                desk = self._desk_for(number, prop.head, where, by_head)
            if desk is False:
                continue
            origin = prop.origin
            if isinstance(origin, int) and rides(origin):
                continue
            made: Property | None
            if desk is True:
                made = self._components(contact, prop, number, where, tally)
            else:
                text = prop.text
                if not text or text in desk.plain:
                    continue
                place = prop.origin_of(0)
                new, origin = self._text(contact, text, desk, tally, place)
                if new is text:
                    continue
                made = prop.replaced(new, origin) if new else None
            if made is not prop:
                if out is None:
                    out = list(properties)
                out[at] = made
        if out is None:
            return contact
        return Contact([prop for prop in out if prop is not None], contact.origin)

    def _desk_for(
        self, number: int, head: Head, where: _Where, by_head: dict[Head, _Desk | bool]
    ) -> _Desk | bool:
        """Where properties with a head are looked at: at one desk, in parts (True), or not."""
        found: _Desk | bool = False
        if head.field.kind in ("parts", "list") and head.field.path:
            found = True
        elif head.field.kind in _KINDS and head.field.path:
            path = "name/full" if head.name == "fn" else head.field.path
            desk = self._desk(number, path, where)
            found = desk if desk.rules else False
        if len(by_head) < _MOST_KEPT:
            by_head[head] = found
        return found

    def _desk(self, number: int, path: str, where: _Where) -> _Desk:
        found = self._desks.get((number, path, where))
        if found is None:
            work = self.passes[number]
            run = () if isinstance(work, Reshaping) else work
            rules = tuple(rule for rule in run if rule.concerns(path))
            few = tuple(rule for rule in rules if rule not in TEXT_RULES)
            found = _Desk(path, rules, few, self.about(path, where), set())
            if len(self._desks) < _MOST_KEPT:
                self._desks[number, path, where] = found
        return found

    def about(self, path: str, where: _Where) -> Around:
        """What rules may know beside the values of one path."""
        found = self._abouts.get((path, where))
        if found is None:
            forms, habits = self.forms, self.habits
            found = Around(path, where[0], where[1], forms.phone, habits.uniform,
                           forms.countries, habits.orders, forms.years_from,
                           forms.this_year, habits.known_names, forms.sure_only)  # fmt: skip
            if len(self._abouts) < _MOST_KEPT:
                self._abouts[path, where] = found
        return found

    def _reshaped(self, contact: Contact, rule: Reshaping, where: _Where, tally: Tally) -> Contact:
        try:
            found = list(rule.work(contact, self.about(rule.fields[0], where)))
        except RoundCardError:
            raise
        except Exception as error:  # one contact ends no run
            self._doubted(contact, rule.fields[0], "", rule.name, broke_down(error), tally)
            return contact
        if not found:
            return contact
        made: dict[int, tuple[Property, ...]] = {}
        skipped = False
        for each in found:
            if each.doubt:
                self._doubted(contact, each.path, each.before, rule.name, each.doubt, tally)
            elif self._refuses(contact, each.path, each.before, rule.name, tally):
                skipped = True
            else:
                if each.path:
                    self._told(contact, each.path, each.before, each.after, rule.name, "")
                made[each.at] = each.made
        if skipped:  # what goes with a change that is refused is not made either
            made = {each.at: each.made for each in found if each.path and each.at in made}
        if not made:
            return contact
        old = contact.properties
        out: list[Property] = []
        for at in range(len(old) + 1):
            before = old[at : at + 1]
            now = made.get(at)
            if now is None:
                out += before
                continue
            out += _count(rule.name, before, now, tally)
        return Contact(out, contact.origin)

    def _components(
        self, contact: Contact, prop: Property, number: int, where: _Where, tally: Tally
    ) -> Property | None:
        """A property of several values cleaned; None where nothing is left of it."""
        value = prop.components
        made: list[Component] | None = None
        origins: list[int | tuple[int, ...]] = []
        desks = self._parts.get((number, prop.head, where), [])
        if not desks and len(self._parts) < _MOST_KEPT:
            self._parts[number, prop.head, where] = desks
        for at, component in enumerate(value):
            if not component or (prop.head.name == CUSTOM and at == 0):  # nothing, or the label
                continue
            desk = desks[at] if at < len(desks) else None
            if desk is None:
                desk = self._desk(number, _path(prop, at), where)
                if prop.head.name != CUSTOM:  # which has a path by each label
                    desks += [None] * (at + 1 - len(desks))
                    desks[at] = desk
            if component in desk.plain:
                continue
            texts = (component,) if isinstance(component, str) else component
            cleaned, marks = [], []
            for inner, text in enumerate(texts):
                new, origin = text, prop.origin_of(at, inner)
                if text:
                    new, origin = self._text(contact, text, desk, tally, origin)
                cleaned.append(new)
                marks.append(origin)
            if all(new is old for new, old in zip(cleaned, texts, strict=True)):
                continue
            if made is None:
                made, origins = list(value), prop.origins()
            made[at] = cleaned[0] if isinstance(component, str) else tuple(cleaned)
            origins[at] = marks[0] if isinstance(component, str) else tuple(marks)
        if made is None:
            return prop
        if prop.head.field.kind == "list":
            kept = [(m, o) for m, o in zip(made, origins, strict=True) if m]
            made, origins = [m for m, _ in kept], [o for _, o in kept]
        if prop.head.name == "org":
            while made and not made[-1]:  # units that were dropped
                made.pop()
                origins.pop()
        result: Value = tuple(made)
        replaced = prop.replaced(result, tuple(origins))
        return replaced if replaced.size() else None

    def _text(
        self, contact: Contact, text: str, desk: _Desk, tally: Tally, origin: int
    ) -> tuple[str, int]:
        """One value after all rules of one pass, the same object where none changed it, and its
        origin, which tells of the first that did."""
        path, rules, few, about, plain = desk
        if ordinary(text):
            rules = few
        said = False
        for rule in rules:
            verdict = rule.says(text, about)
            if verdict is LEFT:
                continue
            said = True
            if verdict.text is None:
                self._doubted(contact, path, text, rule.name, verdict.doubt, tally)
            elif verdict.text != text:
                if self._refuses(contact, path, text, rule.name, tally):
                    continue
                self._told(contact, path, text, verdict.text, rule.name, verdict.doubt)
                if verdict.doubt:
                    tally.find(f"{rule.name}: {verdict.doubt}", "record", contact.record)
                word = path.partition("/")[0]
                if not verdict.text:
                    if origin >= 0:
                        tally.count(Reason(Fate.LEFT_OUT, rule.name, word), 1)
                    return "", origin
                origin = changed_by(origin, Reason(Fate.CHANGED, rule.name, word))
                text = verdict.text
        if not said and len(plain) < _MOST_PLAIN:
            plain.add(text)
        return text, origin

    def _refuses(self, contact: Contact, path: str, before: str, rule: str, tally: Tally) -> bool:
        """Whether the user refused a change, which is told."""
        if not self.refused or (contact.record, path, before, rule) not in self.refused:
            return False
        tally.find(f"{rule}: changes refused by you", "record", contact.record)
        return True

    def _doubted(
        self, contact: Contact, path: str, text: str, rule: str, doubt: str, tally: Tally
    ) -> None:
        self._told(contact, path, text, text, rule, doubt)
        kind = doubt.partition(":")[0]  # what follows names this one value
        tally.find(f"{rule}: {kind}", "record", contact.record)

    def _told(
        self, contact: Contact, path: str, before: str, after: str, rule: str, doubt: str
    ) -> None:
        if self.tell is None:
            return
        place = unpack(contact.origin)
        source, record = (place.source, place.record) if place else (0, 0)
        self.tell(Change(source, record, path, before, after, rule, doubt))


def _passes(rules: Sequence[AnyRule]) -> tuple[Reshaping | tuple[Rule, ...], ...]:
    """The rules in order: those that look at a whole contact alone, the others in runs."""
    found: list[Reshaping | tuple[Rule, ...]] = []
    run: list[Rule] = []
    for rule in rules:
        if isinstance(rule, Rule):
            run.append(rule)
            continue
        found += [tuple(run)] * bool(run)
        run = []
        found.append(rule)
    return (*found, *([tuple(run)] * bool(run)))


def _count(
    rule: str, before: Sequence[Property], now: Sequence[Property], tally: Tally
) -> list[Property]:
    """What one property became, each value with the rule in its origin; values that are gone are
    folded into equal ones, and where one text became several, the further ones are counted."""
    made = [prop if any(prop is each for each in before) else _named(prop, rule) for prop in now]
    more = sum(map(tally.read_of, made)) - sum(map(tally.read_of, before))
    word = (*before, *made)[0].head.field.path
    if more:
        fate = Fate.SPLIT if more > 0 else Fate.FOLDED
        tally.count(Reason(fate, rule, word), abs(more))
    return made


def _named(prop: Property, rule: str) -> Property:
    """A property that a rule made, with the rule in the origins that are yet to tell of one."""
    word = prop.head.field.path
    changed = number_of(Reason(Fate.CHANGED, rule, word))
    derived = derived_by(Reason(Fate.DERIVED, rule, word))

    def named(origin: int) -> int:
        if origin == DERIVED:
            return derived
        if origin >= 0 and reason_in(origin) == UNNAMED:
            return changed_origin(origin & ~CHANGED, changed)
        return origin

    if isinstance(prop.origin, int):
        return Property(prop.head, prop.known, named(prop.origin), prop.raw)
    origins = tuple(
        named(each) if isinstance(each, int) else tuple(map(named, each)) for each in prop.origins()
    )
    return Property(prop.head, prop.value, origins)


def region_of(contact: Contact) -> str:
    """The ISO 3166 code of the country that the contact's first address names, if it is known."""
    for prop in contact.all("adr"):
        country = prop.components[_COUNTRY] if len(prop.components) > _COUNTRY else ""
        if country and isinstance(country, str):
            return country_code(country)
    return ""


def _path(prop: Property, at: int) -> str:
    """The path of a value without uses and position."""
    if prop.head.name == CUSTOM:
        return str(FieldPath("custom", label=str(prop.components[0]) or "?"))
    return _path_at(prop.head, at)


@lru_cache(maxsize=4_096)
def _path_at(head: Head, at: int) -> str:
    if head.name == "fn":
        return "name/full"
    if head.name == "n":
        return f"name/{N_PARTS[at]}" if at < len(N_PARTS) else "name/additional"
    if head.name == "adr":
        return f"address/{ADR_PARTS[at]}" if at < len(ADR_PARTS) else "address/extended"
    if head.name == "org" and at:
        return "org/unit"
    return head.field.path
