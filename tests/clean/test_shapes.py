"""Rules that look at a whole contact: addresses and numbers apart, labels, values said twice."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, inner, read_cards, write_cards
from roundcard.clean.addresses import address_parts
from roundcard.clean.labels import usual_uses
from roundcard.clean.rule import Around, Reshaping
from roundcard.clean.rules import RULES, chosen
from roundcard.clean.step import Change, Clean
from roundcard.tally import Balance, Tally

SHAPING = [rule for rule in RULES if isinstance(rule, Reshaping)]


def cleaned(lines: list[str], *rules: str, version: str = "3.0") -> list[str]:
    """A card after some rules; the tally is held to account, and a second run to nothing."""
    tally = Tally()
    contact = read_cards(card(*lines), tally)[0]
    step = Clean(chosen(rules, []))
    made = step(contact, tally)
    if made is None:
        assert tally.values.read == tally.values.left_out
        return []
    written = write_cards([made], version, tally)
    tally.people.carried = tally.people.written = 1
    assert Balance.of(tally).even
    again = read_cards(written)[0]
    assert step(again, Tally()) is again
    return inner(written)


ADDRESSES = [
    ("1 Lock Lane, Withy Bridge, QX4 4AP", "1 Lock Lane|Withy Bridge||QX4 4AP|"),
    ("1 Lock Lane, Withy Bridge QX4 4AP", "1 Lock Lane|Withy Bridge||QX4 4AP|"),
    ("1 Lock Lane\nWithy Bridge\nQX4 4AP", "1 Lock Lane|Withy Bridge||QX4 4AP|"),
    ("1 Lock Lane, Withy Bridge, qx44ap", "1 Lock Lane|Withy Bridge||qx44ap|"),
    ("1 Lock Lane, Withy Bridge, QX4 4AP, England", "1 Lock Lane|Withy Bridge||QX4 4AP|England"),
    ("Lock Cottage, Withy Bridge, QX4 4AP", "Lock Cottage|Withy Bridge||QX4 4AP|"),
    ("Old Mill, 1 Lock Lane, Withy Bridge, QX4 4AP", "1 Lock Lane|Withy Bridge||QX4 4AP|"),
    ("Hafenstraße 50, 00123 Schleusenbrück", "Hafenstraße 50|Schleusenbrück||00123|"),
    ("Hafenstraße 50\nD-00123 Schleusenbrück", "Hafenstraße 50|Schleusenbrück||00123|"),
    ("Hafenstr. 50; 00123 Schleusenbrück; Deutschland",
     "Hafenstr. 50|Schleusenbrück||00123|Deutschland"),
    ("23 quai des Mariniers, 99120 Écluse-sur-Vanne, France",
     "23 quai des Mariniers|Écluse-sur-Vanne||99120|France"),
    ("Sluisweg 5, 1234 AB Waterdam", "Sluisweg 5|Waterdam||1234 AB|"),
    ("Slussvägen 3, 123 45 Slussby, Sverige", "Slussvägen 3|Slussby||123 45|Sverige"),
    ("ul. Śluzowa 3, 00-950 Śluza", "ul. Śluzowa 3|Śluza||00-950|"),
    ("Kanalgasse 4, 1010 Wehr", "Kanalgasse 4|Wehr||1010|"),
    ("12 Canal St, Lockport, NY 14094", "12 Canal St|Lockport|NY|14094|"),
    ("12 Canal St, Lockport NY 14094-1234", "12 Canal St|Lockport|NY|14094-1234|"),
    ("12 Canal St, Lockport, ON K1A 0B1, Canada", "12 Canal St|Lockport|ON|K1A 0B1|Canada"),
    ("〒100-0001 東京都水門区堰町1-2-3", "堰町1-2-3|水門区|東京都|100-0001|"),
    ("the boat by the bridge", ""),
    ("1 Lock Lane", ""),
    ("1 Lock Lane, Withy Bridge", ""),
    ("Withy Bridge, QX4 4AP", ""),
    ("Lockham 00123 Hafenstraße", ""),
    ("1 Lock Lane, Flat 2, Withy Bridge, QX4 4AP", ""),
    ("1 Lock Lane, Withy Bridge, Atlantis", ""),
    ("00123 Schleusenbrück, Hafenstraße 50", ""),
    ("Schleusenbrück, 00123", ""),
    ("", ""),
]  # fmt: skip


@pytest.mark.parametrize(("text", "parts"), ADDRESSES)
def test_addresses_in_one_text(text: str, parts: str) -> None:
    found = address_parts(text)
    said = "|".join(found[:5]) if found else ""
    assert said == parts


def test_parts_stand_beside_the_whole_address() -> None:
    lines = ["N:Weir;Ada;;;", "FN:Ada Weir", "LABEL;TYPE=home:1 Lock Lane\\, Withy\\, QX4 4AP"]
    made = cleaned(lines, "address-apart")
    assert made == [*lines, "ADR;TYPE=home:;;1 Lock Lane;Withy;;QX4 4AP;"]


def test_an_address_in_the_street_is_parted() -> None:
    lines = ["N:Weir;Ada;;;", "FN:Ada Weir", "ADR:;;1 Lock Lane\\, Withy\\, QX4 4AP;;;;"]
    assert cleaned(lines, "address-apart")[2] == "ADR:;;1 Lock Lane;Withy;;QX4 4AP;"
    known = [*lines[:2], "ADR:;;1 Lock Lane\\, Withy\\, QX4 4AP;;;;Germany"]
    assert cleaned(known, "address-apart") == known


def test_an_address_that_is_not_sure_is_told() -> None:
    told: list[Change] = []
    text = "LABEL:1 Lock Lane\\, Flat 2\\, Withy\\, QX4 4AP"
    contact = read_cards(card("FN:Ada", text))[0]
    assert Clean(chosen(["address-apart"], []), tell=told.append)(contact, Tally()) is contact
    assert [each.doubt for each in told] == ["its parts are uncertain"]


LABELS = [
    ("mobile", ("cell",)), ("Mobile", ("cell",)), ("Handy", ("cell",)), ("Mobil", ("cell",)),
    ("portable", ("cell",)), ("móvil", ("cell",)), ("携帯", ("cell",)), ("komórka", ("cell",)),
    ("Work", ("work",)), ("Arbeit", ("work",)), ("dienstlich", ("work",)), ("bureau", ("work",)),
    ("travail", ("work",)), ("trabajo", ("work",)), ("勤務先", ("work",)),
    ("home", ("home",)), ("privat", ("home",)), ("Privat", ("home",)), ("domicile", ("home",)),
    ("casa", ("home",)), ("自宅", ("home",)), ("thuis", ("home",)), ("domov", ("home",)),
    ("fax", ("fax",)), ("on board", ()), ("lock cottage", ()), ("Boat", ()), ("Ada", ()),
    ("mobile of Bo", ()), ("", ()), ("7", ()), ("neighbour", ()), ("Schleuse", ()),
]  # fmt: skip


@pytest.mark.parametrize(("label", "uses"), LABELS)
def test_labels_that_say_a_usual_use(label: str, uses: tuple[str, ...]) -> None:
    assert usual_uses(label) == uses


@pytest.mark.parametrize(
    ("lines", "after"),
    [(["item1.TEL:1", "item1.X-ABLabel:Handy"], ["TEL;TYPE=cell:1"]),
     (["item1.TEL;TYPE=home:1", "item1.X-ABLabel:Handy"], ["TEL;TYPE=cell,home:1"]),
     (["item1.TEL:1", "item1.X-ABLabel:on board"], ["item1.TEL:1", "item1.X-ABLabel:on board"]),
     (["item1.EMAIL:a@x.test", "item1.X-ABLabel:Handy"],
      ["item1.EMAIL:a@x.test", "item1.X-ABLabel:Handy"]),
     (["item1.ADR:;;1 Lock Lane;;;;", "item1.X-ABLabel:Privat"],
      ["ADR;TYPE=home:;;1 Lock Lane;;;;"]),
     (["TEL;TYPE=mobil:1"], ["TEL;TYPE=cell:1"]),
     (["TEL;TYPE=cell:1"], ["TEL;TYPE=cell:1"])],
)  # fmt: skip
def test_labels_in_cards(lines: list[str], after: list[str]) -> None:
    said = cleaned(["N:Weir;Ada;;;", "FN:Ada Weir", *lines], "labels")[2:]
    assert [line.replace("home,cell", "cell,home") for line in said] == after


TWICE = [
    (["TEL:+44 1632 960001", "TEL:+44 1632 960001"], ["TEL:+44 1632 960001"]),
    (["TEL:+44 1632 960001", "TEL:+44-1632-960001"], ["TEL:+44 1632 960001"]),
    (["TEL:1", "TEL:2"], ["TEL:1", "TEL:2"]),
    (["TEL:+44 1", "TEL:1"], ["TEL:+44 1", "TEL:1"]),
    (["TEL;TYPE=home:1", "TEL:1"], ["TEL;TYPE=home:1"]),
    (["TEL:1", "TEL;TYPE=home:1"], ["TEL;TYPE=home:1"]),
    (["TEL;TYPE=home:1", "TEL;TYPE=work:1"], ["TEL;TYPE=home:1", "TEL;TYPE=work:1"]),
    (["TEL;TYPE=home,cell:1", "TEL;TYPE=cell:1"], ["TEL;TYPE=home,cell:1"]),
    (["TEL;TYPE=home:1", "TEL;TYPE=home,voice:1"], ["TEL;TYPE=home:1"]),
    (["TEL:1", "TEL:1", "TEL:1"], ["TEL:1"]),
    (["TEL:1 ext. 2", "TEL:1 ext. 2"], ["TEL:1 ext. 2"]),
    (["TEL:1 ext. 2", "TEL:1 ext. 3"], ["TEL:1 ext. 2", "TEL:1 ext. 3"]),
    (["TEL:1", "g1.TEL:1", "g1.X-ABLabel:boat"], ["TEL:1", "g1.TEL:1", "g1.X-ABLabel:boat"]),
    (["EMAIL:a@x.test", "EMAIL:A@X.test"], ["EMAIL:a@x.test"]),
    (["EMAIL:a@x.test", "EMAIL;TYPE=work:a@x.test"], ["EMAIL;TYPE=work:a@x.test"]),
    (["EMAIL:a@x.test", "EMAIL:b@x.test"], ["EMAIL:a@x.test", "EMAIL:b@x.test"]),
    (["ADR:;;1 Lock Lane;Withy;;;", "ADR:;;1 lock lane;Withy;;;"], ["ADR:;;1 Lock Lane;Withy;;;"]),
    (["ADR:;;1 Lock Lane;Withy;;;", "ADR:;;1 Lock Lane;;;;"],
     ["ADR:;;1 Lock Lane;Withy;;;", "ADR:;;1 Lock Lane;;;;"]),
    (["CATEGORIES:A,B,a"], ["CATEGORIES:A,B"]),
    (["CATEGORIES:A", "CATEGORIES:A,B"], ["CATEGORIES:A", "CATEGORIES:B"]),
    (["CATEGORIES:A", "CATEGORIES:a"], ["CATEGORIES:A"]),
    (["NOTE:x", "NOTE:x"], ["NOTE:x"]),
    (["NOTE:x", "NOTE:X"], ["NOTE:x", "NOTE:X"]),
    (["URL:https://x.test/a", "URL:https://x.test/A"],
     ["URL:https://x.test/a", "URL:https://x.test/A"]),
    (["ORG:Withy;Boats", "ORG:Withy;Boats"], ["ORG:Withy;Boats"]),
    (["ORG:Withy", "ORG:Withy;Boats"], ["ORG:Withy", "ORG:Withy;Boats"]),
    (["X-ZIB:1", "X-ZIB:1"], ["X-ZIB:1", "X-ZIB:1"]),
    (["TITLE:Skipper", "ROLE:Skipper"], ["TITLE:Skipper", "ROLE:Skipper"]),
]  # fmt: skip


@pytest.mark.parametrize(("lines", "after"), TWICE)
def test_values_said_twice(lines: list[str], after: list[str]) -> None:
    assert cleaned(["N:Weir;Ada;;;", "FN:Ada Weir", *lines], "said-twice")[2:] == after


def test_several_numbers_in_one_value() -> None:
    lines = ["N:Weir;Ada;;;", "FN:Ada Weir", "TEL;TYPE=home,pref:01632 960001 / 01632 960002"]
    assert cleaned(lines, "phone-apart")[2:] == [
        "TEL;TYPE=home,pref:01632 960001", "TEL;TYPE=home:01632 960002",
    ]  # fmt: skip


NAMES = [
    (["N:;;;;", "FN:Ada Weir"], "N:Weir;Ada;;;"),
    (["N:;;;;", "FN:Weir\\, Dr. Ada"], "N:Weir;Ada;;Dr.;"),
    (["N:;;;;", "FN:Bob & Peggy Weir"], "N:;;;;"),
    (["N:;Ada Weir;;;", "FN:Ada Weir"], "N:;Ada Weir;;;"),
    (["N:;;;;", "FN:Ada Weir", "ORG:Ada Weir"], "N:;;;;"),
    (["N:;;;;", "FN:Withy Canal Trust"], "N:;;;;"),
]


@pytest.mark.parametrize(("lines", "name"), NAMES)
def test_whole_names_get_their_parts_beside_them(lines: list[str], name: str) -> None:
    made = cleaned(lines, "name-split")
    assert made == [name, *lines[1:]]


IN_NAMES = [
    (["N:Holm;Dr. Edda;;;"], "N:Holm;Edda;;Dr.;"),
    (["N:Holm;Dr. Edda;;Frau;"], "N:Holm;Edda;;Frau Dr.;"),
    (["N:Holm;Frau Edda;;Frau;"], "N:Holm;Edda;;Frau;"),
    (["N:Dr. Holm;Prof. Edda;;;"], "N:Holm;Edda;;Prof. Dr.;"),
    (["N:Holm\\, PhD;Edda"], "N:Holm;Edda;;;PhD"),
    (["N:Holm Jr.;Dr. Edda;;;OBE"], "N:Holm;Edda;;Dr.;OBE Jr."),
    (["N:Holm;Sig.ra Edda;Mia;;"], "N:Holm;Edda;Mia;Sig.ra;"),
    (["N:Holm,Weir;Dr. Edda;A,B;;"], "N:Holm,Weir;Edda;A,B;Dr.;"),
    (["N:Holm;Dr. Edda;;Frau,Dipl.;"], "N:Holm;Dr. Edda;;Frau,Dipl.;"),
    (["N:Holm;Major Tom;;;"], "N:Holm;Major Tom;;;"),
    (["N:Holm;Earl Thomas;;;"], "N:Holm;Earl Thomas;;;"),
    (["N:Holm;St. John;;;"], "N:Holm;St. John;;;"),
    (["N:DE SA;ANA;;;"], "N:DE SA;ANA;;;"),
    (["N:Holm;Dr.;;;"], "N:Holm;Dr.;;;"),
    (["N:Holm;Ada,Bo;;;"], "N:Holm;Ada,Bo;;;"),
]


@pytest.mark.parametrize(("lines", "name"), IN_NAMES)
def test_titles_and_suffixes_in_columns_of_names(lines: list[str], name: str) -> None:
    made = cleaned([*lines, "FN:Edda Holm"], "name-titles", "name-suffixes")
    assert [line for line in made if line.startswith("N:")] == [name]


def test_whole_names_are_made_anew_where_that_is_asked_for() -> None:
    assert "name-join" not in [rule.name for rule in chosen([], [])]
    assert "name-join" in [rule.name for rule in chosen(["usual", "name-join"], [])]
    made = cleaned(["N:Weir;Ada;;Dr.;", "FN:Weir\\, Ada"], "name-join")
    assert made == ["N:Weir;Ada;;Dr.;", "FN:Dr. Ada Weir"]
    other = ["N:Weir;Ada;;;", "FN:Captain of the Slow Worm"]
    assert cleaned(other, "name-join") == other


@pytest.mark.parametrize("rule", SHAPING, ids=lambda rule: rule.name)
def test_examples_say_what_changes_and_what_stays(rule: Reshaping) -> None:
    assert any(before != after for _, before, after in rule.examples)
    assert len(rule.work.__doc__ or "") > 40


LINES = st.sampled_from([
    "TEL:01632 960001", "TEL;TYPE=home:01632 960001", "TEL:01632 960001 / 01632 960002",
    "EMAIL:a@x.test", "EMAIL;TYPE=work:A@x.test", "CATEGORIES:A,a,B", "CATEGORIES:A", "NOTE:x",
    "ADR:;;1 Lock Lane\\, Withy\\, QX4 4AP;;;;", "LABEL:1 Lock Lane\\nWithy\\nQX4 4AP", "ORG:Withy",
    "g1.TEL:07700 900123", "g1.X-ABLabel:Handy", "g2.TEL:1", "g2.X-ABLabel:boat", "X-A:1",
    "X-ROUNDCARD-CUSTOM:Boat; Slow  Worm", "X-ROUNDCARD-CUSTOM:Flag;n/a",
    "TEL;TYPE=mobil:01632 960001", "NICKNAME:Bo,bo", "URL:www.x.test", "BDAY:12 April 1980",
])  # fmt: skip


@given(st.sampled_from(["Ada Weir", "Weir\\, Ada", "Bob & Peggy Weir", "n/a"]),
       st.lists(LINES, max_size=9), st.sampled_from(["3.0", "4.0"]))  # fmt: skip
def test_all_rules_together_lose_nothing_and_do_it_once(
    name: str, lines: list[str], version: str
) -> None:
    cleaned([f"FN:{name}", *lines], "usual", "name-join", version=version)
    around = Around("name/full")
    contact = read_cards(card(f"FN:{name}", *lines))[0]
    before = [(prop.head, prop.value) for prop in contact.properties]
    for rule in SHAPING:
        list(rule.work(contact, around))
    assert [(prop.head, prop.value) for prop in contact.properties] == before


APART = [
    ("email-apart", "EMAIL:a@x.test; b@y.test", ["EMAIL:a@x.test", "EMAIL:b@y.test"]),
    ("email-apart", "EMAIL:a@x.test b@y.test", ["EMAIL:a@x.test", "EMAIL:b@y.test"]),
    ("email-apart", "EMAIL:a@x.test (b@y.test)", ["EMAIL:a@x.test (b@y.test)"]),
    ("url-apart", "URL:www.x.test https://y.test/a,b", ["URL;VALUE=text:www.x.test", "URL:https://y.test/a,b"]),
    ("url-apart", "URL:www.x.test/a.b", ["URL;VALUE=text:www.x.test/a.b"]),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "line", "after"), APART)
def test_several_addresses_in_one_value(rule: str, line: str, after: list[str]) -> None:
    made = cleaned(["FN:Ada", line], rule)
    assert [each for each in made if each.startswith(line[:3])] == after
