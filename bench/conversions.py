"""Conversions against plain scripts: ``python bench/conversions.py [PEOPLE]``, 200,000 if not said.

Prints wall time, its ratio to the plain script's of the same run, people a second, and the peak
of memory, for a tenth of the book and for the whole; then the start-up of ``roundcard --help``
against that of a bare Typer program. The peak is that of the largest process. Nothing is
asserted here.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).parent
PYTHON = sys.executable
TURNS = 3
JOBS = (1, 2)
"""How many processes share the work."""
TOOL = [PYTHON, "-m", "roundcard"]


def measured(command: list[str], folder: Path) -> tuple[float, float]:
    """Wall seconds and peak MB of a command. Raises where it fails."""
    began = time.perf_counter()
    process = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    spent = time.perf_counter() - began
    process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode:
        raise SystemExit(f"{' '.join(command)} ended with {process.returncode}")
    return spent, usage.ru_maxrss / 1024


def conversions(people: int, folder: Path) -> None:
    """One table of figures for a book of so many people."""
    plain = str(HERE)
    subprocess.run(
        [PYTHON, f"{plain}/make_book.py", str(people), "book.csv"], cwd=folder, check=True
    )
    print(f"\n{people:,} people, {(folder / 'book.csv').stat().st_size / 1e6:.1f} MB of CSV")
    heads = "".join(f"{f'{jobs} process' + 'es' * (jobs > 1):>20}" for jobs in JOBS)
    print(f"{'':<18}{'plain':>8}{heads}{'people/s':>11}{'peak':>10}")
    steps = [
        ("CSV to vCard 4.0", "plain_csv_to_vcard.py", "book.csv", "plain.vcf", "book.vcf",
         ["--layout", "book.toml"]),
        ("vCard 4.0 to CSV", "plain_vcard_to_csv.py", "book.vcf", "plain.csv", "back.csv",
         ["--to-layout", "book.toml"]),
        ("vCard 4.0 to 3.0", "plain_vcard_to_vcard.py", "book.vcf", "plain3.vcf", "book3.vcf",
         ["--to", "vcard-3.0"]),
    ]  # fmt: skip
    for title, script, source, theirs, ours, options in steps:
        command = [*TOOL, "convert", source, ours, "--quiet", "--force", *options, "--processes"]
        # turn by turn, the best of each: other work on the machine only ever makes it slower
        base, spent, peak = 1e9, dict.fromkeys(JOBS, 1e9), 0.0
        for _ in range(TURNS):
            base = min(base, measured([PYTHON, f"{plain}/{script}", source, theirs], folder)[0])
            for jobs in JOBS:
                seconds, memory = measured([*command, str(jobs)], folder)
                spent[jobs] = min(spent[jobs], seconds)
                peak = max(peak, memory)
        times = "".join(f"{spent[jobs]:>11.2f}s {spent[jobs] / base:>6.1f}×" for jobs in JOBS)
        rate = people / min(spent.values())
        print(f"{title:<18}{base:>7.2f}s{times}{rate:>11,.0f}{peak:>7.0f} MB")
    same = (folder / "book.csv").read_bytes() == (folder / "back.csv").read_bytes()
    print("CSV to vCard to CSV gives the same file:", "yes" if same else "NO")


def start_up(folder: Path, times: int = 7) -> None:
    """The best of some starts."""

    def best(command: list[str]) -> float:
        return min(measured(command, folder)[0] for _ in range(times))

    bare = best([PYTHON, str(HERE / "bare_typer.py"), "--help"])
    ours = best([*TOOL, "--help"])
    print(f"\nstart-up of --help: bare Typer {bare * 1000:.0f} ms, roundcard {ours * 1000:.0f} ms "
          f"({ours / bare:.2f}×)")  # fmt: skip


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
