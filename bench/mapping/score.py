"""Score the drafting of layouts on invented tables: ``python bench/mapping/score.py``.

Each layout under ``layouts/`` says what a careful person would say of each column. Counted are
columns that are right, columns that miss (kept as custom though a field is there), columns in a
wrong field (worse than a miss), and dialects that are told right. ``--wrong`` lists what is not
right; names after it choose layouts. ``--second`` to ``--seventh`` take other sets,
each written apart and scored before it was tuned to. Below stands how sure the drafts were of what
was right and what was not.
"""

from __future__ import annotations

import codecs
import sys
import tempfile
import time
from collections import Counter, defaultdict
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

from rows import Expected, Invented, file_of, invented_layouts

from roundcard.books.drafting import draft_table
from roundcard.books.source import Source
from roundcard.books.tables import guessed_dialect
from roundcard.layouts.drafting.draft import DraftedColumn


def verdict(expected: Expected, drafted: DraftedColumn) -> str:
    """``right``, ``missed``, ``wrong field`` or ``wrong use``."""
    got = "+".join(str(path) for path in drafted.column.holds)
    if drafted.column.skip:
        return "right"  # it is empty
    if got.startswith("custom/"):
        return "right" if "custom" in expected.holds else "missed"
    if got in expected.holds:
        return "right"
    if any(_field(got) == _field(holds) for holds in expected.holds):
        return "wrong use"
    return "wrong field"


def _field(path: str) -> str:
    words = path.split("/")
    return words[0] if words[0] in ("phone", "email") else f"{words[0]}/{words[-1]}"


def main() -> None:
    """Draft all, and print the figures by language."""
    chosen = [word for word in sys.argv[1:] if not word.startswith("-")]
    tell = "--wrong" in sys.argv or bool(chosen)
    by_language: dict[str, Counter[str]] = defaultdict(Counter)
    by_file: dict[str, Counter[str]] = defaultdict(Counter)
    sureness = Sureness()
    which = next(
        (
            each
            for each in ("second", "third", "fourth", "fifth", "sixth", "seventh")
            if f"--{each}" in sys.argv
        ),
        "",
    )
    began = time.perf_counter()
    layouts = [each for each in invented_layouts(which) if not chosen or each.name in chosen]
    with tempfile.TemporaryDirectory() as folder:
        for layout in layouts:
            counts = score(layout, Path(folder) / "table.csv", sureness, tell)
            by_language[layout.language] += counts
            by_file[layout.file] += counts
    seconds = time.perf_counter() - began
    print(f"{'':10}{'layouts':>8}{'columns':>9}{'right':>9}{'missed':>8}{'wrong use':>11}"
          f"{'wrong field':>13}{'dialects':>10}")  # fmt: skip
    total: Counter[str] = Counter()
    for language, counts in sorted(by_language.items()):
        total += counts
        print(_row(language, counts))
    for file, counts in sorted(by_file.items()):
        print(_row(file, counts))
    print(_row("all", total))
    print(*sureness.told(), sep="\n")
    print(f"{seconds:.1f} s, {1000 * seconds / max(len(layouts), 1):.0f} ms a table")


class Sureness:
    """How sure the drafts were of each column, what became of it, and what was to be looked at."""

    def __init__(self) -> None:
        self.columns: list[tuple[float, str, bool]] = []

    def told(self) -> Iterator[str]:
        """The share that is right, by how sure the drafts were; and what was marked."""
        edges = (1.01, 0.98, 0.95, 0.9, 0.8, 0.6, 0.0)
        for above, least in pairwise(edges):
            within = [kind for sure, kind, _ in self.columns if least <= sure < above]
            if within:
                right = sum(kind == "right" for kind in within) / len(within)
                yield f"sure {least:4.0%} and more: {len(within):4} columns, {right:6.1%} right"
        for kind in ("right", "missed", "wrong use", "wrong field"):
            marked = [look for _, verdict, look in self.columns if verdict == kind]
            if marked:
                yield f"to be looked at of {kind}: {sum(marked)} of {len(marked)}"


def _row(name: str, counts: Counter[str]) -> str:
    columns = counts["columns"] or 1
    return (f"{name:10}{counts['layouts']:8}{counts['columns']:9}{counts['right'] / columns:9.1%}"
            f"{counts['missed']:8}{counts['wrong use']:11}"
            f"{counts['wrong field']:7} {counts['wrong field'] / columns:5.1%}"
            f"{counts['dialects']:7}/{counts['layouts']}")  # fmt: skip


def score(layout: Invented, path: Path, sureness: Sureness, tell: bool) -> Counter[str]:
    """Write one table, draft its layout, and count."""
    counts: Counter[str] = Counter()
    path.write_bytes(file_of(layout))
    source = Source(str(path))
    guessed = guessed_dialect(source)
    counts["layouts"] += 1
    same = codecs.lookup(guessed.dialect.encoding).name == codecs.lookup(layout.encoding).name
    decodes = path.read_bytes().decode(layout.encoding, "replace") == path.read_bytes().decode(
        guessed.dialect.encoding, "replace"
    )
    if (same or decodes) and guessed.dialect.separator == layout.separator:
        counts["dialects"] += 1
    elif tell:
        print(f"{layout.name}: dialect {guessed.dialect.encoding} {guessed.dialect.separator!r}")
    draft, _ = draft_table(source, guessed.dialect, lambda begun: begun.profile())
    if len(draft.columns) != len(layout.columns):
        print(f"{layout.name}: {len(draft.columns)} columns found of {len(layout.columns)}")
    for expected, drafted in zip(layout.columns, draft.columns, strict=False):
        counts["columns"] += 1
        told = verdict(expected, drafted)
        counts[told] += 1
        if not drafted.column.skip:
            sureness.columns.append((drafted.sure, told, drafted.look))
        if tell and told != "right":
            got = f"{drafted.column.meaning} ({drafted.sure:.2f}, {drafted.why})"
            wanted = " or ".join(expected.holds)
            print(f"{layout.language} {layout.name}: {expected.heading} → {got}; {told}, {wanted}")
    return counts


if __name__ == "__main__":
    main()
