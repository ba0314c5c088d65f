"""Targets held against their sources by a second reader: nothing is missed, nobody accused."""

from __future__ import annotations

from itertools import islice
from pathlib import Path

import pytest

from books.both_ways import books
from books_in_tests import card
from conftest import Run
from roundcard.books.conversion import Report, convert
from roundcard.books.plan import Plan
from roundcard.card.contact import Contact, Property
from roundcard.clean.rules import chosen
from roundcard.clean.setup import CleanEach
from roundcard.clean.step import Clean, Forms
from roundcard.errors import ProofError
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.formats.vcard import reader
from roundcard.layouts.model import Layout
from roundcard.tally import Tally

PEOPLE = "".join(
    card(f"FN:Ada Weir{at}", f"N:Weir{at};Ada;;;", f"TEL:07700 90{at:04}", f"NOTE:key {at}; box")
    for at in range(40)
)


def proved(folder: Path, octets: bytes, target: str, **plan: object) -> Report:
    """The report of a conversion that is proved."""
    source = folder / ("s.csv" if "layouts" in plan else "s.vcf")
    source.write_bytes(octets)
    return convert(Plan([str(source)], str(folder / target), prove=True, force=True, **plan))  # type: ignore[arg-type]


@pytest.mark.parametrize("seed", range(4))
def test_hostile_books_are_held_and_nobody_is_accused(tmp_path: Path, seed: int) -> None:
    found = 0
    for _, read, target in islice(books(seed + 700), 60):
        plan: dict[str, object] = {"processes": 1}
        octets = read
        if not isinstance(read, bytes):
            layout, (headings, rows) = read
            octets = CsvWriter(Dialect()).encode([headings]) + rows
            plan["layouts"] = [layout]
        if isinstance(target, Layout):
            report = proved(tmp_path, octets, "t.csv", to_layout=target, **plan)  # type: ignore[arg-type]
        else:
            report = proved(tmp_path, octets, "t.vcf", to_format=f"vcard-{target}", **plan)  # type: ignore[arg-type]
        assert report.held is not None
        found += report.held.found
    assert found > 1_000


@pytest.mark.parametrize("processes", [1, 2])
@pytest.mark.parametrize("target", ["t.vcf", "t.csv", "t.jcard", "t.xlsx"])
def test_values_are_found_as_they_were_or_as_a_change_tells(
    tmp_path: Path, target: str, processes: int
) -> None:
    held = proved(tmp_path, PEOPLE.encode(), target, processes=processes).held
    assert held is not None
    assert (held.found, held.changed, held.aside, held.counted) == (240, 0, 0, 0)
    steps = [CleanEach([Clean(chosen((), ()), Forms(region="GB"))])]
    held = proved(tmp_path, PEOPLE.encode(), target, processes=processes, steps=steps).held
    assert held is not None
    assert (held.found, held.changed, held.counted) == (200, 40, 0)


def test_what_is_left_behind_is_found_there(run: Run, tmp_path: Path) -> None:
    (tmp_path / "s.vcf").write_text(PEOPLE)
    (tmp_path / "l.toml").write_text('name = "l"\n[[column]]\nheading = "P"\nholds = "phone"\n')
    done = run("convert", "s.vcf", "t.csv", "--to-layout", "l.toml", "--prove")
    assert done.code == 0
    assert "of their texts 40 as they were, 200 in the file beside it" in done.err


def forgetting(original: object) -> object:
    """A reader that forgets every note, and counts nothing of it."""

    def contact(self: object, *args: object) -> object:
        found = original(self, *args)  # type: ignore[operator]
        whole = found[0] if isinstance(found, tuple) else found
        if isinstance(whole, Contact):
            whole.properties = [each for each in whole.properties if each.head.name != "note"]
        return (whole, whole.size()) if isinstance(found, tuple) else found

    return contact


def test_what_the_reader_itself_forgot_is_missed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(reader.CardReader, "properties", forgetting(reader.CardReader.properties))
    text = PEOPLE.replace("NOTE", 'NOTE;X-ODD="a:b"')  # so that each goes the long way
    with pytest.raises(ProofError, match=r"of the sources are not in it.*'key 0' of .*record 1"):
        proved(tmp_path, text.encode(), "t.vcf", processes=1)
    assert not (tmp_path / "t.vcf").exists()


def test_what_a_step_forgot_is_missed(tmp_path: Path) -> None:
    def forget(contact: Contact, tally: Tally) -> Contact:
        kept: list[Property] = []
        for prop in contact.properties:
            if prop.head.name == "tel":  # counted as if it had been carried
                tally.values.carried += 1
                tally.values.written += 1
            else:
                kept.append(prop)
        return Contact(kept, contact.origin)

    with pytest.raises(ProofError, match="not in it, and nothing tells of them"):
        proved(tmp_path, PEOPLE.encode(), "t.vcf", processes=1, steps=[forget])


def test_a_table_is_read_again_by_its_layout(run: Run, tmp_path: Path) -> None:
    (tmp_path / "l.toml").write_text(
        'name = "l"\n[[column]]\nheading = "Name"\nholds = "name/full"\n'
        '[[column]]\nheading = "Phones"\nholds = "phone"\nmany = " / "\n'
        '[[column]]\nheading = "Born"\nholds = "birthday"\ndate = "day.month.year"\n'
        '[[column]]\nheading = "State"\nholds = "category"\nvalues = { A = "Active" }\n'
        '[[column]]\nheading = "Row"\nskip = true\n'
    )
    rows = ["Name,Phones,Born,State,Row", "Ada Weir,01632 960001 / 07700 900001,12.4.1980,A,77001"]
    (tmp_path / "s.csv").write_text("\n".join(rows) + "\n")
    done = run("convert", "s.csv", "t.vcf", "--layout", "l.toml", "--prove")
    assert done.code == 0
    assert "of their texts 5 as they were\n" in done.err


def test_parts_that_no_version_has_are_found_where_they_are_kept(tmp_path: Path) -> None:
    many = ";".join(f"part {at:02}" for at in range(40))
    report = proved(tmp_path, card("FN:Ada", f"ADR:{many}").encode(), "t.csv")
    assert report.held is not None
    assert report.held.aside >= 20
