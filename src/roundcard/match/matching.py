"""Who is the same person: pairs, their scores with reasons, verdicts and groups."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from roundcard.match.blocking import Pairs, candidates
from roundcard.match.compare import LEVELS, VETOES, Compared, Comparer
from roundcard.match.doubts import DOUBTS, RIVALS, SCARCE, UNLIKE, doubts_of
from roundcard.match.features import Features
from roundcard.match.rivals import rivals_in
from roundcard.match.weights import (
    ELSEWHERE,
    WEAK,
    elsewhere,
    name_alone,
    name_classes,
    of_one_day,
    together,
    unopposed,
    value_classes,
    weights,
)  # fmt: skip

Floats = npt.NDArray[np.float64]
Verdict = Literal["same", "ask", "apart"]
SURE, ASK = 13.0, 6.0
"""Scores, in bits, from which two contacts are one unasked, and from which a person is asked."""
_UP_TO = 3_000
"""Contacts of a book for which the points of those hold who have nothing but a name in common."""
_LESS = 3.0
"""Points that they need less in a small book, at the most."""
_FEW = 1_000
"""Contacts from which it is told how common names are; in smaller books none is."""
_RARE = 3.0
"""Bits by which a rare value may weigh more, and a common one less."""
_TIPPING = ("email", "mobile", "phone", "birthday", "address")
"""What may change a verdict."""
TOGETHER, AT_HOME, UNOPPOSED, BEARERS = "together", "elsewhere", "unopposed", "bearers"
BORN, LEAD = "born", "lead"
"""In the points of a pair: what names and values are worth together, what speaks against two of one
house, that nothing speaks against them, that few bear the name, that they are of one day, and that
such pairs are one with fewer points."""
_SAID = {UNOPPOSED: "nothing differs", BEARERS: "hardly anybody else bears the name",
         BORN: "one name and one birthday",
         LEAD: "enough, of two who agree in this way"}  # fmt: skip
_JUST_BELOW = 0.1
"""Points that a question is below the sure threshold, though it has more."""
_AT_ONCE = 50_000
"""Pairs whose points are added up at once."""
_MOST_ASKED = 12
"""Contacts about which it is asked at once, at the most."""
_WHOLE_GROUP = 40
"""Contacts of a group that are all compared with one another."""


class Evidence(NamedTuple):
    """Why two contacts are the same, or are not."""

    points: float
    """Bits: above zero for, below zero against."""
    what: str


class Pair(NamedTuple):
    """Two contacts that were compared."""

    one: int
    other: int
    score: float
    verdict: Verdict


@dataclass(slots=True)
class Group:
    """Contacts that are one person, and others that may be the same one."""

    clusters: list[list[int]]
    """Numbers of contacts that are surely one person, each cluster by itself; of the first one it
    is asked whether the others are the same. Each is in order, the lead first."""
    links: list[Pair] = field(default_factory=list)
    """The pairs by which they came together, the sure ones first, each kind by its score."""

    def cluster_of(self, pair: Pair) -> list[int]:
        """The contacts that are one with an end of a pair."""
        return next(each for each in self.clusters if not {pair.one, pair.other}.isdisjoint(each))

    @property
    def members(self) -> list[int]:
        """All contacts."""
        return [member for cluster in self.clusters for member in cluster]


@dataclass(slots=True)
class Matches:
    """What was found in some books."""

    features: Features
    pairs: Pairs
    scores: Floats
    compared: Compared
    groups: list[Group]
    narrowed: Mapping[str, int]
    sure: float
    ask: float
    comparer: Comparer
    rivals: Mapping[int, tuple[int, ...]] = field(default_factory=dict)
    """Contacts that fit several who exclude each other, and whom."""

    @property
    def apart_at_home(self) -> int:
        """How many pairs agree in phone number, address or family, and are kept apart."""
        levels = self.compared.levels
        close = np.any(
            [
                np.isin(levels[name], (1, 2, 3)[:many])
                for name, many in (("phone", 2), ("mobile", 2), ("address", 1), ("email", 3))
            ],
            axis=0,
        )
        return int(np.count_nonzero(close & (self.compared.veto > 0)))

    def verdict(self, one: int, other: int) -> tuple[float, Verdict, str]:
        """The score that counts of any two contacts, what it says of them alone, and why they are
        a question although the points would do (or nothing)."""
        return self.verdicts([(one, other)])[0]

    def verdicts(self, wanted: Sequence[tuple[int, int]]) -> list[tuple[float, Verdict, str]]:
        """What `verdict` tells, for many pairs at once: how common names are is counted once."""
        if not wanted:
            return []
        pairs = np.asarray([sorted(pair) for pair in wanted], dtype=np.int64)
        told = self.comparer.compare(pairs)
        totals = _totals(self.features, pairs, told)
        doubts = np.array(_doubts(told, totals, self.sure))
        for at, (one, other) in enumerate(wanted):
            if {one, other} & {*self.rivals.get(one, ()), *self.rivals.get(other, ())}:
                doubts[at] = RIVALS
        scores = _capped(told, totals, (self.sure, self.ask), doubts)
        found: list[tuple[float, Verdict, str]] = []
        for score, total, doubt in zip(scores, totals, doubts, strict=True):
            if score >= self.sure:
                found.append((float(score), "same", ""))
                continue
            why = DOUBTS[int(doubt)] if total >= self.sure or doubt == UNLIKE else ""
            found.append((float(score), "ask" if score >= self.ask else "apart", why))
        return found

    def tips(self, one: int, other: int) -> list[str]:
        """What would change the verdict of two contacts, tried by the same rules: of those who are
        the same, what they would be a question without; of others, what would make them the same
        if it agreed as well."""
        pair = np.asarray([sorted((one, other))], dtype=np.int64)
        told = self.comparer.compare(pair)
        same = self.verdict(one, other)[1] == "same"
        found = []
        for name in _TIPPING:
            level = int(told.levels[name][0])
            if (level == 0) if same else (level == 1):
                continue
            tried = dict(told.levels)
            tried[name] = np.asarray([0 if same else 1], dtype=np.int8)
            again = told._replace(levels=tried)
            score = _totals(self.features, pair, again)
            score = _capped(again, score, (self.sure, self.ask), _doubts(again, score, self.sure))
            if (score[0] >= self.sure) != same:
                found.append(LEVELS[name][level if same else 1])
        return found

    def reasons(self, one: int, other: int) -> tuple[float, list[Evidence], str]:
        """The score of any two contacts, its reasons, and what contradicts (or nothing)."""
        return self.reasons_of([(one, other)])[0]

    def reasons_of(
        self, wanted: Sequence[tuple[int, int]]
    ) -> list[tuple[float, list[Evidence], str]]:
        """What `reasons` tells, for many pairs at once: how common values are is counted once."""
        if not wanted:
            return []
        pairs = np.asarray([sorted(pair) for pair in wanted], dtype=np.int64)
        told = self.comparer.compare(pairs)
        points = _points(self.features, pairs, told)
        names, values = name_classes(told.levels), value_classes(told.levels)
        away = elsewhere(told.levels, values)
        found = []
        known: dict[Evidence, Evidence] = {}  # thousands of pairs have the same few reasons
        for at in range(len(pairs)):
            reasons = [
                Evidence(round(float(each[at]), 1),
                         together(int(names[at]), int(values[at])) if name == TOGETHER
                         else ELSEWHERE[int(away[at])] if name == AT_HOME
                         else _SAID[name] if name in _SAID
                         else LEVELS[name][int(told.levels[name][at])])
                for name, each in points.items()
                if abs(float(each[at])) >= 0.05
            ]  # fmt: skip
            reasons.sort(key=lambda reason: -abs(reason.points))
            reasons = [known.setdefault(reason, reason) for reason in reasons]
            total = sum(float(each[at]) for each in points.values())
            found.append((total, reasons, VETOES[int(told.veto[at])]))
        return found


def matches_of(
    features: Features,
    sure: float = SURE,
    ask: float = ASK,
    decided: Mapping[tuple[int, int], Verdict] | None = None,
) -> Matches:
    """Find who is the same person.

    `decided` are pairs (the smaller number first) of which a person said ``same`` or ``apart``.
    The same books give the same groups, however many processes read them.
    """
    blocked = candidates(features)
    pairs = _with_decided(blocked.pairs, decided or {})
    comparer = Comparer(features)
    told = comparer.learn(pairs)
    scores = _scores(features, pairs, told)
    scores = _capped(told, scores, (sure, ask), _doubts(told, scores, sure))
    rivals = rivals_in(pairs, scores, told.veto, (sure, ask), decided or {})
    scores = np.where(rivals.of_pairs, np.minimum(scores, sure - _JUST_BELOW), scores)
    groups = _grouped(features, pairs, scores, told, comparer, (sure, ask), decided or {})
    return Matches(features, pairs, scores, told, groups, blocked.narrowed, sure, ask, comparer,
                   rivals.of_contacts)  # fmt: skip


def raised(size: int) -> float:
    """What those who have nothing but a name in common need more in a book of so many contacts: a
    point for each doubling of the usual, since strangers are then alike by chance more often; and
    less in a small one."""
    return round(max(-_LESS, math.log2(max(size, 1) / _UP_TO)), 1)


def _with_decided(pairs: Pairs, decided: Mapping[tuple[int, int], Verdict]) -> Pairs:
    if not decided:
        return pairs
    more = np.asarray(sorted(decided), dtype=np.int64)
    return np.asarray(np.unique(np.concatenate([pairs, more]), axis=0))


def _scores(features: Features, pairs: Pairs, told: Compared) -> Floats:
    """The sums of points of all pairs."""
    out = np.zeros(len(pairs))
    for begin in range(0, len(pairs), _AT_ONCE):
        part = slice(begin, begin + _AT_ONCE)
        some = told.part(part)
        out[part] = _totals(features, pairs[part], some)
    return out


def _totals(features: Features, pairs: Pairs, told: Compared) -> Floats:
    """The sums of points of some pairs at once."""
    points = _points(features, pairs, told)
    return np.asarray(sum(points.values(), np.zeros(len(pairs))))


def _points(
    features: Features, pairs: Pairs, told: Compared
) -> dict[str, Floats]:  # fmt: skip
    """The points of each feature for each pair; rare names weigh more than common ones."""
    worth, levels = weights(), told.levels
    out = {name: np.asarray(worth.points[name])[levels[name]] for name in LEVELS}
    names, values = name_classes(levels), value_classes(levels)
    weak = np.isin(values, WEAK)
    said = np.asarray(worth.together)[names, values]
    bare = (values == 0) & (levels["birthday"] != 1)
    out[TOGETHER] = said - np.where(bare, raised(len(features)), 0.0)
    out[AT_HOME] = np.asarray(worth.elsewhere)[elsewhere(levels, values)]
    out[UNOPPOSED] = np.where(unopposed(levels, names, values), worth.unopposed, 0.0)
    out[BORN] = np.where(of_one_day(levels, names, values), worth.born, 0.0)
    alone = name_alone(names, values)
    out[BEARERS] = np.where(alone, _of_bearers(features, pairs, worth.bearers), 0.0)
    for name, bits in rarities(features, pairs, told).items():
        each = worth.rare[name]
        where = name if name in LEVELS else TOGETHER
        out[where] = out[where] + np.where(weak, each[0], each[1]) * bits
    lead = np.asarray(worth.lead)[names, values]
    total = np.asarray(sum(out.values(), np.zeros(len(pairs))))
    needed = (lead > 0) & (total < SURE) & (total + lead >= SURE)
    out[LEAD] = np.where(needed, lead, 0.0)
    return out


def _doubts(told: Compared, totals: Floats, sure: float) -> npt.NDArray[np.int8]:
    """Why pairs are a question though they have the points, by the numbers of `DOUBTS`."""
    doubts = doubts_of(told)
    names, values = name_classes(told.levels), value_classes(told.levels)
    lead = np.asarray(weights().lead)[names, values]
    scarce = (doubts == 0) & (lead < 0) & (totals + lead < sure) & (told.levels["uid"] != 1)
    return np.where(scarce, SCARCE, doubts).astype(np.int8)


def _of_bearers(features: Features, pairs: Pairs, points: Sequence[float]) -> Floats:
    """The points of whole names that are the same, by how many bear them."""
    whole = features.column("whole")
    counts = np.bincount(whole[whole >= 0], minlength=1)
    one, other = whole[pairs[:, 0]], whole[pairs[:, 1]]
    bearers = np.where((one >= 0) & (one == other), counts[np.maximum(one, 0)], 0)
    worth = np.asarray(points)
    return np.where(bearers < len(worth), worth[np.minimum(bearers, len(worth) - 1)], 0.0)


def rarities(
    features: Features, pairs: Pairs, told: Compared
) -> dict[str, Floats]:  # fmt: skip
    """By how many bits the names that two have in common are rarer than usual in these books; and
    where they have nothing else, how rarely two strangers there bear both."""
    levels = told.levels
    out: dict[str, Floats] = {}
    common: dict[str, npt.NDArray[np.int64]] = {}
    size = max(len(features), 2)
    for name in ("given", "family"):
        column = features.column(name)
        known = column[column >= 0]
        counts = np.bincount(known, minlength=len(features.name_words.texts) + 1)
        mean = float(np.average(counts[known])) if len(known) else 1.0
        usual = max(mean / size, 1e-4) * size
        values = column[pairs[:, 0]]
        bits = np.clip(np.log2(usual / np.maximum(counts[values], 1)), -_RARE, _RARE)
        out[name] = np.where((levels[name] == 1) & (values >= 0), bits, 0.0)
        common[name] = np.where(values >= 0, np.maximum(counts[values], 1), 1)
    chance = np.log2(max(size, _FEW) / (common["given"] * common["family"]))
    both = (levels["given"] == 1) & (levels["family"] == 1)
    alone = value_classes(levels) == 0
    out["both"] = np.where(both & alone, np.clip(chance, -4, 8), 0.0)
    among = chance + np.log2(max(size, _FEW) / np.maximum(told.bearers, 1))
    out["expected"] = np.where(both & (told.bearers > 0), np.clip(among, -6, 0), 0.0)
    return out


def _capped(
    told: Compared, scores: Floats, limits: tuple[float, float], doubts: npt.NDArray[np.int8]
) -> Floats:
    """Scores with the rules that no sum may break: what contradicts is apart, and a doubt is a
    question."""
    sure, ask = limits
    out = np.where(doubts == UNLIKE, np.maximum(scores, ask), scores)
    out = np.where(told.veto > 0, -99.0, out)
    return np.where(doubts > 0, np.minimum(out, sure - _JUST_BELOW), out)


def _grouped(
    features: Features, pairs: Pairs, scores: Floats, told: Compared, comparer: Comparer,
    limits: tuple[float, float], decided: Mapping[tuple[int, int], Verdict],
) -> list[Group]:  # fmt: skip
    """Groups joined from the surest pair down, never against a contradiction within."""
    sure, ask = limits
    wanted = np.flatnonzero(scores >= ask)
    found = [
        Pair(int(pairs[at, 0]), int(pairs[at, 1]), float(scores[at]),
             "same" if scores[at] >= sure else "ask")
        for at in wanted
    ]  # fmt: skip
    found = [pair._replace(verdict=decided.get((pair.one, pair.other), pair.verdict))
             for pair in found]  # fmt: skip
    there = {(pair.one, pair.other) for pair in found} if decided else set()
    found += [Pair(*ends, sure, "same") for ends, said in decided.items()
              if said == "same" and ends not in there]  # fmt: skip
    found.sort(key=lambda pair: (pair.verdict != "same", -pair.score, pair.one, pair.other))
    apart = {key for key, said in decided.items() if said == "apart"}
    chains = np.asarray(_chains(len(features), found), dtype=np.int32)[pairs]
    within = (told.veto > 0) & (chains[:, 0] == chains[:, 1])  # others are never joined
    against = (tuple(pairs[at].tolist()) for at in np.flatnonzero(within))
    apart |= {ends for ends in against if decided.get(ends) != "same"}
    apart |= _contradictions(comparer, [p for p in found if p.verdict == "same"], decided)
    return _joined([pair for pair in found if pair.verdict != "apart"], apart, decided)


def _chains(size: int, links: Iterable[Pair]) -> list[int]:
    """For each of so many contacts, one of those to whom links lead, the same one for all of
    them."""
    root = list(range(size))

    def top(at: int) -> int:
        while root[at] != at:
            root[at] = root[root[at]]
            at = root[at]
        return at

    for pair in links:
        root[top(pair.one)] = top(pair.other)
    return [top(at) for at in root]


def _contradictions(
    comparer: Comparer, links: Sequence[Pair], decided: Mapping[tuple[int, int], Verdict]
) -> set[tuple[int, int]]:
    """Pairs that a chain of links would bring together although they contradict each other."""
    chain_of = _chains(len(comparer.features), links)
    chains: dict[int, list[int]] = defaultdict(list)
    for at in sorted({end for pair in links for end in (pair.one, pair.other)}):
        chains[chain_of[at]].append(at)
    cross = [
        (one, other)
        for members in chains.values()
        if 2 < len(members) <= _WHOLE_GROUP
        for at, one in enumerate(members)
        for other in members[at + 1 :]
    ]
    if not cross:
        return set()
    every = np.asarray(cross, dtype=np.int64)
    veto = comparer.compare(every).veto
    return {cross[at] for at in np.flatnonzero(veto > 0) if decided.get(cross[at]) != "same"}


def _joined(
    links: Iterable[Pair], apart: set[tuple[int, int]],
    decided: Mapping[tuple[int, int], Verdict],
) -> list[Group]:  # fmt: skip
    """Clusters by the links that are sure, then groups of clusters by those that are questions."""
    barred: dict[int, set[int]] = defaultdict(set)
    for one, other in apart:
        barred[one].add(other)
        barred[other].add(one)
    groups: dict[int, Group] = {}
    """Each group by every one of its members."""

    for link in links:
        mine = groups.get(link.one) or Group([[link.one]])
        theirs = groups.get(link.other) or Group([[link.other]])
        if mine is theirs:
            continue
        newcomers = theirs.members
        asked = link.verdict == "ask"  # whoever is asked about may exclude another one who is
        ones = mine.cluster_of(link) if asked else mine.members
        others = theirs.cluster_of(link) if asked else newcomers
        against = {
            (min(member, other), max(member, other))
            for member in ones
            for other in barred[member].intersection(others)
        }
        if decided.get((link.one, link.other)) == "same":  # only another decision speaks against
            against = {pair for pair in against if decided.get(pair) == "apart"}
        if against:
            continue
        if not asked:
            mine.clusters[0] += theirs.clusters[0]
            mine.clusters += theirs.clusters[1:]
        elif len(mine.members) + len(newcomers) > _MOST_ASKED:
            continue
        else:
            mine.clusters += theirs.clusters
        mine.links += [*theirs.links, link]
        for member in newcomers:
            groups[member] = mine
        groups[link.one] = groups[link.other] = mine
    found = {id(group): group for group in groups.values()}
    for group in found.values():
        for cluster in group.clusters:
            cluster.sort()
        group.clusters.sort(key=partial(_foremost, group.links))
        group.links.sort(key=lambda pair: (pair.verdict != "same", -pair.score, pair))
    return sorted(found.values(), key=_settles)


def _foremost(links: Sequence[Pair], cluster: Sequence[int]) -> tuple[int, int, Sequence[int]]:
    """The cluster of which most is asked comes first, then the largest."""
    ends = ({pair.one, pair.other} for pair in links if pair.verdict == "ask")
    return -sum(not end.isdisjoint(cluster) for end in ends), -len(cluster), cluster


def _settles(group: Group) -> tuple[bool, int, float, int]:
    """Questions first, those that settle most before others, then the likelier ones."""
    best = max((pair.score for pair in group.links if pair.verdict == "ask"), default=None)
    first = min(group.members)
    if best is None:
        return True, 0, 0.0, first
    return False, -len(group.members), -best, first
