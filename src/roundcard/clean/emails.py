"""Rules for e-mail addresses (RFC 5321, RFC 5322; RFC 6068 for ``mailto:``)."""

from __future__ import annotations

import re
import unicodedata
from urllib.parse import unquote

from roundcard.clean.rule import LEFT, Around, Rule, Verdict
from roundcard.errors import nearest

_NAMED = re.compile(r"[^<>@]*<\s*([^<>\s]+@[^<>\s]+)\s*>[.;,]?")
_ADDRESS = re.compile(
    r"[^\s@<>()\[\],;:\"\\]{1,64}@(?:[^\W_](?:[\w-]{0,61}[^\W_])?\.)+[^\W\d_]{2,63}"
)
_BRACKETED = re.compile(r"[^\[\](){}@]*[\[({]\s*([^\[\](){}\s]+@[^\[\](){}\s]+)\s*[\])}]")
_LABEL = re.compile(
    r"^(?:e-?mail|mail|e|courriel|correo|e-?post)(?:\s*[:=]\s*|\s+[-–]\s+)", re.IGNORECASE
)
_USUAL_ENDS = ("com", "org", "net", "edu", "info", "co.uk", "org.uk", "de", "fr", "it", "es", "nl",
               "eu", "ch", "at", "be", "se", "no", "dk", "fi", "pl", "cz", "jp")  # fmt: skip
_SLIPS = ("con", "cmo", "ocm", "comm", "orgg", "ogr", "rog", "nte", "ner", "nett", "cpm", "vom")
_PLAIN = re.compile(
    r"[a-z0-9_-]++(?:\.[a-z0-9_-]++){0,8}@(?:[a-z0-9]++(?:-[a-z0-9]++)*+\.){1,8}"
    rf"(?!(?:{'|'.join(_SLIPS)})$)[a-z]{{2,20}}"
)
"""An address of the usual letters, of which there is nothing to be said."""


def email_form(text: str, _: Around) -> Verdict:
    """An address alone: no ``mailto:``, no name before it, no mark behind it, in lower case.

    The letter case of the part before the @ is the host's affair (RFC 5321 section 2.4), and no
    host in use tells cases apart.
    """
    if text.islower() and text[0] != "'" and _ADDRESS.fullmatch(text):
        return LEFT
    made = unicodedata.normalize("NFKC", text).strip().strip(",;")
    made = _LABEL.sub("", made).removeprefix("<")
    if made[:7].lower() == "mailto:":
        made = unquote(made[7:].partition("?")[0])
    if found := _NAMED.fullmatch(made) or _BRACKETED.fullmatch(made):
        made = found[1]
    made = made.strip("<>'\" \t").rstrip(".,;:")
    made = re.sub(r"\s*@\s*", "@", made)
    if not _ADDRESS.fullmatch(made):
        return LEFT
    made = made.lower()
    return LEFT if made == text else Verdict(made)


def email_check(text: str, _: Around) -> Verdict:
    """What is no address, or has a slip in its end, is reported and left as it is."""
    made = text.strip()
    if not _ADDRESS.fullmatch(made) or ".." in made:
        return Verdict(doubt="not an e-mail address")
    local = made.partition("@")[0]
    if local.startswith(".") or local.endswith("."):
        return Verdict(doubt="not an e-mail address")
    end = made.rpartition(".")[2].lower()
    if end in _SLIPS:
        near = nearest(end, _USUAL_ENDS, 1)
        meant = f"; '.{near[0]}' meant?" if near else ""
        return Verdict(doubt=f"it ends in '.{end}'{meant}")
    return LEFT


RULES = (
    Rule("email-form", ("email",), "the address alone, in lower case",
         (("email", "mailto:Ada@Example.org", "ada@example.org"),
          ("email", "Ada Weir <ada@example.org>", "ada@example.org"),
          ("email", "ada at example.org", "ada at example.org")), email_form, quiet=_PLAIN),
    Rule("email-check", ("email",), "what is not an address is reported, and left",
         (("email", "ada@example", "ada@example"),), email_check, quiet=_PLAIN),
)  # fmt: skip
