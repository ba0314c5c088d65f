"""``roundcard unmerge``: merges taken back, exactly."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard merge skippers.vcf skippers-now.vcf merged.vcf --region GB

  roundcard unmerge merged.vcf merged.merges.jsonl apart.vcf --group 2

  roundcard unmerge merged.vcf merged.merges.jsonl originals.vcf --all --force
  roundcard unmerge merged.vcf merged.merges.jsonl --list
"""


def unmerge(
    book: Annotated[str, typer.Argument(metavar="BOOK", help="The book with merged people.")],
    record: Annotated[
        Path, typer.Argument(metavar="RECORD", help="The merge record that was kept.")
    ],
    target: Annotated[
        str,
        typer.Argument(
            metavar="[TARGET]",
            help="The book to write; BOOK-unmerged beside the book by default.",
            show_default=False,
        ),
    ] = "",
    person: Annotated[
        str,
        typer.Option(help="Only merges whose values contain all these words.", metavar="WORDS"),
    ] = "",
    group: Annotated[
        str, typer.Option(help="The merge of this number (as the sheet has it).", metavar="N")
    ] = "",
    all_: Annotated[bool, typer.Option("--all", help="All merges of the record.")] = False,
    list_: Annotated[
        bool, typer.Option("--list", help="List the merges of the record and stop.")
    ] = False,
    also: Annotated[
        list[Path] | None,
        typer.Option(
            help="Records of later merges; those beside the book and the record are known.",
            metavar="RECORD",
        ),
    ] = None,
    decisions: options.Decisions = None,
    region: options.NumbersOf = "",
    *,
    read: options.ReadBlock,
    write: options.WriteBlock,
    report: options.ReportBlock,
) -> int:
    """Take merges back: the originals stand again as they were.

    What was edited in the merged contact since goes to the original that it came from, and is
    told; where it was merged again since, that merge is taken back, too. The decision that they are
    not the same person is kept, so that the next run does not merge them again.
    """
    from roundcard.app.unmerge import UnmergePlan, merges_of, unmerge_people
    from roundcard.books.source import STANDARD
    from roundcard.cli import picking, planning, settings
    from roundcard.cli.render import merge as render
    from roundcard.cli.render import progress
    from roundcard.cli.render.text import write_json

    if list_:
        found = merges_of(UnmergePlan(planning.plan_of([book], "", read), record, person, group))
        if report.json:
            write_json(render.listed_for_machines(found))
        else:
            sys.stdout.write(render.listed(found))
        return 0
    if sum(map(bool, (person, group, all_))) != 1:
        raise UsageError("say which merges to take back: use --person WORDS, --group N or --all")
    if not target:
        if book == STANDARD:
            raise UsageError("missing argument TARGET: standard input has no place beside it")
        target = str(Path(book).with_name(f"{Path(book).stem}-unmerged{Path(book).suffix}"))
    plan = planning.plan_of([book], target, read, write)
    if len(plan.open()) == 1 and plan.to_layout is None:
        plan.keep_layout()
    region = settings.region(region)
    wanted = UnmergePlan(plan, record, person, group, also or (), decisions, region,
                         planning.today().isoformat())  # fmt: skip
    with progress.shown(report.quiet) as watch:
        done = unmerge_people(wanted, watch)
    code = picking.tell(done.report, plan, report,
                        {"unmerge": render.undone_for_machines(done.undoing)})  # fmt: skip
    if report.people:
        sys.stderr.write("".join(f"{line}\n" for line in render.undone(done)))
    return code or (1 if done.undoing.missing else 0)
