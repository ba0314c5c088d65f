"""The features of a plan's sources, gathered by one process or by several."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from roundcard.books.chunks import Piece
from roundcard.books.plan import Plan
from roundcard.books.source_reader import Reading, TableIn
from roundcard.books.workers import PieceReader, Seen, in_order, worth_having
from roundcard.match.features import Features, FeaturesOf
from roundcard.tally import Tally


def features_in(plan: Plan, region: str = "") -> Features:
    """The features of all contacts of a plan's sources as they are read, in one pass; `region` is
    that of numbers without a code. However many processes do it, they are the same."""
    gathered = FeaturesOf(region)
    for reading in plan.readings(Tally()):
        processes = worth_having(reading.source.octets, plan.processes)
        if processes < 2 or not _in_pieces(reading, gathered.found, region, processes):
            for contact in reading.contacts(into=gathered):
                gathered.add(contact)
    return gathered.found.end()


def _in_pieces(reading: Reading, found: Features, region: str, processes: int) -> bool:
    """Gather a source by several processes; whether that could be done."""
    cut = reading.cut()
    if cut is None:
        return False
    records = 0
    work = _Work(cut.path, reading.number, cut.table, region)
    for _, piece in in_order(work, cut.pieces(), processes):
        found.join(piece.features, records)
        records += piece.records
    return True


class _Gathered(NamedTuple):
    """What a piece holds."""

    features: Features
    records: int


@dataclass(frozen=True, slots=True)
class _Work:
    """What a process must know to gather the features of pieces."""

    path: Path
    number: int
    table: TableIn | None
    region: str

    def begin(self) -> _Gatherer:
        """What it works with."""
        return _Gatherer(self)


class _Gatherer:
    """Gathers the features of one piece after another."""

    def __init__(self, work: _Work) -> None:
        self._into = FeaturesOf(work.region)
        self._tally = Tally()
        self._reader = PieceReader(work.path, work.number, work.table, self._tally, self._into)

    def do(self, piece: Piece) -> _Gathered:
        """The features of a piece, its records counted from 1."""
        seen = Seen()
        self._into.found = Features()
        for contact in self._reader.contacts(self._reader.octets(piece), piece, seen):
            self._into.add(contact)
        self._tally.taken()
        for words in self._into.found.words():
            words.end()
        return _Gathered(self._into.found, seen.record)
