"""Whatever a book is written in, it opens whole."""

from __future__ import annotations

import base64
import json
import zipfile
from pathlib import Path

import openpyxl
import pytest

from conftest import Run
from roundcard.books.target import safe_name

PEOPLE = [
    ("Jürgen Müller", "juergen@x.test", "01632 960001", 'Says "hello", often'),
    ("Zoë Lefèvre", "zoe@x.test", "+44 1632 960002", "two\nlines"),
    ("Ada Weir", "", "01632 960003", "a; b, c | d"),
]


def table(separator: str = ",", end: str = "\r\n", backslash: bool = False, above: str = "") -> str:
    lines = [separator.join(["Name", "E-mail", "Phone", "Note"])]
    for person in PEOPLE:
        quote = '\\"' if backslash else '""'
        lines.append(separator.join(f'"{cell.replace(chr(34), quote)}"' for cell in person))
    return above + end.join(lines) + end


TABLES = {
    "commas": table().encode(),
    "semicolons, windows-1252": table(";").encode("cp1252"),
    "tabs, UTF-16": table("\t").encode("utf-16"),
    "tabs, UTF-16 without a mark": table("\t").encode("utf-16-le"),
    "bars, Mac Roman, old breaks": table("|", "\r").encode("mac-roman"),
    "a mark": table().encode("utf-8-sig"),
    "code page 850, LF": table(";", "\n").encode("cp850"),
    "ISO-8859-1": table(";").encode("latin-1"),
    "quotes behind a backslash": table(backslash=True).encode(),
    "a line that says the separator": table(";", above="sep=;\r\n").encode(),
    "a title and a blank row above": table(above="Members of the club\r\n\r\n").encode(),
    "blank rows and totals": (table(";") + ";;;\r\n\r\nTotal;3;;\r\n").encode(),
}


@pytest.mark.parametrize("case", TABLES)
def test_however_a_table_is_saved_it_holds_the_same_people(
    run: Run, tmp_path: Path, case: str
) -> None:
    wanted, source = tmp_path / "wanted.csv", tmp_path / "book.csv"
    wanted.write_bytes(TABLES["commas"])
    source.write_bytes(TABLES[case])
    assert run("convert", wanted, "wanted.vcf", "--prove").code == 0
    done = run("convert", source, "book.vcf", "--prove")
    assert done.code == (1 if "totals" in case else 0), done.err
    assert (tmp_path / "book.vcf").read_bytes() == (tmp_path / "wanted.vcf").read_bytes()


def test_what_is_guessed_is_told_and_overruled(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_bytes("Name;Email\nRenée;r@x.test\n".encode("cp1252"))
    told = json.loads(run("convert", "a.csv", "a.vcf", "--json").out)["sources"][0]
    assert (told["encoding"], told["separator"]) == ("windows-1252", "semicolon")
    assert told["encoding_sureness"] < 0.9
    assert "% sure)" in run("convert", "a.csv", "b.vcf").err
    args = ["--encoding", "iso-8859-5", "--separator", ";", "--heading-row", "1"]
    done = run("convert", "a.csv", "c.vcf", *args)
    assert "iso-8859-5, semicolon" in done.err
    assert "Renщe" in (tmp_path / "c.vcf").read_text(encoding="utf-8")
    assert run("convert", "a.csv", "d.vcf", "--encoding", "klingon").code == 2
    done = run("convert", "a.csv", "d.vcf", "--heading-row", "900")
    assert (done.code, done.err.count("\n")) == (3, 1)
    assert "--heading-row is 900" in done.err
    assert run("convert", "a.csv", "d.vcf", "--separator", "mixed").code == 2


def test_a_table_without_headings_is_read_by_its_cells(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Emma Bo,a@x.test\nPaul Cy,b@x.test\n", encoding="utf-8")
    done = run("convert", "a.csv", "b.vcf")
    assert (done.code, "2 of 2 columns understood" in done.err) == (0, True)
    assert (tmp_path / "b.vcf").read_text(encoding="utf-8").count("FN:Emma Bo") == 1
    (tmp_path / "l.toml").write_text(
        'name = "l"\n[table]\nheading_row = 0\n[[column]]\nnumber = 1\nholds = "name/full"\n'
        '[[column]]\nnumber = 2\nholds = "email"\n', encoding="utf-8"
    )  # fmt: skip
    done = run("convert", "a.csv", "a.vcf", "--layout", "l.toml", "--prove")
    assert "2 records read again" in done.err


def test_what_a_spreadsheet_did_is_told(run: Run, tmp_path: Path) -> None:
    rows = ["name,phone,birthday,address/postcode"]
    rows += [f"P{n},0117 496 000{n},13/02/199{n},0106{n}" for n in range(5)]
    rows += [f"Q{n},117496000{n},02/13/199{n},{80330 + n}" for n in range(5)]
    rows += ["R,4.47701E+11,32874,80331", "S,+44 1,1.2.1990,1067"]
    (tmp_path / "a.csv").write_text("\n".join(rows), encoding="utf-8")
    told = run("convert", "a.csv", "a.vcf").err
    assert "column 'phone': numbers in scientific notation, whose last digits are gone" in told
    assert "5 numbers of digits alone begin without the 0 that 5 others begin with" in told
    assert "a number where a date is expected: a spreadsheet's count of days?" in told
    rows = [row.replace("0106", "1106").replace(",32874", ",1.3.90") for row in rows]
    (tmp_path / "b.csv").write_text("\n".join(rows), encoding="utf-8")
    told = run("convert", "b.csv", "b.vcf").err
    assert "1 post codes have 4 digits where 11 have 5" in told
    assert "dates in two orders, 5 with the day first and 5 with the month first; 2 could" in told


def test_a_workbook_and_back(run: Run, tmp_path: Path, demo: Path) -> None:
    done = run("convert", demo / "skippers.vcf", "s.xlsx", "--prove")
    assert "proved: 32 records" in done.err
    sheet = openpyxl.load_workbook(tmp_path / "s.xlsx").active
    assert sheet is not None
    assert sheet.freeze_panes == "A2"
    assert {cell.data_type for row in sheet for cell in row if cell.value} == {"s"}
    (tmp_path / "as csv").mkdir()
    assert run("convert", demo / "skippers.vcf", "as csv/s.csv").code == 0
    (tmp_path / "again").mkdir()
    assert run("convert", "s.xlsx", "again/s.csv").code == 0
    wanted = (tmp_path / "as csv" / "s.csv").read_bytes()
    assert (tmp_path / "again" / "s.csv").read_bytes() == wanted


def test_what_a_spreadsheet_program_saved_is_read(run: Run, tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.append(["Name", "Phone", "Postal code", "Birthday", "Note"])
    import datetime

    sheet.append(["Ada", 1632960001, 1067, datetime.date(1980, 4, 12), "=A2"])
    sheet["C2"].number_format = "00000"
    other = book.create_sheet("Old")
    other.append(["Name", "E-mail"])
    other.append(["Bob", "b@x.test"])
    book.save(tmp_path / "b.xlsx")
    told = run("convert", "b.xlsx", "b.vcf").err
    text = (tmp_path / "b.vcf").read_text(encoding="utf-8")
    for line in ("TEL:1632960001", "01067", "BDAY:19800412", "NOTE:=A2"):
        assert line in text
    for what in ("sheets that were not read: 'Old'; --sheet names one", "leading zeros may be gone",
                 "formulas that were never worked out", "read as ISO 8601"):  # fmt: skip
        assert what in told
    assert run("convert", "b.xlsx", "c.vcf", "--sheet", "old").code == 0
    assert "b@x.test" in (tmp_path / "c.vcf").read_text(encoding="utf-8")
    assert "sheet 'x' not found" in run("convert", "b.xlsx", "d.vcf", "--sheet", "x").err


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("xl/x.xml", b"0" * 200_000_000),
        (
            "xl/worksheets/sheet1.xml",
            b"<!DOCTYPE x [<!ENTITY a 'a'><!ENTITY b '&a;&a;'>]><x>&b;</x>",
        ),
    ],
)
def test_a_trap_is_refused(run: Run, tmp_path: Path, name: str, content: bytes) -> None:
    good = tmp_path / "good.xlsx"
    book = openpyxl.Workbook()
    book.save(good)
    with zipfile.ZipFile(good) as old, zipfile.ZipFile(tmp_path / "t.xlsx", "w", 8) as trap:
        for each in old.namelist():
            if each != name:
                trap.writestr(each, old.read(each))
        trap.writestr(name, content)
    done = run("convert", "t.xlsx", "t.vcf")
    assert done.code == 3
    assert done.err.count("\n") == 1


PHOTO = base64.b64encode(b"\x89PNG not really").decode()
CARDS = [
    ("Ada Weir", f"PHOTO:data:image/png;base64,{PHOTO}\n"),
    ("ada weir", "TEL:1\n"),
    ("../../etc/passwd", "TEL:2\n"),
    ("CON", "TEL:3\n"),
    ("Åsa", "TEL:4\n"),
    ("A\u030asa", "TEL:5\n"),
    ("", "TEL:6\n"),
]


def cards(tmp_path: Path) -> Path:
    text = "".join(
        f"BEGIN:VCARD\nVERSION:4.0\nFN:{name}\n{more}END:VCARD\n" for name, more in CARDS
    )
    (tmp_path / "book.vcf").write_text(text, encoding="utf-8")
    return tmp_path / "book.vcf"


def test_one_file_a_person_and_the_folder_again(run: Run, tmp_path: Path) -> None:
    source = cards(tmp_path)
    done = run("convert", source, "--split-into", "people", "--prove")
    assert done.code == 0
    assert "proved: 7 records" in done.err
    names = sorted(path.name for path in (tmp_path / "people").iterdir())
    assert names == sorted(["Ada Weir.vcf", "ada weir (2).vcf", "etc passwd.vcf", "CON_.vcf",
                            "Åsa.vcf", "Åsa (2).vcf", "6.vcf"])  # fmt: skip
    (tmp_path / "people" / "readme.txt").write_text("hello", encoding="utf-8")
    done = run("convert", "people", "all.vcf", "--to", "vcard-4.0")
    assert "people: 7 files, vCard 4.0" in done.err
    assert "1 files that are neither cards nor tables were not read ('readme.txt')" in done.err
    assert sorted((tmp_path / "all.vcf").read_text(encoding="utf-8").split("BEGIN")) == sorted(
        run("convert", source, "-", "--to", "vcard-4.0", "-q").out.replace("\r", "").split("BEGIN")
    )
    assert "already contains 8 files" in run("convert", source, "--split-into", "people").err
    done = run("convert", source, "--split-into", "people", "--force")
    assert "contains 'readme.txt', which is not a card" in done.err
    (tmp_path / "people" / "readme.txt").unlink()
    assert run("convert", source, "--split-into", "people", "--force").code == 0
    assert "never overwritten" in run("convert", "people", "--split-into", "people", "--force").err
    assert not list(tmp_path.glob(".*"))


@pytest.mark.parametrize(
    ("name", "safe"),
    [("a/b\\c:d", "a b c d"), ("  .hidden. ", "hidden"), ("nul.txt", "nul.txt_"), ("\n", "contact"),
     ("é" * 200, "é" * 60), ("COM1", "COM1_"), ("a\u202eb", "ab"), ("..", "contact")],
)  # fmt: skip
def test_names_of_files_are_safe(name: str, safe: str) -> None:
    assert safe_name(name) == safe


def test_photos_beside_a_table_and_back(run: Run, tmp_path: Path) -> None:
    source = cards(tmp_path)
    assert "photos: t.photos" in run("convert", source, "t.csv", "--prove").err
    assert (tmp_path / "t.photos" / "1.png").read_bytes() == b"\x89PNG not really"
    assert run("convert", "t.csv", "back.vcf").code == 0
    assert PHOTO in (tmp_path / "back.vcf").read_text(encoding="utf-8")
    assert "t.photos already exists" in run("convert", source, "t.xlsx").err
    secret = tmp_path.parent / "secret.png"
    secret.write_bytes(b"secret")
    rows = "name,photo\n" + "".join(
        f"P,{name}\n" for name in ("../secret.png", str(secret), "t.photos/none.png", "t.photos")
    )
    (tmp_path / "evil.csv").write_text(rows, encoding="utf-8")
    done = run("convert", "evil.csv", "evil.vcf")
    assert "photos whose files were not found; the names were kept (record 1, record 2" in done.err
    assert "c2VjcmV0" not in (tmp_path / "evil.vcf").read_text(encoding="utf-8")


GROUP = ("BEGIN:VCARD\nVERSION:4.0\nFN:Cooks\nKIND:group\nUID:urn:uuid:g\nMEMBER:urn:uuid:A\n"
         "MEMBER:mailto:b@x.test\nEND:VCARD\n")  # fmt: skip
MEMBERS = ("BEGIN:VCARD\nVERSION:4.0\nFN:Ada\nUID:urn:uuid:a\nCATEGORIES:Crew\nEND:VCARD\n"
           "BEGIN:VCARD\nVERSION:4.0\nFN:Bob\nEMAIL:b@x.test\nEND:VCARD\n")  # fmt: skip


def test_a_group_becomes_categories_and_comes_home(run: Run, tmp_path: Path) -> None:
    (tmp_path / "g.vcf").write_text(GROUP + MEMBERS, encoding="utf-8")
    assert run("convert", "g.vcf", "plain.vcf", "--to", "vcard-4.0").code == 0
    for way in ("vcard-3.0", "vcard-2.1"):
        assert run("convert", "g.vcf", "there.vcf", "--to", way, "--force", "--prove").code == 0
        there = (tmp_path / "there.vcf").read_text(encoding="utf-8")
        assert there.replace("=\n", "").count(":Cooks\n") == 3
        run("convert", "there.vcf", "back.vcf", "--to", "vcard-4.0", "--force", "--prove")
        back = (tmp_path / "back.vcf").read_text(encoding="utf-8").replace("N:;;;;\n", "")
        assert back == (tmp_path / "plain.vcf").read_text(encoding="utf-8")
    told = json.loads(run("convert", "g.vcf", "t.csv", "--json").out)
    assert told["people"]["folded"] == 1
    text = (tmp_path / "t.csv").read_text(encoding="utf-8")
    assert text.splitlines()[1:] == ["Ada,,Crew; Cooks,urn:uuid:a", "Bob,b@x.test,Cooks,"]
    (tmp_path / "h.vcf").write_text(GROUP.replace(":A\n", ":z\n") + MEMBERS, encoding="utf-8")
    told = json.loads(run("convert", "h.vcf", "u.csv", "--json").out)
    assert told["people"]["left_behind"] == 1
    assert told["side_files"] == ["u.left-behind.vcf"]
