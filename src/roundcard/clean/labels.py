"""The rule for labels: what says a usual use in any language becomes that use."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import PHONE_USES, is_label
from roundcard.card.head import Head, typed, with_params
from roundcard.clean.rule import Around, Reshaped, Reshaping, marked
from roundcard.layouts.drafting.cells import cell_kind
from roundcard.layouts.drafting.heading_parser import uses_said

_FIELDS = ("tel", "email", "adr", "url", "impp")


@lru_cache(maxsize=4096)
def usual_uses(label: str) -> tuple[str, ...]:
    """The uses that a whole label says, in any language of the vocabulary; none where it says
    more, or something else."""
    said = label.strip().casefold()
    if said in PHONE_USES:
        return (said,)
    return uses_said(label) if cell_kind(label) == "use" else ()


def labels(contact: Contact, _: Around) -> Iterator[Reshaped]:
    """Labels that say a usual use ("Handy", "travail") become that use (RFC 6350, TYPE)."""
    mine = contact.labels()
    gone: set[str] = set()
    for at, prop in enumerate(contact.properties):
        head = prop.head
        if head.name not in _FIELDS or prop.rides:
            continue
        label = mine.get(head.group.lower(), "") if head.group else ""
        told = _known(label, head)
        plain = [use for use in head.uses if use not in head.field.uses and use != "pref"]
        words = {use: _known(use, head) for use in plain}
        if not told and not any(words.values()):
            continue
        kept = [use for use in head.uses if not words.get(use)]
        found = [*told, *(use for uses in words.values() for use in uses)]
        made = _head(head, tuple(dict.fromkeys([*kept, *found])), alone=bool(told))
        if told:
            gone.add(head.group.lower())
        before = ", ".join([label] * bool(told) + [use for use in plain if words[use]])
        yield Reshaped(at, (_with_head(prop, made),), head.field.path, f"{before}: {prop.text}",
                       f"{', '.join(found)}: {prop.text}")  # fmt: skip
    for at, prop in enumerate(contact.properties):
        group = prop.head.group.lower()
        if group in gone and is_label(prop.head.name, prop.head.group):
            yield Reshaped(at, (), "", "", "")


def _speak(heads: Sequence[Head]) -> bool:
    """Whether there may be a label, or a use that is not usual."""
    return any(
        head.name in _FIELDS
        and (
            bool(head.group)
            or any(use not in head.field.uses and use != "pref" for use in head.uses)
        )
        for head in heads
    )


def _known(label: str, head: Head) -> tuple[str, ...]:
    uses = usual_uses(label) if label else ()
    return uses if all(use in head.field.uses for use in uses) else ()


def _head(head: Head, uses: tuple[str, ...], *, alone: bool) -> Head:
    """The head with other uses; out of its group where its label is gone."""
    made = with_params(head, type=uses)
    if not alone:
        return made
    plain = typed(head.name, uses)
    others = {key: values for key, values in head.params if key != "type"}
    return with_params(plain, **others)


def _with_head(prop: Property, made: Head) -> Property:
    if isinstance(prop.origin, int):
        return Property(made, prop.value, marked(prop.origin))
    marks = tuple(
        marked(each) if isinstance(each, int) else tuple(map(marked, each))
        for each in prop.origins()
    )
    return Property(made, prop.value, marks)


RULE = Reshaping(
    "labels", ("phone", "email", "address", "url", "chat"), "labels in the usual words",
    (("phone", "Handy: 07700 900001", "cell: 07700 900001"),
     ("phone", "lock cottage: 01632 960001", "lock cottage: 01632 960001")),
    labels, _speak,
)  # fmt: skip
