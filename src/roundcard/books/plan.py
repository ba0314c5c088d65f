"""What to convert, and how: all that a conversion needs to know."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO, Protocol

from roundcard import formats
from roundcard.books.groups import group_steps
from roundcard.books.options import ReadOptions, Room, WriteOptions
from roundcard.books.pipeline import Step, after_steps
from roundcard.books.shapes.steps import Wanted
from roundcard.books.sidefiles import Say
from roundcard.books.source import STANDARD, HowToRead, Source, sources_of
from roundcard.books.source_reader import Reading
from roundcard.books.tables import (
    FITS_WELL,
    dialect_for,
    fits_table,
    guessed_dialect,
    open_table,
)
from roundcard.card.contact import Contact
from roundcard.card.origin import unpack
from roundcard.errors import UsageError
from roundcard.formats import Format
from roundcard.layouts.model import Layout
from roundcard.tally import Tally, Why

Named = str | Path

Watch = Callable[[str, int, int, int], None]
"""Called now and then with what is done, octets read, octets in all, and people."""


class Supply(Protocol):
    """Takes what the sources hold, and gives whom the target gets in their stead."""

    def __call__(
        self, readings: Sequence[Reading], steps: Sequence[Step], tally: Tally, watch: Watch | None
    ) -> Iterator[Contact]:
        """The people to write, before the last steps; `steps` come before those. What becomes of
        all others is counted in `tally`."""


@dataclass(slots=True)
class Plan:
    """What to convert, and how."""

    sources: Sequence[str]
    target: str
    layouts: Sequence[Layout] = ()
    where_they_fit: bool = False
    """Whether `layouts` are for the tables only whose headings they know."""
    kept: Sequence[Layout] = ()
    """Layouts of the user's that may be taken unasked where they fit."""
    to_layout: Layout | None = None
    how: HowToRead = HowToRead()
    """What the user says of the sources' format and dialect."""
    to_format: str = ""
    steps: Sequence[Step] = ()
    last: Sequence[Step] = ()
    """Steps that come after all others, right before the writer."""
    left_sheet: Path | None = None
    """A sheet that lists what was left behind, and who was not sent."""
    room: Room | None = None
    """How much goes into one file; the target becomes several where there is more."""
    first: Sequence[Step] = ()
    """Steps that come before what groups need: they see contacts as they are read."""
    force: bool = False
    dry_run: bool = False
    strict: bool = False
    """Fail at the first record that cannot be read."""
    stdin: BinaryIO | None = None
    stdout: BinaryIO | None = None
    side_folder: Path | None = None
    """Where side files go; None for beside the target."""
    prove: bool = False
    """Read the target again from disk, and hold it against what was meant."""
    processes: int = 0
    """Processes that share the work; 0 for as many as there are cores and work for."""
    on_pass: Callable[[], None] | None = None
    """Called when the sources are read from the beginning, once more where a second pass is
    needed; what steps told before counts no more."""
    split: bool = False
    """Write one file a person into the folder that `target` names."""
    more: Sequence[Contact] = ()
    """People who are in no source; they are written after all others, and no step sees them."""
    more_why: Why = Why.NEW_PEOPLE
    """Why these are added."""
    supply: Supply | None = None
    """What decides, of all sources together, who is written; None where each contact goes its
    way by itself."""
    layouts_of: Mapping[str, Sequence[Layout]] = field(default_factory=dict)
    """Layouts of single sources, by their names."""
    say: Say = str
    """Puts reasons into words, for people who read side files."""
    opened: list[Source] | None = None
    """The sources, where they are opened already; ask `open`."""

    @classmethod
    def of(
        cls, sources: Named | Sequence[Named], target: Named, read: ReadOptions | None = None,
        write: WriteOptions | None = None, steps: Sequence[Step] = (), *, split: bool = False,
    ) -> Plan:  # fmt: skip
        """A plan for one or more sources (files, folders, ``-``), with the options of all jobs.

        `target` may be empty for jobs that write none.
        """
        read, write = read or ReadOptions(), write or WriteOptions()
        named = [sources] if isinstance(sources, str | Path) else sources
        return cls(
            [str(name) for name in named], str(target), layouts=read.layouts, kept=read.kept,
            to_layout=write.layout, how=read.how, to_format=write.format, steps=steps,
            force=write.force, dry_run=write.dry_run, strict=read.strict, stdin=read.stdin,
            stdout=write.stdout, side_folder=write.side_folder, prove=write.prove,
            last=write.last, room=write.room, left_sheet=write.left_sheet, first=read.first,
            processes=read.processes, split=split, say=write.say,
        )  # fmt: skip

    @property
    def place(self) -> Path | None:
        """Where the target goes; None for standard output."""
        return None if self.target == STANDARD else Path(self.target)

    def open(self) -> list[Source]:
        """The sources, opened once: standard input can be read no second time.

        Raises `SourceError` and `UsageError`.
        """
        if self.opened is None:
            if sum(1 for name in self.sources if name == STANDARD) > 1:
                raise UsageError("standard input can be read only once")
            self.opened = sources_of(self.sources, self.stdin, self.how)
        return self.opened

    def keep_layout(self) -> bool:
        """Write by the layout that is read, where one table becomes a table; whether it is so."""
        promised = formats.by_suffix(self.target) if self.target != STANDARD else None
        opened = self.open()
        if promised is None or promised.sort != "table" or len(opened) != 1:
            return False
        if opened[0].format.sort != "table":
            return False
        self.to_layout = open_table(opened[0], self.layouts, self.kept).layout
        self.layouts = [self.to_layout]
        return True

    def readings(self, tally: Tally) -> list[Reading]:
        """One pass over each of the sources; what is read is counted in `tally`."""
        return [
            Reading(source, number, self._layouts_for(source), tally, self.kept)
            for number, source in enumerate(self.open())
        ]

    def _layouts_for(self, source: Source) -> Sequence[Layout]:
        """The layouts that a table may be read by."""
        if source.name in self.layouts_of:
            return self.layouts_of[source.name]
        if not self.where_they_fit or source.format.sort != "table":
            return self.layouts
        guessed = guessed_dialect(source)
        return [layout for layout in self.layouts if fits_table(
            layout, source, dialect_for(source, layout, guessed)) >= FITS_WELL][:1]  # fmt: skip

    def as_taken(self, places: Container[tuple[int, int]]) -> Iterator[Contact]:
        """The contacts at some places, by source and record, as the steps of a conversion meet
        them, after what groups need."""
        needed = group_steps(self.open(), target_format(self), self.as_read)
        return after_steps(self.picked(places), needed, Tally())

    def picked(self, places: Container[tuple[int, int]]) -> Iterator[Contact]:
        """The contacts at some places, by source and record, as they are read."""

        def wanted(origin: int) -> bool:
            place = unpack(origin)
            return place is not None and (place.source, place.record) in places

        for reading in self.readings(Tally()):
            for contact in reading.contacts(into=Wanted(wanted)):
                if wanted(contact.origin):
                    yield contact

    def as_read(self) -> Iterator[Contact]:
        """All contacts of the sources as they are read, before any step, counting nothing."""
        for reading in self.readings(Tally()):
            yield from reading.contacts()


def target_format(plan: Plan) -> Format:
    """The format to write: as said, or as layout or suffix tell. Raises `UsageError`."""
    if plan.to_format:
        found = formats.by_name(plan.to_format)
        if plan.to_layout is not None and found.sort == "card":
            raise UsageError(f"--to-layout is for tables, and --to says {plan.to_format}")
    elif plan.split:
        found = formats.CARDS
    else:
        promised = formats.by_suffix(plan.target) if plan.target != STANDARD else None
        if plan.to_layout is not None:
            table = promised is not None and promised.sort == "table"
            found = promised if promised and table else formats.TABLE
        elif promised is None:
            raise UsageError(f"cannot tell the format from the name '{plan.target}'; use --to "
                             "vcard, --to csv or --to xlsx")  # fmt: skip
        else:
            found = promised
    if plan.split and found.sort == "table":
        raise UsageError("--split-into writes cards only; use --to vcard or --to jcard")
    return found
