"""A draft as a layout file, with reasons and sureness in comments; and such comments read back."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from roundcard.formats.csv import SEPARATORS, Dialect
from roundcard.layouts.drafting.draft import Draft, DraftedColumn
from roundcard.layouts.model import Column, Layout
from roundcard.values.toml_text import quoted

_REMARK = re.compile(r"#\s*(LOOK, )?sure (\d+) ?%: (.*)")
_SAMPLES = re.compile(r"#\s*e\.g\. (.*)")
_OTHERS = re.compile(r"#\s*or: (.*)")
_LONGEST = 40
_MOST_SAMPLES = 3


class Remark(NamedTuple):
    """What the comments above a column say."""

    sure: float | None = None
    """0 to 1; None where no comment tells."""
    look: bool = False
    why: str = ""
    samples: str = ""
    others: tuple[str, ...] = ()


def as_file(draft: Draft, made_from: str, *, bare: bool = False, only_filled: bool = False) -> str:
    """The layout file of a draft; `made_from` names the samples in its first comment.

    `bare` leaves all columns as comments to choose from, `only_filled` leaves out those in which
    nothing stands.
    """
    layout = draft.layout
    columns = [each for each in draft.columns if not (only_filled and not each.fill)]
    lines = [*_above(draft, made_from, bare), f"name = {quoted(layout.name)}", "", "[table]"]
    lines += _dialect(layout.dialect)
    lines.append(f"heading_row = {layout.heading_row}")
    if layout.explained_by:
        lines.append(f"explained_by = [{', '.join(map(quoted, layout.explained_by))}]")
    if layout.empty:
        lines.append(f"empty = [{', '.join(quoted(each) for each in sorted(layout.empty))}]")
    lines.append('unlisted = "skip"' if bare else 'unlisted = "custom"')
    for each in columns:
        lines += ["", *_remarks(each, bare)]
        told = ["[[column]]", *_column(each.column, bare)]
        lines += [f"# {line}" for line in told] if bare else told
    return "\n".join(lines) + "\n"


def _above(draft: Draft, made_from: str, bare: bool) -> list[str]:
    layout, columns = draft.layout, draft.columns
    if bare:
        return [
            f"# The columns of {made_from}, none of them mapped.",
            "# Take the '# ' off the columns that are wanted and say what they hold; the others",
            "# are skipped.",
        ]
    filled = sum(1 for each in columns if not each.column.skip)
    lines = [
        f"# Drafted from {made_from}: {draft.understood} of {filled} columns understood, "
        f"{_per_cent(draft.sure)} sure.",
    ]
    if draft.unsure:
        names = ", ".join(each.column.name for each in draft.unsure)
        lines.append(f"# Look at the columns marked LOOK: {_one_line(names, 200)}")
    lines.append(f"# Check it with: roundcard layout check {layout.name}.toml {made_from}")
    return lines


def _dialect(dialect: Dialect) -> Iterator[str]:
    yield f"encoding = {quoted(dialect.encoding)}"
    yield f"separator = {quoted(SEPARATORS.get(dialect.separator, dialect.separator))}"
    if dialect.line_end != "crlf":
        yield f"line_end = {quoted(dialect.line_end)}"
    if dialect.byte_order_mark:
        yield "byte_order_mark = true"
    if dialect.quote != "needed":
        yield f"quote = {quoted(dialect.quote)}"


def _remarks(each: DraftedColumn, bare: bool) -> list[str]:
    told = []
    if not bare:
        look = "LOOK, " if each.look else ""
        notes = "".join(f"; {note}" for note in each.notes)
        told.append(f"# {look}sure {_per_cent(each.sure)}: {_one_line(each.why + notes, 300)}")
    if each.samples:
        samples = " · ".join(_one_line(sample, _LONGEST) for sample in each.samples[:_MOST_SAMPLES])
        told.append(f"# e.g. {samples}")
    if each.look and each.others and not bare:
        others = dict.fromkeys(", ".join(map(str, other.paths)) for other in each.others[:4])
        told.append(f"# or: {' | '.join(others)}")
    return told


def _column(column: Column, bare: bool) -> Iterator[str]:
    if column.number:
        yield f"number = {column.number}"
    else:
        yield f"heading = {quoted(column.heading)}"
    if column.nth > 1:
        yield f"nth = {column.nth}"
    if bare:
        yield 'holds = ""'
        return
    if column.skip:
        yield "skip = true"
        return
    holds = [quoted(str(path)) for path in column.holds]
    yield f"holds = {holds[0] if len(holds) == 1 else '[' + ', '.join(holds) + ']'}"
    for key in ("parted", "many", "join"):
        if value := getattr(column, key):
            yield f"{key} = {quoted(value)}"
    if column.values:
        pairs = ", ".join(f"{quoted(theirs)} = {quoted(ours)}"
                          for theirs, ours in column.values.items())  # fmt: skip
        yield f"values = {{ {pairs} }}"
    if column.date is not None:
        yield f"date = {quoted(column.date.text)}"


def _one_line(text: str, longest: int) -> str:
    text = " ".join("".join(char if char.isprintable() else " " for char in text).split())
    return text if len(text) <= longest else text[: longest - 1] + "…"


def _per_cent(share: float) -> str:
    return f"{share:.0%}".replace("%", " %")


def remarks_in(text: str, layout: Layout) -> dict[str, Remark]:
    """What the comments of a layout file say of its columns, by the column's name."""
    lines = text.splitlines()
    found = {}
    for column in layout.columns:
        above: list[str] = []
        at = column.line - 2
        while 0 <= at < len(lines) and lines[at].lstrip().startswith("#"):
            above.insert(0, lines[at].strip())
            at -= 1
        found[column.name] = remark_of(above)
    return found


def remark_of(comments: Sequence[str]) -> Remark:
    """What the comment lines above a column say."""
    remark = Remark()
    for line in comments:
        if told := _REMARK.match(line):
            remark = remark._replace(sure=int(told[2]) / 100, look=bool(told[1]), why=told[3])
        elif told := _SAMPLES.match(line):
            remark = remark._replace(samples=told[1])
        elif told := _OTHERS.match(line):
            remark = remark._replace(others=tuple(told[1].split(" | ")))
    return remark
