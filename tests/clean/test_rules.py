"""Cleaning rules: tables of values, those that must stay among them; and the step."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, inner, read_cards, write_cards
from roundcard.clean.countries import country_code
from roundcard.clean.names import cased, uniform_fields
from roundcard.clean.rule import Around
from roundcard.clean.rules import RULES, chosen
from roundcard.clean.step import Change, Clean
from roundcard.errors import UsageError
from roundcard.tally import Tally


def cleaned(rule: str, text: str, path: str, region: str = "", phone: str = "international") -> str:
    """A value after one rule."""
    verdict = chosen([rule], [])[0].judge(text, Around(path, region, phone))
    return text if verdict.text is None else verdict.text


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.name)
def test_examples_in_the_help_are_true(rule: object) -> None:
    for path, before, after in rule.examples:  # type: ignore[attr-defined]
        assert cleaned(rule.name, before, path) == after  # type: ignore[attr-defined]


WHITE = [
    ("name/full", "  Ada Weir ", "Ada Weir"),
    ("name/full", "Ada  Weir", "Ada Weir"),
    ("name/full", "Ada\tWeir", "Ada Weir"),
    ("name/full", "Ada\u00a0Weir", "Ada Weir"),
    ("name/full", "Ada\u2009Weir", "Ada Weir"),
    ("name/full", "Ada Weir", "Ada Weir"),
    ("name/full", "نرگس\u200cزاده", "نرگس\u200cزاده"),
    ("name/given", "Zoë", "Zoë"),
    ("note", "one\r\ntwo", "one\ntwo"),
    ("note", "one  \ntwo", "one\ntwo"),
    ("note", "one\n\ntwo", "one\n\ntwo"),
    ("phone", "\u202a+44 1632 960001\u202c", "+44 1632 960001"),
    ("phone", "01632\u00a0960001", "01632 960001"),
    ("phone", "01632\u200b960001", "01632960001"),
    ("phone", "\ufeff01632 960001", "01632 960001"),
    ("email", "ada\u200b@x.test ", "ada@x.test"),
    ("url", " https://x.test/a\u00adb", "https://x.test/ab"),
    ("address/street", "1  Lock Lane\n Withy", "1 Lock Lane\n Withy"),
    ("org", "柳\u3000小学校", "柳\u3000小学校"),
    ("title", "\n", ""),
]

NOTHING = [
    ("phone", "n/a", ""),
    ("phone", "N/A", ""),
    ("phone", "-", ""),
    ("phone", "--", ""),
    ("phone", "unknown", ""),
    ("phone", "(none)", ""),
    ("email", "keine", ""),
    ("email", "k. A.", ""),
    ("email", "xxx", ""),
    ("birthday", "0000-00-00", ""),
    ("birthday", "00.00.0000", ""),
    ("title", "#N/A", ""),
    ("title", "unbekannt", ""),
    ("org", "brak", ""),
    ("address/street", "なし", ""),
    ("name/family", "None", "None"),
    ("name/given", "Nil", "Nil"),
    ("name/family", "-", ""),
    ("note", "none", "none"),
    ("note", "-", ""),
    ("org", "None Ltd", "None Ltd"),
    ("address/locality", "Keine-Stadt", "Keine-Stadt"),
    ("phone", "0", "0"),
    ("email", "na@x.test", "na@x.test"),
    ("custom/Flag", "no", "no"),
]

GARBLED = [
    ("RenÃ©", "René"),
    ("MÃ¼ller", "Müller"),
    ("HÃ©lÃ¨ne Vannier-LÃ©cluse", "Hélène Vannier-Lécluse"),
    ("BrontÃ«", "Brontë"),
    ("Å\u0081Ã³dÅº", "Łódź"),
    ("Itâ€™s", "It’s"),
    ("René", "René"),
    ("São Tomé", "São Tomé"),
    ("Ângela", "Ângela"),
    ("ÃO", "ÃO"),
    ("JOÃO", "JOÃO"),
    ("Muller", "Muller"),
    ("山田", "山田"),
    ("Ñandú", "Ñandú"),
    ("M\ufffdller", "M\ufffdller"),
]

MAIL = [
    ("ada@example.org", "ada@example.org"),
    ("Ada@Example.ORG", "ada@example.org"),
    ("mailto:ada@example.org", "ada@example.org"),
    ("MAILTO:Ada@example.org?subject=x", "ada@example.org"),
    ("Ada Weir <ada@example.org>", "ada@example.org"),
    ('"Weir, Ada" <ada@example.org>', "ada@example.org"),
    ("<ada@example.org>", "ada@example.org"),
    ("ada@example.org.", "ada@example.org"),
    ("ada@example.org;", "ada@example.org"),
    ("ada @ example.org", "ada@example.org"),
    ("'ada@example.org'", "ada@example.org"),
    ("ada+boats@example.org", "ada+boats@example.org"),
    ("ada.o'weir@example.org", "ada.o'weir@example.org"),
    ("ada@bücher.example.org", "ada@bücher.example.org"),
    ("ada@sub.example.co.uk", "ada@sub.example.co.uk"),
    ("ada", "ada"),
    ("ada@", "ada@"),
    ("ada@example", "ada@example"),
    ("ada at example.org", "ada at example.org"),
    ("a@x.test, b@x.test", "a@x.test, b@x.test"),
    ("a@b@example.org", "a@b@example.org"),
    ("ada@-example.org", "ada@-example.org"),
    ("see note", "see note"),
    ("01632 960001", "01632 960001"),
    ("", ""),
]

DOUBTS = [
    ("email-check", "email", "ada@example", "no e-mail address"),
    ("email-check", "email", "ada..weir@example.org", "no e-mail address"),
    ("email-check", "email", ".ada@example.org", "no e-mail address"),
    ("email-check", "email", "ada@example.con", "ends in '.con'; '.com' meant?"),
    ("email-check", "email", "ada@example.ogr", "ends in '.ogr'"),
    ("email-check", "email", "ada@example.org", ""),
    ("garbled", "name/full", "M\ufffdller", "given up"),
    ("phone-form", "phone", "960001", "no country is known"),
    ("phone-form", "phone", "see note", "more than a number"),
    ("phone-form", "phone", "+44 12", "too short"),
    ("phone-form", "phone", "+44 1632 960001 99999", "too long"),
    ("phone-form", "phone", "+999 1632 960001", "no phone number"),
]

PHONES = [
    ("GB", "01632 960001", "+44 1632 960001"),
    ("GB", "01632-960001", "+44 1632 960001"),
    ("GB", "(01632) 960001", "+44 1632 960001"),
    ("GB", "01632960001", "+44 1632 960001"),
    ("GB", "07700 900123", "+44 7700 900123"),
    ("GB", "+44 (0)1632 960001", "+44 1632 960001"),
    ("GB", "+44(0)1632960001", "+44 1632 960001"),
    ("GB", "0044 1632 960001", "+44 1632 960001"),
    ("GB", "Tel. 01632 960001", "+44 1632 960001"),
    ("GB", "01632 960001 ext. 12", "+44 1632 960001 ext. 12"),
    ("GB", "01632 960001 x12", "+44 1632 960001 ext. 12"),
    ("GB", "01632 960001 #12", "+44 1632 960001 ext. 12"),
    ("GB", "+44 1632 960001", "+44 1632 960001"),
    ("GB", "\uff10\uff11\uff16\uff13\uff12 960001", "+44 1632 960001"),
    ("GB", "+49 30 23125001", "+49 30 23125001"),
    ("GB", "960001 and 960002", "960001 and 960002"),
    ("GB", "ask Bo", "ask Bo"),
    ("GB", "12", "12"),
    ("GB", "01632 960001 960002 960003", "01632 960001 960002 960003"),
    ("DE", "030 23125 001", "+49 30 23125001"),
    ("DE", "030/23125-001", "+49 30 23125001"),
    ("DE", "(030) 23125001", "+49 30 23125001"),
    ("DE", "0171 3920001", "+49 171 3920001"),
    ("DE", "+49 (0) 30 23125001", "+49 30 23125001"),
    ("DE", "0049-30-23125001", "+49 30 23125001"),
    ("FR", "01 99 00 12 34", "+33 1 99 00 12 34"),
    ("FR", "01.99.00.12.34", "+33 1 99 00 12 34"),
    ("FR", "06 39 98 12 34", "+33 6 39 98 12 34"),
    ("FR", "0033 6 39 98 12 34", "+33 6 39 98 12 34"),
    ("NL", "020 000 1234", "+31 20 000 1234"),
    ("SE", "08-465 004 12", "+46 8 465 004 12"),
    ("SE", "070-174 06 12", "+46 70 174 06 12"),
    ("US", "(202) 555-0123", "+1 202 555 0123"),
    ("US", "202.555.0123", "+1 202 555 0123"),
    ("US", "1-202-555-0123", "+1 202 555 0123"),
    ("US", "555-0123", "555-0123"),
    ("JP", "03-0000-1234", "+81 3 0000 1234"),
    ("JP", "090-0000-1234", "+81 90 0000 1234"),
    ("IT", "02 000 1234", "+39 02 000 1234"),
    ("", "01632 960001", "01632 960001"),
    ("", "+44 1632-960001", "+44 1632 960001"),
    ("", "0044 1632 960001", "+44 1632 960001"),
    ("", "tel:+44-1632-960001", "tel:+44-1632-960001"),
    ("", "", ""),
]


CASED = [
    ("ADA WEIR", "Ada Weir"),
    ("ada weir", "Ada Weir"),
    ("O'DWYER", "O'Dwyer"),
    ("O’DWYER", "O’Dwyer"),
    ("o'dwyer-mccabe", "O'Dwyer-McCabe"),
    ("MCCABE", "McCabe"),
    ("MCDONALD", "McDonald"),
    ("MACDONALD", "Macdonald"),
    ("MAC DONALD", "Mac Donald"),
    ("JEAN-BAPTISTE", "Jean-Baptiste"),
    ("ANNE-MARIE WEIR-LOCK", "Anne-Marie Weir-Lock"),
    ("D'ARTAGNAN", "D'Artagnan"),
    ("DELL'ACQUA", "Dell'Acqua"),
    ("'T HART", "'t Hart"),
    ("JAN 'T HART", "Jan 't Hart"),
    ("JAN VAN DER BERG", "Jan van der Berg"),
    ("VAN DER BERG", "Van der Berg"),
    ("LUDWIG VON WEIR", "Ludwig von Weir"),
    ("MARIA VON UND ZU LOCK", "Maria von und zu Lock"),
    ("JEAN DE LA TOUR", "Jean de la Tour"),
    ("MARÍA DE LA CRUZ", "María de la Cruz"),
    ("JOSÉ GARCÍA Y VEGA", "José García y Vega"),
    ("JOÃO DOS SANTOS", "João dos Santos"),
    ("ABDUL BIN AHMED", "Abdul bin Ahmed"),
    ("YUSUF AL HASAN", "Yusuf al Hasan"),
    ("ÅSA ÖBERG", "Åsa Öberg"),
    ("MÜLLER-LÜDENSCHEID", "Müller-Lüdenscheid"),
    ("ŁUKASZ ŻÓŁĆ", "Łukasz Żółć"),
    ("ИВАН ИВАНОВ", "Иван Иванов"),
    ("JOHN WEIR II", "John Weir II"),
    ("JOHN WEIR III", "John Weir III"),
    ("JOHN WEIR JR", "John Weir Jr"),
    ("JOHN WEIR SR.", "John Weir Sr"),
    ("ADA WEIR PHD", "Ada Weir PhD"),
    ("ADA WEIR OBE", "Ada Weir OBE"),
    ("J. R. WEIR", "J. R. Weir"),
    ("DR. ADA WEIR", "Dr. Ada Weir"),
    ("ST. MARY", "St. Mary"),
    ("IJSBRAND", "IJsbrand"),
    ("NÍ BHRIAIN", "Ní Bhriain"),
    ("CUTT ST MARY", "Cutt St Mary"),
    ("WITHY-ON-SEA", "Withy-On-Sea"),
]

SAME_CASE = [
    "Ada Weir", "van der Berg", "McCabe", "O'Dwyer", "de Witt", "HALAGEUR Anaïs", "Li", "X",
    "山田 太郎", "محمد", "ΓΙΩΡΓΟΣ", "bell Hooks", "e", "42", "DiCaprio", "LaToya", "MacDonald",
]  # fmt: skip

WORDED = [
    ("12 April 1980", "1980-04-12"),
    ("12th April 1980", "1980-04-12"),
    ("April 12, 1980", "1980-04-12"),
    ("Apr 12 1980", "1980-04-12"),
    ("12-Apr-1980", "1980-04-12"),
    ("3. März 1975", "1975-03-03"),
    ("3. Maerz 1975", "3. Maerz 1975"),
    ("12. huhtikuuta 1980", "1980-04-12"),
    ("12 avril 1980", "1980-04-12"),
    ("1er janvier 1980", "1980-01-01"),
    ("12 de abril de 1980", "1980-04-12"),
    ("12 aprile 1980", "1980-04-12"),
    ("12 april 1980", "1980-04-12"),
    ("12 kwietnia 1980", "1980-04-12"),
    ("12. dubna 1980", "1980-04-12"),
    ("1980. április 12.", "1980-04-12"),
    ("12 апреля 1980", "1980-04-12"),
    ("12 Απριλίου 1980", "1980-04-12"),
    ("12 Nisan 1980", "1980-04-12"),
    ("1980年4月12日", "1980-04-12"),
    ("1980년 4월 12일", "1980-04-12"),
    ("12 April", "--04-12"),
    ("April 1980", "1980-04"),
    ("1980-04-12", "1980-04-12"),
    ("12.04.1980", "12.04.1980"),
    ("spring 1980", "spring 1980"),
    ("31 February 1980", "31 February 1980"),
    ("about 1980", "about 1980"),
    ("1980", "1980"),
]

COUNTRIES = [
    ("code", "Deutschland", "DE"),
    ("code", "germany", "DE"),
    ("code", "Royaume-Uni", "GB"),
    ("code", "U.K.", "GB"),
    ("code", "DE", "DE"),
    ("code", "日本", "JP"),
    ("en", "Deutschland", "Germany"),
    ("en", "Germany", "Germany"),
    ("de", "Switzerland", "Schweiz"),
    ("fr", "nl", "Pays-Bas"),
    ("en", "Atlantis", "Atlantis"),
    ("", "Deutschland", "Deutschland"),
]


@pytest.mark.parametrize(("before", "after"), CASED)
def test_names_that_shout(before: str, after: str) -> None:
    assert cased(before) == after
    around = Around("name/full", uniform=frozenset({"name/full"}))
    verdict = chosen(["name-case"], [])[0].judge(before, around)
    assert verdict.text == after
    quiet = chosen(["name-case"], [])[0].judge(before, Around("name/full"))
    assert quiet.text is None  # where others of the field do not shout
    assert bool(quiet.doubt) is before.islower()


@pytest.mark.parametrize("name", SAME_CASE)
def test_names_that_are_left(name: str) -> None:
    around = Around("name/full", uniform=frozenset({"name/full"}))
    assert chosen(["name-case"], [])[0].judge(name, around).text is None


def test_a_field_shouts_where_nearly_all_of_it_does() -> None:
    shouting = [card(f"N:WEIR{n};Ada;;;", f"FN:Ada WEIR{n}") for n in range(9)]
    book = read_cards("".join([*shouting, card("N:Lock;Bo;;;", "FN:Bo Lock")]))
    assert uniform_fields(book) == {"name/family"}
    assert uniform_fields(book[:3]) == frozenset()


@pytest.mark.parametrize(("before", "after"), WORDED)
def test_dates_in_words(before: str, after: str) -> None:
    assert cleaned("date-words", before, "birthday") == after


@pytest.mark.parametrize(("form", "before", "after"), COUNTRIES)
def test_countries_alike(form: str, before: str, after: str) -> None:
    around = Around("address/country", countries=form)
    verdict = chosen(["country-form"], [])[0].judge(before, around)
    assert (before if verdict.text is None else verdict.text) == after
    assert bool(verdict.doubt) is (before == "Atlantis")


@pytest.mark.parametrize(("path", "before", "after"), WHITE)
def test_white_space(path: str, before: str, after: str) -> None:
    assert cleaned("white-space", before, path) == after


@pytest.mark.parametrize(("path", "before", "after"), NOTHING)
def test_placeholders(path: str, before: str, after: str) -> None:
    assert cleaned("placeholders", before, path) == after


@pytest.mark.parametrize(("before", "after"), GARBLED)
def test_garbled_accents(before: str, after: str) -> None:
    assert cleaned("garbled", before, "name/full") == after


@pytest.mark.parametrize(("before", "after"), MAIL)
def test_email_addresses(before: str, after: str) -> None:
    assert cleaned("email-form", before, "email") == after


@pytest.mark.parametrize(("region", "before", "after"), PHONES)
def test_phone_numbers(region: str, before: str, after: str) -> None:
    assert cleaned("phone-form", before, "phone", region) == after
    assert cleaned("phone-form", after, "phone", region) == after


def test_phone_numbers_in_national_form() -> None:
    assert cleaned("phone-form", "+44 1632 960001", "phone", "GB", "national") == "01632 960001"
    assert cleaned("phone-form", "+49 30 23125001", "phone", "GB", "national") == "+49 30 23125001"


@pytest.mark.parametrize(("rule", "path", "text", "doubt"), DOUBTS)
def test_doubts_are_told_and_left(rule: str, path: str, text: str, doubt: str) -> None:
    verdict = chosen([rule], [])[0].judge(text, Around(path))
    assert doubt in verdict.doubt
    assert bool(verdict.doubt) is bool(doubt)
    assert verdict.text is None


TEXT = st.text(max_size=30)


@given(TEXT, st.sampled_from(["phone", "email", "name/full", "note", "address/street"]))
def test_no_rule_changes_its_own_result(text: str, path: str) -> None:
    for rule in RULES:
        once = cleaned(rule.name, text, path, "GB")
        assert cleaned(rule.name, once, path, "GB") == once


def test_rules_are_chosen_by_name() -> None:
    assert [rule.name for rule in chosen(["garbled"], [])] == ["garbled"]
    assert "garbled" not in [rule.name for rule in chosen([], ["garbled"])]
    with pytest.raises(UsageError, match="did you mean 'garbled'"):
        chosen(["gabled"], [])


@pytest.mark.parametrize(
    ("name", "code"),
    [("Deutschland", "DE"), ("United Kingdom", "GB"), ("UK", "GB"), ("U.S.A.", "US"),
     ("Schweiz", "CH"), ("日本", "JP"), ("fr", "FR"), ("Atlantis", "")],
)  # fmt: skip
def test_countries_are_known_by_name(name: str, code: str) -> None:
    assert country_code(name) == code


ADA = card("N:Weir;  Ada;;;", "FN:Ada  Weir", "ORG:Withy;n/a", "TEL;TYPE=cell:01632-960001",
           "TEL:n/a", "EMAIL:mailto:ADA@x.test", "ADR:;;1  Lock Lane;Withy;;WX1;United Kingdom",
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
        "EMAIL:ada@x.test", "ADR:;;1 Lock Lane;Withy;;WX1;United Kingdom",
        "CATEGORIES:Donors,Friends", "NOTE:René", "X-ZIB:  7  ", "BDAY:1980-04-12",
    ]  # fmt: skip
    assert tally.values.left_out == 3
    assert tally.values.read == made.size() + tally.values.left_out
    assert {(each.path, each.before) for each in told if not each.after} == {
        ("org/unit", "n/a"), ("phone", "n/a"), ("category", "-")}  # fmt: skip
    again = Clean(chosen([], []))(made, Tally())
    assert again is made


def test_a_refused_change_is_not_made() -> None:
    contact = read_cards(ADA)[0]
    refused = frozenset({(1, "phone", "01632-960001", "phone-form")})
    made = Clean(chosen(["phone-form"], []), refused=refused)(contact, Tally())
    assert made is contact
