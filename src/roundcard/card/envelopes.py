"""Addresses as they stand on an envelope, and the addresses in parts that they belong to.

The text is a property of its own here, ``label``, as in RFC 2426 section 3.2.2; in RFC 6350 section
6.3.1 it is a parameter of the address. So it is a value wherever it stands, with a fate of its own.
"""

from __future__ import annotations

from collections.abc import Sequence

from roundcard.card.contact import Property
from roundcard.card.head import Head

_OF_THE_ADDRESS = frozenset({"type", "pref"})


def paired(props: Sequence[Property]) -> dict[int, int]:
    """Which text belongs to which address in parts, by their places.

    A text belongs to the address right before it, else to the only one, if both are for the same
    uses, and stand in the same group.
    """
    texts = [at for at, prop in enumerate(props) if prop.head.name == "label"]
    if not texts:
        return {}
    found: dict[int, int] = {}
    free = [at for at, prop in enumerate(props) if prop.head.name == "adr" and prop.size()]
    for at in texts:
        if at - 1 in free and _belongs(props[at].head, props[at - 1].head):
            found[at] = at - 1
            free.remove(at - 1)
    rest = [at for at in texts if at not in found]
    for at in rest:
        near = [each for each in free if _belongs(props[at].head, props[each].head)]
        others = [other for other in rest if _same_place(props[other].head, props[at].head)]
        if len(near) == 1 and len(others) == 1:
            found[at] = near[0]
            free.remove(near[0])
    return found


def _same_place(one: Head, other: Head) -> bool:
    return (one.uses, one.group.lower(), one.altid) == (
        other.uses,
        other.group.lower(),
        other.altid,
    )


def _belongs(text: Head, address: Head) -> bool:
    """Whether nothing that the text's head says is lost where the address takes it in."""
    return _same_place(text, address) and all(
        key in _OF_THE_ADDRESS or (key, values) in address.params for key, values in text.params
    )
