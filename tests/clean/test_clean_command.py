"""``roundcard clean`` as its users run it."""

from __future__ import annotations

import csv
import re
from pathlib import Path

import pytest

from conftest import Run


def test_a_table_is_cleaned_where_a_rule_spoke(run: Run, demo: Path) -> None:
    done = run("clean", "newsletter.csv", "clean.csv", "--changes", "c.csv", "--prove", cwd=demo)
    assert done.code == 0, done.err
    before = (demo / "newsletter.csv").read_text("utf-8-sig").splitlines()
    after = (demo / "clean.csv").read_text("utf-8-sig").splitlines()
    assert len(before) == len(after)
    changed = [(a, b) for a, b in zip(before, after, strict=True) if a != b]
    with (demo / "c.csv").open(newline="", encoding="utf-8") as stream:
        listed = list(csv.DictReader(stream))
    assert 0 < len(changed) <= len([row for row in listed if row["sureness"] == "sure"])
    assert any(row["after"] == "Hélène Vannier-Lécluse" for row in listed)
    assert "garbled: 2 changes" in done.err
    again = run("clean", "clean.csv", "again.csv", cwd=demo)
    assert not re.search(r"\d change", again.err)
    assert (demo / "again.csv").read_bytes() == (demo / "clean.csv").read_bytes()


def test_changes_are_refused_by_the_list(run: Run, demo: Path) -> None:
    assert run("clean", "newsletter.csv", "a.csv", "--changes", "c.csv", cwd=demo).code == 0
    rows = list(csv.reader((demo / "c.csv").read_text("utf-8").splitlines()))
    sure = next(row for row in rows[1:] if row[6] == "sure")
    sure[-1] = "x"
    with (demo / "c.csv").open("w", newline="", encoding="utf-8") as stream:
        csv.writer(stream, delimiter=";").writerows(rows)
    done = run("clean", "newsletter.csv", "b.csv", "--decisions", "c.csv", cwd=demo)
    assert done.code == 0, done.err
    refused = sure[3]
    assert refused in (demo / "b.csv").read_text("utf-8-sig")
    assert refused not in (demo / "a.csv").read_text("utf-8-sig")
    assert "refused by you" in done.err
    wrong = run("clean", "newsletter.csv", "d.csv", "--decisions", "newsletter.csv", cwd=demo)
    assert (wrong.code, "not a list of changes" in wrong.err) == (4, True)


def test_phones_by_region_and_a_dry_run(run: Run, demo: Path) -> None:
    args = ("clean", "ledger.csv", "l.csv", "--layout", "membership-ledger", "--region", "GB")
    dry = run(*args, "--dry-run", cwd=demo)
    assert dry.code == 0
    assert "phone-form: 81 changes" in dry.err
    assert "'01632-960450' → '+44 1632 960450'" in dry.err
    assert not (demo / "l.csv").exists()
    assert run(*args, "--prove", cwd=demo).code == 0
    assert b"+44 1632 960450" in (demo / "l.csv").read_bytes()
    wishes = '[[replace]]\nfield = "name/full"\nfind = "WEIRSIDE"\nwith = "Weirside"\n'
    (demo / "rules.toml").write_text(f'rules = ["phone-form"]\nregion = "GB"\n{wishes}', "utf-8")
    by_file = run("clean", "ledger.csv", "f.csv", "--layout", "membership-ledger", "--rules-file",
                  "rules.toml", cwd=demo)  # fmt: skip
    assert "phone-form: 81 changes (81 unsure)" in by_file.err
    assert "replace: 1 change" in by_file.err
    only = run("clean", "skippers.vcf", "s.vcf", "--rule", "white-space", "--no-rule", "garbled",
               cwd=demo)  # fmt: skip
    assert only.code == 0


def test_several_rules_of_ones_own_each_have_their_say(run: Run, tmp_path: Path) -> None:
    rows = [f"Ada{n} Weir,01632 96{n:04},sluice {n}" for n in range(200)]
    (tmp_path / "t.csv").write_text("\n".join(["Name,Phone,Remarks", *rows, ""]), "utf-8")
    rules = "".join(
        f'[[replace]]\nfield = "{field}"\nfind = "{find}"\nwith = "{new}"\n'
        for field, find, new in (
            ("note", "sluice", "weir"), ("note", "1", "one "), ("name/full", "Weir", "Weirside"),
            ("note", "weir", "gate"),
        )
    )  # fmt: skip
    (tmp_path / "own.toml").write_text(f'rules = ["white-space"]\n{rules}', "utf-8")
    done = run("clean", "t.csv", "o.csv", "--rules-file", "own.toml", cwd=tmp_path)
    assert done.code == 0, done.err
    made = (tmp_path / "o.csv").read_text("utf-8").splitlines()[1:]
    expected = [row.replace("sluice", "gate").replace("Weir", "Weirside") for row in rows]
    assert [row.rpartition(",")[0] for row in made] == [r.rpartition(",")[0] for r in expected]
    assert [row.rpartition(",")[2] for row in made] == [
        f"gate {n}".replace("1", "one ") for n in range(200)
    ]
    # two of a name are told for each remark, a third where a figure is found, one for each name
    assert f"replace: {200 * 3 + sum('1' in str(n) for n in range(200))} changes" in done.err


def test_rules_are_listed_and_mistakes_are_one_line(run: Run, demo: Path) -> None:
    listed = run("clean", "--rules").out
    for name in ("white-space", "placeholders", "garbled", "email-form", "phone-form"):
        assert name in listed
    assert run("clean", "ledger.csv", "x.csv", "--rule", "gabled", cwd=demo).code == 2
    assert run("clean", "ledger.csv", "x.csv", "--region", "Germany", cwd=demo).code == 2
    assert run("clean", "ledger.csv", "x.csv", "--phone", "odd", cwd=demo).code == 2
    assert run("clean", "ledger.csv", cwd=demo).code == 2


def test_converting_cleans_by_the_same_code_in_any_number_of_processes(
    run: Run, demo: Path
) -> None:
    lists, books = [], []
    for jobs in ("1", "2"):
        args = ("ledger.csv", f"{jobs}.vcf", "--clean", "--region", "GB", "--processes", jobs,
                "--changes", f"{jobs}.csv", "--layout", "membership-ledger", "--prove")  # fmt: skip
        done = run("convert", *args, cwd=demo)
        assert done.code == 0, done.err
        assert "name-split: 70 changes" in done.err
        lists.append((demo / f"{jobs}.csv").read_bytes())
        books.append((demo / f"{jobs}.vcf").read_bytes())
    assert lists[0] == lists[1]
    assert books[0] == books[1]
    assert b"N:Gatepaddle;Thomas;;;sen." in books[0]
    same = run("clean", "ledger.csv", "c.vcf", "--region", "GB", "--layout", "membership-ledger",
               cwd=demo)  # fmt: skip
    assert same.code == 0
    assert (demo / "c.vcf").read_bytes() == books[0]
    again = run("clean", "c.vcf", "d.vcf", "--region", "GB", cwd=demo)
    assert not re.search(r"\d change", again.err)
    assert run("convert", "ledger.csv", "x.vcf", "--region", "GB", cwd=demo).code == 2


def test_standard_input_is_cleaned_by_its_own_habits(run: Run, demo: Path) -> None:
    rows = "".join(f"WEIR{'ABCDEFG'[n]},0{n + 1}/12/1980\n" for n in range(7)) + "LOCK,25/12/1980\n"
    done = run("clean", "-", "-", "--to", "csv", stdin=f"name/family,birthday\n{rows}".encode())
    assert done.code == 0, done.err
    assert "LOCK" not in done.out
    assert "1980-12-01" in done.out
    assert "Lock" in done.out


def test_a_cell_of_which_no_rule_spoke_keeps_its_bytes(run: Run, tmp_path: Path) -> None:
    rows = [
        "No;Name;Phones;Boat;Born;Remarks",
        '1;"Weir, Ada";01632-960001 / 07700 900123;" Slow  Worm";25/12/1980;x',
        '2;"Lock ""Bo""";ask Bo;"a;b";04/05/1981;"two\nlines"',
        "3;Ægir Ångström;;;;",
        "4;Cy  Hale;960001;-;12/25/1980;n/a",
    ]
    table = '[table]\nencoding = "windows-1252"\nseparator = ";"\n'
    columns = (("No", "custom/No"), ("Name", "name/full"), ("Phones", "phone"),
               ("Boat", "custom/Boat"), ("Born", "birthday"), ("Remarks", "note"))  # fmt: skip
    body = "".join(f'[[column]]\nheading = "{h}"\nholds = "{p}"\n' for h, p in columns)
    (tmp_path / "t.toml").write_text(f'name = "t"\n{table}{body}', "utf-8")
    (tmp_path / "t.csv").write_bytes("\r\n".join([*rows, ""]).encode("windows-1252"))
    done = run("clean", "t.csv", "o.csv", "--layout", "t.toml", "--region", "GB", "--prove",
               "--changes", "c.csv")  # fmt: skip
    assert done.code == 0, done.err
    written = (tmp_path / "o.csv").read_bytes().decode("windows-1252")
    out = written.split("\r\n")
    assert out[0] == rows[0]
    assert out[1] == "1;Weir, Ada;+44 1632 960001 / +44 7700 900123;Slow Worm;25/12/1980;x"
    assert out[2:5] == [rows[2], rows[3], "4;Cy Hale;960001;;12/25/1980;n/a"]
    listed = (tmp_path / "c.csv").read_text("utf-8")
    assert listed.count("dates in this field are in two orders") == 3
    assert "960001,960001,phone-form,unsure,its area code is missing" in listed


def test_conditions_and_new_values_meet_cleaned_people(run: Run, tmp_path: Path) -> None:
    (tmp_path / "b.vcf").write_text(
        "".join(
            f"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:{name}\r\nTEL:{phone}\r\nEND:VCARD\r\n"
            for name, phone in (("Ada Weir", "01632-960001"), ("Bo Lock", "n/a"), ("n/a", "-"))
        ),
        "utf-8",
        newline="",
    )
    done = run("convert", "b.vcf", "o.vcf", "--clean", "--region", "GB", "--prove", "--where",
               'phone starts "+44"', "--set", "category=Called")  # fmt: skip
    assert done.code == 0, done.err
    text = (tmp_path / "o.vcf").read_text("utf-8")
    assert text.count("BEGIN:VCARD") == 1
    assert "TEL:+44 1632 960001" in text
    assert "CATEGORIES:Called" in text
    assert "1 person, 0 values  nothing of them is left after cleaning" in done.err or (
        "nothing of them is left after cleaning" in done.err
    )


def test_couples_and_organisations_are_told_or_left(run: Run, demo: Path) -> None:
    done = run("clean", "ledger.csv", "l.vcf", "--layout", "membership-ledger", "--changes",
               "c.csv", "--names", "given-first", cwd=demo)  # fmt: skip
    assert done.code == 0, done.err
    with (demo / "c.csv").open(newline="", encoding="utf-8") as stream:
        listed = {row["before"]: row for row in csv.DictReader(stream)}
    couple = listed["Bob & Peggy Poundstone"]
    assert (couple["sureness"], couple["after"]) == ("unsure", "Bob & Peggy Poundstone")
    assert couple["doubt"] == "two people in one name: Bob Poundstone and Peggy Poundstone"
    assert "Pumphouse Brewery (Mr Fenwater)" not in listed
    assert listed["Gatepaddle, Thomas sen."]["after"].endswith("suffix sen.")
    assert run("clean", "ledger.csv", "x.vcf", "--names", "odd", cwd=demo).code == 2


def test_a_name_unlike_all_others_of_the_book_stays_whole(run: Run, tmp_path: Path) -> None:
    names = [f"Anna Quib{chr(97 + n // 26)}{chr(97 + n % 26)}" for n in range(60)]
    rows = ["Full Name,Phone", *(f"{name},01632 960{n:03}" for n, name in enumerate(names))]
    (tmp_path / "t.csv").write_text("\n".join([*rows, "Wibbel Tolbert,01632 960999\n"]), "utf-8")
    done = run("clean", "t.csv", "o.vcf", "--changes", "c.csv", "--region", "GB")
    assert done.code == 0, done.err
    with (tmp_path / "c.csv").open(newline="", encoding="utf-8") as stream:
        told = {row["before"]: row for row in csv.DictReader(stream) if row["rule"] == "name-split"}
    assert told["Anna Quibaa"]["after"] == "given Anna · family Quibaa"
    odd = told["Wibbel Tolbert"]
    assert (odd["after"], odd["sureness"]) == ("Wibbel Tolbert", "unsure")
    assert odd["doubt"].startswith("it holds no known given name")
    cards = (tmp_path / "o.vcf").read_text("utf-8")
    assert "N:Quibaa;Anna;;;" in cards
    assert "N:Tolbert" not in cards
    assert run("clean", "t.csv", "p.vcf", "--names", "given-first").code == 0
    assert "N:Tolbert;Wibbel;;;" in (tmp_path / "p.vcf").read_text("utf-8")


def test_lists_in_cells_keep_their_blanks(run: Run, tmp_path: Path) -> None:
    rows = ["Full Name,Groups", "Ada Quern,Skippers; Cooks", "Basil Quorn,Cooks; Donors", ""]
    (tmp_path / "t.csv").write_bytes("\r\n".join(rows).encode())
    assert run("clean", "t.csv", "o.csv", "--changes", "c.csv").code == 0
    assert (tmp_path / "o.csv").read_text("utf-8").splitlines() == rows[:3]
    assert len((tmp_path / "c.csv").read_text("utf-8").splitlines()) == 1


def test_what_breaks_down_on_one_value_ends_no_run(
    run: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "t.csv").write_text("Name,Notes\nAda  Weir,x\nBo Lock,y\n", "utf-8")
    monkeypatch.setattr("roundcard.clean.text._ODD_SPACES", None)
    done = run("clean", "t.csv", "o.csv", "--rule", "white-space")
    assert done.code == 0, done.err
    assert "white-space: the rule broke down on it (AttributeError); left as it is" in done.err
    assert "Ada  Weir" in (tmp_path / "o.csv").read_text("utf-8")


def test_a_list_before_anything_is_written_and_sure_changes_alone(run: Run, tmp_path: Path) -> None:
    rows = (
        "Name,Phone,Born\nAda Weir,07700900123,spring 1980\n Bo Lock,+44 20 7946 0018,1980-01-02\n"
    )
    (tmp_path / "a.csv").write_text(rows, "utf-8")
    clean = ("clean", "a.csv", "b.csv", "--region", "GB", "--changes", "c.csv")
    assert run(*clean, "--dry-run").code == 0
    assert not (tmp_path / "b.csv").exists()
    listed = list(csv.DictReader((tmp_path / "c.csv").read_text("utf-8-sig").splitlines()))
    assert [row["sureness"] for row in listed] == sorted(
        (row["sureness"] for row in listed), reverse=True)  # fmt: skip
    assert {(row["rule"], row["done"]) for row in listed} >= {
        ("date-words", "left"), ("phone-form", "changed"), ("white-space", "changed")}  # fmt: skip
    assert run(*clean, "--sure-only", "--force").code == 0
    text = (tmp_path / "b.csv").read_text("utf-8")
    assert "07700900123" in text
    assert "\nBo Lock" in text.replace("\r", "")


COLUMNS = [  # what the columns hold, and whether two numbers in a cell are taken apart
    (("phone", "phone/2"), ["+44 1632 960777", "+44 1632 960778"]),
    (("phone", "note"), ["+44 1632 960777 / +44 1632 960778", ""]),
]


@pytest.mark.parametrize(("holds", "cells"), COLUMNS)
def test_what_is_several_goes_apart_where_there_are_columns(
    run: Run, tmp_path: Path, holds: tuple[str, str], cells: list[str]
) -> None:
    (tmp_path / "a.csv").write_text("N,P,Q\nAda,01632 960777 / 01632 960778,\n", "utf-8")
    columns = zip("NPQ", ("name/full", *holds), strict=True)
    (tmp_path / "l.toml").write_text('name = "l"\n' + "".join(
        f'[[column]]\nheading = "{heading}"\nholds = "{path}"\n' for heading, path in columns),
        "utf-8")  # fmt: skip
    assert run("clean", "a.csv", "b.csv", "--layout", "l.toml", "--region", "GB").code == 0
    rows = list(csv.reader((tmp_path / "b.csv").read_text("utf-8").splitlines()))
    assert rows[1][1:] == cells


def test_the_report_is_the_same_whether_each_change_is_listed_or_only_counted(
    run: Run, tmp_path: Path
) -> None:
    spellings = ("01632 {:06}", "+44 (0)1632 {:06}", "00441632{:06}", "1632 {:06}", "n/a", "12")
    rows = [["Given name", "Family name", "Phone", "Mail"]]
    for at in range(14_000):
        phone = spellings[at % 6].format(960000 + at % 999)
        mail = f"P{at}@Example.org" if at % 3 else f"p{at}@example.cmo"
        given, family = ("Zo\u00c3\u00ab", "WEIR") if at % 4_000 == 17 else ("Ada", f"Weir-{at}")
        rows.append([given, family, phone, mail])
    with (tmp_path / "a.csv").open("w", newline="", encoding="utf-8") as stream:
        csv.writer(stream).writerows(rows)
    reports = set()
    for number, more in enumerate([(), ("--changes", "c.csv"), ("--prove",)]):
        for processes in "12":
            target = f"{number}-{processes}.csv"
            done = run("clean", "a.csv", target, "--region", "GB", "--processes", processes,
                       "--force", *more, cwd=tmp_path)  # fmt: skip
            assert done.code == 0, done.err
            told = done.err.replace(target, "TARGET")
            told = re.sub(r"(?m)^(?:TARGET|proved|held|c\.csv).*\n", "", told)
            reports.add(told)
    assert len(reports) == 1, reports
    report = reports.pop()
    assert "phone-form: 7,001 changes" in report, report
    listed = (tmp_path / "c.csv").read_text("utf-8")
    assert listed.count(",changed,") == 7_001 + 9_333 + 4
