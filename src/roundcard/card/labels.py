"""Labels that stand in an extension property of a value's group (RFC 9555 names the common one).

Some address books wrap the labels that they ship with in marks, ``_$!<Mobile>!$_``: those say a use
as the TYPE parameter does, and are read as that use. They are written back as they came.
"""

from __future__ import annotations

import re

_WRAPPED = re.compile(r"\s*_\$!<(.*)>!\$_\s*", re.DOTALL)
_USES = {
    "home": ("home",), "work": ("work",), "other": ("other",), "mobile": ("cell",),
    "cell": ("cell",), "main": ("main-number",), "pager": ("pager",), "fax": ("fax",),
    "homefax": ("home", "fax"), "workfax": ("work", "fax"), "otherfax": ("other", "fax"),
    "car": ("car",), "voice": ("voice",), "text": ("text",), "video": ("video",),
}  # fmt: skip


def wrapped(label: str) -> bool:
    """Whether a label stands in marks."""
    return bool(_WRAPPED.fullmatch(label))


def unwrapped(label: str) -> str:
    """A label without the marks around it."""
    found = _WRAPPED.fullmatch(label)
    return found[1].strip() if found else label


def uses_of(label: str) -> tuple[str, ...]:
    """The uses that a label in marks says; none where it says something else."""
    found = _WRAPPED.fullmatch(label)
    return _USES.get(re.sub(r"[\s_-]", "", found[1]).lower(), ()) if found else ()
