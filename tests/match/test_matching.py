"""Who is the same person: levels, scores, contradictions, groups."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from books_in_tests import card, read_cards
from roundcard.books.chunks import Piece
from roundcard.books.plan import Plan
from roundcard.books.source_reader import Reading
from roundcard.books.workers import in_order
from roundcard.card.contact import Contact
from roundcard.match import blocking, gathering
from roundcard.match.blocking import MOST, candidates
from roundcard.match.compare import LEVELS, VETOES, Compared, Comparer
from roundcard.match.doubts import DOUBTS, RIVALS
from roundcard.match.features import Features, Texts, Words, features_of
from roundcard.match.matching import SURE, Matches, matches_of, raised
from roundcard.match.names import called, generation, one_word, sounding, words_of
from roundcard.match.weights import NAME_CLASSES, VALUE_CLASSES, weights
from roundcard.values.phones import number_key


def person(given: str, family: str, *lines: str) -> list[str]:
    """The lines of a card."""
    return [f"N:{family};{given};;;", f"FN:{given} {family}", *lines]


def book_of(*people: list[str]) -> list[Contact]:
    """A book of such cards, each with the number of its record."""
    return read_cards("".join(card(*lines) for lines in people))


def matched(*people: list[str]) -> Matches:
    """What is found in a book of such cards."""
    return matches_of(features_of(book_of(*people), "GB"))


def compared(features: Features) -> Compared:
    """What the first two contacts say of each other."""
    return Comparer(features).learn(np.asarray([[0, 1]], dtype=np.int64))


MAIL, OTHER_MAIL = "EMAIL:ada@x.test", "EMAIL:weir@y.test"
PHONE, HOME = "TEL:07700900123", "ADR:;;1 Lock Lane;Withy;;QX4 4AP;"
BORN = "BDAY:1980-04-12"
KEEPERS = ["FN:Lock Keepers", "ORG:Lock Keepers"]
ADA = person("Ada", "Weir", MAIL, PHONE, HOME, "BDAY:1980-04-12")

SAME = [
    (ADA, ADA),
    (ADA, person("ADA", "WEIR", "EMAIL:ADA@X.TEST")),
    (ADA, person("Ada", "Weir", "TEL:+44 7700 900123")),
    (ADA, person("Weir", "Ada", MAIL)),
    (ADA, ["FN:Weir\\, Ada", "N:;;;;", PHONE]),
    (ADA, ["FN:Ada Weir", "N:;;;;", MAIL]),
    (ADA, person("Ada", "Wier", MAIL, PHONE)),
    (ADA, person("A.", "Weir", MAIL, "BDAY:1980-04-12")),
    (ADA, person("Ada", "Lock", MAIL, "BDAY:1980-04-12")),
    (ADA, person("Ada", "Weir-Lock", MAIL)),
    (person("Robert", "Weir", PHONE), person("Bob", "Weir", PHONE)),
    (person("Séamus", "Weir", PHONE), person("Shay", "Weir", PHONE)),
    (person("Torsten", "Weir", MAIL), person("Totte", "Weir", MAIL)),
    (person("Margaret", "Weir", MAIL), person("Peggy", "Weir", MAIL)),
    (person("Zoë", "Brontësluice", MAIL), person("Zoe", "Brontesluice", MAIL)),
    (person("Jürgen", "Müller", MAIL), person("Juergen", "Mueller", MAIL)),
    (person("Иван", "Петров", MAIL), person("Ivan", "Petrov", MAIL)),
    (person("Ada", "Weir", HOME), person("Ada", "Weir", "ADR:;;1 Lock Lane;;;qx44ap;")),
    (person("Ada", "Weir", "BDAY:1980-04-12"), person("Ada", "Weir", "BDAY:19800412")),
    (
        ["FN:Lock Keepers", "ORG:Lock Keepers", PHONE],
        ["FN:Lock keepers", "ORG:Lock Keepers", PHONE],
    ),
    (
        ["FN:Lock Pottery Ltd", "ORG:Lock Pottery Ltd", PHONE, "EMAIL:info@lock.test"],
        person("Lock", "Pottery Ltd", PHONE, "EMAIL:info@lock.test"),
    ),
    (ADA, person("Ada", "Lock", MAIL, PHONE)),
    (["FN:ada@x.test", MAIL], person("Ada", "Weir", MAIL)),
    (person("Hugo", "Weir", MAIL, PHONE), person("Hygo", "Weir", MAIL, PHONE)),
    (person("Mary Beth", "Weir", PHONE), person("Mary-Beth", "Weir", PHONE)),
    (person("Poldi", "Weir", MAIL, PHONE), person("Leopold", "Weir", MAIL, PHONE)),
    (person("Theodora", "Weir", "NICKNAME:Dolly", PHONE), person("Dolly", "Weir", PHONE)),
    (person("Jana", "Nováková", PHONE), person("Jana", "Novák", PHONE)),
    (["FN:Иванова Анна Петровна", PHONE], person("Anna", "Ivanova", PHONE)),
    (["FN:김민지", PHONE], person("Min-ji", "Kim", PHONE)),
    (person("José", "Quer Puig", PHONE), person("José", "Quer", PHONE)),
    (["FN:Nagy Réka", PHONE], person("Réka", "Nagy", PHONE)),
    (["FN:加藤大輔", PHONE], person("Daisuke", "Kato", PHONE)),
    (["FN:马桂芳", PHONE], ["FN:桂芳马", PHONE]),
    (["FN:Iizel Quer Ochoa Peña", PHONE], person("Itzel", "Quer Ochoa Peña", PHONE)),
    (person("Ivan", "Paheco Dias", PHONE), person("Ivan", "Pacheco Dias", PHONE)),
    (["FN:Lock Wares Ltd", "EMAIL:info@x.test"], ["FN:Lock Wares ООД", "EMAIL:info@x.test"]),
    (person("María José", "Quer", PHONE), person("Mª José", "Quer", PHONE)),
    (person("Thos.", "Weir", PHONE), person("Thomas", "Weir", PHONE)),
    (["FN:Lock Bros", "EMAIL:info@x.test", PHONE], ["FN:Lock Bros CLG", "EMAIL:info@x.test"]),
    (["FN:加藤商店", MAIL, HOME], ["FN:加藤商店 株式会社", MAIL, HOME]),
]
APART = [
    (ADA, person("Tom", "Weir", PHONE, HOME)),
    (ADA, person("Tom", "Weir", MAIL, PHONE, HOME)),
    (ADA, person("Ada", "Weir", MAIL, "BDAY:1950-01-02")),
    (ADA, person("Tom", "Lock", MAIL)),
    (ADA, person("Ada", "Lock", "EMAIL:lock@x.test", "TEL:07700900999")),
    (
        person("Tom", "Weir", HOME, "BDAY:1980-04-12"),
        person("Ada", "Weir", HOME, "BDAY:1980-04-12"),
    ),
    (person("Tom sen.", "Weir", PHONE, HOME), person("Tom jun.", "Weir", PHONE, HOME)),
    (["N:Weir;Tom;;;senior", "FN:Tom Weir", PHONE], ["N:Weir;Tom;;;jun.", "FN:Tom Weir", PHONE]),
    (
        ["FN:Lock Keepers", "ORG:Lock Keepers", PHONE],
        person("Ada", "Weir", PHONE, "ORG:Lock Keepers"),
    ),
    (person("Ada", "Weir"), person("Bo", "Weir")),
    (["FN:Ada and Rufus Weir", MAIL, PHONE, HOME], person("Rufus", "Weir", MAIL, PHONE, HOME)),
    (person("Ada and Rufus", "Weir", MAIL, HOME), person("Ada", "Weir", MAIL, HOME)),
    (["FN:Anna Brehm Ltd", PHONE], person("Anna", "Brehm", PHONE, HOME)),
    (["FN:郑永红", MAIL, PHONE], ["FN:郑丽华", MAIL, PHONE]),
]
ASKED = [
    (person("Ada", "Weir", MAIL), person("Ada", "Weir", OTHER_MAIL)),
    (person("A.", "Weir", HOME), person("Ada", "Weir", HOME, OTHER_MAIL)),
    (person("Ada", "Lock", PHONE), person("Ada", "Weir", PHONE)),
    (person("Radegunde", "Weir", MAIL, PHONE), person("Radl", "Weir", MAIL, PHONE)),
    (person("John", "Weir", MAIL, PHONE, HOME), person("Jean", "Weir", MAIL, PHONE, HOME)),
    (
        person("Ada", "Weir", "ADR:;;Unit 4\\, 91 Lake Road;Withy;;;", MAIL),
        person("Ada", "Weir", "ADR:;;Unit 4\\, 26 Lake Road;Withy;;QX4 4AP;"),
    ),
    (["FN:陈巍", MAIL, HOME], person("Wei", "Chen", MAIL, HOME)),
    (person("Kim", "Weir", HOME), person("Kimberly", "Weir", HOME)),
]


def verdict(pair: tuple[list[str], list[str]]) -> str:
    found = matched(*pair)
    return found.verdict(0, 1)[1]


@pytest.mark.parametrize("pair", SAME)
def test_one_person_on_two_cards(pair: tuple[list[str], list[str]]) -> None:
    assert verdict(pair) == "same"
    assert [group.clusters for group in matched(*pair).groups] == [[[0, 1]]]


@pytest.mark.parametrize("pair", APART)
def test_two_people(pair: tuple[list[str], list[str]]) -> None:
    assert verdict(pair) == "apart"
    assert matched(*pair).groups == []


@pytest.mark.parametrize("pair", ASKED)
def test_what_is_not_sure_is_asked(pair: tuple[list[str], list[str]]) -> None:
    assert verdict(pair) == "ask"
    assert [group.clusters for group in matched(*pair).groups] == [[[0], [1]]]


def test_the_same_identity_outweighs_what_contradicts() -> None:
    one, other = ([*person(name, "Weir"), "UID:urn:uuid:1"] for name in ("Ada", "Tom"))
    assert verdict((one, other)) == "same"


def test_who_fits_two_who_contradict_is_a_question_that_names_both() -> None:
    father = ["N:Weir;Tom;;;", "FN:Tom Weir", MAIL, PHONE, "BDAY:1940-01-02"]
    son = ["N:Weir;Tom;;;", "FN:Tom Weir", MAIL, PHONE, "BDAY:1970-03-04"]
    neither = ["N:Weir;Tom;;;", "FN:Tom Weir", MAIL, PHONE]
    found = matched(father, neither, son)
    assert [group.clusters for group in found.groups] == [[[1], [0], [2]]]
    assert found.verdict(0, 1)[1:] == ("ask", DOUBTS[RIVALS])


def test_decisions_beat_scores() -> None:
    book = features_of(book_of(ADA, ADA, person("Bo", "Lock")), "GB")
    assert matches_of(book, decided={(0, 1): "apart"}).groups == []
    groups = matches_of(book, decided={(1, 2): "same"}).groups
    assert [group.clusters for group in groups] == [[[0, 1, 2]]]


def test_what_many_share_is_narrowed_and_says_little() -> None:
    desk = "TEL:01632960900"
    many = [person(GIVEN[at % 10], f"{FAMILY[at // 10]}{'abcdefgh'[at % 8]}", desk)
            for at in range(200)]  # fmt: skip
    features = features_of(book_of(*many, person("Ada", "Weir", desk), person("Ada", "Weir", desk)))
    found = candidates(features)
    assert found.narrowed["phone number"] == 1
    assert len(found.pairs) < 202 * 40
    assert any(tuple(pair) == (200, 201) for pair in found.pairs.tolist())
    matches = matches_of(features)
    assert all(
        cluster == [200, 201] for g in matches.groups for cluster in g.clusters if len(cluster) > 1
    )
    assert MOST < 200
    empty = matches_of(features_of(book_of(*([MAIL] for _ in range(300)))))
    assert len(empty.pairs) < 300 * 40


SHARED_NAME = [  # what one of many of a name has, what another one has, and whether that is near
    ("TEL:07700900123", "TEL:07700900128", True),
    ("TEL:07700900123", "TEL:01632900123", True),
    ("EMAIL:weir.owen@x.test", "EMAIL:weir.owen@y.test", True),
    ("EMAIL:owen.weir@x.test", "EMAIL:oven.weir@x.test", True),
    ("ADR:;;1 Lock Lane;Withy;;QX4 4AP;", "ADR:;;7 Quay;Withy;;QX4 4AP;", True),
    ("ADR:;;1 Lock Lane;Withy;;;", "ADR:;;7 Lock Lane;Withy;;;", True),
    ("BDAY:1980-04-12", "BDAY:1980-12-04", True),
    ("BDAY:1980-04-12", "BDAY:1981-04-12", True),
    ("ORG:Lock Keepers", "ORG:Lock Keepers", True),
    ("TEL:07700900123", "TEL:01632900777", False),
    ("BDAY:1980-04-12", "BDAY:1971-05-30", False),
    ("TEL:07700900123", "BDAY:1971-05-30", False),
]


@pytest.mark.parametrize(("one", "other", "near"), SHARED_NAME)
def test_of_many_of_one_name_those_are_compared_who_have_something_nearly_in_common(
    one: str, other: str, near: bool
) -> None:
    many = [person("Owen", "Weir", f"TEL:0{at}1{at * 7919 % 10**6:06}9") for at in range(2, 40)]
    features = features_of(book_of(*many, person("Owen", "Weir", one),
                                   person("Owen", "Weir", other)), "GB")  # fmt: skip
    pairs = candidates(features).pairs
    assert ([38, 39] in pairs.tolist()) is near
    assert all(mine < its for mine, its in pairs.tolist())
    assert len(pairs) < 40


def test_names_are_looked_at_some_at_a_time(monkeypatch: pytest.MonkeyPatch) -> None:
    many = [person(("Owen", "Ada", "Bo")[at % 3], "Weir", f"TEL:077{at % 9}1{at % 12:06}")
            for at in range(150)]  # fmt: skip
    features = features_of(book_of(*many), "GB")
    every = candidates(features)
    assert every.narrowed["whole name"] == 3
    assert len(every.pairs) > 100
    monkeypatch.setattr(blocking, "_AT_ONCE", 1)
    assert candidates(features).pairs.tolist() == every.pairs.tolist()


GIVEN = ("Ada", "Bo", "Cy", "Di", "Ed", "Flo", "Gus", "Hal", "Ida", "Joe", "Kay", "Leo", "Max")
FAMILY = tuple(f"{one}{two}" for one in ("Lock", "Weir", "Tow", "Barge", "Alder", "Reed")
               for two in ("ley", "man", "ton", "wick", "by", "side", "er"))  # fmt: skip
BLOW_UPS = [  # cards, what each of them has, pairs a card at the most
    (5_000, lambda at: ["TEL:01632960000", f"EMAIL:p{at}@x.test"], 24),
    (5_000, lambda at: ["N:;;;;", "FN:", f"TEL:016329{at:05}"], 0),
    (5_000, lambda _: ["N:;;;;", "FN:", "TEL:01632960000"], 40),
    (5_000, lambda _: [], 24),
    (2_000, lambda _: ["EMAIL:office@x.test"], 40),
]


@pytest.mark.parametrize(("cards", "lines", "most"), BLOW_UPS)
def test_what_thousands_share_does_not_blow_up(
    cards: int, lines: Callable[[int], list[str]], most: int
) -> None:
    def one(at: int) -> list[str]:
        told = lines(at)
        named = person(GIVEN[at % 13], FAMILY[at // 13 % 42]) if "FN:" not in told else []
        return [*named, *told]

    features = features_of(book_of(*(one(at) for at in range(cards))), "GB")
    found = candidates(features)
    assert len(found.pairs) <= cards * most
    matches = matches_of(features)
    assert not any(len(cluster) > 1 for group in matches.groups for cluster in group.clusters)


DOUBTS_OF = [  # two cards, and why it is asked although the points would do
    (person("John", "Weir", MAIL, PHONE, HOME), person("Jean", "Weir", MAIL, PHONE, HOME),
     "both given names"),
    (person("Daniel", "Weir", BORN, HOME, "TEL:01632960001"),
     person("Daniela", "Weir", BORN, HOME, "TEL:01632960001"), "given names that two"),
    (person("Ada", "Weir", HOME, "TEL:01632960001"),
     ["FN:Ada Weir jun.", "N:Weir;Ada;;;jun.", HOME, "TEL:01632960001"],
     "one is senior or junior"),
    (person("Ada", "Lock", PHONE, HOME, "ORG:Keepers"),
     person("Ada", "Weir", PHONE, HOME, "ORG:Keepers"), "another family name"),
    (person("Radegunde", "Weir", MAIL, PHONE), person("Radl", "Weir", MAIL, PHONE),
     "given names differ"),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other", "why"), DOUBTS_OF)
def test_what_points_alone_do_not_decide(one: list[str], other: list[str], why: str) -> None:
    found = matched(one, other)
    _, said, doubt = found.verdict(0, 1)
    assert said == "ask"
    assert doubt in DOUBTS
    assert doubt.startswith(why)


def test_an_address_of_two_who_contradict_is_no_personal_one() -> None:
    box = "EMAIL:weirs@x.test"
    house = [person(name, "Weir", box, HOME) for name in ("Tom", "Una")]
    pair = (person("A", "Weir", box), person("Ada", "Weir", box))
    assert matched(*pair, *house).verdict(0, 1)[1] == "ask"
    assert matched(*pair).verdict(0, 1)[1] == "same"
    own = tuple([*lines[:2], "EMAIL:ada.w@x.test", HOME] for lines in pair)
    assert matched(*own, *house).verdict(0, 1)[1] == "same"


def test_reasons_add_up_to_the_score() -> None:
    found = matched(ADA, person("Ada", "Wier", MAIL, "BDAY:1980-04-13"))
    total, reasons, veto = found.reasons(0, 1)
    assert abs(total - sum(reason.points for reason in reasons)) < 0.5
    assert {reason.what for reason in reasons} >= {
        "same e-mail address, which tells the name",
        "family names alike",
    }
    assert veto == "birthdays differ" or not veto
    assert all(abs(a.points) >= abs(b.points) for a, b in itertools.pairwise(reasons))


def test_what_would_tip_it_is_tried_by_the_rules() -> None:
    same = matched(ADA, person("Ada", "Weir", "EMAIL:ADA@X.TEST"))
    assert same.tips(0, 1) == ["same e-mail address, which tells the name"]
    asked = matched(person("A.", "Weir", HOME), person("Ada", "Weir", HOME, OTHER_MAIL))
    assert "same e-mail address" in asked.tips(0, 1)
    born = matched(person("Ada", "Lock", MAIL, HOME), person("Ada", "Weir", MAIL, HOME))
    assert born.tips(0, 1) == ["same mobile number", "same birthday"]


def test_a_kind_of_agreement_may_need_fewer_points_or_more() -> None:
    found = matched(["FN:Ada", "N:;Ada;;;", "TEL:01632960001"],
                    person("Ada", "Weir", "TEL:01632960001"))  # fmt: skip
    total, reasons, _ = found.reasons(0, 1)
    enough = next(each for each in reasons if each.what.startswith("enough, of two"))
    assert total - enough.points < SURE <= total
    assert found.verdict(0, 1)[1] == "same"
    mobiles = person("Ada Maud", "Weir", MAIL, PHONE), person("Maud", "Weir", MAIL, PHONE)
    score, said, doubt = matched(*mobiles).verdict(0, 1)
    assert (said, doubt) == ("ask", "not enough, of two who agree in this way")
    assert score < SURE <= matched(*mobiles).reasons(0, 1)[0]


def test_a_birthday_that_everybody_has_says_nothing() -> None:
    many = [person(name, family, "BDAY:1900-01-01") for name in GIVEN for family in FAMILY[:3]]
    pair = [person("Ada", "Weir", "BDAY:1900-01-01"), person("Ada", "Weir", "BDAY:1900-01-01")]
    assert matched(*pair, *many).verdict(0, 1)[1] == "ask"
    assert matched(*pair).verdict(0, 1)[1] == "same"


def test_pupils_of_one_year_share_birthdays_that_say_something_all_the_same() -> None:
    days = [f"BDAY:2014-{at // 28 % 12 + 1:02}-{at % 28 + 1:02}" for at in range(336)]
    school = [person(GIVEN[at % 13], FAMILY[at // 13 % 42], days[at % 336]) for at in range(3_360)]
    pair = [person("Quirin", "Zibble", days[0]), person("Quirin", "Zibble", days[0])]
    other = [pair[0], person("Quirin", "Zibble", days[230])]
    assert matched(*pair, *school).verdict(0, 1)[1] == "same"
    assert matched(*other, *school).verdict(0, 1)[1] == "apart"


def test_the_weights_that_come_with_the_program_fit_what_they_weigh() -> None:
    worth = weights()
    assert {name: len(points) for name, points in worth.points.items()} == {
        name: len(texts) for name, texts in LEVELS.items()}  # fmt: skip
    assert (len(worth.together), {len(row) for row in worth.together}) == (
        len(NAME_CLASSES), {len(VALUE_CLASSES)})  # fmt: skip
    assert all(worth.points[name][1] > 0 for name in ("given", "family", "email", "mobile", "uid"))


@pytest.mark.parametrize(
    ("text", "key"),
    [("07700 900123", "700900123"), ("+44 7700 900123", "700900123"),
     ("0044 7700900123", "700900123"), ("(07700) 900123 ext. 7", "700900123"),
     ("123", ""), ("ask Bo", "")],
)  # fmt: skip
def test_numbers_are_told_by_their_last_digits(text: str, key: str) -> None:
    assert number_key(text, "GB") == key


def test_words_of_names() -> None:
    assert words_of("Zoë O'Leary-Weir") == ("zoe", "oleary", "weir")
    assert one_word("van der Berg") == "vanderberg"
    assert one_word("Müller") == one_word("Mueller")
    assert not called("bob").isdisjoint(called("robert"))
    assert called("bob").isdisjoint(called("peggy"))
    assert [generation(text) for text in ("sen.", "Jr", "III", "OBE", "")] == [
        "senior", "junior", "junior", "", ""]  # fmt: skip
    assert sounding("philipps") == sounding("filips")


def test_texts_keep_their_numbers_however_many_come() -> None:
    words = Words(Texts())
    told = [f"{at * 7919 % 50_000}" for at in range(120_000)]  # more than a dictionary keeps
    first: dict[str, int] = {}
    assert [words.number(text) for text in told] == [
        first.setdefault(text, len(first)) for text in told]  # fmt: skip
    assert list(words.texts) == list(first)
    assert words.number("") == -1


def test_a_name_alone_is_worth_less_in_a_larger_book() -> None:
    sizes = (0, 1, 3_000, 6_000, 24_000, 96_000)
    assert [raised(size) for size in sizes] == [-3, -3, 0, 1, 3, 5]


def test_columns_of_features_are_of_one_length_and_know_what_is_missing() -> None:
    features = features_of(book_of(ADA, ["FN:Cy"], KEEPERS, ["EMAIL:bo@x.test"]), "GB")
    names = ("family", "given", "middle", "whole", "generation", "org", "birthday", "street",
             "house", "code", "uid", "source", "record")  # fmt: skip
    assert {len(features.column(name)) for name in names} == {4}
    assert features.column("birthday").tolist() == [19800412, -1, -1, -1]
    assert features.column("given").tolist()[1:] == [-1, -1, -1]
    assert features.column("is_org").tolist() == [0, 0, 1, 0]
    assert [len(features.emails[at]) for at in range(4)][3] == 1
    assert [len(features.phones[at]) for at in range(1, 4)] == [0, 0, 0]
    assert features.column("record").tolist() == [1, 2, 3, 4]


@pytest.mark.parametrize(
    ("one", "other", "says"),
    [("1980-04-12", "1980-04-12", "same birthday"),
     ("1980-04-12", "--04-12", "birthdays alike"),
     ("1980-04-12", "1980-12-04", "birthdays alike"),
     ("1980-04-12", "1980-04-13", "birthdays alike"),
     ("1980-04-12", "1950-04-12", "birthdays differ"),
     ("1980-04-12", "1970-05-13", "birthdays differ")],
)  # fmt: skip
def test_birthdays_agree_as_far_as_they_are_known(one: str, other: str, says: str) -> None:
    lines = [person("Ada", "Weir", f"BDAY:{each}") for each in (one, other)]
    told = compared(features_of(book_of(*lines), "GB"))
    assert LEVELS["birthday"][int(told.levels["birthday"][0])] == says


NOBODY = ["FN:Ada Weir"]
LEVELS_OF = [  # the feature, the lines of two cards, what is said of them
    ("email", ["EMAIL:keeper@x.test"], ["EMAIL:KEEPER@x.test"], "same e-mail address"),
    ("email", ["EMAIL:ada@x.test", "EMAIL:b@y.test"], ["EMAIL:b@y.test"], "same e-mail address"),
    ("email", ["EMAIL:skipper@x.test"], ["EMAIL:skiper@x.test"], "e-mail addresses alike"),
    ("email", ["EMAIL:skipper@x.test"], ["EMAIL:skpper1@x.test"], "e-mail addresses differ"),
    ("email", ["EMAIL:skipper1@x.test"], ["EMAIL:skipper2@x.test"], "e-mail addresses differ"),
    ("email", ["EMAIL:abc@x.test"], ["EMAIL:abd@x.test"], "e-mail addresses differ"),
    ("email", ["EMAIL:skipper@canal.test"], ["EMAIL:skipper@river.test"],
     "e-mail addresses alike"),
    ("email", ["EMAIL:skip@canal.test"], ["EMAIL:skip@river.test"], "e-mail addresses differ"),
    ("email", ["EMAIL:skipper@canal.test"], ["EMAIL:keeper@river.test"],
     "e-mail addresses differ"),
    ("email", ["EMAIL:ada.weir@canals.test"], ["EMAIL:ada.weir@canasl.test"],
     "e-mail addresses alike"),
    ("email", ["EMAIL:ada.weir@canals.test"], ["EMAIL:ada.weir@rivers.test"],
     "e-mail addresses alike but for the host"),
    ("email", ["EMAIL:ada.weir@canals1.test"], ["EMAIL:ada.weir@canals2.test"],
     "e-mail addresses alike but for the host"),
    ("email", ["EMAIL:ada.weir@cana.test"], ["EMAIL:ada.weir@cann.test"],
     "e-mail addresses alike but for the host"),
    ("email", ["EMAIL:ada@x.test"], [], ""),
    ("email", ["EMAIL:ada.weir@x.test"], ["EMAIL:ADA.weir@x.test"],
     "same e-mail address, which tells the name"),
    ("email", ["EMAIL:info@x.test"], ["EMAIL:info@x.test"],
     "same e-mail address, which others share"),
    ("mobile", ["TEL:07700 900123"], ["TEL:+44 7700 900123"], "same mobile number"),
    ("mobile", ["TEL:07700 900123"], ["TEL:07700 900321"], "mobile numbers differ"),
    ("mobile", ["TEL:07700 900123"], ["TEL:07700 900132"], "mobile numbers alike"),
    ("mobile", ["TEL;TYPE=cell:01632 960123"], ["TEL:01632 960123"], "same mobile number"),
    ("mobile", ["TEL:+354 611 9476"], ["TEL;TYPE=cell:611 9476"], "same mobile number"),
    ("phone", ["TEL:01632 960123"], ["TEL:+44 1632 960123"], "same phone number"),
    ("phone", ["TEL:01632 960123"], ["TEL:01632 960555"], "phone numbers differ"),
    ("phone", ["TEL:01632 960123"], ["TEL:07700 900123"], ""),
    ("phone", ["TEL;TYPE=fax:01632 960123"], ["TEL:01632 960123"], ""),
    ("phone", ["TEL:12345"], ["TEL:12345"], ""),
    ("address", ["ADR:;;1 Lock Lane;Withy;;QX4 4AP;"], ["ADR:;;1 lock lane;;;qx44ap;"],
     "same address"),
    ("address", ["ADR:;;1 Lock Lane;Withy;;;"], ["ADR:;;1 Lock Lane;;;;"], "same address"),
    ("address", ["ADR:;;Lock Lane;Withy;;QX4 4AP;"], ["ADR:;;Lock Lane;;;QX4 4AP;"],
     "same address"),
    ("address", ["ADR:;;1 Lock Lane;;;;"], ["ADR:;;2 Lock Lane;;;;"],
     "same street or post code"),
    ("address", ["ADR:;;1 Lock Lane;;;QX4 4AP;"], ["ADR:;;1 Lock Lane;;;QX5 4AP;"],
     "addresses alike"),
    ("address", ["ADR:;;1 Lock Lane;Withy;;;"], ["ADR:;;1 Lock Ln;Withy;;;"], "addresses alike"),
    ("address", ["ADR:;;1 Lock Lane;Withy;;;"], ["ADR:;;1 Lcok Lane;Withy;;;"],
     "addresses alike"),
    ("address", ["ADR:;;1 Lock Lane;;;QX4 4AP;", "ADR:;;9 Weir Row;;;QX5 4AP;"],
     ["ADR:;;9 Weir Row;;;QX5 4AP;"], "same address"),
    ("address", ["ADR:;;1 Lock Lane;;;QX4 4AP;"], ["ADR:;;1 Weir Road;;;QX4 4AP;"],
     "same address"),
    ("address", ["ADR:;;1 Lock Lane;;;QX4 4AP;"], ["ADR:;;2 Weir Road;;;QX4 4AP;"],
     "same street or post code"),
    ("address", ["ADR:;;1 Lock Lane;;;QX4 4AP;"], ["ADR:;;1 Weir Road;;;QX5 4AP;"],
     "addresses differ"),
    ("address", ["ADR:;;1 Lock Lane;;;;"], ["ADR:;;;;;QX4 4AP;"], ""),
    ("address", ["ADR:;;;;;QX4 4AP;"], ["ADR:;;1 Weir Road;;;QX4 4AP;"],
     "same street or post code"),
    ("address", ["ADR:;;1 Lock Lane;;;;"], [], ""),
    ("org", ["ORG:Lock Keepers"], ["ORG:LOCK KEEPERS"], "same organisation"),
    ("org", ["ORG:Lock Keepers"], ["ORG:Rowers"], "organisations differ"),
    ("org", ["ORG:Lock Keepers Ltd"], ["ORG:Lock Keepers"], "same organisation"),
    ("org", ["ORG:Lock Keepers"], ["ORG:Lock Keepers of Withy"], "organisations alike"),
    ("uid", ["UID:urn:uuid:A1"], ["UID:a1"], "same identity"),
    ("uid", ["UID:a1"], ["UID:a2"], "identities differ"),
    ("birthday", ["BDAY:19800412"], ["BDAY:19810412"], "birthdays differ"),
    ("birthday", ["BDAY:19800412"], ["BDAY:19800512"], "birthdays alike"),
    ("birthday", ["BDAY:19800412"], ["BDAY:19900413"], "birthdays differ"),
    ("birthday", ["BDAY:1980-04"], ["BDAY:19800412"], "birthdays alike"),
    ("birthday", ["BDAY:1980-04"], ["BDAY:19800512"], "birthdays differ"),
    ("birthday", ["BDAY:--0412"], ["BDAY:--0512"], "birthdays differ"),
]  # fmt: skip


@pytest.mark.parametrize(("feature", "one", "other", "says"), LEVELS_OF)
def test_what_two_cards_say_of_one_another(
    feature: str, one: list[str], other: list[str], says: str
) -> None:
    for mine, theirs in ((one, other), (other, one)):
        features = features_of(book_of([*NOBODY, *mine], [*NOBODY, *theirs]), "GB")
        told = compared(features)
        assert LEVELS[feature][int(told.levels[feature][0])] == says


NAMES_OF = [  # two names as family, given, second name; what is said of given, family, second
    ("Weir;Viqleta", "Weir;Violtea", "given names that may go for one another",
     "same family name", ""),
    ("Weir;Qundar", "Weir;Qonder", "given names that may go for one another", "same family name",
     ""),
    ("Weir;Qund", "Weir;Qonda", "given names differ", "same family name", ""),
    ("Weir;Person12", "Weir;Person34", "given names differ", "same family name", ""),
    ("Weir;Ada", "WEIR;ADA", "same given name", "same family name", ""),
    ("Weir;Robert", "Weir;Bob", "called for short", "same family name", ""),
    ("Weir;A.", "Weir;Ada", "initial fits", "same family name", ""),
    ("Weir;B.", "Weir;Ada", "given names differ", "same family name", ""),
    ("Weir;Hugo", "Weir;Hygo", "given names alike", "same family name", ""),
    ("Weir;Martin", "Weir;Martina", "given names that may go for one another",
     "same family name", ""),
    ("Weir;Jean-Luc", "Weir;Jean", "one of two given names", "same family name", ""),
    ("Weir;Jean-Luc", "Weir;Jean-Pierre", "given names differ", "same family name", ""),
    ("Weir;Jean-Luc", "Weir;JL", "initial fits", "same family name", ""),
    ("Weir;Ada and Tom", "Weir;Tom", "one of a couple", "same family name", ""),
    ("Weir;Ada & Tom", "Weir;Tom and Ada", "same given name", "same family name", ""),
    ("Kowalska;Anna", "Kowalski;Anna", "same given name", "family name in the other form", ""),
    ("Щербакова;Анна", "Shcherbakova;Anna", "same given name", "same family name", ""),
    ("Хохлов;Иван", "Hohlov;Ivan", "same given name", "family names alike", ""),
    ("van der Weir;Ada", "Weir;Ada", "same given name", "same family name", ""),
    ("Quer Puig;Ada", "Quer;Ada", "same given name", "one of several family names", ""),
    ("Weir;Ada", "Weir;Bea", "given names differ", "same family name", ""),
    ("Weirside;Ada", "Weirsyde;Ada", "same given name", "family names alike", ""),
    ("Weir;Ada", "Lock;Ada", "same given name", "family names differ", ""),
    ("Weir;Ada;Mae", "Weir;Ada;Mae", "same given name", "same family name", "same second name"),
    ("Weir;Ada;Mae", "Weir;Ada;Joy", "same given name", "same family name",
     "second names differ"),
    ("Weir;Ada;Mae", "Weir;Mae", "second name fits", "same family name", ""),
    ("Weir;Ada", "Ada;Weir", "same given name", "same family name", ""),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other", "given", "family", "middle"), NAMES_OF)
def test_what_two_names_say_of_one_another(
    one: str, other: str, given: str, family: str, middle: str
) -> None:
    for mine, theirs in ((one, other), (other, one)):
        features = features_of(book_of([f"N:{mine};;", "FN:x"], [f"N:{theirs};;", "FN:y"]), "GB")
        told = compared(features).levels
        said = [LEVELS[name][int(told[name][0])] for name in ("given", "family", "second")]
        assert said == [given, family, middle]


@pytest.mark.parametrize(
    ("one", "other", "veto"),
    [
        (ADA, ADA, ""),
        (person("Ada", "Weir", BORN), person("Ada", "Weir", "BDAY:1950-01-09"), "birthdays differ"),
        (person("Ada", "Weir"), person("Bea", "Weir"), "given names differ"),
        (KEEPERS, person("Ada", "Weir"), "a person and an organisation"),
        (["FN:Tom Weir jun.", "N:Weir;Tom;;;jun."], ["FN:Tom Weir sen.", "N:Weir;Tom;;;sen."],
         "one is senior, the other junior"),
    ],
)  # fmt: skip
def test_what_contradicts(one: list[str], other: list[str], veto: str) -> None:
    features = features_of(book_of(one, other), "GB")
    assert VETOES[int(compared(features).veto[0])] == veto


def test_groups_with_questions_stay_small_enough_to_be_looked_at(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A chain of questions must not become one group of half the book."""
    people = [person("Ada", "Weir", f"EMAIL:ada{at}@x{at}.test", HOME) for at in range(8)]
    features = features_of(book_of(*people), "GB")
    assert [len(group.members) for group in matches_of(features, 40, 5).groups] == [8]
    monkeypatch.setattr("roundcard.match.matching._MOST_ASKED", 3)
    sizes = [len(group.members) for group in matches_of(features, 40, 5).groups]
    assert max(sizes) == 3
    assert min(sizes) > 1


def test_one_name_and_one_birthday_are_one_person_wherever_they_are_reached() -> None:
    then = person("Ada", "Weir", MAIL, PHONE, HOME, BORN)
    now = person("Ada", "Weir", OTHER_MAIL, "TEL:01632960777", "ADR:;;7 Quay;Lock;;ZZ1 1AA;", BORN)
    found = matched(then, now)
    assert found.verdict(0, 1)[1] == "same"
    assert "one name and one birthday" in [each.what for each in found.reasons(0, 1)[1]]
    undated = [[line for line in each if line != BORN] for each in (then, now)]
    assert matched(*undated).verdict(0, 1)[1] != "same"
    of_all = [person(given, "Lock", BORN) for given in GIVEN]  # a day that stands for no day
    assert matched(then, now, *of_all).verdict(0, 1)[1] != "same"


def test_how_many_of_one_house_are_kept_apart() -> None:
    tom = ["N:Weir;Tom;;;sen.", "FN:Tom Weir sen.", HOME]
    son = ["N:Weir;Tom;;;jun.", "FN:Tom Weir jun.", HOME]
    found = matched(
        tom,
        son,
        person("Bea", "Weir", PHONE),
        person("Cy", "Weir", PHONE),
        person("Dot", "Weir", MAIL, "BDAY:19500109"),
        person("Dot", "Weir", MAIL, BORN),
    )
    assert found.apart_at_home == 3
    assert found.groups == []


@pytest.mark.parametrize(
    ("one", "other", "rule"),
    [
        ([MAIL], [MAIL], "e-mail address"),
        ([PHONE], [PHONE], "phone number"),
        (["UID:a"], ["UID:a"], "identity"),
        ([HOME], [HOME], "address"),
        ([BORN], [BORN], "birthday"),
        (["BDAY:1980-04"], ["BDAY:1980-04"], ""),
        (["BDAY:--0412"], ["BDAY:--0412"], ""),
        (["ORG:Keepers"], ["ORG:Keepers"], "organisation"),
        ([], [], ""),
    ],
)
def test_pairs_are_compared_that_share_something(
    one: list[str], other: list[str], rule: str
) -> None:
    """The two have names that lead to no pair; what they share does."""
    names = ("Weir;Ada", "Weir;Bo") if rule == "organisation" else ("Weir;Ada", "Lock;Adelheid")
    bare = [[f"N:{name};;;", f"FN:{' '.join(reversed(name.split(';')))}"] for name in names]
    assert len(candidates(features_of(book_of(*bare), "GB")).pairs) == 0
    features = features_of(book_of([*bare[0], *one], [*bare[1], *other]), "GB")
    assert len(candidates(features).pairs) == bool(rule)


def test_one_name_alone_leads_to_a_pair() -> None:
    features = features_of(book_of(["FN:Cher"], ["FN:Cher"], ["FN:Sting"]), "GB")
    assert candidates(features).pairs.tolist() == [[0, 1]]


@pytest.mark.parametrize("name", ["book.vcf", "book.csv"])
def test_features_of_several_processes_are_those_of_one(
    tmp_path: Path, name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    lines = ["EMAIL:a{1}@x.test", "ORG:Lock {2}", "BDAY:19{2:02}0102", "TEL:07700 90{1:04}",
             "ADR:;;{1} Lane;Bath;;QX{2};"]  # fmt: skip
    one_card, row = card(*person("Ada", "Weir{0}", *lines)), "Ada Weir{0},07700 90{1:04},Lock {2}\n"
    line = one_card if name == "book.vcf" else row
    text = "".join(line.format(n, n % 300, n % 70) for n in range(6_000))
    book = tmp_path / name
    book.write_text(text if name == "book.vcf" else f"Name,Phone,Organisation\n{text}")
    monkeypatch.setattr(Reading.cut, "__defaults__", (20_000,))
    pieces: list[Piece] = []
    monkeypatch.setattr(gathering, "in_order", noting(pieces))
    plan = Plan([str(book)], "")
    alone = gathering.features_in(replace(plan, processes=1), "GB")
    together = gathering.features_in(replace(plan, processes=3), "GB")
    assert len(pieces) > 3
    assert len(alone) == 6_000
    for words, same in zip(alone.words(), together.words(), strict=True):
        assert list(words.texts) == list(same.texts)
    for column in ("source", "record", "family", "given", "whole", "birthday", "house", "org"):
        assert list(alone.column(column)) == list(together.column(column)), column
    for several in ("phones", "emails"):
        one, other = getattr(alone, several), getattr(together, several)
        assert [list(one[at]) for at in range(6_000)] == [list(other[at]) for at in range(6_000)]


def noting(pieces: list[Piece]) -> Callable[..., Iterator[tuple[Piece, object]]]:
    """Does pieces in order, and notes which."""

    def done(*work: Any) -> Iterator[tuple[Piece, object]]:
        for piece, found in in_order(*work):
            pieces.append(piece)
            yield piece, found

    return done
