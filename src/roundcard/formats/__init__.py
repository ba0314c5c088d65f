"""Open formats: bytes to contacts or rows, and back.

Each format is one module with the same few verbs: ``recognise`` a sample, ``read`` a stream, and
a writer. Card formats speak contacts; table formats speak rows, which a layout gives a meaning.
The registry at the end of this page tells which is which; it picks by content first, by suffix
second.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import partial
from pathlib import PurePath
from typing import Literal, NamedTuple, Protocol

from roundcard.card.contact import Contact
from roundcard.errors import UsageError, did_you_mean
from roundcard.formats import csv, jcard, vcard, workbook
from roundcard.tally import Tally

Sort = Literal["card", "table"]
SAMPLE = 65_536
"""How many octets of a file are looked at to tell its format."""


class CardWriter(Protocol):
    """Writes contacts one after another."""

    opening: str
    closing: str

    def restart(self) -> None:
        """Begin another file."""

    def encode(self, contact: Contact) -> str:
        """The text of one contact."""


class ReadsCards(Protocol):
    """Reads a file of cards, in chunks of any size."""

    def __call__(
        self, chunks: Iterable[bytes], *, source: int, tally: Tally,
        on_record: Callable[[int], None] | None = None,
    ) -> Iterator[Contact]:  # fmt: skip
        """The contacts, in order; what is read is counted."""


class Format(NamedTuple):
    """One way in which a book is written down: all that others need to know of it."""

    name: str
    """As users say it: ``csv``, ``vcard-4.0``."""
    sort: Sort
    title: str
    suffixes: tuple[str, ...]
    recognise: Callable[[bytes], bool]
    """Whether a file that begins so may be in it."""
    version: str = ""
    """The version of vCard text that it is."""
    of_text: bool = True
    """Whether a file of it is text that can be read and written from the beginning on."""
    in_pieces: bool = False
    """Whether a file of it can be cut where a record ends."""
    has_groups: bool = False
    """Whether a group of people can be said in it."""
    longest_cell: int = 0
    """Characters that a cell holds at the most; 0 for as many as there are."""
    read: ReadsCards | None = None
    """Reads its cards; None for a table."""
    writer: Callable[[Tally], CardWriter] | None = None
    """Makes what writes its cards; None for a table."""


def _vcard(version: str, *, has_groups: bool = False) -> Format:
    return Format(f"vcard-{version}", "card", f"vCard {version}", (".vcf", ".vcard"),
                  vcard.recognise, version, in_pieces=True, has_groups=has_groups,
                  read=vcard.read, writer=partial(vcard.VCardWriter, version))  # fmt: skip


CARDS = _vcard("4.0", has_groups=True)
"""What cards are written in where nothing is said."""
WORKBOOK = Format("xlsx", "table", "workbook", (".xlsx", ".xlsm"), lambda _: False, of_text=False,
                  longest_cell=workbook.LONGEST_CELL)  # fmt: skip
TABLE = Format("csv", "table", "CSV", (".csv", ".tsv", ".txt"), csv.recognise, in_pieces=True)
"""What tables are written in where nothing is said."""
FORMATS: tuple[Format, ...] = (
    CARDS,
    _vcard("3.0"),
    _vcard("2.1"),
    Format("jcard", "card", "jCard", (".jcard", ".json"), jcard.recognise, has_groups=True,
           read=jcard.read, writer=jcard.JCardWriter),
    WORKBOOK,
    TABLE,
)  # fmt: skip
"""All formats; of those that recognise a file the first is meant, of tables that of its name."""

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
    found = next((each for each in FORMATS if each.recognise(sample)), None)
    if found is None or found.sort == "card":
        return found
    return by_suffix(file_name) or found  # text may be anything that its name says
