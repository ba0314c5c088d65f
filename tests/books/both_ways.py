"""Books and layouts of every kind of column, taken the quick way and the long way."""

from __future__ import annotations

import csv as library
import io
import random
from collections.abc import Iterator
from typing import NamedTuple
from unittest.mock import patch

from books_in_tests import Kept, col, layout_of
from roundcard.books.outputs import CardOutput, RowOutput
from roundcard.books.pipeline import after_steps
from roundcard.books.shapes import card_blocks
from roundcard.books.shapes.steps import through
from roundcard.books.source_reader import card_contacts, records
from roundcard.card.contact import Contact
from roundcard.clean.rules import chosen
from roundcard.clean.step import Change, Clean, Forms
from roundcard.errors import LayoutError
from roundcard.formats import csv, vcard
from roundcard.formats.vcard.reader import CardReader
from roundcard.layouts.binding import bind
from roundcard.layouts.model import Layout
from roundcard.layouts.row_reader import RowReader
from roundcard.layouts.row_writer import RowWriter
from roundcard.tally import Tally

COLUMNS = [
    col("full", "name/full"), col("given", "name/given"), col("family", "name/family"),
    col("more", "name/additional"), col("dr", "name/prefix"), col("second", "name/family2"),
    col("sound", "name/phonetic-family"), col("nick", "nickname"),
    col("nicks", "nickname", 'many = "/"'),
    col("body", "org"), col("branch", "org/unit"), col("post", "title"),
    col("mail", "email"), col("mail 1", "email/1"), col("mail 2", "email/2"),
    col("mail 1 use", "email/1/use"), col("work mail", "email/work"),
    col("mails", "email", 'many = "|"'), col("first", "email/1/preferred"),
    col("phone", "phone"), col("phones", "phone", 'many = "; "'), col("cell", "phone/cell"),
    col("phone 2", "phone/2"), col("kind", "phone/2/use"), col("fax", "phone/work+fax"),
    col("lock", "phone/~lock cottage"), col("other lock", "phone/~weir"),
    col("ext", "phone/2/extension"),
    col("street", "address/street"), col("line", "address/line1"), col("line 2", "address/line2"),
    col("town", '["address/postcode", "address/locality"]', 'parted = " "'),
    col("place", "address/locality"), col("code", "address/postcode"),
    col("land", "address/country"), col("work town", "address/work/locality"),
    col("envelope", "address/home/full"), col("web", "url"), col("chat", "chat"),
    col("born", "birthday"), col("day", "birthday", 'date = "day.month.year"'),
    col("year", "birthday/year"), col("month", "birthday/month"), col("wed", "anniversary"),
    col("groups", "category", 'many = ", "'), col("group", "category"),
    col("state", "category", 'values = { A = "Active", L = "Lapsed" }'),
    col("note", "note"), col("remark", "note", 'join = " / "'),
    col("remark 2", "note", 'join = " / "'),
    col("boat", "custom/Boat"), col("joined", "custom/Joined", 'date = "month/day/year"'),
    col("berth", "custom/X-BERTH"), col("boats", "custom/Boats", 'many = ","'),
    col("sex", "gender"), col("who", "gender/identity"), col("place on earth", "geo"),
    col("id", "uid"), col("wife", "related/spouse"), col("agent", "related/agent"),
    col("tongue", "language"), col("zone", "timezone"), col("when", "revised"),
    col("picture", "photo"),
    'heading = "owner"\nfixed = "I. H."', 'heading = "empty"\nblank = true',
    'heading = "telex"\nskip = true',
]  # fmt: skip
CELLS = [
    "", "", "", "", " ", "Ada", "Zoë", "山田", "花子", "Weir", "a, b", "c; d", "back\\slash",
    "two\nlines", "three\r\nfine\nlines", "x " * 60, "é" * 40, "I. H.", "01632 960001",
    "+44 7700 900123", "4.47E+11", "\u3000", "tab\there", " lead", "trail ", ",", ";", "- ", "n/a",
    "work", "home+fax", "~boathouse", "cell", "yes", "1980-04-12", "12.4.1980", "4/12/1980",
    "31.31.1999", "1980", "04", "A", "L", "Q", "tel:+441632960001;ext=4", "https://x.test/a",
    "www.x.test", "geo:51.3,-2.3", "51.3, -2.3", "urn:uuid:1", "F", "M", "lady", "=1+1", "'=1+1",
    "+1", "data:image/png;base64,iVBORw0=", "a@x.test", "b@x.test|c@x.test", "1; 2; 3", "%s 100%",
    'say "so"', "20010203T040506Z", "2001-02-03T04:05:06Z", "\u200b", "a\u00adb", "Bath QX1 1AB",
    "QX1 1AB Bath", "Skippers, Cooks", "Total", "en", "+01:00",
]  # fmt: skip
NAMES = ["Ada", "Zoë", "Owen", "山田", "Weir", "O'Culvert", "van der Sluis", ""]
LINES = [
    "FN:{0} {1}", "FN:{0}", "FN;DERIVED=true:{0} {1}", "N:{1};{0};;;", "N:{1};{0};;Dr;", "N:;;;;",
    "N:{1},{0};{0};;;", "EMAIL:{2}", "EMAIL;TYPE=work:{2}", "EMAIL;PREF=1:{2}", "TEL:{2}",
    "TEL;TYPE=cell:{2}", "TEL;TYPE=cell,text:{2}", "TEL;TYPE=work,fax:{2}", "tel;type=HOME:{2}",
    "TEL;VALUE=uri:tel:+44-1632;ext=5", "TEL:tel:+441632", "item1.TEL:{2}", "item1.X-ABLABEL:{0}",
    "item2.EMAIL:{2}", "item2.X-ABLABEL:lock", "ORG:{2};{1}", "ORG:", "ORG:a,b;c", "ADR:;;;;;;",
    "ADR;TYPE=home:;;{2};{1};;QX1;", "ADR;TYPE=work:;;1 Lane\\, Flat 2;{1};;;GB",
    "ADR:;;a,b;;;;", 'ADR;LABEL="x\\ny":;;{2};;;;', "LABEL:1 Lane\\nBath", "NOTE:{2}",
    "NOTE:a\\nb\\, c\\; d", "NOTE:a, b", "NOTE:{2}{2}{2}{2}{2}{2}{2}{2}{2}{2}", "NOTE:", "EMAIL: ",
    "CATEGORIES:A,B", "CATEGORIES:A\\,B", "CATEGORIES:", "CATEGORIES:{0}", "NICKNAME:{0},{1}",
    "BDAY:1980-04-12", "BDAY:19800412", "BDAY:--0412", "BDAY;VALUE=text:in spring", "BDAY:",
    "ANNIVERSARY:20010203", "URL:https://x.test/{2}", "URL:www.x.test", "GENDER:F;lady",
    "UID:urn:uuid:{2}", "UID:{2}", "REV:20010203T040506Z", "X-ROUNDCARD-CUSTOM:Boat;{2}",
    "X-ROUNDCARD-CUSTOM:Boat;", "X-ROUNDCARD-CUSTOM:{2}", "X-ROUNDCARD-CUSTOM:a\\;b;c\\,d",
    "X-BERTH:{2}", "X-OTHER;TYPE=home:{2};{1}", "PHOTO:data:image/png;base64,iVBORw0=",
    "PHOTO;ENCODING=b;TYPE=PNG:iVBORw0=", "GEO:geo:51.3,-2.3", "GEO:51.3;-2.3", "TZ:+01:00",
    "TITLE;LANGUAGE=en:{2}", "TITLE;ALTID=1:{2}", "TITLE;ALTID=1;LANGUAGE=de:{0}", "PRODID:x",
    "RELATED;TYPE=spouse:urn:uuid:{2}", "RELATED;TYPE=agent:urn:uuid:{2}", "garbage", "",
    "AGENT:urn:uuid:{2}", "NOTE;ENCODING=QUOTED-PRINTABLE:a=20b", "KIND:individual", "MEMBER:{2}",
    "N;ALTID=1;PHONETIC=script:{1};{0};;;", "NOTE:half\ufffd", "X-CLASH:a", "x-clash:b",
]  # fmt: skip
VALUES = ["1", "a@x.test", "01632 960001", "x y", "ünïcode", "back\\\\slash", "tail\\", "100%",
          "山田", "a\u00a0b", "b\u00adc", "c:d", "é" * 40]  # fmt: skip


Book = bytes | tuple[Layout, tuple[list[str], bytes]]
"""Cards; or a layout, the headings of a table, and its rows."""


class Outcome(NamedTuple):
    """What came of a book."""

    octets: bytes
    people: str
    values: str
    why: object
    findings: object
    shapes: object
    left: object
    aside: object
    changes: object


def some_layout(chance: random.Random, *, target: bool = False) -> Layout:
    """A layout of some columns that do not clash."""
    while True:
        chosen = chance.sample(COLUMNS, chance.randint(1, 12))
        encoding = chance.choice(["utf-8", "utf-8", "windows-1252"]) if target else "utf-8"
        guard = chance.choice(["true", "false", "false"])
        unlisted = chance.choice(["skip", "custom"])
        empty = chance.choice(["", "", 'empty = ["n/a", "-"]'])
        every = chance.choice(["", "", '[[every]]\nholds = "category"\nvalue = "Club"',
                               '[[every]]\nholds = "address/country"\nvalue = "GB"',
                               '[[every]]\nholds = "email"\nvalue = "c@x.test"'])  # fmt: skip
        try:
            table = f'encoding = "{encoding}"\nunlisted = "{unlisted}"\nformula_guard = {guard}'
            return layout_of(*chosen, every=every, table=f"{table}\n{empty}")
        except LayoutError:
            continue


def some_table(chance: random.Random, layout: Layout) -> tuple[list[str], bytes]:
    """Headings, and the rows behind them; mostly rows of few kinds."""
    headings = [column.heading for column in layout.columns]
    headings += chance.sample(["extra", "more of it"], chance.randint(0, 2))
    pools = [chance.sample(CELLS, chance.randint(1, 6)) for _ in headings]
    rows = [[chance.choice(pool) for pool in pools] for _ in range(chance.randint(1, 40))]
    for row in rows:
        if chance.random() < 0.05:
            row[chance.randrange(len(row))] = chance.choice(CELLS)
        if chance.random() < 0.03:
            row += ["over", "the edge"]
        if chance.random() < 0.03:
            del row[chance.randrange(len(row)) :]
    text = io.StringIO(newline="")
    library.writer(text).writerows(rows)
    octets = text.getvalue().encode()
    if chance.random() < 0.05:
        octets = octets.replace("é".encode(), b"\xe9")
    if chance.random() < 0.05:
        at = chance.randrange(len(octets) + 1)
        octets = octets[:at] + b'"' + octets[at:]
    return headings, octets


def some_cards(chance: random.Random) -> bytes:
    """Cards, mostly of few kinds."""
    version = chance.choice(["2.1", "3.0", "4.0", "4.0"])
    kinds = [["FN:{0} {1}", "N:{1};{0};;;", *chance.sample(LINES, chance.randint(0, 9))]
             for _ in range(chance.randint(1, 4))]  # fmt: skip
    end = chance.choice(["\r\n", "\r\n", "\n"])
    out = []
    for _ in range(chance.randint(1, 30)):
        lines = chance.choice(kinds)
        if chance.random() < 0.05:
            lines = [*lines, chance.choice(LINES)]
        if chance.random() < 0.05:
            lines = chance.sample(LINES, chance.randint(0, 9))
        texts = [chance.choice(NAMES), chance.choice(NAMES), chance.choice(VALUES)]
        body = [line.format(*texts) for line in lines]
        said = chance.choice(["4.0", "3.0", ""]) if chance.random() < 0.03 else version
        if chance.random() < 0.3:
            body = [line[:30] + end + " " + line[30:] if len(line) > 40 else line for line in body]
        out += ["BEGIN:VCARD", *[f"VERSION:{said}"] * bool(said), *body, "END:VCARD"]
        if chance.random() < 0.02:
            out.append(chance.choice(["", "outside of any card", "END:VCARD", "BEGIN:VCARD"]))
    octets = (end.join(out) + end).encode()
    if chance.random() < 0.03:
        octets = octets.replace("ü".encode(), b"\xfc")
    return octets


class _Memory:
    def __init__(self) -> None:
        self.octets = bytearray()

    def write(self, octets: bytes) -> None:
        self.octets += octets


def taken(
    read: Book, target: str | Layout, *, quick: bool, clean: bool = False
) -> tuple[Outcome, list[int]]:
    """What comes of a book; and how many of its records went the quick way, of how many.

    `read` is a pair of a layout and a table, or cards; `target` the version of cards, or a layout.
    """
    sink, memory = Kept(), _Memory()
    tally = Tally(sink)
    changes: list[Change] = []
    steps = [Clean(chosen((), ()), Forms(region="GB"), tell=changes.append)] if clean else []
    output: CardOutput | RowOutput
    if isinstance(target, str):
        output = CardOutput(vcard.VCardWriter(target, tally), memory)
    else:
        output = RowOutput(RowWriter(target, tally), memory)
    into = through(output.shapes(), steps) if quick else None
    long = [0]

    def contacts() -> Iterator[Contact]:
        if isinstance(read, bytes):
            if into is None:
                return vcard.read([read], source=0, tally=tally)
            blocks = card_blocks.CardBlocks(CardReader(0, tally), labels=into.labels)
            chunks = [read[at : at + 90] for at in range(0, len(read), 90)]
            return card_contacts(chunks, blocks, tally, lambda _: None, into)
        layout, (headings, octets) = read
        reader = RowReader(layout, bind(layout, headings, len(headings)), 0, tally)
        rows = csv.read(io.BytesIO(octets), csv.Dialect())
        return records(reader, rows, tally, lambda _: None, into=into)

    small = patch.multiple(csv, _AT_ONCE=200, _MOST_LINES=12, _FEW=2, _MOST_ROWS=5)
    with small, patch.object(card_blocks, "_PIECE", 900):
        for contact in after_steps(contacts(), steps, tally):
            long[0] += 1
            output.add(contact)
        output.end()
    found = {what: (each.count, each.examples) for what, each in tally.findings.items()}
    outcome = Outcome(bytes(memory.octets), repr(tally.people), repr(tally.values),
                      (+tally.why, +tally.why_people), found, +tally.shapes, sink.left,
                      sink.aside, changes)  # fmt: skip
    return outcome, [tally.people.read - long[0], tally.people.read]


def books(seed: int) -> Iterator[tuple[str, Book, str | Layout]]:
    """A book of each kind, and what to make of it, without an end."""
    chance = random.Random(seed)
    while True:
        layout = some_layout(chance)
        table = layout, some_table(chance, layout)
        cards = some_cards(chance)
        versions = ["2.1", "3.0", "4.0"]
        yield "table to cards", table, chance.choice(versions)
        yield "cards to table", cards, some_layout(chance, target=True)
        yield "cards to cards", cards, chance.choice(versions)
        yield "table to table", table, chance.choice([layout, some_layout(chance, target=True)])
