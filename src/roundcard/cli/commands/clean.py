"""``roundcard clean``: values cleaned by named rules, each change listed."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard clean --rules

  roundcard clean newsletter.csv clean.csv --changes changes.csv

  roundcard clean ledger.csv clean-ledger.csv --layout membership-ledger --region GB --dry-run

  roundcard clean skippers.vcf clean.vcf --rule phone-form --region GB

  roundcard clean newsletter.csv people.vcf --rule usual --rule name-join
"""


def clean(
    files: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="SOURCE... TARGET",
            show_default=False,
            help="The files to read, and last the one to write.",
        ),
    ] = None,
    rules: Annotated[bool, typer.Option("--rules", help="List the rules and stop.")] = False,
    rule: Annotated[
        list[str] | None,
        typer.Option(
            help="Only this rule; may be said again. 'usual' stands for the usual ones.",
            metavar="NAME",
        ),
    ] = None,
    no_rule: Annotated[
        list[str] | None, typer.Option(help="All but this rule.", metavar="NAME")
    ] = None,
    rules_file: options.RulesFile = None,
    region: options.Region = "",
    phone: Annotated[
        str,
        typer.Option(help="The form of phone numbers: international or national.", metavar="FORM"),
    ] = "",
    countries: Annotated[
        str,
        typer.Option(
            help="Write countries alike: 'code', or in a language, as en, de, fr.", metavar="FORM"
        ),
    ] = "",
    names: Annotated[
        str,
        typer.Option(
            help="What stands first in whole names, where the book does not tell it: "
            "given-first or family-first.",
            metavar="ORDER",
        ),
    ] = "",
    changes: options.Changes = None,
    decisions: Annotated[
        Path | None,
        typer.Option(
            help="A list of changes in which some are marked in the column 'refuse'; "
            "those are not made.",
            metavar="FILE.csv",
        ),
    ] = None,
    layout: options.Layouts = None,
    to_layout: options.ToLayout = None,
    to: options.To = "",
    from_: options.From = "",
    prove: options.Prove = False,
    force: options.Force = False,
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Write nothing; show counts and samples.")
    ] = False,
    json_: options.Json = False,
    quiet: options.Quiet = False,
    verbose: options.Verbose = False,
) -> int:
    """Clean values by named rules. Sure repairs are made and listed, doubts are told and left.

    A table that becomes a table keeps its layout. Cleaning twice changes nothing the second time.
    """
    from roundcard.clean.own import Wishes  # noqa: PLC0415
    from roundcard.cli import cleaning  # noqa: PLC0415
    from roundcard.cli.planning import Usual  # noqa: PLC0415
    from roundcard.cli.render import clean as render  # noqa: PLC0415

    if rules:
        sys.stdout.write(render.rules())
        return 0
    files = files or []
    if len(files) < 2:
        raise UsageError("a source and a target are wanted: roundcard clean SOURCE... TARGET")
    usual = Usual(layout, to_layout, to, from_, prove, force, dry_run)
    plan = usual.plan(files[:-1], files[-1])
    keeps = plan.to_layout is None and plan.keep_layout()
    asked = cleaning.Asked(
        Wishes(tuple(rule or ()), tuple(no_rule or ()), region, phone, countries, names),
        rules_file,
        changes,
        decisions,
        keeps_layout=keeps,
        json=json_,
        quiet=quiet,
        verbose=verbose,
    )
    return cleaning.run(plan, asked)
