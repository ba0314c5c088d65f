"""What all tests share: the command, run as a process, or by the same entry in this one."""

from __future__ import annotations

import os
import pty
import select
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Mapping
from pathlib import Path

import pytest
from hypothesis import settings

from in_process import Done, in_process

# The verdict on a commit is the same each time; "hunt" looks for what nobody has thought of yet.
settings.register_profile("usual", deadline=None, derandomize=True, max_examples=25)
settings.register_profile("deep", deadline=None, derandomize=True, max_examples=400)
settings.register_profile("hunt", deadline=None, print_blob=True, max_examples=3_000)
settings.load_profile(os.environ.get("ROUNDCARD_EXAMPLES", "usual"))

DEMO = Path(__file__).parent.parent / "src" / "roundcard" / "demo"


Run = Callable[..., Done]


def _environment(folder: Path) -> dict[str, str]:
    return {"ROUNDCARD_HOME": str(folder / "home"), "COLUMNS": ""}


@pytest.fixture
def program(tmp_path: Path) -> Run:
    """Run the installed ``roundcard`` as a process in the test's own folder."""
    command = shutil.which("roundcard", path=str(Path(sys.executable).parent))
    assert command, "roundcard is not installed beside this Python"
    usual = os.environ | _environment(tmp_path)

    def runner(
        *args: object,
        stdin: bytes = b"",
        cwd: Path = tmp_path,
        env: Mapping[str, str] | None = None,
    ) -> Done:
        done = subprocess.run(
            [command, *map(str, args)], cwd=cwd, input=stdin, capture_output=True,
            env=usual | dict(env or {}), check=False,
        )  # fmt: skip
        return Done(done.returncode, done.stdout.decode("utf-8"), done.stderr.decode("utf-8"))

    return runner


@pytest.fixture
def run(tmp_path: Path) -> Run:
    """Run the same entry within this process."""

    def runner(
        *args: object,
        stdin: bytes = b"",
        cwd: Path = tmp_path,
        env: Mapping[str, str] | None = None,
    ) -> Done:
        every = _environment(tmp_path) | dict(env or {})
        return in_process([*map(str, args)], cwd, every, stdin)

    return runner


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    """A copy of the demo data."""
    return Path(shutil.copytree(DEMO, tmp_path / "demo"))


def at_terminal(folder: Path, keys: list[bytes], *args: str) -> str:
    """What a command shows at a terminal of 100 columns while keys are pressed."""
    command = shutil.which("roundcard", path=str(Path(sys.executable).parent))
    assert command
    master, slave = pty.openpty()
    env = os.environ | {"ROUNDCARD_HOME": str(folder / "home"), "TERM": "xterm", "COLUMNS": "",
                        "LINES": "30"}  # fmt: skip
    process = subprocess.Popen(
        [command, *args], cwd=folder, stdin=slave, stdout=slave, stderr=slave, env=env,
        close_fds=True,
    )  # fmt: skip
    os.close(slave)
    shown = b""
    deadline = time.monotonic() + 600
    quiet = 0
    while time.monotonic() < deadline:
        ready, _, _ = select.select([master], [], [], 0.3)
        if ready:
            try:
                piece = os.read(master, 65536)
            except OSError:
                break
            if not piece:
                break
            shown += piece
            quiet = 0
            continue
        quiet += 1
        if keys and shown and quiet > 1:
            os.write(master, keys.pop(0))
            quiet = 0
    process.wait(timeout=600)
    os.close(master)
    return shown.decode("utf-8", "replace")
