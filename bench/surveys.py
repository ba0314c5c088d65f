"""Surveys and drafts of a big sheet, beside a plain script: ``python bench/surveys.py [ROWS]``.

The sheet has 100 columns: ten of people's, forty empty, thirty of a few words, twenty of codes. The
plain script reads it with the library's CSV reader and counts the values of each column.
"""

from __future__ import annotations

import csv
import random
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

GIVEN = ["Anna", "Rowan", "Isla", "Peter", "Maeve", "Tom"]
FAMILY = ["Harrow", "Lockett", "Fenn", "Sedge"]
HEADINGS = ["First name", "Surname", "E-mail", "Mobile", "Street", "Town", "Post code", "Born",
            "Member no.", "Notes"]  # fmt: skip
PLAIN = """
import csv, sys
from collections import Counter
with open(sys.argv[1], newline="", encoding="utf-8") as stream:
    rows = csv.reader(stream)
    counts = [Counter() for _ in next(rows)]
    for row in rows:
        for counter, cell in zip(counts, row):
            counter[cell] += 1
print(sum(len(counter) for counter in counts))
"""


def make(path: Path, rows: int) -> None:
    """Write the sheet."""
    chance = random.Random(4)
    with path.open("w", newline="", encoding="utf-8") as stream:
        writer = csv.writer(stream)
        writer.writerow([*HEADINGS, *(f"Empty {n}" for n in range(40)),
                         *(f"Flag {n}" for n in range(30)),
                         *(f"Code {n}" for n in range(20))])  # fmt: skip
        for n in range(rows):
            writer.writerow([
                chance.choice(GIVEN) + str(n % 997), chance.choice(FAMILY) + str(n % 313),
                f"p{n}@example.org", f"+44 7700 9{n % 100000:05}", f"{n % 400} Lock Lane",
                f"Withy {n % 50}", f"WX{n % 9} {n % 9}AB",
                f"{n % 28 + 1:02}/{n % 12 + 1:02}/{1930 + n % 80}", f"M-{n:06}",
                "" if n % 3 else f"note {n} of a person", *[""] * 40,
                *(chance.choice(("yes", "no", "")) for _ in range(30)),
                *(f"v{chance.randrange(100000)}" for _ in range(20)),
            ])  # fmt: skip


def run(*command: str) -> tuple[float, float]:
    """Seconds of a command, and the peak of its memory in MB."""
    began = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    seconds = time.perf_counter() - began
    return seconds, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024


def main() -> None:
    """Make the sheet, run all, and print the ratios."""
    rows = int(sys.argv[1]) if len(sys.argv) > 1 else 200_000
    roundcard = str(Path(sys.executable).parent / "roundcard")
    with tempfile.TemporaryDirectory() as folder:
        sheet = Path(folder) / "sheet.csv"
        make(sheet, rows)
        print(f"{rows:,} rows of 100 columns, {sheet.stat().st_size / 1e6:.1f} MB")
        survey, peak = run(roundcard, "survey", str(sheet), "--quiet")
        print(f"survey        {survey:6.1f} s  peak {peak:4.0f} MB")
        draft, peak = run(roundcard, "layout", "draft", str(sheet), "-o", f"{folder}/l.toml")
        print(f"layout draft  {draft:6.1f} s  peak {peak:4.0f} MB")
        (Path(folder) / "plain.py").write_text(PLAIN, encoding="utf-8")
        plain, peak = run(sys.executable, f"{folder}/plain.py", str(sheet))
        print(f"plain script  {plain:6.1f} s  peak of all so far {peak:4.0f} MB")
        print(f"survey {survey / plain:.1f}×, draft {draft / plain:.1f}× the plain script")


if __name__ == "__main__":
    main()
