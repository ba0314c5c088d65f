"""Counting what becomes of each value.

The unit is the value: one non-empty thing that a person would miss. Labels and parameters ride on
their value. Each stage counts what it does itself: the readers what they read, the steps what
they leave out, the writers what they carry and, from the text that they make, what is written.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from typing import NamedTuple, Protocol

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import CUSTOM
from roundcard.card.origin import ADDED, CHANGED, DERIVED, Spread


class SetAside(NamedTuple):
    """A record that could not be read, or a part of one."""

    source: int
    """Number of the source, from 0."""
    record: int
    """Number of the record in it, from 1; 0 where it belongs to none."""
    line: int
    """The line in the file at which it begins, from 1."""
    reason: str
    text: str
    """What it held, as well as it can be shown."""


class Sink(Protocol):
    """Keeps what the target does not get."""

    def left_behind(self, contact: Contact, prop: Property, reason: str) -> None:
        """Keep a value of `contact` that the target has no room or no characters for."""

    def set_aside(self, item: SetAside) -> None:
        """Keep a bad record."""


@dataclass(slots=True)
class Counts:
    """One column of the balance: how many people, or how many values."""

    read: int = 0
    blank: int = 0
    set_aside: int = 0
    left_out: int = 0
    folded: int = 0
    left_behind: int = 0
    carried: int = 0
    changed: int = 0
    added: int = 0
    derived: int = 0
    written: int = 0

    def add(self, other: Counts) -> None:
        """Add the counts of another column."""
        for each in fields(self):
            setattr(self, each.name, getattr(self, each.name) + getattr(other, each.name))


@dataclass(slots=True)
class Finding:
    """Something worth knowing, met several times."""

    count: int = 0
    examples: list[tuple[str, int]] = field(default_factory=list)
    """Where the first few stand, as ``("line", 12)``."""


MERGED_PEOPLE = "merged into the same person"
"""Why people are folded that are merged with others."""
MOST_EXAMPLES = 3
MOST_REASONS = 5_000
"""Different reasons that are told apart; a hostile file must not fill the memory with more."""


class Tally:
    """The counts of one piece of work. Tallies of several processes add up."""

    def __init__(self, sink: Sink | None = None) -> None:
        self.people = Counts()
        self.values = Counts()
        self.why: Counter[tuple[str, str]] = Counter()
        """Values by fate and reason, as ``("left behind", "photo: no column")``."""
        self.why_people: Counter[tuple[str, str]] = Counter()
        """People by fate and reason."""
        self.findings: dict[str, Finding] = {}
        self.shapes: Counter[tuple[int, str, str, str]] = Counter()
        """Cells of a table's column by their shape; see `roundcard.layouts.damage`."""
        self.sink = sink

    def set_aside(self, item: SetAside, values: int, people: int = 1) -> None:
        """A record (or, with `people` 0, a part of one) was read and could not be understood."""
        self.people.read += people
        self.people.set_aside += people
        self.values.read += values
        self.values.set_aside += values
        self.why["set aside", item.reason] += values
        self.why_people["set aside", item.reason] += people
        if self.sink is not None:
            self.sink.set_aside(item)

    def leave_out(self, values: int, reason: str) -> None:
        """The user said that these values are not wanted."""
        if values:
            self.values.left_out += values
            self.why["left out", reason] += values

    def leave_out_person(self, reason: str) -> None:
        """The user said that this person is not wanted; the values are counted apart."""
        self.people.left_out += 1
        self.why_people["left out", reason] += 1

    def fold(self, values: int, reason: str) -> None:
        """These values are said by an equal one that goes on."""
        if values:
            self.values.folded += values
            self.why["folded", reason] += values

    def leave_behind(self, contact: Contact, prop: Property, reason: str) -> None:
        """The target has no room, or no characters, for a value of `contact`.

        A value that was added or derived was never read: it is not written, and that is all.
        """
        values = prop.size()
        read = values - sum(self.fates(prop)[2:])
        self.values.left_behind += read
        if read:
            key = ("left behind", reason)
            if len(self.why) >= MOST_REASONS and key not in self.why:
                key = ("left behind", "other reasons")
            self.why[key] += read
        self.unmake(prop)
        if self.sink is not None and values > self.fates(prop)[3]:
            self.sink.left_behind(contact, prop, reason)

    def place(self, prop: Property, altered: str = "") -> None:
        """A value goes into the target; `altered` names what it loses there, if anything."""
        values = self.values
        origin = prop.origin
        if not altered:
            if origin.__class__ is Spread:
                values.carried += prop.size()
                return
            if origin.__class__ is int and origin >= 0:
                if origin & CHANGED:
                    values.changed += prop.size()
                else:
                    values.carried += prop.size()
                return
        carried, changed, added, derived = self.fates(prop)
        if altered and carried:
            self.why["changed", altered] += carried
            carried, changed = 0, changed + carried
        values.carried += carried
        values.changed += changed
        values.added += added
        values.derived += derived

    @staticmethod
    def fates(prop: Property) -> tuple[int, int, int, int]:
        """How many values of a property are carried, changed, added, derived."""
        origin = prop.origin
        if isinstance(origin, int):
            size = prop.size()
            if origin < 0:
                return (0, 0, 0, size) if origin == DERIVED else (0, 0, size, 0)
            return (0, size, 0, 0) if origin & CHANGED else (size, 0, 0, 0)
        if isinstance(origin, Spread):
            return prop.size(), 0, 0, 0
        carried = changed = added = derived = 0
        labelled = prop.head.name == CUSTOM
        for index, component in enumerate(prop.components):
            if not component or (labelled and index == 0):  # the label rides on the value
                continue
            one = origin[index]
            if isinstance(component, str) and isinstance(one, int):
                if one < 0:
                    added += one != DERIVED
                    derived += one == DERIVED
                elif one & CHANGED:
                    changed += 1
                else:
                    carried += 1
                continue
            for at, text in enumerate(component if isinstance(component, tuple) else (component,)):
                if text:
                    inner = prop.origin_of(index, at)
                    added += inner < 0 and inner != DERIVED
                    derived += inner == DERIVED
                    changed += inner >= 0 and inner & CHANGED
                    carried += inner >= 0 and not inner & CHANGED
        return carried, changed, added, derived

    def read_of(self, prop: Property) -> int:
        """How many values of a property were read, and neither added nor derived."""
        return sum(self.fates(prop)[:2])

    def take_back(self, prop: Property) -> None:
        """A property goes no further: values that were added to it are not added after all."""
        self.unmake(prop)
        word = prop.head.field.path
        for index, component in enumerate(prop.components):
            if prop.origin_of(index) == ADDED and component:
                told = f"{word} '{component}'"
                for key in [k for k in self.why if k[0] == "added" and k[1].startswith(told)]:
                    self.why[key] -= 1

    def derive(self, values: int, prop: Property, rule: str) -> None:
        """A named rule made values of a property from others; they count when they are written."""
        self.why["derived", f"{prop.head.field.path}: {rule} (rule)"] += values

    def unmake(self, prop: Property) -> None:
        """Values that a rule made go no further: they are not derived after all."""
        if derived := self.fates(prop)[3]:
            word = f"{prop.head.field.path}: "
            for key in [k for k in self.why if k[0] == "derived" and k[1].startswith(word)]:
                self.why[key] -= min(derived, self.why[key])

    def change(self, rule: str, values: int = 1) -> None:
        """A named rule changed values (their origins carry the mark)."""
        self.why["changed", rule] += values

    def find(self, what: str, unit: str = "", number: int = 0) -> None:
        """Something worth knowing; the first few places, as ``line 12``, are kept as examples."""
        if len(self.findings) >= MOST_REASONS and what not in self.findings:
            what = "other things worth knowing"
        finding = self.findings.setdefault(what, Finding())
        finding.count += 1
        if unit and len(finding.examples) < MOST_EXAMPLES:
            finding.examples.append((unit, number))

    def add(self, other: Tally, before: Mapping[str, int] | None = None) -> None:
        """Add the counts of another tally to this one.

        `before` is what came before the place where the other one began to count, by unit.
        """
        before = before or {}
        self.people.add(other.people)
        self.values.add(other.values)
        self.why.update(other.why)
        self.why_people.update(other.why_people)
        self.shapes.update(other.shapes)
        for what, finding in other.findings.items():
            mine = self.findings.setdefault(what, Finding())
            mine.count += finding.count
            moved = [(unit, n + before.get(unit, 0) if n else 0) for unit, n in finding.examples]
            mine.examples = (mine.examples + moved)[:MOST_EXAMPLES]
