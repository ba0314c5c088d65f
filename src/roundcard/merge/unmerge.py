"""Merges taken back: found in the book as it is now, and parted."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import combinations

from roundcard.card.contact import Contact, Property
from roundcard.card.equality import identity
from roundcard.card.origin import ADDED, pack
from roundcard.match.decision_store import Decision, side_of
from roundcard.match.features import features_of
from roundcard.merge.record import FROM_RECORD, RecordLine
from roundcard.merge.split import Separated, Since, count, likeness, nearness, parted
from roundcard.tally import Fate, Reason, Tally, Why, added_by, changed_by

_AS_BEFORE = Reason(Fate.CHANGED, Why.AS_BEFORE)
_ENOUGH = 0.5
"""How much of a merged contact must be there for it to be the one, where its UID is not."""
_AGAIN = 0.9
"""How like the result of a merge an original of another one must be to be that result."""
_TELLING = ("uid", "email", "tel", "fn", "n")
_MOST_NEAR = 40


@dataclass(slots=True)
class Undone:
    """A merge that is taken back."""

    line: RecordLine
    since: list[Since]
    kept: list[Property] = field(default_factory=list)
    """Values that no original of the record accounts for; they stay with the first."""
    wanted: bool = True
    """Whether it was asked for; a later merge of what was merged must be taken back first."""


@dataclass(slots=True)
class Undoing:
    """All merges that are to be taken back, as a step of a conversion of the book."""

    done: list[Undone] = field(default_factory=list)
    missing: list[RecordLine] = field(default_factory=list)
    """Merges whose contact is not in the book."""
    parts: dict[int, list[Contact]] = field(default_factory=dict)
    """What becomes of a record of the book."""
    steps: dict[int, list[Separated]] = field(default_factory=dict)
    pointers: dict[str, dict[tuple[str, str], list[str]]] = field(default_factory=dict)
    """What members and relations of a contact, by its UID, were before they pointed at a merged
    one, by property and UID."""

    def __call__(self, contact: Contact, tally: Tally) -> Contact:
        """The first of a contact's originals; the others are added to the book."""
        if self.pointers:
            self._point_back(contact)
        parts = self.parts.get(contact.record)
        if parts is None:
            return contact
        for each in self.steps[contact.record]:
            count(each, tally)
        return Contact(list(parts[0].properties), contact.origin)

    def _point_back(self, contact: Contact) -> None:
        """Members and relations that point at a merged contact point at its originals again."""
        uid = contact.first("uid")
        wanted = self.pointers.get(identity(uid.text), {}) if uid is not None else {}
        if not wanted:
            return
        out: list[Property] = []
        for prop in contact.properties:
            before = wanted.get((prop.head.name, identity(prop.text)))
            if before is None:
                out.append(prop)
                continue
            same = [identity(text) == identity(prop.text) for text in before]
            stays = same.index(True) if any(same) else -1
            for at, text in enumerate(before):
                origin = prop.origin if at == stays else added_by(FROM_RECORD)
                if stays < 0 and at == 0:
                    origin = changed_by(prop.origin_of(0), _AS_BEFORE)
                out.append(prop.replaced(text, origin))
        contact.properties = out

    @property
    def others(self) -> list[Contact]:
        """The originals that stand in no place of the book."""
        return [part for parts in self.parts.values() for part in parts[1:]]


def undoing(
    wanted: Sequence[RecordLine], contacts: Iterable[Contact], others: Sequence[RecordLine] = ()
) -> Undoing:
    """Find merged contacts in a book, and part them; the latest merge first.

    `others` are merges that may have merged again what was merged: where one did, it is taken back,
    too, since nobody can tell to which of the originals the rest belongs.
    """
    lines = [*wanted, *others]
    work = _Work(lines, _found(lines, contacts))
    for at in reversed(range(len(wanted))):
        work.undo(at, wanted=True)
    return work.out


class _Work:
    """Merges that are taken back one after another."""

    def __init__(self, lines: Sequence[RecordLine], places: dict[int, Contact]) -> None:
        self.lines = lines
        self.places = places
        self.out = Undoing()
        self.seen: set[int] = set()
        self.by: dict[tuple[str, str], list[int]] = defaultdict(list)
        """The merges by what their originals say."""
        for at, line in enumerate(lines):
            said = {key for each in line.originals for key in _telling(each.properties)}
            for key in said:
                self.by[key].append(at)

    def undo(self, at: int, *, wanted: bool) -> None:
        """Take back one merge, after those that merged its result again."""
        if at in self.seen:
            for done in self.out.done:
                done.wanted |= wanted and done.line is self.lines[at]
            return
        self.seen.add(at)
        line = self.lines[at]
        later = self.later(at)
        for other in later:
            self.undo(other, wanted=False)
        near = self.places.get(at) or next(
            (self.places[other] for other in later if other in self.places), None
        )
        if near is None:
            if wanted:
                self.out.missing.append(line)
            return
        record = near.record
        parts = self.out.parts.setdefault(record, [near])
        part = max(range(len(parts)), key=lambda n: (_fit(parts[n], line.result), -n))
        once = parted(parts[part], line.result, [each.properties for each in line.originals])
        if part:
            once.contacts[0].origin = ADDED
        parts[part : part + 1] = once.contacts
        self.out.steps.setdefault(record, []).append(once)
        self.out.done.append(Undone(line, once.since, once.kept, wanted))
        for of, name, now, before in line.pointers:
            self.out.pointers.setdefault(identity(of), {})[name, now] = before

    def later(self, at: int) -> list[int]:
        """Merges that have the result of one among their originals, and are in the book."""
        line = self.lines[at]
        found = []
        keys = [key for key in _telling(line.result) if len(self.by[key]) <= _MOST_NEAR]
        for other in sorted({other for key in keys for other in self.by[key]} - {at}):
            near = self.places.get(other)
            if near is None:
                continue
            each = self.lines[other]
            fit = max(_fit(original.contact, line.result) for original in each.originals)
            if fit > _AGAIN and nearness(near, each.result) > nearness(near, line.result):
                found.append(other)
        return found


def _telling(properties: Sequence[Property]) -> list[tuple[str, str]]:
    """What a contact is found by: its UID, names, addresses of mail and numbers."""
    return [
        (prop.head.name, identity(prop.text) if prop.head.name == "uid" else prop.text)
        for prop in properties
        if prop.head.name in _TELLING and prop.text
    ]


def _fit(contact: Contact, result: Sequence[Property]) -> float:
    """How well a contact is what was merged; that its UID is the same counts most."""
    uids = {identity(prop.text) for prop in result if prop.head.name == "uid"}
    same = any(identity(prop.text) in uids for prop in contact.all("uid"))
    return likeness(contact, result) + same


def _found(lines: Sequence[RecordLine], contacts: Iterable[Contact]) -> dict[int, Contact]:
    """The contact of the book that each merge made: by its UID, or by what it says."""
    by: dict[tuple[str, str], list[int]] = defaultdict(list)
    for at, line in enumerate(lines):
        for key in dict.fromkeys(_telling(line.result)):
            by[key].append(at)
    best: dict[int, tuple[float, Contact]] = {}
    for contact in contacts:
        near = dict.fromkeys(
            at for key in _telling(contact.properties) for at in by.get(key, ())[:_MOST_NEAR]
        )  # fmt: skip
        for at in near:
            like = _fit(contact, lines[at].result)
            if like > best.get(at, (_ENOUGH, None))[0]:
                best[at] = like, contact
    return {at: contact for at, (_, contact) in best.items()}


def apart(done: Iterable[Undone], region: str, when: str) -> list[Decision]:
    """The decisions that originals of merges are not the same person."""
    found = []
    for undone in done:
        if not undone.wanted:
            continue
        originals = undone.line.originals
        contacts = [Contact(list(each.properties), pack(at, each.record))
                    for at, each in enumerate(originals)]  # fmt: skip
        features = features_of(contacts, region)
        names = [each.source for each in originals]
        sides = [side_of(features, at, names) for at in range(len(originals))]
        found += [Decision("apart", one, other, when=when) for one, other in combinations(sides, 2)]
    return found
