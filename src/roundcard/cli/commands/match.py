"""``roundcard match``: who is the same person, in one book or across several."""

from __future__ import annotations

import json
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from roundcard.cli import options
from roundcard.errors import UsageError

if TYPE_CHECKING:
    from roundcard.books.plan import Plan
    from roundcard.match.matching import Matches

EXAMPLES = """[bold]Examples[/bold]

  roundcard match skippers.vcf skippers-now.vcf --region GB

  roundcard match skippers.vcf ledger.csv --layout layouts --region GB --sheet doubles.xlsx

  roundcard match skippers.vcf skippers-now.vcf --explain skippers.vcf:1 skippers-now.vcf:2
"""


def match(
    sources: Annotated[
        list[str], typer.Argument(metavar="SOURCE...", help="The books.", show_default=False)
    ],
    sheet: Annotated[
        Path | None,
        typer.Option(help="Write the groups to a sheet (.csv or .xlsx).", metavar="FILE"),
    ] = None,
    explain: Annotated[
        tuple[str, str] | None,
        typer.Option(
            help="Every reason for and against two records, as 'book.vcf:12'.", metavar="A B"
        ),
    ] = None,
    figure: Annotated[
        Path | None,
        typer.Option(help="Draw scores, thresholds and sizes of groups.", metavar="FILE.png"),
    ] = None,
    decisions: options.Decisions = None,
    sure: options.Sure = 13.0,
    ask: options.Ask = 8.5,
    show: Annotated[int, typer.Option(help="Groups to show.", min=0, metavar="N")] = 6,
    region: options.NumbersOf = "",
    layout: options.Layouts = None,
    from_: options.From = "",
    force: options.Force = False,
    json_: options.Json = False,
    quiet: options.Quiet = False,
) -> int:
    """Find who is the same person, however differently written; nothing is changed.

    Each verdict has its reasons, in points: what agrees and what does not, rare values weighing
    more than common ones. Families, namesakes, and people who only share an office's number are
    kept apart. What is not sure is asked: in the sheet, or with 'roundcard review SHEET'. What was
    decided before holds, as long as its grounds stand.
    """
    from roundcard.books.figures import demand_free  # noqa: PLC0415
    from roundcard.books.target import spare_originals  # noqa: PLC0415
    from roundcard.cli import matching  # noqa: PLC0415
    from roundcard.cli.planning import Usual  # noqa: PLC0415
    from roundcard.cli.render import match as render  # noqa: PLC0415
    from roundcard.match.deciding import MatchSheet, answers, known  # noqa: PLC0415
    from roundcard.match.features import features_of  # noqa: PLC0415
    from roundcard.match.figure import draw  # noqa: PLC0415
    from roundcard.match.matching import matches_of  # noqa: PLC0415
    from roundcard.match.sheet import places_of, shown_of, write_sheet  # noqa: PLC0415

    matching.demand_order(sure, ask)
    plan = Usual(layout, from_format=from_).plan(sources, "")
    names = [source.name for source in plan.open()]
    if sheet is not None:
        spare_originals(sheet, (source.path for source in plan.open()))
        matching.demand_new(sheet, force=force)
    if figure is not None:
        demand_free(figure, force=force)
    began = time.monotonic()
    features = features_of(plan.as_read(), region)
    store = matching.store_of(decisions, sheet or sources[0])
    old = MatchSheet(sheet) if sheet is not None and sheet.exists() else None
    decided = known(features, names, store, old, matching.today())
    if decided.learned:
        matching.demand_place(store)
    matches = matches_of(features, sure, ask, decided.resolved.pairs)
    spent = time.monotonic() - began
    if explain:
        sys.stdout.write(_explained(plan, matches, explain, names))
        return 0
    people = shown_of(plan.as_read(), places_of(matches))
    if sheet is not None:
        rows = write_sheet(sheet, matches, people, names, force=force,
                           decided=answers(decided.resolved))  # fmt: skip
        matching.keep(decided, store)
    if figure is not None:
        draw(matches, figure, force=force)
    if json_:
        told = render.for_machines(matches, people, names, decided.resolved)
        sys.stdout.write(json.dumps(told, ensure_ascii=False, indent=2) + "\n")
        return 0
    if not quiet:
        sys.stdout.write(render.summary(matches, names, spent))
        sys.stdout.write("".join(f"{line}\n" for line in matching.told(decided, store)))
        sys.stdout.write(render.groups_shown(matches, people, names, show))
        if sheet is not None:
            sys.stdout.write(f"\n{sheet}: {rows:,} rows; write same or apart into 'decision', or "
                             f"roundcard review {sheet}\n")  # fmt: skip
        if figure is not None:
            sys.stdout.write(f"{figure}: scores, thresholds, sizes of groups\n")
    return 0


def _explained(plan: Plan, matches: Matches, two: tuple[str, str], names: list[str]) -> str:
    """Every reason for and against two records. Raises `UsageError`."""
    from roundcard.cli.render import match as render  # noqa: PLC0415
    from roundcard.match.sheet import shown_of  # noqa: PLC0415

    one, other = (_record(matches, text, names) for text in two)
    features = matches.features
    wanted = {(features.source[at], features.record[at]): at for at in (one, other)}
    return render.explained(matches, one, other, shown_of(plan.as_read(), wanted), two)


def _record(matches: Matches, text: str, names: list[str]) -> int:
    """The number of a contact that is named as ``source:record``. Raises `UsageError`."""
    source, _, number = text.rpartition(":")
    known = [at for at, name in enumerate(names) if source in (name, Path(name).name)]
    if not number.isdecimal() or len(known) != 1:
        raise UsageError(f"'{text}' names no record; say it as '{names[0]}:12'")
    features = matches.features
    for at in range(len(features)):
        if features.source[at] == known[0] and features.record[at] == int(number):
            return at
    raise UsageError(f"'{text}': there is no such record")
