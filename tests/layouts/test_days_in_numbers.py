"""Dates that a spreadsheet turned into numbers, and years of two digits."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import openpyxl
import pytest

from conftest import Run
from roundcard.values.dates import PartialDate, date_style

NAMES = '[[column]]\nheading = "Name"\nholds = "name/full"\n'
SERIALS = "Name,Born\nAda Weir,20000\nBo Lock,20311\nCy Sluice,20622\n"


@pytest.mark.parametrize(
    ("style", "number", "iso"),
    [
        ("day-number", "20000", "1954-10-03"),
        ("day-number", "20000.0", "1954-10-03"),
        ("day-number", "1", "1900-01-01"),
        ("day-number", "59", "1900-02-28"),
        ("day-number", "61", "1900-03-01"),
        ("day-number-1904", "1", "1904-01-02"),
        ("day-number-1904", "18538", "1954-10-03"),
    ],
)
def test_a_count_of_days_is_a_day(style: str, number: str, iso: str) -> None:
    found = date_style(style).read(number)
    assert found is not None
    assert found.iso() == iso
    assert date_style(style).write(found) == number.removesuffix(".0")


@pytest.mark.parametrize("text", ["60", "0", "9999999", "soon", "20000.5", "-1", ""])
def test_what_counts_no_day_is_left(text: str) -> None:
    assert date_style("day-number").read(text) is None


@pytest.mark.parametrize("text", ["1980-04-12", "--04-12"])
def test_a_date_between_the_numbers_is_read(text: str) -> None:
    found = date_style("day-number").read(text)
    assert found is not None
    assert found.iso() == text


def test_only_a_whole_date_of_that_time_has_a_number() -> None:
    for partial in (PartialDate(1980), PartialDate(0, 4, 12), PartialDate(1899, 12, 1)):
        assert date_style("day-number").write(partial) == partial.iso()


def layout(path: Path, born: str = "", table: str = "") -> str:
    text = (
        f'name = "l"\n[table]\n{table}\n{NAMES}[[column]]\nheading = "Born"\nholds = "birthday"\n'
    )
    path.write_text(text + born)
    return str(path)


def days(path: Path) -> list[str]:
    return [line for line in path.read_text().split("\n") if line.startswith("BDAY")]


READ = ["BDAY:19541003", "BDAY:19550810", "BDAY:19560616"]
AS_THEY_ARE = [f"BDAY;VALUE=text:{number}" for number in ("20000", "20311", "20622")]


def test_every_way_of_looking_tells_them(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text(SERIALS)
    plain = layout(tmp_path / "l.toml")
    assert "day-number" in run("survey", "a.csv").out
    assert "3 dates are numbers" in run("survey", "a.csv", "--layout", plain).out
    assert "expected" in run("preview", "a.csv", "--layout", plain, "--finding").out
    checked = run("layout", "check", plain, "a.csv")
    assert checked.code == 1
    assert "3 dates are numbers" in checked.out
    numbered = layout(tmp_path / "n.toml", 'date = "day-number"\n')
    assert run("layout", "check", numbered, "a.csv").code == 0
    assert run("layout", "draft", "a.csv", "-o", "drafted.toml").code == 0
    assert 'date = "day-number"' in (tmp_path / "drafted.toml").read_text()


def test_a_layout_reads_and_writes_them(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text(SERIALS)
    plain = layout(tmp_path / "l.toml")
    numbered = layout(tmp_path / "n.toml", 'date = "day-number"\n')
    done = run("convert", "a.csv", "a.vcf", "--layout", plain)
    assert (done.code, days(tmp_path / "a.vcf")) == (0, AS_THEY_ARE)
    assert "3 × column 'Born': a number where a date is expected" in done.err
    assert run("convert", "a.csv", "b.vcf", "--layout", numbered).code == 0
    assert days(tmp_path / "b.vcf") == READ
    assert run("convert", "b.vcf", "c.csv", "--to-layout", numbered).code == 0
    assert (tmp_path / "c.csv").read_text().split() == SERIALS.split()
    slashed = layout(tmp_path / "d.toml", 'date = "day/month/year"\n')
    told = run("convert", "a.vcf", "d.csv", "--to-layout", slashed).err
    assert "3 × column 'Born': text that is no date, written as it is (record 1" in told


def test_cleaning_is_sure_where_all_are_numbers(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text(SERIALS)
    plain = layout(tmp_path / "l.toml")
    assert run("convert", "a.csv", "a.vcf", "--layout", plain, "--clean").code == 0
    assert days(tmp_path / "a.vcf") == READ
    (tmp_path / "b.csv").write_text(SERIALS + "Di Berth,1980-04-12\n")
    told = run("convert", "b.csv", "b.vcf", "--layout", plain, "--clean")
    assert days(tmp_path / "b.vcf") == [*AS_THEY_ARE, "BDAY:19800412"]
    assert "date-number: 3 values to decide" in told.err + told.out


def test_a_number_of_a_workbook_is_sure_beside_dates(run: Run, tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in (["Name", "Born"], ["Ada Weir", 20000], ["Bo Lock", date(1980, 4, 12)]):
        sheet.append(row)
    book.save(tmp_path / "a.xlsx")
    plain = layout(tmp_path / "l.toml")
    assert run("convert", "a.xlsx", "a.vcf", "--layout", plain, "--clean").code == 0
    assert days(tmp_path / "a.vcf") == ["BDAY:19541003", "BDAY:19800412"]


def test_years_of_two_digits_by_what_somebody_said(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Name,Born\nAda Weir,13/5/29\nBo Lock,14/5/30\n")
    slashed = 'date = "day/month/year"\n'
    plain = layout(tmp_path / "l.toml", slashed)
    assert run("convert", "a.csv", "a.vcf", "--layout", plain).code == 0
    assert days(tmp_path / "a.vcf") == ["BDAY;VALUE=text:13/5/29", "BDAY;VALUE=text:14/5/30"]
    pivot = layout(tmp_path / "p.toml", slashed, "years_from = 1930")
    assert run("convert", "a.csv", "b.vcf", "--layout", pivot).code == 0
    assert days(tmp_path / "b.vcf") == ["BDAY:20290513", "BDAY:19300514"]
    (tmp_path / "rules.toml").write_text("years_from = 1930\n")
    bare = layout(tmp_path / "b.toml")
    done = run(
        "convert", "a.csv", "c.vcf", "--layout", bare, "--clean", "--rules-file", "rules.toml"
    )
    assert done.code == 0
    assert days(tmp_path / "c.vcf") == ["BDAY:20290513", "BDAY:19300514"]


@pytest.mark.parametrize(
    ("table", "born", "told"),
    [
        ("years_from = 30", "", "'years_from' is the first of the hundred years"),
        ("", 'date = "day-numbers"\n', "'numbers' is not a part of a date"),
        ("", 'date = "spreadsheet"\n', "'day-number' for days that a spreadsheet counts"),
    ],
)
def test_bad_keys_are_one_line(run: Run, tmp_path: Path, table: str, born: str, told: str) -> None:
    done = run("layout", "check", layout(tmp_path / "l.toml", born, table))
    assert done.code == 4
    assert told in done.err
