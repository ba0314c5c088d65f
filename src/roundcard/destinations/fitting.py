"""The last step before the writer: a person as the destination takes them.

In this order: what the service drops; style; characters; allowed values; room; length; what of all
that was refused rides in the note; what is still without place is left behind; and who lacks what
the service insists on is not sent. Each effect is a fate of the ledger with its reason, and nothing
is counted before it is known that the person is sent. Fitting what is fitted changes nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from roundcard.books.shapes.batch import Batch
from roundcard.books.shapes.steps import MayLack
from roundcard.books.shapes.work import Event
from roundcard.card.contact import Contact, Property, flat
from roundcard.card.fields import CUSTOM, N_PARTS, STREET, is_label
from roundcard.card.head import Component, Head, Value, head
from roundcard.card.names import called, formatted_name, joined_name, says_same
from roundcard.card.origin import DERIVED, is_derived, unpack
from roundcard.card.paths import FieldPath
from roundcard.clean.splitting import split_name
from roundcard.clean.step import region_of
from roundcard.destinations.allowing import Allowing
from roundcard.destinations.by_columns import ByColumns
from roundcard.destinations.desk import GONE, Desk, Effect, TellEffect
from roundcard.destinations.model import Destination, dropping
from roundcard.destinations.overflow import Line
from roundcard.destinations.pieces import (
    FULL,
    custom_label,
    is_there,
    path_at,
    path_of,
    piece_of,
    remade,
    said_by,
)
from roundcard.destinations.riding import Riding
from roundcard.destinations.room import Columns, Refused, Room, fitted_layout, without
from roundcard.destinations.texts import BREAK, cut, in_characters, styled
from roundcard.pick.path_values import values_at
from roundcard.tally import Fate, Reason, Tally, Why, changed_by, derived_by, name_from
from roundcard.values.nearest import writes

_DROPPED = Reason(Fate.LEFT_BEHIND, Why.DROPPED_THERE)


class Fit:
    """Fits contacts to a destination; see the module."""

    joins = False

    def __init__(
        self, to: Destination, *, table: bool, region: str = "", tell: TellEffect | None = None
    ) -> None:
        """`table` says whether a table is written, and not cards; `region` is the country of
        numbers without a code; `tell` is called with each effect."""
        self.to = to
        self.region = region
        self.tell = tell
        self.table = table
        layout = fitted_layout(to) if table else None
        self.layout = layout
        self.columns = Columns(layout) if layout is not None else None
        self.room = Room(to, self.columns)
        self._drops: dict[Head, list[FieldPath]] = {}
        self._limited = {path.field for path in to.limits.length}
        self._by_columns: ByColumns | None = None
        self.also: Callable[[int, int, str, str], None] | None = None
        paths = {path for column in layout.columns for path in column.holds} if layout else set()
        self.no_whole_names = table and FULL not in paths
        self.lined = any(path.part == "line" for path in paths)
        self.plain_ascii = to.style.phone in ("", "as-typed") and not to.style.country
        self.allow = Allowing(to)
        self.ride = Riding(to, self.columns)

    def __getstate__(self) -> dict[str, Any]:
        """Without what is told to: another process gathers it, and the parent tells."""
        return self.__dict__ | {"tell": None, "also": None, "_by_columns": None}

    def shaped(self, batch: Batch, may_lack: MayLack) -> tuple[Batch, set[int]]:  # noqa: ARG002
        """Whom the destination takes as they are stays as read."""
        if self._by_columns is None:
            self._by_columns = ByColumns(self)
        odd = self._by_columns.odd(batch)
        return (batch.without(odd) if odd else batch), odd

    def events(self) -> dict[int, Event]:
        """Nothing is told of others."""
        return {}

    def passed(self, records: int) -> None:
        """Nothing is counted of others."""

    def gather(self) -> list[Any]:
        """Keep what is told in a list, which crosses to the parent."""
        told: list[Effect] = []
        self.tell = told.append
        return told

    def listen(self, also: Callable[[int, int, str, str], None]) -> None:
        """Tell each change to somebody else, too."""
        self.also = also

    def give(self, gathered: Sequence[Any], records: int) -> None:
        """Tell what another process gathered; `records` were read before what it worked on."""
        for effect in gathered:
            self._tell(effect._replace(record=effect.record + records))

    def _tell(self, effect: Effect) -> None:
        if self.tell is not None:
            self.tell(effect)
        if self.also is not None and effect.fate is Fate.CHANGED:
            self.also(effect.source, effect.record, effect.before, effect.after)

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact as the destination takes it; None where it is not sent."""
        work = Desk(contact)
        self._drop(work)
        self._identify(work)
        self._name(work)
        self._say(work)
        self.allow(work)
        self._give_room(work)
        self._shorten(work)
        rides = self.ride(work)
        lacking = self._lacking(Contact(work.props, contact.origin))
        if not lacking and self._too_big(work):
            lacking = Reason(Fate.NOT_SENT, Why.TOO_BIG_THERE,
                             details=(f"{self.to.limits.octets_per_file:,}",))  # fmt: skip
        if lacking:
            self._leave_out(work, lacking, tally)
            return None
        return self._settle(work, rides, tally)

    # 1. what is dropped

    def _drop(self, work: Desk) -> None:
        if not self.to.drops:
            return
        for prop in work.props.copy():
            made = prop.head
            said = self._drops.get(made)
            if said is None or not made.field.path or made.name == CUSTOM:
                word = made.field.path or "custom"
                path = FieldPath(word, tuple(made.uses), custom_label(prop))
                said = self._drops[made] = dropping(self.to, path)
            if not said or not prop.size():
                continue
            if any(not each.part for each in said):
                work.props.remove(prop)
                work.refused.append(Refused(prop, _DROPPED))
                continue
            parts = {each.part for each in said}
            places = [at for at, component in enumerate(prop.components)
                      if component and path_at(prop, at).part in parts]  # fmt: skip
            if places:
                piece = piece_of(prop, places)
                work.props = without(work.props, [piece])
                work.refused.append(Refused(piece, _DROPPED))

    def _identify(self, work: Desk) -> None:
        """Say the uid in the field that carries it through, where that is another one."""
        identity = self.to.identity
        if identity is None or identity.field != "custom":
            return
        uid = work.contact.first("uid")
        if uid is None or any(True for _ in values_at(work.contact, identity)):
            return
        why = derived_by(Reason(Fate.DERIVED, Why.IDENTITY, identity.label))
        work.props.append(Property(head(CUSTOM), (identity.label, uid.text), why))

    # 2. style, 3. characters

    def _name(self, work: Desk) -> None:
        style = self.to.style.name
        whole = next((p for p in work.props if p.head.name == "fn" and not p.rides), None)
        parts = next((p for p in work.props if p.head.name == "n" and not p.head.phonetic
                      and p.size()), None)  # fmt: skip
        if style == "parts" and parts is None and whole is not None:
            if work.contact.first("org") is not None and says_same(whole.text, _org_name(work)):
                return
            found = split_name(whole.text, region_of(work.contact) or self.region, "")
            if found.parts and not found.doubt:
                said = dict(found.parts)
                why = derived_by(Reason(Fate.DERIVED, Why.PARTS_FROM_NAME))
                value = tuple(
                    said.get(part, "") for part in N_PARTS[: 6 if "family2" in said else 5]
                )
                work.props = [p for p in work.props if p.head.name != "n" or p.head.phonetic]
                work.props.append(Property(head("n"), value, why))
        elif style == "whole" and parts is not None and not self.table:
            if whole is None:
                made = derived_by(name_from("parts"))
                work.props.append(Property(head("fn"), joined_name(parts.value), made))
                whole = work.props[-1]
            if says_same(whole.text, parts.value):
                work.props.remove(parts)
                size = Tally().read_of(parts)
                work.counts.append((Reason(Fate.FOLDED, Why.WHOLE_SAYS_PARTS, "name"), size))
        elif self.no_whole_names and whole and parts and says_same(whole.text, parts.value):
            work.props.remove(whole)  # before any of them is cut
            size = Tally().read_of(whole)
            work.counts.append((Reason(Fate.FOLDED, Why.PARTS_SAY_WHOLE, "name"), size))
        limit = self.to.limits.length.get(FULL)
        if limit is not None and whole is None and not self.table:
            text, made_from = formatted_name(work.contact)
            work.props.append(Property(head("fn"), text, derived_by(name_from(made_from))))

    def _say(self, work: Desk) -> None:
        region = ""
        for at, prop in enumerate(work.props.copy()):
            made = prop.head
            if made.field.kind == "media" or not prop.size():
                continue
            if made.field.kind == "raw" and prop.raw is not None:
                if not prop.raw.isascii() and in_characters(prop.raw, self.to) != prop.raw:
                    work.props[at] = GONE
                    self._speechless(work, prop)
                continue
            if self.plain_ascii and _ascii_line(prop):
                continue
            if not region and made.field.path in ("phone", "address"):
                region = region_of(work.contact) or self.region
            self._say_one(work, at, prop, region)
        work.props = [prop for prop in work.props if prop is not GONE]

    def _say_one(self, work: Desk, at: int, prop: Property, region: str) -> None:
        """One property in the destination's form and characters."""
        if prop.head.name == "adr" and not self.to.line_breaks and not self.lined:
            prop = self._in_one_line(work, prop)
        values: list[Component] = []
        origins: list[int | tuple[int, ...]] = []
        silent: list[int] = []
        for index, component in enumerate(prop.components):
            if index == 0 and prop.head.name == CUSTOM:
                values.append(component)
                origins.append(prop.origin_of(0))
                continue
            path = path_at(prop, index)
            inner = (component,) if isinstance(component, str) else component
            made = [self._text(work, prop, text, path, prop.origin_of(index, n), region)
                    for n, text in enumerate(inner)]  # fmt: skip
            if any(each is None for each in made):
                silent.append(index)
                values.append(component)
                origins.append(prop.origins()[index])
                continue
            told = [each for each in made if each is not None]
            if isinstance(component, str):
                values.append(told[0][0])
                origins.append(told[0][1])
            else:
                values.append(tuple(text for text, _ in told))
                origins.append(tuple(origin for _, origin in told))
        if values != list(prop.components):
            work.props[at] = remade(prop, values, origins)
        else:
            work.props[at] = prop
        if silent:
            now = work.props[at]
            piece = piece_of(now, silent)
            rest = without([now], [piece])
            work.props[at] = rest[0] if rest and rest[0].size() else GONE
            self._speechless(work, piece)

    def _text(
        self, work: Desk, prop: Property, text: str, path: FieldPath, origin: int, region: str
    ) -> tuple[str, int] | None:
        """A text as it is said there, and its origin; None where it cannot be said."""
        if not text:
            return text, origin
        made = styled(text, path, self.to, region)
        if made != text:
            origin = self._altered(work, Why.STYLED, path, text, made, origin)
        said = in_characters(made, self.to)
        if said is None:
            return None
        if said != made:
            on_one_line = "\n" in made and "\n" not in said and writes(made, self.to.charset)
            why = Why.ON_ONE_LINE if on_one_line else Why.NEAREST
            if why is Why.NEAREST and not is_derived(origin):
                reason = Reason(Fate.CHANGED, why, path.field, (self.to.charset,))
                kept = prop if all(prop is not each.piece for each in work.aside) else None
                work.aside += [Refused(kept, reason)] if kept is not None else []
            origin = self._altered(work, why, path, made, said, origin)
        return said, origin

    def _in_one_line(self, work: Desk, prop: Property) -> Property:
        """An address whose street, of several lines, stands in one."""
        street = prop.components[STREET] if len(prop.components) > STREET else ""
        if isinstance(street, str):
            return prop
        lines = [line for line in street if line]
        values = list(prop.components)
        origins = prop.origins()
        values[STREET] = BREAK.join(lines)
        first = prop.origin_of(STREET)
        word = prop.head.field.path
        origins[STREET] = changed_by(first, Reason(Fate.CHANGED, Why.ON_ONE_LINE, word))
        folds = sum(1 for at in range(1, len(lines)) if prop.origin_of(STREET, at) >= 0)
        work.counts.append((Reason(Fate.FOLDED, Why.SAID_IN_ONE, word), folds))
        work.tell(Fate.CHANGED, Why.ON_ONE_LINE, "address/street", "\n".join(lines),
                  BREAK.join(lines))  # fmt: skip
        return prop.replaced(tuple(values), tuple(origins))

    def _altered(
        self, work: Desk, why: Why, path: FieldPath, before: str, after: str, origin: int
    ) -> int:
        detail = self.to.charset if why is Why.NEAREST else ""
        work.tell(Fate.CHANGED, why, str(path), before, after, detail)
        details = (detail,) if detail else ()
        return changed_by(origin, Reason(Fate.CHANGED, why, path.field, details))

    def _speechless(self, work: Desk, piece: Property) -> None:
        reason = Reason(Fate.LEFT_BEHIND, Why.NO_CHARACTERS, details=(self.to.charset,))
        if not self.to.beyond_basic_plane and writes(piece.text, self.to.charset):
            reason = reason._replace(details=("the basic plane",))
        work.left.append(Refused(piece, reason))

    # 5. room, 6. length

    def _give_room(self, work: Desk) -> None:
        found = self.room.refused(Contact(work.props, work.contact.origin), work.props)
        if found:
            work.refused += found
            work.props = without(work.props, [each.piece for each in found])

    def _shorten(self, work: Desk) -> None:
        if not self.to.limits.length:
            return
        for at, prop in enumerate(work.props):
            if prop.head.field.path in self._limited and prop.size():
                work.props[at] = self._short(work, prop)
        work.props = [prop for prop in work.props if prop is not GONE]

    def _short(self, work: Desk, prop: Property) -> Property:
        """The value with each text within its limit."""
        values, origins = list(prop.components), list(prop.origins())
        gone, shorter = [], []
        for at, component in enumerate(prop.components):
            if not component or (at == 0 and prop.head.name == CUSTOM):
                continue
            path = path_at(prop, at)
            limit = self.to.length_of(path, FieldPath(path.field, label=path.label))
            text = component if isinstance(component, str) else "\n".join(filter(None, component))
            if limit is None or limit.of(text, self.to.charset) <= limit.most:
                continue
            made = cut(text, path.field, limit, self.to.charset)
            if made is None:
                gone.append(at)
                continue
            shorter.append(at)
            values[at] = made
            origins[at] = prop.origin_of(at)
            work.tell(Fate.CHANGED, Why.CUT, str(path), text, made, str(limit.most))
        if not gone and not shorter:
            return prop
        word = prop.head.field.path
        for at in shorter:
            whole = piece_of(prop, [at])
            reason = Reason(Fate.CHANGED, Why.CUT, word)
            work.refused.append(Refused(whole, reason))
        made_prop = remade(prop, values, origins) if shorter else prop
        for at in shorter:
            work.shortened[id(work.refused[-len(shorter) + shorter.index(at)].piece)] = made_prop
        if not gone:
            return made_prop
        piece = piece_of(made_prop, gone)
        reason = Reason(Fate.LEFT_BEHIND, Why.TOO_LONG_THERE)
        work.refused.append(Refused(piece, reason))
        rest = without([made_prop], [piece])
        if not rest or not rest[0].size():
            return GONE
        for key, there in list(work.shortened.items()):
            if there is made_prop:
                work.shortened[key] = rest[0]
        return rest[0]

    # 8. what is left behind, 9. what the service insists on

    def _lacking(self, contact: Contact) -> Reason | None:
        missing = [str(path) for path in self.to.needs_all if not is_there(contact, path)]
        said = ", ".join(missing)
        if (
            not missing
            and self.to.needs_any
            and not any(is_there(contact, path) for path in self.to.needs_any)
        ):
            said = " or ".join(map(str, self.to.needs_any))
        return Reason(Fate.NOT_SENT, Why.LACKS_NEEDED, details=(said,)) if said else None

    def _too_big(self, work: Desk) -> bool:
        most = self.to.limits.octets_per_file
        if not most or 8 * sum(len(p.raw or p.text) for p in work.props if p.size()) < most:
            return False
        return most < _octets(work.props, self.layout)

    def _leave_out(self, work: Desk, lacking: Reason, tally: Tally) -> None:
        contact = work.contact
        tally.count(lacking, sum(map(tally.read_of, contact.properties)), people=1)
        if tally.sink is not None:
            for prop in contact.properties:
                if prop.size():
                    tally.sink.left_behind(contact, prop, lacking)
        work.effects = []
        work.tell(Fate.NOT_SENT, lacking.rule, "", "", "", " ".join(lacking.details))
        self._say_effects(work)

    def _settle(self, work: Desk, rides: list[tuple[Refused, list[Line]]], tally: Tally) -> Contact:
        """Count what became of all values, and give the person as they are sent."""
        contact = work.contact
        rode = {id(each.piece) for each, _ in rides}
        for number, (each, lines) in enumerate(rides):
            self._count_ride(work, each, lines, tally, counted=work.note_made and number == 0)
        for each in work.refused:
            if each.reason.rule == Why.CUT:
                self._count_cut(work, each, tally, rides=id(each.piece) in rode)
            elif id(each.piece) not in rode:
                self._leave_behind(work, each, tally)
        for each in work.left:
            self._leave_behind(work, each, tally)
        for reason, count in work.counts:
            tally.count(reason, count)
        if tally.sink is not None:
            for each in work.aside:
                tally.sink.left_behind(contact, each.piece, each.reason)
        self._say_effects(work)
        groups = {p.head.group.lower() for p in work.props if p.head.group and p.size()}
        gone = {p.head.group.lower() for p in work.before if p.head.group and p.size()} - groups
        alone = [prop for prop in work.props if is_label(prop.head.name, prop.head.group)
                 and prop.head.group.lower() in gone]  # fmt: skip
        return Contact(without(work.props, alone), contact.origin)

    def _leave_behind(self, work: Desk, each: Refused, tally: Tally) -> None:
        word = each.reason.field or each.piece.head.field.path or each.piece.head.name.upper()
        if word == "custom":
            word = custom_label(each.piece) or word
        reason = each.reason._replace(field=word)
        tally.leave_behind(work.contact, each.piece, reason)
        if tally.read_of(each.piece):
            rule = reason.rule
            path = str(path_of(each.piece))
            text = said_by(each.piece)
            work.tell(Fate.LEFT_BEHIND, rule, path, text, "", " ".join(reason.details))

    def _count_ride(
        self, work: Desk, each: Refused, lines: list[Line], tally: Tally, *, counted: bool
    ) -> None:
        """Count the values of a piece as riding in the note; `counted` says that the note itself is
        counted, by its writer, for the first of them."""
        word = each.piece.head.field.path or each.piece.head.name.upper()
        reason = Reason(Fate.CHANGED, Why.RIDES_IN_NOTE, word)
        first = counted
        for origin, count in tally.ends(each.piece):
            more = count - 1 if first else count
            first = False
            if more:
                if origin >= 0:
                    tally.count(reason, more)
                else:
                    tally.end(origin, more)
                tally.values.written += more
        for line in lines:
            work.tell(Fate.CHANGED, Why.RIDES_IN_NOTE, str(path_of(each.piece)), line.text,
                      line.written(one_line=not self.to.line_breaks))  # fmt: skip

    def _count_cut(self, work: Desk, each: Refused, tally: Tally, *, rides: bool) -> None:
        """Mark the beginning that is written: it is made from the whole value where that rides;
        else it is the value, changed, and the whole is kept aside."""
        short = work.shortened[id(each.piece)]
        word = each.piece.head.field.path
        at = next(n for n, part in enumerate(each.piece.components)
                  if any(flat((part,))) and not (n == 0 and short.head.name == CUSTOM))  # fmt: skip
        if short.head.field.kind == "list":
            at = next(n for n, part in enumerate(short.components)
                      if str(each.piece.components[0]).startswith(str(part)))  # fmt: skip
        origins = list(short.origins())
        one = origins[at] if isinstance(origins[at], int) else 0
        assert isinstance(one, int)
        if rides:
            origins[at] = derived_by(Reason(Fate.DERIVED, Why.CUT, word)) if one >= 0 else DERIVED
        else:
            origins[at] = changed_by(one, Reason(Fate.CHANGED, Why.CUT, word))
            extra = tally.read_of(each.piece) - 1
            if extra > 0:
                tally.count(Reason(Fate.FOLDED, Why.SAID_IN_ONE, word), extra)
            if tally.sink is not None and one >= 0:
                tally.sink.left_behind(work.contact, each.piece, each.reason)
        new = remade(short, list(short.components), origins)
        work.props = [new if prop is short else prop for prop in work.props]
        for key, there in list(work.shortened.items()):
            if there is short:
                work.shortened[key] = new

    def _say_effects(self, work: Desk) -> None:
        if self.tell is None and self.also is None:
            return
        place = unpack(work.contact.origin)
        source, record = (place.source, place.record) if place else (0, 0)
        person = ""
        for fate, rule, path, before, after, detail in work.effects:
            person = person or called(work.contact)
            self._tell(Effect(source, record, person, fate, rule, path, before, after, detail))


def _org_name(work: Desk) -> Value:
    org = work.contact.first("org")
    return org.components[:1] if org is not None else ()


def _ascii_line(prop: Property) -> bool:
    """Whether a value is plain text of one line, whatever its parts."""
    known = prop.raw if prop.raw is not None else prop.known
    if isinstance(known, str):
        return known.isascii() and "\n" not in known and "\\" not in known
    return all(text.isascii() and "\n" not in text for text in flat(prop.components)) and not any(
        isinstance(part, tuple) for part in prop.components
    )


def _octets(props: Sequence[Property], layout: Any) -> int:
    """The octets of a person as written, alone in a file."""
    from roundcard.formats.csv import CsvWriter
    from roundcard.formats.vcard import VCardWriter
    from roundcard.layouts.row_writer import RowWriter

    contact = Contact(list(props))
    if layout is None:
        return max(len(VCardWriter(version, Tally()).encode(contact).encode())
                   for version in ("3.0", "4.0"))  # fmt: skip
    writer = RowWriter(layout, Tally())
    row = writer.row(contact)
    return len(CsvWriter(layout.dialect).encode([*writer.above, *([row] if row else [])]))
