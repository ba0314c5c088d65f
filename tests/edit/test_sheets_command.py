"""Sheets that people edit or tick in a spreadsheet program, and give back."""

from __future__ import annotations

import csv
import shutil
import subprocess
from pathlib import Path

import openpyxl
import pytest

from conftest import Run, at_terminal

HARM = """BEGIN:VCARD
VERSION:4.0
FN:Zoë Brontësluice
N:Brontësluice;Zoë;;;
TEL:+44 7700 900123
TEL;TYPE=home:01632 960001
TEL;TYPE=work:00447700900601
ADR:;;=1+1 Lock Lane;Łódź;;00123;Deutschland
BDAY:19800412
NOTE:line one\\nline two\\n\\n+ plus\\, 't Hart\\, 4.47701E+11
CATEGORIES:A\\;B,1/2,3-4
X-THING:kept
END:VCARD
BEGIN:VCARD
VERSION:4.0
FN:'t Hart
N:'t Hart;;;;
TEL:4477009001234567890
TEL:12
ADR:;;;;;0044;
BDAY:--0412
NOTE:=SUM(A1)
ORG:000;1E5
TITLE:TRUE
END:VCARD
BEGIN:VCARD
VERSION:4.0
FN:山田太郎
N;ALTID=1:山田;太郎;;;
N;ALTID=1;PHONETIC=script:やまだ;たろう;;;
EMAIL:@a@x.test
NOTE: leading and trailing
END:VCARD
"""
OFFICE = shutil.which("soffice")


def edit(path: Path, cells: dict[tuple[int, str], str], delete: int = 0) -> None:
    """Edit a workbook as a person does: cells by row and heading, and a row deleted."""
    book = openpyxl.load_workbook(path)
    sheet = book.worksheets[0]
    headings = [cell.value for cell in sheet[1]]
    for (row, heading), text in cells.items():
        sheet.cell(row, headings.index(heading) + 1).value = text
    if delete:
        sheet.delete_rows(delete)
    book.save(path)


def test_what_was_edited_is_shown_and_comes_back(run: Run, demo: Path) -> None:
    made = run("convert", "skippers.vcf", "s.xlsx", "--to-edit", cwd=demo)
    assert made.code == 0, made.err
    assert "32 people" in made.err
    edit(demo / "s.xlsx", {(2, "phone/cell"): "07700 900999", (3, "birthday"): "",
                           (4, "note"): "New note", (60, "name/given"): "Nia",
                           (60, "phone/cell"): "07700 900998"}, delete=6)  # fmt: skip
    shown = run("update", "skippers.vcf", "s.xlsx", "o.vcf", "--dry-run", cwd=demo)
    assert shown.code == 0
    assert "3 people edited (cells: 1 changed, 1 emptied, 1 added), 1 new, 1 deleted" in shown.err
    assert "'07700900388' → '07700 900999'" in shown.err
    assert "- record 5, Rosa Hythewater" in shown.err
    assert not (demo / "o.vcf").exists()
    assert run("update", "skippers.vcf", "s.xlsx", "o.vcf", cwd=demo).code == 2  # nobody answers
    done = run("update", "skippers.vcf", "s.xlsx", "o.vcf", "--yes", "--prove", cwd=demo)
    assert done.code == 0, done.err
    text = (demo / "o.vcf").read_text("utf-8")
    assert "FN:Rosa Hythewater" not in text
    assert "TEL;TYPE=cell;PREF=1:07700 900999" in text
    assert "N:;Nia;;;" in text
    assert text.count("BEGIN:VCARD") == 32
    kept = run("update", "skippers.vcf", "s.xlsx", "o.vcf", "--yes", "--force", cwd=demo)
    assert kept.code == 0
    later = run("update", "o.vcf", "s.xlsx", "p.vcf", "--yes", cwd=demo)
    assert later.code == 1
    assert "the book is not what it was" in later.err


def test_a_question_is_asked_at_a_terminal(run: Run, demo: Path) -> None:
    assert run("convert", "skippers.vcf", "s.xlsx", "--to-edit", cwd=demo).code == 0
    edit(demo / "s.xlsx", {(2, "note"): "Seen"})
    command = ("update", "skippers.vcf", "s.xlsx", "o.vcf")
    assert "nothing was written" in at_terminal(demo, [b"n\r"], *command)
    assert not (demo / "o.vcf").exists()
    assert "32 people as vCard" in at_terminal(demo, [b"y\r"], *command)


def test_a_table_keeps_its_layout_through_a_sheet(run: Run, demo: Path) -> None:
    args = ("--layout", "membership-ledger")
    assert run("convert", "ledger.csv", "l.xlsx", "--to-edit", *args, cwd=demo).code == 0
    edit(demo / "l.xlsx", {(2, "address/postcode"): "00QX4"})
    done = run("update", "ledger.csv", "l.xlsx", "l.csv", "--yes", *args, cwd=demo)
    assert done.code == 0, done.err
    plainly = run("convert", "ledger.csv", "p.csv", *args, "--to-layout", args[1], cwd=demo)
    assert plainly.code == 0
    before = (demo / "p.csv").read_bytes().splitlines()
    after = (demo / "l.csv").read_bytes().splitlines()
    changed = [(a, b) for a, b in zip(before, after, strict=True) if a != b]
    assert [b for _, b in changed] == [changed[0][0].replace(b"QX4 4AP", b"00QX4")]


@pytest.mark.skipif(OFFICE is None, reason="no spreadsheet program is installed")
def test_a_spreadsheet_program_harms_nothing(run: Run, tmp_path: Path) -> None:
    (tmp_path / "harm.vcf").write_text(HARM.replace("\n", "\r\n"), "utf-8", newline="")
    assert run("convert", "harm.vcf", "h.xlsx", "--to-edit").code == 0
    assert OFFICE is not None

    def saved_again() -> None:
        profile = f"-env:UserInstallation={(tmp_path / 'profile').as_uri()}"
        subprocess.run([OFFICE, profile, "--headless", "--convert-to", "xlsx", "--outdir", "back",
                        "h.xlsx"], cwd=tmp_path, check=True, capture_output=True,
                       timeout=300)  # fmt: skip

    saved_again()
    same = run("update", "harm.vcf", "back/h.xlsx", "same.vcf", "--yes", "--prove")
    assert same.code == 0, same.err
    assert "nothing was edited" in same.err
    assert "hidden sheet" not in same.err
    assert run("convert", "harm.vcf", "plain.vcf").code == 0
    assert (tmp_path / "same.vcf").read_bytes() == (tmp_path / "plain.vcf").read_bytes()
    edit(tmp_path / "h.xlsx", {(2, "phone"): "00441632960002", (2, "address/postcode"): "00987",
                               (3, "note"): "Ærø, =1+1", (9, "name/family"): "Nováková",
                               (9, "phone"): "+420 601 123 456"}, delete=4)  # fmt: skip
    saved_again()
    done = run("update", "harm.vcf", "back/h.xlsx", "done.vcf", "--yes")
    assert "2 people edited (cells: 3 changed), 1 new, 1 deleted" in done.err
    text = (tmp_path / "done.vcf").read_text("utf-8")
    for line in ("TEL:00441632960002", "Łódź;;00987;", "NOTE:Ærø\\, =1+1", "N:Nováková;;;;",
                 "TEL:+420 601 123 456", "BDAY:19800412", "X-THING:kept"):  # fmt: skip
        assert line in text


def test_mistakes_with_sheets_are_one_line(run: Run, demo: Path) -> None:
    assert run("convert", "skippers.vcf", "s.csv", "--to-edit", cwd=demo).code == 2
    assert run("convert", "skippers.vcf", "s.xlsx", "--to-edit", "--clean", cwd=demo).code == 2
    two = run("convert", "skippers.vcf", "newsletter.csv", "s.xlsx", "--to-edit", cwd=demo)
    assert (two.code, "one book" in two.err) == (2, True)
    assert run("convert", "skippers.vcf", "t.xlsx", cwd=demo).code == 0
    wrong = run("update", "skippers.vcf", "t.xlsx", "o.vcf", "--yes", cwd=demo)
    assert (wrong.code, "no column 'record'" in wrong.err) == (4, True)
    missing = run("update", "skippers.vcf", "none.xlsx", "o.vcf", "--yes", cwd=demo)
    assert (missing.code, len(missing.err.splitlines())) == (3, 1)
    assert run("convert", "skippers.vcf", "s.xlsx", "--to-edit", cwd=demo).code == 0
    itself = run("update", "skippers.vcf", "s.xlsx", "s.xlsx", "--yes", "--force", cwd=demo)
    assert itself.code == 5


@pytest.mark.parametrize("name", ["people.xlsx", "people.csv"])
def test_people_are_ticked_in_a_sheet(run: Run, demo: Path, name: str) -> None:
    args = ("pick", "skippers.vcf", "skippers-now.vcf", "crew.vcf", "--tick", name)
    made = run(*args, "--where", "phone present", cwd=demo)
    assert made.code == 0
    assert not (demo / "crew.vcf").exists()
    if name.endswith("xlsx"):
        edit(demo / name, {(3, "pick"): "x", (5, "pick"): "yes"})
    else:
        rows = list(csv.reader((demo / name).read_text("utf-8-sig").splitlines()))
        rows[2][0], rows[4][0] = "x", "yes"
        with (demo / name).open("w", newline="", encoding="utf-8") as stream:
            csv.writer(stream, delimiter=";").writerows(rows)
    done = run(*args, "--rest", "rest.vcf", cwd=demo)
    assert done.code == 0, done.err
    assert (demo / "crew.vcf").read_text("utf-8").count("BEGIN:VCARD") == 2
    assert (demo / "rest.vcf").read_text("utf-8").count("BEGIN:VCARD") == 54
    skippers = (demo / "skippers.vcf").read_text("utf-8").replace("FN:K", "FN:Q", 1)
    (demo / "skippers.vcf").write_text(skippers, "utf-8", newline="")
    later = run(*args, "--force", cwd=demo)
    assert later.code == 1
    assert "is not what it was when the sheet was made; not picked" in later.err
    wrong = run("pick", "skippers.vcf", "x.vcf", "--tick", "newsletter.csv", cwd=demo)
    assert wrong.code == 4


def test_categories_are_renamed_merged_and_removed(run: Run, demo: Path) -> None:
    for command in ("pick", "convert"):
        some = ("--where", "category present") if command == "pick" else ()
        done = run(command, "skippers.vcf", f"{command}.vcf", *some, "--rename-category",
                   "first AID=Skippers", "--rename-category", "Cooks=Galley", "--prove",
                   cwd=demo)  # fmt: skip
        assert done.code == 0, done.err
        assert "category 'Skippers' merged" in done.err
        text = (demo / f"{command}.vcf").read_text("utf-8")
        assert "First aid" not in text
        assert "CATEGORIES:Skippers\r\n" in text.replace("\n", "\r\n").replace("\r\r", "\r")
    gone = run("convert", "skippers.vcf", "g.vcf", "--remove-category", "SKIPPERS", cwd=demo)
    assert "category 'Skippers' removed" in gone.err
    assert "Skippers" not in "".join(
        line for line in (demo / "g.vcf").read_text("utf-8").splitlines() if "CATEG" in line
    )
    assert run("convert", "skippers.vcf", "x.vcf", "--rename-category", "A", cwd=demo).code == 2
