"""Which contacts are to be one: what was found, what was decided, and what the book has already."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations, islice
from typing import Literal

from roundcard.errors import UsageError
from roundcard.match.decision_store import Resolved
from roundcard.match.matching import Matches
from roundcard.match.sheet import rows_of, said
from roundcard.merge.merge_step import Joined, Place

Existing = Literal["update", "beside", "leave"]
EXISTING: tuple[Existing, ...] = ("update", "beside", "leave")


def existing_in(text: str) -> Existing:
    """What becomes of people whom the book has, as a command line says. Raises `UsageError`."""
    found = next((each for each in EXISTING if each == text), None)
    if found is None:
        raise UsageError(f"--existing {text}: unknown choice; choose from {', '.join(EXISTING)}")
    return found


@dataclass(slots=True)
class Planned:
    """What merging would do."""

    joined: list[Joined] = field(default_factory=list)
    leave: list[Place] = field(default_factory=list)
    """Contacts that the book has already, and that are left out."""
    to_ask: int = 0
    """Contacts about whom a person is still to be asked; they stay apart."""
    updated: int = 0
    """People of the book who are updated."""
    beside: int = 0
    """Contacts that the book has already, and that are added all the same."""
    new: int = 0
    """People whom the book does not have."""
    doubles_in_book: int = 0
    """Contacts of the book that double others of it; they are left as they are."""


def planned(
    matches: Matches,
    resolved: Resolved,
    numbers: Mapping[Place, str],
    book: int = -1,
    existing: Existing = "update",
) -> Planned:
    """The contacts that become one.

    `numbers` are those that the sheet has of groups; `book` is the number of the source that is
    added to, and `existing` what becomes of people whom it has.
    """
    features = matches.features
    rows = rows_of(matches)
    decided = {ends for ends, verdict in resolved.pairs.items() if verdict == "same"}
    found = Planned()
    if book >= 0:
        grouped = {at for group in matches.groups for cluster in group.clusters for at in cluster}
        found.new = sum(source != book and at not in grouped
                        for at, source in enumerate(features.source))  # fmt: skip
    for number, group in enumerate(matches.groups, 1):
        found.to_ask += len(group.clusters) - 1
        reasons = {row.contact: row for row in islice(rows, sum(map(len, group.clusters)))}
        for part, whole in enumerate(group.clusters):
            name = f"{number}.{part + 1}" if part else str(number)
            cluster = _beside_book(found, matches, whole, book, existing)
            if len(cluster) < 2:
                continue
            places = [(features.source[at], features.record[at]) for at in cluster]
            why = "; ".join(said(reasons[at].reasons) for at in cluster if reasons[at].reasons)
            lead = next((at for at in cluster if at in resolved.leads), None)
            found.joined.append(Joined(
                next((numbers[place] for place in places if place in numbers), name),
                places,
                why,
                not decided.isdisjoint(combinations(sorted(cluster), 2)),
                places[cluster.index(lead)] if lead is not None else None,
                {place: resolved.keeps[at] for place, at in zip(places, cluster, strict=True)
                 if at in resolved.keeps},
            ))  # fmt: skip
    return found


def _beside_book(
    found: Planned, matches: Matches, cluster: Sequence[int], book: int, existing: Existing
) -> list[int]:
    """Those of a cluster that become one, as the book's people are to be treated."""
    if book < 0:
        return list(cluster)
    features = matches.features
    there = [at for at in cluster if features.source[at] == book]
    coming = [at for at in cluster if features.source[at] != book]
    found.doubles_in_book += max(len(there) - 1, 0)
    if not there or not coming:
        found.new += bool(coming)
        return coming
    if existing == "leave":
        found.leave += [(features.source[at], features.record[at]) for at in coming]
        return []
    if existing == "beside":
        found.beside += 1
        return coming
    found.updated += 1
    return [there[0], *coming]
