"""Telling the character set of a text from its octets, with how sure that is.

Each candidate reads the words that are not plain ASCII; a reading is good where each word's
letters belong to one language that was saved in that set, with no sign and no capital inside a
word. Names are short and few, so that statistics of running text would say little here.
"""

from __future__ import annotations

import codecs
import math
import re
from collections import Counter
from collections.abc import Iterable
from functools import lru_cache
from itertools import chain, pairwise
from typing import NamedTuple

from roundcard.formats.alphabets import MULTI, SINGLE, Alphabet

MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"),
         (codecs.BOM_UTF16_BE, "utf-16"))  # fmt: skip
"""Byte order marks, and the encodings that they name."""
EVIDENCE = 24_576
"""Octets of telling lines that are weighed."""

_WORD = re.compile(r"[^\x00-\x40\[-`{-\x7f\s]+")
_MOST_WORDS = 600
_UTF8_SHARE = 0.8
"""The share of telling lines that are UTF-8 from which a file is UTF-8 with damaged lines."""
_BAD, _ODD = -4.0, -1.5
_LANGUAGE = 1.2
"""What each further language costs a reading."""
_SIGNS = frozenset("€£§°–—‘’“”„«»…·•№®©™´¿¡ªº\u00a0½¼²³×")
"""Signs that stand in the texts of address books, outside of words."""
_BEFORE, _AFTER = "„«»“‘’–—¿¡", "”“»«’‘–—…ªº"
"""Signs that stand right before and right after words."""
_INNER = frozenset("’´·–")
"""Signs that stand within words."""
_WIDEST = 40
"""Lead octets of the widest range in `MULTI`."""
_CODECS = {"shift_jis": "cp932"}
"""What files in a set really are in: the superset that the programs write."""


class Guess(NamedTuple):
    """A character set, and how sure it is, 0 to 1."""

    encoding: str
    sureness: float


def mark_of(sample: bytes) -> str:
    """The encoding that a byte order mark names; empty where there is no mark."""
    return next((encoding for mark, encoding in MARKS if sample.startswith(mark)), "")


def wide_of(sample: bytes) -> str:
    """The UTF-16 without a mark in which a text begins: so read, it is nothing but text."""
    begin = sample[:2000]
    if len(begin) < 4 or b"\0" not in begin:
        return ""
    for wide in ("utf-16-le", "utf-16-be"):
        text = begin[: len(begin) // 2 * 2].decode(wide, "ignore")
        plain = sum(1 for char in text if char < "\x7f")
        if plain * 10 > len(text) and all(char.isprintable() or char.isspace() for char in text):
            return wide
    return ""


def telling(chunks: Iterable[bytes]) -> bytes:
    """The first lines of a text that hold more than ASCII, `EVIDENCE` octets of them at the most.

    `chunks` may cut lines anywhere.
    """
    found: list[bytes] = []
    size = 0
    held = b""
    for chunk in chain(chunks, (b"\n",)):
        if chunk.isascii() and held.isascii():
            block = held + chunk
            held = block[block.rfind(b"\n") + 1 :][-EVIDENCE:]
            continue
        *lines, held = (held + chunk).split(b"\n")
        for line in lines:
            if not line.isascii():
                found.append(line[: EVIDENCE // 4])
                size += len(found[-1])
                if size >= EVIDENCE:
                    return b"\n".join(found)
        held = held[-EVIDENCE:]
    return b"\n".join(found)


@lru_cache(maxsize=64)
def guess(octets: bytes) -> Guess:
    """The character set of a text, from what `telling` took out of it.

    Text in ASCII alone is UTF-8 as surely as anything.
    """
    if octets.isascii():
        return Guess("utf-8", 1.0)
    lines = octets.split(b"\n")
    valid = sum(1 for line in lines if _decodes(line, "utf-8"))
    high = sum(1 for line in lines if not line.isascii())
    share = (valid - len(lines) + high) / high
    if share >= _UTF8_SHARE:
        return Guess("utf-8", share if share < 1 else 0.99)
    scores = _scores(octets)
    if not scores:
        return Guess("windows-1252", 0.0)
    best = max(scores, key=lambda name: scores[name])
    said = octets.decode(best, "replace")
    # a set that reads the very same text is no doubt
    doubts = [score for name, score in scores.items() if octets.decode(name, "replace") != said]
    doubt = sum(math.exp(score - scores[best]) for score in doubts)
    return Guess(_CODECS.get(best, best), 1 / (1 + doubt))


def plainly_not(encoding: str, octets: bytes) -> bool:
    """Whether the telling lines of a text plainly are not in an encoding: most are not UTF-8 where
    that was expected, or all are where a set of one octet a character was."""
    if octets.isascii():
        return False
    name = codecs.lookup(encoding).name
    if name == "utf-8":
        return guess(octets).encoding != "utf-8"
    return _decodes(octets, "utf-8") and not name.startswith("utf")


def _decodes(octets: bytes, encoding: str) -> bool:
    try:
        octets.decode(encoding)
    except UnicodeDecodeError:
        return False
    return True


def _scores(octets: bytes) -> dict[str, float]:
    """How well each character set reads a text, as natural logarithms; higher is better."""
    scores: dict[str, float] = {}
    for name, rarity, alphabets in SINGLE:
        text = octets.decode(name, "replace")
        scores[name] = _single(_words(text), alphabets) + _signs(text) - rarity
    for name, rarity, level, leads in MULTI:
        if not _decodes(octets, _CODECS.get(name, name)):
            continue
        words = _words(octets.decode(_CODECS.get(name, name)))
        scores[name] = sum(_multi(word, level, leads) for word in words) - rarity
    return scores


def _words(text: str) -> list[str]:
    """The different words that hold more than ASCII; each says something once."""
    words = dict.fromkeys(_WORD.findall(text))
    return [word for word in words if not word.isascii()][:_MOST_WORDS]


def _single(words: list[str], alphabets: dict[str, Alphabet]) -> float:
    """How likely words are in some languages, the fewest of them that explain the words."""
    total = 0.0
    open_words: list[dict[str, float]] = []
    for word in words:
        core = word.lstrip(_BEFORE).rstrip(_AFTER)
        beyond = {char for char in core.lower() if char > "\x7f"} - _INNER
        if not beyond or (len(core) == 1 and core in _SIGNS):
            continue
        if not all(char.isalpha() for char in beyond):
            total += _BAD
            continue
        if not (core.islower() or core.isupper()):
            total += sum(_ODD for a, b in pairwise(core) if a.islower() and b.isupper())
        fitting = {name: _fit(core, beyond, each) for name, each in alphabets.items()}
        open_words.append({name: score for name, score in fitting.items() if score > _BAD})
    while open_words:
        # the language that the most words fit explains them; each further one makes it less likely
        fits = Counter(name for scores in open_words for name in scores)
        if not fits:
            break
        name = max(fits, key=lambda each: (fits[each], -alphabets[each].rarity))
        total += sum(scores[name] for scores in open_words if name in scores)
        total -= _LANGUAGE + alphabets[name].rarity
        open_words = [scores for scores in open_words if name not in scores]
    return total + _BAD * len(open_words)


def _fit(core: str, beyond: set[str], alphabet: Alphabet) -> float:
    """How well a word fits an alphabet; `_BAD` where it does not."""
    if not beyond <= alphabet.letters:
        return _BAD
    if alphabet.never is not None and alphabet.never.search(core.lower()):
        return _BAD
    if alphabet.latin:
        many = sum(1 for char in core if char > "\x7f")
        return max(1.0 * min(1 + len(core) // 2 - many, 0), _BAD / 2)
    if any("a" <= char <= "z" for char in core.lower()):
        return _BAD
    cased = core[0].lower() != core[0].upper()
    return 0.2 * min(len(core), 6) - 0.3 * (cased and core[0].islower())


def _signs(text: str) -> float:
    """What characters outside of words say: drawing characters and control codes are no text."""
    odd = {
        char
        for char in set(text)
        if char > "\x7f" and not char.isalpha() and char not in _SIGNS and not char.isspace()
    }
    return _ODD * len(odd)


def _multi(word: str, level: str, leads: tuple[int, int]) -> float:
    """How usual the characters of a word are in a script of thousands of them."""
    usual = 0.4 + math.log(_WIDEST / (leads[1] - leads[0] + 1)) / 2
    score = 0.0
    for char in word:
        if char <= "\x7f":
            score -= 1.0 if char.isalpha() else 0.0
        elif "\u3041" <= char <= "\u30ff" and level == "euc_jp":
            score += 0.5
        elif "\uff61" <= char <= "\uff9f":
            score -= 0.7
        elif "\ue000" <= char <= "\uf8ff":
            score += _BAD
        else:
            octets = char.encode(level, "ignore")
            fits = bool(octets) and leads[0] <= octets[0] <= leads[1]
            score += usual if fits else -1.0 if char.isalpha() else -0.1
    return score
