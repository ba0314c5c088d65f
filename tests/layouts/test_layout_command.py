"""``roundcard layout`` as its users run it: draft, show, check, keep, match, edit."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

import pytest

from conftest import Run, at_terminal
from roundcard.card.paths import parse

LIE = "Name,Phone,Town\n" + "".join(f"Anna Weber{n},a{n}@x.test,Withy\n" for n in range(5))


def test_a_draft_is_written_and_read(run: Run, demo: Path) -> None:
    done = run("layout", "draft", "ledger.csv", "-o", "mine.toml", cwd=demo)
    assert done.code == 0, done.err
    assert "8 of 13 columns understood" in done.err
    assert "empty, skipped: Telex, Fax (old)" in done.err
    assert "State  →  custom/State" in done.err
    made = tomllib.loads((demo / "mine.toml").read_text(encoding="utf-8"))
    assert made["name"] == "mine"
    assert made["table"]["encoding"] == "windows-1252"
    shown = run("layout", "show", "mine.toml", cwd=demo).out
    assert "sample" in shown
    assert "Gatepaddle" in shown
    assert "? 45 %" in shown
    assert "1 column is to be looked at" in shown
    assert run("layout", "check", "mine.toml", "ledger.csv", cwd=demo).out == "ledger.csv: fits\n"
    given = run("convert", "ledger.csv", "a.vcf", "--layout", "mine.toml", "--prove", cwd=demo)
    assert given.code == 0
    again = run("layout", "draft", "ledger.csv", "-o", "mine.toml", cwd=demo)
    assert (again.code, "already exists" in again.err) == (5, True)


@pytest.mark.parametrize("name", ["school-visits", "twin-waterway", "newsletter"])
def test_what_is_drafted_reads_as_the_layout_by_hand(run: Run, demo: Path, name: str) -> None:
    out = run("layout", "draft", f"{name}.csv", "-o", "-", "--quiet", cwd=demo).out
    drafted = tomllib.loads(out)
    by_hand = tomllib.loads((demo / "layouts" / f"{name}.toml").read_text(encoding="utf-8"))

    def holds(layout: dict[str, list[dict[str, Any]]]) -> dict[object, object]:
        """Field and part of each column, without uses, which no heading here tells."""
        found: dict[object, object] = {}
        for column in layout["column"]:
            said = column.get("holds", [])
            paths = map(parse, [said] if isinstance(said, str) else said)
            found[column.get("heading", column.get("number"))] = [(p.field, p.part) for p in paths]
        return found

    mine, wanted = holds(drafted), holds(by_hand)
    differing = {key for key in wanted if mine[key] != wanted[key]}
    assert differing <= {"Besuch am", "Bateau", "Kürzel", "Télétype", "Telefax"}, differing


def test_drafts_bare_and_filled(run: Run, demo: Path) -> None:
    bare = run("layout", "draft", "ledger.csv", "-o", "-", "--bare", cwd=demo)
    assert tomllib.loads(bare.out)["table"]["unlisted"] == "skip"
    assert '# heading = "Phones"' in bare.out
    assert "# e.g. 07700900301" in bare.out
    filled = run("layout", "draft", "ledger.csv", "-o", "-", "--only-filled", "-q", cwd=demo)
    assert "Telex" not in filled.out
    assert filled.err == ""
    assert run("layout", "draft", "skippers.vcf", "-o", "x.toml", cwd=demo).code == 3
    assert run("layout", "draft", "ledger.csv", "school-visits.csv", "-o", "x.toml",
               cwd=demo).code == 3  # fmt: skip
    assert not (demo / "x.toml").exists()


def test_addresses_under_phone_are_caught_everywhere(run: Run, tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text(LIE, encoding="utf-8")
    drafted = run("layout", "draft", "t.csv", "-o", "t.toml").err
    assert "Phone  →  email" in drafted
    assert "though its heading says phone" in drafted
    text = (tmp_path / "t.toml").read_text(encoding="utf-8").replace('"email"', '"phone"')
    (tmp_path / "wrong.toml").write_text(text, encoding="utf-8")
    checked = run("layout", "check", "wrong.toml", "t.csv")
    assert checked.code == 1
    assert "column 'Phone' holds phone, and 100 % of its cells are e-mail addresses" in checked.out
    assert "content against heading" in run("survey", "t.csv").out
    assert "Phone" in run("survey", "t.csv", "--layout", "wrong.toml").out
    shown = run("preview", "t.csv", "--layout", "wrong.toml", "--record", "1").out
    assert "! Phone: does not look like phone" in shown


def test_layouts_are_kept_and_matched(run: Run, demo: Path) -> None:
    done = run("layout", "keep", "layouts/school-visits.toml", "--name", "visits", cwd=demo)
    assert (done.code, "kept as 'visits'" in done.out) == (0, True)
    assert "visits" in run("layout", "list", cwd=demo).out
    assert run("layout", "keep", "layouts/school-visits.toml", "--name", "visits",
               cwd=demo).code == 5  # fmt: skip
    assert run("layout", "keep", "layouts/school-visits.toml", "--name", "a/b", cwd=demo).code == 4
    assert run("layout", "keep", "ledger.csv", cwd=demo).code == 4
    matched = run("layout", "match", "school-visits.csv", "ledger.csv", cwd=demo)
    assert matched.code == 0
    assert "school-visits.csv: 'school-visits' fits" in matched.out
    assert "visits" in matched.out
    assert "100 %" in matched.out
    (demo / "z.csv").write_text("Zib,Wob\nAx,bo\n", encoding="utf-8")
    none = run("layout", "match", "z.csv", cwd=demo)
    assert (none.code, "no kept layout fits" in none.out) == (1, True)
    only = run("layout", "match", "ledger.csv", "--layout", "visits", "--all", cwd=demo)
    assert only.code == 1
    assert "no layout fits well enough" in only.out


def test_a_layout_that_no_longer_fits_is_not_taken(run: Run, demo: Path) -> None:
    assert run("layout", "keep", "layouts/school-visits.toml", cwd=demo).code == 0
    text = (demo / "school-visits.csv").read_text(encoding="utf-8-sig")
    text = text.replace("Telefon;", "Handynummer;", 1).replace("Vorname;", "Rufname;", 1)
    (demo / "new.csv").write_text(text, encoding="utf-8")
    assert "layout drafted" in run("survey", "new.csv", cwd=demo).out
    checked = run("layout", "check", "school-visits", "new.csv", cwd=demo)
    assert checked.code == 1
    assert "column 'Telefon' of the layout is not in the file" in checked.out


def test_unsure_columns_are_decided(run: Run, demo: Path) -> None:
    assert run("layout", "draft", "ledger.csv", "-o", "l.toml", cwd=demo).code == 0
    asked = run("layout", "edit", "l.toml", "ledger.csv", stdin=b"phone/wrok\n9\ncategory\n",
                cwd=demo)  # fmt: skip
    assert asked.code == 0
    assert "'wrok' is not a use or part of phone; did you mean 'work'?" in asked.out
    assert "near it: phone/work" in asked.out
    assert "there are" in asked.out
    assert "1 decision written" in asked.out
    text = (demo / "l.toml").read_text(encoding="utf-8")
    assert 'heading = "State"\nholds = "category"' in text
    assert "decided by hand (drafted: custom/State)" in text
    assert "no column is marked LOOK" in run("layout", "edit", "l.toml", cwd=demo).out
    all_ = run("layout", "edit", "l.toml", "--all", stdin=b"s\n=J. Weir\nb\nc\nl\nq\n", cwd=demo)
    assert "4 decisions" in all_.out or "3 decisions" in all_.out
    made = tomllib.loads((demo / "l.toml").read_text(encoding="utf-8"))["column"]
    assert made[0]["skip"] is True
    assert made[1]["holds"] == "custom/Name"
    clash = run("layout", "edit", "l.toml", "--all", stdin=b"birthday\nq\n", cwd=demo)
    assert "and so does" in clash.out
    assert "0 decisions written" in clash.out


def test_what_the_cells_tell_is_asked_for_beside_the_field(run: Run, tmp_path: Path) -> None:
    rows = ("Name,Count,Born,Tags,Sex", "Ada Weir,3,04/12/1980,a;b,1", "Bo Lock,4,25/12/1971,c,2",
            "Cy Hale,5,13/11/1962,a;c,1")  # fmt: skip
    (tmp_path / "t.csv").write_text("\n".join(rows) + "\n", "utf-8")
    assert run("layout", "draft", "t.csv", "-o", "l.toml").code == 0
    edit = ("layout", "edit", "l.toml", "t.csv", "--column")
    doubted = run(*edit, "Count", stdin=b"phone\nn\nq\n")
    assert "100 % of its cells are numbers; is it phone all the same?" in doubted.out
    assert "0 decisions written" in doubted.out
    told = run(*edit, "3", "--column", "Tags", "--column", "Sex",
               stdin=b"anniversary\n\ncategory\n\ngender\ny\nM\nF\n")  # fmt: skip
    assert "3 decisions written" in told.out
    columns = {each["heading"]: each for each in
               tomllib.loads((tmp_path / "l.toml").read_text("utf-8"))["column"]}  # fmt: skip
    assert columns["Born"] == {"heading": "Born", "holds": "anniversary", "date": "day/month/year"}
    assert columns["Tags"]["many"] == ";"
    assert columns["Sex"]["values"] == {"1": "M", "2": "F"}
    assert "did you mean 'Tags'" in run(*edit, "Tag").err


def test_paths_are_completed_at_the_terminal(run: Run, demo: Path) -> None:
    assert run("layout", "draft", "ledger.csv", "-o", "l.toml", cwd=demo).code == 0
    shown = at_terminal(demo, [b"catego\t\n", b""], "layout", "edit", "l.toml", "ledger.csv")
    assert "holds category" in shown
