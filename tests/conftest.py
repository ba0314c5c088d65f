"""What all tests share: the installed command, run as a process."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import pytest
from hypothesis import settings

settings.register_profile("roundcard", deadline=None, print_blob=True)
settings.load_profile("roundcard")

DEMO = Path(__file__).parent.parent / "src" / "roundcard" / "demo"


class Done(NamedTuple):
    """What a process left."""

    code: int
    out: str
    err: str


Run = Callable[..., Done]


@pytest.fixture
def run(tmp_path: Path) -> Run:
    """Run ``roundcard`` in the test's own folder."""
    command = shutil.which("roundcard", path=str(Path(sys.executable).parent))
    assert command, "roundcard is not installed beside this Python"
    env = os.environ | {"ROUNDCARD_HOME": str(tmp_path / "home"), "COLUMNS": "100"}

    def runner(*args: object, stdin: bytes = b"", cwd: Path = tmp_path) -> Done:
        done = subprocess.run(
            [command, *map(str, args)],
            cwd=cwd,
            input=stdin,
            capture_output=True,
            env=env,
            check=False,
            timeout=120,
        )
        return Done(done.returncode, done.stdout.decode("utf-8"), done.stderr.decode("utf-8"))

    return runner


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    """A copy of the demo data."""
    return Path(shutil.copytree(DEMO, tmp_path / "demo"))
