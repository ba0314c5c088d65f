"""The quick ways give what the long ways give: the same octets, and the same counts."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import Kept, col, layout_of, read_cards, write_cards, write_rows
from layouts.test_any_book import COLUMNS, layouts
from roundcard.books.shortcut import Shortcut
from roundcard.card.contact import Contact
from roundcard.formats.vcard import VCardWriter
from roundcard.layouts.binding import bind
from roundcard.layouts.model import Layout
from roundcard.layouts.row_reader import RowReader
from roundcard.layouts.row_writer import RowWriter
from roundcard.layouts.straight import Straight
from roundcard.tally import Tally
from strategies import contacts

PLAIN = [
    col("full", "name/full"),
    col("given", "name/given"),
    col("family", "name/family"),
    col("phone", "phone/cell"),
    col("other phone", "phone/work"),
    col("mail", "email"),
    col("street", "address/street"),
    col("town", "address/locality"),
    col("groups", "category", 'many = ", "'),
    col("note", "note"),
    col("born", "birthday"),
    col("boat", "custom/Boat"),
    'heading = "owner"\nfixed = "I. H."',
    'heading = "telex"\nskip = true',
]
cells = st.sampled_from(
    ["", "", " ", "Ada", "Zoë", "山田", "a, b", "c; d", "back\\slash", "two\nlines", "x " * 60,
     "é" * 40,
     "I. H.", "01632 960001", "4.47E+11", "\u3000", "tab\there", " lead", "trail ", ",", ";", "- "]
)  # fmt: skip
plain_layouts = st.builds(
    lambda chosen, skipped: layout_of(
        *(column for at, column in enumerate(PLAIN) if at in chosen),
        table=f'unlisted = "{skipped}"',
    ),
    st.sets(st.integers(0, len(PLAIN) - 1), min_size=2),
    st.sampled_from(["skip", "custom"]),
)


def counted(tally: Tally) -> object:
    found = {what: (each.count, each.examples) for what, each in tally.findings.items()}
    return tally.people, tally.values, +tally.why, +tally.why_people, +tally.shapes, found


def reader_of(layout: Layout, tally: Tally) -> RowReader:
    headings = [column.heading for column in layout.columns]
    return RowReader(layout, bind(layout, headings, len(headings)), 0, tally)


@given(plain_layouts, st.lists(st.lists(cells, max_size=15), max_size=5), st.sampled_from("34"))
def test_plain_rows_become_the_cards_of_the_long_way(
    layout: Layout, rows: list[list[str]], version: str
) -> None:
    quick, long = Tally(Kept()), Tally(Kept())
    reader, writer = reader_of(layout, quick), VCardWriter(f"{version}.0", quick)
    shortcut = Shortcut(reader, writer)
    slow, card_of = reader_of(layout, long), VCardWriter(f"{version}.0", long).encode
    for record, row in enumerate(rows, 1):
        card = shortcut.card(list(row), record) if shortcut.useful else ""
        if not card:
            contact = reader.contact(list(row), record)
            card = writer.encode(contact) if contact is not None else ""
        wanted = slow.contact(list(row), record)
        assert card == (card_of(wanted) if wanted is not None else "")
    reader.end()
    slow.end()
    assert counted(quick) == counted(long)


def test_most_rows_are_plain() -> None:
    layout = layout_of(*PLAIN)
    tally = Tally()
    shortcut = Shortcut(reader_of(layout, tally), VCardWriter("4.0", tally))
    row = ["", "Ada", "Weir", "1", "", "a@x.test", "1 Lane, Flat 2", "Bath", "A, B", "so; so"]
    assert shortcut.card([*row, "", "", "I. H.", "telex"], 1).count("\r\n") == 10
    assert tally.values.left_out == 2


@given(st.lists(contacts, min_size=1, max_size=4), layouts, st.sampled_from(["2.1", "3.0", "4.0"]))
def test_usual_contacts_become_the_rows_of_the_long_way(
    book: list[Contact], layout: Layout, version: str
) -> None:
    text = write_cards(book, version).replace("\n", "\r\n").encode()
    found = []
    for straight in (True, False):
        tally = Tally(sink := Kept())
        writer = RowWriter(layout, tally)
        if not straight:
            writer.straight._plans = _Nothing()
        rows = [writer.row(contact) for contact in read_cards(text, tally)]
        found.append((rows, counted(tally), sink.left))
    assert found[0] == found[1]


class _Nothing(dict):  # type: ignore[type-arg]
    """Plans that say of every contact that it needs a second look."""

    def __getitem__(self, key: object) -> None:
        return None


@pytest.mark.parametrize("version", ["3.0", "4.0"])
def test_usual_contacts_go_straight(version: str, monkeypatch: pytest.MonkeyPatch) -> None:
    lines = "FN:Ada Weir\nN:Weir;Ada;;;\nEMAIL:a@x.test\nTEL;TYPE=cell:1\nCATEGORIES:A,B"
    cards = f"BEGIN:VCARD\nVERSION:{version}\n{lines}\nEND:VCARD\n" * 3
    placed = []
    place = Straight.place

    def told(*args: object) -> int:
        placed.append(place(*args))  # type: ignore[arg-type]
        return placed[-1]

    monkeypatch.setattr(Straight, "place", told)
    names = [column for column in COLUMNS if "name/g" in column or "/fam" in column]
    others = [col("m", "email"), col("c", "phone/cell"), col("g", "category", 'many = ", "')]
    layout = layout_of(*names, *others)
    assert write_rows(layout, read_cards(cards)) == [["Ada", "Weir", "a@x.test", "1", "A, B"]] * 3
    assert placed == [6, 6, 6]
