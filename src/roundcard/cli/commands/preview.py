"""``roundcard preview``: one record at a time, before anything is moved."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING, Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

if TYPE_CHECKING:
    from roundcard.survey.preview import Record, Records

EXAMPLES = """[bold]Examples[/bold]

  roundcard preview ledger.csv

  roundcard preview ledger.csv --record 3

  roundcard preview twin-waterway.csv --find Anaïs

  roundcard preview ledger.csv --record 3 --clean --region GB
"""


def preview(
    source: Annotated[
        str, typer.Argument(metavar="SOURCE", help="A file to look through.", show_default=False)
    ],
    layout: options.Layouts = None,
    record: Annotated[
        int, typer.Option(help="Print this record and stop.", metavar="N", min=0)
    ] = 0,
    find: Annotated[
        str,
        typer.Option(
            help="Print the first record in which these words stand, and stop.", metavar="WORDS"
        ),
    ] = "",
    finding: Annotated[
        bool, typer.Option("--finding", help="Print the first record with a finding, and stop.")
    ] = False,
    all_: Annotated[bool, typer.Option("--all", help="Show empty cells, too.")] = False,
    clean: Annotated[
        bool, typer.Option("--clean", help="Show what cleaning would make of it.")
    ] = False,
    region: options.Region = "",
    rules_file: options.RulesFile = None,
    from_: options.From = "",
    encoding: options.Encoding = "",
    separator: options.Separator = "",
    heading_row: options.HeadingRow = None,
    sheet: options.Sheet = "",
) -> int:
    """Look at one record at a time: the cell, the field that it becomes, the value as it will be.

    At a terminal: n next, b back, j jump to a number, s search, f next with a finding, c next
    where a column is filled, e empty cells, q quit. With --record, --find or --finding one record
    is printed; exit code 1 where there is none.
    """
    from roundcard.books.source import HowToRead, sources_of  # noqa: PLC0415
    from roundcard.cli.places import layout_places, own_layouts  # noqa: PLC0415
    from roundcard.cli.render import preview as render  # noqa: PLC0415
    from roundcard.formats.csv import named_separators  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415
    from roundcard.survey.preview import Records  # noqa: PLC0415

    places = layout_places()
    layouts = [found for name in layout or () for found in shelf.find(name, places)]
    mark = named_separators().get(separator, separator)
    how = HowToRead(from_, encoding, mark, heading_row, sheet)
    opened = sources_of([source], sys.stdin.buffer, how)
    if len(opened) > 1:
        raise UsageError(f"{source}: a folder; name one of its {len(opened)} files")
    cleans = None
    if clean:
        from roundcard.books.plan import Plan  # noqa: PLC0415
        from roundcard.cli.cleaning import looking  # noqa: PLC0415

        plan = Plan([source], "", layouts, own_layouts(), opened=opened)
        cleans = looking(plan, region, rules_file)
    elif region or rules_file:
        raise UsageError("--region and --rules-file are for cleaning; add --clean")
    records = Records(opened[0], layouts, own_layouts(), cleans)
    asked = bool(record or find or finding)
    if not asked and sys.stdin.isatty() and sys.stdout.isatty():
        from roundcard.cli.stepping import step_through  # noqa: PLC0415

        step_through(records, show_empty=all_)
        return 0
    found = _asked(records, record or (0 if asked else 1), find, finding)
    if found is None:
        what = f"record {record:,}" if record else f"'{find}'" if find else "no finding"
        have = f"the source has {records.count:,}"
        told = f"{what} is not there; {have}" if record or find else f"no finding in {have[15:]}"
        sys.stderr.write(f"{opened[0].name}: {told} records\n")
        return 1
    sys.stdout.write(render.for_people(found, opened[0].name, show_empty=all_))
    return 0


def _asked(records: Records, number: int, find: str, finding: bool) -> Record | None:
    if number and not (find or finding):
        return records.get(number)
    words = find.split()

    def wanted(each: Record) -> bool:
        return each.holds(words) and (not finding or bool(each.findings))

    return records.next_that(max(number - 1, 0), wanted)
