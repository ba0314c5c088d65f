"""Conversions against plain scripts: ``python bench/conversions.py [PEOPLE]``, 200,000 if not said.

Of two books (see `make_book`): the usual one, and one with whole names, organisations, days, web
addresses, several numbers in a cell, unlisted columns, notes with line breaks and empty properties.
Prints wall time, its ratio to the plain script's of the same run, people a second, the peak of
memory, and how many records went the quick way, for a tenth of the book and for the whole; then the
start-up of ``roundcard --help`` against that of a bare Typer program, and what ten rows with a
layout take beyond it. The peak is that of the largest process. Nothing is asserted here.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from unittest.mock import patch

from roundcard.books import source_reader
from roundcard.books.conversion import convert
from roundcard.books.plan import Plan
from roundcard.books.shapes import work
from roundcard.card.contact import Contact
from roundcard.layouts.library import load as load_layout

HERE = Path(__file__).parent
PYTHON = sys.executable
TURNS = 3
JOBS = (1, 2)
"""How many processes share the work."""
TOOL = [PYTHON, "-m", "roundcard"]

COMPILED = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
"""The surroundings of a command: modules are compiled once, as where it was installed."""


def measured(command: list[str], folder: Path) -> tuple[float, float]:
    """Wall seconds and peak MB of a command. Raises where it fails."""
    wall, _, peak = told(command, folder)
    return wall, peak


def told(command: list[str], folder: Path) -> tuple[float, float, float]:
    """Wall seconds, CPU seconds and peak MB of a command. Raises where it fails."""
    began = time.perf_counter()
    process = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, env=COMPILED)
    _, status, usage = os.wait4(process.pid, 0)
    spent = time.perf_counter() - began
    process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode:
        raise SystemExit(f"{' '.join(command)} ended with {process.returncode}")
    return spent, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def quick_way(source: Path, target: Path, options: list[str]) -> str:
    """How many records of a conversion went the quick way, of how many."""
    long = 0
    work_off = work.work_off

    def counted(*args: Any) -> Iterator[Contact]:
        nonlocal long
        for contact in work_off(*args):
            long += 1
            yield contact

    said = dict(zip(options[::2], options[1::2], strict=True))
    layouts = {key: load_layout(source.parent / path) for key, path in said.items()
               if key != "--to"}  # fmt: skip
    plan = Plan([str(source)], str(target), [layouts["--layout"]] if "--layout" in layouts else [],
                to_layout=layouts.get("--to-layout"), to_format=said.get("--to", ""),
                force=True, processes=1)  # fmt: skip
    with patch.object(source_reader, "work_off", counted):
        people = convert(plan).tally.people.read
    return f"{people - long:,} of {people:,}"


BOOKS = {
    "usual": ("the usual book", "usual.vcf", "usual.toml"),
    "full": ("the full book", "full.vcf", "full.target.toml"),
}


def conversions(people: int, folder: Path) -> None:
    """One table of figures for books of so many people."""
    for book, (title, cards, back) in BOOKS.items():
        make = [PYTHON, str(HERE / "make_book.py"), str(people), f"{book}.csv"]
        subprocess.run([*make, *["full"] * (book == "full")], cwd=folder, check=True)
        size = (folder / f"{book}.csv").stat().st_size / 1e6
        print(f"\n{title}: {people:,} people, {size:.1f} MB of CSV")
        heads = "".join(f"{f'{jobs} process' + 'es' * (jobs > 1):>20}" for jobs in JOBS)
        print(f"{'':<18}{'plain':>8}{heads}{'people/s':>11}{'peak':>10}   the quick way")
        steps = [
            ("CSV to vCard 4.0", "rows-to-cards", f"{book}.csv", f"{book}-made.vcf",
             ["--layout", f"{book}.toml"]),
            ("vCard 4.0 to CSV", "cards-to-rows", cards, f"{book}-back.csv",
             ["--to-layout", back]),
            ("vCard 4.0 to 3.0", "cards-to-cards", cards, f"{book}-3.vcf",
             ["--to", "vcard-3.0"]),
        ]  # fmt: skip
        for name, way, source, ours, options in steps:
            row = figures(folder, people, [book, way, source], ours, options)
            print(f"{name:<18}{row}   {quick_way(folder / source, folder / ours, options)}")
            if ours == "usual-made.vcf":
                shutil.copy(folder / ours, folder / cards)
    same = (folder / "usual.csv").read_bytes() == (folder / "usual-back.csv").read_bytes()
    print("CSV to vCard to CSV gives the same file:", "yes" if same else "NO")


def figures(folder: Path, people: int, plain: list[str], ours: str, options: list[str]) -> str:
    """Times and memory of one conversion, against the plain script's."""
    command = [*TOOL, "convert", plain[-1], ours, "--quiet", "--force", *options, "--processes"]
    script = [PYTHON, str(HERE / "plain_conversions.py"), *plain, "plain.out"]
    # turn by turn, the best of each: other work on the machine only ever makes it slower
    base, spent, peak = 1e9, dict.fromkeys(JOBS, 1e9), 0.0
    for _ in range(TURNS):
        base = min(base, measured(script, folder)[0])
        for jobs in JOBS:
            seconds, memory = measured([*command, str(jobs)], folder)
            spent[jobs] = min(spent[jobs], seconds)
            peak = max(peak, memory)
    times = "".join(f"{spent[jobs]:>11.2f}s {spent[jobs] / base:>6.2f}×" for jobs in JOBS)
    return f"{base:>7.2f}s{times}{people / min(spent.values()):>11,.0f}{peak:>7.0f} MB"


def start_up(folder: Path, times: int = 7) -> None:
    """The best of some starts, in seconds of CPU."""

    def best(command: list[str]) -> float:
        return min(told(command, folder)[1] for _ in range(times))

    ten = (folder / "usual.csv").read_bytes().split(b"\n")[:11]
    (folder / "ten.csv").write_bytes(b"\n".join(ten) + b"\n")
    convert_ten = [*TOOL, "convert", "ten.csv", "ten.vcf", "--quiet", "--force"]
    bare = best([PYTHON, str(HERE / "bare_typer.py"), "--help"])
    ours = best([*TOOL, "--help"])
    rows, drafted = best([*convert_ten, "--layout", "usual.toml"]), best(convert_ten)
    print(f"\nCPU of --help: bare Typer {bare:.2f} s, roundcard {ours:.2f} s ({ours / bare:.2f}×)")
    print(f"ten rows with a layout {rows:.2f} s, without {drafted:.2f} s")


def main() -> None:
    """Measure a tenth of the book, the book, and the start-up."""
    people = int(sys.argv[1]) if len(sys.argv) > 1 else 200_000
    folder = Path(tempfile.mkdtemp(prefix="roundcard-bench-"))
    try:
        for size in (people // 10, people):
            conversions(size, folder)
        start_up(folder)
    finally:
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
