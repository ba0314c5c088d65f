"""The rules for whole names: split into their parts, and made anew from them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.equality import folded
from roundcard.card.fields import N_PARTS
from roundcard.card.head import Head, Value, head
from roundcard.card.names import joined_name, says_same
from roundcard.card.origin import DERIVED
from roundcard.clean.rule import Around, Derived, Reshaped, Reshaping, marked, with_names
from roundcard.clean.splitting import NOTHING, Split, split_name

_PATH = "name/full"
_FIVE = N_PARTS[:5]


def name_split(contact: Contact, around: Around) -> Iterator[Reshaped]:
    """The parts of a whole name beside it, where the contact has none; derived, not read."""
    whole = _split_needed(contact)
    if whole is None:
        return
    found = split_name(
        whole.text, around.region, around.orders.get(_PATH, ""), known=around.known_names
    )
    end = len(contact.properties)
    if found.doubt:
        yield Reshaped(end, (), _PATH, whole.text, whole.text, found.doubt)
    if not found.parts:
        return
    said = dict(found.parts)
    size = 6 if "family2" in said else 5
    value = tuple(said.get(part, "") for part in N_PARTS[:size])
    empty = next((at for at, p in enumerate(contact.properties) if p.head.name == "n"), end)
    made = Property(head("n"), value, DERIVED)
    yield Reshaped(empty, (made,), _PATH, whole.text, found.shown())


def _split_needed(contact: Contact) -> Property | None:
    """The whole name to split; None where there is none, or parts are there, or the contact is
    no person."""
    whole: Property | None = None
    for prop in contact.properties:
        name = prop.head.name
        if name == "n" and any(flat(prop.components)):
            return None
        if name == "fn" and whole is None and not prop.rides:
            whole = prop
        elif name == "kind" and prop.text.lower() != "individual":
            return None
    if whole is None or not _has_parts(whole.text):
        return None
    org = contact.first("org")
    return None if org is not None and _is_org(whole.text, org.components) else whole


def _has_parts(text: str) -> bool:
    """Whether a whole name may be split at all."""
    return " " in text.strip() or not text.isascii()


def name_join(contact: Contact, _: Around) -> Iterator[Reshaped]:
    """A whole name that only says its parts in another order is written in the usual one."""
    parts = next((p for p in contact.all("n") if not p.head.phonetic), None)
    for at, prop in enumerate(contact.properties):
        if prop.head.name != "fn" or prop.rides or parts is None:
            continue
        made = joined_name(parts.value)
        if made and made != prop.text and says_same(prop.text, parts.value):
            new = prop.replaced(made, marked(prop.origin_of(0)))
            yield Reshaped(at, (new,), _PATH, prop.text, made)
        return


def _may_be_split(
    heads: Sequence[Head], rides: Sequence[bool], columns: Sequence[Sequence[Value]]
) -> Iterable[int]:
    there = {head.name for head, none in zip(heads, rides, strict=True) if not none}
    return () if "n" in there or "fn" not in there else range(len(columns[0]))


def _parts_beside(
    heads: Sequence[Head], rides: Sequence[bool], columns: Sequence[Sequence[Value]],
    around: Around,
) -> Derived | None:  # fmt: skip
    """The parts of many whole names; those that are in doubt are left to `name_split`."""
    wholes, parts, kinds, orgs = (_values_of(name, heads, rides) for name in _TELLING)
    if len(wholes) != 1 or parts or len(kinds) > 1 or len(orgs) > 1:
        return None
    if any(head.name == "n" for head in heads):  # an empty one takes the parts
        return None
    names = columns[wholes[0]]
    order = around.orders.get(_PATH, "")
    known: dict[Value, tuple[str, ...] | None] = {}
    for text in set(names):
        found = NOTHING
        if _has_parts(str(text)):
            found = split_name(str(text), around.region, order, known=around.known_names)
        said = dict(found.parts)
        odd = found.doubt or "family2" in said or not text
        known[text] = None if odd else tuple([said.get(part, "") for part in _FIVE] if said else ())
    values = [known[text] for text in names]
    if kinds:
        other = {kind for kind in set(columns[kinds[0]]) if str(kind).lower() not in _OF_PERSONS}
        values = [() if kind in other else value
                  for kind, value in zip(columns[kinds[0]], values, strict=True)]  # fmt: skip
    if orgs:
        every = zip(names, columns[orgs[0]], values, strict=True)
        values = [() if value and _is_org(text, org) else value for text, org, value in every]
    return Derived(head("n"), wholes[0], values)


_OF_PERSONS = ("", "individual")


_TELLING = ("fn", "n", "kind", "org")


def _values_of(name: str, heads: Sequence[Head], rides: Sequence[bool]) -> list[int]:
    """Which properties of a name are values of their own."""
    return [at for at, (head, none) in enumerate(zip(heads, rides, strict=True))
            if head.name == name and not none]  # fmt: skip


def _is_org(whole: Value, org: Value) -> bool:
    """Whether a whole name is that of the organisation."""
    units = (org,) if isinstance(org, str) else org
    return folded(str(whole)) in map(folded, flat(units))


def _shown(parts: tuple[str, ...]) -> str:
    """The parts in the order in which they are spoken."""
    family, given, additional, prefix, suffix = parts
    said = (("prefix", prefix), ("given", given), ("additional", additional), ("family", family),
            ("suffix", suffix))  # fmt: skip
    return Split(tuple((part, text) for part, text in said if text)).shown()


SPLIT = Reshaping(
    "name-split", ("name/full",), "whole names in their parts, where that is sure",
    (("name/full", "Weir, Dr Ada", "prefix Dr · given Ada · family Weir"),
     ("name/full", "Bob & Peggy Weir", "Bob & Peggy Weir"),
     ("name/full", "Withy Canal Trust", "Withy Canal Trust")),
    name_split, with_names("fn"), may=_may_be_split, beside=_parts_beside, shown=_shown,
    grows=True,
)  # fmt: skip
JOIN = Reshaping(
    "name-join", ("name/full",), "whole names made anew from their parts, in the usual order",
    (("name/full", "Weir, Ada", "Ada Weir"),), name_join, with_names("n", "fn"),
    usual=False,
)  # fmt: skip
