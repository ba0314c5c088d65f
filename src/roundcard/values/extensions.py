"""The text of extension properties as it stands in a cell of a table.

Nobody knows how such a text is built. Where it reads as plain text (RFC 6350 section 3.4), a cell
shows it without its escapes; what would not come home the same so stays as it came.
"""

from __future__ import annotations

import re

_ESCAPE = re.compile(r"\\([\\,;nN])")


def shown_extension(raw: str) -> str:
    """The text for a cell."""
    if "\\" not in raw:
        return raw
    text = _ESCAPE.sub(lambda found: "\n" if found[1] in "nN" else found[1], raw)
    return text if read_extension(text) == raw else raw


def read_extension(cell: str) -> str:
    """The undecoded text that a cell stands for."""
    if "\\" in cell:
        return cell.replace("\n", "\\n")
    return cell.replace(",", "\\,").replace("\n", "\\n")
