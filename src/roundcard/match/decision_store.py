"""What people decided, kept with its grounds, so that it holds for next month's books as well.

A decision is kept with the identity (UID) of both contacts and with what it went by: their e-mail
addresses, the last digits of their telephone numbers, the words of their names. It holds as long as
the name stands, and one of the addresses or numbers where there were any. Where the contact is
there and its grounds are gone, it is asked again.
"""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, NamedTuple

from roundcard.books.transaction import Transaction
from roundcard.card.equality import identity
from roundcard.errors import PlanError, SourceError
from roundcard.match.features import Features
from roundcard.match.matching import Verdict

FILE = "roundcard-decisions.jsonl"
"""Name of the file in which decisions are kept where nothing else is said."""
SCHEMA = 1


class Side(NamedTuple):
    """A contact of whom something was decided, and what that went by."""

    source: str
    record: int
    uid: str = ""
    name: str = ""
    """The words of the name, for comparison."""
    emails: tuple[str, ...] = ()
    phones: tuple[str, ...] = ()
    """The last digits of the telephone numbers."""
    birthday: str = ""
    generation: int = 0
    """1 for a senior, 2 for a junior, 0 where the name does not tell."""


class Decision(NamedTuple):
    """That two contacts are the same person, or are not."""

    said: Literal["same", "apart"]
    one: Side
    other: Side
    leads: bool = False
    """Whether the first one leads: its single values are taken."""
    keeps: tuple[str, ...] = ()
    """Fields of which the first one's value is taken."""
    when: str = ""


@dataclass(slots=True)
class Resolved:
    """What decisions mean for some books."""

    pairs: dict[tuple[int, int], Verdict] = field(default_factory=dict)
    """Pairs of contacts, the smaller number first: ``same``, ``apart``, or ``ask`` where the
    grounds are gone."""
    leads: set[int] = field(default_factory=set)
    keeps: dict[int, frozenset[str]] = field(default_factory=dict)
    again: list[Decision] = field(default_factory=list)
    """Those whose grounds are gone."""
    absent: list[Decision] = field(default_factory=list)
    """Those about people who are not in these books."""
    standing: list[Decision] = field(default_factory=list)
    """Those that hold, with the contacts as these books have them."""

    @property
    def held(self) -> int:
        """How many pairs are decided."""
        return sum(1 for verdict in self.pairs.values() if verdict != "ask")


def side_of(features: Features, at: int, names: Sequence[str]) -> Side:
    """A contact as a decision keeps it."""
    source = features.source[at]
    uid, whole, born = features.uid[at], features.whole[at], features.birthday[at]
    return Side(
        names[source] if source < len(names) else "",
        features.record[at],
        features.other_words.texts[uid].removeprefix("uid ") if uid >= 0 else "",
        features.whole_words.texts[whole] if whole >= 0 else "",
        tuple(features.email_words.texts[each] for each in features.emails[at]),
        tuple(features.phone_words.texts[each] for each in features.phones[at]),
        str(born) if born >= 0 else "",
        features.generation[at],
    )


def holds(then: Side, now: Side) -> bool:
    """Whether the grounds of a decision still stand: the name, and an address or number where
    there were any."""
    reach = (*then.emails, *then.phones)
    if not _same_name(then.name, now.name) or _other_generation(then, now):
        return False
    return not reach or not set(reach).isdisjoint((*now.emails, *now.phones))


def _same_name(one: str, other: str) -> bool:
    """Whether the words of one name are all in the other, as where only one tells a title."""
    few, many = sorted((set(one.split()), set(other.split())), key=len)
    return few <= many and (bool(few) or not many)


def _other_generation(one: Side, other: Side) -> bool:
    return bool(one.generation and other.generation and one.generation != other.generation)


class Books:
    """The contacts of the books, to be found by what decisions went by."""

    def __init__(self, features: Features, names: Sequence[str]) -> None:
        self.features = features
        self.names = names
        self.of_sheet = False
        self.by: dict[tuple[str, str], list[int]] = defaultdict(list)
        for at in range(len(features)):
            for key in self.keys(side_of(features, at, names)):
                self.by[key].append(at)

    @staticmethod
    def keys(side: Side) -> list[tuple[str, str]]:
        """What a contact is found by."""
        return [("uid", identity(side.uid))] * bool(side.uid) + [
            *(("email", each) for each in side.emails),
            *(("phone", each) for each in side.phones),
            *([("name", side.name)] if side.name else ()),
            ("place", f"{_base(side.source)}:{side.record}"),
        ]

    def resolved(self, decisions: Iterable[Decision], *, of_sheet: bool = False) -> Resolved:
        """Decisions held against the books; a later one of the same two beats an earlier one.

        Those `of_sheet` were made of these very books, so that the record tells, too: a spreadsheet
        program may have spoilt the numbers.
        """
        self.of_sheet = of_sheet
        found = Resolved()
        again: dict[tuple[int, int], Decision] = {}
        for decision in decisions:
            pairs = self.both(decision)
            if not pairs:
                found.absent.append(decision)
            for one, other, stand in pairs:
                key = (min(one, other), max(one, other))
                again.pop(key, None)
                if not stand:
                    again[key] = decision
                    found.pairs[key] = "ask"
                    continue
                found.pairs[key] = decision.said
                found.leads.discard(one)
                if decision.leads:
                    found.leads.add(one)
                if decision.keeps:
                    found.keeps[one] = found.keeps.get(one, frozenset()) | set(decision.keeps)
                found.standing.append(decision._replace(
                    one=side_of(self.features, one, self.names),
                    other=side_of(self.features, other, self.names)))  # fmt: skip
        found.again = list(again.values())
        return found

    def both(self, decision: Decision) -> list[tuple[int, int, bool]]:
        """The two contacts of a decision, and whether its grounds stand; none where they are not
        in the books.

        Where several fit as well, that two are apart holds for each two of them: nobody can tell
        which were meant.
        """
        ones, others = self.found(decision.one), self.found(decision.other)
        pairs = [
            ((stand and stand2, _sum(merit, merit2)), one, other)
            for merit, one, stand in ones
            for merit2, other, stand2 in others
            if one != other
        ]
        if not pairs:
            return []
        best = max(fit for fit, _, _ in pairs)
        found = {(one, other) for fit, one, other in pairs if fit == best}
        if decision.said == "same":
            return [(*min(found), best[0])]
        return [(one, other, best[0]) for one, other in sorted(found)
                if one < other or (other, one) not in found]  # fmt: skip

    def found(self, side: Side) -> list[tuple[Merit, int, bool]]:
        """Contacts that a side may be, each with how well it fits and whether the grounds stand."""
        seen: dict[int, tuple[Merit, bool]] = {}
        for key in self.keys(side):
            near = self.by.get(key, ())
            if key[0] == "name" and len(near) > _MOST:
                continue
            for at in near[:_MOST]:
                if at not in seen:
                    seen[at] = self.fits(side, at)
        known = [(merit, at, stand) for at, (merit, stand) in seen.items() if merit]
        if any(stand for *_, stand in known):
            known = [each for each in known if each[2]]
        return sorted(known, key=lambda each: (tuple(-each_ for each_ in each[0]), each[1]))[
            :_MOST_FIT
        ]

    def fits(self, side: Side, at: int) -> tuple[Merit, bool]:
        """How well a contact fits a side (empty: not at all), and whether the grounds stand.

        What it says tells more than where it stands: in another book of that name another contact
        may stand there.
        """
        now = side_of(self.features, at, self.names)
        stand = holds(side, now)
        placed = (_base(side.source), side.record) == (_base(now.source), now.record)
        alike = _same_name(side.name, now.name) and bool(side.name)
        reached = not set(side.emails + side.phones).isdisjoint(now.emails + now.phones)
        if self.of_sheet and placed and (alike or reached):
            stand = True
        uid = bool(side.uid) and identity(side.uid) == identity(now.uid)
        if side.uid and now.uid and not uid and not placed and not stand:
            return (), False
        some_name = not set(side.name.split()).isdisjoint(now.name.split())
        known = stand or uid or (reached and some_name) or (alike and not reached)
        if not known:
            return (), stand
        mine, its = {*side.emails, *side.phones}, {*now.emails, *now.phones}
        same_born = side.birthday == now.birthday
        return (uid, mine == its, len(mine & its), side.name == now.name,
                side.generation == now.generation, same_born, placed), stand  # fmt: skip


Merit = tuple[int, ...]
"""How well a contact fits what a decision went by, the most telling first; empty: not at all."""


def _sum(one: Merit, other: Merit) -> Merit:
    return tuple(mine + its for mine, its in zip(one, other, strict=True))


_MOST = 50
"""Contacts of one key that are looked at."""
_MOST_FIT = 12


def _base(name: str) -> str:
    return name.replace("\\", "/").rpartition("/")[2]


def read_decisions(path: Path) -> list[Decision]:
    """The decisions of a file, in order; none where it is not there.

    Raises `SourceError` where it cannot be read, and `PlanError` for a line that is none.
    """
    if not path.exists():
        return []
    try:
        lines = path.read_text("utf-8").split("\n")  # other line ends stand in values
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror or error}") from None
    except UnicodeDecodeError:
        raise PlanError(f"{path}: is not a file of decisions: not UTF-8 text") from None
    found = []
    for number, line in enumerate(lines, 1):
        if line.strip():
            try:
                found.append(decision_of(json.loads(line)))
            except RecursionError:
                raise PlanError(f"{path}, line {number}: is nested too deeply") from None
            except (ValueError, KeyError, TypeError) as error:
                raise PlanError(f"{path}, line {number}: is not a decision ({error})") from None
    return found


def taken_back(before: Iterable[Decision], after: Iterable[Decision]) -> list[Decision]:
    """Decisions that are not decided any more."""
    still = {_places(each) for each in after}
    return [each for each in before if _places(each) not in still]


def without(kept: Iterable[Decision], gone: Iterable[Decision]) -> list[Decision]:
    """Decisions without those of the same records that say the same."""
    lost = {(_places(each), each.said) for each in gone}
    return [each for each in kept if (_places(each), each.said) not in lost]


def _places(decision: Decision) -> tuple[tuple[str, int], ...]:
    sides = (decision.one, decision.other)
    return tuple(sorted((_base(side.source), side.record) for side in sides))


def write_decisions(files: Transaction, path: Path, decisions: Iterable[Decision]) -> None:
    """Write decisions in place of those that are there; of equal ones the last stays.

    Raises `TargetError`.
    """
    last = {(each.one, each.other): each for each in decisions}
    target = files.file(path, force=True)
    for each in last.values():
        target.write((json.dumps(decision_as_json(each), ensure_ascii=False) + "\n").encode())


def decision_of(told: dict[str, Any]) -> Decision:
    """A decision out of JSON. Raises `ValueError`, `KeyError` and `TypeError` where it is none."""
    said = told["decision"]
    if said not in ("same", "apart"):
        raise ValueError(f"'{said}' is neither same nor apart")
    return Decision(said, _side(told["one"]), _side(told["other"]), bool(told.get("leads")),
                    tuple(map(str, told.get("keeps", ()))), str(told.get("when", "")))  # fmt: skip


def _side(told: dict[str, Any]) -> Side:
    return Side(str(told["source"]), int(told["record"]), str(told.get("uid", "")),
                str(told.get("name", "")), tuple(map(str, told.get("emails", ()))),
                tuple(map(str, told.get("phones", ()))), str(told.get("birthday", "")),
                int(told.get("generation", 0)))  # fmt: skip


def decision_as_json(decision: Decision) -> dict[str, Any]:
    """A decision for a file of JSON."""
    return {"schema": SCHEMA, "decision": decision.said, "when": decision.when,
            "leads": decision.leads, "keeps": list(decision.keeps),
            "one": decision.one._asdict(), "other": decision.other._asdict()}  # fmt: skip
