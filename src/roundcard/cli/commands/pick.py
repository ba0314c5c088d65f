"""``roundcard pick``: the people that are wanted, and the rest apart."""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard pick skippers.vcf reachable.vcf --where 'phone/cell present and email present'

  roundcard pick ledger.csv young.csv --layout membership-ledger --where 'birthday after 1980'

  roundcard pick skippers.vcf skippers-now.vcf trip.vcf --find 'Lockham' --rest others.vcf

  roundcard pick newsletter.csv ten.csv --sample 10 --set 'category=Trial {date}'
"""


def pick(
    files: options.Files,
    where: Annotated[
        list[str] | None,
        typer.Option(
            help="People that meet this condition; several must all hold.", metavar="CONDITION"
        ),
    ] = None,
    category: Annotated[
        list[str] | None,
        typer.Option(help="People of this category; of any of several.", metavar="NAME"),
    ] = None,
    find: Annotated[
        str, typer.Option(help="People in whose values all these words stand.", metavar="WORDS")
    ] = "",
    except_: Annotated[
        list[str] | None,
        typer.Option(
            "--except", help="But not people that meet this condition.", metavar="CONDITION"
        ),
    ] = None,
    sample: Annotated[
        int,
        typer.Option(
            help="So many of them by chance, the same ones each time.", metavar="N", min=0
        ),
    ] = 0,
    rest: Annotated[
        str, typer.Option(help="Write the people who are not picked to this file.", metavar="FILE")
    ] = "",
    set_: Annotated[
        list[str] | None,
        typer.Option(
            "--set",
            metavar="PATH=VALUE",
            help="A value that each one picked gets, as 'category=Batch {date}'.",
        ),
    ] = None,
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
    """Pick people: by a condition, a category, words, or by chance; the originals stay as they are.

    Who is not picked is counted as left out by you, and goes to --rest where that is said. A
    condition is as 'phone/cell present and not category = "Donors"'; docs/conditions.md has the
    whole language.
    """
    from roundcard.books.conversion import Plan, convert  # noqa: PLC0415
    from roundcard.books.source import HowToRead, sources_of  # noqa: PLC0415
    from roundcard.books.target import AtomicFile, spare_originals  # noqa: PLC0415
    from roundcard.cli.picking import conditions, fixed_values, tell  # noqa: PLC0415
    from roundcard.cli.places import layout_places, own_layouts  # noqa: PLC0415
    from roundcard.cli.render import progress  # noqa: PLC0415
    from roundcard.layouts import shelf  # noqa: PLC0415
    from roundcard.pick import people  # noqa: PLC0415

    if len(files) < 2:
        raise UsageError("a source and a target are wanted: roundcard pick SOURCE... TARGET")
    sources = files[:-1]
    tests: list[people.Chooses] = [*conditions(where or [], "--where", sources)]
    tests += [people.Not(each) for each in conditions(except_ or [], "--except", sources)]
    tests += [people.InCategory(category)] if category else []
    tests += [people.WithWords(find)] if find else []
    if not tests and not sample:
        raise UsageError("say whom to pick: --where, --category, --find, --except or --sample")
    if (rest or sample) and "-" in sources:
        raise UsageError("standard input can be read once only; name a file")
    places = layout_places()
    targets = shelf.find(to_layout, places) if to_layout else []
    plan = Plan(
        sources=sources,
        target=files[-1],
        layouts=[found for name in layout or () for found in shelf.find(name, places)],
        kept=own_layouts(),
        to_layout=targets[0] if targets else None,
        how=HowToRead(from_),
        to_format=to,
        force=force,
        dry_run=dry_run,
        prove=prove,
        stdin=sys.stdin.buffer,
        stdout=sys.stdout.buffer,
    )
    if rest and Path(rest).resolve() == Path(files[-1]).resolve():
        raise UsageError(f"{rest}: this is the target, too; name another file for the rest")
    if rest and not dry_run:
        spare_originals(Path(rest), (each.path for each in sources_of(sources)))
        AtomicFile(Path(rest), force=force).discard()  # before anything is written: it can be
    with progress.shown(quiet) as watch:
        if sample:
            tests = [people.sample_of(plan.as_read(), tests, sample)]
        picked = people.Picked(tests, "not picked")
        done = convert(replace(plan, steps=[picked, *fixed_values(set_ or [])]), watch)
    code = tell(done, plan, json_=json_, quiet=quiet, verbose=verbose)
    if rest:
        others = replace(plan, target=rest, steps=[people.Picked(tests, "picked", rest=True)])
        with progress.shown(quiet) as watch:
            left = convert(others, watch)
        if not quiet and not json_:
            sys.stderr.write(f"rest: {rest}, {left.tally.people.written:,} people\n")
    return code
