"""Write a generated address book as CSV: ``python bench/make_book.py PEOPLE FILE``.

Semicolons, windows-1252, ten columns; names, numbers and addresses are made from counters, so the
book is the same each time and no two people share all their values.
"""

from __future__ import annotations

import csv
import sys
from pathlib import Path

HEADINGS = ["Surname", "Given name", "E-mail", "Mobile", "Home phone", "Street", "Town",
            "Post code", "Groups", "Remarks"]  # fmt: skip
LAYOUT = """\
name = "bench"
[table]
encoding = "windows-1252"
separator = ";"
[[column]]
heading = "Surname"
holds = "name/family"
[[column]]
heading = "Given name"
holds = "name/given"
[[column]]
heading = "E-mail"
holds = "email"
[[column]]
heading = "Mobile"
holds = "phone/cell"
[[column]]
heading = "Home phone"
holds = "phone/home"
[[column]]
heading = "Street"
holds = "address/home/street"
[[column]]
heading = "Town"
holds = "address/home/locality"
[[column]]
heading = "Post code"
holds = "address/home/postcode"
[[column]]
heading = "Groups"
holds = "category"
many = ", "
[[column]]
heading = "Remarks"
holds = "note"
"""
_FAMILY = ("Weirside", "Lécluse", "Schleusner", "O'Culvert", "van der Sluis", "Tillerman", "Müßig")
_GIVEN = ("Ada", "Zoë", "Jürgen", "Éloïse", "Owen", "Petra", "Silas", "Tamsin", "Una")


def row(at: int) -> list[str]:
    """The cells of person number `at`."""
    family, given = _FAMILY[at % 7], _GIVEN[at % 9]
    return [
        f"{family}-{at:x}",
        given,
        f"p{at}@example.org" if at % 5 else "",
        f"07700 900{at % 1000:03}" if at % 4 else "",
        f"01632 960{at % 1000:03}" if at % 3 else "",
        f"{at % 97 + 1} Lock Lane",
        "Withy Bridge",
        f"QX{at % 9 + 1} {at % 10}LN",
        "Skippers, Cooks" if at % 6 == 0 else "Members",
        "Keeps the key; ask first, please" if at % 10 == 0 else "",
    ]


def main() -> None:
    """Write the book and, beside it, its layout."""
    people, path = int(sys.argv[1]), Path(sys.argv[2])
    with path.open("w", encoding="windows-1252", newline="") as stream:
        writer = csv.writer(stream, delimiter=";", lineterminator="\r\n")
        writer.writerow(HEADINGS)
        writer.writerows(row(at) for at in range(people))
    path.with_suffix(".toml").write_text(LAYOUT, encoding="utf-8")


if __name__ == "__main__":
    main()
