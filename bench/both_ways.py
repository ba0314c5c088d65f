"""The quick way against the long way: ``python bench/both_ways.py [BOOKS] [SEED]``.

5,000 books if not said: made up, with layouts of every kind of column, from table and cards to
table and cards, half of them cleaned. Octets, ledger, findings, side files and changes are held
against each other. Prints how many books differ (there should be none), and how many of their
records went the quick way.
"""

from __future__ import annotations

import sys
from collections import Counter
from itertools import islice
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from books.both_ways import books, taken


def main() -> None:
    """Compare, and tell."""
    said = [int(each) for each in sys.argv[1:]]
    count, seed = [*said, *[5_000, 20_261][len(said) :]]
    quick: Counter[str] = Counter()
    every: Counter[str] = Counter()
    differ = 0
    for number, (kind, read, target) in enumerate(islice(books(seed), count)):
        clean = bool(number // 4 % 2)
        outcome, (went, there) = taken(read, target, quick=True, clean=clean)
        kind += ", cleaned" if clean else ""
        quick[kind], every[kind] = quick[kind] + went, every[kind] + there
        if outcome != taken(read, target, quick=False, clean=clean)[0]:
            differ += 1
            print(f"number {number} of seed {seed} differs: {kind}")
    for kind in sorted(every):
        print(f"{kind:<26}{quick[kind]:>8,} of {every[kind]:>8,} records the quick way")
    print(f"{differ} of {count:,} books differ")


if __name__ == "__main__":
    main()
