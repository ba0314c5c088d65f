"""What every command prints fits the columns that there are, with its words whole."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from conftest import Run, at_terminal
from roundcard.cli.render.text import columns_of, wrapped

WIDTHS = (60, 80, 120, 200)
STEPS = """
survey ledger.csv skippers.vcf newsletter.csv
preview ledger.csv --record 3 --clean --region GB --layout layouts
layout draft school-visits.csv -o visits.toml --force
layout show visits.toml school-visits.csv
layout show lockside
layout list
layout check layouts/school-visits.toml other.csv
layout match ledger.csv school-visits.csv --layout layouts
convert ledger.csv out.vcf --layout layouts --prove --force
convert twin-waterway.csv out.vcf --force -v
convert skippers.vcf ledger.csv trust.vcf --layout layouts --force
clean trust.vcf clean.vcf --region GB --force
clean --rules
pick skippers.vcf out.vcf --where phone/cell --force
match clean.vcf --region GB --sheet doubles.csv --force
review doubles.csv --list
merge clean.vcf merged.vcf --region GB --force
merge --policy
unmerge merged.vcf merged.merges.jsonl --list
update clean.vcf edited.xlsx updated.vcf --yes --force
destination list
destination show narrow-lock
check merged.vcf --destination narrow-lock --region GB
convert merged.vcf sent.csv --destination narrow-lock --force
compare skippers.vcf skippers-now.vcf
job check move.toml
run move.toml --dry-run
runs list move.toml
settings
help
help convert
help run
convert no-such-file.csv out.vcf
layout show memberhsip-ledger
"""
_PLACE = re.compile(r"\S*[/\\]\S*|\S*\.(toml|csv|vcf|xlsx|jsonl)\S*|https?:\S+")
"""Names of files and field paths, which are never broken, however long."""


def _too_wide(text: str, columns: int) -> list[str]:
    return [line for line in text.splitlines()
            if columns_of(line) > columns < columns_of(_PLACE.sub("", line))]  # fmt: skip


@pytest.fixture
def canal(run: Run, tmp_path: Path) -> Path:
    """The demo data where the commands run, and a table that does not fit."""
    assert run("demo", "canal", "--data-only").code == 0
    for path in (tmp_path / "canal").iterdir():
        path.rename(tmp_path / path.name)
    (tmp_path / "other.csv").write_text("Vorname;Name;Wohnt\nAda;Weir;Withy\n", encoding="utf-8")
    return tmp_path


def test_every_output_fits(run: Run, canal: Path) -> None:
    wide = {}
    for width in WIDTHS:
        for line in STEPS.strip().splitlines():
            if line.startswith("update"):
                run("convert", "clean.vcf", "edited.xlsx", "--to-edit", "--force")
            args = [each if each != "phone/cell" else "phone/cell present" for each in line.split()]
            done = run(*args, env={"COLUMNS": str(width)})
            assert done.code in (0, 1, 3, 4), (line, done.err)
            if done.code in (3, 4):
                continue  # an error is one line, but at a terminal
            if found := _too_wide(f"{done.out}\n{done.err}", width):
                wide[width, line] = found[:3]
    assert wide == {}


def test_errors_are_one_line_in_a_pipe_and_fit_a_terminal(run: Run, canal: Path) -> None:
    done = run("layout", "show", "memberhsip-ledger", env={"COLUMNS": "60"})
    assert done.code == 4
    assert done.err.count("\n") == 1
    shown = at_terminal(canal, [], "convert", "skippers.vcf", "x.vcf", "--to", "vcard-9",
                        "--set", "category=A")  # fmt: skip
    assert "error: " in shown
    assert not _too_wide(shown, 100)


@pytest.mark.parametrize(
    ("line", "room", "wanted"),
    [
        ("a line that fits", 20, ["a line that fits"]),
        ("a line that does not fit", 12, ["a line that", "  does not", "  fit"]),
        ("  indented words go on", 14, ["  indented", "    words go", "    on"]),
        ("label  what is said of it", 16, ["label  what is", "       said of", "       it"]),
        ("a/very/long/path.toml is one word", 12, ["a/very/long/path.toml", "  is one", "  word"]),
        ("\x1b[1mbold words\x1b[0m here", 10, ["\x1b[1mbold words\x1b[0m", "  here"]),
        ("水路協会の名簿", 6, ["水路", "協会", "の名", "簿"]),
        ("", 5, [""]),
    ],
)
def test_words_stay_whole(line: str, room: int, wanted: list[str]) -> None:
    found = wrapped(line, room)
    assert [each.strip() for each in found] == [each.strip() for each in wanted]
    assert "".join(found).replace(" ", "") == line.replace(" ", "")
