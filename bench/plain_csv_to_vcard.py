"""The plain script that conversions are measured against: no checks, no counts, no layout."""

import csv
import sys

with (
    open(sys.argv[1], encoding="windows-1252", newline="") as source,
    open(sys.argv[2], "w", encoding="utf-8", newline="") as target,
):
    for r in csv.DictReader(source, delimiter=";"):
        note = r["Remarks"].replace("\\", "\\\\").replace(",", "\\,").replace(";", "\\;")
        target.write(
            f"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:{r['Given name']} {r['Surname']}\r\n"
            f"N:{r['Surname']};{r['Given name']};;;\r\nEMAIL:{r['E-mail']}\r\n"
            f"TEL;TYPE=cell:{r['Mobile']}\r\nTEL;TYPE=home:{r['Home phone']}\r\n"
            f"ADR;TYPE=home:;;{r['Street']};{r['Town']};;{r['Post code']};\r\n"
            f"CATEGORIES:{r['Groups'].replace(', ', ',')}\r\nNOTE:{note}\r\nEND:VCARD\r\n"
        )
