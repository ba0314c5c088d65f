from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard.card.paths import FIELD_WORDS, FieldPath, parse, parse_list, parts_of, uses_of
from roundcard.errors import PathError

GOOD = [
    ("name/given", FieldPath("name", part="given")),
    ("name/phonetic-family", FieldPath("name", part="phonetic-family")),
    ("nickname", FieldPath("nickname")),
    ("org", FieldPath("org")),
    ("org/unit", FieldPath("org", part="unit", number=1)),
    ("org/unit/2", FieldPath("org", part="unit", number=2)),
    ("org/2/unit/3", FieldPath("org", position=2, part="unit", number=3)),
    ("email", FieldPath("email")),
    ("email/work", FieldPath("email", ("work",))),
    ("email/2", FieldPath("email", position=2)),
    ("email/home/2", FieldPath("email", ("home",), position=2)),
    ("email/1/use", FieldPath("email", position=1, part="use")),
    ("email/1/preferred", FieldPath("email", position=1, part="preferred")),
    ("phone/work+fax", FieldPath("phone", ("work", "fax"))),
    ("phone/fax+work", FieldPath("phone", ("work", "fax"))),
    ("phone/main-number", FieldPath("phone", ("main-number",))),
    ("phone/3/use", FieldPath("phone", position=3, part="use")),
    ("phone/1/extension", FieldPath("phone", position=1, part="extension")),
    ("phone/~lock cottage", FieldPath("phone", label="lock cottage")),
    ("phone/~a\\/b\\,c/2", FieldPath("phone", label="a/b,c", position=2)),
    ("address/home/street", FieldPath("address", ("home",), part="street")),
    ("address/home/line1", FieldPath("address", ("home",), part="line", number=1)),
    ("address/2/line9", FieldPath("address", position=2, part="line", number=9)),
    ("address/full", FieldPath("address", part="full")),
    ("birthday/year", FieldPath("birthday", part="year")),
    ("related/spouse", FieldPath("related", ("spouse",))),
    ("custom/Boat name", FieldPath("custom", label="Boat name")),
    ("custom/a/b", FieldPath("custom", label="a/b")),
    ("custom/a\\/b\\,c", FieldPath("custom", label="a/b,c")),
    ("PHONE/Cell", FieldPath("phone", ("cell",))),
]


@pytest.mark.parametrize(("text", "path"), GOOD)
def test_a_path_is_understood(text: str, path: FieldPath) -> None:
    assert parse(text) == path
    assert parse(str(path)) == path


BAD = [
    ("phoen/cell", "'phoen' is not a field; did you mean 'phone' or 'photo'?", "~~~~^"),
    ("zzz", "'zzz' is not a field (the fields are name, nickname", "~~^"),
    ("phone/wrok", "did you mean 'work'?", "      ~~~^"),
    ("phone/boat", "a label of your own is written ~boat", "      ~~~^"),
    ("phone/work+fux", "'fux' is not a use of phone; did you mean 'fax'?", "           ~~^"),
    ("name/1/given", "name takes no position", "     ^"),
    ("name/famly", "did you mean 'family' or 'family2'?", "     ~~~~^"),
    ("birthday/2", "there is only one", "         ^"),
    ("note/x", "note has no parts", "     ^"),
    ("phone/~", "a label is missing after '~'", "      ^"),
    ("birthday/~x", "birthday takes no label", "         ~^"),
    ("custom/", "a label is missing after 'custom/'", "       ^"),
    ("phone//2", "something is missing", "      ^"),
    ("email/0", "positions count from 1", "      ^"),
    ("email/work/2/use/x", "nothing may follow here", "                 ^"),
    ("address/line10", "lines count from 1 to 9", "        ~~~~~^"),
    ("", "a field path is empty", "^"),
]


@pytest.mark.parametrize(("text", "problem", "mark"), BAD)
def test_a_wrong_path_is_refused_with_a_caret(text: str, problem: str, mark: str) -> None:
    with pytest.raises(PathError) as caught:
        parse(text)
    message, shown, caret = str(caught.value).split("\n")
    assert problem in message
    assert shown == "    " + text
    assert caret == "    " + mark


def test_a_list_points_into_the_whole_text() -> None:
    assert parse_list("name/given, custom/a\\,b") == [
        FieldPath("name", part="given"),
        FieldPath("custom", label="a,b"),
    ]
    with pytest.raises(PathError) as caught:
        parse_list("name/given, phoen/cell")
    assert str(caught.value).endswith("\n                ~~~~^")


@given(st.text(max_size=40))
def test_any_text_is_a_path_or_a_caret(text: str) -> None:
    caught = None
    try:
        path = parse(text)
    except PathError as error:
        caught = error
    if caught is None:
        assert parse(str(path)) == path
    else:
        assert 0 <= caught.start < caught.end <= max(len(text), caught.start + 1)


labels = st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=12).filter(
    lambda text: text.strip() == text and text
)


@given(st.data())
def test_each_path_reads_back_as_itself(data: st.DataObject) -> None:
    word = data.draw(st.sampled_from(FIELD_WORDS))
    if word == "custom":
        path = FieldPath(word, label=data.draw(labels))
    else:
        uses = (
            data.draw(st.sets(st.sampled_from(uses_of(word)), max_size=2)) if uses_of(word) else ()
        )
        parts = [p for p in parts_of(word) if not p.startswith("line")]
        part = data.draw(st.sampled_from(["", *parts]))
        label = data.draw(labels) if uses_of(word) and not uses and data.draw(st.booleans()) else ""
        known = tuple(use for use in uses_of(word) if use in uses)
        path = FieldPath(word, known, label, part=part, number=1 if part == "unit" else 0)
    assert parse(str(path)) == path
