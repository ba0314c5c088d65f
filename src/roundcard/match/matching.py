"""Who is the same person: pairs, their scores with reasons, verdicts and groups."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from roundcard.match.blocking import Pairs, candidates
from roundcard.match.compare import LEVELS, VETOES, Compared, compared, crossed
from roundcard.match.features import Features, Lists
from roundcard.match.review_rules import DOUBTS, Shared, doubts_of, shared_in
from roundcard.match.weights import DEFAULTS, Weights, estimated

Floats = npt.NDArray[np.float64]
Verdict = Literal["same", "ask", "apart"]
SURE, ASK = 13.0, 8.5
"""Scores, in bits, from which two contacts are one unasked, and from which a person is asked."""
_LEAST_ASKED = 1.0
"""Points below the sure threshold in which it is always asked."""
_SURE_UP_TO, _ASK_UP_TO = 20_000, 2_000
"""Contacts of a book for which the thresholds hold as they are. The one from which it is asked
rises earlier: nobody reads thousands of questions."""
_RARE = 3.0
"""Bits by which a rare value may weigh more, and a common one less."""
_AT_ONCE = 200_000
"""Pairs whose points are added up at once."""
_BY_CHANCE = 200_000
"""Pairs taken by chance to see how often strangers agree."""
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

    @property
    def members(self) -> list[int]:
        """All contacts."""
        return [member for cluster in self.clusters for member in cluster]


@dataclass(slots=True)
class Matches:
    """What was found in some books."""

    features: Features
    weights: Weights
    pairs: Pairs
    scores: Floats
    compared: Compared
    groups: list[Group]
    narrowed: Mapping[str, int]
    sure: float
    ask: float
    shared: Shared

    @property
    def apart_at_home(self) -> int:
        """How many pairs agree in phone number, address or family, and are kept apart."""
        levels = self.compared.levels
        close = (levels["phone"] == 1) | (levels["address"] == 1) | (levels["email"] == 1)
        return int(np.count_nonzero(close & (self.compared.veto > 0)))

    def verdict(self, one: int, other: int) -> tuple[float, Verdict, str]:
        """The score that counts of any two contacts, what it says of them alone, and why they are
        a question although the points would do (or nothing)."""
        pair = np.asarray([sorted((one, other))], dtype=np.int64)
        told = compared(self.features, pair)
        points = _points(self.features, pair, told, self.weights)
        total = np.sum([points[name] for name in LEVELS], axis=0)
        doubt = doubts_of(self.features, pair, told, self.shared)
        score = float(_capped(told, total, self.sure, doubt)[0])
        why = DOUBTS[int(doubt[0])] if total[0] >= self.sure else ""
        if score >= self.sure:
            return score, "same", ""
        return score, "ask" if score >= self.ask else "apart", why

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
        told = compared(self.features, pairs)
        points = _points(self.features, pairs, told, self.weights)
        found = []
        for at in range(len(pairs)):
            reasons = [
                Evidence(
                    round(float(points[name][at]), 1), LEVELS[name][int(told.levels[name][at])]
                )
                for name in LEVELS
                if abs(float(points[name][at])) >= 0.05
            ]
            reasons.sort(key=lambda reason: -abs(reason.points))
            total = sum(float(points[name][at]) for name in LEVELS)
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
    sure += raised(len(features), _SURE_UP_TO)
    ask = max(ask, min(ask + raised(len(features), _ASK_UP_TO), sure - _LEAST_ASKED))
    blocked = candidates(features)
    pairs = _with_decided(blocked.pairs, decided or {})
    told = compared(features, pairs)
    weights = DEFAULTS
    if len(pairs):
        weights = estimated(told.levels, compared(features, _by_chance(len(features))).levels)
    scores = _scores(features, pairs, told, weights)
    shared = shared_in(features, pairs, told)
    capped = _capped(told, scores, sure, doubts_of(features, pairs, told, shared))
    groups = _grouped(features, pairs, capped, told, (sure, ask), decided or {})
    return Matches(
        features, weights, pairs, capped, told, groups, blocked.narrowed, sure, ask, shared
    )


def raised(size: int, up_to: int) -> float:
    """By how much a threshold rises in a book of so many contacts: a point for each doubling beyond
    the size for which it is made, since strangers are then alike by chance more often."""
    return round(max(0.0, math.log2(max(size, 1) / up_to)), 1)


def _with_decided(pairs: Pairs, decided: Mapping[tuple[int, int], Verdict]) -> Pairs:
    if not decided:
        return pairs
    more = np.asarray(sorted(decided), dtype=np.int64)
    return np.asarray(np.unique(np.concatenate([pairs, more]), axis=0))


def _by_chance(size: int) -> Pairs:
    """Pairs of contacts taken by chance; the same ones each time."""
    chance = np.random.default_rng(size)
    drawn = chance.integers(0, max(size, 2), size=(min(_BY_CHANCE, size * 20), 2))
    return np.asarray(np.sort(drawn[drawn[:, 0] != drawn[:, 1]], axis=1), dtype=np.int64)


def _scores(features: Features, pairs: Pairs, told: Compared, weights: Weights) -> Floats:
    """The sums of points of all pairs."""
    out = np.zeros(len(pairs))
    for begin in range(0, len(pairs), _AT_ONCE):
        part = slice(begin, begin + _AT_ONCE)
        some = Compared({name: each[part] for name, each in told.levels.items()}, told.veto[part])
        points = _points(features, pairs[part], some, weights)
        out[part] = np.sum([points[name] for name in LEVELS], axis=0)
    return out


def _points(
    features: Features, pairs: Pairs, told: Compared, weights: Weights
) -> dict[str, Floats]:
    """The points of each feature for each pair; rare values weigh more than common ones."""
    out = {name: np.asarray(weights[name])[told.levels[name]] for name in LEVELS}
    size = max(len(features), 2)
    for name in ("given", "family"):
        column = features.column(name)
        known = column[column >= 0]
        counts = np.bincount(known, minlength=len(features.name_words.texts) + 1)
        mean = float(np.average(counts[known])) if len(known) else 1.0
        usual = max(mean / size, 1e-4) * size
        values = column[pairs[:, 0]]
        rare = np.clip(np.log2(usual / np.maximum(counts[values], 1)), -_RARE, _RARE)
        out[name] = out[name] + np.where((told.levels[name] == 1) & (values >= 0), rare, 0.0)
    for name, values_of in (("email", features.emails), ("phone", features.phones)):
        out[name] = out[name] - _crowding(values_of, pairs, told.levels[name] == 1)
    for name in ("email", "phone"):  # what many share says little, but never speaks against
        shared = told.levels[name] == 1
        out[name] = np.where(shared, np.maximum(out[name], 0.3), out[name])
    return out


def _crowding(values: Lists, pairs: Pairs, shared: npt.NDArray[np.bool_]) -> Floats:
    """What an address or number that more than two have says less, in bits."""
    counts = np.bincount(values.values, minlength=1)
    out = np.zeros(len(pairs))
    at = np.flatnonzero(shared)
    pair, mine, theirs = crossed(values, pairs[at, 0], pairs[at, 1])
    same = mine == theirs
    fewest = np.full(len(at), np.iinfo(np.int64).max)
    np.minimum.at(fewest, pair[same], counts[mine[same]])
    many = (fewest > 2) & (fewest < np.iinfo(np.int64).max)
    out[at[many]] = 1.5 * np.log2(fewest[many] / 2)
    return out


def _capped(told: Compared, scores: Floats, sure: float, doubts: npt.NDArray[np.int8]) -> Floats:
    """Scores with the rules that no sum may break: what contradicts is apart, and a doubt is a
    question."""
    out = np.where(told.veto > 0, -99.0, scores)
    return np.where(doubts > 0, np.minimum(out, sure - 0.1), out)


def _grouped(
    features: Features, pairs: Pairs, scores: Floats, told: Compared,
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
    found += [Pair(one, other, sure, "same") for (one, other), said in decided.items()
              if said == "same" and not any(_is(pair, one, other) for pair in found)]  # fmt: skip
    found.sort(key=lambda pair: (pair.verdict != "same", -pair.score, pair.one, pair.other))
    apart = {key for key, said in decided.items() if said == "apart"}
    linked = np.zeros(len(features), dtype=bool)  # nobody else is ever joined
    linked[[end for pair in found for end in (pair.one, pair.other)]] = True
    apart |= {
        (int(pairs[at, 0]), int(pairs[at, 1]))
        for at in np.flatnonzero((told.veto > 0) & linked[pairs[:, 0]] & linked[pairs[:, 1]])
        if decided.get((int(pairs[at, 0]), int(pairs[at, 1]))) != "same"
    }
    apart |= _contradictions(features, [p for p in found if p.verdict == "same"], decided)
    return _joined([pair for pair in found if pair.verdict != "apart"], apart, decided)


def _is(pair: Pair, one: int, other: int) -> bool:
    return pair.one == one and pair.other == other


def _contradictions(
    features: Features, links: Sequence[Pair], decided: Mapping[tuple[int, int], Verdict]
) -> set[tuple[int, int]]:
    """Pairs that a chain of links would bring together although they contradict each other."""
    root = list(range(len(features)))

    def top(at: int) -> int:
        while root[at] != at:
            root[at] = root[root[at]]
            at = root[at]
        return at

    for pair in links:
        root[top(pair.one)] = top(pair.other)
    chains: dict[int, list[int]] = defaultdict(list)
    for at in sorted({end for pair in links for end in (pair.one, pair.other)}):
        chains[top(at)].append(at)
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
    veto = compared(features, every).veto
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
        against = {
            (min(member, other), max(member, other))
            for member in mine.members
            for other in barred[member].intersection(newcomers)
        }
        if decided.get((link.one, link.other)) == "same":  # only another decision speaks against
            against = {pair for pair in against if decided.get(pair) == "apart"}
        if against:
            continue
        if link.verdict == "same":
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
        group.clusters.sort(key=lambda cluster: (-len(cluster), cluster))
        group.links.sort(key=lambda pair: (pair.verdict != "same", -pair.score, pair))
    return sorted(found.values(), key=lambda group: min(group.members))
