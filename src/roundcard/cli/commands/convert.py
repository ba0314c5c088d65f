"""``roundcard convert``: any format or layout to any other, in one go."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

EXAMPLES = """[bold]Examples[/bold], on the data that 'roundcard demo' lays out

  roundcard convert skippers.vcf skippers-now.vcf all-skippers.vcf

  roundcard convert ledger.csv ledger.vcf --layout layouts/membership-ledger.toml

  roundcard convert newsletter.csv skippers.vcf lean.csv --layout newsletter --only name/full,email

  roundcard convert ledger.csv for-lockside.csv --layout layouts --destination lockside

  roundcard convert skippers.vcf - --to csv --set 'category=Skippers 2026' --quiet

  roundcard convert skippers.vcf skippers.xlsx --prove

  roundcard convert skippers.vcf skippers-now.vcf --split-into cards --to vcard-3.0

  roundcard convert skippers.vcf to-edit.xlsx --to-edit --where 'category = "First aid"'

  roundcard convert ledger.csv ledger-clean.vcf --layout layouts --clean --region GB

  roundcard convert ledger.csv ledger-guessed.vcf --encoding windows-1252 --separator semicolon
"""


def convert(
    files: options.Files = None,
    split_into: Annotated[
        Path | None,
        typer.Option(
            help="Write one file a person into this folder; then no TARGET is named.",
            metavar="FOLDER",
        ),
    ] = None,
    only: options.Only = "",
    where: options.Where = None,
    set_: options.SetValues = None,
    rename_category: options.RenameCategory = None,
    remove_category: options.RemoveCategory = None,
    clean: Annotated[
        bool, typer.Option("--clean", help="Clean by the usual rules on the way.")
    ] = False,
    region: options.Region = "",
    rules_file: options.RulesFile = None,
    changes: options.Changes = None,
    to_edit: Annotated[
        bool,
        typer.Option(
            "--to-edit",
            help="Write a lean workbook for people to edit; 'roundcard update' takes it back.",
        ),
    ] = False,
    *,
    read: options.ReadBlock,
    write: options.WriteBlock,
    report: options.ReportBlock,
) -> int:
    """Convert whole books: CSV to vCard, vCard to CSV, CSV to CSV, vCard version to version.

    Several sources become one book. Tables are read and written by layouts; a table without one
    is read by a kept one that fits, else by a draft from its headings and cells, and what that
    leaves unsure is reported and kept as custom. The target appears whole or not at all, with a
    balance in which each value read has one fate.
    """
    from roundcard.app.convert import convert as run  # --help needs none of it
    from roundcard.cli import picking, planning
    from roundcard.cli.render import progress

    if split_into is not None:
        files = [*(files or ()), str(split_into)]
    sources, target = planning.sources_and_target(files, "convert")
    tests = picking.conditions(where, "--where", sources)
    steps = [
        *picking.who(tests),
        *picking.only_fields(only),
        *picking.relabelled(rename_category, remove_category),
        *picking.fixed_values(set_),
    ]
    plan = planning.plan_of(
        sources, target, read, write, steps, split=split_into is not None, region=region
    )
    if to_edit:
        if clean or set_ or plan.to_layout or split_into:
            raise UsageError("a sheet to edit shows what the book says; leave out --clean, --set, "
                             "--to-layout and --split-into")  # fmt: skip
        from roundcard.cli.edit import write_sheet

        return write_sheet(plan, only, tests, quiet=report.quiet)
    if clean:
        from roundcard.app.clean import CleanPlan
        from roundcard.clean.user_rules import Wishes
        from roundcard.cli.commands.clean import run_and_tell

        wishes = Wishes(region=region)
        wanted = CleanPlan(plan, wishes, rules_file, changes, usual=planning.usual_wishes(),
                           this_year=planning.today().year)  # fmt: skip
        return run_and_tell(wanted, report)
    if (region and not write.destination) or rules_file or changes:
        raise UsageError("--region, --rules-file and --changes are for cleaning; add --clean")
    with progress.shown(report.quiet) as watch:
        done = run(plan, watch)
    return picking.tell(done, plan, report)
