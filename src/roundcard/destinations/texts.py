"""Single values as a destination takes them: style, characters, length; functions of a text."""

from __future__ import annotations

import regex

from roundcard.card.paths import FieldPath
from roundcard.clean.countries import country_code, country_name
from roundcard.destinations.model import Destination, Length
from roundcard.values.nearest import in_basic_plane, nearest, writes
from roundcard.values.phones import in_form, split_extension

BREAK = " / "
"""What a line break becomes where there are none."""
_CLUSTERS = regex.compile(r"\X")
_CUT = frozenset({"name", "nickname", "org", "title", "role", "address", "note", "category",
                  "custom", "birthplace", "deathplace", "expertise", "hobby", "interest",
                  "pronouns"})  # fmt: skip
"""Fields of which a beginning says something; of others (an address of mail, a number) it would be
another value."""


def styled(text: str, path: FieldPath, to: Destination, region: str) -> str:
    """A telephone number or a country in the destination's form, as far as it can be told."""
    if path.field == "phone" and to.style.phone not in ("", "as-typed"):
        return _number(text, to.style.phone, region)
    if path.field == "address" and path.part == "country" and to.style.country:
        code = country_code(text)
        if not code:
            return text
        return code if to.style.country == "code" else country_name(code, to.style.country) or text
    return text


def _number(text: str, form: str, region: str) -> str:
    if form == "digits":
        if split_extension(text)[1]:
            return text  # digits alone would be another number
        text = in_form(text, region).text or text
        digits = "".join(char for char in text if char.isdecimal())
        return digits if digits.isascii() and digits else text
    return in_form(text, region, form).text or text


def in_characters(text: str, to: Destination) -> str | None:
    """A text in the destination's characters; None where it cannot be said in them."""
    made: str | None = text
    if not to.line_breaks and "\n" in text:
        made = BREAK.join(line.strip() for line in text.split("\n") if line.strip())
    if text.isascii():
        return made
    if not to.beyond_basic_plane and made:
        made = in_basic_plane(made)
    if not made or writes(made, to.charset):
        return made or None
    return nearest(made, to.charset) if to.lacking == "nearest" else None


def cut(text: str, field: str, limit: Length, encoding: str) -> str | None:
    """The beginning of a text that is within a limit, up to the end of a word where there is one in
    its second half, never within a character (UAX #29); None where a beginning says nothing."""
    if field not in _CUT:
        return None
    kept, size, word = "", 0, ""
    for cluster in _CLUSTERS.findall(text):
        size += limit.of(cluster, encoding)
        if size > limit.most:
            break
        if cluster.isspace():
            word = kept
        kept += cluster
    else:
        return text
    rest = text[len(kept) :]
    if rest[:1].isspace():
        word = kept
    if len(word.rstrip()) * 2 >= len(kept):
        kept = word
    return kept.rstrip() or None
