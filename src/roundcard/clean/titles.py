"""The rules for titles and suffixes that stand in the columns of given and family names."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from operator import itemgetter

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import N_PARTS
from roundcard.card.head import Head, Value
from roundcard.clean.rule import Around, Reshaped, Reshaping, marked, with_names
from roundcard.clean.splitting import (
    Split,
    may_begin_with_title,
    may_end_with_suffix,
    suffixes_behind,
    titles_before,
)

_FAMILY, _GIVEN, _PREFIX, _SUFFIX = map(N_PARTS.index, ("family", "given", "prefix", "suffix"))
_LEAST = 5
Parting = Callable[[str], tuple[str, str]]
"""What stands in a name's column that is no name, and the name; the first is mostly empty."""
Hint = Callable[[str], bool]
"""Whether it is worth asking: cheap, and never wrong where it says no."""


def titles_apart(contact: Contact, _: Around) -> Iterator[Reshaped]:
    """A title before a given or a family name goes to the titles, where it is surely one."""
    yield from _apart(contact, (_GIVEN, _FAMILY), _PREFIX, titles_before)


def suffixes_apart(contact: Contact, _: Around) -> Iterator[Reshaped]:
    """A suffix behind a family name goes to the suffixes, where it is surely one."""
    yield from _apart(contact, (_FAMILY,), _SUFFIX, suffixes_behind)


def _apart(
    contact: Contact, columns: Sequence[int], place: int, parting: Parting
) -> Iterator[Reshaped]:
    for at, prop in enumerate(contact.properties):
        if prop.head.name != "n" or prop.head.phonetic or _text(prop, place) is None:
            continue
        made, moved = prop, list[tuple[int, str]]()
        for column in columns:
            text = _text(prop, column) or ""
            said, name = parting(text)
            if said:
                made = _moved(made, column, place, said, name)
                moved.append((column, text))
        if moved:
            shown = [(N_PARTS[each], _text(made, each) or "")
                     for each in (place, *[column for column, _ in moved])]  # fmt: skip
            column, before = moved[0]
            path = f"name/{N_PARTS[column]}"
            yield Reshaped(at, (made,), path, before, Split(tuple(shown)).shown())


def _text(prop: Property, at: int) -> str | None:
    """One part of a name; None where several texts stand there."""
    found = prop.components[at] if at < len(prop.components) else ""
    return found if isinstance(found, str) else None


def _moved(prop: Property, column: int, place: int, said: str, name: str) -> Property:
    """A name with what was said in one column put behind what stands in the place for it."""
    missing = max(_LEAST - len(prop.components), 0)
    value = [*prop.components, *[""] * missing]
    origins = [*prop.origins(), *[0] * missing]
    there = (_text(prop, place) or "").split()
    fresh = [word for word in said.split() if word not in there]
    if fresh:
        value[place] = " ".join([*there, *fresh])
        origins[place] = marked(prop.origin_of(place if there else column))
    value[column], origins[column] = name, marked(prop.origin_of(column))
    return prop.replaced(tuple(value), tuple(origins))


def _may_be_apart(
    columns: Sequence[int], hint: Hint, parting: Parting, heads: Sequence[Head],
    rides: Sequence[bool], values: Sequence[Sequence[Value]],
) -> Iterable[int]:  # fmt: skip
    for head, none, names in zip(heads, rides, values, strict=True):
        if head.name != "n" or none:
            continue
        widest = min(map(len, names), default=0)
        for column in columns:
            texts = (list(map(itemgetter(column), names)) if column < widest else
                     [value[column] if column < len(value) else "" for value in names])  # fmt: skip
            different = {text for text in set(texts) if " " in text or not isinstance(text, str)}
            found = {
                text for text in different
                if not isinstance(text, str) or (hint(text) and parting(text)[0])
            }  # fmt: skip
            if found:
                yield from (at for at, text in enumerate(texts) if text in found)


def _rule(
    name: str, what: str, work: Callable[[Contact, Around], Iterator[Reshaped]],
    columns: Sequence[int], hint: Hint, parting: Parting,
    examples: tuple[tuple[str, str, str], ...],
) -> Reshaping:  # fmt: skip
    fields = tuple(f"name/{N_PARTS[at]}" for at in columns)
    return Reshaping(name, fields, what, examples, work, with_names("n"),
                     may=partial(_may_be_apart, columns, hint, parting), grows=True)  # fmt: skip


TITLES = _rule(
    "name-titles", "titles before a given or family name, put where titles belong",
    titles_apart, (_GIVEN, _FAMILY), may_begin_with_title, titles_before,
    (("name/given", "Dr. Edda", "prefix Dr. · given Edda"),
     ("name/given", "Major Tom", "Major Tom")),
)  # fmt: skip
SUFFIXES = _rule(
    "name-suffixes", "suffixes behind a family name, put where suffixes belong",
    suffixes_apart, (_FAMILY,), may_end_with_suffix, suffixes_behind,
    (("name/family", "Weir OBE", "suffix OBE · family Weir"),
     ("name/family", "Weir Bo", "Weir Bo")),
)  # fmt: skip
