"""What becomes of each value of small books, through the command, with all counts made by hand."""

from __future__ import annotations

import json
import shlex
from pathlib import Path
from typing import NamedTuple

import pytest

from conftest import Run


def card(*lines: str, version: str = "4.0") -> str:
    return "\r\n".join(["BEGIN:VCARD", f"VERSION:{version}", *lines, "END:VCARD", ""])


def layout(*columns: str, head: str = "") -> str:
    told = "\n".join(f"[[column]]\n{column}" for column in columns)
    return f'name = "t"\n{head}\n{told}\n'


class Case(NamedTuple):
    """One conversion: its files, the arguments, and all that the balance says."""

    files: dict[str, str]
    args: str
    values: str
    reasons: tuple[str, ...] = ()
    people: str = "read 1, carried 1, written 1"


NAME = 'heading = "Name"\nholds = "name/full"'
BORN = 'heading = "Born"\nholds = "birthday"\ndate = "day/month/year"'
PHONE = 'heading = "Phone"\nholds = "phone"'
TEL = "FN:Ada Weir"

CASES = {
    "a date read otherwise and left behind has one fate": Case(
        {"a.csv": "Name,Born\nAda,12/4/1980\n", "in.toml": layout(NAME, BORN),
         "out.toml": layout(NAME, head='[table]\nunlisted = "skip"')},
        "convert a.csv b.csv --layout in.toml --to-layout out.toml",
        "read 2, left_behind 1, carried 1, written 1",
        ("left behind birthday: no column 1",),
    ),
    "a date read otherwise and written is changed": Case(
        {"a.csv": "Name,Born\nAda,12/4/1980\n", "in.toml": layout(NAME, BORN)},
        "convert a.csv b.vcf --layout in.toml",
        "read 2, carried 1, changed 1, written 2",
        ("changed dates of column 'Born' 1",),
    ),
    "cells that mean nothing are left out": Case(
        {"a.csv": "Name,Phone\nAda,n/a\n",
         "in.toml": layout(NAME, PHONE, head='[table]\nempty = ["n/a"]')},
        "convert a.csv b.vcf --layout in.toml",
        "read 2, left_out 1, carried 1, written 1",
        ("left out column 'Phone': means nothing (the layout's 'empty') 1",),
    ),
    "cells above the headings are passed over": Case(
        {"a.csv": "Members of 2026,printed in May\n\nName,Phone\nAda,1\n",
         "in.toml": layout(NAME, PHONE, head="[table]\nheading_row = 3")},
        "convert a.csv b.vcf --layout in.toml",
        "read 4, passed_over 2, carried 2, written 2",
        ("passed over above the headings of a.csv 2",),
    ),
    "a column that is skipped, and one that the layout says of everybody": Case(
        {"a.csv": "Name,Shoe,Club\nAda,41,Rowers\n",
         "in.toml": layout(NAME, 'heading = "Shoe"\nskip = true',
                           'heading = "Club"\nfixed = "Rowers"')},
        "convert a.csv b.vcf --layout in.toml",
        "read 3, left_out 2, carried 1, written 1",
        ("left out column 'Club' (the layout says it of everybody) 1",
         "left out column 'Shoe' 1"),
    ),
    "a name in another script that a table cannot hold": Case(
        {"a.vcf": card("FN;ALTID=1;LANGUAGE=jp:山田太郎", "FN;ALTID=1;LANGUAGE=en:Yamada Taro")},
        "convert a.vcf b.csv",
        "read 2, left_behind 1, carried 1, written 1",
        ("left behind name: no column for it in another script 1",),
    ),
    "a name in another script that cards hold": Case(
        {"a.vcf": card("FN;ALTID=1;LANGUAGE=jp:山田太郎", "FN;ALTID=1;LANGUAGE=en:Yamada Taro")},
        "convert a.vcf b.vcf",
        "read 2, carried 2, written 2",
    ),
    "the text on an envelope": Case(
        {"a.vcf": card(TEL, "ADR;TYPE=home:;;1 Lock Ln;Weir;;;", "LABEL;TYPE=home:1 Lock Ln\\nWeir",
                       version="3.0")},
        "convert a.vcf b.vcf --to vcard-4.0",
        "read 4, carried 4, written 4",
    ),
    "two numbers in one cell, of which one has no column": Case(
        {"a.csv": "Name,Phone\nAda,01632 960001 / 01632 960002\n",
         "in.toml": layout(NAME, PHONE + '\nmany = " / "'),
         "out.toml": layout(NAME, PHONE)},
        "convert a.csv b.csv --layout in.toml --to-layout out.toml",
        "read 3, left_behind 1, carried 2, written 2",
        ("left behind phone: no free column 1",),
    ),
    "one text that cleaning makes two, of which one has no column": Case(
        {"a.csv": "Name,Phone\nAda,01632 960001 / 01632 960002\n",
         "in.toml": layout(NAME, PHONE), "out.toml": layout(NAME, PHONE)},
        "clean a.csv b.csv --layout in.toml --to-layout out.toml --rule phone-apart",
        "read 2, left_behind 1, carried 1, changed 1, split 1, written 2",
        ("changed phone-apart 1", "left behind phone: no free column 1",
         "split phone-apart (rule) 1"),
    ),
    "parameters that say something, and have no column": Case(
        {"a.vcf": card(TEL, "TEL;VALUE=uri:tel:960001;phone-context=+441632"),
         "out.toml": layout(NAME, PHONE)},
        "convert a.vcf b.csv --to-layout out.toml",
        "read 2, carried 1, changed 1, written 2",
        ("changed parameters not kept 1",),
    ),
    "a line in no card, and one that no colon is in": Case(
        {"a.vcf": card(TEL, "NOTE") + "lost\r\n" + card("FN:Bea")},
        "convert a.vcf b.vcf",
        "read 4, set_aside 2, carried 2, written 2",
        ("set aside a line that is not a property (name, colon, value) 1",
         "set aside text outside of any card 1"),
        "read 2, carried 2, written 2",
    ),
    "a row of more cells than there are headings, and a row of totals": Case(
        {"a.csv": "Name,Phone\nAda,1,extra\nTotal,1\n", "in.toml": layout(NAME, PHONE)},
        "convert a.csv b.vcf --layout in.toml",
        "read 5, set_aside 2, carried 3, written 3",
        ("set aside a row of totals, not a person 2 1",),
        "read 2, set_aside 1, carried 1, written 1",
    ),
    "a card that says nothing is blank": Case(
        {"a.vcf": card(TEL) + card("FN:")},
        "convert a.vcf b.vcf",
        "read 1, carried 1, written 1",
        (),
        "read 2, blank 1, carried 1, written 1",
    ),
    "a whole name that is made where none was": Case(
        {"a.vcf": card("N:Weir;Ada;;;", version="3.0")},
        "convert a.vcf b.vcf",
        "read 2, carried 2, derived 1, written 3",
        ("derived whole name from its parts 1",),
    ),
    "a value that is set": Case(
        {"a.vcf": card(TEL)},
        "convert a.vcf b.vcf --set note=x",
        "read 1, carried 1, added 1, written 2",
        ("added note 'x' 1",),
    ),
    "who does not meet the condition": Case(
        {"a.vcf": card(TEL, "NOTE:x") + card("FN:Bea", "EMAIL:b@example.org")},
        "convert a.vcf b.vcf --where 'email present'",
        "read 4, left_out 2, carried 2, written 2",
        ("left out condition 2 1",),
        "read 2, left_out 1, carried 1, written 1",
    ),
    "a character that the target has not": Case(
        {"a.vcf": card("FN:Ada", "NOTE:Łódź"),
         "out.toml": layout(NAME, 'heading = "Note"\nholds = "note"',
                            head='[table]\nencoding = "iso-8859-1"')},
        "convert a.vcf b.csv --to-layout out.toml",
        "read 2, left_behind 1, carried 1, written 1",
        ("left behind note: no characters for it in iso-8859-1 1",),
    ),
    "whom the table has no column for": Case(
        {"a.vcf": card(TEL) + card("EMAIL:b@example.org"), "out.toml": layout(NAME)},
        "convert a.vcf b.csv --to-layout out.toml",
        "read 2, left_behind 1, carried 1, written 1",
        ("left behind email: no column 1", "left behind nothing of them has a column 0 1"),
        "read 2, left_behind 1, carried 1, written 1",
    ),
    "two people who are one": Case(
        {"a.vcf": card(TEL, "EMAIL:ada@example.org", "TEL:+441632960001")
         + card(TEL, "EMAIL:ADA@example.org", "NOTE:x")},
        "merge a.vcf b.vcf",
        "read 6, folded 2, carried 4, written 4",
        ("folded merged into the same person 0 1", "folded the same in another record 2"),
        "read 2, folded 1, carried 1, written 1",
    ),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES.values(), ids=CASES.keys())
def test_the_fate_of_each_value_counted_by_hand(run: Run, tmp_path: Path, case: Case) -> None:
    for name, text in case.files.items():
        (tmp_path / name).write_text(text, encoding="utf-8", newline="")
    done = run(*shlex.split(case.args), "--json")
    assert done.code in (0, 1), done.err
    told = json.loads(done.out)
    shown = {
        part: ", ".join(f"{name} {count}" for name, count in told[part].items() if count)
        for part in ("values", "people")
    }
    assert shown == {"values": case.values, "people": case.people}
    reasons = [
        f"{each['fate']} {each['reason']} {each['values']}"
        + (f" {each['people']}" if each["people"] else "")
        for each in told["reasons"]
    ]
    assert tuple(sorted(reasons)) == case.reasons
    assert not any(told["balance"].values())
