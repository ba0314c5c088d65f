"""Sheets to edit, from the command line: written, and taken back after asking."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path

from roundcard.app.edit import edits_in, update_book, write_to_edit
from roundcard.books.plan import Plan
from roundcard.cli.options import ReportBlock
from roundcard.cli.picking import tell
from roundcard.cli.render import edits as render
from roundcard.cli.render import progress
from roundcard.errors import UsageError
from roundcard.pick.people import Chooses


def write_sheet(plan: Plan, only: str, tests: Sequence[Chooses], *, quiet: bool) -> int:
    """Write the sheet of a book; the exit code."""
    done = write_to_edit(plan, only, tests)
    if not quiet:
        told = render.written(plan.target, done.people, done.headings, dry_run=plan.dry_run)
        sys.stderr.write(told)
    return 0


def take_back(plan: Plan, sheet: Path, report: ReportBlock, *, yes: bool) -> int:
    """Show what was done to a sheet, ask, and do it to the book; the exit code."""
    edits = edits_in(plan, sheet)
    if not report.quiet:
        sys.stderr.write(render.planned(edits, str(sheet), verbose=report.verbose))
    if not (yes or plan.dry_run) and not _agreed():
        sys.stderr.write("nothing was written\n")
        return 0
    with progress.shown(report.quiet) as watch:
        done = update_book(plan, edits, watch)
    return tell(done, plan, report) or (1 if edits.refused else 0)


def _agreed() -> bool:
    if not sys.stdin.isatty():
        raise UsageError("confirmation needed, but this is not a terminal; use --yes, or "
                         "--dry-run to only look")  # fmt: skip
    sys.stderr.write("do it? [y/n] ")
    sys.stderr.flush()
    return sys.stdin.readline().strip().lower() in ("y", "yes")
