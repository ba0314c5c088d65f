"""Several processes write what one writes, octet for octet, and count the same."""

from __future__ import annotations

import io
from collections.abc import Iterable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from roundcard import Plan, convert
from roundcard.books import conversion, source_reader, workers
from roundcard.books.chunks import Piece, card_pieces, row_pieces
from roundcard.books.conversion import Report
from roundcard.books.workers import Work, in_order
from roundcard.clean.rules import chosen
from roundcard.clean.step import Clean, Forms
from roundcard.formats import csv
from roundcard.formats.csv import Dialect
from roundcard.layouts.library import load
from roundcard.pick.fields import SetValue
from roundcard.tally import Tally

CARD = "BEGIN:VCARD\nVERSION:3.0\n{}END:VCARD\n"
LAYOUT = """name = "t"
[[column]]
heading = "name"
holds = "name/full"
[[column]]
heading = "phone"
holds = "phone"
"""


def cards(count: int) -> bytes:
    found = []
    for n in range(count):
        body = f"FN:Person {n}\nN:{n};Person;;;\nTEL;TYPE=cell:07700 {n:06}\nX-BOAT:Dawn {n % 7}\n"
        body += ["", "no property\n", "BDAY:--04-12\n", "NOTE:a\\, b\\nc\n"][n % 4]
        body += "AGENT:\nBEGIN:VCARD\nFN:Agent\nEND:VCARD\n" if n % 50 == 0 else ""
        text = CARD.format(body)
        found.append(text.replace("END:VCARD\n", "") if n % 77 == 5 else text)
        found.append("stray text\n" if n % 99 == 0 else "\n" * (n % 3))
    return "".join(found).encode()


def rows(count: int) -> bytes:
    found = ["name,phone,remark\n"]
    for n in range(count):
        remark = ["", '"two\nlines, and ""quotes"""', "plain", '5" pipe'][
            n % 4 if n > 200 else n % 3
        ]
        found.append(f"Person {n},{'' if n % 9 else '4.47E+11'},{remark}\n" if n % 31 else "\n")
    return "".join([*found, "Total,3,\n"]).encode()


def both_ways(
    tmp_path: Path, source: Path, target: str, monkeypatch: pytest.MonkeyPatch, **plan: object
) -> list[tuple[bytes, Report]]:
    monkeypatch.setattr(source_reader, "PIECE", 9_000)
    monkeypatch.setattr(source_reader.Reading.cut, "__defaults__", (9_000,))
    found = []
    for jobs in (1, 3):
        folder = tmp_path / f"with {jobs}"
        folder.mkdir()
        path = folder / target
        report = convert(Plan([str(source)], str(path), processes=jobs, **plan))  # type: ignore[arg-type]
        found.append((b"".join(file.read_bytes() for file in sorted(folder.iterdir())), report))
    return found


@pytest.mark.parametrize("target", ["t.vcf", "t.csv"])
@pytest.mark.parametrize("kind", ["cards", "rows", "rows by layout"])
@pytest.mark.parametrize("prove", [False, True])
def test_many_processes_do_what_one_does(
    tmp_path: Path, kind: str, target: str, prove: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = tmp_path / ("book.vcf" if kind == "cards" else "book.csv")
    source.write_bytes(cards(1500) if kind == "cards" else rows(3000))
    plan: dict[str, object] = {"prove": prove}
    if kind == "rows by layout":
        (tmp_path / "l.toml").write_text(LAYOUT, encoding="utf-8")
        plan["layouts"] = [load(tmp_path / "l.toml")]
    if prove:
        plan["steps"] = [SetValue.parse("category=Batch")]
    started: list[int] = []
    monkeypatch.setattr(conversion, "in_order", Told(started))
    (one, told), (three, also) = both_ways(tmp_path, source, target, monkeypatch, **plan)
    assert one == three
    assert set(started) == {3}
    assert told.tally.people == also.tally.people
    assert told.tally.values == also.tally.values
    assert +told.tally.why == +also.tally.why
    assert told.tally.findings == also.tally.findings
    assert told.proved == also.proved == (told.tally.people.written if prove else None)


@pytest.mark.parametrize("target", ["t.vcf", "t.csv"])
def test_processes_that_start_anew_do_what_forked_ones_do(
    tmp_path: Path, target: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = tmp_path / "book.vcf"
    source.write_bytes(cards(400))
    plan: dict[str, object] = {"steps": [Clean(chosen((), ()), Forms(region="GB"))]}
    monkeypatch.setattr(workers, "_FORKS", False)
    (one, told), (three, also) = both_ways(tmp_path, source, target, monkeypatch, **plan)
    assert one == three
    assert +told.tally.why == +also.tally.why
    assert told.tally.findings == also.tally.findings


cells = st.text(st.sampled_from('ab,"\n\ré'), max_size=6)


@given(st.lists(st.lists(cells, min_size=1, max_size=3), min_size=1, max_size=40), st.booleans())
def test_rows_are_never_cut_in_two(table: list[list[str]], quoted: bool) -> None:
    if quoted:
        octets = csv.CsvWriter(Dialect()).encode(table)
    else:
        octets = "\n".join(",".join(row) for row in table).encode()
    stream = io.BytesIO(octets)
    found = []
    for piece in row_pieces(stream, 0, len(octets), Dialect(), piece=20):
        part = octets[piece.offset : piece.offset + piece.length]
        found += [row.cells for row in csv.read(io.BytesIO(part), Dialect())]
    assert found == [row.cells for row in csv.read(io.BytesIO(octets), Dialect())]


@pytest.mark.parametrize("size", [1, 50, 200, 5_000])
def test_cards_are_never_cut_in_two(size: int) -> None:
    octets = cards(900)
    pieces = list(card_pieces(io.BytesIO(octets), len(octets), size))
    assert b"".join(octets[p.offset : p.offset + p.length] for p in pieces) == octets
    assert [p.last for p in pieces] == [False] * (len(pieces) - 1) + [True]
    begins = [octets[p.offset :].lstrip().startswith(b"BEGIN:VCARD") for p in pieces]
    assert sum(not begin for begin in begins) <= 1  # what is no card at the very beginning
    assert len(pieces) > 1


class Told:
    """Tells how many processes were asked for."""

    def __init__(self, started: list[int]) -> None:
        self.started = started

    def __call__(self, work: Work, pieces: Iterable[Piece], jobs: int) -> object:
        self.started.append(jobs)
        return in_order(work, pieces, jobs)


class Broken:
    def __call__(self, contact: object, tally: Tally) -> None:
        raise ValueError("a step that fails")


def test_an_error_in_a_process_is_told(tmp_path: Path) -> None:
    source = tmp_path / "book.vcf"
    source.write_bytes(cards(1500))
    plan = Plan([str(source)], str(tmp_path / "o.vcf"), processes=2, steps=[Broken()])
    with pytest.raises(ValueError, match="a step that fails"):
        convert(plan)
    assert list(tmp_path.iterdir()) == [source]
