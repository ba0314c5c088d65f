"""What is far beyond the usual is read, or set aside, and the rest goes on."""

from __future__ import annotations

import base64
import random
from pathlib import Path

import pytest

from conftest import Run

BEGIN = b"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ada\r\nN:Weir;Ada;;;\r\n"
END = b"END:VCARD\r\n"
LAST = BEGIN.replace(b"Ada", b"Zoe") + END


def folded(line: bytes) -> bytes:
    return b"\r\n ".join(line[at : at + 74] for at in range(0, len(line), 74)) + b"\r\n"


PHOTO = base64.b64encode(random.Random(1).randbytes(5_000_000))
CASES = {
    "a photo of 5 MB": folded(b"PHOTO;ENCODING=b;TYPE=PNG:" + PHOTO),
    "a note of 1 MB": folded(b"NOTE:" + b"words\\, and lines\\n" * 60_000),
    "10,000 properties": b"".join(b"TEL;TYPE=x%d:%d\r\n" % (n, n) for n in range(10_000)),
    "10,000 groups": b"".join(b"g%d.TEL:1\r\ng%d.X-ABLabel:l\r\n" % (n, n) for n in range(9999)),
    "a line of 50 MB": b"NOTE:" + b"x" * 50_000_000 + b"\r\n",
    "a line of 50 MB that is no property": b"x" * 50_000_000 + b"\r\n",
}


@pytest.mark.parametrize(
    ("case", "target"),
    [(case, "vcard-4.0") for case in CASES]
    + [(case, way) for case in list(CASES)[:4] for way in ("vcard-2.1", "csv")],
)
def test_what_is_far_too_big_is_read(run: Run, tmp_path: Path, case: str, target: str) -> None:
    source = tmp_path / "big.vcf"
    source.write_bytes(BEGIN + CASES[case] + END + LAST)
    done = run("convert", source, "out", "--to", target, "--quiet")
    assert done.code == (1 if case.endswith("no property") else 0), done.err
    text = (tmp_path / "out").read_bytes()
    assert b"Ada" in text
    assert b"Zoe" in text
    if case.startswith("a photo") and target != "csv":
        assert PHOTO in text.replace(b"\r\n ", b"")


def test_a_cell_of_50_megabytes_is_read(run: Run, tmp_path: Path) -> None:
    source = tmp_path / "big.csv"
    source.write_bytes(b'name,note\nAda,"' + b"x" * 50_000_000 + b'"\nZoe,z\n')
    assert run("convert", source, "out.vcf", "--quiet").code == 0
    assert (tmp_path / "out.vcf").read_bytes().count(b"END:VCARD") == 2
