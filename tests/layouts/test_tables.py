"""Rows to contacts and back, by layouts of every kind."""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from books_in_tests import (
    Kept,
    card,
    col,
    layout_of,
    read_cards,
    read_rows,
    simple,
    write_cards,
    write_rows,
)
from roundcard.card.contact import Contact
from roundcard.card.head import Value
from roundcard.card.origin import unpack
from roundcard.errors import LayoutError
from roundcard.formats.csv import Dialect
from roundcard.layouts.binding import bind, demand_fit
from roundcard.layouts.drafting.draft import draft_layout
from roundcard.layouts.drafting.profile import profile_rows
from roundcard.layouts.model import Layout
from roundcard.tally import Balance, Tally


def values(contact: Contact, name: str) -> list[Value]:
    return [prop.value for prop in contact.all(name)]


# columns, cells, the property looked at, its values
READ = [
    ("text", [col("A", "note")], ["x"], "note", ["x"]),
    ("white space is no value", [col("A", "note"), col("B", "title")], [" ", "x"], "note", []),
    (
        "name parts",
        [col("A", "name/family"), col("B", "name/given")],
        ["Weir", "Ada"],
        "n",
        [("Weir", "Ada", "", "", "")],
    ),
    (
        "second family name",
        [col("A", "name/family2")],
        ["Weir"],
        "n",
        [("", "", "", "", "", "Weir")],
    ),
    ("many in a cell", [col("A", "phone", 'many = " / "')], ["1 / 2"], "tel", ["1", "2"]),
    ("another mark", [col("A", "phone", 'many = " / "')], ["1/2"], "tel", ["1/2"]),
    (
        "several things in a cell",
        [col("A", '["address/postcode", "address/locality"]', 'parted = " "')],
        ["QX1 Withy Bridge"],
        "adr",
        [("", "", "", "Withy Bridge", "", "QX1", "")],
    ),
    (
        "joined columns",
        [col("A", "name/given", 'join = " "'), col("B", "name/given", 'join = " "')],
        ["Ada", "Maud"],
        "n",
        [("", "Ada Maud", "", "", "")],
    ),
    (
        "dates",
        [col("A", "birthday", 'date = "day/month/year"')],
        ["12/4/1980"],
        "bday",
        ["1980-04-12"],
    ),
    ("no date", [col("A", "birthday", 'date = "day/month/year"')], ["soon"], "bday", ["soon"]),
    (
        "parts of a date",
        [col("A", "birthday/day"), col("B", "birthday/month"), col("C", "birthday/year")],
        ["12", "4", ""],
        "bday",
        ["--04-12"],
    ),
    (
        "no parts of a date",
        [col("A", "birthday/day"), col("B", "birthday/month")],
        ["31", "June?"],
        "bday",
        ["31 June?"],
    ),
    (
        "their words",
        [col("A", "category", 'values = { A = "Active" }')],
        ["A"],
        "categories",
        [("Active",)],
    ),
    (
        "a word not listed",
        [col("A", "category", 'values = { A = "Active" }')],
        ["B"],
        "categories",
        [("B",)],
    ),
    (
        "two columns, one list",
        [col("A", "category", 'many = ";"'), col("B", "category")],
        ["x; y;", "z"],
        "categories",
        [("x", "y", "z")],
    ),
    (
        "gaps close up",
        [col("A", "email/1"), col("B", "email/3"), col("C", "email/2")],
        ["", "c", "b"],
        "email",
        ["b", "c"],
    ),
    (
        "positions and free places",
        [col("A", "phone/cell"), col("B", "phone/2")],
        ["cell", "second"],
        "tel",
        ["cell", "second"],
    ),
    (
        "a use and its position",
        [col("A", "phone/work/2"), col("B", "phone/work/1")],
        ["b", "a"],
        "tel",
        ["a", "b"],
    ),
    (
        "extension",
        [col("A", "phone/1"), col("B", "phone/1/extension")],
        ["01632", "12"],
        "tel",
        ["01632 ext. 12"],
    ),
    (
        "organisation",
        [col("A", "org"), col("B", "org/unit"), col("C", "org/unit/2")],
        ["Trust", "Boats", "Trips"],
        "org",
        [("Trust", "Boats", "Trips")],
    ),
    (
        "lines of a street",
        [col("A", "address/line1"), col("B", "address/line2")],
        ["1 A", "Flat 2"],
        "adr",
        [("", "", ("1 A", "Flat 2"), "", "", "", "")],
    ),
    (
        "a street with a break",
        [col("A", "address/street")],
        ["1 A\nFlat 2"],
        "adr",
        [("", "", ("1 A", "Flat 2"), "", "", "", "")],
    ),
    (
        "an address in one cell",
        [col("A", "address/home/full")],
        ["1 A, Withy"],
        "label",
        ["1 A, Withy"],
    ),
    ("sex", [col("A", "gender")], ["F"], "gender", [("F", "")]),
    ("gender", [col("A", "gender")], ["female"], "gender", [("", "female")]),
    (
        "custom",
        [col("A", "custom/Boat name")],
        ["Dawn"],
        "x-roundcard-custom",
        [("Boat name", "Dawn")],
    ),
    ("an extension property", [col("A", "custom/X-BERTH")], ["b;4"], "x-berth", ["b;4"]),
    ("position on earth", [col("A", "geo")], ["51.5, -0.1"], "geo", ["geo:51.5,-0.1"]),
]


@pytest.mark.parametrize(
    ("columns", "cells", "name", "found"),
    [case[1:] for case in READ],
    ids=[case[0] for case in READ],
)
def test_cells_become_values(
    columns: list[str], cells: list[str], name: str, found: list[Value]
) -> None:
    layout = layout_of(*columns)
    tally = Tally()
    (contact,) = read_rows(
        layout, [column.heading for column in layout.columns], cells, tally=tally
    )
    assert values(contact, name) == found
    assert tally.values.read == contact.size()
    if not any("soon" in cell or "?" in cell for cell in cells):
        written = write_rows(layout, [contact], tally)
        assert (
            read_rows(layout, [c.heading for c in layout.columns], *written)[0].size()
            == contact.size()
        )
        assert Balance.of(tally).even


def test_uses_labels_and_preference_stand_beside_the_value() -> None:
    layout = layout_of(col("P", "phone/1"), col("K", "phone/1/use"), col("F", "phone/1/preferred"))
    rows = [["1", "work+fax", "yes"], ["2", "lock cottage", ""], ["3", "mobile", ""], ["4", "", ""]]
    contacts = read_rows(layout, ["P", "K", "F"], *rows)
    first, second, third, _ = (contact.all("tel")[0] for contact in contacts)
    assert first.head.uses == {"work", "fax"}
    assert first.head.preferred == 1
    assert contacts[1].label_of(second) == "lock cottage"
    assert third.head.uses == {"cell"}
    rows[2][1] = "cell"
    assert write_rows(layout, contacts) == rows


# cards, layout, the row that they make, what is left behind
CARDS = [
    ("positions", ["TEL:1", "TEL;TYPE=cell:2"], simple(A="phone/2", B="phone/1"), ["2", "1"], []),
    (
        "the more specific first",
        ["TEL;TYPE=home:1", "TEL;TYPE=home,cell:2"],
        simple(A="phone", B="phone/cell"),
        ["1", "2"],
        [],
    ),
    (
        "a use",
        ["TEL;TYPE=home:1", "TEL;TYPE=work:2"],
        simple(A="phone/work"),
        ["2"],
        [("1", "phone: no free column")],
    ),
    (
        "a plain use takes no fax",
        ["TEL;TYPE=work,fax:1"],
        simple(A="phone/work", B="note"),
        None,
        [("1", "phone: no free column")],
    ),
    (
        "a fax by name",
        ["TEL;TYPE=work,fax:1"],
        simple(A="phone/work", B="phone/work+fax"),
        ["", "1"],
        [],
    ),
    ("a position takes what is left", ["TEL;TYPE=cell:1"], simple(A="phone/2"), ["1"], []),
    (
        "second of its use",
        ["TEL;TYPE=work:1", "TEL:x", "TEL;TYPE=work:2"],
        simple(A="phone/work/2", B="phone/work/1", C="phone"),
        ["2", "1", "x"],
        [],
    ),
    (
        "several in a cell",
        ["TEL:1", "TEL:2"],
        layout_of(col("A", "phone", 'many = ", "')),
        ["1, 2"],
        [],
    ),
    (
        "a value that holds the mark",
        ["TEL:1", "TEL:2\\, 3"],
        layout_of(col("A", "phone", 'many = ", "')),
        ["1"],
        [("2, 3", "phone: contains ',', which separates values there")],
    ),
    (
        "a label",
        ["g.TEL:1", "g.X-ABLabel:lock", "TEL:2"],
        simple(A="phone/~lock", B="phone"),
        ["1", "2"],
        [],
    ),
    (
        "categories over columns",
        ["CATEGORIES:a,b", "CATEGORIES:c"],
        layout_of(col("A", "category"), col("B", "category", 'many = "; "')),
        ["a", "b; c"],
        [],
    ),
    (
        "street lines",
        ["ADR:;;1 A\\nFlat 2\\nYard;W;;;"],
        simple(A="address/line1", B="address/line2", C="address/locality"),
        ["1 A", "Flat 2, Yard", "W"],
        [],
    ),
    (
        "a part without a column",
        ["ADR:;;1 A;W;;;Wales"],
        simple(A="address/street", B="address/locality"),
        ["1 A", "W"],
        [("Wales", "address: no column for country")],
    ),
    (
        "parts",
        ["ADR:;;;Withy Bridge;;QX1;"],
        layout_of(col("A", '["address/postcode", "address/locality"]', 'parted = " "')),
        ["QX1 Withy Bridge"],
        [],
    ),
    (
        "joined",
        ["TITLE:x", "N:;Ada Maud Ann;;;"],
        layout_of(
            col("A", "name/given", 'join = " "'),
            col("B", "name/given", 'join = " "'),
            col("C", "title"),
        ),
        ["Ada", "Maud Ann", "x"],
        [],
    ),
    (
        "dates",
        ["BDAY:1980-04-12"],
        layout_of(col("A", "birthday", 'date = "day.month.year"')),
        ["12.04.1980"],
        [],
    ),
    (
        "a date in parts",
        ["BDAY:1980-04-12"],
        simple(A="birthday/day", B="birthday/month", C="birthday/year"),
        ["12", "4", "1980"],
        [],
    ),
    (
        "a date with a part too many",
        ["BDAY:1980-04-12", "NOTE:x"],
        simple(A="birthday/year", B="note"),
        ["", "x"],
        [("1980-04-12", "birthday: no column for all of the date")],
    ),
    (
        "our words",
        ["CATEGORIES:Active"],
        layout_of(col("A", "category", 'values = { A = "Active" }')),
        ["A"],
        [],
    ),
    ("unknown", ["X-BERTH:b4", "NOTE:x"], simple(A="note"), ["x"], [("b4", "X-BERTH: no column")]),
    ("unknown by name", ["X-BERTH:b4"], simple(A="custom/x-berth"), ["b4"], []),
    (
        "characters",
        ["NOTE:水門", "TITLE:é"],
        layout_of(
            col("A", "note"),
            col("B", "title"),
            table='encoding = "windows-1252"\nunlisted = "skip"',
        ),
        ["", "é"],
        [("水門", "note: no characters for it in windows-1252")],
    ),
]


@pytest.mark.parametrize(
    ("lines", "layout", "row", "left"),
    [case[1:] for case in CARDS],
    ids=[case[0] for case in CARDS],
)
def test_values_find_their_columns(
    lines: list[str], layout: Layout, row: list[str] | None, left: list[tuple[str, str]]
) -> None:
    sink = Kept()
    tally = Tally(sink)
    written = write_rows(layout, read_cards(card(*lines), tally), tally)
    assert written == ([row] if row else [])
    assert sink.left == left
    assert Balance.of(tally).even


NAMES = [
    (
        "says the same",
        ["FN:Ada Weir", "N:Weir;Ada;;;"],
        simple(A="name/given", B="name/family"),
        ["Ada", "Weir"],
        1,
        0,
        [],
    ),
    (
        "says more",
        ["FN:Ada 'Skip' Weir", "N:Weir;Ada;;;"],
        simple(A="name/given", B="name/family"),
        ["Ada", "Weir"],
        0,
        0,
        [("Ada 'Skip' Weir", "name: no column for the whole name")],
    ),
    (
        "only the whole",
        ["FN:Ada Weir", "N:Weir;Ada;;;"],
        simple(A="name/full"),
        ["Ada Weir"],
        2,
        0,
        [],
    ),
    ("made from parts", ["N:Weir;Ada;;;"], simple(A="name/full"), ["Ada Weir"], 2, 1, []),
    (
        "derived before",
        ["FN;X-ROUNDCARD-DERIVED=true:Ada Weir", "N:Weir;Ada;;;"],
        simple(A="name/full", B="name/given", C="name/family"),
        ["", "Ada", "Weir"],
        0,
        0,
        [],
    ),
    (
        "a part in neither",
        ["FN:Ada Weir", "N:Weir;Ada;;Dr;"],
        simple(A="name/full"),
        ["Ada Weir"],
        2,
        0,
        [("Dr", "name: no column for this part")],
    ),
]


@pytest.mark.parametrize(
    ("lines", "layout", "row", "folded", "derived", "left"),
    [case[1:] for case in NAMES],
    ids=[case[0] for case in NAMES],
)
def test_whole_names_and_parts(
    lines: list[str],
    layout: Layout,
    row: list[str],
    folded: int,
    derived: int,
    left: list[tuple[str, str]],
) -> None:
    sink = Kept()
    tally = Tally(sink)
    assert write_rows(layout, read_cards(card(*lines), tally), tally) == [row]
    assert (tally.values.folded, tally.values.derived) == (folded, derived)
    assert [(text.strip(), why) for text, why in sink.left] == left
    assert Balance.of(tally).even


def test_fixed_blank_skipped_and_empty() -> None:
    layout = layout_of(
        col("N", "note"),
        'heading = "O"\nfixed = "I. H."',
        'heading = "S"\nskip = true',
        'heading = "B"\nblank = true',
        table='empty = ["-"]',
        every='[[every]]\nholds = "category"\nvalue = "Club"',
    )
    tally = Tally()
    rows = [["x", "I. H.", "telex", ""], ["y", "other", "", "odd"], ["-", "", "", ""]]
    contacts = read_rows(layout, ["N", "O", "S", "B"], *rows, tally=tally)
    assert [values(c, "categories") for c in contacts] == [[("Club",)]] * 2
    assert values(contacts[1], "x-roundcard-custom") == [("O", "other"), ("B", "odd")]
    assert (tally.people.blank, tally.values.left_out, tally.values.read) == (1, 3, 7)
    assert len(tally.findings) == 2
    assert write_rows(layout, contacts[:1]) == [["x", "I. H.", ""]]


def test_headings_are_matched_by_alias_number_and_turn() -> None:
    layout = layout_of(
        col("Mail", "email/1"),
        col("Mail", "email/2", "nth = 2"),
        col("Who", "name/full", 'aliases = ["Person"]'),
        col("Gone", "note"),
    )
    found = bind(layout, ["PERSON ", "Mail", "x", "mail"], 4)
    assert [(at, column.name) for at, column in found.columns] == [
        (0, "Who"),
        (1, "Mail"),
        (3, "Mail (2)"),
    ]
    assert [column.name for column in found.missing] == ["Gone"]
    assert found.unlisted == [(2, "x")]
    numbered = layout_of('number = 2\nholds = "note"', table="heading_row = 0")
    assert [at for at, _ in bind(numbered, None, 3).columns] == [1]
    assert [at for at, _ in bind(numbered, None, 3).unlisted] == [0, 2]
    with pytest.raises(LayoutError, match="none of its 4 columns was found"):
        demand_fit(layout, bind(layout, ["a", "b"], 2), ["a", "b"], "f.csv")


def test_rows_that_are_short_or_long() -> None:
    layout = simple(A="note", B="title")
    tally = Tally()
    short, long = read_rows(layout, ["A", "B"], ["x"], ["y", "z", "", "over"], tally=tally)
    assert values(short, "note") == ["x"]
    assert values(long, "x-roundcard-custom") == [("column 4", "over")]
    assert tally.values.read == 4


def test_a_guard_against_formulas_is_put_on_and_taken_off() -> None:
    layout = layout_of(col("P", "phone"), col("N", "note"), table="formula_guard = true")
    rows = [["'+44 1632 960001", "'=SUM(A1)"], ["01632", "'t Hart"]]
    contacts = read_rows(layout, ["P", "N"], *rows)
    assert values(contacts[0], "tel") == ["+44 1632 960001"]
    assert values(contacts[1], "note") == ["'t Hart"]
    assert write_rows(layout, contacts) == rows
    plain = simple(P="phone", N="note")
    assert write_rows(plain, contacts)[0] == ["+44 1632 960001", "=SUM(A1)"]


HEADINGS = [
    (["First name", "Surname", "E-mail"], ["name/given", "name/family", "email"]),
    (["Name", "Telephone", "Mobile No."], ["name/full", "phone", "phone/cell"]),
    (["phone 1", "phone 1 type", "Phone 2"], ["phone/1", "phone/1/use", "phone/2"]),
    (
        ["name/given", "phone/work+fax", "custom/Boat"],
        ["name/given", "phone/work+fax", "custom/Boat"],
    ),
    (["Address", "Town"], ["address/street", "address/locality"]),
    (["Address", "E-mail"], ["address/full", "email"]),
    (
        ["E-mail", "Boat", "", "Surname", "Surname"],
        ["email", "custom/Boat", "custom/column 3", "name/family", "custom/Surname (2)"],
    ),
]


@pytest.mark.parametrize(("headings", "paths"), HEADINGS)
def test_english_headings_are_understood(headings: list[str], paths: list[str]) -> None:
    draft = draft_layout(headings, profile_rows(headings, []).columns, Dialect(), "t")
    assert [column.meaning for column in draft.layout.columns] == paths


LEDGER = layout_of(
    col("Surname", "name/family"),
    col("Given", "name/given"),
    col("Mail", "email"),
    col("Phones", "phone", 'many = " / "'),
    col("Mobile", "phone/cell"),
    col("Street", "address/home/street"),
    col("PLZ Ort", '["address/home/postcode", "address/home/locality"]', 'parted = " "'),
    col("Born", "birthday", 'date = "day.month.year"'),
    col("Groups", "category", 'many = ", "'),
    col("Notes", "note"),
    col("Boat", "custom/Boat"),
    col("State", "custom/State", 'values = { A = "Active" }'),
    table='encoding = "windows-1252"\nseparator = ";"',
)
TEXT = st.text(
    st.characters(codec="windows-1252", exclude_categories=["C", "Z"]), min_size=1, max_size=9
)
WORD = TEXT.filter(lambda t: not set(t) & set(",/ \xa0"))
maybe = st.just("") | TEXT
rows = st.tuples(
    maybe,
    maybe,
    maybe,
    st.lists(WORD, max_size=2).map(" / ".join),
    maybe,
    maybe,
    st.one_of(st.just(""), WORD, st.tuples(WORD, TEXT).map(" ".join)),
    st.sampled_from(["", "12.04.1980", "12.04.", "1980", "04.1980", "soon"]),
    st.lists(WORD, max_size=3, unique=True).map(", ".join),
    maybe,
    maybe,
    st.sampled_from(["", "A", "B"]),
).map(list)


@given(st.lists(rows, min_size=1, max_size=4))
def test_table_to_cards_and_back_gives_the_same_cells(book: list[list[str]]) -> None:
    book = [row for row in book if any(row)]
    assume(book)
    headings = [column.heading for column in LEDGER.columns]
    tally = Tally()
    contacts = read_rows(LEDGER, headings, *book, tally=tally)
    text = write_cards(contacts, "4.0", tally)
    assert Balance.of(tally).even
    assert tally.people.written == len(book)
    back = Tally()
    assert write_rows(LEDGER, read_cards(text, back), back) == book
    assert Balance.of(back).even
    assert back.values.left_behind == 0


@pytest.mark.parametrize(
    ("unlisted", "said", "left"),
    [
        ("custom", [("name/full", "Ada"), ("Boat", "Dawn")], 0),
        ("skip", [("name/full", "Ada")], 1),
    ],
)
def test_columns_that_the_layout_does_not_list(
    unlisted: str, said: list[tuple[str, str]], left: int
) -> None:
    layout = layout_of(col("A", "name/full"), table=f'unlisted = "{unlisted}"')
    tally = Tally()
    (contact,) = read_rows(layout, ["A", "Boat"], ["Ada", "Dawn"], tally=tally)
    found = [
        ("name/full", prop.text) if prop.name == "fn" else (prop.components[0], prop.components[1])
        for prop in contact.properties
    ]
    assert found == said
    assert tally.values.left_out == left
    assert tally.values.read == 2


@pytest.mark.parametrize(
    ("columns", "places"),
    [
        ([col("A", "note"), col("B", "phone")], {"note": 1, "tel": 2}),
        ([col("A", "note"), col("B", "phone/use"), col("C", "phone")], {"note": 1, "tel": 3}),
        ([col("A", "category", 'many = ";"'), col("B", "category")], {"categories": 1}),
        ([col("A", "note"), col("B", "category", 'many = ";"')], {"note": 1, "categories": 2}),
        ([col("A", "custom/Boat"), col("B", "birthday")], {"x-roundcard-custom": 1, "bday": 2}),
    ],
)
def test_values_know_the_column_that_they_came_from(
    columns: list[str], places: dict[str, int]
) -> None:
    told = "home" if any("phone/use" in column for column in columns) else "19800412"
    cells = ["1980-04-12", told, "19800412"][: len(columns)]
    (contact,) = read_rows(layout_of(*columns), ["A", "B", "C"][: len(columns)], cells)
    found = {}
    for prop in contact.properties:
        place = unpack(prop.origin_of(len(prop.components) - 1 if prop.name[0] == "x" else 0))
        assert place is not None
        assert (place.source, place.record) == (0, 1)
        found[prop.name] = place.place
    assert found == places


def test_a_short_row_and_a_long_one() -> None:
    layout = layout_of(col("A", "name/full"), col("B", "note"))
    tally = Tally()
    contacts = read_rows(layout, ["A", "B"], ["Ada"], ["Bo", "x"], ["Cy", "y", "z"], tally=tally)
    assert [contact.size() for contact in contacts] == [1, 2, 3]
    assert tally.values.read == 6
    assert contacts[2].properties[-1].components[1] == "z"


@pytest.mark.parametrize(
    "column",
    [
        col("A", "phone"),
        col("A", "phone", 'many = ";"'),
        col("A", "birthday", 'date = "day/month/year"'),
        col("A", "note", "values = { x = 'y' }"),
        col("A", "email/home/1"),
        col("A", "category", 'many = ";"'),
        col("A", "custom/Boat"),
        col("A", "custom/Boat", 'many = ";"'),
        col("A", "org"),
        col("A", "gender"),
        col("A", "address/full"),
        col("A", "name/phonetic-given"),
    ],
)
def test_an_empty_cell_is_no_value_in_any_column(column: str) -> None:
    layout = layout_of(column, col("B", "title"))
    tally = Tally()
    contacts = read_rows(layout, ["A", "B"], ["", "x"], [" ", "y"], ["", ""], tally=tally)
    assert [contact.size() for contact in contacts] == [1, 1]
    assert (tally.values.read, tally.people.read, tally.people.blank) == (2, 3, 1)
