"""Values said again in the words of another version.

What a version has no word for is kept whole in an extension; other programs do not read that. Where
the version has a near word, the value is said with it too, in a line of its own that is marked and
that our reader passes over: an agent (RFC 2426 section 3.5.4; a kind of relation in RFC 6350
section 6.6.6).
"""

from __future__ import annotations

import re

from roundcard.card.contact import Contact, Property
from roundcard.card.head import Head
from roundcard.formats.vcard.lines import fold
from roundcard.formats.vcard.property_heads import OF
from roundcard.formats.vcard.syntax import escape, unescape
from roundcard.formats.vcard.values import is_uri

_INNER_NAME = re.compile(r"^FN[^:\n]*:(.*)$", re.IGNORECASE | re.MULTILINE)


def is_said_again(head: Head, version: str) -> bool:
    """Whether values with this head may be said again."""
    if version == "3.0":
        return head.name == "related" and "agent" in head.uses
    return version == "4.0" and head.name == "agent"


def again(contact: Contact, version: str) -> list[str]:
    """The lines that say values of a contact again, folded."""
    lines = []
    for prop in contact.properties:
        if is_said_again(prop.head, version):
            lines.append(_line(prop))
    return [fold(line) for line in lines if line]


def _line(prop: Property) -> str:
    head, mark = prop.head, f";{OF.upper()}={prop.head.name.upper()}"
    if head.name == "related":
        return f"AGENT;VALUE=uri{mark}:{prop.text}" if is_uri(prop.text) else ""
    text = unescape(prop.raw if prop.raw is not None else prop.text)
    if is_uri(text):
        return f"RELATED;TYPE=agent{mark}:{text}"
    name = _INNER_NAME.search(text)
    return f"RELATED;TYPE=agent;VALUE=text{mark}:{escape(unescape(name[1]))}" if name else ""
