"""What merging did, and what taking it back did."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from roundcard.app.merge import MergeReport
from roundcard.app.unmerge import ListedMerge, UnmergeReport
from roundcard.cli.render.decisions import pair, told
from roundcard.cli.render.text import count, styled, table, width, wrapped
from roundcard.merge.equivalence import told as said_of
from roundcard.merge.policy import Policy
from roundcard.merge.unmerge import Undoing, Undone

_MOST = 8


def explained(policy: Policy) -> str:
    """The policy in words, a line for each field."""
    return "\n".join(table(policy.explained(), gap=3, most=width(sys.stdout))) + "\n"


def lost(done: MergeReport, sheet: Path | None) -> list[str]:
    """Lines about decisions of a sheet that could not be followed."""
    return [f"{sheet}: {pair(each)}: not in these books as the sheet has them; '{each.said}' was "
            "not followed" for each in done.lost]  # fmt: skip


def for_people(done: MergeReport, *, verbose: bool) -> list[str]:
    """Lines on what was decided and merged, what is to be asked, and single values that differ."""
    return [*told(done.known, done.store), *_merged(done, verbose=verbose)]


def _merged(done: MergeReport, *, verbose: bool) -> list[str]:
    planned = done.planned
    records = sum(len(each.places) for each in planned.joined)
    merged = count(len(planned.joined), "person", "people")
    lines = [styled("merged", "bold") + f": {merged} out of {records:,} records"]
    if done.record is not None:
        lines[0] += f"; the record is {done.record}"
    if planned.updated:
        lines.append(f"updated: {count(planned.updated, 'person', 'people')} whom the book has")
    if planned.new:
        lines.append(f"added: {count(planned.new, 'person', 'people')} whom the book did not have")
    if planned.beside:
        lines.append(f"added beside themselves: {planned.beside:,} whom the book has already")
    if planned.leave:
        lines.append(f"left out: {len(planned.leave):,} whom the book has already")
    if planned.doubles_in_book:
        lines.append(f"the book itself has {count(planned.doubles_in_book, 'duplicate')}, left as "
                     "they are; merge it by itself")  # fmt: skip
    if planned.to_ask:
        lines.append(styled("to ask", "yellow") + f": {planned.to_ask:,}, kept apart; roundcard "
                     "match --sheet FILE, decide, and merge --sheet FILE")  # fmt: skip
    if done.conflicts:
        lines.append(
            styled("to look at", "yellow") + f": {count(len(done.conflicts), 'value')} not taken "
            "where there is one only (to take it, write 'same: FIELD' in its row of the sheet)"
        )
        shown = done.conflicts if verbose else done.conflicts[:_MOST]
        for each in shown:
            text = (f"  {each.number:>4}  {each.name}: {each.field} '{each.taken}' taken, not "
                    f"'{each.other}' ({each.where})")  # fmt: skip
            lines += wrapped(text, width(), 8)
        if len(shown) < len(done.conflicts):
            lines.append(f"  … and {len(done.conflicts) - len(shown):,} more (--verbose shows all)")
    return lines


def for_machines(done: MergeReport) -> dict[str, Any]:
    """The part of the report for machines that tells of merging (docs/merging.md)."""
    planned, decided = done.planned, done.known
    return {
        "merged": len(planned.joined),
        "records": sum(len(each.places) for each in planned.joined),
        "to_ask": planned.to_ask,
        "updated": planned.updated,
        "new": planned.new,
        "added_beside": planned.beside,
        "left_out": len(planned.leave),
        "doubles_in_book": planned.doubles_in_book,
        "decided": {
            "held": decided.resolved.held,
            "asked_again": len(decided.resolved.again),
            "not_followed": len(decided.lost),
        },
        "record": str(done.record) if done.record is not None else None,
        "conflicts": [each._asdict() for each in done.conflicts],
    }


def undone(done: UnmergeReport) -> list[str]:
    """Lines on merges that were taken back, and on what was edited since."""
    undoing = done.undoing
    lines = []
    for each in undoing.done:
        line = each.line
        sides = [f"{original.source}:{original.record}" for original in line.originals]
        lines.append(styled(line.number, "bold") + f"  {line.name}: {', '.join(sides)} apart again")
        if not each.wanted:
            lines[-1] += ", since what was merged had been merged again"
        lines += [f"    {text}" for text in _since(each, sides)]
        lines += [
            f"    no original of the record says {prop.head.field.path or prop.head.name} "
            f"'{said_of(prop)}': it stays with {sides[0]}"
            for prop in each.kept
        ]
    for line in undoing.missing:
        lines.append(
            styled("not found", "yellow")
            + f": {line.number}  {line.name}: nobody in the book is what was merged"
        )
    if done.store is not None:
        lines.append(f"{done.store}: decided that they are apart")
    return lines


def listed(found: Sequence[ListedMerge]) -> str:
    """The merges of a record, one a line."""
    rows = [["", "who", "out of", "merged", "in the book"]]
    for each in found:
        line = each.line
        sides = ", ".join(f"{one.source}:{one.record}" for one in line.originals)
        rows.append([line.number, line.name, sides, str(line.told.get("when", "")),
                     "yes" if each.there else "no"])  # fmt: skip
    rows = [[cell.replace("\n", " ") for cell in row] for row in rows]
    return "\n".join(table(rows, most=width(sys.stdout))) + "\n"


def listed_for_machines(found: Sequence[ListedMerge]) -> dict[str, Any]:
    """The same for machines."""
    return {
        "schema": 1,
        "merges": [
            {"merge": each.line.number, "name": each.line.name,
             "when": str(each.line.told.get("when", "")), "in_book": each.there,
             "originals": [{"source": one.source, "record": one.record}
                           for one in each.line.originals]}
            for each in found
        ],
    }  # fmt: skip


def _since(each: Undone, sides: Sequence[str]) -> list[str]:
    told = []
    for since in each.since:
        where = " and ".join(sides[at] for at in since.sides) or "neither"
        what = (f"'{since.before}' is now '{since.after}'" if since.before and since.after
                else f"'{since.after}' was added" if since.after
                else f"'{since.before}' was taken out")  # fmt: skip
        told.append(f"edited since: {since.field} {what} (kept so in {where})")
    return told


def undone_for_machines(undoing: Undoing) -> dict[str, Any]:
    """The same for machines."""
    return {
        "taken_back": [
            {"merge": each.line.number, "name": each.line.name,
             "originals": [{"source": one.source, "record": one.record}
                           for one in each.line.originals],
             "asked_for": each.wanted,
             "edited_since": [since._asdict() for since in each.since],
             "kept": [{"field": prop.head.field.path or prop.head.name, "value": said_of(prop)}
                      for prop in each.kept]}
            for each in undoing.done
        ],
        "not_found": [{"merge": line.number, "name": line.name} for line in undoing.missing],
    }  # fmt: skip
