"""Telephone numbers: all that "the same number" means."""

from __future__ import annotations

import re

from roundcard.card.contact import Property

_TEL_MORE = re.compile(r"tel:[^;]*(?:;ext=[^;]*)?;(?!ext=)", re.IGNORECASE)


def uri_says_more(raw: str) -> bool:
    """Whether a ``tel:`` URI holds parameters beside the extension (RFC 3966 section 5.1): without
    its context, a local number is another one."""
    return bool(_TEL_MORE.match(raw))


def says_more(prop: Property) -> bool:
    """Whether a number is read from a ``tel:`` URI that says more than number and extension."""
    return prop.raw is not None and prop.head.name == "tel" and uri_says_more(prop.raw)
