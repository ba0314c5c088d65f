from __future__ import annotations

from pathlib import Path

import pytest

from roundcard.errors import LayoutError
from roundcard.layouts import library
from roundcard.layouts.file import parse_layout

GOOD = """\
name = "ledger"
title = "Ledger"
[table]
encoding = "windows-1252"
separator = "semicolon"
empty = ["-"]
unlisted = "skip"

[[column]]
heading = "Surname"
holds = "name/family"
aliases = ["Family name"]

[[column]]
heading = "Where"
holds = ["address/postcode", "address/locality"]
parted = " "

[[column]]
heading = "Joined"
holds = "custom/Joined"
date = "day.month.year"

[[every]]
holds = "category"
value = "Member"
"""


def test_a_layout_is_read() -> None:
    layout = parse_layout(GOOD, "l.toml")
    assert (layout.dialect.encoding, layout.dialect.separator) == ("windows-1252", ";")
    assert [column.name for column in layout.columns] == ["Surname", "Where", "Joined"]
    assert layout.columns[1].line == 14
    assert layout.every[0].value == "Member"
    assert layout.columns[1].meaning == "address/postcode, address/locality"


def change(old: str, new: str) -> str:
    assert old in GOOD
    return GOOD.replace(old, new)


def more(column: str) -> str:
    return GOOD + "\n[[column]]\n" + column


WRONG = [
    (change("aliases", "alias"), 12, "unknown key 'alias' in [[column]]; did you mean 'aliases'?"),
    (change("separator", "seperator"), 5, "unknown key 'seperator' in [table]; did you mean"),
    (
        change("title", "titel"),
        2,
        "unknown key 'titel' at the top of the file; did you mean 'title'",
    ),
    (change("value =", "valu ="), 26, "unknown key 'valu' in [[every]]"),
    (change("windows-1252", "windws-1252"), 4, "did you mean 'windows-1252'"),
    (change('"semicolon"', '";;"'), 5, "'separator' is one character"),
    (change('"skip"', '"drop"'), 7, "'unlisted' cannot be 'drop'; it is one of custom, skip"),
    (change("name/family", "name/famly"), 11, "did you mean 'family' or 'family2'?"),
    (change("name/family", "name"), 11, "'name' needs a part"),
    (change('["address/postcode", "address/locality"]', '"address"'), 16, "'address' needs a part"),
    (change('parted = " "\n', ""), 16, "several things in one cell need 'parted'"),
    (change('["address/postcode", "address/locality"]', '"address/postcode"'), 17, "needs a list"),
    (change("day.month.year", "day.mnth.year"), 22, "did you mean 'month'?"),
    (change('"custom/Joined"', '"email"'), 22, "email is not a date"),
    (change('["-"]', '"-"'), 6, "'empty' takes a list of texts, not '-'"),
    (change('heading = "Surname"', "number = 1.5"), 10, "'number' takes a whole number"),
    (
        change('heading = "Surname"', 'heading = "Surname"\nnumber = 1'),
        9,
        "named by its 'heading', or",
    ),
    (
        more('heading = "Surname"\nskip = true'),
        29,
        "Surname is listed twice, first on line 9; tell",
    ),
    (
        more('heading = "X"\nholds = "name/family"'),
        30,
        "and so does Surname on line 9; say how they go",
    ),
    (more('heading = "X"\nskip = true\nfixed = "a"'), 30, "here it has both 'fixed' and 'skip'"),
    (more('heading = "X"'), 28, "here it has none of them"),
    (more('heading = "X"\nholds = "name/given"\nmany = ";"'), 31, "name/given is one thing"),
    (more('heading = "X"\nskip = true\nmany = ";"'), 31, "'many' needs 'holds'"),
    (more('heading = "X"\nholds = "note"\nvalues = { A = 1 }'), 31, "'values' takes texts"),
    (change("[table]", "[table]\nheading_row = 0"), 11, "name columns by 'number'"),
    (change("[table]", "[table]\nexplained_by = [1]"), 4, "takes a list of texts"),
    (change("[table]", "[table]\nexplained_by = ['a']\nheading_row = 0"), 4, "there are none"),
    ('name = "x"', 0, "it has no [[column]]"),
    (change('name = "ledger"\n', ""), 0, "a layout needs a name"),
    (GOOD + "=", 0, "not valid TOML"),
]


@pytest.mark.parametrize(("text", "line", "problem"), WRONG)
def test_a_wrong_layout_is_refused_with_its_line(text: str, line: int, problem: str) -> None:
    with pytest.raises(LayoutError) as caught:
        parse_layout(text, "l.toml")
    message = str(caught.value).split("\n")[0]
    assert message.startswith(f"l.toml, line {line}: " if line else "l.toml: ")
    assert problem in message


def test_layouts_are_found_by_file_folder_and_name(tmp_path: Path) -> None:
    file = tmp_path / "ledger-file.toml"
    file.write_text(GOOD, encoding="utf-8")
    (tmp_path / "broken.toml").write_text("name", encoding="utf-8")
    places = [tmp_path, tmp_path / "nowhere"]
    assert library.find(str(file), [])[0].name == "ledger"
    assert library.find("ledger", places)[0].name == "ledger"
    assert [isinstance(found, LayoutError) for _, found in library.kept(places)] == [True, False]
    for name, problem in [
        ("ledgr", "did you mean 'ledger'?"),
        ("broken", "not valid TOML"),
        ("none.toml", "layout file not found"),
        (str(tmp_path / "empty"), "layout file not found"),
    ]:
        with pytest.raises(LayoutError, match=r"layout|TOML") as caught:
            library.find(name, places)
        assert problem in str(caught.value)
