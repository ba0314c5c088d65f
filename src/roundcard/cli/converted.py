"""Values of options made of the texts of a command line, without what checks values in general.

The command line's library loads another one to make a text a text: a third of what a short command
takes. What an option holds here is a text, a path or a whole number; those are made at once, and
everything else, and all that is wrong, is left to the library.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, get_args, get_origin

_AS_THEY_ARE = (str, Path)


def at_once(param: Any) -> None:
    """Have an option or argument make its values at once, where the library has a place for
    that."""
    if "get_runtime_param" in vars(param):  # asked before
        return
    if hasattr(param, "get_runtime_param") and hasattr(param, "type_descriptor"):
        maker = _Maker(param.type_descriptor.annotation, param.get_runtime_param)
        param.get_runtime_param = lambda: maker


class _Maker:
    """Makes the values of one option."""

    def __init__(self, annotation: Any, library: Callable[[], Any]) -> None:
        """`library` gives what makes them in general."""
        listed = get_origin(annotation) is list
        self._one = get_args(annotation)[0] if listed else annotation
        self._listed = listed
        self._library = library

    def coerce(self, value: Any, param: Any, ctx: Any) -> Any:
        """The value that a text, or several, stand for. Raises the library's error for what is
        none."""
        if value is None:
            return () if self._listed else None
        if self._one in _AS_THEY_ARE:
            if not self._listed and isinstance(value, str):
                return self._one(value)
            if self._listed and isinstance(value, (list, tuple)):
                return [self._one(each) for each in value]
        elif self._one in (int, float) and type(value) is self._one:
            return value
        elif self._one is int and isinstance(value, str) and _is_within(value, param):
            return int(value)
        return self._library().coerce(value, param=param, ctx=ctx)


def _is_within(text: str, param: Any) -> bool:
    """Whether a text is a whole number that an option takes."""
    if not (text.isascii() and text.isdecimal()):
        return False
    bounds = param.type_descriptor.parameter_info
    return (bounds.min is None or int(text) >= bounds.min) and (
        bounds.max is None or int(text) <= bounds.max
    )
