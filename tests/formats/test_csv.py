from __future__ import annotations

import csv
import io
from typing import Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import csv_rows
from roundcard.formats.csv import CsvWriter, Dialect, lacks, recognise, shown
from roundcard.formats.dialect import guess_dialect

CASES = [
    ("plain", b"a,b\r\nc,d\r\n", Dialect(), [["a", "b"], ["c", "d"]]),
    ("quotes", b'"a,b","c""d"\n', Dialect(), [["a,b", 'c"d']]),
    ("a break in a cell", b'"a\r\nb",c\r\nd\r\n', Dialect(), [["a\nb", "c"], ["d"]]),
    ("semicolons", b"a;b\n", Dialect(separator=";"), [["a", "b"]]),
    ("tabs", b"a\tb\n", Dialect(separator="\t"), [["a", "b"]]),
    ("no last break", b"a,b\nc,d", Dialect(), [["a", "b"], ["c", "d"]]),
    ("blank lines", b"a\n\nb\n", Dialect(), [["a"], [], ["b"]]),
    ("a mark", b"\xef\xbb\xbfa,b\n", Dialect(), [["a", "b"]]),
    ("a mark against the layout", b"\xef\xbb\xbf\xc3\xa9\n", Dialect("windows-1252"), [["é"]]),
    ("utf-16", "é,b\r\n".encode("utf-16"), Dialect(), [["é", "b"]]),
    ("windows-1252", b"\xe9;\x80\n", Dialect("windows-1252", ";"), [["é", "€"]]),
    ("old breaks", b"a,b\rc,d\r", Dialect(), [["a", "b"], ["c", "d"]]),
]


@pytest.mark.parametrize(
    ("octets", "dialect", "rows"), [case[1:] for case in CASES], ids=[case[0] for case in CASES]
)
def test_bytes_become_rows(octets: bytes, dialect: Dialect, rows: list[list[str]]) -> None:
    assert [row.cells for row in csv_rows(octets, dialect)] == rows


def test_rows_know_their_lines() -> None:
    rows = csv_rows(b'a\n"b\nc\nd",e\nf\n', Dialect())
    assert [row.line for row in rows] == [1, 2, 5]


def test_bytes_that_do_not_decode_are_marked_and_shown() -> None:
    good, bad = csv_rows(b"caf\xc3\xa9\ncaf\xe9\n", Dialect())
    assert not good.wrong
    assert bad.wrong.startswith("bytes that are not utf-8")
    assert shown(bad.cells[0]) == "caf\\xe9"


GUESSES = [
    (b"Name;Town\r\nA;B\r\n", ("utf-8", ";", "crlf", False)),
    (b"Name,Town\nA,B;C\n", ("utf-8", ",", "lf", False)),
    (b"Name\tTown\n", ("utf-8", "\t", "lf", False)),
    (b"Name|Town|x\n", ("utf-8", "|", "lf", False)),
    (b'"a;b;c",d\n', ("utf-8", ",", "lf", False)),
    (b"Name\n", ("utf-8", ",", "lf", False)),
    (b"Members, as of May\n\nName;Town\nA;B\nC;D\n", ("utf-8", ";", "lf", False)),
    (b"sep=;\r\nName;Town\r\n", ("utf-8", ";", "crlf", False)),
    (b"caf\xe9;x\n", ("windows-1252", ";", "lf", False)),
    (b"\xef\xbb\xbfName;x\n", ("utf-8", ";", "lf", True)),
    ("Name;x\n".encode("utf-16"), ("utf-16", ";", "lf", True)),
]


@pytest.mark.parametrize(("octets", "told"), GUESSES)
def test_a_dialect_is_guessed(octets: bytes, told: tuple[str, str, str, bool]) -> None:
    found = guess_dialect(octets).dialect
    assert (found.encoding, found.separator, found.line_end, found.byte_order_mark) == told


@pytest.mark.parametrize(
    ("octets", "text"),
    [
        (b"a,b\n", True),
        (b"", False),
        (b"\x00\x01\x02\xff" * 20, False),
        (b"\x89PNG\r\n\x1a\n\x00", False),
        (b"PK\x03\x04\x14\x00", False),
        ("a".encode("utf-16"), True),
    ],
)
def test_what_is_text(octets: bytes, text: bool) -> None:
    assert recognise(octets) is text


@pytest.mark.parametrize(
    ("octets", "rows"),
    [
        (b'a,b\n"c,d\ne,f\n', [["a", "b"], None, ["e", "f"]]),
        (b'a,b\n"c,d', [["a", "b"], None]),
        (b'a,b\nc,"d\ne,f\n"g",h\n', [["a", "b"], ["c", 'd\ne,f\ng"', "h"]]),
        (b'"a\n"b\nc\n', [["a\nb"], ["c"]]),
        (b'a,5" pipe\n', [["a", '5" pipe']]),
        (b'"' + b"x" * 200 + b"\nc,d\n", [None, ["c", "d"]]),
    ],
)
def test_a_quote_that_is_never_closed_costs_its_line_only(
    octets: bytes, rows: list[list[str] | None]
) -> None:
    limit = csv.field_size_limit(100)
    try:
        found = csv_rows(octets, Dialect())
    finally:
        csv.field_size_limit(limit)
    assert [None if row.wrong else row.cells for row in found] == rows
    assert all(row.wrong in ("", "a quote that is never closed") for row in found)


@pytest.mark.parametrize(
    ("encoding", "some"),
    [("utf-8", False), ("utf-16", False), ("windows-1252", True), ("gb18030", False)],
)
def test_which_encodings_lack_characters(encoding: str, some: bool) -> None:
    assert lacks(encoding) is some


cells = st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\r\x00"), max_size=12)


@given(
    st.lists(st.lists(cells, min_size=2, max_size=4), max_size=5),
    st.builds(
        Dialect,
        st.sampled_from(["utf-8", "utf-16", "utf-8-sig"]),
        st.sampled_from(",;\t|"),
        st.sampled_from(["crlf", "lf"]),
        st.booleans(),
        st.sampled_from(["needed", "always"]),
    ),
)
def test_rows_read_back_as_written(rows: list[list[str]], dialect: Dialect) -> None:
    writer = CsvWriter(dialect)
    octets = b"".join(writer.encode([row]) for row in rows)
    assert not rows or CsvWriter(dialect).encode(rows) == octets
    if dialect.line_end == "crlf":  # with others the library leaves line breaks in cells bare
        out = io.StringIO(newline="")
        quoting: Literal[0, 1] = csv.QUOTE_ALL if dialect.quote == "always" else csv.QUOTE_MINIMAL
        csv.writer(out, delimiter=dialect.separator, quoting=quoting).writerows(rows)
        assert octets.decode(dialect.encoding).removeprefix(
            "\ufeff"
        ) == out.getvalue().removeprefix("\ufeff")
    read = [row.cells for row in csv_rows(octets, dialect)]
    if rows and rows[0] and rows[0][0].startswith("\ufeff") and not dialect.byte_order_mark:
        return  # a text that begins with the mark itself cannot be told from a marked file
    assert read == rows
