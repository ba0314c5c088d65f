"""Legal forms of organisations that are written in letters with points between them."""

from __future__ import annotations

import re

_DOTTED = re.compile(
    r"(?:\b(?:[Ss][Pp]\. ?z ?o\. ?o|d\. ?[od]\. ?[od]|s\. ?[rp]\. ?o|v\. ?o\. ?s|a\. ?s"
    r"|e\. ?V|e\. ?K|S\.[rp]\.[lA]|S\.[an]\.[sc]|s\.r\.l)|\bA/S)\.?(?=\s*$|,)"
)
"""Forms that are not taken for initials, since a small letter stands among them."""


def has_dotted_form(text: str) -> bool:
    """Whether what an organisation is called ends with such a form: ``Conti S.r.l.``."""
    return _DOTTED.search(text) is not None
