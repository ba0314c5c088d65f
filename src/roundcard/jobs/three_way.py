"""Three states of a person held against each other: as it was, as the source has it now, as the
destination has it now.

The unit is the value, by field. What is written is what the source says now, with what only the
destination has kept, and with what was edited there as the job says. Nothing here knows files,
runs or the ledger.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from roundcard.card.contact import Contact
from roundcard.jobs.items import Item, Pair, items_of, merged_address, pairs_of, put_together, same
from roundcard.jobs.model import Again, Answer

Kind = Literal["same", "added", "changed", "removed", "cleared", "edited there", "same now",
               "conflict", "by the job", "theirs"]  # fmt: skip
Side = Literal["source", "there", "before"]
"""Whose value is written: the source's, the destination's, or the one that stood there before."""


class Change(NamedTuple):
    """What became of one value."""

    kind: Kind
    slot: str
    use: str
    before: str
    """As it was delivered; empty where there was none."""
    source: str
    there: str
    taken: Side
    held: bool = False
    """Whether it waits for an answer."""

    @property
    def path(self) -> str:
        """The field path, with uses and parts."""
        head, slash, part = self.slot.partition("/")
        if self.use and head != "custom":
            return f"{head}/{self.use}{slash}{part}"
        return self.slot


class States(NamedTuple):
    """The states of one person.

    The destination's states are as it holds them. ``then`` and ``now`` are what it would hold (as
    far as that can be told) of what the source said at the last delivery, and says now.
    """

    now: Contact
    """What the source says now, as it is meant."""
    modelled_then: Contact
    modelled_now: Contact
    held: Contact | None = None
    """What the destination held after the last delivery; None: as modelled."""
    there: Contact | None = None
    """What it holds now; None where that is not known."""


@dataclass(slots=True)
class Strand:
    """One value through all states."""

    then: Item | None = None
    now: Item | None = None
    held: Item | None = None
    there: Item | None = None

    @property
    def first(self) -> Item:
        """What it is, whichever state has it."""
        found = self.now or self.then or self.there or self.held
        assert found is not None
        return found


@dataclass(slots=True)
class Outcome:
    """What is to be written of a person, and why."""

    written: Contact
    changes: list[Change] = field(default_factory=list)
    waiting: list[Strand] = field(default_factory=list)
    """Values that wait for an answer, through all states."""

    @property
    def travels(self) -> bool:
        """Whether anything is to be written: the destination does not say it already."""
        return any(
            change.taken == "source" and change.kind not in ("same", "same now")
            for change in self.changes
        )

    @property
    def held(self) -> list[Change]:
        """What waits for an answer."""
        return [change for change in self.changes if change.held]


Origin = Callable[[Side], int]
"""The origin of a value that the source does not say now."""


def held_against(
    states: States, again: Again, origin: Origin, region: str = "", *, by_the_job: bool = False,
    answers: Callable[[Change], Answer | None] = lambda _: None,
) -> Outcome:  # fmt: skip
    """What is to be written; `by_the_job` says that the source is as it was, so that what changed
    is the job's doing. `answers` gives what a person decided of a value, where they did."""
    known = states.there is not None
    model = items_of(states.modelled_now)
    strands = _strands(states, model, region)
    now_slots = {item.slot for item in model}
    changes: list[Change] = []
    waiting: list[Strand] = []
    others: list[tuple[Strand, Side]] = []
    """Strands that are written otherwise than the source says now."""
    merged: list[tuple[Strand, Item]] = []
    for strand in strands:
        address = _address(strand, region) if known else None
        if address is not None:
            merged.append((strand, address))
            changes.append(_told(strand, "changed", "source"))
            continue
        kind, taken, held = _judged(strand, again, known, region, now_slots)
        if by_the_job and kind in ("added", "changed", "removed", "cleared"):
            kind, taken, held = "by the job", "source", False
        change = _told(strand, kind, taken, held=held)
        said = answers(change) if held else None
        if said in ("there", "source"):
            taken = "source" if said == "source" else "there" if known else "before"
            change = change._replace(taken=taken, held=False)
        if kind != "same":
            changes.append(change)
        if change.held:
            waiting.append(strand)
        if change.taken != "source":
            others.append((strand, change.taken))
    if not others and not merged:
        return Outcome(states.now, changes, waiting)
    written = _written(states.now, others, merged, strands, model, origin, region)
    return Outcome(written, changes, waiting)


def still_open(held: Contact, waiting: Sequence[Strand], origin: int) -> Contact:
    """What the destination holds, with values that wait for an answer as they were before: so they
    are in conflict the next time, too."""
    now = items_of(held)
    without, more = [], []
    for strand in waiting:
        if same(strand.held, strand.there):
            continue
        if strand.there is not None:
            wanted = (strand.there.slot, strand.there.use, strand.there.key)
            without += [item for item in now if (item.slot, item.use, item.key) == wanted]
        if strand.held is not None:
            more.append((strand.held, origin))
    return put_together(held, without, more) if without or more else held


def _strands(states: States, now: Sequence[Item], region: str) -> list[Strand]:
    then = items_of(states.modelled_then)
    strands = [Strand(pair.old, pair.new) for pair in pairs_of(then, now, region)]
    if states.there is None:
        for strand in strands:
            strand.held = strand.then
        return strands
    by_then = {id(strand.then): strand for strand in strands if strand.then is not None}
    held = items_of(states.held) if states.held is not None else then
    if states.held is None:
        for strand in strands:
            strand.held = strand.then
    else:
        for pair in pairs_of(then, held, region):
            if pair.old is not None:
                by_then[id(pair.old)].held = pair.new
            elif pair.new is not None:
                strands.append(Strand(held=pair.new))
    by_held = {id(strand.held): strand for strand in strands if strand.held is not None}
    fresh: list[Item] = []
    for pair in pairs_of(held, items_of(states.there), region):
        if pair.old is not None:
            by_held[id(pair.old)].there = pair.new
        elif pair.new is not None:
            fresh.append(pair.new)
    _join_fresh(strands, fresh, region)
    return strands


def _join_fresh(strands: list[Strand], fresh: Sequence[Item], region: str) -> None:
    """What is new on both sides, and says the same, or is one thing, is one strand."""
    news = {id(strand.now): strand for strand in strands
            if strand.now is not None and strand.then is None and strand.held is None}  # fmt: skip
    mine = [strand.now for strand in news.values() if strand.now is not None]
    for pair in pairs_of(mine, fresh, region):
        if pair.new is None:
            continue
        if pair.old is not None and (
            pair.old.single or same(pair.old, pair.new, region) or pair.old.key == pair.new.key
        ):
            news[id(pair.old)].there = pair.new
        else:
            strands.append(Strand(there=pair.new))


def _judged(
    strand: Strand, again: Again, known: bool, region: str, now_slots: Iterable[str]
) -> tuple[Kind, Side, bool]:
    """What a value is, whose is taken, and whether it waits for an answer."""
    then, now, held, there = strand.then, strand.now, strand.held, strand.there
    source = not same(then, now, region)
    service = known and not same(held, there, region)
    if then is None and now is None:
        return "theirs", "there", False
    if service and now is not None and same(now, there, region):
        return "same now", "source", False
    stands: Side = "there" if known else "before"
    if not source and not service:
        # what the service has otherwise than it was sent, it has by itself
        return "same", "source", False
    if source and not service:
        if now is None and then is not None:
            if then.slot in now_slots:
                return "removed", "source", False
            taken, waits = _by(again.cleared, stands)
            return "cleared", taken, waits
        return ("added" if then is None else "changed"), "source", False
    if not source:
        if again.edited_there == "source":
            return "edited there", "source", False
        return "edited there", "there", again.edited_there == "ask"
    if now is there is None:
        return "same now", "there", False
    taken, waits = _by(again.conflict, stands)
    return "conflict", taken, waits


def _by(answer: Answer, stands: Side) -> tuple[Side, bool]:
    return ("source" if answer == "source" else stands), answer == "ask"


def _told(strand: Strand, kind: Kind, taken: Side, *, held: bool = False) -> Change:
    first = strand.first
    texts = [item.text if item is not None else ""
             for item in (strand.then or strand.held, strand.now, strand.there)]  # fmt: skip
    return Change(kind, first.slot, first.use, texts[0], texts[1], texts[2], taken, held)


def _address(strand: Strand, region: str) -> Item | None:
    """An address of which each side changed another part."""
    then, now, held, there = strand.then, strand.now, strand.held, strand.there
    if then is None or now is None or held is None or there is None or now.slot != "address":
        return None
    if same(then, now, region) or same(held, there, region) or same(now, there, region):
        return None
    if now.prop.head.name != "adr" or there.prop.head.name != "adr":
        return None
    made = merged_address(then, now, there, held)
    return now._replace(prop=made[0], at=-1) if made is not None else None


def _written(
    now: Contact, others: Sequence[tuple[Strand, Side]], merged: Sequence[tuple[Strand, Item]],
    strands: Sequence[Strand], model: Sequence[Item], origin: Origin, region: str,
) -> Contact:  # fmt: skip
    """What the source says, with some values of others in place of its own."""
    own = items_of(now)
    named = any(strand.first.slot.startswith("name/") for strand, _ in others)
    mine = {id(pair.new): pair.old for pair in pairs_of(own, model, region)
            if pair.new is not None and pair.old is not None}  # fmt: skip
    without: list[Item] = []
    more: list[tuple[Item, int]] = []
    if named and not any(item.slot in ("name/given", "name/family") for item in own):
        # only a whole name is said here, and parts there: all of the name is what they say
        without += [item for item in own if item.slot.startswith("name/")]
        changed = {id(strand) for strand, _ in others}
        more += [(strand.now, origin("source")) for strand in strands
                 if strand.now is not None and strand.now.slot.startswith("name/")
                 and id(strand) not in changed]  # fmt: skip
    for strand, side in others:
        if strand.now is not None and (here := mine.get(id(strand.now))) is not None:
            without.append(here)
        item = strand.there if side == "there" else strand.held or strand.then
        if item is not None:
            more.append((item, origin(side)))
    for strand, item in merged:
        if strand.now is not None and (here := mine.get(id(strand.now))) is not None:
            without.append(here)
        more.append((item, origin("there")))
    return put_together(now, without, more)


def differences_between(old: Contact, new: Contact, region: str = "") -> list[Pair]:
    """What two states of a person say otherwise."""
    return [pair for pair in pairs_of(items_of(old), items_of(new), region)
            if not same(pair.old, pair.new, region)]  # fmt: skip
