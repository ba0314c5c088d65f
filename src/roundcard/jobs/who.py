"""Who is who: records told from those of the last run, and put together as people.

A record is known by its source's key, else by its uid, else by what it says, else as the one record
of that source of which the matcher is sure. Grouping that was once delivered stands: what the
matcher finds otherwise is a question, never a silent regrouping; what a person decided counts.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from roundcard.card.contact import Contact
from roundcard.card.origin import pack
from roundcard.jobs.gather import DIGEST, Gathered
from roundcard.jobs.kept import Kept, Member
from roundcard.jobs.state import State
from roundcard.match.features import FeaturesOf
from roundcard.match.matching import SURE, Matches, Verdict, matches_of
from roundcard.match.sheet_decisions import Known, MatchSheet, known

_MOST_LOOKED_AT = 200_000
"""Records of a source that are looked through for those that were edited."""


@dataclass(slots=True)
class Person:
    """Somebody: records that are theirs."""

    uid: str
    """As they were delivered; empty for who is new."""
    records: list[int]
    """Numbers of records, in order."""
    stay: list[Member] = field(default_factory=list)
    """Records that are not there this time, and still count."""
    apart: bool = False
    """Whether they were one with somebody else before."""


@dataclass(slots=True)
class People:
    """Everybody of a run."""

    uids: list[str]
    """By record the person that it was of; empty for a new record."""
    matches: Matches | None = None
    known: Known = field(default_factory=Known)
    questions: int = 0
    """Contacts about whom a person is to be asked."""
    edited: int = 0
    """Records that were known by the matcher, although they were edited."""
    doubtful: set[int] = field(default_factory=set)
    """New records that may be one of several old ones."""
    claimed: set[tuple[str, str]] = field(default_factory=set)
    """Old records (source, identity) that such a new one may be: they are not gone."""
    replaced: dict[int, tuple[str, str]] = field(default_factory=dict)
    """By record the old identity (source, identity) under which it was known."""
    merged: dict[str, str] = field(default_factory=dict)
    """People who are one with another by a decision: the identity that goes, and that stays."""
    leads: dict[str, int] = field(default_factory=dict)
    """The leading record of known people who have several."""
    joined: dict[int, int] = field(default_factory=dict)
    """By record the first one of its cluster, where it is in one."""

    def now(self, at: int) -> str:
        """The person of a record, after what was decided; empty for a new one."""
        uid = self.uids[at]
        return self.merged.get(uid, uid)


def recognised(found: Gathered, names: Sequence[str], state: State, region: str,
               reason: int) -> People:  # fmt: skip
    """Tell each record from those of the last delivery; `names` are the job's sources."""
    people = People([""] * len(found))
    if not state.size():
        return people
    fresh: dict[int, list[int]] = defaultdict(list)
    seen: dict[int, set[str]] = defaultdict(set)
    for at, owner in enumerate(found.owner):
        told = state.member(names[owner], found.identities[at])
        if told is not None:
            people.uids[at] = told[0]
            seen[owner].add(found.identities[at])
        elif found.identities[at].startswith(DIGEST):
            fresh[owner].append(at)
    for owner, ats in fresh.items():
        _edited(people, found, names[owner], ats, seen[owner], state, region, reason)
    return people


def _edited(
    people: People, found: Gathered, name: str, fresh: list[int], seen: set[str],
    state: State, region: str, reason: int,
) -> None:  # fmt: skip
    """Records that go by what they say, and say something else now."""
    missing = [(identity, uid) for identity, uid in state.members(name).items()
               if identity.startswith(DIGEST) and identity not in seen]  # fmt: skip
    if not missing or len(missing) + len(fresh) > _MOST_LOOKED_AT:
        return
    gathered = FeaturesOf(region)
    old: list[tuple[str, str]] = []
    for identity, uid in missing:
        kept = state.person(uid, reason)
        member = next((m for m in kept.members if (m.source, m.identity) == (name, identity)),
                      None) if kept is not None else None  # fmt: skip
        if member is not None:
            old.append((identity, uid))
            gathered.add(Contact(member.contact.properties, pack(0, len(old))))
    for number, at in enumerate(fresh, 1):
        gathered.add(Contact(found.contact(at).properties, pack(1, number)))
    features = gathered.found.end()
    if len(features) < 2:
        return
    matches = matches_of(features)
    near: dict[int, list[int]] = defaultdict(list)
    back: dict[int, list[int]] = defaultdict(list)
    for (one, other), score in zip(matches.pairs, matches.scores, strict=True):
        first, second = sorted((int(one), int(other)))
        if score >= SURE and first < len(old) <= second:
            near[second].append(first)
            back[first].append(second)
    for second, firsts in near.items():
        at = fresh[second - len(old)]
        identity, uid = old[firsts[0]]
        if len(firsts) == 1 and len(back[firsts[0]]) == 1:
            people.uids[at] = uid
            people.replaced[at] = (name, identity)
            people.edited += 1
        else:
            people.doubtful.add(at)
            people.claimed |= {(name, old[first][0]) for first in firsts}


def put_together(
    people: People, found: Gathered, names: Sequence[str], decisions: Path,
    sheet: MatchSheet | None, when: str, state: State, reason: int,
) -> None:  # fmt: skip
    """Find who is the same; `names` are those of the opened sources."""
    if found.features is None:
        return
    features = found.features.found.end()
    people.known = known(features, names, decisions, sheet, when)
    decided = dict(people.known.resolved.pairs)
    of: dict[str, list[int]] = defaultdict(list)
    for at, uid in enumerate(people.uids):
        if uid:
            of[uid].append(at)
    standing: dict[tuple[int, int], Verdict] = {}
    for uid, ats in of.items():
        if len(ats) < 2:
            continue
        lead = people.leads[uid] = _lead(found, ats, state.person(uid, reason))
        for at in ats:
            pair = (min(at, lead), max(at, lead))
            if at != lead and pair not in decided:
                standing[pair] = "same"
    for at in people.doubtful:  # they wait, and join nobody
        for pair in list(standing):
            if at in pair:
                del standing[pair]
    matches = matches_of(features, decided=standing | decided)
    more = _regrouped(people, matches, decided)
    if more:
        matches = matches_of(features, decided=standing | more | decided)
    people.matches = matches
    people.questions = sum(len(group.clusters) - 1 for group in matches.groups)
    for group in matches.groups:
        for cluster in group.clusters:
            uids = list(dict.fromkeys(people.uids[at] for at in cluster if people.uids[at]))
            if len(uids) > 1:  # a person decided it
                elder = min(uids, key=state.age)
                people.merged |= {uid: elder for uid in uids if uid != elder}
            for at in cluster:
                people.joined[at] = cluster[0]


def _lead(found: Gathered, ats: Sequence[int], kept: Kept | None) -> int:
    """The record, of some, that led when the person was delivered."""
    if kept is None or not kept.members:
        return ats[0]
    lead = kept.members[0]
    return next((at for at in ats if found.identities[at] == lead.identity
                 and found.digests[at] == lead.digest), ats[0])  # fmt: skip


def _regrouped(
    people: People, matches: Matches, decided: dict[tuple[int, int], Verdict]
) -> dict[tuple[int, int], Verdict]:
    """Questions in place of what would join people who were delivered apart."""
    found: dict[tuple[int, int], Verdict] = {}
    for group in matches.groups:
        for cluster in group.clusters:
            uids = {people.uids[at] for at in cluster if people.uids[at]}
            doubtful = any(at in people.doubtful for at in cluster)
            if len(uids) < 2 and not doubtful:
                continue
            for place, one in enumerate(cluster):
                for other in cluster[place + 1 :]:
                    pair = (min(one, other), max(one, other))
                    alike = people.uids[one] == people.uids[other] != ""
                    if not alike and decided.get(pair) != "same":
                        found[pair] = "ask"
    return found


def everybody(people: People, count: int) -> Iterator[Person]:
    """All people of this run, in the order of their first records.

    Where somebody falls apart by a decision, the part with the leading record stays who they were.
    """
    of: dict[int, list[int]] = {}
    first: dict[str, int] = {}
    tops: dict[int, int] = {}
    for at in range(count):
        top = people.joined.get(at, -1)
        if top < 0 and people.matches is None and (uid := people.now(at)):
            top = first.setdefault(uid, at)
        if top >= 0:
            tops[at] = top
            of.setdefault(top, []).append(at)
    taken: set[str] = set()
    for at in range(count):
        records = of[tops[at]] if at in tops else [at]
        if records[0] != at:
            continue
        uid = next((people.now(each) for each in records if people.uids[each]), "")
        lead = people.leads.get(uid)
        parted = lead is not None and lead not in records and uid not in people.merged.values()
        if uid and (uid in taken or parted):
            yield Person("", records, apart=True)
            continue
        taken.add(uid)
        yield Person(uid, records)
