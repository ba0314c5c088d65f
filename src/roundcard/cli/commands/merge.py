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
    files: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="SOURCE... TARGET",
            help="The books to read, and last the one to write; - is standard input or output.",
            show_default=False,
        ),
    ] = None,
    sheet: Annotated[
        Path | None,
        typer.Option(help="A sheet of 'roundcard match' with decisions.", metavar="SHEET"),
    ] = None,
    decided_only: Annotated[
        bool, typer.Option("--decided-only", help="Merge only what a person decided.")
    ] = False,
    prefer: Annotated[
        list[str] | None,
        typer.Option(
            help="Whose single values survive: a source, newest or fullest; for one field, as "
            "'birthday=ledger.csv'.",
            metavar="[FIELD=]WHOSE",
        ),
    ] = None,
    losers: Annotated[
        str,
        typer.Option(
            help="Keep single values that were not taken in the contact, too: 'extension' or "
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
            help="People whom the book has: update, keep-both or leave.", metavar="update|..."
        ),
    ] = "update",
    update: Annotated[
        list[str] | None,
        typer.Option(
            help="What an update does to a field: fill (only where the book has nothing), add or "
            "replace; for one field, as 'phone=add'.",
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
    ask: options.Ask = 8.5,
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
    """Merge what is the same person into one contact; the originals stay as they are.

    What is sure is merged; what is to be asked stays apart until somebody decides, in a sheet or
    with 'roundcard review'. Of numbers, addresses, categories and notes all are taken, equal ones
    once; of what there is one of, the policy takes one (--policy shows it) and tells of the others.
    The merge record holds every original, so that 'roundcard unmerge' can take each merge back.
    """
    from roundcard.cli import merging  # noqa: PLC0415
    from roundcard.cli.planning import Usual  # noqa: PLC0415
    from roundcard.merge.policy import Policy, preferences_in, updates_in  # noqa: PLC0415

    files = files or []
    if policy:
        sources = [*([into] if into else []), *files[:-1]]
        shown = Policy(preferences_in(prefer or [], sources), updates_in(update or []))
        sys.stdout.write(merging.explained(shown))
        return 0
    if len(files) < 2:
        raise UsageError("a source and a target are wanted: roundcard merge SOURCE... TARGET")
    asked = merging.Asked(
        sources=files[:-1],
        target=files[-1],
        sheet=sheet,
        decided_only=decided_only,
        prefer=prefer or [],
        losers=losers,
        into=into,
        existing=existing,
        update=update or [],
        record=record,
        decisions=decisions,
        sure=sure,
        ask=ask,
        region=region,
        usual=Usual(layout, to_layout, to, from_, prove, force, dry_run),
        json=json_,
        quiet=quiet,
        verbose=verbose,
    )
    return merging.run(asked)
