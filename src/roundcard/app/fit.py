"""Writing for a destination: its format, its layout, its step before the writer, its files."""

from __future__ import annotations

from roundcard import formats
from roundcard.books.options import Room
from roundcard.books.plan import Plan
from roundcard.books.source import STANDARD
from roundcard.destinations.desk import TellEffect
from roundcard.destinations.fitting import Fit
from roundcard.destinations.model import FORMATS, Destination
from roundcard.destinations.room import fitted_layout
from roundcard.destinations.take_back import TakeBack
from roundcard.errors import UsageError


def fit_to(plan: Plan, to: Destination, region: str = "", tell: TellEffect | None = None) -> None:
    """Make a plan write what a destination takes; `region` is the country of numbers without a
    code, `tell` is called with each effect.

    Raises `UsageError` for a format that it does not accept.
    """
    if plan.to_layout is not None:
        raise UsageError("--destination has a layout of its own; leave out --to-layout")
    name = _format(plan, to)
    form = formats.by_name(name)
    plan.to_format = name
    if form.sort == "table":
        plan.to_layout = fitted_layout(to)
    plan.last = [*plan.last, Fit(to, table=form.sort == "table", region=region, tell=tell)]
    if not plan.split:
        plan.room = Room(to.limits.people_per_file, to.limits.octets_per_file)


def read_from(plan: Plan, origin: Destination) -> None:
    """Make a plan read what a destination gives: its layout, and values out of the note."""
    if not plan.layouts and origin.layout is not None:
        plan.layouts = [origin.layout]
    if origin.overflow is not None:
        plan.first = [*plan.first, TakeBack(origin)]


def _format(plan: Plan, to: Destination) -> str:
    """The format to write: as said, as the target's name promises, or the preferred one."""
    accepted = [FORMATS[word] for word in to.accepts]
    said = plan.to_format
    if not said:
        promised = formats.by_suffix(plan.target) if plan.target != STANDARD else None
        if plan.split:
            promised = formats.CARDS
        if promised is None:
            return accepted[0]
        alike = [name for name in accepted if _alike(name, promised)]
        said = alike[0] if alike else promised.name
    found = formats.by_name(said).name
    if found not in accepted:
        raise UsageError(f"{to.title} does not take {formats.by_name(found).title}; it accepts "
                         f"{', '.join(to.accepts)}")  # fmt: skip
    return found


def _alike(name: str, promised: formats.Format) -> bool:
    """Whether files of a format have the suffix that promises another, or the same, one."""
    form = formats.by_name(name)
    return form.sort == promised.sort and bool(set(form.suffixes) & set(promised.suffixes))
