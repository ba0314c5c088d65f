"""jCard in, properties out, and what is no jCard."""

from __future__ import annotations

import pytest

from books_in_tests import Kept, write_cards
from roundcard.card.head import Value
from roundcard.errors import SourceError
from roundcard.formats import jcard
from roundcard.tally import Tally

CASES: list[tuple[str, str, Value, str]] = [
    ('["note",{},"text","a, b"]', "note", "a, b", "NOTE:a\\, b"),
    (
        '["n",{},"text",["Weir","Ada",["M","A"],"",""]]',
        "n",
        ("Weir", "Ada", ("M", "A"), "", ""),
        "N:Weir;Ada;M,A;;",
    ),
    ('["categories",{},"text","a","b,c"]', "categories", ("a", "b,c"), "CATEGORIES:a,b\\,c"),
    (
        '["tel",{"type":["home","cell"],"pref":"1"},"text","1"]',
        "tel",
        "1",
        "TEL;TYPE=home,cell;PREF=1:1",
    ),
    ('["bday",{},"date-and-or-time","--04-12"]', "bday", "--04-12", "BDAY:--0412"),
    ('["org",{},"text","Trust"]', "org", ("Trust",), "ORG:Trust"),
    ('["geo",{},"uri","geo:51.5,-0.1"]', "geo", "geo:51.5,-0.1", "GEO:geo:51.5,-0.1"),
    (
        '["x-odd",{"foo":"bar","group":"g"},"unknown","a;b\\\\,c"]',
        "x-odd",
        "a;b\\,c",
        "g.X-ODD;FOO=bar:a;b\\,c",
    ),
    ('["x-number",{},"integer",3]', "x-number", "3", "X-NUMBER;VALUE=integer:3"),
    ('["x-flag",{},"boolean",true]', "x-flag", "true", "X-FLAG;VALUE=boolean:true"),
]


@pytest.mark.parametrize(("element", "name", "value", "line"), CASES)
def test_an_element_is_read(element: str, name: str, value: Value, line: str) -> None:
    text = f'["vcard",[["version",{{}},"text","4.0"],["fn",{{}},"text","A"],{element}]]'
    (contact,) = jcard.read([text.encode()], source=0, tally=Tally())
    prop = contact.first(name)
    assert prop is not None
    assert (prop.raw if prop.raw is not None else prop.value) == value
    assert line in write_cards([contact], "4.0").splitlines()


ONE = '["vcard",[["fn",{},"text","A"]]]'


@pytest.mark.parametrize(
    ("text", "people", "aside"),
    [
        (ONE, 1, 0),
        (f"[{ONE},{ONE}]", 2, 0),
        (f" [ {ONE} ,\n {ONE} ]\n", 2, 0),
        (f"{ONE}\n{ONE}\n", 2, 0),
        (f'[{ONE},["vcard",[["fn"]]],{ONE}]', 2, 1),
        (f'[{ONE},["vcard",[["fn",{{}},"text",["x"]]]]]', 1, 1),
        (f'[{ONE},["vcard",[]]]', 1, 0),
    ],
)
def test_files_as_they_come(text: str, people: int, aside: int) -> None:
    sink = Kept()
    tally = Tally(sink)
    assert jcard.recognise(text.encode())
    assert len(list(jcard.read([text.encode()], source=0, tally=tally))) == people
    assert len(sink.aside) == aside


@pytest.mark.parametrize(
    ("octets", "problem"),
    [
        (b'["vcard",[["fn",{},"text","A"]]', "line 1: this is not JSON"),
        (b'[["vcard",[]],\n nonsense]', "line 1: no jCard begins here"),
        (b'["vcard",' + b"[" * 100_000, "line 1: nested too deeply"),
        (b'["vcard",[["fn",{},"text","\xff"]]]', "line 1: bytes that are not UTF-8"),
    ],
)
def test_what_is_no_json_is_told_with_its_line(octets: bytes, problem: str) -> None:
    with pytest.raises(SourceError) as caught:
        list(jcard.read([octets], source=0, tally=Tally()))
    assert problem in str(caught.value)
