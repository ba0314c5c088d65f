"""Values of a merged contact, each on the side that it belongs to."""

from __future__ import annotations

import pytest

from books_in_tests import card, inner, read_cards, write_cards
from roundcard.merge.split import likeness, nearness, parted
from roundcard.tally import Tally

ONE = ["FN:Ada Weir", "TEL;TYPE=home:1234567", "EMAIL:ada@x.test", "CATEGORIES:Crew,Donors"]
OTHER = ["FN:Ada Weir", "TEL:7654321", "EMAIL:ada@x.test", "CATEGORIES:Donors,Skippers"]
MERGED = ["FN:Ada Weir", "TEL;TYPE=home:1234567", "TEL:7654321", "EMAIL:ada@x.test",
          "CATEGORIES:Crew,Donors,Skippers"]  # fmt: skip

CHANGES = [  # the contact now, what the originals are to have
    (MERGED, ONE, OTHER, 0),
    ([*MERGED[:4], "CATEGORIES:Crew,Skippers"], [*ONE[:3], "CATEGORIES:Crew"],
     [*OTHER[:3], "CATEGORIES:Skippers"], 1),
    ([*MERGED[:4], "CATEGORIES:Crew,Donors,Skippers,New"],
     [*ONE[:3], "CATEGORIES:Crew,Donors", "CATEGORIES:New"], OTHER, 1),
    ([MERGED[0], "TEL;TYPE=home:1234999", *MERGED[2:]],
     [ONE[0], "TEL;TYPE=home:1234999", *ONE[2:]], OTHER, 1),
    (["FN:Ada Lock", *MERGED[1:]], ["FN:Ada Lock", *ONE[1:]], ["FN:Ada Lock", *OTHER[1:]], 1),
    ([*MERGED, "X-BOAT:Dawn", "NOTE:Moved"], [*ONE, "X-BOAT:Dawn", "NOTE:Moved"], OTHER, 2),
    (["FN:Ada Weir"], ["FN:Ada Weir"], ["FN:Ada Weir"], 6),
]  # fmt: skip


@pytest.mark.parametrize(("now", "one", "other", "edits"), CHANGES)
def test_what_was_done_since_goes_where_it_belongs(
    now: list[str], one: list[str], other: list[str], edits: int
) -> None:
    tally = Tally()
    (contact,) = read_cards(card(*now, version="4.0"), tally)
    result, first, second = (
        read_cards(card(*each, version="4.0"))[0].properties for each in (MERGED, ONE, OTHER)
    )
    added = [[prop.replaced(prop.value, -1) for prop in side] for side in (first, second)]
    found = parted(contact, result, added)
    assert [inner(write_cards([each], "4.0")) for each in found.contacts] == [one, other]
    assert len(found.since) == edits
    assert found.unclaimed == []
    # each value of the contact stands in one of the originals, and is read once
    read = sum(tally.read_of(prop) for each in found.contacts for prop in each.properties)
    assert read == contact.size() == tally.values.read


def test_how_much_of_a_merge_is_there() -> None:
    merged, one, other = (
        read_cards(card(*each, version="4.0"))[0] for each in (MERGED, ONE, ["FN:Bo Lock"])
    )
    assert likeness(merged, merged.properties) == nearness(merged, merged.properties) == 1.0
    assert likeness(merged, one.properties) == 1.0
    assert nearness(merged, one.properties) < 1.0
    assert likeness(other, merged.properties) == nearness(other, merged.properties) == 0.0
