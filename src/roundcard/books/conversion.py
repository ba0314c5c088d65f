"""From sources to a target, with every value followed on the way."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from roundcard import formats
from roundcard.books.characters import Nearest
from roundcard.books.groups import group_steps
from roundcard.books.hidden import AtomicFile, demand_new, is_stream, spare_originals
from roundcard.books.left_sheet import write_left_sheet
from roundcard.books.options import Room
from roundcard.books.outputs import (
    CardOutput,
    Output,
    RowOutput,
    WorkbookOutput,
    card_output,
    row_output,
)
from roundcard.books.photos import PhotoFolder
from roundcard.books.pipeline import Step, Tells, after_steps, telling
from roundcard.books.plan import Plan, Watch, target_format
from roundcard.books.proof import Proof
from roundcard.books.shapes.steps import through
from roundcard.books.shapes.work import Into
from roundcard.books.sheets import demand_sheet
from roundcard.books.sidefiles import SideFiles
from roundcard.books.source import STANDARD
from roundcard.books.source_proof import Held, SourceProof, source_text
from roundcard.books.source_reader import Cut, ReadAs, Reading
from roundcard.books.splitting import Piece, earlier_pieces, split_target
from roundcard.books.target import FolderTarget, NoTarget, StreamTarget, Target
from roundcard.books.transaction import Stream, Transaction
from roundcard.books.workers import Done, TableOut, Work, in_order, worth_having
from roundcard.card.contact import Contact
from roundcard.errors import SourceError, TargetError, UsageError
from roundcard.formats.csv import OPEN_QUOTE, Dialect, lacks
from roundcard.layouts.damage import tell_damage
from roundcard.layouts.infer_columns import Shape
from roundcard.layouts.model import Layout
from roundcard.layouts.row_writer import MoreColumns, RowWriter
from roundcard.tally import Balance, Fate, Reason, SetAside, Tally


@dataclass(slots=True, repr=False)
class Report:
    """What a conversion did."""

    tally: Tally
    read_as: list[ReadAs]
    target: str
    format: str
    layout: str
    side_files: list[Path] = field(default_factory=list)
    seconds: float = 0.0
    proved: int | None = None
    """How many records were read again and found as meant; None where that was not asked."""
    held: Held | None = None
    """What came of holding the target against the sources; None where that was not done."""
    dry_run: bool = False
    pieces: Sequence[Piece] = ()
    """The files that the target became, where a destination takes no more in one."""

    def __repr__(self) -> str:
        people, values = self.tally.people, self.tally.values
        done = "would be written" if self.dry_run else "written"
        even = "balance zero" if self.balance.even else "BALANCE NOT ZERO"
        return (f"<Report {self.target}: {people.read} people and {values.read} values read, "
                f"{people.written} and {values.written} {done}, {even}>")  # fmt: skip

    @property
    def balance(self) -> Balance:
        """What remains of the two equations."""
        return Balance.of(self.tally)


@dataclass(frozen=True, slots=True)
class Written:
    """A target that is written, and has not taken its name yet."""

    report: Report
    part: Path | None
    """Where it can be read; None where it cannot."""
    photos: PhotoFolder | None
    """The photos beside it, if it is a table."""


def convert(plan: Plan, watch: Watch | None = None) -> Report:
    """Convert whole books.

    The target appears whole or not at all, the originals are never touched, and nothing appears
    unless the balance is zero. Raises `SourceError`, `LayoutError`, `TargetError`, `UsageError`
    and `BalanceError`.
    """
    with Transaction(plan.place) as files:
        written = convert_into(files, plan, watch)
        files.commit()
    return written.report


def convert_into(files: Transaction, plan: Plan, watch: Watch | None = None) -> Written:
    """Convert whole books into files that take their names with all others of a command.

    Raises what `convert` raises.
    """
    return _Conversion(files, plan, watch).run()


class _Strict(Tally):
    """A tally that takes no bad record."""

    def __init__(self, sink: SideFiles | None, names: Sequence[str]) -> None:
        super().__init__(sink)
        self.names = names

    def set_aside(self, item: SetAside, values: int, people: int = 1) -> None:  # noqa: ARG002
        """Raise `SourceError`: with ``--strict`` the first bad record is a failure."""
        raise SourceError(
            f"{self.names[item.source]}, line {item.line}: {item.reason}; nothing was written, "
            "since --strict was asked for"
        )


class _Conversion:
    def __init__(self, files: Transaction, plan: Plan, watch: Watch | None) -> None:
        self.files = files
        self.plan = plan
        self.watch = watch
        self.sources = plan.open()
        self.octets = sum(source.octets for source in self.sources)
        if plan.left_sheet is not None:
            demand_sheet(plan.left_sheet, "--left-behind")
            spare_originals(plan.left_sheet, (source.path for source in self.sources))
        self.format = target_format(plan)
        self.photos: PhotoFolder | None = None
        self.against: SourceProof | None = None
        groups = group_steps(self.sources, self.format, plan.as_read)
        self.before: Sequence[Step] = [*plan.first, *groups, *plan.steps]
        """What is done to contacts before it is decided who is written."""
        self.steps: Sequence[Step] = [*self.before, *plan.last]
        layout = plan.to_layout
        if layout is not None and layout.lacking == "nearest" and lacks(layout.dialect.encoding):
            self.steps = [*self.steps, Nearest(layout.dialect.encoding)]

    def run(self) -> Written:
        """Do it all; see `convert`."""
        began = time.monotonic()
        target = self.target()
        self.widens = isinstance(target, AtomicFile | NoTarget) and self.format.of_text
        if self.format.sort == "table" and isinstance(target, AtomicFile):
            photos = PhotoFolder(target.path, sources=len(self.sources), force=self.plan.force)
            self.photos = self.files.grow(photos)
        try:
            report = self.attempt(target)
        except MoreColumns:
            self.widens = False  # look for all the columns first, then write
            if isinstance(target, AtomicFile):
                target.restart()
            if self.photos is not None:
                self.photos.discard()
            report = self.attempt(target)
        for note in self.files.notes:
            report.tally.find(note)
        if isinstance(target, StreamTarget):
            target.commit()
        part = target.so_far() if isinstance(target, AtomicFile) else None
        if self.plan.room is not None and isinstance(target, AtomicFile):
            report.pieces = self.split(target, self.plan.room, report.tally)
            if len(report.pieces) > 1:
                part = None
        report.seconds = time.monotonic() - began
        return Written(report, part, self.photos)

    def split(self, target: AtomicFile, room: Room, tally: Tally) -> list[Piece]:
        """The files that the target becomes; where it is one, that is the target."""
        old = earlier_pieces(target.path)
        if old and not self.plan.force:
            raise TargetError(f"{old[0]} already exists; use --force to write beside it")
        layout = self.plan.to_layout
        dialect = layout.dialect if layout is not None else Dialect()
        above = layout.heading_row if layout is not None else 1
        pieces = split_target(self.files, target, self.format, dialect, above, room)
        for path in sorted(set(old) - {piece.path for piece in pieces}):
            tally.find(f"{path.name} lies there from an earlier run; do not send it")
        return pieces

    def attempt(self, target: Target | FolderTarget) -> Report:
        """Read everything and write everything, from the beginning."""
        plan = self.plan
        side = self.side_files()
        names = [source.name for source in self.sources]
        tally = _Strict(side, names) if plan.strict else Tally(side)
        readings = self.plan.readings(tally)
        output: Output | None = None
        if plan.prove:
            self.listen()
        try:
            output, layout = self.output(tally, target)
            if plan.on_pass is not None:
                plan.on_pass()
            if plan.supply is not None:
                for contact in self.supplied(readings, tally):
                    output.add(contact)
            else:
                for reading in readings:
                    self.transfer(reading, tally, output, target)
            self.add(plan, tally, output)
            output.end()
            proof, held = output.proof, None
            if proof is not None and not isinstance(target, Stream | StreamTarget | NoTarget):
                proof.hold_against(target.so_far(), plan.target)
                held = self.held(proof, readings, target, side, tally)
            report = Report(
                tally=tally,
                read_as=[reading.read_as for reading in readings],
                target=plan.target if plan.target != STANDARD else "standard output",
                format=self.format.title,
                layout=layout,
                dry_run=plan.dry_run,
                proved=proof.people if proof is not None else None,
                held=held,
            )
            report.balance.demand()
        except BaseException:
            if isinstance(output, WorkbookOutput):
                output.discard()
            if side is not None:
                side.discard()
            raise
        if plan.left_sheet is not None and not plan.dry_run:
            cards = side.so_far() if side is not None else None
            write_left_sheet(self.files, cards, plan.left_sheet, force=plan.force)
        if side is not None:
            report.side_files = side.end()
            if plan.left_sheet is not None:
                report.side_files.append(plan.left_sheet)
        if self.photos is not None and self.photos.begun:
            report.side_files.append(self.photos.path)
        return report

    def supplied(self, readings: Sequence[Reading], tally: Tally) -> Iterator[Contact]:
        """Whom the plan's supply gives of all sources, after the last steps."""
        assert self.plan.supply is not None
        given = self.plan.supply(readings, self.before, tally, self.watch)
        return after_steps(given, self.steps[len(self.before) :], tally)

    def listen(self) -> None:
        """Have the steps tell each change to the proof, too."""
        proof = self.against = SourceProof([])
        for step in self.steps:
            if isinstance(step, Tells):
                step.listen(proof.changed)

    def held(
        self, proof: Proof, readings: Sequence[Reading], target: AtomicFile | FolderTarget,
        side: SideFiles | None, tally: Tally,
    ) -> Held | None:  # fmt: skip
        """Hold what was written against the sources; None where that cannot be done, since people
        were made of several records, files of one, or no source can be read in another way."""
        plan = self.plan
        made = (
            plan.first
            or plan.more
            or plan.supply
            or any(getattr(step, "joins", False) for step in self.steps)
        )
        if self.against is None or made or not isinstance(target, AtomicFile):
            return None
        broken = any(OPEN_QUOTE in reason.details for reason in tally.why)  # miscounted by others
        texts = [source_text(reading, cards_only=broken) for reading in readings]
        if not any(texts):
            return None
        self.against.sources = texts
        cards = side.so_far() if side is not None else None
        return self.against.hold(plan.target, proof.origins(), proof.texts(target.so_far()), cards,
                                 tally)  # fmt: skip

    def target(self) -> Target | FolderTarget:
        """The target, opened. Raises `TargetError`."""
        plan = self.plan
        if plan.split and plan.target == STANDARD:
            raise UsageError("--split-into needs a folder, not standard output")
        path = plan.place
        if plan.prove and (path is None or is_stream(path)):
            raise UsageError("--prove reads the target again, and a stream is gone when it is "
                             "written; name a file")  # fmt: skip
        if path is None:
            if plan.dry_run or plan.stdout is None:
                return NoTarget()
            return StreamTarget(plan.stdout)
        spare_originals(path, (source.path for source in self.sources))
        for source in self.sources:
            if plan.split and source.path and path.resolve() in source.path.resolve().parents:
                raise TargetError(f"{path} contains one of the sources; originals are never "
                                  "overwritten; choose a different folder")  # fmt: skip
        if plan.split:
            ours = tuple(suffix for form in formats.FORMATS for suffix in form.suffixes
                         if form.sort == "card")  # fmt: skip
            if plan.dry_run:
                return NoTarget()
            return self.files.grow(FolderTarget(path, force=plan.force, ours=ours))
        if plan.dry_run:
            if not is_stream(path):
                demand_new(path, force=plan.force)
            return NoTarget()
        return self.files.file(path, force=plan.force)

    def side_files(self) -> SideFiles | None:
        """The sink for what the target does not get; None on a dry run."""
        plan = self.plan
        if plan.dry_run:
            return None
        beside = plan.place or Path("standard-output")
        if plan.side_folder is not None:
            beside = plan.side_folder / beside.name
        names = [source.name for source in self.sources]
        return SideFiles(self.files, beside, names, plan.say)

    def transfer(
        self, reading: Reading, tally: Tally, output: Output, target: Target | FolderTarget
    ) -> None:
        """Take one source into the target, by one process or by several."""
        work = None if isinstance(target, FolderTarget) else self.shared(reading, output)
        if work is None or isinstance(target, FolderTarget):
            into = through(output.shapes(), self.steps)
            for contact in self.contacts(reading, tally, "converting", into):
                output.add(contact)
            return
        output.flush()
        for done in self.pieces(reading, work, tally, "converting"):
            target.write(done.octets)
            if output.proof is not None:
                output.proof.add(done.digests, done.places, done.before)

    @staticmethod
    def add(plan: Plan, tally: Tally, output: Output) -> None:
        """Write people who come from no source."""
        before = tally.people.carried
        for contact in plan.more:
            output.add(contact)
        added = tally.people.carried - before
        tally.people.carried -= added
        tally.count(Reason(Fate.ADDED, plan.more_why), people=added)

    def contacts(
        self, reading: Reading, tally: Tally, doing: str, into: Into | None = None
    ) -> Iterator[Contact]:
        """The contacts of one source after all steps; see `Reading.contacts`."""
        before, people = self.octets_before(reading), tally.people.read

        def progress(octets: int, records: int) -> None:
            if self.watch is not None:
                self.watch(doing, before + octets, self.octets, people + records)

        return after_steps(reading.contacts(progress, into), self.steps, tally)

    def octets_before(self, reading: Reading) -> int:
        """How many octets the sources hold that come before one."""
        return sum(source.octets for source in self.sources[: reading.number])

    def shared(
        self, reading: Reading, output: Output | None, shape: Shape | None = None
    ) -> tuple[Cut, Work, int] | None:
        """How several processes share the work on one source; None where one does it alone."""
        processes = worth_having(reading.source.octets, self.plan.processes)
        if processes < 2 or self.plan.strict:
            return None
        out = None
        if isinstance(output, RowOutput):
            layout, extra, widens = output.made_by
            if any(
                path.field in ("photo", "logo")
                for column in layout.columns
                for path in column.holds
            ):
                return None  # photos are named one after another
            out = TableOut(layout, extra, widens)
        elif shape is None and not (isinstance(output, CardOutput) and self.format.version):
            return None
        cut = reading.cut()
        if cut is None:
            return None
        work = Work(cut.path, reading.number, cut.table, self.steps, self.format, out, shape,
                    self.plan.prove, self.plan.say)  # fmt: skip
        return cut, work, processes

    def pieces(
        self, reading: Reading, shared: tuple[Cut, Work, int], tally: Tally, doing: str
    ) -> Iterator[Done]:
        """What became of the pieces of a source, in order; all that was counted is added up."""
        cut, work, processes = shared
        before = self.octets_before(reading)
        lines, records = cut.lines, 0
        sink = tally.sink
        for piece, done in in_order(work, cut.pieces(), processes):
            tally.add(done.tally, {"line": lines, "record": records})
            for step, told in zip(telling(self.steps), done.told, strict=True):
                step.give(told, records)
            if isinstance(sink, SideFiles):
                for item in done.set_aside:
                    record = item.record + records if item.record else 0
                    sink.set_aside(item._replace(record=record, line=item.line + lines))
                for card, record in done.left_behind:
                    sink.keep_card(card, reading.number, record + records)
            done.before = records
            lines += done.lines
            records += done.records
            if self.watch is not None:
                so_far = before + piece.offset + piece.length
                self.watch(doing, so_far, self.octets, tally.people.read)
            yield done
        if cut.table is not None:
            tell_damage(tally, reading.number)

    def output(self, tally: Tally, target: Target | FolderTarget) -> tuple[Output, str]:
        """What writes the target, and the name of the layout that it writes by."""
        prove = self.plan.prove and not self.plan.dry_run
        if self.format.sort == "card":
            proof = Proof(self.format) if prove else None
            return card_output(self.format, tally, target, proof), ""
        if isinstance(target, FolderTarget):
            raise UsageError("--split-into writes cards only; use --to vcard or --to jcard")
        layout, extra = self.target_layout()
        widens = self.widens and layout.unlisted == "custom" and layout.heading_row > 0
        writer = RowWriter(layout, tally, extra, widens=widens, photos=self.photos,
                           longest=self.format.longest_cell)  # fmt: skip
        proof = Proof(self.format, layout.dialect, len(writer.above)) if prove else None
        title = Path(self.plan.target).stem
        return row_output(self.format, writer, target, title, proof), layout.name

    def target_layout(self) -> tuple[Layout, dict[str, int]]:
        """The layout to write by, and the custom labels that get columns after its own."""
        layout = self.plan.to_layout
        if layout is not None and (layout.unlisted != "custom" or self.widens):
            return layout, {}
        shape = Shape(photos=self.photos is not None)
        apart = Tally()
        readings = self.plan.readings(apart)
        if self.plan.supply is not None:
            for contact in self.supplied(readings, apart):
                shape.add(contact)
            readings = []
        for reading in readings:
            shared = self.shared(reading, None, Shape(photos=shape.photos))
            if shared is None:
                for contact in self.contacts(reading, apart, "looking for columns"):
                    shape.add(contact)
            else:
                for done in self.pieces(reading, shared, apart, "looking for columns"):
                    shape.merge(done.shape or Shape())
        for contact in self.plan.more:
            shape.add(contact)
        if layout is None:
            return shape.layout(""), {}
        if layout.heading_row == 0:
            return layout, {}  # a column without a heading could not be read back
        listed = Counter(
            path.label.casefold()
            for column in layout.columns
            for path in column.holds
            if path.field == "custom"
        )
        needed = {label: n - listed[label.casefold()] for label, n in shape.labels.items()}
        return layout, {label: n for label, n in needed.items() if n > 0}
