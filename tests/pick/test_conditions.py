"""Conditions: what they say of a contact, and where they are wrong."""

from __future__ import annotations

import pickle

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, read_cards
from roundcard.card.contact import Contact
from roundcard.errors import ConditionError, PlanError
from roundcard.pick.conditions import Condition
from roundcard.pick.people import InCategory, Not, Picked, WithWords, sample_of
from roundcard.tally import Tally, Why

ADA = read_cards(
    card(
        "N:Müller-Lüdenscheid;Ada;Zoë;Dr;",
        "FN:Dr. Ada Müller-Lüdenscheid",
        "ORG:Withy Canal Trust;Boats",
        "TEL;TYPE=cell,pref:+44 1632 960001",
        "TEL;TYPE=work,voice:(01632) 960 002 ext. 12",
        "g1.TEL:3",
        "g1.X-ABLABEL:lock cottage",
        "EMAIL;TYPE=home:Ada@X.test",
        "ADR;TYPE=home:;;1 Lock Lane;Withy;;WX1 2AB;Nederland",
        "BDAY:1980-04-12",
        "CATEGORIES:Donors,Friends of Łódź",
        'NOTE:Says "hello"; always',
        "REV:20240105T101112Z",
        "X-ZIB:7,5",
        "X-ROUNDCARD-CUSTOM:Boat name;Dawn",
    )
)[0]

HOLDS = [
    ('name/family = "muller-ludenscheid"', True),
    ("name/family starts Mül", True),
    ("name/family ends scheid", True),
    ("name/family contains DEN", True),
    ('name/family exactly = "Müller-Lüdenscheid"', True),
    ('name/family exactly = "müller-lüdenscheid"', False),
    ("name/family exactly starts Mül", True),
    ('name/family != "Weir"', True),
    ('name/family != "Müller-Lüdenscheid"', False),
    ("name/additional = zoe", True),
    ("name contains ada", True),
    ("org = 'withy canal trust'", True),
    ("org/unit = boats", True),
    ("nickname missing", True),
    ("nickname present", False),
    ("nickname != x", True),
    ("phone/cell present", True),
    ("phone/fax present", False),
    ('phone = "+441632960001"', True),
    ('phone/cell = "(01632) 960 002"', False),
    ('phone/2 contains "960 002"', True),
    ("phone/1/use = cell", True),
    ("phone/~lock\\ cottage present", None),
    ('"phone/~lock cottage" = 3', True),
    ("phone/work/extension = 12", True),
    ("count phone = 3", True),
    ("count phone > 3", False),
    ("count nickname = 0", True),
    ("count category >= 2 and count email < 2", True),
    ("email = ada@x.test", True),
    ("email ends '@x.test'", True),
    ("email/work present", False),
    ('address/country = "nederland"', True),
    ("address/home/locality = withy", True),
    ('address contains "lock lane"', True),
    ("address/line1 = '1 lock lane'", True),
    ("address/line2 present", False),
    ("category = donors", True),
    ('category = "friends of lodz"', True),
    ("category/2 starts friends", True),
    ("category in (skippers, donors)", True),
    ("category in (skippers)", False),
    ("birthday = 1980-04-12", True),
    ("birthday before 1981", True),
    ("birthday before 1980", False),
    ("birthday on 1980", True),
    ("birthday on --04-12", True),
    ("birthday on --12-04", False),
    ("birthday after 1980-04", False),
    ("birthday after 1980-03-31", True),
    ("birthday/year = 1980", True),
    ("birthday/year < 1990", True),
    ("revised after 2024-01-01", True),
    ("revised after 2024-01-05", False),
    ("custom/x-zib > 7", True),
    ('"custom/Boat name" = dawn', True),
    ("custom/Other present", False),
    ('note contains "says \\"hello\\""', True),
    ("record = 1", True),
    ("record in (2, 3)", False),
    ("record <= 1", True),
    ('source = "books/a.vcf"', True),
    ("source ends .csv", False),
    ("source != b.vcf", True),
    ("has trouble", False),
    ("not has trouble", True),
    ("nickname present or phone present", True),
    ("nickname present or phone present and email missing", False),
    ("(nickname present or phone present) and email present", True),
    ("not (nickname present or email missing)", True),
    ("not not phone present", True),
    ("PHONE/CELL PRESENT AND NOT nickname present", True),
]  # fmt: skip


@pytest.mark.parametrize(("text", "holds"), HOLDS)
def test_what_a_condition_says(text: str, holds: bool | None) -> None:
    if holds is None:
        with pytest.raises(ConditionError):
            Condition(text)
        return
    condition = Condition(text, ["books/a.vcf"])
    assert condition(ADA) is holds
    assert pickle.loads(pickle.dumps(condition))(ADA) is holds


WRONG = [
    ("", "empty", 0),
    ("phone/wrok present", "did you mean 'work'", 6),
    ("nmae = x", "did you mean 'name'", 0),
    ("phone", "what about phone", 5),
    ("phone =", "a value is expected", 7),
    ('phone = "a', "not closed", 8),
    ("(phone present", "not closed", 0),
    ("phone present)", "does not belong", 13),
    ("phone present email present", "'and' or 'or'", 14),
    ("phone strats x", "did you mean 'starts'", 6),
    ("count phone", "is expected here", 11),
    ("count phone > many", "a number is expected", 14),
    ("has x", "'trouble'", 4),
    ("birthday on May", "a date is expected", 12),
    ('category in "x"', "in brackets", 12),
    ("category in (x", "not closed", 12),
    ("phone = a; b", "does not belong", 11),
    ("and phone present", "where a field path is expected", 0),
    ("not", "something is missing", 3),
    ("record in (a)", "numbered from 1", 10),
    ("source before 2024", "'source' is compared", 7),
    ("name/family < x", "a number is expected", 14),
    ("(" * 200 + "phone present", "too many nested", 100),
    ('"custom/" = 1', "a label is missing", 8),
]


@pytest.mark.parametrize(("text", "problem", "start"), WRONG)
def test_what_is_wrong_is_marked(text: str, problem: str, start: int) -> None:
    with pytest.raises(ConditionError) as caught:
        Condition(text)
    assert problem in caught.value.problem
    assert caught.value.start == start
    assert caught.value.marked().count("\n") == 1
    assert caught.value.exit_code == PlanError.exit_code


WORDS = st.sampled_from(
    [
        "phone",
        "name/family",
        "and",
        "or",
        "not",
        "(",
        ")",
        "=",
        "!=",
        "<",
        ">",
        "in",
        "has",
        "trouble",
        "count",
        "present",
        "exactly",
        "'x'",
        '"y"',
        "starts",
        "before",
        "2024",
        "record",
        "source",
        "custom/Boat",
        ",",
        "missing",
        "é",
        "'",
        '"',
        "\\",
    ]
)


@given(st.one_of(st.text(max_size=40), st.lists(WORDS, max_size=9).map(" ".join)))
def test_any_text_is_a_condition_or_an_error_with_a_place(text: str) -> None:
    place = 0
    try:
        assert Condition(text)(ADA) in (True, False)
    except ConditionError as error:
        place = error.start
    assert 0 <= place <= len(text)


def people(*names: str) -> list[Contact]:
    return read_cards("".join(card(f"N:{name};A;;;", f"FN:A {name}") for name in names))


def test_who_is_not_picked_is_counted() -> None:
    tally = Tally()
    step = Picked([Condition("name/family = weir")], Why.NOT_PICKED)
    assert [step(each, tally) is not None for each in people("Weir", "Lock")] == [True, False]
    assert (tally.people.left_out, tally.values.left_out) == (1, 3)
    other = Picked([Condition("name/family = weir")], Why.PICKED, rest=True)
    assert [other(each, Tally()) is None for each in people("Weir", "Lock")] == [True, False]


def test_categories_words_and_exceptions() -> None:
    assert InCategory(["DONORS", "x"])(ADA)
    assert not InCategory(["Don"])(ADA)
    assert WithWords("lodz MULLER withy")(ADA)
    assert not WithWords("withy nobody")(ADA)
    assert not Not(Condition("phone present"))(ADA)


def test_a_sample_is_the_same_each_time() -> None:
    book = people(*(f"P{number}" for number in range(60)))
    one, two = (sample_of(book, [Condition("record > 10")], 5) for _ in range(2))
    assert one.records == two.records
    assert len(one.records) == 5
    assert all(record > 10 for _, record in one.records)
    assert len(sample_of(book, [], 500).records) == 60
    assert sum(one(each) for each in book) == 5
