"""What holds for any book and any layout: the balance, and nothing moved on the way home."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import Kept, col, layout_of, read_cards, read_rows, write_cards, write_rows
from roundcard.card.contact import Contact
from roundcard.card.paths import parse
from roundcard.cli.render.reasons import sentence
from roundcard.layouts.infer_columns import Shape
from roundcard.pick.fields import OnlyFields, SetValue
from roundcard.tally import Balance, Fate, Tally
from strategies import contacts

COLUMNS = [
    col("full", "name/full"),
    col("given", "name/given"),
    col("family", "name/family"),
    col("phone", "phone"),
    col("phones", "phone", 'many = "; "'),
    col("cell", "phone/cell"),
    col("second", "phone/2"),
    col("kind", "phone/2/use"),
    col("work fax", "phone/work+fax"),
    col("mail", "email/1"),
    col("mails", "email", 'many = "|"'),
    col("street", "address/street"),
    col("line", "address/line1"),
    col("town", '["address/postcode", "address/locality"]', 'parted = " "'),
    col("body", "org"),
    col("branch", "org/unit"),
    col("groups", "category", 'many = ", "'),
    col("group", "category/1", 'values = { A = "Active" }'),
    col("born", "birthday", 'date = "day.month.year"'),
    col("year", "birthday/year"),
    col("boat", "custom/Boat"),
    col("sex", "gender"),
    'heading = "owner"\nfixed = "I. H."',
    'heading = "empty"\nblank = true',
]
DATES = {at for at, column in enumerate(COLUMNS) if "birthday" in column}
"""Columns that do not go together: a date stands in one column, or in its parts."""
layouts = st.builds(
    lambda chosen, encoding, guard: layout_of(
        *(COLUMNS[at] for at in sorted(chosen if not chosen >= DATES else chosen - {min(DATES)})),
        table=f'encoding = "{encoding}"\nunlisted = "skip"\nformula_guard = {guard}',
        every='[[every]]\nholds = "category"\nvalue = "Club"',
    ),
    st.sets(st.integers(0, len(COLUMNS) - 1), min_size=1),
    st.sampled_from(["utf-8", "windows-1252"]),
    st.sampled_from(["true", "false"]),
)
steps = st.lists(
    st.one_of(
        st.just(SetValue(parse("category"), "Club")),
        st.just(SetValue(parse("custom/Boat"), "Dawn")),
        st.lists(
            st.sampled_from(["name/full", "name/given", "phone", "email/1", "category", "address"]),
            min_size=1,
            max_size=4,
        ).map(lambda paths: OnlyFields([parse(path) for path in paths])),
    ),
    max_size=3,
)


@given(st.lists(contacts, min_size=1, max_size=4), layouts, steps, st.sampled_from(["3.0", "4.0"]))
def test_the_balance_is_zero_whatever_the_layout(
    book: list[Contact], layout: object, chain: list[object], version: str
) -> None:
    sink = Kept()
    tally = Tally(sink)
    kept = []
    for contact in read_cards(write_cards(book, version), tally):
        step_by_step: Contact | None = contact
        for step in chain:
            if step_by_step is not None:
                step_by_step = step(step_by_step, tally)  # type: ignore[operator]
        if step_by_step is not None:
            kept.append(step_by_step)
    rows = write_rows(layout, kept, tally)  # type: ignore[arg-type]
    assert Balance.of(tally).even, (Balance.of(tally), tally.values, tally.why)
    headings = [column.heading for column in layout.columns]  # type: ignore[attr-defined]
    # the layout that wrote the rows reads them back, and writes the same again
    second = Tally()
    again = write_rows(layout, read_rows(layout, headings, *rows, tally=second), second)  # type: ignore[arg-type]
    assert Balance.of(second).even, (Balance.of(second), second.values, second.why)
    filled = [row for row in rows if any(cell and cell != "I. H." for cell in row)]
    assert again == filled


@given(st.lists(contacts, min_size=1, max_size=3))
def test_a_table_of_the_books_own_columns_keeps_everything(book: list[Contact]) -> None:
    read = read_cards(write_cards(book, "4.0"))
    shape = Shape()
    for contact in read:
        shape.add(contact)
    layout = shape.layout("")
    tally = Tally(Kept())
    for contact in read:
        tally.people.read += 1
        tally.values.read += contact.size()
    rows = write_rows(layout, read, tally)
    assert Balance.of(tally).even
    reasons = {sentence(why) for why in tally.why if why.fate is Fate.LEFT_BEHIND}
    once = {"gender: no free column", "birthday: no free column"}  # nobody has two of these
    assert reasons <= {"photo: no column"} | once
    again = read_rows(layout, [column.heading for column in layout.columns], *rows)
    assert write_rows(layout, again) == rows
