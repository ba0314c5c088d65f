"""Small files that would fill memory or time, and files that are broken: one line each."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import pytest

from books_in_tests import card
from conftest import Run

DEEP = {
    "rules": ("clean", "a.vcf", "b.vcf", "--rules-file", "f"),
    "layout": ("convert", "a.vcf", "b.csv", "--to-layout", "f.toml"),
    "decisions": ("match", "a.vcf", "--decisions", "f"),
    "record": ("unmerge", "a.vcf", "f", "b.vcf", "--all"),
}


@pytest.mark.parametrize("kind", DEEP)
@pytest.mark.parametrize(
    "text",
    ["a = " + "[" * 5_000, "[" * 100_000, ".".join("a" * 20_000) + "=1", "a = " + "{a=" * 3_000],
)
def test_what_is_nested_without_end_is_one_line(
    run: Run, tmp_path: Path, kind: str, text: str
) -> None:
    (tmp_path / "a.vcf").write_text(card("FN:Ada Weir", "N:Weir;Ada;;;"))
    for name in ("f", "f.toml"):
        (tmp_path / name).write_text(text)
    done = run(*DEEP[kind])
    assert (done.code, done.err.count("\n"), done.out) == (4, 1, "")
    assert not (tmp_path / "b.vcf").exists()


def test_a_pattern_without_end_is_stopped_and_told(run: Run, tmp_path: Path) -> None:
    (tmp_path / "r.toml").write_text(
        '[[replace]]\nfield = "note"\nfind = "(?:a|a|b|ab)+c"\nwith = "x"\npattern = true\n'
    )
    (tmp_path / "a.vcf").write_text(card("FN:Ada Weir", "NOTE:" + "ab" * 60 + "!"))
    done = run("clean", "a.vcf", "b.vcf", "--rules-file", "r.toml")
    assert done.code in (0, 4)
    if "takes too long" in done.err:
        assert "'(?:a|a|b|ab)+c' takes too long for this value" in done.err
        assert "record 1" in done.err


def sheet(path: Path, rows: str) -> None:
    """A workbook by hand, with shared strings."""
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    doc = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    pack = "http://schemas.openxmlformats.org/package/2006"
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml"
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{pack}/content-types"><Default Extension="rels" '
        'ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        f'<Override PartName="/xl/workbook.xml" ContentType="{kind}.sheet.main+xml"/>'
        f'<Override PartName="/xl/worksheets/sheet1.xml" ContentType="{kind}.worksheet+xml"/>'
        f'<Override PartName="/xl/sharedStrings.xml" ContentType="{kind}.sharedStrings+xml"/>'
        "</Types>",
        "_rels/.rels": f'<Relationships xmlns="{pack}/relationships"><Relationship Id="r1" '
        f'Type="{doc}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook xmlns="{main}" xmlns:r="{doc}"><sheets>'
        '<sheet name="s" sheetId="1" r:id="r1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{pack}/relationships">'
        f'<Relationship Id="r1" Type="{doc}/worksheet" Target="worksheets/sheet1.xml"/>'
        f'<Relationship Id="r2" Type="{doc}/sharedStrings" Target="sharedStrings.xml"/>'
        "</Relationships>",
        "xl/sharedStrings.xml": f'<sst xmlns="{main}"><si><t>Name</t></si><si><t>E-mail</t></si>'
        "<si><t>Ada Weir</t></si></sst>",
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{main}"><sheetData>{rows}</sheetData>'
        "</worksheet>",
    }
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in parts.items():
            archive.writestr(name, f'<?xml version="1.0"?>{text}')


def cell(at: str, value: str, kind: str = "s") -> str:
    return f'<c r="{at}" t="{kind}"><v>{value}</v></c>'


HEAD = f'<row r="1">{cell("A1", "0")}{cell("B1", "1")}</row><row r="2">{cell("A2", "2")}</row>'


@pytest.mark.parametrize(("value", "kind"), [("-1", "s"), ("77", "s"), ("abc", "n"), ("x", "s")])
def test_a_damaged_cell_costs_its_row_and_is_named(
    run: Run, tmp_path: Path, value: str, kind: str
) -> None:
    row = f'<row r="3">{cell("A3", "2")}{cell("B3", value, kind)}</row>'
    sheet(tmp_path / "a.xlsx", HEAD + row + f'<row r="4">{cell("A4", "2")}</row>')
    done = run("convert", "a.xlsx", "a.vcf")
    assert done.code == 1
    assert "cell B3 is damaged" in done.err
    assert (tmp_path / "a.vcf").read_text().count("FN:Ada Weir") == 2


def test_one_record_costs_what_it_is_long(run: Run, tmp_path: Path) -> None:
    def spent(lines: list[str], target: str) -> float:
        (tmp_path / "a.vcf").write_text(card("FN:A", *lines, version="2.1"))
        began = time.process_time()
        assert run("convert", "a.vcf", target, "--force").code in (0, 1)
        return time.process_time() - began

    def agents(depth: int) -> list[str]:
        return ["AGENT:\nBEGIN:VCARD\nVERSION:2.1\nN:B"] * depth + ["END:VCARD"] * depth

    for make in (agents, lambda n: ["N:" + ";" * n * 300 + "x"], lambda n: ["TEL:1"] * n):
        for target in ("b.vcf", "b.csv"):
            small, large = spent(make(600), target), spent(make(6_000), target)
            assert large < 40 * small + 2, (make, target)


def test_parts_without_end_are_set_aside(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.vcf").write_text(card("FN:Ada Weir", "ORG:" + ";" * 9_000 + "x", "TEL:1"))
    done = run("convert", "a.vcf", "b.csv")
    assert done.code == 1
    assert "a structured value of more parts than any has" in done.err
    assert "Ada Weir" in (tmp_path / "b.csv").read_text()


@pytest.mark.skipif(sys.platform == "win32", reason="there are no named pipes in folders there")
def test_a_pipe_is_read_as_standard_input_is(run: Run, tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "p")
    writing = subprocess.Popen(
        [sys.executable, "-c", f"open({str(tmp_path / 'p')!r}, 'w').write({card('FN:Ada')!r})"]
    )
    try:
        assert run("convert", "p", "b.vcf").code == 0
    finally:
        writing.wait()
    assert "FN:Ada" in (tmp_path / "b.vcf").read_text()


NOBODY = [
    (
        ("pick", "a.vcf", "t.csv", "--where", "phone present", "--rest", "r.csv"),
        "rest: r.csv, nobody",
    ),
    (("pick", "a.vcf", "t.csv", "--where", "phone missing"), "nobody is picked"),
    (("pick", "a.vcf", "t.vcf", "--where", "phone missing"), "nobody is picked"),
    (("pick", "a.vcf", "t.xlsx", "--where", "phone missing"), "nobody is picked"),
    (("convert", "empty.csv", "t.vcf"), "0 people"),
    (("convert", "empty.csv", "t.csv"), "0 people"),
    (("convert", "empty.vcf", "t.csv"), "nobody is in it"),
    (("convert", "empty.vcf", "t.vcf"), "nobody is in it"),
    (("convert", "empty.vcf", "t.jcard"), "nobody is in it"),
]


@pytest.mark.parametrize(("args", "told"), NOBODY)
def test_nobody_is_no_error(run: Run, tmp_path: Path, args: tuple[str, ...], told: str) -> None:
    (tmp_path / "a.vcf").write_text(card("FN:Ada Weir", "TEL:1"))
    (tmp_path / "empty.csv").write_text("Name,E-mail\n")
    (tmp_path / "empty.vcf").write_text("")
    done = run(*args)
    assert done.code == 0, done.err
    assert told in done.err
    assert (tmp_path / args[2]).exists()


def test_the_rest_has_the_format_of_its_name(run: Run, tmp_path: Path) -> None:
    (tmp_path / "a.vcf").write_text(card("FN:Ada Weir", "TEL:1"))
    args = ("--to", "vcard-3.0", "--where", "phone missing", "--rest", "r.csv")
    assert run("pick", "a.vcf", "t.vcf", *args).code == 0
    assert (tmp_path / "r.csv").read_text().splitlines() == ["name/full,phone", "Ada Weir,1"]


LONG = [" ", "\n", "\t", "\u3000", "\u200b", "ext ", "a@", "1-", "(", "&amp;", ", "]


def test_a_cell_of_many_marks_takes_no_longer_than_its_length(run: Run, tmp_path: Path) -> None:
    """Each would take minutes where any pattern went back over what it had read."""
    row = ['"0163 ext' + each * (60_000 // len(each)) + 'x"' for each in LONG]
    names = [f"{heading},{heading} {at}" for at in (1, 2) for heading in ("Phone", "Notes")]
    headings = f"Name,{','.join(names)},E-mail,Street"
    plain = "Ada Weir,01632 960001,n,01632 960002,m,01632 960003,n,01632 960004,m,a@x.test,3 Lane"
    assert headings.count(",") + 1 == len(LONG) == plain.count(",") + 1
    (tmp_path / "a.csv").write_text("\n".join([headings, plain, ",".join(row)]) + "\n")
    assert run("survey", "a.csv").code == 0
    assert run("clean", "a.csv", "a.vcf", "--rule", "usual", "--rule", "phone-apart",
               "--region", "GB").code == 0  # fmt: skip
    assert run("match", "a.vcf").code == 0
