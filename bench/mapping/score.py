"""Score the drafting of layouts on invented tables: ``python bench/mapping/score.py``.

Each layout under ``layouts/`` says what a careful person would say of each column. Counted are
columns that are right, columns that miss (kept as custom though a field is there), columns in a
wrong field (worse than a miss), and dialects that are told right. ``--wrong`` lists what is not
right; names after it choose layouts.
"""

from __future__ import annotations

import codecs
import sys
import tempfile
import time
from collections import Counter, defaultdict
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
    began = time.perf_counter()
    layouts = [each for each in invented_layouts() if not chosen or each.name in chosen]
    with tempfile.TemporaryDirectory() as folder:
        for layout in layouts:
            score(layout, Path(folder) / "table.csv", by_language[layout.language], tell)
    seconds = time.perf_counter() - began
    print(f"{'':10}{'layouts':>8}{'columns':>9}{'right':>9}{'missed':>8}{'wrong use':>11}"
          f"{'wrong field':>13}{'dialects':>10}")  # fmt: skip
    total: Counter[str] = Counter()
    for language, counts in sorted(by_language.items()):
        total += counts
        print(_row(language, counts))
    print(_row("all", total))
    print(f"{seconds:.1f} s, {1000 * seconds / max(len(layouts), 1):.0f} ms a table")


def _row(name: str, counts: Counter[str]) -> str:
    columns = counts["columns"] or 1
    return (f"{name:10}{counts['layouts']:8}{counts['columns']:9}{counts['right'] / columns:9.1%}"
            f"{counts['missed']:8}{counts['wrong use']:11}"
            f"{counts['wrong field']:7} {counts['wrong field'] / columns:5.1%}"
            f"{counts['dialects']:7}/{counts['layouts']}")  # fmt: skip


def score(layout: Invented, path: Path, counts: Counter[str], tell: bool) -> None:
    """Write one table, draft its layout, and count."""
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
        if tell and told != "right":
            got = f"{drafted.column.meaning} ({drafted.sure:.2f}, {drafted.why})"
            wanted = " or ".join(expected.holds)
            print(f"{layout.language} {layout.name}: {expected.heading} → {got}; {told}, {wanted}")


if __name__ == "__main__":
    main()
