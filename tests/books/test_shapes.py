"""Records of one shape give what the long way gives: the same octets, the same ledger."""

from __future__ import annotations

from collections import Counter
from itertools import islice

import pytest

from books.both_ways import books, taken
from books_in_tests import card, col, layout_of
from roundcard.layouts.model import Layout

FRAME = [col("given", "name/given"), col("family", "name/family"), col("mail", "email")]


@pytest.mark.parametrize("seed", range(6))
def test_whatever_comes_in_both_ways_give_the_same(seed: int) -> None:
    quick: Counter[str] = Counter()
    every: Counter[str] = Counter()
    for kind, read, target in islice(books(seed), 80):
        outcome, (went, there) = taken(read, target, quick=True)
        assert outcome == taken(read, target, quick=False)[0], (kind, read, target)
        quick[kind] += went
        every[kind] += there
    # or the comparison would prove nothing
    assert all(quick[kind] > every[kind] / 20 for kind in every), (quick, every)


COLUMNS = [
    [col("c", "org")], [col("c", "birthday")], [col("c", "anniversary")], [col("c", "url")],
    [col("c", "uid")], [col("c", "related/spouse")], [col("c", "gender")],
    [col("c", "custom/Boat")], [], [col("c", "phone/1"), col("d", "phone/2")],
    [col("c", "phone/1"), col("d", "phone/1/use")], [col("c", "phone", 'many = " / "')],
    [col("c", "category", 'values = { A = "Active" }')], [col("c", "address/full")],
    [col("c", "address/line1"), col("d", "address/line2")],
    [col("c", '["address/postcode", "address/locality"]', 'parted = " "')],
    [col("c", "note"), col("d", "category", 'many = ", "')], [col("c", "nickname")],
    [col("c", "birthday/year"), col("d", "birthday/month")], [col("c", "phone/~lock")],
    [col("c", "birthday", 'date = "day.month.year"')], [col("c", "name/prefix")],
]  # fmt: skip
CELLS = ["A", "1980", "12.4.1980", "x, y; z", "F", "QX1 Bath", "www.x.test", "1 / 2", "two\nlines"]


@pytest.mark.parametrize("columns", COLUMNS, ids=lambda columns: " ".join(columns)[:60] or "none")
@pytest.mark.parametrize("every", ["", '[[every]]\nholds = "category"\nvalue = "Club"'])
def test_no_ordinary_column_costs_a_row_the_quick_way(columns: list[str], every: str) -> None:
    layout = layout_of(*FRAME, *columns, every=every, table='empty = ["n/a"]')
    headings = [column.heading for column in layout.columns] + ["extra"]
    rows = [["Ada", "Weir", f"a{at}@x.test", *[CELLS[(at + n) % len(CELLS)] for n in range(3)]]
            for at in range(60)]  # fmt: skip
    quoted = ",".join('"{}"' for _ in headings)
    text = "".join(quoted.format(*row[: len(headings)]) + "\r\n" for row in rows)
    for version in ("3.0", "4.0"):
        told = "address/full" in "".join(columns) and version == "4.0"  # a parameter of another
        outcome, way = taken((layout, (headings, text.encode())), version, quick=True)
        assert outcome == taken((layout, (headings, text.encode())), version, quick=False)[0]
        assert way == [0 if told else 60, 60]


LINES = [
    "ORG:", "ADR:;;;;;;", "ORG:Weir & Sons", "CATEGORIES:A,B", "NICKNAME:Addy",
    "X-ROUNDCARD-CUSTOM:Boat;Dawn", "BDAY:19800412", "TEL:1\nTEL:2", "TEL;TYPE=work:1",
    "URL:https://x.test", "NOTE:a\\nb\\, c", "item1.TEL:1\nitem1.X-ABLABEL:lock",
    "REV:20010203T040506Z",
    "UID:urn:uuid:1", "X-BERTH:12", "PHOTO:data:image/png;base64,iVBORw0=", "EMAIL:", "N;X=1:a;b",
]  # fmt: skip
WIDE = layout_of(
    *FRAME, col("born", "birthday", 'date = "day.month.year"'), col("org", "org"),
    col("phones", "phone", 'many = " / "'), col("groups", "category"), col("boat", "custom/Boat"),
    col("use", "email/1/use"), col("web", "url"), col("street", "address/street"),
)  # fmt: skip


@pytest.mark.parametrize("line", LINES)
@pytest.mark.parametrize("target", ["3.0", "4.0", WIDE])
def test_no_ordinary_line_costs_a_card_the_quick_way(line: str, target: str | Layout) -> None:
    lines = ["FN:Ada Weir", "N:Weir;Ada;;;", "EMAIL:a@x.test", *line.split("\n")]
    text = card(*lines, version="4.0") * 60
    outcome, way = taken(text.encode(), target, quick=True)
    assert outcome == taken(text.encode(), target, quick=False)[0]
    assert way == [0 if line.startswith("N;") and target in ("3.0", "4.0") else 60, 60]


def test_what_is_not_ordinary_is_told_in_its_turn() -> None:
    cards = [card("FN:Ada", "N:;Ada;;;", f"EMAIL:{at}") for at in range(9)]
    cards[4] = cards[4].replace("EMAIL", "garbage\nEMAIL")
    cards[6] = cards[6].replace("END:VCARD\n", "")
    cards[7] = "left over\n" + cards[7]
    cards[8] = cards[8].replace("Ada", "Ad\udce9")
    text = "".join(cards).encode("utf-8", "surrogateescape")
    for target in ("4.0", WIDE):
        assert taken(text, target, quick=True)[0] == taken(text, target, quick=False)[0]


@pytest.mark.parametrize("seed", range(3))
def test_rules_on_single_values_say_the_same_of_columns(seed: int) -> None:
    quick = every = 0
    for kind, read, target in islice(books(seed + 90), 60):
        outcome, (went, there) = taken(read, target, quick=True, clean=True)
        assert outcome == taken(read, target, quick=False, clean=True)[0], (kind, read, target)
        quick, every = quick + went, every + there
    assert quick > every / 20


@pytest.mark.parametrize("target", ["3.0", "4.0", WIDE])
def test_only_names_that_are_in_doubt_are_split_one_by_one(target: str) -> None:
    names = ["Ada Weir", "Dr Ada Weir-Lock", "Weir, Zoë", "Bob & Peggy Weir", "Withy Canal Trust",
             "Ada", "Jan van der Sluis", "Weir Ada (home)"]  # fmt: skip
    cards = [card(f"FN:{names[at % len(names)]}", f"EMAIL:a{at}@x.test") for at in range(64)]
    cards[9] = cards[9].replace("EMAIL:a9", "KIND:org\nEMAIL:a9")
    outcome, way = taken("".join(cards).encode(), target, quick=True, clean=True)
    assert outcome == taken("".join(cards).encode(), target, quick=False, clean=True)[0]
    assert way[0] >= 31  # of the 32 that are sure, one may be an organisation's


def test_cleaning_ordinary_contacts_takes_no_contact_apart() -> None:
    line = "TEL;TYPE=cell:07700 90{0:04}\nEMAIL:A{0}@X.Test\nADR:;;{0} Lock  Lane;Bath;;QX1 1AB;"
    text = "".join(
        card(f"FN:Ada Weir{at}", f"N:Weir{at};Ada;;;", *line.format(at).split("\n"))
        for at in range(60)
    )
    for target in ("3.0", "4.0", WIDE):
        outcome, way = taken(text.encode(), target, quick=True, clean=True)
        assert outcome == taken(text.encode(), target, quick=False, clean=True)[0]
        assert way == [60, 60]
        assert len(outcome.changes) >= 180  # type: ignore[arg-type]
