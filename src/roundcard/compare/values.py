"""What a person says, as values that can be compared, and what two persons say otherwise.

Equality is that of the table of fields. A whole name that says what its parts say is said by them;
stamps of the formats (when a record was last changed, by which program) say nothing of a person.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from hashlib import blake2b
from typing import Literal, NamedTuple

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.equality import folded, identity, key
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS, by_path
from roundcard.card.names import says_same
from roundcard.card.paths import FieldPath
from roundcard.values.cells import write_uses
from roundcard.values.dates import parse_iso

_STAMPS = frozenset({"rev", "prodid", "version", "created", "begin", "end"})
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


def said_by(contact: Contact) -> list[Said]:
    """The values of a person."""
    parts = next((prop for prop in contact.properties if prop.head.name == "n" and prop.size()
                  and not prop.head.phonetic), None)  # fmt: skip
    found: list[Said] = []
    for number, prop in enumerate(contact.properties):
        name = prop.head.name
        if prop.rides or name in _STAMPS or not prop.size():
            continue
        if name == "fn" and parts is not None and says_same(prop.text, parts.value):
            continue
        found += _of(contact, prop, number)
    return found


def _of(contact: Contact, prop: Property, number: int) -> Iterator[Said]:
    made, field = prop.head, prop.head.field
    label = contact.label_of(prop)
    use = write_uses(made, label, field.path) if field.uses else label
    if made.name == CUSTOM:
        said, *values = prop.components
        path = str(FieldPath("custom", label=" ".join(flat((said,))) or "?"))
        yield Said(path, "", _key(" ".join(flat(tuple(values))), "text"), prop.text)
        return
    if field.kind == "raw":
        text = prop.raw if prop.raw is not None else prop.text
        yield Said(f"custom/{made.name.upper()}", "", text, text)
        return
    word = field.path or made.name
    if field.kind in ("parts", "list"):
        names = {"n": N_PARTS, "adr": ADR_PARTS}.get(made.name, ())
        sound = "phonetic-" if made.phonetic else ""
        for at, component in enumerate(prop.components):
            texts = [line for text in flat((component,)) for line in _lines(text, made.name)]
            part = names[at] if at < len(names) else "unit" if made.name == "org" and at else ""
            for text in texts:
                path = f"{word}/{sound}{part}" if part else word
                place = number + 1 if made.name in ("adr", "org") else 0
                yield Said(path, use, _key(text, field.equality), text, place)
        return
    text = prop.text
    if field.kind == "date":
        date = parse_iso(text)
        text = date.iso() if date is not None else text
    path = "name/full" if made.name == "fn" else f"{word}/full" if made.name == "label" else word
    told = identity(text) if made.name == "uid" else _key(text, field.equality)
    if field.kind == "media":
        told, text = _digest(text), f"({len(text):,} characters)"
    yield Said(path, use, told, text)


def _lines(text: str, name: str) -> Sequence[str]:
    return [line for line in text.split("\n") if line.strip()] if name == "adr" else [text]


def _key(text: str, equality: str) -> str:
    made = key(text, equality)  # type: ignore[arg-type]
    return made if isinstance(made, str) else text


def _digest(text: str) -> str:
    return blake2b(text.encode("utf-8", "replace"), digest_size=12).hexdigest()


def digest_of(said: Sequence[Said]) -> int:
    """A number that is the same for persons who say the same, in whatever order."""
    told = sorted(f"{each.path}\x1f{each.use}\x1f{each.key}" for each in said if each.path != "uid")
    return int.from_bytes(blake2b("\x1e".join(told).encode("utf-8", "replace"),
                                  digest_size=8).digest(), "big")  # fmt: skip


def differences(old: Sequence[Said], new: Sequence[Said]) -> list[Difference]:
    """What two persons say otherwise, field by field and value by value."""
    found: list[Difference] = []
    paths = dict.fromkeys(each.path for each in (*old, *new))
    before = {path: [each for each in old if each.path == path] for path in paths}
    after = {path: [each for each in new if each.path == path] for path in paths}
    for path in paths:
        found += _of_path(path, before[path], after[path])
    return found


def _of_path(path: str, old: list[Said], new: list[Said]) -> Iterator[Difference]:
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


def _with_use(said: Said) -> str:
    return f"{said.text} ({said.use})" if said.use else said.text
