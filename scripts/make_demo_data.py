"""Make the demo data of ``src/roundcard/demo``: the address books of the Withy Canal Trust.

Run from the project's root: ``python scripts/make_demo_data.py``. The seed is fixed, so the same
files come out each time. Names, places and hand-made people stand in ``demo_people.toml``.
"""

from __future__ import annotations

import base64
import csv
import io
import quopri
import random
import struct
import tomllib
import unicodedata
import uuid
import zlib
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent
OUT = HERE.parent / "src" / "roundcard" / "demo"
POOL: dict[str, Any] = tomllib.loads((HERE / "demo_people.toml").read_text(encoding="utf-8"))
RANDOM = random.Random(1794)  # the year in which the canal was dug
SOURCES = ("phone", "skippers3", "skippers4", "ledger", "newsletter", "school", "twin")
STATES = {"A": "Active", "L": "Lapsed", "H": "Honorary"}


@dataclass
class Person:
    """One person, as they really are, and in which sources they stand under which words."""

    given: str = ""
    family: str = ""
    prefix: str = ""
    suffix: str = ""
    org: str = ""
    email: str = ""
    cell: str = ""
    home: str = ""
    work: str = ""
    born: str = ""
    street: str = ""
    town: str = ""
    postcode: str = ""
    country: str = ""
    boat: str = ""
    note: str = ""
    spoken: tuple[str, str] = ("", "")
    lists: dict[str, dict[str, Any]] = field(default_factory=dict)

    @property
    def full(self) -> str:
        words = (self.prefix, self.given, self.family, self.suffix)
        return " ".join(filter(None, words)) or self.org

    @property
    def uid(self) -> str:
        key = f"{self.full}/{self.email}/{self.cell}/{self.born}"
        return f"urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, key)}"


def plain(text: str) -> str:
    """Text without accents, as people type it in a hurry."""
    return "".join(c for c in unicodedata.normalize("NFD", text) if not unicodedata.combining(c))


def pick(name: str) -> Any:
    return RANDOM.choice(POOL[name])


def chance(share: float) -> bool:
    return RANDOM.random() < share


def number(area: str, first: int, digits: int = 3) -> str:
    return f"{area}{first + RANDOM.randrange(10**digits - first % 10**digits):0{digits}d}"


def address(person: Person, town: int | None = None) -> None:
    name, area = POOL["towns"][town if town is not None else RANDOM.randrange(4)]
    person.street = f"{RANDOM.randint(1, 88)} {pick('streets')}"
    person.town = name
    person.postcode = (
        f"{area} {RANDOM.randint(1, 9)}{RANDOM.choice('ABDEFGHJ')}{RANDOM.choice('LNPQRS')}"
    )


def mailbox(person: Person) -> str:
    base = plain(f"{person.given}.{person.family}").lower().replace(" ", "").replace("'", "")
    return f"{base}@example.{RANDOM.choice(['org', 'net', 'test'])}"


def make_english(count: int) -> list[Person]:
    names = [(given, family) for given in POOL["given"] for family in POOL["family"]]
    RANDOM.shuffle(names)
    people = []
    for at in range(count):
        given, family = names[at]
        person = Person(given, family)
        person.email = mailbox(person) if chance(0.8) else ""
        person.cell = number("07700 900", 0) if chance(0.75) else ""
        person.home = number("01632 960", 0) if chance(0.5) else ""
        person.born = birthday() if chance(0.5) else ""
        person.note = pick("notes") if chance(0.2) else ""
        if chance(0.7):
            address(person)
        people.append(person)
    return people


def birthday() -> str:
    return f"{RANDOM.randint(1936, 2005)}-{RANDOM.randint(1, 12):02}-{RANDOM.randint(1, 28):02}"


def make_families(count: int) -> list[Person]:
    """Households: one address, one landline, one family name."""
    people = []
    for at in range(count):
        family = POOL["family"][at * 3 % len(POOL["family"])]
        first = Person(RANDOM.choice(POOL["given"]), family, home=number("01632 960", 500))
        address(first)
        for given in RANDOM.sample(POOL["given"], RANDOM.randint(2, 4)):
            member = Person(given, family, home=first.home, street=first.street,
                            town=first.town, postcode=first.postcode)  # fmt: skip
            member.cell = number("07700 900", 0) if chance(0.4) else ""
            member.email = mailbox(member) if chance(0.5) else ""
            member.lists = {RANDOM.choice(("phone", "ledger")): {}}
            people.append(member)
    return people


def standing(*names: str) -> dict[str, dict[str, Any]]:
    """Those sources, each with nothing peculiar said."""
    return {name: {} for name in names}


def make_german() -> list[Person]:
    people: list[Person] = []
    for given, family in zip(POOL["german_forms"], POOL["german_family"], strict=True):
        for name in (family, RANDOM.choice(POOL["german_family"]))[: 1 + (len(people) % 3 > 0)]:
            person = Person(given, name, prefix=POOL["german_forms"][given])
            person.org = pick("german_schools")
            person.work = number(RANDOM.choice(["030 23125 ", "040 66969 ", "0221 4710 "]), 0)
            person.email = f"{plain(name).lower().replace(' ', '').replace('ß', 'ss')}@example.net"
            person.street = f"{pick('german_streets')} {RANDOM.randint(1, 60)}"
            person.town = pick("german_towns")
            person.lists = standing("school", *(["newsletter"] if chance(0.3) else []))
            people.append(person)
    return people


def make_twin() -> list[Person]:
    people = []
    for given in POOL["french_given"]:
        for family in RANDOM.sample(POOL["french_family"], 2):
            person = Person(given, family, born=birthday() if chance(0.6) else "")
            person.email = mailbox(person)
            person.cell = "06 39 98 " + f"{RANDOM.randint(0, 99):02} {RANDOM.randint(0, 99):02}"
            person.street = f"{RANDOM.randint(1, 40)} {pick('french_streets')}"
            person.postcode, person.town = pick("french_towns")
            person.country = "France"
            person.boat = pick("boats") if chance(0.3) else ""
            person.lists = standing("twin", *(["newsletter"] if chance(0.25) else []))
            people.append(person)
    for family, given, spoken_family, spoken_given in POOL["japanese"]:
        person = Person(given, family, spoken=(spoken_family, spoken_given), country="日本")
        person.email = f"{len(people)}.suimon@example.org"
        person.town, person.born = "水門市", birthday()
        person.lists = standing("twin", *(["skippers4"] if len(people) % 3 == 0 else []))
        people.append(person)
    return people


def hand_made() -> list[Person]:
    people = []
    for said in POOL["people"]:
        keys = {k: v for k, v in said.items() if k not in ("town", "in")}
        person = Person(**keys, lists=said["in"])
        if "town" in said:
            address(person, said["town"])
        people.append(person)
    return people


def spread(people: list[Person]) -> None:
    """Put those who stand nowhere yet into sources: about a third of them into several."""
    for person in people:
        if person.lists:
            continue
        homes = ["phone", "ledger", "newsletter", "skippers3", "skippers4"]
        weights = [5, 6, 4 if person.email else 0, 2, 2]
        many = RANDOM.choices((1, 2, 3), (58, 32, 10))[0]
        chosen: list[str] = []
        while len(chosen) < many:
            name = RANDOM.choices(homes, weights)[0]
            if name not in chosen:
                chosen.append(name)
        person.lists = {name: {} for name in chosen}
        if "skippers3" in chosen or "skippers4" in chosen:
            person.boat = pick("boats")


def spoken_name(person: Person, source: str, how: dict[str, Any]) -> str:
    """The whole name as a source spells it."""
    if "name" in how:
        return str(how["name"])
    if not person.given:
        return person.full
    given = POOL["short"].get(person.given, person.given) if chance(0.5) else person.given
    kind = RANDOM.randrange(8)
    if source == "ledger":
        forms = [f"{person.family}, {person.given}", f"{given} {person.family}",
                 f"{person.given[0]}. {person.family}", f"{person.given} {person.family}".upper(),
                 f"Mrs {person.given} {person.family}"]  # fmt: skip
        return forms[kind] if kind < len(forms) else f"{person.given} {person.family}"
    if kind == 0:
        return f"{given} {person.family}".lower()
    if kind == 1 and not person.full.isascii():
        return person.full.encode("utf-8").decode("cp1252", "replace").replace("\ufffd", "")
    if kind == 2:
        return plain(f"{given} {person.family}")
    return f"{given} {person.family}"


def styled(phone: str) -> str:
    """A number in one of the many ways in which people write it."""
    digits = phone.replace(" ", "")
    if (
        not digits.isdecimal()
        or not phone.startswith("0")
        or phone.startswith(("06", "030", "040"))
    ):
        return phone
    abroad = ["+44 " + phone[1:], "0044" + digits[1:]]
    marks = [f"({phone[:5]}) {phone[6:]}", phone.replace(" ", "-"), "+44 (0)" + phone[1:]]
    forms = [phone, digits, *abroad, *marks]
    return RANDOM.choice(forms)


def picture(seed: int) -> str:
    """A tiny portrait, drawn here, as base64 of a PNG: a boat on water under a coloured sky."""
    size = 24
    sky = [(240, 200, 120), (150, 200, 230), (230, 170, 190)][seed % 3]
    rows = b""
    for y in range(size):
        rows += b"\0"
        for x in range(size):
            boat = 12 <= y < 16 and 4 + (y - 12) <= x < 20 - (y - 12)
            cabin = 8 <= y < 12 and 8 <= x < 14
            colour = (150, 40, 40) if boat else (60, 60, 60) if cabin else (60, 110, 150)
            rows += bytes(colour if boat or cabin or y >= 16 else sky)

    def chunk(kind: bytes, data: bytes) -> bytes:
        body = kind + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    png = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", size, size, 8, 2, 0, 0, 0))
    png += chunk(b"IDAT", zlib.compress(rows, 9)) + chunk(b"IEND", b"")
    return base64.b64encode(png).decode("ascii")


def quoted(text: str, charset: str = "utf-8") -> str:
    octets = quopri.encodestring(text.encode(charset), quotetabs=False)
    return octets.decode("ascii").replace("=\n", "=\r\n").replace("\r\r", "\r")


def old_property(name: str, params: str, value: str) -> str:
    """A property as a vCard 2.1 phone writes it: quoted-printable where it is not ASCII."""
    if value.isascii() and "\n" not in value:
        return f"{name}{params}:{value}"
    charset = "ISO-8859-1" if RANDOM.random() < 0.3 and fits(value, "latin-1") else "UTF-8"
    text = quoted(value.replace("\n", "\r\n"), charset).replace("\r\n", "=0D=0A") if "\n" in value \
        else quoted(value, charset)  # fmt: skip
    return f"{name}{params};CHARSET={charset};ENCODING=QUOTED-PRINTABLE:{text}"


def fits(text: str, charset: str) -> bool:
    try:
        text.encode(charset)
    except UnicodeEncodeError:
        return False
    return True


def write_phone(people: list[Person]) -> None:
    """The volunteer coordinator's old phone: vCard 2.1."""
    out = []
    for at, person in enumerate(people):
        lines = ["BEGIN:VCARD", "VERSION:2.1"]
        if person.lists["phone"].get("only") != "email":
            name = ";".join((person.family, person.given, "", person.prefix, person.suffix))
            lines.append(old_property("N", "", name))
            lines.append(old_property("FN", "", person.full))
        if person.org:
            lines.append(old_property("ORG", "", person.org))
        if person.cell:
            lines.append(f"TEL;CELL;PREF:{styled(person.cell)}")
        if person.home:
            lines.append(f"TEL;HOME;VOICE:{styled(person.home)}")
        if person.work:
            lines.append(f"TEL;WORK:{person.work}")
        if person.email:
            lines.append(f"EMAIL;INTERNET:{person.email.upper() if chance(0.1) else person.email}")
        if person.street:
            value = f";;{person.street};{person.town};;{person.postcode};"
            lines.append(old_property("ADR", ";HOME", value))
        if person.born and chance(0.6):
            lines.append(f"BDAY:{person.born.replace('-', '')}")
        if person.note:
            lines.append(
                old_property(
                    "NOTE", "", person.note + ("\nTold on the towpath" if chance(0.3) else "")
                )
            )
        if at in (3, 17):
            data = picture(at)
            cut = [data[i : i + 72] for i in range(0, len(data), 72)]
            lines.append("PHOTO;ENCODING=BASE64;TYPE=PNG:" + "\r\n ".join(cut) + "\r\n")
        if at % 11 == 5:
            lines.append("X-SPEED-DIAL:" + str(at % 9 + 1))
        lines.append("END:VCARD")
        out.append("\r\n".join(lines) + "\r\n")
    (OUT / "coordinator-phone.vcf").write_bytes("".join(out).encode("utf-8"))


def escaped(text: str) -> str:
    return text.replace("\\", "\\\\").replace(",", "\\,").replace(";", "\\;").replace("\n", "\\n")


def folded(lines: list[str]) -> str:
    out = []
    for line in lines:
        while len(line.encode("utf-8")) > 74:
            at = 74
            while len(line[:at].encode("utf-8")) > 74:
                at -= 1
            out.append(line[:at])
            line = " " + line[at:]
        out.append(line)
    return "\r\n".join(out) + "\r\n"


def write_skippers(people: list[Person], name: str, version: str) -> None:
    """The boat skippers' cards: 3.0 from one program, 4.0 from another."""
    new = version == "4.0"
    out = []
    for at, person in enumerate(people):
        lines = ["BEGIN:VCARD", f"VERSION:{version}", "FN:" + escaped(person.full)]
        parts = [person.family, person.given, "", person.prefix, person.suffix]
        native = any(person.spoken)
        tie = ";ALTID=1;LANGUAGE=ja" if native else ""
        lines.append(f"N{tie}:" + ";".join(escaped(part) for part in parts))
        if native:
            lines.append(
                "N;ALTID=1;PHONETIC=script;SCRIPT=Kana:" + ";".join((*person.spoken, "", "", ""))
            )
        if new:
            lines.append("UID:" + person.uid)
        if person.cell:
            digits = person.cell.replace(" ", "")
            uri = f"TEL;VALUE=uri;TYPE=cell;PREF=1:tel:+44-{digits[1:]}"
            text = f"TEL;TYPE=CELL,PREF:{styled(person.cell)}"
            lines.append(uri if new and not native else text)
        if person.home:
            lines.append(f"line{at}.TEL:{person.home}")
            lines.append(
                f"line{at}.X-LABEL:lock cottage" if at % 2 else f"line{at}.X-LABEL:on board"
            )
        if person.email:
            lines.append(f"EMAIL;TYPE={'home' if new else 'INTERNET,HOME'}:{person.email}")
        if person.street:
            lines.append(
                f"ADR;TYPE=home:;;{escaped(person.street)};{escaped(person.town)};;{person.postcode};"
            )
        if person.born:
            bare = person.born.replace("-", "")
            lines.append(
                f"BDAY:{'--' + bare[4:] if new and at % 3 == 0 else bare if new else person.born}"
            )
        lines.append(f"ORG:Withy Canal Trust;Skippers{';Trip boats' if at % 4 == 0 else ''}")
        lines.append("CATEGORIES:Skippers" + (",First aid" if at % 3 == 0 else ""))
        if person.boat:
            lines.append("X-BOAT-NAME:" + escaped(person.boat))
        if person.note:
            lines.append("NOTE:" + escaped(f"{person.note}, and steers well; ask first"))
        if at == 4:
            kind = "PHOTO:data:image/png;base64," if new else "PHOTO;ENCODING=b;TYPE=PNG:"
            lines.append(kind + picture(at))
        if new and at == 2:
            lines += ["GENDER:F", "LANG;PREF=1:cy", "ANNIVERSARY:20090620",
                      "RELATED;TYPE=spouse;VALUE=text:Gwilym"]  # fmt: skip
        lines.append("END:VCARD")
        out.append(folded(lines))
    if new:
        members = ["MEMBER:" + person.uid for person in people[:4]]
        out.append(folded(["BEGIN:VCARD", "VERSION:4.0", "KIND:group", "FN:Regatta crew",
                           "UID:urn:uuid:5e9a1c6e-0000-5000-8000-000000000001", *members,
                           "END:VCARD"]))  # fmt: skip
    (OUT / name).write_bytes("".join(out).encode("utf-8"))


def write_rows(name: str, rows: list[list[str]], encoding: str, separator: str) -> None:
    text = io.StringIO(newline="")
    csv.writer(text, delimiter=separator, lineterminator="\r\n").writerows(rows)
    (OUT / name).write_bytes(text.getvalue().encode(encoding))


def write_ledger(people: list[Person]) -> None:
    """The membership secretary's sheet: a whole name, two phones in a cell, columns long empty."""
    head = ["No.", "Name", "Phones", "E-mail", "Street", "Town", "Post code", "Born", "Joined",
            "State", "Key no.", "Telex", "Fax (old)", "Remarks", "Owner"]  # fmt: skip
    rows = [head]
    for at, person in enumerate(people, 101):
        how = person.lists["ledger"]
        if "town" in how:
            address(person, how["town"])
        name = spoken_name(person, "ledger", how)
        phones = " / ".join(
            styled(phone) for phone in (person.home, person.cell, person.work) if phone
        )
        year, month, day = (person.born or "--").split("-")
        born = f"{day}/{month}/{year}" if person.born else ""
        joined = (
            f"{RANDOM.randint(1, 12):02}/{RANDOM.randint(1, 28):02}/{RANDOM.randint(1988, 2025)}"
        )
        state = RANDOM.choices("ALH", (8, 3, 1))[0]
        row = [str(at), name, phones, person.email, person.street, person.town, person.postcode,
               born, joined if chance(0.9) else "-", state, f"K{at:04}" if at % 7 == 0 else "",
               "", "", person.note, "I. Harrow"]  # fmt: skip
        rows.append(
            [cell if fits(cell, "cp1252") else plain(cell).replace("Ł", "L") for cell in row]
        )
        if at in (117, 140, 141):
            rows.append([""] * len(head))
    write_rows("ledger.csv", rows, "cp1252", ";")


def write_newsletter(people: list[Person]) -> None:
    """The newsletter list: names and e-mail addresses, no headings."""
    rows = []
    for person in people:
        email = person.email.replace("example.", "Example.") if chance(0.1) else person.email
        rows.append([spoken_name(person, "newsletter", person.lists["newsletter"]), email])
    RANDOM.shuffle(rows)
    write_rows("newsletter.csv", rows, "utf-8", ",")


def write_school(people: list[Person]) -> None:
    """The school visits desk's list, kept in German."""
    rows = [["Anrede", "Vorname", "Nachname", "Schule", "Straße", "PLZ Ort", "Telefon", "Telefax",
             "E-Mail", "Besuch am", "Bemerkung", "Kürzel"]]  # fmt: skip
    for at, person in enumerate(people):
        visit = (
            f"{RANDOM.randint(1, 28):02}.{RANDOM.randint(3, 10):02}.{RANDOM.randint(2023, 2026)}"
        )
        phone = person.work if at % 4 else person.work.replace("0", "+49 ", 1)
        note = "Klasse 4b, 26 Kinder; mit Bollerwagen" if at % 5 == 0 else ""
        rows.append([person.prefix, person.given, person.family, person.org, person.street,
                     person.town, phone, "", person.email, visit, note, ""])  # fmt: skip
    rows.insert(8, [""] * 12)
    write_rows("school-visits.csv", rows, "utf-8-sig", ";")


def write_twin(people: list[Person]) -> None:
    """The twin waterway's list: French headings, French and Japanese people."""
    rows = [["Nom", "Prénom", "Lecture du nom", "Lecture du prénom", "Courriel", "Portable",
             "Adresse", "Code postal", "Ville", "Pays", "Né le", "Bateau", "Télétype"]]  # fmt: skip
    for person in people:
        phone = person.cell if chance(0.6) else person.cell.replace("0", "+33 ", 1)
        born = person.born.replace("-", "/")
        rows.append([person.family.upper() if chance(0.4) else person.family, person.given,
                     *person.spoken, person.email, phone, person.street, person.postcode,
                     person.town, person.country, born, person.boat, ""])  # fmt: skip
    write_rows("twin-waterway.csv", rows, "utf-8", ",")


LATER = {
    "ledger.csv": ("windows-1252", [
        ("ralph.coppersluice@example.net", "ralph.c@example.org"),
        ("17 Bottom Lock;Lockham;QX7 9GL", "6 Wharf Street;Nether Pound;QX2 9DS"),
        ("Una Poundstone;", "Una Ropewalker;"),
        ("una.poundstone@", "una.ropewalker@"),
        ("K0126;;;Away in August, back for the regatta", "K0126;;;"),
    ]),
    "newsletter.csv": ("utf-8", []),
    "skippers-now.vcf": ("utf-8", [("7700900369", "7700900713")]),
}  # fmt: skip
"""What is another in the sources a month later: somebody has another address of mail, moved,
married, has no remark any more, has another telephone."""
GONE = ("114;WINIFRED GONGOOZLE", "Flora Culverden,")
NEW = {
    "ledger.csv": [
        "174;Bryony Lockhouse;07700 900711;bryony.lockhouse@example.org;4 Lock Lane;Lockham;"
        "QX7 7GQ;;21/11/2026;A;;;;;I. Harrow",
        "175;Edmund Feeder;(01632) 960712;;9 Heron Close;Withy Bridge;QX4 4HN;;22/11/2026;A;;;;;"
        "I. Harrow",
    ],
    "newsletter.csv": ["Sunniva Brindle,sunniva.brindle@example.net"],
}  # fmt: skip


def write_later() -> None:
    """The sources that are exported anew a month later."""
    folder = OUT / "a-month-later"
    folder.mkdir(exist_ok=True)
    for name, (encoding, edits) in LATER.items():
        text = (OUT / name).read_bytes().decode(encoding)
        end = "\r\n" if "\r\n" in text else "\n"
        for before, after in edits:
            assert text.count(before) == 1, before
            text = text.replace(before, after)
        lines = [line for line in text.split(end) if not line.startswith(GONE)]
        last = max(at for at, line in enumerate(lines) if line.strip(";, "))
        for more in NEW.get(name, []):
            last += 1
            lines.insert(last, more)
        (folder / name).write_bytes(end.join(lines).encode(encoding))


def main() -> None:
    people = hand_made() + make_families(12) + make_english(120) + make_german() + make_twin()
    spread(people)
    lists = {name: [p for p in people if name in p.lists] for name in SOURCES}
    OUT.mkdir(parents=True, exist_ok=True)
    write_phone(lists["phone"])
    write_skippers(lists["skippers3"], "skippers.vcf", "3.0")
    write_skippers(lists["skippers4"], "skippers-now.vcf", "4.0")
    write_ledger(lists["ledger"])
    write_newsletter(lists["newsletter"])
    write_school(lists["school"])
    write_twin(lists["twin"])
    write_later()
    records = sum(len(listed) for listed in lists.values())
    several = sum(1 for person in people if len(person.lists) > 1)
    print(f"{len(people)} people in {records} records, {several} of them in several sources")
    for name, listed in lists.items():
        print(f"  {name:<11}{len(listed):>4}")


if __name__ == "__main__":
    main()
