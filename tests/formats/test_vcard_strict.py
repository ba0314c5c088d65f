# ruff: noqa: E501  # many cases stand beside one another
"""What we write passes a validator that knows only the standards."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from books_in_tests import card, read_cards, write_cards
from roundcard.card.contact import Contact
from strategies import contacts
from strict import wrong


@given(
    st.lists(contacts, max_size=3),
    st.sampled_from(["2.1", "3.0", "4.0"]),
    st.sampled_from(["3.0", "4.0"]),
)
def test_any_book_is_written_strictly(book: list[Contact], version: str, source: str) -> None:
    read = read_cards(write_cards(book, source))
    assert wrong(write_cards(read, version).replace("\n", "\r\n"), version) == []


ODD = (
    r"""
REV:2024-01-01T10:00:00Z|REV:20240101T100000Z|REV:1 Jan|REV:2024-01-01|UID:abc|UID:urn:uuid:1-2
URL:www.example.org|URL:a, b;x|URL:https://x.test/a,b|TEL;PREF=0:1|TEL;PREF=200:2|TEL;PREF=x:2
TEL;TYPE="a,b";X-FOO="q:u":2|TEL;VALUE=uri:tel:7042;phone-context=x.test
NOTE;LANGUAGE=en:hi|IMPP:xmpp:a@x|IMPP:a b|LANG:en|TZ:-05:00|TZ:Europe/Berlin|GEO:1.5;2.5|GEO:geo:1,2|GEO:here|RELATED:someone|LANGUAGE:de
RELATED;TYPE=spouse:urn:uuid:x|KIND:group|MEMBER:urn:x|MEMBER:bob|AGENT:http://x.test|AGENT:a\,b
LABEL:1 Lane\nBath|LABEL;TYPE=home:x|SORT-STRING:x|CLASS:PUBLIC|MAILER:m,n|KEY:none|NAME:x
PROFILE:VCARD|PHOTO:http://x.test/y.jpg|PHOTO;ENCODING=b;TYPE=JPEG:AAAA|PHOTO;ENCODING=b:not base64!
PHOTO:|X-FOO;X-BAR=1:a,b;c\d|X-A;BARE:b|FOO:unknown|item1.EMAIL:a@x|item1.X-ABLabel:_$!<Home>!$_|ORG:a,b;c
BDAY:in spring|BDAY;VALUE=text:x|BDAY:1980-04-12T10:00:00Z|BDAY:12.4.1980|BDAY:19800412|BDAY:--0412
ANNIVERSARY:20000101|DEATHDATE:--0101|GENDER:M|GENDER:x;y|CATEGORIES:a,b|NICKNAME:a,b|PRODID:-//x,y
SOURCE:x|XML:<a/>|CLIENTPIDMAP:1;urn:x|CREATED:2024-01-01|CREATED:20240101T000000Z|NOTE:tab\there
TITLE:a\x07b|NOTE;CHARSET=UTF-8:x|EMAIL;TYPE=INTERNET,pref:a@x, b@x|N:;;;;|N:a;b;c;d;e;f;g|N:a
FN:b, c|ADR:;;s|ADR;LABEL="a^nb":;;s;l;r;p;c|ADR;LABEL=x:;;;;;;|ADR:a\;b;c,d;e\,f;g;h;i;j
NOTE:c:\\temp\x|EXPERTISE;LEVEL=beginner:x, y|BIRTHPLACE:here, there
N;ALTID=1;LANGUAGE=jp:x;y;;;|N;ALTID=1:a;b;;;
N;SORT-AS="A,B":A;B;;;|SOUND:x|LOGO;MEDIATYPE=image/png:data:image/png;base64,AAAA|TEL;X^Y=1:3|ORG:x\;y
NOTE;FOO="bar":x|NOTE;X-Q="it^'s":y|SOCIALPROFILE:@a|GRAMGENDER:feminine|PRONOUNS:they, them
""".replace("\n", "|")
    .replace("\\t", "\t")
    .replace("\\x07", "\x07")
    .strip("|")
    .split("|")
)


@given(
    st.lists(st.sampled_from(ODD), max_size=7),
    st.sampled_from(["2.1", "3.0", "4.0"]),
    st.sampled_from(["2.1", "3.0", "4.0"]),
)
def test_odd_cards_are_written_strictly(lines: list[str], source: str, version: str) -> None:
    read = read_cards(card(*lines, version=source))
    assert wrong(write_cards(read, version).replace("\n", "\r\n"), version) == []


@given(
    st.lists(st.sampled_from(ODD), max_size=5),
    st.sampled_from(["2.1", "3.0", "4.0"]),
    st.sampled_from(["2.1", "3.0"]),
)
def test_odd_cards_come_home_whole(lines: list[str], source: str, way: str) -> None:
    start = write_cards(read_cards(card(*lines, version=source)), "4.0")
    there = write_cards(read_cards(start), way)
    back = write_cards(read_cards(there), "4.0")
    assert sorted(back.replace("N:;;;;\n", "").split("\n")) == sorted(
        start.replace("N:;;;;\n", "").split("\n")
    )


@pytest.mark.parametrize(
    "text",
    [
        "BEGIN:VCARD\nVERSION:4.0\nFN:a,b\nEND:VCARD\n",
        "BEGIN:VCARD\nVERSION:4.0\nEND:VCARD\n",
        "BEGIN:VCARD\nFN:a\nVERSION:4.0\nEND:VCARD\n",
        "BEGIN:VCARD\nVERSION:4.0\nFN:a\nBDAY:1980-04-12\nEND:VCARD\n",
        "BEGIN:VCARD\nVERSION:4.0\nFN:a\nTEL;HOME:1\nEND:VCARD\n",
        "BEGIN:VCARD\nVERSION:4.0\nFN:a\nN:a;b\nEND:VCARD\n",
        "BEGIN:VCARD\nVERSION:4.0\nFN:" + "a" * 90 + "\nEND:VCARD\n",
        "BEGIN:VCARD\nVERSION:4.0\nFN:a\nUID:1\nUID:2\nEND:VCARD\n",
        "BEGIN:VCARD\nVERSION:4.0\nFN:a\nMAILER:x\n",
    ],
)
def test_the_validator_finds_what_is_wrong(text: str) -> None:
    assert wrong(text.replace("\n", "\r\n"), "4.0")
