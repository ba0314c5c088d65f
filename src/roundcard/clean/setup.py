"""The cleaning of a plan's sources: each by its own habits, and by what its layout wishes."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from roundcard.books.plan import Plan
from roundcard.books.shapes.batch import Batch
from roundcard.books.shapes.steps import MayLack
from roundcard.books.source import Source, wide_encoding
from roundcard.card.contact import Contact
from roundcard.card.origin import unpack
from roundcard.clean.book_conventions import Habits, habits_in
from roundcard.clean.by_columns import Event
from roundcard.clean.countries import country_code, country_name
from roundcard.clean.rules import chosen
from roundcard.clean.step import Again, Change, Clean, Count, Forms, Refused, Tell
from roundcard.clean.user_rules import Wishes, wishes_of
from roundcard.errors import UsageError
from roundcard.layouts.model import Layout
from roundcard.tally import Tally

_NEED_HABITS = frozenset(("name-case", "date-order", "date-number", "name-split"))
_DATES = ("birthday", "anniversary", "deathdate")
_IN_NUMBERS = [
    re.compile(word + rb"[^\r\n]{0,200}[:\"]\s{0,3}(?:\d{1,2}\s?[-./ =]|\d{4}[./ =])")
    for word in (b"bday", b"anniversary", b"deathdate")
]
"""A day in octets (of vCard or jCard, in small letters) that is not written as the standards want
it; each by itself, since a plain beginning is found in no time."""
_LONGEST_LINE = 400
_SEVERAL = {"phone-apart": "phone", "email-apart": "email", "url-apart": "url"}
_IN_PARTS = {"name-titles": ("name", frozenset(("prefix",))),
             "name-suffixes": ("name", frozenset(("suffix",))),
             "name-split": ("name", frozenset(("full", "given", "family"))),
             "address-apart": ("address", frozenset(("full", "street", "locality")))}  # fmt: skip
"""The field that a rule takes apart, and the parts of which a table must have columns."""
_PEOPLE_ENOUGH = 20_000
"""People who tell how a book writes its names."""
_ORDERS = {"given-first": "given", "family-first": "family"}


class CleanEach:
    """Cleans the contacts of each source by a step of its own."""

    def __init__(self, steps: Sequence[Clean]) -> None:
        self.steps = tuple(steps)
        self._last = self.steps[0]

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact with its values cleaned; the same one where nothing changed."""
        return self._step_for(contact.origin)(contact, tally)

    def shaped(self, batch: Batch, may_lack: MayLack) -> tuple[Batch, set[int]]:
        """Many contacts of one source and shape, cleaned at once."""
        self._last = self._step_for(batch.origin(batch.places[0]))
        return self._last.shaped(batch, may_lack)

    def events(self) -> dict[int, Event]:
        """What is to be told of the contacts that `shaped` took last."""
        return self._last.events()

    def passed(self, records: int) -> None:
        """So many were written."""
        self._last.passed(records)

    def _step_for(self, origin: int) -> Clean:
        place = unpack(origin)
        at = place.source if place is not None and len(self.steps) > 1 else 0
        return self.steps[at]

    def gather(self) -> list[Any]:
        """Keep what is told in a list, for the parent of this process."""
        gathered: list[Change | Again] = []
        for step in self.steps:
            step.tell = gathered.append
            step.count = None if step.each else gathered.append
        return gathered

    def listen(self, also: Callable[[int, int, str, str], None]) -> None:
        """Tell each change to somebody else, too."""
        for step in self.steps:
            step.tell = _both(step.tell, also)
            step.each = True

    def begin(self) -> None:
        """The work begins again."""
        for step in self.steps:
            step.begin()

    def give(self, gathered: Sequence[Change | Again], records: int) -> None:
        """Tell what another process gathered; `records` came before what it worked on."""
        self.steps[0].give(gathered, records)


def _both(tell: Tell | None, also: Callable[[int, int, str, str], None]) -> Tell:
    def told(change: Change) -> None:
        if tell is not None:
            tell(change)
        also(change.source, change.record, change.before, change.after)

    return told


def cleaning(
    plan: Plan,
    wishes: Wishes,
    *,
    this_year: int = 0,
    keeps_layout: bool = False,
    sure_only: bool = False,
    tell: Tell | None = None,
    count: Count | None = None,
    refused: frozenset[Refused] = frozenset(),
    usual: Wishes = Wishes(),  # noqa: B008  (it cannot be changed)
) -> CleanEach:
    """The step that cleans what a plan reads.

    `wishes` beat those of the layouts, and these the `usual` ones. With `keeps_layout`, rules that
    make more values than there were are left off unless they are named, or the layout has columns
    for them; with `sure_only` a change that is not sure is only reported. What a book tells only
    as a whole takes a pass over it. Raises `UsageError`, `PlanError` and `SourceError`.
    """
    steps = []
    demand(wishes)
    for reading in plan.readings(Tally()):
        layout = reading.table.layout if reading.source.format.sort == "table" else None
        wanted = wishes
        if layout is not None and layout.clean:
            wanted = wishes.over(wishes_of(layout.clean, f"{layout.where}, [clean]"))
            demand(wanted)
        wanted = wanted.over(usual)
        kept = layout if keeps_layout else None
        room = partial(_has_room, kept) if keeps_layout else _anything
        rules = chosen(wanted.rules, wanted.without, wanted.own, room)
        habits = Habits()
        if _NEED_HABITS & {rule.name for rule in rules}:
            undated = _undated(layout) if layout is not None else _dated(reading.source)
            most = 0 if undated else _PEOPLE_ENOUGH
            habits = habits_in(reading, _told_by(layout, wanted), most)
        years_from = wanted.years_from or (layout.years_from if layout is not None else 0)
        forms = Forms(wanted.region.upper(), wanted.phone or "international",
                      wanted.countries.lower(), this_year, years_from, sure_only)  # fmt: skip
        steps.append(Clean(rules, forms, habits, tell=tell, count=count, refused=refused))
    return CleanEach(steps)


def _anything(_: str) -> bool:
    return True


def _has_room(layout: Layout | None, rule: str) -> bool:
    """Whether a table that keeps its columns has some for what a rule takes apart."""
    if layout is None:
        return False
    paths = [path for column in layout.columns for path in column.holds]
    if rule in _SEVERAL:
        field = _SEVERAL[rule]
        many = any(column.many for column in layout.columns
                   if column.holds and column.holds[0].field == field)  # fmt: skip
        places = [path for path in paths if path.field == field and path.part in ("", "full")]
        return many or len(places) > 1
    field, needed = _IN_PARTS.get(rule, ("", frozenset()))
    return needed <= {path.part for path in paths if path.field == field}


def demand(wishes: Wishes) -> None:
    """Raise `UsageError` for rules, forms and regions that there are not."""
    chosen(wishes.rules, wishes.without)
    if wishes.phone not in ("", "international", "national"):
        raise UsageError(f"unknown phone format '{wishes.phone}'; use international or national")
    language = wishes.countries.lower()
    if language not in ("", "code") and not country_name("FR", language):
        raise UsageError(f"unknown language '{wishes.countries}'; use 'code' or a two-letter code "
                         "such as en")  # fmt: skip
    if wishes.region and not country_name(wishes.region.upper(), "en"):
        meant = country_code(wishes.region)
        hint = f"did you mean {meant}?" if meant else "use a two-letter code such as GB"
        raise UsageError(f"unknown country '{wishes.region}'; {hint}")
    if wishes.names and wishes.names not in _ORDERS:
        raise UsageError(f"unknown order of names '{wishes.names}'; choose from "
                         f"{', '.join(_ORDERS)}")  # fmt: skip


def _undated(layout: Layout) -> bool:
    """Whether a table may have dates whose order only all of them tell."""
    return any(
        path.field in _DATES and column.date is None
        for column in layout.columns
        for path in column.holds
    )


def _dated(source: Source) -> bool:
    """Whether cards may have dates in numbers whose order only all of them tell.

    A look at the octets alone, since it costs a tenth of reading the cards.
    """
    if wide_encoding(source.sample):
        return True
    tail = b""
    with source.open() as stream:
        while octets := stream.read(1 << 20):
            looked_at = (tail + octets).lower()
            if any(pattern.search(looked_at) for pattern in _IN_NUMBERS):
                return True
            tail = octets[-_LONGEST_LINE:]
    return False


def _told_by(layout: Layout | None, wanted: Wishes) -> dict[str, str]:
    """Orders that need not be guessed: those of a layout's date columns, and of names as wished."""
    found = {"name/full": _ORDERS[wanted.names]} if wanted.names else {}
    for column in layout.columns if layout is not None else ():
        if column.date is not None and column.holds:
            found[column.holds[0].field] = column.date.order[0]
    return found
