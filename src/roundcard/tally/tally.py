"""The ledger: what becomes of each value, counted once, where the value ends.

The unit is the value: one non-empty thing that a person would miss. Labels and parameters ride on
their value. Each stage counts what it does itself: the readers what they read, the steps what
they leave out, the writers what they carry and, from the text that they make, what is written.
What a rule changed, added or derived carries the reason in its origin, and is counted by it when it
is placed; so fate and reason are one count, and a value that goes no further is counted nowhere.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, fields
from typing import NamedTuple, Protocol, TypeVar

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import CUSTOM
from roundcard.card.origin import CHANGED, Spread, is_derived, reason_in
from roundcard.tally.reasons import Fate, Reason, Why, reason_of

T = TypeVar("T")


class SetAside(NamedTuple):
    """A record that could not be read, or a part of one."""

    source: int
    """Number of the source, from 0."""
    record: int
    """Number of the record in it, from 1; 0 where it belongs to none."""
    line: int
    """The line in the file at which it begins, from 1."""
    reason: str
    """What the reader could not make sense of."""
    text: str
    """What it held, as well as it can be shown."""


class Sink(Protocol):
    """Keeps what the target does not get."""

    def left_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:
        """Keep a value of `contact` that the target has no room or no characters for."""

    def set_aside(self, item: SetAside) -> None:
        """Keep a bad record."""


@dataclass(slots=True, repr=False)
class Counts:
    """One column of the balance: how many people, or how many values."""

    read: int = 0
    blank: int = 0
    passed_over: int = 0
    set_aside: int = 0
    left_out: int = 0
    folded: int = 0
    left_behind: int = 0
    not_sent: int = 0
    held_back: int = 0
    refused: int = 0
    carried: int = 0
    changed: int = 0
    split: int = 0
    added: int = 0
    derived: int = 0
    written: int = 0

    def __repr__(self) -> str:
        told = [f"{each.name} {getattr(self, each.name)}" for each in fields(self)
                if getattr(self, each.name)]  # fmt: skip
        return f"<{', '.join(told) or 'nothing'}>"

    def of(self, fate: Fate) -> int:
        """How many met a fate."""
        count: int = getattr(self, _NAMES[fate])
        return count

    def more(self, fate: Fate, count: int) -> None:
        """So many more met a fate."""
        setattr(self, _NAMES[fate], getattr(self, _NAMES[fate]) + count)

    def add(self, other: Counts) -> None:
        """Add the counts of another column."""
        for each in fields(self):
            setattr(self, each.name, getattr(self, each.name) + getattr(other, each.name))


_NAMES = {fate: fate.name.lower() for fate in Fate}


class Fates(NamedTuple):
    """How many values of a property are as they were read, changed, added, derived."""

    carried: int
    changed: int
    added: int
    derived: int


@dataclass(slots=True)
class Finding:
    """Something worth knowing, met several times."""

    count: int = 0
    examples: list[tuple[str, int]] = field(default_factory=list)
    """Where the first few stand, as ``("line", 12)``."""


Findings = dict[str, Finding]
"""By what was met."""

MOST_EXAMPLES = 3
MOST_TOLD = 5_000
"""Different reasons that are told apart; a hostile file must not fill the memory with more."""


class Tally:
    """The counts of one piece of work. Tallies of several processes add up."""

    def __init__(self, sink: Sink | None = None) -> None:
        self.people = Counts()
        self.values = Counts()
        self.why: Counter[Reason] = Counter()
        """Values by the reason for their fate."""
        self.why_people: Counter[Reason] = Counter()
        """People by the reason for their fate."""
        self.findings: Findings = {}
        self.shapes: Counter[tuple[int, str, str, str]] = Counter()
        """Cells of a table's column by their shape; see `roundcard.layouts.damage`."""
        self.sink = sink

    def __repr__(self) -> str:
        return f"<Tally people {self.people!r} values {self.values!r}>"

    def count(self, reason: Reason, values: int = 0, people: int = 0) -> None:
        """So many values, or people, end with a fate, for a reason."""
        if values:
            told = self.why.get(reason)
            if told is None:
                if len(self.why) >= MOST_TOLD:
                    reason = Reason(reason.fate, Why.OTHER)
                told = self.why[reason]
            self.values.more(reason.fate, values)
            self.why[reason] = told + values
        if people:
            if reason not in self.why_people and len(self.why_people) >= MOST_TOLD:
                reason = Reason(reason.fate, Why.OTHER)
            self.people.more(reason.fate, people)
            self.why_people[reason] += people

    def set_aside(self, item: SetAside, values: int, people: int = 1) -> None:
        """A record (or, with `people` 0, a part of one) was read and could not be understood."""
        self.people.read += people
        self.values.read += values
        self.count(Reason(Fate.SET_ASIDE, Why.UNREADABLE, details=(item.reason,)), values, people)
        if self.sink is not None:
            self.sink.set_aside(item)

    def leave_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:
        """The target has no room, or no characters, for a value of `contact`.

        A value that was added or derived was never read: it is not written, and that is all. What
        was added is kept with the rest; what was derived still stands elsewhere.
        """
        fates = self.fates(prop)
        self.count(reason, fates.carried + fates.changed)
        if self.sink is not None and (fates.carried or fates.changed or fates.added):
            self.sink.left_behind(contact, prop, reason)

    def place(self, prop: Property, altered: Reason | None = None) -> None:
        """A value goes into the target; `altered` is why it stands there otherwise than it was
        read, if it does and no rule has changed it before."""
        origin = prop.origin
        if altered is None:
            if origin.__class__ is Spread:
                self.values.carried += prop.size()
                return
            if origin.__class__ is int and origin >= 0 and not origin & CHANGED:
                self.values.carried += prop.size()
                return
        for one, count in self.ends(prop):
            self.end(one, count, altered)

    def end(self, origin: int, count: int = 1, altered: Reason | None = None) -> None:
        """So many values of one origin go into the target; see `place`."""
        if number := reason_in(origin):
            self.count(reason_of(number), count)
        elif origin < 0:
            fate = Fate.DERIVED if is_derived(origin) else Fate.ADDED
            self.count(Reason(fate, Why.UNSAID), count)
        elif altered is not None:
            self.count(altered, count)
        else:
            self.values.carried += count

    @staticmethod
    def ends(prop: Property) -> Iterator[tuple[int, int]]:
        """The origins of a property's values, and how many values have each."""
        origin = prop.origin
        if isinstance(origin, int):
            yield origin, prop.size()
            return
        if isinstance(origin, Spread):
            yield origin.base, prop.size()
            return
        labelled = prop.head.name == CUSTOM
        for index, component in enumerate(prop.components):
            if not component or (labelled and index == 0):  # the label rides on the value
                continue
            one = origin[index] if index < len(origin) else 0
            if isinstance(component, str) and isinstance(one, int):
                yield one, 1
                continue
            for at, text in enumerate(component if isinstance(component, tuple) else (component,)):
                if text:
                    yield prop.origin_of(index, at), 1

    def fates(self, prop: Property) -> Fates:
        """How many values of a property are carried, changed, added, derived."""
        found = [0, 0, 0, 0]
        for origin, count in self.ends(prop):
            if origin < 0:
                found[3 if is_derived(origin) else 2] += count
            else:
                found[1 if origin & CHANGED else 0] += count
        return Fates(*found)

    def read_of(self, prop: Property) -> int:
        """How many values of a property were read, and neither added nor derived."""
        return sum(count for origin, count in self.ends(prop) if origin >= 0)

    def find(self, what: str, unit: str = "", number: int = 0, times: int = 1) -> None:
        """Something worth knowing; the first few places, as ``line 12``, are kept as examples."""
        finding = self.findings.get(what)
        if finding is None:
            if len(self.findings) >= MOST_TOLD:
                what = "other things worth knowing"
            finding = self.findings.setdefault(what, Finding())
        finding.count += times
        if unit and len(finding.examples) < MOST_EXAMPLES:
            finding.examples.append((unit, number))

    def taken(self) -> Tally:
        """All that was counted so far, for somebody else to add; here it begins anew."""
        taken = Tally()
        for name in ("people", "values", "why", "why_people", "findings", "shapes"):
            begun = getattr(taken, name)
            setattr(taken, name, getattr(self, name))
            setattr(self, name, begun)
        return taken

    def find_again(self, findings: Findings, before: Mapping[str, int] | None = None) -> None:
        """Tell findings of elsewhere here; `before` is what came before the place where numbers
        begin to count, by unit."""
        before = before or {}
        for what, finding in findings.items():
            mine = self.findings.setdefault(what, Finding())
            mine.count += finding.count
            moved = [(unit, n + before.get(unit, 0) if n else 0) for unit, n in finding.examples]
            mine.examples = (mine.examples + moved)[:MOST_EXAMPLES]

    def overhear(self, work: Callable[[], T]) -> tuple[T, Findings]:
        """Do some work, and what it finds, which is not told here."""
        told, self.findings = self.findings, {}
        try:
            return work(), self.findings
        finally:
            self.findings = told

    def add(self, other: Tally, before: Mapping[str, int] | None = None) -> None:
        """Add the counts of another tally to this one.

        `before` is what came before the place where the other one began to count, by unit.
        """
        self.people.add(other.people)
        self.values.add(other.values)
        self.why.update(other.why)
        self.why_people.update(other.why_people)
        self.shapes.update(other.shapes)
        self.find_again(other.findings, before)
