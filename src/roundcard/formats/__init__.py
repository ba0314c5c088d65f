"""Open formats: bytes to contacts or rows, and back.

Each format is one module with the same few verbs: ``recognise`` a sample, ``read`` a stream, and
a writer. Card formats speak contacts; table formats speak rows, which a layout gives a meaning.
The registry at the end of this page tells which is which; it picks by content first, by suffix
second.
"""

from __future__ import annotations

from pathlib import PurePath
from typing import Literal, NamedTuple

from roundcard.errors import UsageError, did_you_mean
from roundcard.formats import csv, jcard, vcard

Sort = Literal["card", "table"]
SAMPLE = 65_536
"""How many octets of a file are looked at to tell its format."""


class Format(NamedTuple):
    """One way in which a book is written down."""

    name: str
    """As users say it: ``csv``, ``vcard-4.0``."""
    sort: Sort
    title: str
    suffixes: tuple[str, ...]
    version: str = ""


FORMATS: tuple[Format, ...] = (
    Format("vcard-4.0", "card", "vCard 4.0", (".vcf", ".vcard"), "4.0"),
    Format("vcard-3.0", "card", "vCard 3.0", (".vcf", ".vcard"), "3.0"),
    Format("vcard-2.1", "card", "vCard 2.1", (".vcf", ".vcard"), "2.1"),
    Format("jcard", "card", "jCard", (".jcard", ".json")),
    Format("xlsx", "table", "workbook", (".xlsx", ".xlsm")),
    Format("csv", "table", "CSV", (".csv", ".tsv", ".txt")),
)

_SHORT = {"vcard": "vcard-4.0", "vcf": "vcard-4.0", "workbook": "xlsx"}


def by_name(name: str) -> Format:
    """The format that a user names; ``vcard`` is the newest version.

    Raises `UsageError` with the names that there are.
    """
    wanted = _SHORT.get(name.lower(), name.lower())
    for each in FORMATS:
        if each.name == wanted:
            return each
    known = [each.name for each in FORMATS] + list(_SHORT)
    guess = did_you_mean(name, known) or f"; choose from {', '.join(known)}"
    raise UsageError(f"unknown format '{name}'{guess}")


def by_suffix(file_name: str) -> Format | None:
    """The format that a file's suffix promises; None where it promises none."""
    suffix = PurePath(file_name).suffix.lower()
    return next((each for each in FORMATS if suffix in each.suffixes), None)


def by_content(sample: bytes, file_name: str = "") -> Format | None:
    """The format of a file that begins with `sample`; None where it is none that we know."""
    if vcard.recognise(sample):
        return FORMATS[0]
    if jcard.recognise(sample):
        return by_name("jcard")
    promised = by_suffix(file_name)
    if csv.recognise(sample):
        return FORMATS[-1] if promised is None else promised
    return None
