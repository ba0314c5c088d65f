"""``roundcard survey`` and ``roundcard preview`` as their users run them."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import pytest
from PIL import Image

from conftest import Run, at_terminal

SIX = ["coordinator-phone.vcf", "skippers.vcf", "skippers-now.vcf", "ledger.csv", "newsletter.csv",
       "school-visits.csv", "twin-waterway.csv"]  # fmt: skip


def test_the_demo_is_surveyed(run: Run, demo: Path) -> None:
    done = run("survey", *SIX, cwd=demo)
    assert done.code == 0, done.err
    for said in (
        "ledger.csv: CSV, windows-1252",
        "73 people, 3 blank records",
        "no headings",
        "mixed phone styles",
        "can be reached by:",
    ):
        assert said in done.out
    last = done.out.splitlines()[-1]
    assert last.split()[0] == "all"
    assert not list(demo.glob("*.png"))


def test_a_survey_for_machines(run: Run, demo: Path) -> None:
    told = json.loads(run("survey", "ledger.csv", "skippers.vcf", "--json", cwd=demo).out)
    assert told["schema"] == 1
    table, cards = told["files"]
    assert (table["people"], table["blank"], table["separator"]) == (73, 3, "semicolon")
    columns = {column["name"]: column for column in table["columns"]}
    assert columns["E-mail"]["holds"] == "email"
    assert columns["Telex"]["filled"] == 0
    assert columns["State"]["usual"][0] == {"value": "A", "count": 51}
    assert sum(columns["Phones"]["kinds"].values()) == pytest.approx(1, abs=0.01)
    assert cards["format"] == "vCard 3.0"
    assert cards["reach"]["people"] == 32


def test_who_cannot_be_reached_is_listed(run: Run, demo: Path) -> None:
    args = ("survey", "ledger.csv", "newsletter.csv", "--unreachable", "to-ask.csv")
    assert run(*args, cwd=demo).code == 0
    with (demo / "to-ask.csv").open(newline="", encoding="utf-8") as stream:
        rows = list(csv.DictReader(stream))
    assert {row["source"] for row in rows} == {"ledger.csv", "newsletter.csv"}
    assert all("no" in (row["e-mail"], row["phone"], row["address"]) for row in rows)
    assert sum(row["phone"] == "no" for row in rows if row["source"] == "newsletter.csv") == 50
    again = run(*args, cwd=demo)
    assert (again.code, "already exists" in again.err) == (5, True)
    assert run(*args, "--force", cwd=demo).code == 0


def test_a_figure_is_drawn(run: Run, demo: Path) -> None:
    done = run("survey", "ledger.csv", "skippers.vcf", "--figure", "f.png", cwd=demo)
    assert done.code == 0, done.err
    with Image.open(demo / "f.png") as picture:
        assert picture.size[0] > 1000
        assert len(picture.convert("RGB").getcolors(1 << 20) or ()) > 20
    assert run("survey", "ledger.csv", "--figure", "f.png", cwd=demo).code == 5
    assert run("survey", "ledger.csv", "--figure", "f.txt", cwd=demo).code == 5
    assert run("survey", "ledger.csv", "--figure", "f.svg", cwd=demo).code == 0


def test_a_kept_layout_is_taken_and_said(run: Run, demo: Path) -> None:
    assert run("layout", "keep", "layouts/membership-ledger.toml", cwd=demo).code == 0
    said = "layout 'membership-ledger' (kept, fits 100 %)"
    assert said in run("survey", "ledger.csv", cwd=demo).out
    assert said in run("convert", "ledger.csv", "l.vcf", cwd=demo).err
    assert "layout drafted" in run("survey", "school-visits.csv", cwd=demo).out


def test_forty_files_of_one_layout_in_one_command(run: Run, demo: Path) -> None:
    assert run("layout", "keep", "layouts/membership-ledger.toml", cwd=demo).code == 0
    folder = demo / "books"
    folder.mkdir()
    lines = (demo / "ledger.csv").read_bytes().splitlines(keepends=True)
    for number in range(40):
        (folder / f"{number:02}.csv").write_bytes(b"".join([lines[0], lines[number + 1]]))
    done = run("convert", folder, "all.vcf", "--json", cwd=demo)
    told = json.loads(done.out)
    assert {source["layout"] for source in told["sources"]} == {"membership-ledger"}
    assert len(told["sources"]) == 40
    assert told["people"]["written"] + told["people"]["blank"] == 40
    assert (
        "books: 40 files, CSV, layout 'membership-ledger'"
        in run("convert", "books", "again.vcf", cwd=demo).err
    )


def test_nothing_to_survey_is_said(run: Run, tmp_path: Path) -> None:
    (tmp_path / "folder").mkdir()
    assert run("survey", "folder").code == 3
    assert run("survey", "no.csv").code == 3
    assert run("survey").code == 2
    (tmp_path / "z.csv").write_text("Zib,Wob\nAx,bo\n", encoding="utf-8")
    done = run("survey", "z.csv")  # looking needs no understanding
    assert (done.code, "custom/Zib" in done.out) == (0, True)


def test_one_record_is_printed(run: Run, demo: Path) -> None:
    done = run("preview", "ledger.csv", "--record", "3", cwd=demo)
    assert done.code == 0
    assert "ledger.csv, record 3  line 4  Tom Gatepaddle jun." in done.out
    assert "03/11/1979" in done.out
    assert "→ birthday          1979-11-03" in done.out
    assert "4 cells are empty" in done.out
    assert "→ note" in run("preview", "ledger.csv", "--record", "3", "--all", cwd=demo).out
    found = run("preview", "twin-waterway.csv", "--find", "HALAGEUR anaïs", cwd=demo)
    assert "record 20" in found.out
    assert run("preview", "ledger.csv", "--find", "nobody here", cwd=demo).code == 1
    assert run("preview", "ledger.csv", "--record", "900", cwd=demo).code == 1
    first = run("preview", "skippers.vcf", cwd=demo)
    assert "skippers.vcf, record 1" in first.out
    assert "does not look like" in run("preview", "newsletter.csv", "--finding", cwd=demo).out


def test_stepping_through_records(demo: Path) -> None:
    keys = [b"n", b"n", b"b", b"j", b"20\n", b"s", b"bridgewick\n", b"c", b"Key no.\n", b"f",
            b"e", b"x", b"q"]  # fmt: skip
    shown = at_terminal(demo, keys, "preview", "ledger.csv")
    screens = shown.split("\x1b[2J")
    numbers = [screen.partition("record ")[2].partition("\x1b")[0] for screen in screens[1:]]
    assert numbers[:5] == ["1", "2", "3", "2", "20"]
    assert any("Bridgewick" in screen for screen in screens[6:])
    assert any("Key no." in screen for screen in screens[7:])
    assert "→ note" in shown
    assert "q quit" in screens[1]


def test_preview_shows_what_cleaning_would_make_of_a_record(run: Run, demo: Path) -> None:
    done = run("preview", "ledger.csv", "--record", "3", "--clean", "--region", "GB", cwd=demo)
    assert done.code == 0, done.err
    assert "'+44 (0)1632 960450' → '+44 1632 960450'" in done.out
    assert "→ 'given Tom · family Gatepaddle" in done.out
    assert "phone-form" not in run("preview", "ledger.csv", "--record", "3", cwd=demo).out
    assert run("preview", "ledger.csv", "--region", "GB", cwd=demo).code == 2


def test_a_draft_is_named_after_its_table(run: Run, demo: Path) -> None:
    assert run("layout", "draft", "newsletter.csv", cwd=demo).code == 0
    assert run("layout", "check", "newsletter.toml", "newsletter.csv", cwd=demo).code == 0
    again = run("layout", "draft", "newsletter.csv", cwd=demo)
    assert (again.code, "already exists" in again.err) == (5, True)
    nameless = run("layout", "draft", "-", stdin=b"Name\nAda\n")
    assert (nameless.code, "-o FILE" in nameless.err) == (2, True)


def test_names_of_two_letters_are_no_codes_of_countries(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("First name,Surname\nBo,Weir\nCy,Lock\n", encoding="utf-8")
    assert "countries" not in run("survey", "a.csv").out
    (tmp_path / "b.csv").write_text("Country\nGB\nNL\nDE\n", encoding="utf-8")
    assert "countries 100 %" in run("survey", "b.csv").out
