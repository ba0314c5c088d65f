"""Any bytes into any reader: contacts, or one clear error."""

from __future__ import annotations

import io
from pathlib import Path

import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from roundcard import Plan, RoundCardError, convert
from roundcard.books.source import HowToRead
from roundcard.formats import csv, jcard, workbook
from roundcard.formats.csv import Dialect
from roundcard.formats.dialect import guess_dialect
from roundcard.tally import Balance, Tally

pieces = st.lists(
    st.one_of(
        st.binary(max_size=12),
        st.sampled_from(
            [b'"', b'""', b",", b";", b"\n", b"\r\n", b"\r", b"\\", b'\\"', b"\xff\xfe", b"\0",
             b"name,email\n", b"sep=;\n", b"Total;3\n", b'["vcard",[', b"]]", b'["fn",{},"text",',
             b"BEGIN:VCARD\n", b"END:VCARD\n", b"N:a;b\n", b"=E9", b";ENCODING=QUOTED-PRINTABLE:",
             b"PK\x03\x04", "Zoë".encode(), b"\xed\xa0\x80"]
        ),
    ),
    max_size=12,
).map(b"".join)  # fmt: skip


@given(pieces, st.sampled_from([",", ";", "\t"]), st.booleans())
def test_any_bytes_are_rows(octets: bytes, separator: str, backslash: bool) -> None:
    dialect = Dialect(separator=separator, backslash=backslash)
    rows = list(csv.read(io.BytesIO(octets), dialect, octets))
    assert [row.line for row in rows] == sorted({row.line for row in rows})


@given(pieces)
def test_a_dialect_is_guessed_of_any_bytes(octets: bytes) -> None:
    found = guess_dialect(octets)
    assert 0 <= found.encoding <= 1
    assert 0 <= found.separator <= 1
    "".encode(found.dialect.encoding)


@given(pieces)
@example(b'[["vcard",[["fn",{},"text",null]]]]')
@example(b'["vcard",[["n",{"a":{}},"text",[[]]]]]')
def test_any_bytes_are_jcards_or_an_error(octets: bytes) -> None:
    tally = Tally()
    try:
        found = list(jcard.read([octets], source=0, tally=tally))
    except RoundCardError:
        return
    assert len(found) <= tally.people.read


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(pieces, st.sampled_from(["", "csv", "vcard", "jcard"]), st.sampled_from(["csv", "vcard"]))
def test_any_file_is_converted_or_one_error(
    tmp_path: Path, octets: bytes, said: str, to: str
) -> None:
    source = tmp_path / "any"
    source.write_bytes(octets)
    plan = Plan([str(source)], str(tmp_path / "out"), to_format=to, how=HowToRead(format=said),
                force=True, prove=True, side_folder=tmp_path)  # fmt: skip
    try:
        report = convert(plan)
    except RoundCardError as error:
        assert error.exit_code in (3, 4)  # noqa: PT017  # either way is right
        assert "\n" not in str(error)  # noqa: PT017
    else:
        assert Balance.of(report.tally).even
    for side in tmp_path.glob("out.*"):
        side.unlink()


@given(st.binary(max_size=60), st.integers(0, 3000), st.integers(1, 200))
def test_a_damaged_workbook_is_rows_or_an_error(insert: bytes, at: int, cut: int) -> None:
    writer = workbook.WorkbookWriter("t")
    writer.add([["a", "b"], ["1", "=2"]])
    writer.save(stream := io.BytesIO())
    octets = stream.getvalue()
    damaged = io.BytesIO(octets[:at] + insert + octets[at + cut :])
    if workbook.recognise(damaged):
        try:
            list(workbook.read(damaged))
        except RoundCardError as error:
            assert "workbook" in str(error)  # noqa: PT017


@pytest.mark.parametrize("name", ["x.xlsx", "x.csv"])
def test_a_workbook_that_is_none_is_refused(tmp_path: Path, name: str) -> None:
    source = tmp_path / name
    source.write_bytes(b"PK\x03\x04" + b"\0" * 99)
    with pytest.raises(RoundCardError, match=r"neither a vCard file nor a table"):
        convert(Plan([str(source)], str(tmp_path / "o.vcf")))
