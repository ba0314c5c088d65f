"""``roundcard merge``: one contact of each person, with nothing lost."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard merge skippers.vcf skippers-now.vcf merged.vcf --region GB

  roundcard merge skippers.vcf skippers-now.vcf checked.vcf --sheet doubles.csv --decided-only

  roundcard merge skippers.vcf ledger.csv all.vcf --prefer ledger.csv --prefer birthday=fullest

  roundcard merge newsletter.csv all.vcf --into skippers.vcf --existing update --update phone=add

  roundcard unmerge merged.vcf merged.merges.jsonl apart.vcf --group 1
"""


def merge(
    files: options.Files = None,
    decided_in: Annotated[
        Path | None,
        typer.Option(
            "--sheet", help="A sheet of 'roundcard match' with decisions.", metavar="SHEET"
        ),
    ] = None,
    decided_only: Annotated[
        bool, typer.Option("--decided-only", help="Merge only what a person decided.")
    ] = False,
    prefer: Annotated[
        list[str] | None,
        typer.Option(
            help="Whose single values survive: a source, newest or fullest; for one field, such as "
            "'birthday=ledger.csv'.",
            metavar="[FIELD=]WHOSE",
        ),
    ] = None,
    losers: Annotated[
        str,
        typer.Option(
            help="Also keep single values that were not taken in the contact: 'extension' or "
            "'note'. The merge record has them in any case.",
            metavar="WHERE",
        ),
    ] = "",
    into: Annotated[
        str,
        typer.Option(help="A book that has people already; the sources are added.", metavar="BOOK"),
    ] = "",
    existing: Annotated[
        str,
        typer.Option(
            help="People whom the book has: update, beside (keep both) or leave.",
            metavar="update|...",
        ),
    ] = "update",
    update: Annotated[
        list[str] | None,
        typer.Option(
            help="What an update does to a field: fill (only where the book has nothing), add or "
            "replace; for one field, such as 'phone=add'.",
            metavar="[FIELD=]WAY",
        ),
    ] = None,
    record: Annotated[
        Path | None,
        typer.Option(
            help="Where the merge record goes; TARGET.merges.jsonl beside the target.",
            metavar="FILE.jsonl",
            show_default=False,
        ),
    ] = None,
    policy: Annotated[
        bool, typer.Option("--policy", help="Show which values survive, and stop.")
    ] = False,
    decisions: options.Decisions = None,
    sure: options.Sure = 13.0,
    ask: options.Ask = 6.0,
    region: options.NumbersOf = "",
    *,
    read: options.ReadBlock,
    write: options.WriteBlock,
    report: options.ReportBlock,
) -> int:
    """Merge what is the same person into one contact; the originals stay as they are.

    What is sure is merged; what is to be asked stays apart until somebody decides, in a sheet or
    with 'roundcard review'. Of numbers, addresses, categories and notes all are taken, equal ones
    once; of what there is one of, the policy takes one (--policy shows it) and tells of the others.
    The merge record holds every original, so that 'roundcard unmerge' can take each merge back.
    """
    from roundcard.app.merge import MergePlan, merge_people
    from roundcard.cli import picking, planning, settings
    from roundcard.cli.render import merge as render
    from roundcard.cli.render import progress
    from roundcard.merge.planning import existing_in
    from roundcard.merge.policy import Policy, losers_in, preferences_in, updates_in

    before = [into] if into else []
    if policy:
        named = [*before, *(files or ())[:-1]]
        shown = Policy(preferences_in(prefer or [], named), updates_in(update or []))
        sys.stdout.write(render.explained(shown))
        return 0
    sources, target = planning.sources_and_target(files, "merge")
    if update and not into:
        raise UsageError("--update is for --into: it says what becomes of people the book has")
    plan = planning.plan_of([*before, *sources], target, read, write, region=region)
    if plan.to_layout is None:
        plan.keep_layout()
    names = [source.name for source in plan.open()]
    rules = Policy(preferences_in(prefer or [], names), updates_in(update or []),
                   losers_in(losers), settings.region(region))  # fmt: skip
    wanted = MergePlan(
        plan, rules, bool(into), existing_in(existing), decided_in, decided_only, sure, ask,
        record, decisions, planning.today().isoformat(),
    )  # fmt: skip
    with progress.shown(report.quiet) as watch:
        done = merge_people(wanted, watch)
    code = picking.tell(done.report, plan, report, {"merge": render.for_machines(done)})
    strange = render.lost(done, decided_in)
    if report.people:
        lines = render.for_people(done, verbose=report.verbose)
        sys.stderr.write("".join(f"{line}\n" for line in lines))
    sys.stderr.write("".join(f"{line}\n" for line in strange))
    return code or (1 if strange else 0)
