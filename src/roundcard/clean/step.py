"""The step that cleans contacts, and tells each change and each doubt."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS
from roundcard.card.head import Component, Value
from roundcard.card.origin import CHANGED, marked, unpack
from roundcard.card.paths import FieldPath
from roundcard.clean.countries import country_code
from roundcard.clean.habits import Habits
from roundcard.clean.rule import LEFT, AnyRule, Around, Reshaping, Rule
from roundcard.tally import Tally

_KINDS = ("text", "phone", "uri", "date", "list", "parts")
_MOST_PATHS = 10_000
_COUNTRY = ADR_PARTS.index("country")


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


Tell = Callable[[Change], None]
Refused = tuple[int, str, str, str]
"""A change that is not made: record, path, the value before, and the rule."""


@dataclass(frozen=True, slots=True)
class Forms:
    """The forms that values get, as the user wishes them."""

    region: str = ""
    """The country of numbers without a code where the contact's own address does not tell it."""
    phone: str = "international"
    countries: str = ""
    this_year: int = 0


class Clean:
    """Applies rules to the values of contacts; a changed value carries the mark of it."""

    def __init__(
        self,
        rules: Sequence[AnyRule],
        forms: Forms | None = None,
        habits: Habits | None = None,
        *,
        tell: Tell | None = None,
        refused: frozenset[Refused] = frozenset(),
    ) -> None:
        """`tell` is called with each change and each doubt; `refused` are changes that are not
        made."""
        self.forms = forms or Forms()
        self.habits = habits or Habits()
        self.tell = tell
        self.refused = refused
        self.passes = _passes(rules)
        self._concerned: dict[tuple[int, str], tuple[Rule, ...]] = {}
        self._around: dict[tuple[str, str, bool], Around] = {}

    def __getstate__(self) -> dict[str, Any]:
        """Without what is told to: another process gathers it, and the parent tells."""
        return self.__dict__ | {"tell": None}

    def gather(self) -> list[Change]:
        """Keep what is told in a list, for the parent of this process."""
        gathered: list[Change] = []
        self.tell = gathered.append
        return gathered

    def give(self, gathered: Sequence[Change], records: int) -> None:
        """Tell what another process gathered; `records` came before what it worked on."""
        if self.tell is not None:
            for change in gathered:
                self.tell(change._replace(record=change.record + records))

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact with its values cleaned; the same one where nothing changed."""
        own = region_of(contact)
        place = own or self.forms.region, bool(own)
        for number, work in enumerate(self.passes):
            if isinstance(work, Reshaping):
                if not work.needs or any(p.head.name in work.needs for p in contact.properties):
                    contact = self._reshaped(contact, work, place, tally)
            else:
                contact = self._judged(contact, number, place, tally)
        return contact

    def _judged(
        self, contact: Contact, number: int, place: tuple[str, bool], tally: Tally
    ) -> Contact:
        out: list[Property] = []
        touched = False
        for prop in contact.properties:
            made = self._property(contact, prop, number, place, tally)
            if made is not prop:
                touched = True
                if made is None:
                    continue
            out.append(made)
        return Contact(out, contact.origin) if touched else contact

    def _reshaped(
        self, contact: Contact, rule: Reshaping, place: tuple[str, bool], tally: Tally
    ) -> Contact:
        found = list(rule.work(contact, self._about(rule.fields[0], place)))
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
            _count(rule.name, before, now, tally)
            out += now
        return Contact(out, contact.origin)

    def _property(
        self, contact: Contact, prop: Property, number: int, place: tuple[str, bool], tally: Tally
    ) -> Property | None:
        """The property cleaned; None where nothing is left of it."""
        head = prop.head
        if head.field.kind not in _KINDS or not head.field.path or prop.rides:
            return prop
        value = prop.value
        if not isinstance(value, str):
            return self._components(contact, prop, value, number, place, tally)
        path = "name/full" if head.name == "fn" else head.field.path
        text = self._text(contact, value, path, number, place, tally, prop.origin_of(0))
        if text is value:
            return prop
        return prop.replaced(text, marked(prop.origin_of(0))) if text else None

    def _components(
        self, contact: Contact, prop: Property, value: tuple[Component, ...], number: int,
        place: tuple[str, bool], tally: Tally,
    ) -> Property | None:  # fmt: skip
        made: list[Component] = []
        origins: list[int | tuple[int, ...]] = []
        changed = False
        for at, component in enumerate(value):
            if not component or (prop.head.name == CUSTOM and at == 0):  # nothing, or the label
                made.append(component)
                origins.append(prop.origin_of(at))
                continue
            path = _path(prop, at)
            texts = (component,) if isinstance(component, str) else component
            cleaned, marks = [], []
            for inner, text in enumerate(texts):
                origin = prop.origin_of(at, inner)
                new = text
                if text:
                    new = self._text(contact, text, path, number, place, tally, origin)
                changed |= new is not text
                cleaned.append(new)
                marks.append(marked(origin) if new is not text else origin)
            made.append(cleaned[0] if isinstance(component, str) else tuple(cleaned))
            origins.append(marks[0] if isinstance(component, str) else tuple(marks))
        if not changed:
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
        self, contact: Contact, text: str, path: str, number: int, place: tuple[str, bool],
        tally: Tally, origin: int,
    ) -> str:  # fmt: skip
        """One value after all rules of one pass; the same object where none changed it."""
        rules = self._concerned.get((number, path))
        if rules is None:
            rules = self._for_path(number, path)
        before = text
        about = self._around.get((path, *place)) or self._about(path, place)
        for rule in rules:
            verdict = rule.judge(text, about)
            if verdict is LEFT:
                continue
            if verdict.doubt:
                self._doubted(contact, path, text, rule.name, verdict.doubt, tally)
            elif verdict.text is not None and verdict.text != text:
                if self._refuses(contact, path, text, rule.name, tally):
                    continue
                self._told(contact, path, text, verdict.text, rule.name, "")
                if not verdict.text:
                    if origin >= 0:
                        tally.leave_out(1, f"{rule.name} (rule)")
                    return ""
                if origin >= 0:
                    once = text is before and not origin & CHANGED
                    tally.change(rule.name, int(once))
                text = verdict.text
        return text

    def _for_path(self, number: int, path: str) -> tuple[Rule, ...]:
        work = self.passes[number]
        assert not isinstance(work, Reshaping)
        found = tuple(rule for rule in work if rule.concerns(path))
        if len(self._concerned) < _MOST_PATHS:
            self._concerned[number, path] = found
        return found

    def _about(self, path: str, place: tuple[str, bool]) -> Around:
        forms, habits = self.forms, self.habits
        found = Around(path, place[0], place[1], forms.phone, habits.uniform, forms.countries,
                       habits.orders, forms.this_year)  # fmt: skip
        if len(self._around) < _MOST_PATHS:
            self._around[path, *place] = found
        return found

    def _refuses(self, contact: Contact, path: str, before: str, rule: str, tally: Tally) -> bool:
        """Whether the user refused a change, which is told."""
        if not self.refused or (_record(contact), path, before, rule) not in self.refused:
            return False
        tally.find(f"{rule}: changes refused by you", "record", _record(contact))
        return True

    def _doubted(
        self, contact: Contact, path: str, text: str, rule: str, doubt: str, tally: Tally
    ) -> None:
        self._told(contact, path, text, text, rule, doubt)
        kind = doubt.partition(":")[0]  # what follows names this one value
        tally.find(f"{rule}: {kind}", "record", _record(contact))

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


def _count(rule: str, before: Sequence[Property], now: Sequence[Property], tally: Tally) -> None:
    """Count what one property became: values changed, made, or folded into equal ones."""
    was = [tally.fates(prop) for prop in before]
    became = [tally.fates(prop) for prop in now]
    read = sum(each[0] + each[1] for each in became)
    gone = sum(each[0] + each[1] for each in was) - read
    if gone > 0:
        tally.fold(gone, f"{rule} (rule)")
    changed = sum(each[1] for each in became) - sum(each[1] for each in was)
    if changed > 0:
        tally.change(rule, changed)
    for prop, fates in zip(now, became, strict=True):
        if fates[3]:
            tally.derive(fates[3], prop, rule)
    for prop, fates in zip(before, was, strict=True):
        if fates[3]:
            tally.unmake(prop)


def region_of(contact: Contact) -> str:
    """The ISO 3166 code of the country that the contact's first address names, if it is known."""
    for prop in contact.all("adr"):
        country = prop.components[_COUNTRY] if len(prop.components) > _COUNTRY else ""
        if country and isinstance(country, str):
            return country_code(country)
    return ""


def _record(contact: Contact) -> int:
    place = unpack(contact.origin)
    return place.record if place else 0


def _path(prop: Property, at: int) -> str:
    """The path of a value without uses and position."""
    head = prop.head
    if head.name == "fn":
        return "name/full"
    if head.name == "n":
        return f"name/{N_PARTS[at]}" if at < len(N_PARTS) else "name/additional"
    if head.name == "adr":
        return f"address/{ADR_PARTS[at]}" if at < len(ADR_PARTS) else "address/extended"
    if head.name == "org" and at:
        return "org/unit"
    if head.name == CUSTOM:
        return str(FieldPath("custom", label=str(prop.components[0]) or "?"))
    return head.field.path
