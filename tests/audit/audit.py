"""The outside auditor: is each value of the sources in what a command wrote, each count true?

It knows what it put into the books, and reads what came out by itself.
"""

from __future__ import annotations

import json
import random
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from audit.found import Found, counted, rows, split_line, values_of, vcards
from audit.made import Card, Fact, Made, Mint, cards, layout, table
from in_process import Done

Run = Callable[[list[str]], Done]
VERSIONS = ("2.1", "3.0", "4.0")
LEAN = ("name/family", "name/given", "email")


@dataclass(slots=True)
class Audit:
    """Commands on the books of one seed."""

    folder: Path
    run: Run
    chance: random.Random
    mint: Mint
    values: int = 0
    """Values that were followed."""
    commands: int = 0

    def go(self) -> None:
        """Audit each kind of command that writes."""
        for each in (self.cards, self.lean, self.table, self.only, self.pick, self.clean,
                     self.clean_table, self.merge, self.edit):  # fmt: skip
            for path in self.folder.iterdir():
                if path.is_file():
                    path.unlink()
            each()

    def book(self, name: str = "a.vcf", version: str = "") -> Made:
        made = cards(self.chance, self.mint, name, version or self.chance.choice(VERSIONS))
        (self.folder / name).write_bytes(made.octets)
        return made

    # commands

    def cards(self) -> None:
        """Card version to version, to jCard, to a table of their own, one file a person."""
        book = self.book()
        name, *options = self.chance.choice([
            ["t.vcf", "--to", f"vcard-{self.chance.choice(VERSIONS)}"], ["t.jcard"], ["t.csv"],
            ["t.xlsx"], ["t.vcf", "--split-into", "people"],
        ])  # fmt: skip
        args = ["convert", "a.vcf", *([] if "--split-into" in options else [name]), *options]
        self.check(args, [book], "people" if "--split-into" in options else name)

    def lean(self) -> None:
        """Into a table that has no room for most of it."""
        book = self.book()
        (self.folder / "lean.toml").write_text(layout(only=LEAN), "utf-8")
        self.check(["convert", "a.vcf", "t.csv", "--to-layout", "lean.toml"], [book], "t.csv")

    def table(self) -> None:
        """A table to cards, or to a leaner one."""
        book = self._table()
        if self.chance.random() < 0.5:
            args = ["convert", "a.csv", "t.vcf", "--layout", "made.toml"]
            self.check(args, [book], "t.vcf", book.skipped)
        else:
            (self.folder / "lean.toml").write_text(layout(only=LEAN), "utf-8")
            args = [
                "convert",
                "a.csv",
                "t.csv",
                "--layout",
                "made.toml",
                "--to-layout",
                "lean.toml",
            ]
            self.check(args, [book], "t.csv", book.skipped)

    def _table(self) -> Made:
        row = self.chance.choice([1, 1, 2, 3])
        book = table(self.chance, self.mint, "a.csv", row)
        (self.folder / "a.csv").write_bytes(book.octets)
        (self.folder / "made.toml").write_text(layout(row), "utf-8")
        return book

    def only(self) -> None:
        """Some fields only, and a value for everybody."""
        book = self.book()
        others = [fact for fact in book.facts if fact.field not in ("name", "phone", "bad")]
        args = ["convert", "a.vcf", "t.vcf", "--only", "name,phone", "--set", "category=Batch"]
        args[4] = "name/full,name/family,name/given,name/additional,name/prefix,name/suffix,phone"
        self.check(args, [book], "t.vcf", others)

    def pick(self) -> None:
        """Some people, and the rest."""
        book = self.book(version=self.chance.choice(["3.0", "4.0"]))
        args = ["pick", "a.vcf", "t.vcf", "--where", "phone present", "--rest", "rest.vcf"]
        report = self.tell(args)
        self.hold(book.facts, ("t.vcf", "rest.vcf"), args)
        people = sum(counted(self.folder / name)[0] for name in ("t.vcf", "rest.vcf"))
        assert people == book.people - book.blank, args
        assert report["people"]["written"] == counted(self.folder / "t.vcf")[0]

    def clean(self) -> None:
        """Cards cleaned, also into a table without room."""
        book = self.book()
        args = ["clean", "a.vcf", "t.vcf", "--changes", "c.csv", "--region", "GB"]
        if self.chance.random() < 0.5:
            (self.folder / "lean.toml").write_text(layout(only=(*LEAN, "phone")), "utf-8")
            args = [*args[:2], "t.csv", *args[3:], "--to-layout", "lean.toml"]
        self.check(args, [book], args[2])

    def clean_table(self) -> None:
        """A table cleaned, its columns kept or fewer."""
        book = self._table()
        args = ["clean", "a.csv", "t.csv", "--changes", "c.csv", "--region", "GB", "--layout",
                "made.toml", "--rule", "usual", "--rule", "phone-apart"]  # fmt: skip
        if self.chance.random() < 0.6:
            one = layout(only=(*LEAN, "phone")).replace('many = " / "', "")
            (self.folder / "lean.toml").write_text(one, "utf-8")
            args += ["--to-layout", "lean.toml"]
        self.check(args, [book], "t.csv" if "--to-layout" in args else "", book.skipped)

    def merge(self) -> None:
        """Two books with the same people, merged, and taken back."""
        version = self.chance.choice(["3.0", "4.0"])
        one = self.book(version=version)
        two = self._again(one, version)
        args = ["merge", "a.vcf", "b.vcf", "t.vcf", "--region", "GB"]
        args += self.chance.choice([[], ["--losers", "note"], ["--losers", "extension"],
                                    ["--prefer", "b.vcf"], ["--prefer", "fullest"]])  # fmt: skip
        if self.chance.random() < 0.3:
            args = ["merge", "b.vcf", "t.vcf", "--into", "a.vcf", "--existing",
                    self.chance.choice(["update", "beside"])]  # fmt: skip
        self.check(args, [one, two], "t.vcf")
        if not (self.folder / "t.merges.jsonl").exists():
            return
        args = ["unmerge", "t.vcf", "t.merges.jsonl", "u.vcf", "--all"]
        self.tell(args)
        lost = [path.name for path in self.folder.glob("t.set-aside*.csv")]
        self.hold([*one.facts, *two.facts], ("u.vcf", *lost), args)

    def _again(self, one: Made, version: str) -> Made:
        """A book with some of the people of another one, who have other things to say."""
        two = Made("b.vcf", b"")
        text = ""
        for found in one.octets.decode().replace("\r\n ", "").split("END:VCARD\r\n")[:-1]:
            names = [
                line for line in found.split("\r\n") if line.startswith(("N:", "FN:", "EMAIL"))
            ]
            if self.chance.random() < 0.5 or not names:
                continue
            card = Card(two, self.mint, version)
            card.lines = names
            two.values += sum(values_of(*split_line(line)[::2], set()) for line in names)
            card.line("TEL", card.fact("number", self.mint.number(), "phone"))
            card.line("BDAY", card.fact("date", self.mint.day(), "birthday"))
            card.line("TITLE", card.word("title"))
            card.rest()
            text += "\r\n".join(["BEGIN:VCARD", f"VERSION:{version}", *card.lines, "END:VCARD\r\n"])
            two.people += 1
        if not text:
            text = f"BEGIN:VCARD\r\nVERSION:{version}\r\nFN:Nobody\r\nEND:VCARD\r\n"
            two.people, two.values = 1, 1
        two.octets = text.encode()
        (self.folder / "b.vcf").write_bytes(two.octets)
        return two

    def edit(self) -> None:
        """A sheet to edit that nobody edited, taken back."""
        book = self.book(version=self.chance.choice(["3.0", "4.0"]))
        if book.people == book.blank:
            return
        done = self.run(["convert", "a.vcf", "e.xlsx", "--to-edit"])
        assert done.code == 0, done
        self.check(["update", "a.vcf", "e.xlsx", "t.vcf", "--yes"], [book], "t.vcf")

    # holding against

    def tell(self, args: list[str]) -> dict[str, Any]:
        """The report of a command that ran."""
        done = self.run([*args, "--json"])
        assert done.code in (0, 1), (args, done)
        report: dict[str, Any] = json.loads(done.out)
        assert not any(report["balance"].values()), (args, report["balance"])
        sums: dict[tuple[str, str], int] = {}
        for reason in report["reasons"]:
            for unit in ("values", "people"):
                fate = reason["fate"].replace(" ", "_")
                sums[unit, fate] = sums.get((unit, fate), 0) + reason[unit]
        for (unit, fate), number in sums.items():
            assert report[unit][fate] == number, (args, unit, fate, report[unit], number)
        self.commands += 1
        return report

    def hold(self, facts: Iterable[Fact], names: Sequence[str], args: list[str]) -> None:
        """Each fact is in one of some files, or in what stands beside them."""
        found = Found()
        for name in names:
            path = self.folder / name
            found.file(path)
            for beside in self.folder.glob(f"{path.stem}.*"):
                found.file(beside)
        wanted = list(facts)
        missing = [fact for fact in wanted if (fact.kind, fact.key) not in found.keys]
        assert not missing, (args, missing)
        self.values += len(wanted)

    def check(
        self, args: list[str], books: Sequence[Made], target: str, excused: Sequence[Fact] = ()
    ) -> None:
        """Run a command, and hold all that it says against what it was given and wrote."""
        report = self.tell(args)
        people, values = report["people"], report["values"]
        assert people["read"] == sum(book.people for book in books), args
        assert people["blank"] == sum(book.blank for book in books), args
        assert values["read"] == sum(book.values for book in books), (args, report)
        assert values["passed_over"] == sum(book.above for book in books), (args, report)
        left_out = len(excused) + sum(book.nothing for book in books)
        dropped = sum(
            each["values"]
            for each in report["reasons"]
            if each["fate"] == "left out" and each["reason"].endswith("(rule)")
        )
        assert values["left_out"] - dropped == left_out, (args, report["reasons"])
        assert values["set_aside"] == sum(book.bad for book in books), args
        gone = set(excused)
        facts = [fact for book in books for fact in book.facts if fact not in gone]
        files = [target or args[2], *(["c.csv"] if "c.csv" in args else [])]
        self.hold(facts, files, args)
        if not target or target.endswith(".xlsx"):
            return
        there = counted(self.folder / target)
        assert there == (people["written"], values["written"]), (args, there, people, values)
        behind = self.folder / f"{Path(target).stem}.left-behind.vcf"
        if behind.exists():
            kept = sum(_kept(lines) for lines in vcards(behind))
            assert kept == values["left_behind"], (args, kept, values)
        aside = self.folder / f"{Path(target).stem}.set-aside.csv"
        assert (len(rows(aside)) - 1 if aside.exists() else 0) == values["set_aside"]


def _kept(lines: list[tuple[str, str]]) -> int:
    """How many values of a card were left behind: those with a reason."""
    return sum(values_of(head, value, set()) for head, value in lines
               if "X-ROUNDCARD-WHY" in head.upper())  # fmt: skip


def audit(folder: Path, run: Run, seed: int) -> Audit:
    """Audit all commands on the books of a seed; raises `AssertionError` where anything is missing
    quietly."""
    chance = random.Random(seed)
    work = Audit(folder, run, chance, Mint(chance))
    work.go()
    return work
