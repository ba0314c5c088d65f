r"""Field paths: the notation in which users name a place in a contact.

::

    path     = field [ "/" use ] [ "/" position ] [ "/" part ]
             | "custom/" label
    use      = word *( "+" word ) | "~" label
    position = 1, 2, 3 …
    part     = word [ "/" number ]

Everything after ``custom/`` is the label. In a label ``\/``, ``\,`` and ``\\`` stand for a slash,
a comma and a backslash. Words may be written in any letter case.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from roundcard.card.fields import ADR_PARTS, TABLE, by_path
from roundcard.errors import PathError, did_you_mean

FIELD_WORDS = tuple(dict.fromkeys(field.path for field in TABLE if field.path))
"""The words that a path may begin with."""

_USE_PARTS = ("use", "preferred")
_DATE_PARTS = ("year", "month", "day")
_PARTS: dict[str, tuple[str, ...]] = {
    "name": ("full", "given", "family", "additional", "prefix", "suffix", "family2",
             "generation", "phonetic-given", "phonetic-family"),
    "org": ("unit",),
    "phone": ("extension",),
    "address": ("full", *ADR_PARTS),
    "birthday": _DATE_PARTS,
    "anniversary": _DATE_PARTS,
    "deathdate": _DATE_PARTS,
    "gender": ("sex", "identity"),
}  # fmt: skip
_NUMBERED_PARTS = ("unit", "line")
_LINE = re.compile(r"line([1-9]\d?)")
MOST_LINES = 9
"""How many lines of a street a path may name."""


@dataclass(frozen=True, slots=True)
class FieldPath:
    """A parsed path. ``str()`` of it is the path in its plainest spelling."""

    field: str
    """The trade word: one of `FIELD_WORDS`."""
    uses: tuple[str, ...] = ()
    """The uses named, in the order of the table of fields."""
    label: str = ""
    """A label of the user's own, or what stands after ``custom/``."""
    position: int = 0
    """Which of several values, from 1; 0 where the path does not say."""
    part: str = ""
    """The part of the value; empty for the whole."""
    number: int = 0
    """Which unit or street line, from 1; 0 where the part takes no number."""

    def __str__(self) -> str:
        words = [self.field]
        if self.field == "custom":
            words.append(_escaped(self.label))
        elif self.label:
            words.append("~" + _escaped(self.label))
        if self.uses:
            words.append("+".join(self.uses))
        if self.position:
            words.append(str(self.position))
        if self.part == "line":
            words.append(f"line{self.number}")
        elif self.part:
            words.append(self.part)
            if self.number > 1:
                words.append(str(self.number))
        return "/".join(words)

    @property
    def place(self) -> tuple[str, tuple[str, ...], str, int]:
        """What tells one value of the contact from another: field, uses, label, position."""
        return self.field, self.uses, self.label, self.position


def parts_of(word: str) -> tuple[str, ...]:
    """The parts that a path beginning with `word` may name."""
    extra = _USE_PARTS if uses_of(word) else ()
    lines = ("line1", "line2") if word == "address" else ()
    return _PARTS.get(word, ()) + lines + extra


def uses_of(word: str) -> tuple[str, ...]:
    """The uses that values of this field are marked with; empty where it takes none."""
    return by_path(word)[0].uses


def takes_many(word: str) -> bool:
    """Whether a contact may hold several values of this field."""
    return word != "name" and by_path(word)[0].many


def parse(text: str) -> FieldPath:
    """Parse one path.

    Raises `PathError`, with the place that is wrong and the nearest words that are known.
    """
    return _Parser(text).path()


def parse_list(text: str) -> list[FieldPath]:
    """Parse paths parted by commas. Raises `PathError` with the place in the whole text."""
    paths = []
    for start, end in _pieces(text, ",", 0):
        piece = text[start:end]
        lead = start + len(piece) - len(piece.lstrip())
        try:
            paths.append(parse(piece.strip()))
        except PathError as error:
            raise PathError(error.problem, text, lead + error.start, lead + error.end) from None
    return paths


def _escaped(label: str) -> str:
    return re.sub(r"([\\/,])", r"\\\1", label)


def _unescaped(label: str) -> str:
    return re.sub(r"\\([\\/,])", r"\1", label)


def _pieces(text: str, mark: str, start: int) -> Iterator[tuple[int, int]]:
    """Start and end of the stretches between unescaped marks."""
    begin, at = start, start
    while at < len(text):
        if text[at] == "\\":
            at += 1
        elif text[at] == mark:
            yield begin, at
            begin = at + 1
        at += 1
    yield begin, len(text)


class _Parser:
    """Takes the pieces of one path from left to right."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.pieces = list(_pieces(text, "/", 0))
        self.at = 0
        self.word = ""

    def path(self) -> FieldPath:
        if not self.text.strip():
            raise PathError("a field path is empty", self.text, 0, 1)
        self.word = self.take().lower()
        if self.word not in FIELD_WORDS:
            guess = did_you_mean(self.word, FIELD_WORDS)
            guess = guess or f" (the fields are {', '.join(FIELD_WORDS)})"
            raise self.wrong(f"'{self.word}' is not a field{guess}")
        if self.word == "custom":
            return self.custom()
        uses, label = self.use()
        position = self.position()
        part, number = self.part()
        if self.at < len(self.pieces):
            self.take()
            raise self.wrong("nothing may follow here")
        return FieldPath(self.word, uses, label, position, part, number)

    def custom(self) -> FieldPath:
        start = self.pieces[1][0] if len(self.pieces) > 1 else len(self.text)
        label = _unescaped(self.text[start:]).strip()
        if not label:
            raise PathError("a label is missing after 'custom/'", self.text, start, start + 1)
        return FieldPath("custom", label=label)

    def use(self) -> tuple[tuple[str, ...], str]:
        piece = self.peek()
        known = uses_of(self.word)
        if piece.startswith("~"):
            self.take()
            label = _unescaped(piece[1:]).strip()
            if not known:
                raise self.wrong(f"{self.word} takes no label")
            if not label:
                raise self.wrong("a label is missing after '~'")
            return (), label
        words = piece.lower().split("+")
        if not piece or piece.isdecimal() or not (set(words) & set(known) or "+" in piece):
            return (), ""
        self.take()
        for word in words:
            if word not in known:
                start = self.start + piece.lower().index(word)
                problem = f"'{word}' is not a use of {self.word}" + did_you_mean(word, known)
                raise PathError(problem, self.text, start, start + len(word))
        return tuple(use for use in known if use in words), ""

    def position(self) -> int:
        piece = self.peek()
        if not piece.isdecimal():
            return 0
        self.take()
        if not takes_many(self.word):
            raise self.wrong(f"{self.word} takes no position: there is only one")
        if not 1 <= int(piece) <= 999:
            raise self.wrong("positions count from 1 to 999")
        return int(piece)

    def part(self) -> tuple[str, int]:
        if self.at >= len(self.pieces):
            return "", 0
        piece = self.take().lower()
        if self.word == "address" and (line := _LINE.fullmatch(piece)):
            if int(line[1]) > MOST_LINES:
                raise self.wrong(f"lines count from 1 to {MOST_LINES}")
            return "line", int(line[1])
        known = parts_of(self.word)
        if not piece:
            raise self.wrong("something is missing after the slash")
        if piece not in known:
            raise self.unknown(piece)
        number = 1 if piece in _NUMBERED_PARTS else 0
        following = self.peek()
        if number and following.isdecimal():
            self.take()
            number = int(following)
            if not 1 <= number <= 99:
                raise self.wrong("units count from 1 to 99")
        return piece, number

    def unknown(self, piece: str) -> PathError:
        uses, parts = uses_of(self.word), parts_of(self.word)
        kinds = " or ".join(
            kind for kind, there in (("use", uses), ("part", parts)) if there
        )  # fmt: skip
        if not kinds:
            return self.wrong(f"{self.word} has no parts; nothing may follow it")
        problem = f"'{piece}' is not a {kinds} of {self.word}"
        guess = did_you_mean(piece, uses + parts)
        if guess:
            return self.wrong(problem + guess)
        own = f"; a label of your own is written ~{piece}" if uses else ""
        listed = ", ".join(parts[:12] if parts else uses)
        return self.wrong(f"{problem} ({listed} …){own}")

    def peek(self) -> str:
        if self.at >= len(self.pieces):
            return ""
        start, end = self.pieces[self.at]
        return self.text[start:end]

    def take(self) -> str:
        self.start, self.end = self.pieces[self.at]
        self.at += 1
        return self.text[self.start : self.end]

    def wrong(self, problem: str) -> PathError:
        return PathError(problem, self.text, self.start, self.end)
