"""``roundcard match`` as its users run it."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import openpyxl
import pytest

from conftest import Run

BOOKS = ("coordinator-phone.vcf", "skippers.vcf", "skippers-now.vcf", "ledger.csv",
         "newsletter.csv", "school-visits.csv", "twin-waterway.csv")  # fmt: skip
HEADINGS = ["group", "verdict", "score", "reasons", "decision", "source", "record", "name", "email",
            "phone", "organisation", "address", "birthday"]  # fmt: skip


def test_the_doubles_of_the_demo(run: Run, demo: Path) -> None:
    args = ("match", *BOOKS, "--layout", "layouts", "--region", "GB")
    done = run(*args, "--sheet", "s.csv", cwd=demo)
    assert done.code == 0, done.err
    assert "292 contacts" in done.out
    assert "same e-mail address, which tells the name" in done.out
    rows = list(csv.DictReader((demo / "s.csv").read_text("utf-8-sig").splitlines()))
    assert list(rows[0]) == HEADINGS
    groups: dict[str, set[str]] = {}
    for row in rows:
        if row["verdict"] in ("lead", "same"):
            groups.setdefault(row["group"], set()).add(row["name"].casefold())
    together = list(groups.values())
    assert {"thomas gatepaddle senior", "gatepaddle, thomas sen."} in together
    assert any({"john weirside"} <= names for names in together)
    for names in together:  # no family is merged
        given = {name.split()[0] for name in names}
        assert not {"bob", "robert"} & given or not {"peggy", "margaret"} & given
        assert not any("senior" in name for name in names) or not any(
            "junior" in name for name in names
        )
    asked = [row["name"] for row in rows if row["verdict"] == "ask"]
    assert "Linus Coppersluice" in asked
    assert "Bob & Peggy Poundstone" not in [*asked, *(row["name"] for row in rows)]
    machine = json.loads(run(*args, "--json", cwd=demo).out)
    assert machine["schema"] == 2
    assert len(machine["rows"]) == len(rows)
    assert machine["people"] + machine["doubles"] == 292
    again = run(*args, "--sheet", "t.csv", "--quiet", cwd=demo)
    assert (again.code, again.out) == (0, "")
    assert (demo / "s.csv").read_bytes() == (demo / "t.csv").read_bytes()


def test_two_records_are_explained(run: Run, demo: Path) -> None:
    args = ("match", "skippers.vcf", "skippers-now.vcf", "--region", "GB", "--explain")
    done = run(*args, "skippers.vcf:22", "skippers-now.vcf:9", cwd=demo)
    assert done.code == 0, done.err
    assert "in all; the same from 13, asked from 6" in done.out
    assert run(*args, "skippers.vcf:99", "skippers.vcf:1", cwd=demo).code == 2
    assert run(*args, "ledger.csv:1", "skippers.vcf:1", cwd=demo).code == 2


def test_a_sheet_may_be_a_workbook_and_replaces_nothing(run: Run, demo: Path) -> None:
    args = ("match", "skippers.vcf", "skippers-now.vcf", "--sheet")
    assert run(*args, "s.xlsx", cwd=demo).code == 0
    sheet = openpyxl.load_workbook(demo / "s.xlsx").worksheets[0]
    assert [cell.value for cell in sheet[1]] == HEADINGS
    assert run(*args, "s.xlsx", cwd=demo).code == 5
    assert run(*args, "skippers.vcf", "--force", cwd=demo).code == 5
    assert run("match", "skippers.vcf", "--ask", "20", cwd=demo).code == 2
    assert run("match", "none.vcf", cwd=demo).code == 3


@pytest.mark.parametrize(
    ("given", "family", "whole"),
    [
        ("Dr. Edda", "Tarnside", "Edda Tarnside"),
        ("Mrs Edda", "Tarnside", "Edda Tarnside"),
        ("Edda", "Tarnside MBE", "Edda Tarnside"),
        ("Prof. Dr. Edda", "Tarnside", "Edda Tarnside"),
    ],
)
def test_titles_in_the_column_of_a_name_are_no_names(
    given: str, family: str, whole: str, run: Run, tmp_path: Path
) -> None:
    text = f"First,Last,Mobile\n{given},{family},+44 7700 900104\n"
    (tmp_path / "a.csv").write_text(text, encoding="utf-8")
    (tmp_path / "b.csv").write_text(f"Name,Mobile\n{whole},07700900104\n", encoding="utf-8")
    told = json.loads(run("match", "a.csv", "b.csv", "--region", "GB", "--json").out)
    assert (told["doubles"], told["to_ask"]) == (1, 0)


def test_a_given_name_that_is_a_title_elsewhere_stays(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("First,Last,Mobile\nEarl,Weir,07700900104\n", encoding="utf-8")
    (tmp_path / "b.csv").write_text("First,Last,Mobile\nDean,Weir,07700900104\n", encoding="utf-8")
    told = json.loads(run("match", "a.csv", "b.csv", "--region", "GB", "--json").out)
    assert told["doubles"] == 0


def _told(run: Run, tmp_path: Path, left: str, right: str) -> str:
    (tmp_path / "a.csv").write_text(left, encoding="utf-8")
    (tmp_path / "b.csv").write_text(right, encoding="utf-8")
    done = run("match", "a.csv", "b.csv", "--region", "GB", "--explain", "a.csv:1", "b.csv:1")
    assert done.code == 0, done.err
    return done.out


def test_that_nothing_differs_is_a_reason(run: Run, tmp_path: Path) -> None:
    name = "First,Last,Mobile,Mail\nAda,Weir,07700900104,"
    assert "+1.0  nothing differs" in _told(run, tmp_path, f"{name}\n", f"{name}ada@example.org\n")
    told = _told(run, tmp_path, f"{name}a.weir@example.net\n", f"{name}ada@example.org\n")
    assert "e-mail addresses differ" in told
    assert "nothing differs" not in told


def test_a_name_that_hardly_anybody_bears_has_more(run: Run, tmp_path: Path) -> None:
    others = "".join(f"{given},{family},,{given}.{family}@example.org\n".lower().title()
                     for given in ("Ada", "Bram", "Cleo", "Dirk", "Edda")
                     for family in ("Weir", "Lock", "Sluice", "Towpath"))  # fmt: skip
    head = "First,Last,Mobile,Mail\n"
    mine = f"{head}Ottoline,Quern,07700900104,\n{others}"
    told = _told(run, tmp_path, mine, f"{head}Ottoline,Quern,,o@example.net\n")
    assert "+2.0  hardly anybody else bears the name" in told
    many = "".join(f"Ottoline,Quern,,o{n}@example.net\n" for n in range(4))
    assert "hardly anybody" not in _told(run, tmp_path, mine, f"{head}{many}")


def test_one_name_at_one_workplace_is_a_question(run: Run, tmp_path: Path) -> None:
    head = "First,Last,Company,Office phone,Mail\n"
    desk = "Lock & Quay Ltd,01632 960500"
    left = f"{head}Ada,Weir,{desk},ada.weir@example.org\nBo,Lock,{desk},bo@example.org\n"
    right = f"{head}Ada,Weir,{desk},aweir2@example.org\nCy,Quern,{desk},cy@example.org\n"
    told = _told(run, tmp_path, left, right)
    said = " ".join(told.split())
    assert "one name at one workplace, and each has a number or address of their own" in said
