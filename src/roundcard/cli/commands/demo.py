"""``roundcard demo``: the made-up address books, and the whole way on them."""

from __future__ import annotations

import os
import shlex
import subprocess
import sys
from pathlib import Path
from typing import Annotated

import typer

from roundcard.cli.render.text import styled
from roundcard.errors import TargetError, UsageError

EXAMPLES = """[bold]Examples[/bold]

  roundcard demo

  roundcard demo canal --pace

  roundcard demo canal --data-only
"""

_NAME = "roundcard-demo"
_FOLDERS = ("layouts", "destinations", "a-month-later")


def demo(
    folder: Annotated[
        Path | None,
        typer.Argument(
            metavar="[FOLDER]",
            help="A new or empty folder; roundcard-demo by default.",
            show_default=False,
        ),
    ] = None,
    data_only: Annotated[
        bool, typer.Option("--data-only", help="Lay the data out and run nothing.")
    ] = False,
    pace: Annotated[bool, typer.Option("--pace", help="Wait for Enter before each step.")] = False,
) -> int:
    """Lay out the address books of the Withy Canal Trust and run the whole example on them.

    All of it is made up: a phone's vCards, skippers' cards, three sheets in three languages and a
    list without headings. Each command is shown before its output, ready to be typed again.
    """
    import tomllib
    from importlib import resources

    from roundcard.cli.planning import today

    if pace and not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise UsageError("--pace waits for a key, and needs a terminal")
    target = _lay_out(folder)
    if data_only:
        sys.stdout.write(f"the demo data lies in {target}\n")
        return 0
    data = resources.files("roundcard") / "demo" / "steps.toml"
    steps = tomllib.loads(data.read_text(encoding="utf-8"))["step"]
    sys.stdout.write(f"The demo data lies in {target}; the commands run in that folder.\n")
    for number, step in enumerate(steps, 1):
        if pace and not _goes_on(number, len(steps)):
            sys.stdout.write(f"what was made so far lies in {target.resolve()}\n")
            return 0
        step["run"] = [each.replace("{today}", today().isoformat()) for each in step["run"]]
        command = shlex.join(["roundcard", *step["run"]])
        said = styled(f"{number}. {step['tell']}", "cyan", sys.stdout)
        prompt = styled(f"$ {command}", "bold", sys.stdout)
        sys.stdout.write(f"\n{said}\n{prompt}\n")
        sys.stdout.flush()
        done = subprocess.run(
            [sys.executable, "-m", "roundcard", *step["run"]],
            cwd=target,
            check=False,
            stdin=subprocess.DEVNULL,
            stderr=None if sys.stdout.isatty() and sys.stderr.isatty() else subprocess.STDOUT,
            env=os.environ | {"PYTHONPATH": os.pathsep.join(filter(None, sys.path))},
        )
        if done.returncode != step.get("exit", 0):
            sys.stdout.write(f"(exit code {done.returncode})\n")
            return done.returncode
        if "copy" in step:
            _bring(target, step["copy"])
    sys.stdout.write(_farewell(target))
    return 0


def _goes_on(number: int, steps: int) -> bool:
    """Wait for a key; whether the demo goes on."""
    sys.stdout.write(f"\nstep {number} of {steps}: Enter goes on, q leaves ")
    sys.stdout.flush()
    said = sys.stdin.readline()
    return bool(said) and said.strip().lower() not in ("q", "quit")


def _bring(target: Path, folder: str) -> None:
    """Put files of a folder in the place of those that they are newer ones of."""
    prompt = styled(f"$ cp {folder}/* .", "bold", sys.stdout)
    sys.stdout.write(f"{prompt}\n")
    for path in sorted((target / folder).iterdir()):
        (target / path.name).write_bytes(path.read_bytes())


def _lay_out(folder: Path | None) -> Path:
    """Copy the data into a folder that holds nothing yet."""
    target = folder or _free()
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise TargetError(f"{target} already exists and is not empty; choose a new folder")
    from importlib import resources

    source = resources.files("roundcard") / "demo"
    try:
        (target / "layouts").mkdir(parents=True, exist_ok=True)
        for inner in _FOLDERS:
            (target / inner).mkdir(exist_ok=True)
        for inner in ("", *_FOLDERS):
            for item in (source / inner).iterdir() if inner else source.iterdir():
                if item.is_file() and item.name != "steps.toml":
                    (target / inner / item.name).write_bytes(item.read_bytes())
    except OSError as error:
        raise TargetError(f"{target}: cannot be written: {error.strerror}") from None
    return target


def _free() -> Path:
    """A folder name beside the caller that is not taken."""
    path, number = Path(_NAME), 2
    while path.exists():
        path, number = Path(f"{_NAME}-{number}"), number + 1
    return path


def _farewell(target: Path) -> str:
    from roundcard.cli.planning import today

    tries = (
        f"cd {shlex.quote(str(target))}",
        "roundcard review doubles.csv",
        "roundcard convert trust-checked.vcf for-lockside.csv --destination lockside --prove",
        "roundcard convert ledger.csv to-edit.xlsx --layout layouts --to-edit",
        "roundcard settings region=GB",
        "roundcard help",
    )
    title = styled("What to try next", "bold", sys.stdout)
    run = f"runs/{today().isoformat()}"
    written = (f"{run}-1/report.html, a page for a browser: what was moved, merged, left behind",
               f"{run}-1/outbox, what Lockside imports, and {run}-2/outbox, what came new since",
               "trust-checked.vcf, the book as cards: cleaned, merged, one merge taken back",
               "doubles.csv and changes.csv, what is left for people to decide")  # fmt: skip
    lines = [f"\n{styled('Where everything lies', 'bold', sys.stdout)}", f"  {target.resolve()}"]
    lines += [f"    {line}" for line in written]
    return "\n".join([*lines, "", title, *(f"  $ {line}" for line in tries)]) + "\n"
