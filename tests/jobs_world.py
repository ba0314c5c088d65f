"""A job in a folder, and a service of which its people are a folder of cards."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from pathlib import Path

from books_in_tests import read_cards, write_cards
from conftest import Run
from in_process import Done
from roundcard.card.contact import Contact
from roundcard.destinations.there import CardFolder, new_href

DESTINATION = """name = "cards"
title = "The card house"
accepts = ["vcard-4.0"]
identity = "uid"
[on_import]
matches_on = [["uid"], ["email"]]
existing = ["update", "beside", "leave"]
empty_cell = "clears"
"""
JOB = """name = "move"
id = "6f0c9c1e-7d5b-4b1a-9d39-5f0a3b1f6a11"
destination = "cards.toml"
region = "GB"
"""


class World:
    """Sources, a job, its runs, and the service into which people import."""

    def __init__(self, folder: Path, run: Run) -> None:
        self.folder = folder
        self._run = run
        self.service = folder / "service"
        self.service.mkdir()
        (folder / "cards.toml").write_text(DESTINATION)
        self.sources: list[str] = []
        self.more = ""

    def book(self, name: str, rows: Sequence[str], key: str = "No") -> None:
        """A source of a table: headings first; the job gets it where it is new."""
        (self.folder / name).write_text("\n".join(rows) + "\n", encoding="utf-8")
        if name not in self.sources:
            self.sources.append(name)
            self.more += f'[[source]]\nfile = "{name}"\n'
            self.more += f'key = "{key}"\n' if key else ""

    def job(self, text: str = "") -> None:
        """Write the job file."""
        (self.folder / "job.toml").write_text(JOB + self.more + text, encoding="utf-8")

    def roundcard(self, *args: object) -> Done:
        """Run a command in the folder."""
        return self._run(*args, cwd=self.folder)

    def run(self, *args: object, code: int = 0, there: bool = True) -> dict[str, object]:
        """Run the job; what it says for machines."""
        export = ["--there", "service"] if there and any(self.service.iterdir()) else []
        done = self.roundcard("run", "job.toml", "--yes", "--json", *export, *args)
        assert done.code == code, done.err + done.out
        found: dict[str, object] = json.loads(done.out)
        return found

    @property
    def last(self) -> Path:
        """The folder of the last run."""
        runs = [each for each in (self.folder / "runs").iterdir() if each.is_dir()]
        return max(runs, key=lambda each: (each.name[:10], int(each.name[11:])))

    def outbox(self) -> list[Contact]:
        """Whom the last run writes."""
        path = self.last / "outbox" / "for-cards.vcf"
        return read_cards(path.read_bytes()) if path.exists() else []

    def imports(self, *, confirm: bool = True) -> None:
        """The service imports the last run's outbox, and somebody says so."""
        there = CardFolder(self.service)
        for contact in self.outbox():
            uid = contact.first("uid")
            assert uid is not None
            href, mark = self.find(uid.text) or (new_href(), "")
            there.put(href, write_cards([contact], "4.0").encode(), mark)
        gone = self.last / "outbox" / "to-remove.csv"
        if gone.exists():
            for line in gone.read_text("utf-8-sig").splitlines()[1:]:
                found = self.find(line.partition(",")[0])
                if found is not None:
                    there.remove(*found)
        if confirm:
            done = self.roundcard("runs", "confirm", f"runs/{self.last.name}")
            assert done.code == 0, done.err

    def find(self, text: str) -> tuple[str, str] | None:
        """The card of the service in which a text stands, with its mark."""
        there = CardFolder(self.service)
        for href, mark in there.list().items():
            card = there.get(href)
            if card is not None and text.encode() in card[0]:
                return href, mark
        return None

    def edit(self, text: str, change: Callable[[str], str]) -> None:
        """Somebody edits a person in the service, behind our back."""
        found = self.find(text)
        assert found is not None
        there = CardFolder(self.service)
        card = there.get(found[0])
        assert card is not None
        there.put(found[0], change(card[0].decode()).encode(), found[1])

    def remove(self, text: str) -> None:
        """Somebody removes a person in the service."""
        found = self.find(text)
        assert found is not None
        CardFolder(self.service).remove(*found)

    def holds(self, text: str) -> str:
        """The card of the service in which a text stands."""
        found = self.find(text)
        if found is None:
            return ""
        card = CardFolder(self.service).get(found[0])
        return card[0].decode() if card is not None else ""


HEAD = "No,Given name,Surname,Email,Mobile,Birthday,Category"
PEOPLE = [
    HEAD,
    "1,Ann,Lock,ann.lock@example.org,+44 7700 900101,1980-04-12,Skippers",
    "2,Ben,Weir,ben.weir@example.org,+44 7700 900102,1975-01-30,Skippers",
    "3,Cara,Sluice,cara@example.net,+44 7700 900103,1990-11-02,Cooks",
    "4,Dan,Towpath,dan.t@example.net,+44 7700 900104,,Cooks",
]
EVE = "5,Eve,Mooring,eve@example.org,+44 7700 900105,1966-06-06,Pilots"


def people_of(found: dict[str, object]) -> dict[str, int]:
    """Counts of people in a report for machines, those that are not zero."""
    told = found["people"]
    assert isinstance(told, dict)
    return {what: number for what, number in told.items() if number}


def values_of(found: dict[str, object]) -> dict[str, int]:
    """Counts of values in a report for machines."""
    told = found["values"]
    assert isinstance(told, dict)
    return {what: number for what, number in told.items() if number}
