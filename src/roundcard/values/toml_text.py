"""TOML as people write it: read within bounds, since a file may be hostile."""

from __future__ import annotations

import json
import re
import tomllib
from typing import Any

from roundcard.patterns import pattern

_DEEPEST = 60
"""Brackets within brackets, and names within the name of a key."""
_LONG_KEY = pattern(r"^[^=#\n]*?(?:\.[^=#\n.]*){61,}", re.MULTILINE)
_DEEP = pattern(r"(?:[\[{]\s*){61,}")


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
    """A text as a basic string (TOML 1.0, "String"); JSON's escapes are among TOML's."""
    made = json.dumps(text, ensure_ascii=False)
    return _UNSEEN.sub(lambda found: f"\\u{ord(found[0]):04x}", made)


_UNSEEN = pattern("[\x7f-\x9f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]")
"""What is not seen in a text, or changes how the text around it is seen."""
