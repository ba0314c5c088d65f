"""The plain script that vCard to CSV is measured against: no checks, no counts, no layout."""

import csv
import sys

WANTED = {"EMAIL": 2, "TEL;TYPE=cell": 3, "TEL;TYPE=home": 4, "CATEGORIES": 8, "NOTE": 9}
with (
    open(sys.argv[1], encoding="utf-8", newline="") as source,
    open(sys.argv[2], "w", encoding="windows-1252", newline="") as target,
):
    out = csv.writer(target, delimiter=";")
    for card in source.read().replace("\r\n ", "").split("END:VCARD\r\n"):
        row = [""] * 10
        for line in card.split("\r\n"):
            head, _, value = line.partition(":")
            if head == "N":
                row[0], row[1] = value.split(";")[:2]
            elif head == "ADR;TYPE=home":
                _, _, row[5], row[6], _, row[7], _ = value.split(";")
            elif head in WANTED:
                row[WANTED[head]] = value.replace("\\,", ",").replace("\\;", ";")
        if any(row):
            out.writerow(row)
