"""Files that were read through and approved: what commands make of the demo data, byte for byte.

A change that is meant shows as a difference of these files, and is read like any other:
``ROUNDCARD_APPROVE=1 scripts/test -k approved`` writes them anew.
"""

from __future__ import annotations

import os
import shlex
from pathlib import Path

from conftest import Run


def demand_approved(run: Run, demo: Path, place: Path, command: str) -> None:
    """Run a command on the demo data; the files that it made are those that were approved."""
    before = {path.name for path in demo.iterdir()}
    steps = command.split(" && ")
    for step in steps:
        done = run(*shlex.split(step), cwd=demo)
        assert done.code in (0, 1), f"{step}\n{done.err}"
    skipped = ("", ".photos", ".xlsx")
    made = [path for path in demo.iterdir()
            if path.name not in before and path.suffix not in skipped]  # fmt: skip
    assert made, command
    for path in sorted(made):
        kept = place / path.name
        if os.environ.get("ROUNDCARD_APPROVE"):
            kept.parent.mkdir(exist_ok=True)
            kept.write_bytes(path.read_bytes())
        assert path.read_bytes().split(b"\n") == kept.read_bytes().split(b"\n"), path.name
