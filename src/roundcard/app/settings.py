"""What holds wherever nobody says otherwise: the user's settings, each with where it comes from.

They stand in ``settings.toml`` in the user's folder, a key a line; the environment's variables
(``ROUNDCARD_REGION`` for `region`) beat the file. What a command line, a rules file, a layout or a
job says beats both.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple

from roundcard.errors import PlanError, UsageError, did_you_mean
from roundcard.patterns import pattern
from roundcard.values.toml_text import quoted, read_toml

_LATER = ("secrets",)
"""Tables of the file that are none of these settings."""
_FIRST_TABLE = pattern(r"^[ \t]*\[", re.MULTILINE)
_MOST_PROCESSES = 256


def _region(said: str) -> str:
    code = said.upper()
    return code if re.fullmatch("[A-Z]{2}", code) else ""


def _one_of(*words: str) -> Callable[[str], str]:
    def known(said: str) -> str:
        return said if said in words else ""

    return known


def _processes(said: str) -> str:
    good = said.isascii() and said.isdecimal() and int(said) <= _MOST_PROCESSES
    return str(int(said)) if good else ""


def _text(said: str) -> str:
    return " ".join(said.split())


class Key(NamedTuple):
    """One setting."""

    name: str
    what: str
    takes: str
    """What it takes, in words."""
    read: Callable[[str], str]
    """The value as it is kept; empty where it is none."""
    usual: str = ""


KEYS = (
    Key("region", "the country of telephone numbers without a country code", "a code such as GB",
        _region),
    Key("names", "what comes first in whole names, where the book does not tell",
        "given-first or family-first", _one_of("given-first", "family-first")),
    Key("phone", "the form of telephone numbers that are cleaned", "international or national",
        _one_of("international", "national"), "international"),
    Key("processes", "processes that share the work", "a number; 0 for as many as are worth it",
        _processes, "0"),
    Key("colours", "colours at a terminal", "auto, always or never",
        _one_of("auto", "always", "never"), "auto"),
    Key("owner", "what {owner} stands for in the values of --set", "a text", _text),
)  # fmt: skip
_BY_NAME = {key.name: key for key in KEYS}


class Setting(NamedTuple):
    """A key as it stands."""

    key: Key
    value: str
    origin: str
    """The file or the variable that says it; empty where it is the usual value."""


@dataclass(frozen=True, slots=True)
class Settings:
    """All keys as they stand."""

    each: Mapping[str, Setting]

    def __getitem__(self, name: str) -> str:
        return self.each[name].value

    @property
    def processes(self) -> int:
        """Processes that share the work; 0 for as many as are worth it."""
        return int(self["processes"])


def settings_in(path: Path, environment: Mapping[str, str]) -> Settings:
    """The settings of a file, which need not be there, and of an environment.

    Raises `PlanError` with what is wrong, and where.
    """
    said = {key: _checked(key, _plain(value, key, path), str(path))
            for key, value in _read(path).items() if key not in _LATER}  # fmt: skip
    found = {}
    for key in KEYS:
        variable = f"ROUNDCARD_{key.name.upper()}"
        if text := environment.get(variable, "").strip():
            found[key.name] = Setting(key, _checked(key.name, text, variable), variable)
        elif said.get(key.name):
            found[key.name] = Setting(key, said[key.name], str(path))
        else:
            found[key.name] = Setting(key, key.usual, "")
    return Settings(found)


def changed_text(text: str, assignments: list[str]) -> str:
    """The text of a settings file with ``KEY=VALUE`` put in, and ``KEY=`` taken out; all else in it
    stays as it is. Raises `UsageError`."""
    for assignment in assignments:
        name, equals, said = assignment.partition("=")
        name, said = name.strip(), said.strip()
        if not equals:
            raise UsageError(f"'{assignment}' sets nothing; write {name}=VALUE, or {name}= to "
                             "take it out")  # fmt: skip
        if name not in _BY_NAME:
            raise UsageError(f"'{name}' is no setting{_hint(name)}")
        value = _checked(name, said, name, UsageError) if said else ""
        if name == "region" and value:
            from roundcard.clean.setup import demand  # which knows the countries
            from roundcard.clean.user_rules import Wishes

            demand(Wishes(region=value))
        text = _with_line(text, name, value)
    return text


def change(path: Path, assignments: list[str]) -> None:
    """Change a settings file, or make it, whole or not at all.

    Raises `UsageError` for what sets nothing, `PlanError` where the file is no text or not right,
    `TargetError`.
    """
    from roundcard.books.transaction import write_whole

    text = changed_text(_text_in(path), assignments)
    try:
        read_toml(text)
    except ValueError as error:
        raise PlanError(f"{path}: not valid TOML: {error}; mend it with an editor") from None
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, text.encode(), force=True)


def _with_line(text: str, name: str, value: str) -> str:
    tables = _FIRST_TABLE.search(text)
    top, below = (text[: tables.start()], text[tables.start() :]) if tables else (text, "")
    written = value if value.isdecimal() else quoted(value)
    line = f"{name} = {written}\n" if value else ""
    here = re.compile(rf"^[ \t]*[\"']?{name}[\"']?[ \t]*=.*\n?", re.MULTILINE)
    if here.search(top):
        return here.sub(lambda _: line, top, count=1) + below
    gap = "\n" if top and not top.endswith("\n") else ""
    return f"{top}{gap}{line}{below}"


def _text_in(path: Path) -> str:
    """What a settings file says; nothing where there is none."""
    try:
        return path.read_text(encoding="utf-8")
    except FileNotFoundError:
        return ""
    except OSError as error:
        raise PlanError(f"{path}: cannot be read: {error.strerror or error}") from None
    except UnicodeDecodeError:
        raise PlanError(f"{path}: settings are UTF-8 text, and this is not") from None


def _read(path: Path) -> dict[str, Any]:
    try:
        return read_toml(_text_in(path))
    except ValueError as error:
        raise PlanError(f"{path}: not valid TOML: {error}") from None


def _plain(value: object, name: str, path: Path) -> str:
    if isinstance(value, bool) or not isinstance(value, (str, int)):
        key = _BY_NAME.get(name)
        takes = f"; it takes {key.takes}" if key else _hint(name)
        raise PlanError(f"{path}: '{name}' is no setting of this kind{takes}")
    return str(value)


def _checked(
    name: str, said: str, where: str, error: type[PlanError | UsageError] = PlanError
) -> str:
    key = _BY_NAME.get(name)
    if key is None:
        raise error(f"{where}: unknown setting '{name}'{_hint(name)}")
    value = key.read(said.strip())
    if said.strip() and not value:
        of = f"{where}: " if where != name else ""
        raise error(f"{of}'{said}' is no value of '{name}'; it takes {key.takes}")
    return value


def _hint(name: str) -> str:
    return did_you_mean(name, list(_BY_NAME)) or f"; known are {', '.join(_BY_NAME)}"
