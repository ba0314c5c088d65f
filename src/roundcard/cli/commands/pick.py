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

  roundcard pick skippers.vcf crew.vcf --tick people.xlsx

  roundcard pick skippers.vcf crew.vcf --category Skippers --rename-category 'Skippers=Crew {date}'

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
    tick: Annotated[
        Path | None,
        typer.Option(
            help="People whose rows are ticked in this sheet (.xlsx or .csv). Where it is not "
            "there yet, it is written, to be ticked in a spreadsheet program and named again.",
            metavar="SHEET",
        ),
    ] = None,
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
    rename_category: options.RenameCategory = None,
    remove_category: options.RemoveCategory = None,
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
    """Pick people: by a condition, a category, words, ticks in a sheet, or by chance.

    The originals stay as they are. Who is not picked is counted as left out by you, and goes to
    --rest where that is said. A condition is as 'phone/cell present and not category = "Donors"';
    docs/conditions.md has the whole language.
    """
    from roundcard.books.conversion import convert  # noqa: PLC0415
    from roundcard.books.target import AtomicFile, spare_originals  # noqa: PLC0415
    from roundcard.cli.picking import conditions, fixed_values, relabelled, tell  # noqa: PLC0415
    from roundcard.cli.planning import Usual  # noqa: PLC0415
    from roundcard.cli.render import progress  # noqa: PLC0415
    from roundcard.pick import people, ticks  # noqa: PLC0415
    from roundcard.tally import Why  # noqa: PLC0415

    if len(files) < 2:
        raise UsageError("a source and a target are wanted: roundcard pick SOURCE... TARGET")
    sources = files[:-1]
    tests: list[people.Chooses] = [*conditions(where or [], "--where", sources)]
    tests += [people.Not(each) for each in conditions(except_ or [], "--except", sources)]
    tests += [people.InCategory(category)] if category else []
    tests += [people.WithWords(find)] if find else []
    if not tests and not sample and not tick:
        raise UsageError(
            "say whom to pick: --where, --category, --find, --tick, --except or --sample"
        )
    usual = Usual(layout, to_layout, to, from_, prove, force, dry_run)
    plan = usual.plan(sources, files[-1])
    if rest and Path(rest).resolve() == Path(files[-1]).resolve():
        raise UsageError(f"{rest}: this is the target, too; name another file for the rest")
    if tick is not None and not tick.exists():
        spare_originals(tick, (each.path for each in plan.open()))
        shown = (each for each in plan.as_read() if all(test(each) for test in tests))
        people_shown = ticks.write_ticks(tick, shown)
        sys.stderr.write(
            f"{tick}: {people_shown:,} people; put a mark into the column 'pick' beside those "
            "wanted, and run this again\n"
        )
        return 0
    strange: list[str] = []
    if tick is not None:
        ticked, strange = ticks.ticked_in(tick, plan.as_read())
        tests.append(ticked)
    if rest and not dry_run:
        spare_originals(Path(rest), (each.path for each in plan.open()))
        AtomicFile(Path(rest), force=force).discard()  # before anything is written: it can be
    with progress.shown(quiet) as watch:
        if sample:
            tests = [people.sample_of(plan.as_read(), tests, sample)]
        picked = people.Picked(tests, Why.NOT_PICKED)
        steps = [
            picked,
            *relabelled(rename_category or [], remove_category or []),
            *fixed_values(set_ or []),
        ]
        done = convert(replace(plan, steps=steps), watch)
    code = tell(done, plan, json_=json_, quiet=quiet, verbose=verbose)
    if rest:
        others = replace(plan, target=rest, steps=[people.Picked(tests, Why.PICKED, rest=True)])
        with progress.shown(quiet) as watch:
            left = convert(others, watch)
        if not quiet and not json_:
            sys.stderr.write(f"rest: {rest}, {left.tally.people.written:,} people\n")
    for told in strange:
        sys.stderr.write(f"{tick}: {told}\n")
    return code or (1 if strange else 0)
