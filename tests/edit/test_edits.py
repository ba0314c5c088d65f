"""A sheet to edit: what it shows, and what was done to it, done to the contacts."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, inner, read_cards, write_cards
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.edit.edits import Edited, edits_of, people_of
from roundcard.edit.sheet import Columns, Sheet, key_of, plain, read_sheet, row_of, write_sheet
from roundcard.edit.sheet_values import joined, parted, slots_of
from roundcard.errors import PlanError
from roundcard.tally import Balance, Tally

ADA = card(
    "N:Weir;Ada;;Dr.;", "FN:Dr. Ada Weir", "TEL;TYPE=cell:1", "TEL;TYPE=cell:2", "TEL:3",
    "g1.TEL:4", "g1.X-ABLabel:on board", "ADR;TYPE=home:;;1 Lock Lane;Withy;;00123;",
    "ADR;TYPE=home:;;2 Lock Lane;;;;", "ORG:Withy;Boats;Crew", "CATEGORIES:A,B\\,C",
    "BDAY:1980-04-12", "NOTE:one\\ntwo", "UID:u1", "X-ZIB:7", "PHOTO;ENCODING=b;TYPE=PNG:aGk=",
)  # fmt: skip
BO = card("FN:Bo", "EMAIL;TYPE=work:bo@x.test")


def sheet_of(book: list[Contact]) -> Sheet:
    """The sheet of a book as it comes back unedited."""
    columns = Columns()
    for contact in book:
        columns.see(contact)
    headings = columns.headings()
    rows = []
    for line, contact in enumerate(book, 2):
        cells = row_of(contact, headings)
        rows.append((line, key_of(contact, cells), [plain(cell) for cell in cells]))
    return Sheet(list(headings), rows, headings, [key for _, key, _ in rows])


def set_cell(sheet: Sheet, row: int, column: str, text: str) -> None:
    sheet.rows[row][2][sheet.headings.index(column)] = text


def after(text: str, *edits: tuple[int, str, str]) -> list[str]:
    """The cards after some cells were edited, with the balance held."""
    tally = Tally()
    book = read_cards(text, tally)
    sheet = sheet_of(book)
    for row, column, new in edits:
        set_cell(sheet, row, column, new)
    found = edits_of(sheet, book, "s.xlsx")
    step = Edited(found)
    made = [kept for contact in book if (kept := step(contact, tally)) is not None]
    written = write_cards(made, "3.0", tally)
    tally.people.carried = tally.people.written = len(made)
    assert Balance.of(tally).even
    assert not found.refused
    return inner(written)


def test_a_sheet_shows_filled_columns_in_a_usual_order() -> None:
    sheet = sheet_of(read_cards(ADA + BO))
    assert sheet.headings == [
        "name/prefix", "name/given", "name/family", "name/full", "org", "org/unit", "org/unit/2",
        "email/work", "phone", "phone/cell", "phone/cell/2", "phone/~on board",
        "address/home/street", "address/home/locality", "address/home/postcode",
        "address/home/2/street", "birthday", "category", "note",
    ]  # fmt: skip
    first = dict(zip(sheet.headings, sheet.rows[0][2], strict=True))
    assert first["name/full"] == ""  # the parts say it
    assert first["category"] == "A; B,C"
    assert dict(zip(sheet.headings, sheet.rows[1][2], strict=True))["name/full"] == "Bo"


def test_a_sheet_that_nobody_edited_changes_nothing() -> None:
    book = read_cards(ADA + BO)
    found = edits_of(sheet_of(book), book, "s.xlsx")
    assert found.nothing
    assert all(Edited(found)(contact, Tally()) is contact for contact in book)


EDITED = [
    ("phone/cell/2", "22", "TEL;TYPE=cell:2", ["TEL;TYPE=cell:22"]),
    ("phone/cell/2", "", "TEL;TYPE=cell:2", []),
    ("phone", "33", "TEL:3", ["TEL:33"]),
    ("phone/~on board", "44", "g1.TEL:4", ["g1.TEL:44"]),
    ("address/home/postcode", "", "ADR;TYPE=home:;;1 Lock Lane;Withy;;00123;",
     ["ADR;TYPE=home:;;1 Lock Lane;Withy;;;"]),
    ("address/home/2/street", "", "ADR;TYPE=home:;;2 Lock Lane;;;;", []),
    ("org/unit", "Barges", "ORG:Withy;Boats;Crew", ["ORG:Withy;Barges;Crew"]),
    ("category", "A; New; B,C", "CATEGORIES:A,B\\,C", ["CATEGORIES:A,B\\,C", "CATEGORIES:New"]),
    ("category", "B,C", "CATEGORIES:A,B\\,C", ["CATEGORIES:B\\,C"]),
    ("category", "", "CATEGORIES:A,B\\,C", []),
    ("birthday", "1981-04-12", "BDAY:1980-04-12", ["BDAY:1981-04-12"]),
    ("note", "one\nthree", "NOTE:one\\ntwo", ["NOTE:one\\nthree"]),
]  # fmt: skip


@pytest.mark.parametrize(("column", "text", "line", "new"), EDITED)
def test_a_cell_that_was_edited(column: str, text: str, line: str, new: list[str]) -> None:
    before = inner(ADA)
    at = before.index(line)
    assert after(ADA, (0, column, text)) == [*before[:at], *new, *before[at + 1 :]] or (
        sorted(after(ADA, (0, column, text))) == sorted([*before[:at], *new, *before[at + 1 :]])
    )


def test_the_whole_name_follows_its_parts_where_it_said_them() -> None:
    made = after(ADA, (0, "name/family", "Lock"))
    assert made[:2] == ["N:Lock;Ada;;Dr.;", "FN:Dr. Ada Lock"]
    other = ADA.replace("FN:Dr. Ada Weir", "FN:The Captain")
    assert after(other, (0, "name/family", "Lock"))[:2] == ["N:Lock;Ada;;Dr.;", "FN:The Captain"]


def test_cells_that_were_filled_are_added_where_they_belong() -> None:
    text = ADA + card("N:Lock;;;;", "FN:Lock", "ADR;TYPE=home:;;3 Lock Lane;;;;")
    tally = Tally()
    book = read_cards(text, tally)
    sheet = sheet_of(book)
    for column, cell in (("name/given", "Cy"), ("phone/~on board", "5"), ("org/unit", "Boats"),
                         ("address/home/postcode", "00987"), ("category", "X; Y"),
                         ("address/home/2/street", "Mooring")):  # fmt: skip
        set_cell(sheet, 1, column, cell)
    made = Edited(edits_of(sheet, book, "s.xlsx"))(book[1], tally)
    assert made is not None
    assert sorted(inner(write_cards([made], "3.0", tally))) == sorted([
        "N:Lock;Cy;;;", "FN:Cy Lock", "ADR;TYPE=home:;;3 Lock Lane;;;00987;",
        "ADR;TYPE=home:;;Mooring;;;;", "g1.TEL:5", "g1.X-ABLabel:on board", "ORG:;Boats",
        "CATEGORIES:X,Y",
    ])  # fmt: skip
    assert tally.values.added == 7


def test_new_deleted_and_doubled_rows() -> None:
    book = read_cards(ADA + BO)
    sheet = sheet_of(book)
    line, key, cells = sheet.rows.pop(1)
    sheet.rows.append((9, "", ["" if column != "name/full" else "Cy" for column in sheet.headings]))
    sheet.rows.append((10, sheet.rows[0][1], list(sheet.rows[0][2])))
    sheet.rows.append((11, "", [""] * len(sheet.headings)))
    found = edits_of(sheet, book, "s.xlsx")
    assert found.deleted == {2: "Bo"}
    assert [inner(write_cards([each], "4.0")) for each in people_of(found)] == [["FN:Cy"]]
    assert "row 10 is a copy of row 2" in found.refused[0]
    assert Edited(found)(book[1], Tally()) is None
    sheet.keys = []  # the hidden sheet is gone
    assert edits_of(sheet, book, "s.xlsx").deleted == {}
    sheet.keys, sheet.rows = [key], [(line, key, cells)]
    assert edits_of(sheet, book, "s.xlsx").deleted == {}  # who was never shown stays


def test_a_book_that_is_not_what_it_was_is_left_alone() -> None:
    book = read_cards(ADA + BO)
    sheet = sheet_of(book)
    set_cell(sheet, 0, "phone", "99")
    deleted = sheet.rows.pop(1)
    newer = read_cards(ADA.replace("TEL:3", "TEL:33") + BO.replace("bo@", "b@"))
    found = edits_of(sheet, newer, "s.xlsx")
    assert found.nothing
    assert len(found.refused) == 2
    assert "not in the book what it was then; it stays" in found.refused[1]
    gone = edits_of(sheet, newer[1:], "s.xlsx")
    assert "which the book does not have" in gone.refused[-1]
    assert deleted[1].startswith("2-")


@pytest.mark.parametrize(
    ("heading", "said"),
    [("phone/hoem", "did you mean"), ("photo", "no such column"), ("name", "which part"),
     ("address/home", "which part"), ("phone", "two columns are headed 'phone'")],
)  # fmt: skip
def test_columns_that_cannot_be_are_told(heading: str, said: str) -> None:
    book = read_cards(ADA)
    sheet = sheet_of(book)
    sheet.headings.append(heading)
    sheet.rows[0][2].append("x")
    with pytest.raises(PlanError, match=said):
        edits_of(sheet, book, "s.xlsx")


def test_a_new_column_adds_and_a_column_that_is_gone_changes_nothing() -> None:
    book = read_cards(ADA)
    sheet = sheet_of(book)
    at = sheet.headings.index("note")
    del sheet.headings[at], sheet.rows[0][2][at]
    sheet.headings.append("url")
    sheet.rows[0][2].append("https://x.test")
    made = Edited(edits_of(sheet, book, "s.xlsx"))(book[0], Tally())
    assert made is not None
    assert inner(write_cards([made], "3.0")) == [*inner(ADA), "URL:https://x.test"]


@given(st.lists(st.text(min_size=1, max_size=6).map(str.strip).filter(bool), max_size=5))
def test_a_list_in_one_cell_comes_back(entries: list[str]) -> None:
    kept = [entry for entry in entries if "\n" not in entry]
    assert parted(joined(kept)) == kept


LINES = st.sampled_from([
    "TEL:1", "TEL;TYPE=cell:2", "TEL;TYPE=cell,work:2", "g1.TEL:3", "g1.X-ABLabel:boat", "ORG:A;B",
    "ADR:;;1;2;;3;4", "ADR;TYPE=work:;;=5;;;;", "LABEL:6\\n7", "CATEGORIES:A,B\\;C", "NOTE:'t",
    "BDAY:--0412", "NICKNAME:x,y", "X-FOO:8",
    "X-ROUNDCARD-CUSTOM:Boat;Slow Worm", "URL:https://x.test", "N:Weir;Ada;;;",
])  # fmt: skip


@given(st.lists(LINES, max_size=8), st.text("0+='A\né", min_size=1, max_size=8), st.integers(0, 99))
def test_any_cell_may_be_edited_and_the_counts_balance(
    lines: list[str], text: str, which: int
) -> None:
    tally = Tally()
    book = read_cards(card("FN:Ada Weir", *lines), tally)
    sheet = sheet_of(book)
    paths = [slot.path for slot in slots_of(book[0])]
    assert len(set(paths)) == len(paths)
    at = which % len(sheet.headings)
    new = plain(text)
    sheet.rows[0][2][at] = new
    made = Edited(edits_of(sheet, book, "s.xlsx"))(book[0], tally)
    assert made is not None
    written = write_cards([made], "4.0", tally)
    tally.people.carried = tally.people.written = 1
    assert Balance.of(tally).even
    if not written.count("FN;DERIVED"):
        again = {slot.path: plain(slot.text) for slot in slots_of(read_cards(written)[0])}
        expected = joined(parted(new)) if sheet.headings[at] in ("category", "nickname") else new
        if not new:  # a later value may have moved up
            again_said = ("N:Weir;Ada;;;", "X-ROUNDCARD-CUSTOM:Boat;Slow Worm")
            another = any(lines.count(each) > 1 for each in again_said)
            assert len(again) == len(paths) - 1 or another
        else:
            assert again.get(sheet.headings[at]) == expected or sheet.headings[at] == "name/full"


def test_the_file_of_a_sheet(tmp_path: Path) -> None:
    book = read_cards(ADA + BO)
    columns = Columns("name,phone")
    for contact in book:
        columns.see(contact)
    path = tmp_path / "s.xlsx"
    with Transaction(path) as files:
        assert write_sheet(files, path, book, columns.headings(), "b.vcf", force=False) == 2
        files.commit()
    found = read_sheet(path)
    assert found.headings[:3] == ["name/prefix", "name/given", "name/family"]
    assert [key.partition("-")[0] for _, key, _ in found.rows] == ["1", "2"]
    assert found.keys == [key for _, key, _ in found.rows]
    assert edits_of(found, book, "s.xlsx").nothing
    path.write_bytes(b"not a workbook")
    with pytest.raises(PlanError, match="not a workbook"):
        read_sheet(path)
