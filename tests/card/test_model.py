from __future__ import annotations

import pytest

from roundcard.card.contact import Contact, Property
from roundcard.card.equality import identity, key, same_value
from roundcard.card.fields import FIELDS, TABLE, field_of
from roundcard.card.head import Params, Value, head, typed, with_params
from roundcard.card.names import called, formatted_name, joined_name, says_same
from roundcard.card.origin import ADDED, CHANGED, DERIVED, PLACE_STEP, RIDES, Spread, pack, unpack


@pytest.mark.parametrize("place", [(0, 1, 0), (3, 1_000_000, 17), (65_000, 2**40, 2**40)])
def test_an_origin_packs_and_unpacks(place: tuple[int, int, int]) -> None:
    source, record, at = place
    origin = pack(source, record) + at * PLACE_STEP
    assert unpack(origin) == place
    assert unpack(origin | CHANGED) == place
    assert unpack(origin | RIDES) == place


def test_values_from_nowhere_have_no_place() -> None:
    assert unpack(ADDED) is None
    assert unpack(DERIVED) is None


def test_components_know_their_own_columns() -> None:
    base = pack(1, 9)
    prop = Property(head("n"), ("Weir", "Ada"), Spread(base, (PLACE_STEP, 2 * PLACE_STEP)))
    assert unpack(prop.origin_of(1)) == (1, 9, 2)
    lines = Property(
        head("adr"), ("", "", ("a", "b")), (0, 0, (base + PLACE_STEP, base + 2 * PLACE_STEP))
    )
    assert unpack(lines.origin_of(2, 1)) == (1, 9, 2)


@pytest.mark.parametrize(
    ("name", "value", "size"),
    [
        ("note", "x", 1),
        ("note", "", 0),
        ("n", ("Weir", "Ada", "", "", ""), 2),
        ("n", ("Weir", ("Ada", "Maud"), "", "", ""), 3),
        ("categories", ("a", "b", ""), 2),
        ("x-roundcard-custom", ("Boat", "Dawn"), 1),
        ("x-odd", "a;b", 1),
    ],
)
def test_values_are_counted_one_by_one(name: str, value: str, size: int) -> None:
    assert Property(head(name), value, pack(0, 1)).size() == size
    assert Property(head(name), value, pack(0, 1) | RIDES).size() == 0


def test_heads_that_look_alike_are_one_object() -> None:
    assert typed("tel", ("cell",)) is typed("tel", ("cell",))
    changed = with_params(typed("tel", ("cell",)), pref=("1",))
    assert changed.preferred == 1
    assert with_params(changed, pref=None) is typed("tel", ("cell",))


def test_the_table_of_fields_is_consistent() -> None:
    assert len({field.name for field in TABLE}) == len(TABLE)
    for field in FIELDS.values():
        assert field.name == field.name.lower()
        assert (field.kind == "parts") == bool(field.parts)
    assert field_of("x-berth").kind == "raw"


def test_a_label_stands_in_the_group() -> None:
    contact = Contact([])
    contact.append(Property(typed("tel", ()), "1", pack(0, 1)), "lock cottage")
    contact.append(Property(typed("tel", ()), "2", pack(0, 1)), "on board")
    first, second = contact.all("tel")
    assert contact.label_of(first) == "lock cottage"
    assert contact.label_of(second) == "on board"
    assert contact.size() == 2


EQUAL = [
    ("tel", "07700 900123", "(07700) 900-123", True),
    ("tel", "+44 7700 900123", "tel:+44-7700-900123", True),
    ("tel", "０７７００ ９００１２３", "07700900123", True),
    ("tel", "01632 960333 ext. 12", "01632 960333 x12", True),
    ("tel", "01632 960333 ext. 12", "01632 960333", False),
    ("tel", "07700 900123", "07700 900124", False),
    ("email", "A.Weir@Example.org", "a.weir@example.org", True),
    ("email", "a@example.org", "a\u200b@example.org", True),
    ("note", "Zoe\u0308", "Zoë", True),
    ("note", "zoë", "Zoë", False),
    ("fn", "ZOË  WEIR", "Zoë Weir", True),
    ("url", "http://a.test/A", "http://a.test/a", False),
    ("n", ("Weir", "Ada", "", "", ""), ("Weir", "Ada"), True),
    ("adr", ("", "", ("1 A", "B"), ""), ("", "", ("1 a", "b")), True),
    ("org", ("Trust", "Boats"), ("Trust", "Locks"), False),
]


@pytest.mark.parametrize(("name", "one", "other", "same"), EQUAL)
def test_equality_of_values(name: str, one: str, other: str, same: bool) -> None:
    assert same_value(Property(head(name), one, 0), Property(head(name), other, 0)) is same


def test_values_of_different_fields_are_never_equal() -> None:
    assert not same_value(Property(head("note"), "x", 0), Property(head("title"), "x", 0))
    assert key("Ä", "folded") == "ä"


@pytest.mark.parametrize(
    ("value", "said"),
    [
        (("Weir", "Ada", "", "", ""), "Ada Weir"),
        (("Weir", "Ada", ("Maud", "Ann"), "Dr", "OBE"), "Dr Ada Maud Ann Weir OBE"),
        (("水門", "太郎", "", "", ""), "水門太郎"),
        (("水門", "Taro", "", "", ""), "Taro 水門"),
        (("Weir", "", "", "", ""), "Weir"),
        (("Weir", "Ada", "", "", "Jr", "Lock", "Jr"), "Ada Weir Lock Jr"),
    ],
)
def test_a_whole_name_from_its_parts(value: tuple[str, ...], said: str) -> None:
    assert joined_name(value) == said


@pytest.mark.parametrize(
    ("whole", "same"),
    [
        ("Ada Weir", True),
        ("WEIR, Ada", True),
        ("Dr. Ada Weir", True),
        ("Ada M. Weir", False),
        ("Adaweir", True),
        ("Adam Weir", False),
    ],
)
def test_a_whole_name_may_say_the_same_as_its_parts(whole: str, same: bool) -> None:
    prefix = "Dr" if whole.startswith("Dr") else ""
    assert says_same(whole, ("Weir", "Ada", "", prefix, "")) is same


@pytest.mark.parametrize(
    ("name", "value", "said"),
    [
        ("org", ("Pumphouse Brewery", "Cellar"), "Pumphouse Brewery"),
        ("nickname", ("Skip",), "Skip"),
        ("email", "a@example.org", "a@example.org"),
        ("tel", "07700 900123", "07700 900123"),
        ("note", "words " * 30, ("words " * 30)[:59] + "…"),
    ],
)
def test_a_contact_without_a_name_gets_one(name: str, value: str, said: str) -> None:
    assert formatted_name(Contact([Property(head(name), value, 0)]))[0] == said


def test_equal_heads_are_one_object_however_many_there_are() -> None:
    params = (("type", ("home",)),)
    one = head("tel", params, "g")
    others = [head(f"x-{number}") for number in range(20_000)]
    assert head("tel", params, "g") is one
    assert all(head(f"x-{number}") is other for number, other in enumerate(others))
    assert head("tel", params) is not one


COMPONENTS = (("Weir", "Lock"), "Ada", "", "", "")


@pytest.mark.parametrize(
    ("origin", "told"),
    [
        (7 << 22, [(7 << 22, 7 << 22), 7 << 22, 7 << 22, 7 << 22, 7 << 22]),
        (Spread(100, (1, 2)), [(101, 101), 102, 100, 100, 100]),
        (((4, 5), 6), [(4, 5), 6, 0, 0, 0]),
        (((4,), (6, 7)), [(4, 4), 6, 0, 0, 0]),
    ],
)
def test_origins_of_components(origin: object, told: list[object]) -> None:
    prop = Property(head("n"), COMPONENTS, origin)  # type: ignore[arg-type]
    assert prop.origins() == told
    assert prop.only({1}).components == ("", "Ada", "", "", "")
    assert prop.only({1}).origin_of(1) == prop.origin_of(1)
    assert prop.size() == 3


def test_some_entries_of_a_list_keep_their_origins() -> None:
    prop = Property(head("categories"), ("a", "b", "c"), (4, 5, 6))
    assert prop.entries([2, 0]).components == ("c", "a")
    assert prop.entries([2, 0]).origin == (6, 4)


def test_a_label_stands_in_the_first_free_group() -> None:
    contact = Contact([Property(head("tel", (), "g1"), "1", pack(0, 1, 1))])
    contact.append(Property(head("tel"), "2", pack(0, 1, 2)), "on board")
    tel = contact.all("tel")[1]
    assert tel.head.group == "g2"
    assert contact.label_of(tel) == "on board"
    assert contact.label_of(contact.all("tel")[0]) == ""
    assert contact.size() == 2


@pytest.mark.parametrize(
    ("lines", "name"),
    [
        ([("fn", " Ada \n Weir ")], "Ada Weir"),
        ([("n", ("Weir", "Ada", "", "", ""))], "Ada Weir"),
        ([("fn", " "), ("org", ("Lock Keepers", ""))], "Lock Keepers"),
        ([("tel", "1"), ("email", "a@x.test")], "a@x.test"),
        ([("tel", "1")], "1"),
        ([("note", "x")], "no name"),
    ],
)
def test_what_a_contact_is_called(lines: list[tuple[str, str]], name: str) -> None:
    assert called(Contact([Property(head(key), text, 0) for key, text in lines])) == name


def test_identities_are_compared_without_their_scheme() -> None:
    assert identity(" URN:UUID:A1 ") == identity("a1") == "a1"
    assert identity("mailto:A@x.test") == "mailto:a@x.test"


@pytest.mark.parametrize(
    ("params", "preferred", "altid", "uses"),
    [
        ((), 0, "", set()),
        ((("pref", ("1",)),), 1, "", set()),
        ((("pref", ("high",)),), 0, "", set()),
        ((("type", ("home", "voice")), ("type", ("cell",))), 0, "", {"home", "cell"}),
        ((("altid", ("2",)), ("pref", ("50",))), 50, "2", set()),
    ],
)
def test_what_a_head_says(params: Params, preferred: int, altid: str, uses: set[str]) -> None:
    found = head("tel", params)
    assert (found.preferred, found.altid, set(found.uses)) == (preferred, altid, uses)


@pytest.mark.parametrize(
    ("whole", "parts", "same"),
    [
        ("Ada Weir", ("Weir", "Ada", "", "", ""), True),
        ("weir, ada", ("Weir", "Ada", "", "", ""), True),
        ("Ada Lock", ("Weir", "Ada", "", "", ""), False),
        ("Ada Mae Weir", ("Weir", "Ada", "", "", ""), False),
        ("ADA", "Ada", True),
        ("Ada", "Bo", False),
    ],
)
def test_a_whole_name_says_its_parts(whole: str, parts: Value, same: bool) -> None:
    assert says_same(whole, parts) is same
