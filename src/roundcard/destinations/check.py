"""Is a set of files ready for a destination? What it would refuse, merge, cut, ignore or change.

Nothing is written. Each person is fitted as they would be for writing, and what that would do is
told as what the service would do; besides, the files are looked at as files, and the whole set for
what only shows over all of it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, NamedTuple

from roundcard.books.plan import Plan
from roundcard.books.source import Source, sample_rows, vcard_version
from roundcard.books.tables import dialect_for, guessed_dialect
from roundcard.card.contact import Contact, flat
from roundcard.card.equality import identity
from roundcard.card.fields import CUSTOM
from roundcard.card.names import called
from roundcard.destinations.desk import Effect
from roundcard.destinations.fitting import Fit
from roundcard.destinations.keys import Key, keys_of, named
from roundcard.destinations.model import FORMATS, Destination
from roundcard.destinations.pieces import path_at
from roundcard.destinations.rewrites import rewritten, words_for
from roundcard.destinations.room import fitted_layout
from roundcard.errors import RoundCardError
from roundcard.formats import Format, by_name
from roundcard.layouts.binding import bind
from roundcard.layouts.model import Layout
from roundcard.tally import Fate, SetAside, Tally, Why

Kind = Literal["refused", "merged", "cut", "ignored", "changed"]
KINDS: tuple[Kind, ...] = ("refused", "merged", "cut", "ignored", "changed")
"""What the service would do, the worst first."""
Told = Literal[
    "format", "unreadable", "headings-missing", "headings-unknown", "headings-order",
    "not-its-table", "character-set", "separator", "blank-rows", "people-in-file", "file-size",
    "people-in-all", "same-key", "in-two-files", "rewritten",
]  # fmt: skip
"""What is found of files and of the whole set; the rest are rules of the ledger."""
MOST_EXAMPLES = 3
_RECORD_BITS = 40
_OF_WHY: dict[str, Kind] = {
    Why.LACKS_NEEDED: "refused", Why.TOO_BIG_THERE: "refused", Why.NOT_ALLOWED: "refused",
    Why.ALLOWED_OTHERWISE: "refused", Why.CUT: "cut", Why.TOO_LONG_THERE: "cut",
    Why.NEAREST: "changed", Why.NO_CHARACTERS: "changed", Why.ON_ONE_LINE: "changed",
    Why.STYLED: "changed",
}  # fmt: skip


class Example(NamedTuple):
    """Where something was found."""

    source: str
    record: int
    """From 1; 0 for a file, or the whole set."""
    person: str = ""
    before: str = ""
    after: str = ""


@dataclass(slots=True)
class Finding:
    """One kind of thing that the service would do, and where."""

    kind: Kind
    rule: str
    """A word of `Told`, or a `Why`."""
    path: str = ""
    detail: str = ""
    count: int = 0
    examples: list[Example] = field(default_factory=list)


@dataclass(slots=True)
class Forecast:
    """What will come of sending the files."""

    people: int = 0
    refused: int = 0
    known: int = 0
    """People whom the service has."""
    new: int = 0
    asked: bool = False
    """Whether it is known whom the service has."""
    existing: str = ""
    """What the import is to do with those; empty where that is not said."""

    @property
    def taken(self) -> int:
        """People who will be taken."""
        return self.people - self.refused


@dataclass(slots=True)
class CheckReport:
    """What a check found."""

    destination: Destination
    findings: list[Finding]
    forecast: Forecast
    files: int


Row = tuple[Finding, Example]


class Check:
    """Checks one file after another, and then the whole set."""

    def __init__(
        self,
        to: Destination,
        *,
        region: str = "",
        existing: str = "",
        row: Callable[[Row], None] | None = None,
    ) -> None:
        """`existing` is what the import is to do with people whom the service knows; `row` is
        called with each thing that is found."""
        self._existing = existing
        self.to = to
        self._row = row
        self._region = region
        self._found: dict[tuple[str, str, str, str], Finding] = {}
        self._keys: dict[int, int] = {}
        """The file and record that had a key first, as one number."""
        self._there: set[int] | None = None
        self._sources: list[str] = []
        self.forecast = Forecast(existing=existing)
        plain = replace(to, overflow=None)  # what has no room is told by what refuses it
        self._fits = {table: Fit(plain, table=table, region=region, tell=self._effect)
                      for table in self._sorts()}  # fmt: skip

    def _sorts(self) -> set[bool]:
        return {by_name(FORMATS[word]).sort == "table" for word in self.to.accepts}

    def know(self, contacts: Iterable[Contact]) -> None:
        """Learn whom the service has."""
        there = self._there = self._there or set()
        for contact in contacts:
            there.update(hash(key) for key in keys_of(contact, self.to))
        self.forecast.asked = True

    def file(self, plan: Plan, watch: Callable[[int, int], None] | None = None) -> None:
        """Look at one file, which is the only source of a plan."""
        source = plan.open()[0]
        number = len(self._sources)
        self._sources.append(source.name)
        whole = self._as_file(source, plan)
        table = source.format.sort == "table"
        preferred = by_name(FORMATS[self.to.accepts[0]]).sort == "table"
        fit = self._fits[table if self.to.takes(_form(source).name) else preferred]
        tally = Tally(_Aside(self._set_aside))
        before = self.forecast.people
        people = 0
        for reading in plan.readings(tally):
            for contact in reading.contacts(watch):
                people += 1
                self._person(number, contact, fit, whole=whole)
        unread = tally.people.set_aside
        self.forecast.people += people + unread
        self.forecast.refused += unread
        self._after(source, tally, people, before)

    def _person(self, number: int, contact: Contact, fit: Fit, *, whole: bool) -> None:
        fitted = fit(contact, Tally())
        if fitted is None or whole:
            self.forecast.refused += 1
        else:
            self._rewrites(number, contact, fitted)
        keys = list(keys_of(contact, self.to))
        if self._there is not None and not whole and fitted is not None:
            known = any(hash(key) in self._there for key in keys)
            self.forecast.known += known
            self.forecast.new += not known
        self._keyed(number, contact, keys)

    def _keyed(self, number: int, contact: Contact, keys: Sequence[Key]) -> None:
        """Tell whether somebody before had the same key, so that one is put on the other."""
        here = number << _RECORD_BITS | contact.record
        told: list[tuple[int, str, str]] = [
            (hash(key), named(key[0], self.to), " ".join(key[1])) for key in keys
        ]
        uid = contact.first("uid")
        if uid is not None and uid.text:
            told.append((hash(("uid", identity(uid.text))), "uid", uid.text))
        for key, fields, text in told:
            first = self._keys.setdefault(key, here)
            before, record = first >> _RECORD_BITS, first & ((1 << _RECORD_BITS) - 1)
            alone = before == number and key == told[-1][0] and len(told) > len(keys)
            if first == here or alone:  # the service tells nobody by a uid that it does not read
                continue
            if self._existing == "beside" and before == number:
                return
            kind: Kind = "ignored" if self._existing == "leave" else "merged"
            rule = "same-key" if before == number else "in-two-files"
            other = f"{self._sources[before]}, record {record}"
            self._tell(kind, rule, fields, "",
                       Example(self._sources[number], contact.record, called(contact), text,
                               other))  # fmt: skip
            return

    def _effect(self, effect: Effect) -> None:
        kind = _OF_WHY.get(effect.rule, "ignored")
        if effect.fate is Fate.DERIVED:
            return
        path = effect.path
        self._tell(kind, effect.rule, path, effect.detail,
                   Example(self._sources[-1], effect.record, effect.person, effect.before,
                           effect.after))  # fmt: skip

    def _rewrites(self, number: int, contact: Contact, fitted: Contact) -> None:
        if not self.to.rewrites:
            return
        for prop in fitted.properties:
            if prop.rides or not prop.size() or prop.head.field.kind == "media":
                continue
            for at, component in enumerate(prop.components):
                if at == 0 and prop.head.name == CUSTOM:
                    continue
                path = path_at(prop, at)
                words = words_for(path, self.to)
                for text in flat((component,)) if words else ():
                    made = rewritten(text, path, self.to, self._region)
                    if made != text:
                        self._tell("changed", "rewritten", str(path), ", ".join(words),
                                   Example(self._sources[number], contact.record,
                                           called(contact), text, made))  # fmt: skip

    # files as files

    def _as_file(self, source: Source, plan: Plan) -> bool:
        """Look at a file as a file, and say how it is read; whether the service refuses it."""
        name, table = source.name, source.format.sort == "table"
        form = _form(source)
        if not self.to.takes(form.name):
            takes = ", ".join(self.to.accepts)
            self._tell("refused", "format", "", f"{form.title}|{takes}", Example(name, 0))
            return True
        self._size(source)
        layout = fitted_layout(self.to)
        if not table or layout is None:
            return False
        guessed = guessed_dialect(source)
        notes: list[str] = []
        said = dialect_for(source, layout, guessed, notes)
        if source.format.of_text and said.encoding != layout.dialect.encoding:
            self._tell("refused", "character-set", "", f"{said.encoding}|{layout.dialect.encoding}",
                       Example(name, 0))  # fmt: skip
        other = replace(said, separator=guessed.dialect.separator)
        headings = _headings(source, layout, said)
        if headings is not None and not bind(layout, headings, len(headings)).columns:
            again = _headings(source, layout, other)
            if again is not None and bind(layout, again, len(again)).columns:
                self._tell("refused", "separator", "", f"{other.separator}|{said.separator}",
                           Example(name, 0))  # fmt: skip
                headings = again
        return self._headings(source, plan, layout, headings)

    def _headings(
        self, source: Source, plan: Plan, layout: Layout, headings: list[str] | None
    ) -> bool:
        """Hold a table's headings against the destination's; whether it is another table."""
        name = source.name
        if headings is None:
            plan.layouts = [layout]
            return False
        found = bind(layout, headings, len(headings))
        if not found.columns:
            shown = ", ".join(f"'{each}'" for each in headings[:4])
            self._tell("refused", "not-its-table", "", shown, Example(name, 0))
            return True
        plan.layouts = [replace(layout, unlisted="skip" if found.unlisted else layout.unlisted)]
        for column in found.missing:
            if not column.blank and not column.skip:
                self._tell("refused", "headings-missing", column.name, "", Example(name, 0))
        if layout.unlisted != "custom":
            for _, heading in found.unlisted:
                kind: Kind = "refused" if layout.unlisted == "refuse" else "ignored"
                self._tell(kind, "headings-unknown", heading, "", Example(name, 0))
        order = {id(column): at for at, column in enumerate(layout.columns)}
        places = [order[id(column)] for _, column in found.columns]
        if places != sorted(places):
            self._tell("refused", "headings-order", "", "", Example(name, 0))
        return False

    def _size(self, source: Source) -> None:
        most = self.to.limits.octets_per_file
        if most and source.octets > most:
            self._tell("refused", "file-size", "", f"{source.octets}|{most}",
                       Example(source.name, 0))  # fmt: skip

    def _after(self, source: Source, tally: Tally, people: int, before: int) -> None:
        limits = self.to.limits
        if limits.people_per_file and people > limits.people_per_file:
            self._tell("refused", "people-in-file", "", f"{people}|{limits.people_per_file}",
                       Example(source.name, 0))  # fmt: skip
        if limits.people_in_all and before <= limits.people_in_all < before + people:
            over = before + people - limits.people_in_all
            self._tell("refused", "people-in-all", "", str(limits.people_in_all),
                       Example(source.name, 0), count=over)  # fmt: skip
            self.forecast.refused += over
        elif limits.people_in_all and before > limits.people_in_all:
            self._tell("refused", "people-in-all", "", str(limits.people_in_all),
                       Example(source.name, 0), count=people)  # fmt: skip
            self.forecast.refused += people
        self.forecast.refused = min(self.forecast.refused, self.forecast.people)
        if tally.people.blank and self.to.on_import.blank_rows != "unknown":
            refuses = self.to.on_import.blank_rows == "refused"
            self._tell("refused" if refuses else "ignored", "blank-rows", "", "",
                       Example(source.name, 0), count=tally.people.blank)  # fmt: skip

    def _set_aside(self, item: SetAside) -> None:
        self._tell("refused", "unreadable", "", item.reason,
                   Example(self._sources[-1], item.record, "", item.text[:200]))  # fmt: skip

    def _tell(
        self, kind: Kind, rule: str, path: str, detail: str, example: Example, count: int = 1
    ) -> None:
        if rule in (Why.NOT_ALLOWED, Why.ALLOWED_OTHERWISE) and example.record:
            detail = ""
        key = (kind, rule, path, detail)
        finding = self._found.get(key)
        if finding is None:
            finding = self._found[key] = Finding(kind, rule, path, detail)
        finding.count += count
        if len(finding.examples) < MOST_EXAMPLES:
            finding.examples.append(example)
        if self._row is not None:
            self._row((finding, example))

    def report(self) -> CheckReport:
        """All that was found, the worst first."""
        found = sorted(self._found.values(), key=lambda each: (KINDS.index(each.kind), -each.count))
        return CheckReport(self.to, found, self.forecast, len(self._sources))


class _Aside:
    """A tally's sink that hears of records that cannot be read."""

    def __init__(self, hear: Callable[[SetAside], None]) -> None:
        self._hear = hear

    def left_behind(self, *_: object) -> None:
        """Nothing is left behind by reading."""

    def set_aside(self, item: SetAside) -> None:
        """Hear of one."""
        self._hear(item)


def _form(source: Source) -> Format:
    """The format of a file, of text cards with their version."""
    if not source.format.version:
        return source.format
    return by_name(f"vcard-{vcard_version(source.sample) or source.format.version}")


def _headings(source: Source, layout: Layout, dialect: object) -> list[str] | None:
    """The headings of a table; None where its layout has none."""
    if not layout.heading_row:
        return None
    try:
        rows = sample_rows(source, dialect)  # type: ignore[arg-type]
        for at, row in enumerate(rows, 1):
            if at == layout.heading_row:
                return row.cells
    except RoundCardError:
        return []
    return []
