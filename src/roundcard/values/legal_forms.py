"""Legal forms by which organisations are told."""

from __future__ import annotations

import re

_FORM = re.compile(
    r"(?:^|[\s,])(?:ltd|limited|llp|plc|inc|llc|gmbh|e\. ?v\.|ev|ohg|mbh|b\. ?v\.|v\. ?o\. ?f\.|"
    r"vof|n\. ?v\.|"
    r"sarl|s\.a\.|sas|s\.r\.l\.|s\.p\.a\.|onlus|s\.l\.|s\.coop\.|lda\.?|ltda\.?|kft\.?|zrt\.?|bt\.|"
    r"s\.r\.o\.|a\.s\.|z\.s\.|sp\. z o\.o\.|s\.c\.|ooo|ооо|зао|оао|ип|ehf\.?|hf\.|sf\.|oyj?|aps|"
    r"uab|sia|d\.o\.o\.|α\.ε\.|ε\.π\.ε\.|ο\.ε\.|jsc|tnhh|оод|еоод|dac|teo|clg|bros\.?|주식회사|株式会社|有限公司)(?:$|[\s,&])",
    re.IGNORECASE,
)
"""Forms as a word of its own. Some look like initials (S.A.), so that they tell an organisation
only where it is asked for one."""
_DOTTED = re.compile(
    r"(?:\b(?:[Ss][Pp]\. ?z ?o\. ?o|d\. ?[od]\. ?[od]|s\. ?[rp]\. ?o|v\. ?o\. ?s|a\. ?s"
    r"|e\. ?V|e\. ?K|S\.[rp]\.[lA]|S\.[an]\.[sc]|s\.r\.l)|\bA/S)\.?(?=\s*$|,)"
)
"""Those with points that are not taken for initials, since a small letter stands among them."""


def has_legal_form(text: str) -> bool:
    """Whether a legal form stands among the words of what may be an organisation."""
    return _FORM.search(text) is not None


def has_dotted_form(text: str) -> bool:
    """Whether what an organisation is called ends with such a form: ``Conti S.r.l.``."""
    return _DOTTED.search(text) is not None
