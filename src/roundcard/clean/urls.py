"""The rule for web addresses (RFC 3986)."""

from __future__ import annotations

import re

from roundcard.clean.rule import LEFT, Around, Rule, Verdict

_SLIP = re.compile(r"^(https?)\s*(?::/(?!/)|;//|//:?|:\\\\|:///+)", re.IGNORECASE)
_TWICE = re.compile(r"^(?:https?://)+(?=https?://)", re.IGNORECASE)
_SCHEME = re.compile(r"^[a-z][a-z0-9+.-]*:", re.IGNORECASE)
_PORT = re.compile(r"[^/:]+:\d+(?:/|$)")
_HOST = re.compile(r"(?:[^\W_](?:[\w-]{0,61}[^\W_])?\.)+[^\W\d_]{2,63}(?::\d{1,5})?(?=[/?#]|$)")


def url_form(text: str, _: Around) -> Verdict:
    """A web address with its scheme, scheme and host in lower case; what has no host is reported.

    Paths keep their letter case, since hosts tell it apart (RFC 3986 section 6.2.2.1).
    """
    made = text.strip().strip("<>\"'").rstrip(",;")
    made = _TWICE.sub("", _SLIP.sub(r"\1://", made))
    ours = made.lower().startswith(("http:", "https:")) or _PORT.match(made)
    if _SCHEME.match(made) and not ours:
        return LEFT  # another scheme: no affair of this rule
    scheme, mark, rest = made.partition("://")
    if not mark:
        scheme, rest = "https", made
    found = _HOST.match(rest)
    if found is None or any(char.isspace() for char in rest):
        return Verdict(doubt="not a web address")
    made = f"{scheme.lower()}://{found[0].lower()}{rest[found.end() :]}"
    return LEFT if made == text else Verdict(made)


RULES = (
    Rule("url-form", ("url",), "web addresses with their scheme, the host in lower case",
         (("url", "www.Example.org/Boats", "https://www.example.org/Boats"),
          ("url", "http:/example.org", "http://example.org"),
          ("url", "see my page", "see my page")), url_form),
)  # fmt: skip
