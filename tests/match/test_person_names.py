"""Two names held against each other, by their words."""

from __future__ import annotations

import pytest

from roundcard.match import person_names as names
from roundcard.match.person_names import Comparing, Name, Names
from roundcard.match.reading import couple, name_of

COMMON = frozenset(("ada", "anna", "tom", "maria", "martin", "martina", "paul", "paula", "kim"))
COMPARING = Comparing(COMMON.__contains__, frozenset(("weir", "lock")).__contains__)


def parts(text: str) -> Name:
    """``given / second / family`` or a whole name; ``~`` before what somebody is called."""
    text, _, nick = text.partition(" ~")
    if "/" not in text:
        return name_of("", "", "", nick, text)
    given, second, family = (part.strip() for part in text.split("/"))
    return name_of(given, second, family, nick, "")


GIVEN = """
Ada | Ada | SAME
Ada | A | INITIAL
Ada | Adda | ALIKE
Robert | Bob | SHORT
Margaret | Peggy | SHORT
Leopold | Poldi | SHORT
Hans-Peter | Hans | HALF
Hans-Peter | Peter | SECOND
Hans-Peter | HP | INITIAL
Hans Peter | Hans-Peter | HALF
Anna | Tom | DIFFERENT
Martin | Martina | DIFFERENT
Paul | Paula | DIFFERENT
Kim | Kimberly | NEAR
Hugo | Hygo | ALIKE
Wolfgang | Wolfgnag | ALIKE
Ann1 | Ann2 | DIFFERENT
Иван | Ivan | SAME
Γιώργος | Giorgos | SAME
민지 | Minji | SAME
大輔 | Daisuke | SAME
Olha | Olga | ALIKE
"""


@pytest.mark.parametrize("row", GIVEN.strip().splitlines())
def test_given_names(row: str) -> None:
    one, other, level = (part.strip() for part in row.split("|"))
    mine, theirs = parts(f"{one} / / ").given[0], parts(f"{other} / / ").given[0]
    assert COMPARING.given(mine, theirs) == getattr(names, level), row
    assert COMPARING.given(theirs, mine) == getattr(names, level), row


FAMILY = """
Weir | Weir | SAME
van der Berg | Van Berg | SAME
Müller | Mueller | SAME
Schmidt | Schmitt | FAMILY_ALIKE
Weir | Wier | FAMILY_ALIKE
Novák | Nováková | OTHER_FORM
Петров | Петрова | OTHER_FORM
Kowalski | Kowalska | OTHER_FORM
Papadopoulos | Papadopoulou | OTHER_FORM
Kazlauskas | Kazlauskienė | OTHER_FORM
Quer Puig | Quer | OF_SEVERAL
Weir-Lock | Lock | OF_SEVERAL
Paheco Dias | Pacheco Dias | FAMILY_ALIKE
Weir | Lock | FAMILY_DIFFERENT
Berg | Berger | FAMILY_DIFFERENT
Kim | Gim | FAMILY_ALIKE
"""


@pytest.mark.parametrize("row", FAMILY.strip().splitlines())
def test_family_names(row: str) -> None:
    one, other, level = (part.strip() for part in row.split("|"))
    mine, theirs = parts(f"A / / {one}").family, parts(f"A / / {other}").family
    assert names.family_level(mine, theirs) == getattr(names, level), row
    assert names.family_level(theirs, mine) == getattr(names, level), row


WHOLE = """
Ada / / Weir | Weir / / Ada | SAME SAME turned
Ada / / Weir | Ada Weir | SAME SAME
Ada / / Weir | Weir Ada | SAME SAME
Ada / Mary / Weir | Ada M. Weir | SAME SAME
Anna / Petrovna / Ivanova | Иванова Анна Петровна | SAME SAME
José / / Quer Puig | José Quer | SAME OF_SEVERAL
Itzel / Socorro / Ochoa Peña | Iizel Socorro Ochoa Peña | ALIKE SAME
Ada / Mary / Weirside | Ada Mary Wierside | SAME FAMILY_ALIKE
Theodora / / Weir ~Dolly | Dolly / / Weir | SHORT SAME
Mary / Beth / Weir | Marybeth / / Weir | SAME SAME
Ada / / Weir | Tom / / Lock | DIFFERENT FAMILY_DIFFERENT
Ada / / Weir | / / Weir | 0 SAME
Ada / / | Ada / / | SAME 0
Ada & Tom / / Weir | Ada / / Weir | COUPLE SAME
Ada & Tom / / Weir | Tom & Ada / / Weir | SAME SAME
Ada & Tom / / Weir | Bo / / Weir | DIFFERENT SAME
加藤大輔 | Daisuke / / Kato | 0 0 unread
大輔 / / 加藤 | Daisuke / / Kato | SAME SAME
陈巍 | Wei / / Chen | 0 0 unread
"""


@pytest.mark.parametrize("row", WHOLE.strip().splitlines())
def test_names_as_a_whole(row: str) -> None:
    one, other, wanted = (part.strip() for part in row.split("|"))
    given, family, *order = wanted.split()
    found = COMPARING.compare(parts(one), parts(other))
    assert found.given == getattr(names, given, 0), found
    assert found.family == getattr(names, family, 0), found
    turned = {"": 0, "turned": 1, "unread": names.UNREAD}[order[0] if order else ""]
    assert found.turned == turned, found


def test_a_name_is_packed_and_unpacked() -> None:
    name = parts("Ada / Mary Beth / Weir Lock ~Dolly")
    assert Name.unpacked(name.packed()) == name
    assert Name().packed() == ""
    assert Names().merit == 0


@pytest.mark.parametrize(
    ("text", "pair"),
    [
        ("Ada and Tom Weir", ("Ada", "Tom Weir")),
        ("Weir, Ada & Tom", ("Ada", "Tom")),
        ("Klaus u. Petra Sommer", ("Klaus", "Petra Sommer")),
        ("Bartolomeo e Donatella Santoro", ("Bartolomeo", "Donatella Santoro")),
        ("José Ortega y Gasset", None),
        ("Ramón y Cajal", None),
        ("Ada Weir", None),
        ("Ada &", None),
    ],
)
def test_two_people_in_one_name(text: str, pair: tuple[str, str] | None) -> None:
    assert couple(text) == pair
