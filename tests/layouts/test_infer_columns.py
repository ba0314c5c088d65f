"""Columns for all that a book holds, and back: tables without a layout."""

from __future__ import annotations

import pytest

from books_in_tests import Kept, card, read_cards, read_rows, simple, write_rows
from roundcard.card.contact import Contact
from roundcard.layouts.infer_columns import Shape
from roundcard.tally import Balance, Tally

ADA = "FN:Ada Weir"
BOOKS = [  # the lines of the cards of a book, the columns made for it
    ([[ADA]], ["name/full"]),
    ([["N:Weir;Ada;;;", ADA]], ["name/family", "name/given"]),
    ([["N:Weir;Ada;;;", "FN:The Keeper"]], ["name/full", "name/family", "name/given"]),
    ([["N:Weir;Ada;;;", "N;PHONETIC=ipa;ALTID=1:;eɪdə;;;", ADA]],
     ["name/family", "name/given", "name/phonetic-given"]),
    ([[ADA, "TEL:1"]], ["name/full", "phone"]),
    ([[ADA, "TEL:1", "TEL:2"]], ["name/full", "phone/1", "phone/2"]),
    ([[ADA, "TEL:1"], [ADA, "TEL:1", "TEL:2", "TEL:3"]],
     ["name/full", "phone/1", "phone/2", "phone/3"]),
    ([[ADA, "TEL;TYPE=cell:1"]], ["name/full", "phone", "phone/use"]),
    ([[ADA, "TEL;PREF=1:1"]], ["name/full", "phone", "phone/preferred"]),
    ([[ADA, "TEL;PREF=1;TYPE=home:1", "TEL:2"]],
     ["name/full", "phone/1", "phone/1/use", "phone/1/preferred", "phone/2", "phone/2/use",
      "phone/2/preferred"]),
    ([[ADA, "ADR:;;1 Lock Lane;;;QX4;"]], ["name/full", "address/street", "address/postcode"]),
    ([[ADA, "ORG:Keepers;Night"]], ["name/full", "org", "org/unit"]),
    ([[ADA, "ORG:Keepers;Night;East"]], ["name/full", "org", "org/unit", "org/unit/2"]),
    ([[ADA, "CATEGORIES:a,b"], [ADA, "CATEGORIES:a"]], ["name/full", "category"]),
    ([[ADA, "X-BERTH:4", "X-BERTH:5"]], ["name/full", "custom/X-BERTH", "custom/X-BERTH"]),
    ([[ADA, "PHOTO:data:image/png;base64,aGk="]], ["name/full"]),
    ([[]], ["name/full"]),
]  # fmt: skip


@pytest.mark.parametrize(("people", "columns"), BOOKS)
def test_columns_for_what_is_there_and_home_again(
    people: list[list[str]], columns: list[str]
) -> None:
    cards = "".join(card(*lines, version="4.0") for lines in people)
    contacts = read_cards(cards)
    halves = [Shape(), Shape()]
    for at, contact in enumerate(contacts):
        halves[at % 2].add(contact)
    halves[0].merge(halves[1])
    layout = halves[0].layout("")
    names = [column.heading for column in layout.columns]
    assert names == columns
    tally = Tally(kept := Kept())
    for contact in contacts:
        tally.values.read += contact.size()
    rows = write_rows(layout, contacts, tally)
    assert Balance.of(tally).values == 0
    back = read_rows(layout, names, *rows)
    if not kept.left and rows:
        assert said(back) == said(contacts)


def said(contacts: list[Contact]) -> list[set[tuple[str, str]]]:
    """All values but whole names, which may be made of their parts."""
    return [
        {(prop.name, prop.text) for prop in contact.properties if prop.name != "fn"}
        for contact in contacts
    ]


@pytest.mark.parametrize(
    ("line", "cells", "left"),
    [
        ("N;PHONETIC=ipa;ALTID=1:wɪə;eɪdə;;;", ["Weir", "Ada", "eɪdə"],
         [("wɪə", "name: no column for how it sounds")]),
        ("N;PHONETIC=ipa;ALTID=1:;eɪdə;;;", ["Weir", "Ada", "eɪdə"], []),
        ("N;ALTID=1:;Aida;;;", ["Weir", "Ada", ""],
         [("Aida", "name: no column for it in another script")]),
    ],
)  # fmt: skip
def test_how_a_name_sounds_has_columns_or_is_left_behind(
    line: str, cells: list[str], left: list[tuple[str, str]]
) -> None:
    (contact,) = read_cards(card("N;ALTID=1:Weir;Ada;;;", line, ADA, version="4.0"))
    layout = simple(F="name/family", G="name/given", S="name/phonetic-given")
    tally = Tally(kept := Kept())
    assert write_rows(layout, [contact], tally) == [cells]
    assert kept.left == left
