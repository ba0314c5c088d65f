"""Countries by their names (Unicode CLDR, through Babel) and codes (ISO 3166-1)."""

from __future__ import annotations

from functools import cache

_LANGUAGES = ("en", "de", "fr", "es", "it", "nl", "pt", "pl", "sv", "da", "nb", "fi", "cs", "hu",
              "ro", "tr", "ru", "uk", "el", "ja", "zh", "ko", "ar")  # fmt: skip
_ALSO = {
    "uk": "GB", "great britain": "GB", "england": "GB", "scotland": "GB", "wales": "GB",
    "northern ireland": "GB", "usa": "US", "u s a": "US", "holland": "NL", "brd": "DE",
    "deutschland": "DE", "éire": "IE", "czech republic": "CZ", "d": "DE", "f": "FR", "i": "IT",
    "a": "AT",
}  # fmt: skip


@cache
def codes_by_name() -> dict[str, str]:
    """Alpha-2 codes by names in usual languages and by codes, all in lower case."""
    from babel import Locale  # noqa: PLC0415  # only where countries are looked up

    found: dict[str, str] = {}
    for language in reversed(_LANGUAGES):
        for code, name in Locale.parse(language).territories.items():
            if len(code) == 2 and code.isalpha():
                found[" ".join(name.casefold().split())] = code
                found[code.casefold()] = code
    return found | _ALSO
