"""Files that users write in TOML: refused with file, line and a suggestion where they are wrong."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar, NoReturn

from roundcard.errors import PlanError, did_you_mean
from roundcard.layouts.toml_lines import Lines, locate
from roundcard.values.toml_text import read_toml

_TYPES: dict[type | tuple[type, ...], str] = {
    str: "a text in quotes",
    int: "a whole number",
    bool: "true or false",
    list: "a list of texts",
    dict: 'a table such as { A = "Active" }',
}


class TomlChecker:
    """Walks through a parsed file and knows the line of each key."""

    error: ClassVar[type[PlanError]] = PlanError
    """What is raised for a file that is wrong."""
    what: ClassVar[str] = "file"
    """What such a file describes."""
    arrays: ClassVar[Sequence[str]] = ()
    """The tables of which there may be several."""

    def __init__(self, text: str, file: str) -> None:
        self.file = file or self.what
        self.text = text
        self.lines: Lines = locate(text)

    def tree(self) -> dict[str, Any]:
        """The parsed file. Raises `error`."""
        try:
            return read_toml(self.text)
        except ValueError as error:
            raise self.error(f"{self.file}: not valid TOML: {error}") from None

    def fail(self, problem: str, table: str = "", index: int = 0, key: str = "") -> NoReturn:
        """Raise `error` with file, line and what is wrong."""
        line = self.line(table, index, key)
        raise self.error(
            f"{self.file}, line {line}: {problem}" if line else f"{self.file}: {problem}"
        )

    def line(self, table: str, index: int, key: str) -> int:
        """The line of a key, or of its table; 0 where none is known."""
        return self.lines.get((table, index, key)) or self.lines.get((table, index, ""), 0)

    def known(
        self, keys: Mapping[str, Any], allowed: Sequence[str], table: str, index: int
    ) -> None:
        """Refuse a key that a table does not have."""
        for key in keys:
            if key not in allowed:
                guess = did_you_mean(key, allowed) or f"; known are {', '.join(allowed)}"
                where = f"[[{table}]]" if table in self.arrays else f"[{table}]"
                place = f"in {where}" if table else "at the top of the file"
                self.fail(f"unknown key '{key}' {place}{guess}", table, index, key)

    def take(
        self,
        keys: Mapping[str, Any],
        key: str,
        kind: type,
        default: Any,
        table: str,
        index: int = 0,
    ) -> Any:
        """The value of a key, of the kind that it must have."""
        if key not in keys:
            return default
        value = keys[key]
        wrong = not isinstance(value, kind) or (kind is int and isinstance(value, bool))
        if kind is list and not wrong:
            wrong = not all(isinstance(item, str) for item in value)
        if wrong:
            self.fail(f"'{key}' takes {_TYPES[kind]}, not {value!r}", table, index, key)
        return value

    def one_of(
        self, value: str, allowed: Sequence[str], key: str, table: str = "table", index: int = 0
    ) -> str:
        """A word out of those that are allowed."""
        if value not in allowed:
            guess = did_you_mean(value, allowed) or f"; it is one of {', '.join(allowed)}"
            self.fail(f"'{key}' cannot be '{value}'{guess}", table, index, key)
        return value

    def array(self, tree: Mapping[str, Any], key: str) -> list[Mapping[str, Any]]:
        """The tables of which there may be several."""
        found = tree.get(key, [])
        if not isinstance(found, list) or not all(isinstance(item, dict) for item in found):
            self.fail(f"each {key} belongs under a line [[{key}]] of its own", "", 0, key)
        return found
