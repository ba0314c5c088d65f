"""A destination in words."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Iterator

from roundcard.cli.render.text import pad, styled, width, wrapped
from roundcard.destinations.model import Destination, Length

_LABELS = 18
_WIDEST = 100


def for_people(to: Destination) -> str:
    """What a service takes, one thing a line."""
    lines = [styled(to.title, "bold", sys.stdout)]
    room = max(min(width(sys.stdout), _WIDEST) - _LABELS - 2, 30)
    for label, said in _rows(to):
        for at, line in enumerate(wrapped(said, room, 0)):
            lines.append(f"  {pad(label if not at else '', _LABELS)}{line}")
    return "\n".join(lines) + "\n"


def _rows(to: Destination) -> Iterator[tuple[str, str]]:
    yield "takes", ", ".join(to.accepts)
    if to.layout is not None:
        yield "layout", f"{to.layout.name} ({len(to.layout.columns)} columns)"
    yield "character set", _characters(to)
    limits = to.limits
    each = [f"{limits.people_per_file:,} people" if limits.people_per_file else "",
            f"{limits.octets_per_file:,} bytes" if limits.octets_per_file else ""]  # fmt: skip
    if any(each):
        yield "a file", " and ".join(filter(None, each))
    if limits.people_in_all:
        yield "in all", f"{limits.people_in_all:,} people"
    if limits.values:
        yield "a person has", ", ".join(f"{path}: {most}" for path, most in limits.values.items())
    if limits.length:
        yield (
            "longest",
            ", ".join(f"{path}: {_length(most)}" for path, most in limits.length.items()),
        )
    if to.needs_all:
        yield "needs", ", ".join(map(str, to.needs_all))
    if to.needs_any:
        yield "needs one of", ", ".join(map(str, to.needs_any))
    for path, allowed in to.allowed.items():
        otherwise = f"; others become {allowed.otherwise}" if allowed.otherwise else "; no others"
        yield f"{path}", ", ".join(allowed.values) + otherwise
    if to.drops:
        yield "does not keep", _listed(to.drops)
    style = to.style
    told = [f"phone {style.phone}" if style.phone else "",
            f"date {style.date.text}" if style.date else "",
            f"country as {'code' if style.country == 'code' else style.country}"
            if style.country else "",
            f"name as {style.name}" if style.name else ""]  # fmt: skip
    if any(told):
        yield "style", ", ".join(filter(None, told))
    yield "without room", f"rides in {to.overflow}" if to.overflow else "is left behind"
    if to.identity is not None:
        yield "our uid", f"goes through in {to.identity}"
    on_import = to.on_import
    if on_import.matches_on:
        keys = [" and ".join(map(str, key)) for key in on_import.matches_on]
        yield "finds people by", ", then ".join(keys)
    if on_import.existing:
        yield "whom it knows", " or ".join(on_import.existing)
    yield "an empty cell", {"clears": "clears what is there", "ignored": "changes nothing",
                            "unknown": "may clear what is there"}[on_import.empty_cell]  # fmt: skip
    if to.rewrites:
        yield "rewrites", ", ".join(f"{path}: {' and '.join(words)}"
                                    for path, words in to.rewrites.items())  # fmt: skip


def _characters(to: Destination) -> str:
    lacking = {"nearest": "what it lacks as the nearest letters",
               "leave-behind": "what it lacks is left behind"}[to.lacking]  # fmt: skip
    more = ["" if to.charset.startswith("utf") else lacking,
            "" if to.line_breaks else "no line breaks",
            "" if to.beyond_basic_plane else "no emoji"]  # fmt: skip
    return "; ".join(filter(None, [to.charset, *more]))


def _length(limit: Length) -> str:
    return f"{limit.most:,}{' bytes' if limit.octets else ''}"


def _listed(paths: Iterable[object]) -> str:
    return ", ".join(str(path).removesuffix("/") for path in paths)
