"""Rules for single values: tables of cases, those that must stay among them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, read_cards
from roundcard.clean.book_conventions import habits_of
from roundcard.clean.countries import country_code
from roundcard.clean.rule import LEFT, Around, Rule
from roundcard.clean.rules import RULES, chosen
from roundcard.errors import UsageError


def cleaned(rule: str, text: str, path: str, region: str = "", phone: str = "international") -> str:
    """A value after one rule."""
    (found,) = chosen([rule], [])
    assert isinstance(found, Rule)
    verdict = found.judge(text, Around(path, region, phone=phone))
    return text if verdict.text is None else verdict.text


VALUE_RULES = [rule for rule in RULES if isinstance(rule, Rule)]


@pytest.mark.parametrize("rule", VALUE_RULES, ids=lambda rule: rule.name)
def test_examples_in_the_help_are_true(rule: Rule) -> None:
    for path, before, after in rule.examples:
        assert cleaned(rule.name, before, path, rule.region) == after


QUIET = [rule for rule in VALUE_RULES if rule.quiet is not None]
words = st.text("abz09_-.", max_size=9)


@given(words, words, st.sampled_from(["org", "con", "comm", "uk", "o1", "c", "ORG", "net.", "vom"]))
def test_of_what_is_told_at_a_glance_a_rule_has_nothing_to_say(
    before: str, behind: str, end: str
) -> None:
    text = f"{before}@{behind}.{end}"
    for rule in QUIET:
        if rule.quiet is not None and rule.quiet.fullmatch(text):
            assert rule.judge(text, Around("email")) is LEFT
    assert all(rule.quiet and rule.quiet.fullmatch("ada.weir@x-y.example.org") for rule in QUIET)


WHITE = [
    ("name/full", "  Ada Weir ", "Ada Weir"),
    ("name/full", "Ada  Weir", "Ada Weir"),
    ("name/full", "Ada\tWeir", "Ada Weir"),
    ("name/full", "Ada\u00a0Weir", "Ada Weir"),
    ("name/full", "Ada\u2009Weir", "Ada Weir"),
    ("name/full", "Ada Weir", "Ada Weir"),
    ("name/full", "نرگس\u200cزاده", "نرگس\u200cزاده"),
    ("name/given", "Zoë", "Zoë"),
    ("note", "one\r\ntwo", "one\r\ntwo"),
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
    ("name/full", "Ada\u202fWeir", "Ada Weir"),
    ("category", " Skippers", "Skippers"),
    ("custom/Boat", "Slow  Worm ", "Slow Worm"),
    ("note", "one\rtwo", "one\ntwo"),
    ("birthday", " 1980-04-12", "1980-04-12"),
]

NOTHING = [
    ("title", "[none]", ""),
    ("title", "n. a.", ""),
    ("name/family", "n/a", ""),
    ("nickname", "Na", "Na"),
    ("birthday", "0000-00-00", ""),
    ("address/country", "NA", "NA"),
    ("phone", "NA", ""),
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
    ("Lefe&#768;vre", "Lef\u00e8vre"),
    ("K&Atilde;&para;hler", "Köhler"),
    ("Fran&amp;ccedil;ois", "François"),
    ("\x85ß", "…ß"),
    ("M√ºller", "Müller"),
    ("JosĂ© MuĂ±oz", "José Muñoz"),
    ("ZoГ« MГјller", "Zoë Müller"),
    ("РћР»СЊРіР°", "Ольга"),
    ("K├╢hler", "Köhler"),
    ("K&ouml;hler", "Köhler"),
    ("M=C3=BCller", "Müller"),
    ("=?UTF-8?Q?M=C3=BCller?=", "Müller"),
    ("M\\u00fcller", "Müller"),
    ("M%C3%BCller", "Müller"),
    ("Íñigo", "Íñigo"),
    ("AT&T", "AT&T"),
    ("50%DE", "50%DE"),
    ("RenÃ©", "René"),
    ("MÃ¼ller", "Müller"),
    ("HÃ©lÃ¨ne Vannier-LÃ©cluse", "Hélène Vannier-Lécluse"),
    ("BrontÃ«", "Brontë"),
    ("Å\u0081Ã³dÅº", "Łódź"),
    ("Itâ€™s", "It’s"),
    ("FranÃ§ois", "François"),
    ("GroÃŸschiff", "Großschiff"),
    ("Ã‰loÃ¯se", "Éloïse"),
    ("JosÃ© GarcÃ­a", "José García"),
    ("BjÃ¶rn Ã…kesson", "Björn Åkesson"),
    ("Åšluzowa", "Åšluzowa"),
    ("Ð\u0098Ð²Ð°Ð½", "Иван"),
    ("cafÃ© â€“ bar", "café – bar"),
    ("René", "René"),
    ("Åse", "Åse"),
    ("Ægir", "Ægir"),
    ("Ðorđe", "Ðorđe"),
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
    ("Ada Quern [ada@example.org]", "ada@example.org"),
    ("E-mail: ada@example.org", "ada@example.org"),
    ("mailto:ada%2Bnews@example.org", "ada+news@example.org"),
    ("ada＠example.org", "ada@example.org"),
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
    ("garbled", "name/full", "Îëüãà", "'Ольга' meant?"),
    ("garbled", "name/full", "Žofie Dvoøáková", "'Žofie Dvořáková' meant?"),
    ("date-words", "birthday", "spring 1980", "not a date that is known"),
    ("date-words", "birthday", "circa 1979", "about a year"),
    ("country-form", "address/country", "Germany / France", "not a known country"),
    ("date-order", "birthday", "1984-00", "there is no such month"),
    ("date-order", "birthday", "0000-00", "there is no such month"),
    ("date-order", "birthday", "1984-13", "there is no such month"),
    ("date-order", "birthday", "1900-01-00", "no such day"),
    ("placeholders", "address/country", "NA", "nothing, or the code of Namibia?"),
    ("email-check", "email", "ada@example", "not an e-mail address"),
    ("email-check", "email", "ada..weir@example.org", "not an e-mail address"),
    ("email-check", "email", ".ada@example.org", "not an e-mail address"),
    ("email-check", "email", "ada@example.con", "ends in '.con'; '.com' meant?"),
    ("email-check", "email", "ada@example.ogr", "ends in '.ogr'"),
    ("email-check", "email", "ada@example.org", ""),
    ("garbled", "name/full", "M\ufffdller", "are lost"),
    ("garbled", "name/full", "Åšluzowa", "'Śluzowa' meant?"),
    ("garbled", "name/full", "Åse Šimić", ""),
    ("phone-form", "phone", "960001", "no country is known"),
    ("phone-form", "phone", "see note", "more than a phone number"),
    ("phone-form", "phone", "+44 12", "too short"),
    ("phone-form", "phone", "+44 1632 960001 99999", "too long"),
    ("phone-form", "phone", "+999 1632 960001", "not a phone number"),
]

WORDED = [
    ("12.Dez.1969", "1969-12-12"),
    ("Thursday, 7 June 1979", "1979-06-07"),
    ("Do, 7. Juni 1979", "1979-06-07"),
    ("le 7 août 1979", "1979-08-07"),
    ("den 7 juni 1979", "1979-06-07"),
    ("7 июня 1979 г.", "1979-06-07"),
    ("7 czerwca 1979 r.", "1979-06-07"),
    ("7. Jänner 1979", "1979-01-07"),
    ("7 Jun '79", "7 Jun '79"),
    ("07JUN1979", "1979-06-07"),
    ("昭和54年6月7日", "1979-06-07"),
    ("June 7", "--06-07"),
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
    ("code", "Viet Nam", "VN"),
    ("code", "Republic of Moldova", "MD"),
    ("code", "Hrvatska", "HR"),
    ("code", "Grossbritannien", "GB"),
    ("code", "Schweiz / Suisse", "CH"),
    ("code", "the Netherlands", "NL"),
    ("code", "DEU", "DE"),
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
    ("code", "Österreich", "AT"),
    ("code", "Suisse", "CH"),
    ("code", "España", "ES"),
    ("code", "Nederland", "NL"),
    ("code", "Scotland", "GB"),
    ("code", "USA", "US"),
    ("code", "Россия", "RU"),
    ("code", "czech republic", "CZ"),
    ("en", "FR", "France"),
    ("en", "Éire", "Ireland"),
    ("ja", "Japan", "日本"),
    ("es", "Germany", "Alemania"),
    ("en", "Atlantis", "Atlantis"),
    ("", "Deutschland", "Deutschland"),
    ("", "GB", "GB"),
]

ORDERED = [
    ("", "12/12/1969", "1969-12-12"),
    ("mixed", "07.07.1979", "1979-07-07"),
    ("", "13/13/1969", "13/13/1969"),
    ("year", "76-02-21", "1976-02-21"),
    ("year", "05-02-21", "05-02-21"),
    ("", "1979/6/7", "1979-06-07"),
    ("day", "12/04/1980", "1980-04-12"),
    ("day", "12.4.1980", "1980-04-12"),
    ("day", "12. 4. 1980", "1980-04-12"),
    ("day", "12-04-1980", "1980-04-12"),
    ("day", "12 04 1980", "1980-04-12"),
    ("day", "25/12/1980", "1980-12-25"),
    ("day", "1/2/2003", "2003-02-01"),
    ("day", "12/04/80", "1980-04-12"),
    ("day", "12/04/26", "12/04/26"),
    ("day", "12/04/27", "1927-04-12"),
    ("day", "12/04", "--04-12"),
    ("day", "12.04.", "--04-12"),
    ("day", "04/25/1980", "04/25/1980"),
    ("day", "31/02/1980", "31/02/1980"),
    ("day", "29/02/1948", "1948-02-29"),
    ("day", "29/02/1949", "29/02/1949"),
    ("month", "04/12/1980", "1980-04-12"),
    ("month", "12/25/1980", "1980-12-25"),
    ("month", "25/12/1980", "25/12/1980"),
    ("month", "04/12", "--04-12"),
    ("", "12/04/1980", "12/04/1980"),
    ("mixed", "25/12/1980", "25/12/1980"),
    ("year", "12/04/1980", "12/04/1980"),
    ("", "1980/4/12", "1980-04-12"),
    ("", "1980.04.12", "1980-04-12"),
    ("", "1980-04-12", "1980-04-12"),
    ("", "1980-04-12 00:00:00", "1980-04-12"),
    ("", "1980-04-12T09:30:00", "1980-04-12T09:30:00"),
    ("", "--04-12", "--04-12"),
    ("", "19800412", "19800412"),
    ("", "1980", "1980"),
    ("day", "12/04/198", "12/04/198"),
    ("day", "spring", "spring"),
]

URLS = [
    ("https://example.org", "https://example.org"),
    ("http://example.org/", "http://example.org/"),
    ("HTTP://Example.ORG/Boats", "http://example.org/Boats"),
    ("www.example.org", "https://www.example.org"),
    ("example.org", "https://example.org"),
    ("example.org/Path?Q=A#F", "https://example.org/Path?Q=A#F"),
    ("http:/example.org", "http://example.org"),
    ("http//example.org", "http://example.org"),
    ("http;//example.org", "http://example.org"),
    ("http:///example.org", "http://example.org"),
    ("http://http://example.org", "http://example.org"),
    ("http://https://example.org", "https://example.org"),
    (" https://example.org ", "https://example.org"),
    ("<https://example.org>", "https://example.org"),
    ("https://example.org,", "https://example.org"),
    ("example.org:8080/a", "https://example.org:8080/a"),
    ("https://bücher.example.org/ä", "https://bücher.example.org/ä"),
    ("ftp://example.org/a", "ftp://example.org/a"),
    ("mailto:ada@example.org", "mailto:ada@example.org"),
    ("urn:uuid:1-2", "urn:uuid:1-2"),
    ("see my page", "see my page"),
    ("localhost", "localhost"),
    ("https://", "https://"),
    ("www.example .org", "www.example .org"),
    ("ada", "ada"),
    ("", ""),
]

POST_CODES = [
    ("FR", "F 99000", "99000"),
    ("DE", "12345.0", "12345"),
    ("US", "12 34", "12 34"),
    ("GB", "wx12ab", "WX1 2AB"),
    ("GB", "WX1 2AB", "WX1 2AB"),
    ("GB", "WX12 3AB", "WX12 3AB"),
    ("GB", "WX1  2AB", "WX1 2AB"),
    ("GB", "QX1A2AB", "QX1A 2AB"),
    ("GB", "12345", "12345"),
    ("NL", "1234ab", "1234 AB"),
    ("NL", "NL-1234 AB", "1234 AB"),
    ("CA", "k1a0b1", "K1A 0B1"),
    ("DE", "12345", "12345"),
    ("DE", "D-12345", "12345"),
    ("DE", "1067", "01067"),
    ("DE", "106", "106"),
    ("FR", "1200", "01200"),
    ("AT", "1010", "1010"),
    ("AT", "A-1010", "1010"),
    ("CH", "8001", "8001"),
    ("US", "2134", "02134"),
    ("US", "021341234", "02134-1234"),
    ("US", "02134-1234", "02134-1234"),
    ("SE", "12345", "123 45"),
    ("SE", "S-123 45", "123 45"),
    ("CZ", "110 00", "110 00"),
    ("PL", "00950", "00-950"),
    ("PT", "1000001", "1000-001"),
    ("JP", "〒100-0001", "100-0001"),
    ("JP", "１０００００１", "100-0001"),
    ("BR", "01310100", "01310-100"),
    ("XX", "abc", "abc"),
    ("", "1067", "1067"),
]


@pytest.mark.parametrize(("order", "before", "after"), ORDERED)
def test_dates_in_the_order_of_their_field(order: str, before: str, after: str) -> None:
    around = Around("birthday", orders={"birthday": order}, this_year=2026)
    (rule,) = chosen(["date-order"], [])
    assert isinstance(rule, Rule)
    verdict = rule.judge(before, around)
    assert (before if verdict.text is None else verdict.text) == after


@pytest.mark.parametrize(
    ("dates", "order"),
    [(["25/12/1980", "04/05/1980"], "day"), (["12/25/1980", "04/05/1980"], "month"),
     (["25/12/1980", "12/25/1980"], "mixed"), (["04/05/1980"], None), (["04.05.1980"], "day"),
     (["04.05.1980", "04/05/1980"], None), (["76-02-21", "81-07-30", "12-01-05"], "year"),
     (["1980-12-25", "1980/12/25"], None)],
)  # fmt: skip
def test_the_whole_field_tells_its_order(dates: list[str], order: str | None) -> None:
    book = read_cards("".join(card("FN:Ada", f"BDAY:{date}") for date in dates))
    assert habits_of(book).orders.get("birthday") == order


@pytest.mark.parametrize(("before", "after"), URLS)
def test_web_addresses(before: str, after: str) -> None:
    assert cleaned("url-form", before, "url") == after


@pytest.mark.parametrize(("country", "before", "after"), POST_CODES)
def test_post_codes(country: str, before: str, after: str) -> None:
    (rule,) = chosen(["post-code"], [])
    assert isinstance(rule, Rule)
    at_home = Around("address/postcode", country, at_home=True)
    verdict = rule.judge(before, at_home)
    assert (before if verdict.text is None else verdict.text) == after
    guessed = rule.judge(before, at_home._replace(at_home=False))
    zero_lost = before.isdecimal() and "".join(filter(str.isdecimal, after)) == "0" + before
    assert guessed == (verdict if not zero_lost and not verdict.doubt else (None, ""))


@pytest.mark.parametrize(("before", "after"), WORDED)
def test_dates_in_words(before: str, after: str) -> None:
    assert cleaned("date-words", before, "birthday") == after


def country_form() -> Rule:
    (rule,) = chosen(["country-form"], [])
    assert isinstance(rule, Rule)
    return rule


@pytest.mark.parametrize(("form", "before", "after"), COUNTRIES)
def test_countries_alike(form: str, before: str, after: str) -> None:
    around = Around("address/country", countries=form)
    verdict = country_form().judge(before, around)
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


@pytest.mark.parametrize(("rule", "path", "text", "doubt"), DOUBTS)
def test_doubts_are_told_and_left(rule: str, path: str, text: str, doubt: str) -> None:
    (found,) = chosen([rule], [])
    assert isinstance(found, Rule)
    verdict = found.judge(text, Around(path))
    assert doubt in verdict.doubt
    assert bool(verdict.doubt) is bool(doubt)
    assert verdict.text is None


TEXT = st.text(max_size=30)


@given(TEXT, st.sampled_from(["phone", "email", "name/full", "note", "address/street"]))
def test_no_rule_changes_its_own_result(text: str, path: str) -> None:
    for rule in VALUE_RULES:
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


@pytest.mark.parametrize(
    ("path", "before", "after"),
    [("phone", "0 \r0", "0\n0"), ("phone", "0 \u200b\n0", "0\n0"), ("phone", "0 \u200b 0", "0 0"),
     ("note", "a \r\nb \nc\rd", "a\r\nb\nc\nd")],
)  # fmt: skip
def test_white_space_is_gone_at_once(path: str, before: str, after: str) -> None:
    assert cleaned("white-space", before, path) == after
    assert cleaned("white-space", after, path) == after
