"""``roundcard convert``: any format or layout to any other, in one go."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from roundcard.cli import options
from roundcard.errors import PathError, UsageError

if TYPE_CHECKING:
    from roundcard.books.steps import Step

EXAMPLES = """[bold]Examples[/bold], on the data that 'roundcard demo' lays out

  roundcard convert skippers.vcf skippers-now.vcf all-skippers.vcf

  roundcard convert ledger.csv ledger.vcf --layout layouts/membership-ledger.toml

  roundcard convert newsletter.csv skippers.vcf lean.csv --layout newsletter --only name/full,email

  roundcard convert ledger.csv for-lockside.csv --layout layouts --to-layout lockside

  roundcard convert skippers.vcf - --to csv --set 'category=Skippers 2026' --quiet

  roundcard convert skippers.vcf skippers.xlsx --prove

  roundcard convert skippers.vcf skippers-now.vcf --split-into cards --to vcard-3.0

  roundcard convert skippers.vcf to-edit.xlsx --to-edit --where 'category = "First aid"'

  roundcard convert ledger.csv ledger-clean.vcf --layout layouts --clean --region GB

  roundcard convert ledger.csv ledger-guessed.vcf --encoding windows-1252 --separator semicolon
"""


def convert(
    files: options.Files,
    layout: Annotated[
        list[str] | None,
        typer.Option(
            help="Layout of the tables that are read: a file, a kept layout's name, or a folder. "
            "Of several, each table takes the one that fits it best.",
            metavar="LAYOUT",
        ),
    ] = None,
    to_layout: options.ToLayout = None,
    to: Annotated[
        str,
        typer.Option(
            help="Format to write: vcard-4.0, vcard-3.0, vcard-2.1, jcard, csv, xlsx.",
            metavar="FORMAT",
        ),
    ] = "",
    from_: options.From = "",
    encoding: Annotated[
        str,
        typer.Option(
            help="Character set of the sources, where it is guessed wrongly.", metavar="NAME"
        ),
    ] = "",
    separator: Annotated[
        str,
        typer.Option(
            help="What parts the cells of the sources: comma, semicolon, tab, bar, or a character.",
            metavar="MARK",
        ),
    ] = "",
    heading_row: options.HeadingRow = None,
    sheet: options.Sheet = "",
    split_into: Annotated[
        Path | None,
        typer.Option(
            help="Write one file a person into this folder; then no TARGET is named.",
            metavar="FOLDER",
        ),
    ] = None,
    only: Annotated[
        str, typer.Option(help="Fields that go out, parted by commas.", metavar="PATHS")
    ] = "",
    where: Annotated[
        list[str] | None,
        typer.Option(
            help="Only people that meet this condition; several must all hold.",
            metavar="CONDITION",
        ),
    ] = None,
    set_: Annotated[
        list[str] | None,
        typer.Option(
            "--set",
            help="A value that each contact gets, as 'category=Skippers'.",
            metavar="PATH=VALUE",
        ),
    ] = None,
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
    side: Annotated[
        Path | None,
        typer.Option(
            help="Folder for what is left behind or set aside, in place of TARGET's.",
            metavar="FOLDER",
        ),
    ] = None,
    prove: options.Prove = False,
    jobs: Annotated[
        int,
        typer.Option(
            help="Processes that share the work; 0 for as many as are worth it.", metavar="N", min=0
        ),
    ] = 0,
    force: options.Force = False,
    dry_run: options.DryRun = False,
    strict: Annotated[
        bool,
        typer.Option(
            "--strict", help="Fail at the first bad record; exit 1 if anything is left behind."
        ),
    ] = False,
    json_: options.Json = False,
    quiet: options.Quiet = False,
    verbose: options.Verbose = False,
) -> int:
    """Convert whole books: CSV to vCard, vCard to CSV, CSV to CSV, vCard version to version.

    Several sources become one book. Tables are read and written by layouts; a table without one
    is read by a kept one that fits, else by a draft from its headings and cells, and what that
    leaves unsure is told and kept as custom. The target appears whole or not at all, with a
    balance in which each value read has one fate.
    """
    from roundcard.books.conversion import convert as run  # noqa: PLC0415
    from roundcard.books.plan import Plan  # noqa: PLC0415  # --help needs none of it
    from roundcard.books.source import HowToRead  # noqa: PLC0415
    from roundcard.clean.own import Wishes  # noqa: PLC0415
    from roundcard.cli import cleaning  # noqa: PLC0415
    from roundcard.cli import sheets as editing  # noqa: PLC0415
    from roundcard.cli.picking import fixed_values, relabelled, tell  # noqa: PLC0415
    from roundcard.cli.places import layout_places, own_layouts  # noqa: PLC0415
    from roundcard.cli.render import progress  # noqa: PLC0415
    from roundcard.cli.render.reasons import sentence  # noqa: PLC0415
    from roundcard.formats.csv import named_separators  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415

    if split_into is not None:
        files = [*files, str(split_into)]
    if len(files) < 2:
        raise UsageError("a source and a target are wanted: roundcard convert SOURCE... TARGET")
    places = layout_places()
    layouts = [found for name in layout or () for found in shelf.find(name, places)]
    targets = shelf.find(to_layout, places) if to_layout else []
    if len(targets) > 1:
        raise UsageError(f"--to-layout names a folder with {len(targets)} layouts; name one file")
    plan = Plan(
        sources=files[:-1],
        target=files[-1],
        layouts=layouts,
        kept=own_layouts(),
        to_layout=targets[0] if targets else None,
        how=HowToRead(
            from_, encoding, named_separators().get(separator, separator), heading_row, sheet
        ),
        to_format=to,
        steps=[
            *_steps(only, where or [], files[:-1]),
            *relabelled(rename_category or [], remove_category or []),
            *fixed_values(set_ or []),
        ],
        force=force,
        dry_run=dry_run,
        strict=strict,
        stdin=sys.stdin.buffer,
        stdout=sys.stdout.buffer,
        side_folder=side,
        split=split_into is not None,
        jobs=jobs,
        prove=prove,
        say=sentence,
    )
    if to_edit:
        if clean or set_ or plan.to_layout or split_into:
            raise UsageError("a sheet to edit shows what the book says; leave off --clean, --set, "
                             "--to-layout and --split-into")  # fmt: skip
        return editing.write(plan, only=only, where=where or [], quiet=quiet)
    if clean:
        asked = cleaning.Asked(
            Wishes(region=region), rules_file, changes, json=json_, quiet=quiet, verbose=verbose
        )
        return cleaning.run(plan, asked)
    if region or rules_file or changes:
        raise UsageError("--region, --rules-file and --changes are for cleaning; add --clean")
    with progress.shown(quiet) as watch:
        done = run(plan, watch)
    return tell(done, plan, json_=json_, quiet=quiet, verbose=verbose)


def _steps(only: str, where: list[str], sources: list[str]) -> list[Step]:
    from roundcard.card.paths import parse_list  # noqa: PLC0415
    from roundcard.cli.picking import conditions  # noqa: PLC0415
    from roundcard.pick.fields import OnlyFields  # noqa: PLC0415
    from roundcard.pick.people import Picked  # noqa: PLC0415
    from roundcard.tally import Why  # noqa: PLC0415

    steps: list[Step] = []
    if where:
        steps.append(Picked(conditions(where, "--where", sources), Why.CONDITION))
    try:
        if only:
            steps.append(OnlyFields(parse_list(only)))
    except PathError as error:
        raise UsageError(f"--only: {error.problem}\n{error.marked()}") from None
    return steps
