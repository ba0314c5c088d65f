"""The commands as they describe themselves: what the man page and the completion are made of."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, NamedTuple

from roundcard._version import __version__
from roundcard.cli import catalog

EXIT_CODES = (
    ("0", "done"),
    ("1", "done, and what was asked about was found: findings, differences, records set aside, "
     "people not sent, values held back"),
    ("2", "the command line is wrong"),
    ("3", "a source cannot be read"),
    ("4", "a layout, job, destination, condition or sheet is wrong"),
    ("5", "the target cannot be written"),
    ("6", "the balance or the proof failed: something is lost"),
    ("130", "interrupted; nothing was written"),
)  # fmt: skip
_TAGS = re.compile(r"\[/?[a-z]+\]")
_WORDS_FOR = {
    "LAYOUT": "layout", "DESTINATION": "destination", "--destination": "destination",
    "--from-destination": "destination", "--as": "destination", "--only": "paths",
    "--where": "path", "--set": "assignment", "--to": "format", "--rule": "rule",
    "--no-rule": "rule", "[COMMAND]...": "command", "[KEY=VALUE]...": "setting",
}  # fmt: skip
"""What is offered for an option or an argument; files for all others that take a value."""
_ANSWERS = {
    "--existing": ("update", "beside", "leave"),
    "--phone": ("international", "national"),
    "--names": ("given-first", "family-first"),
    "--losers": ("note", "extension"),
    "--separator": ("comma", "semicolon", "tab", "bar"),
}


class Parameter(NamedTuple):
    """An option or an argument."""

    spellings: tuple[str, ...]
    """Empty for an argument."""
    takes: str
    """What stands for its value on the help page; empty for a flag."""
    help: str
    panel: str
    offers: str | tuple[str, ...]
    """What completion offers for its value: words, or the name of a kind of them."""


class Command(NamedTuple):
    """A command with all that it says of itself."""

    name: str
    """With the name of its group."""
    paragraphs: tuple[str, ...]
    parameters: tuple[Parameter, ...]
    examples: tuple[str, ...]
    group: bool
    """Whether it has commands of its own."""


def described() -> Iterator[Command]:
    """All commands in the order of work, each group before its members."""
    for name in catalog.SUMMARIES:
        command = catalog.load(name)
        yield _command(name, command)
        for inner, each in getattr(command, "commands", {}).items():
            yield _command(f"{name} {inner}", each)


def _command(name: str, command: Any) -> Command:
    epilog = _TAGS.sub("", command.epilog or "")
    examples = tuple(" ".join(line.split()) for line in epilog.splitlines()
                     if line.strip().startswith("roundcard "))  # fmt: skip
    return Command(
        name,
        tuple(command.help.split("\n\n")),
        tuple(_parameter(each) for each in command.params if not getattr(each, "hidden", False)),
        examples,
        hasattr(command, "commands"),
    )


def _parameter(each: Any) -> Parameter:
    is_option = str(each.opts[0]).startswith("-")
    spellings = tuple(sorted(each.opts, key=len, reverse=True)) if is_option else ()
    flag = bool(getattr(each, "is_flag", False))
    takes = "" if flag else (each.metavar or each.name).strip()
    key = next((one for one in (*spellings, takes) if one in _WORDS_FOR or one in _ANSWERS), "")
    offers = "" if flag else _ANSWERS.get(key) or _WORDS_FOR.get(key, "file")
    panel = getattr(each, "rich_help_panel", None) or ""
    return Parameter(spellings, takes, each.help or "", panel, offers)


def man_page() -> str:
    """The manual page, in the macros of man(7)."""
    lines = [f'.TH ROUNDCARD 1 "" "roundcard {__version__}" "User Commands"', ".SH NAME",
             "roundcard \\- address books gathered, cleaned, merged and moved on, provably whole",
             ".SH SYNOPSIS", ".B roundcard", ".I COMMAND", "[options]", ".SH DESCRIPTION",
             _roff(catalog.ABOUT), ".SH COMMANDS"]  # fmt: skip
    panels = {name: panel for panel, names in catalog.IN_ORDER.items() for name in names}
    last = ""
    for each in described():
        panel = panels[each.name.split()[0]]
        if panel != last:
            lines.append(f'.SS "{panel}"')
            last = panel
        lines += _of_command(each)
    lines.append(".SH EXIT STATUS")
    for code, what in EXIT_CODES:
        lines += [".TP", f".B {code}", _roff(what)]
    lines += [".SH FILES", ".TP", ".I settings.toml", "What holds where nobody says otherwise; "
              "'roundcard settings' tells where it lies. Kept layouts and destinations lie beside "
              "it."]  # fmt: skip
    lines += [".SH ENVIRONMENT", ".TP", ".B ROUNDCARD_HOME", "The folder of the settings.",
              ".TP", ".B ROUNDCARD_REGION, ROUNDCARD_NAMES, ...", "A setting, beating the file.",
              ".TP", ".B NO_COLOR", "No colours.", ".TP", ".B COLUMNS",
              "The width into which lines fit."]  # fmt: skip
    return "\n".join(lines) + "\n"


def _of_command(each: Command) -> Iterator[str]:
    arguments = " ".join(one.takes for one in each.parameters if not one.spellings)
    yield ".TP"
    yield f".B roundcard {each.name}" + (f" \\fI{_roff(arguments)}\\fR" if arguments else "")
    yield _roff(each.paragraphs[0])
    for paragraph in each.paragraphs[1:]:
        yield ".IP"
        yield _roff(paragraph)
    options = [one for one in each.parameters if one.spellings and one.spellings != ("--help",)]
    if options:
        yield ".RS"
        for one in options:
            takes = f" \\fI{_roff(one.takes)}\\fR" if one.takes else ""
            yield ".TP"
            yield ", ".join(f"\\fB{_roff(said)}\\fR" for said in one.spellings) + takes
            yield _roff(one.help)
        yield ".RE"
    for example in each.examples:
        yield ".IP"
        yield f"$ {_roff(example)}"


def _roff(text: str) -> str:
    """Text with nothing in it that the macros would obey."""
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{text}" if text[:1] in (".", "'") else text


def compiled() -> dict[str, Any]:
    """What completion needs: each command's options and what stands for their values, and the
    words that are offered."""
    from roundcard.app.settings import KEYS
    from roundcard.clean.rules import RULES
    from roundcard.cli.prompts.layout_editor import all_paths
    from roundcard.formats import FORMATS

    commands = {}
    for each in described():
        commands[each.name] = {
            "options": [[list(one.spellings), one.offers, one.help]
                        for one in each.parameters if one.spellings],
            "arguments": next((one.offers for one in each.parameters if not one.spellings), ""),
            "says": each.paragraphs[0],
        }  # fmt: skip
    return {
        "commands": commands,
        "path": all_paths(),
        "setting": [key.name for key in KEYS],
        "format": [each.name for each in FORMATS],
        "rule": ["usual", *sorted(rule.name for rule in RULES)],
    }
