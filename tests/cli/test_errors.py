"""Bad input: one line, the right exit code, nothing half-written."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import Run
from roundcard.books.conversion import convert
from roundcard.books.plan import Plan
from roundcard.books.shapes.into_cards import IntoCards
from roundcard.errors import BalanceError
from roundcard.formats.vcard.writer import VCardWriter

GOOD = "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ada\r\nN:;Ada;;;\r\nEND:VCARD\r\n"


def lay(folder: Path, body: str) -> None:
    (folder / "l.toml").write_text(f'name = "l"\n{body}\n', encoding="utf-8")


COLUMN = '[[column]]\nheading = "Name"\nholds = "name/full"'

CASES = [
    (["no.vcf", "o.vcf"], "", 3, "no.vcf: file not found"),
    (["empty.csv", "o.vcf"], "", 3, "empty.csv: the file is empty"),
    (
        ["folder", "o.vcf"],
        "",
        3,
        "folder: no card and no table (.vcf, .vcard, .jcard, .json, .xlsx, ",
    ),
    (
        ["binary.csv", "o.vcf"],
        "",
        3,
        "binary.csv: is neither a vCard file nor a table of text",
    ),
    (["text.vcf", "o.csv"], "", 3, "no line BEGIN:VCARD at its beginning"),
    (["bad.jcard", "o.vcf"], "", 3, "bad.jcard: line 1: this is not JSON"),
    (["strange.csv", "o.vcf"], "", 4, "none of its 2 columns is understood"),
    (
        ["heading.csv", "o.vcf", "--layout", "l.toml"],
        COLUMN,
        3,
        "the headings contain bytes that are not utf-8",
    ),
    (
        ["good.csv", "o.vcf", "--layout", "l.toml"],
        COLUMN + '\nalias = "x"',
        4,
        "l.toml, line 5: unknown key 'alias' in [[column]]; did you mean 'aliases'?",
    ),
    (
        ["good.csv", "o.vcf", "--layout", "l.toml"],
        COLUMN.replace("full", "ful"),
        4,
        "did you mean 'full'?",
    ),
    (
        ["good.csv", "o.vcf", "--layout", "l.toml"],
        COLUMN.replace("Name", "Nom"),
        4,
        "l.toml does not fit good.csv: none of its 1 columns was found",
    ),
    (
        ["good.csv", "o.vcf", "--layout", "l.toml"],
        f'[table]\nunlisted = "refuse"\n{COLUMN}',
        4,
        "l.toml refuses columns that it does not list, and good.csv has 'E-mail'",
    ),
    (
        ["good.csv", "o.vcf", "--layout", "l.toml"],
        f"[table]\nheading_row = 9\n{COLUMN}",
        4,
        "has fewer rows",
    ),
    (
        ["good.csv", "o.vcf", "--layout", "ledgr"],
        "",
        4,
        "'ledgr' is neither a layout file nor a kept layout",
    ),
    (
        ["good.vcf", "o.csv", "--to-layout", "l.toml"],
        f'[table]\nencoding = "ascii"\n{COLUMN.replace("Name", "Näme")}',
        4,
        "'Näme' holds characters that ascii lacks",
    ),
    (["good.vcf", "good.csv"], "", 5, "good.csv already exists; use --force to replace it"),
    (["good.vcf", "good.vcf", "--force"], "", 5, "is one of the sources"),
    (["good.vcf", "no/such/o.csv"], "", 5, "folder no/such not found"),
    (["good.vcf", "folder", "--to", "csv"], "", 5, "folder: is a folder; name a file in it"),
    (["good.vcf", "/sys/o.csv"], "", 5, "/sys/o.csv: cannot be written: Permission denied"),
    (["good.vcf", "o.xyz"], "", 2, "use --to vcard, --to csv or --to xlsx"),
    (["good.vcf", "o.vcf", "--to", "vcrd"], "", 2, "unknown format 'vcrd'; did you mean 'vcard'"),
    (
        ["good.vcf", "o.vcf", "--to-layout", "lockside", "--to", "vcard"],
        "",
        2,
        "--to-layout is for tables",
    ),
    (["good.vcf"], "", 2, "missing arguments: give at least one SOURCE and a TARGET"),
    (["good.vcf", "o.vcf", "--frm", "csv"], "", 2, "No such option"),
    (
        ["good.vcf", "o.csv", "--only", "name/given, phoen/cell"],
        "",
        2,
        "--only: 'phoen' is not a field; did you mean",
    ),
    (["good.vcf", "o.csv", "--only", "birthday/year"], "", 2, "a value is chosen whole"),
    (["good.vcf", "o.csv", "--set", "category"], "", 2, "this is written path=value"),
    (["good.vcf", "o.csv", "--set", "name=x"], "", 2, "say which part of the name is meant"),
    (
        ["bad.csv", "o.vcf", "--layout", "l.toml", "--strict"],
        COLUMN,
        3,
        "bad.csv, line 7: bytes that are not utf-8",
    ),
]


@pytest.mark.parametrize(("args", "layout", "code", "message"), CASES)
def test_bad_input_is_one_line(
    run: Run, tmp_path: Path, args: list[str], layout: str, code: int, message: str
) -> None:
    (tmp_path / "folder").mkdir()
    for name, octets in [
        ("empty.csv", b""),
        ("binary.csv", bytes(range(256)) * 9),
        ("text.vcf", b"hello, you\n"),
        ("bad.jcard", b'["vcard",[["fn",{},"text","A"]'),
        ("strange.csv", b"Zibble,Wobble\nAx,bo\n"),
        ("good.vcf", GOOD.encode()),
        ("heading.csv", b"Name,Gr\xf6sse\n" + "É,b\n".encode() * 9),
        ("good.csv", b"Name,E-mail\nA,b@x.test\n"),
        ("bad.csv", b"Name,E-mail\n" + "É,b@x.test\n".encode() * 5 + b"\xff,c\n"),
    ]:
        (tmp_path / name).write_bytes(octets)
    lay(tmp_path, layout)
    before = {path: path.stat().st_mtime_ns for path in tmp_path.rglob("*")}
    done = run("convert", *args)
    assert done.code == code, done
    assert done.out == ""
    first, *rest = done.err.splitlines()
    assert first.startswith("error: ")
    assert message in first
    assert all(line.startswith("    ") for line in rest)  # a caret at most
    assert "Traceback" not in done.err
    assert {path: path.stat().st_mtime_ns for path in tmp_path.rglob("*")} == before


@pytest.mark.parametrize(
    ("which", "name"),
    [(signal.SIGINT, "o.vcf"), (signal.SIGTERM, "o.vcf"), (signal.SIGINT, "o.xlsx")],
)
def test_interrupted_in_the_middle_nothing_is_left(
    run: Run, tmp_path: Path, which: signal.Signals, name: str
) -> None:
    source = tmp_path / "big.csv"
    with source.open("w", encoding="utf-8") as stream:
        stream.write("Name,E-mail,Note\n")
        stream.writelines(f"Person {n},p{n}@example.org,{'x' * 60}\n" for n in range(400_000))
    old = tmp_path / name
    old.write_text("old", encoding="utf-8")
    command = shutil.which("roundcard", path=str(Path(sys.executable).parent))
    process = subprocess.Popen(
        [str(command), "convert", "big.csv", name, "--force"],
        cwd=tmp_path,
        stderr=subprocess.PIPE,
    )
    while process.poll() is None and not any(
        p.stat().st_size or name == "o.xlsx" for p in tmp_path.glob(f".{name}.*")
    ):
        time.sleep(0.01)
    time.sleep(1.0 if name == "o.xlsx" else 0.0)  # a workbook takes its time to begin
    process.send_signal(which)
    _, err = process.communicate(timeout=600)
    assert process.returncode == 130
    assert err.decode() == "error: interrupted; nothing was written\n"
    assert sorted(path.name for path in tmp_path.iterdir()) == ["big.csv", name]
    assert old.read_text(encoding="utf-8") == "old"


def test_what_a_killed_process_left_is_swept_away(program: Run, tmp_path: Path) -> None:
    (tmp_path / "a.vcf").write_text(GOOD, encoding="utf-8")
    gone = subprocess.Popen(["true"])
    gone.wait()
    stray = tmp_path / f".o.vcf.{gone.pid}.roundcard-part"
    other = tmp_path / f".o.vcf.{os.getpid()}.roundcard-part"
    stray.write_text("half", encoding="utf-8")
    other.write_text("somebody is at work", encoding="utf-8")
    assert program("convert", "a.vcf", "o.vcf").code == 0
    assert not stray.exists()
    assert other.exists()


def test_a_balance_that_is_not_zero_fails_and_writes_nothing(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:

    encode, column = VCardWriter.encode, IntoCards._column

    def lossy(self: VCardWriter, contact):  # type: ignore[no-untyped-def]
        contact.properties = [p for p in contact.properties if p.name != "tel"]
        return encode(self, contact)

    def lossy_column(self, pieces, item, *args):  # type: ignore[no-untyped-def]
        return item.head.name != "tel" and column(self, pieces, item, *args)

    monkeypatch.setattr(VCardWriter, "encode", lossy)
    monkeypatch.setattr(IntoCards, "_column", lossy_column)
    (tmp_path / "a.vcf").write_text(GOOD.replace("\r\nN:", "\r\nTEL:1\r\nN:"), encoding="utf-8")
    with pytest.raises(BalanceError, match="the balance is not zero: 1 values missing") as caught:
        convert(Plan([str(tmp_path / "a.vcf")], str(tmp_path / "o.vcf")))
    assert caught.value.exit_code == 6
    assert [path.name for path in tmp_path.iterdir()] == ["a.vcf"]


def test_no_output_replaces_an_original(run: Run, tmp_path: Path) -> None:
    """Neither a target nor a list beside it, with --force too."""
    book = tmp_path / "a.csv"
    book.write_text("Name,E-mail\nAda,a@x.test\nBo,b@x.test\n", encoding="utf-8")
    before = book.read_bytes()
    for command, code in [
        ("layout draft a.csv -o a.csv", 5),
        ("survey a.csv --unreachable a.csv", 5),
        ("clean a.csv b.csv --changes a.csv", 5),
        ("clean a.csv b.csv --changes b.csv", 2),
        ("pick a.csv b.csv --sample 1 --rest a.csv", 5),
        ("pick a.csv b.csv --sample 1 --rest b.csv", 2),
        ("pick a.csv b.csv --sample 1 --rest no/c.csv", 5),
        ("clean a.csv b.csv --changes c.csv --decisions no.csv", 3),
    ]:
        done = run(*command.split(), "--force")
        assert (done.code, done.err.count("\n")) == (code, 1), (command, done.err)
        assert [path.name for path in tmp_path.iterdir() if path.is_file()] == ["a.csv"], command
    assert book.read_bytes() == before
