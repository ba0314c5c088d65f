"""One record on the terminal: source cell, field, value."""

from __future__ import annotations

import sys
from collections.abc import Iterator

from roundcard.cli.render.text import columns_of, cut, pad, styled, width
from roundcard.survey.preview import Cleaned, PreviewLine, Record, Records

_WIDEST_NAME, _WIDEST_PATH = 24, 26


def not_found(records: Records, number: int, words: str) -> str:
    """Why no record is shown."""
    name, have = records.source.name, f"{records.count:,} records"
    if number:
        return f"{name}: record {number:,} not found; the source has {have}\n"
    if words:
        return f"{name}: '{words}' not found in {have}\n"
    return f"{name}: no finding in {have}\n"


def for_people(record: Record, source: str, *, show_empty: bool = False, most: int = 0) -> str:
    """The record as lines; `most` is how many lines there is room for (0: any number)."""
    lines = list(_lines(record, source, show_empty))
    if most and len(lines) > most:
        hidden = len(lines) - most + 1
        lines = [*lines[: most - 1], styled(f"… {hidden} more lines", "dim", sys.stdout)]
    return "\n".join(lines) + "\n"


def _lines(record: Record, source: str, show_empty: bool) -> Iterator[str]:
    title = f"{source}, record {record.number:,}"
    place = f"  line {record.place:,}" if record.place else ""
    name = f"  {record.name}" if record.name else ""
    yield styled(title, "bold", sys.stdout) + styled(place, "dim", sys.stdout) + name
    if record.state:
        yield styled(f"({record.state})", "yellow", sys.stdout)
    yield ""
    shown = [line for line in record.lines if show_empty or line.cell.strip() or line.value]
    hidden = len(record.lines) - len(shown)
    if shown:
        yield from _table(shown)
    if hidden:
        are = "cell is" if hidden == 1 else "cells are"
        yield styled(f"{hidden} {are} empty", "dim", sys.stdout)
    if record.cleaned:
        yield ""
        yield styled("cleaning", "bold", sys.stdout)
        yield from map(_cleaned, record.cleaned)
    if record.findings:
        yield ""
        yield from (f"{styled('!', 'yellow', sys.stdout)} {what}" for what in record.findings)


def _table(lines: list[PreviewLine]) -> Iterator[str]:
    wide = width(sys.stdout)
    names = min(max([columns_of(_plain(line.name)) for line in lines] + [4]), _WIDEST_NAME)
    paths = min(max([columns_of(line.path) for line in lines] + [5]), _WIDEST_PATH)
    room = max((wide - names - paths - 7) // 2, 14)
    cells = min(max([columns_of(_plain(line.cell)) for line in lines] + [4]), room)
    room = max(wide - names - paths - cells - 7, 14)
    head = f"{pad('', names)}  {pad('cell', cells)}  {pad('field', paths)}   value"
    yield styled(head, "dim", sys.stdout)
    for line in lines:
        arrow = "→" if line.path else " "
        path = pad(cut(line.path, paths), paths)
        value = cut(_plain(line.value), room)
        if line.finding:
            path, value = (styled(text, "yellow", sys.stdout) for text in (path, value))
        elif line.path.startswith("("):
            path = styled(path, "dim", sys.stdout)
        elif line.value and line.changed:
            value = styled(value, "cyan", sys.stdout)
        name = styled(pad(cut(_plain(line.name), names), names), "dim", sys.stdout)
        cell = pad(cut(_plain(line.cell), cells), cells)
        yield f"{name}  {cell} {arrow} {path}  {value}".rstrip()


def _cleaned(each: Cleaned) -> str:
    room = max((width(sys.stdout) - len(each.path) - len(each.rule) - 12) // 2, 14)
    before, after = (f"'{cut(_plain(text), room)}'" for text in (each.before, each.after))
    told = f"  {each.path}: {before}"
    if each.after != each.before:
        told += " → " + styled(after if each.after else "(gone)", "cyan", sys.stdout)
    doubt = f" ? {each.doubt}" if each.doubt else ""
    return told + styled(f"{doubt}  {each.rule}", "dim", sys.stdout)


def _plain(text: str) -> str:
    text = text.strip().replace("\r\n", "\n").replace("\n", "⏎").replace("\t", "⇥")
    return "".join(char if char.isprintable() else "·" for char in text)
