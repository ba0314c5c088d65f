"""Deciding a sheet of matches, question by question."""

from __future__ import annotations

from pathlib import Path

from roundcard.app.decisions import demand_place, store_of
from roundcard.books.transaction import Transaction
from roundcard.match.decision_store import read_decisions, taken_back, without, write_decisions
from roundcard.match.review_session import Review
from roundcard.match.sheet_decisions import MatchSheet, uids_of

_SAVED_AFTER = 20
"""Decisions after which the sheet is written, whatever comes."""


class Session:
    """One sitting: the questions of a sheet, and what becomes of the answers."""

    def __init__(
        self, sheet: Path, store: Path | None = None, *, every: bool = False, when: str = ""
    ) -> None:
        """`every`: groups without a question as well; `when` is the day of the decisions.

        Raises `SourceError` and `PlanError`.
        """
        self.review = Review(MatchSheet(sheet), every=every)
        self.store = store_of(store, sheet)
        self.when = when
        self._before = self.review.sheet.decisions()
        self._saved = 0

    def demand_place(self) -> None:
        """Raise `TargetError` where decisions could not be kept."""
        demand_place(self.store)

    def save_sometimes(self) -> None:
        """Write the sheet, if much was decided since it was written. Raises `TargetError`."""
        if self.review.changed - self._saved < _SAVED_AFTER:
            return
        with Transaction(self.review.sheet.path) as files:
            self.review.sheet.save(files)
            files.commit()
        self._saved = self.review.changed

    def end(self) -> None:
        """Write the sheet and the decisions, both or none. Raises `TargetError`."""
        sheet = self.review.sheet
        if not self.review.changed:
            return
        new = sheet.decisions(uids_of(sheet), self.when)
        kept = without(read_decisions(self.store), taken_back(self._before, new))
        with Transaction(sheet.path) as files:
            sheet.save(files)
            write_decisions(files, self.store, [*kept, *new])
            files.commit()
