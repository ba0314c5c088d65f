"""A person as items that can be told apart, paired, and put together again.

An item is a value as a person would miss it: a component of the name, a whole address, one phone
number, one category. Equality is that of the table of fields; uses, labels and preference are
properties of the item.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.equality import email, folded, normal
from roundcard.card.equality import number as dialled
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS, is_label
from roundcard.card.head import Component, head
from roundcard.card.names import says_same
from roundcard.card.paths import FieldPath
from roundcard.compare.values import STAMPS
from roundcard.values.cells import write_uses
from roundcard.values.dates import parse_iso
from roundcard.values.phones import same_number

_KEYS: dict[str, Callable[[str], str]] = {
    "exact": str, "text": normal, "folded": folded, "number": dialled, "email": email,
}  # fmt: skip
FULL = "name/full"


class Item(NamedTuple):
    """One value of a person."""

    slot: str
    """The field path without uses; of a name with its part."""
    use: str
    """Uses, or a label."""
    key: tuple[str, ...]
    """What is the same for all that say the same."""
    text: str
    """For people to read."""
    single: bool
    """Whether a person has one at the most."""
    prop: Property
    at: int
    """Which component of the property it is; -1 for the whole of it."""
    label: str = ""
    """The label of the property's group."""


class Pair(NamedTuple):
    """What one state of a person says, and what another one says instead; None for nothing."""

    old: Item | None
    new: Item | None


def items_of(contact: Contact) -> list[Item]:
    """The items of a person; a whole name that says what its parts say is said by them."""
    found: list[Item] = []
    parts: Property | None = None
    wholes: list[Property] = []
    for prop in contact.properties:
        name = prop.head.name
        if name in STAMPS or prop.rides or not prop.head.field.counts or not prop.size():
            continue
        if name == "fn":
            wholes.append(prop)
            continue
        if name == "n" and parts is None and not prop.head.phonetic:
            parts = prop
        found += _items(contact, prop)
    for prop in wholes:
        if parts is None or not says_same(prop.text, parts.value):
            text = prop.text
            found.append(Item(FULL, "", (folded(text),), text, True, prop, -1))
    return found


def _items(contact: Contact, prop: Property) -> Iterator[Item]:
    made = prop.head
    field, name = made.field, made.name
    label = contact.label_of(prop) if made.group else ""
    use = write_uses(made, label, field.path) if field.uses else label
    key = _KEYS[field.equality]
    if name == "n":
        sound = "phonetic-" if made.phonetic else ""
        for at, component in enumerate(prop.components):
            texts = tuple(flat((component,)))
            if texts:
                slot = f"name/{sound}{N_PARTS[min(at, len(N_PARTS) - 1)]}"
                yield Item(slot, "", tuple(map(key, texts)), " ".join(texts), True, prop, at)
    elif name == CUSTOM:
        said, *values = prop.components
        texts = tuple(flat(tuple(values)))
        slot = str(FieldPath("custom", label=" ".join(flat((said,))) or "?"))
        yield Item(slot, "", tuple(map(normal, texts)), " ".join(texts), False, prop, -1)
    elif field.kind == "raw":
        text = prop.raw if prop.raw is not None else prop.text
        yield Item(f"custom/{name.upper()}", "", (text,), text, False, prop, -1, label)
    elif field.kind == "list":
        for at, component in enumerate(prop.components):
            for text in flat((component,)):
                yield Item(field.path or name, use, (key(text),), text, False, prop, at, label)
    elif field.kind == "parts":
        parts = [" ".join(flat((component,))) for component in prop.components]
        keys = [key(text.replace("\n", " ")) for text in parts]
        while keys and not keys[-1]:
            keys.pop()
        text = ", ".join(filter(None, parts))
        yield Item(field.path or name, use, tuple(keys), text, not field.many, prop, -1, label)
    else:
        text = prop.text
        if field.kind == "date":
            date = parse_iso(text)
            text = date.iso() if date is not None else text
        shown = f"({len(text):,} characters)" if field.kind == "media" else text
        yield Item(field.path or name, use, (key(text),), shown, not field.many, prop, -1, label)


def same(one: Item | None, other: Item | None, region: str = "") -> bool:
    """Whether two items say the same, for the same use."""
    if one is None or other is None:
        return one is other
    if (one.slot, one.use) != (other.slot, other.use):
        return False
    if one.key == other.key:
        return True
    return one.slot == "phone" and same_number(one.text, other.text, region)


def pairs_of(old: Sequence[Item], new: Sequence[Item], region: str = "") -> list[Pair]:
    """What of one state stands for what of the other, in the order of the old one, then of the new.

    Equal ones are set aside; then equal ones for another use; then, of each field, the one that is
    left on each side for the same use, and where a person has one at the most, whatever is left.
    """
    partner: dict[int, int] = {}
    taken: set[int] = set()

    def by(told: Callable[[Item], object], *, alone: bool = False) -> None:
        theirs: dict[object, list[int]] = {}
        for at, item in enumerate(new):
            if at not in taken:
                theirs.setdefault(told(item), []).append(at)
        mine: dict[object, list[int]] = {}
        for at, item in enumerate(old):
            if at not in partner:
                mine.setdefault(told(item), []).append(at)
        for key, ats in mine.items():
            there = theirs.get(key, [])
            if alone and (len(ats) != 1 or len(there) != 1):
                continue
            for at, other in zip(ats, there, strict=False):
                partner[at] = other
                taken.add(other)

    by(lambda item: (item.slot, item.use, item.key))
    by(lambda item: (item.slot, item.key))
    _same_numbers(old, new, partner, taken, region)
    by(lambda item: (item.slot, item.use), alone=True)
    by(lambda item: (item.slot,) if item.single else id(item))
    found = [Pair(item, new[partner[at]] if at in partner else None)
             for at, item in enumerate(old)]  # fmt: skip
    return found + [Pair(None, item) for at, item in enumerate(new) if at not in taken]


def _same_numbers(
    old: Sequence[Item], new: Sequence[Item], partner: dict[int, int], taken: set[int], region: str
) -> None:
    """Pair numbers that reach the same telephone, however they are written."""
    free = [at for at, item in enumerate(new) if item.slot == "phone" and at not in taken]
    for at, item in enumerate(old):
        if item.slot != "phone" or at in partner or not free:
            continue
        found = next((other for other in free
                      if same_number(item.text, new[other].text, region)), None)  # fmt: skip
        if found is not None:
            free.remove(found)
            partner[at] = found
            taken.add(found)


def put_together(
    contact: Contact, without: Sequence[Item], more: Sequence[tuple[Item, int]]
) -> Contact:
    """A person without some of their items, and with others, each with the origin that it gets.

    Where the name's parts change, a whole name that said the same as they did goes.
    """
    gone: dict[int, set[int]] = {}
    for item in without:
        gone.setdefault(id(item.prop), set()).add(item.at)
    named = any(item.slot.startswith("name/") and item.slot != FULL
                for item in (*without, *(item for item, _ in more)))  # fmt: skip
    parts = next((p for p in contact.properties if p.head.name == "n" and not p.head.phonetic
                  and p.size()), None)  # fmt: skip
    props: list[Property] = []
    for prop in contact.properties:
        if (
            named
            and prop.head.name == "fn"
            and (prop.rides or (parts is not None and says_same(prop.text, parts.value)))
        ):
            continue
        places = gone.get(id(prop), set())
        if -1 in places:
            continue
        if places:
            prop = prop.only(set(range(len(prop.components))) - places)
            if prop.head.field.kind == "list":
                prop = prop.entries([at for at in range(len(prop.components)) if at not in places])
            if not prop.size():
                continue
        props.append(prop)
    made = Contact(_labelling(props), contact.origin)
    for item, origin in more:
        _put(made, item, origin)
    return made


def _labelling(props: list[Property]) -> list[Property]:
    """Properties without the labels of groups in which nothing is left."""
    groups = {p.head.group.lower() for p in props if not is_label(p.head.name, p.head.group)}
    return [p for p in props if p.head.group.lower() in groups
            or not is_label(p.head.name, p.head.group)]  # fmt: skip


def _put(made: Contact, item: Item, origin: int) -> None:
    prop = item.prop
    if prop.head.name == "n":
        _put_part(made, item, origin)
        return
    value = prop.value if item.at < 0 else (prop.components[item.at],)
    raw = prop.raw if prop.head.field.kind == "raw" else None
    plain = head(prop.head.name, prop.head.params) if item.label else prop.head
    if raw is not None:
        made.properties.append(Property(prop.head, None, origin, raw))
    else:
        made.append(Property(plain, value, origin), item.label)


def _put_part(made: Contact, item: Item, origin: int) -> None:
    """Put a part of a name into the name that is there."""
    component = item.prop.components[item.at]
    sound = item.prop.head.phonetic
    for at, prop in enumerate(made.properties):
        if prop.head.name == "n" and prop.head.phonetic == sound:
            values = list(prop.components) + [""] * (item.at + 1 - len(prop.components))
            origins = prop.origins() + [0] * (len(values) - len(prop.components))
            values[item.at] = component
            origins[item.at] = (origin if isinstance(component, str)
                                else (origin,) * len(component))  # fmt: skip
            made.properties[at] = prop.replaced(tuple(values), tuple(origins))
            return
    parts: list[Component] = [""] * max(5, item.at + 1)
    parts[item.at] = component
    made.properties.insert(0, Property(item.prop.head, tuple(parts), origin))


def merged_address(
    old: Item, now: Item, there: Item, was_there: Item
) -> tuple[Property, list[str]] | None:
    """An address of which both sides changed other components: with both changes, and the parts
    that only the destination changed; None where they changed the same one, and otherwise."""
    if now.use != there.use and old.use not in (now.use, there.use):
        return None
    many = max(len(each.prop.components) for each in (old, now, there, was_there))
    parts: list[Component] = []
    origins: list[int | tuple[int, ...]] = []
    edited: list[str] = []
    for at in range(many):
        before, after = _component(old, at), _component(now, at)
        held, stands = _component(was_there, at), _component(there, at)
        source = _folded(before) != _folded(after)
        service = _folded(held) != _folded(stands)
        if source and service and _folded(after) != _folded(stands):
            return None
        taken, item = (stands, there) if service and not source else (after, now)
        if service and not source:
            edited.append(ADR_PARTS[at])
        parts.append(taken)
        origin: int | tuple[int, ...] = item.prop.origin_of(at)
        if isinstance(taken, tuple):
            origin = tuple(item.prop.origin_of(at, inner) for inner in range(len(taken)))
        origins.append(origin)
    made = now.prop.head if now.use != old.use or there.use == old.use else there.prop.head
    return Property(made, tuple(parts), tuple(origins)), edited


def _component(item: Item, at: int) -> Component:
    return item.prop.components[at] if at < len(item.prop.components) else ""


def _folded(component: Component) -> str:
    return folded(" ".join(flat((component,))))
