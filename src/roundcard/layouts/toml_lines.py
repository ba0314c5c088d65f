"""On which line of a TOML file a key stands: the parser does not say."""

from __future__ import annotations

from roundcard.patterns import pattern

_HEADER = pattern(r"\s*(\[{1,2})\s*([A-Za-z0-9_.-]+)\s*\]")
_KEY = pattern(r"\s*(?:\"([^\"]*)\"|'([^']*)'|([A-Za-z0-9_-]+))\s*=")

Lines = dict[tuple[str, int, str], int]
"""Line from 1, by table, index in its array (0 for a plain table) and key; the key of a header
is empty, the table of what stands above all headers too."""


def locate(text: str) -> Lines:
    """The lines of all headers and keys in `text`."""
    found: Lines = {}
    seen: dict[str, int] = {}
    table, index = "", 0
    closing = ""
    for number, line in enumerate(text.splitlines(), 1):
        if closing:  # inside a text of several lines
            if closing in line:
                closing = ""
            continue
        header = _HEADER.match(line)
        if header:
            table = header[2]
            index = seen.get(table, -1) + 1 if header[1] == "[[" else 0
            seen[table] = index
            found.setdefault((table, index, ""), number)
            continue
        key = _KEY.match(line)
        if key:
            name = next(group for group in key.groups() if group is not None)
            found.setdefault((table, index, name), number)
            for quotes in ('"""', "'''"):
                if line.count(quotes) == 1:
                    closing = quotes
    return found
