"""``roundcard merge``, ``unmerge`` and ``review`` as their users run them."""

from __future__ import annotations

import csv
import json
from collections import Counter
from pathlib import Path

import openpyxl
import pytest

from books_in_tests import card
from conftest import Run, at_terminal
from in_process import Done

TWO = ("old.vcf", "new.vcf")
BOOKS = ("skippers.vcf", "skippers-now.vcf", "coordinator-phone.vcf", "ledger.csv",
         "newsletter.csv", "school-visits.csv", "twin-waterway.csv")  # fmt: skip
ALL = (*BOOKS, "--layout", "layouts", "--region", "GB")
STORE = "roundcard-decisions.jsonl"
OLD = "".join([
    card("UID:a", "FN:Ada Weir", "N:Weir;Ada;;;", "TEL:07700 900123", "EMAIL:ada@x.test",
         "BDAY:1980-04-12", version="4.0"),
    card("UID:b", "FN:Bo Lock", "N:Lock;Bo;;;", "EMAIL:bo@x.test", "TEL:01632 960001",
         version="4.0"),
    card("UID:c", "FN:Cy Hale", "N:Hale;Cy;;;", "EMAIL:cy@x.test", version="4.0"),
])  # fmt: skip
NEW = "".join([
    card("FN:Ada Weir", "N:Weir;Ada;;;", "TEL:+44 7700 900123", "TEL:01632 960555",
         "EMAIL:ada@x.test", "NOTE:New", version="4.0"),
    card("FN:B. Lock", "N:Lock;B.;;;", "TEL:01632 960001", version="4.0"),
    card("FN:Di Pound", "N:Pound;Di;;;", "EMAIL:di@x.test", version="4.0"),
])  # fmt: skip


@pytest.fixture
def two(tmp_path: Path) -> Path:
    for name, text in (("old.vcf", OLD), ("new.vcf", NEW)):
        (tmp_path / name).write_text(text.replace("\n", "\r\n"), "utf-8", newline="")
    return tmp_path


def cards(path: Path) -> list[str]:
    text = path.read_bytes().decode().replace("\r\n ", "")
    return sorted(text.split("BEGIN:VCARD\r\n")[1:])


def names(path: Path) -> Counter[str]:
    text = path.read_bytes().decode()
    return Counter(line[3:] for line in text.splitlines() if line.startswith("FN:"))


def answer(path: Path, said: dict[str, str]) -> None:
    """Write decisions into a sheet, by the names of the rows."""
    text = path.read_text("utf-8-sig")
    rows = list(csv.DictReader(text.splitlines(), delimiter=";" if "group;" in text else ","))
    for row in rows:
        row["decision"] = said.get(row["name"], row["decision"])
    with path.open("w", newline="", encoding="utf-8") as stream:
        writer = csv.DictWriter(stream, list(rows[0]), delimiter=";")
        writer.writeheader()
        writer.writerows(rows)


def report(done: Done) -> dict[str, dict[str, object]]:
    assert done.code == 0, done.err
    found: dict[str, dict[str, object]] = json.loads(done.out)
    return found


def test_the_demo_is_merged_and_taken_back(run: Run, demo: Path) -> None:
    assert run("convert", *BOOKS, "both.vcf", "--layout", "layouts", cwd=demo).code == 0
    done = run("merge", *BOOKS, "m.vcf", *ALL[len(BOOKS) :], "--prove", cwd=demo)
    assert done.code == 0, done.err
    assert "merged: " in done.err
    assert "to ask: " in done.err
    told = report(run("merge", *BOOKS, "n.vcf", *ALL[len(BOOKS) :], "--json", cwd=demo))
    assert not any(told["balance"].values())
    merged = told["merge"]
    assert told["people"]["folded"] == int(merged["records"]) - int(merged["merged"])  # type: ignore[call-overload]
    assert (demo / "n.vcf").read_bytes() == (demo / "m.vcf").read_bytes()
    given = [name.split()[0] for name in names(demo / "m.vcf") if name.endswith("Poundstone")]
    assert {"Robert", "Margaret"} <= set(given)  # a household is two people
    lines = [json.loads(line) for line in (demo / "m.merges.jsonl").read_text().splitlines()]
    assert len(lines) == merged["merged"]
    assert {"originals", "result", "values", "reasons", "not_taken"} <= set(lines[0])
    back = run("unmerge", "m.vcf", "m.merges.jsonl", "back.vcf", "--all", cwd=demo)
    assert back.code == 0, back.err
    assert cards(demo / "back.vcf") == cards(demo / "both.vcf")
    again = run("merge", *BOOKS, "o.vcf", *ALL[len(BOOKS) :], cwd=demo)
    assert again.code == 0
    assert "merged: 0 people" in again.err
    assert "decided before" in again.err


def test_merged_values(run: Run, two: Path) -> None:
    done = run("merge", *TWO, "m.vcf", "--region", "GB", cwd=two)
    assert done.code == 0, done.err
    assert "\r\nUID;VALUE=text:a\r\n" in cards(two / "m.vcf")[0] or "UID" in cards(two / "m.vcf")[0]
    (ada,) = [each for each in cards(two / "m.vcf") if "FN:Ada Weir" in each]
    assert ada.count("TEL") == 2
    assert "TEL:+44 7700 900123\r\n" in ada
    assert "NOTE:New\r\n" in ada
    assert "\nmerged   an equal value is in the target\n" in done.err
    assert done.err.count("merged into the same person") == 1


def test_a_table_keeps_its_layout(run: Run, demo: Path) -> None:
    one = run("merge", "newsletter.csv", "n.csv", cwd=demo)
    assert one.code == 0, one.err
    heading = (demo / "newsletter.csv").read_bytes().splitlines()[0]
    assert (demo / "n.csv").read_bytes().splitlines()[0] == heading


def test_nothing_is_written_where_decisions_cannot_be_kept(run: Run, two: Path) -> None:
    assert run("merge", *TWO, "m.vcf", "--region", "GB", cwd=two).code == 0
    before = sorted(two.iterdir())
    args = ("unmerge", "m.vcf", "m.merges.jsonl", "u.vcf", "--all")
    done = run(*args, "--decisions", "none/d.jsonl", cwd=two)
    assert (done.code, len(done.err.splitlines())) == (5, 1)
    assert sorted(two.iterdir()) == before


def test_by_the_sheet(run: Run, two: Path) -> None:
    assert run("match", *TWO, "--region", "GB", "--sheet", "s.csv", cwd=two).code == 0
    assert "B. Lock" in (two / "s.csv").read_text("utf-8-sig")
    answer(two / "s.csv", {"B. Lock": "same"})
    only = run("merge", *TWO, "only.vcf", "--region", "GB", "--sheet", "s.csv",
               "--decided-only", cwd=two)  # fmt: skip
    assert only.code == 0, only.err
    assert names(two / "only.vcf")["Ada Weir"] == 2
    assert len(cards(two / "only.vcf")) == 5
    both = run(
        "merge", "old.vcf", "new.vcf", "both.vcf", "--region", "GB", "--sheet", "s.csv", cwd=two
    )
    assert len(cards(two / "both.vcf")) == 4, both.err
    # the decision holds for next month's book, without the sheet
    later = run("match", *TWO, "--region", "GB", "--json", cwd=two)
    assert json.loads(later.out)["decided"] == {"held": 1, "asked_again": 0}
    assert json.loads(later.out)["to_ask"] == 0
    answer(two / "s.csv", {"B. Lock": "apart"})
    third = run(
        "merge", "old.vcf", "new.vcf", "third.vcf", "--region", "GB", "--sheet", "s.csv", cwd=two
    )
    assert len(cards(two / "third.vcf")) == 5, third.err
    gone = (two / "new.vcf").read_text().replace("01632 960001", "01632 960999")
    (two / "new.vcf").write_text(gone, newline="")
    asked = run("match", *TWO, "--region", "GB", cwd=two)
    assert "asked again: " in asked.out
    answer(two / "s.csv", {"B. Lock": "perhaps"})
    wrong = run("merge", *TWO, "x.vcf", "--sheet", "s.csv", cwd=two)
    assert (wrong.code, "is not a decision" in wrong.err) == (4, True)


def test_a_sheet_is_written_anew_with_what_was_decided(run: Run, two: Path) -> None:
    args = ("match", *TWO, "--region", "GB", "--sheet", "s.csv")
    assert run(*args, cwd=two).code == 0
    answer(two / "s.csv", {"B. Lock": "lead: name"})
    assert run(*args, cwd=two).code == 5
    assert run(*args, "--force", cwd=two).code == 0
    lines = (two / "s.csv").read_text("utf-8-sig").splitlines()
    rows = {row["name"]: row for row in csv.DictReader(lines)}
    assert rows["B. Lock"]["decision"] == "lead: name"
    assert run("merge", *TWO, "m.vcf", "--region", "GB", cwd=two).code == 0
    assert names(two / "m.vcf")["B. Lock"] == 1
    assert names(two / "m.vcf")["Bo Lock"] == 0


def test_preferences_and_losers(run: Run, two: Path) -> None:
    moved = NEW.replace("NOTE:New", "BDAY:1980-04-12\nTITLE:Chair").replace(
        "Ada Weir", "Ada M. Weir"
    )
    (two / "new.vcf").write_text(moved.replace("\n", "\r\n"), "utf-8", newline="")
    args = ("merge", *TWO, "m.vcf", "--region", "GB", "--force")
    run(*args, "--prefer", "old.vcf", cwd=two)
    assert "Ada Weir" in names(two / "m.vcf")
    done = run(*args, "--prefer", "name=new.vcf", "--losers", "note", "--json", cwd=two)
    assert "Ada M. Weir" in names(two / "m.vcf")
    assert report(done)["merge"]["conflicts"] == []  # 'Ada Weir' says less, and nothing else
    policy = run("merge", "--policy", "--prefer", "name=new.vcf", "new.vcf", "m.vcf", cwd=two)
    assert policy.out.splitlines()[0].startswith("name")
    assert "new.vcf" in policy.out.splitlines()[0]


INTO = [  # what becomes of people the book has, how many there are, Ada's numbers
    (("--existing", "update"), 5, ["07700 900123"]),
    (("--existing", "update", "--update", "phone=add"), 5, ["07700 900123", "01632 960555"]),
    (("--existing", "update", "--update", "replace"), 5, ["+44 7700 900123", "01632 960555"]),
    (("--existing", "leave"), 5, ["07700 900123"]),
    (("--existing", "beside"), 6, ["07700 900123"]),
]


@pytest.mark.parametrize(("options", "people", "numbers"), INTO)
def test_adding_to_a_book(
    run: Run, two: Path, options: tuple[str, ...], people: int, numbers: list[str]
) -> None:
    done = run(
        "merge", "new.vcf", "all.vcf", "--into", "old.vcf", "--region", "GB", *options, cwd=two
    )
    assert done.code == 0, done.err
    found = cards(two / "all.vcf")
    assert len(found) == people
    (ada,) = [each for each in found if "UID;VALUE=text:a" in each]
    assert [line[4:] for line in ada.splitlines() if line.startswith("TEL:")] == numbers
    assert (two / "old.vcf").read_bytes().decode() == OLD.replace("\n", "\r\n")


def test_taking_one_back(run: Run, two: Path) -> None:
    run("merge", *TWO, "m.vcf", "--region", "GB", cwd=two)
    text = (two / "m.vcf").read_bytes().replace(b"NOTE:New", b"NOTE:Newer")
    (two / "m.vcf").write_bytes(text)
    done = run("unmerge", "m.vcf", "m.merges.jsonl", "--person", "ada weir", cwd=two)
    assert done.code == 0, done.err
    assert "edited since: note 'New' is now 'Newer' (kept so in new.vcf:1)" in done.err
    assert names(two / "m-unmerged.vcf")["Ada Weir"] == 2
    assert (two / STORE).exists()
    (two / "none.vcf").write_text(card("FN:Nobody"), newline="")
    none = run("unmerge", "none.vcf", "m.merges.jsonl", "x.vcf", "--all", "--force", cwd=two)
    assert (none.code, "not found" in none.err) == (1, True)


WRONG = [
    (("merge",), 2), (("merge", "old.vcf"), 2), (("merge", "old.vcf", "x.vcf", "--losers", "x"), 2),
    (("merge", "old.vcf", "x.vcf", "--existing", "overwrite"), 2),
    (("merge", "old.vcf", "x.vcf", "--update", "add"), 2),
    (("merge", "old.vcf", "x.vcf", "--prefer", "other.vcf"), 2),
    (("merge", "old.vcf", "x.vcf", "--ask", "20"), 2), (("merge", "old.vcf", "-"), 2),
    (("merge", "old.vcf", "x.vcf", "--sheet", "none.csv"), 3),
    (("merge", "old.vcf", "x.vcf", "--sheet", "old.vcf"), 4), (("merge", "old.vcf", "old.vcf"), 5),
    (("merge", "old.vcf", "x.vcf", "--record", "new.vcf"), 5),
    (("unmerge", "old.vcf", "none.jsonl", "--all"), 3),
    (("unmerge", "old.vcf", "new.vcf", "--all"), 4), (("unmerge", "old.vcf", "none.jsonl"), 2),
    (("review", "none.csv"), 3), (("review", "old.vcf"), 4),
    (("match", "old.vcf", "--figure", "x.txt"), 5),
]  # fmt: skip


@pytest.mark.parametrize(("args", "code"), WRONG)
def test_what_is_wrong_is_one_line(run: Run, two: Path, args: tuple[str, ...], code: int) -> None:
    before = sorted(two.iterdir())
    done = run(*args, cwd=two)
    assert done.code == code, done.err
    assert done.err.startswith("error: ")
    assert len(done.err.strip().splitlines()) == 1
    assert sorted(two.iterdir()) == before


def test_the_record_is_never_replaced_unasked(run: Run, two: Path) -> None:
    args = ("merge", *TWO, "--region", "GB")
    assert run(*args, "m.vcf", cwd=two).code == 0
    first = (two / "m.merges.jsonl").read_bytes()
    (two / "m.vcf").unlink()
    done = run(*args, "m.vcf", cwd=two)
    assert "m.merges-2.jsonl" in done.err
    assert (two / "m.merges.jsonl").read_bytes() == first
    dry = run(*args, "d.vcf", "--dry-run", cwd=two)
    assert dry.code == 0
    assert not list(two.glob("d.*"))


@pytest.mark.parametrize("suffix", ["csv", "xlsx"])
def test_deciding_at_the_terminal(run: Run, two: Path, suffix: str) -> None:
    sheet = f"s.{suffix}"
    assert run("match", *TWO, "--region", "GB", "--sheet", sheet, cwd=two).code == 0
    listed = run("review", sheet, "--list", cwd=two)
    assert listed.code == 0
    assert "0 of 1 decided" in listed.out
    assert run("review", sheet, cwd=two).code == 2  # nobody is there to answer
    shown = at_terminal(two, [b"9", b"v", b"f", b"s", b"q"], "review", sheet)
    assert "question 1 of 1" in shown
    assert "= 01632 960001" in shown
    assert "contact 9 not found" in shown
    assert "name is taken from this one" in shown
    assert "1 of 1 question decided, 0 open" in shown
    if suffix == "csv":
        rows = list(csv.DictReader((two / sheet).read_text("utf-8-sig").splitlines()))
        said = {row["name"]: row["decision"] for row in rows}
    else:
        cells = list(openpyxl.load_workbook(two / sheet).active.values)  # type: ignore[union-attr]
        at, name = cells[0].index("decision"), cells[0].index("name")
        said = {row[name]: row[at] for row in cells[1:]}
    assert said["B. Lock"] == "lead: name"
    assert (two / STORE).exists()
    assert run("merge", *TWO, "m.vcf", "--region", "GB", cwd=two).code == 0
    assert names(two / "m.vcf")["B. Lock"] == 1
    again = at_terminal(two, [b"u", b"q"], "review", sheet)
    assert "all questions have an answer" in again
    assert "0 of 1 question decided, 1 open" in again
    assert (two / STORE).read_text() == ""  # what is undecided again is not kept


def test_the_figure(run: Run, two: Path) -> None:
    done = run("match", *TWO, "--figure", "f.png", cwd=two)
    assert done.code == 0, done.err
    assert (two / "f.png").read_bytes().startswith(b"\x89PNG")
    assert run("match", *TWO, "--figure", "f.png", cwd=two).code == 5
