"""The words that comparing names goes by."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources


@cache
def _told() -> dict[str, str]:
    return tomllib.loads((resources.files(__package__) / "words.toml").read_text("utf-8"))


def word_list(name: str) -> list[str]:
    """The words of a list in ``words.toml``."""
    return _told()[name].split()
