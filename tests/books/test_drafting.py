"""Finding the headings of a table, and what a table without a layout becomes."""

from __future__ import annotations

from pathlib import Path

import pytest

from roundcard.app.keep import keep_layout
from roundcard.books.drafting import beginning, demand_understood, draft_table
from roundcard.books.source import HowToRead, Source, sources_of
from roundcard.books.tables import best_kept, fits_of, guessed_dialect, open_table
from roundcard.errors import LayoutError, SourceError, TargetError
from roundcard.layouts.library import load

RECORD = "Anna Weber,a@x.test,01632 960001"


def source(tmp_path: Path, text: str, how: HowToRead | None = None) -> Source:
    path = tmp_path / "t.csv"
    path.write_text(text, encoding="utf-8")
    return Source(str(path), None, how)


HEADINGS = [
    (["Name,E-mail,Phone", RECORD], 1),
    ([RECORD, RECORD], 0),
    (["Members as of May,,", "Name,E-mail,Phone", RECORD], 2),
    (["", "", "Name,E-mail,Phone", RECORD], 3),
    (["sep=,", "Name,E-mail,Phone", RECORD], 2),
    (["Friends of the Canal,,", "as of 1 May,,", ",,", "Name,E-mail,Phone", RECORD], 4),
    (["Zib,Wob,Fleem", "one,two,three", "four,five,six"], 1),
    (["Zib,Wob,Fleem", RECORD, RECORD, RECORD], 1),
    (["Report,,", "Zib,Wob,Fleem", RECORD, RECORD, RECORD], 2),
    (["Anna Weber,Withy,1", "Peter Lock,Hale,2", "Emma Fenn,Hale,3", "Grace Hay,Sedge,4"], 0),
    (["Name (as a@x.test),E-mail (a@x.test),Phone", RECORD], 1),
    (["氏名,メール,電話", "山田 太郎,a@x.test,03-0000-0001"], 1),
    (["Фамилия,Имя,Почта", "Ивова,Ольга,a@x.test"], 1),
]


@pytest.mark.parametrize(("lines", "row"), HEADINGS)
def test_the_row_of_the_headings(tmp_path: Path, lines: list[str], row: int) -> None:
    opened = source(tmp_path, "\r\n".join(lines) + "\r\n")
    begun = beginning(opened, guessed_dialect(opened).dialect)
    assert begun.heading_row == row
    assert begun.width == 3
    assert len(begun.rows) == len([line for line in lines[row:] if line.strip(",")])


PEOPLE = [f"Anna Weber,a{n}@x.test,01632 96000{n}" for n in range(4)]
EXPLANATIONS = [
    ("text,e-mail address,number", True),
    ("Vor- und Nachname,Pflichtfeld,max. 20 Zeichen", True),
    ("文字列,必須,数字", True),
    ("Mr. Quibbel,left the firm,ask mother", False),
    ("Nobody,none,unknown", False),
    ("Number Street Choir,text me,text me", False),
    ("text,,", False),
]


@pytest.mark.parametrize(("row", "explains"), EXPLANATIONS)
def test_a_row_that_explains_the_headings_is_nobody(
    tmp_path: Path, row: str, explains: bool
) -> None:
    opened = source(tmp_path, "\n".join(["Name,E-mail,Phone", row, *PEOPLE]) + "\n")
    begun = beginning(opened, guessed_dialect(opened).dialect)
    assert bool(begun.explained_by) == explains
    assert len(begun.rows) == 5 - explains


def test_the_row_can_be_said(tmp_path: Path) -> None:
    text = f"Name,E-mail,Phone\nZib,Wob,Fleem\n{RECORD}\n"
    opened = source(tmp_path, text, HowToRead(heading_row=2))
    assert beginning(opened, guessed_dialect(opened).dialect).headings == ["Zib", "Wob", "Fleem"]
    opened = source(tmp_path, text, HowToRead(heading_row=0))
    assert beginning(opened, guessed_dialect(opened).dialect).headings is None
    with pytest.raises(SourceError, match="--heading-row is 9"):
        beginning(source(tmp_path, text, HowToRead(heading_row=9)), guessed_dialect(opened).dialect)


@pytest.mark.parametrize("text", ["Zib,Wob\nAx,bo\n", '"', "x\n", ",,\n,,\n"])
def test_what_nobody_understands_is_refused(tmp_path: Path, text: str) -> None:
    opened = source(tmp_path, text)
    draft, begun = draft_table(opened, guessed_dialect(opened).dialect)
    with pytest.raises(LayoutError, match="roundcard layout draft"):
        demand_understood(draft, begun, opened.name)
    assert open_table(opened, [], demand=False).draft is not None


LAYOUT = """
name = "members"
[[column]]
heading = "Name"
holds = "name/full"
[[column]]
heading = "E-mail"
holds = "email"
[[column]]
heading = "Phone"
holds = "phone"
"""


FITS = [
    (f"Name,E-mail,Phone\n{RECORD}\n", 1.0),
    ("Phone,Name,E-mail\n01632 960001,Anna,a@x.test\n", 1.0),
    ("Name,E-mail\nAnna,a@x.test\n", 0.67),
    ("Name,E-mail,Phone,Town,Born,Note\nAnna,a@x.test,01632 960001,Withy,,\n", 0.5),
    ("Name,E-mail,Phone\nAnna,a@x.test,b@x.test\n", 0.0),
    ("Zib,Wob\n1,2\n", 0.0),
]


@pytest.mark.parametrize(("text", "score"), FITS)
def test_a_kept_layout_is_taken_where_it_fits(tmp_path: Path, text: str, score: float) -> None:
    (tmp_path / "l.toml").write_text(LAYOUT, encoding="utf-8")
    kept = [load(tmp_path / "l.toml")]
    opened = source(tmp_path, text)
    guessed = guessed_dialect(opened)
    assert round(fits_of(opened, kept, guessed)[0].score, 2) == score
    taken = best_kept(opened, kept, guessed)
    assert (taken is not None) is (score > 0.9)
    table = open_table(opened, [], kept, demand=False)
    assert (table.layout.name == "members", table.draft is None) == (score > 0.9, score > 0.9)
    assert table.taken == (score if score > 0.9 else 0.0)


def test_a_layout_is_kept_under_its_name(tmp_path: Path) -> None:
    file = tmp_path / "l.toml"
    file.write_text("# mine\n" + LAYOUT, encoding="utf-8")
    place = tmp_path / "deep" / "layouts"
    assert keep_layout(file, place).name == "members.toml"
    renamed = keep_layout(file, place, "ours")
    assert load(renamed).name == "ours"
    assert renamed.read_text(encoding="utf-8").startswith("# mine")
    with pytest.raises(TargetError, match="named 'ours' is already kept"):
        keep_layout(file, place, "ours")
    assert keep_layout(file, place, "ours", force=True) == renamed
    for name in ("../up", "", " "):
        if name:
            with pytest.raises(LayoutError, match="cannot be the name"):
                keep_layout(file, place, name)
    file.write_text("name = 7", encoding="utf-8")
    with pytest.raises(LayoutError):
        keep_layout(file, place)


def test_a_folder_gives_its_cards_and_tables(tmp_path: Path) -> None:
    folder = tmp_path / "books"
    (folder / "deep").mkdir(parents=True)
    for name in ("b.csv", "a.vcf", "deep/c.tsv", ".hidden.csv", "readme.txt", "p.jpg"):
        text = (
            "BEGIN:VCARD\nVERSION:3.0\nFN:A\nN:A\nEND:VCARD\n" if name == "a.vcf" else "Name\nA\n"
        )
        (folder / name).write_text(text, encoding="utf-8")
    found = sources_of([str(folder)])
    assert [Path(each.name).name for each in found] == ["a.vcf", "b.csv", "c.tsv"]
    assert [path.name for path in found[0].beside] == ["p.jpg", "readme.txt"]
    (tmp_path / "none").mkdir()
    tables = sources_of([str(folder)], tables=True)
    assert [Path(each.name).name for each in tables] == ["b.csv", "c.tsv"]
    with pytest.raises(SourceError, match="no card and no table"):
        sources_of([str(tmp_path / "none")])
