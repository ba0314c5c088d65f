"""What can go wrong, as one tree.

::

    RoundCardError
    ├── UsageError      2   the command line is wrong
    ├── SourceError     3   a source cannot be read
    ├── PlanError       4   something written by the user to steer the work is wrong
    │   ├── PathError       a field path
    │   │   └── ConditionError  a condition
    │   ├── LayoutError     a layout file
    │   ├── DestinationError  a destination file
    │   └── JobError        a job file, or the state of its runs
    ├── TargetError     5   the target cannot be written
    │   └── ThereError      it was changed by somebody else meanwhile
    ├── BalanceError    6   a value read is not accounted for
    └── ProofError      6   what was written is not what was meant

Each carries the exit code of its command. The message is one line that says what is wrong,
where, and what to do; a :class:`PathError` adds the text with a mark under the place.
"""

from __future__ import annotations

from collections.abc import Iterable


class RoundCardError(Exception):
    """Anything that a user can cause and mend. ``str()`` of it is what the user reads."""

    exit_code = 1


class UsageError(RoundCardError):
    """The command line is wrong."""

    exit_code = 2


class SourceError(RoundCardError):
    """A source cannot be read."""

    exit_code = 3


class PlanError(RoundCardError):
    """A layout, job, destination, condition or sheet is wrong."""

    exit_code = 4


class PathError(PlanError):
    """A field path is not understood; knows the text and the place in it."""

    def __init__(self, problem: str, text: str, start: int, end: int) -> None:
        self.problem = problem
        self.text = text
        self.start = start
        self.end = max(end, start + 1)
        super().__init__(problem)

    def __str__(self) -> str:
        return f"{self.problem}\n{self.marked()}"

    def marked(self, indent: str = "    ") -> str:
        """The text with ``~~~^`` under the place that is wrong, as two indented lines."""
        tail = "~" * (self.end - self.start - 1) + "^"
        return f"{indent}{self.text}\n{indent}{' ' * self.start}{tail}"


class ConditionError(PathError):
    """A condition is not understood; knows the text and the place in it."""


class LayoutError(PlanError):
    """A layout file, or a layout held against a table, is wrong."""


class DestinationError(PlanError):
    """A destination file is wrong."""


class JobError(PlanError):
    """A job file, or the state of its runs, is wrong."""


class TargetError(RoundCardError):
    """The target cannot be written."""

    exit_code = 5


class ThereError(TargetError):
    """What is to be written was changed by somebody else meanwhile."""


class BalanceError(RoundCardError):
    """The counts do not balance: a value was lost or came from nowhere. Always our defect."""

    exit_code = 6


class ProofError(RoundCardError):
    """The written file does not hold what was meant. Always our defect, or the disk's."""

    exit_code = 6


def nearest(word: str, known: Iterable[str], most: int = 3) -> list[str]:
    """The known words that look like `word`, nearest first, at most `most`."""
    words = list(dict.fromkeys(known))
    lowered = {candidate.lower(): candidate for candidate in reversed(words)}
    import difflib

    close = difflib.get_close_matches(word.lower(), list(lowered), n=most, cutoff=0.6)
    starts = [w for w in words if len(word) >= 2 and w.lower().startswith(word.lower())]
    return list(dict.fromkeys([lowered[match] for match in close] + starts))[:most]


def did_you_mean(word: str, known: Iterable[str]) -> str:
    """``"; did you mean 'phone' or 'photo'?"``, or an empty string where nothing is near."""
    found = nearest(word, known)
    if not found:
        return ""
    quoted = [f"'{candidate}'" for candidate in found]
    return (
        "; did you mean "
        + (" or ".join([", ".join(quoted[:-1]), quoted[-1]] if quoted[1:] else quoted))
        + "?"
    )
