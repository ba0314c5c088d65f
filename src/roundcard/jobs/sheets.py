"""The lists of a run, for people: what changes, what waits, whom to remove by hand."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

from roundcard.books.sheets import write_rows
from roundcard.books.transaction import Transaction
from roundcard.card.names import called
from roundcard.card.paths import FieldPath
from roundcard.destinations.model import Destination
from roundcard.errors import PlanError
from roundcard.formats.sheets import sheet_rows, unguarded
from roundcard.jobs.found import Found, Removal, Row
from roundcard.jobs.model import Answer, Job
from roundcard.pick.path_values import values_at

HELD, CHANGES, THERE = "held-back.csv", "what-changes.csv", "kept-there.csv"
NOT_SENT, REMOVE, CLEAR = "not-sent.csv", "to-remove.csv", "to-clear.csv"
UNREACHABLE = "unreachable.csv"
HELD_HEADINGS = ["person", "field", "what", "before", "source", "there", "decision", "uid"]
ROW_HEADINGS = ["person", "field", "what", "before", "source", "there", "uid"]


def write_lists(files: Transaction, found: Found, job: Job, folder: Path, outbox: Path) -> None:
    """Write those lists that have anything in them. Raises `TargetError`."""
    if found.held:
        rows = ([row.person, row.field, row.what, row.before, row.source, row.there, "", row.uid]
                for row in found.held)  # fmt: skip
        write_rows(files, folder / HELD, _with(HELD_HEADINGS, rows), "held back", force=True)
    for name, told in ((CHANGES, found.changed), (THERE, found.told), (NOT_SENT, found.not_sent)):
        if told:
            rows = ([row.person, row.field, row.what, row.before, row.source, row.there, row.uid]
                    for row in told)  # fmt: skip
            write_rows(files, folder / name, _with(ROW_HEADINGS, rows), "people", force=True)
    if found.unreachable:
        rows = ([name] for name in found.unreachable)
        write_rows(files, folder / UNREACHABLE, _with(["person"], rows), "people", force=True)
    if found.removals:
        write_removals(files, outbox / REMOVE, found.removals, job.to)
    if found.by_hand:
        write_by_hand(files, outbox / CLEAR, found.by_hand)


def write_by_hand(files: Transaction, path: Path, rows: Sequence[Row]) -> None:
    """Values that a person must clear at the destination, since an empty cell does not."""
    told = ([row.person, row.field, row.before, "clear by hand", row.uid] for row in rows)
    write_rows(files, path, _with(["person", "field", "value", "what to do", "uid"], told),
               "to clear", force=True)  # fmt: skip


def write_removals(
    files: Transaction, path: Path, removals: Sequence[Removal], to: Destination
) -> None:
    """Whom a person must remove at the destination, with what it tells people by."""
    paths = list(dict.fromkeys(each for key in to.on_import.matches_on for each in key))
    paths = paths or [FieldPath("email")]
    headings = [_heading(each, to) for each in paths]
    rows = (
        [*("; ".join(values_at(each.person, path)) for path in paths), called(each.person),
         each.reason, each.since]
        for each in removals
    )  # fmt: skip
    write_rows(files, path, _with([*headings, "name", "reason", "since"], rows), "to remove",
               force=True)  # fmt: skip


def _heading(path: FieldPath, to: Destination) -> str:
    """How the destination's table heads a field."""
    for column in to.layout.columns if to.layout is not None else ():
        if any(each.field == path.field and each.label == path.label for each in column.holds):
            return column.heading or str(path)
    return str(path)


def _with(headings: list[str], rows: Iterable[list[str]]) -> Iterable[list[str]]:
    yield headings
    yield from rows


def answers_in(path: Path) -> dict[tuple[str, str, str], Answer]:
    """What was decided in a sheet of values that were held back: by person, field, and what the
    source said. Raises `SourceError`, and `PlanError` where it is no such sheet."""
    rows = sheet_rows(path)
    headings = [cell.strip().lower() for cell in next(rows, (0, []))[1]]
    missing = [each for each in ("decision", "uid", "field", "source") if each not in headings]
    if missing:
        raise PlanError(f"{path}: is not a list of values held back; missing column: "
                        f"'{missing[0]}' (a run writes one as {HELD})")  # fmt: skip
    found: dict[tuple[str, str, str], Answer] = {}
    for line, cells in rows:
        told = dict(zip(headings, map(unguarded, cells), strict=False))
        said = told.get("decision", "").strip().lower()
        if not said:
            continue
        if said not in ("source", "there"):
            raise PlanError(f"{path}, line {line}: '{said}' is not a decision; write source or "
                            "there, or leave it empty")  # fmt: skip
        key = (told["uid"], told["field"], told["source"])
        found[key] = "source" if said == "source" else "there"
    return found
