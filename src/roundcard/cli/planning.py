"""Plans out of the options that all commands share."""

from __future__ import annotations

import datetime
import sys
from collections.abc import Sequence
from typing import TYPE_CHECKING

from roundcard.books import options as books
from roundcard.books.pipeline import Step
from roundcard.books.plan import Plan
from roundcard.books.source import HowToRead
from roundcard.cli import settings
from roundcard.cli.options import ReadBlock, TableBlock, WriteBlock
from roundcard.cli.places import destination_places, layout_places, own_layouts
from roundcard.cli.render.reasons import sentence
from roundcard.errors import UsageError
from roundcard.formats.csv import named_separators
from roundcard.layouts import library

if TYPE_CHECKING:
    from roundcard.clean.user_rules import Wishes
    from roundcard.destinations.model import Destination


def plan_of(
    sources: Sequence[str],
    target: str,
    read: ReadBlock,
    write: WriteBlock | None = None,
    steps: Sequence[Step] = (),
    *,
    split: bool = False,
    region: str = "",
) -> Plan:
    """The conversion of these sources into a target, with the streams of the process.

    Raises `LayoutError` where a layout is not found, `UsageError` for options that say nothing.
    """
    write = write or WriteBlock()
    plan = Plan.of(sources, target, reading(read, write), writing(write), steps, split=split)
    if read.from_destination or write.destination:
        from roundcard.app.fit import fit_to, read_from

        if read.from_destination:
            read_from(plan, destination(read.from_destination))
        if write.destination:
            fit_to(plan, destination(write.destination), settings.region(region))
    return plan


def destination(name: str) -> Destination:
    """The destination of a name or a file. Raises `DestinationError`."""
    from roundcard.destinations import library as destinations

    return destinations.find(name, destination_places(), layout_places())


def reading(read: ReadBlock, write: WriteBlock | None = None) -> books.ReadOptions:
    """How sources are read, as the command line says."""
    places = layout_places()
    return books.ReadOptions(
        layouts=[found for name in read.layout or () for found in library.find(name, places)],
        kept=own_layouts(),
        how=how_to_read(read),
        strict=write is not None and write.strict,
        processes=(write.processes if write is not None else 0) or settings.current().processes,
        stdin=sys.stdin.buffer,
    )


def how_to_read(read: TableBlock) -> HowToRead:
    """What the command line says of the sources' format and dialect."""
    mark = named_separators().get(read.separator, read.separator)
    return HowToRead(read.from_, read.encoding, mark, read.heading_row, read.sheet_name)


def writing(write: WriteBlock) -> books.WriteOptions:
    """How a target is written, as the command line says."""
    targets = library.find(write.to_layout, layout_places()) if write.to_layout else []
    if len(targets) > 1:
        raise UsageError(f"--to-layout names a folder of {len(targets)} layouts; name one file")
    return books.WriteOptions(
        format=write.to,
        layout=targets[0] if targets else None,
        prove=write.prove,
        force=write.force,
        dry_run=write.dry_run,
        side_folder=write.side,
        left_sheet=write.left_behind,
        stdout=sys.stdout.buffer,
        say=sentence,
    )


def sources_and_target(files: Sequence[str] | None, command: str) -> tuple[list[str], str]:
    """The arguments of a command that writes a target. Raises `UsageError`."""
    if len(files or ()) < 2:
        raise UsageError("missing arguments: give at least one SOURCE and a TARGET: roundcard "
                         f"{command} SOURCE... TARGET")  # fmt: skip
    *sources, target = files or ()
    return sources, target


def usual_wishes() -> Wishes:
    """What the user's settings say of cleaning."""
    from roundcard.clean.user_rules import Wishes

    said = settings.current()
    return Wishes(region=said["region"], phone=said["phone"], names=said["names"])


def today() -> datetime.date:
    """The day on which the command runs."""
    return datetime.date.today()
