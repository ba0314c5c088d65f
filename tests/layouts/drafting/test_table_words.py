"""What the headings of a table say as a whole."""

from __future__ import annotations

import pytest

from roundcard.layouts.drafting.heading_parser import read_headings

TABLES = """
Kunde; Rechnung Straße; Rechnung Ort; Lieferung Straße; Lieferung Ort
? address/1/street address/1/locality address/2/street address/2/locality

Client; Facturation rue; Facturation ville; Livraison rue; Livraison ville
? address/1/street address/1/locality address/2/street address/2/locality

Name; Invoice street; Invoice town; Delivery street; Delivery town
name/full address/1/street address/1/locality address/2/street address/2/locality

phone[0].value; phone[1].value; mail/0; mail/1
phone/1 phone/2 email/1 email/2

host.name.given; host.name.family; host.phones.0.number; host.phones.1.number
name/given name/family phone/1 phone/2

Pupil forename; Pupil surname; Guardian name; Guardian mobile
name/given name/family custom custom

Kind Vorname; Kind Nachname; Geb. Kind; Mutter Handy
name/given name/family birthday custom

Owner first name; Owner surname; Owner phone
name/given name/family phone

Name; Phone; Emergency contact name; Emergency contact phone
name/full phone custom custom

PrÃ©nom; Nom de famille; TÃ©lÃ©phone
name/given name/family phone

Familiya; Imya; Gorod; Tel
name/family name/given address/locality phone
"""
CASES = [tuple(table.split("\n")) for table in TABLES.strip().split("\n\n")]


@pytest.mark.parametrize(("headings", "wanted"), CASES)
def test_headings_are_read_together(headings: str, wanted: str) -> None:
    said = headings.split("; ")
    persons = [0.0] * len(said)
    found = []
    for read in read_headings(said, persons):
        best = read.best
        if best is None:
            found.append("?")
        else:
            found.append("+".join(map(str, best.paths)) or best.sort)
    assert " ".join(found) == wanted


@pytest.mark.parametrize("headings", ["A;B;C;D", "1;2;3", "Column A;Column B", "Feld 1;Feld 2"])
def test_letters_and_numbers_say_nothing(headings: str) -> None:
    assert all(read.silent and not read.said for read in read_headings(headings.split(";")))
