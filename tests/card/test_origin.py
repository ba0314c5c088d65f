"""Origins as numbers, and the text on an envelope with the address that it belongs to."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, read_cards
from roundcard.card.envelopes import paired
from roundcard.card.origin import (
    ADDED,
    CHANGED,
    DERIVED,
    MARKS,
    MOST_REASONS,
    PLACE_STEP,
    RIDES,
    TIED,
    added,
    changed,
    derived,
    is_added,
    is_derived,
    pack,
    reason_in,
    rides,
    tied,
    unpack,
)

HERE = pack(2, 3, 4)

KINDS = [  # an origin: is it added, derived, does it take no place of its own, its reason
    (0, False, False, False, 0),
    (HERE, False, False, False, 0),
    (HERE | RIDES, False, False, True, 0),
    (tied(HERE), False, False, True, 0),
    (changed(HERE, 5), False, False, False, 5),
    (tied(changed(HERE, 5)), False, False, True, 5),
    (ADDED, True, False, False, 0),
    (DERIVED, False, True, False, 0),
    (added(7), True, False, False, 7),
    (derived(7), False, True, False, 7),
    (tied(added(7)), True, False, True, 7),
    (tied(derived(7)), False, True, True, 7),
    (changed(added(7), 9), True, False, False, 7),
    (changed(changed(HERE, 5), 9), False, False, False, 5),
    (changed(HERE, MOST_REASONS), False, False, False, MOST_REASONS),
    (derived(MOST_REASONS), False, True, False, MOST_REASONS),
]


@pytest.mark.parametrize(("origin", "is_new", "is_made", "no_place", "reason"), KINDS)
def test_what_an_origin_says(
    origin: int, is_new: bool, is_made: bool, no_place: bool, reason: int
) -> None:
    assert (is_added(origin), is_derived(origin)) == (is_new, is_made)
    assert rides(origin) is no_place
    assert reason_in(origin) == reason
    assert tied(tied(origin)) == tied(origin)


@given(
    st.integers(0, 2**20), st.integers(0, 2**48 - 1), st.integers(0, 2**48 - 1),
    st.integers(0, MOST_REASONS), st.integers(0, 3),
)  # fmt: skip
def test_all_that_is_packed_comes_out_again(
    source: int, record: int, place: int, reason: int, marks: int
) -> None:
    origin = changed(pack(source, record) + place * PLACE_STEP, reason) | marks
    assert unpack(origin) == (source, record, place)
    assert reason_in(origin) == reason
    assert (origin & (RIDES | TIED)) == marks
    assert origin & MARKS & ~CHANGED == marks
    assert unpack(~origin) is None


ADR, OTHER = "ADR;TYPE=home:;;1 Lock Ln;;;;", "ADR;TYPE=work:;;2 Weir Rd;;;;"
LABEL = "LABEL;TYPE=home:1 Lock Ln"
ENVELOPES = [  # the lines of a card, and which text belongs to which address, by their places
    ([ADR, LABEL], {1: 0}),
    ([LABEL, ADR], {0: 1}),
    ([OTHER, ADR, LABEL], {2: 1}),
    ([ADR, OTHER, LABEL], {2: 0}),
    ([OTHER, LABEL], {}),
    ([LABEL], {}),
    ([ADR, ADR, LABEL], {2: 1}),
    ([LABEL, ADR, ADR], {}),
    ([ADR, LABEL, LABEL], {1: 0}),
    ([LABEL, LABEL, ADR], {}),
    (["ADR;TYPE=home:;;;;;;", LABEL], {}),
    (["NOTE:x", "LABEL;TYPE=home:x", ADR], {1: 2}),
    (["a.ADR;TYPE=home:;;1;;;;", LABEL], {}),
    (["a.ADR;TYPE=home:;;1;;;;", "A.LABEL;TYPE=home:1 Lock Ln"], {1: 0}),
    (["ADR;TYPE=home;LANGUAGE=en:;;1;;;;", "LABEL;TYPE=home;LANGUAGE=de:x"], {}),
    (["ADR;TYPE=home;LANGUAGE=en:;;1;;;;", "LABEL;TYPE=home;LANGUAGE=en:x"], {1: 0}),
]


@pytest.mark.parametrize(("lines", "found"), ENVELOPES)
def test_which_text_belongs_to_which_address(lines: list[str], found: dict[int, int]) -> None:
    (contact,) = read_cards(card(*lines))
    assert paired(contact.properties) == found
