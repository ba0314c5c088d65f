"""What Tab offers, and the manual page: both made of what the commands say of themselves."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import Run
from roundcard.cli.completion import COMPILED
from roundcard.cli.described import compiled, man_page

DOCS = Path(__file__).parents[2] / "docs"


def test_what_is_compiled_is_as_the_commands_are() -> None:
    # what is stale is made anew by scripts/compile-commands
    assert json.loads(COMPILED.read_text(encoding="utf-8")) == json.loads(json.dumps(compiled()))
    assert (DOCS / "man" / "roundcard.1").read_text(encoding="utf-8") == man_page()


CASES = """
roundcard con               > convert
roundcard un                > undo unmerge
roundcard layout m          > match
roundcard runs c            > confirm
roundcard help layout dr    > draft
roundcard help unm          > unmerge
roundcard convert --to-     > --to-layout --to-edit
roundcard --v               > --version
roundcard convert a.csv b.vcf --layout mem        > membership-ledger
roundcard convert a.csv b.vcf --layout=mem        > --layout=membership-ledger
roundcard convert a.csv b.vcf --to-layout own     > own-layout
roundcard check a.csv --destination nar           > narrow-lock
roundcard destination show lock                   > lockside
roundcard layout show news                        > newsletter
roundcard convert a.vcf b.csv --only name/gi      > name/given
roundcard convert a.vcf b.csv --only email,name/gi > email,name/given
roundcard pick a.vcf b.vcf --where birthday/y     > birthday/year
roundcard convert a.vcf b.vcf --set category      > category=
roundcard convert a.vcf b --to vcard-3            > vcard-3.0
roundcard clean a.vcf b.vcf --no-rule name-sp     > name-split
roundcard merge a.vcf b.vcf --existing l          > leave
roundcard clean a.vcf b.vcf --names f             > family-first
roundcard settings reg                            > region=
roundcard settings region=GB na                   > names=
roundcard convert a.v                             >
roundcard convert a.vcf b.vcf --rules-file r      >
roundcard convert --quiet led                     >
roundcard nonsense x                              >
roundcard convert a.vcf 'b                        >
"""


@pytest.mark.parametrize("line", [each for each in CASES.strip().splitlines() if ">" in each])
def test_what_is_offered(line: str, program: Run, tmp_path: Path) -> None:
    own = tmp_path / "home" / "layouts"
    own.mkdir(parents=True)
    (own / "own-layout.toml").write_text('name = "own-layout"\n', encoding="utf-8")
    typed, _, wanted = (part.strip() for part in line.partition(">"))
    asked = {"_ROUNDCARD_COMPLETE": "complete_bash", "COMP_WORDS": typed,
             "COMP_CWORD": str(len(typed.split()) - 1)}  # fmt: skip
    done = program(env=asked)
    assert (done.code, done.err) == (0, "")
    assert sorted(done.out.split()) == sorted(wanted.split())


@pytest.mark.parametrize("at", ["x", "", "99", "-1"])
def test_a_cursor_that_is_nowhere_is_at_the_end(at: str, program: Run) -> None:
    asked = {
        "_ROUNDCARD_COMPLETE": "complete_bash",
        "COMP_WORDS": "roundcard runs",
        "COMP_CWORD": at,
    }
    done = program(env=asked)
    assert (done.code, done.err) == (0, "")
    assert "confirm" in done.out.split()


def test_every_shell_is_answered_as_its_script_asks(program: Run) -> None:
    typed = {"_TYPER_COMPLETE_ARGS": "roundcard comp"}
    zsh = program(env=typed | {"_ROUNDCARD_COMPLETE": "complete_zsh"})
    assert zsh.out.startswith('_arguments \'*: :(("compare":"Compare two books\\:')
    none = {"_TYPER_COMPLETE_ARGS": "roundcard convert x"}
    assert program(env=none | {"_ROUNDCARD_COMPLETE": "complete_zsh"}).out == "_files\n"
    fish = {"_ROUNDCARD_COMPLETE": "complete_fish", "_TYPER_COMPLETE_FISH_ACTION": "get-args"}
    assert program(env=typed | fish).out.startswith("compare\tCompare two books")
    fish["_TYPER_COMPLETE_FISH_ACTION"] = "is-args"
    assert program(env=typed | fish).code == 0
    assert program(env=none | fish).code == 1


def test_a_tab_loads_no_command_and_no_library() -> None:
    code = (
        "import os, sys\n"
        "os.environ |= {'_ROUNDCARD_COMPLETE': 'complete_bash', 'COMP_CWORD': '4',"
        " 'COMP_WORDS': 'roundcard convert a.csv --layout l'}\n"
        "from roundcard.cli.entry import main\nmain()\n"
        "print([n for n in sys.modules if n.startswith(('typer', 'rich', 'pydantic', 'babel',"
        " 'roundcard.layouts', 'roundcard.formats', 'roundcard.cli.commands'))], file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout == "lockside\n"
    assert done.stderr == "[]\n"


def test_the_manual_page_has_every_command(run: Run) -> None:
    page = run("help", "--man").out
    for name in compiled()["commands"]:
        assert f"\n.B roundcard {name}" in page
    groff = shutil.which("groff")
    if groff:
        done = subprocess.run([groff, "-man", "-ww", "-Tutf8", "-"], input=page, text=True,
                              capture_output=True, check=True)  # fmt: skip
        assert done.stderr == ""
