"""A folder of cards as what holds people at the other end: nobody is written over unseen."""

from __future__ import annotations

from pathlib import Path

import pytest

from roundcard.destinations.there import CardFolder, new_href
from roundcard.errors import SourceError, TargetError, ThereError

ONE, TWO = b"BEGIN:VCARD\r\nFN:One\r\nEND:VCARD\r\n", b"BEGIN:VCARD\r\nFN:Two\r\nEND:VCARD\r\n"


def test_list_get_put_remove(tmp_path: Path) -> None:
    there = CardFolder(tmp_path)
    href = new_href()
    assert there.list() == {}
    assert there.get(href) is None
    first = there.put(href, ONE, "")
    assert there.list() == {href: first}
    assert there.get(href) == (ONE, first)
    second = there.put(href, TWO, first)
    assert second != first
    there.remove(href, second)
    assert there.list() == {}


def test_somebody_was_faster(tmp_path: Path) -> None:
    there = CardFolder(tmp_path)
    mark = there.put("a.vcf", ONE, "")
    (tmp_path / "a.vcf").write_bytes(TWO)
    for tries in (lambda: there.put("a.vcf", ONE, mark), lambda: there.put("a.vcf", ONE, ""),
                  lambda: there.remove("a.vcf", mark)):  # fmt: skip
        with pytest.raises(ThereError, match="somebody was faster"):
            tries()
    assert (tmp_path / "a.vcf").read_bytes() == TWO
    (tmp_path / "a.vcf").unlink()
    with pytest.raises(ThereError, match="is gone"):
        there.put("a.vcf", ONE, mark)


@pytest.mark.parametrize("href", ["", "../a.vcf", "b/a.vcf", ".hidden.vcf", "/etc/passwd"])
def test_names_lead_nowhere_else(tmp_path: Path, href: str) -> None:
    with pytest.raises(TargetError, match="is not the name of a card"):
        CardFolder(tmp_path).put(href, ONE, "")


def test_what_is_no_folder(tmp_path: Path) -> None:
    with pytest.raises(SourceError, match="not found"):
        CardFolder(tmp_path / "none")
    (tmp_path / "notes.txt").write_text("no card")
    assert CardFolder(tmp_path).list() == {}
