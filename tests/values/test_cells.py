from __future__ import annotations

import pytest

from roundcard.card.contact import Contact, Property
from roundcard.card.head import head, typed
from roundcard.card.origin import ADDED, pack
from roundcard.card.paths import parse
from roundcard.errors import PathError
from roundcard.values.cells import read_uses, street_lines, write_uses
from roundcard.values.phones import split_extension
from roundcard.values.set_value import put, settable


@pytest.mark.parametrize(
    ("cell", "uses", "label"),
    [
        ("work", ("work",), ""),
        ("Work+Fax", ("work", "fax"), ""),
        ("fax + work", ("work", "fax"), ""),
        ("mobile", ("cell",), ""),
        ("lock cottage", (), "lock cottage"),
        ("~work", (), "work"),
        ("work+boat", (), "work+boat"),
    ],
)
def test_what_a_cell_says_of_a_phone(cell: str, uses: tuple[str, ...], label: str) -> None:
    assert read_uses(cell, "phone") == (uses, label)
    written = write_uses(typed("tel", uses), label, "phone")
    assert read_uses(written, "phone") == (uses, label)


def test_extensions_and_lines() -> None:
    assert split_extension("01632 960333 ext. 12") == ("01632 960333", "12")
    assert split_extension("ext. 12") == ("ext. 12", "")
    assert street_lines(("1 Lock Lane\nWithy", "", "Flat 2")) == ["1 Lock Lane", "Withy", "Flat 2"]


def person() -> Contact:
    base = pack(0, 1)
    return Contact(
        [
            Property(head("n"), ("Weir", "Ada", "", "", ""), base),
            Property(head("categories"), ("Skippers",), base),
            Property(typed("adr", ("home",)), ("", "", "1 A", "Withy", "", "", ""), base),
            Property(head("bday"), "1980-04-12", base),
        ]
    )


@pytest.mark.parametrize(
    ("path", "text", "added"),
    [
        ("category", "Cooks", True),
        ("category", "SKIPPERS", False),
        ("nickname", "Skip", True),
        ("note", "Hello", True),
        ("custom/Owner", "I. Harrow", True),
        ("custom/X-OWNER", "I. Harrow", True),
        ("birthday", "1990-01-01", False),
        ("name/given", "Eve", False),
        ("name/prefix", "Dr", True),
        ("name/full", "Ada Weir", True),
        ("address/country", "Wales", True),
        ("address/work/country", "Wales", True),
        ("address/home/locality", "Lockham", False),
        ("org", "Trust", True),
        ("org/unit", "Boats", True),
        ("phone/~lock", "01632 960001", True),
        ("gender", "F", True),
    ],
)
def test_putting_a_value_in_once(path: str, text: str, added: bool) -> None:
    contact = person()
    before = contact.size()
    assert put(contact, parse(path), text, ADDED) is added
    assert contact.size() == before + added
    assert put(contact, parse(path), text, ADDED) is False
    assert contact.size() == before + added


@pytest.mark.parametrize("path", ["name", "address", "phone/2", "phone/use", "birthday/year"])
def test_no_single_value_can_be_put_there(path: str) -> None:
    with pytest.raises(PathError):
        settable(parse(path))
