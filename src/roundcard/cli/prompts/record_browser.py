"""Stepping through records at the terminal."""

from __future__ import annotations

import shutil
import sys

import typer

from roundcard.cli.render import preview as render
from roundcard.cli.render.text import obey, styled
from roundcard.survey.preview import Record, Records

_CLEAR = "\x1b[2J\x1b[H"
_NEXT = ("n", " ", "\r", "\n", "\x1b[C", "\x1b[B")
_BACK = ("b", "\x1b[D", "\x1b[A")
_KEYS = ("n next  b back  j jump  s search  f next finding  c next filled column  "
         "e empty cells  q quit")  # fmt: skip


def step_through(records: Records, *, show_empty: bool = False) -> None:
    """Show records one by one, as the keys say, until somebody quits."""
    _Stepper(records, show_empty).run()


class _Stepper:
    def __init__(self, records: Records, show_empty: bool) -> None:
        self.records = records
        self.show_empty = show_empty
        self.words = self.column = ""
        self.told = ""

    def run(self) -> None:
        record = self.records.get(1)
        if record is None:
            sys.stdout.write(f"{self.records.source.name}: no record is in it\n")
            return
        while True:
            self.show(record)
            key = typer.getchar()
            self.told = ""
            if key in ("q", "\x1b", "\x04"):
                sys.stdout.write("\n")
                return
            found = self.move(key, record)
            if found is not None:
                record = found

    def show(self, record: Record) -> None:
        rows = shutil.get_terminal_size((100, 24)).lines
        text = render.for_people(record, self.records.source.name, show_empty=self.show_empty,
                                 most=rows - 3)  # fmt: skip
        foot = self.told or _KEYS
        obey(_CLEAR, sys.stdout)
        sys.stdout.write(text)
        obey(f"\x1b[{rows};1H", sys.stdout)
        sys.stdout.write(styled(foot, "dim", sys.stdout))
        sys.stdout.flush()

    def move(self, key: str, record: Record) -> Record | None:
        """The record that a key leads to; None where it leads nowhere, which is told."""
        records, here = self.records, record.number
        if key in _NEXT:
            return records.get(here + 1) or self.nowhere("this is the last record")
        if key in _BACK:
            back = max(here - 1, 1)
            return records.get(back) if here > 1 else self.nowhere("this is the first record")
        if key == "j":
            said = self.ask("record number")
            if not said.isdecimal():
                return self.nowhere("a number is expected") if said else None
            return records.get(int(said)) or self.nowhere(f"there are {records.count:,} records")
        if key == "s":
            self.words = self.ask(f"words [{self.words}]" if self.words else "words") or self.words
            words = self.words.split()
            found = records.next_that(here, lambda each: each.holds(words)) if words else None
            return found or self.nowhere(f"'{self.words}' does not come after this")
        if key == "f":
            found = records.next_that(here, lambda each: bool(each.findings or each.state))
            return found or self.nowhere("no finding comes after this")
        if key == "c":
            self.column = self.ask(f"column or field [{self.column}]" if self.column
                                   else "column or field") or self.column  # fmt: skip
            name = self.column
            found = records.next_that(here, lambda each: each.filled(name)) if name else None
            return found or self.nowhere(f"'{name}' is filled nowhere after this")
        if key == "e":
            self.show_empty = not self.show_empty
        return None

    def ask(self, what: str) -> str:
        rows = shutil.get_terminal_size((100, 24)).lines
        obey(f"\x1b[{rows};1H\x1b[K", sys.stdout)
        sys.stdout.flush()
        try:
            return input(f"{what}: ").strip()
        except EOFError:
            return ""

    def nowhere(self, told: str) -> Record | None:
        """Tell why a key leads nowhere."""
        self.told = told
        return None
