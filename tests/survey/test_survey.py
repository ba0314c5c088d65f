"""Surveys of tables and cards: counts, reach, trouble; and records one at a time."""

from __future__ import annotations

from pathlib import Path

import pytest

from books_in_tests import card
from roundcard.books.source import Source
from roundcard.errors import LayoutError, SourceError
from roundcard.layouts.file import parse_layout
from roundcard.layouts.model import Layout
from roundcard.survey.cards import survey_cards
from roundcard.survey.checking import Proposals, check_layout, samples_of
from roundcard.survey.model import FileSurvey, Unreachable
from roundcard.survey.preview import KEPT, Records
from roundcard.survey.profile_table import draft_whole
from roundcard.survey.table import survey_table

HEAD = "Name;Phone;E-mail;Street;Born;Zib"


def table(tmp_path: Path, *rows: str, head: str = HEAD, encoding: str = "utf-8") -> Source:
    path = tmp_path / "t.csv"
    path.write_bytes("\r\n".join([head, *rows, ""]).encode(encoding))
    return Source(str(path))


def surveyed(source: Source, layouts: list[Layout] | None = None) -> FileSurvey:
    return survey_table(source, layouts or [])


def trouble(found: FileSurvey, name: str) -> str:
    return " | ".join(next(c for c in found.columns if c.name == name).trouble)


def test_a_table_is_counted(tmp_path: Path) -> None:
    told: list[Unreachable] = []
    source = table(
        tmp_path,
        "Anna Weber;01632 960001;a@x.test;1 Lock Lane;12.04.1980;",
        "Tom Fenn;;t@x.test;;13.05.1990;",
        ";;;;;",
        "Iris Lock;;;;;",
        "Total;3;;;;",
    )
    found = survey_table(source, [], tell=told.append)
    assert (found.people, found.blank, found.totals, found.unreadable) == (3, 1, 1, 0)
    assert (found.encoding, found.separator, found.heading_row) == ("utf-8", "semicolon", 1)
    reach = found.reach
    assert (reach.email, reach.phone, reach.address, reach.none) == (2, 1, 1, 1)
    assert told == [
        Unreachable(source.name, 2, "Tom Fenn", True, False, False),
        Unreachable(source.name, 4, "Iris Lock", False, False, False),
    ]
    shares = {column.name: round(column.profile.fill, 2) for column in found.columns}
    assert shares == {"Name": 1.0, "Phone": 0.33, "E-mail": 0.67, "Street": 0.33, "Born": 0.67,
                      "Zib": 0.0}  # fmt: skip
    assert trouble(found, "Zib") == "empty"


TROUBLE = [
    ("Phone", ["a@x.test", "b@x.test"], "content against heading"),
    ("Phone", ["01632 960001", "+44 1632 960002"], "mixed phone styles"),
    ("Phone", ["01632 960001 / 07700 900123", "01632 960001"], "several numbers in one cell"),
    ("Phone", ["4.47701E+11", "01632 960001"], "scientific notation"),
    ("Born", ["12.04.1980", "12/04/1980"], "mixed date styles"),
    ("Born", ["13.04.1980", "04.13.1980"], "dates in two orders"),
    ("Born", ["12.04.80", "13.04.81"], "years of two digits"),
    ("Zib", ["13/04/1980", "04/13/1980"], "dates in two orders"),
    ("Zib", ["a@x.test", "+44 1632 960002", "words"], "mixed kinds"),
    ("Zib", ["same", "same", "same", "same"], "one value for all: 'same'"),
    ("Name", ["RenÃ© Weber", "Anna Weber"], "garbled accents in 1 cell, as 'RenÃ© Weber'"),
    ("Street", ["x" * 600, "1 Lock Lane"], "over-long: 600 characters"),
    ("E-mail", ["a@x.test", "b@x.test", "c@x.test", "not one"], "do not look like it"),
]


@pytest.mark.parametrize(("column", "cells", "told"), TROUBLE)
def test_trouble_is_told(tmp_path: Path, column: str, cells: list[str], told: str) -> None:
    names = HEAD.split(";")
    rows = []
    for number, cell in enumerate(cells):
        row = dict.fromkeys(names, "") | {"Name": f"Anna Weber{number}", column: cell}
        rows.append(";".join(row.values()))
    assert told in trouble(surveyed(table(tmp_path, *rows)), column)


def test_plain_columns_are_no_trouble(tmp_path: Path) -> None:
    rows = [f"Anna Weber{n};01632 96000{n};a{n}@x.test;{n} Lock Lane;1{n}.04.1980;{n}"
            for n in range(4, 9)]  # fmt: skip
    assert [c.trouble for c in surveyed(table(tmp_path, *rows)).columns] == [()] * 6


def test_trouble_of_the_file(tmp_path: Path) -> None:
    source = table(tmp_path, "Anna;1;x", "Tom;2", head="Name;Phone;Phone")
    assert "doubled headings: 'Phone' 2 times" in surveyed(source).trouble
    assert any("fewer or more cells" in line for line in surveyed(source).trouble)
    above = table(tmp_path, "", "Name;E-mail", "Anna;a@x.test", head="Members")
    assert any("headings are in row" in line for line in surveyed(above).trouble)
    broken = tmp_path / "b.csv"
    broken.write_bytes(b"Name,E-mail\n" + "Bél,b@x.test\n".encode() * 9 + b"Al\xff,a@x.test\n")
    found = surveyed(Source(str(broken)))
    assert (found.people, found.unreadable) == (9, 1)
    assert "record 10, line 11" in found.trouble[0]


def layout(*columns: tuple[str, str], table: str = 'separator = ";"') -> Layout:
    body = "".join(f'[[column]]\nheading = "{h}"\n{h_}\n' for h, h_ in columns)
    return parse_layout(f'name = "l"\n[table]\n{table}\n{body}', "l.toml")


NAMES = layout(("Name", 'holds = "name/full"'), ("Phone", 'holds = "phone"'),
               ("Gone", 'holds = "note"'), ("Zib", "skip = true"))  # fmt: skip


def test_a_layout_is_held_against_the_whole_table(tmp_path: Path) -> None:
    source = table(tmp_path, *["Anna;a@x.test;a@x.test;;;kept"] * 3)
    notes = "\n".join(check_layout(NAMES, source))
    assert "column 'Gone' of the layout is not in the file" in notes
    assert "column 'E-mail' of the file is not in the layout, filled in 100 %" in notes
    assert "column 'Phone' holds phone, and 100 % of its cells are e-mail addresses" in notes
    assert "column 'Zib' is skipped, and holds 3 values, as 'kept'" in notes
    fine = layout(*((h, 'holds = "note"') for h in HEAD.split(";")))
    assert check_layout(fine, source) == []
    with pytest.raises(LayoutError, match="does not fit"):
        check_layout(layout(("Xyz", 'holds = "note"')), source)
    assert samples_of(NAMES, source)["Zib"] == ("kept",)
    assert Proposals(NAMES, source).of(NAMES, "Phone").proposals[0] == "email"


def test_a_survey_by_a_layout_tells_what_it_lacks(tmp_path: Path) -> None:
    found = surveyed(table(tmp_path, "Anna;a@x.test;a@x.test;;;kept"), [NAMES])
    assert found.layout == "l"
    assert any("'Gone'" in line for line in found.trouble)
    assert trouble(found, "Zib").startswith("skipped, but 1 of its cells")
    assert next(c for c in found.columns if c.name == "E-mail").holds.startswith("(not in")


def test_several_samples_of_one_layout(tmp_path: Path) -> None:
    first, second, other = (tmp_path / f"{n}.csv" for n in "abc")
    first.write_text("Name,Phone,Town\nAnna Weber,,Withy\n", encoding="utf-8")
    second.write_text("Town,Name,Phone,Fax\nHale,Tom Fenn,01632 960001,\n", encoding="utf-8")
    other.write_text("Zib,Wob\n1,2\n", encoding="utf-8")
    made = draft_whole([Source(str(first)), Source(str(second))])
    assert [each.column.heading for each in made.columns] == ["Name", "Phone", "Town", "Fax"]
    assert made.columns[1].samples == ("01632 960001",)
    assert made.columns[3].column.skip
    assert made.columns[2].samples == ("Withy", "Hale")
    with pytest.raises(SourceError, match="not a sample of the same layout"):
        draft_whole([Source(str(first)), Source(str(other))])


CARDS = card("N:Weber;Anna;;Dr;", "FN:Anna Weber", "TEL;TYPE=cell,voice:1", "TEL;TYPE=fax:2",
             "ADR;TYPE=home:;;1 Lock Lane;Withy;;WX1;", "CATEGORIES:Donors,Friends",
             "X-ZIB:7", "g1.EMAIL:a@x.test", "g1.X-ABLABEL:boat",
             "PHOTO;ENCODING=b:AAAA")  # fmt: skip
BARE = card("N:Fenn;Tom;;;", "FN:Tom Fenn", "TEL;TYPE=fax:3", "ADR:;;;Hale;;;")


def test_cards_are_counted_by_field(tmp_path: Path) -> None:
    path = tmp_path / "c.vcf"
    path.write_text(CARDS + BARE, encoding="utf-8")
    told: list[Unreachable] = []
    found = survey_cards(Source(str(path)), 0, tell=told.append)
    shares = {column.name: column.profile.fill for column in found.columns}
    assert shares == {
        "name/family": 1.0, "name/given": 1.0, "name/prefix": 0.5, "name/full": 1.0,
        "email": 0.5, "phone/cell": 0.5, "phone/fax": 1.0, "address/home/locality": 0.5,
        "address/home/postcode": 0.5, "address/home/street": 0.5, "address/locality": 0.5,
        "category": 0.5, "photo": 0.5, "X-ZIB": 0.5,
    }  # fmt: skip
    assert (found.people, found.reach.none) == (2, 1)
    assert told == [Unreachable(str(path), 2, "Tom Fenn", False, False, False)]
    category = next(column for column in found.columns if column.name == "category")
    assert category.profile.samples == ["Donors", "Friends"]


def test_a_record_is_shown_cell_by_cell(tmp_path: Path) -> None:
    source = table(
        tmp_path,
        "Weber, Anna;01632 960001 / 07700 900123;a@x.test;;13.04.1980;-",
        ";;;;;",
        *[
            f"Tom Fenn{n};01632 9600{n} / 07700 900123;t@x.test;;14.05.1990;7"
            for n in range(10, 14)
        ],
    )
    records = Records(source, [])
    first = records.get(1)
    assert first is not None
    told = [(line.name, line.cell, line.path, line.value) for line in first.lines]
    assert told[:4] == [
        ("Name", "Weber, Anna", "name/full", "Weber, Anna"),
        ("Phone", "01632 960001 / 07700 900123", "phone", "01632 960001"),
        ("", "", "phone", "07700 900123"),
        ("E-mail", "a@x.test", "email", "a@x.test"),
    ]
    assert ("Born", "13.04.1980", "birthday", "1980-04-13") in told
    assert ("Zib", "-", "(means nothing)", "") in told
    second = records.get(2)
    assert second is not None
    assert second.state == "blank"
    assert records.get(99) is None
    assert records.ended


def test_records_are_found(tmp_path: Path) -> None:
    phones = ["t@x.test" if n == 7 else "01632 960001" for n in range(KEPT + 20)]
    rows = [f"Tom Fenn{n};{phone};a@x.test;;;{n if n > 8 else ''}"
            for n, phone in enumerate(phones)]  # fmt: skip
    records = Records(table(tmp_path, *rows), [])
    found = records.next_that(0, lambda record: record.holds(["FENN3", "tom"]))
    assert found is not None
    assert found.number == 4
    found = records.next_that(0, lambda record: bool(record.findings))
    assert found is not None
    assert found.number == 8
    assert found.findings == ["Phone: does not look like phone"]
    found = records.next_that(1, lambda record: record.filled("zib"))
    assert found is not None
    assert found.number == 10
    assert records.next_that(10, lambda record: record.holds(["nobody"])) is None
    assert records.count == KEPT + 20
    back = records.get(2)  # further back than what is kept
    assert back is not None
    assert back.name == "Tom Fenn1"
    assert records.get(0) is None


def test_a_card_is_shown_line_by_line(tmp_path: Path) -> None:
    path = tmp_path / "c.vcf"
    path.write_text(CARDS + BARE, encoding="utf-8")
    records = Records(Source(str(path)), [])
    first = records.get(1)
    assert first is not None
    told = {line.path: (line.name, line.cell, line.value) for line in first.lines}
    assert told["phone/cell"] == ("line 5", "TEL;TYPE=cell,voice:1", "1")
    assert told["address/home/locality"][2] == "Withy"
    assert told["(a label)"][1] == "g1.X-ABLABEL:boat"
    assert first.name == "Anna Weber"
    second = records.get(2)
    assert second is not None
    assert second.place == 16
