"""Killed at any moment, the old target is whole, and the next run clears up."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import Run


@pytest.mark.parametrize("target", ["old.vcf", "old.csv"])
@pytest.mark.parametrize("jobs", [1, 2])
def test_killed_in_mid_write(run: Run, tmp_path: Path, target: str, jobs: int) -> None:
    body = "FN:P {}\nN:P;;;;\nTEL:{}\nX-NOWHERE:{}\n"
    card = "BEGIN:VCARD\nVERSION:4.0\n" + body + "END:VCARD\n"
    source = tmp_path / "book.vcf"
    source.write_text("".join(card.format(n, n, n) for n in range(30_000)), encoding="utf-8")
    (tmp_path / "l.toml").write_text(
        'name = "l"\n[table]\nunlisted = "skip"\n[[column]]\nheading = "phone"\nholds = "phone"\n',
        encoding="utf-8",
    )
    old = tmp_path / target
    old.write_bytes(b"the old one")
    before = set(tmp_path.iterdir())
    args = ["--to-layout", "l.toml"] if target == "old.csv" else []
    command = [sys.executable, "-m", "roundcard", "convert", "book.vcf", target, "--force", "-q"]
    command += ["--processes", str(jobs), *args]
    chance = random.Random(jobs)
    killed = 0
    for _ in range(5):
        process = subprocess.Popen(command, cwd=tmp_path, start_new_session=True)
        until = time.monotonic() + 600
        while process.poll() is None and time.monotonic() < until:
            if len(set(tmp_path.iterdir())) > len(before):
                break  # it writes
            time.sleep(0.002)
        time.sleep(chance.uniform(0, 0.25))
        os.kill(process.pid, signal.SIGKILL)  # not its children: they must end by themselves
        killed += process.wait() == -signal.SIGKILL
        if process.returncode != 0:
            assert old.read_bytes() == b"the old one"
        else:
            old.write_bytes(b"the old one")
            for path in set(tmp_path.iterdir()) - before:
                path.unlink()
        assert gone(process.pid)
    assert killed
    assert run("convert", "book.vcf", target, "--force", "-q", *args).code == 0
    assert old.stat().st_size > 100_000
    left = {path.name for path in set(tmp_path.iterdir()) - before}
    assert left <= {"old.left-behind.vcf"}


def gone(group: int) -> bool:
    """Whether all processes of a group end soon."""
    for _ in range(1000):
        try:
            os.killpg(group, 0)
        except ProcessLookupError:
            return True
        time.sleep(0.01)
    return False
