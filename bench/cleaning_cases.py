"""Score the cleaning of single values: ``python bench/cleaning_cases.py [--wrong] [CASES.toml]``.

Cases say what a careful person would make of a value, a third of them that it is to be left. Counted
are values that are right, reported and left where a repair was wanted, missed without a word, and
harmed; and whether the rules change their own results. The cases are made of short lists and of the
ways in which values are worn; a file of cases of another hand may be given instead. Nothing is
asserted here.
"""

from __future__ import annotations

import sys
import tomllib
from collections import Counter, defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from roundcard.clean.addresses import address_parts
from roundcard.clean.rule import Around, Rule
from roundcard.clean.rules import RULES
from roundcard.clean.splitting import split_name

YEAR = 2026


class Case(NamedTuple):
    """A value, and what should become of it."""

    kind: str
    path: str
    before: str
    after: str
    """The same where it must stay; for names and addresses their parts, empty for none."""
    region: str = ""
    order: str = ""


def as_read(text: str, wrong: str) -> str:
    """UTF-8 as it looks in another character set; the text itself where that cannot be."""
    try:
        return text.encode("utf-8").decode(wrong)
    except UnicodeError:
        return text


WORDS = ("Jürgen Großmann", "René Lefèvre", "José Muñoz", "Zoë Brontë", "Łukasz Żak", "François Brûlé",
         "Søren Ærø", "Köhler", "Peña", "Ångström", "Müller", "Lucía Fernández", "Gödöllő", "Niño",
         "Ольга Петрова", "Γιώργος", "Šárka Dvořáková", "Çelik", "Sébastien", "Weiß")  # fmt: skip
STAY = ("São Paulo", "Ångström", "Łódź", "Müller", "Ærøskøbing", "Íñigo", "Čapek", "Ð. Jónsson",
        "Âge", "Łącki", "Öå", "Naïve", "œuvre", "Señor ½", "ÅÄÖ", "Ñandú", "Đặng", "Ólafur", "Ý",
        "Γιώργος", "Ольга", "Škoda", "Žižkov", "Dvořáková", "Bjørn", "AT&T", "R&D", "100 % sure",
        "a=b", "C:\\users", "Q&A;", "50%DE", "x=C3")  # fmt: skip


def garbled() -> Iterator[Case]:
    """Text in the wrong dress."""
    for word in WORDS:
        for wrong in ("latin-1", "windows-1252", "mac_roman", "cp437", "cp850", "windows-1250",
                      "windows-1251"):  # fmt: skip
            seen = as_read(word, wrong)
            if seen != word and seen.isprintable():
                yield Case("garbled", "name/full", seen, word)
        yield Case(
            "garbled",
            "name/full",
            "".join(char if char.isascii() else f"&#{ord(char)};" for char in word),
            word,
        )
        yield Case(
            "garbled",
            "name/full",
            "".join(char if char.isascii() else f"\\u{ord(char):04x}" for char in word),
            word,
        )
        quoted = "".join(
            char if char.isascii() else "".join(f"={octet:02X}" for octet in char.encode())
            for char in word
        )
        yield Case("garbled", "name/full", quoted, word)
    for word in STAY:
        yield Case("garbled", "note", word, word)


MONTHS = {
    "en": "January February March April May June July August September October November December",
    "de": "Januar Februar März April Mai Juni Juli August September Oktober November Dezember",
    "fr": "janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
    "es": "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
    "it": "gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
    "nl": "januari februari maart april mei juni juli augustus september oktober november december",
    "pl": "stycznia lutego marca kwietnia maja czerwca lipca sierpnia września października listopada grudnia",
    "ru": "января февраля марта апреля мая июня июля августа сентября октября ноября декабря",
    "sv": "januari februari mars april maj juni juli augusti september oktober november december",
    "cs": "ledna února března dubna května června července srpna září října listopadu prosince",
}  # fmt: skip
SHAPES = {
    "en": ("{d} {m} {y}", "{m} {d}, {y}", "Thursday, {d} {m} {y}", "{d}th {m} {y}", "{m} {d} {y}", "{d} {m}"),
    "de": ("{d}. {m} {y}", "Do, {d}. {m} {y}", "den {d}. {m} {y}", "{d}. {m}"),
    "fr": ("{d} {m} {y}", "le {d} {m} {y}", "jeudi {d} {m} {y}"),
    "es": ("{d} de {m} de {y}", "el {d} de {m} de {y}", "{d} de {m}"),
    "it": ("{d} {m} {y}", "il {d} {m} {y}"),
    "nl": ("{d} {m} {y}", "donderdag {d} {m} {y}"),
    "pl": ("{d} {m} {y}", "{d} {m} {y} r."),
    "ru": ("{d} {m} {y}", "{d} {m} {y} г."),
    "sv": ("{d} {m} {y}", "den {d} {m} {y}"),
    "cs": ("{d}. {m} {y}", "dne {d}. {m} {y}"),
}  # fmt: skip


def dates() -> Iterator[Case]:
    """Days in words, and in numbers whose order the field tells."""
    for at, (language, months) in enumerate(MONTHS.items()):
        for number, month in enumerate(months.split(), 1):
            day, year = 3 + (number * 5 + at) % 25, 1931 + (number * 7 + at * 3) % 70
            shape = SHAPES[language][number % len(SHAPES[language])]
            after = f"{year}-{number:02}-{day:02}" if "{y}" in shape else f"--{number:02}-{day:02}"
            yield Case("dates", "birthday", shape.format(d=day, m=month, y=year), after)
    for before, after, order in (
        ("07JUN1979", "1979-06-07", ""), ("7 Jun '79", "1979-06-07", ""), ("昭和54年6月7日", "1979-06-07", ""),
        ("7/6/1979", "1979-06-07", "day"), ("6/7/1979", "1979-06-07", "month"),
        ("76-02-21", "1976-02-21", "year"), ("81.07.30", "1981-07-30", "year"),
        ("1979/6/7", "1979-06-07", ""), ("1979.06.07", "1979-06-07", ""), ("7.6.1979", "1979-06-07", "day"),
        ("平成元年1月8日", "1989-01-08", ""), ("1979年6月7日", "1979-06-07", ""), ("7.6.79", "1979-06-07", "day"),
    ):  # fmt: skip
        yield Case("dates", "birthday", before, after, "", order)
    for same in ("1979-06-07", "--06-07", "1979", "1979-06", "spring 1979", "circa 1979", "7/6/1979",
                 "unknown day", "31/02/1979", "1984-13", "1984-00", "May", "around Easter", "7/6/05",
                 "Tuesday", "19790607T000000Z", "ask Bo", "1.1.", "12", "??/??/1979"):  # fmt: skip
        yield Case("dates", "birthday", same, same)


COUNTRIES = {
    "VN": "Viet Nam|Vietnam|Việt Nam|VNM", "BA": "Bosnia|Bosnia and Herzegovina|Bosna i Hercegovina|BIH",
    "MD": "Republic of Moldova|Moldova|Moldawien|MDA", "HR": "Hrvatska|Croatia|Kroatien|HRV|Croatie",
    "GB": "Grossbritannien|Great Britain|UK|U.K.|United Kingdom|Vereinigtes Königreich|Royaume-Uni|GBR|England",
    "US": "Etats-Unis|USA|U.S.A.|United States of America|The United States|Estados Unidos|EE. UU.|Verenigde Staten",
    "CH": "Schweiz / Suisse|Switzerland|Svizzera|Swiss Confederation|CHE|la Suisse", "DE": "Federal Republic of Germany|Deutschland|Allemagne|Alemania|Duitsland|DEU|Germania|NEMECKO|Saksa",
    "NL": "The Netherlands|Netherlands (the)|Holland|Nederland|Kingdom of the Netherlands|NLD|Pays-Bas|les Pays-Bas",
    "FR": "French Republic|France|Frankreich|Francia|la France|FRA|Frankrijk", "CZ": "Czechia|Czech Republic|Česko|Česká republika|Tschechien|CZE",
    "IE": "Republic of Ireland|Ireland|Éire|Eire|Irland|IRL", "GR": "Hellas|Greece|Griechenland|Ελλάδα|GRC|Hellenic Republic",
    "RU": "Russian Federation|Russia|Россия|Russland|RUS", "KR": "South Korea|Republic of Korea|Korea|대한민국|KOR",
    "TR": "Türkiye|Turkey|Turkiye|Türkei|TUR", "IR": "Islamic Republic of Iran|Iran|IRN", "CI": "Côte d'Ivoire|Ivory Coast|CIV",
    "MK": "North Macedonia|Macedonia|MKD", "TZ": "United Republic of Tanzania|Tanzania|TZA", "IS": "Ísland|Iceland|Island|ISL",
    "SE": "Kingdom of Sweden|Sverige|Schweden|Suède|SWE", "AT": "Österreich|Austria|Oesterreich|Autriche|AUT",
    "ES": "España|Kingdom of Spain|Espagne|Spanien|Espanya|Espainia|ESP", "JP": "日本|Japan|JPN|Japon", "CN": "中国|China|PRC|CHN|People's Republic of China",
}  # fmt: skip


def countries() -> Iterator[Case]:
    """Names of countries, to be codes."""
    for code, names in COUNTRIES.items():
        for name in names.split("|"):
            yield Case("countries", "address/country", name, code)
    for same in ("Yorkshire", "Atlantis", "Germany / France", "Bavaria?", "n", "Europe", "abroad", "EU",
                 "Toscana", "Narnia", "Sachsen", "BW", "Korea or Japan"):  # fmt: skip
        yield Case("countries", "address/country", same, "BW" if same == "BW" else same)


NUMBERS = {
    "GB": ("1632", "960777"), "DE": ("30", "23125077"), "FR": ("1", "99001234"), "NL": ("20", "7946018"),
    "ES": ("91", "1234567"), "CH": ("44", "6681800"), "AT": ("1", "5880010"), "PL": ("22", "5551234"),
    "SE": ("8", "7128877"), "US": ("212", "5550142"), "AU": ("2", "55501234"), "CZ": ("224", "811122"),
    "DK": ("32", "123456"), "PT": ("21", "1234567"), "IE": ("1", "6715544"),
}  # fmt: skip
DIAL = {"GB": "44", "DE": "49", "FR": "33", "NL": "31", "ES": "34", "CH": "41", "AT": "43", "PL": "48",
        "SE": "46", "US": "1", "AU": "61", "CZ": "420", "DK": "45", "PT": "351", "IE": "353"}  # fmt: skip
NO_TRUNK = ("ES", "PL", "US", "CZ", "DK", "PT")


def phones() -> Iterator[Case]:
    """Whole numbers in every spelling, and numbers that are not whole."""
    import phonenumbers

    for region, (area, rest) in NUMBERS.items():
        whole = phonenumbers.format_number(phonenumbers.parse(f"+{DIAL[region]}{area}{rest}"), 1)
        whole = whole.replace("-", " ")
        trunk = "" if region in NO_TRUNK else "0"
        for spelled in (f"{trunk}{area}{rest}", f"{trunk}{area} {rest}", f"({trunk}{area}) {rest}",
                        f"{trunk}{area}-{rest}", f"+{DIAL[region]}{area}{rest}", f"{trunk}{area}/{rest}",
                        f"00{DIAL[region]}{area}{rest}", f"+{DIAL[region]} ({trunk or 0}) {area} {rest}"
                        if trunk else f"+{DIAL[region]}-{area}-{rest}", f"Tel. {trunk}{area} {rest}",
                        f"{trunk}{area}.{rest}"):  # fmt: skip
            if spelled.startswith("00") and region in ("US", "AU"):
                continue
            yield Case("phones", "phone", spelled, whole, region)
        for same in (rest[:5], f"{area}{rest}"[:5], "ask Bo", f"{trunk}{area} {rest[:2]}", "0" * 9):
            yield Case("phones", "phone", same, same, region)
    for same, region in (("23125 077", "DE"), ("5550 0198", "AU"), ("044 0000 37", "CH"), ("01632 96059", "GB"),
                         ("ext 12", "GB"), ("see note", "GB"), ("0", "GB"), ("12", "DE")):  # fmt: skip
        yield Case("phones", "phone", same, same, region)


def emails() -> Iterator[Case]:
    """Addresses of mail in their dresses."""
    for name, host in (("ada.quern", "example.org"), ("basil", "mail.example.net"), ("c_fern+news", "example.co.uk"),
                       ("d-lock", "example.com"), ("info", "xn--mller-kva.example")):  # fmt: skip
        plain = f"{name}@{host}"
        for before in (plain.upper(), f" {plain} ", f"mailto:{plain}", f"<{plain}>", f"Ada Quern <{plain}>", f"{plain};",
                       f"Ada Quern [{plain}]", f"E-mail: {plain}", f"{name} @ {host}", f"({plain})", f"'{plain}'",
                       f"mailto:{plain}?subject=x", plain.replace("@", "＠"), f"{plain}.", f"mail: {plain}"):  # fmt: skip
            yield Case("e-mail", "email", before, plain)
        yield Case("e-mail", "email", plain, plain)
    yield Case("e-mail", "email", "mailto:ada%2Bnews@example.org", "ada+news@example.org")
    for same in ("ada@example", "ada at example.org", "@example.org", "ada@", "n@@x.org", "ada.example.org",
                 "ada@example.con", "ada..quern@example.org", "call first", "a b@example.org", "www.example.org"):  # fmt: skip
        yield Case("e-mail", "email", same, same)


CODES = {
    "GB": "wx12ab:WX1 2AB|qx44ap:QX4 4AP|WX12-4AB:WX12 4AB", "NL": "1234ab:1234 AB|1234AB:1234 AB|NL-1234AB:1234 AB",
    "DE": "D-10115:10115|10115.0:10115|1067:01067|D 10115:10115", "FR": "F-75001:75001|75001:75001|F 99000:99000|8000:08000", "SE": "11455:114 55|S-11455:114 55",
    "PL": "00950:00-950|00-950:00-950", "PT": "1000205:1000-205", "US": "2134:02134|021341234:02134-1234|90210:90210", "CH": "CH-8001:8001",
    "AT": "A-1010:1010", "CZ": "11000:110 00", "CA": "k1a0b1:K1A 0B1", "JP": "1000001:100-0001|〒100-0001:100-0001", "IT": "I-00185:00185|185:185",
    "BR": "01310100:01310-100", "ES": "8001:08001", "GR": "10557:105 57", "FI": "100:100|00100:00100",
}  # fmt: skip


def codes() -> Iterator[Case]:
    """Post codes of an address whose country is known."""
    for region, pairs in CODES.items():
        for pair in pairs.split("|"):
            before, _, after = pair.partition(":")
            yield Case("post codes", "address/postcode", before, after, region)
    for same, region in (
        ("ask", "GB"),
        ("123", "DE"),
        ("QX4", "GB"),
        ("none yet", "NL"),
        ("ABCDE", "FR"),
        ("12 34", "US"),
    ):
        yield Case("post codes", "address/postcode", same, same, region)


NAMES = """
Ada Quern | given Ada · family Quern
Quern, Ada | given Ada · family Quern
Dr. Ada Quern | prefix Dr. · given Ada · family Quern
Prof. Dr. Anna Weber | prefix Prof. Dr. · given Anna · family Weber
Prof. Dr.-Ing. habil. Jörg Wendel | prefix Prof. Dr.-Ing. habil. · given Jörg · family Wendel
Снегирёва Ольга Савельевна | given Ольга · additional Савельевна · family Снегирёва
Ольга Савельевна Снегирёва | given Ольга · additional Савельевна · family Снегирёва
Ivan Petrovich Sidorov | given Ivan · additional Petrovich · family Sidorov
Sidorov Ivan Petrovich | given Ivan · additional Petrovich · family Sidorov
Klaus u. Petra Sommer |
Klaus und Petra Sommer |
Ada & Tom Weir |
Ada and Tom Weir |
Joan Quer i Puig | given Joan · family Quer i Puig
José Ortega y Gasset | given José · family Ortega y Gasset
Cathal Ó Faoláin | given Cathal · family Ó Faoláin
Máire Ní Bhriain | given Máire · family Ní Bhriain
Freiherr Otto von Hagen | prefix Freiherr · given Otto · family von Hagen
Family Whitby |
Familie Müller |
Famille Martin |
Reception Desk |
Autohaus Brehm |
Ristorante da Gino |
Hotel Adler |
Bäckerei Schmidt |
Café Central |
Withy Canal Trust |
Jan van der Berg | given Jan · family van der Berg
Ludwig von Beethoven | given Ludwig · family von Beethoven
María de la Cruz | given María · family de la Cruz
Nagy István |
John Smith Jr. | given John · family Smith · suffix Jr.
John Smith, MBE | given John · family Smith · suffix MBE
Peter O'Toole | given Peter · family O'Toole
Mary-Beth Quern | given Mary-Beth · family Quern
J. R. Hartley | given J. · additional R. · family Hartley
Schmidt | 
The Hon. Ada Quern | prefix The Hon. · given Ada · family Quern
김민지 | given 민지 · family 김
山田太郎 | given 太郎 · family 山田
Ada | 
Anna Maria Weber | given Anna · additional Maria · family Weber
de Vries, Jan | given Jan · family de Vries
Herr Uwe Treidelmann | prefix Herr · given Uwe · family Treidelmann
Mrs Jane Doe | prefix Mrs · given Jane · family Doe
Praxis Dr. Weber |
Garage Dupont |
Stadtwerke Musterdorf GmbH |
Household Whitby |
Sir Ian Weir | prefix Sir · given Ian · family Weir
Carlos e Ana Silva |
"""  # fmt: skip


def names() -> Iterator[Case]:
    """Whole names in parts; nothing for what is no single person's."""
    for line in NAMES.strip().splitlines():
        before, _, after = line.partition("|")
        yield Case("names", "name/full", before.strip(), after.strip())
    for given in (
        "Anna",
        "Peter",
        "Emma",
        "Thomas",
        "Maria",
        "Jan",
        "Sophie",
        "David",
        "Julia",
        "Paul",
    ):
        for family in (
            "Weirside",
            "van Dam",
            "Lockhart-Reed",
            "O'Neil",
            "MacAlder",
            "Müller",
            "Groß",
        ):
            said = f"given {given} · family {family}"
            yield Case("names", "name/full", f"{given} {family}", said)
            yield Case("names", "name/full", f"{family}, {given}", said)


def words() -> Iterator[Case]:
    """White space and words that mean nothing."""
    for text in ("Ada Quern", "12 Lock Lane", "Treasurer", "Withy Bridge"):
        for before in (f" {text}", f"{text} ", text.replace(" ", "  ") if " " in text else f"{text}\t", f"\u3000{text}",
                       f"{text}\u000b", f"\u200b{text}", text.replace(" ", "\u00a0") if " " in text else f"{text}\n"):  # fmt: skip
            yield Case("spaces", "title", before, text)
        yield Case("spaces", "title", text, text)
    for nothing in ("n/a", "N/A", "-", "--", "unknown", "none", "[none]", "not supplied", "n. a.", "k. A.", "?", "NULL",
                    "(none)", "not known", "keine Angabe", "inconnu", "#N/A", "TBC", "...", "sin datos"):  # fmt: skip
        yield Case("nothing", "title", nothing, "")
    for path, same in (("name/family", "None"), ("name/family", "Null"), ("note", "none"), ("title", "A-"), ("title", "No. 1"),
                       ("nickname", "Na"), ("name/given", "Nil"), ("note", "n/a")):  # fmt: skip
        yield Case("nothing", path, same, same)
    yield Case("nothing", "name/family", "n/a", "")


ADDRESSES = """
14 Cobnut Way, Nettlewick, AX3 9ZZ | GB | street 14 Cobnut Way · locality Nettlewick · postcode AX3 9ZZ
Lindenweg 4, 10115 Berlin | DE | street Lindenweg 4 · postcode 10115 · locality Berlin
Kerkpad 5, 1234 AB Dorpstad | NL | street Kerkpad 5 · postcode 1234 AB · locality Dorpstad
12 rue des Tilleuls, 75001 Paris | FR | street 12 rue des Tilleuls · postcode 75001 · locality Paris
Unit 5, 1990 Technology Park | AU |
not until May: 1 Cobnut Way, Nettlewick, AX3 9ZZ | GB |
the boat by the bridge | GB |
ask first, 12 | GB |
"""


def addresses() -> Iterator[Case]:
    """Addresses in one text."""
    for line in ADDRESSES.strip().splitlines():
        before, region, after = (part.strip() for part in line.split("|"))
        yield Case("addresses", "address/full", before, after, region)


def every() -> list[Case]:
    """All cases of this file."""
    makers = (garbled, dates, countries, phones, emails, codes, names, words, addresses)
    cases = [case for maker in makers for case in maker()]
    clean = {case._replace(before=case.after, order="") for case in cases
             if case.after and case.kind not in ("names", "addresses")}  # fmt: skip
    return [*cases, *sorted(clean - set(cases))]


def read(path: Path) -> list[Case]:
    """Cases of a file: a line each, its parts with bars between."""
    found = []
    for kind, table in tomllib.loads(path.read_text("utf-8")).items():
        for line in table["cases"].strip().splitlines():
            before, _, rest = line.partition(" | ")
            after, _, region = rest.partition(" | ")
            after = before if after == "=" else after
            after = "" if after in ("-", "") else after
            found.append(Case(kind, table["path"], before.encode().decode("unicode_escape").encode("latin-1").decode()
                              if "\\x" in before else before, after.strip(), region.strip(), table.get("order", "")))  # fmt: skip
    return found


def judged(case: Case) -> tuple[str, bool]:
    """What becomes of a value, and whether something is reported of it."""
    if case.kind == "names":
        found = split_name(case.before, case.region)
        return " · ".join(sorted(found.shown().split(" · "))), bool(found.doubt)
    if case.kind == "addresses":
        parts = address_parts(case.before)
        return (" · ".join(sorted(parts.shown().split(" · "))), False) if parts else ("", True)
    text, told = case.before, False
    orders = {case.path: case.order} if case.order else {}
    around = Around(case.path, case.region, True, countries="code", orders=orders, this_year=YEAR)
    for rule in RULES:
        if isinstance(rule, Rule) and rule.usual and rule.concerns(case.path):
            verdict = rule.says(text, around)
            told |= bool(verdict.doubt)
            text = verdict.text if verdict.text is not None else text
            if not text:
                break
    return text, told


def main() -> None:
    """Score all cases."""
    files = [Path(each) for each in sys.argv[1:] if not each.startswith("--")]
    cases = [case for path in files for case in read(path)] or every()
    counts: dict[str, Counter[str]] = defaultdict(Counter)
    for case in cases:
        made, told = judged(case)
        wanted = case.after
        stays = wanted == case.before
        if case.kind in ("names", "addresses"):
            wanted, stays = " · ".join(sorted(wanted.split(" · "))), not wanted
        verdict = "right" if made == wanted else "harmed" if stays or made not in (case.before, "") else (
            "told" if told else "missed")  # fmt: skip
        counts[case.kind][verdict] += 1
        counts[case.kind]["stay"] += stays
        counts[case.kind]["stay harmed"] += stays and verdict == "harmed"
        if (
            case.kind not in ("names", "addresses")
            and judged(case._replace(before=made))[0] != made
            and made
        ):
            counts[case.kind]["again"] += 1
            if "--wrong" in sys.argv:
                print(
                    f"again: {case.before!r} → {made!r} → {judged(case._replace(before=made))[0]!r}"
                )
        if "--wrong" in sys.argv and verdict != "right":
            print(
                f"{case.kind} {case.region}: {case.before!r} → {made!r}; {verdict}, wanted {wanted!r}"
            )
    heads = ("right", "told", "missed", "harmed", "stay", "stay harmed", "again")
    print(f"{'':12}{'cases':>7}" + "".join(f"{head:>13}" for head in heads))
    total: Counter[str] = Counter()
    for kind, told_ in [*sorted(counts.items()), ("all", total)]:
        total += told_ if kind != "all" else Counter()
        size = sum(told_[each] for each in ("right", "told", "missed", "harmed"))
        print(
            f"{kind:12}{size:7}"
            + "".join(f"{told_[head]:6} {told_[head] / max(size, 1):6.1%}" for head in heads)
        )


if __name__ == "__main__":
    main()
