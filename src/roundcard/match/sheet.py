"""The sheet of what was found: one row a contact, grouped, to be decided in."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Literal, NamedTuple

from rapidfuzz.distance import JaroWinkler, Levenshtein

from roundcard.books.sheets import write_rows
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact, flat
from roundcard.card.names import formatted_name
from roundcard.card.origin import unpack
from roundcard.match.matching import Evidence, Group, Matches, Verdict
from roundcard.match.names import words_of
from roundcard.values.phones import number_key

HEADINGS = ["group", "verdict", "score", "reasons", "decision", "source", "record", "name", "email",
            "phone", "organisation", "address", "birthday"]  # fmt: skip
_BETWEEN = "; "
_GROUPS_AT_ONCE = 5_000
_CLOSE = 0.8
_SLIPS = 1
"""Wrong digits in a number or a date that is close to another one."""
Nearness = Literal["same", "close", "different", "missing"]
Place = tuple[int, int]
"""Number of the source, from 0, and record, from 1."""


class Shown(NamedTuple):
    """What tells who a contact is, as text."""

    name: str
    email: str
    phone: str
    organisation: str
    address: str
    birthday: str


class SheetRow(NamedTuple):
    """One row of the sheet."""

    group: str
    """The number of the group; ``.2`` and so on behind it for those of whom it is asked."""
    verdict: str
    score: float | None
    reasons: tuple[Evidence, ...]
    contact: int
    """The number of the contact."""
    doubt: str = ""
    """Why it is asked although the points would do; empty where they would not."""


def shown_of(contacts: Iterable[Contact], wanted: Mapping[Place, int]) -> dict[int, Shown]:
    """What tells who contacts are, in one pass; `wanted` gives their numbers by their places."""
    found = {}
    for contact in contacts:
        place = unpack(contact.origin)
        number = wanted.get((place.source, place.record)) if place is not None else None
        if number is not None:
            found[number] = _shown(contact)
    return found


def places_of(matches: Matches) -> dict[Place, int]:
    """The numbers of all contacts in groups, by source and record."""
    features = matches.features
    return {
        (features.source[at], features.record[at]): at
        for group in matches.groups
        for at in group.members
    }


def most_telling(matches: Matches, most: int | None = None) -> list[list[SheetRow]]:
    """The rows of some groups (of all without `most`): questions first, then the least sure of the
    sure ones."""
    groups: dict[str, list[SheetRow]] = defaultdict(list)
    for row in rows_of(matches) if most != 0 else ():
        groups[row.group.partition(".")[0]].append(row)
    return sorted(groups.values(), key=_telling)[:most]


def _telling(rows: list[SheetRow]) -> tuple[bool, float, int]:
    asked = any(row.verdict == "ask" for row in rows)
    lowest = min(row.score for row in rows if row.score is not None)
    return not asked, lowest if not asked else -lowest, rows[0].contact


def rows_of(matches: Matches) -> Iterator[SheetRow]:
    """The rows of all groups, in order."""
    for begin in range(0, len(matches.groups), _GROUPS_AT_ONCE):
        yield from _rows(matches, begin)


def _rows(matches: Matches, begin: int) -> Iterator[SheetRow]:
    rows: list[SheetRow] = []
    grounds: list[tuple[int, int]] = []
    for number, group in enumerate(matches.groups[begin : begin + _GROUPS_AT_ONCE], begin + 1):
        for at, cluster in enumerate(group.clusters):
            name = f"{number}.{at + 1}" if at else str(number)
            for place, member in enumerate(cluster):
                if at == place == 0:
                    rows.append(SheetRow(name, "lead", None, (), member))
                    continue
                asked = at > 0 and place == 0
                rows.append(SheetRow(name, "ask" if asked else "same", None, (), member))
                grounds.append(_asked_for(group, cluster) if asked
                               else (member, _same_as(group, cluster, member)))  # fmt: skip
    told = zip(matches.reasons_of(grounds), matches.verdicts(grounds), strict=True)
    for row in rows:
        yield row if row.verdict == "lead" else _with_reasons(row, *next(told))


def _with_reasons(
    row: SheetRow, told: tuple[float, list[Evidence], str], verdict: tuple[float, Verdict, str]
) -> SheetRow:
    doubt = verdict[2] if row.verdict == "ask" else ""
    return row._replace(score=round(told[0], 1), reasons=tuple(told[1]), doubt=doubt)


def _asked_for(group: Group, cluster: Sequence[int]) -> tuple[int, int]:
    """The pair because of which it is asked about a cluster: one of it and one of another."""
    inside = set(cluster)
    for pair in group.links:
        if pair.verdict == "ask" and len(inside & {pair.one, pair.other}) == 1:
            return pair.one, pair.other
    return cluster[0], group.clusters[0][0]


def _same_as(group: Group, cluster: Sequence[int], member: int) -> int:
    """The contact by which one came into its cluster."""
    for pair in group.links:
        if pair.verdict == "same" and member in (pair.one, pair.other):
            return pair.one if pair.other == member else pair.other
    return cluster[0]


def write_sheet(
    files: Transaction, path: Path, matches: Matches, people: Mapping[int, Shown],
    sources: list[str], *, force: bool, decided: Mapping[int, str] | None = None,
    rows: Sequence[SheetRow] | None = None,
) -> int:  # fmt: skip
    """Write the sheet, CSV or a workbook as the name says; how many rows.

    `decided` is what the column ``decision`` says of contacts already; `rows` are those of
    `rows_of`, where they are there. Raises `TargetError`.
    """
    features = matches.features

    def cells() -> Iterator[list[str]]:
        yield HEADINGS
        for row in rows_of(matches) if rows is None else rows:
            who = people[row.contact]
            source = sources[features.source[row.contact]]
            yield [row.group, row.verdict, "" if row.score is None else f"{row.score:.1f}",
                   grounds_of(row), (decided or {}).get(row.contact, ""), source,
                   str(features.record[row.contact]), *who]  # fmt: skip

    return write_rows(files, path, cells(), "groups", force=force)


def alike(heading: str, one: str, other: str) -> bool:
    """Whether two cells of a column say the same, or share an entry, however written."""
    if heading == "phone":
        mine, theirs = ({number_key(each, "") for each in text.split(_BETWEEN)} - {""}
                        for text in (one, other))  # fmt: skip
        return one == other or not mine.isdisjoint(theirs)
    if heading == "email":
        return not set(one.casefold().split(_BETWEEN)).isdisjoint(other.casefold().split(_BETWEEN))
    if heading == "name":
        return sorted(words_of(one)) == sorted(words_of(other))
    return words_of(one) == words_of(other)


def nearness(heading: str, one: str, other: str) -> Nearness:
    """How near two cells of a column are."""
    if not one or not other:
        return "missing"
    if alike(heading, one, other):
        return "same"
    if heading in ("phone", "birthday"):
        digits = [re.sub(r"\D", "", text) for text in (one, other)]
        return "close" if Levenshtein.distance(*digits) <= _SLIPS else "different"
    near = JaroWinkler.similarity(*(" ".join(words_of(text)) for text in (one, other)))
    return "close" if near >= _CLOSE else "different"


def grounds_of(row: SheetRow) -> str:
    """Why it is asked, where that is not for want of points, and the reasons with their points."""
    return f"{row.doubt}: {said(row.reasons)}" if row.doubt else said(row.reasons)


def said(reasons: Iterable[Evidence]) -> str:
    """Reasons with their points, the weightiest first."""
    return ", ".join(f"{reason.points:+.1f} {reason.what}" for reason in reasons)


def _shown(contact: Contact) -> Shown:
    whole = contact.first("fn")
    name = whole.text if whole is not None else formatted_name(contact)[0]
    address = contact.first("adr") or contact.first("label")
    org = contact.first("org")
    return Shown(
        name,
        _all(contact, "email"),
        _all(contact, "tel"),
        next(flat(org.components), "") if org is not None else "",
        ", ".join(flat(address.components)) if address is not None else "",
        _all(contact, "bday"),
    )


def _all(contact: Contact, name: str) -> str:
    return _BETWEEN.join(prop.text for prop in contact.all(name) if prop.text)
