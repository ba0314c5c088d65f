"""The sheet of matches as people give it back: what they wrote into the column ``decision``.

``same`` and ``apart`` speak of the row and of the one that leads its group; on a row that is asked
about, of all that came together with it. ``lead`` says that this contact leads, and fields behind
it (``same: name, birthday``) that their value is taken from here. ``later``, or nothing, decides
nothing.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal, NamedTuple

from roundcard.books.plan import Plan
from roundcard.books.sheets import write_rows
from roundcard.books.transaction import Transaction
from roundcard.card.equality import email
from roundcard.card.origin import unpack
from roundcard.card.paths import FIELD_WORDS
from roundcard.errors import PlanError, RoundCardError, did_you_mean
from roundcard.formats.sheets import sheet_rows
from roundcard.match.decision_store import Books, Decision, Resolved, Side, read_decisions
from roundcard.match.features import Features
from roundcard.match.names import words_of
from roundcard.values.phones import number_key

SAME, APART, LEAD, LATER = "same", "apart", "lead", "later"
_WORDS = (SAME, APART, LEAD, LATER)
_NEEDED = ("group", "verdict", "decision", "source", "record", "name")
_PARTING = re.compile(r"[\s,;:]+")


class Answer(NamedTuple):
    """What a cell decides."""

    said: Literal["", "same", "apart"] = ""
    leads: bool = False
    keeps: tuple[str, ...] = ()

    def __str__(self) -> str:
        word = LEAD if self.leads else self.said
        return f"{word}: {', '.join(self.keeps)}" if self.keeps else word


@dataclass(slots=True)
class SheetRow:
    """A row of the sheet, as it stands."""

    line: int
    cells: dict[str, str]
    answer: Answer

    def __getitem__(self, heading: str) -> str:
        return self.cells.get(heading, "")

    @property
    def main(self) -> str:
        """The number of the group, without that of the part that is asked about."""
        return self["group"].partition(".")[0]

    @property
    def place(self) -> tuple[str, int]:
        """Source and record."""
        return self["source"], int(self["record"]) if self["record"].isdecimal() else 0


@dataclass(slots=True)
class Known:
    """What was decided before, and in a sheet."""

    resolved: Resolved = field(default_factory=Resolved)
    decisions: list[Decision] = field(default_factory=list)
    """All of it, to be kept."""
    learned: int = 0
    """How many of them came from the sheet."""
    lost: list[Decision] = field(default_factory=list)
    """Those of the sheet whose records are not in the books, or are not what they were."""


def known(
    features: Features, names: Sequence[str], store: Path, sheet: MatchSheet | None, when: str
) -> Known:
    """The decisions of a file and of a sheet, held against the books.

    Raises `SourceError` and `PlanError`.
    """
    kept = read_decisions(store)
    told = sheet.decisions(when=when) if sheet is not None else []
    if not kept and not told:
        return Known()
    books = Books(features, names)
    of_sheet = books.resolved(told, of_sheet=True)
    fresh = of_sheet.standing
    lost = [*of_sheet.absent, *of_sheet.again]
    return Known(books.resolved([*kept, *fresh]), [*kept, *fresh], len(fresh), lost)


def uids_of(sheet: MatchSheet) -> dict[tuple[str, int], str]:
    """The identities of the sheet's records, from the books of cards that are still there."""
    found: dict[tuple[str, int], str] = {}
    for name in dict.fromkeys(row["source"] for row in sheet.rows):
        path = next(
            (each for each in (Path(name), sheet.path.parent / name) if each.is_file()), None
        )
        if path is None:
            continue
        try:
            plan = Plan([str(path)], "")
            if plan.open()[0].format.sort != "card":
                continue
            for contact in plan.as_read():
                place, uid = unpack(contact.origin), contact.first("uid")
                if place is not None and uid is not None:
                    found[name, place.record] = uid.text
        except RoundCardError:
            continue  # what it cannot tell is told by names and addresses
    return found


def answers(resolved: Resolved) -> dict[int, str]:
    """What the column ``decision`` says of contacts that are decided already."""
    found: dict[int, str] = {}
    for (one, other), verdict in sorted(resolved.pairs.items()):
        if verdict == "same":
            for at in (one, other):
                keeps = tuple(sorted(resolved.keeps.get(at, ())))
                found[at] = str(Answer("same", at in resolved.leads, keeps))
    return found


def answer_of(text: str) -> Answer:
    """What a cell of the column ``decision`` says. Raises `ValueError`."""
    words = [word for word in _PARTING.split(text.strip().strip("'").lower()) if word]
    said: Literal["", "same", "apart"] = ""
    leads, keeps = False, []
    for at, word in enumerate(words):
        if at == 0 and word in _WORDS:
            said = "same" if word in (SAME, LEAD) else "apart" if word == APART else ""
            leads = word == LEAD
        elif word in FIELD_WORDS and said == "same":
            keeps.append(word)
        else:
            known = _WORDS if at == 0 else FIELD_WORDS
            raise ValueError(f"'{word}' is not a decision{did_you_mean(word, known)}; write same "
                             "or apart, or leave it empty")  # fmt: skip
    return Answer(said, leads, tuple(dict.fromkeys(keeps)))


class MatchSheet:
    """A sheet of matches that can be read, decided in, and written again."""

    def __init__(self, path: Path) -> None:
        """Raises `SourceError`, and `PlanError` where it is no such sheet."""
        self.path = path
        rows = sheet_rows(path)
        self.headings = [cell.strip() for cell in next(rows, (0, []))[1]]
        known = [heading.lower() for heading in self.headings]
        missing = [heading for heading in _NEEDED if heading not in known]
        if missing:
            raise PlanError(f"{path}: is not a sheet of matches; missing column: "
                            f"'{missing[0]}' (roundcard match --sheet writes one)")  # fmt: skip
        self.rows = [_row(path, line, known, cells) for line, cells in rows if any(cells)]

    def groups(self) -> list[list[SheetRow]]:
        """The rows of each group, in the order of the sheet; the lead first."""
        found: dict[str, list[SheetRow]] = {}
        for row in self.rows:
            found.setdefault(row.main, []).append(row)
        for rows in found.values():
            rows.sort(key=lambda row: row["verdict"] != "lead")
        return [rows for rows in found.values() if len(rows) > 1]

    def save(self, files: Transaction) -> None:
        """Write the sheet again, with what was decided. Raises `TargetError`."""
        lines = [self.headings]
        for row in self.rows:
            row.cells["decision"] = str(row.answer)
            lines.append([row.cells.get(heading.lower(), "") for heading in self.headings])
        write_rows(files, self.path, lines, "groups", force=True)

    def decisions(
        self, uids: Mapping[tuple[str, int], str] | None = None, when: str = ""
    ) -> list[Decision]:
        """All that was decided; `uids` are those of records, where they are known."""
        sides = {id(row): _side(row, uids or {}) for row in self.rows}
        found = []
        for group in self.groups():
            for answer, row, other in _pairs(group):
                if answer.said:
                    found.append(Decision(answer.said, sides[id(row)], sides[id(other)],
                                          answer.leads, answer.keeps, when))  # fmt: skip
        return found

    def numbers(self) -> dict[tuple[str, int], str]:
        """The group of each record, by source and record."""
        return {row.place: row["group"] for row in self.rows}


def _row(path: Path, line: int, headings: list[str], cells: list[str]) -> SheetRow:
    told = dict(zip(headings, cells, strict=False))
    try:
        return SheetRow(line, told, answer_of(told.get("decision", "")))
    except ValueError as error:
        raise PlanError(f"{path}, row {line}: {error}") from None


def _pairs(group: list[SheetRow]) -> Iterator[tuple[Answer, SheetRow, SheetRow]]:
    """The answers, with the two rows of which each speaks."""
    main = [row for row in group if row["group"] == row.main] or group[:1]
    for row in group:
        answer = row.answer
        own = [each for each in group if each["group"] == row["group"]]
        if answer.said == "apart":
            if row["verdict"] == "ask":
                yield from ((answer, mine, other) for mine in own for other in main)
            else:
                yield from ((answer, row, other) for other in group if other is not row)
        elif answer.said == "same":
            other = main[0] if row["verdict"] == "ask" else own[0]
            if row is not other:
                yield answer, row, other
            elif (second := _second(group, row)) is not None:
                yield answer, row, second


def _second(group: Iterable[SheetRow], lead: SheetRow) -> SheetRow | None:
    """Another row that is the same person as the one that leads."""
    for row in group:
        together = row["verdict"] != "ask" or row.answer.said == "same"
        if row is not lead and row.answer.said != "apart" and together:
            return row
    return None


def _side(row: SheetRow, uids: Mapping[tuple[str, int], str]) -> Side:
    source, record = row.place
    phones = [number_key(each, "") for each in row["phone"].strip("'").split(";")]
    emails = [email(each) for each in row["email"].split(";")]
    return Side(
        source, record, uids.get((source, record), ""), " ".join(sorted(words_of(row["name"]))),
        tuple(each for each in emails if each), tuple(each for each in phones if each),
        "".join(filter(str.isdecimal, row["birthday"])),
    )  # fmt: skip
