"""One contact of several: what survives, what is folded, what is left."""

from __future__ import annotations

import pytest

from books_in_tests import card, inner, read_cards, write_cards
from roundcard.card.contact import Property
from roundcard.card.head import head
from roundcard.cli.render.reasons import sentence
from roundcard.errors import UsageError
from roundcard.merge.combine import merged
from roundcard.merge.equivalence import better, same
from roundcard.merge.policy import Member, Policy, Preference, preferences_in, updates_in
from roundcard.merge.selection import Merged
from roundcard.tally import Why


def members(*cards: str, **more: object) -> list[Member]:
    found = [Member(contact, f"{at}.vcf") for at, contact in
             enumerate(read_cards("".join(cards)))]  # fmt: skip
    for name, at in more.items():
        assert isinstance(at, int)
        setattr(found[at], name, True)
    return found


def lines(found: Merged) -> list[str]:
    return inner(write_cards([found.contact], "4.0"))


def whole(found: Merged, group: list[Member]) -> bool:
    """Whether each value of the members is in the contact, folded, or left."""
    read = sum(member.contact.size() for member in group)
    gone = [each.prop for each in found.folded] + [each.prop for each in found.left]
    out = found.contact.size() + sum(prop.size() for prop in gone)
    kept = sum(each.prop.size() - 1 for each in found.kept)
    return read == out + kept


NUMBERS = [  # one, other, region, whether they are the same, which one is better said
    ("07700 900123", "+44 7700 900123", "GB", True, 1),
    ("07700 900123", "07700900123", "", True, 0),
    ("07700 900123", "+44 7700 900123", "", True, 1),
    ("+44 1632 960001", "+1 632 960001", "", False, 0),
    ("01632 960001", "01632 960002", "GB", False, 0),
    ("01632 960001 ext. 12", "01632 960001", "GB", False, 0),
    ("01632 960001 ext. 12", "+44 1632 960001 x12", "GB", True, 1),
    ("960001", "+44 1632 960001", "GB", False, 0),
    ("0611 555 0100", "+49 611 555 0100", "", True, 1),
    ("１２３４５６７", "1234567", "", True, 0),
    ("call the office", "Call the Office", "", True, 0),
    ("call the office", "call the lock", "", False, 0),
]


@pytest.mark.parametrize(("one", "other", "region", "equal", "best"), NUMBERS)
def test_numbers(one: str, other: str, region: str, equal: bool, best: int) -> None:
    props = [Property(head("tel"), one, 0), Property(head("tel"), other, 0)]
    assert same(props[0], props[1], region) is equal
    assert same(props[1], props[0], region) is equal
    if equal:
        assert better(props[0], props[1]) is props[best]


PAIRS = [
    ("EMAIL:Ada@X.test", "EMAIL:ada@x.test", True),
    ("EMAIL:ada@x.test", "EMAIL:ada@y.test", False),
    ("ADR:;;1 Mill St;Withy;;QX1 2AB;", "ADR:;;1 mill st.;WITHY;;QX1 2AB;England", True),
    ("ADR:;;1 Mill St;Withy;;QX1 2AB;", "ADR:;;1 Mill St;Lockham;;QX1 2AB;", False),
    ("ADR:;;1 Mill St;;;;", "ADR:;;11 Mill St;;;;", False),
    ("ORG:Withy Trust", "ORG:Withy Trust;Boats", True),
    ("ORG:Withy Trust;Locks", "ORG:Withy Trust;Boats", False),
    ("BDAY:1980-04-12", "BDAY:19800412", True),
    ("BDAY:--0412", "BDAY:1980-04-12", True),
    ("BDAY:1980", "BDAY:1981-04-12", False),
    ("NOTE:Likes  locks", "NOTE:likes locks", True),
    ("NOTE:Likes locks", "NOTE:Likes weirs", False),
    ("URL:https://x.test/", "URL:https://x.test", True),
    ("PHOTO:data:image/png;base64,AAEC", "PHOTO:data:image/x-png;base64,AA EC", True),
    ("PHOTO:data:image/png;base64,AAEC", "PHOTO:data:image/png;base64,AAED", False),
    ("X-BOAT:Moorhen", "X-BOAT:Moorhen", True),
    ("X-BOAT:Moorhen", "X-BOAT:moorhen", False),
    ("TITLE:Treasurer", "TITLE:TREASURER", True),
    ("RELATED:urn:uuid:AB-1", "RELATED:ab-1", True),
]


@pytest.mark.parametrize(("one", "other", "equal"), PAIRS)
def test_what_says_the_same(one: str, other: str, equal: bool) -> None:
    first, second = (
        contact.properties[-1] for contact in read_cards(
            card("FN:A", one, version="4.0") + card("FN:A", other, version="4.0"))
    )  # fmt: skip
    assert same(first, second) is equal
    assert same(second, first) is equal


def test_all_is_taken_of_many_and_equal_values_once() -> None:
    group = members(
        card("FN:Ada Weir", "TEL;TYPE=home:01632 960001", "EMAIL:ada@x.test", "CATEGORIES:Crew,New",
             "NOTE:First"),
        card("FN:Ada Weir", "TEL;TYPE=work:+44 1632 960001", "TEL:07700 900123", "NOTE:Second",
             "EMAIL:ADA@x.test", "CATEGORIES:crew,Locks"),
    )  # fmt: skip
    found = merged(group, Policy(region="GB"))
    assert lines(found) == [
        "FN:Ada Weir", "TEL;TYPE=home,work:+44 1632 960001", "TEL:07700 900123", "EMAIL:ada@x.test",
        "CATEGORIES:Crew,New,Locks", "NOTE:First", "NOTE:Second",
    ]  # fmt: skip
    assert whole(found, group)
    assert [each.why.rule for each in found.folded] == [Why.SAME_ELSEWHERE] * 4
    assert found.sources[1] == [1, 0]  # the better spelling is the other one's


SURVIVORS = [  # preferences, whose birthday is taken
    ((), 1),  # the newest
    ((Preference("", "0.vcf"),), 0),
    ((Preference("birthday", "2.vcf"), Preference("", "0.vcf")), 2),
    ((Preference("email", "0.vcf"),), 1),
    ((Preference("", "fullest"),), 2),
    ((Preference("birthday", "fullest"), Preference("", "0.vcf")), 2),
]


@pytest.mark.parametrize(("preferences", "winner"), SURVIVORS)
def test_one_of_several_survives_by_the_policy(
    preferences: tuple[Preference, ...], winner: int
) -> None:
    born = ["--04-11", "--04-12", "1980-04-13"]
    group = members(
        card("FN:Ada Weir", f"BDAY:{born[0]}", "REV:20200101T000000Z", version="4.0"),
        card("FN:Ada Weir", f"BDAY:{born[1]}", "REV:20240101T000000Z", version="4.0"),
        card("FN:Ada Weir", f"BDAY:{born[2]}", version="4.0"),
    )
    found = merged(group, Policy(preferences))
    taken = found.contact.first("bday")
    assert taken is not None
    assert taken.text == born[winner]
    assert len(found.conflicts) == 2
    assert {each.member for each in found.conflicts} == {0, 1, 2} - {winner}
    assert whole(found, group)


def test_picked_values_and_the_lead_beat_the_policy() -> None:
    cards = [card("FN:Ada Weir", f"BDAY:198{at}-01-01", f"UID:u{at}", version="4.0") for at in
             range(3)]  # fmt: skip
    group = members(*cards, leads=1)
    group[2].keeps = frozenset({"birthday"})
    found = merged(group, Policy((Preference("", "0.vcf"),)))
    told = {prop.head.name: prop.text for prop in found.contact.properties}
    assert (told["uid"], told["bday"]) == ("u1", "1982-01-01")
    assert whole(found, group)


NAMES = [  # one, other, what is taken, how many values are left
    (["N:Weir;Ada;;;", "FN:Ada Weir"], ["N:Weir;A.;;;", "FN:A. Weir"], "Ada Weir", 0),
    (["N:Weir;A.;;;", "FN:A. Weir"], ["N:Weir;Ada;;;", "FN:Ada Weir"], "Ada Weir", 0),
    (["FN:ADA WEIR"], ["N:Weir;Ada;;;", "FN:Ada Weir"], "Ada Weir", 0),
    (["FN:Jurgen Weir"], ["FN:Jürgen Weir"], "Jürgen Weir", 0),
    (["FN:Weir\\, Ada"], ["N:Weir;Ada;;;", "FN:Ada Weir"], "Ada Weir", 0),
    (["N:Weir;Ada;;;", "FN:Ada Weir"], ["N:Weir;Ada;Maud;Dr;;", "FN:Dr Ada Maud Weir"],
     "Dr Ada Maud Weir", 0),
    (["N:Weir;Ada;;;", "FN:Ada Weir"], ["N:Lock;Ada;;;", "FN:Ada Lock"], "Ada Weir", 2),
    (["N:Weir;Robert;;;", "FN:Robert Weir"], ["N:Weir;Bob;;;", "FN:Bob Weir"], "Robert Weir", 2),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other", "taken", "left"), NAMES)
def test_names(one: list[str], other: list[str], taken: str, left: int) -> None:
    group = members(card(*one), card(*other))
    found = merged(group, Policy())
    whole_name = found.contact.first("fn")
    assert whole_name is not None
    assert whole_name.text == taken
    assert sum(each.prop.size() for each in found.left) == left
    assert whole(found, group)


def test_parts_of_a_name_fill_gaps() -> None:
    group = members(card("N:Weir;Ada;Maud;;", "FN:Ada Maud Weir", "REV:20240101T000000Z"),
                    card("N:Weir;Ada;;Dr;", "FN:Dr Ada Weir"))  # fmt: skip
    found = merged(group, Policy())
    assert "N:Weir;Ada;Maud;Dr;" in lines(found)
    assert whole(found, group)


def test_losers_may_stand_in_the_contact() -> None:
    cards = [card("FN:Ada Weir", "BDAY:1980-01-01"), card("FN:Ada Weir", "BDAY:1981-01-01")]
    note = lines(merged(members(*cards), Policy(losers="note")))
    assert "NOTE:other birthday: 1981-01-01" in note
    kept = merged(group := members(*cards), Policy(losers="extension"))
    custom = kept.contact.first("x-roundcard-custom")
    assert custom is not None
    assert custom.components == ("other birthday", "1981-01-01")
    assert (len(kept.left), len(kept.conflicts)) == (0, 1)
    assert whole(kept, group)


def test_labels_stay_with_their_values() -> None:
    def one(number: str, label: str) -> str:
        return card("FN:Ada Weir", f"item1.TEL:{number}", f"item1.X-ABLabel:{label}")

    found = merged(members(one("1234567", "boat"), one("7654321", "lock")), Policy())
    assert [found.contact.label_of(prop) for prop in found.contact.all("tel")] == ["boat", "lock"]
    folded = merged(members(one("1234567", "boat"), one("1234567", "lock")), Policy())
    assert [folded.contact.label_of(prop) for prop in folded.contact.all("tel")] == ["boat"]
    assert folded.labels == 1


def test_second_scripts_stay_with_their_own_value() -> None:
    def one(title: str, other: str) -> str:
        return card("FN:A", f"TITLE;ALTID=1;LANGUAGE=en:{title}",
                    f"TITLE;ALTID=1;LANGUAGE=ja:{other}", version="4.0")  # fmt: skip

    found = merged(members(one("Chair", "議長"), one("Cook", "料理人")), Policy())
    ties = {prop.text: prop.head.altid for prop in found.contact.all("title")}
    assert ties["Chair"] == ties["議長"] != ties["Cook"] == ties["料理人"]


UPDATES = [
    ("fill", ["07700900001"], "Ada Weir", "1980-01-01", 2),
    ("add", ["07700900001", "07700900002"], "Ada Weir", "1980-01-01", 1),
    ("replace", ["07700900002"], "Ada Weir", "1981-01-01", 2),
]


@pytest.mark.parametrize(("way", "phones", "name", "born", "left"), UPDATES)
def test_an_update_of_a_book(way: str, phones: list[str], name: str, born: str, left: int) -> None:
    group = members(
        card("FN:Ada Weir", "TEL:07700900001", "BDAY:1980-01-01"),
        card("FN:Ada Weir", "TEL:07700900002", "BDAY:1981-01-01", "EMAIL:ada@x.test"),
        book=0,
    )
    found = merged(group, Policy(updates=updates_in([way])))
    told = {key: [prop.text for prop in found.contact.all(key)] for key in
            ("fn", "tel", "bday", "email")}  # fmt: skip
    assert told == {"fn": [name], "tel": phones, "bday": [born], "email": ["ada@x.test"]}
    assert len(found.left) == left
    assert whole(found, group)


def test_an_update_says_it_field_by_field() -> None:
    group = members(card("FN:Ada", "TEL:1234567", "EMAIL:a@x.test"),
                    card("FN:Ada", "TEL:7654321", "EMAIL:b@x.test"), book=0)  # fmt: skip
    found = merged(group, Policy(updates=updates_in(["replace", "phone=add"])))
    assert [prop.text for prop in found.contact.all("tel")] == ["1234567", "7654321"]
    assert [prop.text for prop in found.contact.all("email")] == ["b@x.test"]


def test_what_a_policy_cannot_be() -> None:
    names = ["a/one.vcf", "two.csv"]
    assert preferences_in(["one.vcf", "birthday=newest"], names) == (
        Preference("", "a/one.vcf"), Preference("birthday", "newest"),
    )  # fmt: skip
    for wrong in ("three.csv", "birthday=three.csv", "brthday=newest", ""):
        with pytest.raises(UsageError):
            preferences_in([wrong], names)
    for wrong in ("phone", "phone=both", "fone=add", "=add"):
        with pytest.raises(UsageError):
            updates_in([wrong])


def test_the_policy_can_be_read() -> None:
    told = dict(Policy((Preference("birthday", "ledger.csv"),)).explained())
    assert told["birthday"].index("ledger.csv") < told["birthday"].index("newest")
    assert "ledger.csv" not in told["name"]
    assert told["phone"].startswith("all of them")


FOLDS = [  # what the members have of a field, what the contact has of it
    (["ORG:Withy Trust"], ["ORG:Withy Trust;Boats"], ["Withy Trust Boats"]),
    (["ORG:Withy Trust;Locks"], ["ORG:Withy Trust;Boats"], ["Withy Trust Locks",
                                                         "Withy Trust Boats"]),
    (["TITLE:TREASURER"], ["TITLE:Treasurer"], ["Treasurer"]),
    (["URL:https://x.test"], ["URL:https://x.test/"], ["https://x.test"]),
    (["EMAIL:ADA@X.TEST"], ["EMAIL:ada@x.test"], ["ada@x.test"]),
    (["ADR:;;1 Mill St;Withy;;;"], ["ADR:;;1 Mill St;Withy;;QX1 2AB;"],
     ["1 Mill St Withy QX1 2AB"]),
    (["NICKNAME:Addie"], ["NICKNAME:addie,Ad"], ["Addie Ad"]),
    (["NOTE:One"], ["NOTE:One", "NOTE:Two"], ["One", "Two"]),
    (["X-BOAT:Moorhen"], ["X-BOAT:Moorhen", "X-BOAT:Dawn"], ["Moorhen", "Dawn"]),
    (["TEL;TYPE=home:1234567"], ["TEL;TYPE=work:1234567"], ["1234567"]),
    (["IMPP:xmpp:ada@x.test"], ["IMPP:xmpp:ada@x.test"], ["xmpp:ada@x.test"]),
    (["PHOTO;ENCODING=b;TYPE=PNG:AAEC"], ["PHOTO;ENCODING=b;TYPE=PNG:AAEC"],
     ["data:image/png;base64,AAEC"]),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other", "taken"), FOLDS)
def test_what_becomes_of_a_field(one: list[str], other: list[str], taken: list[str]) -> None:
    group = members(card("FN:Ada", *one), card("FN:Ada", *other))
    name = read_cards(card("FN:Ada", *one))[0].properties[-1].head.name
    found = merged(group, Policy())
    assert [prop.text for prop in found.contact.all(name)] == taken
    assert whole(found, group)
    alone = merged(group[:1], Policy())
    assert lines(alone) == inner(write_cards([group[0].contact], "4.0"))


def test_bookkeeping_is_that_of_one_record() -> None:
    group = members(
        card("PRODID:-//One//EN", "FN:Ada", "UID:u1", "REV:20240101T000000Z", version="4.0"),
        card("PRODID:-//Two//EN", "FN:Ada", "UID:u2", "REV:20250101T000000Z", version="4.0"),
    )
    found = merged(group, Policy())
    told = {prop.head.name: prop.text for prop in found.contact.properties}
    assert (told["prodid"], told["uid"]) == ("-//One//EN", "u1")
    assert told["rev"].startswith("2025")
    assert sorted(sentence(each.why) for each in found.folded) == [
        "an older date of change", "the identity of a record that was merged",
        "the same in another record",
    ]  # fmt: skip
    assert found.left == []


def test_three_are_one_whatever_their_order() -> None:
    cards = [
        card("FN:Ada Weir", "TEL:1234567", "BDAY:1980-04-12"),
        card("FN:Ada Weir", "TEL:7654321", "EMAIL:ada@x.test"),
        card("FN:Ada Weir", "TEL:1234567", "EMAIL:ada@x.test", "NOTE:Third"),
    ]
    said = set()
    for order in ((0, 1, 2), (2, 1, 0), (1, 2, 0)):
        group = members(*(cards[at] for at in order))
        found = merged(group, Policy())
        assert whole(found, group)
        said.add(tuple(sorted(lines(found))))
    assert len(said) == 1


NAMES_OF_TWO = [  # the names of two cards, what the merged one says, what was folded, what was left
    (["N:Weir;Ada;;;", "FN:Ada Weir"], ["N:Weir;Ada;;;", "FN:Ada Weir"],
     ["N:Weir;Ada;;;", "FN:Ada Weir"], ["Weir Ada", "Ada Weir"], []),
    (["N:Weir;Ada;;;", "FN:Ada Weir"], ["N:Weir;Ada;Mae;;", "FN:Ada Mae Weir"],
     ["N:Weir;Ada;Mae;;", "FN:Ada Mae Weir"], ["Weir Ada", "Ada Weir"], []),
    (["N:Weir;Ada;Mae;;", "FN:Ada Weir"], ["N:Weir;Ada;;Dr;OBE", "FN:Ada Weir"],
     ["N:Weir;Ada;Mae;Dr;OBE", "FN:Ada Weir"], ["Weir Ada", "Ada Weir"], []),
    (["N:Weir;Ada;;;", "FN:Ada Weir"], ["N:Weir;Ada;;;;;jun.", "FN:Ada Weir"],
     ["N:Weir;Ada;;;;;jun.", "FN:Ada Weir"], ["Weir Ada", "Ada Weir"], []),
    (["N:Weir;Ada;;;", "FN:Ada Weir"], ["N:Lock;Ada;;;", "FN:Ada Lock"],
     ["N:Weir;Ada;;;", "FN:Ada Weir"], ["Ada"], ["Lock", "Ada Lock"]),
    (["FN:Ada Weir"], ["N:Weir;Ada;;;"],
     ["N:Weir;Ada;;;"], ["Ada Weir"], []),
    (["FN:Ada Weir", "EMAIL:a@x.test"], ["N:Lock;Bo;Mae;;"],
     ["N:Lock;Bo;Mae;;", "EMAIL:a@x.test"], [], ["Ada Weir"]),
    (["N:Weir;Ada;;;"], ["FN:Weir Ada"], ["N:Weir;Ada;;;"], ["Weir Ada"], []),
    (["N:Weir;Ada;;;"], ["FN:Bo"], ["N:Weir;Ada;;;"], [], ["Bo"]),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other", "result", "folded", "left"), NAMES_OF_TWO)
def test_names_of_two(
    one: list[str], other: list[str], result: list[str], folded: list[str], left: list[str]
) -> None:
    group = members(card(*one, version="4.0"), card(*other, version="4.0"))
    found = merged(group, Policy())
    assert [line for line in lines(found) if "DERIVED" not in line] == result
    assert [each.prop.text for each in found.folded] == folded
    assert [each.prop.text for each in found.left] == left
    assert whole(found, group)


def test_values_stand_in_the_order_of_the_sources_that_are_preferred() -> None:
    group = members(card("FN:Ada", "TEL:1111111", "TEL:2222222"), card("FN:Ada", "TEL:3333333"))
    prefer = Policy(preferences=tuple(preferences_in(["1.vcf"], ["0.vcf", "1.vcf"])))
    for policy, wanted in ((Policy(), "123"), (prefer, "312")):
        found = merged(group, policy)
        assert [line[4] for line in lines(found) if line.startswith("TEL")] == list(wanted)
