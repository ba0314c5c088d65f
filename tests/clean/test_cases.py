"""The cases of ``bench``: hardly a value is harmed, and what is in form is left as it is."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import pytest

BENCH = Path(__file__).parents[2] / "bench"


@pytest.fixture(scope="module")
def bench() -> Any:
    """The module that makes and judges the cases."""
    sys.path.insert(0, str(BENCH))
    try:
        import cleaning_cases
    finally:
        sys.path.remove(str(BENCH))
    return cleaning_cases


@pytest.fixture(
    scope="module",
    params=["made", "cleaning_others.toml", "cleaning_more.toml", "cleaning_last.toml"],
)
def judged(bench: Any, request: pytest.FixtureRequest) -> list[tuple[Any, str, bool]]:
    """Each case, what becomes of its value, and whether something is reported of it."""
    cases = bench.every() if request.param == "made" else bench.read(BENCH / request.param)
    return [(case, *bench.judged(case)) for case in cases]


def in_parts(case: Any) -> bool:
    """Whether parts are wanted, and none where a value is left as it is."""
    return case.kind in ("names", "addresses")


def wanted(case: Any) -> str:
    """What should become of a value; the parts of a name in the order of their letters."""
    return " · ".join(sorted(case.after.split(" · "))) if in_parts(case) else case.after


def test_values_become_what_they_should(judged: list[tuple[Any, str, bool]]) -> None:
    right = sum(text == wanted(case) for case, text, _ in judged)
    assert right >= 0.97 * len(judged)


def test_hardly_a_value_is_harmed(judged: list[tuple[Any, str, bool]]) -> None:
    harmed = [
        (case.before, text)
        for case, text, _ in judged
        if text not in (case.before, wanted(case)) and (text or not in_parts(case))
    ]
    assert len(harmed) <= 0.015 * len(judged), harmed


def test_what_was_cleaned_is_not_changed_again(
    bench: Any, judged: list[tuple[Any, str, bool]]
) -> None:
    for case, text, _ in judged:
        if text and not in_parts(case):
            assert bench.judged(case._replace(before=text))[0] == text, case


def test_what_could_not_be_read_is_told(bench: Any) -> None:
    for path, text in (("birthday", "31/02/1979"), ("birthday", "spring 1979"),
                       ("address/country", "Atlantis"), ("phone", "ask Bo"),
                       ("email", "ada@x")):  # fmt: skip
        case = bench.Case("told", path, text, text, "GB")
        assert bench.judged(case) == (text, True)
