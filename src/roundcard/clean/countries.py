"""Countries by their names (Unicode CLDR, through Babel) and codes (ISO 3166-1)."""

from __future__ import annotations

import json
from functools import cache, lru_cache
from importlib import resources

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

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
    told = resources.files("roundcard.clean").joinpath("country_codes.json").read_bytes()
    found: dict[str, str] = json.loads(told)
    return found


def compile_codes() -> dict[str, str]:
    """What the file of codes holds, made of Unicode CLDR by ``scripts/compile-words``."""
    from babel import Locale

    found: dict[str, str] = {}
    for language in reversed(_LANGUAGES):
        for code, name in Locale.parse(language).territories.items():
            if len(code) == 2 and code.isalpha():
                found[" ".join(name.casefold().split())] = code
                found[code.casefold()] = code
    return found | _ALSO


@lru_cache(maxsize=8_192)
def country_code(name: str) -> str:
    """The ISO 3166 alpha-2 code of a country's name in a usual language, or of a code; empty where
    there is none."""
    return codes_by_name().get(" ".join(name.casefold().replace(".", "").split()), "")


@lru_cache(maxsize=2_048)
def country_name(code: str, language: str) -> str:
    """The name of a country in a language (ISO 639-1); empty where there is none."""
    from babel import Locale, UnknownLocaleError

    try:
        return str(Locale.parse(language).territories.get(code, ""))
    except (UnknownLocaleError, ValueError):
        return ""


def country_form(text: str, around: Around) -> Verdict:
    """Countries all written alike, as code or in one language, where that is asked for."""
    if not around.countries:
        return LEFT
    code = country_code(text)
    if not code:
        return Verdict(doubt="not a known country")
    made = code if around.countries == "code" else country_name(code, around.countries)
    return LEFT if not made or made == text else Verdict(made)


RULES = (
    Rule("country-form", ("address/country",), "countries alike, if --countries says how",
         (("address/country", "Deutschland", "Deutschland"),), country_form),
)  # fmt: skip
