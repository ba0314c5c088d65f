"""The rules for phone numbers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache

from roundcard.card.contact import Contact, Property
from roundcard.card.head import Head, Value, with_params
from roundcard.clean.rule import (
    LEFT,
    Around,
    Reshaped,
    Reshaping,
    Rule,
    Verdict,
    marked,
    with_names,
)
from roundcard.values.phones import LONGEST_ALONE, MAY_SEPARATE, in_form, several


def phone_form(text: str, around: Around) -> Verdict:
    """A possible number in international or national form; what is none, or lacks its country or
    area code, stays as it is and is reported. Several in one cell are each put into form."""
    found = in_form(text, around.region, around.phone)
    return Verdict(found.text, found.doubt) if found.text or found.doubt else LEFT


def phones_apart(contact: Contact, around: Around) -> Iterator[Reshaped]:
    """Each of several numbers in one value as a value of its own."""
    for at, prop in enumerate(contact.properties):
        text = prop.text if prop.head.name == "tel" else ""
        numbers = _apart(text, around.region) if len(text) > LONGEST_ALONE else []
        if not numbers:
            continue
        origin = marked(prop.origin_of(0))
        first = prop.replaced(numbers[0], origin)
        later = with_params(prop.head, pref=None)
        others = (Property(later, number, origin) for number in numbers[1:])
        yield Reshaped(at, (first, *others), "phone", text, " · ".join(numbers))


@lru_cache(maxsize=16_384)
def _apart(text: str, region: str) -> list[str]:
    """The numbers in a long text that holds several; none in any other."""
    return several(text, region) if MAY_SEPARATE.search(text) else []


def _may_be_apart(
    heads: Sequence[Head], _: Sequence[bool], columns: Sequence[Sequence[Value]]
) -> Iterator[int]:
    for head, column in zip(heads, columns, strict=True):
        if head.name == "tel" and max(map(len, column)) > LONGEST_ALONE:
            long = {text for text in column if len(text) > LONGEST_ALONE}
            apart = {text for text in long if _apart(str(text), "")}
            yield from (at for at, text in enumerate(column) if text in apart)


RULES = (
    Rule(
        "phone-form",
        ("phone",),
        "possible numbers in one form, others reported and left",
        (
            ("phone", "+44 (0)1632-960001", "+44 1632 960001"),
            ("phone", "0049 30 23125 001", "+49 30 23125001"),
            ("phone", "960001", "960001"),
        ),
        phone_form,
    ),
)
APART = Reshaping(
    "phone-apart", ("phone",), "several numbers in one value apart",
    (("phone", "01632 960001 / 07700 900001", "01632 960001 · 07700 900001"),
     ("phone", "01632 960001/2", "01632 960001/2")),
    phones_apart, with_names("tel"), may=_may_be_apart, grows=True,
)  # fmt: skip
