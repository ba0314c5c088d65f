"""A run that is interrupted or killed at any moment is completed, or abandoned: nothing twice,
nothing lost."""

from __future__ import annotations

import json
import os
import random
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import Run
from jobs_world import HEAD, World

MANY = 400
MOMENTS = 20 if os.environ.get("ROUNDCARD_EXAMPLES") in ("deep", "hunt") else 2
STAGES = [
    "roundcard.jobs.state:State.add_run",
    "roundcard.jobs.gather:Gathering.read",
    "roundcard.jobs.deciding:recognised",
    "roundcard.jobs.missing:Missing.__call__",
    "roundcard.jobs.run:_Running.beside",
    "roundcard.jobs.run:_Running.last_files",
    "roundcard.jobs.state:State.set_run",
    "roundcard.books.transaction:Transaction.commit",
    "roundcard.books.transaction:_rename",
    "roundcard.books.transaction:_finish",
    "roundcard.jobs.run:after_writing",
]
KILLS = """
import importlib, os, signal, sys
which, times, how = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
module, _, name = which.partition(":")
owner = importlib.import_module(module)
*path, last = name.split(".")
for part in path:
    owner = getattr(owner, part)
work = getattr(owner, last)
left = [times]
def killed(*args, **kwargs):
    left[0] -= 1
    if left[0] == 0:
        os.kill(os.getpid(), how)
    return work(*args, **kwargs)
setattr(owner, last, killed)
sys.argv = ["roundcard", "run", "job.toml", "--yes", "-q"]
from roundcard.cli.main import main
main()
"""


def rows(number: int, digit: str = "1") -> list[str]:
    return [HEAD, *(f"{n},Given{n},Family{n},p{n}@example.org,+44 7700 90{digit}{n:03},,Skippers"
                    for n in range(number))]  # fmt: skip


@pytest.fixture
def ready(world: World) -> World:
    """A job that ran once and is confirmed, with sources that changed since."""
    world.book("list.csv", rows(6))
    world.job("[again]\nblind = true\n")
    world.run()
    world.imports()
    world.book("list.csv", rows(8, "2"))
    return world


def understood(world: World, before: list[str]) -> None:
    """The next command knows what was left, and in the end each person is delivered once."""
    listed = json.loads(world.roundcard("runs", "job.toml", "--json").out)
    statuses = [each["status"] for each in listed["runs"]]
    assert set(statuses[1:]) <= {"pending"}
    if len(statuses) == 1:
        assert world.run(there=False)["delivered"] == 8
        listed = json.loads(world.roundcard("runs", "job.toml", "--json").out)
    assert [each["status"] for each in listed["runs"]] == ["confirmed", "pending"]
    outbox = world.last / "outbox" / "for-cards.vcf"
    text = outbox.read_text()
    assert text.count("BEGIN:VCARD") == text.count("\nUID:") == 8
    left = sorted(each.name for each in (world.folder / "runs").rglob("*") if not each.is_dir())
    assert not [name for name in left if name.startswith(".")]
    folders = [each.name for each in (world.folder / "runs").iterdir() if each.is_dir()]
    assert len(folders) == len(before) + 1
    manifest = json.loads((world.last / "manifest.json").read_text())
    assert all((world.last / name).is_file() for name in manifest["files"])
    world.imports()
    assert world.run(there=False)["ended"] == "nothing"
    listed = json.loads(world.roundcard("runs", "job.toml", "--json").out)
    assert listed["people"] == 8


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGINT], ids=["killed", "interrupted"])
@pytest.mark.parametrize("stage", STAGES, ids=[each.rpartition(".")[2] for each in STAGES])
def test_at_every_stage(ready: World, stage: str, how: signal.Signals) -> None:
    before = [each.name for each in (ready.folder / "runs").iterdir() if each.is_dir()]
    times = 3 if stage.endswith("_rename") else 1
    done = subprocess.run(
        [sys.executable, "-c", KILLS, stage, str(times), str(int(how))], cwd=ready.folder,
        capture_output=True, check=False,
        env=os.environ | {"ROUNDCARD_HOME": str(ready.folder / "home")},
    )  # fmt: skip
    assert done.returncode in (-signal.SIGKILL, 130, 0), done.stderr
    assert b"Traceback" not in done.stderr
    understood(ready, before)


@pytest.mark.hypothesis
@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGINT], ids=["killed", "interrupted"])
def test_at_random_moments(ready: World, how: signal.Signals, run: Run, tmp_path: Path) -> None:
    command = [sys.executable, "-m", "roundcard", "run", "job.toml", "--yes", "-q"]
    env = os.environ | {"ROUNDCARD_HOME": str(ready.folder / "home")}
    copy = tmp_path / "copy"
    chance = random.Random(int(how))
    spare = tmp_path / "spare"
    shutil.copytree(ready.folder, spare, ignore=lambda *_: {"spare", "copy"})
    began = time.monotonic()
    subprocess.run(command, cwd=spare, env=env, check=True)
    whole = time.monotonic() - began
    for _ in range(MOMENTS):
        shutil.copytree(ready.folder, copy, ignore=lambda *_: {"spare", "copy"})
        world = World.__new__(World)
        world.folder, world._run, world.service = copy, run, copy / "service"
        before = [each.name for each in (copy / "runs").iterdir() if each.is_dir()]
        process = subprocess.Popen(command, cwd=copy, env=env, stderr=subprocess.DEVNULL)
        time.sleep(chance.uniform(whole * 0.2, whole * 1.05))
        process.send_signal(how)
        process.wait()
        understood(world, before)
        shutil.rmtree(copy)
