"""What the tests of jobs share."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Run
from jobs_world import World


@pytest.fixture
def world(tmp_path: Path, run: Run) -> World:
    """An empty world; give it books, and a job."""
    return World(tmp_path, run)
