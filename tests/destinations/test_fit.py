"""Fitting: its order, case by case; what is written is within all limits, and nothing is lost."""

from __future__ import annotations

import csv
import io
import json
import re
from collections import Counter
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from books_in_tests import Kept, card, layout_of, read_cards
from conftest import Run
from in_process import Done
from roundcard.card.contact import Contact
from roundcard.destinations.file import parse_destination
from roundcard.destinations.fitting import Fit
from roundcard.destinations.model import Destination
from roundcard.destinations.take_back import TakeBack
from roundcard.layouts.row_writer import RowWriter
from roundcard.tally import Balance, Tally

COLUMNS = ["name/full", "name/family", "name/given", "org", "email/1", "email/2", "phone/cell",
           "phone/home", "address/street", "address/locality", "birthday", "category", "note",
           "uid"]  # fmt: skip


def there(more: str, columns: list[str] | None = None) -> Destination:
    """A destination whose table has these columns."""
    layout = layout_of(*(f'heading = "{path}"\nholds = "{path}"'
                         + ('\nmany = "; "' if path == "category" else "")
                         for path in columns or COLUMNS), table='unlisted = "refuse"')  # fmt: skip
    text = f'name = "t"\naccepts = ["table", "vcard-4.0"]\nlayout = "t"\n{more}'
    return parse_destination(text, "t.toml", lambda _: layout)


def fitted(
    lines: str, to: Destination, *, table: bool = True
) -> tuple[dict[str, str] | None, Kept, Tally]:
    """The cells of a fitted person (None where they are not sent), what was left, the ledger."""
    kept = Kept()
    tally = Tally(kept)
    (contact,) = read_cards(card(*lines.split("\n"), version="4.0"), tally)
    fit = Fit(to, table=table, region="GB")
    made = fit(contact, tally)
    row: dict[str, str] | None = None
    if made is not None:
        assert fit.layout is not None
        writer = RowWriter(fit.layout, tally)
        cells = writer.row(made)
        assert cells is not None
        headings = [column.heading for column in fit.layout.columns]
        row = {name: cell for name, cell in zip(headings, cells, strict=True) if cell}
        again = Fit(to, table=table, region="GB")(made, Tally())
        assert again is not None
        assert RowWriter(fit.layout, Tally()).row(again) == cells  # fitting twice changes nothing
    assert Balance.of(tally).even, Balance.of(tally)
    return row, kept, tally


NOTE = '[overflow]\ninto = "note"\n'
CASES = {
    "ß at a length limit, after characters": (
        '[limits]\nlength = { "name/family" = 6 }\n[characters]\nset = "ascii"\n'
        'lacking = "nearest"',
        "N:Weißer;Ada;;;", {"name/family": "Weisse"}, ["Weisser", "Weißer;Ada"]),
    "an ellipsis at a byte limit": (
        '[limits]\nlength = { note = { most = 8, in = "bytes" } }',
        "N:Weir;Ada;;;\nNOTE:abcdef…", {"note": "abcdef"}, ["abcdef…"]),
    "an ellipsis that just fits": (
        '[limits]\nlength = { note = { most = 9, in = "bytes" } }',
        "N:Weir;Ada;;;\nNOTE:abcdef…", {"note": "abcdef…"}, []),
    "a cut at a word": (
        '[limits]\nlength = { note = 14 }',
        "N:Weir;Ada;;;\nNOTE:keeps the keys here", {"note": "keeps the keys"},
        ["keeps the keys here"]),
    "no cut within a character": (
        '[limits]\nlength = { note = 3 }', "N:Weir;Ada;;;\nNOTE:abe\u0301cd", {"note": "ab"},
        ["abe\u0301cd"]),
    "two of cell and home, the preferred first": (
        '[limits]\nvalues = { phone = 2 }',
        "N:Weir;Ada;;;\nTEL;TYPE=work:1\nTEL;TYPE=cell:2\nTEL;TYPE=home;PREF=1:3",
        {"phone/cell": "2", "phone/home": "3"}, ["1"]),
    "one only, the preferred": (
        '[limits]\nvalues = { phone = 1 }',
        "N:Weir;Ada;;;\nTEL;TYPE=cell:2\nTEL;TYPE=home;PREF=1:3", {"phone/home": "3"}, ["2"]),
    "by use in the order of allowed": (
        '[limits]\nvalues = { phone = 1 }\n[allowed]\n"phone/use" = { values = ["home", "cell"] }',
        "N:Weir;Ada;;;\nTEL;TYPE=cell:2\nTEL;TYPE=home:3", {"phone/home": "3"}, ["2"]),
    "without room into the note": (
        '[limits]\nvalues = { email = 1 }\n' + NOTE,
        "N:Weir;Ada;;;\nEMAIL:a@x.test\nEMAIL;TYPE=work:b@x.test",
        {"email/1": "a@x.test", "note": "[more]\nemail/work: b@x.test"}, []),
    "a note that is full takes no more": (
        '[limits]\nvalues = { email = 1 }\nlength = { note = 24 }\n' + NOTE,
        "N:Weir;Ada;;;\nEMAIL:a@x.test\nEMAIL:b@x.test\nNOTE:her own words",
        {"email/1": "a@x.test", "note": "her own words"}, ["b@x.test"]),
    "her own note that looks so stays": (
        '[limits]\nvalues = { email = 1 }\n' + NOTE,
        "N:Weir;Ada;;;\nEMAIL:a@x.test\nNOTE:mine\\n[more]\\nnothing here",
        {"email/1": "a@x.test", "note": "mine\n[more]\nnothing here"}, []),
    "her own note that looks so, and more": (
        '[limits]\nvalues = { email = 1 }\n' + NOTE,
        "N:Weir;Ada;;;\nEMAIL:a@x.test\nEMAIL:b@x.test\nNOTE:mine\\n[more]\\nnothing here",
        {"email/1": "a@x.test", "note": "mine\n[more]\nnothing here\n[more]\nemail: b@x.test"}, []),
    "a use that is not allowed": (
        '[allowed]\n"phone/use" = { values = ["cell", "home"], otherwise = "home" }',
        "N:Weir;Ada;;;\nTEL;TYPE=work:1", {"phone/home": "1"}, []),
    "of several uses the first allowed": (
        '[allowed]\n"phone/use" = { values = ["cell", "home"], otherwise = "cell" }',
        "N:Weir;Ada;;;\nTEL;TYPE=home,work:1", {"phone/home": "1"}, []),
    "otherwise makes no voice of a fax": (
        '[allowed]\n"phone/use" = { values = ["cell", "home"], otherwise = "home" }',
        "N:Weir;Ada;;;\nTEL;TYPE=fax,work:1", {}, ["1"]),
    "a label becomes what is allowed": (
        '[allowed]\n"phone/use" = { values = ["cell", "home"], otherwise = "home" }',
        "N:Weir;Ada;;;\nitem1.TEL:1\nitem1.X-ABLabel:lock cottage", {"phone/home": "1"}, []),
    "values in other letters are allowed": (
        '[allowed]\ncategory = { values = ["Skipper", "Café"] }',
        "N:Weir;Ada;;;\nCATEGORIES:skipper,cafe,Cook", {"category": "skipper; cafe"}, ["Cook"]),
    "drops, and no pictures in the note": (
        'drops = ["birthday", "photo"]\n' + NOTE,
        "N:Weir;Ada;;;\nBDAY:19800412\nPHOTO:data:image/png;base64,AAAA",
        {"note": "[more]\nbirthday: 1980-04-12"}, ["data:image/png;base64,AAAA"]),
    "drops of a use, and of a part": (
        'drops = ["phone/home", "name/given", "custom"]\n' + NOTE,
        "N:Weir;Ada;;;\nTEL;TYPE=home:1\nTEL;TYPE=cell:2\nX-BERTH:3",
        {"phone/cell": "2", "name/given": "",
         "note": "[more]\nname/given: Ada\nphone/home: 1\ncustom/X-BERTH: 3"}, []),
    "no column for a part": (
        NOTE, "N:Weir;Ada;;;\nADR;TYPE=home:;;Lane;Bath;Avon;;",
        {"address/street": "Lane", "address/locality": "Bath",
         "note": "[more]\naddress/region: Avon"}, []),
    "a second address in the note": (
        NOTE, "N:Weir;Ada;;;\nADR:;;Lane;Bath;;;\nADR:;;Quay;Hull;;;GB",
        {"address/street": "Lane", "address/locality": "Bath",
         "note": "[more]\naddress/2/street: Quay\naddress/2/locality: Hull\naddress/2/country: GB"},
        []),
    "one line": (
        'drops = ["email"]\n[characters]\nline_breaks = false\n' + NOTE,
        "N:Weir;Ada;;;\nNOTE:a\\nb\nEMAIL:x@x.test", {"note": "a / b | [more] | email: x@x.test"},
        []),
    "her own note ends in a bar": (
        'drops = ["email"]\n[characters]\nline_breaks = false\n' + NOTE,
        "N:Weir;Ada;;;\nNOTE:a |\nEMAIL:x@x.test", {"note": "a | | [more] | email: x@x.test"},
        []),
    "emoji go, letters stay": (
        '[characters]\nbeyond_basic_plane = false\nlacking = "nearest"',
        "N:Weir;Ada;;;\nNOTE:key \U0001f511 here", {"note": "key  here"}, ["key \U0001f511 here"]),
    "letters that nothing is near to": (
        '[characters]\nset = "ascii"\nlacking = "nearest"\n' + NOTE,
        "N:Łódź;Ada;;;\nNOTE:山田", {"name/family": "Lodz"}, ["山田", "Łódź;Ada"]),
    "left behind where that is said": (
        '[characters]\nset = "windows-1252"', "N:Łódź;Ada;;;", {}, ["Łódź"]),
    "numbers in form": (
        '[style]\nphone = "national"\ncountry = "de"', "N:Weir;Ada;;;\nTEL;TYPE=cell:+447700900001",
        {"phone/cell": "07700 900001"}, []),
    "digits, but not of an extension": (
        '[style]\nphone = "digits"',
        "N:Weir;Ada;;;\nTEL;TYPE=cell:+44 7700 900001\nTEL;TYPE=home:01632 960001 ext. 4",
        {"phone/cell": "447700900001", "phone/home": "01632 960001 ext. 4"}, []),
    "parts of a whole name": (
        '[style]\nname = "parts"', "FN:Ada Weir",
        {"name/full": "Ada Weir", "name/family": "Weir"}, []),
    "a date in its form": (
        '[style]\ndate = "day.month.year"', "N:Weir;Ada;;;\nBDAY:19800412",
        {"birthday": "12.04.1980"}, []),
    "an address of mail is not cut": (
        '[limits]\nlength = { email = 9 }\n' + NOTE, "N:Weir;Ada;;;\nEMAIL:ada.weir@example.org",
        {"note": "[more]\nemail: ada.weir@example.org"}, []),
    "what is cut rides whole": (
        '[limits]\nlength = { "name/family" = 5 }\n' + NOTE, "N:Weirside;Ada;;;",
        {"name/family": "Weirs", "note": "[more]\nname/family: Weirside"}, []),
}  # fmt: skip


@pytest.mark.parametrize(("more", "lines", "cells", "left"), CASES.values(), ids=list(CASES))
def test_the_order_of_fitting(
    more: str, lines: str, cells: dict[str, str], left: list[str]
) -> None:
    row, kept, tally = fitted(lines, there(more))
    assert row is not None
    names = {"name/given": "Ada"} if "Ada;;;" in lines or "FN:Ada" in lines else {}
    names |= {"name/family": "Weir"} if "N:Weir;" in lines and "name/family" not in cells else {}
    assert row == {name: cell for name, cell in (names | cells).items() if cell}
    assert [text.replace(" ", ";") if ";" in left[at] else text
            for at, (text, _) in enumerate(kept.left)] == left  # fmt: skip
    assert tally.people.not_sent == 0


def test_needs_may_fail_only_after_fitting() -> None:
    to = there('drops = ["email"]\n[needs]\nany = ["email", "phone"]')
    row, kept, tally = fitted("FN:Ada Weir\nN:Weir;Ada;;;\nEMAIL:a@x.test", to)
    assert row is None
    assert tally.people.not_sent == 1
    assert tally.values.not_sent == tally.values.read == 4
    assert [text for text, _ in kept.left] == ["Ada Weir", "Weir Ada", "a@x.test"]
    assert {why for _, why in kept.left} == {"without email or phone"}


def check_rows(rows: list[dict[str, str]], octets: int) -> list[str]:
    """What a small script of its own finds against the awkward destination's limits."""
    found = ["too many people"] if len(rows) > 100 else []
    found += ["too many bytes"] if octets > 20_000 else []
    for row in rows:
        told = [("FAMILY", 20), ("FIRST", 15), ("BODY", 30)]
        found += [f"{name} too long" for name, most in told if len(row[name]) > most]
        found += ["note too long"] if len(row["JOTTING"].encode("windows-1252")) > 200 else []
        found += ["no family name"] * (not row["FAMILY"])
        found += ["nothing to reach them"] * (
            not (row["POST BOX"] or row["POCKET"] or row["HEARTH"])
        )
        found += ["a break"] * any("\n" in cell for cell in row.values())
        found += ["categories"] * (row["SETS"].count(",") > 2)
        numbers = [cell for cell in (row["POCKET"], row["HEARTH"]) if cell and "ext" not in cell]
        found += ["no digits"] * (not all(map(str.isdigit, numbers)))
    return found


def book() -> str:
    """People who break each limit of the awkward destination, and some who break none."""
    cards = []
    for at in range(230):
        lines = [
            f"FN:Ada Weir{at}",
            f"N:Weir{at};Ada;;;",
            f"EMAIL:ada{at}@x.test",
            f"NOTE:note {at}",
        ]
        if at % 7 == 0:
            lines[1] = f"N:F{at}eatherstonehaugh-Cholmondeley;Ada-Wilhelmina Augusta;;;"
        if at % 5 == 0:
            lines += ["EMAIL;TYPE=work:second@x.test", "TEL;TYPE=work:01632 960001",
                      "TEL;TYPE=fax:01632 960002", "TEL;TYPE=cell:07700 900001"]  # fmt: skip
        if at % 11 == 0:
            lines += ["CATEGORIES:One,Two,Three,Four", "BDAY:19800412", "TITLE:Łódź \U0001f511 山"]
        if at % 13 == 0:
            lines += ["ADR;TYPE=home:;;3 Lane,Top;Bath;Avon;BA1;England", "ADR:;;Quay;;;;",
                      "NOTE:" + "many words " * 40]  # fmt: skip
        if at % 50 == 49:
            lines = [f"FN:Nobody{at}", "NOTE:no way to reach them"]
        cards.append(card(*lines, version="4.0"))
    return "".join(cards)


def test_each_value_is_in_a_file_in_the_overflow_or_in_the_side_file(
    run: Run, tmp_path: Path
) -> None:
    (tmp_path / "b.vcf").write_text(book())
    before = run("check", "b.vcf", "--destination", "narrow-lock", "--region", "GB", "--json")
    assert before.code == 1
    done = run("convert", "b.vcf", "t.csv", "--destination", "narrow-lock", "--region", "GB",
               "--left-behind", "left.csv", "--prove")  # fmt: skip
    assert done.code == 1  # people who are not sent
    assert re.search(r"\nbalance +0 +0\n", done.err)
    files = sorted(tmp_path.glob("t-*-of-*.csv"))
    assert len(files) > 2
    every: list[dict[str, str]] = []
    for path in files:
        octets = path.read_bytes()
        rows = list(
            csv.DictReader(io.StringIO(octets.decode("windows-1252"), newline=""), delimiter=";")
        )
        assert check_rows(rows, len(octets)) == []
        every += rows
    left = list(
        csv.DictReader(io.StringIO((tmp_path / "left.csv").read_text("utf-8-sig"), newline=""))
    )
    unsent = {row["person"] for row in left if row["reason"].startswith("without")}
    assert len(every) + len(unsent) == 230
    assert unsent == {f"Nobody{at}" for at in range(49, 230, 50)}
    there = "\n".join(" | ".join(row.values()) for row in every) + str(left)
    for text in ("second@x.test", "F0eatherstonehaugh-Cholmondeley", "441632960002", "Four",
                 "1980-04-12", "Avon", "BA1", "Quay", "many words many"):  # fmt: skip
        assert text in there, text
    after = run("check", *map(str, files), "--destination", "narrow-lock", "--region", "GB")
    assert after.code == 0, after.out
    assert "nothing to mend" in after.out


def test_the_findings_of_a_check_are_those_counted_by_hand(run: Run, tmp_path: Path) -> None:
    rows = [
        "FIRST;FAMILY;BODY;POST BOX;POCKET;HEARTH;LANE;TOWN;LAND;SETS;JOTTING;EXTRA",
        "Ada;Weir;;a@x.test;;;;;;One, Two, Three, Four;;",
        ";;;b@x.test;;;;;;;;",
        ";;;;;;;;;;;",
        "Bo;Weir;;A@X.test;+44 7700 900001;;;;England;;;",
        f"Cy;{'W' * 25};;;07700900002;;;;;;;",
        f"Dee;Lock;;d@x.test;;;;;;;{'n' * 250};",
    ]
    (tmp_path / "t.csv").write_text("\r\n".join(rows) + "\r\n", encoding="windows-1252")
    done = run("check", "t.csv", "--destination", "narrow-lock", "--region", "GB", "--json",
               "--findings", "f.csv")  # fmt: skip
    told = json.loads(done.out)
    found: Counter[tuple[str, str]] = Counter()
    for each in told["findings"]:
        found[each["kind"], each["rule"]] += each["count"]
    assert found == {
        ("refused", "headings-order"): 1, ("refused", "headings-unknown"): 1,
        ("refused", "lacks-needed"): 1, ("refused", "blank-rows"): 1, ("merged", "same-key"): 1,
        ("cut", "cut"): 2, ("ignored", "over-limit"): 1, ("changed", "styled"): 3,
    }  # fmt: skip
    assert told["forecast"]["people"] == 5
    assert told["forecast"]["refused"] == 1
    assert len((tmp_path / "f.csv").read_text("utf-8-sig").splitlines()) == 12
    assert done.code == 1


FILES = {
    "another format": ("a.jcard",
                       b'[["vcard",[["version",{},"text","4.0"],["fn",{},"text","Ada"]]]]',
                       "the file is jCard; it takes table"),
    "another table": ("a.csv", b"Name;Shoe\r\nAda;4\r\n", "none of its columns is there"),
    "another separator": ("a.csv", b"FAMILY,FIRST,POST BOX\r\nWeir,Ada,a@x.test\r\n",
                          "separated by comma"),
    "another character set": ("a.csv",
                              "FAMILY;FIRST;POST BOX\r\nMüßig;Zoë;a@x.test\r\n".encode("utf-8-sig"),
                              "the file is in utf-8"),
    "columns that are missing": ("a.csv", b"FAMILY;POST BOX\r\nWeir;a@x.test\r\n",
                                 "'FIRST' is missing"),
    "too many people": ("a.csv", b"FAMILY;POST BOX\r\n" + b"".join(
        b"Weir%d;a%d@x.test\r\n" % (at, at) for at in range(101)),
        "101 people in one file; it takes 100"),
    "too many bytes": ("a.csv", b"FAMILY;POST BOX;JOTTING\r\n" + b"".join(
        b"Weir%d;a%d@x.test;%s\r\n" % (at, at, b"n" * 190) for at in range(99)), "it takes 20,000"),
    "a record that cannot be read": (
        "a.vcf", b"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ada\r\nnonsense\r\nEND:VCARD\r\n",
        "cannot be read"),
}  # fmt: skip


@pytest.mark.parametrize(("name", "octets", "said"), FILES.values(), ids=list(FILES))
def test_files_are_looked_at_as_files(
    run: Run, tmp_path: Path, name: str, octets: bytes, said: str
) -> None:
    (tmp_path / name).write_bytes(octets)
    to = "lockside" if name.endswith(".vcf") else "narrow-lock"
    done = run("check", name, "--destination", to)
    assert done.code == 1
    assert said in done.out, done.out


def test_a_set_of_files_is_looked_at_as_a_whole(run: Run, tmp_path: Path) -> None:
    head = "Record id,Forename,House name,Mailbox A\r\n"
    for name, row in (("a", "u1,Ada,Weir,a@x.test"), ("b", "u1,Ada,Weir,a@x.test")):
        (tmp_path / f"{name}.csv").write_text(head + row + "\r\n")
    (tmp_path / "there.csv").write_text(head + "u9,Ada,Weir,A@x.test\r\n")
    done = run("check", "a.csv", "b.csv", "--destination", "lockside", "--there", "there.csv")
    assert "somebody in another file has the same" in done.out
    assert (
        "2  of them it knows already: update them or put them beside or leave its own" in done.out
    )
    left = run("check", "a.csv", "b.csv", "--destination", "lockside", "--existing", "leave")
    assert "would be ignored" in left.out
    wrong = run("check", "a.csv", "--destination", "narrow-lock", "--existing", "leave")
    assert (wrong.code, "it can update" in wrong.err) == (2, True)


WORDS = (
    st.text(st.sampled_from("abé ;,|\\\n:[]/"), min_size=1, max_size=12).map(str.strip).filter(bool)
)


@example(emails=[], phones=[], notes=[": |"], titles=[":"], streets=[], one_line=True)
@given(
    emails=st.lists(st.sampled_from(["a@x.test", "b@x.test", "c@x.test"]), max_size=3, unique=True),
    phones=st.lists(st.tuples(st.sampled_from(["work", "home", "cell", "fax"]),
                              st.integers(100_000, 999_999)), max_size=4, unique=True),
    notes=st.lists(WORDS, max_size=1), titles=st.lists(WORDS, max_size=2, unique=True),
    streets=st.lists(WORDS, max_size=2, unique=True), one_line=st.booleans(),
)  # fmt: skip
def test_what_rode_in_the_note_gets_its_fields_again(
    emails: list[str], phones: list[tuple[str, int]], notes: list[str], titles: list[str],
    streets: list[str], one_line: bool,
) -> None:  # fmt: skip
    def escaped(text: str) -> str:
        for mark in "\\,;":
            text = text.replace(mark, "\\" + mark)
        return text.replace("\n", "\\n")

    lines = ["N:Weir;Ada;;;", *(f"EMAIL:{each}" for each in emails)]
    lines += [f"TEL;TYPE={use}:{number}" for use, number in phones]
    lines += [f"NOTE:{escaped(each)}" for each in notes if "[" not in each]
    lines += [f"TITLE:{escaped(each)}" for each in titles]
    lines += [f"ADR:;;{escaped(each)};;;;" for each in streets if "\n" not in each]
    to = there(f"[limits]\nvalues = {{ email = 1, phone = 2 }}\n[characters]\n"
               f"line_breaks = {str(not one_line).lower()}\n{NOTE}")  # fmt: skip
    (contact,) = read_cards(card(*lines, version="4.0"))
    made = Fit(to, table=True)(contact, Tally())
    assert made is not None
    tally = Tally()
    back = TakeBack(to)(made, tally)
    assert back is not None

    def said(found: Contact) -> Counter[tuple[str, str]]:
        parts = [(p.head.name, text) for p in found.properties for text in p.components if text]
        flat = [(name, text if isinstance(text, str) else "\n".join(text)) for name, text in parts]
        if one_line:
            flat = [(name, " ".join(text.replace(" / ", "\n").split())) for name, text in flat]
        return Counter(flat)

    assert said(back) == said(contact)


def test_fitted_files_read_back_are_the_book_again(run: Run, tmp_path: Path) -> None:
    (tmp_path / "b.vcf").write_text(
        card("FN:Ada Weir", "N:Weir;Ada;;;", "EMAIL:a@x.test", "EMAIL;TYPE=work:b@x.test",
             "EMAIL;TYPE=home:c@x.test", "ADR;TYPE=home:;;Lane;Bath;;BA1;GB", "X-BERTH:12",
             "ADR;TYPE=work:;;Quay;Hull;;;GB", "ROLE:keeper", version="4.0")
    )  # fmt: skip
    assert run("convert", "b.vcf", "t.csv", "--destination", "lockside", "--prove").code == 0
    home = run("convert", "t.csv", "h.vcf", "--from-destination", "lockside", "--prove")
    assert home.code == 0, home.err
    assert "out of the note" in home.err
    done: Done = run("compare", "b.vcf", "h.vcf")
    assert "1  the same" in done.out, done.out
    again = run(
        "convert", "t.csv", "t2.csv", "--from-destination", "lockside", "--destination", "lockside"
    )
    assert again.code == 0
    assert (tmp_path / "t.csv").read_bytes() == (tmp_path / "t2.csv").read_bytes()


@pytest.mark.parametrize("processes", ["1", "2"])
@pytest.mark.parametrize("target", ["t.csv", "t.vcf", "t.xlsx", "t.jcard"])
def test_many_people_become_several_files(
    run: Run, tmp_path: Path, target: str, processes: str
) -> None:
    people = 3_000 if target != "t.xlsx" else 120
    (tmp_path / "b.vcf").write_text("".join(
        card(f"FN:Ada Weir{at}", f"N:Weir{at};Ada;;;", f"NOTE:line\\nBEGIN:VCARD {'x' * (at % 90)}")
        for at in range(people)))  # fmt: skip
    layout = layout_text()
    (tmp_path / "layouts").mkdir()
    (tmp_path / "layouts" / "t.toml").write_text(layout)
    per_file = 700 if target != "t.xlsx" else 50
    octets = 90_000 if target != "t.xlsx" else 7_000
    (tmp_path / "d.toml").write_text(
        'name = "d"\naccepts = ["table", "workbook", "vcard-3.0", "jcard"]\n'
        'layout = "t"\n[limits]\n'
        f"people_per_file = {per_file}\nbytes_per_file = {octets}\n")  # fmt: skip
    done = run("convert", "b.vcf", target, "--destination", "d.toml", "--processes", processes)
    assert done.code == 0, done.err
    stem, suffix = target.split(".")
    files = list(tmp_path.glob(f"{stem}-*-of-*.{suffix}"))
    files.sort(key=lambda path: int(path.stem.split("-")[1]))
    assert [path.name for path in files] == [
        f"t-{n}-of-{len(files)}.{suffix}" for n in range(1, len(files) + 1)
    ]
    assert len(files) > 2
    assert not (tmp_path / target).exists()
    assert all(path.stat().st_size <= octets for path in files)
    assert f"{len(files)} files" in done.err
    names: list[str] = []
    for path in files:
        layouts = ["--layout", "layouts/t.toml"] if suffix in ("csv", "xlsx") else []
        out = f"{path.stem}.out.csv"
        assert run("convert", path.name, out, "--only", "name/family", *layouts).code == 0
        rows = (tmp_path / f"{path.stem}.out.csv").read_text().splitlines()[1:]
        assert len(rows) <= per_file
        names += rows
    assert names == [f"Weir{at}" for at in range(people)]
    again = run("convert", "b.vcf", target, "--destination", "d.toml")
    assert (again.code, "already exists" in again.err) == (5, True)


def layout_text() -> str:
    columns = "".join(f'[[column]]\nheading = "{path}"\nholds = "{path}"\n'
                      for path in ("name/full", "name/family", "name/given", "note"))  # fmt: skip
    return f'name = "t"\n[table]\nunlisted = "refuse"\n{columns}'


def test_who_is_more_than_a_file_holds_is_not_sent(run: Run, tmp_path: Path) -> None:
    (tmp_path / "b.vcf").write_text(
        card("FN:Ada", "N:Weir;Ada;;;", "NOTE:" + "x" * 900) + card("FN:Bo", "N:Weir;Bo;;;")
    )
    (tmp_path / "d.toml").write_text(
        'name = "d"\naccepts = ["vcard-4.0"]\n[limits]\nbytes_per_file = 500\n'
    )
    done = run("convert", "b.vcf", "t.vcf", "--destination", "d.toml")
    assert done.code == 1
    assert "more than the 500 bytes" in done.err
    assert "FN:Bo" in (tmp_path / "t.vcf").read_text()


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (["t.jcard", "--destination", "narrow-lock"], "does not take jCard; it accepts table"),
        (
            ["t.csv", "--destination", "lockside", "--to-layout", "lockside"],
            "leave out --to-layout",
        ),
        (
            ["t.csv", "--destination", "lockside", "--left-behind", "x.txt"],
            "a sheet is .csv or .xlsx",
        ),
    ],
)
def test_what_contradicts_itself_is_refused(
    run: Run, tmp_path: Path, args: list[str], said: str
) -> None:
    (tmp_path / "b.vcf").write_text(card("FN:Ada"))
    done = run("convert", "b.vcf", *args)
    assert (done.code, done.err.count("\n")) == (2, 1)
    assert said in done.err


def test_a_whole_name_that_is_made_is_no_longer_than_it_may_be(run: Run, tmp_path: Path) -> None:
    (tmp_path / "b.csv").write_text("Company,E-mail\n" + "Weir Keepers,a@x.test\n" * 3)
    (tmp_path / "d.toml").write_text(
        'name = "d"\naccepts = ["vcard-4.0"]\n[limits]\nlength = { "name/full" = 8 }\n'
    )
    assert run("convert", "b.csv", "t.vcf", "--destination", "d.toml").code == 0
    text = (tmp_path / "t.vcf").read_text()
    assert [line for line in text.splitlines() if line.startswith("FN")] == ["FN:Weir"] * 3


def test_each_command_that_writes_fits(run: Run, tmp_path: Path) -> None:
    text = card("FN:Ada Weir", "N:Weir;Ada;;;", "EMAIL:a@x.test", "CATEGORIES:A,B,C,D")
    (tmp_path / "b.vcf").write_text(text)
    for command, more in (("clean", []), ("merge", []), ("pick", ["--where", "email present"])):
        path = f"{command}.csv"
        done = run(command, "b.vcf", path, *more, "--destination", "narrow-lock")
        assert done.code == 0, done.err
        assert (tmp_path / path).read_text().splitlines()[1].startswith("Weir;Ada;;a@x.test;")
        assert "category: D" in (tmp_path / path).read_text()


def test_a_layout_alone_may_ask_for_the_nearest_letters(run: Run, tmp_path: Path) -> None:
    text = layout_text().replace(
        "[table]", '[table]\nencoding = "windows-1252"\nlacking = "nearest"'
    )
    (tmp_path / "t.toml").write_text(text)
    (tmp_path / "b.vcf").write_text(card("FN:Łucja Ōno", "N:Ōno;Łucja;;;", "NOTE:山田"))
    done = run("convert", "b.vcf", "t.csv", "--to-layout", "t.toml", "--prove")
    assert done.code == 0, done.err
    assert (tmp_path / "t.csv").read_text("windows-1252").splitlines()[1] == "Lucja Ono,Ono,Lucja,"
    assert "nearest letters in windows-1252" in done.err
    assert "Łucja" in (tmp_path / "t.left-behind.vcf").read_text()
    (tmp_path / "w.toml").write_text(text.replace('"nearest"', '"near"'))
    assert run("convert", "b.vcf", "w.csv", "--to-layout", "w.toml").code == 4
