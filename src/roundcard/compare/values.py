"""What a person says, as values that can be compared, and what two persons say otherwise.

Equality is that of the table of fields. A whole name that says what its parts say is said by them;
what tells records apart (the uid) and the stamps of the formats (when a record was last changed, by
which program) say nothing of a person.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from hashlib import blake2b
from typing import Literal, NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.equality import email, folded, normal
from roundcard.card.equality import number as dialled
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS, by_path
from roundcard.card.head import Head
from roundcard.card.names import says_same
from roundcard.card.paths import FieldPath
from roundcard.values.cells import write_uses
from roundcard.values.dates import parse_iso
from roundcard.values.phones import same_number

STAMPS = frozenset({"rev", "prodid", "version", "created", "begin", "end", "uid"})
"""Properties that say nothing of a person."""
What = Literal["added", "removed", "changed", "moved", "spelled"]


class Said(NamedTuple):
    """One value of a person."""

    path: str
    """The field and the part, without uses."""
    use: str
    """Uses, or a label."""
    key: str
    """What is the same for all that say the same."""
    text: str
    place: int = 0
    """Of a structured value the number of the whole that it is a part of."""


class Difference(NamedTuple):
    """A value that one of two says, and the other does not, or otherwise."""

    what: What
    path: str
    before: str
    after: str


class _Plan(NamedTuple):
    """How properties with one head are looked at."""

    paths: tuple[str, ...]
    """By component; one for a value of one text."""
    use: str
    labelled: bool
    """Whether the label of the group counts."""
    key: Callable[[str], str]
    kind: str
    alone: bool
    """Whether it is counted at all."""


_plans: dict[Head, _Plan] = {}
_MOST_PLANS = 20_000


def said_by(contact: Contact) -> list[Said]:
    """The values of a person."""
    found: list[Said] = []
    parts: Property | None = None
    wholes: list[tuple[int, Property]] = []
    for number, prop in enumerate(contact.properties):
        made = prop.head
        plan = _plans.get(made) or _plan(made)
        if not plan.alone or prop.rides or not prop.size():
            continue
        if made.name == "fn":
            wholes.append((number, prop))
            continue
        if made.name == "n" and parts is None and not made.phonetic:
            parts = prop
        _add(found, contact, prop, plan, number)
    for number, prop in wholes:
        if parts is None or not says_same(prop.text, parts.value):
            _add(found, contact, prop, _plans.get(prop.head) or _plan(prop.head), number)
    return found


def _plan(made: Head) -> _Plan:
    field, name = made.field, made.name
    word = field.path or name
    names: tuple[str, ...] = {"n": N_PARTS, "adr": ADR_PARTS}.get(name, ())
    sound = "phonetic-" if made.phonetic else ""
    if name == "org":
        paths: tuple[str, ...] = ("org", *["org/unit"] * 60)
    elif names:
        paths = tuple(f"{word}/{sound}{part}" for part in names)
    elif field.kind == "raw":
        paths = (f"custom/{name.upper()}",)
    else:
        paths = (f"{word}/full" if name in ("fn", "label") else word,)
    use = "" if made.group or not field.uses else write_uses(made, "", field.path)
    kind = CUSTOM if name == CUSTOM else field.kind
    found = _Plan(paths, use, bool(made.group), _KEYS[field.equality], kind, name not in STAMPS)
    if len(_plans) < _MOST_PLANS:
        _plans[made] = found
    return found


def _add(found: list[Said], contact: Contact, prop: Property, plan: _Plan, number: int) -> None:
    """Add what a property says."""
    paths, use, kind = plan.paths, plan.use, plan.kind
    if plan.labelled:
        label = contact.label_of(prop)
        field = prop.head.field
        use = write_uses(prop.head, label, field.path) if field.uses else label
    if kind == CUSTOM:
        said, *values = prop.components
        path = str(FieldPath("custom", label=" ".join(flat((said,))) or "?"))
        text = " ".join(flat(tuple(values)))
        found.append(Said(path, "", normal(text), text))
    elif kind == "raw":
        text = prop.raw if prop.raw is not None else prop.text
        found.append(Said(paths[0], "", text, text))
    elif kind in ("parts", "list"):
        last, address = len(paths) - 1, prop.head.name == "adr"
        place = number + 1 if address or prop.head.name == "org" else 0
        for at, component in enumerate(prop.components):
            if not component:
                continue
            path = paths[min(at, last)]
            for text in (component,) if isinstance(component, str) else filter(None, component):
                for line in text.split("\n") if address and "\n" in text else (text,):
                    if line.strip():
                        found.append(Said(path, use, plan.key(line), line, place))
    elif kind == "media":
        text = prop.text
        found.append(Said(paths[0], use, _digest(text), f"({len(text):,} characters)"))
    else:
        text = prop.text
        if kind == "date":
            date = parse_iso(text)
            text = date.iso() if date is not None else text
        found.append(Said(paths[0], use, plan.key(text), text))


_KEYS: dict[str, Callable[[str], str]] = {
    "exact": str, "text": normal, "folded": folded, "number": dialled, "email": email,
}  # fmt: skip


def _digest(text: str) -> str:
    return blake2b(text.encode("utf-8", "replace"), digest_size=12).hexdigest()


_MASK = (1 << 64) - 1


def digest_of(said: Sequence[Said]) -> int:
    """A number that is the same for persons who say the same, in whatever order; within one run of
    the program."""
    return sum([hash(each[:3]) for each in said]) & _MASK


def spelling_of(said: Sequence[Said]) -> int:
    """A number that is the same for persons who say the same, spelled alike."""
    return sum([hash(each[:4]) for each in said]) & _MASK


def differences(old: Sequence[Said], new: Sequence[Said], region: str = "") -> list[Difference]:
    """What two persons say otherwise, field by field and value by value; `region` is the country of
    numbers without a code."""
    found: list[Difference] = []
    paths = dict.fromkeys(each.path for each in (*old, *new))
    before = {path: [each for each in old if each.path == path] for path in paths}
    after = {path: [each for each in new if each.path == path] for path in paths}
    for path in paths:
        found += _of_path(path, before[path], after[path], region)
    return found


def _of_path(path: str, old: list[Said], new: list[Said], region: str) -> Iterator[Difference]:
    """What is said otherwise under one path: equal ones aside, then the same under another use,
    then spelled otherwise, then changed, and what is left is removed and added."""
    left_old, left_new, same = _aside(old, new, lambda each: (each.key, each.use))
    for one, other in same:
        if one.text != other.text:
            yield Difference("spelled", path, one.text, other.text)
    left_old, left_new, moved = _aside(left_old, left_new, lambda each: (each.key,))
    for one, other in moved:
        yield Difference("moved", path, _with_use(one), _with_use(other))
    left_old, left_new, loose = _aside(
        left_old, left_new, lambda each: (folded(each.text), each.use)
    )
    for one, other in loose:
        yield Difference("spelled", path, one.text, other.text)
    if path == "phone":
        left_old, left_new, loose = _same_numbers(left_old, left_new, region)
        for one, other in loose:
            what: What = "spelled" if one.use == other.use else "moved"
            yield Difference(what, path, _with_use(one), _with_use(other))
    left_old, left_new, alike = _aside(left_old, left_new, lambda each: (each.use,), alone=True)
    for one, other in alike:
        yield Difference("changed", path, _with_use(one), _with_use(other))
    if len(left_old) == len(left_new) == 1 and not _many(path):
        yield Difference("changed", path, _with_use(left_old[0]), _with_use(left_new[0]))
        return
    for one in left_old:
        yield Difference("removed", path, _with_use(one), "")
    for other in left_new:
        yield Difference("added", path, "", _with_use(other))


def _many(path: str) -> bool:
    word = path.partition("/")[0]
    return word not in ("name", "custom") and by_path(word)[0].many if by_path(word) else False


def _aside(old: list[Said], new: list[Said], told: object, *, alone: bool = False) -> tuple[
    list[Said], list[Said], list[tuple[Said, Said]]
]:  # fmt: skip
    """Pairs of the same key, and what is left of both; with `alone` only where one stands on each
    side."""
    assert callable(told)
    by_key: dict[object, list[Said]] = {}
    for each in new:
        by_key.setdefault(told(each), []).append(each)
    counts: dict[object, int] = {}
    for each in old:
        counts[told(each)] = counts.get(told(each), 0) + 1
    pairs, left = [], []
    for each in old:
        there = by_key.get(told(each))
        if there and (not alone or (len(there) == 1 and counts[told(each)] == 1)):
            pairs.append((each, there.pop(0)))
        else:
            left.append(each)
    taken = {id(other) for _, other in pairs}
    return left, [each for each in new if id(each) not in taken], pairs


def _same_numbers(
    old: list[Said], new: list[Said], region: str
) -> tuple[list[Said], list[Said], list[tuple[Said, Said]]]:
    """Numbers that reach the same telephone, however they are written."""
    pairs, left = [], []
    free = list(new)
    for one in old:
        same = next((other for other in free if same_number(one.text, other.text, region)), None)
        if same is None:
            left.append(one)
        else:
            free.remove(same)
            pairs.append((one, same))
    return left, free, pairs


def _with_use(said: Said) -> str:
    return f"{said.text} ({said.use})" if said.use else said.text
