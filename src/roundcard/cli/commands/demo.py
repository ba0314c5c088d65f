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
from roundcard.errors import TargetError

EXAMPLES = """[bold]Examples[/bold]

  roundcard demo

  roundcard demo canal --data-only
"""

_NAME = "roundcard-demo"
_FOLDERS = ("layouts", "destinations", "a-month-later")


def demo(
    folder: Annotated[
        Path | None,
        typer.Argument(
            help="A new or empty folder; roundcard-demo by default.", show_default=False
        ),
    ] = None,
    data_only: Annotated[
        bool, typer.Option("--data-only", help="Lay the data out and run nothing.")
    ] = False,
) -> int:
    """Lay out the address books of the Withy Canal Trust and run the whole example on them.

    All of it is made up: a phone's vCards, skippers' cards, three sheets in three languages and a
    list without headings. Each command is shown before its output, ready to be typed again.
    """
    import tomllib
    from importlib import resources

    from roundcard.cli.planning import today

    target = _lay_out(folder)
    if data_only:
        sys.stdout.write(f"the demo data lies in {target}\n")
        return 0
    data = resources.files("roundcard") / "demo" / "steps.toml"
    steps = tomllib.loads(data.read_text(encoding="utf-8"))["step"]
    sys.stdout.write(f"The demo data lies in {target}; the commands run in that folder.\n")
    for number, step in enumerate(steps, 1):
        if "copy" in step:
            _bring(target, number, step)
            continue
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
    sys.stdout.write(_farewell(target))
    return 0


def _bring(target: Path, number: int, step: dict[str, str]) -> None:
    """Put files of a folder in the place of those that they are newer ones of."""
    said = styled(f"{number}. {step['tell']}", "cyan", sys.stdout)
    prompt = styled(f"$ cp {step['copy']}/* .", "bold", sys.stdout)
    sys.stdout.write(f"\n{said}\n{prompt}\n")
    for path in sorted((target / step["copy"]).iterdir()):
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
    tries = (
        f"cd {shlex.quote(str(target))}",
        "roundcard run move.toml --there lockside-holds.csv --dry-run",
        "roundcard layout list",
        "roundcard convert trust.vcf tiny.csv --only 'name/full,phone/cell,category'",
        "roundcard convert twin-waterway.csv - --layout twin-waterway --to vcard-3.0",
        "roundcard convert --help",
    )
    title = styled("What to try next", "bold", sys.stdout)
    written = ("trust.vcf, the whole book as vCard 4.0",
               "for-lockside.csv, the merged book as Lockside takes it",
               "for-lockside.left-behind.vcf, what Lockside has no room for",
               "runs, what the job did: each run's files, lists, balance, and report.html, "
               "a page for a browser")  # fmt: skip
    lines = [f"\n{styled('Where everything lies', 'bold', sys.stdout)}", f"  {target.resolve()}"]
    lines += [f"    {line}" for line in written]
    return "\n".join([*lines, "", title, *(f"  $ {line}" for line in tries)]) + "\n"
