"""Single values as they stand in a cell of a table, against the form that contacts hold."""

from __future__ import annotations

from roundcard.card.fields import Field
from roundcard.card.head import Head
from roundcard.card.paths import uses_of
from roundcard.values.dates import parse_iso

YES = frozenset({"yes", "y", "true", "1", "x"})
"""What a cell of a ``preferred`` column says when it says yes."""

_SAID = {
    "mobile": "cell", "cellular": "cell", "cell phone": "cell", "mobile phone": "cell",
    "handy": "cell", "private": "home", "personal": "home", "business": "work", "office": "work",
    "main": "main-number", "sms": "text",
}  # fmt: skip
"""Words for uses that stand in the cells of people's tables."""


def from_cell(field: Field, text: str) -> str:
    """The text of a cell in the form that the field's kind promises."""
    if field.kind == "date":
        date = parse_iso(text)
        return date.iso() if date else text
    if field.kind == "geo" and not text.lower().startswith("geo:"):
        return "geo:" + text.replace(" ", "")
    return text


def to_cell(field: Field, text: str) -> str:
    """The value as a cell holds it."""
    return text.removeprefix("geo:") if field.kind == "geo" else text


def read_uses(text: str, word: str) -> tuple[tuple[str, ...], str]:
    """What the cell of a ``use`` column says of a value: uses, or a label of the user's own.

    ``work+fax`` names two uses; a word that is no use of the field is a label, and so is whatever
    follows a ``~``: ``work+~lock cottage`` names both.
    """
    known = uses_of(word)
    said, mark, label = f"+{text.strip()}".partition("+~")
    if mark and said == "":
        return (), label.strip()
    words = [each.strip() for each in said[1:].lower().split("+")]
    words = [_SAID.get(each, each) for each in words]
    if all(each in known for each in words):
        return tuple(use for use in known if use in words), label.strip()
    return (), text.strip()


def write_uses(head: Head, label: str, word: str) -> str:
    """The cell of a ``use`` column: the uses of a value joined by ``+``, and its label."""
    uses = "+".join(use for use in uses_of(word) if use in head.uses)
    if not label:
        return uses
    if uses:
        return f"{uses}+~{label}"
    return label if read_uses(label, word) == ((), label) else f"~{label}"


def street_lines(component: str | tuple[str, ...]) -> list[str]:
    """The lines of a street: the values of the component, each at its line breaks."""
    texts = (component,) if isinstance(component, str) else component
    return [line for text in texts for line in text.split("\n") if line.strip()]
