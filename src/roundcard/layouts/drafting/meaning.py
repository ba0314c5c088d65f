"""What the words of one heading say together."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from roundcard.card.paths import FieldPath, parse, takes_many, uses_of

Sort = Literal["field", "custom", "use", "type", "preferred", "part", "unknown"]
"""``use``: the heading names a use and no field; ``type``: it stands over the uses of a
neighbour; ``part``: day, month or year of something."""

_WITH_NAME = ("name/", "nickname", "org", "category", "related/", "address/", "chat", "title",
              "social")  # fmt: skip
"""What a heading may mean that says the word "name" beside it."""
_AT_WORK = ("email", "phone", "url", "address", "chat")
"""What belongs to work where the organisation is named beside it."""
_WORK_ANYWAY = ("org", "org/unit", "title", "role")
_BEFORE_ADDRESS = ("email", "url", "chat", "social")
"""What "address" may follow without a postal address being meant."""
_PREFERRED = ("email", "phone", "address", "url", "chat")
_PLAIN_POSITION = ("category", "note", "nickname", "related", "photo")
"""Fields of which a contact has several without an order that matters."""
_ORDER = ("address/postcode", "address/locality", "address/region", "address/country")


@dataclass(frozen=True, slots=True)
class Meant:
    """One thing that a heading may mean."""

    sort: Sort
    paths: tuple[FieldPath, ...] = ()
    """Where the cells go; several where one cell holds several things."""
    cost: float = 0.0
    """How far-fetched it is; 0 for a heading that says just this."""
    uses: tuple[str, ...] = ()
    position: int = 0
    part: str = ""
    joined: bool = False
    """Whether the cell is put behind that of another column (a house number)."""
    bare: bool = False
    """Whether the heading says number, and nothing of a house."""
    guessed: str = ""
    """The known word that was taken for one that is mistyped or cut short."""

    @property
    def path(self) -> FieldPath | None:
        """Where the cells go, where it is one place."""
        return self.paths[0] if len(self.paths) == 1 else None

    def at_place(self, position: int) -> Meant:
        """The same at a place among several, where it has none of its own."""
        if not self.paths or self.position or any(path.position or path.uses for path in
                                                  self.paths):  # fmt: skip
            return self
        paths = tuple(replace(path, position=position) for path in self.paths)
        return replace(self, position=position, paths=paths)

    def dearer(self, cost: float) -> Meant:
        """The same, more far-fetched."""
        return replace(self, cost=self.cost + cost)


@dataclass(slots=True)
class _Said:
    """The words of a heading by their sort."""

    fields: list[str]
    uses: list[str]
    positions: list[int]
    part: str = ""
    kind: str = ""
    cost: float = 0.0


def together(keys: Sequence[str], numbers: Sequence[int]) -> Meant | None:
    """What the keys of a heading's words mean together; None where they do not go together.

    `numbers` are the numbers that stand in it.
    """
    custom = [key for key in keys if key == "custom"]
    if "is/someone-else" in keys:
        return Meant("custom", cost=0.0)
    said = _sorted(keys, numbers)
    if said is None:
        return None
    if custom:
        return Meant("custom", cost=0.0 if not said.fields else 0.6)
    if not said.fields:
        return _without_field(said)
    found = _one(said.fields)
    if found is None:
        return None
    if found == "custom":
        return Meant("custom", cost=0.0)
    paths, cost, at_work = found
    if paths == ["address/house-number"] and len(keys) > 1:
        return None  # a number of something else
    said.cost += cost
    if at_work and not said.uses:
        said.uses = ["work"]
    if len(paths) > 1:
        placed = [_placed(path, said) for path in paths]
        good = [meant.paths[0] for meant in placed if meant is not None]
        return Meant("field", tuple(good), said.cost) if len(good) == len(paths) else None
    return _placed(paths[0], said)


def _sorted(keys: Sequence[str], numbers: Sequence[int]) -> _Said | None:
    said = _Said([], [], list(numbers))
    for key in keys:
        family, _, word = key.partition("/")
        if key in ("custom", "is/filler"):
            continue
        if family == "use":
            if word not in said.uses:
                said.uses.append(word)
        elif family == "position":
            said.positions.append(int(word))
        elif family == "part":
            if said.part and said.part != word:
                return None
            said.part = word
        elif family == "is":
            said.kind = word
        elif family == "phone" and word and word != "1/extension":
            said.fields.append("phone")
            if word not in said.uses:
                said.uses.append(word)
        else:
            said.fields.append(key)
    said.fields = list(dict.fromkeys(said.fields))
    said.positions = list(dict.fromkeys(said.positions))
    if len(said.positions) > 1 or any(not 0 < number < 10 for number in said.positions):
        return None
    if len({use for use in said.uses if use in ("home", "work", "other")}) > 1:
        return None
    return said


def _without_field(said: _Said) -> Meant | None:
    position = said.positions[0] if said.positions else 0
    uses = tuple(said.uses)
    if said.kind:
        return Meant("preferred" if said.kind == "preferred" else "type", uses=uses,
                     position=position, cost=0.3)  # fmt: skip
    if said.part and not uses:
        return Meant("part", part=said.part, position=position, cost=0.3)
    if uses:
        return Meant("use", uses=uses, position=position, cost=0.2)
    return None


_Found = tuple[list[str], float, bool]
"""Paths, what they cost, and whether they are of the place of work."""


def _one(fields: list[str]) -> _Found | Literal["custom"] | None:
    """The one thing that several fields in a heading mean together."""
    if len(fields) == 1:
        return [fields[0]], 0.0, False
    there = set(fields)
    if "name" in there and len(there) == 2:
        other = next(field for field in fields if field != "name")
        if other.startswith(_WITH_NAME):
            return [other], 0.1, False
        return None
    if all(field == "name" or field.startswith("name/") for field in there):
        parts = [field for field in fields if field not in ("name", "name/full")]
        return (parts if len(parts) == 1 else ["name/full"]), 0.1, False
    if any(field.startswith("related/") for field in there):
        return "custom"
    if there & {"address", "address/full"}:
        others = [field for field in fields if field not in ("address", "address/full")]
        if not others:
            return ["address/full"], 0.0, False
        if len(others) == 1 and others[0].startswith(_BEFORE_ADDRESS):
            return others, 0.0, False
        if all(other.startswith("address/") for other in others):
            return _one(others)
    if "org" in there:
        others = [field for field in fields if field not in ("org", "name")]
        if len(others) == 1 and others[0] in _WORK_ANYWAY:
            return others, 0.1, False
        rest = _one(others)
        if isinstance(rest, tuple) and rest[0][0].partition("/")[0] in _AT_WORK:
            return rest[0], rest[1] + 0.1, True
        return None
    if all(field.startswith("address/") for field in there):
        return _addresses(fields)
    if "birthday" in there:
        return "custom"
    if there == {"title", "role"}:
        return ["title"], 0.1, False
    if "note" in there:
        return ["note"], 1.0, False
    return None


def _addresses(fields: list[str]) -> _Found | None:
    there = set(fields)
    if there <= {"address/street", "address/house-number", "address/line1"}:
        return ["address/street"], 0.0, False
    if there <= {"address/full", "address/street", "address/extended", "address/line2"}:
        return ["address/street"], 0.6, False
    if there & {"address/street", "address/full", "address/line1"}:
        return ["address/full"], 0.2, False
    if len(there) == 2 and there <= set(_ORDER):
        return fields, 0.1, False
    return None


def _placed(key: str, said: _Said) -> Meant | None:
    """The path of a field with the uses, the position and the part that stand beside it."""
    joined = key == "address/house-number"
    if key == "name":
        plain = not (said.uses or said.positions or said.part or said.kind)
        cost = said.cost + (0.0 if plain else 0.9)
        return Meant("field", (FieldPath("name", part="full"),), cost, part="name")
    bare = key in ("address", "address/full")
    base = FieldPath("address", part="full") if bare else parse("address/street" if joined else key)
    cost = said.cost
    if said.part:
        if base.field not in ("birthday", "anniversary") or base.part:
            return None
        base = replace(base, part=said.part)
    uses, cost = _uses(base, said.uses, cost)
    if uses is None:
        return None
    position = said.positions[0] if said.positions else 0 if uses else base.position
    if said.positions:
        if base.part == "unit":
            base, position = replace(base, number=position), 0
        elif not takes_many(base.field):
            position, cost = 0, cost + (0.2 if position == 1 else 2.0)
        elif base.field in _PLAIN_POSITION:
            position = 0
    if said.kind:
        if said.kind == "preferred" and base.field not in _PREFERRED:
            return None
        if base.part not in ("", "full") or not uses_of(base.field):
            return None
        return Meant("preferred" if said.kind == "preferred" else "type",
                     (FieldPath(base.field, position=position),), cost, uses, position)  # fmt: skip
    part = "address" if key == "address" else "whole" if bare else "number" if joined else ""
    path = replace(base, uses=uses, position=position)
    return Meant("field", (path,), cost, part=part, joined=joined)


def _uses(
    base: FieldPath, said: Iterable[str], cost: float
) -> tuple[tuple[str, ...] | None, float]:
    known = uses_of(base.field)
    if base.field == "related":
        return (None if list(said) else base.uses), cost
    uses = [use for use in said if use in known]
    strange = [use for use in said if use not in known]
    if strange:
        plain = set(strange) <= {"home", "work", "other"}
        if not plain:
            return None, cost
        path = f"{base.field}/{base.part}".rstrip("/")
        cost += 0.1 if path in _WORK_ANYWAY and strange == ["work"] else 0.8
    if "fax" in uses or "pager" in uses:
        uses = [use for use in uses if use != "cell"]
    return tuple(use for use in known if use in {*base.uses, *uses}), cost
