"""The settings in words."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from roundcard.app.settings import Settings
from roundcard.cli.render.text import styled, table, width, wrapped

SCHEMA = 1


def for_people(now: Settings, path: Path) -> str:
    """Each setting with its value and where that comes from, and what it is for."""
    rows = [
        [each.key.name, each.value or "–", _origin(each.origin, path)] for each in now.each.values()
    ]
    lines = []
    room = width(sys.stdout)
    for line, each in zip(table(rows, most=room), now.each.values(), strict=True):
        name, _, rest = line.partition(" ")
        lines.append(f"{styled(name, 'bold', sys.stdout)} {rest}")
        lines += wrapped(f"    {each.key.what}: {each.key.takes}", room, 4)
    there = "" if path.exists() else ", which is not there yet"
    lines += ["", f"settings file: {path}{there}"]
    return "\n".join(lines) + "\n"


def _origin(origin: str, path: Path) -> str:
    if not origin:
        return "as usual"
    return "settings file" if origin == str(path) else f"variable {origin}"


def for_machines(now: Settings, path: Path) -> dict[str, Any]:
    """The same for machines."""
    return {
        "schema": SCHEMA,
        "file": str(path),
        "settings": [
            {"name": each.key.name, "value": each.value, "from": each.origin or None}
            for each in now.each.values()
        ],
    }
