"""The same person in each version, from each other one, and by jCard."""

from __future__ import annotations

import itertools

import pytest

from books_in_tests import card, inner, read_cards, write_cards
from roundcard.formats import jcard
from roundcard.tally import Balance, Tally

LONG = "a weir, a lock; and the bridge " * 5
PERSON = [
    "N:Weir;Ada;Mae;Dr;OBE",
    "FN:Dr Ada Mae Weir OBE",
    "TEL;TYPE=cell:+44 7700 900123",
    "EMAIL:ada@example.org",
    "ADR;TYPE=home:;;1 Lock Lane;Withy;;QX4 4AP;",
    "ORG:Lock Keepers;Night",
    "TITLE:Keeper\\, first",
    f"NOTE:{LONG.replace(',', chr(92) + ',').replace(';', chr(92) + ';')}",
    "NOTE:line one\\nline two",
    "NICKNAME:Addie",
    "CATEGORIES:Crew,Donors",
    "URL:https://example.org/a?b=c",
    "BDAY:19800412",
    "UID:weir-1",
    "X-BERTH:north;4",
]
VERSIONS = ("2.1", "3.0", "4.0")


def told(text: str) -> list[tuple[str, str, tuple[str, ...]]]:
    (contact,) = read_cards(text)
    return [
        (prop.name, prop.text, tuple(sorted(prop.head.uses)))
        for prop in contact.properties
        if not prop.rides
    ]


@pytest.mark.parametrize(("one", "other"), list(itertools.product(VERSIONS, VERSIONS)))
def test_each_version_says_what_each_other_said(one: str, other: str) -> None:
    first = write_cards(read_cards(card(*PERSON, version="4.0")), one)
    tally = Tally()
    second = write_cards(read_cards(first, tally), other, tally)
    assert told(first) == told(second) == told(card(*PERSON, version="4.0"))
    assert tally.values.written == tally.values.read == 23
    assert not tally.why
    assert Balance.of(tally).values_in == 0


@pytest.mark.parametrize("version", ["3.0", "4.0"])
def test_lines_are_folded_at_75_bytes_and_no_character_is_broken(version: str) -> None:
    text = write_cards(read_cards(card("FN:Ada", f"NOTE:{'é' * 100}", f"NOTE:{'x' * 75}",
                                       f"NOTE:{'y' * 70}", f"NICKNAME:{'z' * 200}",
                                       version="4.0")), version)  # fmt: skip
    lines = text.encode().split(b"\n")
    assert max(map(len, lines)) <= 75
    assert all(line.decode() for line in lines[:-1])
    assert "NOTE:" + "y" * 70 in text.split("\n")
    assert len([line for line in lines if line.startswith(b" ")]) == 2 + 1 + 2


def test_a_whole_name_that_is_made_is_folded_too() -> None:
    (contact,) = read_cards(card(f"N:{'w' * 90};Ada;;;", version="3.0"))
    lines = write_cards([contact], "4.0").split("\n")
    made = next(at for at, line in enumerate(lines) if line.startswith("FN;DERIVED=true:Ada"))
    assert len(lines[made]) == 75
    assert lines[made + 1].startswith(" w")


@pytest.mark.parametrize("version", VERSIONS)
def test_jcard_says_what_cards_say(version: str) -> None:
    contacts = read_cards(write_cards(read_cards(card(*PERSON, version="4.0")), version))
    tally = Tally()
    text = f"[{jcard.JCardWriter(tally).encode(contacts[0]).strip().strip(',')}]"
    back = list(jcard.read([text.encode()], source=0, tally=Tally()))
    assert told(write_cards(back, "4.0")) == told(card(*PERSON, version="4.0"))
    assert tally.values.written == 23
    assert inner(write_cards(back, "4.0")) == inner(write_cards(contacts, "4.0"))


@pytest.mark.parametrize(
    ("line", "name", "value"),
    [
        ("X-ROUNDCARD-AS-NOTE:x", "note", "x"),
        ("X-ROUNDCARD-GENDER:F", "gender", "F"),
        ("X-ROUNDCARD-BERTH:x", "x-roundcard-berth", "x"),
        ("X-AS-NOTE:x", "x-as-note", "x"),
        ("AS-NOTE:x", "as-note", "x"),
        ("X-ROUNDCARD-CUSTOM:Berth;4", "x-roundcard-custom", "Berth 4"),
    ],
)
def test_our_own_names_are_read_back(line: str, name: str, value: str) -> None:
    (contact,) = read_cards(card("FN:Ada", line))
    (prop,) = [prop for prop in contact.properties if prop.name != "fn"]
    assert (prop.name, prop.text) == (name, value)
