"""A layout as a table for people, and what was drafted, matched and found."""

from __future__ import annotations

import sys
from collections.abc import Mapping, Sequence

from roundcard.cli.render.text import (
    columns_of,
    count,
    cut,
    in_cells,
    narrowed,
    styled,
    table,
    visible,
    width,
)
from roundcard.formats.csv import SEPARATORS
from roundcard.layouts.drafting.draft import Draft
from roundcard.layouts.drafting.written import Remark
from roundcard.layouts.fitting import TAKEN_FROM, Fit
from roundcard.layouts.model import Column, Layout

_HARDLY = 0.3
_ROOM_FOR_REASONS = 24
_WIDEST = {"column": 26, "sample": 28, "holds": 34, "sure": 7}


def for_people(
    layout: Layout,
    remarks: Mapping[str, Remark] | None = None,
    samples: Mapping[str, Sequence[str]] | None = None,
) -> str:
    """Title, dialect, and one line a column: sample, field, reason, sureness."""
    dialect = layout.dialect
    separator = SEPARATORS.get(dialect.separator, repr(dialect.separator))
    head = styled(layout.name, "bold", sys.stdout) + (f": {layout.title}" if layout.title else "")
    heading = f"headings in row {layout.heading_row}" if layout.heading_row else "no headings"
    told = [dialect.encoding, separator, heading, f"unlisted columns: {layout.unlisted}"]
    if dialect.byte_order_mark:
        told.append("byte order mark")
    if layout.formula_guard:
        told.append("formulas guarded")
    if layout.empty:
        told.append("empty: " + " ".join(sorted(layout.empty)))
    lines = _columns(layout, remarks or {}, samples or {})
    tail = [f"every contact also gets {each.holds} '{each.value}'" for each in layout.every]
    looks = sum(1 for remark in (remarks or {}).values() if remark.look)
    if looks:
        are = "column is" if looks == 1 else "columns are"
        tail.append(styled(f"{looks} {are} to be looked at: roundcard layout edit", "yellow",
                           sys.stdout))  # fmt: skip
    summary = f"{count(len(layout.columns), 'column')}; {', '.join(told)}"
    return "\n".join([head, summary, "", *lines, *([""] if tail else []), *tail]) + "\n"


def _columns(
    layout: Layout, remarks: Mapping[str, Remark], samples: Mapping[str, Sequence[str]]
) -> list[str]:
    heads = ["column", "holds"]
    if any(remark.samples for remark in remarks.values()) or samples:
        heads.insert(1, "sample")
    if any(remark.sure is not None for remark in remarks.values()):
        heads.append("sure")
    rows, looks = [heads], [False]
    lasts = ["how"]
    for column in layout.columns:
        remark = remarks.get(column.name, Remark())
        here = samples.get(column.name, ())
        cells = {
            "column": " ".join(column.name.split()),
            "holds": column.meaning,
            "sample": " · ".join(" ".join(each.split()) for each in here) or remark.samples,
            "sure": "" if remark.sure is None else
                    f"{'? ' if remark.look else ''}{remark.sure:.0%}".replace("%", " %"),
        }  # fmt: skip
        rows.append([cells[name] for name in heads])
        lasts.append("; ".join(part for part in (_how(column), remark.why) if part))
        looks.append(remark.look)
    widths = [min(max(columns_of(row[at]) for row in rows), _WIDEST[name])
              for at, name in enumerate(heads)]  # fmt: skip
    room = max(width(sys.stdout) - sum(widths) - 3 * len(widths), _ROOM_FOR_REASONS)
    widths = [*narrowed(widths, width(sys.stdout) - room - 3 * len(widths)), room]
    right = [at for at, name in enumerate(heads) if name == "sure"]
    sample = heads.index("sample") if "sample" in heads else -1
    lines = []
    for row, last, look in zip(rows, lasts, looks, strict=True):
        cells_ = [cut(cell, widths[at]) if at == sample else visible(cell)
                  for at, cell in enumerate((*row, last))]  # fmt: skip
        line = in_cells(cells_, widths, right, 3)
        lines.append(styled(line, "yellow", sys.stdout) if look else line)
    lines[0] = styled(lines[0], "dim", sys.stdout)
    return lines


def _how(column: Column) -> str:
    told = []
    if column.aliases:
        told.append("also " + ", ".join(f"'{alias}'" for alias in column.aliases))
    if column.many:
        told.append(f"several, separated by '{_visible(column.many)}'")
    if column.parted:
        told.append(f"separated by '{_visible(column.parted)}'")
    if column.join is not None:
        told.append(f"joined by '{_visible(column.join)}'")
    if column.date is not None:
        told.append(f"dates like {column.date.text}")
    if column.values:
        told.append(", ".join(f"{theirs} = {ours}" for theirs, ours in column.values.items()))
    return "; ".join(told)


def _visible(mark: str) -> str:
    return mark.replace("\n", "⏎").replace("\t", "⇥")


def draft_told(draft: Draft, output: str, *, bare: bool) -> str:
    """What was drafted, in a few lines."""
    columns = count(len(draft.columns), "column")
    told = count(len([each for each in draft.columns if not each.column.skip]), "column")
    if bare:
        return f"{styled(output, 'bold')}: {columns}, none of them mapped yet\n"
    sure = f"{draft.sure:.0%}".replace("%", " %")
    lines = [f"{styled(output, 'bold')}: {draft.understood} of {told} understood, {sure} sure"]
    skipped = [each.column.name for each in draft.columns if each.column.skip]
    if skipped:
        lines.append(f"  empty, skipped: {', '.join(' '.join(name.split()) for name in skipped)}")
    custom = [each.column.name for each in draft.columns if each.is_custom and not each.look]
    if custom:
        lines.append(f"  no standard field, kept as custom: {', '.join(custom)}")
    if draft.unsure:
        lines.append("  " + styled("to look at", "yellow") + ":")
        rows = [(each.column.name, "→", each.column.meaning,
                 f"{each.sure:.0%}".replace("%", " %"), "; ".join((each.why, *each.notes)))
                for each in draft.unsure]  # fmt: skip
        lines += table(rows, right=(3,), indent="    ", most=width())
        if output != "-":
            lines.append(f"  roundcard layout edit {output} goes through them")
    return "\n".join(lines) + "\n"


def fits_told(name: str, fits: Sequence[Fit], *, everything: bool = False) -> str:
    """Which layouts fit a table, the best first."""
    shown = [fit for fit in fits if everything or fit.score >= _HARDLY]
    head = styled(name, "bold", sys.stdout)
    if not shown:
        return f"{head}: no kept layout fits; 'roundcard layout draft' makes one\n"
    best = shown[0]
    verdict = (f"'{best.layout.name}' fits" if best.score >= TAKEN_FROM
               else "no layout fits well enough to be taken by itself")  # fmt: skip
    rows = []
    for fit in shown:
        notes = [count(len(fit.missing), "column is missing", "columns are missing")] * bool(
            fit.missing
        )
        notes += [count(len(fit.new), "new column")] * bool(fit.new)
        notes += list(fit.against[:2])
        score = f"{fit.score:.0%}".replace("%", " %")
        rows.append((fit.layout.name, score, "; ".join(notes) or "every column is there"))
    lines = table(rows, right=(1,), indent="  ", most=width(sys.stdout))
    return "\n".join([f"{head}: {verdict}", *lines]) + "\n"
