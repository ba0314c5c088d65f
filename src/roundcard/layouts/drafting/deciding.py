"""A decision on one column written into a layout file, its comments kept."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from roundcard.layouts.file import parse_layout
from roundcard.layouts.model import Layout
from roundcard.layouts.toml_lines import locate

_SURE = re.compile(r"#\s*(?:LOOK, )?sure \d+ ?%: ")
_OTHERS = re.compile(r"#\s*or: ")
_PURPOSES = ("holds", "fixed", "skip", "blank")
_ONLY_WITH_HOLDS = ("many", "parted", "join", "date", "values")


@dataclass(frozen=True, slots=True)
class ColumnDecision:
    """What a person says of a column: a field path, a fixed value, that it is skipped, or that it
    is right as it stands."""

    holds: str = ""
    fixed: str | None = None
    skip: bool = False
    many: str = ""
    """What stands between several values in a cell."""
    date: str = ""
    """How dates are written, as the layout says it."""
    values: Mapping[str, str] = field(default_factory=dict)
    """Their words, and ours."""

    @property
    def said(self) -> str:
        """The decision in a few words."""
        if self.skip:
            return "skipped"
        if self.fixed is not None:
            return f"always '{self.fixed}'"
        return f"holds {self.holds}" if self.holds else "right as it stands"


def decided(text: str, layout: Layout, index: int, decision: ColumnDecision) -> str:
    """The text of a layout file with a decision on its column number `index`, from 0.

    All comments stay, but for the one that tells how sure the draft was. Raises `LayoutError`
    where the layout would be wrong with it, and `PathError` for a path that is wrong.
    """
    import tomlkit  # only where a file that people read is changed

    was = layout.columns[index]
    lines, first = _remarked(text, was.line, was.meaning)
    last = _end_of_block(lines, first)
    document = tomlkit.parse("\n".join(lines[first - 1 : last]) + "\n")
    column = document["column"][0]
    if decision != ColumnDecision():
        keep = () if was.meaning == decision.holds else _ONLY_WITH_HOLDS
        for key in (*_PURPOSES, *keep):
            if key in column:
                column.remove(key)
    for key, said in (("many", decision.many), ("date", decision.date)):
        if said:
            column[key] = said
    if decision.values:
        column["values"] = dict(decision.values)
    if decision.holds:
        paths = [path.strip() for path in decision.holds.split(", ")]
        column["holds"] = paths[0] if len(paths) == 1 else paths
        if len(paths) > 1:
            column["parted"] = was.parted or " "
    elif decision.fixed is not None:
        column["fixed"] = decision.fixed
    elif decision.skip:
        column["skip"] = True
    block = tomlkit.dumps(document).rstrip("\n").split("\n")
    made = "\n".join([*lines[: first - 1], *block, *lines[last:]])
    parse_layout(made, layout.file)
    return made


def _end_of_block(lines: list[str], first: int) -> int:
    """The number of the last line of a block that begins at line `first`, comments and blank lines
    at its end not among them."""
    headers = (line for (_, _, key), line in locate("\n".join(lines)).items() if not key)
    last = min((line for line in headers if line > first), default=len(lines) + 1) - 1
    while last > first and (not lines[last - 1].strip() or lines[last - 1].startswith("#")):
        last -= 1
    return last


def _remarked(text: str, line: int, meaning: str) -> tuple[list[str], int]:
    """The lines of a file in which the remark above a column says that it was decided, and the
    line at which the column begins then."""
    lines = text.split("\n")
    at = line - 2
    told = False
    while at >= 0 and lines[at].lstrip().startswith("#"):
        if _SURE.match(lines[at].lstrip()):
            lines[at] = f"# sure 100 %: decided by hand (drafted: {meaning})"
            told = True
        elif _OTHERS.match(lines[at].lstrip()):
            del lines[at]
            line -= 1
        at -= 1
    if not told:
        lines.insert(line - 1, "# sure 100 %: decided by hand")
        line += 1
    return lines, line
