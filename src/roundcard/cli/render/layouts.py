"""A layout as a table for people."""

from __future__ import annotations

import sys

from roundcard.cli.render.text import count, styled, table, width
from roundcard.formats.csv import SEPARATORS
from roundcard.layouts.model import Column, Layout


def for_people(layout: Layout) -> str:
    """Title, dialect, and one line a column."""
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
    rows = [("column", "holds", "how")]
    rows += [(column.name, column.meaning, _how(column)) for column in layout.columns]
    lines = table(rows, gap=3, most=width(sys.stdout))
    lines[0] = styled(lines[0], "dim", sys.stdout)
    tail = [f"every contact also gets {each.holds} '{each.value}'" for each in layout.every]
    summary = f"{count(len(layout.columns), 'column')}; {', '.join(told)}"
    return "\n".join([head, summary, "", *lines, *([""] if tail else []), *tail]) + "\n"


def _how(column: Column) -> str:
    told = []
    if column.aliases:
        told.append("also " + ", ".join(f"'{alias}'" for alias in column.aliases))
    if column.many:
        told.append(f"several, parted by '{_visible(column.many)}'")
    if column.parted:
        told.append(f"parted by '{_visible(column.parted)}'")
    if column.join is not None:
        told.append(f"joined by '{_visible(column.join)}'")
    if column.date is not None:
        told.append(f"dates as {column.date.text}")
    if column.values:
        told.append(", ".join(f"{theirs} = {ours}" for theirs, ours in column.values.items()))
    return "; ".join(told)


def _visible(mark: str) -> str:
    return mark.replace("\n", "⏎").replace("\t", "⇥")
