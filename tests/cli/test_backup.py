"""Dated copies, byte for byte, read again."""

from __future__ import annotations

import datetime
from pathlib import Path

from conftest import Run


def test_a_book_and_a_folder(program: Run, demo: Path) -> None:
    day = datetime.date.today().isoformat()
    done = program("backup", "skippers.vcf", cwd=demo)
    copy = demo / f"skippers.{day}.vcf"
    assert (done.code, "32 people" in done.err) == (0, True)
    assert copy.read_bytes() == (demo / "skippers.vcf").read_bytes()
    assert copy.stat().st_mode & 0o77 == 0
    program("backup", "skippers.vcf", cwd=demo)
    assert (demo / f"skippers.{day}-2.vcf").exists()
    (demo / "books").mkdir()
    for name in ("skippers-now.vcf", "newsletter.csv"):
        (demo / name).rename(demo / "books" / name)
    done = program("backup", "books", "--to", "kept/here", "-q", cwd=demo)
    assert (done.code, done.err) == (0, "")
    made = demo / "kept" / "here" / f"books.{day}"
    assert sorted(path.name for path in made.iterdir()) == ["newsletter.csv", "skippers-now.vcf"]
    assert (made / "newsletter.csv").read_bytes() == (demo / "books/newsletter.csv").read_bytes()


def test_what_is_no_book(run: Run, demo: Path) -> None:
    assert run("backup", "none.vcf", cwd=demo).code == 3
    (demo / "empty").mkdir()
    done = run("backup", "empty", cwd=demo)
    assert (done.code, len(done.err.splitlines())) == (3, 1)
    assert not list(demo.glob("empty.*"))


def test_a_service_is_refused_in_one_line(run: Run, demo: Path) -> None:
    for args in (["--destination", "lockside"], []):
        done = run("backup", *args, cwd=demo)
        assert (done.code, len(done.err.splitlines())) == (2, 1)
