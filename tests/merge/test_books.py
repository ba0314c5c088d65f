"""Whole books merged and taken back, whatever they are written as."""

from __future__ import annotations

import json
from pathlib import Path

import openpyxl
import pytest

from books_in_tests import card
from conftest import Run

LAYOUT = """
name = "club"
[table]
separator = ";"

[[column]]
heading = "Name"
holds = "name/full"

[[column]]
heading = "Mail"
holds = "email"

[[column]]
heading = "Phone"
holds = "phone/1"

[[column]]
heading = "Second phone"
holds = "phone/2"

[[column]]
heading = "Born"
holds = "birthday"
date = "day.month.year"

[[column]]
heading = "Groups"
holds = "category"
many = ","
"""
ROWS = """Name;Mail;Phone;Second phone;Born;Groups
Ada Weir;ada@x.test;07700 900123;;12.04.1980;Crew
Bo Lock;bo@x.test;01632 960001;;;Crew,Donors
WEIR, ADA;ADA@x.test;+44 7700 900123;01632 960555;12.04.1980;Donors
Cy Hale;cy@x.test;;;;
bo lock;bo@x.test;+44 1632 960001;;01.02.1970;
"""


@pytest.fixture
def club(tmp_path: Path) -> Path:
    (tmp_path / "club.toml").write_text(LAYOUT, encoding="utf-8")
    (tmp_path / "club.csv").write_text(ROWS, encoding="utf-8")
    return tmp_path


def cells(path: Path) -> list[list[str]]:
    """The rows of a table, in order of their cells."""
    if path.suffix == ".xlsx":
        sheet = openpyxl.load_workbook(path).active
        assert sheet is not None
        return sorted([str(cell or "") for cell in row] for row in sheet.values)
    return sorted(line.split(";") for line in path.read_text("utf-8").splitlines())


@pytest.mark.parametrize("suffix", ["csv", "xlsx"])
def test_a_table_is_merged_and_taken_back(run: Run, club: Path, suffix: str) -> None:
    by = ("--layout", "club.toml", "--to-layout", "club.toml")
    plain = run("convert", "club.csv", f"plain.{suffix}", *by, cwd=club)
    assert plain.code == 0, plain.err
    done = run("merge", "club.csv", f"m.{suffix}", *by, "--region", "GB", cwd=club)
    assert done.code == 0, done.err
    rows = {row[0]: row[1:] for row in cells(club / f"m.{suffix}")}
    assert set(rows) == {"Name", "Ada Weir", "Bo Lock", "Cy Hale"}
    assert rows["Ada Weir"][1:] == ["+44 7700 900123", "01632 960555", "12.04.1980", "Crew,Donors"]
    assert rows["Bo Lock"][1] == "+44 1632 960001"
    assert rows["Bo Lock"][3] == "01.02.1970"
    back = run("unmerge", f"m.{suffix}", "m.merges.jsonl", f"b.{suffix}", "--all", *by, cwd=club)
    assert back.code == 0, back.err
    assert cells(club / f"b.{suffix}") == cells(club / f"plain.{suffix}")


def test_what_the_target_has_no_room_for_is_kept_and_comes_back(run: Run, club: Path) -> None:
    narrow = LAYOUT.replace('[[column]]\nheading = "Second phone"\nholds = "phone/2"\n', "")
    (club / "narrow.toml").write_text(narrow, encoding="utf-8")
    by = ("--layout", "club.toml", "--to-layout", "narrow.toml", "--region", "GB")
    done = run("merge", "club.csv", "m.csv", *by, "--json", cwd=club)
    told = json.loads(done.out)
    assert not any(told["balance"].values())
    assert told["values"]["left_behind"] == 1
    assert "01632 960555" in (club / "m.left-behind.vcf").read_text("utf-8")
    lines = [json.loads(line) for line in (club / "m.merges.jsonl").read_text("utf-8").splitlines()]
    assert "01632 960555" in json.dumps(lines[0]["originals"])
    assert "01632 960555" not in json.dumps(lines[0]["result"])  # as the book has it
    back = run("unmerge", "m.csv", "m.merges.jsonl", "b.vcf", "--all", "--layout", "narrow.toml",
               cwd=club)  # fmt: skip
    assert back.code == 0, back.err
    assert "edited since" not in back.err
    assert "01632 960555" in (club / "b.vcf").read_text("utf-8")


def test_the_record_tells_of_each_value_who_said_it(run: Run, club: Path) -> None:
    assert run("merge", "club.csv", "m.vcf", "--layout", "club.toml", "--region", "GB",
               cwd=club).code == 0  # fmt: skip
    ada, bo = (json.loads(line) for line in
               (club / "m.merges.jsonl").read_text("utf-8").splitlines())  # fmt: skip
    assert [(each["source"], each["record"]) for each in ada["originals"]] == [
        ("club.csv", 1), ("club.csv", 3),
    ]  # fmt: skip
    said = {(value["field"], value["value"]): value["from"] for value in ada["values"]}
    assert sorted(said["phone", "+44 7700 900123"]) == [0, 1]
    assert said["phone", "01632 960555"] == [1]
    assert sorted(said["birthday", "1980-04-12"]) == [0, 1]
    assert sorted(said["category", "Crew, Donors"]) == [0, 1]
    assert ada["not_taken"] == []
    assert ada["decided"] is False
    assert ada["merge"] == "1"
    assert bo["merge"] == "2"
    assert "same e-mail address" in bo["reasons"]


GROUP = card("UID:urn:uuid:g", "KIND:group", "FN:Crew", "MEMBER:urn:uuid:b", "MEMBER:urn:uuid:a",
             version="4.0")  # fmt: skip
PEOPLE = "".join([
    card("UID:urn:uuid:a", "FN:Ada Weir", "EMAIL:ada@x.test", version="4.0"),
    card("UID:urn:uuid:c", "FN:Cy Hale", "EMAIL:cy@x.test", "RELATED;TYPE=friend:urn:uuid:b",
         version="4.0"),
    card("UID:urn:uuid:b", "FN:Ada Weir", "EMAIL:ada@x.test", "TEL:1234567", version="4.0"),
])  # fmt: skip


def test_groups_and_relations_follow_a_merge(run: Run, tmp_path: Path) -> None:
    (tmp_path / "b.vcf").write_text(GROUP + PEOPLE, "utf-8")
    done = run("merge", "b.vcf", "m.vcf", cwd=tmp_path)
    assert done.code == 0, done.err
    text = (tmp_path / "m.vcf").read_text("utf-8")
    assert text.count("MEMBER:") == 1
    assert "urn:uuid:b" not in text
    assert "RELATED;TYPE=friend:urn:uuid:a" in text
    older = run("merge", "b.vcf", "m3.vcf", "--to", "vcard-3.0", cwd=tmp_path)
    assert older.code == 0, older.err
    assert (tmp_path / "m3.vcf").read_text("utf-8").count("CATEGORIES") == 1
    back = run("unmerge", "m3.vcf", "m3.merges.jsonl", "back.vcf", "--all", cwd=tmp_path)
    assert back.code == 0, back.err
    assert (tmp_path / "back.vcf").read_text("utf-8").count("FN:Ada Weir") == 2
    home = run("unmerge", "m.vcf", "m.merges.jsonl", "home.vcf", "--all", cwd=tmp_path)
    assert home.code == 0, home.err
    text = (tmp_path / "home.vcf").read_text("utf-8")
    assert [text.count(f"MEMBER:urn:uuid:{each}") for each in "ab"] == [1, 1]
    assert "RELATED;TYPE=friend:urn:uuid:b" in text


def test_the_same_group_in_two_books_is_one_with_all_members(run: Run, tmp_path: Path) -> None:
    other = GROUP.replace("MEMBER:urn:uuid:b", "MEMBER:urn:uuid:c")
    (tmp_path / "one.vcf").write_text(GROUP, "utf-8")
    (tmp_path / "two.vcf").write_text(other, "utf-8")
    done = run("merge", "one.vcf", "two.vcf", "m.vcf", cwd=tmp_path)
    assert done.code == 0, done.err
    text = (tmp_path / "m.vcf").read_text("utf-8")
    assert text.count("BEGIN:VCARD") == 1
    assert [text.count(f"MEMBER:urn:uuid:{each}") for each in "abc"] == [1, 1, 1]
    named = card("FN:Crew", "EMAIL:crew@x.test")
    (tmp_path / "one.vcf").write_text(GROUP + named, "utf-8")
    again = run("match", "one.vcf", "--json", cwd=tmp_path)
    assert json.loads(again.out)["rows"] == []  # a group is no person


def test_a_book_of_odd_records_is_merged_all_the_same(run: Run, tmp_path: Path) -> None:
    broken = b"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Lost\r\n"
    text = PEOPLE.encode() + card("TEL:1").encode() + card("NOTE:x").encode() + broken
    (tmp_path / "b.vcf").write_bytes(text)
    done = run("merge", "b.vcf", "m.vcf", "--json", cwd=tmp_path)
    told = json.loads(done.out)
    assert not any(told["balance"].values())
    assert told["merge"]["merged"] == 1
    assert done.code == (1 if told["people"]["set_aside"] else 0)
    (tmp_path / "empty.vcf").write_bytes(b"")
    empty = run("merge", "empty.vcf", "e.vcf", cwd=tmp_path)
    assert empty.code in (0, 3), empty.err
    assert len(empty.err.splitlines()) >= 1


def test_the_record_says_whether_a_person_decided(run: Run, tmp_path: Path) -> None:
    ada = "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:{}\r\nN:{};;;\r\nEMAIL:{}\r\nEND:VCARD\r\n"
    (tmp_path / "a.vcf").write_text(
        ada.format("Ada Weir", "Weir;Ada", "ada@x.test")
        + ada.format("Ada Weir", "Weir;Ada", "ada@x.test")
        + ada.format("Bo Lock", "Lock;Bo", "keeper@x.test")
        + ada.format("Bo Lock", "Lock;Bo", "rowing@y.test"), newline=""
    )  # fmt: skip
    assert run("match", "a.vcf", "--sheet", "s.csv").code == 0
    sheet = (tmp_path / "s.csv").read_text(encoding="utf-8-sig")
    assert ",ask," in sheet
    decided = [line.replace(",,a.vcf", ",same,a.vcf", 1) if ",ask," in line else line
               for line in sheet.splitlines()]  # fmt: skip
    (tmp_path / "s.csv").write_text("\n".join(decided) + "\n", encoding="utf-8")
    done = run("merge", "a.vcf", "m.vcf", "--sheet", "s.csv")
    assert done.code == 0, done.err
    record = (tmp_path / "m.merges.jsonl").read_text(encoding="utf-8").splitlines()
    told = {each["name"]: each["decided"] for each in map(json.loads, record) if "name" in each}
    assert told == {"Ada Weir": False, "Bo Lock": True}
