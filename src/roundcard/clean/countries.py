"""Countries by their names (Unicode CLDR, through Babel) and codes (ISO 3166-1)."""

from __future__ import annotations

import json
import re
import tomllib
from functools import cache, lru_cache
from importlib import resources

from roundcard.clean.rule import LEFT, Around, Rule, Verdict
from roundcard.values.text import bare

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
    """What the file of codes holds, made of Unicode CLDR by ``scripts/compile-words``: names in
    usual languages and codes."""
    found: dict[str, str] = {}
    for language in reversed(_LANGUAGES):
        _add_names(found, language, over=True)
    return found | _ALSO


def compile_all_names() -> dict[str, str]:
    """The names of countries in all languages of Unicode CLDR, and those that states have by
    themselves (ISO 3166-1: short, official, alpha-3), folded; but for those of two countries."""
    from babel import Locale
    from babel.localedata import locale_identifiers

    found: dict[str, set[str]] = {}
    for language in sorted({each.partition("_")[0] for each in locale_identifiers()}):
        try:
            names = Locale.parse(language).territories
        except ValueError:
            continue
        for code, name in names.items():
            if len(code) == 2 and code.isalpha() and code not in _NO_COUNTRIES:
                found.setdefault(loosened(name), set()).add(code)
    told = tomllib.loads(resources.files("roundcard.clean").joinpath("countries.toml").read_text())
    single = {name: next(iter(codes)) for name, codes in found.items() if len(codes) == 1}
    for code, names in told["names"].items():
        single |= {loosened(name): code for name in names.split("|")}
    return single | {three: code for code, three in
                     (each.split(":") for each in told["alpha3"].lower().split())
                     for code in [code.upper()]}  # fmt: skip


def _add_names(found: dict[str, str], language: str, *, over: bool) -> None:
    from babel import Locale

    for code, name in Locale.parse(language).territories.items():
        if len(code) == 2 and code.isalpha() and (over or name not in found):
            found[" ".join(name.casefold().split())] = code
            found[code.casefold()] = code


_NO_COUNTRIES = frozenset(("ZZ", "EU", "EZ", "UN", "QO"))
_ARTICLES = re.compile(
    r"^(?:the|la|le|les|los|las|el|il|i|gli|de|die|der|das|den|a|o|os|as|l)\s+|"
    r"\s+(?:the|la|le|les|los|die)$|^l"
)
_STATES = re.compile(
    r"^(?:the )?(?:(?:federal|federative|democratic|peoples|islamic|socialist|arab|united|hellenic|"
    r"french|italian|portuguese|czech|slovak|plurinational|bolivarian|oriental|co operative|"
    r"cooperative|independent|democratic socialist|federal democratic) )*"
    r"(?:republic|kingdom|state|commonwealth|principality|grand duchy|sultanate|union|"
    r"confederation|"
    r"republik|republique|repubblica|republica|konigreich|royaume|regno|reino|bundesrepublik)"
    r" (?:of|de|du|des|di|del|della|da|do|la) (?:the )?"
)
_EMPTY = frozenset(("", "the", "la", "le", "les", "die"))
_BETWEEN = re.compile(r"\s*(?:/|\||;|\(|\))\s*")


@lru_cache(maxsize=16_384)
def loosened(name: str) -> str:
    """A country's name without accents, case and marks."""
    said = bare(name).replace("ß", "ss").replace("'", "").replace("’", "")
    return " ".join(re.sub(r"[^\w]+", " ", said).split())


@cache
def _all_names() -> dict[str, str]:
    told = resources.files("roundcard.clean").joinpath("country_names.json").read_bytes()
    found: dict[str, str] = json.loads(told)
    return found


@lru_cache(maxsize=8_192)
def country_code(name: str) -> str:
    """The ISO 3166 alpha-2 code of a country's name in a language, or of a code; empty where there
    is none, or where two countries are named."""
    if code := codes_by_name().get(" ".join(name.casefold().replace(".", "").split()), ""):
        return code
    pieces = [each for each in _BETWEEN.split(name) if loosened(each) not in _EMPTY]
    codes = {_one_code(each) for each in pieces}
    return codes.pop() if len(codes) == 1 else ""


def _one_code(name: str) -> str:
    folded = loosened(name)
    if not folded:
        return ""
    for said in (folded, _ARTICLES.sub("", folded), _STATES.sub("", folded),
                 _ARTICLES.sub("", _STATES.sub("", folded))):  # fmt: skip
        if len(said) > 1 and (code := codes_by_name().get(said) or _all_names().get(said)):
            return code
    return ""


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
    code = country_code(text)
    if not code:
        return Verdict(doubt="not a known country")
    if not around.countries:
        return LEFT
    made = code if around.countries == "code" else country_name(code, around.countries)
    return LEFT if not made or made == text else Verdict(made)


RULES = (
    Rule("country-form", ("address/country",), "countries alike, if --countries says how",
         (("address/country", "Deutschland", "Deutschland"),), country_form),
)  # fmt: skip
