"""Going through the questions of a sheet: which is next, and what is decided."""

from __future__ import annotations

from roundcard.match.sheet import nearness
from roundcard.match.sheet_decisions import Answer, MatchSheet, SheetRow

SHOWN = ("name", "email", "phone", "organisation", "address", "birthday")
FIELD_OF = {"name": "name", "organisation": "org", "birthday": "birthday"}
"""Columns of which a contact has one value, and the field that each tells of."""


class Review:
    """The groups of a sheet, one question at a time."""

    def __init__(self, sheet: MatchSheet, *, every: bool = False) -> None:
        """`every`: groups without a question as well."""
        self.sheet = sheet
        self.groups = [
            rows for rows in sheet.groups() if every or any(row["verdict"] == "ask" for row in rows)
        ]
        self.questions = [
            (group, at)
            for group, rows in enumerate(self.groups)
            for at, row in enumerate(rows)
            if row["verdict"] == "ask" or (every and row["verdict"] == "same")
        ]
        self.group = self.row = 0
        self.changed = 0
        if not self.next():
            self.go(0)

    @property
    def rows(self) -> list[SheetRow]:
        """The contacts of the group, the lead first."""
        return self.groups[self.group]

    @property
    def current(self) -> SheetRow:
        """The contact of which it is asked."""
        return self.rows[self.row]

    @property
    def decided(self) -> int:
        """How many questions have an answer."""
        return sum(1 for group, at in self.questions if self.groups[group][at].answer.said)

    @property
    def place(self) -> int:
        """Which question this is, from 0; the nearest one before where it is none."""
        before = [at for at, where in enumerate(self.questions) if where <= (self.group, self.row)]
        return before[-1] if before else 0

    def go(self, question: int) -> None:
        """Go to a question."""
        if self.questions:
            self.group, self.row = self.questions[question % len(self.questions)]

    def next(self) -> bool:
        """Go to the next question without an answer, from the beginning after the last one;
        whether there is one."""
        here = [at for at, where in enumerate(self.questions) if where > (self.group, self.row)]
        start = here[0] if here else 0
        if not self.changed and (self.group, self.row) == (0, 0):
            start = 0
        for step in range(len(self.questions)):
            at = (start + step) % len(self.questions)
            group, row = self.questions[at]
            if not self.groups[group][row].answer.said:
                self.go(at)
                return True
        return False

    def forward(self) -> bool:
        """Go to the following question, decided or not; whether there is one."""
        later = [where for where in self.questions if where > (self.group, self.row)]
        if later:
            self.group, self.row = later[0]
        return bool(later)

    def back(self) -> bool:
        """Go to the question before; whether there is one."""
        before = [where for where in self.questions if where < (self.group, self.row)]
        if before:
            self.group, self.row = before[-1]
        return bool(before)

    def pick(self, number: int) -> bool:
        """Look at another contact of the group, by its number from 1; whether it is there."""
        if 1 <= number <= len(self.rows):
            self.row = number - 1
            return True
        return False

    def answer(self, said: str) -> None:
        """Decide of the current contact: ``same``, ``apart``, or nothing again."""
        old = self.current.answer
        if said == "same":
            self.put(Answer("same", old.leads, old.keeps))
        else:
            self.put(Answer("apart") if said == "apart" else Answer())

    def lead(self) -> None:
        """The current contact leads, and no other of its group does."""
        for row in self.rows:
            if row.answer.leads:
                row.answer = row.answer._replace(leads=False)
        self.put(Answer("same", True, self.current.answer.keeps))

    def take(self, heading: str) -> None:
        """The value of a column is taken from the current contact, and from no other."""
        field = FIELD_OF[heading]
        for row in self.rows:
            if field in row.answer.keeps:
                kept = tuple(each for each in row.answer.keeps if each != field)
                row.answer = row.answer._replace(keeps=kept)
        old = self.current.answer
        self.put(Answer("same", old.leads, (*old.keeps, field)))

    def put(self, answer: Answer) -> None:
        """Give the current contact an answer."""
        self.current.answer = answer
        self.changed += 1

    def differing(self) -> list[str]:
        """Columns of single values in which the current contact differs from another one."""
        return [
            heading
            for heading in FIELD_OF
            if any(
                nearness(heading, row[heading], self.current[heading]) in ("close", "different")
                for row in self.rows
            )
        ]
