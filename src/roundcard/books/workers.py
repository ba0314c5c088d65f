"""The same work on the pieces of a source, done by several processes, in order.

Octets and tallies cross between processes, never contacts. A worker counts lines and records of its
piece from the beginning of the piece; the parent, which takes the pieces in order, adds what came
before. The octets that come out are those that one process would write.
"""

from __future__ import annotations

import contextlib
import gc
import io
import multiprocessing
import os
import pickle
import signal
import sys
from array import array
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Protocol, TypeVar

from roundcard.books.chunks import Piece
from roundcard.books.outputs import CardOutput, RowOutput
from roundcard.books.photos import PhotosBeside
from roundcard.books.pipeline import Step, after_steps, telling
from roundcard.books.proof import Proof
from roundcard.books.shapes.card_blocks import CardBlocks
from roundcard.books.shapes.steps import through
from roundcard.books.shapes.table_blocks import TableBlocks
from roundcard.books.shapes.work import Into
from roundcard.books.sidefiles import LeftBehind, Say
from roundcard.books.source_reader import TableIn, card_contacts, records
from roundcard.card.contact import Contact, Property
from roundcard.card.origin import unpack
from roundcard.formats import Format, csv, vcard
from roundcard.formats.vcard import VCardWriter
from roundcard.formats.vcard.reader import CardReader
from roundcard.layouts.infer_columns import Shape
from roundcard.layouts.model import Layout
from roundcard.layouts.row_reader import RowReader
from roundcard.layouts.row_writer import MoreColumns, RowWriter
from roundcard.tally import Reason, SetAside, Tally

_FORKS = sys.platform == "linux"
_WORTH_A_PROCESS = 2_000_000
"""Octets of a source that a process more is worth starting for."""
_AHEAD = 2
"""Pieces that a worker is given before the first of them is done."""


@dataclass(frozen=True, slots=True)
class TableOut:
    """How the rows of a target are written."""

    layout: Layout
    extra: dict[str, int]
    widens: bool


@dataclass(slots=True)
class Done:
    """What became of one piece."""

    octets: bytes
    tally: Tally
    records: int
    lines: int
    set_aside: list[SetAside] = field(default_factory=list)
    left_behind: list[tuple[str, int]] = field(default_factory=list)
    """Cards of what was left behind, and the number of the record in the piece (or 0)."""
    shape: Shape | None = None
    digests: bytes = b""
    """Of the records written, where they are to be proved; and which record each was."""
    places: array[int] = field(default_factory=lambda: array("q"))
    told: list[list[Any]] = field(default_factory=list)
    """What each step that tells had to tell."""
    before: int = 0
    """The records that came before the piece."""


@dataclass(frozen=True, slots=True)
class Work:
    """All that a process needs to know to do a piece."""

    path: Path
    number: int
    table: TableIn | None
    steps: Sequence[Step]
    format: Format
    out: TableOut | None
    shape: Shape | None = None
    """An empty one where the columns are looked for, and nothing is written."""
    prove: bool = False
    say: Say = str

    def begin(self) -> Workshop:
        """All that a process works with."""
        return Workshop(self)


class PieceReader:
    """Reads the pieces of one source: what it has learned of heads and places holds for all."""

    def __init__(
        self, path: Path, number: int, table: TableIn | None, tally: Tally, into: Into | None
    ) -> None:
        """Records of one shape are written into `into`, if it is given."""
        self._path = path
        self._number = number
        self._tally = tally
        self._into = into
        self.table = table
        self._rows: RowReader | None = None
        self._quick: TableBlocks | None = None
        self._cards = CardReader(number, tally)
        self._blocks: CardBlocks | None = None
        if table is not None:
            photos = PhotosBeside(path)
            self._rows = RowReader(table.layout, table.binding, number, tally, photos)
            self._quick = TableBlocks(self._rows, tally)
        elif into is not None:
            self._blocks = CardBlocks(self._cards, labels=into.labels)

    def octets(self, piece: Piece) -> bytes:
        """What a piece holds."""
        with self._path.open("rb") as stream:
            stream.seek(piece.offset)
            octets = stream.read(piece.length)
        return octets if self.table is not None else b"".join(vcard.plain_breaks([octets]))

    def contacts(
        self, octets: bytes, piece: Piece, seen: Callable[[int], None]
    ) -> Iterator[Contact]:
        """The contacts of a piece, or those that could not be written with others."""
        tally, into = self._tally, self._into
        if self.table is not None and self._rows is not None:
            rows = csv.read(io.BytesIO(octets), self.table.dialect)
            return records(self._rows, rows, tally, seen, to_the_end=piece.last, into=into,
                           quick=self._quick)  # fmt: skip
        self._cards.record = 0
        if into is not None and self._blocks is not None:
            return card_contacts([octets], self._blocks, tally, seen, into)
        return vcard.read([octets], source=self._number, tally=tally, on_record=seen)


class Workshop:
    """What one process works with, piece after piece: what it has learned of heads, places and
    shapes holds for all pieces, only what is counted begins anew."""

    def __init__(self, work: Work) -> None:
        self._work = work
        self._tally = Tally()
        self._target = _Memory()
        self._proof = Proof(work.format) if work.prove else None
        self._output = None if work.shape is not None else self._made_output()
        into = self._output.shapes() if self._output is not None else None
        into = through(into, work.steps)
        self._reader = PieceReader(work.path, work.number, work.table, self._tally, into)

    def do(self, piece: Piece) -> Done:
        """Read a piece, take its contacts through the steps, and write them."""
        work, tally, output = self._work, self._tally, self._output
        octets = self._reader.octets(piece)
        sink = tally.sink = _Gathered(work.say)
        seen = Seen()
        told = [step.gather() for step in telling(work.steps)]
        contacts = after_steps(self._reader.contacts(octets, piece, seen), work.steps, tally)
        shape = None
        if output is not None:
            for contact in contacts:
                output.add(contact)
            output.end()
        elif work.shape is not None:
            shape = Shape(photos=work.shape.photos)
            for contact in contacts:
                shape.add(contact)
        sink.end()
        lines = octets.count(b"\n")
        if work.table is not None:  # in a table, an old line break counts too
            lines += octets.count(b"\r") - octets.count(b"\r\n")
        digests, places = b"", array("q")
        if self._proof is not None:
            digests, places = bytes(self._proof.digests), self._proof.places
            self._proof.digests.clear()
            self._proof.places = array("q")
        return Done(self._target.taken(), tally.taken(), seen.record, lines, sink.aside, sink.left,
                    shape, digests, places, told)  # fmt: skip

    def _made_output(self) -> CardOutput | RowOutput:
        out = self._work.out
        if out is None:
            writer = VCardWriter(self._work.format.version, self._tally)
            return CardOutput(writer, self._target, self._proof)
        rows = RowWriter(out.layout, self._tally, out.extra, widens=out.widens)
        return RowOutput(rows, self._target, self._proof, headings=False)


class Seen:
    """Counts the records of a piece."""

    def __init__(self) -> None:
        self.record = 0

    def __call__(self, record: int) -> None:
        """So many were read."""
        self.record = record


class _Memory:
    """A target in memory."""

    def __init__(self) -> None:
        self.octets: list[bytes] = []

    def write(self, octets: bytes) -> None:
        self.octets.append(octets)

    def taken(self) -> bytes:
        """All that was written since it was last asked."""
        written, self.octets = b"".join(self.octets), []
        return written


class _Gathered:
    """A tally's sink that keeps everything for the parent."""

    def __init__(self, say: Say) -> None:
        self.aside: list[SetAside] = []
        self.left: list[tuple[str, int]] = []
        self._cards = LeftBehind(self._give, say)

    def left_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:
        """Keep a value."""
        self._cards.left_behind(contact, prop, reason)

    def end(self) -> None:
        """Give what is still held."""
        self._cards.flush()

    def set_aside(self, item: SetAside) -> None:
        """Keep a bad record."""
        self.aside.append(item)

    def _give(self, card: str, origin: int) -> None:
        place = unpack(origin)
        self.left.append((card, place.record if place else 0))


D_co = TypeVar("D_co", covariant=True)


class Does(Protocol[D_co]):
    """Does pieces, one after another."""

    def do(self, piece: Piece) -> D_co:
        """What becomes of a piece."""


class Begins(Protocol[D_co]):
    """All that a process needs to know to do pieces; it crosses between processes."""

    def begin(self) -> Does[D_co]:
        """What the process works with."""


def cores() -> int:
    """How many cores this process may use."""
    if sys.platform == "linux":
        return len(os.sched_getaffinity(0))
    return os.cpu_count() or 1


def worth_having(octets: int, wanted: int = 0) -> int:
    """How many processes are worth having for a source of so many octets; or so many as wanted."""
    return wanted or min(cores(), octets // _WORTH_A_PROCESS)


def in_order(
    work: Begins[D_co], pieces: Iterable[Piece], processes: int
) -> Iterator[tuple[Piece, D_co]]:
    """Do all pieces in so many processes, and give what became of them in order.

    Raises what the work raises. The processes end with the iteration, and with the parent.
    """
    context: Any = multiprocessing.get_context("fork" if _FORKS else "spawn")
    ours: list[Connection] = []
    workers = []
    waiting: deque[tuple[Piece, Connection]] = deque()
    try:
        for _ in range(processes):
            mine, theirs = context.Pipe()
            ours.append(mine)
            worker = context.Process(target=_worker, args=(work, theirs, list(ours)), daemon=True)
            worker.start()
            theirs.close()
            workers.append(worker)
        for number, piece in enumerate(pieces):
            if len(waiting) >= processes * _AHEAD:
                yield _taken(waiting)
            connection = ours[number % processes]
            connection.send(piece)
            waiting.append((piece, connection))
        while waiting:
            yield _taken(waiting)
    finally:
        for connection in ours:
            connection.close()
        for worker in workers:
            worker.terminate()
            worker.join()


def _taken(waiting: deque[tuple[Piece, Connection]]) -> tuple[Piece, Any]:
    piece, connection = waiting.popleft()
    try:
        found: Any = connection.recv()
    except EOFError:
        raise RuntimeError("a process that worked on a piece of the source died") from None
    if isinstance(found, BaseException):
        raise found
    return piece, found


def _worker(work: Begins[Any], connection: Connection, others: Sequence[Connection]) -> None:
    """Do pieces until the parent has no more, or is gone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the parent hears it too, and ends us
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    if _FORKS:
        for other in others:  # or the pipe would stay open when the parent is gone
            other.close()
    gc.freeze()
    gc.disable()  # contacts hold no cycles; what else does is looked for between the pieces
    workshop = work.begin()
    with contextlib.suppress(EOFError, OSError):
        while True:
            piece = connection.recv()
            gc.collect()
            try:
                done: Any = workshop.do(piece)
            except MoreColumns:
                done = MoreColumns()
            except Exception as error:  # told by the parent
                try:
                    pickle.loads(pickle.dumps(error))
                    done = error
                except Exception:  # one that cannot cross
                    done = RuntimeError(repr(error))
            connection.send(done)
