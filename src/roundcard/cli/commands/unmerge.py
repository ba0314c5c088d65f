"""``roundcard unmerge``: merges taken back, exactly."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.errors import PlanError, UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard merge skippers.vcf skippers-now.vcf merged.vcf --region GB

  roundcard unmerge merged.vcf merged.merges.jsonl apart.vcf --group 2

  roundcard unmerge merged.vcf merged.merges.jsonl originals.vcf --all --force
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
            help="The book to write; BOOK-unmerged beside the book where nothing is said.",
            show_default=False,
        ),
    ] = "",
    person: Annotated[
        str,
        typer.Option(help="The merges in whose values all these words stand.", metavar="WORDS"),
    ] = "",
    group: Annotated[
        str, typer.Option(help="The merge of this number (as the sheet has it).", metavar="N")
    ] = "",
    all_: Annotated[bool, typer.Option("--all", help="All merges of the record.")] = False,
    also: Annotated[
        list[Path] | None,
        typer.Option(
            help="Records of later merges; those beside the book and the record are known.",
            metavar="RECORD",
        ),
    ] = None,
    decisions: options.Decisions = None,
    region: options.NumbersOf = "",
    layout: options.Layouts = None,
    to_layout: options.ToLayout = None,
    to: options.To = "",
    from_: options.From = "",
    prove: options.Prove = False,
    force: options.Force = False,
    dry_run: options.DryRun = False,
    json_: options.Json = False,
    quiet: options.Quiet = False,
    verbose: options.Verbose = False,
) -> int:
    """Take merges back: the originals stand again as they were.

    What was edited in the merged contact since goes to the original that it came from, and is
    told; where it was merged again since, that merge is taken back, too. The decision that they are
    not the same person is kept, so that the next run does not merge them again.
    """
    from dataclasses import replace  # noqa: PLC0415

    from roundcard.books.conversion import convert  # noqa: PLC0415
    from roundcard.books.source import STANDARD  # noqa: PLC0415
    from roundcard.cli import matching  # noqa: PLC0415
    from roundcard.cli.picking import tell  # noqa: PLC0415
    from roundcard.cli.planning import Usual  # noqa: PLC0415
    from roundcard.cli.render import merge as render  # noqa: PLC0415
    from roundcard.cli.render import progress  # noqa: PLC0415
    from roundcard.match.decisions import read_decisions, write_decisions  # noqa: PLC0415
    from roundcard.merge.record import chosen, read_record, records_beside  # noqa: PLC0415
    from roundcard.merge.undoing import apart, undoing  # noqa: PLC0415
    from roundcard.tally import Why  # noqa: PLC0415

    if sum(map(bool, (person, group, all_))) != 1:
        raise UsageError("say which merges to take back: --person WORDS, --group N or --all")
    if not target:
        if book == STANDARD:
            raise UsageError("name a target: standard input has no place beside it")
        target = str(Path(book).with_name(f"{Path(book).stem}-unmerged{Path(book).suffix}"))
    usual = Usual(layout, to_layout, to, from_, prove, force, dry_run)
    plan = usual.plan([book], target)
    plan.more_why, plan.jobs = Why.FROM_RECORD, 1
    if len(plan.open()) != 1:
        raise UsageError(f"{book}: merges are taken back in one book, and these are "
                         f"{len(plan.open())} files")  # fmt: skip
    if plan.to_layout is None:
        plan.keep_layout()
    lines = chosen(read_record(record), person, group)
    if not lines:
        which = f" has number {group}" if group else f" has the words '{person}'" if person else ""
        raise PlanError(f"{record}: no merge is in it{' that' if which else ''}{which}")
    store = matching.store_of(decisions, target)
    if not dry_run:
        matching.demand_place(store)
    later = [line for each in (*(also or []), *records_beside(record, Path(book)))
             for line in read_record(each)]  # fmt: skip
    found = undoing(lines, plan.as_read(), later)
    with progress.shown(quiet) as watch:
        done = convert(replace(plan, first=[found], more=found.others), watch)
    if found.done and not dry_run:
        new = apart(found.done, region, matching.today())
        write_decisions(store, [*read_decisions(store), *new])
    code = tell(done, plan, json_=json_, quiet=quiet, verbose=verbose,
                more={"unmerge": render.undone_for_machines(found)})  # fmt: skip
    if not quiet and not json_:
        kept = [f"{store}: decided that they are apart"] if found.done and not dry_run else []
        sys.stderr.write("".join(f"{line}\n" for line in [*render.undone(found), *kept]))
    return code or (1 if found.missing else 0)
