"""Sheets to edit: written by ``convert --to-edit``, taken back by ``update``."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

from roundcard.books.conversion import convert
from roundcard.books.plan import Plan
from roundcard.books.source import STANDARD, Source
from roundcard.books.target import spare_originals
from roundcard.card.contact import Contact
from roundcard.cli.picking import conditions, tell
from roundcard.cli.render import edits as render
from roundcard.cli.render import progress
from roundcard.edit.edits import Edited, edits_of, people_of
from roundcard.edit.sheet import Columns, read_sheet, write_sheet
from roundcard.errors import UsageError


def write(plan: Plan, *, only: str, where: Sequence[str], quiet: bool) -> int:
    """Write the sheet of a book; the exit code."""
    path = Path(plan.target)
    if plan.target == STANDARD or path.suffix.lower() != ".xlsx":
        raise UsageError(f"{plan.target}: a sheet to edit is a workbook, since phones and post "
                         "codes come unharmed through one only; name a file .xlsx")  # fmt: skip
    sources = _one_book(plan)
    spare_originals(path, (source.path for source in sources))
    tests = conditions(where, "--where", plan.sources)

    def chosen() -> Iterator[Contact]:
        return (each for each in plan.as_read() if all(test(each) for test in tests))

    columns = Columns(only)
    with progress.shown(quiet):
        for contact in chosen():
            columns.see(contact)
        headings = columns.headings()
        if plan.dry_run:
            people = columns.people
        else:
            people = write_sheet(path, chosen(), headings, sources[0].name, force=plan.force)
    if not quiet:
        sys.stderr.write(render.written(plan.target, people, headings, dry_run=plan.dry_run))
    return 0


def take_back(plan: Plan, sheet: str, *, yes: bool, json: bool, quiet: bool, verbose: bool) -> int:
    """Show what was done to a sheet, ask, and do it to the book; the exit code."""
    sources = _one_book(plan)
    spare_originals(Path(plan.target), [*(source.path for source in sources), Path(sheet)])
    edits = edits_of(read_sheet(Path(sheet)), plan.as_read(), sheet)
    if not quiet:
        sys.stderr.write(render.planned(edits, sheet, verbose=verbose))
    if not (yes or plan.dry_run) and not _agreed():
        sys.stderr.write("nothing was written\n")
        return 0
    whole = replace(plan, steps=[Edited(edits), *plan.steps], more=people_of(edits))
    with progress.shown(quiet) as watch:
        done = convert(whole, watch)
    code = tell(done, plan, json_=json, quiet=quiet, verbose=verbose)
    return code or (1 if edits.refused else 0)


def _agreed() -> bool:
    if not sys.stdin.isatty():
        raise UsageError("this asks before it writes, and nobody is there to answer; say --yes, or "
                         "--dry-run to see only")  # fmt: skip
    sys.stderr.write("do it? [y/n] ")
    sys.stderr.flush()
    return sys.stdin.readline().strip().lower() in ("y", "yes")


def _one_book(plan: Plan) -> list[Source]:
    sources = plan.open()
    if len(sources) != 1:
        raise UsageError(f"a sheet to edit is of one book, and these are {len(sources)} files; "
                         "gather them into one first")  # fmt: skip
    return sources
