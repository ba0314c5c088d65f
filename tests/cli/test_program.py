"""Each command and each main use of it as its users have it: the program, a process, files."""

from __future__ import annotations

import re
import shlex
from pathlib import Path
from typing import NamedTuple

import pytest

from conftest import Run


class Use(NamedTuple):
    """One run of the program."""

    command: str
    shows: str
    """An expression that is found in what it says."""
    makes: str = ""
    """The files that are there afterwards and were not before."""
    code: int = 0
    stdin: str = ""
    """The file that is piped into it."""


BALANCED = r"balance +0 +0"

JOURNEYS = {
    "looking": [
        Use("--version", r"^roundcard \d+\.\d+"),
        Use("survey ledger.csv", "can be reached by: e-mail 59"),
        Use("survey ledger.csv skippers.vcf --json", '"people": 73'),
        Use("survey newsletter.csv --unreachable ask.csv", "newsletter", "ask.csv"),
        Use("survey ledger.csv --figure ledger.png", "ledger.csv", "ledger.png"),
        Use("preview ledger.csv --record 3", "record 3"),
        Use("preview newsletter.csv --record 2 --clean", "record 2"),
        Use("preview -", r"record 1\b", stdin="newsletter.csv"),
    ],
    "layouts": [
        Use("layout draft ledger.csv -o own.toml", "own.toml", "own.toml"),
        Use("layout check own.toml ledger.csv", "ledger.csv: fits"),
        Use("layout keep own.toml", "own", "home/layouts/own.toml"),
        Use("layout list", "own"),
        Use("layout show own", "Phones"),
        Use("convert ledger.csv x.vcf --layout own", BALANCED, "x.vcf"),
    ],
    "converting": [
        Use(
            "convert ledger.csv ledger.vcf --layout membership-ledger --prove",
            "proved",
            "ledger.vcf",
        ),
        Use("convert ledger.vcf there.csv --to-layout membership-ledger", BALANCED, "there.csv"),
        Use("convert skippers.vcf s.csv", BALANCED, "s.csv s.photos"),
        Use("convert skippers.vcf t.xlsx", BALANCED, "t.xlsx t.photos"),
        Use("convert skippers.vcf s.json", BALANCED, "s.json"),
        Use("convert s.json old.vcf --to vcard-2.1", BALANCED, "old.vcf"),
        Use("convert skippers.vcf --split-into folder", BALANCED, "folder"),
        Use("convert - - --from csv --to vcard-3.0 -q", "^BEGIN:VCARD", stdin="newsletter.csv"),
        Use("convert newsletter.csv - --to csv --json", '"schema": 3'),
        Use("convert newsletter.csv n.vcf --dry-run", "would be written|dry run"),
        Use(
            "convert skippers.vcf lean.csv --only name/full,email --set note=x",
            BALANCED,
            "lean.csv",
        ),
    ],
    "cleaning": [
        Use("clean --rules", "phone-form"),
        Use(
            "clean newsletter.csv clean.csv --changes changes.csv",
            BALANCED,
            "clean.csv changes.csv",
        ),
        Use("clean newsletter.csv again.csv --decisions changes.csv", BALANCED, "again.csv"),
        Use(
            "clean ledger.csv l.csv --layout membership-ledger --region GB --dry-run", "phone-form"
        ),
        Use("clean skippers.vcf c.vcf --rule phone-form --region GB", BALANCED, "c.vcf"),
        Use(
            "convert ledger.csv d.vcf --layout membership-ledger --clean --region GB",
            BALANCED,
            "d.vcf",
        ),
    ],
    "picking": [
        Use(
            "pick skippers.vcf on.vcf --where 'email present' --rest off.vcf",
            BALANCED,
            "on.vcf off.vcf",
        ),
        Use("pick skippers.vcf some.vcf --sample 5", r"some.vcf: 5 people", "some.vcf"),
        Use("pick skippers.vcf who.xlsx --tick people.xlsx", "people.xlsx", "people.xlsx"),
        Use("pick skippers.vcf f.vcf --find Lockham", BALANCED, "f.vcf"),
        Use("pick skippers.vcf g.vcf --category Skippers", BALANCED, "g.vcf"),
    ],
    "the same person": [
        Use(
            "match skippers.vcf skippers-now.vcf --region GB --sheet d.csv --figure d.png",
            "same",
            "d.csv d.png",
        ),
        Use(
            "match skippers.vcf skippers-now.vcf --explain skippers.vcf:1 skippers-now.vcf:1", r"\d"
        ),
        Use("review d.csv --list", "questions"),
        Use("review d.csv", "needs a terminal", code=2),
        Use(
            "merge skippers.vcf skippers-now.vcf m.vcf --sheet d.csv --region GB",
            BALANCED,
            "m.vcf m.merges.jsonl",
        ),
        Use(
            "unmerge m.vcf m.merges.jsonl apart.vcf --all",
            BALANCED,
            "apart.vcf roundcard-decisions.jsonl",
        ),
        Use(
            "merge newsletter.csv all.vcf --into skippers.vcf --existing update",
            BALANCED,
            "all.vcf all.merges.jsonl",
        ),
    ],
    "editing": [
        Use("convert skippers.vcf e.xlsx --to-edit", "e.xlsx", "e.xlsx"),
        Use("update skippers.vcf e.xlsx out.vcf --dry-run", "nothing was edited"),
        Use("update skippers.vcf e.xlsx out.vcf --yes", BALANCED, "out.vcf"),
    ],
    "refusing": [
        Use("convert nosuch.csv x.vcf", "^error: nosuch.csv: file not found$", code=3),
        Use(
            "survey leger.csv",
            "^error: leger.csv: file not found; did you mean 'ledger.csv'",
            code=3,
        ),
        Use("survey nowhere/ledger.csv", "^error: nowhere/ledger.csv: file not found$", code=3),
        Use("convert ledger.csv ledger.csv --force", "^error: ", code=5),
        Use("convert ledger.csv x.vcf --layout nosuch", "^error: 'nosuch' is neither", code=4),
        Use("convert ledger.csv", "^error: missing arguments", code=2),
        Use("convert ledger.csv x.qqq", "^error: cannot tell the format", code=2),
        Use("pick skippers.vcf x.vcf --where 'email presnt'", "^error: ", code=4),
        Use("merge skippers.vcf x.vcf --sheet nosuch.csv", "^error: ", code=3),
        Use("clean newsletter.csv x.csv --rule nosuch", "^error: ", code=2),
    ],
}


@pytest.mark.parametrize("uses", JOURNEYS.values(), ids=JOURNEYS.keys())
def test_the_program_as_its_users_have_it(program: Run, demo: Path, uses: list[Use]) -> None:
    there = _files(demo)
    for use in uses:
        stdin = (demo / use.stdin).read_bytes() if use.stdin else b""
        done = program(*shlex.split(use.command), cwd=demo, stdin=stdin)
        said = f"{use.command}\n{done.out[-2000:]}\n{done.err[-2000:]}"
        assert done.code == use.code, said
        assert re.search(use.shows, done.err + done.out, re.MULTILINE | re.IGNORECASE), said
        now = _files(demo)
        made = {path for path in now - there if "left-behind" not in path}
        wanted = set(use.makes.split())
        assert made == wanted, said
        there = now


def _files(folder: Path) -> set[str]:
    """What stands in the folder, and the user's layouts."""
    found = {path.name for path in folder.iterdir()}
    kept = folder.parent / "home" / "layouts"
    return found | {f"home/layouts/{path.name}" for path in kept.glob("*.toml")}


def test_help_of_a_command_and_panels(run: Run) -> None:
    whole = run("help")
    assert "The whole way" in whole.out
    page = run("help", "convert")
    assert page.out == run("convert", "--help").out
    for panel in ("Reading", "Writing", "Report"):
        assert f"─ {panel} ─" in page.out
    assert page.out.count("<bool>") <= 1  # the help option's own
    assert run("help", "layout", "draft").code == 0
    refused = run("help", "layout", "drft")
    assert (refused.code, "did you mean 'draft'" in refused.err) == (2, True)
