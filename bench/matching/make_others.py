"""Make the second half of the labelled books: ``python bench/matching/make_others.py WORLD CONTACTS FOLDER``.

It shares no lists and no habits with ``make_worlds.py``: people live in clubs and offices, an event a
year goes by in which they move, marry, change numbers, and each file is what a clerk of some year
wrote down, with the slips of one hand. It is for scoring at the end; whoever has read its misses makes
a third one.
"""

from __future__ import annotations

import csv
import random
import sys
import tomllib
import unicodedata
from pathlib import Path
from typing import Any

WORDS = tomllib.loads(Path(__file__).with_name("others.toml").read_text("utf-8"))
DOMAINS = ("letterbox.test", "quick.example", "pigeon.test", "homepost.example", "wire.test")
PINYIN = dict(zip("陈刘黄吴周孙马朱胡郭何高林罗郑谢唐秀英丽华桂芳玉兰晓燕雪梅婷慧敏佳怡春霞建国志强伟明海涛俊杰文博浩然小龙永红",
                  ["chen", "liu", "huang", "wu", "zhou", "sun", "ma", "zhu", "hu", "guo", "he", "gao", "lin", "luo", "zheng", "xie", "tang", "xiu", "ying", "li", "hua", "gui", "fang", "yu", "lan", "xiao", "yan", "xue", "mei", "ting", "hui", "min", "jia", "yi", "chun", "xia", "jian", "guo", "zhi", "qiang", "wei", "ming", "hai", "tao", "jun", "jie", "wen", "bo", "hao", "ran", "xiao", "long", "yong", "hong"], strict=True))  # fmt: skip
ROMAJI = dict(zip(["佐藤", "鈴木", "高橋", "田中", "渡辺", "伊藤", "山本", "中村", "小林", "加藤", "吉田", "山田", "松本", "井上", "さくら", "花子", "由美", "恵子", "真理", "陽子", "美咲", "彩", "愛", "直美", "太郎", "健一", "翔太", "大輔", "誠", "直樹", "浩", "達也", "隆", "学"],
                  ["Sato", "Suzuki", "Takahashi", "Tanaka", "Watanabe", "Ito", "Yamamoto", "Nakamura", "Kobayashi", "Kato", "Yoshida", "Yamada", "Matsumoto", "Inoue", "Sakura", "Hanako", "Yumi", "Keiko", "Mari", "Yoko", "Misaki", "Aya", "Ai", "Naomi", "Taro", "Kenichi", "Shota", "Daisuke", "Makoto", "Naoki", "Hiroshi", "Tatsuya", "Takashi", "Manabu"],
                  strict=True))  # fmt: skip
CYR = dict(zip("абвгдежзийклмнопрстуфхцчшщъьюя", ["a", "b", "v", "g", "d", "e", "zh", "z", "i", "y", "k", "l", "m", "n", "o", "p", "r", "s", "t", "u", "f", "h", "ts", "ch", "sh", "sht", "a", "y", "yu", "ya"],
               strict=True))  # fmt: skip

Being = dict[str, Any]


def ascii_of(text: str) -> str:
    """Letters for addresses of mail."""
    folded = unicodedata.normalize(
        "NFD", text.lower().replace("ı", "i").replace("ł", "l").replace("ø", "o")
    )
    return "".join(char for char in folded if char.isascii() and char.isalnum())


class Clerk:
    """Makes people, lets years go by, and writes files."""

    def __init__(self, world: str, seed: int) -> None:
        self.dice = random.Random(f"others {world} {seed}")
        self.lands = WORDS["world"][world]
        self.people = 0
        self.used: set[str] = set()
        self.offices: list[Being] = []

    def fill(self, pattern: str) -> str:
        """A pattern with digits and letters."""
        return "".join(str(self.dice.randrange(10)) if char == "#" else self.dice.choice("ABCEHKMNRTVW") if char == "X" else char
                       for char in self.dice.choice(pattern.split(";")))  # fmt: skip

    def form(self, land: str, kin: str, she: bool) -> str:
        """The family name as a man or a woman bears it."""
        way = WORDS[land].get("women")
        if not she or not way:
            return kin
        if way == "sk":
            return (kin[:-2] + kin[-1] if kin.endswith("ec") else kin) + "ová"
        if way == "bg":
            return kin + "а"
        if way == "lt":
            return kin[:-2] + "ienė" if kin.endswith(("is", "as", "us", "ys")) else kin
        return kin[:-1] + "a" if kin.endswith("s") else kin

    def latin(self, text: str, land: str) -> str:
        """In Latin letters."""
        script = WORDS[land].get("script")
        if script == "han":
            return "".join(PINYIN.get(char, char) for char in text).capitalize()
        if script == "jp":
            return ROMAJI.get(text, text)
        if script == "cyr":
            return "".join(CYR.get(char, char) for char in text.lower()).capitalize()
        return text

    def born(self, kind: str, land: str, kin: str = "", she: bool | None = None) -> Being:
        """Somebody."""
        told, dice = WORDS[land], self.dice
        self.people += 1
        she = dice.random() < 0.5 if she is None else she
        kin = kin or dice.choice(told["kin"].split())
        if told.get("two") and " " not in kin:
            kin = f"{kin} {dice.choice(told['kin'].split())}"
        elif dice.random() < 0.3 and not told.get("script"):
            kin = (
                dice.choice(told["kin"].split())[:4] + dice.choice(told["kin"].split())[-4:].lower()
            )
        given = dice.choice(told["she" if she else "he"].split())
        who = {"id": self.people, "kind": kind, "land": land, "she": she, "given": given, "kin": kin, "family": self.form(land, kin, she),
               "middle": "", "mail": [], "cell": [], "line": [], "born": "", "firm": "", "org": False, "suffix": ""}  # fmt: skip
        if told.get("father"):
            who["middle"] = dice.choice(told["he"].split()).rstrip("й") + ("ова" if she else "ов")
        elif dice.random() < 0.1:
            who["middle"] = dice.choice(told["she" if she else "he"].split())
        who["cell"] = [self.fill(told["cell"])] if dice.random() < 0.75 else []
        who["mail"] = [self.letter(who)] if dice.random() < 0.8 else []
        who["line"] = [self.fill(told["line"])] if dice.random() < 0.3 else []
        who["born"] = (
            f"{dice.randint(1938, 2003)}-{dice.randint(1, 12):02}-{dice.randint(1, 28):02}"
            if dice.random() < 0.35
            else ""
        )
        self.house(who)
        return who

    def letter(self, who: Being) -> str:
        """An address of mail of somebody's own."""
        given, family = (
            ascii_of(self.latin(who[each], who["land"])) for each in ("given", "family")
        )
        first = ascii_of(self.latin(who["family"].split(" ")[0], who["land"]))
        dice = self.dice
        while True:
            local = dice.choice((f"{given}.{first}", f"{given}{first}", f"{first}.{given}", f"{given[:1]}{family}", f"{given[:1]}.{first}",
                                 f"{given}_{dice.randint(1, 99)}", f"{dice.choice(('tulip', 'comet', 'pepper', 'walrus'))}{dice.randint(1, 9999)}"))  # fmt: skip
            made = f"{local}@{dice.choice(DOMAINS)}"
            if made in self.used:
                made = f"{local}{dice.randint(2, 9999)}@{dice.choice(DOMAINS)}"
            if made not in self.used:
                self.used.add(made)
                return made

    def house(self, who: Being) -> None:
        """An address."""
        told = WORDS[who["land"]]
        who["road"] = self.dice.choice(told["road"].split(";")).format(self.dice.randint(1, 180))
        who["town"] = self.dice.choice(told["town"].split(";"))
        who["zip"] = self.fill(told["zip"])

    def society(self, wanted: int) -> list[Being]:
        """People in their houses, clubs and offices."""
        found: list[Being] = []
        while len(found) < wanted:
            land = self.dice.choice(self.lands)
            kind = self.dice.choices(("alone", "home", "heir", "pupil", "club", "office", "works", "namesake", "pair", "boss"),
                                     (50, 18, 0.4, 2, 2, 2.5, 4, 2, 0.5, 1))[0]  # fmt: skip
            found += getattr(self, f"make_{kind}")(land)
        return found

    def make_alone(self, land: str) -> list[Being]:
        """Somebody alone."""
        return [self.born("alone", land)]

    def make_home(self, land: str, kind: str = "home") -> list[Being]:
        """A house with a number, and perhaps a mailbox, of its own."""
        kin = self.dice.choice(WORDS[land]["kin"].split())
        all_ = [
            self.born(kind, land, kin, she)
            for she in (False, True, None)[: self.dice.choice((2, 2, 3))]
        ]
        line, box = (
            self.fill(WORDS[land]["line"]),
            f"{ascii_of(self.latin(kin, land))}.{self.people}@homepost.example",
        )
        shared = self.dice.random() < 0.4
        for who in all_:
            who["line"] = [line]
            who.update({key: all_[0][key] for key in ("road", "town", "zip")})
            if shared:
                who["mail"] = [box, *who["mail"]] if self.dice.random() < 0.4 else [box]
        return list({who["given"]: who for who in reversed(all_)}.values())

    def make_heir(self, land: str) -> list[Being]:
        """A parent and a child of one name."""
        old = self.make_home(land, "heir")[0]
        self.people += 1
        young = {
            **old,
            "id": self.people,
            "mail": [],
            "cell": [self.fill(WORDS[land]["cell"])],
            "born": "",
        }
        young["mail"] = [self.letter(young)]
        if self.dice.random() < 0.4:
            old["suffix"], young["suffix"] = "sen.", "jun."
        return [old, young]

    def make_pupil(self, land: str) -> list[Being]:
        """A parent, and children with the parent's number and mail."""
        kin = self.dice.choice(WORDS[land]["kin"].split())
        parent = self.born("pupil", land, kin)
        parent["cell"] = parent["cell"] or [self.fill(WORDS[land]["cell"])]
        parent["mail"] = parent["mail"] or [self.letter(parent)]
        child = self.born("pupil", land, kin)
        child.update(
            {key: parent[key] for key in ("road", "town", "zip", "cell", "mail")},
            line=[],
            born="2014-05-06",
        )
        return [parent] if child["given"] == parent["given"] else [parent, child]

    def make_club(self, land: str) -> list[Being]:
        """Members reached through the club."""
        box = f"{self.dice.choice(('info', 'verein', 'office', 'club'))}@society{self.people}.test"
        all_ = [self.born("club", land) for _ in range(self.dice.randint(2, 4))]
        for who in all_:
            who["mail"] = [box]
        return all_

    def make_office(self, land: str) -> list[Being]:
        """Colleagues at one switchboard."""
        works = self.make_works(land)[0]
        all_ = [self.born("office", land) for _ in range(self.dice.randint(3, 8))]
        for who in all_:
            who["firm"], who["line"], who["cell"] = works["firm"], works["line"], []
            who.update({key: works[key] for key in ("road", "town", "zip")})
        return [works, *all_]

    def make_works(self, land: str, name: str = "") -> list[Being]:
        """An organisation."""
        told = WORDS[land]
        who = self.born("works", land)
        base = self.dice.choice(told["firm"].split(";")).format(
            name
            or f"{self.dice.choice(told['kin'].split())}{self.people if told.get('script') else ''}"
        )
        who.update(
            org=True,
            given="",
            family="",
            middle="",
            cell=[],
            born="",
            firm=f"{base} {self.dice.choice(told['form'].split(';'))}",
        )
        who["mail"] = [f"{self.dice.choice(('info', 'mail', 'hello'))}@works{self.people}.test"]
        who["line"] = [self.fill(told["line"])]
        return [who]

    def make_boss(self, land: str) -> list[Being]:
        """Somebody, and the firm of that name."""
        who = self.born("boss", land)
        works = self.make_works(land, who["family"])[0]
        works.update({key: who[key] for key in ("road", "town", "zip")}, kind="boss")
        who["line"], who["firm"] = works["line"], works["firm"]
        return [who, works]

    def make_namesake(self, land: str) -> list[Being]:
        """Two of one name."""
        one, other = self.born("namesake", land), self.born("namesake", land)
        other.update(given=one["given"], family=one["family"], she=one["she"])
        return [one, other]

    def make_pair(self, land: str) -> list[Being]:
        """A couple, and their common card."""
        all_ = self.make_home(land, "pair")[:2]
        if len(all_) < 2:
            return all_
        self.people += 1
        both = {**all_[0], "id": self.people, "given": f"{all_[0]['given']} & {all_[1]['given']}", "cell": [], "born": "", "middle": "",
                "mail": all_[0]["mail"][:1]}  # fmt: skip
        return [*all_, both]

    # ── Years ──

    def later(self, was: Being) -> Being:
        """The same, some years on and by another hand."""
        who = {
            **was,
            "mail": list(was["mail"]),
            "cell": list(was["cell"]),
            "line": list(was["line"]),
        }
        dice, told = self.dice, WORDS[was["land"]]
        if dice.random() < 0.12:
            self.house(who)
            who["line"] = []
        if dice.random() < 0.1 and not who["org"]:
            who["mail"] = [self.letter(who), *who["mail"]][: dice.choice((1, 2))]
        if dice.random() < 0.08 and not who["org"]:
            who["cell"] = [self.fill(told["cell"]), *who["cell"]][: dice.choice((1, 2))]
        if (
            who["she"]
            and not who["org"]
            and dice.random() < 0.05
            and was["land"] not in ("CN", "JP", "MX", "BR")
        ):
            new = self.form(was["land"], dice.choice(told["kin"].split()), True)
            who["family"] = new if dice.random() < 0.6 else f"{was['family']}-{new}"
        for key, chance in (
            ("born", 0.5),
            ("middle", 0.5),
            ("line", 0.35),
            ("cell", 0.3),
            ("mail", 0.25),
            ("firm", 0.5),
        ):
            if dice.random() < chance and not (key in ("firm", "mail") and who["org"]):
                who[key] = [] if isinstance(who[key], list) else ""
        if dice.random() < 0.4:
            who.update(road="", town="", zip="")
        if (
            not who["mail"]
            and not who["cell"]
            and not who["line"]
            and not who["road"]
            and not who["born"]
        ):
            key = dice.choice([each for each in ("mail", "cell", "line") if was[each]] or ["road"])
            who[key] = was[key]
            who.update(town=was["town"], zip=was["zip"]) if key == "road" else None
        if not who["org"]:
            self.hand(who, told)
        elif dice.random() < 0.5:
            who["firm"] = who["firm"].rsplit(" ", 1)[0] if " " in who["firm"] else who["firm"]
        return who

    def hand(self, who: Being, told: dict[str, Any]) -> None:
        """How a name is written down."""
        dice = self.dice
        pets = dict(each.split("=") for each in told["pet"].split())
        roll = dice.random()
        if roll < 0.14 and who["given"] in pets:
            who["given"] = pets[who["given"]]
        elif roll < 0.2:
            who["given"] = self.slip(who["given"])
        elif roll < 0.26:
            who["family"] = self.slip(who["family"])
        elif roll < 0.31 and not told.get("script"):
            who["given"], who["middle"] = f"{who['given'][:1]}.", ""
        elif roll < 0.34:
            who["given"], who["family"] = who["family"], who["given"]
        elif roll < 0.37 and " " in who["family"]:
            who["family"] = who["family"].split()[0]
        elif roll < 0.4 and who["mail"]:
            who["family"] = who["middle"] = ""
        elif roll < 0.42 and who["mail"] and who["kind"] == "alone":
            who.update(
                given="", family="", middle="", cell=[], line=[], road="", town="", zip="", born=""
            )
        elif roll < 0.5 and told.get("script"):
            for key in ("given", "family", "middle"):
                who[key] = self.latin(who[key], who["land"])
        elif roll < 0.54:
            who["given"], who["family"] = (unicodedata.normalize("NFC", "".join(
                char for char in unicodedata.normalize("NFD", who[key]) if not unicodedata.combining(char)))
                for key in ("given", "family"))  # fmt: skip
        if dice.random() < 0.03 and who["cell"]:
            number = who["cell"][0]
            who["cell"] = [number[:-2] + number[-1] + number[-2]]

    def slip(self, text: str) -> str:
        """A letter wrong."""
        if len(text) < 4:
            return text
        at = self.dice.randint(1, len(text) - 2)
        return self.dice.choice((text[:at] + text[at + 1 :], text[:at] + text[at] * 2 + text[at + 1 :],
                                 text[:at] + self.dice.choice("eaiorn") + text[at + 1 :]))  # fmt: skip

    # ── Files ──

    def spoken(self, who: Being) -> str:
        """The whole name."""
        if who["org"]:
            return str(who["firm"])
        family_first = WORDS[who["land"]].get("order") and not who["given"].isascii()
        parts = (
            [who["family"], who["given"]]
            if family_first
            else [who["given"], who["middle"], who["family"], who["suffix"]]
        )
        return ("" if family_first else " ").join(filter(None, parts))

    def dialled(self, number: str, land: str) -> str:
        """A number as this clerk writes it."""
        code, _, trunk = WORDS[land]["prefix"].partition(" ")
        bare = number.replace("-", " ")
        if trunk and bare.startswith(trunk):
            bare = bare[len(trunk) :]
        return self.dice.choice((number, f"+{code} {bare}", f"+{code}{bare.replace(' ', '')}"))

    def card(self, who: Being) -> str:
        """A vCard 4.0."""
        lines = [
            "BEGIN:VCARD",
            "VERSION:4.0",
            f"FN:{(self.spoken(who) or (who['mail'] or ['?'])[0]).replace(',', chr(92) + ',')}",
        ]
        if not who["org"]:
            lines.append(f"N:{who['family']};{who['given']};{who['middle']};;{who['suffix']}")
        lines += [f"EMAIL:{each}" for each in who["mail"]]
        lines += [f"TEL;TYPE=cell:{self.dialled(each, who['land'])}" for each in who["cell"]]
        lines += [
            f"TEL;TYPE={'work' if who['org'] or who['kind'] == 'office' else 'home'}:{self.dialled(each, who['land'])}"
            for each in who["line"]
        ]
        if who["road"]:
            lines.append(
                f"ADR:;;{who['road'].replace(',', chr(92) + ',')};{who['town']};;{who['zip']};{who['land']}"
            )
        lines += [f"BDAY:{who['born'].replace('-', '')}"] * bool(who["born"])
        lines += [f"ORG:{who['firm'].replace(';', ' ')}"] * bool(who["firm"])
        return "\r\n".join([*lines, "END:VCARD", ""])


FILES = {
    "register": (("Family", "name/family"), ("Given", "name/given"), ("More names", "name/additional"), ("Post", "email"),
                 ("Handy", "phone/cell"), ("Fixed", "phone"), ("Road", "address/street"), ("Code", "address/postcode"),
                 ("Place", "address/locality"), ("Day", "birthday"), ("House", "org")),
    "callers": (("Person", "name/full"), ("Number", "phone"), ("Write to", "email"), ("Where", "address/street"), ("Place", "address/locality")),
}  # fmt: skip


def write(world: str, contacts: int, folder: Path, seed: int = 7) -> list[Path]:
    """Books of about so many contacts, and their labels; the sources."""
    clerk = Clerk(world, seed)
    desks: list[list[Being]] = [[], [], []]
    for who in clerk.society(round(contacts / 1.4)):
        times = clerk.dice.choices((1, 2, 3), (66, 27, 7))[0]
        for at in range(times):
            clerk.dice.choice(desks).append(
                clerk.later(who) if at or clerk.dice.random() < 0.3 else who
            )
    for desk in desks:
        clerk.dice.shuffle(desk)
    folder.mkdir(parents=True, exist_ok=True)
    paths = [folder / "cards.vcf", folder / "register.csv", folder / "callers.csv"]
    paths[0].write_text("".join(map(clerk.card, desks[0])), "utf-8", newline="")
    for path, desk in zip(paths[1:], desks[1:], strict=True):
        columns = FILES[path.stem]
        with path.open("w", encoding="utf-8", newline="") as file:
            out = csv.writer(file, delimiter=";")
            out.writerow([heading for heading, _ in columns])
            for who in desk:
                cells = {"name/family": who["family"], "name/given": who["given"], "name/additional": who["middle"], "name/full": clerk.spoken(who),
                         "email": (who["mail"] or [""])[0], "phone/cell": clerk.dialled(who["cell"][0], who["land"]) if who["cell"] else "",
                         "address/street": who["road"], "address/postcode": who["zip"], "address/locality": who["town"],
                         "birthday": who["born"], "org": who["firm"]}  # fmt: skip
                number = who["line"] if path.stem == "register" else [*who["cell"], *who["line"]]
                cells["phone"] = clerk.dialled(number[0], who["land"]) if number else ""
                out.writerow([cells[holds] for _, holds in columns])
        text = f'name = "{path.stem}"\n[table]\nseparator = "semicolon"\n' + "".join(
            f'\n[[column]]\nheading = "{heading}"\nholds = "{holds}"\n'
            for heading, holds in columns
        )
        (folder / f"{path.stem}.toml").write_text(text, "utf-8")
    lines = [
        f"{source}\t{at}\t{who['id']}\t{who['kind']}\n"
        for source, desk in enumerate(desks)
        for at, who in enumerate(desk, 1)
    ]
    (folder / "labels.tsv").write_text("".join(lines), "utf-8")
    return paths


if __name__ == "__main__":
    write(sys.argv[1], int(sys.argv[2]), Path(sys.argv[3]), *map(int, sys.argv[4:5]))
