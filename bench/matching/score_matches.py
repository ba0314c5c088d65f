"""Score the matching on labelled books: ``python bench/matching/score_matches.py [PEOPLE…]``.

Prints precision, recall and F1 of pairs at both thresholds, what a quick plain script reaches (the
same e-mail address, or the same name and phone number), false merges by kind of trap, time and
peak memory; for 3,000, 20,000 and 100,000 people where nothing is said. Nothing is asserted here.
"""

from __future__ import annotations

import itertools
import resource
import sys
import tempfile
import time
from collections import Counter, defaultdict
from collections.abc import Iterable
from pathlib import Path

from make_people import write

from roundcard.books.plan import Plan
from roundcard.match.gathering import features_in
from roundcard.match.matching import Matches, matches_of

Pair = tuple[int, int]


def pairs_within(groups: Iterable[Iterable[int]]) -> set[Pair]:
    """All pairs of members of the same group."""
    return {pair for group in groups for pair in itertools.combinations(sorted(group), 2)}


def found_in(matches: Matches) -> tuple[set[Pair], set[Pair]]:
    """The pairs that are surely one, and those together with the ones that are asked about."""
    sure = pairs_within(cluster for group in matches.groups for cluster in group.clusters)
    return sure, pairs_within(group.members for group in matches.groups)


def plainly(path: Path) -> set[Pair]:
    """What a plain script finds: one e-mail address, or one name and one number."""
    keys: dict[str, list[int]] = defaultdict(list)
    for at, text in enumerate(path.read_text("utf-8").split("END:VCARD")[:-1]):
        lines = [line.partition(":") for line in text.splitlines()]
        name = next((value.lower() for key, _, value in lines if key == "FN"), "")
        for key, _, value in lines:
            if key == "EMAIL":
                keys[value.lower()].append(at)
            elif key == "TEL":
                digits = "".join(filter(str.isdigit, value))[-9:]
                keys[f"{name} {digits}"].append(at)
    return pairs_within(group for group in keys.values() if len(group) < 50)


def told(name: str, found: set[Pair], true: set[Pair]) -> None:
    """One line of figures."""
    good = len(found & true)
    precision, recall = good / max(len(found), 1), good / max(len(true), 1)
    f1 = 2 * precision * recall / max(precision + recall, 1e-9)
    print(f"  {name:<22}{precision:>10.4f}{recall:>10.4f}{f1:>10.4f}{len(found):>10,}")


def score(people: int, folder: Path) -> None:
    """All figures of one book."""
    path = folder / "people.vcf"
    cards = write(people, path)
    labels = [line.split("\t") for line in path.with_suffix(".labels").read_text().splitlines()]
    same: dict[str, list[int]] = defaultdict(list)
    for at, (person, _) in enumerate(labels):
        same[person].append(at)
    true = pairs_within(same.values())
    began = time.perf_counter()
    features = features_in(Plan([str(path)], ""), "GB")
    read = time.perf_counter() - began
    matches = matches_of(features)
    spent = time.perf_counter() - began
    sure, every = found_in(matches)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(
        f"\n{people:,} people on {cards:,} cards, {len(true):,} true pairs; {len(matches.pairs):,} "
        f"compared; {spent:.1f} s ({read:.1f} s of it reading), {memory:.0f} MB"
    )
    print(f"  {'':<22}{'precision':>10}{'recall':>10}{'F1':>10}{'pairs':>10}")
    told("plain script", plainly(path), true)
    told("sure", sure, true)
    told("sure and to ask", every, true)
    traps = Counter(labels[one][1] for one, other in sure - true)
    people_in = Counter(trap for _, trap in labels)
    print(
        "  false merges by trap:",
        ", ".join(
            f"{trap} {traps[trap]} of {count:,} cards" for trap, count in sorted(people_in.items())
        ),
    )
    if "--show" in sys.argv:
        show(matches, sorted(sure - true)[:25], sorted(true - every)[:40], path)


def show(matches: Matches, wrong: list[Pair], missed: list[Pair], path: Path) -> None:
    """Pairs that are wrong, with their reasons."""
    cards = path.read_text("utf-8").split("END:VCARD")
    for title, pairs in (("wrong", wrong), ("missed", missed)):
        for one, other in pairs:
            total, reasons, veto = matches.reasons(one, other)
            print(
                f"\n{title} {total:.1f} {veto}",
                "; ".join(f"{r.points:+.1f} {r.what}" for r in reasons),
            )
            for at in (one, other):
                print("   ", " | ".join(cards[at].split("VERSION:3.0")[1].split()))


def main() -> None:
    """Books of all sizes."""
    sizes = [int(each) for each in sys.argv[1:] if each.isdecimal()] or [3_000, 20_000, 100_000]
    with tempfile.TemporaryDirectory() as name:
        for size in sizes:
            score(size, Path(name))


if __name__ == "__main__":
    main()
