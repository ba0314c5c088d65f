"""What layouts make of the demo data, byte for byte."""

from __future__ import annotations

from pathlib import Path

import pytest

from approved import demand_approved
from conftest import Run

COMMANDS = [
    "layout draft ledger.csv -o drafted-ledger.toml",
    "layout draft school-visits.csv -o drafted-school.toml",
    "layout draft twin-waterway.csv -o drafted-waterway.toml",
    "convert ledger.csv ledger-read.vcf --layout layouts",
    "convert school-visits.csv visits-read.vcf --layout layouts",
    "convert twin-waterway.csv waterway-read.vcf --layout layouts",
    "convert skippers-now.vcf as-lockside.csv --to-layout lockside",
    "convert ledger.csv as-waterway.csv --layout layouts --to-layout twin-waterway",
    "convert skippers.vcf by-paths.csv",
]


@pytest.mark.parametrize("command", COMMANDS)
def test_the_approved_files(run: Run, demo: Path, command: str) -> None:
    demand_approved(run, demo, Path(__file__).parent / "approved", command)
