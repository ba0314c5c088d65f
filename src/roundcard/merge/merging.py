"""One contact made of several, with what became of each value."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from roundcard.card.contact import Contact, Property
from roundcard.card.equality import folded
from roundcard.card.fields import CUSTOM, is_label
from roundcard.card.head import head, with_params
from roundcard.card.origin import marked
from roundcard.match.names import words_of
from roundcard.merge.policy import Losers, Member, Policy, order_of, winner_of
from roundcard.merge.saying import better, covers, same, spelling, told, united

_NAMES = ("n", "fn", "sort-string")
_TWICE, _LESS = "the same in another record", "said in full in another record"
_FILLING = (2, 3, 4, 5, 6)
"""Parts of a name that fill a gap: additional, prefix, suffix, second family name, generation."""
_ENTRIES = frozenset(("categories", "nickname"))
_FATES = {
    "uid": "the identity of a record that was merged",
    "rev": "an older date of change",
    "created": "a later date of making",
    "kind": "what kind of contact it is",
}
"""What becomes of the record's own properties that lose."""


class Folded(NamedTuple):
    """A value that is said by another one."""

    prop: Property
    member: int
    why: str


class Left(NamedTuple):
    """A value that lost to another one."""

    prop: Property
    member: int
    why: str
    taken: Property | None
    """What was taken instead."""


@dataclass(slots=True)
class Merged:
    """One contact of several."""

    contact: Contact
    sources: list[list[int]] = field(default_factory=list)
    """For each property of the contact the members that said it."""
    folded: list[Folded] = field(default_factory=list)
    left: list[Left] = field(default_factory=list)
    kept: list[Left] = field(default_factory=list)
    """Losers that stand in the contact as an extension or a note, as the policy says."""

    @property
    def conflicts(self) -> list[Left]:
        """Single values that differ, of which one was taken."""
        return [each for each in (*self.left, *self.kept) if each.taken is not None]


def merged(members: Sequence[Member], policy: Policy) -> Merged:
    """One contact of several that are the same person."""
    return _Merging(members, policy).run()


class _Merging:
    def __init__(self, members: Sequence[Member], policy: Policy) -> None:
        self.members = members
        self.policy = policy
        self.region = policy.region
        self.order = order_of(members, policy)
        self.out = Merged(Contact([], members[0].contact.origin))
        self.parts = _told_apart([members[at].contact for at in self.order])
        """The properties of each member, in `order`, with groups of their own."""
        self.props: list[Property] = []
        self.said_by: list[list[int]] = []
        self.book = any(member.book for member in members)

    def run(self) -> Merged:
        """Names first, then what there is one of, then what there are many of."""
        self.names()
        for name in self.in_order(many=False):
            self.single(name)
        for name in self.in_order(many=True):
            self.several(name)
        self.riders()
        self.losers(self.policy.losers)
        self.out.contact.properties = self.props
        self.out.sources = self.said_by
        return self.out

    def in_order(self, *, many: bool) -> list[str]:
        """Names of properties that there are one, or many of, as they come."""
        found = dict.fromkeys(
            prop.head.name
            for props in self.parts
            for prop in props
            if prop.head.field.many is many and not prop.rides and prop.head.name not in _NAMES
        )
        return list(found)

    def of(self, name: str) -> Iterator[tuple[int, Property]]:
        """All values of a property, with the member that has each."""
        for at, props in zip(self.order, self.parts, strict=True):
            for prop in props:
                if prop.head.name == name and not prop.rides:
                    yield at, prop

    def keep(self, prop: Property, member: int) -> int:
        """Take a property; its place."""
        self.props.append(prop)
        self.said_by.append([member])
        return len(self.props) - 1

    def fold(self, prop: Property, member: int, why: str, into: int) -> None:
        """A property is said by one that is taken."""
        self.out.folded.append(Folded(prop, member, why))
        if member not in self.said_by[into]:
            self.said_by[into].append(member)

    def leave(self, prop: Property, member: int, taken: Property | None, why: str = "") -> None:
        """A property loses."""
        word = prop.head.field.path or prop.head.name
        why = why or f"{word}: another one was taken (kept in the merge record)"
        self.out.left.append(Left(prop, member, why, taken))

    # names

    def names(self) -> None:
        """The whole name and its parts of one member; what others say of it fills gaps."""
        have = {
            at: [prop for prop in props if prop.head.name in _NAMES]
            for at, props in zip(self.order, self.parts, strict=True)
        }
        have = {at: props for at, props in have.items() if any(p.size() for p in props)}
        if not have:
            return
        most = {at: max(props, key=lambda prop: prop.size()) for at, props in have.items()}
        winner = self.spelled(winner_of(self.members, most, self.policy, "name"), have)
        places = {prop.head.name: self.keep(prop, winner) for prop in have[winner]}
        for at, props in have.items():
            for prop in props:
                if at == winner or prop.rides or not prop.size():
                    continue
                if prop.head.name == "n":
                    self.parts_of_name(prop, at, places)
                else:
                    self.whole_name(prop, at, places)

    def spelled(self, winner: int, have: dict[int, list[Property]]) -> int:
        """Of those whose names are the same words, the one that spells them best."""
        chosen = self.members[winner]
        if "name" in chosen.keeps or chosen.leads or chosen.book:
            return winner
        words = _all_words(have[winner])
        ranked = [at for at in have if at != winner and _all_words(have[at]) == words
                  and not self.members[at].book]  # fmt: skip
        return max([winner, *ranked], key=lambda at: spelling(_text(have[at])))

    def whole_name(self, prop: Property, member: int, places: dict[str, int]) -> None:
        """A whole name that lost, or fills the lack of one."""
        place = places.get("fn", places.get("n"))
        if place is None:
            places[prop.head.name] = self.keep(prop, member)
        elif _within(words_of(prop.text), _all_words(self.props)):
            self.fold(prop, member, _TWICE, place)
        else:
            self.leave(prop, member, self.props[place])

    def parts_of_name(self, prop: Property, member: int, places: dict[str, int]) -> None:
        """The parts of a name that lost: said again, filling a gap, or left."""
        if "n" not in places:
            if "fn" in places and not _within(_all_words([prop]),
                                              words_of(self.props[places["fn"]].text)):  # fmt: skip
                self.leave(prop, member, self.props[places["fn"]])
            else:
                places["n"] = self.keep(prop, member)
            return
        place = places["n"]
        mine = list(self.props[place].components)
        origins = [_origin_of(self.props[place], at) for at in range(len(mine))]
        words = _all_words(self.props)
        agrees = all(folded(_part(mine, at)) == folded(_part(prop.components, at)) for at in (0, 1))
        said: set[int] = set()
        for at, component in enumerate(prop.components):
            text = _part(prop.components, at)
            if not text:
                continue
            if _within(words_of(text), words):
                said.add(at)
            elif agrees and at in _FILLING and not _part(mine, at):
                mine += [""] * (at + 1 - len(mine))
                origins += [0] * (len(mine) - len(origins))
                mine[at], origins[at] = component, _origin_of(prop, at)
                said.add(-1 - at)
        if any(at < 0 for at in said):
            filled = self.props[place].replaced(tuple(mine), tuple(origins))
            self.props[place] = filled
            self.said_by[place].append(member)
        filled_in = {-1 - at for at in said if at < 0}
        rest = [at for at, part in enumerate(prop.components)
                if part and at not in said and at not in filled_in]  # fmt: skip
        if said - {-1 - at for at in filled_in}:
            self.fold(_only(prop, {at for at in said if at >= 0}), member, _TWICE, place)
        if rest:
            self.leave(_only(prop, set(rest)), member, self.props[place])

    # what there is one of

    def single(self, name: str) -> None:
        """One value of those that the members have."""
        values: dict[int, Property] = {}
        more: list[tuple[int, Property]] = []
        for at, prop in self.of(name):
            if not prop.size():
                continue
            if at in values:
                more.append((at, prop))  # a second birthday in one record
            else:
                values[at] = prop
        if not values:
            return
        word = values[next(iter(values))].head.field.path or name
        winner = self.of_record(name, values)
        if winner is None:
            winner = winner_of(self.members, values, self.policy, word)
        taken = values[winner]
        for at, prop in values.items():
            if at != winner and word not in self.members[winner].keeps and not self.book:
                taken = better(taken, prop) if same(taken, prop, self.region) else taken
        winner = next(at for at, prop in values.items() if prop is taken)
        place = self.keep(taken, winner)
        for at, prop in [*values.items(), *more]:
            if prop is taken:
                continue
            if name in _FATES:
                self.fold(prop, at, _FATES[name], place)
            elif same(prop, taken, self.region):
                self.fold(prop, at, _TWICE, place)
            else:
                self.leave(prop, at, taken)

    def of_record(self, name: str, values: dict[int, Property]) -> int | None:
        """Whose property of the record itself survives; None where the policy decides."""
        if name == "uid":
            return next(iter(values))
        if name in ("rev", "created"):
            pick = max if name == "rev" else min
            return pick(values, key=lambda at: "".join(filter(str.isdecimal, values[at].text)))
        return None

    # what there are many of

    def several(self, name: str) -> None:
        """The values of all members, equal ones once."""
        values = [(at, prop) for at, prop in self.of(name) if prop.size()]
        if not values:
            return
        word = values[0][1].head.field.path or name
        first = order_of(self.members, self.policy, word)
        values.sort(key=lambda pair: first.index(pair[0]))
        closed = False
        if self.book:
            way = self.policy.update(word)
            if way == "replace":
                values.sort(key=lambda pair: self.members[pair[0]].book)
            owner = values[0][0]
            closed = way != "add" and self.members[owner].book == (way == "fill")
            ours = self.members[owner].book
        why = f"{word}: the book has its own (--update {word}=add takes both)"
        if closed and not ours:
            why = f"{word}: replaced (--update {word}=replace)"
        start = len(self.props)
        for at, prop in values:
            if name in _ENTRIES:
                prop = self.new_entries(prop, at, start)
                if not prop.size():
                    continue
            place = self.place_of(prop, start)
            if place is not None:
                self.twice(prop, at, place)
            elif closed and self.members[at].book != ours:
                self.leave(prop, at, None, why)
            elif name in _ENTRIES and (place := self.of_head(prop, start)) is not None:
                self.join(prop, at, place)
            else:
                self.keep(prop, at)

    def place_of(self, prop: Property, start: int) -> int | None:
        """The place of a property that says the same."""
        for place in range(start, len(self.props)):
            if same(self.props[place], prop, self.region):
                return place
        return None

    def of_head(self, prop: Property, start: int) -> int | None:
        """The place of a list with the same head."""
        for place in range(start, len(self.props)):
            if self.props[place].head is prop.head or (
                self.props[place].head.params == prop.head.params
                and self.props[place].head.group == prop.head.group
            ):
                return place
        return None

    def twice(self, prop: Property, member: int, place: int) -> None:
        """A value that is taken already, better or worse said."""
        kept = self.props[place]
        ours = self.members[self.said_by[place][0]]
        best = kept if ours.book and not covers(prop, kept) else better(kept, prop)
        lost = prop if best is kept else kept
        use = united(kept.head, prop.head)
        if best is kept and use is not kept.head:
            self.props[place] = Property(use, kept.value, kept.origin)
        elif best is not kept:
            use = with_params(use)  # a head that is linked to no raw text
            self.props[place] = Property(use, prop.value, prop.origin)
            self.said_by[place].insert(0, member)
        whose = member if lost is prop else self.said_by[place][1]
        why = _TWICE if lost.size() >= best.size() else _LESS
        self.fold(lost, whose, why, place)

    def new_entries(self, prop: Property, member: int, start: int) -> Property:
        """A list without the entries that are taken already, which are folded."""
        there: dict[str, int] = {}
        for place in range(start, len(self.props)):
            for entry in self.props[place].components:
                there.setdefault(folded(str(entry)), place)
        again = [at for at, entry in enumerate(prop.components) if folded(str(entry)) in there]
        if again:
            place = there[folded(str(prop.components[again[0]]))]
            self.fold(_entries(prop, again), member, _TWICE, place)
        new = [at for at, entry in enumerate(prop.components) if entry and at not in again]
        return _entries(prop, new) if again else prop

    def join(self, prop: Property, member: int, place: int) -> None:
        """The entries of a list behind those of another one."""
        kept = self.props[place]
        origins = [prop_.origin_of(at) for prop_ in (kept, prop)
                   for at in range(len(prop_.components))]  # fmt: skip
        value = (*kept.components, *prop.components)
        self.props[place] = Property(kept.head, value, tuple(origins))
        self.said_by[place].append(member)

    # the rest

    def riders(self) -> None:
        """Labels go with what they label, bookkeeping with the record that comes first."""
        groups = {prop.head.group.lower() for prop in self.props if prop.head.group}
        ties = {(prop.head.name, prop.head.altid) for prop in self.props if prop.head.altid}
        labelled: set[str] = set()
        for place, (at, props) in enumerate(zip(self.order, self.parts, strict=True)):
            for prop in props:
                if not prop.rides or prop.head.name in _NAMES:
                    continue
                group = prop.head.group.lower()
                if group:
                    wanted = group in groups
                    if is_label(prop.head.name, group):
                        wanted = wanted and group not in labelled
                        labelled.add(group)
                elif prop.head.altid:
                    wanted = (prop.head.name, prop.head.altid) in ties
                else:
                    wanted = place == 0
                if wanted:
                    self.keep(prop, at)

    def losers(self, losers: Losers) -> None:
        """Put single values that lost into the contact, where the policy says so."""
        if not losers:
            return
        rest = []
        for each in self.out.left:
            if each.taken is None or each.prop.head.field.kind == "media":
                rest.append(each)
                continue
            word = each.prop.head.field.path or each.prop.head.name
            label, text = f"other {word}", told(each.prop)
            origin = marked(each.prop.origin_of(_first(each.prop)))
            if losers == "note":
                self.keep(Property(head("note"), f"{label}: {text}", origin), each.member)
            else:
                self.keep(Property(head(CUSTOM), (label, text), origin), each.member)
            self.out.kept.append(each)
        self.out.left = rest


def _told_apart(contacts: Sequence[Contact]) -> list[list[Property]]:
    """The properties of contacts, with groups and ALTIDs that no two contacts share."""
    groups: set[str] = set()
    ties: set[tuple[str, str]] = set()
    found = []
    for contact in contacts:
        mine = {prop.head.group.lower() for prop in contact.properties} - {""}
        renamed: dict[str, str] = {}
        for group in sorted(mine & groups):
            taken = groups | mine | set(renamed.values())
            renamed[group] = next(f"g{n}" for n in range(1, 1_000_000) if f"g{n}" not in taken)
        own = {(prop.head.name, prop.head.altid) for prop in contact.properties if prop.head.altid}
        tied = {
            (name, tie): next(f"{n}" for n in range(1, 1_000_000)
                              if (name, f"{n}") not in ties | own)
            for name, tie in sorted(own & ties)
        }  # fmt: skip
        props = [_renamed(prop, renamed, tied) for prop in contact.properties]
        found.append(props)
        groups |= {prop.head.group.lower() for prop in props} - {""}
        ties |= {(prop.head.name, prop.head.altid) for prop in props if prop.head.altid}
    return found


def _renamed(prop: Property, groups: dict[str, str], ties: dict[tuple[str, str], str]) -> Property:
    old = prop.head
    group = groups.get(old.group.lower(), "")
    tie = ties.get((old.name, old.altid), "")
    if not group and not tie:
        return prop
    new = with_params(old, altid=(tie,)) if tie else old
    made = head(new.name, new.params, group or new.group)
    raw = prop.raw if old.field.kind == "raw" and not old.coded else None
    return Property(made, prop.value, prop.origin, raw)


def _text(props: Sequence[Property]) -> str:
    return " ".join(prop.text for prop in props if prop.head.name in ("n", "fn"))


def _all_words(props: Sequence[Property]) -> tuple[str, ...]:
    names = [prop.text for prop in props if prop.head.name in ("n", "fn")]
    return tuple(sorted({word for name in names for word in words_of(name)}))


def _within(words: Sequence[str], others: Sequence[str]) -> bool:
    """Whether each word is one of others, or the initial of one."""
    return all(
        word in others or (len(word) == 1 and any(other.startswith(word) for other in others))
        for word in words
    )


def _part(components: Sequence[str | tuple[str, ...]], at: int) -> str:
    component = components[at] if at < len(components) else ""
    return component if isinstance(component, str) else " ".join(component)


def _origin_of(prop: Property, at: int) -> int | tuple[int, ...]:
    component = prop.components[at]
    if isinstance(component, str):
        return prop.origin_of(at)
    return tuple(prop.origin_of(at, inner) for inner in range(len(component)))


def _only(prop: Property, wanted: set[int]) -> Property:
    """A structured value with some of its components only."""
    value = tuple(part if at in wanted else "" for at, part in enumerate(prop.components))
    origins = tuple(_origin_of(prop, at) for at in range(len(prop.components)))
    return prop.replaced(value, origins)


def _entries(prop: Property, wanted: Sequence[int]) -> Property:
    """A list with some of its entries only."""
    value = tuple(prop.components[at] for at in wanted)
    return prop.replaced(value, tuple(prop.origin_of(at) for at in wanted))


def _first(prop: Property) -> int:
    return next((at for at, part in enumerate(prop.components) if part), 0)
