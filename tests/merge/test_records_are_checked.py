"""A merge record that is not what was written; decisions in whatever book and order."""

from __future__ import annotations

import itertools
import json
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from books_in_tests import card
from conftest import Run

ONE = ("FN:Ada Weir", "N:Weir;Ada;;;", "EMAIL:ada@x.test", "TEL:+12015550101", "BDAY:1980-04-12")
TWO = ("FN:Ada Weir", "N:Weir;Ada;;;", "EMAIL:ada@x.test", "TEL:+12015550101", "NOTE:hello")


def merged(run: Run, folder: Path) -> dict[str, Any]:
    """The line of the record of a merge of two."""
    (folder / "two.vcf").write_text(card(*ONE) + card(*TWO))
    assert run("merge", "two.vcf", "m.vcf").code == 0
    found: dict[str, Any] = json.loads((folder / "m.merges.jsonl").read_text())
    return found


def unchecked(line: dict[str, Any]) -> dict[str, Any]:
    """The line as the first version wrote it, without a checksum."""
    return {key: value for key, value in line.items() if key != "checksum"} | {"schema": 1}


CHANGES: dict[str, Callable[[dict[str, Any]], str]] = {
    "its checksum does not agree": lambda line: json.dumps(line | {"name": "Bo"}),
    "checksum does not agree": lambda line: json.dumps(
        {k: v for k, v in line.items() if k != "checksum"}
    ),
    "its schema is 99": lambda line: json.dumps(line | {"schema": 99}),
    "two originals at least": lambda line: json.dumps(unchecked(line) | {"originals": []}),
    "a pointer is an object": lambda line: json.dumps(unchecked(line) | {"pointers": [1]}),
    "is not a line of a merge record": lambda line: json.dumps(line)[:-40],
    "it is not an object": lambda _: "[]",
    "nested too deeply": lambda _: "[" * 100_000,
}


@pytest.mark.parametrize("told", CHANGES)
def test_a_record_that_was_changed_is_told_and_nothing_done(
    run: Run, tmp_path: Path, told: str
) -> None:
    line = merged(run, tmp_path)
    (tmp_path / "r.jsonl").write_text(CHANGES[told](line) + "\n")
    done = run("unmerge", "m.vcf", "r.jsonl", "x.vcf", "--all")
    assert (done.code, done.err.count("\n")) == (4, 1)
    assert told in done.err
    assert not (tmp_path / "x.vcf").exists()


def test_what_no_original_accounts_for_stays_and_is_told(run: Run, tmp_path: Path) -> None:
    line = unchecked(merged(run, tmp_path))
    for original in line["originals"]:
        original["properties"] = [each for each in original["properties"] if each[0] != "note"]
    (tmp_path / "r.jsonl").write_text(json.dumps(line) + "\n")
    done = run("unmerge", "m.vcf", "r.jsonl", "x.vcf", "--all")
    assert done.code == 0
    assert "no original of the record says note 'hello': it stays with two.vcf:1" in done.err
    assert (tmp_path / "x.vcf").read_text().count("NOTE:hello") == 1


def test_the_merges_of_a_record_are_listed(run: Run, tmp_path: Path) -> None:
    merged(run, tmp_path)
    done = run("unmerge", "m.vcf", "m.merges.jsonl", "--list")
    assert (done.code, done.err) == (0, "")
    assert "Ada Weir  two.vcf:1, two.vcf:2" in done.out
    told = json.loads(run("unmerge", "m.vcf", "m.merges.jsonl", "--list", "--json").out)
    assert [(each["merge"], each["in_book"]) for each in told["merges"]] == [("1", True)]
    assert [path.name for path in tmp_path.glob("*unmerged*")] == []


GROUPS: dict[str, list[tuple[str, ...]]] = {
    "numbers of their own": [("First", "Last", "Mail", "Mobile"),
        *[("Ada", "Weir", "ada@x.test", f"0770090005{n}") for n in range(4)]],
    "nothing of their own": [("First", "Last", "Mail", "Mobile"),
        *[("Ada", "Weir", "ada@x.test", "07700900050")] * 3],
    "a junior": [("First", "Last", "Suffix", "Mail", "Mobile"),
        ("Ada", "Weir", "", "ada@x.test", "07700900050"),
        ("Ada", "Weir", "", "ada@x.test", "07700900051"),
        ("Ada", "Weir", "", "ada@x.test", "07700900052")],
}  # fmt: skip


@pytest.mark.parametrize("kind", GROUPS)
@pytest.mark.parametrize("order", range(4))
def test_what_was_taken_back_stays_apart_in_any_book_and_order(
    run: Run, tmp_path: Path, kind: str, order: int
) -> None:
    rows = GROUPS[kind]
    (tmp_path / "many.csv").write_text("\n".join(map(",".join, rows)) + "\n")
    assert run("merge", "many.csv", "m.vcf", "--region", "GB").code == 0
    assert (tmp_path / "m.vcf").read_text().count("BEGIN:VCARD") == 1
    assert run("unmerge", "m.vcf", "m.merges.jsonl", "a.vcf", "--all").code == 0
    cards = (tmp_path / "a.vcf").read_text().split("BEGIN:VCARD")[1:]
    random.Random(order).shuffle(cards)
    (tmp_path / "other.vcf").write_text("".join(f"BEGIN:VCARD{each}" for each in cards))
    done = run("merge", "other.vcf", "again.vcf", "--region", "GB")
    pairs = len(list(itertools.combinations(cards, 2)))
    assert f"{pairs} pairs decided before" in done.err
    assert (tmp_path / "again.vcf").read_text().count("BEGIN:VCARD") == len(cards)


def test_decisions_of_people_who_are_not_there_are_told(run: Run, tmp_path: Path) -> None:
    merged(run, tmp_path)
    assert run("unmerge", "m.vcf", "m.merges.jsonl", "a.vcf", "--all").code == 0
    (tmp_path / "b.vcf").write_text(card("FN:Bo Lock", "EMAIL:bo@x.test") * 2)
    assert "1 decision of people who are not in these books" in run("merge", "b.vcf", "c.vcf").err
