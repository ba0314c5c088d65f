"""When two values say the same.

Equal means equal after Unicode normalisation (NFC); what else is overlooked stands in the table
of fields: letter case for addresses of mail (RFC 5321 section 2.4 leaves the local part to the
host; in practice no host tells cases apart), everything but digits in telephone numbers.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Callable

from roundcard.card.contact import Property
from roundcard.card.fields import Equality
from roundcard.card.head import Component, Value
from roundcard.patterns import pattern

_EXTENSION = pattern(r"(?:;ext=|\bext(?:ension)?\.?|x|#)\s*(\d+)\s*$")
_NOISE = dict.fromkeys(
    [*range(0x200B, 0x2010), *range(0x202A, 0x202F), *range(0x2060, 0x2065), 0xA0, 0xFEFF]
)
"""Invisible marks: directional, zero-width, no-break. Noise in phones and e-mail addresses."""


def normal(text: str) -> str:
    """`text` in NFC; ASCII is returned as it is."""
    return text if text.isascii() else unicodedata.normalize("NFC", text)


def folded(text: str) -> str:
    """`text` for comparison: NFC, case folded, white space runs as one space."""
    return " ".join(normal(text).casefold().split())


def number(text: str) -> str:
    """The dialled characters of a telephone number: ASCII digits, a leading plus, an extension.

    Full-width and other decimal digits are digits.
    """
    main, mark, extension = text.casefold(), "", ""
    if found := _EXTENSION.search(main):
        main, mark, extension = main[: found.start()], "x", found[1]
    digits = "".join(str(unicodedata.decimal(char)) for char in main if char.isdecimal())
    plus = "+" if main.lstrip().startswith(("+", "\uff0b", "(+", "tel:+")) else ""
    return f"{plus}{digits}{mark}{extension}" if digits else folded(text)


def email(text: str) -> str:
    """An e-mail address for comparison: no invisible marks, no white space, case folded."""
    return folded(text.translate(_NOISE)).replace(" ", "")


_KEYS: dict[Equality, Callable[[str], str]] = {
    "exact": lambda text: text,
    "text": normal,
    "folded": folded,
    "number": number,
    "email": email,
}


def identity(uri: str) -> str:
    """A UID as it is compared: with or without its scheme, whatever the case (RFC 6350 section
    6.7.6)."""
    return uri.strip().lower().removeprefix("urn:uuid:")


def key(value: Value, equality: Equality = "text") -> Value:
    """A form of `value` that is the same for all values that say the same."""
    fold = _KEYS[equality]

    def of(component: Component) -> Component:
        if isinstance(component, str):
            return fold(component)
        inner = tuple(fold(text) for text in component if text)
        return inner[0] if len(inner) == 1 else inner or ""

    if isinstance(value, str):
        return fold(value)
    parts = [of(component) for component in value]
    while parts and not parts[-1]:
        parts.pop()
    return tuple(parts)


def same_value(one: Property, other: Property) -> bool:
    """Whether two properties of one name say the same, whatever their parameters."""
    if one.head.name != other.head.name:
        return False
    equality = one.head.field.equality
    return key(one.value, equality) == key(other.value, equality)
