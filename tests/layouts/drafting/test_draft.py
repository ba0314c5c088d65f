"""Drafts from headings and cells together, as files, and decisions on them."""

from __future__ import annotations

import string

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.errors import LayoutError, PathError
from roundcard.formats.csv import Dialect
from roundcard.layouts.drafting.assign import surest
from roundcard.layouts.drafting.deciding import ColumnDecision, decided
from roundcard.layouts.drafting.draft import Draft, DraftedColumn, draft_layout
from roundcard.layouts.drafting.profile import profile_rows
from roundcard.layouts.drafting.written import as_file, remarks_in
from roundcard.layouts.file import parse_layout
from roundcard.layouts.fitting import TAKEN_FROM, fit_of

PEOPLE = ["Anna Weber", "Peter Lock", "Emma Fenn", "Grace Hale", "Tom Reed", "Iris Sedge"]
MAILS = [f"p{n}@example.org" for n in range(6)]
PHONES = [f"+44 1632 96000{n}" for n in range(6)]
TOWNS = ["Withy", "Hale", "Sedge", "Alderton", "Withy", "Otterford"]
BORN = ["12/04/1935", "13/05/1948", "01/06/1962", "25/07/1971", "30/08/1985", "02/09/1999"]


def draft(columns: dict[str, list[str]] | list[list[str]], *, skip_empty: bool = False) -> Draft:
    """A draft from columns by their headings, or from columns without headings."""
    if isinstance(columns, dict):
        headings: list[str] | None = [heading.strip("\0") for heading in columns]
        cells = list(columns.values())
    else:
        headings, cells = None, columns
    rows = [list(row) for row in zip(*cells, strict=True)]
    profile = profile_rows(headings or [""] * len(cells), rows)
    return draft_layout(headings, profile.columns, Dialect(), "t", skip_empty=skip_empty)


def one(columns: dict[str, list[str]], heading: str) -> DraftedColumn:
    return next(each for each in draft(columns).columns if each.column.heading == heading)


def test_content_beats_a_heading_that_lies() -> None:
    told = one({"Name": PEOPLE, "Phone": MAILS}, "Phone")
    assert str(told.column.holds[0]) == "email"
    assert told.look
    assert "though its heading says phone" in told.why


@pytest.mark.parametrize(
    ("heading", "cells", "holds"),
    [
        ("Zibble", MAILS, "email"),
        ("Zibble", PHONES, "phone"),
        ("Zibble", TOWNS, "custom/Zibble"),
        ("Owner", MAILS, "custom/Owner"),
        ("Birthday", PEOPLE, "name/full"),
        ("Таб. №", ["M-1234", "M-2345", "M-3456", "M-4567", "M-5678", "M-6789"], "custom/Таб. №"),
        ("Twon", TOWNS, "address/locality"),
        ("Compnay", ["Lower Reach", "Sedge Four", "Hale and Fenn", "Reach", "Lock Four", "Mill"],
         "org"),
        ("Titel", ["Dr.", "Prof.", "Dr.", "", "Dr.", "Prof."], "name/prefix"),
        ("Titel", ["Lehrerin", "Leiter", "Meister", "", "Koch", "Rektor"], "title"),
        ("Privat", PHONES, "phone/home"),
        ("Privat", MAILS, "email/home"),
        ("State", ["A", "L", "A", "A", "L", "A"], "custom/State"),
        ("State", ["NY", "TX", "NY", "CA", "TX", "NY"], "address/region"),
        ("Name", ["Hale Ltd", "Sedge School", "Lock Club", "Fenn Trust", "A Bank", "B Press"],
         "org"),
        ("Address", [f"{n} Lock Lane, Withy WT1 2AB" for n in range(6)], "address/full"),
    ],
)  # fmt: skip
def test_heading_and_cells_are_weighed(heading: str, cells: list[str], holds: str) -> None:
    assert str(one({heading: cells, "Zib 2": TOWNS}, heading).column.holds[0]) == holds


def test_given_and_family_names_that_were_turned_are_told() -> None:
    given = ["James", "Mary", "Robert", "Anna", "Peter", "Emma", "George", "Alice", "Henry"]
    family = ["Lockyer", "Weirside", "Sedgeley", "Ottery", "Fennimore", "Haleham", "Millbank",
              "Reachby", "Towpath"]  # fmt: skip
    drafted = draft({"First name": family, "Last name": given, "Mail": [*MAILS, *MAILS[:3]]})
    first, last, mail = drafted.columns
    assert [str(each.column.holds[0]) for each in (first, last, mail)] == [
        "name/family", "name/given", "email"]  # fmt: skip
    assert [each.look for each in (first, last, mail)] == [True, True, False]
    assert "given and family names are turned; 'Last name' is said of it" in first.why
    by_path = draft({"name/given": family, "name/family": given, "Mail": [*MAILS, *MAILS[:3]]})
    assert [str(each.column.holds[0]) for each in by_path.columns[:2]] == [
        "name/given", "name/family"]  # fmt: skip
    straight = draft({"First name": given, "Last name": family, "Mail": [*MAILS, *MAILS[:3]]})
    assert str(straight.columns[0].column.holds[0]) == "name/given"
    alike = draft({"First name": given, "Last name": given[::-1], "Mail": [*MAILS, *MAILS[:3]]})
    assert str(alike.columns[0].column.holds[0]) == "name/given"


def test_an_unknown_column_of_addresses_is_one_more_and_to_be_looked_at() -> None:
    told = one({"E-mail": MAILS, "Zibble": MAILS}, "Zibble")
    assert str(told.column.holds[0]) == "email"
    assert told.look


def test_a_table_without_headings() -> None:
    made = draft([PEOPLE, MAILS, PHONES, BORN, ["12 Lock Lane"] * 6])
    paths = ["name/full", "email", "phone", "birthday", "address/street"]
    assert [str(each.column.holds[0]) for each in made.columns] == paths
    assert [each.column.number for each in made.columns] == [1, 2, 3, 4, 5]
    assert made.layout.heading_row == 0


def test_given_and_family_names_and_towns_are_told_by_their_neighbours() -> None:
    given_names = ["Anna", "Peter", "Emma", "Grace", "Tom", "Iris"]
    families = ["Quib", "Ploth", "Zarn", "Wex", "Yold", "Brint"]
    codes = ["WX1 2AB", "WX2 3BC", "WX1 4DE", "WX9 9ZZ", "WX3 3AB", "WX4 4AB"]
    made = draft([given_names, families, ["12 Lock Lane"] * 6, TOWNS, codes])
    told = [str(each.column.holds[0]) for each in made.columns]
    wanted = ["name/given", "name/family", "address/street", "address/locality"]
    assert told == [*wanted, "address/postcode"]


@pytest.mark.parametrize(
    ("headings", "holds"),
    [
        ("Name;Rechnungsanschrift", "name/full;address/full"),
        ("Name;Address;Invoice address", "name/full;address/full;custom/Invoice address"),
        ("Nom;Adresse de livraison", "name/full;address/full"),
    ],
)
def test_the_only_address_is_the_contacts_whatever_it_is_for(headings: str, holds: str) -> None:
    streets = [f"{at} Lock Lane" for at in range(1, 7)]
    cells = [PEOPLE, streets, [f"{at} Quay Street" for at in range(6)]]
    made = draft(dict(zip(headings.split(";"), cells, strict=False)))
    told = [str(each.column.holds[0]) for each in made.columns]
    assert ";".join(told) == holds


@pytest.mark.parametrize(
    ("headings", "holds"),
    [
        ("Kind Vorname;Kind Nachname;Mutter Name;Mutter Handy",
         "name/given;name/family;custom/Mutter Name;custom/Mutter Handy"),
        ("Boat;Owner first name;Owner surname;Owner phone",
         "custom/Boat;name/given;name/family;phone"),
        ("Stall keeper forename;Stall keeper surname;Name of spouse;Phone",
         "name/given;name/family;related/spouse;phone"),
        ("Partner 1 first;Partner 1 last;Partner 2 name;Partner 1 phone",
         "name/given;name/family;custom/Partner 2 name;phone"),
        ("Имя читателя;Фамилия читателя;Отец;Телефон читателя",
         "name/given;name/family;custom/Отец;phone"),
        ("Imię dziecka;Nazwisko dziecka;Opiekun;Telefon opiekuna",
         "name/given;name/family;custom/Opiekun;custom/Telefon opiekuna"),
        ("person[0].first;person[0].last;nickname;phone[0].value",
         "name/given;name/family;nickname;phone"),
    ],
)  # fmt: skip
def test_whose_data_a_table_holds(headings: str, holds: str) -> None:
    given_names = ["Anna", "Peter", "Emma", "Grace", "Tom", "Iris"]
    families = ["Quib", "Ploth", "Zarn", "Wex", "Yold", "Brint"]
    cells = [given_names, families, PEOPLE, PHONES]
    if headings.startswith("Boat"):
        cells = [TOWNS, given_names, families, PHONES]
    made = draft(dict(zip(headings.split(";"), cells, strict=True)))
    assert ";".join(str(each.column.holds[0]) for each in made.columns) == holds


@pytest.mark.parametrize(
    ("headings", "holds"),
    [
        ("Ejer;Mobilnr.", "name/full;phone/cell"),
        ("Copropriétaire;Téléphone;Civilité", "name/full;phone;name/prefix"),
        ("Eigentümer;Mieter;Telefon", "name/full;custom/Mieter;phone"),
        ("Rep;Firma", "custom/Rep;org"),
        ("Eigentümer;Telefon;Firma", "custom/Eigentümer;phone;org"),
    ],
)
def test_who_is_named_alone_is_the_contact(headings: str, holds: str) -> None:
    cells = {"Rep": PEOPLE, "Ejer": PEOPLE, "Copropriétaire": PEOPLE, "Eigentümer": PEOPLE,
             "Mieter": PEOPLE[::-1], "Civilité": ["M.", "Mme"] * 3,
             "Firma": ["Lock GmbH", "Quay AG", "Weir KG"] * 2}  # fmt: skip
    made = draft({heading: cells.get(heading, PHONES) for heading in headings.split(";")})
    assert ";".join(str(each.column.holds[0]) for each in made.columns) == holds


@pytest.mark.parametrize(
    ("headings", "holds"),
    [
        ("1. Your name;2. Phone;3. E-mail", "name/full;phone;email"),
        ("Q1: Name;Q2: Phone;Q4: E-mail", "name/full;phone;email"),
        ("1. Phone;2. Phone", "phone/1;phone/2"),
        ("Phone A;Phone B;Mail A;Mail B", "phone/1;phone/2;email/1;email/2"),
        ("Zip5;Name", "address/postcode;name/full"),
        ("Surmane;First Nam;Emial", "name/family;name/given;email"),
        ("Email Add;Codigo potal;Direccion", "email;address/postcode;address/street"),
    ],
)
def test_numbers_letters_and_slips_of_headings(headings: str, holds: str) -> None:
    cells = {"1. Your name": PEOPLE, "Q1: Name": PEOPLE, "Name": PEOPLE,
             "Surmane": ["Quib", "Ploth", "Zarn", "Wex", "Yold", "Brint"],
             "First Nam": ["Anna", "Peter", "Emma", "Grace", "Tom", "Iris"],
             "Zip5": [f"5{at}331" for at in range(6)],
             "Codigo potal": [f"28{at}13" for at in range(6)],
             "Direccion": [f"Calle Mayor {at}" for at in range(1, 7)]}  # fmt: skip
    made = draft({
        heading: cells.get(heading, MAILS if "ail" in heading or "ial" in heading else PHONES)
        for heading in headings.split(";")
    })  # fmt: skip
    assert ";".join(str(each.column.holds[0]) for each in made.columns) == holds


def test_what_may_be_the_names_where_nothing_says_so() -> None:
    made = draft({"Who": PEOPLE, "E-mail": MAILS, "Where": TOWNS})
    assert [str(each.column.holds[0]) for each in made.columns][:2] == ["name/full", "email"]
    assert draft({"Zib": TOWNS, "Zob": TOWNS}).understood == 0  # nobody can be reached there


def test_several_in_a_cell_are_parted() -> None:
    several = [f"{phone} / 07700 900123" for phone in PHONES]
    columns = draft({"Phones": several, "Groups": ["Donors; Friends"] * 5 + ["A;B"]}).layout.columns
    assert [column.many for column in columns] == [" / ", ";"]
    spaced = draft({"Groups": ["Donors; Friends"] * 6}).layout.columns
    assert [column.many for column in spaced] == ["; "]
    codes = draft({"PLZ Ort": [f"1011{n} {town}" for n, town in enumerate(TOWNS)]})
    assert codes.layout.columns[0].parted == " "


@pytest.mark.parametrize(
    ("cells", "headings", "style"),
    [
        (["13/04/1980", "01/02/1990"], "Born", "day/month/year"),
        (["04/13/1980", "01/02/1990"], "Born", "month/day/year"),
        (["13.04.1980", "1.2.1990"], "Geburtsdatum", "day.month.year"),
        (["01.02.1980", "03.04.1990"], "Geburtsdatum", "day.month.year"),
        (["01/02/1980", "03/04/1990"], "Born", None),
        (["1980/04/13", "1990/02/01"], "Born", "year/month/day"),
        (["1980-04-13", "1990-02-01"], "Born", None),
        (["13/04/1980", "04/13/1990"], "Born", None),
        (["13/04/80", "01/02/90"], "Born", None),
    ],
)
def test_how_dates_are_written_is_told_from_the_column(
    cells: list[str], headings: str, style: str | None
) -> None:
    column = draft({headings: cells * 3}).layout.columns[0]
    assert (column.date.text if column.date else None) == style


def test_parts_of_a_birthday_beside_each_other() -> None:
    made = draft({"Name": PEOPLE, "Day": ["1", "31"] * 3, "Month": ["1", "12"] * 3,
                  "Year": ["1935", "1980"] * 3})  # fmt: skip
    told = [str(each.column.holds[0]) for each in made.columns]
    assert told[1:] == ["birthday/day", "birthday/month", "birthday/year"]


def test_the_type_beside_a_number() -> None:
    made = draft({"Name": PEOPLE, "Phone": PHONES, "Type": ["work", "mobil", "Fax privat"] * 2})
    assert [str(each.column.holds[0]) for each in made.columns][1:] == ["phone/1", "phone/1/use"]
    assert made.columns[2].column.values == {"mobil": "cell", "Fax privat": "home+fax"}
    assert parse_layout(as_file(made, "t.csv"), "t.toml").columns[2].values["mobil"] == "cell"


def test_the_type_of_a_value_stands_where_the_value_stands() -> None:
    made = draft({"x[0].type": ["home", "work"] * 3, "x[0].value": MAILS,
                  "x[1].type": ["mobile", "home"] * 3, "x[1].value": PHONES})  # fmt: skip
    kind, mail, use, phone = [str(each.column.holds[0]) for each in made.columns]
    assert (kind, use) == (f"{mail}/use", f"{phone}/use")


def test_empty_columns_are_skipped_only_where_all_was_seen() -> None:
    columns = {"Name": PEOPLE, "Telex": [""] * 6}
    assert not draft(columns).columns[1].column.skip
    assert draft(columns, skip_empty=True).columns[1].column.skip


def test_placeholders_and_single_values_are_told() -> None:
    made = draft({"Name": PEOPLE, "Zib": ["same"] * 6, "Fax": ["-", "-", *PHONES[:4]]})
    assert made.layout.empty == {"-"}
    assert 'the same in every row: "same"' in made.columns[1].notes


def test_a_draft_is_a_layout_file_that_tells_why() -> None:
    made = draft({"Name": PEOPLE, "Phone": MAILS, "Telex": [""] * 6}, skip_empty=True)
    text = as_file(made, "t.csv")
    layout = parse_layout(text, "t.toml")
    assert [c.meaning for c in layout.columns] == ["name/full", "email", "(skipped)"]
    remarks = remarks_in(text, layout)
    assert remarks["Phone"].look
    assert remarks["Phone"].sure == pytest.approx(0.87, abs=0.02)
    assert "e-mail addresses" in remarks["Phone"].why
    assert remarks["Name"].samples.startswith("Anna Weber · Peter Lock")
    assert "Telex" not in as_file(made, "t.csv", only_filled=True)
    bare = as_file(made, "t.csv", bare=True)
    with pytest.raises(LayoutError, match=r"no \[\[column\]\]"):
        parse_layout(bare, "t.toml")
    chosen = bare.replace('# [[column]]\n# heading = "Name"\n# holds = ""',
                          '[[column]]\nheading = "Name"\nholds = "name/full"')  # fmt: skip
    assert parse_layout(chosen, "t.toml").unlisted == "skip"


TEXT = st.text(st.characters(exclude_categories=["Cs"]), max_size=20)


@given(st.lists(st.tuples(TEXT, st.lists(TEXT, min_size=3, max_size=3)), min_size=1, max_size=5))
def test_any_draft_can_be_read_back(columns: list[tuple[str, list[str]]]) -> None:
    headings = [heading for heading, _ in columns]
    rows = [list(row) for row in zip(*(cells for _, cells in columns), strict=True)]
    made = draft_layout(headings, profile_rows(headings, rows).columns, Dialect(), "t")
    text = as_file(made, "t.csv")
    layout = parse_layout(text, "t.toml")
    assert [c.meaning for c in layout.columns] == [c.meaning for c in made.layout.columns]
    assert [c.name for c in layout.columns] == [c.name for c in made.layout.columns]
    assert len(remarks_in(text, layout)) == len({c.name for c in layout.columns})


FILE = """# mine
name = "t"  # short

[table]
separator = ";"

# LOOK, sure 45 %: nothing surer is known
# e.g. A · L
# or: note | category
[[column]]
heading = "State"
holds = "custom/State"  # a letter

# sure 99 %: its heading
[[column]]
heading = "Groups"
holds = "category"
many = ";"

# the end
"""


@pytest.mark.parametrize(
    ("index", "decision", "line"),
    [
        (0, ColumnDecision("address/region"), 'holds = "address/region"'),
        (0, ColumnDecision(skip=True), "skip = true"),
        (0, ColumnDecision(fixed="A"), 'fixed = "A"'),
        (0, ColumnDecision(), 'holds = "custom/State"  # a letter'),
        (0, ColumnDecision("address/postcode, address/locality"),
         'holds = ["address/postcode", "address/locality"]'),
        (1, ColumnDecision("category"), 'many = ";"'),
        (1, ColumnDecision("note"), 'holds = "note"'),
    ],
)  # fmt: skip
def test_a_decision_is_written_and_comments_stay(
    index: int, decision: ColumnDecision, line: str
) -> None:
    layout = parse_layout(FILE, "t.toml")
    text = decided(FILE, layout, index, decision)
    made = parse_layout(text, "t.toml")
    assert line in text.splitlines()
    for comment in ("# mine", 'name = "t"  # short', "# e.g. A · L", "# the end"):
        assert comment in text
    other = 1 - index
    assert made.columns[other].meaning == layout.columns[other].meaning
    again = decided(text, made, index, decision)  # the line of the column is known still
    assert parse_layout(again, "t.toml").columns[index].meaning == made.columns[index].meaning
    remark = remarks_in(text, made)[made.columns[index].name]
    assert (remark.sure, remark.look) == (1.0, False)
    assert remark.why.startswith("decided by hand")
    assert not remark.others


def test_a_decision_that_makes_the_layout_wrong_is_refused() -> None:
    layout = parse_layout(FILE.replace('"category"', '"name/given"').replace('many = ";"', ""))
    text = FILE.replace('"category"', '"name/given"').replace('many = ";"', "")
    with pytest.raises(LayoutError, match="and so does"):
        decided(text, layout, 0, ColumnDecision("name/given"))
    with pytest.raises((LayoutError, PathError)):
        decided(text, layout, 0, ColumnDecision("phone/wrok"))


def test_a_layout_fits_or_does_not() -> None:
    columns = {"Name": PEOPLE, "Phone": PHONES, "Town": TOWNS}
    layout = draft(columns).layout
    headings = list(columns)
    profiles = profile_rows(headings, [list(row) for row in zip(*columns.values(), strict=True)])
    assert fit_of(layout, headings, profiles.columns).score == 1.0
    assert not fit_of(layout, headings, profiles.columns).findings
    other = profile_rows(["Name", "Phone", "E-mail"], [["Anna", "1", "a@b.org"]])
    told = fit_of(layout, ["Name", "Phone", "E-mail"], other.columns)
    assert told.score < TAKEN_FROM
    assert len(told.missing) == len(told.new) == 1
    lying = profile_rows(headings, [["Anna", mail, "Withy"] for mail in MAILS])
    told = fit_of(layout, headings, lying.columns)
    assert told.score == 0.0
    assert "100 % of its cells are e-mail addresses" in told.against[0]


def test_headings_of_any_letters_name_their_columns() -> None:
    heading = string.punctuation
    made = draft({heading: PEOPLE, "E-mail": MAILS})
    layout = parse_layout(as_file(made, "t.csv"), "t.toml")
    assert layout.columns[0].heading == heading


BARE = """name = "t"

[[column]]
heading = "A"
holds = "note"

[[column]]
heading = "B"
holds = "title"
"""


@pytest.mark.parametrize("index", [0, 1])
@pytest.mark.parametrize(
    "decision",
    [ColumnDecision("phone"), ColumnDecision(skip=True), ColumnDecision(fixed="x")],
)
def test_a_layout_without_remarks_gets_them_where_they_belong(
    index: int, decision: ColumnDecision
) -> None:
    layout = parse_layout(BARE, "t.toml")
    text = decided(BARE, layout, index, decision)
    lines, before = text.splitlines(), BARE.splitlines()
    at = lines.index("# sure 100 %: decided by hand")
    assert lines[at + 1] == "[[column]]"
    assert lines[at + 2] == f'heading = "{"AB"[index]}"'
    assert lines[:at] == before[:at]
    assert lines[at + 4 :] == before[at + 3 :]
    assert lines[at + 3] != before[at + 2]


@pytest.mark.parametrize(("gain", "wanted"), [
    ([[1.0]], [0]),
    ([[0.9, 0.8], [0.9, 0.1]], [1, 0]),
    ([[0.9, 0.8, 0.0], [0.9, 0.8, 0.5], [0.9, 0.2, 0.1]], [1, 2, 0]),
    ([[0.2, 0.9, 0.9], [0.1, 0.9, 0.8]], [2, 1]),
])  # fmt: skip
def test_the_surest_assignment_is_that_of_all_rows_together(
    gain: list[list[float]], wanted: list[int]
) -> None:
    assert surest(gain) == wanted
