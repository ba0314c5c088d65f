"""There and back: cards that come home from another format say what they said."""

from __future__ import annotations

import os
import random
from collections import Counter
from pathlib import Path

import pytest

from audit.journeys import card, props
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
