"""Each repair is told and counted; what a version says in other words is said twice."""

from __future__ import annotations

from pathlib import Path

import pytest

from books_in_tests import card, inner, read_cards, write_cards
from conftest import Run
from roundcard.cli.render.reasons import sentence
from roundcard.tally import Balance, Fate, Tally

REPAIRS = [
    (b"NOTE;ENCODING=QUOTED-PRINTABLE:caf=E9", "caf\u00e9", "not utf-8 read as windows-1252"),
    (b"NOTE;CHARSET=ISO-8859-2;ENCODING=QUOTED-PRINTABLE:=A3=F3d=BC", "\u0141\u00f3d\u017a", ""),
    (
        b"NOTE;CHARSET=NONE;QUOTED-PRINTABLE:caf=C3=A9",
        "caf\u00e9",
        "'NONE' is unknown; read as utf-8",
    ),
    (b"NOTE;CHARSET=SHIFT_JIS;QUOTED-PRINTABLE:=82=A0", "\u3042", ""),
    (b"NOTE;CHARSET=UTF-8;QUOTED-PRINTABLE:=81", "\x81", "not UTF-8 read as windows-1252"),
    (b"NOTE:caf\xe9", "caf\u00e9", "not utf-8 read as windows-1252"),
    (b"NOTE:half \xed\xa0\x80", "half \ufffd", "half a character (a lone surrogate) replaced"),
    (b"NOTE;CHARSET=a\0b:caf\xe9", "caf\u00e9", "read as windows-1252"),
]


@pytest.mark.parametrize(("line", "text", "repair"), REPAIRS, ids=range(len(REPAIRS)))
def test_a_repair_is_a_counted_change(line: bytes, text: str, repair: str) -> None:
    tally = Tally()
    octets = b"BEGIN:VCARD\r\nVERSION:2.1\r\nN:A\r\n" + line + b"\r\nEND:VCARD\r\n"
    (contact,) = read_cards(octets, tally)
    note = contact.first("note")
    assert note is not None
    assert note.text == text
    write_cards([contact], "4.0", tally)
    told = [sentence(why) for why in tally.why if why.fate is Fate.CHANGED]
    assert len(told) == bool(repair)
    assert all(repair in why for why in told)
    assert tally.values.changed == bool(repair)
    assert Balance.of(tally).even


def test_half_a_character_of_utf16_is_told(run: Run, tmp_path: Path) -> None:
    text = card("FN:Ada", "NOTE:half \ud800 a character", version="4.0").replace("\n", "\r\n")
    octets = b"\xff\xfe" + text.encode("utf-16-le", "surrogatepass") + b"\x41"
    (tmp_path / "wide.vcf").write_bytes(octets)
    done = run("convert", "wide.vcf", "o.vcf")
    assert done.code == 1
    assert "1  half a character (a lone surrogate) replaced" in done.err
    assert "an odd octet" in (tmp_path / "o.set-aside.csv").read_text(encoding="utf-8")


AGAIN = [
    ("4.0", 'ADR;TYPE=home;LABEL="1 Lane^nBath":;;1 Lane;;;;', "3.0",
     "LABEL;TYPE=home:1 Lane\\nBath"),
    ("4.0", "RELATED;TYPE=agent:mailto:b@x.test", "3.0",
     "AGENT;VALUE=uri;X-ROUNDCARD-OF=RELATED:mailto:b@x.test"),
    ("3.0", "AGENT;VALUE=uri:http://x.test", "4.0",
     "RELATED;TYPE=agent;X-ROUNDCARD-OF=AGENT:http://x.test"),
    ("3.0", "AGENT:BEGIN:VCARD\\nFN:Bob\\, B\\nEND:VCARD", "4.0",
     "RELATED;TYPE=agent;VALUE=text;X-ROUNDCARD-OF=AGENT:Bob\\, B"),
]  # fmt: skip


@pytest.mark.parametrize(("version", "line", "target", "said"), AGAIN)
def test_what_is_said_again_is_passed_over(version: str, line: str, target: str, said: str) -> None:
    text = card("FN:A", "N:A;;;;", line, version=version)
    there = write_cards(read_cards(text), target)
    assert said in inner(there)
    back = write_cards(read_cards(there), version)
    assert line.replace('"', "") in [each.replace('"', "") for each in inner(back)]
    assert not any("X-ROUNDCARD-OF" in each for each in inner(back))
