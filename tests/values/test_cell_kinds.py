"""What a cell is, told from its characters alone."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.values.cell_kinds import is_phone, kind_of, pieces_of

KINDS = [
    ("a@b.org", "email"),
    ("mailto:a@b.org", "email"),
    ("Ann B <a@b.org>", "named email"),
    ("a@b.org; c@d.net", "emails"),
    ("@handle", "handle"),
    ("www.example.org", "url"),
    ("https://example.org/x?y", "url"),
    ("example.org", "url"),
    ("+44 1632 960001", "phone"),
    ("(01632) 960 001", "phone"),
    ("01632-960450", "phone"),
    ("+81 3-0000-0000", "phone"),
    ("tel. 123 456 789", "phone"),
    ("01632 960001 ext. 12", "phone"),
    ("+44\u00a01632\u200b 960001", "phone"),
    ("01632 960001 / 07700 900123", "phones"),
    ("040 000001, 050 0000002", "phones"),
    ("07700900123", "digits"),
    ("٠١٢٣٤٥٦٧٨٩", "digits"),
    ("12.04.1980", "date"),
    ("1980-04-12", "date"),
    ("12/4/80", "date"),
    ("19800412", "date"),
    ("12. 4. 1980", "date"),
    ("1980.04.12.", "date"),
    ("12 April 1980", "worded date"),
    ("12. huhtikuuta 1980", "worded date"),
    ("1980年4月12日", "worded date"),
    ("昭和55年4月12日", "worded date"),
    ("2024-01-15 12:30", "moment"),
    ("2024-01-15T12:30:00Z", "moment"),
    ("12345", "number"),
    ("7", "number"),
    ("1 234,50", "decimal"),
    ("€ 12", "decimal"),
    ("12 kr", "decimal"),
    ("4.47701E+11", "scientific"),
    ("WX1 2AB", "post code"),
    ("1234 AB", "post code"),
    ("00-950", "post code"),
    ("114 55", "post code"),
    ("12345-678", "post code"),
    ("123-4567", "post code or phone"),
    ("DE89 3704 0044 0532 0130 00", "iban"),
    ("8f14e45f-ceea-467f-a0e6-7f3f3a1b2c3d", "uuid"),
    ("51.5007, -0.1246", "coordinates"),
    ("anna.jpg", "picture"),
    ("data:image/png;base64,AAAA", "data"),
    ("B77-x", "code"),
    ("12 Lock Lane", "mixed"),
    ("10115 Berlin", "mixed"),
    ("Anna Weber", "words"),
    ("Dr. Weber", "words"),
    ("http://", "words"),
    ("word " * 30, "long"),
]


@pytest.mark.parametrize(("text", "kind"), KINDS)
def test_kind_of_a_cell(text: str, kind: str) -> None:
    assert kind_of(text) == kind


@pytest.mark.parametrize(
    ("text", "pieces", "mark"),
    [
        ("a@b.org; c@d.net", ["a@b.org", "c@d.net"], "; "),
        ("1 / 2", ["1", "2"], " / "),
        ("one", ["one"], ""),
        ("x,,y", ["x", "y"], ","),
    ],
)
def test_several_values_in_a_cell(text: str, pieces: list[str], mark: str) -> None:
    assert pieces_of(text) == (pieces, mark)


def test_few_digits_are_no_phone() -> None:
    assert not is_phone("12-34")
    assert not is_phone("1234567")
    assert is_phone("0123456")


@given(st.text(max_size=60))
def test_any_cell_has_a_kind(text: str) -> None:
    assert kind_of(text) == kind_of(f"  {text.strip()} ")
