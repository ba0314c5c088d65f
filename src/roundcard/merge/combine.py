"""One contact made of several, with what became of each value."""

from __future__ import annotations

from collections.abc import Sequence

from roundcard.card.contact import Property
from roundcard.card.equality import folded
from roundcard.card.fields import CUSTOM, is_label
from roundcard.card.head import head, with_params
from roundcard.merge.combine_names import take_names
from roundcard.merge.equivalence import better, covers, same, told, united
from roundcard.merge.policy import Losers, Member, Policy, order_of, winner_of
from roundcard.merge.selection import LESS, NAMES, TWICE, Merged, Selection
from roundcard.tally import Fate, Reason, Why, changed_by

_ENTRIES = frozenset(("categories", "nickname"))
_KEPT_BESIDE = Reason(Fate.CHANGED, Why.KEPT_BESIDE)
_FATES = {
    "uid": Reason(Fate.FOLDED, Why.MERGED_UID, "uid"),
    "rev": Reason(Fate.FOLDED, Why.MERGED_REVISED, "revised"),
    "created": Reason(Fate.FOLDED, Why.MERGED_CREATED, "created"),
    "kind": Reason(Fate.FOLDED, Why.MERGED_KIND, "kind"),
}
"""What becomes of the record's own properties that lose."""


def merged(members: Sequence[Member], policy: Policy) -> Merged:
    """One contact of several that are the same person."""
    return _Merging(members, policy).run()


class _Merging(Selection):
    def run(self) -> Merged:
        """Names first, then what there is one of, then what there are many of."""
        take_names(self)
        for name in self.in_order(many=False):
            self.single(name)
        for name in self.in_order(many=True):
            self.several(name)
        self.riders()
        self.losers(self.policy.losers)
        if self.envelopes:
            self.on_envelopes()
        self.out.contact.properties = self.props
        self.out.sources = self.said_by
        return self.out

    def in_order(self, *, many: bool) -> list[str]:
        """Names of properties that there are one, or many of, as they come."""
        found = dict.fromkeys(
            prop.head.name
            for props in self.parts
            for prop in props
            if prop.head.field.many is many and not prop.rides and prop.head.name not in NAMES
        )
        return list(found)

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
                self.fold(prop, at, TWICE, place)
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
        why = Why.REPLACED if closed and not ours else Why.BOOK_HAS_OWN
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
            there = self.props[place].head
            if (there.params, there.group) == (prop.head.params, prop.head.group):
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
        why = TWICE if lost.size() >= best.size() else LESS
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
            self.fold(prop.entries(again), member, TWICE, place)
        new = [at for at, entry in enumerate(prop.components) if entry and at not in again]
        return prop.entries(new) if again else prop

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
        said = {
            prop.text
            for props in self.parts
            for prop in props
            if prop.head.group.lower() in groups and is_label(prop.head.name, prop.head.group)
        }
        for place, (at, props) in enumerate(zip(self.order, self.parts, strict=True)):
            for prop in props:
                if not prop.rides or prop.head.name in NAMES:
                    continue  # names are taken with all that they say
                group = prop.head.group.lower()
                if group:
                    wanted = group in groups
                    if is_label(prop.head.name, group):
                        self.out.labels += not wanted and prop.text not in said
                        wanted = wanted and group not in labelled
                        labelled.add(group)
                elif prop.head.altid:
                    wanted = (prop.head.name, prop.head.altid) in ties
                else:
                    wanted = place == 0
                if wanted:
                    self.keep(prop, at)
                elif prop.size():
                    self.other_script(prop, at)

    def other_script(self, prop: Property, member: int) -> None:
        """A value in another script, whose first one is said by another record."""
        start = next(at for at, each in enumerate(self.props) if each.head.name == prop.head.name)
        place = self.place_of(prop, start)
        if place is not None:
            self.fold(prop, member, TWICE, place)
        else:
            self.leave(prop, member, None)

    def on_envelopes(self) -> None:
        """Texts on envelopes go behind the addresses to which they belong."""
        moved: list[tuple[Property, list[int]]] = []
        behind: dict[int, list[tuple[Property, list[int]]]] = {}
        for prop, members in zip(self.props, self.said_by, strict=True):
            address = self.envelopes.get(id(prop))
            if address is not None and any(each is address for each in self.props):
                behind.setdefault(id(address), []).append((prop, members))
            else:
                moved.append((prop, members))
        both = [pair for each in moved for pair in (each, *behind.get(id(each[0]), ()))]
        self.props = [prop for prop, _ in both]
        self.said_by = [members for _, members in both]

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
            origin = changed_by(each.prop.origin_of(_first(each.prop)), _KEPT_BESIDE)
            if losers == "note":
                self.keep(Property(head("note"), f"{label}: {text}", origin), each.member)
            else:
                self.keep(Property(head(CUSTOM), (label, text), origin), each.member)
            self.out.kept.append(each)
        self.out.left = rest


def _first(prop: Property) -> int:
    return next((at for at, part in enumerate(prop.components) if part), 0)
