"""Jobs from run to run: ``python bench/jobs.py [PEOPLE] [matched]``, 100,000 if not said.

Makes a book of cards and a job for it, runs it, confirms it, runs it again unchanged, and again
with one person in a hundred changed. Prints wall time, the peak of memory, the seconds by stage and
the size of the state, with the time of a plain conversion of the same book beside. Nothing is
asserted here.
"""

from __future__ import annotations

import json
import shutil
import sys
import tempfile
from pathlib import Path

from conversions import TOOL, measured
from destinations import person

DESTINATION = """name = "cards"
accepts = ["vcard-4.0"]
identity = "uid"
[on_import]
matches_on = [["uid"]]
empty_cell = "clears"
"""
JOB = """name = "move"
id = "6f0c9c1e-7d5b-4b1a-9d39-5f0a3b1f6a11"
destination = "cards.toml"
region = "GB"
[[source]]
file = "book.vcf"
[set]
category = "Moved {date}"
[again]
blind = true
"""


def main() -> None:
    """Make the book and the job, and run it three times."""
    people = int(sys.argv[1]) if len(sys.argv) > 1 and sys.argv[1].isdecimal() else 100_000
    matched = "matched" in sys.argv
    folder = Path(tempfile.mkdtemp())
    try:
        write(folder / "book.vcf", people, changed=False)
        (folder / "cards.toml").write_text(DESTINATION)
        job = folder / "job.toml"
        job.write_text(JOB + ('[merge]\nask = "apart"\n' if matched else ""))
        plain = measured([*TOOL, "convert", "book.vcf", "plain.vcf", "-q", "--processes", "1"],
                         folder)  # fmt: skip
        print(f"{people:,} people{', matched' if matched else ''}; plain conversion "
              f"{plain[0]:.1f} s")  # fmt: skip
        told("first run", folder)
        run = max((folder / "runs").glob("2*"))
        measured([*TOOL, "runs", "confirm", str(run)], folder)
        told("unchanged", folder)
        write(folder / "book.vcf", people, changed=True)
        told("one in a hundred changed", folder)
    finally:
        shutil.rmtree(folder)


def write(path: Path, people: int, *, changed: bool) -> None:
    """A book, of which one person in a hundred may have another number."""
    with path.open("w", encoding="utf-8", newline="") as stream:
        for at in range(people):
            stream.write(person(at, uid=True, changed=changed and at % 100 == 0))


def told(what: str, folder: Path) -> None:
    """Run the job, and say how long and how much that took."""
    seconds, peak = measured([*TOOL, "run", "job.toml", "--yes", "-q"], folder)[:2]
    run = max((folder / "runs").glob("2*"), key=lambda each: int(each.name[11:]))
    stages = json.loads((run / "manifest.json").read_text()).get("seconds", {})
    size = (folder / "runs" / "state.sqlite").stat().st_size
    print(f"{what}: {seconds:.1f} s, {peak:,} MB, state {size / 1e6:,.0f} MB; {stages}", flush=True)


if __name__ == "__main__":
    main()
