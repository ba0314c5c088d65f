"""What the formats make of the demo data, byte for byte."""

from __future__ import annotations

from pathlib import Path

import pytest

from approved import demand_approved
from conftest import Run

COMMANDS = [
    "convert skippers-now.vcf now-2.1.vcf --to vcard-2.1",
    "convert skippers.vcf old-3.0.vcf --to vcard-3.0",
    "convert coordinator-phone.vcf phone.json",
    "convert coordinator-phone.vcf p.json && convert p.json phone-4.0.vcf && convert "
    "phone-4.0.vcf book.xlsx && convert book.xlsx phone-home.vcf",
]


@pytest.mark.parametrize("command", COMMANDS)
def test_the_approved_files(run: Run, demo: Path, command: str) -> None:
    demand_approved(run, demo, Path(__file__).parent / "approved", command)
