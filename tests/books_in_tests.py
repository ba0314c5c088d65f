"""Reading and writing books inside a test, without a process."""

from __future__ import annotations

import io
from collections.abc import Sequence

from roundcard.card.contact import Contact, Property
from roundcard.cli.render.reasons import sentence
from roundcard.formats import csv, vcard
from roundcard.layouts.binding import bind
from roundcard.layouts.file import parse_layout
from roundcard.layouts.model import Layout
from roundcard.layouts.row_reader import RowReader
from roundcard.layouts.row_writer import RowWriter
from roundcard.tally import Reason, SetAside, Tally


class Kept:
    """A sink that keeps what it is given."""

    def __init__(self) -> None:
        self.left: list[tuple[str, str]] = []
        self.aside: list[SetAside] = []

    def left_behind(self, contact: Contact, prop: Property, reason: Reason) -> None:
        self.left.append((prop.text, sentence(reason)))

    def set_aside(self, item: SetAside) -> None:
        self.aside.append(item)


def read_cards(text: str | bytes, tally: Tally | None = None) -> list[Contact]:
    """The contacts in vCard text; LF is made CRLF where it is a str."""
    octets = text.replace("\n", "\r\n").encode() if isinstance(text, str) else text
    tally = Tally(Kept()) if tally is None else tally
    return list(vcard.read([octets], source=0, tally=tally))


def write_cards(contacts: Sequence[Contact], version: str, tally: Tally | None = None) -> str:
    """vCard text with LF, for reading in a test."""
    writer = vcard.VCardWriter(version, Tally() if tally is None else tally)
    return "".join(writer.encode(contact) for contact in contacts).replace("\r\n", "\n")


def card(*lines: str, version: str = "3.0") -> str:
    """One card with these lines."""
    return "\n".join(["BEGIN:VCARD", f"VERSION:{version}", *lines, "END:VCARD", ""])


def inner(text: str) -> list[str]:
    """The logical lines of one card without its frame."""
    lines = text.replace("\n ", "").splitlines()
    return [x for x in lines if not x.startswith(("BEGIN:", "VERSION:", "END:"))]


def layout_of(*columns: str, table: str = "", every: str = "") -> Layout:
    """A layout with these columns, each the body of its ``[[column]]``."""
    body = "".join(f"[[column]]\n{column}\n" for column in columns)
    return parse_layout(f'name = "t"\n[table]\n{table}\n{body}{every}', "t.toml")


def simple(**columns: str) -> Layout:
    """A layout of headings and the paths that they hold."""
    return layout_of(*(f'heading = "{h}"\nholds = "{p}"' for h, p in columns.items()))


def read_rows(
    layout: Layout, headings: list[str], *rows: list[str], tally: Tally | None = None
) -> list[Contact]:
    """The contacts in some rows."""
    binding = bind(layout, headings, len(headings))
    reader = RowReader(layout, binding, 0, Tally() if tally is None else tally)
    found = [reader.contact(list(row), at) for at, row in enumerate(rows, 1)]
    return [contact for contact in found if contact is not None]


def write_rows(
    layout: Layout, contacts: Sequence[Contact], tally: Tally | None = None
) -> list[list[str]]:
    """The rows that some contacts make."""
    writer = RowWriter(layout, Tally() if tally is None else tally)
    return [row for contact in contacts if (row := writer.row(contact)) is not None]


def csv_rows(octets: bytes, dialect: csv.Dialect) -> list[csv.Row]:
    """The rows of a file."""
    return list(csv.read(io.BytesIO(octets), dialect, octets))


def col(heading: str, holds: str, rest: str = "") -> str:
    told = holds if holds.startswith("[") else f'"{holds}"'
    return f'heading = "{heading}"\nholds = {told}\n{rest}'
