"""Several e-mail or web addresses in one value: each a value of its own."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import repeat

from roundcard.card.contact import Contact, Property
from roundcard.card.head import Head, Value, with_params
from roundcard.clean.rule import Around, Reshaped, Reshaping, marked, with_names

_BETWEEN = re.compile(
    r"\s*(?:[;|\n]|,(?=\s|https?://|www\.|\S+@)|\s/\s|\s+(?:and|or|und|oder|et|ou|y|o|e)\s+|"
    r"\s(?=\S+@)|\s(?=https?://|www\.))\s*"
)
_MAIL = re.compile(r"[^\s@<>()\[\],;:\"\\]{1,64}@(?:[^\W_](?:[\w-]{0,61}[^\W_])?\.)+[^\W\d_]{2,63}")
_WEB = re.compile(r"(?:https?://|www\.)[^\s;|]{3,}", re.IGNORECASE)
_FEWEST = 2


def several(text: str, shape: re.Pattern[str], mark: str) -> list[str]:
    """The addresses in a text that holds several and nothing else; none in any other.

    `mark` stands in each of them, so that texts that hold fewer are told at once.
    """
    if text.count(mark) < _FEWEST:
        return []
    pieces = [piece.strip() for piece in _BETWEEN.split(text) if piece.strip()]
    whole = len(pieces) >= _FEWEST and all(shape.fullmatch(piece) for piece in pieces)
    return list(dict.fromkeys(pieces)) if whole else []


def _apart(
    name: str, path: str, shape: re.Pattern[str], mark: str, contact: Contact, _: Around
) -> Iterator[Reshaped]:
    for at, prop in enumerate(contact.properties):
        found = several(prop.text, shape, mark) if prop.head.name == name else []
        if len(found) < _FEWEST:
            continue
        origin = marked(prop.origin_of(0))
        later = with_params(prop.head, pref=None)
        others = (Property(later, each, origin) for each in found[1:])
        yield Reshaped(at, (prop.replaced(found[0], origin), *others), path, prop.text,
                       " · ".join(found))  # fmt: skip


def _may_be_apart(
    name: str, mark: str, heads: Sequence[Head], _: Sequence[bool],
    columns: Sequence[Sequence[Value]],
) -> Iterator[int]:  # fmt: skip
    for head, column in zip(heads, columns, strict=True):
        if head.name == name:
            counts = map(str.count, map(str, column), repeat(mark))
            yield from (at for at, count in enumerate(counts) if count >= _FEWEST)


def _rule(
    name: str, what: str, field: str, shape: re.Pattern[str], mark: str,
    examples: tuple[tuple[str, str, str], ...],
) -> Reshaping:  # fmt: skip
    work: Callable[[Contact, Around], Iterator[Reshaped]] = partial(
        _apart, field, field, shape, mark
    )
    return Reshaping(name, (field,), what, examples, work, with_names(field),
                     may=partial(_may_be_apart, field, mark), grows=True)  # fmt: skip


EMAILS = _rule(
    "email-apart", "several e-mail addresses in one value apart", "email", _MAIL, "@",
    (("email", "ada@example.org; a.weir@example.net", "ada@example.org · a.weir@example.net"),
     ("email", "ada@example.org (Ada)", "ada@example.org (Ada)")),
)  # fmt: skip
URLS = _rule(
    "url-apart", "several web addresses in one value apart", "url", _WEB, ".",
    (("url", "www.example.org, www.example.net", "www.example.org · www.example.net"),
     ("url", "www.example.org/a,b", "www.example.org/a,b")),
)  # fmt: skip
