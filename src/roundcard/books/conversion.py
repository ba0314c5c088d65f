"""From sources to a target, with every value followed on the way."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO, Protocol

from roundcard import formats
from roundcard.books.photos import PhotoFolder
from roundcard.books.reading import ReadAs, Reading
from roundcard.books.sidefiles import SideFiles
from roundcard.books.source import STANDARD, HowToRead, sources_of
from roundcard.books.target import AtomicFile, FolderTarget, NoTarget, StreamTarget, Target
from roundcard.books.writing import Output, card_output, longest_cell, row_output
from roundcard.card.contact import Contact
from roundcard.errors import SourceError, TargetError, UsageError
from roundcard.formats import Format
from roundcard.layouts.model import Layout
from roundcard.layouts.shape import Shape
from roundcard.layouts.writing import MoreColumns, RowWriter
from roundcard.tally import Balance, SetAside, Tally


class Step(Protocol):
    """Takes a contact and gives it back, changed or as it was, or None where it is left out."""

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """Do the step's work, counting what it does."""


Watch = Callable[[str, int, int, int], None]
"""Called now and then with what is done, octets read, octets in all, and people."""


@dataclass(slots=True)
class Plan:
    """What to convert, and how."""

    sources: Sequence[str]
    target: str
    layouts: Sequence[Layout] = ()
    to_layout: Layout | None = None
    how: HowToRead = HowToRead()
    """What the user says of the sources' format and dialect."""
    to_format: str = ""
    steps: Sequence[Step] = ()
    force: bool = False
    dry_run: bool = False
    strict: bool = False
    """Fail at the first record that cannot be read."""
    stdin: BinaryIO | None = None
    stdout: BinaryIO | None = None
    side_folder: Path | None = None
    """Where side files go; None for beside the target."""
    split: bool = False
    """Write one file a person into the folder that `target` names."""


@dataclass(slots=True)
class Report:
    """What a conversion did."""

    tally: Tally
    read_as: list[ReadAs]
    target: str
    format: str
    layout: str
    side_files: list[Path] = field(default_factory=list)
    seconds: float = 0.0
    dry_run: bool = False

    @property
    def balance(self) -> Balance:
        """What remains of the two equations."""
        return Balance.of(self.tally)


def convert(plan: Plan, watch: Watch | None = None) -> Report:
    """Convert whole books.

    The target appears whole or not at all, the originals are never touched, and nothing appears
    unless the balance is zero. Raises `SourceError`, `LayoutError`, `TargetError`, `UsageError`
    and `BalanceError`.
    """
    return _Conversion(plan, watch).run()


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
    def __init__(self, plan: Plan, watch: Watch | None) -> None:
        self.plan = plan
        self.watch = watch
        if sum(1 for name in plan.sources if name == STANDARD) > 1:
            raise UsageError("standard input can be read once only")
        self.sources = sources_of(plan.sources, plan.stdin, plan.how)
        self.octets = sum(source.octets for source in self.sources)
        self.format = target_format(plan)
        self.photos: PhotoFolder | None = None
        self.people = 0

    def run(self) -> Report:
        """Do it all; see `convert`."""
        began = time.monotonic()
        target = self.target()
        self.widens = isinstance(target, AtomicFile | NoTarget) and self.format.name != "xlsx"
        side: SideFiles | None = None
        if self.format.sort == "table" and isinstance(target, AtomicFile):
            self.photos = PhotoFolder(target.path, sources=len(self.sources),
                                      force=self.plan.force)  # fmt: skip
        try:
            try:
                report, side = self.attempt(target)
            except MoreColumns:
                self.widens = False  # look for all the columns first, then write
                if isinstance(target, AtomicFile):
                    target.restart()
                if self.photos is not None:
                    self.photos.restart()
                report, side = self.attempt(target)
            if side is not None:
                report.side_files = side.commit()
            if self.photos is not None:
                report.side_files += self.photos.commit()
            target.commit()
        except BaseException:
            target.discard()
            if side is not None:
                side.discard()
            if self.photos is not None:
                self.photos.discard()
            raise
        report.seconds = time.monotonic() - began
        return report

    def attempt(self, target: Target | FolderTarget) -> tuple[Report, SideFiles | None]:
        """Read everything and write everything, from the beginning."""
        plan = self.plan
        side = self.side_files()
        names = [source.name for source in self.sources]
        tally = _Strict(side, names) if plan.strict else Tally(side)
        readings = self.readings(tally)
        try:
            output, layout = self.output(tally, target)
            for contact in self.contacts(readings, tally, "converting"):
                output.add(contact)
            output.end()
            report = Report(
                tally=tally,
                read_as=[reading.read_as for reading in readings],
                target=plan.target if plan.target != STANDARD else "standard output",
                format=self.format.title,
                layout=layout,
                dry_run=plan.dry_run,
            )
            report.balance.demand()
        except BaseException:
            if side is not None:
                side.discard()
            raise
        return report, side

    def target(self) -> Target | FolderTarget:
        """The target, opened. Raises `TargetError`."""
        plan = self.plan
        if plan.split and plan.target == STANDARD:
            raise UsageError("one file a person needs a folder; standard output is one stream")
        if plan.target == STANDARD:
            if plan.dry_run or plan.stdout is None:
                return NoTarget()
            return StreamTarget(plan.stdout)
        path = Path(plan.target)
        for source in self.sources:
            if source.path is not None and path.exists() and path.samefile(source.path):
                raise TargetError(f"{path}: this is one of the sources, and the originals are "
                                  "never touched; name another file")  # fmt: skip
            if plan.split and source.path and path.resolve() in source.path.resolve().parents:
                raise TargetError(f"{path}: one of the sources stands in it, and the originals are "
                                  "never touched; name another folder")  # fmt: skip
        if plan.split:
            ours = tuple(suffix for form in formats.FORMATS for suffix in form.suffixes
                         if form.sort == "card")  # fmt: skip
            return NoTarget() if plan.dry_run else FolderTarget(path, force=plan.force, ours=ours)
        if plan.dry_run:
            if path.exists() and not plan.force:
                raise TargetError(f"{path}: exists already; add --force to replace it")
            return NoTarget()
        return AtomicFile(path, force=plan.force)

    def side_files(self) -> SideFiles | None:
        """The sink for what the target does not get; None on a dry run."""
        plan = self.plan
        if plan.dry_run:
            return None
        beside = Path("standard-output") if plan.target == STANDARD else Path(plan.target)
        if plan.side_folder is not None:
            beside = plan.side_folder / beside.name
        return SideFiles(beside, [source.name for source in self.sources])

    def readings(self, tally: Tally) -> list[Reading]:
        return [
            Reading(source, number, self.plan.layouts, tally)
            for number, source in enumerate(self.sources)
        ]

    def contacts(self, readings: Sequence[Reading], tally: Tally, doing: str) -> Iterator[Contact]:
        """The contacts of all sources after all steps."""
        steps = self.plan.steps
        before = 0
        self.people = 0
        for reading in readings:

            def progress(octets: int, records: int, base: int = before) -> None:
                if self.watch is not None:
                    self.watch(doing, base + octets, self.octets, self.people + records)

            for contact in reading.contacts(progress):
                kept: Contact | None = contact
                for step in steps:
                    kept = step(contact, tally)
                    if kept is None:
                        break
                    contact = kept
                if kept is not None:
                    yield kept
            before += reading.source.octets
            self.people = tally.people.read

    def output(self, tally: Tally, target: Target | FolderTarget) -> tuple[Output, str]:
        """What writes the target, and the name of the layout that it writes by."""
        if self.format.sort == "card":
            return card_output(self.format, tally, target), ""
        assert not isinstance(target, FolderTarget)
        layout, extra = self.target_layout()
        widens = self.widens and layout.unlisted == "custom" and layout.heading_row > 0
        writer = RowWriter(layout, tally, extra, widens=widens, photos=self.photos,
                           longest=longest_cell(self.format))  # fmt: skip
        return row_output(self.format, writer, target, Path(self.plan.target).stem), layout.name

    def target_layout(self) -> tuple[Layout, dict[str, int]]:
        """The layout to write by, and the custom labels that get columns after its own."""
        layout = self.plan.to_layout
        if layout is not None and (layout.unlisted != "custom" or self.widens):
            return layout, {}
        shape = Shape(photos=self.photos is not None)
        apart = Tally()
        for contact in self.contacts(self.readings(apart), apart, "looking for columns"):
            shape.add(contact)
        if layout is None:
            made = shape.layout("")
            if not made.columns:
                raise SourceError("nothing in the sources could be put into a table")
            return made, {}
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


def target_format(plan: Plan) -> Format:
    """The format to write: as said, or as layout or suffix tell. Raises `UsageError`."""
    if plan.to_format:
        found = formats.by_name(plan.to_format)
        if plan.to_layout is not None and found.sort == "card":
            raise UsageError(f"--to-layout is for tables, and --to says {plan.to_format}")
    elif plan.split:
        found = formats.by_name("vcard")
    else:
        promised = formats.by_suffix(plan.target) if plan.target != STANDARD else None
        if plan.to_layout is not None:
            table = promised is not None and promised.sort == "table"
            found = promised if promised and table else formats.by_name("csv")
        elif promised is None:
            raise UsageError(f"the name '{plan.target}' does not tell a format; say --to vcard, "
                             "--to csv or --to xlsx")  # fmt: skip
        else:
            found = promised
    if plan.split and found.sort == "table":
        raise UsageError("one file a person is for cards; --to says vcard or jcard")
    return found
