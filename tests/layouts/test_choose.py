"""Choosing fields and setting values."""

from __future__ import annotations

import pytest

from books_in_tests import card, read_cards, write_cards
from roundcard.card.paths import parse_list
from roundcard.pick.fields import OnlyFields, SetValue
from roundcard.tally import Balance, Fate, Tally

LINES = (
    "FN:Dr Ada Weir",
    "N:Weir;Ada;;Dr;",
    "TEL;TYPE=cell:1",
    "TEL;TYPE=work:2",
    "g.TEL:3",
    "g.X-ABLabel:lock",
    "ADR:;;1 A;Withy;;;",
    "CATEGORIES:a,b",
    "BDAY:1980-04-12",
    "X-BERTH:b4",
    "X-ROUNDCARD-CUSTOM:Boat;Dawn",
    "PRODID:x",
)

CASES = [
    ("name/given", ["N:;Ada;;;"]),
    ("name", ["FN:Dr Ada Weir", "N:Weir;Ada;;Dr;"]),
    ("name/full", ["FN:Dr Ada Weir"]),
    ("phone", ["TEL;TYPE=cell:1", "TEL;TYPE=work:2", "g.TEL:3", "g.X-ABLabel:lock"]),
    ("phone/cell", ["TEL;TYPE=cell:1"]),
    ("phone/2", ["TEL;TYPE=work:2"]),
    ("phone/~lock", ["g.TEL:3", "g.X-ABLabel:lock"]),
    ("address/locality", ["ADR:;;;Withy;;;"]),
    ("category/2", ["CATEGORIES:,b"]),
    ("custom/Boat,custom/x-berth", ["X-BERTH:b4", "X-ROUNDCARD-CUSTOM:Boat;Dawn"]),
    ("birthday", ["BDAY:1980-04-12"]),
]


@pytest.mark.parametrize(("paths", "lines"), CASES)
def test_only_the_chosen_values_go_on(paths: str, lines: list[str]) -> None:
    tally = Tally()
    (contact,) = read_cards(card(*LINES), tally)
    kept = OnlyFields(parse_list(paths))(contact, tally)
    assert kept is not None
    out = write_cards([kept], "3.0", tally)
    made = ("FN;X-ROUNDCARD-DERIVED", "N:;;;;")
    assert [x for x in out.splitlines()[2:-1] if not x.startswith(made)] == lines
    assert Balance.of(tally).even


def test_what_was_added_and_then_left_out_was_never_read() -> None:
    tally = Tally()
    (contact,) = read_cards(card("FN:Ada", "EMAIL:a@x.test"), tally)
    SetValue.parse("category=c")(contact, tally)
    kept = OnlyFields(parse_list("name/full"))(contact, tally)
    assert kept is not None
    write_cards([kept], "4.0", tally)
    assert (tally.values.left_out, tally.values.added) == (1, 0)
    assert all(reason.fate is Fate.LEFT_OUT for reason in tally.why)
    assert Balance.of(tally).even


def test_a_fixed_value_goes_in_once_and_is_counted() -> None:
    tally = Tally()
    (contact,) = read_cards(card(*LINES), tally)
    for assignment in ("category=c", "category=A", "birthday=1999-01-01", "phone/home=4"):
        step = SetValue.parse(assignment)
        assert step(contact, tally) is contact
    out = write_cards([contact], "3.0", tally)
    assert "CATEGORIES:a,b,c\n" in out
    assert "TEL;TYPE=home:4\n" in out
    assert "1999" not in out
    assert tally.values.added == 2
    assert Balance.of(tally).even
