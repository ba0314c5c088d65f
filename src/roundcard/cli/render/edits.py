"""What a sheet to edit holds, and what people did to it."""

from __future__ import annotations

from collections.abc import Sequence

from roundcard.cli.render.text import count, cut, styled, table, width, wrapped
from roundcard.edit.edits import Edit, Edits

_FIRST = 12
_WIDE = 44


def written(target: str, people: int, headings: Sequence[str], *, dry_run: bool) -> str:
    """The sheet that was written."""
    said = f"{target}: {count(people, 'person', 'people')}, {count(len(headings), 'column')}: "
    lines = wrapped(cut(said + ", ".join(headings), 3 * width()), width(), 2)
    if dry_run:
        lines.append("nothing was written (dry run)")
    else:
        lines.append("edit it, and take it back with: roundcard update BOOK "
                     f"{target} TARGET")  # fmt: skip
    return "\n".join(lines) + "\n"


def planned(edits: Edits, sheet: str, *, verbose: bool) -> str:
    """What was done to a sheet, before it is done to the book."""
    counts = edits.counts()
    lines = []
    if edits.nothing:
        lines.append(f"{sheet}: nothing was edited")
    else:
        people = count(len(edits.cells), "person", "people")
        cells = [f"{counts[kind]:,} {kind}" for kind in ("changed", "emptied", "added")
                 if counts[kind]]  # fmt: skip
        said = [f"{people} edited (cells: {', '.join(cells)})"] * bool(edits.cells)
        said += [f"{len(edits.new):,} new"] * bool(edits.new)
        said += [f"{len(edits.deleted):,} deleted"] * bool(edits.deleted)
        lines.append(styled(f"{sheet}: {', '.join(said)}", "bold"))
    lines += _cells(edits, verbose)
    most = None if verbose else _FIRST
    lines += [f"  + {cut(', '.join(said.values()), width() - 6)}" for said in edits.new[:most]]
    lines += [
        f"  - record {record:,}, {name}" for record, name in list(edits.deleted.items())[:most]
    ]
    hidden = 0 if verbose else max(len(edits.new) - _FIRST, 0) + max(len(edits.deleted) - _FIRST, 0)
    if hidden:
        lines.append(f"  … {hidden:,} more with --verbose")
    if edits.refused:
        lines += ["", styled("not done", "bold yellow")]
        lines += [f"  {told}" for told in edits.refused]
    if edits.told:
        lines += ["", styled("worth knowing", "bold")]
        lines += [f"  {told}" for told in edits.told]
    return "\n".join(lines) + "\n\n"


def _cells(edits: Edits, verbose: bool) -> list[str]:
    rows = []
    for record, done in edits.cells.items():
        for at, edit in enumerate(done):
            whom = f"{record:,} {edits.names[record]}" if at == 0 else ""
            rows.append((whom, edit.path, _became(edit)))
    shown = rows if verbose else rows[:_FIRST]
    lines = table(shown, indent="  ", most=width())
    if len(rows) > len(shown):
        lines.append(f"  … {len(rows) - len(shown):,} more cells with --verbose")
    return lines


def _became(edit: Edit) -> str:
    before, after = (f"'{cut(text, _WIDE)}'" for text in (edit.before, edit.after))
    if edit.kind == "emptied":
        return f"{before} emptied"
    return f"added {after}" if edit.kind == "added" else f"{before} → {after}"
