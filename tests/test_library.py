"""The public face of the package: what it names, what the tour of it shows, what it refuses."""

from __future__ import annotations

import doctest
import inspect
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

import roundcard

ROOT = Path(__file__).parent.parent


def test_all_dir_and_what_is_there_agree() -> None:
    assert dir(roundcard) == sorted(roundcard.__all__)
    assert len(set(roundcard.__all__)) == len(roundcard.__all__)
    for name in roundcard.__all__:
        assert getattr(roundcard, name) is not None
    with pytest.raises(AttributeError, match="no attribute 'nothing'"):
        _ = roundcard.nothing


def test_each_name_has_a_docstring_and_a_word_in_the_tour() -> None:
    tour = (ROOT / "docs" / "library.md").read_text(encoding="utf-8")
    for name in roundcard.__all__:
        found = getattr(roundcard, name)
        if inspect.isclass(found) or inspect.isfunction(found):
            assert inspect.getdoc(found), name
        if inspect.isfunction(found):
            assert f"{name}(" in tour or f"`{name}`" in tour, name


def test_the_examples_run(demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(demo)
    assert doctest.testmod(roundcard) == (0, 3)
    tour = (ROOT / "docs" / "library.md").read_text(encoding="utf-8").replace("```", "\n")
    examples = doctest.DocTestParser().get_doctest(tour, {}, "library.md", None, 0)
    found = doctest.DocTestRunner(verbose=False).run(examples)
    assert found.failed == 0
    assert found.attempted > 20


def test_importing_it_loads_no_room_that_nobody_asked_for() -> None:
    code = "import sys, roundcard; print([m for m in sys.modules if 'roundcard.books' in m])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_the_import_contract_names_every_room() -> None:
    rules = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["tool"]
    contracts = {each["name"]: each for each in rules["importlinter"]["contracts"]}
    silent = set(contracts["The core knows no terminal"]["source_modules"])
    rooms = {f"roundcard.{path.name}" for path in (ROOT / "src" / "roundcard").iterdir()
             if (path / "__init__.py").exists()}  # fmt: skip
    assert silent == rooms - {"roundcard.cli"}
    assert "src/roundcard/cli/**" in rules["ruff"]["lint"]["per-file-ignores"]
    assert {"sys.stdout", "sys.stderr", "sys.stdin", "os.environ"} <= set(
        rules["ruff"]["lint"]["flake8-tidy-imports"]["banned-api"]
    )
