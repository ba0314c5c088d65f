"""Cards with faults and rarities: read as the standards want, written strictly, and home again."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest

from books_in_tests import card, inner, read_cards, write_cards
from conftest import Run
from roundcard.formats import jcard, vcard
from roundcard.formats.vcard.lines import demand_one_line, plain_breaks
from roundcard.tally import Balance, Tally

MILL = "behind the old mill"
NAMES = ("N:Quern;Ada;;;", "FN:Ada Quern")


def journey(lines: str, source: str, *versions: str) -> list[list[str]]:
    """What a card's lines become in one version after another."""
    text = card(*NAMES, *lines.split("\n"), version=source)
    found = []
    for version in versions:
        tally = Tally()
        text = write_cards(read_cards(text, tally), version, tally)
        assert Balance.of(tally).even
        found.append([line for line in inner(text) if line not in NAMES])
    return found


# from version, lines, and what they become in each version on the way
JOURNEYS = [
    ("4.0", "GEO:geo:52.1,-1.5,90;u=35", {
        "3.0": ["GEO;X-ROUNDCARD-EXACT=67656F3A35322E312C2D312E352C39303B753D3335:52.1;-1.5"],
        "2.1": ["GEO;X-ROUNDCARD-EXACT=67656F3A35322E312C2D312E352C39303B753D3335:-1.5,52.1"],
        "4.0": ["GEO:geo:52.1,-1.5,90;u=35"],
    }),
    ("4.0", "GEO:geo:52.1,-1.5", {"3.0": ["GEO:52.1;-1.5"], "2.1": ["GEO:-1.5,52.1"],
                                  "4.0": ["GEO:geo:52.1,-1.5"]}),
    ("3.0", "GEO:behind the old mill", {
        "3.0": ["GEO;VALUE=text:behind the old mill"],
        "2.1": [f"GEO;X-ROUNDCARD-EXACT={MILL.encode().hex().upper()}:{MILL}"],
        "4.0": ["GEO;VALUE=text:behind the old mill"],
    }),
    ("2.1", "GEO;ENCODING=QUOTED-PRINTABLE:1,2=0AX-I:1", {"4.0": ["GEO;VALUE=text:1\\,2\\nX-I:1"]}),
    ("4.0", "TEL;VALUE=uri:tel:5550177;phone-context=quern.example.com", {
        "3.0": ["TEL;X-ROUNDCARD-EXACT=74656C3A353535303137373B70686F6E652D636F6E746578743D717565"
                "726E2E6578616D706C652E636F6D:5550177"],
        "4.0": ["TEL;VALUE=uri:tel:5550177;phone-context=quern.example.com"],
    }),
    ("4.0", "TEL;VALUE=uri:tel:+1-202-555-0123;ext=5", {
        "2.1": ["TEL;X-ROUNDCARD-VALUE=uri:+1-202-555-0123 ext. 5"],
        "3.0": ["TEL;X-ROUNDCARD-VALUE=uri:+1-202-555-0123 ext. 5"],
        "4.0": ["TEL;VALUE=uri:tel:+1-202-555-0123;ext=5"],
    }),
    ("2.1", "NOTE;ENCODING=BASE64;CHARSET=UTF-8:U2NobGV1c2UgbsO2cmRsaWNo",
     {"4.0": ["NOTE:Schleuse nördlich"]}),
    ("2.1", "NOTE;BASE64:U2NobGV1c2U=", {"3.0": ["NOTE:Schleuse"]}),
    ("3.0", "NOTE;ENCODING=b:not base64!", {"3.0": ["NOTE:not base64!"]}),
    ("3.0", "AGENT:BEGIN:VCARD\\nFN:Tom\\nNOTE:1+1=3D\\nEND:VCARD", {
        "3.0": ["AGENT:BEGIN:VCARD\\nFN:Tom\\nNOTE:1+1=3D\\nEND:VCARD"],
    }),
    ("2.1", "AGENT:\nBEGIN:VCARD\nVERSION:2.1\nN:Tom\nEND:VCARD", {
        "3.0": ["AGENT:BEGIN:VCARD\\nVERSION:2.1\\nN:Tom\\nEND:VCARD"],
    }),
    ("2.1", "X-BERTH;ENCODING=QUOTED-PRINTABLE:line one=0D=0Aline two", {
        "2.1": ["X-BERTH;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:line one=0D=0Aline two"],
        "3.0": ["X-BERTH:line one\\nline two"],
    }),
    ("4.0", "BDAY:19910203T101500Z", {"3.0": ["BDAY;VALUE=date-time:1991-02-03T10:15:00Z"],
                                      "4.0": ["BDAY:19910203T101500Z"]}),
    ("4.0", "BDAY:19910203T1015+0130", {"3.0": ["X-ROUNDCARD-BDAY:1991-02-03T10:15+01:30"],
                                        "4.0": ["BDAY:19910203T1015+0130"]}),
    ("4.0", "DEATHDATE:T1015", {"3.0": ["X-ROUNDCARD-DEATHDATE:T10:15"],
                                "4.0": ["DEATHDATE:T1015"]}),
    ("4.0", "TZ;VALUE=utc-offset:+0330", {"3.0": ["TZ:+03:30"],
                                          "4.0": ["TZ;VALUE=utc-offset:+0330"]}),
    ("4.0", "BDAY:--0412", {"3.0": ["BDAY;X-ROUNDCARD-OMIT-YEAR=1604:1604-04-12"],
                            "4.0": ["BDAY:--0412"]}),
    ("3.0", "BDAY;X-BERTH-OMIT-YEAR=1700:1700-04-12", {"4.0": ["BDAY:--0412"]}),
    ("3.0", "BDAY;X-BERTH-OMIT-YEAR=1700:1980-04-12", {"4.0": ["BDAY:19800412"]}),
    ("2.1", "X_BERTH_NO:twelve", {"4.0": ["X-BERTH-NO;X-ROUNDCARD-NAME=X_BERTH_NO:twelve"],
                                  "3.0": ["X-BERTH-NO;X-ROUNDCARD-NAME=X_BERTH_NO:twelve"],
                                  "2.1": ["X-BERTH-NO:twelve"]}),
    ("2.1", "NOTE;ENCODING=QUOTED-PRINTABLE:left= \nright", {"3.0": ["NOTE:leftright"]}),
    ("4.0", 'ADR;LABEL="3 Cobnut Way\\nNettlewick":;;3 Cobnut Way;;;;', {
        "3.0": ["ADR:;;3 Cobnut Way;;;;", "LABEL:3 Cobnut Way\\nNettlewick"],
        "4.0": ["ADR;LABEL=3 Cobnut Way^nNettlewick:;;3 Cobnut Way;;;;"],
    }),
    ("4.0", "ADR:;;Lane;Town;;;;r;a;f", {
        "3.0": ["ADR;X-ROUNDCARD-EXACT=3B3B4C616E653B546F776E3B3B3B3B723B613B66:;;Lane;Town;;;"],
        "4.0": ["ADR:;;Lane;Town;;;;r;a;f"],
    }),
    ("4.0", "TEL;PREF=3;PREF=7:1", {"4.0": ["TEL;PREF=3;X-ROUNDCARD-PREF=7:1"]}),
    ("3.0", "item1.TEL:1\nitem1.X-ABLabel:_$!<Mobile>!$_", {
        "4.0": ["item1.TEL:1", "item1.X-ABLabel:_$!<Mobile>!$_"],
        "3.0": ["item1.TEL:1", "item1.X-ABLabel:_$!<Mobile>!$_"],
    }),
    ("2.1", "N:;;;;\nN:;;;;", {"4.0": []}),
    ("3.0", "UID:urn:\x7fa\nURL:https://x.test/\x1f", {
        "4.0": ["UID;VALUE=text:urn: a", "URL;VALUE=text:https://x.test/ "]}),
    ("4.0", "NOTE:as of old\n BEGIN:VCARD\n EMAIL:x@example.org\nTEL:1", {
        "3.0": ["NOTE:as of oldBEGIN:VCARDEMAIL:x@example.org", "TEL:1"],
    }),
]  # fmt: skip


@pytest.mark.parametrize(("source", "lines", "ways"), JOURNEYS)
def test_each_version_says_it_in_its_own_way(
    source: str, lines: str, ways: dict[str, list[str]]
) -> None:
    assert dict(zip(ways, journey(lines, source, *ways), strict=True)) == ways


def test_a_card_within_the_card_is_one_in_the_oldest_version_too() -> None:
    lines = "AGENT:BEGIN:VCARD\\nVERSION:3.0\\nFN:Tom\\nN:;Tom;;;\\nNOTE:a\\, b\\nEND:VCARD"
    (old, home) = journey(lines, "3.0", "2.1", "3.0")
    assert old[1:] == ["FN:Tom", "N:;Tom;;;", "NOTE:a, b"]
    assert home == [lines]


@pytest.mark.parametrize(
    ("octets", "lines", "changed"),
    [
        (b"EMAIL:a@b.test\rTEL:1\r\n", ["EMAIL:a@b.test", "TEL:1"], 0),
        (b"NOTE:fold\r ed\r\n", ["NOTE:folded"], 0),
        (b"TEL:1\r\r\nTEL:2\r\r\n", ["TEL:1", "TEL:2"], 0),
        (b"NOTE:caf\xc3\xa9 M\xc3\xbchle \xc3\r\n", ["NOTE:café Mühle Ã"], 1),
        (b"NOTE:caf\xe9\r\n", ["NOTE:café"], 1),
        (b"NOTE:a\x07b\x0cc\r\n", ["NOTE:a b\\nc"], 1),
        (b"X-BERTH:a\x07b\r\n", ["X-BERTH:a b"], 1),
    ],
)
@pytest.mark.parametrize("size", [1, 7, 1000])
def test_octets_are_read_as_they_were_meant(
    octets: bytes, lines: list[str], changed: int, size: int
) -> None:
    names = "\r\n".join(NAMES).encode()
    whole = b"BEGIN:VCARD\r\nVERSION:3.0\r\n" + names + b"\r\n" + octets + b"END:VCARD\r\n"
    chunks = [whole[at : at + size] for at in range(0, len(whole), size)]
    tally = Tally()
    out = write_cards(list(vcard.read(chunks, source=0, tally=tally)), "3.0", tally)
    assert [line for line in inner(out) if line not in NAMES] == lines
    assert tally.people.read == 1
    assert tally.values.changed == changed


def test_bytes_in_the_label_of_a_custom_value_are_read_the_long_way(
    run: Run, tmp_path: Path
) -> None:
    text = card("FN:Ada", "X-ROUNDCARD-CUSTOM:Berth\udcffno;12") * 9
    (tmp_path / "s.vcf").write_bytes(text.encode("utf-8", "surrogateescape"))
    assert run("convert", "s.vcf", "t.vcf", "--prove").code == 0
    assert (tmp_path / "t.vcf").read_text().count("X-ROUNDCARD-CUSTOM:Berthÿno;12") == 9


def test_breaks_are_plain_however_they_are_cut() -> None:
    octets = b"a\r\nb\rc\r\r\r\nd\ne\r"
    for size in range(1, len(octets) + 1):
        chunks = [octets[at : at + size] for at in range(0, len(octets), size)]
        assert b"".join(plain_breaks(chunks)) == b"a\r\nb\nc\r\nd\ne\n"


@pytest.mark.parametrize("text", ["NOTE:a\nTEL:1", "NOTE:a\rb", "NOTE:\x00", "NOTE:\x7f"])
def test_what_makes_lines_refuses_what_would_be_several(text: str) -> None:
    with pytest.raises(ValueError, match="cannot hold"):
        demand_one_line(text)


# lines of a 4.0 card, and the elements that jCard has for them
ELEMENTS = [
    ("X-DEPTH;VALUE=integer:12", ["x-depth", {}, "integer", 12]),
    ("X-DEPTH;VALUE=integer:1,2", ["x-depth", {}, "integer", 1, 2]),
    ("X-DEPTH;VALUE=integer:012", ["x-depth", {}, "integer", "012"]),
    ("X-DEPTH;VALUE=float:1.5", ["x-depth", {}, "float", 1.5]),
    ("X-OPEN;VALUE=boolean:TRUE", ["x-open", {}, "boolean", True]),
    ("X-BERTH;VALUE=text:north\\, lock", ["x-berth", {}, "text", "north, lock"]),
    ("X-BERTH;VALUE=text:a;b,c", ["x-berth", {}, "text", ["a", ["b", "c"]]]),
    ("X-BERTH;VALUE=date:19850412", ["x-berth", {}, "date", "1985-04-12"]),
    ("X-MAP;VALUE=uri:https://x.test/a,b", ["x-map", {}, "uri", "https://x.test/a,b"]),
    ("X-BERTH:a\\,b;c", ["x-berth", {}, "unknown", "a\\,b;c"]),
    ("CLIENTPIDMAP:1;urn:uuid:3df4", ["clientpidmap", {}, "text", ["1", "urn:uuid:3df4"]]),
    ("TZ;VALUE=utc-offset:-0500", ["tz", {}, "utc-offset", "-05:00"]),
    ("REV:19951031T222710Z", ["rev", {}, "timestamp", "1995-10-31T22:27:10Z"]),
    ("ORG:Withy", ["org", {}, "text", "Withy"]),
    ("ORG:Withy;Locks", ["org", {}, "text", ["Withy", "Locks"]]),
    ("LANG:fr", ["lang", {}, "language-tag", "fr"]),
    ("TEL;VALUE=uri:tel:+1;ext=5", ["tel", {}, "uri", "tel:+1;ext=5"]),
    ("TEL:+1", ["tel", {}, "text", "+1"]),
    ("item1.EMAIL:a@b.test", ["email", {"group": "item1"}, "text", "a@b.test"]),
    ("BDAY:19910203T101500Z", ["bday", {}, "date-and-or-time", "1991-02-03T10:15:00Z"]),
]


@pytest.mark.parametrize(("line", "element"), ELEMENTS)
def test_jcard_has_each_property_by_the_letter(line: str, element: list[object]) -> None:
    tally = Tally()
    writer = jcard.JCardWriter(tally)
    (contact,) = read_cards(card(*NAMES, line, version="4.0"), tally)
    text = f"{writer.opening}{writer.encode(contact)}{writer.closing}"
    assert json.loads(text)[0][1][3] == element
    back = list(jcard.read([text.encode()], source=0, tally=Tally()))
    home = [got for got in inner(write_cards(back, "4.0")) if got not in NAMES]
    assert home == [line.replace("TRUE", "true")]


BREAKS = ["north\\nTEL:1", "v\\r\\nEND:VCARD\\r\\nBEGIN:VCARD\\r\\nFN:Planted", "a\\rROLE:x"]


@pytest.mark.parametrize("text", BREAKS)
@pytest.mark.parametrize("version", ["2.1", "3.0", "4.0"])
@pytest.mark.parametrize(
    "element",
    ['["x-b",{{}},"unknown","{0}"]', '["x-b",{{}},"text","{0}"]', '["note",{{}},"text","{0}"]',
     '["geo",{{}},"uri","geo:1,2{0}"]', '["photo",{{}},"uri","data:image/png;base64,{0}"]',
     '["x-b",{{"x-c":"{0}"}},"text","v"]', '["tel",{{"group":"{0}"}},"text","1"]',
     '["{0}",{{}},"text","v"]', '["tel",{{"{0}":"x"}},"text","1"]', '["tel",{{}},"uri","{0}"]'],
)  # fmt: skip
def test_no_value_becomes_lines_of_its_own(element: str, version: str, text: str) -> None:
    whole = (
        f'["vcard",[["version",{{}},"text","4.0"],["fn",{{}},"text","A"],{element.format(text)}]]'
    )
    tally = Tally()
    contacts = list(jcard.read([whole.encode()], source=0, tally=tally))
    out = write_cards(contacts, version, tally)
    assert Balance.of(tally).even
    names = {line.partition(":")[0].partition(";")[0].rpartition(".")[2] for line in inner(out)}
    assert not names & {"TEL", "ROLE", "END", "BEGIN"} or '"tel"' in element
    lines = out.split("\n")
    assert [line for line in lines if line.startswith(("BEGIN", "END"))] == \
        ["BEGIN:VCARD", "END:VCARD"]  # fmt: skip
    assert sum(line.startswith("FN") for line in lines) == 1


def test_a_bad_property_of_a_jcard_costs_itself_alone() -> None:
    bad = '["x y",{},"text","v"],["",{},"text","v"],["note",{},"text"],7,["X:Y;Z",{},"text","v"]'
    text = f'["vcard",[["fn",{{}},"text","A"],{bad},["tel",{{"group":"my g"}},"text","1"]]]'
    tally = Tally()
    (contact,) = jcard.read([text.encode()], source=0, tally=tally)
    assert [prop.head.name for prop in contact.properties] == ["fn", "tel"]
    assert (tally.people.set_aside, tally.values.set_aside) == (0, 4)
    assert inner(write_cards([contact], "4.0", tally)) == ["FN:A", "TEL:1"]
    assert Balance.of(tally).even
    assert tally.values.changed == 1


CELLS = [
    ("item1.TEL:1", "item1.X-ABLabel:boat\\, winter", "phone/use", "boat, winter"),
    ("item1.TEL:1", "item1.X-ABLabel:_$!<Mobile>!$_", "phone/use", "cell"),
    ("item1.URL:http://a.test", "item1.X-ABLabel:_$!<HomePage>!$_", "url/use", "HomePage"),
    ("X-BERTH:north\\, second\\nlock", "NOTE:x", "custom/X-BERTH", "north, second\nlock"),
    ("X-BERTH:north;second", "NOTE:x", "custom/X-BERTH", "north;second"),
    ("X-BERTH:north\\;second", "NOTE:x", "custom/X-BERTH", "north\\;second"),
]


@pytest.mark.parametrize(("line", "more", "heading", "cell"), CELLS)
def test_cells_read_as_people_read_them(
    run: Run, tmp_path: Path, line: str, more: str, heading: str, cell: str
) -> None:
    source = tmp_path / "a.vcf"
    source.write_text(card(*NAMES, line, more) + card(*NAMES, "NOTE:other"))
    assert run("convert", str(source), str(tmp_path / "a.csv")).code == 0
    import csv

    rows = list(csv.DictReader(io.StringIO((tmp_path / "a.csv").read_text())))
    assert rows[0][heading] == cell
    assert (
        run("convert", str(tmp_path / "a.csv"), str(tmp_path / "b.vcf"), "--to", "vcard-3.0").code
        == 0
    )
    home = (tmp_path / "b.vcf").read_text().split("\n")
    if heading.startswith("custom"):
        assert line in home


def test_a_logo_comes_home_from_a_table(run: Run, tmp_path: Path) -> None:
    line = "LOGO;ENCODING=b;TYPE=PNG:iVBORw0KGgpxMDAwMTIzeg=="
    (tmp_path / "a.vcf").write_text(card(*NAMES, line))
    assert run("convert", str(tmp_path / "a.vcf"), str(tmp_path / "a.csv")).code == 0
    assert run("convert", str(tmp_path / "a.csv"), str(tmp_path / "b.vcf")).code == 0
    assert "iVBORw0KGgpxMDAwMTIzeg==" in (tmp_path / "b.vcf").read_text()


def test_only_a_name_with_a_sound_is_tied_to_it(run: Run, tmp_path: Path) -> None:
    table = "name/family,name/given,name/phonetic-family\nQuern,Ada,kwern\nWeir,Bo,\n"
    (tmp_path / "a.csv").write_text(table)
    assert (
        run("convert", str(tmp_path / "a.csv"), str(tmp_path / "b.vcf"), "--to", "vcard-4.0").code
        == 0
    )
    lines = (tmp_path / "b.vcf").read_text().split("\n")
    assert {"N;ALTID=1:Quern;Ada;;;", "N:Weir;Bo;;;"} <= set(lines)


@pytest.mark.parametrize(
    ("lines", "way", "args", "home"),
    [
        ('ADR;LABEL="3 Lock Lane":;;;;;;', "t.jcard", (), None),
        ("item1.NOTE:x\nitem1.X-ABLabel:Boat\nTEL:1", "t.vcf", ("--only", "phone"), "TEL:1"),
        (
            'item1.ADR;TYPE=work;LABEL="3 Lock Lane":;;3 Lock Lane;;;;\nitem1.X-ABLabel:cottage',
            "t.csv",
            (),
            None,
        ),
        ("item1.TEL;TYPE=cell:1\nitem1.X-ABLabel:Büro", "t.xlsx", (), None),
        ("ORG:" + "a\\;" * 600, "t.csv", (), None),
        ('ADR;LABEL=" ":;;;;;;', "t.csv", (), ""),
        ("CATEGORIES: Weir, Lock", "t.csv", (), "CATEGORIES:Weir,Lock"),
    ],
)
def test_what_is_beside_a_value_comes_home_with_it(
    run: Run, tmp_path: Path, lines: str, way: str, args: tuple[str, ...], home: str | None
) -> None:
    (tmp_path / "s.vcf").write_text(card(*NAMES, *lines.split("\n"), version="4.0"))
    assert run("convert", "s.vcf", way, *args, "--prove").code == 0
    assert run("convert", way, "h.vcf", "--to", "vcard-4.0", "--prove").code == 0
    (tmp_path / "h.vcf").write_text((tmp_path / "h.vcf").read_text().replace("\n ", ""))
    found = [each for each in inner((tmp_path / "h.vcf").read_text()) if each not in NAMES]
    expected = (lines.replace("item1", "g1") if home is None else home).replace('"', "")
    assert [each for each in found if "DERIVED" not in each] == list(
        filter(None, expected.split("\n"))
    )
