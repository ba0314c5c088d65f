"""What merging makes of the demo data, byte for byte."""

from __future__ import annotations

import datetime
from pathlib import Path

import pytest

from approved import demand_approved
from conftest import Run

COMMANDS = [
    "merge skippers.vcf skippers-now.vcf newsletter.csv merged.vcf --layout layouts --region GB",
    "merge newsletter.csv skippers-now.vcf into.vcf --into skippers.vcf --layout layouts "
    "--region GB --update phone=add --losers note",
]


@pytest.mark.parametrize("command", COMMANDS)
def test_the_approved_files(
    run: Run, demo: Path, command: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("roundcard.cli.planning.today", lambda: datetime.date(2026, 1, 31))
    demand_approved(run, demo, Path(__file__).parent / "approved", command)
