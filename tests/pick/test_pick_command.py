"""``roundcard pick``, and conditions on the command line."""

from __future__ import annotations

import datetime
import json
from pathlib import Path

from conftest import Run


def test_people_are_picked_and_the_rest_kept_apart(run: Run, demo: Path) -> None:
    before = (demo / "skippers.vcf").read_bytes()
    done = run("pick", "skippers.vcf", "yes.vcf", "--where", "phone/cell present", "--where",
               "email present", "--rest", "no.vcf", "--prove", cwd=demo)  # fmt: skip
    assert done.code == 0, done.err
    counts = [
        (demo / name).read_text("utf-8").count("BEGIN:VCARD") for name in ("yes.vcf", "no.vcf")
    ]
    assert sum(counts) == 32
    assert f"{counts[1]} people" in done.err
    assert "not picked" in done.err
    assert (demo / "skippers.vcf").read_bytes() == before
    assert run("pick", "yes.vcf", "z.vcf", "--where", "phone/cell missing", cwd=demo).code == 0
    assert "BEGIN" not in (demo / "z.vcf").read_text("utf-8")


def test_words_categories_and_exceptions(run: Run, demo: Path) -> None:
    args = ["pick", "skippers.vcf", "-", "--to", "csv", "--quiet", "--find", "poundstone"]
    out = run(*args, cwd=demo).out
    assert out.count("Poundstone,") > 0
    assert "Weirside" not in out
    fewer = run(*args, "--except", "name/given = Robert", cwd=demo).out
    assert fewer.count("\n") == out.count("\n") - 1
    told = json.loads(run("pick", "skippers.vcf", "c.vcf", "--category", "first aid", "--json",
                          cwd=demo).out)  # fmt: skip
    assert told["people"]["written"] + told["people"]["left_out"] == 32
    assert set(told["balance"].values()) == {0}


def test_a_sample_with_a_dated_category(run: Run, demo: Path) -> None:
    args = ("pick", "newsletter.csv", "ten.csv", "--sample", "10", "--set", "category=Trial {date}")
    assert run(*args, cwd=demo).code == 0
    text = (demo / "ten.csv").read_text("utf-8")
    assert text.count(f"Trial {datetime.date.today().isoformat()}") == 10
    assert run(*args, cwd=demo).code == 5
    assert run(*args, "--force", cwd=demo).code == 0
    assert (demo / "ten.csv").read_text("utf-8") == text


def test_what_is_wrong_is_one_line_with_a_place(run: Run, demo: Path) -> None:
    done = run("pick", "skippers.vcf", "x.vcf", "--where", "phone/wrok present", cwd=demo)
    assert done.code == 4
    assert done.err.startswith("error: --where: 'wrok' is not a use or part of phone")
    assert done.err.rstrip().endswith("~~~^")
    assert run("pick", "skippers.vcf", "x.vcf", cwd=demo).code == 2
    assert run("pick", "skippers.vcf", cwd=demo).code == 2
    assert not (demo / "x.vcf").exists()


def test_conditions_in_convert_and_by_several_processes(run: Run, demo: Path) -> None:
    one = run("convert", "ledger.csv", "skippers.vcf", "one.vcf", "--where",
              "source ends vcf or birthday after 1980", cwd=demo)  # fmt: skip
    assert one.code == 0, one.err
    assert "condition" in one.err
    two = run("convert", "ledger.csv", "skippers.vcf", "two.vcf", "--processes", "2", "--where",
              "source ends vcf or birthday after 1980", cwd=demo)  # fmt: skip
    assert two.code == 0, two.err
    assert (demo / "one.vcf").read_bytes() == (demo / "two.vcf").read_bytes()
