"""The list of changes: written while cleaning, edited by people, and read back."""

from __future__ import annotations

import csv
from collections import Counter
from collections.abc import Callable, Sequence
from pathlib import Path
from tempfile import SpooledTemporaryFile

from roundcard.books.hidden import AtomicFile
from roundcard.books.transaction import Stream
from roundcard.clean.step import Again, Change, Refused
from roundcard.errors import PlanError, SourceError
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.formats.sheets import guarded, unguarded
from roundcard.tally import MOST_EXAMPLES

HEADINGS = ["source", "record", "field", "before", "after", "rule", "sureness", "doubt", "done",
            "refuse"]  # fmt: skip
_IN_MEMORY = 1 << 20
"""Octets of the list that are kept in memory, and written at once."""


class Changes:
    """Counts what rules did, keeps a few samples of each, and lists all where that is asked."""

    def __init__(self, sources: Sequence[str], listed: AtomicFile | Stream | None = None):
        """`listed` is the file of CSV into which they go. Raises `TargetError`."""
        self.sources = sources
        self._met: Counter[tuple[str, bool, bool]] = Counter()
        """How often a rule changed something, or not, and doubted it, or not."""
        self.samples: dict[str, list[Change]] = {}
        self._file = listed
        self._writer = CsvWriter(Dialect())
        self._sure = SpooledTemporaryFile(_IN_MEMORY)  # noqa: SIM115  # it lives as long as this
        self.begin()

    @property
    def counts(self) -> Counter[str]:
        """Changes that were made, by rule."""
        return self._of(lambda changed, _: changed)

    @property
    def doubts(self) -> Counter[str]:
        """What was doubted and left, by rule."""
        return self._of(lambda changed, _: not changed)

    @property
    def unsure(self) -> Counter[str]:
        """Changes that were made and are not sure, by rule."""
        return self._of(lambda changed, doubted: changed and doubted)

    def _of(self, wanted: Callable[[bool, bool], bool]) -> Counter[str]:
        found: Counter[str] = Counter()
        for (rule, changed, doubted), count in self._met.items():
            if wanted(changed, doubted):
                found[rule] += count
        return found

    def begin(self) -> None:
        """Forget what was told: the work begins again."""
        self._met.clear()
        self.samples.clear()
        if self._file is not None:
            self._file.restart()
            self._writer = CsvWriter(Dialect())
            self._file.write(self._writer.encode([HEADINGS]))
            self._sure.seek(0)
            self._sure.truncate()

    def end(self) -> None:
        """No more changes come: what is sure is listed behind what is not. Raises `TargetError`."""
        if self._file is not None:
            self._sure.seek(0)
            while octets := self._sure.read(_IN_MEMORY):
                self._file.write(octets)

    def close(self) -> None:
        """Give back what the list needed."""
        self._sure.close()

    def count(self, again: Again) -> None:
        """Changes or doubts of a kind of which enough was told."""
        self._met[again.rule, again.changed, again.doubted] += again.times

    @property
    def lists(self) -> bool:
        """Whether each change is listed."""
        return self._file is not None

    def tell(self, change: Change) -> None:
        """One change or doubt."""
        changed = change.after != change.before
        self._met[change.rule, changed, bool(change.doubt)] += 1
        kept = self.samples.get(change.rule)
        if kept is None:
            self.samples[change.rule] = [change]
        elif len(kept) < MOST_EXAMPLES and all(each.before != change.before for each in kept):
            kept.append(change)
        if self._file is not None:
            source = self.sources[change.source] if change.source < len(self.sources) else ""
            row = [source, str(change.record), change.path, change.before, change.after,
                   change.rule, "unsure" if change.doubt else "sure", change.doubt,
                   "changed" if changed else "left", ""]  # fmt: skip
            octets = self._writer.encode([list(map(guarded, row))])
            if change.doubt:
                self._file.write(octets)
            else:
                self._sure.write(octets)


def refused_in(path: Path) -> frozenset[Refused]:
    """The changes that a list marks in its column ``refuse``.

    Raises `SourceError` where it cannot be read, `PlanError` where it is no list of changes.
    """
    try:
        with path.open(newline="", encoding="utf-8-sig") as stream:
            start = stream.readline()
            separator = ";" if start.count(";") > start.count(",") else ","
            stream.seek(0)
            rows = list(csv.DictReader(stream, delimiter=separator))
    except OSError as error:
        reason = error.strerror or str(error)
        raise SourceError(f"{path}: the list of changes cannot be read: {reason}") from None
    except UnicodeDecodeError:
        raise SourceError(f"{path}: the list of changes is not UTF-8 text") from None
    needed = {"record", "field", "before", "rule", "refuse"}
    if not rows or not needed <= set(rows[0]):
        raise PlanError(f"{path}: is not a list of changes; missing columns: "
                        f"{', '.join(sorted(needed))}")  # fmt: skip
    found = set()
    for number, row in enumerate(rows, 2):
        if not (row["refuse"] or "").strip():
            continue
        if not row["record"].isdecimal():
            raise PlanError(
                f"{path}, line {number}: '{row['record']}' is not the number of a record"
            )
        found.add((int(row["record"]), row["field"], unguarded(row["before"]), row["rule"]))
    return frozenset(found)
