"""``roundcard clean``: values cleaned by named rules, each change listed."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

if TYPE_CHECKING:
    from roundcard.books.source import Source

EXAMPLES = """[bold]Examples[/bold]

  roundcard clean --rules

  roundcard clean newsletter.csv clean.csv --changes changes.csv

  roundcard clean ledger.csv clean-ledger.csv --layout membership-ledger --region GB --dry-run

  roundcard clean skippers.vcf clean.vcf --rule phone-form --region GB
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
        list[str] | None, typer.Option(help="Only this rule; may be said again.", metavar="NAME")
    ] = None,
    no_rule: Annotated[
        list[str] | None, typer.Option(help="All but this rule.", metavar="NAME")
    ] = None,
    region: Annotated[
        str,
        typer.Option(
            help="The country of numbers without a country code, as GB; a contact's "
            "own address beats it.",
            metavar="CODE",
        ),
    ] = "",
    phone: Annotated[
        str,
        typer.Option(help="The form of phone numbers: international or national.", metavar="FORM"),
    ] = "international",
    countries: Annotated[
        str,
        typer.Option(
            help="Write countries alike: 'code', or in a language, as en, de, fr.", metavar="FORM"
        ),
    ] = "",
    changes: Annotated[
        Path | None, typer.Option(help="List every change and every doubt.", metavar="FILE.csv")
    ] = None,
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
    from roundcard.books.conversion import Plan, convert  # noqa: PLC0415
    from roundcard.books.source import sources_of  # noqa: PLC0415
    from roundcard.books.tables import open_table  # noqa: PLC0415
    from roundcard.clean.changes import Changes, refused_in  # noqa: PLC0415
    from roundcard.clean.names import uniform_fields  # noqa: PLC0415
    from roundcard.clean.rules import chosen  # noqa: PLC0415
    from roundcard.clean.step import Clean  # noqa: PLC0415
    from roundcard.cli.picking import tell  # noqa: PLC0415
    from roundcard.cli.places import layout_places, own_layouts  # noqa: PLC0415
    from roundcard.cli.render import clean as render  # noqa: PLC0415
    from roundcard.cli.render import progress  # noqa: PLC0415
    from roundcard.formats import by_suffix  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415

    if rules:
        sys.stdout.write(render.rules())
        return 0
    files = files or []
    if len(files) < 2:
        raise UsageError("a source and a target are wanted: roundcard clean SOURCE... TARGET")
    _demand_forms(phone, countries, region)
    places = layout_places()
    layouts = [found for name in layout or () for found in shelf.find(name, places)]
    targets = shelf.find(to_layout, places) if to_layout else []
    opened = sources_of(files[:-1]) if "-" not in files[:-1] else []
    promised = by_suffix(files[-1])
    kept = own_layouts()
    to_table = promised is not None and promised.sort == "table"
    if not targets and to_table and len(opened) == 1 and opened[0].format.sort == "table":
        table = open_table(opened[0], layouts, kept)
        targets, layouts = [table.layout], [table.layout]
    using = chosen(rule or [], no_rule or [])
    uniform: frozenset[str] = frozenset()
    if opened and any(each.name == "name-case" for each in using):
        uniform = uniform_fields(Plan(files[:-1], "", layouts, kept).as_read())
    refused = refused_in(decisions) if decisions is not None else frozenset()
    _demand_apart(changes, files[-1], opened)
    told = Changes([each.name for each in opened], None if dry_run else changes, force=force)
    step = Clean(
        using,
        region=region,
        phone=phone,
        countries=countries.lower(),
        uniform=uniform,
        tell=told.tell,
        refused=refused,
    )
    plan = Plan(
        sources=files[:-1],
        target=files[-1],
        layouts=layouts,
        kept=kept,
        to_layout=targets[0] if targets else None,
        to_format=to,
        steps=[step],
        jobs=1,
        force=force,
        dry_run=dry_run,
        prove=prove,
        stdin=sys.stdin.buffer,
        stdout=sys.stdout.buffer,
        on_pass=told.begin,
    )
    try:
        with progress.shown(quiet) as watch:
            done = convert(plan, watch)
        told.commit()
    except BaseException:
        told.discard()
        raise
    code = tell(done, plan, json_=json_, quiet=quiet, verbose=verbose)
    if not quiet and not json_:
        sys.stderr.write(render.changed(told))
    return code


def _demand_forms(phone: str, countries: str, region: str) -> None:
    """Raise `UsageError` for a form or region that there is not."""
    from roundcard.clean.countries import country_name  # noqa: PLC0415

    if phone not in ("international", "national"):
        raise UsageError(
            f"'{phone}' is no form of phone numbers; there are international, national"
        )
    if countries and countries.lower() != "code" and not country_name("FR", countries.lower()):
        raise UsageError(f"'{countries}' is no language; say 'code', or two letters as en, de, fr")
    if region and not (len(region) == 2 and region.isalpha()):
        raise UsageError(f"'{region}' is no country; say two letters, as GB, DE, FR")


def _demand_apart(changes: Path | None, target: str, sources: list[Source]) -> None:
    """Raise where the list of changes would replace a source or the target."""
    from roundcard.books.target import spare_originals  # noqa: PLC0415

    if changes is None:
        return
    spare_originals(changes, (each.path for each in sources))
    if changes.resolve() == Path(target).resolve():
        raise UsageError(f"{changes}: this is the target, too; name another file for the list")
