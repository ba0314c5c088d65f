"""``roundcard pick``: the people that are wanted, and the rest apart."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli import options
from roundcard.cli.render.text import count
from roundcard.errors import UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard pick skippers.vcf reachable.vcf --where 'phone/cell present and email present'

  roundcard pick ledger.csv young.csv --layout membership-ledger --where 'birthday after 1980'

  roundcard pick skippers.vcf skippers-now.vcf trip.vcf --find 'Lockham' --rest others.vcf

  roundcard pick skippers.vcf crew.vcf --tick people.xlsx

  roundcard pick skippers.vcf crew.vcf --category Skippers --rename-category 'Skippers=Crew {date}'

  roundcard pick newsletter.csv ten.csv --sample 10 --set 'category=Trial {date}'
"""


def _people(number: int) -> str:
    return count(number, "person", "people") if number else "nobody"


def pick(
    files: options.Files = None,
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
        str,
        typer.Option(help="Only people whose values contain all these words.", metavar="WORDS"),
    ] = "",
    tick: Annotated[
        Path | None,
        typer.Option(
            help="People whose rows are ticked in this sheet (.xlsx or .csv). Where it does not "
            "exist yet, it is written, to be ticked in a spreadsheet program and named again.",
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
            help="A random sample of N people, the same on every run.", metavar="N", min=0
        ),
    ] = 0,
    rest: Annotated[
        str, typer.Option(help="Write the people who are not picked to this file.", metavar="FILE")
    ] = "",
    set_: options.SetValues = None,
    rename_category: options.RenameCategory = None,
    remove_category: options.RemoveCategory = None,
    *,
    read: options.ReadBlock,
    write: options.WriteBlock,
    report: options.ReportBlock,
) -> int:
    """Pick people: by a condition, a category, words, ticks in a sheet, or at random.

    The originals stay as they are. Who is not picked is counted as left out by you, and goes to
    --rest where that is given. A condition is written like 'phone/cell present and not category =
    "Donors"'; docs/conditions.md has the whole language.
    """
    from roundcard.app.pick import PickPlan, pick_people, write_people
    from roundcard.cli import picking, planning
    from roundcard.cli.render import progress
    from roundcard.pick import people

    sources, target = planning.sources_and_target(files, "pick")
    tests: list[people.Chooses] = [*picking.conditions(where, "--where", sources)]
    tests += [people.Not(each) for each in picking.conditions(except_, "--except", sources)]
    tests += [people.InCategory(category)] if category else []
    tests += [people.WithWords(find)] if find else []
    if not tests and not sample and not tick:
        raise UsageError(
            "say whom to pick: use --where, --category, --find, --tick, --except or --sample"
        )
    after = [
        *picking.relabelled(rename_category, remove_category),
        *picking.fixed_values(set_),
    ]
    plan = planning.plan_of(sources, target, read, write)
    if rest and Path(rest).resolve() == Path(target).resolve():
        raise UsageError(f"{rest} is also the target; choose a different file for --rest")
    if tick is not None and not tick.exists():
        shown = write_people(PickPlan(plan, tests), tick)
        sys.stderr.write(
            f"{tick}: {shown:,} people; put a mark into the column 'pick' beside those wanted, "
            "and run this again\n"
        )
        return 0
    with progress.shown(report.quiet) as watch:
        done = pick_people(PickPlan(plan, tests, tick, sample, after, rest), watch)
    code = picking.tell(done.report, plan, report)
    if not done.report.tally.people.carried and report.people:
        sys.stderr.write("nobody is picked\n")
    if done.rest is not None and report.people:
        sys.stderr.write(f"rest: {rest}, {_people(done.rest.tally.people.written)}\n")
    for told in done.strange:
        sys.stderr.write(f"{tick}: {told}\n")
    return code or (1 if done.strange else 0)
