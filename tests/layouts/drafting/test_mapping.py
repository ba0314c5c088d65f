"""The invented layouts of ``bench/mapping``: what is right must stay right."""

from __future__ import annotations

import sys
from collections import Counter
from pathlib import Path

import pytest

BENCH = Path(__file__).parents[3] / "bench" / "mapping"


@pytest.fixture(scope="module")
def scored(tmp_path_factory: pytest.TempPathFactory) -> Counter[str]:
    """All invented layouts, drafted and counted."""
    sys.path.insert(0, str(BENCH))
    try:
        import rows
        import score
    finally:
        sys.path.remove(str(BENCH))
    counts: Counter[str] = Counter()
    path = tmp_path_factory.mktemp("mapping") / "t.csv"
    for which in ("", "second", "third", "fourth"):
        for layout in rows.invented_layouts(which):
            counts += score.score(layout, path, score.Sureness(), False)
    return counts


def test_columns_are_mapped_right(scored: Counter[str]) -> None:
    assert scored["layouts"] >= 230
    assert scored["right"] >= 0.985 * scored["columns"]
    assert scored["dialects"] >= 0.97 * scored["layouts"]


def test_hardly_a_column_goes_into_a_wrong_field(scored: Counter[str]) -> None:
    assert scored["wrong field"] <= 0.005 * scored["columns"]
