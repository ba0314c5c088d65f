"""Three states of a person held against each other: the table in ``three_ways.txt``."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.card.contact import Contact, Property
from roundcard.card.fields import ADR_PARTS, CUSTOM, N_PARTS
from roundcard.card.head import head
from roundcard.jobs.items import items_of
from roundcard.jobs.model import Again
from roundcard.jobs.three_way import Change, Outcome, States, held_against

TABLE = Path(__file__).parent / "three_ways.txt"
CASES = [[cell.strip() for cell in line.split("|")] for line in TABLE.read_text().splitlines()
         if line and not line.startswith("#")]  # fmt: skip
NAMES = {"birthday": "bday", "phone": "tel", "email": "email", "category": "categories",
         "note": "note", "photo": "photo", "address": "adr", "name": "n", "org": "org"}  # fmt: skip
PARTS = {"address": ADR_PARTS[:7], "name": N_PARTS[:5], "org": ("name", "unit")}


def person(field: str, cell: str) -> Contact:
    """A person with the values of a cell, and with something else that never changes."""
    made = Contact([] if field == "name" else [Property(head("fn"), "Ann Lock", 0)])
    values = [] if cell == "-" else [each.strip() for each in cell.split(",")]
    for text in values:
        use, colon, rest = text.partition(":")
        told, label = (use, "") if colon and field in ("phone", "email", "address") else ("", "")
        text = rest if told else text
        if told.startswith("~"):
            told, label = "", told[1:]
        params = (("type", tuple(told.split("+"))),) if told else ()
        if field in PARTS:
            parts = dict(each.split("=") for each in text.split(";"))
            value = tuple(parts.get(part, "") for part in PARTS[field])
            made.append(Property(head(NAMES[field], params), value, 0), label)
        elif field == "custom":
            made.append(Property(head(CUSTOM), tuple(text.split("=")), 0))
        elif field == "category":
            made.append(Property(head("categories"), (text,), 0))
        else:
            made.append(Property(head(NAMES[field], params), text, 0), label)
    return made


def told(contact: Contact) -> list[tuple[str, str, tuple[str, ...]]]:
    return sorted((item.slot, item.use, item.key) for item in items_of(contact))


def judged(case: list[str]) -> tuple[Outcome, Contact]:
    field, was, now, there, again, written, _ = case
    policy = Again(**dict(each.split("=") for each in again.split())) if again else Again()  # type: ignore[arg-type]
    before = person(field, was)
    source = person(field, now)
    states = States(source, before, person(field, now), before,
                    None if there == "?" else person(field, there))  # fmt: skip
    states = states._replace(modelled_now=source)
    return held_against(states, policy, lambda _: ~0, "GB"), person(field, written)


@pytest.mark.parametrize("case", CASES, ids=["/".join(case[:5]) for case in CASES])
def test_each_case_of_the_table(case: list[str]) -> None:
    outcome, wanted = judged(case)
    expected = [] if case[6] == "same" else [each.strip() for each in case[6].split(",")]
    assert sorted(f"{each.kind}{'?' if each.held else ''}" for each in outcome.changes) == (
        sorted(expected)
    )
    assert told(outcome.written) == told(wanted)


@pytest.mark.parametrize("case", CASES, ids=["/".join(case[:5]) for case in CASES])
def test_nothing_travels_that_is_there_already(case: list[str]) -> None:
    """Who holds what is written needs no delivery, and whoever does not, does."""
    outcome, wanted = judged(case)
    if case[3] != "?":
        there = person(case[0], case[3])
        assert outcome.travels == (told(there) != told(wanted))


def test_an_answer_settles_what_waits() -> None:
    before, now, there = (person("email", f"{name}@example.org") for name in ("a", "b", "c"))
    states = States(now, before, now, before, there)

    def answer(side: str) -> Contact:
        def of(change: Change) -> str:
            assert (change.before, change.source, change.there) == (
                "a@example.org", "b@example.org", "c@example.org")  # fmt: skip
            return side

        outcome = held_against(states, Again(), lambda _: ~0, answers=of)  # type: ignore[arg-type]
        assert not outcome.held
        return outcome.written

    assert told(answer("source")) == told(now)
    assert told(answer("there")) == told(there)


def test_what_the_job_changed_is_counted_apart() -> None:
    before, now = person("phone", "cell:01632 960001"), person("phone", "work:01632 960001")
    outcome = held_against(States(before, before, now), Again(), lambda _: ~0, by_the_job=True)
    assert [change.kind for change in outcome.changes] == ["by the job"]
    assert outcome.travels


def test_a_service_that_rewrites_is_not_taken_for_an_edit() -> None:
    meant = person("phone", "cell:+44 1632 960001")
    held = person("phone", "cell:441632960001")
    now = person("phone", "cell:+44 1632 960002")
    now_held = person("phone", "cell:441632960002")
    outcome = held_against(States(now, held, now_held, held, held), Again(), lambda _: ~0)
    assert [change.kind for change in outcome.changes] == ["changed"]
    assert told(outcome.written) == told(now)
    again = held_against(States(meant, held, held, held, held), Again(), lambda _: ~0)
    assert not again.changes
    assert not again.travels


PHONES = st.lists(st.sampled_from([f"cell:01632 9600{n:02}" for n in range(4)]
                                  + [f"work:01632 9600{n:02}" for n in range(4)]),
                  unique=True, max_size=3)  # fmt: skip
MAILS = st.lists(st.sampled_from(["a@example.org", "b@example.org", "c@example.org"]),
                 unique=True, max_size=2)  # fmt: skip
DAYS = st.lists(st.sampled_from(["1980-04-12", "1981-04-12", "1982-04-12"]), max_size=1)
STATE = st.tuples(PHONES, MAILS, DAYS)
POLICY = st.builds(Again, edited_there=st.sampled_from(["there", "source", "ask"]),
                   conflict=st.sampled_from(["there", "source", "ask"]),
                   cleared=st.sampled_from(["there", "source", "ask"]))  # fmt: skip


def somebody(state: tuple[list[str], list[str], list[str]]) -> Contact:
    phones, mails, days = (", ".join(values) or "-" for values in state)
    made = person("phone", phones)
    for field, cell in (("email", mails), ("birthday", days)):
        made.properties += person(field, cell).properties[1:]
    return made


@given(STATE, STATE, STATE, POLICY)
def test_whatever_changed_on_either_side(
    was: tuple[list[str], list[str], list[str]], now: tuple[list[str], list[str], list[str]],
    there: tuple[list[str], list[str], list[str]], policy: Again,
) -> None:  # fmt: skip
    """What one side alone changed is written, what both did alike is; what nobody touched stays;
    and nothing stands there that neither side ever said."""
    before, source, held = somebody(was), somebody(now), somebody(there)
    states = States(source, before, source, before, held)
    outcome = held_against(states, policy, lambda _: ~0)
    written = set(told(outcome.written))
    base, mine, theirs = (set(told(each)) for each in (before, source, held))
    assert written <= base | mine | theirs
    assert base & mine & theirs <= written
    if theirs == base and policy.cleared == "source":
        assert written == mine
    if mine == base and policy.edited_there == "there":
        assert written == theirs
        assert not outcome.travels
    if mine == theirs:
        assert written == mine
        assert not outcome.travels
    assert outcome.travels == (written != theirs)
    again = held_against(States(outcome.written, source, outcome.written, held, outcome.written),
                         Again(conflict="source", cleared="source"), lambda _: ~0)  # fmt: skip
    assert set(told(again.written)) == written


@given(STATE, STATE, POLICY)
def test_without_knowing_what_is_there(
    was: tuple[list[str], list[str], list[str]], now: tuple[list[str], list[str], list[str]],
    policy: Again,
) -> None:  # fmt: skip
    before, source = somebody(was), somebody(now)
    outcome = held_against(States(source, before, source), policy, lambda _: ~0)
    written = set(told(outcome.written))
    base, mine = set(told(before)), set(told(source))
    assert mine <= written <= base | mine
    if policy.cleared == "source":
        assert written == mine
    assert {change.slot for change in outcome.held} == (
        {slot for slot, *_ in base} - {slot for slot, *_ in mine}
        if policy.cleared == "ask" else set()
    )  # fmt: skip
