"""The rows of the sheet: leads, those that are the same, and those of whom it is asked."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from books_in_tests import card, read_cards
from roundcard.books.transaction import Transaction
from roundcard.match.features import features_of
from roundcard.match.matching import Matches, matches_of
from roundcard.match.sheet import HEADINGS, alike, places_of, rows_of, shown_of, write_sheet

BOOK = "".join([
    card("N:Weir;Ada;;;", "FN:Ada Weir", "EMAIL:ada@x.test", "TEL:07700 900123"),
    card("N:Weir;Ada;;;", "FN:Ada Weir", "EMAIL:ada@x.test"),
    card("N:Lock;Ada;;;", "FN:Ada Lock", "TEL:07700900123"),
    card("N:Lock;Ada;;;", "FN:Ada Lock", "TEL:+44 7700 900123", "ADR:;;1 Mill St;Withy;;QX1 2AB;"),
    card("N:Pound;Bo;;;", "FN:=Bo", "EMAIL:bo@x.test", "ORG:Withy", "BDAY:1980-04-12"),
    card("N:Pound;Bo;;;", "FN:=Bo", "EMAIL:bo@x.test"),
    card("FN:Cy Hale"),
])  # fmt: skip


def found() -> Matches:
    return matches_of(features_of(read_cards(BOOK), "GB"))


def test_rows_are_leads_the_same_and_questions() -> None:
    rows = list(rows_of(found()))
    assert [(row.group, row.verdict, row.contact) for row in rows] == [
        ("1", "lead", 0), ("1", "same", 1), ("1.2", "ask", 2), ("1.2", "same", 3),
        ("2", "lead", 4), ("2", "same", 5),
    ]  # fmt: skip
    assert rows[0].score is None
    assert rows[0].reasons == ()
    assert "same e-mail address, which tells the name" in {each.what for each in rows[1].reasons}
    asked = {reason.what for reason in rows[2].reasons}
    assert {"same mobile number", "family names differ"} <= asked


@pytest.mark.parametrize("name", ["s.csv", "s.CSV"])
def test_the_sheet_has_its_columns_and_a_row_a_contact(tmp_path: Path, name: str) -> None:
    matches = found()
    people = shown_of(read_cards(BOOK), places_of(matches))
    path = tmp_path / name
    with Transaction(path) as files:
        assert write_sheet(files, path, matches, people, ["book.vcf"], force=False) == 6
        files.commit()
    rows = list(csv.DictReader(path.read_text("utf-8-sig").splitlines()))
    assert list(rows[0]) == HEADINGS
    assert {row["decision"] for row in rows} == {""}
    assert [row["record"] for row in rows] == ["1", "2", "3", "4", "5", "6"]
    assert rows[3]["address"] == "1 Mill St, Withy, QX1 2AB"
    assert (rows[4]["organisation"], rows[4]["birthday"]) == ("Withy", "1980-04-12")
    assert rows[1]["reasons"].startswith("'+")  # guarded against running as a formula
    assert rows[0]["score"] == ""


def test_nothing_to_tell_is_a_sheet_of_headings(tmp_path: Path) -> None:
    matches = matches_of(features_of(read_cards(card("FN:Cy Hale"))))
    path = tmp_path / "s.csv"
    with Transaction(path) as files:
        assert write_sheet(files, path, matches, {}, ["b"], force=False) == 0
        files.commit()
    assert path.read_text("utf-8-sig").splitlines() == [",".join(HEADINGS)]


ALIKE = [
    ("phone", "07700 900123", "+44 7700 900123; 01632 960001", True),
    ("phone", "07700 900123", "07700 900124", False),
    ("email", "Ada@X.test", "ada@x.test; b@x.test", True),
    ("email", "a@x.test", "b@x.test", False),
    ("name", "Weir, Ada", "ADA WEIR", True),
    ("name", "Ada Weir", "Ada Lock", False),
    ("address", "1 Lock Lane, Withy", "1 lock lane,  Withy", True),
    ("organisation", "Withy", "Withy Trust", False),
    ("birthday", "1980-04-12", "1980-04-12", True),
]


@pytest.mark.parametrize(("heading", "one", "other", "same"), ALIKE)
def test_cells_that_say_the_same(heading: str, one: str, other: str, same: bool) -> None:
    assert alike(heading, one, other) is same
    assert alike(heading, other, one) is same
