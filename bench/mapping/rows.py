"""Fills invented layouts with made-up people, the same ones each time."""

from __future__ import annotations

import random
import re
import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent
ROWS = 60
_SEPARATORS = {"tab": "\t", "bar": "|"}
_SIZES = ["S", "M", "L", "XL"]
_OTHER_POOLS = ("second", "third", "fourth")
_BLANKS = ("email", "phone", "cell", "note", "job", "url", "birthday", "category", "region")


@dataclass(frozen=True)
class Expected:
    """One column of an invented layout."""

    heading: str
    holds: tuple[str, ...]
    """What a careful person would accept."""
    kind: str


@dataclass(frozen=True)
class Invented:
    """One invented layout."""

    name: str
    language: str
    separator: str
    encoding: str
    headings: bool
    above: tuple[str, ...]
    under: tuple[str, ...]
    """A row of units or explanations under the headings."""
    columns: tuple[Expected, ...]
    pools: Path
    """Where the people come from."""
    file: str


def invented_layouts(which: str = "") -> list[Invented]:
    """All layouts under ``layouts/``, or those of another set."""
    found = []
    home = HERE / which
    for path in sorted((home / "layouts").glob("*.toml")):
        for told in tomllib.loads(path.read_text(encoding="utf-8"))["layout"]:
            columns = []
            for line in told["columns"].strip().splitlines():
                heading, holds, kind = (part.strip() for part in line.split(" | "))
                columns.append(Expected(heading, tuple(holds.split(" or ")), kind))
            separator = told.get("separator", ",")
            found.append(Invented(
                told["name"], told["language"], _SEPARATORS.get(separator, separator),
                told.get("encoding", "utf-8"), told.get("headings", True),
                tuple(told.get("above", ())), tuple(told.get("under", ())), tuple(columns),
                HERE / ("second" if which in _OTHER_POOLS else "") / "pools.toml", path.stem,
            ))  # fmt: skip
    return found


def file_of(layout: Invented) -> bytes:
    """The table as a file in its own dialect."""
    maker = People(layout.language, random.Random(layout.name), layout.pools)
    lines = list(layout.above)
    if layout.headings:
        lines.append(_line([column.heading for column in layout.columns], layout.separator))
    if layout.under:
        lines.append(_line(list(layout.under), layout.separator))
    for number in range(ROWS):
        person = maker.person(number)
        cells = [maker.cell(column.kind, person) for column in layout.columns]
        lines.append(_line(cells, layout.separator))
    text = "\r\n".join(lines) + "\r\n"
    if layout.encoding == "utf-16":
        return text.encode("utf-16")
    return text.encode(layout.encoding, "replace")


def _line(cells: list[str], separator: str) -> str:
    return separator.join(
        '"' + cell.replace('"', '""') + '"' if separator in cell or '"' in cell else cell
        for cell in cells
    )


def _bare_street(text: str) -> str:
    """A street without its number."""
    return " ".join(re.sub(r"\d+\s?[a-z]?\b(?:-\d+)?", "", text).replace(",", " ").split())


class People:
    """Makes people of one language."""

    def __init__(self, language: str, chance: random.Random, path: Path) -> None:
        pools = tomllib.loads(path.read_text(encoding="utf-8"))
        self.pool: dict[str, Any] = pools[language]
        self.language = language
        self.chance = chance

    def person(self, number: int) -> dict[str, str]:
        """The values that belong together."""
        given, family = self.pick("given"), self.pick("family")
        joined = f"{given} {family}"
        if self.language in ("ja", "zh", "ko", "hu"):
            joined = f"{family} {given}" if self.language == "hu" else family + given
        return {"given": given, "family": family, "name": joined, "number": str(number + 1),
                "name-comma": f"{family}, {given}"}  # fmt: skip

    def pick(self, key: str) -> str:
        """One of a pool, its marks filled in."""
        text = str(self.chance.choice(self.pool[key]))
        if key in ("post", "phone", "cell"):
            text = "".join(str(self.chance.randrange(10)) if char == "#" else
                           self.chance.choice("BDEGHLNP") if char == "A" and key == "post" else char
                           for char in text)  # fmt: skip
        return text

    def digits(self, count: int) -> str:
        """A number of so many digits."""
        return "".join(str(self.chance.randrange(1, 10)) for _ in range(count))

    def date(self, first: int, last: int, style: str = "") -> str:
        """A date between two years, as the language writes it."""
        year, month, day = (self.chance.randint(first, last), self.chance.randint(1, 12),
                            self.chance.randint(1, 28))  # fmt: skip
        return str(style or self.pool["date"]).format(y=year, m=month, d=day)

    def cell(self, kind: str, person: dict[str, str]) -> str:
        """One cell; some kinds are often blank."""
        chance = self.chance
        if kind in _BLANKS and chance.random() < 0.2:
            return ""
        if kind in person:
            return person[kind]
        if kind in self.pool and kind != "date":
            return self.pick(kind)
        mail = f"p{chance.randrange(10_000)}@example.org"
        return {
            "email": mail,
            "emails": f"{mail}; q{chance.randrange(1000)}@example.net",
            "phones": f"{self.pick('phone')} / {self.pick('cell')}",
            "birthday": self.date(1935, 2012),
            "isodate": self.date(1935, 2012, "{y}-{m:02}-{d:02}"),
            "recent": self.date(2005, 2024),
            "code-town": f"{self.pick('post')} {self.pick('town')}",
            "address": f"{self.pick('street')}, {self.pick('post')} {self.pick('town')}",
            "id": f"M-{self.digits(4)}",
            "code": f"{chance.choice('ABCXYZ')}{self.digits(6)}",
            "digits9": self.digits(9),
            "digits10": self.digits(10),
            "digits11": self.digits(11),
            "digits14": self.digits(14),
            "cpf": f"{self.digits(3)}.{self.digits(3)}.{self.digits(3)}-{self.digits(2)}",
            "cep": f"{self.digits(5)}-{self.digits(3)}",
            "zip": self.digits(5),
            "state2": chance.choice(["NY", "SP", "RJ", "TX", "CA"]),
            "iban": f"DE{self.digits(2)} {self.digits(4)} {self.digits(4)} {self.digits(4)}",
            "amount": f"{chance.randrange(5, 200)},00" if self.language != "en" else
                      f"{chance.randrange(5, 200)}.00",
            "age": str(chance.randrange(6, 90)),
            "street-nr": f"{_bare_street(self.pick('street'))} {chance.randrange(1, 120)}",
            "street-comma": f"{_bare_street(self.pick('street'))}, {chance.randrange(1, 120)}",
            "street-only": _bare_street(self.pick("street")),
            "standing": chance.choice(["settled", "unsettled", "excused"]),
            "site": f"S{chance.randrange(1, 30)}",
            "house": f"{chance.randrange(1, 120)}{chance.choice(['', '', 'a'])}",
            "size": chance.choice(_SIZES),
            "diet": chance.choice(["", "", "vegan", "nuts"]),
            "class": chance.choice(["3a", "3b", "4c"]),
            "boat": chance.choice(["Dawn", "Kingfisher", "Morning Star", "Avocet"]),
            "initial": chance.choice("ABCDEFGHJ"),
            "initials": f"{chance.choice('ABCDE')}.{chance.choice('FGHJ')}.",
            "use": chance.choice(["home", "work", "mobile"]),
            "department": chance.choice(["IT", "Labor 2", "Archiv", "Depot"]),
            "gender": chance.choice(["m", "f"]),
            "language": chance.choice(["de", "fr", "it"]),
            "url": f"https://www.{person['number']}.example.org",
            "year": str(chance.randint(1935, 2012)),
            "month": str(chance.randint(1, 12)),
            "day": str(chance.randint(1, 28)),
            "picture": f"p{person['number']}.jpg",
            "uuid": f"{self.digits(8)}-{self.digits(4)}-4{self.digits(3)}-8{self.digits(3)}-"
                    f"{self.digits(12)}",
            "coordinates": f"51.{self.digits(4)}, -0.{self.digits(4)}",
            "zone": chance.choice(["Europe/London", "Europe/Berlin"]),
            "pronouns": chance.choice(["she/her", "he/him", "they/them"]),
            "categories": chance.choice(["Donors; Friends", "Skippers", "Friends; Committee"]),
            "kana": chance.choice(["ヤナギ タロウ", "ミズモン サクラ"]),
            "empty": "",
            "empty-ish town": chance.choice(["", "", "", "Lower End"]),
        }[kind]  # fmt: skip
