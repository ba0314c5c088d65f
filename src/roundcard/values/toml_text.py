"""TOML as people write it: read within bounds, since a file may be hostile."""

from __future__ import annotations

import re
import tomllib
from typing import Any

_DEEPEST = 60
"""Brackets within brackets, and names within the name of a key."""
_LONG_KEY = re.compile(r"^[^=#\n]*?(?:\.[^=#\n.]*){61,}", re.MULTILINE)
_DEEP = re.compile(r"(?:[\[{]\s*){61,}")


def read_toml(text: str) -> dict[str, Any]:
    """The tree that a text describes.

    Raises `ValueError` (of which `tomllib.TOMLDecodeError` is one) with what is wrong.
    """
    if _LONG_KEY.search(text) or _DEEP.search(text):
        raise ValueError(f"nested too deeply (more than {_DEEPEST} levels)")
    try:
        return tomllib.loads(text)
    except RecursionError:
        raise ValueError("nested too deeply") from None


def quoted(text: str) -> str:
    """A text as a basic string (TOML 1.0, "String")."""
    plain = text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\t", "\\t")
    plain = "".join(char if char.isprintable() else f"\\u{ord(char):04X}" for char in plain)
    return f'"{plain}"'
