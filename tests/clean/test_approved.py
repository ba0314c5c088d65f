"""What cleaning rules make of the demo data, byte for byte."""

from __future__ import annotations

from pathlib import Path

import pytest

from approved import demand_approved
from conftest import Run

COMMANDS = [
    "clean ledger.csv ledger-clean.csv --layout layouts --region GB --changes ledger-changes.csv",
    "clean coordinator-phone.vcf phone-clean.vcf --region GB --changes phone-changes.csv",
    "clean twin-waterway.csv waterway-clean.vcf --layout layouts --changes waterway-changes.csv",
    "clean school-visits.csv visits-clean.vcf --layout layouts --region GB --changes "
    "visits-changes.csv",
]


@pytest.mark.parametrize("command", COMMANDS)
def test_the_approved_files(run: Run, demo: Path, command: str) -> None:
    demand_approved(run, demo, Path(__file__).parent / "approved", command)
