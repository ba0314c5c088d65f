"""Make labelled books: ``python bench/matching/make_worlds.py WORLD CONTACTS FOLDER [SEED]``.

A book is three files that overlap: cards, a table with a column a part of the name, and a table
with whole names. ``labels.tsv`` beside them has a line a record: source, record, number of the
person, trap. Everything is made up from ``worlds.toml`` and counters; about a third of the people
stand in more than one record, as other hands, other years and other countries write them.
"""

from __future__ import annotations

import csv
import random
import sys
import tomllib
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from romanised import romanised

STROKES = str.maketrans({"ł": "l", "ø": "o", "đ": "d", "Đ": "D", "ð": "d", "þ": "th", "Þ": "Th"})
HOSTS = ("example.org", "example.net", "mail.test", "post.test", "inbox.test", "letters.test")
ROLES = ("info", "office", "kontakt", "club", "admin", "secretary", "bureau")
LAYOUTS = {
    "members.toml": [("First", "name/given"), ("Last", "name/family"),
                     ("Second", "name/additional"), ("Suffix", "name/suffix"),
                     ("Mail", "email"), ("Mobile", "phone/cell"),
                     ("Telephone", "phone/home"), ("Street", "address/street"),
                     ("Town", "address/locality"), ("Code", "address/postcode"),
                     ("Born", "birthday"), ("Firm", "org")],
    "guests.toml": [("Who", "name/full"), ("Reach", "email"), ("Call", "phone"),
                    ("Street", "address/street"), ("Code", "address/postcode"),
                    ("Town", "address/locality"), ("With", "org"), ("Called", "nickname")],
}  # fmt: skip


@dataclass(slots=True)
class Person:
    """One person, or an organisation, and what a record may say."""

    number: int
    trap: str
    country: str
    woman: bool = False
    given: str = ""
    family: str = ""
    second: str = ""
    suffix: str = ""
    nickname: str = ""
    emails: list[str] = field(default_factory=list)
    mobiles: list[str] = field(default_factory=list)
    phones: list[str] = field(default_factory=list)
    street: str = ""
    town: str = ""
    code: str = ""
    birthday: str = ""
    org: str = ""
    firm: bool = False
    order: str = ""
    script: str = ""


def plain(text: str) -> str:
    """Letters of mail addresses."""
    table = str.maketrans("øđłıßæœþðŁØ", "odlisaotdlo")
    text = unicodedata.normalize("NFD", text.lower().translate(table))
    return "".join(char for char in text if char.isascii() and (char.isalnum() or char in "-."))


class Maker:
    """Makes people and their records."""

    def __init__(self, world: str, seed: int, words: Path | None = None) -> None:
        path = words or Path(__file__).with_name("worlds.toml")
        told = tomllib.loads(path.read_text("utf-8"))
        self.chance = random.Random(f"{world} {seed}")
        self.countries: dict[str, dict[str, Any]] = {
            name: self.prepared(told["country"][name]) for name in told["world"][world]["countries"]
        }
        self.count = self.serial = 0
        self.taken: set[str] = set()
        self.towns: dict[str, list[tuple[str, str]]] = {
            name: [(town, self.digits(each["code"])) for town in each["towns"].split("|")
                   for _ in range(12)]
            for name, each in self.countries.items()
        }  # fmt: skip
        self.firms: dict[str, list[Person]] = {name: [] for name in self.countries}

    def prepared(self, told: dict[str, Any]) -> dict[str, Any]:
        """Lists in place of texts."""
        made = dict(told)
        for name in ("women", "men"):
            made[name] = told[name].split()
        made["family"] = [name.replace("_", " ") for name in told["family"].split()]
        pairs = [each.split(":") for each in told["short"].split()]
        made["short"] = {name: shorts.split(",") for name, shorts in pairs}
        pairs = [each.split(":") for each in told["abbreviated"].split()]
        made["abbreviated"] = dict(pairs)
        for name in ("streets", "landline", "mobile", "trades", "legal"):
            made[name] = told[name].split("|")
        made["words"] = told["words"].replace("-", " - ").replace(" - ", "-").split()
        return made

    def digits(self, pattern: str) -> str:
        """A pattern with its ``#`` and ``A`` or ``X`` filled in."""
        pick = self.chance
        made = "".join(str(pick.randint(0, 9)) if char == "#" else char for char in pattern)
        if "QX" in pattern or pattern.endswith("XX"):
            made = "".join(pick.choice("ABDEFGHJL") if char in "AX" and at > 1 else char
                           for at, char in enumerate(made))  # fmt: skip
        return made

    def people(self, wanted: int) -> list[Person]:
        """About so many people, traps among them."""
        ways: tuple[tuple[Callable[[str], list[Person]], float], ...] = (
            (self.single, 54), (self.house, 17), (self.father, 0.35), (self.child, 2.5),
            (self.twins, 0.6), (self.namesakes, 2.5), (self.desk, 2), (self.mailbox, 2),
            (self.assistant, 1), (self.firm, 4), (self.owner, 1), (self.couple, 0.6),
        )  # fmt: skip
        makers, weights = zip(*ways, strict=True)
        found: list[Person] = []
        names = list(self.countries)
        while len(found) < wanted:
            country = self.chance.choices(names, [3] + [1] * (len(names) - 1))[0] \
                if len(names) < 6 else self.chance.choice(names)  # fmt: skip
            found += self.chance.choices(makers, weights)[0](country)
        return found[:wanted]

    def family_name(self, country: str) -> str:
        """A family name in the form of men."""
        told, pick = self.countries[country], self.chance
        if not told["family"]:
            return ""
        if "starts" in told and pick.random() < 0.55:
            between = (
                pick.choice(("", "", "", "en", "a", "er", "el", "i"))
                if not told.get("script")
                else ""
            )
            name = pick.choice(told["starts"].split()) + between + pick.choice(told["ends"].split())
        else:
            name = pick.choice(told["family"])
        if "starts" in told and pick.random() < 0.06 and "surnames" not in told:
            name = f"{name}-{pick.choice(told['family'])}" if " " not in name else name
        if told.get("surnames") == 2:
            name = f"{name} {pick.choice(told['family'])}"
        return str(name)

    def feminine(self, country: str, family: str) -> str:
        """The women's form of a family name."""
        kind = self.countries[country].get("feminine", "")
        if kind == "cz":
            if family.endswith("ý"):
                return family[:-1] + "á"
            stem = family[:-2] + family[-1] if family.endswith(("ek", "ec")) else family
            return (stem[:-1] if stem.endswith(("a", "o")) else stem) + "ová"
        if kind == "pl" and family.endswith("ki"):
            return family[:-1] + "a"
        if kind == "ru":
            if family.endswith(("ий", "ый")):
                return family[:-2] + "ая"
            return family + "а" if family.endswith(("в", "н")) else family
        if kind == "gr":
            return family[:-2] + "ου" if family.endswith("ος") else family.removesuffix("ς")
        return family

    def patronymic(self, country: str, father: str, woman: bool) -> str:
        """What somebody is called after the father."""
        if self.countries[country].get("patronymic") == "is":
            stem = father + "s" if not father.endswith(("i", "ur")) else (
                father[:-1] + "a" if father.endswith("i") else father[:-2] + "ar")  # fmt: skip
            return stem + ("dóttir" if woman else "son")
        if father.endswith(("й", "ь")):
            return father[:-1] + ("евна" if woman else "евич")
        stem = father[:-1] if father.endswith(("а", "я")) else father
        return stem + ("овна" if woman else "ович")

    def new(self, trap: str, country: str, family: str = "", woman: bool | None = None) -> Person:
        """Somebody with values of their own."""
        self.count += 1
        pick, told = self.chance, self.countries[country]
        woman = pick.random() < 0.5 if woman is None else woman
        names = told["women" if woman else "men"]
        given = pick.choices(names, [40 // (at + 4) + 1 for at in range(len(names))])[0]
        base = family or self.family_name(country)
        who = Person(self.count, trap, country, woman, given)
        who.order, who.script = told.get("order", ""), told.get("script", "")
        who.family = self.feminine(country, base) if woman else base
        father = pick.choice(told["men"])
        if told.get("patronymic") == "is":
            who.family = self.patronymic(country, father, woman)
        elif told.get("patronymic") == "ru":
            who.second = self.patronymic(country, father, woman)
        elif told.get("vietnamese"):
            who.second = pick.choice(told["middle"].split())
        elif pick.random() < 0.12:
            who.second = pick.choice(names)
        who.emails = [self.mail(who) for _ in range(pick.choices((0, 1, 2), (3, 9, 2))[0])]
        who.mobiles = [self.digits(pick.choice(told["mobile"]))
                       for _ in range(pick.choices((0, 1, 2), (3, 8, 1))[0])]  # fmt: skip
        if pick.random() < 0.35:
            who.phones = [self.digits(pick.choice(told["landline"]))]
        self.settle(who)
        if pick.random() < 0.3:
            who.birthday = self.born(1935, 2004)
        if self.firms[country] and pick.random() < 0.2:
            firm = pick.choice(self.firms[country])
            who.org = firm.org
            if pick.random() < 0.4:
                who.emails.append(self.only(self.local(who), firm.emails[0].partition("@")[2]))
        return who

    def born(self, first: int, last: int) -> str:
        """A birthday."""
        pick = self.chance
        return f"{pick.randint(first, last)}-{pick.randint(1, 12):02}-{pick.randint(1, 28):02}"

    def settle(self, who: Person) -> None:
        """Give somebody an address."""
        pick, told = self.chance, self.countries[who.country]
        who.street = pick.choice(told["streets"]).format(n=pick.randint(1, 140))
        who.town, who.code = pick.choice(self.towns[who.country])

    def local(self, who: Person) -> str:
        """The local part of a mail address that tells the name, mostly."""
        pick = self.chance
        given, family = who.given, who.family
        if who.script:
            given = romanised(given, who.script, pick)
            family = romanised(family, who.script, pick, family=True)
        given, family = plain(given), plain(family.split(" ")[-1 if who.country == "NL" else 0])
        ways = (f"{given}.{family}", f"{given[:1]}{family}", f"{given[:1]}.{family}",
                f"{family}{given[:1]}", f"{given}{family}", f"{given}{pick.randint(1, 99)}",
                f"{pick.choice(('heron', 'sky', 'blue', 'river', 'fox'))}{pick.randint(10, 999)}",
                f"{family}.{given}")  # fmt: skip
        return pick.choices(ways, (30, 14, 10, 5, 12, 12, 10, 7))[0].strip(".-") or "me"

    def mail(self, who: Person) -> str:
        """An address of somebody's own."""
        return self.only(self.local(who), self.chance.choice(HOSTS))

    def only(self, local: str, host: str) -> str:
        """An address that nobody has yet."""
        self.serial += 1
        mark = str(self.serial) if self.chance.random() < 0.35 else ""
        if f"{local}{mark}@{host}" in self.taken:
            mark = str(self.serial)
        self.taken.add(f"{local}{mark}@{host}")
        return f"{local}{mark}@{host}"

    def single(self, country: str) -> list[Person]:
        """Somebody alone."""
        return [self.new("single", country)]

    def house(self, country: str, trap: str = "house") -> list[Person]:
        """People of one house, with its number and sometimes its mailbox."""
        pick = self.chance
        base = self.family_name(country)
        head = self.new(trap, country, base, woman=False)
        members = [head]
        for at in range(pick.randint(1, 3)):
            other = self.new(trap, country, base, woman=at == 0 or None)
            if other.given not in {each.given for each in members}:
                members.append(other)
        self.share(head, members, mailbox=pick.random() < 0.35)
        return members

    def share(self, head: Person, members: list[Person], *, mailbox: bool) -> None:
        """Give a house its number, address and mailbox."""
        home = self.digits(self.chance.choice(self.countries[head.country]["landline"]))
        box = f"{plain(romanised(head.family, head.script, self.chance) if head.script else head.family)}{head.number}@post.test"  # noqa: E501
        for each in members:
            each.street, each.town, each.code = head.street, head.town, head.code
            each.phones = [home]
            if mailbox:
                each.emails = [box, *each.emails[:1]] if self.chance.random() < 0.5 else [box]

    def father(self, country: str) -> list[Person]:
        """Father and son, or mother and daughter, of one name and house."""
        old, *_ = self.house(country, "father and son")
        young = replace(old, number=self.count + 1)
        self.count += 1
        young.emails = [self.mail(young)] if self.chance.random() < 0.8 else []
        young.mobiles = [self.digits(self.chance.choice(self.countries[country]["mobile"]))]
        old.birthday = self.born(1932, 1955) if self.chance.random() < 0.5 else ""
        young.birthday = self.born(1960, 1990) if self.chance.random() < 0.5 else ""
        if self.chance.random() < 0.3:
            old.suffix, young.suffix = "senior", "junior"
        return [old, young]

    def child(self, country: str) -> list[Person]:
        """Children whose rows have a parent's number and mailbox."""
        base = self.family_name(country)
        parent = self.new("child", country, base)
        children = [self.new("child", country, base) for _ in range(self.chance.randint(1, 2))]
        if not parent.emails:
            parent.emails = [self.mail(parent)]
        for each in children:
            each.emails, each.mobiles, each.phones = parent.emails[:1], parent.mobiles[:1], []
            each.street, each.town, each.code = parent.street, parent.town, parent.code
            each.birthday = self.born(2008, 2018)
        names = {parent.given}
        kept = [each for each in children if each.given not in names and not names.add(each.given)]  # type: ignore[func-returns-value]
        return [parent, *kept]

    def twins(self, country: str) -> list[Person]:
        """Two of one house and one birthday."""
        found = self.house(country, "twins")[:2]
        for each in found:
            each.birthday = found[0].birthday = found[0].birthday or self.born(1990, 2005)
        return found

    def namesakes(self, country: str) -> list[Person]:
        """Two of one name and nothing else; sometimes in nothing different either."""
        one = self.new("namesakes", country)
        other = self.new("namesakes", country)
        other.given, other.family, other.woman = one.given, one.family, one.woman
        other.second = one.second if self.chance.random() < 0.5 else ""
        if self.chance.random() < 0.15:
            for each in (one, other):
                each.emails, each.mobiles, each.phones, each.birthday = [], [], [], ""
            other.street = ""
        return [one, other]

    def desk(self, country: str) -> list[Person]:
        """People of one firm with its one number."""
        firm = self.firm(country)[0]
        found = [self.new("desk", country) for _ in range(self.chance.randint(3, 9))]
        for each in found:
            each.org, each.phones, each.mobiles = firm.org, list(firm.phones), []
            each.street, each.town, each.code = firm.street, firm.town, firm.code
            host = firm.emails[0].partition("@")[2]
            each.emails = [self.only(self.local(each), host)] if self.chance.random() < 0.7 \
                else list(firm.emails)  # fmt: skip
        return found

    def mailbox(self, country: str) -> list[Person]:
        """Members of a club who all have its mailbox."""
        box = f"{self.chance.choice(ROLES)}@club{self.count}.test"
        found = [self.new("club mailbox", country) for _ in range(self.chance.randint(2, 5))]
        for each in found:
            each.emails = [box, *each.emails[:1]] if self.chance.random() < 0.4 else [box]
        return found

    def assistant(self, country: str) -> list[Person]:
        """People on whose records the number of an assistant stands."""
        helper = self.new("assistant", country)
        helper.mobiles = helper.mobiles or [self.digits(self.countries[country]["mobile"][0])]
        found = [self.new("assistant", country) for _ in range(self.chance.randint(2, 3))]
        for each in found:
            each.mobiles = [*each.mobiles, helper.mobiles[0]]
        return [helper, *found]

    def firm(self, country: str, trap: str = "firm", owner: str = "") -> list[Person]:
        """An organisation."""
        self.count += 1
        told, pick = self.countries[country], self.chance
        who = Person(self.count, trap, country, firm=True)
        trade = pick.choice([each for each in told["trades"] if not owner or "{f}" in each]
                            or told["trades"])  # fmt: skip
        words = pick.choice(told["words"])
        if told["family"]:
            words += "" if pick.random() < 0.5 else f" {pick.choice(told['family'])}"
        name = trade.format(f=owner or self.family_name(country) or words, w=words)
        who.org = f"{name} {pick.choice(told['legal'])}" if pick.random() < 0.6 else name
        host = f"{plain(words)[:18].strip('.-') or 'firm'}{self.count}.test"
        who.emails = [f"{pick.choice(ROLES)}@{host}"]
        who.phones = [self.digits(pick.choice(told["landline"]))]
        self.settle(who)
        self.firms[country].append(who)
        return [who]

    def owner(self, country: str) -> list[Person]:
        """Somebody, and the firm that is called after them."""
        one = self.new("owner", country)
        firm = self.firm(country, "owner", one.family or one.given)[0]
        if self.chance.random() < 0.4:
            firm.org = (
                f"{one.given} {one.family} {self.chance.choice(self.countries[country]['legal'])}"
            )
        one.org, one.phones = firm.org, list(firm.phones)
        firm.street, firm.town, firm.code = one.street, one.town, one.code
        return [one, firm]

    def couple(self, country: str) -> list[Person]:
        """Two, and the card that they have together."""
        base = self.family_name(country)
        one, other = (
            self.new("couple", country, base, False),
            self.new("couple", country, base, True),
        )
        both = self.new("couple", country, base, False)
        self.share(one, [one, other, both], mailbox=True)
        word = self.chance.choice(("and", "&", "und", "et", "en", "y", "e"))
        both.given, both.second, both.mobiles, both.birthday = (
            f"{one.given} {word} {other.given}",
            "",
            [],
            "",
        )
        both.emails = both.emails[:1]
        return [one, other, both]

    # ── Records ──────────────────────────────────────────────────────────────────────────────────

    def records(self, people: list[Person]) -> list[list[Person]]:
        """What the three files say, shuffled."""
        files: list[list[Person]] = [[], [], []]
        pick = self.chance
        for who in people:
            count = pick.choices((1, 2, 3), (68, 24, 8))[0]
            if who.firm:
                count = pick.choices((1, 2, 3), (60, 30, 10))[0]
            for at in range(count):
                files[pick.randrange(3)].append(self.fewer(replace(who)) if not at
                                                else self.again(who))  # fmt: skip
        for records in files:
            pick.shuffle(records)
        return files

    def fewer(self, who: Person) -> Person:
        """Not everything is known of everybody."""
        pick = self.chance
        if pick.random() < 0.25:
            who.street = who.town = who.code = ""
        if pick.random() < 0.3:
            who.birthday = ""
        if who.second and pick.random() < 0.3:
            who.second = ""
        return who

    def again(self, person: Person) -> Person:
        """The same person as somebody else writes it, years later."""
        who = replace(person, emails=list(person.emails), mobiles=list(person.mobiles),
                      phones=list(person.phones))  # fmt: skip
        pick = self.chance
        ways: tuple[tuple[Callable[[Person], None], int], ...] = (
            (self.nothing, 18), (self.short, 12), (self.slip_given, 4), (self.slip_family, 5),
            (self.plainly, 6), (self.initial, 5), (self.turned, 4), (self.married, 3),
            (self.half, 4), (self.given_only, 3), (self.family_only, 2), (self.second_first, 3),
            (self.lacking, 20), (self.other_mail, 9), (self.other_number, 8), (self.moved, 9),
            (self.slip_mail, 2), (self.slip_number, 3), (self.changed_firm, 6),
            (self.short_street, 6),
            (self.slip_street, 3), (self.mail_only, 4), (self.other_script, 8), (self.joined, 2),
            (self.called, 4), (self.other_form, 3),
        )  # fmt: skip
        changes, weights = zip(*ways, strict=True)
        for change in pick.choices(changes, weights, k=pick.choice((1, 1, 2, 2, 3))):
            of_firms = (self.nothing, self.lacking, self.other_number, self.moved, self.plainly,
                        self.slip_number, self.short_street)  # fmt: skip
            if not who.firm or change in of_firms:
                change(who)
        if who.firm and pick.random() < 0.4:  # with its legal form, or without
            for legal in self.countries[who.country]["legal"]:
                who.org = who.org.removesuffix(f" {legal}")
        if not (who.emails or who.mobiles or who.phones):
            if person.mobiles and pick.random() < 0.5:
                who.mobiles = person.mobiles[:1]
            elif person.emails and pick.random() < 0.7:
                who.emails = person.emails[:1]
            elif pick.random() < 0.6:
                who.street, who.town, who.code = person.street, person.town, person.code
                who.phones = list(person.phones)
        if not (who.emails or who.mobiles or who.phones or who.birthday or who.street):
            who.street, who.town, who.code = person.street, person.town, person.code
        self.linked(person, who)
        return self.fewer(who) if (who.emails or who.mobiles) else who

    def linked(self, person: Person, who: Person) -> None:
        """Mostly something is as it was: nobody finds those who share nothing but a name."""
        same = {*person.emails, *person.mobiles, *person.phones} & {
            *who.emails, *who.mobiles, *who.phones}  # fmt: skip
        if same or (who.birthday and who.birthday == person.birthday) or (
            who.street and who.street == person.street) or self.chance.random() < 0.12:  # fmt: skip
            return
        if person.mobiles and self.chance.random() < 0.5:
            who.mobiles = [*who.mobiles, person.mobiles[0]]
        elif person.emails:
            who.emails = [*who.emails, person.emails[0]]
        else:
            who.street, who.town, who.code = person.street, person.town, person.code

    def nothing(self, who: Person) -> None:
        """As it was."""

    def short(self, who: Person) -> None:
        """Called for short."""
        shorts = self.countries[who.country]["short"].get(who.given)
        if shorts:
            who.given = self.chance.choice(shorts)

    def called(self, who: Person) -> None:
        """What somebody is called stands in a place of its own."""
        shorts = self.countries[who.country]["short"].get(who.given)
        if shorts:
            who.nickname = self.chance.choice(shorts)

    def slipped(self, text: str) -> str:
        """One letter wrong, left out, doubled, or two turned."""
        if len(text) < 4:
            return text
        pick = self.chance
        at = pick.randint(1, len(text) - 2)
        return pick.choice((text[:at] + text[at + 1 :], text[:at] + text[at] + text[at:],
                            text[:at] + text[at + 1] + text[at] + text[at + 2 :],
                            text[:at] + pick.choice("aeiorstn") + text[at + 1 :]))  # fmt: skip

    def slip_given(self, who: Person) -> None:
        """A given name mistyped."""
        who.given = self.slipped(who.given)

    def slip_family(self, who: Person) -> None:
        """A family name mistyped."""
        who.family = self.slipped(who.family)

    def plainly(self, who: Person) -> None:
        """Without accents; umlauts written out, or dropped."""
        table = str.maketrans({"ü": "ue", "ö": "oe", "ä": "ae", "ß": "ss"}
                              if self.chance.random() < 0.5 else {"ß": "ss"})  # fmt: skip

        def bare(text: str) -> str:
            parts = unicodedata.normalize("NFD", text.translate(table).translate(STROKES))
            kept = "".join(char for char in parts if not unicodedata.combining(char))
            return unicodedata.normalize("NFC", kept)

        if not who.script:
            who.given, who.family, who.street = bare(who.given), bare(who.family), bare(who.street)
            who.second, who.org = bare(who.second), bare(who.org)

    def initial(self, who: Person) -> None:
        """An initial for the given name."""
        if who.family and who.script != "kr":
            who.given = who.given[:1] + self.chance.choice((".", ""))
            who.second = ""

    def turned(self, who: Person) -> None:
        """Names in each other's place."""
        if who.script == "kr":
            return
        who.given, who.family = who.family, who.given

    def married(self, who: Person) -> None:
        """Another family name, or one more."""
        other = self.family_name(who.country)
        if not who.woman or who.country in ("IS", "KR", "VN", "ES") or not other:
            return
        other = self.feminine(who.country, other)
        who.family = other if self.chance.random() < 0.6 else f"{who.family}-{other}"

    def half(self, who: Person) -> None:
        """One of two family names, or one of two given ones."""
        if " " in who.family and self.countries[who.country].get("surnames"):
            who.family = who.family.split(" ")[0]
        elif "-" in who.family:
            who.family = who.family.split("-")[self.chance.randrange(2)]
        elif "-" in who.given:
            who.given = who.given.split("-")[0]

    def other_form(self, who: Person) -> None:
        """A woman under the form of the name that men bear."""
        for family in self.countries[who.country]["family"]:
            if who.woman and self.feminine(who.country, family) == who.family:
                who.family = family
                return

    def given_only(self, who: Person) -> None:
        """Just a given name."""
        who.family = who.second = ""

    def family_only(self, who: Person) -> None:
        """Just a family name."""
        if who.family:
            who.given = who.second = ""

    def second_first(self, who: Person) -> None:
        """Called by the second name."""
        if who.second and who.country not in ("RU", "VN"):
            who.given, who.second = who.second, ""

    def joined(self, who: Person) -> None:
        """A double name in another dress."""
        who.given = who.given.replace("-", " " if self.chance.random() < 0.5 else "")

    def lacking(self, who: Person) -> None:
        """Some values are not there."""
        pick = self.chance
        if pick.random() < 0.5:
            who.mobiles = []
        elif who.emails and pick.random() < 0.6:
            who.emails = []
        if pick.random() < 0.5:
            who.phones = []
        if pick.random() < 0.5:
            who.street = who.town = who.code = ""
        who.birthday = "" if pick.random() < 0.6 else who.birthday

    def other_mail(self, who: Person) -> None:
        """Another address in place of the first."""
        who.emails = [self.mail(who)]

    def other_number(self, who: Person) -> None:
        """Another mobile number."""
        who.mobiles = [self.digits(self.chance.choice(self.countries[who.country]["mobile"]))]

    def moved(self, who: Person) -> None:
        """Another house."""
        self.settle(who)
        who.phones = []

    def slip_mail(self, who: Person) -> None:
        """An address mistyped."""
        if who.emails:
            local, _, host = who.emails[0].partition("@")
            who.emails = [f"{self.slipped(local)}@{host}", *who.emails[1:]]

    def slip_number(self, who: Person) -> None:
        """A digit wrong, or two turned."""
        for numbers in (who.mobiles, who.phones):
            if numbers:
                at = len(numbers[0]) - self.chance.randint(2, 4)
                one = numbers[0]
                numbers[0] = one[:at] + str(self.chance.randint(0, 9)) + one[at + 1 :]
                return

    def changed_firm(self, who: Person) -> None:
        """Another firm or club, and its address of mail."""
        firms = self.firms[who.country]
        if firms:
            firm = self.chance.choice(firms)
            who.org = firm.org
            host = firm.emails[0].partition("@")[2]
            who.emails = [self.only(self.local(who), host), *who.emails[:1]]

    def short_street(self, who: Person) -> None:
        """A street's word cut."""
        for long, short in self.countries[who.country]["abbreviated"].items():
            if long in who.street:
                who.street = who.street.replace(long, short)
                return

    def slip_street(self, who: Person) -> None:
        """A street mistyped."""
        words = who.street.split(" ")
        at = max(range(len(words)), key=lambda each: len(words[each]))
        words[at] = self.slipped(words[at])
        who.street = " ".join(words)

    def mail_only(self, who: Person) -> None:
        """Nothing but an address of mail, perhaps with a name."""
        if who.emails:
            who.mobiles, who.phones, who.street, who.town, who.code = [], [], "", "", ""
            who.birthday = ""
            own = who.trap in ("single", "namesakes", "owner") or len(who.emails) > 1
            if own and self.chance.random() < 0.6:
                who.given = who.family = who.second = ""
                who.emails = who.emails[-1:]

    def other_script(self, who: Person) -> None:
        """In Latin letters."""
        if who.script:
            pick = self.chance
            who.given = romanised(who.given, who.script, pick)
            who.family = romanised(who.family, who.script, pick, family=True)
            who.second = romanised(who.second, who.script, pick)
            if who.script == "kr" and pick.random() < 0.5:
                who.order = ""
            who.script = ""

    # ── Files ────────────────────────────────────────────────────────────────────────────────────

    def spelled(self, number: str, country: str) -> str:
        """A number as somebody writes it."""
        pick = self.chance
        digits = "".join(char for char in number if char.isdigit())
        told = self.countries[country]
        trunk = "06" if country == "HU" else "8" if country == "RU" else "0"
        if country in ("GB", "DE", "NL", "FR", "HU", "RU", "VN", "KR"):
            bare = digits.removeprefix(trunk)
        else:
            bare = digits
        return pick.choice((number, number, number.replace(" ", ""), f"+{told['dial']}{bare}",
                            f"+{told['dial']} {bare[:3]} {bare[3:]}",
                            f"00{told['dial']} {bare}"))  # fmt: skip

    def whole(self, who: Person) -> str:
        """The name in one."""
        pick = self.chance
        if who.firm:
            return who.org
        parts = [who.given, who.second if pick.random() < 0.6 else "", who.family]
        if who.order == "family" or (who.script == "ru" and pick.random() < 0.6):
            parts = [who.family, parts[1], who.given] if who.country == "VN" \
                else [who.family, who.given, parts[1]]  # fmt: skip
            return ("" if who.script == "kr" else " ").join(filter(None, parts))
        if who.family and who.given and pick.random() < 0.15:
            return f"{who.family}, {who.given}"
        return " ".join(filter(None, (*parts, who.suffix)))

    def card(self, who: Person) -> str:
        """A vCard 3.0."""

        def text(value: str) -> str:
            return value.replace(",", "\\,").replace(";", "\\;")

        named = f"N:{text(who.family)};{text(who.given)};{text(who.second)};;{who.suffix}"
        lines = ["BEGIN:VCARD", "VERSION:3.0", "N:;;;;" if who.firm else named]
        lines.append(f"FN:{text(self.whole(who) or (who.emails or [''])[0])}")
        lines += [f"EMAIL:{each}" for each in who.emails]
        lines += [f"TEL;TYPE=CELL:{self.spelled(each, who.country)}" for each in who.mobiles]
        lines += [f"TEL;TYPE={'WORK' if who.firm else 'HOME'}:{self.spelled(each, who.country)}"
                  for each in who.phones]  # fmt: skip
        if who.street:
            lines.append(f"ADR:;;{text(who.street)};{text(who.town)};;{who.code};{who.country}")
        lines += [f"BDAY:{who.birthday}"] * bool(who.birthday)
        lines += [f"ORG:{text(who.org)}"] * bool(who.org)
        lines += [f"NICKNAME:{who.nickname}"] * bool(who.nickname)
        return "\r\n".join([*lines, "END:VCARD", ""])

    def member(self, who: Person) -> list[str]:
        """A row with a column a part."""
        spelled = [[self.spelled(each, who.country) for each in numbers]
                   for numbers in (who.mobiles, who.phones)]  # fmt: skip
        given, family = who.given, who.family
        if who.firm and self.chance.random() < 0.3:
            given, _, family = who.org.partition(" ")
        return [given, family, who.second, who.suffix, (who.emails or [""])[0],
                (spelled[0] or [""])[0], (spelled[1] or [""])[0], who.street, who.town, who.code,
                who.birthday, "" if who.firm and given else who.org]  # fmt: skip

    def guest(self, who: Person) -> list[str]:
        """A row with the whole name."""
        numbers = [self.spelled(each, who.country) for each in (*who.mobiles, *who.phones)]
        return [self.whole(who), (who.emails or [""])[0], (numbers or [""])[0], who.street,
                who.code, who.town, "" if who.firm else who.org, who.nickname]  # fmt: skip


def write(world: str, contacts: int, folder: Path, seed: int = 7) -> list[Path]:
    """Books of about so many contacts, and their labels; the sources."""
    maker = Maker(world, seed)
    files = maker.records(maker.people(round(contacts / 1.42)))
    return written(maker, files, folder)


def written(maker: Any, files: list[list[Any]], folder: Path) -> list[Path]:
    """Put records into their files, with layouts and labels beside them."""
    folder.mkdir(parents=True, exist_ok=True)
    cards, members, guests = (folder / name for name in ("cards.vcf", "members.csv", "guests.csv"))
    cards.write_text("".join(map(maker.card, files[0])), "utf-8", newline="")
    for path, row, records, layout in (
        (members, maker.member, files[1], "members.toml"),
        (guests, maker.guest, files[2], "guests.toml"),
    ):
        columns = LAYOUTS[layout]
        with path.open("w", encoding="utf-8", newline="") as file:
            out = csv.writer(file)
            out.writerow([heading for heading, _ in columns])
            out.writerows(map(row, records))
        text = f'name = "{path.stem}"\n' + "".join(
            f'\n[[column]]\nheading = "{heading}"\nholds = "{holds}"\n'
            for heading, holds in columns
        )
        (folder / layout).write_text(text, "utf-8")
    labels = [f"{source}\t{at}\t{who.number}\t{who.trap}\n"
              for source, records in enumerate(files)
              for at, who in enumerate(records, 1)]  # fmt: skip
    (folder / "labels.tsv").write_text("".join(labels), "utf-8")
    return [cards, members, guests]


if __name__ == "__main__":
    write(sys.argv[1], int(sys.argv[2]), Path(sys.argv[3]), *map(int, sys.argv[4:5]))
