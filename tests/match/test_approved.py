"""What matching make of the demo data, byte for byte."""

from __future__ import annotations

from pathlib import Path

import pytest

from approved import demand_approved
from conftest import Run

COMMANDS = [
    "match skippers.vcf skippers-now.vcf coordinator-phone.vcf ledger.csv newsletter.csv "
    "school-visits.csv --layout layouts --region GB --sheet sheet.csv",
    "match skippers.vcf ledger.csv --layout layouts --sheet without-region.csv",
]


@pytest.mark.parametrize("command", COMMANDS)
def test_the_approved_files(run: Run, demo: Path, command: str) -> None:
    demand_approved(run, demo, Path(__file__).parent / "approved", command)
