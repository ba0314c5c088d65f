"""Cells told apart by their marks are those that the library's reader tells apart."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.formats.grid import Grid, grid_of


def by_the_library(text: str, separator: str) -> list[list[str]]:
    return list(csv.reader(io.StringIO(text, newline=""), delimiter=separator))


@given(st.text('ab,;"\n\r \x01\x02|é', max_size=40), st.sampled_from(",;|"))
def test_any_text_is_told_apart_as_the_library_does_or_left_to_it(text: str, mark: str) -> None:
    found = grid_of(text, mark)
    if found is not None:
        assert list(found) == by_the_library(text, mark)


cells = st.text('ab,;"\n\r |é', max_size=5)


@given(
    st.integers(2, 4).flatmap(
        lambda width: st.lists(st.lists(cells, min_size=width, max_size=width), min_size=1)
    ),
    st.sampled_from([csv.QUOTE_MINIMAL, csv.QUOTE_ALL, csv.QUOTE_NONNUMERIC]),
    st.sampled_from(["\n", "\r\n"]),
)
def test_what_was_written_in_order_is_told_apart(
    rows: list[list[str]], quoting: int, end: str
) -> None:
    out = io.StringIO(newline="")
    csv.writer(out, quoting=quoting, lineterminator=end).writerows(rows)  # type: ignore[arg-type]
    found = grid_of(out.getvalue(), ",")
    # a return that the library writes bare is read as a line break
    lone = quoting == csv.QUOTE_MINIMAL and end == "\n" and "\r" in out.getvalue()
    assert found is not None or lone
    if found is not None:
        assert list(found) == by_the_library(out.getvalue(), ",")
        assert lone or list(found) == rows
        lines = len(io.StringIO(out.getvalue(), newline="").readlines())
        assert not found.by_lines or lines == len(found)


@pytest.mark.parametrize(
    "text",
    [
        "a,b\nc\n",
        "a,b\nc,d,e\n",
        "a,b\n\nc,d\n",
        "a,b",
        "a\nb\n",
        'a,b"c\nd,e"f\n',
        '"a"b,c\n',
        '"a,b\nc,d\n',
        'a,"\x01,"\n',
        "a,b\rc,d\n",
        'a,b\r""\n',
        "a,b\r\nc,d\n",
        '"x"";""y","a"\n"b"\n',
        "",
    ],
)
def test_what_is_not_plain_is_left_to_the_library(text: str) -> None:
    assert grid_of(text, ",") is None


def test_a_grid_is_a_sequence_of_rows() -> None:
    found = grid_of('a,"b,1"\nc,\n"d\n2",""""\n', ",")
    assert found is not None
    assert len(found) == 3
    assert not found.by_lines
    assert found[0] == ["a", "b,1"]
    assert found[-1] == ["d\n2", '"']
    assert isinstance(found[1:], Grid)
    assert list(found[1:]) == [["c", ""], ["d\n2", '"']]
