"""What Tab offers: commands, options, layouts, destinations, field paths, words.

A Tab must be quick, so this loads neither the commands nor the library that runs them: what they
say of themselves lies compiled beside this module (``scripts/compile-commands``; a test compares).
The scripts that the shells keep are the library's; its ways of asking are answered here for bash,
zsh and fish, and left to it for others.
"""

from __future__ import annotations

import json
import os
import re
import shlex
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any, NamedTuple

VARIABLE = "_ROUNDCARD_COMPLETE"
COMPILED = Path(__file__).parent / "commands.json"


class Offer(NamedTuple):
    """A word that may stand where the cursor is, and what it is."""

    word: str
    says: str = ""


def answer(environment: Mapping[str, str]) -> tuple[str, int] | None:
    """What the shell is told, and the exit code; None where it asks in a way that is the
    library's."""
    asked = environment.get(VARIABLE, "")
    if asked == "complete_bash":
        words = _parted(environment.get("COMP_WORDS", ""))
        said = environment.get("COMP_CWORD", "")
        at = int(said) if said.isdecimal() else len(words)
        here = words[at] if at < len(words) else ""
        return "".join(f"{each.word}\n" for each in offers(words[1:at], here)), 0
    if asked not in ("complete_zsh", "complete_fish"):
        return None
    line = environment.get("_TYPER_COMPLETE_ARGS", "")
    words = _parted(line)[1:]
    here = words.pop() if words and not line.endswith(" ") else ""
    found = offers(words, here)
    if asked == "complete_zsh":
        listed = "\n".join(map(_for_zsh, found))
        return (f"_arguments '*: :(({listed}))'\n" if found else "_files\n"), 0
    if environment.get("_TYPER_COMPLETE_FISH_ACTION") == "is-args":
        return "", 0 if found else 1
    return "".join(f"{each.word}\t{each.says}\n" if each.says else f"{each.word}\n"
                   for each in found), 0  # fmt: skip


def offers(words: list[str], here: str) -> list[Offer]:
    """What may stand behind these words where `here` is begun; nothing where a file is meant."""
    told = json.loads(COMPILED.read_text(encoding="utf-8"))
    commands: dict[str, Any] = told["commands"]
    name, waits, count = "", "", 0
    for word in words:
        longer = f"{name} {word}".strip()
        if not count and longer in commands:
            name = longer
        elif waits:
            waits = ""
        elif word.startswith("-"):
            waits = "" if "=" in word else _value_of(commands.get(name), word)
        else:
            count += 1
    if waits:
        return _begun(_values(waits, told, here), here)
    if here.startswith("-"):
        option, equals, value = here.partition("=")
        if equals:
            of = _values(_value_of(commands.get(name), option), told, value)
            return [Offer(f"{option}={each.word}", each.says) for each in _begun(of, value)]
        options = commands[name]["options"] if name else ()
        common = [Offer("--help", "Show this message and exit.")]
        own = [Offer(spelling, says) for spellings, _, says in options for spelling in spellings]
        if not name:
            common += [Offer("--version", "Show the version.")]
        return _begun([*own, *common], here)
    if not count and (inner := _inside(commands, name)):
        return _begun(inner, here)
    kind = commands[name]["arguments"] if name else ""
    return _begun(_values(kind, told, here, words), here)


def _inside(commands: Mapping[str, Any], name: str) -> list[Offer]:
    begin = f"{name} " if name else ""
    return [Offer(each[len(begin) :], told["says"]) for each, told in commands.items()
            if each.startswith(begin) and " " not in each[len(begin) :]]  # fmt: skip


def _value_of(command: Any, option: str) -> Any:
    """What stands behind an option; nothing for a flag."""
    for spellings, kind, _ in command["options"] if command else ():
        if option in spellings:
            return kind
    return ""


def _values(
    kind: Any, told: Mapping[str, Any], here: str, words: Iterable[str] = ()
) -> list[Offer]:
    if isinstance(kind, list):
        return [Offer(each) for each in kind]
    if kind in ("layout", "destination"):
        return [Offer(each) for each in _kept(f"{kind}s")]
    if kind in ("path", "format", "rule"):
        return [Offer(each) for each in told[kind]]
    if kind == "paths":
        before = here.rpartition(",")[0]
        return [Offer(f"{before},{each}" if before else each) for each in told["path"]]
    if kind in ("assignment", "setting"):
        words_of = "path" if kind == "assignment" else kind
        return [Offer(f"{each}=") for each in told[words_of]]
    if kind == "command":
        inner = " ".join(words).partition("help")[2].strip()
        return _inside(told["commands"], inner)
    return []


def _kept(what: str) -> list[str]:
    """The names under which layouts or destinations are kept, the user's own first."""
    from roundcard.cli.places import home

    tool = Path(__file__).parents[1] / "demo"
    found = [
        path.stem for place in (home(), tool) for path in sorted((place / what).glob("*.toml"))
    ]
    return list(dict.fromkeys(found))


def _begun(found: Iterable[Offer], here: str) -> list[Offer]:
    return [each for each in found if each.word.startswith(here)]


def _parted(line: str) -> list[str]:
    """The words of a line as a shell has them, also of one whose last quote is open."""
    try:
        return shlex.split(line)
    except ValueError:
        return line.split()


def _for_zsh(each: Offer) -> str:
    word, says = (re.sub(r"(['\"$`\\:])", r"\\\1", text) for text in each)
    return f'"{word}":"{says}"' if says else f'"{word}"'


def complete() -> bool:
    """Answer a shell that asks what may stand where the cursor is; whether one did."""
    import sys

    found = answer(os.environ)
    if found is None:
        return False
    sys.stdout.write(found[0])
    sys.stdout.flush()
    if found[1]:
        sys.exit(found[1])
    return True
