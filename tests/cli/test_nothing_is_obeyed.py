"""What stands in values and names is shown, never obeyed: by a terminal, or by a spreadsheet."""

from __future__ import annotations

import csv
import json
import re
import time
from pathlib import Path

import pytest

from books_in_tests import card
from conftest import Run
from roundcard.cli.render.text import columns_of, cut, visible
from roundcard.formats.sheets import guarded, unguarded

HOSTILE = "Ada \x1b[2J\x1b]0;x\x07We\u202eir\x9b2J\x08\x7f\u2066z"
OBEYED = re.compile(
    r"\x1b(?!\[[0-9;]*m)|[\x00-\x08\x0b\x0c\x0e-\x1a\x1c-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]"
)


@pytest.mark.parametrize(
    "args",
    [
        ("survey", "e.vcf"), ("survey", "e.vcf", "--json"), ("preview", "e.vcf", "--record", "1"),
        ("convert", "e.vcf", "o.vcf", "-v", "--set", f"note={HOSTILE}"),
        ("clean", "e.vcf", "o.vcf"), ("match", "e.vcf"), ("match", "e.vcf", "--json"),
        ("match", "e.vcf", "--explain", "e.vcf:1", "e.vcf:2"), ("merge", "e.vcf", "m.vcf"),
        ("pick", "e.vcf", "p.vcf", "--where", 'name/full contains "Ada"'),
        ("survey", "n.csv"), ("convert", "n.csv", "o.vcf"), ("layout", "draft", "n.csv", "-o", "-"),
        ("convert", f"{HOSTILE}.vcf", "o.vcf"), ("convert", f"none{HOSTILE}", "o.vcf"),
        ("survey", f"{HOSTILE}.vcf"), ("pick", "e.vcf", "p.vcf", "--where", f"{HOSTILE} = 1"),
        ("convert", "e.vcf", "o.vcf", "--to", HOSTILE),
        ("clean", "n.csv", "o.csv", "--layout", "bad.toml"),
    ],
)  # fmt: skip
def test_no_terminal_is_told_what_to_do(run: Run, tmp_path: Path, args: tuple[str, ...]) -> None:
    person = ("TEL:07700900123", "EMAIL:ada@x.test", f"NOTE:{HOSTILE}", f"ORG:{HOSTILE}")
    text = "".join(card(f"FN:{HOSTILE}", *person, version="4.0") for _ in range(2))
    (tmp_path / "e.vcf").write_text(text, "utf-8")
    (tmp_path / f"{HOSTILE}.vcf").write_text(text, "utf-8")
    heading, cell = f"Na{HOSTILE}me", f'"{HOSTILE}"'
    (tmp_path / "n.csv").write_text(f"{heading},E-mail\n{cell},a@x.test\nBo,\n", "utf-8")
    (tmp_path / "bad.toml").write_text(f'name = "x"\n["{HOSTILE}"]\n'.replace("\x1b", ""), "utf-8")
    done = run(*args)
    said = done.out + done.err
    assert said
    assert not OBEYED.search(said), repr(OBEYED.search(said))
    if "--json" in args:
        assert json.loads(done.out)["schema"] in (1, 2)


@pytest.mark.parametrize(
    ("text", "seen"),
    [
        ("a\x1b[2Jb", "a␛[2Jb"), ("a\x1b[31mb\x1b[0m", "a\x1b[31mb\x1b[0m"), ("\x1b[8mx", "␛[8mx"),
        ("a\x9bb", "a‹U+009B›b"), ("a\u202eb", "a‹U+202E›b"), ("\x7f", "␡"), ("a\nb\tc", "a\nb\tc"),
        ("Ärger 運河 a\u200db", "Ärger 運河 a\u200db"),
    ],
)  # fmt: skip
def test_what_would_be_obeyed_is_seen(text: str, seen: str) -> None:
    assert visible(text) == seen


def test_a_long_text_is_cut_in_one_pass() -> None:
    long, most = "é" * 2_000_000, 80
    began = time.process_time()
    for _ in range(20):
        assert columns_of(cut(long, most)) == most
    many = time.process_time() - began
    began = time.process_time()
    for _ in range(20):
        cut("é" * 2_000, most)
    assert many < 100 * (time.process_time() - began) + 1


@pytest.mark.parametrize(
    "cell",
    ["=1+1", "+44 1", "-x", "@a", "\tx", "\rx", "'=1", "''=1", "'t Hart", "plain", "'", ""],
)
def test_a_guard_is_put_on_and_taken_off(cell: str) -> None:
    assert guarded(cell)[:1] not in ("=", "+", "-", "@", "\t", "\r")
    assert unguarded(guarded(cell)) == cell


def formulas(path: Path) -> list[str]:
    """The cells that a spreadsheet program would run."""
    rows = csv.reader(path.read_text("utf-8-sig").splitlines())
    return [cell for row in rows for cell in row if cell[:1] in ("=", "+", "-", "@", "\t", "\r")]


def test_no_sheet_for_people_runs_a_formula(run: Run, tmp_path: Path) -> None:
    lines = ("FN:=1+1", "ORG:@SUM(A1)", "TEL:+44 1632 960001", "EMAIL:ada@x.test", "NOTE:=x  y")
    (tmp_path / "e.vcf").write_text(card(*lines) * 2 + "=left over\n")
    assert run("match", "e.vcf", "--sheet", "s.csv").code == 0
    assert run("clean", "e.vcf", "c.vcf", "--changes", "ch.csv").code == 1
    assert run("pick", "e.vcf", "t.csv", "--tick", "t.csv").code in (0, 2)
    run("survey", "e.vcf", "--unreachable", "u.csv")
    (set_aside,) = tmp_path.glob("*.set-aside.csv")
    made = [tmp_path / "s.csv", tmp_path / "ch.csv", set_aside]
    for path in made:
        assert formulas(path) == []
        assert "'=" in path.read_text("utf-8-sig")
    # and what is guarded is read back as it was
    text = (tmp_path / "ch.csv").read_text()
    refused = re.sub(r"^(.*'=x  y.*),$", r"\1,no", text, flags=re.MULTILINE)
    assert refused != text
    (tmp_path / "ch.csv").write_text(refused)
    assert run("clean", "e.vcf", "d.vcf", "--decisions", "ch.csv").code == 1
    assert "NOTE:=x  y" in (tmp_path / "d.vcf").read_text()
