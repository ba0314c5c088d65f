"""Progress on a terminal, for work that takes more than a second."""

from __future__ import annotations

import contextlib
import sys
import time
from collections.abc import Iterator

from roundcard.books.plan import Watch
from roundcard.cli.render.text import obey, width

_PATIENCE = 1.0
"""Seconds before the first line."""
_PAUSE = 0.2
"""Seconds between two lines."""


@contextlib.contextmanager
def shown(quiet: bool = False) -> Iterator[Watch | None]:
    """A function to call with what is done; None where nobody would see it."""
    if quiet or not sys.stderr.isatty():
        yield None
        return
    line = _Line()
    try:
        yield line
    finally:
        line.clear()


class _Line:
    """One line of the terminal, written over and over."""

    def __init__(self) -> None:
        self.began = self.last = time.monotonic()
        self.doing = ""
        self.there = False

    def __call__(self, doing: str, octets: int, total: int, people: int) -> None:
        now = time.monotonic()
        if doing != self.doing:
            self.doing, self.began = doing, now
        spent = now - self.began
        if now - self.last < (_PAUSE if self.there else _PATIENCE) or not total:
            return
        self.last = now
        share = min(octets / total, 1.0)
        left = f", about {spent / share - spent:,.0f} s left" if share > 0.02 else ""
        bar = "█" * round(share * 20)
        text = f"{doing} {bar:░<20} {share:4.0%}  {people:,} people{left}"
        obey("\r\x1b[K", sys.stderr)
        sys.stderr.write(text[: width() - 1])
        sys.stderr.flush()
        self.there = True

    def clear(self) -> None:
        if self.there:
            obey("\r\x1b[K", sys.stderr)
            sys.stderr.flush()
