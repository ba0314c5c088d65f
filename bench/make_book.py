"""Write a generated address book: ``python bench/make_book.py PEOPLE FILE [full]``.

The usual book: semicolons, windows-1252, ten columns. The full one: whole names only, several
numbers in a cell, an organisation, days, web addresses, values that no standard field holds, a
column that its layout does not list, notes with line breaks; and it is written as cards too, with
empty properties. All is made from counters, so a book is the same each time and no two people share
all their values.
"""

from __future__ import annotations

import csv
import sys
from pathlib import Path

HEADINGS = ["Surname", "Given name", "E-mail", "Mobile", "Home phone", "Street", "Town",
            "Post code", "Groups", "Remarks"]  # fmt: skip
HOLDS = ["name/family", "name/given", "email", "phone/cell", "phone/home", "address/home/street",
         "address/home/locality", "address/home/postcode", "category", "note"]  # fmt: skip
FULL_HEADINGS = ["Name", "E-mail", "Phones", "Club", "Born", "Wedding", "Web", "Street", "Town",
                 "Post code", "Boat", "Berth", "Remarks"]  # fmt: skip
FULL_HOLDS = ["name/full", "email", "phone", "org", "birthday", "anniversary", "url",
              "address/street", "address/locality", "address/postcode", "custom/Boat", "",
              "note"]  # fmt: skip
MANY = {"Groups": ", ", "Phones": " / "}
_FAMILY = ("Weirside", "Lécluse", "Schleusner", "O'Culvert", "van der Sluis", "Tillerman", "Müßig")
_GIVEN = ("Ada", "Zoë", "Jürgen", "Éloïse", "Owen", "Petra", "Silas", "Tamsin", "Una")
_CLUBS = ("Lockham Skippers", "Withy Bridge Rowers, junior", "", "Weir & Sons")


def layout(name: str, table: str, headings: list[str], holds: list[str]) -> str:
    """The layout of a book."""
    lines = [f'name = "{name}"', "[table]", table]
    for heading, path in zip(headings, holds, strict=True):
        if path:
            lines += ["[[column]]", f'heading = "{heading}"', f'holds = "{path}"']
            if heading in MANY:
                lines.append(f'many = "{MANY[heading]}"')
    return "\n".join([*lines, ""])


LAYOUT = layout("bench", 'encoding = "windows-1252"\nseparator = ";"', HEADINGS, HOLDS)
FULL_LAYOUT = layout("bench-full", 'encoding = "utf-8"', FULL_HEADINGS, FULL_HOLDS)
FULL_TARGET = layout("bench-full", 'encoding = "utf-8"', FULL_HEADINGS,
                     [path or "custom/Berth" for path in FULL_HOLDS])  # fmt: skip
"""The same with a column for what was not listed, to write by."""


def row(at: int) -> list[str]:
    """The cells of person number `at` in the usual book."""
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


def full_row(at: int) -> list[str]:
    """The cells of person number `at` in the full book."""
    family, given, email, mobile, home, street, town, code, _, note = row(at)
    return [
        f"{given} {family}",
        email,
        " / ".join(filter(None, [mobile, home if at % 7 == 0 else ""])),
        _CLUBS[at % 4],
        f"{1930 + at % 80}-{at % 12 + 1:02}-{at % 28 + 1:02}" if at % 3 else "",
        f"{1990 + at % 30}-{at % 12 + 1:02}-{at % 28 + 1:02}" if at % 8 == 0 else "",
        f"https://example.org/~p{at}" if at % 4 == 0 else "",
        street,
        town,
        code if at % 11 else "",
        f"Dawn {at % 400}" if at % 5 == 0 else "",
        f"Quay {at % 40}" if at % 2 else "",
        f"Keeps the key; ask first, please\nSince {1990 + at % 30}" if at % 10 == 0 else note,
    ]


def full_card(at: int) -> str:
    """The card of the same person, with empty properties as some programs write them."""
    name, email, phones, club, born, wedding, web, street, town, code, boat, berth, note = (
        cell.replace("\\", "\\\\").replace(",", "\\,").replace(";", "\\;").replace("\n", "\\n")
        for cell in full_row(at)
    )
    lines = ["BEGIN:VCARD", "VERSION:4.0", f"FN:{name}", f"EMAIL:{email}"]
    lines += [f"TEL:{number}" for number in phones.split(" / ")]
    lines += [f"ORG:{club}", f"BDAY:{born.replace('-', '')}"]
    lines += [f"ANNIVERSARY:{wedding.replace('-', '')}"] if wedding else []
    lines += [f"URL:{web}"] if web else []
    lines += [f"ADR:;;{street};{town};;{code};"]
    lines += [f"X-ROUNDCARD-CUSTOM:Boat;{boat}"] if boat else []
    lines += [f"X-ROUNDCARD-CUSTOM:Berth;{berth}"] if berth else []
    lines += [f"NOTE:{note}", "END:VCARD"]
    folded = [line if len(line.encode()) <= 75 else f"{line[:60]}\r\n {line[60:]}"
              for line in lines]  # fmt: skip
    return "\r\n".join([*folded, ""])


def main() -> None:
    """Write the book and, beside it, its layout."""
    people, path = int(sys.argv[1]), Path(sys.argv[2])
    full = sys.argv[3:] == ["full"]
    encoding, separator = ("utf-8", ",") if full else ("windows-1252", ";")
    with path.open("w", encoding=encoding, newline="") as stream:
        writer = csv.writer(stream, delimiter=separator, lineterminator="\r\n")
        writer.writerow(FULL_HEADINGS if full else HEADINGS)
        writer.writerows((full_row if full else row)(at) for at in range(people))
    path.with_suffix(".toml").write_text(FULL_LAYOUT if full else LAYOUT, encoding="utf-8")
    if full:
        path.with_suffix(".target.toml").write_text(FULL_TARGET, encoding="utf-8")
        with path.with_suffix(".vcf").open("w", encoding="utf-8", newline="") as stream:
            stream.writelines(full_card(at) for at in range(people))


if __name__ == "__main__":
    main()
