"""The step that cleans, the wishes of a file, and what several sources each tell."""

from __future__ import annotations

import pickle
from dataclasses import replace
from pathlib import Path

import pytest

from books_in_tests import card, inner, read_cards, write_cards
from roundcard.books.plan import Plan
from roundcard.clean.rule import Around, Rule
from roundcard.clean.rules import chosen
from roundcard.clean.setup import cleaning
from roundcard.clean.step import Change, Clean, Forms
from roundcard.clean.user_rules import Wishes, wishes_in, wishes_of
from roundcard.errors import PlanError, UsageError
from roundcard.layouts.file import parse_layout
from roundcard.tally import Tally

ADA = card("N:Weir;  Ada;;;", "FN:Ada  Weir", "ORG:Withy;n/a", "TEL;TYPE=cell:01632-960001",
           "TEL:n/a", "EMAIL:mailto:ADA@x.test", "ADR:;;1  Lock Lane;Withy;;WX12AB;United Kingdom",
           "CATEGORIES:Donors,-,Friends", "NOTE:RenÃ©", "X-ZIB:  7  ",
           "BDAY:1980-04-12")  # fmt: skip


def test_a_contact_is_cleaned_and_the_counts_balance() -> None:
    tally = Tally()
    contact = read_cards(ADA, tally)[0]
    told: list[Change] = []
    made = Clean(chosen([], []), tell=told.append)(contact, tally)
    assert made is not None
    assert inner(write_cards([made], "3.0")) == [
        "N:Weir;Ada;;;", "FN:Ada Weir", "ORG:Withy", "TEL;TYPE=cell:+44 1632 960001",
        "EMAIL:ada@x.test", "ADR:;;1 Lock Lane;Withy;;WX1 2AB;United Kingdom",
        "CATEGORIES:Donors,Friends", "NOTE:René", "X-ZIB:  7  ", "BDAY:1980-04-12",
    ]  # fmt: skip
    assert tally.values.left_out == 3
    assert tally.values.read == made.size() + tally.values.left_out
    assert {(each.path, each.before) for each in told if not each.after} == {
        ("org/unit", "n/a"), ("phone", "n/a"), ("category", "-")}  # fmt: skip
    again = Clean(chosen([], []))(made, Tally())
    assert again is made


@pytest.mark.parametrize(
    ("rule", "refused"),
    [("phone-form", (1, "phone", "01632-960001", "phone-form")),
     ("white-space", (1, "name/given", "  Ada", "white-space"))],
)  # fmt: skip
def test_a_refused_change_is_not_made(rule: str, refused: tuple[int, str, str, str]) -> None:
    contact = read_cards(ADA)[0]
    made = Clean(chosen([rule], []), refused=frozenset({refused}))(contact, Tally())
    assert made is not None
    assert refused[2] in [prop.text for prop in made.properties] or made.first("n") is (
        contact.first("n")
    )


def test_what_is_folded_or_split_can_be_refused() -> None:
    book = card("FN:Ada Weir", "N:;;;;", "TEL:1", "TEL:1")
    contact = read_cards(book)[0]
    refused = frozenset(
        {(1, "name/full", "Ada Weir", "name-split"), (1, "phone", "1", "said-twice")}
    )
    step = Clean(chosen(["name-split", "said-twice"], []), refused=refused)
    assert step(contact, Tally()) is contact


def test_rules_are_chosen_by_name() -> None:
    assert [rule.name for rule in chosen(["garbled"], [])] == ["garbled"]
    assert "garbled" not in [rule.name for rule in chosen([], ["garbled"])]
    assert "name-split" not in [rule.name for rule in chosen([], [], has_room=lambda _: False)]
    assert [rule.name for rule in chosen(["name-split"], [], has_room=lambda _: False)] == [
        "name-split"
    ]
    with pytest.raises(UsageError, match="did you mean 'garbled'"):
        chosen(["gabled"], [])


REPLACED = [
    ({"find": "Ltd", "with": "Ltd."}, "Weir Ltd", "Weir Ltd."),
    ({"find": "Ltd", "with": "Ltd."}, "Weir Ltd.", "Weir Ltd."),
    ({"find": "Ltd", "with": "Ltd."}, "Ltd Ltd.", "Ltd. Ltd."),
    ({"find": "ltd", "with": "Ltd", "case": False}, "Weir LTD", "Weir Ltd"),
    ({"find": "ltd", "with": "Ltd"}, "Weir LTD", "Weir LTD"),
    ({"find": "Weir", "with": "Lock", "whole": True}, "Weir", "Lock"),
    ({"find": "Weir", "with": "Lock", "whole": True}, "Weir Ltd", "Weir Ltd"),
    ({"find": " (old)", "with": ""}, "Boat (old)", "Boat"),
    ({"find": "a.c", "with": "x"}, "abc a.c", "abc x"),
    ({"find": r"(\d+)st", "with": r"\1 St", "pattern": True}, "7st", "7 St"),
    ({"find": "^Mr ", "with": "", "pattern": True}, "Mr Weir", "Weir"),
    ({"find": "x", "with": r"\1"}, "axb", r"a\1b"),
]


@pytest.mark.parametrize(("keys", "before", "after"), REPLACED)
def test_find_and_replace(keys: dict[str, object], before: str, after: str) -> None:
    rule = wishes_of({"replace": [keys]}, "t").own[0]
    verdict = rule.judge(before, Around("org"))
    assert (before if verdict.text is None else verdict.text) == after
    assert rule.judge(after, Around("org")).text in (None, after)


def test_words_for_words_in_one_field() -> None:
    wishes = wishes_of({"words": [{"field": "category", "values": {"A": "Active"}}]}, "t")
    step = Clean(chosen(["white-space"], [], wishes.own))
    made = step(read_cards(card("FN:A", "CATEGORIES:A,B", "NOTE:A"))[0], Tally())
    assert made is not None
    assert inner(write_cards([made], "4.0")) == ["FN:A", "CATEGORIES:Active,B", "NOTE:A"]
    assert pickle.loads(pickle.dumps(step)) is not None  # it crosses to other processes


WRONG = [
    ({"rule": []}, "unknown key 'rule', did you mean 'rules'?"),
    ({"rules": "garbled"}, "'rules' takes a list of names of rules"),
    ({"region": 4}, "'region' takes a text"),
    ({"replace": {"find": "a"}}, "'replace' is written as [[replace]]"),
    ({"replace": [{"with": "a"}]}, "[[replace]] 1: it needs 'find' and 'with'"),
    ({"replace": [{"find": "(", "with": "", "pattern": True}]}, "'(' is not a regular expression"),
    (
        {"replace": [{"find": "a", "with": r"\2", "pattern": True}]},
        "names a group that 'find' does not have",
    ),
    ({"replace": [{"find": "a", "with": "b", "field": "phon"}]}, "did you mean 'phone'"),
    (
        {"replace": [{"find": "a", "with": "b", "field": "phone/home"}]},
        "leave out use and position",
    ),
    ({"replace": [{"find": "a", "with": "b", "whole": 1}]}, "'whole' takes true or false"),
    ({"words": [{"values": {}}]}, "it needs 'values'"),
    ({"words": [{"values": {"A": 1}}]}, "'values' takes texts"),
    ({"words": [{"values": {"A": "B", "B": "C"}}]}, "'B' is both"),
]


@pytest.mark.parametrize(("tree", "said"), WRONG)
def test_wrong_wishes_are_told(tree: dict[str, object], said: str) -> None:
    with pytest.raises(PlanError) as caught:
        wishes_of(tree, "rules.toml")
    assert str(caught.value).startswith("rules.toml")
    assert said.replace(", did", "; did") in str(caught.value).replace(", did", "; did")


def test_a_file_of_wishes(tmp_path: Path) -> None:
    path = tmp_path / "rules.toml"
    path.write_text('rules = ["usual"]\nregion = "GB"\n', "utf-8")
    assert wishes_in(path) == Wishes(rules=("usual",), region="GB")
    assert Wishes(region="DE").over(wishes_in(path)).region == "DE"
    path.write_text("rules = [", "utf-8")
    with pytest.raises(PlanError, match="not valid TOML"):
        wishes_in(path)
    with pytest.raises(PlanError, match="cannot be read"):
        wishes_in(tmp_path / "none.toml")


DAY = 'name = "d"\n[[column]]\nheading = "Name"\nholds = "name/full"\n' \
      '[[column]]\nheading = "Born"\nholds = "birthday"\n'  # fmt: skip


def test_each_source_tells_its_own_order_and_its_layout_its_wishes(tmp_path: Path) -> None:
    one, other = tmp_path / "one.csv", tmp_path / "other.csv"
    one.write_text("Name,Born\nAda,25/12/1980\nBo,04/05/1981\n", "utf-8")
    other.write_text("Name,Born\nCy,12/25/1980\nDi,04/05/1981\n", "utf-8")
    wish = '[clean]\nrules = ["date-order"]\n[[clean.replace]]\nfind = "Di"\nwith = "Dinah"\n'
    layout = parse_layout(DAY + wish, "d.toml")
    plan = Plan([str(one), str(other)], "", [layout])
    step = cleaning(plan, Wishes(), this_year=2026)
    made = [step(contact, Tally()) for contact in plan.as_read()]
    born = [each.first("bday") for each in made if each is not None]
    assert [each.text for each in born if each is not None] == [
        "1980-12-25", "1981-05-04", "1980-12-25", "1981-04-05"]  # fmt: skip
    names = [each.first("fn") for each in made if each is not None]
    assert [each.text for each in names if each is not None] == ["Ada", "Bo", "Cy", "Dinah"]
    rules = step.steps[0].passes[0]
    assert not isinstance(rules, Rule)
    with pytest.raises(PlanError, match=r"d.toml, \[clean\]: unknown key 'find'"):
        cleaning(Plan([str(one)], "", [replace(layout, clean={"find": "a"})]), Wishes())


def test_the_style_of_a_column_beats_what_its_leftover_dates_tell(tmp_path: Path) -> None:
    path = tmp_path / "one.csv"
    path.write_text("Name,Born\nAda,25/12/1980\nBo,04/25/1981\nCy,4/5/81\n", "utf-8")
    layout = parse_layout(DAY + 'date = "day/month/year"\n', "d.toml")
    plan = Plan([str(path)], "", [layout])
    told: list[Change] = []
    step = cleaning(plan, Wishes(rules=("date-order",)), this_year=2026, tell=told.append)
    made = [step(contact, Tally()) for contact in plan.as_read()]
    assert [each.doubt for each in told] == ["elsewhere in this field the day comes first", ""]
    assert [each.first("bday").text for each in made if each] == [  # type: ignore[union-attr]
        "1980-12-25", "04/25/1981", "1981-05-04"]  # fmt: skip


@pytest.mark.parametrize(
    ("wishes", "said"),
    [(Wishes(region="Germany"), "unknown country"), (Wishes(phone="odd"), "unknown phone format"),
     (Wishes(countries="xx1"), "unknown language"), (Wishes(names="first"), "unknown order"),
     (Wishes(rules=("odd",)), "not a cleaning rule")],
)  # fmt: skip
def test_wishes_that_cannot_be_are_refused(wishes: Wishes, said: str) -> None:
    with pytest.raises(UsageError, match=said):
        cleaning(Plan([], ""), wishes)


def test_a_region_is_of_the_contact_before_it_is_of_the_user() -> None:
    book = card("FN:A", "ADR:;;;;;;France", "TEL:06 39 98 12 34")
    made = Clean(chosen(["phone-form"], []), Forms(region="GB"))(read_cards(book)[0], Tally())
    assert made is not None
    assert "TEL:+33 6 39 98 12 34" in inner(write_cards([made], "3.0"))
