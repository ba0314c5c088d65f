"""Comparing: exactly the differences that there are, and how each pair was told."""

from __future__ import annotations

import csv
import io
import json
import random
from pathlib import Path

import pytest

from books_in_tests import card
from conftest import Run

FIRST = ["Ada", "Bo", "Cy", "Dee", "Eli", "Fay", "Gus", "Hal", "Ivy", "Jo"]


def person(at: int, other: dict[str, str] | None = None, *, uid: bool = True) -> str:
    said = {
        "FN": f"{FIRST[at % 10]} Weir{at}",
        "N": f"Weir{at};{FIRST[at % 10]};;;",
        "EMAIL": f"{FIRST[at % 10].lower()}{at}@x.test",
        "TEL;TYPE=cell": f"+44 7700 9{at:05}",
        "ADR;TYPE=home": f";;{at} Lock Lane;Bath;;;GB",
        "NOTE": f"key {at}",
    }
    if uid:
        said["UID"] = f"urn:uuid:{at:08}-0000-4000-8000-000000000000"
    said |= other or {}
    lines = [f"{name}:{text}" for name, text in said.items() if text]
    random.Random(at).shuffle(lines)
    return card(*lines, version="4.0")


def books(folder: Path) -> None:
    """Two books in which 7 people are gone, 5 are new, and 30 are changed in known ways."""
    changes = {
        10: {"TEL;TYPE=cell": "+44 7700 111111"},
        11: {"TEL;TYPE=cell": "", "TEL;TYPE=work": "+44 7700 900011"},
        12: {"NOTE": ""}, 13: {"TITLE": "keeper"}, 14: {"EMAIL": "BO@other.test"},
        15: {"ADR;TYPE=home": ";;1 Quay;Hull;;;GB"}, 18: {"TEL;TYPE=cell": "+447700900018"},
        17: {"EMAIL": "Hal17@X.test"},
    }  # fmt: skip
    old = [person(at) for at in range(100)]
    new = [person(at, changes.get(at), uid=at % 2 == 0) for at in range(100)
           if at % 15 != 1]  # fmt: skip
    new += [person(at) for at in range(200, 205)]
    random.Random(1).shuffle(new)
    (folder / "o.vcf").write_text("".join(old))
    (folder / "n.vcf").write_text("".join(new))


def test_exactly_the_known_differences(run: Run, tmp_path: Path) -> None:
    books(tmp_path)
    done = run("compare", "o.vcf", "n.vcf", "--json", "--sheet", "s.csv", "--new", "new.vcf",
               "--gone", "gone.csv", "--changed", "changed.xlsx")  # fmt: skip
    told = json.loads(done.out)
    assert done.code == 1
    assert (told["new_people"], told["gone"]) == (5, 7)
    assert told["changed"] == 6
    assert told["fields"] == {
        "phone": {"changed": 1, "moved": 1, "spelled": 1}, "note": {"removed": 1},
        "title": {"added": 1}, "email": {"changed": 1, "spelled": 1},
        "address/street": {"changed": 1}, "address/locality": {"changed": 1},
    }  # fmt: skip
    ways = told["paired_by"]
    assert sum(ways.values()) == 93
    assert ways["uid"] == 47
    assert ways["values"] + ways.get("likely", 0) == 46
    rows = list(
        csv.DictReader(io.StringIO((tmp_path / "s.csv").read_text("utf-8-sig"), newline=""))
    )
    assert sum(1 for row in rows if row["what"] == "new") == 5
    assert sum(1 for row in rows if row["what"] == "gone") == 7
    assert {row["paired by"] for row in rows} <= {"", "uid", "values", "likely"}
    assert (tmp_path / "new.vcf").read_text().count("BEGIN:VCARD") == 5
    assert len((tmp_path / "gone.csv").read_text().splitlines()) == 8


@pytest.mark.parametrize("way", ["b.vcf", "b.csv", "b.xlsx", "b.jcard", "b-3.0.vcf", "b-2.1.vcf"])
def test_a_book_is_itself_in_any_format(run: Run, tmp_path: Path, way: str) -> None:
    (tmp_path / "o.vcf").write_text("".join(person(at, uid=at % 2 == 0) for at in range(40)))
    to = ["--to", f"vcard-{way[2:5]}"] if way[1] == "-" else []
    assert run("convert", "o.vcf", way, *to).code == 0
    done = run("compare", "o.vcf", way)
    assert done.code == 0, done.out
    assert "40  the same" in done.out
    assert "no difference" in done.out


def test_what_the_service_does_is_taken_as_equal_and_listed(run: Run, tmp_path: Path) -> None:
    text = "".join(person(at, {"EMAIL": f"Ada{at}@X.test", "TITLE": "keeper"}) for at in range(30))
    (tmp_path / "o.vcf").write_text(text)
    assert run("convert", "o.vcf", "sent.csv", "--destination", "lockside").code == 0
    sent = (tmp_path / "sent.csv").read_text()
    held = sent.replace("@X.test", "@x.test").replace("Ada", "ada", 0)
    (tmp_path / "held.csv").write_text(held.replace("Lock Lane", "Lock Row", 1))
    plain = run("compare", "o.vcf", "held.csv", "--layout", "lockside")
    assert plain.code == 1
    done = run("compare", "o.vcf", "held.csv", "--as", "lockside", "--json", "--sheet", "s.xlsx")
    told = json.loads(done.out)
    assert (told["same"], told["changed"]) == (29, 1)
    assert told["fields"] == {"address/street": {"changed": 1}}
    assert told["taken_as_equal"]["title"] == 30
    shown = run("compare", "o.vcf", "held.csv", "--as", "lockside").out
    assert "taken as equal, since the service makes it so" in shown
    assert "0 Lock Lane" in shown


def test_likely_pairs_are_never_called_sure(run: Run, tmp_path: Path) -> None:
    (tmp_path / "o.vcf").write_text(person(1, uid=False) + person(2, uid=False))
    (tmp_path / "n.vcf").write_text(
        person(1, {"NOTE": "other"}, uid=False) + person(2, {"EMAIL": "x@y.test"}, uid=False)
    )
    done = run("compare", "o.vcf", "n.vcf")
    assert "2  by points: likely, not sure" in done.out
    assert "o.vcf:1 → n.vcf:1, likely" in done.out


def test_kept_decisions_pair_and_part(run: Run, tmp_path: Path) -> None:
    (tmp_path / "o.vcf").write_text(person(1, uid=False))
    (tmp_path / "n.vcf").write_text(person(1, {"NOTE": "other"}, uid=False))
    assert run("match", "o.vcf", "n.vcf", "--sheet", "s.csv").code == 0
    rows = list(csv.reader(io.StringIO((tmp_path / "s.csv").read_text("utf-8-sig"), newline="")))
    at = rows[0].index("decision")
    rows[2][at] = "apart"
    with (tmp_path / "s.csv").open("w", encoding="utf-8-sig", newline="") as stream:
        csv.writer(stream).writerows(rows)
    assert run("match", "o.vcf", "n.vcf", "--sheet", "s.csv", "--force").code == 0
    done = run("compare", "o.vcf", "n.vcf", "--decisions", "roundcard-decisions.jsonl")
    assert ("1  new" in done.out, "1  gone" in done.out) == (True, True)


@pytest.mark.parametrize(
    ("args", "code", "said"),
    [
        (["o.vcf", "nowhere.vcf"], 3, "not found"),
        (["-", "-"], 2, "only once"),
        (["o.vcf", "o.vcf", "--sheet", "x.txt"], 2, "a sheet is .csv or .xlsx"),
        (["o.vcf", "o.vcf", "--new", "x.doc"], 2, "cannot tell the format"),
        (["o.vcf", "o.vcf", "--as", "locksid"], 4, "did you mean 'lockside'?"),
        (["o.vcf", "o.vcf", "--gone", "o.vcf"], 5, "one of the sources"),
    ],
)
def test_what_cannot_be_is_one_line(
    run: Run, tmp_path: Path, args: list[str], code: int, said: str
) -> None:
    (tmp_path / "o.vcf").write_text(person(1))
    done = run("compare", *args)
    assert (done.code, done.err.count("\n")) == (code, 1)
    assert said in done.err


def test_the_same_book_and_a_folder_of_its_pieces(run: Run, tmp_path: Path) -> None:
    people = [person(at) for at in range(30)]
    (tmp_path / "o.vcf").write_text("".join(people))
    (tmp_path / "f").mkdir()
    for at in range(3):
        (tmp_path / "f" / f"{at}.vcf").write_text("".join(people[at::3]))
    done = run("compare", "o.vcf", "f")
    assert done.code == 0
    assert "30  by uid" in done.out
