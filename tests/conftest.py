"""What all tests share: the command, run as a process, or by the same entry in this one."""

from __future__ import annotations

import gc
import io
import os
import pty
import select
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import pytest
from hypothesis import settings

from roundcard.cli.main import main

settings.register_profile("usual", deadline=None, print_blob=True, max_examples=25)
settings.register_profile("deep", deadline=None, print_blob=True, max_examples=400)
settings.load_profile(os.environ.get("ROUNDCARD_EXAMPLES", "usual"))

DEMO = Path(__file__).parent.parent / "src" / "roundcard" / "demo"


class Done(NamedTuple):
    """What a process left."""

    code: int
    out: str
    err: str


Run = Callable[..., Done]


def _environment(folder: Path) -> dict[str, str]:
    return {"ROUNDCARD_HOME": str(folder / "home"), "COLUMNS": "100"}


@pytest.fixture
def program(tmp_path: Path) -> Run:
    """Run the installed ``roundcard`` as a process in the test's own folder."""
    command = shutil.which("roundcard", path=str(Path(sys.executable).parent))
    assert command, "roundcard is not installed beside this Python"
    env = os.environ | _environment(tmp_path)

    def runner(*args: object, stdin: bytes = b"", cwd: Path = tmp_path) -> Done:
        done = subprocess.run(
            [command, *map(str, args)], cwd=cwd, input=stdin, capture_output=True, env=env,
            check=False,
        )  # fmt: skip
        return Done(done.returncode, done.stdout.decode("utf-8"), done.stderr.decode("utf-8"))

    return runner


@pytest.fixture
def run(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Run:
    """Run the same entry within this process: argv, streams, folder and environment as a shell
    gives them, and the exit code that it gets."""
    for name, value in _environment(tmp_path).items():
        monkeypatch.setenv(name, value)

    def runner(*args: object, stdin: bytes = b"", cwd: Path = tmp_path) -> Done:
        streams = [io.BytesIO(stdin), io.BytesIO(), io.BytesIO()]
        texts = [io.TextIOWrapper(stream, encoding="utf-8", newline="") for stream in streams]
        signals = {which: signal.getsignal(which) for which in (signal.SIGINT, signal.SIGTERM)}
        threshold = gc.get_threshold()
        with monkeypatch.context() as patch:
            patch.chdir(cwd)
            patch.setattr(sys, "argv", ["roundcard", *map(str, args)])
            for name, text in zip(("stdin", "stdout", "stderr"), texts, strict=True):
                patch.setattr(sys, name, text)
            try:
                main()
            except SystemExit as left:
                code = int(left.code or 0)
            finally:
                sys.stdout.flush()
                sys.stderr.flush()
                for which, handler in signals.items():
                    signal.signal(which, handler)
                gc.set_threshold(*threshold)
        _, out, err = (stream.getvalue().decode("utf-8") for stream in streams)
        return Done(code, out, err)

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
    env = os.environ | {"ROUNDCARD_HOME": str(folder / "home"), "TERM": "xterm", "COLUMNS": "100",
                        "LINES": "30"}  # fmt: skip
    process = subprocess.Popen(
        [command, *args], cwd=folder, stdin=slave, stdout=slave, stderr=slave, env=env,
        close_fds=True,
    )  # fmt: skip
    os.close(slave)
    shown = b""
    deadline = time.monotonic() + 60
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
    process.wait(timeout=20)
    os.close(master)
    return shown.decode("utf-8", "replace")
