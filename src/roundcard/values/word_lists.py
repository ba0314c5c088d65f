"""Lists of words that stand beside the code that goes by them."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources


@cache
def _told(package: str) -> dict[str, str]:
    return tomllib.loads((resources.files(package) / "words.toml").read_text("utf-8"))


def word_list(package: str, name: str) -> list[str]:
    """The words of a list in the ``words.toml`` of a package."""
    return _told(package)[name].split()
