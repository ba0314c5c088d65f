"""There and back: cards that come home from another format say what they said."""

from __future__ import annotations

import json
import os
import random
from collections import Counter
from pathlib import Path

import pytest

from audit.journeys import card, plainly, props
from conftest import Run
from strict import wrong

CARDS = int(os.environ.get("ROUNDCARD_JOURNEYS", "60"))
"""Cards of each journey; all that there are to make with a larger number."""
WAYS = ["a-2.1.vcf", "a-3.0.vcf", "a-4.0.vcf", "a.jcard"]


def take(run: Run, folder: Path, version: str, way: str, seed: int) -> tuple[str, str]:
    """What cards said, and what they say when they come home."""
    chance = random.Random(f"{version} {way} {seed}")
    (folder / "s.vcf").write_text("".join(card(chance, version) for _ in range(CARDS)), newline="")
    there = ("--to", f"vcard-{way[2:5]}") if way.endswith(".vcf") else ()
    done = run("convert", "s.vcf", way, *there, "--prove")
    assert (done.code, "worth knowing" in done.err) == (0, False), done.err
    if way.endswith(".vcf"):
        text = (folder / way).read_bytes().decode()
        assert wrong(text, way[2:5]) == []
    home = run("convert", way, "h.vcf", "--to", f"vcard-{version}")
    assert home.code == 0, home.err
    return ((folder / name).read_bytes().decode() for name in ("s.vcf", "h.vcf"))  # type: ignore[return-value]


@pytest.mark.parametrize("version", ["3.0", "4.0"])
@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("seed", range(2))
def test_no_card_comes_home_otherwise(
    run: Run, tmp_path: Path, version: str, way: str, seed: int
) -> None:
    before, after = map(props, take(run, tmp_path, version, way, seed))
    assert before - after == Counter()
    assert after - before == Counter()


TOLD = {"parameters-lost", "preference-lost", "use-lost", "blanks-lost"}
"""What a table cannot say beside its texts."""


@pytest.mark.parametrize("version", ["3.0", "4.0"])
@pytest.mark.parametrize("way", ["a.csv", "a.xlsx"])
def test_no_text_comes_home_otherwise_from_a_table(
    run: Run, tmp_path: Path, version: str, way: str
) -> None:
    chance = random.Random(f"{version} {way}")
    cards = "".join(card(chance, version) for _ in range(CARDS))
    (tmp_path / "s.vcf").write_text(cards, newline="")
    there = run("convert", "s.vcf", way, "--prove", "--json")
    assert there.code == 0, there.err
    told = {each["rule"]: each["values"] for each in json.loads(there.out)["reasons"]}
    assert told.keys() <= TOLD
    home = run("convert", way, "h.vcf", "--to", f"vcard-{version}")
    assert home.code == 0, home.err
    before, after = (props((tmp_path / name).read_bytes().decode()) for name in ("s.vcf", "h.vcf"))
    assert plainly(before) - plainly(after) == Counter()
    assert plainly(after) - plainly(before) == Counter()
    assert wrong((tmp_path / "h.vcf").read_bytes().decode(), version) == []
