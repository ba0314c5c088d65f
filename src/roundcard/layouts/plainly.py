"""What a builder does, told plainly, where it only puts cells down as they are.

The closures of `column_compiler` make properties; where nothing looks at the cells on
the way, the same can be said in one line, and who writes cards right away need not make any.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple, TypeVar

from roundcard.card.head import Head


class Plainly(NamedTuple):
    """A property made from cells as they are."""

    head: Head
    cells: tuple[int, ...]
    """The cell of the value, or of each component; the last cell of a row is always empty."""
    parts: bool = False
    """Whether the cells are the components of one value."""
    mark: str | None = None
    """What parts the entries of a list; None for what is no list."""


_Build = TypeVar("_Build", bound=Callable[..., int])


def does(build: _Build, *what: Plainly) -> _Build:
    """Note what a closure does."""
    build.plainly = what  # type: ignore[attr-defined]
    return build


def done_by(build: Callable[..., int]) -> Sequence[Plainly] | None:
    """What a closure does; None where it does more than put cells down."""
    what: Sequence[Plainly] | None = getattr(build, "plainly", None)
    return what
