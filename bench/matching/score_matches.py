"""Score the matching on labelled books: ``python bench/matching/score_matches.py [BOOK…] [SIZE…]``.

Books are ``old`` (one file of cards), ``first`` and ``second`` (three files of the countries in
``worlds.toml``), ``other-first`` and ``other-second`` (made apart, for scoring at the end); all
but the last two where none is named, at 3,000, 20,000 and 100,000 contacts where no size is.
Prints precision and recall of the pairs that are sure, of those together with what is asked, and
recall where each question is answered rightly; questions for a thousand contacts and how many of
them are one person; false merges by trap; time and peak memory. Nothing is asserted here.
"""

from __future__ import annotations

import importlib
import itertools
import random
import resource
import sys
import tempfile
import time
from collections import Counter, defaultdict
from collections.abc import Iterable
from pathlib import Path
from typing import Any, NamedTuple

import make_people
import make_worlds

from roundcard.books.plan import Plan
from roundcard.layouts.library import load
from roundcard.match.gathering import features_in
from roundcard.match.matching import Matches, matches_of
from roundcard.match.sheet import shown_of

Pair = tuple[int, int]
SEED = int(__import__("os").environ.get("SEED", "7"))


class Book(NamedTuple):
    """A made book."""

    plan: Plan
    labels: dict[tuple[int, int], tuple[str, str]]
    """Person and trap, by source and record."""
    region: str


def made(name: str, size: int, folder: Path, seed: int = SEED) -> Book:
    """A book of about so many contacts."""
    if name == "old":
        path = folder / "people.vcf"
        folder.mkdir(parents=True, exist_ok=True)
        make_people.write(round(size / 1.42), path, seed)
        lines = path.with_suffix(".labels").read_text("utf-8").splitlines()
        told = {(0, at): (line.split("\t")[0], line.split("\t")[1])
                for at, line in enumerate(lines, 1)}  # fmt: skip
        return Book(Plan([str(path)], "", processes=1), told, "GB")
    maker: Any = make_worlds
    if name.startswith("other-"):
        maker = importlib.import_module("make_others")
    sources = maker.write(name.removeprefix("other-"), size, folder, seed)
    told = {}
    for line in (folder / "labels.tsv").read_text("utf-8").splitlines():
        source, record, person, trap = line.split("\t")
        told[int(source), int(record)] = (person, trap)
    region = {"first": "GB", "second": "ES"}.get(name.removeprefix("other-"), "")
    layouts = [load(path) for path in sorted(folder.glob("*.toml"))]
    plan = Plan([str(source) for source in sources], "", layouts, where_they_fit=True, processes=1)
    return Book(plan, told, region)


def pairs_within(groups: Iterable[Iterable[int]]) -> set[Pair]:
    """All pairs of members of the same group."""
    return {pair for group in groups for pair in itertools.combinations(sorted(group), 2)}


def share(found: set[Pair], true: set[Pair]) -> tuple[float, float]:
    """Precision and recall."""
    good = len(found & true)
    return good / max(len(found), 1), good / max(len(true), 1)


def reviewed(matches: Matches, person: list[str]) -> set[Pair]:
    """The pairs that are one when each question is answered rightly."""
    groups: list[list[int]] = []
    for group in matches.groups:
        by_person: dict[str, list[int]] = defaultdict(list)
        for cluster in group.clusters:
            by_person[person[cluster[0]]].extend(cluster)
        groups += by_person.values()
    return pairs_within(groups)


def questions(matches: Matches, person: list[str]) -> tuple[int, int]:
    """How many are asked, and how many of these are the person of another cluster there."""
    asked = same = 0
    for group in matches.groups:
        firsts = [person[cluster[0]] for cluster in group.clusters]
        asked += len(firsts) - 1
        same += len(firsts) - len(set(firsts))
    return asked, same


def score(name: str, size: int, folder: Path, seed: int = SEED) -> None:
    """All figures of one book."""
    book = made(name, size, folder, seed)
    spent = time.process_time()
    features = features_in(book.plan, book.region)
    read = time.process_time() - spent
    matches = matches_of(features)
    spent = time.process_time() - spent
    places = zip(features.source, features.record, strict=True)
    told = [book.labels[place] for place in places]
    person = [each for each, _ in told]
    same: dict[str, list[int]] = defaultdict(list)
    for at, each in enumerate(person):
        same[each].append(at)
    true = pairs_within(same.values())
    sure = pairs_within(cluster for group in matches.groups for cluster in group.clusters)
    every = pairs_within(group.members for group in matches.groups)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    size = len(features)
    asked, yes = questions(matches, person)
    precision, recall = share(sure, true)
    after = share(reviewed(matches, person), true)[1]
    print(f"{name:<13}{size:>8,}{len(true):>8,}{precision:>9.4f}{recall:>8.4f}"
          f"{share(every, true)[1]:>9.4f}{after:>10.4f}{1000 * asked / size:>9.1f}"
          f"{yes / max(asked, 1):>7.0%}{len(matches.pairs):>11,}{read:>7.1f}{spent:>7.1f}"
          f"{memory:>7.0f}", flush=True)  # fmt: skip
    traps = Counter(told[one][1] if told[one][1] == told[other][1] else "strangers"
                    for one, other in sure - true)  # fmt: skip
    if traps:
        print("   false merges:", ", ".join(f"{trap} {n}" for trap, n in traps.most_common()))
    if "--show" in sys.argv:
        show(
            book.plan,
            matches,
            (
                ("WRONG", sure - true),
                ("MISSED", true - every),
                ("ASKED", true & (every - sure)),
                ("VAIN", every - sure - true),
            ),
        )


def show(plan: Plan, matches: Matches, told: Iterable[tuple[str, set[Pair]]]) -> None:
    """Pairs that are wrong, missed or asked, with their reasons."""
    features = matches.features
    chance = random.Random(1)
    there = [(title, chance.sample(sorted(pairs), min(len(pairs), 60))) for title, pairs in told]
    wanted = {at for _, pairs in there for pair in pairs for at in pair}
    places = {(features.source[at], features.record[at]): at for at in wanted}
    people = shown_of(plan.picked(places), places)
    for title, pairs in there:
        for one, other in pairs:
            total, reasons, veto = matches.reasons(one, other)
            said = "; ".join(f"{each.points:+.1f} {each.what}" for each in reasons)
            print(f"\n{title} {total:.1f} {veto} {matches.verdict(one, other)[2]}  {said}")
            for at in (one, other):
                print("   ", features.source[at], " | ".join(filter(None, people[at])))


def main() -> None:
    """Books of all sizes."""
    words = [each for each in sys.argv[1:] if not each.startswith("--")]
    seed = next((int(each[7:]) for each in sys.argv if each.startswith("--seed=")), SEED)
    sizes = [int(each) for each in words if each.isdecimal()] or [3_000, 20_000, 100_000]
    names = [each for each in words if not each.isdecimal()] or ["old", "first", "second"]
    print(f"{'book':<13}{'size':>8}{'pairs':>8}{'sure: P':>9}{'R':>8}{'ask: R':>9}{'reviewed':>10}"
          f"{'asked/k':>9}{'same':>7}{'compared':>11}{'read':>7}{'CPU s':>7}{'MB':>7}")  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        for name in names:
            for size in sizes:
                score(name, size, Path(folder) / name / str(size), seed)


if __name__ == "__main__":
    main()
