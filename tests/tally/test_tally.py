"""The ledger by itself, with counts made by hand."""

from __future__ import annotations

from collections import Counter

import pytest

from books_in_tests import Kept
from roundcard.card.contact import Contact, Property
from roundcard.card.head import head
from roundcard.card.origin import ADDED, CHANGED, DERIVED, MOST_REASONS, RIDES, Spread, pack, tied
from roundcard.clean.rules import RULES
from roundcard.cli.render.reasons import EXPLAINED, FATES, SENTENCES, sentence
from roundcard.errors import BalanceError
from roundcard.tally import Balance, Fate, Reason, SetAside, Tally, Why
from roundcard.tally import reasons as room
from roundcard.tally.reasons import (
    added_by,
    changed_by,
    derived_by,
    name_from,
    number_of,
    reason_of,
)
from roundcard.tally.tally import MOST_EXAMPLES, MOST_TOLD, Counts

HERE = pack(0, 1, 1)
DATES = Reason(Fate.CHANGED, Why.COLUMN_DATES, "birthday", ("Born",))
NO_COLUMN = Reason(Fate.LEFT_BEHIND, Why.NO_COLUMN, "birthday")
SET = Reason(Fate.ADDED, Why.SET, "note", ("x",))


def value(origin: object, text: object = "19800412", name: str = "bday") -> Property:
    return Property(head(name), text, origin)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("prop", "counts", "why"),
    [
        (value(HERE), "carried 1", {}),
        (value(0), "carried 1", {}),
        (value(HERE | RIDES), "nothing", {}),
        (value((HERE,), ("a", "b"), "categories"), "carried 2", {}),
        (value(tied(HERE)), "carried 1", {}),
        (value(changed_by(HERE, DATES)), "changed 1", {DATES: 1}),
        (value(changed_by(changed_by(HERE, DATES), SET)), "changed 1", {DATES: 1}),
        (value(added_by(SET)), "added 1", {SET: 1}),
        (value(derived_by(name_from("org"))), "derived 1", {name_from("org"): 1}),
        (value(changed_by(added_by(SET), DATES)), "added 1", {SET: 1}),
        (value(ADDED), "added 1", {Reason(Fate.ADDED, Why.UNSAID): 1}),
        (value(DERIVED), "derived 1", {Reason(Fate.DERIVED, Why.UNSAID): 1}),
        (value(Spread(HERE, (0, 1)), ("Weir", "Ada", "", "", ""), "n"), "carried 2", {}),
        (
            value((HERE, changed_by(HERE, DATES), added_by(SET)), ("a", "b", "c"), "categories"),
            "carried 1, changed 1, added 1",
            {DATES: 1, SET: 1},
        ),
        (value((HERE, ADDED), ("a", ""), "categories"), "carried 1", {}),
        (
            value(((HERE, added_by(SET)), HERE), (("Ada", "Bea"), "Weir"), "n"),
            "carried 2, added 1",
            {SET: 1},
        ),
    ],
)
def test_a_value_that_is_placed_is_counted_once_with_its_reason(
    prop: Property, counts: str, why: dict[Reason, int]
) -> None:
    tally = Tally()
    tally.place(prop)
    assert repr(tally.values) == f"<{counts}>"
    assert dict(tally.why) == why


def test_what_a_writer_alters_counts_only_where_no_rule_did_before() -> None:
    lost = Reason(Fate.CHANGED, Why.USE_LOST, "phone")
    tally = Tally()
    for origin in (HERE, changed_by(HERE, DATES), added_by(SET)):
        tally.place(value(origin), altered=lost)
    assert repr(tally.values) == "<changed 2, added 1>"
    assert tally.why == {lost: 1, DATES: 1, SET: 1}


def test_one_fate_for_a_date_that_was_read_otherwise_and_has_no_column() -> None:
    """What is left behind was never changed in what is written."""
    tally = Tally(kept := Kept())
    prop = value(changed_by(HERE, DATES))
    tally.leave_behind(Contact([prop]), prop, NO_COLUMN)
    assert repr(tally.values) == "<left_behind 1>"
    assert tally.why == {NO_COLUMN: 1}
    assert kept.left == [("19800412", "birthday: no column")]


def test_what_was_added_is_kept_and_not_counted_what_was_derived_is_neither() -> None:
    tally = Tally(kept := Kept())
    for origin in (added_by(SET), derived_by(name_from("parts"))):
        prop = value(origin, origin and "text")
        tally.leave_behind(Contact([prop]), prop, NO_COLUMN)
    assert repr(tally.values) == "<nothing>"
    assert [text for text, _ in kept.left] == ["text"]


def test_a_derived_value_that_is_taken_back_takes_only_its_own_reason_with_it() -> None:
    """Two rules derive values of one field; what is never placed is counted nowhere."""
    one, other = Reason(Fate.DERIVED, "rule-a", "phone"), Reason(Fate.DERIVED, "rule-b", "phone")
    contact = [value(derived_by(one), f"01632 96000{n}", "tel") for n in range(3)]
    contact += [value(derived_by(other), f"01632 96010{n}", "tel") for n in range(5)]
    contact.remove(contact[0])
    tally = Tally()
    for prop in contact:
        tally.place(prop)
    assert repr(tally.values) == "<derived 7>"
    assert tally.why == {one: 2, other: 5}


def test_a_record_and_a_part_of_one_are_set_aside() -> None:
    tally = Tally(kept := Kept())
    tally.set_aside(SetAside(0, 3, 12, "no END", "BEGIN:VCARD"), values=4)
    tally.set_aside(SetAside(0, 4, 20, "no colon", "FN"), values=1, people=0)
    assert repr(tally.people) == "<read 1, set_aside 1>"
    assert repr(tally.values) == "<read 5, set_aside 5>"
    assert [sentence(reason) for reason in tally.why] == ["no END", "no colon"]
    assert [item.line for item in kept.aside] == [12, 20]
    assert Balance.of(tally).even


def test_fates_of_a_mixed_value() -> None:
    prop = value((HERE, HERE | CHANGED, ADDED, DERIVED), ("a", "b", "c", "d"), "categories")
    assert Tally().fates(prop) == (1, 1, 1, 1)
    assert Tally().read_of(prop) == 2


def test_tallies_of_processes_add_up_and_examples_move_on() -> None:
    one, other = Tally(), Tally()
    for tally, count in ((one, 2), (other, 3)):
        tally.values.read += count
        tally.count(NO_COLUMN, count)
        for line in range(1, count + 1):
            tally.find("odd", "line", line)
        tally.shapes[1, "phone", "national", ""] += count
        tally.people.read += count
        tally.count(NO_COLUMN, people=count)
    one.find("elsewhere", "line", 0)
    other.find("elsewhere", "line", 0)
    one.add(other, {"line": 100})
    assert one.shapes == {(1, "phone", "national", ""): 5}
    assert repr(one.people) == "<read 5, left_behind 5>"
    assert one.why_people == {NO_COLUMN: 5}
    assert repr(one.values) == "<read 5, left_behind 5>"
    assert one.why == {NO_COLUMN: 5}
    assert one.findings["odd"].count == 5
    assert one.findings["odd"].examples == [("line", 1), ("line", 2), ("line", 101)]
    assert one.findings["elsewhere"].examples == [("line", 0), ("line", 0)]
    assert Balance.of(one).even


def test_a_hostile_file_fills_no_memory_with_reasons_and_findings() -> None:
    tally = Tally()
    for at in range(MOST_TOLD + 10):
        reason = Reason(Fate.LEFT_OUT, Why.COLUMN_SKIPPED, details=(str(at),))
        tally.count(reason, values=1, people=1)
        tally.find(f"finding {at}", "line", at)
    more = Reason(Fate.LEFT_OUT, Why.OTHER)
    assert tally.why[more] == tally.why_people[more] == 10
    assert len(tally.why) == len(tally.why_people) == MOST_TOLD + 1
    assert tally.values.left_out == tally.people.left_out == MOST_TOLD + 10
    assert Balance.of(tally).values_reasons == Balance.of(tally).people_reasons == 0
    assert tally.findings["other things worth knowing"].count == 10
    assert len(tally.findings) == MOST_TOLD + 1
    tally.find("finding 1", "line", 7)
    assert tally.findings["finding 1"].count == 2
    for _ in range(MOST_EXAMPLES):
        tally.find("finding 1", "line", 8)
    assert len(tally.findings["finding 1"].examples) == MOST_EXAMPLES


def test_reasons_have_numbers_that_origins_carry(monkeypatch: pytest.MonkeyPatch) -> None:
    assert reason_of(number_of(DATES)) == DATES
    assert number_of(DATES) == number_of(Reason(*DATES))
    assert 0 < number_of(DATES) <= MOST_REASONS
    monkeypatch.setattr(room, "MOST_REASONS", len(room._reasons))
    late = Reason(Fate.CHANGED, "so-late", "phone")
    assert reason_of(number_of(late)) == Reason(Fate.CHANGED, Why.OTHER)


def test_each_fate_and_rule_has_words_of_its_own_and_no_rule_a_name_of_another() -> None:
    assert set(SENTENCES) == set(Why)
    assert set(FATES) == set(Fate)
    assert set(EXPLAINED) == set(Fate) - {Fate.CHANGED}
    assert len(set(FATES.values())) == len(Fate)
    assert {each.value for each in Why}.isdisjoint(RULES)
    said = Counter(SENTENCES.values())
    assert [words for words, count in said.items() if count > 1] == []


def test_a_cleaning_rule_goes_by_its_name() -> None:
    assert sentence(Reason(Fate.CHANGED, "phone-form", "phone")) == "phone-form"
    assert sentence(Reason(Fate.DERIVED, "name-split", "name")) == "name: name-split (rule)"
    assert sentence(Reason(Fate.LEFT_OUT, "said-twice", "phone")) == "said-twice (rule)"
    assert str(DATES) == "column-dates birthday Born"


def _balanced() -> Tally:
    """One value of each fate, and one person."""
    tally = Tally()
    counts = tally.values
    ended = ("blank", "passed_over", "set_aside", "left_out", "folded", "left_behind", "not_sent",
             "held_back", "refused", "carried", "changed")  # fmt: skip
    for name in (*ended, "split", "added", "derived"):
        setattr(counts, name, 1)
    counts.read = len(ended) - 1
    counts.written = 4
    for fate in Fate:
        tally.why[Reason(fate, Why.OTHER)] = 1
    tally.people = Counts(read=3, left_out=1, carried=2, written=2)
    tally.why_people[Reason(Fate.LEFT_OUT, Why.CONDITION)] = 1
    return tally


def test_the_balance_is_zero_with_one_value_of_each_fate() -> None:
    assert Balance.of(_balanced()) == (0, 0, 0, 0, 0, 0)
    Balance.of(_balanced()).demand()


@pytest.mark.parametrize(
    ("name", "rest", "told"),
    [
        ("read", (1, 0, 0), "1 values missing after reading"),
        ("split", (1, 0, 1), "1 values missing after reading; the reasons are 1 values away"),
        ("blank", (-1, 0, 0), "1 values too many after reading"),
        ("passed_over", (-1, 0, 1), "1 values too many after reading"),
        ("set_aside", (-1, 0, 1), "1 values too many after reading"),
        ("left_out", (-1, 0, 1), "1 values too many after reading"),
        ("folded", (-1, 0, 1), "1 values too many after reading"),
        ("left_behind", (-1, 0, 1), "1 values too many after reading"),
        ("not_sent", (-1, 0, 1), "1 values too many after reading"),
        ("held_back", (-1, 0, 1), "1 values too many after reading"),
        ("refused", (-1, 0, 1), "1 values too many after reading"),
        ("carried", (-1, -1, 0), "1 values missing in what was written"),
        ("changed", (-1, -1, 1), "the reasons are 1 values away from the counts"),
        ("added", (0, -1, 1), "1 values missing in what was written"),
        ("derived", (0, -1, 1), "1 values missing in what was written"),
        ("written", (0, 1, 0), "1 values too many in what was written"),
    ],
)
def test_one_value_too_many_of_any_fate_is_noticed(
    name: str, rest: tuple[int, int, int], told: str
) -> None:
    tally = _balanced()
    setattr(tally.values, name, getattr(tally.values, name) + 1)
    balance = Balance.of(tally)
    assert (balance.values_in, balance.values_out, balance.values_reasons) == rest
    assert not balance.even
    assert balance.values == sum(map(abs, rest))
    assert balance.people == 0
    with pytest.raises(BalanceError, match="nothing was written") as raised:
        balance.demand()
    assert told in str(raised.value)


@pytest.mark.parametrize("of_people", [False, True])
def test_reasons_that_do_not_add_up_are_noticed_though_the_counts_do(of_people: bool) -> None:
    tally = _balanced()
    why = tally.why_people if of_people else tally.why
    why[Reason(Fate.LEFT_OUT, Why.CONDITION)] += 1
    why[Reason(Fate.FOLDED, Why.SAME_ELSEWHERE)] += 2
    balance = Balance.of(tally)
    assert (balance.people_reasons, balance.values_reasons) == ((3, 0) if of_people else (0, 3))
    assert (balance.people, balance.values) == ((3, 0) if of_people else (0, 3))
    with pytest.raises(BalanceError, match=r"reasons are 3 \w+ away from the counts"):
        balance.demand()


def test_a_person_too_many_is_noticed() -> None:
    tally = _balanced()
    tally.people.read += 1
    with pytest.raises(BalanceError, match="1 people missing after reading"):
        Balance.of(tally).demand()
    tally.people.carried += 1
    with pytest.raises(BalanceError, match="1 people missing in what was written"):
        Balance.of(tally).demand()
