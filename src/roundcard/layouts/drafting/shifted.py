"""Headings that all stand a column beside their cells."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from roundcard.layouts.drafting.evidence import class_of, for_and_against
from roundcard.layouts.drafting.heading_parser import HeadingRead
from roundcard.layouts.drafting.profile import ColumnProfile

_BETTER = 3
"""Columns more that must fit for all headings to be read a column off."""
_CONTRADICTED = 2
_ALL_WRONG = 3
_MOST = 0.5
_ENOUGH_NAMES = 8
_TURNED = ((0.15, 0.6), (0.03, 0.5))
"""Shares of known given names: at the most under given names, at the least under family names that
were turned."""


def moved_back(
    reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]
) -> list[HeadingRead]:
    """The headings as they are meant: each for the cells of its neighbour, where a heading is
    missing at the other end and the cells fit much better so."""
    ways = []
    if len(reads) > 3 and not reads[-1].heading:
        ways.append([_nothing(), *reads[:-1]])
    if len(reads) > 3 and not reads[0].heading:
        ways.append([*reads[1:], _nothing()])
    open_ends = len(ways)
    if len(reads) > 3:
        ways += [[_nothing(), *reads[:-1]], [*reads[1:], _nothing()]]
    good, bad = _fit(reads, profiles)
    for at, way in enumerate(ways):
        better, worse = _fit(way, profiles)
        if at >= open_ends and (worse or bad < _ALL_WRONG):
            continue  # no heading is missing: only where nearly nothing fits as it stands
        if bad >= _CONTRADICTED and better >= good + _BETTER and worse < bad:
            return [_read_as(read, own, "the headings stand a column off")
                    for read, own in zip(way, reads, strict=True)]  # fmt: skip
    return list(reads)


def _nothing() -> HeadingRead:
    return HeadingRead("", ())


def _fit(reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]) -> tuple[int, int]:
    """How many columns hold what their headings say, and how many contradict it."""
    good = bad = 0
    for read, profile in zip(reads, profiles, strict=True):
        best = read.best
        if best is None or not best.paths or not profile.told:
            continue
        agree, against = for_and_against(class_of(best.paths[0]), profile)
        good += agree >= _MOST
        bad += against >= _MOST and against > agree
    return good, bad


def names_turned(
    reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]
) -> list[HeadingRead]:
    """The headings, those of given and family name turned where the cells leave no doubt of it:
    hardly a known given name under the one, and mostly such under the other."""
    found = list(reads)
    places: dict[str, list[int]] = {"name/given": [], "name/family": []}
    for at, read in enumerate(reads):
        if read.best is None or len(read.best.paths) != 1 or read.is_path:
            continue  # a heading that is a field path is read by the letter
        if (place := class_of(read.best.paths[0])) in places:
            places[place].append(at)
    if any(len(columns) != 1 for columns in places.values()):
        return found
    (given,), (family,) = places.values()
    if min(profiles[given].told, profiles[family].told) < _ENOUGH_NAMES:
        return found
    first, last = profiles[given].share("given"), profiles[family].share("given")
    if not any(first <= hardly and last >= mostly for hardly, mostly in _TURNED):
        return found
    for one, other in ((given, family), (family, given)):
        found[one] = _read_as(reads[other], reads[one], "given and family names are turned")
    return found


def _read_as(read: HeadingRead, own: HeadingRead, why: str) -> HeadingRead:
    """A heading read as another one."""
    said = f"{why}; '{read.heading}' is said of it" if read.heading else ""
    return replace(read, heading=own.heading, moved=said)
