"""What a service does to values that it takes, as a closed table of words."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import CUSTOM
from roundcard.card.head import Component, head, with_params
from roundcard.card.paths import FieldPath
from roundcard.clean.countries import country_code
from roundcard.destinations.model import Destination, Rewrite
from roundcard.destinations.pieces import path_at
from roundcard.values.phones import in_form


def _digits(text: str, _: str) -> str:
    digits = "".join(char for char in text if char.isdecimal())
    return digits or text


def _international(text: str, region: str) -> str:
    return in_form(text, region).text or text


def _spaces(text: str, _: str) -> str:
    return " ".join(text.split(" ")) if "  " not in text else " ".join(text.split())


def _code(text: str, _: str) -> str:
    return country_code(text) or text


def _same(text: str, _: str) -> str:
    return text


FUNCTIONS: Mapping[Rewrite, Callable[[str, str], str]] = {
    "digits": _digits,
    "international": _international,
    "lower-case": lambda text, _: text.lower(),
    "spaces": _spaces,
    "trimmed": lambda text, _: text.strip(),
    "code": _code,
    "replaced": _same,
    "from-parts": _same,
    "uses-lost": _same,
    "resized": _same,
    "cut": _same,
    "order": _same,
}
"""What each word makes of a text; those that do not act on a single text leave it as it is, and
are known to who compares: another value stands there, the name is made from its parts, uses are not
kept, a picture has another size, a text may be shorter, values stand in another order."""

UNTOLD: frozenset[Rewrite] = frozenset({"replaced", "resized", "order", "uses-lost", "from-parts",
                                        "cut"})  # fmt: skip
"""Words that say of a field what cannot be told from a single text."""


def rewritten(text: str, path: FieldPath, to: Destination, region: str = "") -> str:
    """A value as it stands in the service after it took it, as far as that is told."""
    for word in words_for(path, to):
        text = FUNCTIONS[word](text, region)
    return text


def words_for(path: FieldPath, to: Destination) -> tuple[Rewrite, ...]:
    """What is said of a field, or of one of its parts."""
    if path in to.rewrites:
        return to.rewrites[path]
    whole = FieldPath(path.field, label=path.label)
    return to.rewrites.get(whole, ())


class Rewriting:
    """Makes of a person what the service holds after it took them, as far as that is told; of
    values whose use has no column in its table, the use is lost."""

    def __init__(self, to: Destination, region: str = "") -> None:
        self._to = to
        self._region = region
        self._words = {path.field for path in to.rewrites}
        lost = {path.field for path, words in to.rewrites.items() if "uses-lost" in words}
        self._useless = uses_lost(to) | lost

    def __call__(self, contact: Contact) -> Contact:
        """The person as the service holds them."""
        if not self._words and not self._useless:
            return contact
        props = []
        for prop in contact.properties:
            word = prop.head.field.path
            if prop.head.field.kind in ("media", "raw") or prop.rides:
                props.append(prop)
                continue
            if word in self._useless and (prop.head.uses or prop.head.group):
                made = with_params(prop.head, type=None)
                prop = Property(head(made.name, made.params), prop.value, prop.origin)
            if word in self._words:
                prop = _rewritten(prop, self._to, self._region)
            props.append(prop)
        return Contact(props, contact.origin)


def _rewritten(prop: Property, to: Destination, region: str) -> Property:
    values: list[Component] = []
    for at, component in enumerate(prop.components):
        path = path_at(prop, at)
        if not words_for(path, to) or (at == 0 and prop.head.name == CUSTOM):
            values.append(component)
        elif isinstance(component, str):
            values.append(rewritten(component, path, to, region) if component else component)
        else:
            values.append(tuple(rewritten(text, path, to, region) for text in component))
    if values == list(prop.components):
        return prop
    if isinstance(prop.value, str):
        only = values[0]
        assert isinstance(only, str)
        return prop.replaced(only)
    return prop.replaced(tuple(values))


def uses_lost(to: Destination) -> frozenset[str]:
    """The fields of which a destination's table has no column that says a use."""
    if to.layout is None or to.accepts[0] not in ("table", "workbook"):
        return frozenset()
    paths = [path for column in to.layout.columns for path in column.holds]
    told = {path.field for path in paths if path.part == "use" or path.uses or path.label}
    return frozenset({path.field for path in paths} - told)
