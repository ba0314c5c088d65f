"""Properties and parts of them, as fitting takes them apart: what they say, in what order."""

from __future__ import annotations

from collections.abc import Sequence

from roundcard.card.contact import Contact, Origin, Property, flat
from roundcard.card.fields import ADR_PARTS, CUSTOM, FIELDS, N_PARTS
from roundcard.card.head import Component
from roundcard.card.paths import FieldPath
from roundcard.pick.path_values import values_at
from roundcard.tally import Reason, changed_by

FULL = FieldPath("name", part="full")
_FIELDS = {name: at for at, name in enumerate(FIELDS)}


def order_of(piece: Property, label: str) -> tuple[int, int, tuple[str, ...], str, str]:
    """The order in which values ride: by field and part, then by what they say, so that it is the
    same whatever refused them."""
    at = next((n for n, part in enumerate(piece.components) if any(flat((part,)))), 0)
    part = at if piece.head.field.kind == "parts" else 0
    field = _FIELDS.get(piece.head.name, len(_FIELDS))
    return field, part, tuple(sorted(piece.head.uses)), label, piece.text


def said_by(piece: Property) -> str:
    """What a value says, without the label of a custom one."""
    if piece.head.name == CUSTOM:
        return " ".join(flat(piece.components[1:]))
    if piece.head.field.kind == "media":
        return f"({len(piece.raw or piece.text):,} characters)"
    return piece.raw if piece.head.field.kind == "raw" and piece.raw else piece.text


def custom_label(prop: Property) -> str:
    """The label of a value that no standard field holds; empty for others."""
    if prop.head.name == CUSTOM:
        return " ".join(flat(prop.components[:1]))
    return "" if prop.head.field.path else prop.head.name.upper()


def remade(
    prop: Property, values: Sequence[Component], origins: Sequence[int | tuple[int, ...]]
) -> Property:
    """A property with other components, each with its origin."""
    if isinstance(prop.value, str):
        one = origins[0]
        text = values[0]
        assert isinstance(text, str)
        return prop.replaced(text, one if isinstance(one, int) else one[0])
    return prop.replaced(tuple(values), tuple(origins))


def all_changed(prop: Property, reason: Reason) -> Origin:
    """The origins of a property's values, each changed for a reason."""
    if isinstance(prop.origin, int):
        return changed_by(prop.origin, reason)
    return tuple(
        changed_by(one, reason) if isinstance(one, int)
        else tuple(changed_by(inner, reason) for inner in one)
        for one in prop.origins()
    )  # fmt: skip


def piece_of(prop: Property, places: list[int]) -> Property:
    """Some of a property's components, or entries, or all of it where it has but one."""
    kind = prop.head.field.kind
    if kind == "list":
        return prop.entries(places)
    if kind == "parts" and prop.head.name != CUSTOM:
        return prop.only(places)
    return prop


def fits_into(piece: Property, prop: Property) -> bool:
    """Whether the components of a piece are those that a value, which stays, has no longer."""
    return not any(
        any(flat((part,))) and at < len(prop.components) and any(flat((prop.components[at],)))
        for at, part in enumerate(piece.components)
    )


def path_at(prop: Property, at: int) -> FieldPath:
    """The path of a component, without uses and position."""
    name = prop.head.name
    if name == "n":
        return FieldPath("name", part=N_PARTS[at] if at < len(N_PARTS) else "additional")
    if name == "fn":
        return FULL
    if name == "adr":
        return FieldPath("address", part=ADR_PARTS[at] if at < len(ADR_PARTS) else "extended")
    if name == "label":
        return FieldPath("address", part="full")
    if name == "org":
        return FieldPath("org", part="unit" if at else "", number=1 if at else 0)
    if name == "gender":
        return FieldPath("gender", part="identity" if at else "sex")
    label = custom_label(prop)
    return FieldPath("custom", label=label) if label else FieldPath(prop.head.field.path or "note")


def path_of(piece: Property) -> FieldPath:
    """The path of a value: that of the one part that it says, or of the whole field."""
    if piece.head.field.kind != "parts" or piece.head.name == CUSTOM:
        return path_at(piece, 0)
    filled = [n for n, part in enumerate(piece.components) if any(flat((part,)))]
    if len(filled) > 1:
        return FieldPath(piece.head.field.path)
    return path_at(piece, filled[0] if filled else 0)


def is_there(contact: Contact, path: FieldPath) -> bool:
    """Whether a contact has a value under a path; a whole name is said by its parts, too."""
    if path == FULL:
        return any(p.size() for p in contact.properties if p.head.name in ("fn", "n"))
    return any(True for _ in values_at(contact, path))
