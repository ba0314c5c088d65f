"""Destination files: what is right loads, what is wrong is one line with file, line, suggestion."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from conftest import DEMO, Run
from roundcard.card.paths import parse
from roundcard.destinations import library
from roundcard.destinations.file import REWRITES
from roundcard.destinations.model import Destination
from roundcard.destinations.rewrites import FUNCTIONS, UNTOLD, rewritten

ROOT = Path(__file__).parent.parent.parent
RIGHT = """\
name = "here"
accepts = ["table"]
layout = "lockside"
[limits]
people_per_file = 10
"""

# what is wrong, what is put in, what is said
WRONG = [
    ("no name", RIGHT.replace('name = "here"\n', ""), "needs a name"),
    ("a path for a name", RIGHT.replace('"here"', '"../here"'), "cannot be a name"),
    ("capitals", RIGHT.replace('"here"', '"Here"'), "cannot be a name"),
    ("an unknown key", "limit = 3\n" + RIGHT, "did you mean 'limits'?"),
    ("a format that is none", RIGHT.replace('"table"', '"cards"'), "'accepts' cannot be 'cards'"),
    ("no format", RIGHT.replace('["table"]', "[]"), "some of table, workbook"),
    ("a text for a list", RIGHT.replace('["table"]', '"table"'), "takes a list of texts"),
    ("a table without layout", RIGHT.replace('layout = "lockside"\n', ""), "must name its layout"),
    ("a layout that is nowhere", RIGHT.replace("lockside", "locksid"), "did you mean 'lockside'?"),
    ("a layout as a path", RIGHT.replace('"lockside"', '"layouts/lockside.toml"'), "and no path"),
    ("a layout without table", RIGHT.replace('["table"]', '["jcard"]'), "neither table nor"),
    ("a drop that is no field", 'drops = ["fotos"]\n' + RIGHT, "is not a field"),
    ("an identity that is none", 'identity = "number"\n' + RIGHT, "is not a field"),
    ("an identity that is dropped",
     'identity = "uid"\ndrops = ["uid"]\n' + RIGHT,
     "which it drops"),
    ("an unknown limit",
     RIGHT + "persons_in_all = 3\n",
     "unknown key 'persons_in_all' in [limits]"),
    ("a limit of none", RIGHT.replace("= 10", "= 0"), "1 or more"),
    ("a text for a number", RIGHT.replace("= 10", '= "10"'), "takes a whole number"),
    ("more in a file than in all", RIGHT + "people_in_all = 5\n", "is more than 'people_in_all'"),
    ("a file of no size", RIGHT + "bytes_per_file = 20\n", "no file of people is so small"),
    ("many names", RIGHT + 'values = { "name/family" = 2 }\n', "is one thing"),
    ("values as text", RIGHT + 'values = { email = "two" }\n', "counts the values of a field"),
    ("a length of nothing", RIGHT + "length = { note = 0 }\n", "a number of characters"),
    ("a length in ells",
     RIGHT + 'length = { note = { most = 9, in = "ells" } }\n', 'in = "bytes"'),
    ("a need that is no field", RIGHT + '[needs]\nall = ["nmae/family"]\n', "did you mean 'name'?"),
    ("a need that is dropped",
     'drops = ["email"]\n' + RIGHT + '[needs]\nall = ["email"]\n',
     "drops it"),
    ("a need without room",
     RIGHT + 'values = { email = 0 }\n[needs]\nall = ["email"]\n',
     "room for none"),
    ("a need without column", RIGHT + '[needs]\nall = ["photo"]\n', "no column for it"),
    ("allowed as a list", RIGHT + '[allowed]\n"phone/use" = ["home"]\n', 'takes { values'),
    ("a use that is none",
     RIGHT + '[allowed]\n"phone/use" = { values = ["hoem"] }\n',
     "did you mean 'home'"),
    ("otherwise what is not allowed",
     RIGHT + '[allowed]\n"phone/use" = { values = ["home"], otherwise = "work" }\n', "not among"),
    ("an unknown character set", RIGHT + '[characters]\nset = "utf-9"\n', "did you mean 'utf-8'"),
    ("lacking what is no word",
     RIGHT + '[characters]\nlacking = "near"\n',
     "did you mean 'nearest'"),
    ("a style that is none", RIGHT + '[style]\nphone = "pretty"\n', "'phone' cannot be 'pretty'"),
    ("a date in no order", RIGHT + '[style]\ndate = "week"\n', "week"),
    ("overflow into a number", RIGHT + '[overflow]\ninto = "phone"\n', "a field of free text"),
    ("keys as a list", RIGHT + '[on_import]\nmatches_on = ["uid"]\n', "a list of keys"),
    ("existing as it likes",
     RIGHT + '[on_import]\nexisting = ["replace"]\n',
     "cannot be 'replace'"),
    ("a rewrite that is none", RIGHT + '[rewrites]\nphone = "digit"\n', "did you mean 'digits'"),
    ("a rewrite elsewhere", RIGHT + '[rewrites]\nemail = "from-parts"\n', "is for name/full"),
    ("no TOML", RIGHT + "[limits\n", "not valid TOML"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "said"), [row[1:] for row in WRONG], ids=[row[0] for row in WRONG]
)
def test_what_is_wrong_is_one_line(run: Run, tmp_path: Path, text: str, said: str) -> None:
    (tmp_path / "d.toml").write_text(text)
    done = run("destination", "check", "d.toml")
    assert (done.code, done.out) == (4, "")
    first = done.err.splitlines()[0]
    assert first.startswith("error: d.toml")
    assert said in done.err
    if "TOML" not in said:
        assert re.match(r"error: d\.toml(, line \d+)?: ", first)


def test_the_file_itself_may_be_the_matter(run: Run, tmp_path: Path) -> None:
    (tmp_path / "x.toml").write_bytes(b'name = "\xff"')
    for name, said in (("y.toml", "not found; did you mean 'x.toml'?"), ("x.toml", "UTF-8 text"),
                       ("locksde", "did you mean 'lockside'?")):  # fmt: skip
        done = run("destination", "show", name)
        assert (done.code, done.err.count("\n")) == (4, 1)
        assert said in done.err


def blocks() -> list[str]:
    text = (ROOT / "docs" / "destinations.md").read_text(encoding="utf-8")
    return re.findall(r"```toml\n(.*?)```", text, re.DOTALL)


@pytest.mark.parametrize("block", blocks())
def test_each_block_of_the_docs_loads(run: Run, tmp_path: Path, block: str) -> None:
    (tmp_path / "d.toml").write_text(block)
    done = run("destination", "check", "d.toml")
    assert done.code == 0, done.err


def test_a_draft_is_right_and_is_kept_with_its_layout(run: Run, tmp_path: Path, demo: Path) -> None:
    for export, known in (("ledger.csv", 'layout  = "d1"'), ("skippers.vcf", 'accepts = ["vcard-')):
        name = "d1.toml" if "layout" in known else "d2.toml"
        assert run("destination", "draft", demo / export, "-o", name).code == 0
        text = (tmp_path / name).read_text()
        assert known in text
        assert "longest seen" in text
        assert run("destination", "check", name).code == 0
        bare = text.replace("# values", "values").replace("# length", "length")
        (tmp_path / name).write_text(
            re.sub(r'^# ("phone/use"|people_in_all)', r"\1", bare, flags=re.M)
        )
        assert run("destination", "check", name).code == 0
    (tmp_path / "t.csv").write_text("Family name;First name;E-mail\n")
    assert run("destination", "draft", "t.csv", "-o", "t.toml").code == 0
    (tmp_path / "new").mkdir()
    (tmp_path / "new" / "d.toml").write_text("")
    assert run("destination", "draft", "t.csv", "-o", "new/d.toml").code == 5
    assert [path.name for path in (tmp_path / "new").iterdir()] == ["d.toml"]
    assert run("destination", "keep", "d1.toml").code == 0
    assert run("destination", "keep", "d1.toml").code == 5
    listed = run("destination", "list").out
    assert "d1" in listed
    assert "lockside" in listed
    (tmp_path / "d1.toml").unlink()
    shown = run("destination", "show", "d1").out
    assert "takes             table" in shown
    assert "windows-1252" in shown


@pytest.mark.parametrize(
    ("word", "path", "text", "made"),
    [
        ("digits", "phone", "+44 1632 960001", "441632960001"),
        ("international", "phone", "01632 960001", "+44 1632 960001"),
        ("lower-case", "email", "Ada@X.test", "ada@x.test"),
        ("spaces", "note", "a  b \n c", "a b c"),
        ("trimmed", "name/family", " Weir ", "Weir"),
        ("code", "address/country", "England", "GB"),
    ],
)
def test_each_rewrite_does_what_it_says(word: str, path: str, text: str, made: str) -> None:
    to = Destination("x", rewrites={parse(path): (word,)})  # type: ignore[dict-item]
    assert rewritten(text, parse(path), to, "GB") == made
    assert set(FUNCTIONS) == set(REWRITES)
    assert all(FUNCTIONS[each](" A b ", "GB") == " A b " for each in UNTOLD)


def test_those_that_come_with_the_tool_are_right() -> None:
    found = dict(library.kept([DEMO / "destinations"], [DEMO / "layouts"]))
    assert {path.stem for path in found} == {"lockside", "narrow-lock"}
    assert all(isinstance(each, Destination) for each in found.values())
