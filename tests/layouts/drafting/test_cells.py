"""What cells hold, told with the words of the vocabulary; and whole columns of them."""

from __future__ import annotations

import tomllib

import pytest

from roundcard.card.paths import parse
from roundcard.layouts.drafting.cells import cell_kind
from roundcard.layouts.drafting.evidence import class_of, for_and_against, identified
from roundcard.layouts.drafting.profile import MOST_DISTINCT, TableProfile, profile_rows
from roundcard.layouts.drafting.vocabulary import language_files, vocabulary

CELLS = [
    ("Anna Weber", "person"),
    ("Dr. Anna Weber", "person"),
    ("Iris & Tom Harrow", "person"),
    ("Weber, Anna", "person, comma"),
    ("Anna", "given"),
    ("山田 太郎", "person"),
    ("Mr", "prefix"),
    ("Frau Dr.", "prefix"),
    ("Frau", "prefix"),
    ("m", "gender"),
    ("weiblich", "gender"),
    ("yes", "yes-no"),
    ("nein", "yes-no"),
    ("-", "none"),
    ("n/a", "none"),
    ("unbekannt", "none"),
    ("0000-00-00", "none"),
    ("xxx", "none"),
    ("Hauptstr. 5", "street"),
    ("12 Lock Lane", "street"),
    ("Kanalstraße 12a", "street"),
    ("3 quai des Saules", "street"),
    ("12 Lock Lane, Withy, WT1 2AB", "address"),
    ("1 rue du Port\n75001 Paris", "address"),
    ("10115 Berlin", "code and town"),
    ("Withy Canal Trust", "org"),
    ("Weidenbach GmbH", "org"),
    ("Brzeziński Sp. z o.o.", "org"),
    ("Vodní stavby s.r.o.", "org"),
    ("School No. 3", "org"),
    ("Lock Lane 3", "street"),
    ("Schulleiterin", "job"),
    ("Managing Director", "job"),
    ("Deutschland", "country"),
    ("DE", "country"),
    ("Suomi", "country"),
    ("work", "use"),
    ("Mobil", "use"),
    ("Berlin", "single"),
    ("Withy Bridge", "street"),
    ("Lower Sedge", "title case"),
    ("J.R.", "initials"),
    ("Prefers to be called late in the evening", "sentence"),
    ("東京都千代田区千代田1-1", "street"),
    ("+44 1632 960001", "phone"),
    ("a@b.org", "email"),
]


@pytest.mark.parametrize(("text", "kind"), CELLS)
def test_kind_of_a_cell(text: str, kind: str) -> None:
    assert cell_kind(text) == kind


def test_each_language_says_what_each_needs() -> None:
    needed = {"name/given", "name/family", "email", "phone", "phone/cell", "birthday", "note",
              "address/street", "address/locality", "address/postcode", "org", "use/home",
              "use/work", "is/filler", "custom", "cell/given", "cell/street",
              "cell/yes-no"}  # fmt: skip
    files = language_files()
    assert len(files) >= 20
    for language, text in files.items():
        assert text.startswith("# "), language
        words = tomllib.loads(text)
        assert needed <= words.keys(), (language, needed - words.keys())
        for key, listed in words.items():
            assert all(isinstance(word, str) and word.strip() for word in listed), key
            assert listed, (language, key)
            assert len(set(listed)) == len(listed), (language, key)


def test_keys_are_paths_or_known_sorts() -> None:
    sorts = ("use", "position", "part", "is", "custom")
    for keys in vocabulary().phrases.values():
        for key in keys:
            if key.partition("/")[0] in sorts or key in ("name", "address"):
                continue
            assert parse("address/street" if key == "address/house-number" else key)


def column(*cells: str) -> TableProfile:
    return profile_rows(["x"], [[cell] for cell in cells])


IDENTIFIED = [
    (["a@b.org", "c@d.net", "", "e@f.test"], "email"),
    (["+44 1632 960001", "01632 960 002"], "phone"),
    (["Anna Weber", "Peter Lock", "Emma Fenn"], "name/full"),
    (["Anna", "Peter", "Zibble", "Emma"], "name/given"),
    (["12 Lock Lane", "4 Mill Road"], "address/street"),
    (["1 Lock Lane, Withy WT1 2AB", "2 Mill Road, Hale WT2 2AB"], "address/full"),
    (["France", "Deutschland"], "address/country"),
    (["Herr", "Frau", "Frau"], "name/prefix"),
    (["1935-01-02", "1948-03-04", "1962-05-06", "1977-07-08", "1981-01-01", "1990-02-02"],
     "birthday"),
    (["www.a.test", "https://b.test/x"], "url"),
    (["51.5007, -0.1246"], "geo"),
    (["zibble", "wobble"], None),
    (["2024-01-01", "2024-02-01", "2024-03-01", "2024-04-01", "2024-05-01"], None),
    ([], None),
]  # fmt: skip


@pytest.mark.parametrize(("cells", "path"), IDENTIFIED)
def test_cells_alone_say_what_a_column_is(cells: list[str], path: str | None) -> None:
    found = identified(column(*cells).columns[0])
    assert (found[0].path if found else None) == path


AGAINST = [
    ("email", ["+44 1632 960001"], True),
    ("phone", ["a@b.org"], True),
    ("phone", ["07700900123", "0170 1234567"], False),
    ("phone", ["12"], True),
    ("birthday", ["Anna"], True),
    ("birthday", ["1980"], False),
    ("address/postcode", ["123456"], False),
    ("address/postcode", ["Withy"], True),
    ("address/region", ["A", "L"], True),
    ("address/region", ["NY", "TX"], False),
    ("related/spouse", ["yes", "no"], True),
    ("note", ["a@b.org"], False),
    ("phone/1/use", ["work", "mobile"], False),
    ("address/line2", ["Flat 2"], False),
]


@pytest.mark.parametrize(("path", "cells", "against"), AGAINST)
def test_cells_speak_against_a_field(path: str, cells: list[str], against: bool) -> None:
    _, share = for_and_against(class_of(parse(path)), column(*cells).columns[0])
    assert (share >= 0.5) is against


def test_a_profile_counts_cells() -> None:
    profile = column("Withy", "Withy", "", " ", "n/a", "RenÃ©", "4.47701E+11").columns[0]
    assert (profile.rows, profile.filled) == (5, 5)  # two rows are blank
    assert profile.values["Withy"] == 2
    assert (profile.garbled, profile.garbled_sample) == (1, "RenÃ©")
    assert profile.scientific == 1
    assert profile.placeholders == {"n/a": 1}
    assert profile.samples == ["Withy", "RenÃ©", "4.47701E+11"]
    assert profile.odd["scientific"] == ("4.47701E+11", 7)
    assert profile.distinct == (4, False)


def test_a_profile_of_many_values_stays_small() -> None:
    profile = profile_rows(["a", "b"], ([f"v{n}", "same"] for n in range(20_000))).columns
    assert profile[0].distinct == (MOST_DISTINCT, True)
    assert len(profile[0].values) == MOST_DISTINCT
    assert profile[0].filled == 20_000
    assert profile[0].differing == 1.0
    assert profile[1].values == {"same": 20_000}


def test_names_are_told_by_the_addresses_beside_them() -> None:
    rows = [["Zibbo Wrang", "zibbo@x.test"], ["Qua Ploth", "q.ploth@x.test"],
            ["Wix Snard", "snard@x.test"], ["Yol Brent", "yb@x.test"]]  # fmt: skip
    profile = profile_rows(["", ""], rows).columns[0]
    assert profile.in_mail == 0.75
    assert identified(profile)[0].path == "name/full"
