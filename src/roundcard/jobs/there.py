"""What the destination holds now, as an export of it tells, held against what was delivered."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from roundcard.books.plan import Plan
from roundcard.card.contact import Contact
from roundcard.card.fields import N_PARTS
from roundcard.card.origin import pack
from roundcard.compare.pairing import Pairing, Side
from roundcard.compare.values import digest_of, said_by, spelling_of
from roundcard.destinations.fitting import Fit
from roundcard.destinations.keys import keys_of
from roundcard.destinations.model import Destination
from roundcard.destinations.rewrites import Rewriting
from roundcard.destinations.take_back import TakeBack
from roundcard.destinations.there import CardFolder, There
from roundcard.errors import JobError
from roundcard.formats import vcard
from roundcard.jobs.kept import Kept
from roundcard.merge.contact_store import Store, as_json, from_json
from roundcard.tally import Tally


class Model:
    """What a destination would hold of a person, as far as that can be told."""

    def __init__(self, to: Destination, region: str) -> None:
        table = to.accepts[0] in ("table", "workbook")
        self._fit = Fit(to, table=table, region=region)
        self._rewrite = Rewriting(to, region)
        self._back = TakeBack(to) if to.overflow is not None else None
        columns = to.layout.columns if table and to.layout is not None else ()
        held = {path.part for column in columns for path in column.holds if path.field == "name"}
        self._parts = {at for at, part in enumerate(N_PARTS) if part in held} if held else None
        """The parts of a name of which its table has columns; None where all are kept."""

    def fitted(self, meant: Contact) -> Contact | None:
        """A person as they are sent; None where the destination would refuse them."""
        return self._fit(Contact(list(meant.properties), meant.origin), Tally())

    def held(self, sent: Contact) -> Contact:
        """A person as the destination holds them, with what rides in the note in its place."""
        return self.read(self._named(self._rewrite(sent)))

    def _named(self, sent: Contact) -> Contact:
        """A person without parts of the name of which the table has no column."""
        if self._parts is None:
            return sent
        props = [prop.only(self._parts) if prop.head.name == "n" and not prop.head.phonetic
                 else prop for prop in sent.properties]  # fmt: skip
        return Contact(props, sent.origin)

    def read(self, there: Contact) -> Contact:
        """A person as the destination has them, with what rides in the note in its place."""
        if self._back is None:
            return there
        return self._back(Contact(list(there.properties), there.origin), Tally()) or there

    def of(self, kept: Kept) -> Contact:
        """A person as the destination held them after the last delivery."""
        if kept.held is not None:
            return kept.held
        return self.held(kept.sent) if kept.sent is not None else Contact([])


@dataclass(slots=True)
class Export:
    """An export of what the destination holds."""

    store: Store
    reason: int
    """Why values of it are added where they are written, by the reason's number."""
    records: list[int] = field(default_factory=list)
    """Numbers in the store."""
    of: dict[str, int] = field(default_factory=dict)
    """The record of each person who was delivered."""
    same: set[str] = field(default_factory=set)
    """People whom it has just as they were held."""
    uids: dict[str, int] = field(default_factory=dict)
    keys: dict[object, int] = field(default_factory=dict)
    """By what the service tells people: the record, or -1 where several have it."""
    likely: int = 0
    """People who are paired by likeness alone."""

    def close(self) -> None:
        """Give back what was kept on disk meanwhile."""
        self.store.__exit__()

    def contact(self, at: int) -> Contact:
        """A person of the export; their values are added ones."""
        told = json.dumps(as_json(self.store.get(self.records[at]).properties))
        return Contact(from_json(json.loads(told), self.reason), -1)

    def theirs(self, contact: Contact, to: Destination) -> int:
        """Somebody there, never from us, by whom a new person would be found; -1 for nobody."""
        uid = contact.first("uid")
        ours = set(self.of.values())
        told = self.uids.get(uid.text, -1) if uid is not None else -1
        if told >= 0 and told not in ours:
            return told
        for key in keys_of(contact, to):
            found = self.keys.get(key, -1)
            if found >= 0 and found not in ours:
                return found
        return -1


def read_export(
    path: Path, to: Destination, model: Model, region: str, reason: int,
    people: Iterator[tuple[str, Kept]],
) -> Export:  # fmt: skip
    """An export, with each person who was delivered paired with whom they are there.

    Raises `SourceError` and `LayoutError`.
    """
    found = Export(Store(), reason)
    mine, theirs = Side(to), Side(to)
    uids: list[str] = []
    held_store = Store()
    for uid, kept in people:
        held = model.of(kept)
        uids.append(uid)
        _add(mine, Contact(held.properties, pack(0, len(uids))))
        held_store.put(Contact(held.properties, pack(0, len(uids))))
    for contact in contacts_there(path, to):
        there = model.read(contact)
        number = len(found.records)
        found.records.append(found.store.put(there))
        _add(theirs, Contact(there.properties, pack(1, number + 1)))
        if (uid_there := there.first("uid")) is not None:
            found.uids.setdefault(uid_there.text, number)
        for key in keys_of(there, to):
            if found.keys.setdefault(key, number) != number:
                found.keys[key] = -1
    pairing = Pairing(mine, theirs)
    pairing.surely()
    olds, news = pairing.alone()
    if olds and news:
        both = [held_store.get(at) for at in olds]
        both += [Contact(found.store.get(found.records[at]).properties, pack(1, at + 1))
                 for at in news]  # fmt: skip
        pairing.likely(both, region, 1, [])
    held_store.__exit__()
    for pair in pairing.pairs:
        found.of[uids[pair.old]] = pair.new
        found.likely += pair.how == "likely"
        if mine.digests[pair.old] == theirs.digests[pair.new]:
            found.same.add(uids[pair.old])
    return found


def contacts_there(path: Path, to: Destination) -> Iterator[Contact]:
    """Everybody in an export, or in a folder of cards. Raises `SourceError` and `LayoutError`."""
    if path.is_dir() and (cards := CardFolder(path)).list():
        yield from cards_in(cards)
        return
    plan = Plan.of(str(path), "")
    if to.layout is not None:
        plan.layouts, plan.where_they_fit = [to.layout], True
    for reading in plan.readings(Tally()):
        yield from reading.contacts()


def cards_in(there: There) -> Iterator[Contact]:
    """Everybody whom a service holds."""
    for href in there.list():
        card = there.get(href)
        if card is not None:
            yield from vcard.read([card[0]], source=0, tally=Tally())


def demand_whole(export: Export, path: Path, delivered: int) -> None:
    """Raise `JobError` where an export shows less than half of those who were delivered: it is
    hardly all that the destination holds, and nobody is to be taken for removed."""
    if delivered > 1 and len(export.of) * 2 < delivered:
        raise JobError(f"{path}: shows {len(export.of):,} of {delivered:,} people who were "
                       "delivered; name an export of all that the destination holds, or, if "
                       f"they were really removed there, use --trust {path}")  # fmt: skip


def _add(side: Side, contact: Contact) -> None:
    said = said_by(contact)
    side.add(contact, digest_of(said), spelling_of(said))
