"""Bytes in, properties out: what cards hold in the wild and what we make of them."""

from __future__ import annotations

import pytest

from books_in_tests import Kept, card, inner, read_cards, write_cards
from roundcard.card.head import Value
from roundcard.card.origin import unpack
from roundcard.formats import vcard
from roundcard.formats.vcard.lines import fold
from roundcard.tally import Balance, Tally

# version, line, name, value, uses
READ: list[tuple[str, str, str, Value, set[str]]] = [
    ("3.0", "NOTE:a\\, b\\; c\\nd\\Ne\\\\f", "note", "a, b; c\nd\ne\\f", set()),
    ("3.0", "NOTE:bare, commas; and marks", "note", "bare, commas; and marks", set()),
    ("3.0", "NOTE:http\\://a.test", "note", "http://a.test", set()),
    ("3.0", "NOTE:back\\slash", "note", "back\\slash", set()),
    (
        "3.0",
        "N:Weir;Ada;Maud,Ann;Dr.;OBE",
        "n",
        ("Weir", "Ada", ("Maud", "Ann"), "Dr.", "OBE"),
        set(),
    ),
    ("3.0", "N:We\\;ir;A\\,da;;;", "n", ("We;ir", "A,da", "", "", ""), set()),
    ("3.0", "N:Back\\\\;slash;;;", "n", ("Back\\", "slash", "", "", ""), set()),
    ("3.0", "ORG:Boats, Locks & Co;Stores", "org", ("Boats, Locks & Co", "Stores"), set()),
    ("3.0", "CATEGORIES:a,b\\,c,d", "categories", ("a", "b,c", "d"), set()),
    ("3.0", "TEL;TYPE=HOME,voice:1", "tel", "1", {"home"}),
    ("3.0", "TEL;TYPE=home;TYPE=Fax:1", "tel", "1", {"home", "fax"}),
    ("3.0", 'tel;type="home,cell":1', "tel", "1", {"home", "cell"}),
    ("3.0", "TEL;CELL:1", "tel", "1", {"cell"}),
    (
        "4.0",
        "TEL;VALUE=uri;TYPE=work:tel:+44-1632-960001;ext=12",
        "tel",
        "+44-1632-960001 ext. 12",
        {"work"},
    ),
    ("3.0", "EMAIL;TYPE=internet,pref:a@example.org", "email", "a@example.org", set()),
    (
        "3.0",
        "ADR;TYPE=home:;;1 A\\, B;Withy;;QX1;",
        "adr",
        ("", "", "1 A, B", "Withy", "", "QX1", ""),
        {"home"},
    ),
    (
        "4.0",
        "ADR:;;1 A,Flat 2;Withy;;;",
        "adr",
        ("", "", ("1 A", "Flat 2"), "Withy", "", "", ""),
        set(),
    ),
    ("4.0", 'ADR;LABEL="1 A^nWithy, QX1":;;;;;;', "label", "1 A\nWithy, QX1", set()),
    ("3.0", "BDAY:1980-04-12", "bday", "1980-04-12", set()),
    ("4.0", "BDAY:19800412", "bday", "1980-04-12", set()),
    ("4.0", "BDAY:--0412", "bday", "--04-12", set()),
    ("4.0", "BDAY;VALUE=text:spring 1980", "bday", "spring 1980", set()),
    ("3.0", "GEO:51.5;-0.1", "geo", "geo:51.5,-0.1", set()),
    ("4.0", "GEO:geo:51.5,-0.1", "geo", "geo:51.5,-0.1", set()),
    ("3.0", "URL:http\\://a.test/x\\,y", "url", "http://a.test/x,y", set()),
    (
        "3.0",
        "PHOTO;ENCODING=b;TYPE=JPEG:/9j/4AA=",
        "photo",
        "data:image/jpeg;base64,/9j/4AA=",
        set(),
    ),
    ("3.0", "PHOTO;ENCODING=B:iVBORw0=", "photo", "data:image/png;base64,iVBORw0=", set()),
    ("3.0", "PHOTO;VALUE=uri:http://a.test/p.png", "photo", "http://a.test/p.png", set()),
    ("3.0", "X-ODD;FOO=bar:a;b\\,c", "x-odd", "a;b\\,c", set()),
    ("3.0", "item1.X-ODD:a", "x-odd", "a", set()),
    (
        "2.1",
        "N;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:Bront=C3=AB;Zo=C3=AB;;;",
        "n",
        ("Brontë", "Zoë", "", "", ""),
        set(),
    ),
    (
        "2.1",
        "NOTE;CHARSET=ISO-8859-1;QUOTED-PRINTABLE:caf=E9=0D=0Anoir",
        "note",
        "café\nnoir",
        set(),
    ),
    ("2.1", "NOTE;ENCODING=QUOTED-PRINTABLE:soft =\nbreak", "note", "soft break", set()),
    (
        "2.1",
        "PHOTO;ENCODING=BASE64;TYPE=PNG:iVBO\n Rw0=\n",
        "photo",
        "data:image/png;base64,iVBORw0=",
        set(),
    ),
    ("2.1", "TEL;HOME;FAX:1", "tel", "1", {"home", "fax"}),
    ("3.0", "NOTE:fold\n ed he\n re", "note", "folded here", set()),
    ("3.0", "NOTE:fold\n\ted", "note", "folded", set()),
    (
        "2.1",
        "AGENT:\nBEGIN:VCARD\nVERSION:2.1\nN:Inner;A,b\nTEL:9\nEND:VCARD\nNOTE:after",
        "agent",
        "BEGIN:VCARD\\nVERSION:2.1\\nN:Inner\\;A\\,b\\nTEL:9\\nEND:VCARD",
        set(),
    ),
]


@pytest.mark.parametrize(("version", "line", "name", "value", "uses"), READ)
def test_a_line_is_read(version: str, line: str, name: str, value: Value, uses: set[str]) -> None:
    (contact,) = read_cards(card(line, version=version))
    prop = contact.first(name)
    assert prop is not None
    assert prop.value == value
    assert prop.head.uses == uses


# from version, lines, to version, the lines that come out (FN and N left off)
WRITTEN = [
    ("3.0", "TEL;TYPE=HOME,PREF:1", "4.0", ["TEL;TYPE=home;PREF=1:1"]),
    ("4.0", "TEL;PREF=1;TYPE=home:1", "3.0", ["TEL;TYPE=home,pref:1"]),
    ("4.0", "TEL;PREF=3:1", "3.0", ["TEL;X-ROUNDCARD-PREF=3:1"]),
    ("3.0", "PHOTO;ENCODING=b;TYPE=PNG:iVBORw0=", "4.0", ["PHOTO:data:image/png;base64,iVBORw0="]),
    ("4.0", "PHOTO:data:image/png;base64,iVBORw0=", "3.0", ["PHOTO;ENCODING=b;TYPE=PNG:iVBORw0="]),
    ("4.0", "PHOTO:http://a.test/p", "3.0", ["PHOTO;VALUE=uri:http://a.test/p"]),
    ("3.0", "BDAY:1980-04-12", "4.0", ["BDAY:19800412"]),
    ("4.0", "BDAY:19800412", "3.0", ["BDAY:1980-04-12"]),
    ("4.0", "BDAY:--0412", "3.0", ["BDAY;X-ROUNDCARD-OMIT-YEAR=1604:1604-04-12"]),
    ("4.0", "BDAY;VALUE=text:spring", "4.0", ["BDAY;VALUE=text:spring"]),
    ("4.0", "GENDER:F;lady", "3.0", ["X-ROUNDCARD-GENDER:F;lady"]),
    ("3.0", "GEO:51.5;-0.1", "4.0", ["GEO:geo:51.5,-0.1"]),
    ("4.0", "GEO:geo:51.5,-0.1", "3.0", ["GEO:51.5;-0.1"]),
    ("3.0", "LABEL;TYPE=home:1 A\\nWithy", "4.0", ["ADR;TYPE=home;LABEL=1 A^nWithy:;;;;;;"]),
    ("4.0", "ADR;LABEL=1 A:;;;;;;", "3.0", ["LABEL:1 A"]),
    ("3.0", "UID:abc", "4.0", ["UID;VALUE=text:abc"]),
    ("3.0", "TZ:-05:00", "4.0", ["TZ;VALUE=utc-offset:-0500"]),
    ("3.0", "NOTE:bare, comma", "3.0", ["NOTE:bare\\, comma"]),
    ("3.0", "NOTE:line\\Nbreak", "3.0", ["NOTE:line\\nbreak"]),
    ("3.0", "x-Odd;foo=Bar:a;b\\,c", "4.0", ["x-Odd;FOO=Bar:a;b\\,c"]),
    ("3.0", "x-Odd;foo=Bar:a;b\\,c", "3.0", ["x-Odd;foo=Bar:a;b\\,c"]),
    ("4.0", "FROB;ODD=1:x", "3.0", ["FROB;ODD=1:x"]),
    ("3.0", "AGENT:BEGIN:VCARD\\nEND:VCARD", "4.0", ["X-ROUNDCARD-AGENT:BEGIN:VCARD\\nEND:VCARD"]),
    ("4.0", 'NOTE;X-A="b;c^n^^d^\'e":x', "4.0", ['NOTE;X-A="b;c^n^^d^\'e":x']),
    (
        "3.0",
        "BDAY:1980-04-12\nBDAY:1981-01-01",
        "4.0",
        ["BDAY:19800412", "X-ROUNDCARD-BDAY:1981-01-01"],
    ),
    ("3.0", "TEL;TYPE=home,pref:1", "2.1", ["TEL;HOME;PREF:1"]),
    ("4.0", "TITLE:M=c\\, \\; x", "2.1", ["TITLE:M=c, ; x"]),
    (
        "4.0",
        "NOTE:caf\u00e9\\nx",
        "2.1",
        ["NOTE;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:caf=C3=A9=0D=0Ax"],
    ),
    ("4.0", "ADR;TYPE=home:;;1 A\\; B;W;;;", "2.1", ["ADR;HOME:;;1 A\\; B;W;;;"]),
    ("4.0", "GEO:geo:51.5,-0.1", "2.1", ["GEO:-0.1,51.5"]),
    ("4.0", "BDAY:19800412", "2.1", ["BDAY:1980-04-12"]),
    ("4.0", "BDAY:--0412", "2.1", ["X-ROUNDCARD-BDAY:--04-12"]),
    ("4.0", "NICKNAME:a,b\\,c", "2.1", ["X-ROUNDCARD-NICKNAME:a,b\\,c"]),
    ("4.0", "PHOTO:http://a.test/p", "2.1", ["PHOTO;VALUE=URL:http://a.test/p"]),
    (
        "4.0",
        "TEL;VALUE=uri;TYPE=work:tel:+44-1632-960001;ext=12",
        "4.0",
        ["TEL;TYPE=work;VALUE=uri:tel:+44-1632-960001;ext=12"],
    ),
    (
        "4.0",
        "TEL;VALUE=uri;TYPE=work:tel:+44-1632-960001;ext=12",
        "3.0",
        ["TEL;TYPE=work;X-ROUNDCARD-VALUE=uri:+44-1632-960001 ext. 12"],
    ),
    ("2.1", "TEL;HOME;PREF:1", "3.0", ["TEL;TYPE=home,pref:1"]),
    ("2.1", "NOTE;ENCODING=QUOTED-PRINTABLE:a=2C b", "4.0", ["NOTE:a\\, b"]),
]


@pytest.mark.parametrize(("source", "lines", "target", "written"), WRITTEN)
def test_a_version_becomes_another(
    source: str, lines: str, target: str, written: list[str]
) -> None:
    tally = Tally()
    contacts = read_cards(card("FN:A", "N:A;;;;", lines, version=source), tally)
    out = write_cards(contacts, target, tally)
    assert [line for line in inner(out) if line[:3] not in ("FN:", "N:A")] == written
    assert Balance.of(tally).even
    # and home again: nothing is lost
    again = read_cards(out)
    assert [p.value for p in again[0].properties] == [p.value for p in contacts[0].properties]


@pytest.mark.parametrize("way", ["2.1", "3.0"])
@pytest.mark.parametrize(
    "line",
    [
        "ADR;LABEL=\"1 A^nW; ^'x^'^^\":;;1 A;W;;;",
        "NOTE;ALTID=1;LANGUAGE=cy;PREF=7:x",
        'ORG;SORT-AS="trust, the":The Trust',
        "TEL;TYPE=text,cell;PID=1.1:1",
    ],
)
def test_parameters_come_home(line: str, way: str) -> None:
    first = card("FN:A", "N:A;;;;", line, version="4.0")
    there = write_cards(read_cards(first), way)
    home = write_cards(read_cards(there), "4.0")
    assert read_cards(home)[0].properties[2].head.params == (
        read_cards(first)[0].properties[2].head.params
    )


def test_names_that_a_version_demands_are_made_and_marked() -> None:
    for version, mark in (("4.0", "FN;DERIVED=true:"), ("3.0", "FN;X-ROUNDCARD-DERIVED=true:")):
        tally = Tally()
        out = write_cards(read_cards(card("EMAIL:a@example.org"), tally), version, tally)
        assert mark + "a@example.org" in out
        assert ("N:;;;;" in out) is (version == "3.0")
        assert (tally.values.read, tally.values.derived, tally.values.written) == (1, 1, 2)
        # read again it is nothing that a person would miss
        second = Tally()
        read_cards(out, second)
        assert second.values.read == 1


def test_values_in_two_scripts_are_counted_and_stay_together() -> None:
    tally = Tally()
    text = card(
        "FN:A",
        "N;ALTID=1;LANGUAGE=ja:水門;太郎;;;",
        "N;ALTID=1;LANGUAGE=en:Suimon;Taro;;;",
        "N;ALTID=1;PHONETIC=script;SCRIPT=Kana:すいもん;たろう;;;",
        version="4.0",
    )
    contacts = read_cards(text, tally)
    assert tally.values.read == 1 + 2 + 2 + 2  # and how a name sounds is a value of its own
    assert write_cards(contacts, "4.0", tally) == text
    home = write_cards(read_cards(write_cards(contacts, "3.0")), "4.0")
    assert home == text


def test_labels_ride_on_the_value_of_their_group() -> None:
    tally = Tally()
    text = card("FN:A", "N:A;;;;", "item1.TEL:1", "item1.X-ABLabel:lock", "item2.X-ABLabel:alone")
    contacts = read_cards(text, tally)
    assert tally.values.read == 4  # the label that labels nothing counts for itself
    assert write_cards(contacts, "3.0", tally) == text
    assert Balance.of(tally).even


FILES = [
    ("two cards", card("FN:A") + card("FN:B"), 2, 0),
    ("text around cards", "hello\n" + card("FN:A") + "\nbye\n", 1, 2),
    ("blank lines and a byte order mark", "\ufeff\n\n" + card("FN:A", "", " ") + "\n \n", 1, 0),
    ("lower case", card("fn:A").replace("VCARD", "vcard").replace("BEGIN", "begin"), 1, 0),
    ("no END at the end", card("FN:A") + card("FN:B").replace("END:VCARD\n", ""), 2, 0),
    ("no END in the middle", card("FN:A").replace("END:VCARD\n", "") + card("FN:B"), 2, 0),
    ("no VERSION", "BEGIN:VCARD\nFN:A\nEND:VCARD\n", 1, 0),
    ("a line that is nothing", card("FN:A", "garbage here", "NOTE:x"), 1, 1),
    ("a name that is none", card("FN:A", "NO TE:x"), 1, 1),
    ("a card in a card", card("FN:A", "AGENT:", *card("FN:B").splitlines(), version="2.1"), 1, 0),
    ("white space before BEGIN", "  BEGIN:VCARD\nVERSION:3.0\nFN:A\nEND:VCARD\n", 1, 0),
    ("a blank card", card("FN:A") + card("N:;;;;"), 1, 0),
]


@pytest.mark.parametrize(
    ("text", "people", "aside"), [case[1:] for case in FILES], ids=[case[0] for case in FILES]
)
@pytest.mark.parametrize("end", [b"\n", b"\r\n"])
@pytest.mark.parametrize("chunk", [1, 7, 1 << 16])
def test_files_as_they_come(text: str, people: int, aside: int, end: bytes, chunk: int) -> None:

    octets = text.encode().replace(b"\n", end)
    chunks = [octets[at : at + chunk] for at in range(0, len(octets), chunk)]
    sink = Kept()
    contacts = list(vcard.read(chunks, source=0, tally=Tally(sink)))
    assert len(contacts) == people
    assert contacts[0].first("fn").text == "A"  # type: ignore[union-attr]
    assert len(sink.aside) == aside


def test_bytes_that_are_no_text_cost_their_card_only() -> None:
    sink = Kept()
    tally = Tally(sink)
    octets = (card("FN:A") + card("FN:B", "NOTE:x")).encode().replace(b"FN:A", b"FN:\x81")
    assert len(read_cards(octets, tally)) == 1
    assert (tally.people.read, tally.people.set_aside, tally.values.set_aside) == (2, 1, 1)
    assert sink.aside[0].reason == "line 3 holds bytes that are text in no character set"
    assert "FN:\\x81" in sink.aside[0].text


@pytest.mark.parametrize(
    ("line", "text", "changed"),
    [
        (b"NOTE:caf\xe9", "café", 1),
        (b"NOTE;CHARSET=ISO-8859-2:\xb3\xf3d\xbc", "łódź", 0),
        (b"NOTE;CHARSET=Shift_JIS:\x90\x85\x96\xe5", "水門", 0),
        (b"NOTE;CHARSET=nonsense:caf\xe9", "café", 1),
        (b"NOTE:fol\r\n ded caf\xe9", "folded café", 1),
    ],
)
def test_bytes_that_are_not_utf_8_are_read_and_told(line: bytes, text: str, changed: int) -> None:
    tally = Tally()
    octets = card("FN:Zoë", "NOTE:x", version="2.1").encode().replace(b"NOTE:x", line)
    contacts = read_cards(octets, tally)
    assert contacts[0].first("note").text == text  # type: ignore[union-attr]
    write_cards(contacts, "4.0", tally)
    assert tally.values.changed == changed
    assert Balance.of(tally).even


def test_a_fold_inside_a_character_is_undone() -> None:
    octets = card("NOTE:caf\u00e9").encode().replace(b"\xc3\xa9", b"\xc3\n \xa9")
    (contact,) = read_cards(octets)
    assert contact.first("note").text == "café"  # type: ignore[union-attr]


@pytest.mark.parametrize(
    "text", ["x" * 75, "x" * 76, "é" * 60, "水" * 80, "x" * 74 + "é", "😀" * 40]
)
def test_lines_fold_at_75_octets_and_unfold(text: str) -> None:
    folded = fold(text)
    assert all(len(line.encode()) <= 75 for line in folded.split("\r\n"))
    assert folded.replace("\r\n ", "") == text


def test_where_a_value_came_from_is_known() -> None:

    first, second = read_cards(card("FN:A", "NOTE:long\n er") + card("FN:B", "TITLE:x"))
    assert unpack(first.first("note").origin_of(0)) == (0, 1, 4)  # type: ignore[union-attr]
    assert unpack(second.first("title").origin_of(0)) == (0, 2, 10)  # type: ignore[union-attr]
