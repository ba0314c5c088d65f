"""Nothing goes missing quietly: the auditor over some made-up books, and every command."""

from __future__ import annotations

from pathlib import Path

import pytest

from audit.audit import audit
from conftest import Run


@pytest.mark.parametrize("seed", range(12))
def test_nothing_goes_missing_quietly(run: Run, tmp_path: Path, seed: int) -> None:
    done = audit(tmp_path, lambda args: run(*args), seed)
    assert done.commands >= 9
    assert done.values > 50
