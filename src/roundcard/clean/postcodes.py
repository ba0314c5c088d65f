"""The rule for post codes, by the shapes that countries write (Universal Postal Union, S42)."""

from __future__ import annotations

import re
import unicodedata

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

_SHAPES = {
    "GB": (r"([A-Z]{1,2}\d[A-Z\d]?)(\d[A-Z]{2})", " "),
    "IE": (r"([A-Z]\d[\dW])([A-Z\d]{4})", " "),
    "NL": (r"(\d{4})([A-Z]{2})", " "),
    "CA": (r"([A-Z]\d[A-Z])(\d[A-Z]\d)", " "),
    "SE": (r"(\d{3})(\d{2})", " "),
    "CZ": (r"(\d{3})(\d{2})", " "),
    "SK": (r"(\d{3})(\d{2})", " "),
    "GR": (r"(\d{3})(\d{2})", " "),
    "PL": (r"(\d{2})(\d{3})", "-"),
    "PT": (r"(\d{4})(\d{3})", "-"),
    "BR": (r"(\d{5})(\d{3})", "-"),
    "JP": (r"(\d{3})(\d{4})", "-"),
    "US": (r"(\d{5})(\d{4})?", "-"),
    "IN": (r"(\d{3})(\d{3})", " "),
}
"""The two halves of a code without its mark, and the mark."""
_DIGITS = {"DE": 5, "FR": 5, "ES": 5, "IT": 5, "FI": 5, "EE": 5, "HR": 5, "UA": 5, "TR": 5, "MX": 5,
           "KR": 5, "AT": 4, "CH": 4, "BE": 4, "DK": 4, "NO": 4, "HU": 4, "SI": 4, "BG": 4, "LU": 4,
           "AU": 4, "NZ": 4, "RO": 6, "RU": 6, "CN": 6, "SG": 6}  # fmt: skip
_ZERO_FIRST = {"DE": 5, "FR": 5, "ES": 5, "IT": 5, "US": 5, "FI": 5, "AU": 4, "NO": 4, "NL": 0,
               "TR": 5, "HR": 0, "EE": 0, "MX": 5, "KR": 5, "BR": 8, "RO": 6}  # fmt: skip
"""Countries with codes that begin with one zero, and the digits of their codes."""
_MARKED = re.compile(r"^(?:〒|[A-Z]{1,3}(?:\s?[-–]|\s(?=\d{4,5}\b)))\s?")
_DECIMAL = re.compile(r"(\d{3,6})\.0+")


def post_code(text: str, around: Around) -> Verdict:
    """A post code as its country writes it. A zero that is lost is put back where the contact's
    own address names the country; what cannot be a code of it is reported."""
    country = around.region
    if not country or (country not in _SHAPES and country not in _DIGITS):
        return LEFT
    plain = unicodedata.normalize("NFKC", text).strip().upper()
    plain = _MARKED.sub("", plain) if country not in ("GB", "IE", "CA") else plain
    if found := _DECIMAL.fullmatch(plain):
        plain = found[1]  # a spreadsheet's number
    tight = re.sub(r"[\s.\-–‐]+", "", plain)
    zeroed = plain.isdecimal() and len(tight) == _ZERO_FIRST.get(country, 0) - 1
    if zeroed and around.at_home:
        tight = "0" + tight
    made = _written(tight, country)
    if made is None:
        return Verdict(doubt=f"not a post code of {country}") if around.at_home else LEFT
    return LEFT if made == text else Verdict(made)


def _written(tight: str, country: str) -> str | None:
    if country in _DIGITS:
        return tight if tight.isdecimal() and len(tight) == _DIGITS[country] else None
    shape, mark = _SHAPES[country]
    found = re.fullmatch(shape, tight)
    return None if found is None else mark.join(part for part in found.groups() if part)


RULES = (
    Rule("post-code", ("address/postcode",), "post codes as their country writes them",
         (("address/postcode", "wx12ab", "WX1 2AB"), ("address/postcode", "1 Lock", "1 Lock")),
         post_code, region="GB"),
)  # fmt: skip
