"""The step that cleans contacts, and tells each change and each doubt."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS
from roundcard.card.head import Component, Value
from roundcard.card.origin import CHANGED, unpack
from roundcard.card.paths import FieldPath
from roundcard.clean.countries import country_code
from roundcard.clean.rule import Around, Rule
from roundcard.tally import Tally

_KINDS = ("text", "phone", "uri", "date", "list", "parts")
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


class Clean:
    """Applies rules to the values of contacts; a changed value carries the mark of it."""

    def __init__(
        self,
        rules: Sequence[Rule],
        *,
        region: str = "",
        phone: str = "international",
        countries: str = "",
        uniform: frozenset[str] = frozenset(),
        tell: Tell | None = None,
        refused: frozenset[Refused] = frozenset(),
    ) -> None:
        """`region` is the country of numbers without a code where the contact's own address does
        not tell it; `tell` is called with each change and each doubt; `refused` are changes that
        are not made."""
        self.rules = tuple(rules)
        self.region = region.upper()
        self.phone = phone
        self.countries = countries
        self.uniform = uniform
        self.tell = tell
        self.refused = refused

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact with its values cleaned; the same one where nothing changed."""
        region = region_of(contact) or self.region
        out: list[Property] = []
        touched = False
        for prop in contact.properties:
            made = self._property(contact, prop, region, tally)
            touched |= made is not prop
            if made is not None:
                out.append(made)
        return Contact(out, contact.origin) if touched else contact

    def _property(
        self, contact: Contact, prop: Property, region: str, tally: Tally
    ) -> Property | None:
        """The property cleaned; None where nothing is left of it."""
        head = prop.head
        if prop.rides or head.field.kind not in _KINDS or not head.field.path:
            return prop
        value = prop.value
        if isinstance(value, str):
            around = self._around(_path(prop, 0), region)
            text = self._text(contact, value, around, tally, prop.origin_of(0))
            if text is value:
                return prop
            return prop.replaced(text, _marked(prop.origin_of(0))) if text else None
        return self._components(contact, prop, value, region, tally)

    def _around(self, path: str, region: str) -> Around:
        return Around(path, region, self.phone, self.uniform, self.countries)

    def _components(
        self, contact: Contact, prop: Property, value: tuple[Component, ...], region: str,
        tally: Tally,
    ) -> Property | None:  # fmt: skip
        made: list[Component] = []
        origins: list[int | tuple[int, ...]] = []
        changed = False
        for at, component in enumerate(value):
            if prop.head.name == CUSTOM and at == 0:
                made.append(component)  # the label
                origins.append(prop.origin_of(0))
                continue
            around = self._around(_path(prop, at), region)
            texts = (component,) if isinstance(component, str) else component
            cleaned, marks = [], []
            for inner, text in enumerate(texts):
                origin = prop.origin_of(at, inner)
                new = self._text(contact, text, around, tally, origin) if text else text
                changed |= new is not text
                cleaned.append(new)
                marks.append(_marked(origin) if new is not text else origin)
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

    def _text(self, contact: Contact, text: str, around: Around, tally: Tally, origin: int) -> str:
        """One value after all rules; the same object where none changed it."""
        before = text
        for rule in self.rules:
            if not rule.concerns(around.path):
                continue
            verdict = rule.judge(text, around)
            if verdict.doubt:
                self._told(contact, around.path, text, text, rule.name, verdict.doubt)
                tally.find(f"{rule.name}: {verdict.doubt}", "record", _record(contact))
            elif verdict.text is not None and verdict.text != text:
                if (
                    self.refused
                    and (_record(contact), around.path, text, rule.name) in self.refused
                ):
                    tally.find(f"{rule.name}: changes refused by you", "record", _record(contact))
                    continue
                self._told(contact, around.path, text, verdict.text, rule.name, "")
                if not verdict.text:
                    if origin >= 0:
                        tally.leave_out(1, f"{rule.name} (rule)")
                    return ""
                if origin >= 0:
                    once = text is before and not origin & CHANGED
                    tally.change(rule.name, int(once))
                text = verdict.text
        return text

    def _told(
        self, contact: Contact, path: str, before: str, after: str, rule: str, doubt: str
    ) -> None:
        if self.tell is None:
            return
        place = unpack(contact.origin)
        source, record = (place.source, place.record) if place else (0, 0)
        self.tell(Change(source, record, path, before, after, rule, doubt))


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


def _marked(origin: int) -> int:
    return origin | CHANGED if origin >= 0 else origin


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
