"""Rows of one width, told apart by the marks between cells alone.

The library's reader looks at each character; where every row is a line (RFC 4180 section 2), or its
cells in quotes are plain to see, the marks can be looked for instead, and the cells are columns at
once. What is not so plain is left to the library.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain
from typing import overload

_LONGEST = 1 << 26
"""Characters of a text, for the library would not read longer cells."""
_BETWEEN = "\x04"
_FEWEST = 2
"""Columns from which a row is told from a blank line."""


class Grid(Sequence[list[str]]):
    """Rows of one width, kept as columns."""

    __slots__ = ("by_lines", "columns")

    def __init__(self, columns: Sequence[Sequence[str]], *, by_lines: bool = False) -> None:
        """There is at least one column; all are of one length."""
        self.columns = columns
        self.by_lines = by_lines
        """Whether it is known that each row was one line."""

    def __len__(self) -> int:
        return len(self.columns[0])

    def __iter__(self) -> Iterator[list[str]]:
        return map(list, zip(*self.columns, strict=True))

    @overload
    def __getitem__(self, at: int) -> list[str]: ...

    @overload
    def __getitem__(self, at: slice) -> Grid: ...

    def __getitem__(self, at: int | slice) -> list[str] | Grid:
        """One row, or some."""
        if isinstance(at, slice):
            return Grid([column[at] for column in self.columns], by_lines=self.by_lines)
        return [column[at] for column in self.columns]


def grid_of(text: str, separator: str) -> Grid | None:
    """The rows of a text that ends with a row; None where they are not plainly of one width, or
    must be looked at."""
    if not text.endswith("\n") or len(text) > _LONGEST:
        return None
    if '"' not in text:
        return _by_lines(text, separator)
    if text.startswith('"') and (found := _all_in_quotes(text, separator)):
        return found
    held = _without_quotes(text, separator)
    found = _by_lines(held, separator) if held else None
    if found is None:
        return None
    by_lines = not any(other in held for _, other in _held(separator)[1:])
    return Grid([_released(column, separator) for column in found.columns], by_lines=by_lines)


def _by_lines(text: str, separator: str) -> Grid | None:
    """The rows of a text in which each line is one."""
    rows = text.split("\r\n" if text.endswith("\r\n") else "\n")
    rows.pop()
    return _told_apart(rows, separator)


def _all_in_quotes(text: str, separator: str) -> Grid | None:
    """The rows of a text in which every cell is in quotes, and no quote is in a cell."""
    end = '"\r\n' if text.endswith("\r\n") else '"\n'
    if not text.endswith(end):
        return None
    found = _told_apart(text[1 : -len(end)].split(f'{end}"'), f'"{separator}"')
    if found is None or text.count('"') != 2 * len(found) * len(found.columns):
        return None
    return found


def _told_apart(rows: Sequence[str], between: str) -> Grid | None:
    """The cells of rows, which have `between` between them."""
    width = rows[0].count(between) + 1
    together = "".join(rows)
    if width < _FEWEST or "\n" in together or "\r" in together:
        return None
    # where all line breaks begin cells of the first column, the rows are of one width
    cells = f"{between}\n".join(rows).split(between)
    first = "".join(cells[::width])
    if len(cells) != len(rows) * width or first.count("\n") != len(rows) - 1:
        return None
    columns = [first.split("\n"), *[cells[at::width] for at in range(1, width)]]
    return Grid(columns, by_lines=True)


def _without_quotes(text: str, separator: str) -> str:
    """The text without its quotes, and with other characters for what they keep together; empty
    where it is not plain what they do."""
    pieces = text.split('"')
    first, *others = pieces[::2]
    inside = pieces[1::2]
    held = _held(separator)
    if len(others) != len(inside) or _BETWEEN in text or any(other in text for _, other in held):
        return ""
    before, behind = {separator, "\n"}, {separator, "\n", "\r"}
    if (first and first[-1] not in before) or others[-1][:1] not in behind:
        return ""
    between = [piece for piece in others[:-1] if piece]  # a doubled quote leaves nothing there
    if not (
        {piece[0] for piece in between} <= behind and {piece[-1] for piece in between} <= before
    ):
        return ""
    joined = "".join(inside)
    if any(mark in joined for mark, _ in held):
        joined = _BETWEEN.join(inside)
        for mark, other in held:
            joined = joined.replace(mark, other)
        inside = joined.split(_BETWEEN)
    outside = [piece or '"' for piece in others]
    return first + "".join(chain.from_iterable(zip(inside, outside, strict=True)))


def _released(column: Sequence[str], separator: str) -> Sequence[str]:
    """A column with what was held."""
    joined = "".join(column)
    if not any(other in joined for _, other in _held(separator)):
        return column
    joined = _BETWEEN.join(column)
    for mark, other in _held(separator):
        joined = joined.replace(other, mark)
    return joined.split(_BETWEEN)


def _held(separator: str) -> tuple[tuple[str, str], ...]:
    """What quotes may keep together, and what stands for it for as long as cells are told apart."""
    return (separator, "\x01"), ("\n", "\x02"), ("\r", "\x03")
