"""The catalogue of commands: what it says is what the commands say, and it loads none of them."""

from __future__ import annotations

import inspect
import re
import subprocess
import sys
from importlib import import_module
from pathlib import Path

import pytest

from conftest import Run
from roundcard.cli import catalog, commands
from roundcard.cli.described import described

MODULES = {path.stem for path in Path(commands.__file__).parent.glob("[!_]*.py")}


def test_every_command_is_in_the_catalogue() -> None:
    assert set(catalog.SUMMARIES) == MODULES


@pytest.mark.parametrize("name", sorted(MODULES))
def test_a_summary_is_what_the_command_says_of_itself(name: str) -> None:
    module = import_module(f"roundcard.cli.commands.{name}")
    if hasattr(module, "app"):
        said = module.app.info.help
    else:
        said = " ".join((inspect.getdoc(getattr(module, name)) or "").split("\n\n")[0].split())
    assert said == catalog.SUMMARIES[name]


def test_no_help_page_shows_a_type_of_the_language(run: Run) -> None:
    for each in described():
        shown = run(*each.name.split(), "--help").out
        assert "Usage: " in shown
        assert not re.search(r"<[a-z]+[\[>]|\{[A-Z]", shown), each.name


def test_help_and_one_command_load_no_other() -> None:
    code = (
        "import sys\nsys.argv = ['roundcard', *{arguments!r}]\n"
        "from roundcard.cli.main import main\n"
        "try:\n    main()\nexcept SystemExit:\n    pass\n"
        "print(*sorted(n for n in sys.modules if n.startswith('roundcard.cli.commands.')),"
        " file=sys.stderr)"
    )
    for arguments, loaded in (
        (["--help"], ""),
        (["layout", "--help"], "roundcard.cli.commands.layout"),
        (["help", "pick"], "roundcard.cli.commands.help roundcard.cli.commands.pick"),
    ):
        done = subprocess.run(
            [sys.executable, "-c", code.format(arguments=arguments)],
            capture_output=True, text=True, check=True,
        )  # fmt: skip
        assert done.stderr.strip() == loaded
