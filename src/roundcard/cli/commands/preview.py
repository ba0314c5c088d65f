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
    record: Annotated[
        int, typer.Option(help="Print this record and stop.", metavar="N", min=0)
    ] = 0,
    find: Annotated[
        str,
        typer.Option(
            help="Print the first record that contains these words, and stop.", metavar="WORDS"
        ),
    ] = "",
    finding: Annotated[
        bool, typer.Option("--finding", help="Print the first record with a finding, and stop.")
    ] = False,
    all_: Annotated[bool, typer.Option("--all", help="Also show empty cells.")] = False,
    clean: Annotated[
        bool, typer.Option("--clean", help="Show what cleaning would make of it.")
    ] = False,
    region: options.Region = "",
    rules_file: options.RulesFile = None,
    json: options.Json = False,
    *,
    read: options.ReadBlock,
) -> int:
    """Look at one record at a time: the cell, the field that it becomes, the value as it will be.

    At a terminal: n next, b back, j jump to a number, s search, f next with a finding, c next
    where a column is filled, e empty cells, q quit. With --record, --find or --finding one record
    is printed; exit code 1 where there is none.
    """
    from roundcard.app.preview import PreviewPlan, preview_records
    from roundcard.cli import planning
    from roundcard.cli.render import machines
    from roundcard.cli.render import preview as render
    from roundcard.cli.render.text import write_json

    if not clean and (region or rules_file):
        raise UsageError("--region and --rules-file are for cleaning; add --clean")
    plan = planning.plan_of([source], "", read)
    wanted = PreviewPlan(plan, clean, region, rules_file, planning.today().year,
                         planning.usual_wishes())  # fmt: skip
    records = preview_records(wanted)
    name = records.source.name
    asked = bool(record or find or finding or json)
    if not asked and sys.stdin.isatty() and sys.stdout.isatty():
        from roundcard.cli.prompts.record_browser import step_through

        step_through(records, show_empty=all_)
        return 0
    number = record or (0 if find or finding else 1)
    found = _asked(records, number, find, finding)
    if json:
        write_json(machines.record(found, name, records.count))
        return 0 if found else 1
    if found is None:
        sys.stderr.write(render.not_found(records, record, find))
        return 1
    sys.stdout.write(render.for_people(found, name, show_empty=all_))
    return 0


def _asked(records: Records, number: int, find: str, finding: bool) -> Record | None:
    if number and not (find or finding):
        return records.get(number)
    words = find.split()

    def wanted(each: Record) -> bool:
        return each.holds(words) and (not finding or bool(each.findings))

    return records.next_that(max(number - 1, 0), wanted)
