"""The installed command on files in a folder, as its users meet it."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import pytest

from conftest import Run
from roundcard.layouts.library import load

COUNTS = (
    "read",
    "blank",
    "set_aside",
    "left_out",
    "folded",
    "left_behind",
    "carried",
    "changed",
    "added",
    "derived",
    "written",
)
LEDGER_LAYOUT = """\
name = "small"
[table]
encoding = "windows-1252"
separator = ";"
{table}
[[column]]
heading = "Name"
holds = "name/full"
[[column]]
heading = "Mail"
holds = "email"
[[column]]
heading = "Mobile"
holds = "phone/cell"
{more}
"""


def layout(folder: Path, table: str = "", more: str = "", name: str = "small.toml") -> Path:
    path = folder / name
    path.write_text(LEDGER_LAYOUT.format(table=table, more=more), encoding="utf-8")
    return path


def book(folder: Path, text: str, name: str = "a.csv", encoding: str = "windows-1252") -> Path:
    path = folder / name
    path.write_bytes(text.replace("\n", "\r\n").encode(encoding))
    return path


def report(run: Run, *args: object, code: int = 0) -> dict[str, dict[str, int]]:
    done = run("convert", *args, "--json")
    assert done.code == code, done.err
    told: dict[str, dict[str, int]] = json.loads(done.out)
    assert set(told["balance"].values()) == {0}
    return told


def column(told: dict[str, dict[str, int]], which: str) -> dict[str, int]:
    """The counts of one column of the balance that are not zero."""
    return {name: told[which][name] for name in COUNTS if told[which][name]}


# what is lost and how, table and layout, options, people and values as counted by hand
WAYS = [
    (
        "nothing",
        "Name;Mail;Mobile\nAda;a@x.test;1\nBo;;\n",
        "",
        "",
        [],
        {"read": 2, "carried": 2, "written": 2},
        {"read": 4, "carried": 4, "written": 4},
    ),
    (
        "a blank row",
        "Name;Mail;Mobile\nAda;;\n;;\n ; ;\n",
        "",
        "",
        [],
        {"read": 3, "blank": 2, "carried": 1, "written": 1},
        {"read": 1, "carried": 1, "written": 1},
    ),
    (
        "a cell that means nothing",
        "Name;Mail;Mobile\nAda;-;1\n",
        'empty = ["-"]',
        "",
        [],
        {"read": 1, "carried": 1, "written": 1},
        {"read": 3, "left_out": 1, "carried": 2, "written": 2},
    ),
    (
        "a skipped column",
        "Name;Mail;Mobile;Telex\nAda;;1;9\n",
        "",
        '[[column]]\nheading = "Telex"\nskip = true',
        [],
        {"read": 1, "carried": 1, "written": 1},
        {"read": 3, "left_out": 1, "carried": 2, "written": 2},
    ),
    (
        "an unlisted column skipped",
        "Name;Mail;Mobile;Boat\nAda;;1;Dawn\n",
        'unlisted = "skip"',
        "",
        [],
        {"read": 1, "carried": 1, "written": 1},
        {"read": 3, "left_out": 1, "carried": 2, "written": 2},
    ),
    (
        "a person of skipped columns",
        "Name;Mail;Mobile;Boat\nAda;;;\n;;;Dawn\n",
        'unlisted = "skip"',
        "",
        [],
        {"read": 2, "left_out": 1, "carried": 1, "written": 1},
        {"read": 2, "left_out": 1, "carried": 1, "written": 1},
    ),
    (
        "fields not chosen",
        "Name;Mail;Mobile\nAda;a@x.test;1\n;b@x.test;2\n",
        "",
        "",
        ["--only", "name/full,phone"],
        {"read": 2, "carried": 2, "written": 2},
        {"read": 5, "left_out": 2, "carried": 3, "derived": 1, "written": 4},
    ),
    (
        "a person of whom nothing is chosen",
        "Name;Mail;Mobile\nAda;;1\n;b@x.test;\n",
        "",
        "",
        ["--only", "phone"],
        {"read": 2, "left_out": 1, "carried": 1, "written": 1},
        {"read": 3, "left_out": 2, "carried": 1, "derived": 1, "written": 2},
    ),
    (
        "their words and dates",
        "Name;Mail;Mobile;Born;State\nAda;;;12.4.80;A\nBo;;;12.4.1980;B\n",
        "",
        '[[column]]\nheading = "Born"\nholds = "birthday"\ndate = "day.month.year"\n'
        '[[column]]\nheading = "State"\nholds = "category"\nvalues = { A = "Active" }',
        [],
        {"read": 2, "carried": 2, "written": 2},
        {"read": 6, "carried": 4, "changed": 2, "written": 6},
    ),
    (
        "a fixed column that says the same",
        "Name;Mail;Mobile;Owner\nAda;;;I. H.\nBo;;;other\n",
        "",
        '[[column]]\nheading = "Owner"\nfixed = "I. H."',
        [],
        {"read": 2, "carried": 2, "written": 2},
        {"read": 4, "left_out": 1, "carried": 3, "written": 3},
    ),
    (
        "values added",
        "Name;Mail;Mobile\nAda;;\n",
        "",
        '[[every]]\nholds = "category"\nvalue = "Club"',
        ["--set", "category=Moved", "--set", "category=club", "--set", "note=x"],
        {"read": 1, "carried": 1, "written": 1},
        {"read": 1, "carried": 1, "added": 3, "written": 4},
    ),
]


@pytest.mark.parametrize(
    ("text", "table", "more", "options", "people", "values"),
    [way[1:] for way in WAYS],
    ids=[way[0] for way in WAYS],
)
def test_the_balance_of_a_table_counted_by_hand(
    run: Run,
    tmp_path: Path,
    text: str,
    table: str,
    more: str,
    options: list[str],
    people: dict[str, int],
    values: dict[str, int],
) -> None:
    args = (book(tmp_path, text), "out.vcf", "--layout", layout(tmp_path, table, more), *options)
    told = report(run, *args)
    assert column(told, "people") == people
    assert column(told, "values") == values


CARD = "BEGIN:VCARD\r\nVERSION:3.0\r\n{}\r\nEND:VCARD\r\n"


def cards(folder: Path, *bodies: str, name: str = "a.vcf") -> Path:
    path = folder / name
    text = "".join(CARD.format(body.replace("\n", "\r\n")) for body in bodies)
    path.write_bytes(text.encode())
    return path


OUT_WAYS = [
    (
        "no column",
        ["FN:Ada\nTEL;TYPE=cell:1\nTEL;TYPE=cell:2\nPHOTO;VALUE=uri:http://x.test"],
        "",
        {"read": 1, "carried": 1, "written": 1},
        {"read": 4, "left_behind": 2, "carried": 2, "written": 2},
    ),
    (
        "no characters",
        ["FN:Ada\nEMAIL:水@x.test"],
        "",
        {"read": 1, "carried": 1, "written": 1},
        {"read": 2, "left_behind": 1, "carried": 1, "written": 1},
    ),
    (
        "nobody to write",
        ["FN:Ada", "TITLE:x"],
        "",
        {"read": 2, "left_behind": 1, "carried": 1, "written": 1},
        {"read": 2, "left_behind": 1, "carried": 1, "written": 1},
    ),
    (
        "a name said twice",
        ["FN:Ada Weir\nN:Weir;Ada;;;\nEMAIL:a@x.test"],
        "",
        {"read": 1, "carried": 1, "written": 1},
        {"read": 4, "folded": 2, "carried": 2, "written": 2},
    ),
    (
        "a whole name made",
        ["N:Weir;Ada;;;"],
        "",
        {"read": 1, "carried": 1, "written": 1},
        {"read": 2, "folded": 2, "derived": 1, "written": 1},
    ),
    (
        "a use not kept",
        ["FN:Ada\nTEL;TYPE=work,cell:1"],
        "",
        {"read": 1, "carried": 1, "written": 1},
        {"read": 2, "carried": 1, "changed": 1, "written": 2},
    ),
    (
        "a fixed column",
        ["FN:Ada"],
        '[[column]]\nheading = "Owner"\nfixed = "I. H."',
        {"read": 1, "carried": 1, "written": 1},
        {"read": 1, "carried": 1, "added": 1, "written": 2},
    ),
    (
        "a card that is blank",
        ["FN:Ada", "N:;;;;"],
        "",
        {"read": 2, "blank": 1, "carried": 1, "written": 1},
        {"read": 1, "carried": 1, "written": 1},
    ),
]


@pytest.mark.parametrize(
    ("bodies", "more", "people", "values"),
    [way[1:] for way in OUT_WAYS],
    ids=[way[0] for way in OUT_WAYS],
)
def test_the_balance_into_a_table_counted_by_hand(
    run: Run,
    tmp_path: Path,
    bodies: list[str],
    more: str,
    people: dict[str, int],
    values: dict[str, int],
) -> None:
    to = layout(tmp_path, 'unlisted = "skip"', more)
    told = report(run, cards(tmp_path, *bodies), "out.csv", "--to-layout", to)
    assert column(told, "people") == people
    assert column(told, "values") == values


def test_what_is_set_aside_is_kept_with_its_reason(run: Run, tmp_path: Path) -> None:
    source = tmp_path / "a.csv"
    rows = "".join(f"Zoë,z{n}@x.test\r\n" for n in range(5)).encode()
    source.write_bytes(b"Name,E-mail\r\n" + rows + b"B\xf6,b@x.test\r\n")
    lay = 'name = "u"\n[[column]]\nheading = "Name"\nholds = "name/full"\n'
    (tmp_path / "u.toml").write_text(lay, encoding="utf-8")
    told = report(run, source, "out.vcf", "--layout", tmp_path / "u.toml", code=1)
    assert column(told, "people") == {"read": 6, "set_aside": 1, "carried": 5, "written": 5}
    assert column(told, "values")["set_aside"] == 2
    with (tmp_path / "out.set-aside.csv").open(encoding="utf-8", newline="") as stream:
        (row,) = csv.DictReader(stream)
    assert (row["record"], row["line"]) == ("6", "7")
    assert row["reason"].startswith("bytes that are not utf-8")
    assert "B\\xf6;b@x.test" in row["what it held"]


def test_what_is_left_behind_is_kept_as_cards(run: Run, tmp_path: Path) -> None:
    source = cards(
        tmp_path, "UID:urn:x\nFN:Ada\nN:Weir;Ada;;;\ng.TEL:1\ng.X-ABLabel:lock\nX-BERTH:b4;c"
    )
    to = layout(tmp_path, 'unlisted = "skip"')
    done = run("convert", source, "out.csv", "--to-layout", to)
    assert done.code == 0
    assert "kept aside: out.left-behind.vcf" in done.err
    kept = (tmp_path / "out.left-behind.vcf").read_text(encoding="utf-8").replace("\n ", "")
    for line in (
        "FN;DERIVED=true:Ada",
        "UID;",
        "g.TEL;",
        "g.X-ABLabel:lock",
        ":b4;c",
        "X-ROUNDCARD-FROM:",
        'X-ROUNDCARD-WHY="phone: no free column"',
    ):
        assert line in kept
    # a second run keeps the first one's side file
    assert run("convert", source, "out.csv", "--to-layout", to, "--force").code == 0
    assert (tmp_path / "out.left-behind-2.vcf").exists()
    strict = run("convert", source, "b.csv", "--to-layout", to, "--strict", "--side", tmp_path)
    assert strict.code == 1


def test_unlisted_columns_survive_the_way_to_cards_and_back(run: Run, tmp_path: Path) -> None:
    lay = layout(tmp_path)
    rows = "Name;Mail;Mobile;Boat;Key/No,\nAda;a@x.test;1;Dawn;7\nBo;;;;8\n"
    source = book(tmp_path, rows)
    assert run("convert", source, "b.vcf", "--layout", lay).code == 0
    assert "X-ROUNDCARD-CUSTOM:Boat;Dawn" in (tmp_path / "b.vcf").read_text(encoding="utf-8")
    assert run("convert", "b.vcf", "c.csv", "--to-layout", lay).code == 0
    assert (tmp_path / "c.csv").read_bytes() == source.read_bytes()


def test_semicolons_and_windows_1252_come_back_cell_for_cell(run: Run, demo: Path) -> None:
    lay = demo / "layouts" / "membership-ledger.toml"
    assert run("convert", demo / "ledger.csv", "l.vcf", "--layout", lay).code == 0
    assert run("convert", "l.vcf", "back.csv", "--to-layout", lay).code == 0
    skipped = {column.heading for column in load(lay).columns if column.skip}

    def table(path: Path) -> list[list[str]]:
        with path.open(encoding="windows-1252", newline="") as stream:
            rows = list(csv.reader(stream, delimiter=";"))
        wanted = [at for at, heading in enumerate(rows[0]) if heading not in skipped]
        cells = [["" if row[at] == "-" else row[at] for at in wanted] for row in rows]
        return [row for row in cells if any(row)]

    assert table(demo.parent / "back.csv") == table(demo / "ledger.csv")


def test_cards_become_a_table_of_their_own_and_back(run: Run, demo: Path, tmp_path: Path) -> None:
    (tmp_path / "back").mkdir()
    for name in ("skippers.vcf", "skippers-now.vcf", "coordinator-phone.vcf"):
        source = demo / name
        assert run("convert", source, "plain.vcf", "--to", "vcard-4.0", "--force").code == 0
        told = report(run, "plain.vcf", "t.csv", "--force")
        assert not told["values"]["left_behind"]
        assert "by layout" not in run("convert", "t.csv", "again.vcf", "--force").err
        home = report(run, "again.vcf", "back/t.csv", "--force")
        assert home["values"]["written"] == told["values"]["written"]
        assert (tmp_path / "back" / "t.csv").read_bytes() == (tmp_path / "t.csv").read_bytes()
        photos = {path.name: path.read_bytes() for path in (tmp_path / "t.photos").glob("*")}
        back = {path.name: path.read_bytes() for path in (tmp_path / "back/t.photos").glob("*")}
        assert photos == back


@pytest.mark.parametrize("name", ["skippers.vcf", "skippers-now.vcf", "coordinator-phone.vcf"])
def test_every_card_format_holds_the_same(run: Run, demo: Path, tmp_path: Path, name: str) -> None:
    assert run("convert", demo / name, "straight.vcf", "--to", "vcard-4.0").code == 0
    wanted = (tmp_path / "straight.vcf").read_bytes()
    for way in ("vcard-3.0", "vcard-2.1", "jcard"):
        assert run("convert", "straight.vcf", "there.out", "--to", way, "--force").code == 0
        done = run("convert", "there.out", "back.vcf", "--to", "vcard-4.0", "--force")
        assert done.code == 0
        back = (tmp_path / "back.vcf").read_bytes().replace(b"N:;;;;\r\n", b"")
        if b"VALUE=uri:tel:" in wanted:  # a telephone number is written as text again
            back, plain = (b.replace(b";VALUE=uri:tel:", b":") for b in (back, wanted))
            assert back == plain.replace(b"N:;;;;\r\n", b"")
        else:
            assert back == wanted.replace(b"N:;;;;\r\n", b"")


def test_each_source_takes_the_layout_that_fits_it(run: Run, demo: Path) -> None:
    names = ["ledger.csv", "newsletter.csv", "school-visits.csv", "twin-waterway.csv"]
    told = report(run, *(demo / n for n in names), "all.vcf", "--layout", demo / "layouts")
    layouts = [source["layout"] for source in told["sources"]]  # type: ignore[index]
    assert layouts == ["membership-ledger", "newsletter", "school-visits", "twin-waterway"]
    text = (demo.parent / "all.vcf").read_text(encoding="utf-8")
    assert "N;ALTID=1;PHONETIC=script:すいもん;たろう;;;" in text
    assert "ORG:Gymnasium Oberwasser" in text


def test_a_table_without_a_layout_says_what_it_took_each_column_for(
    run: Run, tmp_path: Path
) -> None:
    source = book(tmp_path, "First name,Handy,Zibble\nAda,0117 496 0001,Dawn\n")
    done = run("convert", source, "-", "--to", "vcard-3.0", "--set", "custom/Owner=I. H.")
    assert done.code == 0
    assert "2 of 3 columns understood" in done.err
    assert "Zibble  →  custom/Zibble" in done.err
    assert "to look at" in done.err
    assert "First name" not in done.err
    shown = run("convert", source, "-", "--dry-run", "--verbose", "--to", "vcard-3.0").err
    assert "First name  →  name/given" in shown
    assert done.out.startswith("BEGIN:VCARD")
    assert "X-ROUNDCARD-CUSTOM:Owner;I. H." in done.out


def test_headings_are_found_below_titles(run: Run, tmp_path: Path) -> None:
    book(tmp_path, "sep=;\nMembers, as of May\n\nName;Town\nAda Weir;Withy\n", "t.csv")
    done = run("convert", "t.csv", "o.vcf")
    assert (done.code, "the headings are in row 4" in done.err) == (0, True)
    assert (tmp_path / "o.vcf").read_text(encoding="utf-8").count("FN:Ada Weir") == 1


def test_the_row_that_explains_the_headings_is_nobody_and_counted(run: Run, tmp_path: Path) -> None:
    people = "".join(f"Anna Weber,+4366412345{n},a{n}@x.test\n" for n in range(10, 14))
    (tmp_path / "a.csv").write_text(f"Name,Mobile,E-mail\ntext,number,address\n{people}", "utf-8")
    told = report(run, "a.csv", "a.vcf", "--prove")
    assert told["people"]["read"] == 4
    assert (told["values"]["read"], told["values"]["passed_over"]) == (15, 3)
    # a layout knows the row by its words: where it is not, the first person is nobody else
    assert run("layout", "draft", "a.csv", "-o", "a.toml").code == 0
    for source, target in (("a.csv", "b.csv"), ("b.csv", "c.csv")):
        args = ("convert", source, target, "--layout", "a.toml", "--to-layout", "a.toml")
        assert run(*args).code == 0
        assert (tmp_path / target).read_text("utf-8") == f"Name,Mobile,E-mail\n{people}"


def test_standard_input_is_read_and_a_dry_run_writes_nothing(run: Run, tmp_path: Path) -> None:
    text = CARD.format("FN:Ada\r\nTEL:1\r\nTEL:2").encode()
    done = run("convert", "-", "-", "--to", "csv", "--quiet", stdin=text)
    assert done.out.splitlines() == ["name/full,phone/1,phone/2", "Ada,1,2"]
    assert done.err == ""
    dry = run("convert", "-", "out.csv", "--dry-run", stdin=text)
    assert dry.code == 0
    assert "dry run: 1 person would go to out.csv" in dry.err
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16", "utf-16-le", "utf-16-be"])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_cards_in_any_unicode_and_with_any_line_end(
    run: Run, tmp_path: Path, encoding: str, end: str
) -> None:
    text = CARD.format("FN:Zoë 水\r\nNOTE:fol\r\n ded").replace("\r\n", end)
    (tmp_path / "a.vcf").write_bytes(text.encode(encoding))
    done = run("convert", "a.vcf", "-", "--to", "vcard-4.0", "--quiet")
    assert (done.code, done.err) == (0, "")
    assert "FN:Zoë 水\r\nNOTE:folded\r\n" in done.out


def test_the_target_may_be_written_in_any_dialect(run: Run, tmp_path: Path) -> None:
    to = tmp_path / "to.toml"
    to.write_text(
        'name = "t"\n[table]\nencoding = "utf-16"\nseparator = "tab"\nline_end = "lf"\n'
        'quote = "always"\n[[column]]\nheading = "Wer"\nholds = "name/full"\n',
        encoding="utf-8",
    )
    assert run("convert", cards(tmp_path, "FN:Zoë 水"), "o.csv", "--to-layout", to).code == 0
    octets = (tmp_path / "o.csv").read_bytes()
    assert octets.startswith(b"\xff\xfe")
    assert octets.decode("utf-16") == '"Wer"\n"Zoë 水"\n'


def test_headless_tables_are_written_without_headings(run: Run, demo: Path, tmp_path: Path) -> None:
    assert run("convert", demo / "newsletter.csv", "n.vcf", "--layout", "newsletter").code == 0
    assert run("convert", "n.vcf", "n.csv", "--to-layout", "newsletter").code == 0
    assert (tmp_path / "n.csv").read_bytes() == (demo / "newsletter.csv").read_bytes()
