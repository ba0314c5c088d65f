"""Sheets that people edit: written, and taken back into their book."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from roundcard.books.conversion import Report, convert
from roundcard.books.hidden import spare_originals
from roundcard.books.plan import Plan, Watch
from roundcard.books.source import Source
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.edit.edits import Edited, Edits, edits_of, people_of
from roundcard.edit.sheet import Columns, read_sheet, write_sheet
from roundcard.errors import UsageError
from roundcard.pick.people import Chooses


@dataclass(frozen=True, slots=True)
class SheetReport:
    """What a sheet to edit shows."""

    people: int
    headings: list[str]


def write_to_edit(plan: Plan, only: str = "", tests: Sequence[Chooses] = ()) -> SheetReport:
    """Write the people of a book whom all tests choose as a lean workbook, into the plan's target.

    `only` names the fields that are shown, separated by commas. Raises `SourceError`,
    `LayoutError`, `TargetError`, `PathError` and `UsageError`.
    """
    path = plan.place
    if path is None or path.suffix.lower() != ".xlsx":
        raise UsageError(f"{plan.target}: a sheet to edit is a workbook, since only there phones "
                         "and post codes come through unharmed; name a file .xlsx")  # fmt: skip
    (source,) = _one_book(plan)
    spare_originals(path, [source.path])

    def chosen() -> Iterator[Contact]:
        return (each for each in plan.as_read() if all(test(each) for test in tests))

    columns = Columns(only)
    for contact in chosen():
        columns.see(contact)
    headings = columns.headings()
    if plan.dry_run:
        return SheetReport(columns.people, headings)
    with Transaction(path) as files:
        people = write_sheet(files, path, chosen(), headings, source.name, force=plan.force)
        files.commit()
    return SheetReport(people, headings)


def edits_in(plan: Plan, sheet: Path) -> Edits:
    """What people did to a sheet of the plan's book.

    Raises `SourceError`, `LayoutError`, `PlanError`, `TargetError` and `UsageError`.
    """
    (source,) = _one_book(plan)
    if plan.place is not None:
        spare_originals(plan.place, [source.path, sheet])
    return edits_of(read_sheet(sheet), plan.as_read(), str(sheet))


def update_book(plan: Plan, edits: Edits, watch: Watch | None = None) -> Report:
    """Write the book with the edits done to it. Raises what `convert` raises."""
    whole = replace(plan, steps=[Edited(edits), *plan.steps], more=people_of(edits))
    return convert(whole, watch)


def _one_book(plan: Plan) -> list[Source]:
    sources = plan.open()
    if len(sources) != 1:
        raise UsageError(f"a sheet to edit is of one book, and these are {len(sources)} files; "
                         "gather them into one first")  # fmt: skip
    return sources
