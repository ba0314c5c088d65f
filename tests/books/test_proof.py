"""The second reader finds what was meant, and notices what is not there."""

from __future__ import annotations

import io
import random
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from books_in_tests import read_cards, write_cards
from roundcard.books.outputs import CardOutput, card_output
from roundcard.books.proof import Proof
from roundcard.books.target import NoTarget
from roundcard.card.contact import Contact
from roundcard.errors import ProofError
from roundcard.formats import by_name
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.formats.workbook import WorkbookWriter
from roundcard.tally import Tally
from strategies import contacts

FORMATS = ["vcard-2.1", "vcard-3.0", "vcard-4.0", "jcard"]
to_disk = settings(suppress_health_check=[HealthCheck.function_scoped_fixture])


class Memory(NoTarget):
    def __init__(self) -> None:
        super().__init__()
        self.text = b""

    def write(self, octets: bytes) -> None:
        self.text += octets


def written(book: list[Contact], name: str) -> tuple[bytes, Proof]:
    proof, target = Proof(by_name(name)), Memory()
    output = card_output(by_name(name), Tally(), target, proof)
    assert isinstance(output, CardOutput)
    for contact in book:
        output.add(contact)
    output.end()
    return target.text, proof


@to_disk
@given(st.lists(contacts, max_size=4), st.sampled_from(FORMATS), st.sampled_from(["3.0", "4.0"]))
def test_what_we_write_is_what_was_meant(
    tmp_path: Path, book: list[Contact], name: str, version: str
) -> None:
    octets, proof = written(read_cards(write_cards(book, version)), name)
    path = tmp_path / "book"
    path.write_bytes(octets)
    proof.hold_against(path, "book")
    assert proof.people == len(book)


CARD = ("BEGIN:VCARD\nVERSION:4.0\nFN:Ada Weir\nN:Weir;Ada;;;\nTEL:01632 960001\nNOTE:a\\, b\n"
        "BDAY:19800412\nADR:;;1 Lane;Bath;;;\nEND:VCARD\n")  # fmt: skip


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize(
    ("there", "instead"),
    [
        (b"01632 960001", b"01632 960002"),
        (b"Bath", b""),
        (b"Weir", b"Wier"),
        (b"BEGIN:VCARD", b""),
        (b"a", b"\xc3\xa4"),
        (b"TEL", b"FAX"),
    ],
)
def test_what_is_altered_on_disk_is_noticed(
    tmp_path: Path, name: str, there: bytes, instead: bytes
) -> None:
    octets, proof = written(read_cards(CARD) * 2, name)
    path = tmp_path / "book"
    if name == "jcard":
        there = {b"BEGIN:VCARD": b'["vcard"', b"TEL": b"tel"}.get(there, there)
        instead = instead.lower()
    assert there in octets
    path.write_bytes(octets.replace(there, instead, 1))
    with pytest.raises(ProofError):
        proof.hold_against(path, "book")


def test_a_card_too_few_or_too_many_is_noticed(tmp_path: Path) -> None:
    octets, proof = written(read_cards(CARD) * 3, "vcard-4.0")
    path = tmp_path / "book"
    for cut in (octets[: len(octets) // 3], octets * 2, b""):
        path.write_bytes(cut)
        with pytest.raises(ProofError, match="nothing was written"):
            proof.hold_against(path, "book")


cells = st.text(st.characters(codec="utf-8", exclude_characters="\0\ufeff"), max_size=8)


@to_disk
@given(
    st.lists(st.lists(cells, min_size=3, max_size=3), max_size=5),
    st.sampled_from([",", ";", "\t", "|"]),
    st.sampled_from(["needed", "always"]),
    st.sampled_from(["utf-8", "utf-16", "gb18030"]),
)
def test_tables_hold_what_was_meant(
    tmp_path: Path, rows: list[list[str]], separator: str, quote: str, encoding: str
) -> None:
    dialect = Dialect(encoding, separator, quote=quote)  # type: ignore[arg-type]
    proof = Proof(by_name("csv"), dialect, 1)
    for row in rows:
        proof.row(row)
    path = tmp_path / "t.csv"
    path.write_bytes(CsvWriter(dialect).encode([["a", "b", "c"], *rows]))
    proof.hold_against(path, "t.csv")


def test_long_tables_are_read_in_pieces(tmp_path: Path) -> None:
    chance = random.Random(7)
    rows = [["".join(chance.choices('ab",\n é', k=chance.randrange(9)))] * 3 for _ in range(60_000)]
    proof = Proof(by_name("csv"), Dialect(), 1)
    for row in rows:
        proof.row(row)
    path = tmp_path / "t.csv"
    octets = CsvWriter(Dialect()).encode([["a", "b", "c"], *rows])
    path.write_bytes(octets)
    proof.hold_against(path, "t.csv")
    path.write_bytes(octets[:-9] + b"x" + octets[-8:])
    with pytest.raises(ProofError):
        proof.hold_against(path, "t.csv")


@to_disk
@given(st.lists(st.lists(cells, min_size=2, max_size=2), max_size=4))
def test_workbooks_hold_what_was_meant(tmp_path: Path, rows: list[list[str]]) -> None:
    proof = Proof(by_name("xlsx"), None, 1)
    writer = WorkbookWriter("people")
    writer.add([["a", "b"]])
    for row in rows:
        proof.row(row)
        writer.add([row])
    writer.save(stream := io.BytesIO())
    path = tmp_path / "t.xlsx"
    path.write_bytes(stream.getvalue())
    proof.hold_against(path, "t.xlsx")
