"""A conversion out of the options that most commands share."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from dataclasses import dataclass

from roundcard.books.plan import Plan
from roundcard.books.source import HowToRead
from roundcard.cli.places import layout_places, own_layouts
from roundcard.cli.render.reasons import sentence
from roundcard.layouts import shelf


@dataclass(frozen=True, slots=True)
class Usual:
    """The options of reading and writing, as the command line gives them."""

    layouts: Sequence[str] | None = None
    to_layout: str | None = None
    to_format: str = ""
    from_format: str = ""
    prove: bool = False
    force: bool = False
    dry_run: bool = False

    def plan(self, sources: Sequence[str], target: str) -> Plan:
        """The conversion of these sources into a target, with the streams of the process.

        Raises `LayoutError` where a layout is not found.
        """
        places = layout_places()
        targets = shelf.find(self.to_layout, places) if self.to_layout else []
        return Plan(
            sources=sources,
            target=target,
            layouts=[found for name in self.layouts or () for found in shelf.find(name, places)],
            kept=own_layouts(),
            to_layout=targets[0] if targets else None,
            how=HowToRead(self.from_format),
            to_format=self.to_format,
            force=self.force,
            dry_run=self.dry_run,
            prove=self.prove,
            stdin=sys.stdin.buffer,
            stdout=sys.stdout.buffer,
            say=sentence,
        )
