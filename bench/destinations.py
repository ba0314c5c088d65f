"""Fitting, checking, comparing: ``python bench/destinations.py [PEOPLE]``, 100,000 if not said.

Makes a book, writes it by a layout, then for a destination with that layout, which takes 500 people
and 1,000,000 bytes a file; a third of the people have one number more than there are columns, once
without a limit of numbers, once with one. Then checks what was written, and compares the book with
another one (shuffled, half of it without uids, with known differences). Prints wall time, its ratio
to the plain conversion of the same run, the peak of memory, and how many files there are. Nothing
is asserted here.
"""

from __future__ import annotations

import random
import shutil
import sys
import tempfile
from pathlib import Path

from conversions import TOOL, measured

DESTINATION = """\
name = "there"
accepts = ["table"]
layout = "lockside"
[limits]
people_per_file = 500
bytes_per_file = 1_000_000
values = {{ phone = {phones} }}
length = {{ note = 2000 }}
[overflow]
into = "note"
[on_import]
matches_on = [["uid"], ["email"]]
"""
_GIVEN = ["Ada", "Bo", "Zoë", "Dee", "Eli", "Fay", "Gus", "Hal", "Ivy", "Jürgen"]


def person(at: int, *, uid: bool, changed: bool = False) -> str:
    """A card; every third has a third number."""
    given = _GIVEN[at % 10]
    lines = [f"FN:{given} Weir{at // 10}", f"N:Weir{at // 10};{given};;;",
             f"EMAIL:{at}@example.org", f"TEL;TYPE=cell:+44 7700 {at + changed:07}",
             f"TEL;TYPE=home:+44 1632 {at:07}",
             f"ADR;TYPE=home:;;{at} Lock Lane;Bath;Avon;BA1 1AA;United Kingdom",
             f"NOTE:note {at}"]  # fmt: skip
    lines += [f"TEL;TYPE=work:+44 1632 8{at:06}"] * (at % 3 == 0)
    lines += [f"UID:urn:uuid:{at:08}-0000-4000-8000-000000000000"] * uid
    text = "".join(f"{line}\r\n" for line in lines)
    return f"BEGIN:VCARD\r\nVERSION:4.0\r\n{text}END:VCARD\r\n"


def main() -> None:
    """Make the books, and do all jobs with one process and with two."""
    people = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    folder = Path(tempfile.mkdtemp())
    try:
        chance = random.Random(1)
        old = [person(at, uid=True) for at in range(people)]
        new = [person(at, uid=at % 2 == 0, changed=at % 100 == 0)
               for at in range(people + 50) if at % 1000 != 1]  # fmt: skip
        chance.shuffle(new)
        for name, cards in (("old.vcf", old), ("new.vcf", new)):
            (folder / name).write_text("".join(cards), encoding="utf-8", newline="")
        for phones in (2, 9):
            (folder / f"d{phones}.toml").write_text(DESTINATION.format(phones=phones))
        print(f"{people:,} people")
        for processes in ("1", "2"):
            run(folder, processes)
    finally:
        shutil.rmtree(folder)


def run(folder: Path, processes: str) -> None:
    """All jobs with so many processes."""
    share = ["--quiet", "--force", "--processes", processes]
    plain, peak = measured([*TOOL, "convert", "old.vcf", "plain.csv", "--to-layout", "lockside",
                            *share], folder)  # fmt: skip
    print(f"\n{processes} process(es)\nplain conversion      {plain:6.1f}s          {peak:5.0f} MB")
    for phones, what in (("9", "room by columns"), ("2", "a limit of two")):
        for path in folder.glob("to-*.csv"):
            path.unlink()
        spent, peak = measured([*TOOL, "convert", "old.vcf", "to.csv", "--destination",
                                f"d{phones}.toml", *share], folder)  # fmt: skip
        files = sorted(folder.glob("to-*.csv"))
        most = max(path.stat().st_size for path in files)
        print(f"fitted, {what:<18}{spent:6.1f}s  {spent / plain:4.2f}×  {peak:5.0f} MB"
              f"   {len(files)} files of at most {most:,} bytes")  # fmt: skip
    names = [path.name for path in sorted(folder.glob("to-*.csv"))]
    if processes != "1":
        return
    spent, peak = measured([*TOOL, "check", *names, "--destination", "d2.toml", "--quiet"], folder)
    print(f"check                 {spent:6.1f}s          {peak:5.0f} MB")
    for more in ([], ["--as", "lockside"]):
        try:
            spent, peak = measured(
                [*TOOL, "compare", "old.vcf", "new.vcf", *more, "--quiet"], folder
            )
        except SystemExit:
            spent, peak = again(folder, more)
        print(f"compare {' '.join(more):<14}{spent:6.1f}s          {peak:5.0f} MB")


def again(folder: Path, more: list[str]) -> tuple[float, float]:
    """A comparison that finds differences, which is no failure here."""
    line = " ".join([*TOOL, "compare", "old.vcf", "new.vcf", *more, "--quiet"])
    return measured(["sh", "-c", f"{line} || true"], folder)


if __name__ == "__main__":
    main()
