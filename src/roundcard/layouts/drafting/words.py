"""The words of a heading: told apart, and brought into one form."""

from __future__ import annotations

import re
import unicodedata

from roundcard.values.text import bare

_UMLAUTS = str.maketrans({"ä": "ae", "ö": "oe", "ü": "ue", "å": "aa", "ø": "oe"})
_NUMERO = re.compile(r"[№]|\b[nN][°º]|\b[nN]\.\s?[°º]")
_SIGNS = {
    "#": " nr ",
    "@": " email ",
    "☎": " phone ",
    "✉": " email ",
    "〒": " 郵便番号 ",
    "🏠": " home ",
}
_CAMEL = re.compile(r"(?<=[a-zà-öø-ÿа-яёα-ω])(?=[A-ZÀ-ÖØ-ÞА-ЯЁΑ-Ω])"
                    r"|(?<=[A-ZÀ-ÖØ-Þ])(?=[A-ZÀ-ÖØ-Þ][a-zà-öø-ÿ])"
                    r"|(?<=[^\W\d_])(?=\d)|(?<=\d)(?=[^\W\d_])")  # fmt: skip
_ORDINAL = re.compile(r"(?<!\w)(\d)(?:ères?|ers?|res?|ème|eme|[eoaªº°])(?!\w)", re.IGNORECASE)
"""A number that counts: ``1er``, ``2ème``, ``3º``."""
_PLAIN_WORDS = re.compile(r"[a-z0-9]+")
_WORDS = re.compile(r"[^\W_]+")
_WITHOUT_MARKS = "\u02ff"
"""Up to here no marks stand behind the letters that they belong to."""
_UNSPACED = re.compile(r"[\u0e00-\u0eff\u3040-\u30ff\u3400-\u9fff\uf900-\ufaff]")


def spellings(text: str) -> set[str]:
    """The forms under which a word of a vocabulary is looked up: without accents, and with its
    umlauts written out."""
    out = unicodedata.normalize("NFC", text.casefold())
    return {" ".join(tokens(form)) for form in (text, out.translate(_UMLAUTS))} - {""}


def tokens(heading: str, *, camel: bool = True) -> list[str]:
    """The words and numbers of a heading, folded: parted at spaces, marks and (with `camel`)
    changes of case.

    ``emailAddress_2`` is ``email``, ``address`` and ``2``.
    """
    if heading.isascii():
        if not camel and not ("#" in heading or "@" in heading):
            return _PLAIN_WORDS.findall(heading.lower())
    else:
        heading = unicodedata.normalize("NFKC", _NUMERO.sub(" nr ", heading))
    for sign, word in _SIGNS.items():
        if sign in heading:
            heading = heading.replace(sign, word)
    heading = _ORDINAL.sub(r"\1 ", heading)
    found: list[str] = []
    for piece in _CAMEL.split(heading) if camel else (heading,):
        if piece and max(piece) <= _WITHOUT_MARKS:
            found += map(bare, _WORDS.findall(piece))
            continue
        word = ""
        for char in piece:
            if unicodedata.category(char)[0] in "LNM":
                word += char
                continue
            if word:
                found.append(bare(word))
            word = ""
        if word:
            found.append(bare(word))
    return [word for word in found if word.strip()]


def unspaced(word: str) -> bool:
    """Whether a word is in a script that puts no spaces between words."""
    return bool(_UNSPACED.search(word))
