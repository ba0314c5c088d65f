"""Make a labelled book of vCards: ``python bench/matching/make_people.py PEOPLE FILE [SEED]``.

All of it is made up from syllables and counters. Beside the book, ``FILE.labels`` has a line a
card: the number of the person, and the trap that the person belongs to. Traps are families with
one phone, address and mailbox; father and son; twins; namesakes; desks of organisations; shared
mailboxes; assistants whose number stands on other people's cards. About a third of the people have
two or three cards, written as different hands write them.
"""

from __future__ import annotations

import random
import sys
from dataclasses import dataclass, replace
from pathlib import Path

GIVEN = {
    "William": "Bill", "Robert": "Bob", "Margaret": "Peggy", "Elizabeth": "Liz", "Thomas": "Tom",
    "Katherine": "Kate", "James": "Jim", "Richard": "Dick", "Edward": "Ted", "Susan": "Sue",
    "Michael": "Mike", "Christopher": "Chris", "Patricia": "Pat", "Joseph": "Joe", "Daniel": "Dan",
    "Jennifer": "Jenny", "Andrew": "Andy", "Matthew": "Matt", "Samuel": "Sam", "Victoria": "Vicky",
    "Jürgen": "", "Zoë": "", "Hélène": "", "Łucja": "", "Björn": "", "Maëlle": "", "Priya": "",
    "Yusuf": "", "Idris": "", "Tamsin": "", "Carys": "", "Gwilym": "", "Farida": "", "Sanjay": "",
    "Ottilie": "", "Linus": "", "Quentin": "", "Rosa": "", "Silas": "", "Una": "", "Jasper": "",
    "Edgar": "", "Flora": "", "Hamish": "", "Imogen": "", "Morwenna": "", "Rhiannon": "",
    "Petra": "",
}  # fmt: skip
FIRST = (
    "Lock",
    "Weir",
    "Sluice",
    "Water",
    "Tow",
    "Barge",
    "Canal",
    "Heron",
    "Alder",
    "Reed",
    "Willow",
    "Mill",
    "Ford",
    "Bridge",
    "Wharf",
    "Pound",
    "Basin",
    "Gate",
    "Narrow",
    "Deep",
    "Stone",
    "Iron",
    "Copper",
    "Otter",
    "King",
    "Green",
    "Black",
    "Long",
    "Short",
    "High",
)
LAST = (
    "ley",
    "man",
    "ton",
    "wick",
    "by",
    "ford",
    "gate",
    "side",
    "grove",
    "hythe",
    "path",
    "er",
    "well",
    "bank",
    "field",
    "holm",
    "stead",
    "worth",
    "bury",
    "dale",
    "combe",
    "thwaite",
)
STREETS = (
    "Lock Lane",
    "Canal Road",
    "Mill Street",
    "Heron Close",
    "Wharf Street",
    "Basin View",
    "Aqueduct Road",
    "Pumphouse Hill",
    "Towpath Row",
    "Weir Walk",
)
TOWNS = ("Withy Bridge", "Lockham", "Nether Pound", "Cutt St Mary", "Overweir", "Sluiceford")
HOSTS = ("example.org", "example.net", "mail.test", "post.test", "canal.test")
PLAIN = str.maketrans("üëéèŁöïç", "ueeeLoic")


@dataclass(slots=True)
class Person:
    """One person, and what their cards may say."""

    number: int
    trap: str
    given: str
    family: str
    middle: str = ""
    suffix: str = ""
    emails: tuple[str, ...] = ()
    phones: tuple[str, ...] = ()
    street: str = ""
    town: str = ""
    code: str = ""
    birthday: str = ""
    org: str = ""


class Maker:
    """Makes people and their cards."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)
        self.count = 0
        self.serial = 0
        self.taken: set[str] = set()

    def people(self, wanted: int) -> list[Person]:
        """About so many people, traps among them."""
        found: list[Person] = []
        ways = (
            (self.single, 60),
            (self.family, 16),
            (self.father, 3),
            (self.twins, 2),
            (self.namesakes, 5),
            (self.desk, 2),
            (self.mailbox, 3),
            (self.assistant, 2),
        )
        makers, weights = zip(*ways, strict=True)
        while len(found) < wanted:
            found += self.chance.choices(makers, weights)[0]()
        return found[:wanted]

    def new(self, trap: str, family: str = "", given: str = "") -> Person:
        """A person with values of their own."""
        self.count += 1
        pick = self.chance
        given = (
            given or pick.choices(list(GIVEN), [60 // (at + 3) + 1 for at in range(len(GIVEN))])[0]
        )
        family = family or self.surname()
        person = Person(self.count, trap, given, family)
        person.emails = tuple(
            self.email(person) for _ in range(pick.choices((0, 1, 2), (2, 8, 2))[0])
        )
        person.phones = tuple(self.phone() for _ in range(pick.choices((0, 1, 2), (2, 7, 3))[0]))
        person.street = f"{pick.randint(1, 120)} {pick.choice(STREETS)}"
        person.town = pick.choice(TOWNS)
        inward = f"{pick.randint(1, 9)}{pick.choice('ABDEHJL')}{pick.choice('NPQRSTU')}"
        person.code = f"QX{pick.randint(1, 40)} {inward}"
        if pick.random() < 0.5:
            person.birthday = (
                f"{pick.randint(1930, 2005)}{pick.randint(1, 12):02}{pick.randint(1, 28):02}"
            )
        if pick.random() < 0.2:
            person.middle = pick.choice(list(GIVEN))
        return person

    def surname(self) -> str:
        """A family name; some are common."""
        pick = self.chance
        if pick.random() < 0.15:
            return FIRST[pick.randint(0, 5)] + LAST[pick.randint(0, 3)]
        name = pick.choice(FIRST) + pick.choice(LAST)
        return (
            name
            if pick.random() < 0.5
            else pick.choice(FIRST)[:4] + pick.choice(("en", "el", "a", "i")) + pick.choice(LAST)
        )

    def email(self, person: Person) -> str:
        """An address that is this person's alone."""
        self.serial += 1
        plain = f"{person.given}.{person.family}".lower().translate(PLAIN)
        plain = "".join(char for char in plain if char.isascii())
        mark = self.serial if self.chance.random() < 0.4 else self.serial % 97
        host = self.chance.choice(HOSTS)
        if f"{plain}{mark}@{host}" in self.taken:
            mark = self.serial
        self.taken.add(f"{plain}{mark}@{host}")
        return f"{plain}{mark}@{host}"

    def phone(self) -> str:
        """A number as dialled at home."""
        self.serial += 1
        start = "07700" if self.chance.random() < 0.6 else "01632"
        return f"{start}{self.chance.randint(0, 999_999):06}"

    def single(self) -> list[Person]:
        """Somebody alone."""
        return [self.new("single")]

    def family(self) -> list[Person]:
        """Two to four people of one house."""
        head = self.new("family")
        home = self.phone()
        shared = self.chance.random() < 0.4
        members = [head]
        names = [name for name in GIVEN if name != head.given]
        for given in self.chance.sample(names, self.chance.randint(1, 3)):
            members.append(self.new("family", head.family, given))
        for member in members:
            member.street, member.town, member.code = head.street, head.town, head.code
            member.phones = (home, *member.phones[:1])
            if shared:
                member.emails = (
                    f"{head.family.lower()}s{head.number}@post.test",
                    *member.emails[:1],
                )
        return members

    def father(self) -> list[Person]:
        """Father and son of one name and one house; cards say which, or have the birthday."""
        old = self.new("father and son")
        old.birthday = f"19{self.chance.randint(30, 50)}0{self.chance.randint(1, 9)}11"
        young = self.new("father and son", old.family, old.given)
        young.birthday = f"19{self.chance.randint(60, 80)}0{self.chance.randint(1, 9)}12"
        young.street, young.town, young.code = old.street, old.town, old.code
        old.phones = young.phones = (self.phone(),)
        old.suffix, young.suffix = "senior", "junior"
        return [old, young]

    def twins(self) -> list[Person]:
        """Two people of one house and one birthday."""
        one, other = self.family()[:2]
        one.trap = other.trap = "twins"
        one.birthday = other.birthday = one.birthday or "19990303"
        return [one, other]

    def namesakes(self) -> list[Person]:
        """Two people of one name, and nothing else."""
        one = self.new("namesakes")
        other = self.new("namesakes", one.family, one.given)
        one.middle = other.middle = ""
        return [one, other]

    def desk(self) -> list[Person]:
        """People of one organisation with its one number."""
        org, number = f"{self.surname()} Boatyard {self.count}", self.phone()
        found = [self.new("switchboard") for _ in range(self.chance.randint(3, 12))]
        for person in found:
            person.org, person.phones = org, (number,)
        return found

    def mailbox(self) -> list[Person]:
        """Two people who share an address of mail and nothing else."""
        one, other = self.new("shared mailbox"), self.new("shared mailbox")
        one.emails = other.emails = (f"crew{one.number}@canal.test",)
        return [one, other]

    def assistant(self) -> list[Person]:
        """People on whose cards the number and address of one assistant stand."""
        helper = self.new("assistant")
        helper.phones, helper.emails = (self.phone(),), (f"office{helper.number}@canal.test",)
        found = [self.new("assistant") for _ in range(self.chance.randint(2, 4))]
        for person in found:
            person.phones += helper.phones
            person.emails += helper.emails
        return [helper, *found]

    def cards(self, people: list[Person]) -> list[tuple[Person, str]]:
        """One card of each, and further ones of a third, shuffled."""
        found = []
        for person in people:
            found.append((person, card(person)))
            more = self.chance.choices((0, 1, 2), (66, 26, 8))[0]
            found += [(person, card(self.again(person))) for _ in range(more)]
        self.chance.shuffle(found)
        return found

    def again(self, person: Person) -> Person:
        """The same person as another hand writes them."""
        pick = self.chance
        other = replace(person)
        changes = pick.choices(
            (self.nickname, self.typo, self.plain, self.initial, self.turned, self.married,
             self.fewer, self.moved, self.nothing),
            (16, 14, 8, 6, 4, 3, 25, 12, 20), k=pick.choice((1, 1, 2)),
        )  # fmt: skip
        for change in changes:
            change(other)
        if not other.emails and not other.phones:
            other.emails, other.phones = person.emails, person.phones
        if not (other.emails or other.phones or other.birthday):
            other.street, other.town, other.code = person.street, person.town, person.code
        other.phones = tuple(self.spelled(phone) for phone in other.phones)
        if pick.random() < 0.3:
            other.emails = tuple(email.title() for email in other.emails)
        return other

    def nickname(self, person: Person) -> None:
        """Called for short."""
        person.given = GIVEN.get(person.given, "") or person.given

    def typo(self, person: Person) -> None:
        """One letter of the family name wrong."""
        name, at = person.family, self.chance.randint(1, len(person.family) - 2)
        ways = (
            name[:at] + name[at + 1 :],
            name[:at] + name[at + 1] + name[at] + name[at + 2 :],
            name[:at] + name[at] + name[at:],
        )
        person.family = self.chance.choice(ways)

    def plain(self, person: Person) -> None:
        """Without accents."""
        person.given = person.given.translate(PLAIN)

    def initial(self, person: Person) -> None:
        """An initial for the given name."""
        person.given = person.given[0] + "."

    def turned(self, person: Person) -> None:
        """Family name in the given name's place."""
        person.given, person.family = person.family, person.given

    def married(self, person: Person) -> None:
        """Another family name; the rest stays."""
        person.family = self.surname()

    def fewer(self, person: Person) -> None:
        """Some values are not there."""
        pick = self.chance
        if pick.random() < 0.6:
            person.birthday = ""
        if pick.random() < 0.6:
            person.street = person.town = person.code = ""
        if person.emails and pick.random() < 0.4:
            person.phones = ()
        elif person.phones and pick.random() < 0.4:
            person.emails = ()

    def moved(self, person: Person) -> None:
        """A new address, or another number."""
        person.street = f"{self.chance.randint(1, 120)} {self.chance.choice(STREETS)}"
        person.town, person.code = self.chance.choice(TOWNS), "QX50 1AA"
        if len(person.phones) > 1:
            person.phones = (person.phones[0], self.phone())

    def nothing(self, person: Person) -> None:
        """As it was."""

    def spelled(self, phone: str) -> str:
        """The number as somebody writes it."""
        bare = phone[1:]
        return self.chance.choice(
            (
                phone,
                f"+44{bare}",
                f"+44 (0){bare[:4]} {bare[4:]}",
                f"({phone[:5]}) {phone[5:]}",
                f"{phone[:5]}-{phone[5:]}",
            )
        )


def card(person: Person) -> str:
    """A vCard 3.0."""
    lines = [
        "BEGIN:VCARD",
        "VERSION:3.0",
        f"N:{person.family};{person.given};{person.middle};;{person.suffix}",
        f"FN:{' '.join(filter(None, (person.given, person.middle, person.family, person.suffix)))}",
    ]
    lines += [f"EMAIL:{email}" for email in person.emails]
    lines += [f"TEL:{phone}" for phone in person.phones]
    if person.street:
        lines.append(f"ADR:;;{person.street};{person.town};;{person.code};")
    if person.birthday:
        lines.append(f"BDAY:{person.birthday}")
    if person.org:
        lines.append(f"ORG:{person.org}")
    return "\r\n".join([*lines, "END:VCARD", ""])


def write(people: int, path: Path, seed: int = 7) -> int:
    """A book of so many people, and its labels; how many cards it has."""
    maker = Maker(seed)
    cards = maker.cards(maker.people(people))
    path.write_text("".join(text for _, text in cards), encoding="utf-8", newline="")
    labels = "".join(f"{person.number}\t{person.trap}\n" for person, _ in cards)
    path.with_suffix(".labels").write_text(labels, encoding="utf-8")
    return len(cards)


if __name__ == "__main__":
    write(int(sys.argv[1]), Path(sys.argv[2]), int(sys.argv[3]) if len(sys.argv) > 3 else 7)
