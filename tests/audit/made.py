"""Books in which each value is a word or a number of its own, with what stands in them.

Nothing here comes from the package: texts are made by hand, and so are the counts.
"""

from __future__ import annotations

import base64
import random
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

CONSONANTS, VOWELS = "bdfgklmnprstvz", "aeiou"


class Fact(NamedTuple):
    """A value: its kind, and what it is found by."""

    kind: str
    """``word``, ``number`` (its last digits), ``date`` (ISO 8601) or ``blob``."""
    key: str
    field: str
    """The trade word of the field."""

    @classmethod
    def of(cls, kind: str, text: str, field: str) -> Fact:
        """The fact that a text is somewhere."""
        return cls(kind, digits(text) if kind == "number" else text.lower(), field)


def digits(text: str) -> str:
    """What a number is found by: its last nine digits."""
    return "".join(filter(str.isdigit, text))[-9:]


@dataclass(slots=True)
class Made:
    """A book: its text, and what stands in it."""

    name: str
    octets: bytes
    people: int = 0
    blank: int = 0
    bad: int = 0
    """Lines and rows that are no values, and are set aside."""
    values: int = 0
    facts: list[Fact] = field(default_factory=list)
    nothing: int = 0
    """Cells that mean nothing."""
    above: int = 0
    """Cells above the headings."""
    skipped: list[Fact] = field(default_factory=list)
    """Facts of columns that the layout skips."""
    repeated: int = 0
    """Values that only say again what others say."""


class Mint:
    """Makes words, numbers and days that no other value has."""

    def __init__(self, chance: random.Random) -> None:
        self.chance = chance
        self.at = chance.randrange(10_000)
        self.calls = chance.randrange(100)

    def word(self) -> str:
        """A word of six letters."""
        self.at += 1
        number, found = self.at, ""
        for _ in range(3):
            number, place = divmod(number, 70)
            found += CONSONANTS[place // 5] + VOWELS[place % 5]
        return found.title()

    def number(self) -> str:
        """A telephone number from a range for fiction."""
        self.calls += 1
        first = ("07700 900", "01632 960")[self.calls // 1000 % 2]
        return f"{first}{self.calls % 1000:03}"

    def day(self) -> str:
        """A day that no other value has."""
        self.at += 1
        months, day = divmod(self.at, 28)
        years, month = divmod(months, 12)
        return f"{1930 + years % 70}-{month + 1:02}-{day + 1:02}"

    def picture(self) -> str:
        """A picture in base64."""
        return base64.b64encode(b"\x89PNG\r\n\x1a\n" + self.word().encode() * 3).decode()


def escaped(text: str) -> str:
    return (text.replace("\\", "\\\\").replace(",", "\\,").replace(";", "\\;")
            .replace("\n", "\\n"))  # fmt: skip


class Card:
    """One card in the making."""

    def __init__(self, book: Made, mint: Mint, version: str) -> None:
        self.book = book
        self.mint = mint
        self.chance = mint.chance
        self.version = version
        self.lines: list[str] = []
        self.groups = 0

    def fact(self, kind: str, key: str, of: str) -> str:
        self.book.facts.append(Fact.of(kind, key, of))
        self.book.values += 1
        return key

    def word(self, of: str) -> str:
        return self.fact("word", self.mint.word(), of)

    def line(self, head: str, value: str) -> None:
        """A property, quoted-printable in old cards where it must be."""
        if self.version == "2.1" and not (value.isascii() and "\n" not in value):
            coded = "".join(f"={octet:02X}" for octet in value.encode())
            self.lines.append(f"{head};CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:{coded}")
        else:
            self.lines.append(f"{head}:{value}")

    def text(self, value: str) -> str:
        if self.version == "2.1":
            return value.replace(";", "\\;")
        return escaped(value)

    def name(self) -> None:
        parts = [self.word("name") for _ in range(2)]
        more = ["", "", ""]
        for at in range(3):
            if self.chance.random() < 0.15:
                more[at] = self.word("name")
        self.line("N", ";".join([*parts, *more]))
        said = " ".join(filter(None, [more[1], parts[1], more[0], parts[0], more[2]]))
        if self.chance.random() < 0.75:
            self.line("FN", said)
            self.book.values += 1
            self.book.repeated += 1
        elif self.chance.random() < 0.5:
            self.line("FN", self.word("name") + " Other")
        if self.version == "4.0" and self.chance.random() < 0.1:
            self.lines[0] = self.lines[0].replace("N:", "N;ALTID=1:", 1)
            self.lines.append(f"N;ALTID=1;LANGUAGE=ja:{self.word('name')};{self.word('name')};;;")

    def types(self, *words: str) -> str:
        found = [word for word in words if self.chance.random() < 0.3]
        if not found:
            return ""
        if self.version == "2.1":
            return "".join(f";{word.upper()}" for word in found)
        return f";TYPE={','.join(found)}"

    def labelled(self, head: str, value: str) -> None:
        """Now and then under a label of its own."""
        if self.chance.random() < 0.12:
            self.groups += 1
            self.line(f"item{self.groups}.{head}", value)
            self.line(f"item{self.groups}.X-ABLabel", f"Boat {self.chance.choice('AB')}")
        else:
            self.line(head, value)

    def fill(self) -> str:
        """All of it."""
        self.name()
        rare = self.chance.random
        for _ in range(self.chance.choice([0, 1, 1, 2, 3])):
            self.labelled("TEL" + self.types("home", "cell", "work"),
                          self.fact("number", self.mint.number(), "phone"))  # fmt: skip
        if self.version == "4.0" and rare() < 0.1:
            number = self.fact("number", self.mint.number(), "phone").replace(" ", "")
            self.line("TEL;VALUE=uri", f"tel:{number};phone-context=+44")
        for _ in range(self.chance.choice([0, 1, 1, 2])):
            self.line("EMAIL" + self.types("home", "work"), f"{self.word('email')}@example.org")
        if rare() < 0.5:
            self.address()
        if rare() < 0.3:
            self.line("ORG", ";".join(self.text(self.word("org")) for _ in range(2)))
        for name, of in (("TITLE", "title"), ("ROLE", "role")):
            if rare() < 0.15:
                self.line(name, self.word(of))
        if rare() < 0.2:
            self.line("URL", f"https://{self.word('url').lower()}.test/a")
        if rare() < 0.3:
            day = self.fact("date", self.mint.day(), "birthday")
            self.line("BDAY", day if self.version == "3.0" else day.replace("-", ""))
        if rare() < 0.4:
            note = self.chance.choice(["{}, and; {}", "{}\n{}", "é {} – {}", "{} {}"])
            said = note.format(self.word("note"), self.mint.word())
            self.line("NOTE", self.text(said))
        self.rest()
        return "\r\n".join(["BEGIN:VCARD", f"VERSION:{self.version}", *self.lines, "END:VCARD\r\n"])

    def address(self) -> None:
        parts = ["", "", f"1 {self.word('address')} Lane", self.word("address"), "", "", ""]
        if self.chance.random() < 0.2:
            parts[4] = self.word("address")
        head = "ADR" + self.types("home", "work")
        text = ";".join(map(self.text, parts))
        if self.chance.random() < 0.2 and self.version != "2.1":
            envelope = f"House {self.word('address')}"
            if self.version == "4.0":
                head += f';LABEL="{envelope}"'
            else:
                self.line("LABEL" + head[3:], envelope)
        self.line(head, text)

    def rest(self) -> None:
        rare, newer = self.chance.random, self.version != "2.1"
        if newer and rare() < 0.3:
            words = [self.word("category") for _ in range(self.chance.choice([1, 2]))]
            self.line("CATEGORIES", ",".join(words))
        if newer and rare() < 0.15:
            self.line("NICKNAME", self.word("nickname"))
        if rare() < 0.1:
            picture = self.fact("blob", self.mint.picture(), "photo")
            if self.version == "4.0":
                self.line("PHOTO", f"data:image/png;base64,{picture}")
            elif self.version == "3.0":
                self.line("PHOTO;ENCODING=b;TYPE=PNG", picture)
            else:
                self.lines.append(f"PHOTO;ENCODING=BASE64;PNG:\r\n {picture}\r\n")
        if rare() < 0.15:
            self.line("X-BERTH", self.word("custom"))
        if self.version == "4.0" and rare() < 0.1:
            self.line("GENDER", f";{self.word('gender')}")
        if rare() < 0.06:
            self.lines.append(f"a line of {self.mint.word()} without sense")
            self.book.facts.append(Fact("word", self.lines[-1].split()[3].lower(), "bad"))
            self.book.bad += 1
            self.book.values += 1


def cards(chance: random.Random, mint: Mint, name: str, version: str) -> Made:
    """A book of cards."""
    book = Made(name, b"")
    text = ""
    for _ in range(chance.randint(1, 6)):
        if chance.random() < 0.08:
            text += f"BEGIN:VCARD\r\nVERSION:{version}\r\nNOTE:\r\nEND:VCARD\r\n"
            book.blank += 1
        else:
            text += Card(book, mint, version).fill()
        book.people += 1
    book.octets = text.encode()
    return book


LAYOUT = """name = "made"
[table]
separator = "{separator}"
heading_row = {row}
empty = ["-", "n/a"]
unlisted = "custom"
{columns}
"""
COLUMNS = (
    ("name/family", 'holds = "name/family"'),
    ("name/given", 'holds = "name/given"'),
    ("email", 'holds = "email"'),
    ("phone", 'holds = "phone"\nmany = " / "'),
    ("address/street", 'holds = "address/street"'),
    ("address/locality", 'holds = "address/locality"'),
    ("birthday", 'holds = "birthday"\ndate = "day/month/year"'),
    ("category", 'holds = "category"\nmany = "; "'),
    ("note", 'holds = "note"'),
    ("Telex", "skip = true"),
)


def layout(row: int = 1, separator: str = ";", only: tuple[str, ...] = ()) -> str:
    """The layout file of the tables that `table` makes; with some of its columns only."""
    listed = [(heading, holds) for heading, holds in COLUMNS if not only or heading in only]
    columns = "".join(f'[[column]]\nheading = "{heading}"\n{holds}\n' for heading, holds in listed)
    return LAYOUT.format(row=row, separator=separator, columns=columns)


def table(chance: random.Random, mint: Mint, name: str, row: int) -> Made:
    """A table for that layout, with titles above, blank rows, and a column that nobody lists."""
    book = Made(name, b"")
    lines = []
    for _ in range(row - 1):
        title = mint.word() if chance.random() < 0.7 else ""
        lines.append([title])
        if title:
            book.above += 1
            book.values += 1
    lines.append([heading for heading, _ in COLUMNS] + ["Berth"])
    for _ in range(chance.randint(1, 6)):
        book.people += 1
        if chance.random() < 0.1:
            lines.append([""] * 11)
            book.blank += 1
            continue
        lines.append(list(_cells(chance, mint, book)))
    book.octets = "".join(";".join(map(_quoted, line)) + "\r\n" for line in lines).encode()
    return book


def _cells(chance: random.Random, mint: Mint, book: Made) -> Iterator[str]:
    def fact(kind: str, key: str, of: str) -> str:
        book.facts.append(Fact.of(kind, key, of))
        book.values += 1
        return key

    def word(of: str) -> str:
        return fact("word", mint.word(), of)

    yield word("name")
    yield word("name")
    yield f"{word('email')}@example.org" if chance.random() < 0.7 else ""
    numbers = [mint.number() for _ in range(chance.choice([0, 1, 1, 2]))]
    yield " / ".join(fact("number", number, "phone") for number in numbers)
    if chance.random() < 0.6:
        yield f"{chance.randint(1, 99)} {word('address')} Lane"
        yield word("address")
    else:
        yield from ("", "")
    if chance.random() < 0.5:
        year, month, day = fact("date", mint.day(), "birthday").split("-")
        yield f"{day}/{month}/{year}"
    else:
        yield ""
    yield "; ".join(word("category") for _ in range(chance.choice([0, 1, 2])))
    if chance.random() < 0.2:
        book.nothing += 1
        book.values += 1
        yield chance.choice(["-", "n/a"])
    else:
        yield f'{word("note")} "said", {mint.word()}\nand more' if chance.random() < 0.5 else ""
    if chance.random() < 0.3:
        telex = mint.word()
        book.skipped.append(Fact("word", telex.lower(), "skipped"))
        book.values += 1
        yield telex
    else:
        yield ""
    yield word("custom") if chance.random() < 0.4 else ""


def _quoted(cell: str) -> str:
    if any(mark in cell for mark in ';"\n'):
        return '"' + cell.replace('"', '""') + '"'
    return cell
