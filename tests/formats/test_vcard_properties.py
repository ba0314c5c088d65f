"""What holds for any book: nothing is lost between text, contacts and versions."""

from __future__ import annotations

import json

from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import Kept, card, inner, read_cards, write_cards
from roundcard.card.contact import Contact
from roundcard.errors import RoundCardError
from roundcard.formats import jcard, vcard
from roundcard.tally import Balance, Tally
from strategies import contacts


def told(contact: Contact) -> list[tuple[str, object, object]]:
    """What properties say; an empty N, which older versions demand, says nothing."""
    return [(p.name, p.head.params, p.value) for p in contact.properties
            if not p.rides and (p.name != "n" or p.size())]  # fmt: skip


@given(contacts, st.sampled_from(["3.0", "4.0"]))
def test_what_is_written_reads_back_equal(contact: Contact, version: str) -> None:
    tally = Tally()
    out = write_cards([contact], version, tally)
    (again,) = read_cards(out)
    assert told(again) == told(contact)
    assert tally.values.written == tally.values.carried == contact.size() == again.size()


@given(st.lists(contacts, min_size=1, max_size=3))
def test_three_to_four_to_three_loses_nothing(book: list[Contact]) -> None:
    old = write_cards(book, "3.0")
    tally = Tally()
    new = write_cards(read_cards(old, tally), "4.0", tally)
    assert Balance.of(tally).even
    assert without_order(write_cards(read_cards(new), "3.0")) == without_order(old)


def without_order(text: str) -> list[list[str]]:
    """The lines of cards; where an empty N stands, which 4.0 has not, tells nothing."""
    return [sorted(card.split("\n")) for card in text.split("END:VCARD\n")]


@given(st.lists(contacts, min_size=1, max_size=3))
def test_four_to_three_to_four_loses_nothing(book: list[Contact]) -> None:
    new = write_cards(book, "4.0")
    assert write_cards(read_cards(write_cards(read_cards(new), "3.0")), "4.0") == new


def write_jcards(book: list[Contact], tally: Tally) -> str:
    writer = jcard.JCardWriter(tally)
    return writer.opening + "".join(writer.encode(c) for c in book) + writer.closing


@given(st.lists(contacts, min_size=1, max_size=3), st.integers(1, 40))
def test_jcard_mirrors_the_model(book: list[Contact], chunk: int) -> None:
    text = write_cards(book, "4.0")
    tally = Tally()
    octets = write_jcards(read_cards(text, tally), tally).encode()
    assert Balance.of(tally).even
    assert json.loads(octets)[0][0] == "vcard"
    chunks = [octets[at : at + chunk] for at in range(0, len(octets), chunk)]
    again = Tally()
    back = list(jcard.read(chunks, source=0, tally=again))
    assert again.values.read == tally.values.written
    assert write_cards(back, "4.0") == text


names = st.from_regex(r"(X-[A-Z]{1,8}|[A-Z]{6,9}Q)", fullmatch=True)
odd_value = st.text(st.characters(exclude_categories=["C", "Z"]), min_size=1, max_size=60)
odd_param = st.from_regex(r"[A-Z]{2,6}=([a-zA-Z0-9]+|\"[a-z]*[:;,][a-z]*\")", fullmatch=True)


@given(st.lists(contacts, min_size=1, max_size=3), st.sampled_from(["3.0", "4.0"]))
def test_through_two_one_and_home_loses_nothing(book: list[Contact], version: str) -> None:
    first = write_cards(book, version)
    tally = Tally()
    old = write_cards(read_cards(first, tally), "2.1", tally)
    assert Balance.of(tally).even
    assert old.isascii()
    assert all(len(line) <= 77 for line in old.splitlines() if "X-ROUNDCARD-" not in line)
    assert write_cards(read_cards(old), version) == first


@given(names, st.lists(odd_param, max_size=2), odd_value, st.sampled_from(["3.0", "4.0"]))
def test_unknown_properties_survive(name: str, params: list[str], value: str, version: str) -> None:
    odd = ";".join([name, *params]) + ":" + value
    source = card("FN:A", "N:A;;;;", odd, version=version)
    assert write_cards(read_cards(source), version).replace("\n ", "") == source
    for other in ("2.1", "3.0", "4.0"):
        there = write_cards(read_cards(source), other)
        assert odd in inner(write_cards(read_cards(there), version))


@given(
    st.one_of(
        st.binary(max_size=300),
        st.lists(
            st.sampled_from(
                [
                    b"BEGIN:VCARD\n",
                    b"END:VCARD\r\n",
                    b"VERSION:2.1\n",
                    b"VERSION:4.0\n",
                    b"AGENT:\n",
                    b" x\n",
                    b"N:a;b\n",
                    b'TEL;TYPE="x:y\n',
                    b"NOTE;QUOTED-PRINTABLE:a=\n",
                    b"PHOTO;BASE64:ab\n",
                    b"\xff",
                    b"FN;ALTID=1:x\n",
                    b"item1.X-ABLabel:x\n",
                    b"item1.TEL:1\n",
                    b":\n",
                    b";=:,\n",
                    b"\n",
                    b"ADR;LABEL=x:;;\n",
                    b"GEO:\n",
                    b"BDAY:0000\n",
                    b"X-ROUNDCARD-CUSTOM:\n",
                    b"\r",
                    b"\x00",
                ]
            ),
            max_size=25,
        ).map(b"".join),
    )
)
def test_any_bytes_are_contacts_or_set_aside(octets: bytes) -> None:
    for version in ("2.1", "3.0", "4.0"):
        tally = Tally(Kept())
        try:
            book = list(vcard.read([octets], source=0, tally=tally))
        except RoundCardError:
            return
        writer = vcard.VCardWriter(version, tally)
        for contact in book:
            out = writer.encode(contact)
            if version != "2.1":
                assert all(len(each.encode()) <= 75 for each in out.split("\r\n"))
        assert Balance.of(tally).even
