"""The plain scripts that conversions are measured against: no checks, no counts, no layout.

``python bench/plain_conversions.py BOOK WAY SOURCE TARGET``; the book is ``usual`` or ``full``, the
way ``rows-to-cards``, ``cards-to-rows`` or ``cards-to-cards``.
"""

import csv
import sys
from functools import partial

USUAL = {"EMAIL": 2, "TEL;TYPE=cell": 3, "TEL;TYPE=home": 4, "CATEGORIES": 8, "NOTE": 9}
FULL = {"FN": 0, "EMAIL": 1, "BDAY": 4, "ANNIVERSARY": 5, "URL": 6, "X-ROUNDCARD-CUSTOM": 10,
        "NOTE": 12}  # fmt: skip
ESCAPES = (("\\", "\\\\"), (",", "\\,"), (";", "\\;"), ("\n", "\\n"))


def escaped(text: str) -> str:
    """Text as a card has it."""
    for one, other in ESCAPES:
        text = text.replace(one, other)
    return text


def unescaped(text: str) -> str:
    """Text as it was meant."""
    if "\\" not in text:
        return text
    for one, other in reversed(ESCAPES):
        text = text.replace(other, one)
    return text


def usual_card(r: dict[str, str]) -> str:
    """A card of the usual book."""
    return (
        f"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:{r['Given name']} {r['Surname']}\r\n"
        f"N:{r['Surname']};{r['Given name']};;;\r\nEMAIL:{r['E-mail']}\r\n"
        f"TEL;TYPE=cell:{r['Mobile']}\r\nTEL;TYPE=home:{r['Home phone']}\r\n"
        f"ADR;TYPE=home:;;{r['Street']};{r['Town']};;{r['Post code']};\r\n"
        f"CATEGORIES:{r['Groups'].replace(', ', ',')}\r\nNOTE:{escaped(r['Remarks'])}\r\n"
        "END:VCARD\r\n"
    )


def full_card(r: dict[str, str]) -> str:
    """A card of the full book."""
    phones = "".join(f"TEL:{number}\r\n" for number in r["Phones"].split(" / "))
    return (
        f"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:{r['Name']}\r\nEMAIL:{r['E-mail']}\r\n{phones}"
        f"ORG:{escaped(r['Club'])}\r\nBDAY:{r['Born'].replace('-', '')}\r\n"
        f"ANNIVERSARY:{r['Wedding'].replace('-', '')}\r\nURL:{r['Web']}\r\n"
        f"ADR:;;{r['Street']};{r['Town']};;{r['Post code']};\r\n"
        f"X-ROUNDCARD-CUSTOM:Boat;{r['Boat']}\r\nX-ROUNDCARD-CUSTOM:Berth;{r['Berth']}\r\n"
        f"NOTE:{escaped(r['Remarks'])}\r\nEND:VCARD\r\n"
    )


def usual_row(lines: list[str]) -> list[str]:
    """A row of the usual book."""
    row = [""] * 10
    for line in lines:
        head, _, value = line.partition(":")
        if head == "N":
            row[0], row[1] = value.split(";")[:2]
        elif head == "ADR;TYPE=home":
            _, _, row[5], row[6], _, row[7], _ = value.split(";")
        elif head in USUAL:
            row[USUAL[head]] = unescaped(value)
    return row


def full_row(lines: list[str]) -> list[str]:
    """A row of the full book."""
    row = [""] * 13
    phones = []
    for line in lines:
        head, _, value = line.partition(":")
        if head == "TEL":
            phones.append(value)
        elif head == "ADR":
            _, _, row[7], row[8], _, row[9], _ = value.split(";")
        elif head == "ORG":
            row[3] = unescaped(value)
        elif head == "X-ROUNDCARD-CUSTOM":
            label, _, text = value.partition(";")
            row[10 if label == "Boat" else 11] = text
        elif head in ("BDAY", "ANNIVERSARY") and value:
            row[FULL[head]] = f"{value[:4]}-{value[4:6]}-{value[6:]}"
        elif head in FULL:
            row[FULL[head]] = unescaped(value)
    row[2] = " / ".join(phones)
    return row


def main(book: str, way: str, source: str, target: str) -> None:
    """Convert a book."""
    rows = partial(open, encoding="windows-1252" if book == "usual" else "utf-8", newline="")
    cards = partial(open, encoding="utf-8", newline="")
    mark = ";" if book == "usual" else ","
    if way == "rows-to-cards":
        card = usual_card if book == "usual" else full_card
        with rows(source) as read, cards(target, "w") as write:
            for cells in csv.DictReader(read, delimiter=mark):
                write.write(card(cells))
    elif way == "cards-to-rows":
        row = usual_row if book == "usual" else full_row
        with cards(source) as read, rows(target, "w") as write:
            out = csv.writer(write, delimiter=mark)
            for each in read.read().replace("\r\n ", "").split("END:VCARD\r\n")[:-1]:
                out.writerow(row(each.split("\r\n")))
    else:
        with cards(source) as read, cards(target, "w") as write:
            for line in read:
                head, colon, value = line.partition(":")
                if head == "VERSION":
                    value = "3.0\r\n"
                elif head == "FN;DERIVED=true":
                    head = "FN"
                elif head == "BDAY" and len(value) == 10:
                    value = f"{value[:4]}-{value[4:6]}-{value[6:]}"
                elif head == "ANNIVERSARY":
                    head = "X-ROUNDCARD-ANNIVERSARY"
                write.write(head + colon + value)


if __name__ == "__main__":
    main(*sys.argv[1:])
