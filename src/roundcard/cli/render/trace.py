"""The life of a person in words."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import asdict
from typing import Any

from roundcard.cli.render.text import cut, styled, table, width
from roundcard.jobs.trace import Life, Origin, Trace, Value

SCHEMA = 1
"""Version of the JSON report; see docs/jobs.md."""
_WIDE, _CELL = 44, 34


def for_people(found: Trace) -> str:
    """All lives that were found."""
    lines = [styled(note, "yellow", sys.stdout) for note in found.notes]
    if not found.lives:
        return "\n".join([*lines, f"nobody found in run {found.run}"]) + "\n"
    for life in found.lives:
        lines += [*_life(life, found), ""]
    if found.more:
        lines.append(f"… and {found.more:,} more; give more words")
    return "\n".join(lines).rstrip("\n") + "\n"


def _life(life: Life, found: Trace) -> Iterator[str]:
    yield styled(life.name or "(no name)", "bold", sys.stdout) + f": {life.became}"
    if life.uid:
        yield f"  {life.uid}"
    for origin in life.records:
        yield from _origin(origin)
    for line in life.merged:
        yield cut(f"  merged: {line}", width(sys.stdout))
    if life.outbox:
        yield f"  stands in {life.outbox} (run {found.run} is {found.stands})"
        yield from table([(path, cut(text, _WIDE)) for path, text in life.written], indent="    ",
                         most=width(sys.stdout))  # fmt: skip
    for title, rows in (("waits", life.waits), ("stays there", life.stays),
                        ("left behind", life.left)):  # fmt: skip
        for row in rows:
            yield cut(f"  {title}: {row}", width(sys.stdout))
    if life.holds and not life.outbox:
        yield "  the destination holds, as of the last delivery"
        yield from table([(path, cut(text, _WIDE)) for path, text in life.holds], indent="    ",
                         most=width(sys.stdout))  # fmt: skip


def _origin(origin: Origin) -> Iterator[str]:
    line = f", line {origin.line}" if origin.line else ""
    yield f"  {styled(origin.source, 'bold', sys.stdout)}, record {origin.record}{line}"
    if not origin.values:
        return
    rows = [(value.place, cut(value.cell or value.value, _CELL), value.field, _short(value.ends))
            for value in origin.values]  # fmt: skip
    lines = table(rows, indent="    ", most=width(sys.stdout))
    for value, line in zip(origin.values, lines, strict=True):
        yield line
        yield from (cut(f"        {step}", width(sys.stdout)) for step in _steps(value))


def _short(ends: str) -> str:
    """Where a value ended, in as few words as a table has room for."""
    for long, short in (("in the outbox, as ", "outbox: "), ("in the outbox, in ", "outbox: ")):
        if ends.startswith(long):
            return short + ends.removeprefix(long)
    return ends


def _steps(value: Value) -> Iterator[str]:
    for step in value.steps:
        doubt = f" ? {step.doubt}" if step.doubt else ""
        after = cut(step.after, _WIDE) or "(dropped)"
        if step.after != step.before:
            yield f"{step.rule}: {cut(step.before, _WIDE)} → {after}{doubt}"
        else:
            yield f"{step.rule}: left as it is{doubt}"


def for_machines(found: Trace) -> dict[str, Any]:
    """All of it for machines."""
    return {"schema": SCHEMA, **asdict(found)}
