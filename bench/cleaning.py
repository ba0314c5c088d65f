"""Cleaning and picking against plain conversions: ``python bench/cleaning.py [PEOPLE]``.

Of a worn book of 200,000 people where nothing else is said: numbers in six spellings, whole names,
dates in numbers, capitals, doubled spaces, values said twice; and of the usual book of the other
benchmarks, in which the phone numbers have to be put in form. Prints wall time, its ratio to the
plain conversion of the same run, and the peak of memory, for a tenth of the book and for the
whole; then how fast conditions are over a million people. Nothing is asserted here.
"""

from __future__ import annotations

import csv
import subprocess
import sys
import tempfile
from pathlib import Path

from conversions import HERE, JOBS, TOOL, measured
from make_book import row

TURNS, MANY = 2, 100_000
HEADINGS = ["Name", "E-mail", "Phone", "Other phone", "Street", "Town", "Post code", "Born",
            "Groups", "Remarks"]  # fmt: skip
LAYOUT = "".join(
    f'\n[[column]]\nheading = "{heading}"\nholds = "{path}"\n'
    for heading, path in zip(
        HEADINGS,
        ("name/full", "email", "phone", "phone", "address/street", "address/locality",
         "address/postcode", "birthday", "category", "note"),
        strict=True,
    )
)  # fmt: skip
CONDITIONS = (
    "phone present and email present",
    'name/full contains "lecluse" or address/locality = "Lockham"',
    'birthday after 1970 and not category = "Donors" and count phone > 1',
)


def worn(at: int) -> list[str]:
    """The cells of person number `at`, with what people do to them."""
    family, given, email, mobile, home, street, town, code, groups, note = row(at)
    letters = "".join(chr(97 + at // 26**place % 26) for place in (3, 2, 1, 0))
    family = f"{family.partition('-')[0]}-{letters.title()}"
    digits = f"1632{960000 + at % 999:06}" if at % 3 else f"7{(at * 7919) % 10**9:09}"
    spellings = (f"0{digits}", f"+44 (0){digits}", f"0044{digits}", f"(0{digits[:4]}) {digits[4:]}",
                 f"0{digits[:4]}-{digits[4:]}", f"+44 {digits[:4]} {digits[4:]}")  # fmt: skip
    first = spellings[at % 6]
    name = f"{family}, {given}" if at % 5 == 0 else f"{given} {family}"
    return [
        name.upper() if at % 11 == 0 else name,
        email.upper() if at % 4 == 0 else email,
        first,
        spellings[(at + 1) % 6] if at % 10 == 0 else home if at % 2 else mobile,
        f"{street}  " if at % 7 == 0 else street,
        town,
        code.replace(" ", "").lower() if at % 6 == 0 else code,
        f"{at % 28 + 1:02}/{at % 12 + 1:02}/{1930 + at % 80}",
        groups,
        "n/a" if at % 9 == 0 else note,
    ]


def write(people: int, path: Path) -> None:
    """A worn book as CSV."""
    with path.open("w", encoding="utf-8", newline="") as stream:
        writer = csv.writer(stream)
        writer.writerow(HEADINGS)
        writer.writerows(worn(at) for at in range(people))
    path.with_suffix(".toml").write_text('name = "worn"\n' + LAYOUT, encoding="utf-8")


def cleaning(people: int, folder: Path) -> None:
    """One table of figures for a book of so many people."""
    write(people, folder / "worn.csv")
    print(f"\n{people:,} people, {(folder / 'worn.csv').stat().st_size / 1e6:.1f} MB of CSV")
    print(f"{'':<28}{'processes':>10}{'plain':>10}{'cleaned':>10}{'ratio':>8}{'peak':>10}")
    clean = ["--clean", "--region", "GB"]
    subprocess.run([sys.executable, str(HERE / "make_book.py"), str(people), "usual.csv"],
                   cwd=folder, check=True)  # fmt: skip
    ways: tuple[tuple[str, str, str, list[str]], ...] = (
        ("usual, CSV to vCard 4.0", "usual.csv", "usual.vcf", []),
        ("usual, vCard 4.0 to 3.0", "usual.vcf", "usual3.vcf", ["--to", "vcard-3.0"]),
        ("worn, CSV to vCard 4.0", "worn.csv", "worn.vcf", []),
        ("worn, vCard 4.0 to 3.0", "worn.vcf", "worn3.vcf",
         ["--to", "vcard-3.0", "--changes", "changes.csv"]),
    )  # fmt: skip
    for title, source, target, options in ways:
        plainly = [option for option in options if "changes" not in option]
        for jobs in JOBS:
            layout = source.partition(".")[0] + ".toml"
            command = [*TOOL, "convert", "--quiet", "--force", "--layout", layout,
                       "--processes", str(jobs), source]  # fmt: skip
            base, spent, peak = 1e9, 1e9, 0.0
            for _ in range(TURNS if people < MANY else 1):
                base = min(base, measured([*command, target, *plainly], folder)[0])
                seconds, memory = measured([*command, "cleaned.vcf", *options, *clean], folder)
                spent, peak = min(spent, seconds), max(peak, memory)
            print(f"{title:<28}{jobs:>10}{base:>9.2f}s{spent:>9.2f}s{spent / base:>7.1f}×"
                  f"{peak:>7.0f} MB")  # fmt: skip


def picking(people: int, folder: Path) -> None:
    """How fast conditions are."""
    write(people, folder / "worn.csv")
    command = [*TOOL, "pick", "worn.csv", "picked.vcf", "--quiet", "--force", "--layout",
               "worn.toml", "--where"]  # fmt: skip
    print(f"\npicking out of {people:,} people, all cores")
    for condition in CONDITIONS:
        seconds, memory = measured([*command, condition], folder)
        print(
            f"  {seconds:>6.1f}s {people / seconds:>10,.0f} people/s {memory:>6.0f} MB  {condition}"
        )


def main() -> None:
    """All of it."""
    people = int(sys.argv[1]) if len(sys.argv) > 1 else 200_000
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        cleaning(people // 10, folder)
        cleaning(people, folder)
        picking(people * 5, folder)


if __name__ == "__main__":
    main()
