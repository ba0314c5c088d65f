"""Escapes of vCard text."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from roundcard.formats.vcard.syntax import escape, escaped, has_controls, unescape

texts = st.text("ab,;\\\\:n\n\t é", max_size=8)


@given(st.lists(st.one_of(texts, texts.map(lambda text: text.replace("\n", "\r\n"))), min_size=1))
def test_many_texts_are_escaped_as_each_of_them(some: list[str]) -> None:
    assert not any(map(has_controls, some))
    assert escaped(some) == list(map(escape, some))
    assert [unescape(raw) for raw in escaped(some)] == [text.replace("\r\n", "\n") for text in some]
