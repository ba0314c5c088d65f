"""Patterns of text that are compiled when they are first asked.

Compiling those of all rooms would take a third of what a short command takes; most commands ask
few of them.
"""

from __future__ import annotations

import re
from typing import Any, cast


class _Later:
    """Stands for a pattern; what is asked of it once is its own from then on."""

    def __init__(self, text: str, flags: int) -> None:
        self._said = (text, flags)

    def __getattr__(self, name: str) -> Any:
        """A method or an attribute of the compiled pattern. Raises `re.error` for text that is no
        pattern."""
        if name.startswith("__"):
            raise AttributeError(name)
        found = getattr(re.compile(*self._said), name)
        setattr(self, name, found)
        return found


def pattern(text: str, flags: int = 0) -> re.Pattern[str]:
    """What `re.compile` gives, compiled when it is first asked for anything."""
    return cast("re.Pattern[str]", _Later(text, flags))
