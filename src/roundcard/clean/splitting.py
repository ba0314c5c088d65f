"""Whole names split into their parts, where that is sure.

The words that tell (titles, suffixes, given names, organisations) are those of the vocabulary of
headings and cells; what is said here are the rules of order.
"""

from __future__ import annotations

import re
from functools import cache, lru_cache
from operator import gt
from typing import NamedTuple

from roundcard.clean.name_words import (
    BETWEEN,
    CUT_PARTICLES,
    ENDINGS,
    HOUSEHOLDS,
    INITIAL,
    LEADING,
    PARTICLES,
    POSSESSIVE,
    TRADES,
    TURNED,
    headings,
    is_compound,
    is_given,
    is_organisation,
    is_particle,
    may_be_none,
    of_offices,
    organisations,
)
from roundcard.clean.unspaced_names import split_unspaced
from roundcard.layouts.drafting.vocabulary import vocabulary
from roundcard.values.text import bare
from roundcard.values.word_lists import word_list

_DOTTED = frozenset(("jun", "sen", "sr", "snr", "jnr"))
"""Suffixes that are names, too, where no point stands behind them and nothing else tells."""
_TITLE_ONLY = frozenset(("sir", "dame", "lord", "lady", "don", "dona"))
_GIVEN_BEHIND = _TITLE_ONLY - {"lord", "lady"}
"""Titles behind which a given name stands."""
_TITLES = frozenset(("dr", "mr", "mrs", "ms", "mx", "herr", "herrn", "frau", "fr", "fru", "mme",
                     "mlle", "rev", "revd", "prof", "professor", "sir", "dame", "lord", "lady",
                     "capt", "captain", "dipl", "rer", "hc", "hab", "ssa"))  # fmt: skip
"""Titles, and words that stand within them, that need no point."""
_IN_TITLES = frozenset(("med", "phil", "nat"))
"""Words that stand within titles, in small letters or with a point; else they are names."""
_HISPANIC = frozenset(("ES", "MX", "AR", "CL", "CO", "PE", "VE", "UY", "PY", "BO", "EC", "CR", "PA",
                       "GT", "HN", "NI", "SV", "CU", "DO", "PR"))  # fmt: skip
_FRENCH = frozenset(("FR", "BE", "CH", "LU", "MC"))
_OF_REGIONS = {"M.": _FRENCH, "D.": _HISPANIC, "Dª": _HISPANIC, "D.ª": _HISPANIC}
"""What looks like an initial, and is a title in some countries."""
_FAMILY_FIRST = frozenset(("HU", "JP", "CN", "TW", "HK", "KR", "VN"))
_VIETNAMESE = frozenset(("nguyen", "tran", "le", "pham", "hoang", "huynh", "phan", "vu", "vo",
                         "dang", "bui", "do", "ho", "ngo", "duong", "ly", "dinh", "trinh",
                         "truong", "luong"))  # fmt: skip
_MIDDLE = frozenset(("van", "thi", "duc", "minh", "ngoc", "quang", "thanh", "huu", "xuan", "hong"))
_COMMON = (
    "li wang zhang liu chen yang huang zhao wu zhou xu zhu lin he guo ma luo park choi jung kang "
    "cho yoon jang lim tanaka yamada sato suzuki takahashi watanabe ito nakamura kobayashi"
)
_ROMANISED = frozenset(_COMMON.split())
"""Family names of East Asia that often stand first although the letters are Latin."""
_WITH_ENDING = re.compile(r"[^\W\d_]{2,6}\.[^\W\d_]{1,3}(?<=[a-zà-ÿ])")
"""A title cut short, with its ending behind the point: Sig.ra, Dott.ssa."""
_ODD_SIGN = re.compile(r"[@\d\u00b2\u00b3\u00b9\u2070-\u2089\u2460-\u249b]")
"""What stands in no name: the sign of mail, and digits, small and circled ones, too."""
_ASIDE = re.compile(r"[()\[\]{}\"“”„«»]|\sn[ée]e\s|\bgeb\.|\bs\. ?u\.|\balias\b", re.IGNORECASE)
_AND = re.compile(
    r"\s*[&+/](?:\s*[&+/])*\s*|\s+(?:and|und|u\.|u|et|ed|och|og|ja|en|és|en|и|та|και)\s+",
    re.IGNORECASE,
)
_AND_OR_NAME = re.compile(r"\s+(?:y|e|i)\s+", re.IGNORECASE)
_CYRILLIC = re.compile(r"[\u0400-\u04ff-]+")
_SAINTS = frozenset(("St", "Saint", "Sainte", "San", "Santa"))
"""Words with which family names begin that are called after a saint."""
_DEVOTIONS = frozenset((
    "del carmen", "del pilar", "del mar", "del rosario", "del rocío", "de jesús", "de la luz",
    "de la cruz", "de los ángeles", "de las nieves", "de lourdes", "de fátima", "de lurdes",
    "da conceição", "das dores", "das graças", "do carmo", "da luz", "do rosário",
))  # fmt: skip
"""What stands behind given names of Spain and Portugal, and belongs to them."""
_FIRST = re.compile(r"[^\W_]+")
_IRISH = frozenset(("Ó", "Ní", "Nic", "Uí", "Mac", "Ui", "Ni", "Ua"))
"""Words with which Irish family names begin."""
_PATRONYMIC = re.compile(
    r"\w+(?:ович|евич|ьич|инич|овна|евна|ична|инична|івна|ївна|ovich|evich|yevich|ovych|evych|"
    r"ovna|evna|yevna|ichna|ivna|ovic)"
)
_NOBLE = frozenset(("freiherr", "freifrau", "freiin", "grafin", "baronin", "reichsgraf"))
_DIGNITIES = frozenset(map(bare, word_list(__package__, "dignities")))
"""Titles that could be names: so are short ones of the vocabulary without a point."""


class Split(NamedTuple):
    """The parts of a whole name."""

    parts: tuple[tuple[str, str], ...] = ()
    """Part of the name (as in field paths) and its text; empty where nothing is split."""
    doubt: str = ""
    """Why it is not split, where a person should look."""

    def shown(self) -> str:
        """The parts for a list of changes: ``given Ada · family Weir``."""
        return " · ".join(f"{part} {text}" for part, text in self.parts)


NOTHING = Split()
_NAME, _GIVEN, _LOUD = 1, 2, 4


def split_name(text: str, region: str = "", order: str = "", *, known: bool = False) -> Split:
    """The parts of a whole name.

    `region` is the country of the contact (ISO 3166-1 alpha-2), `order` is ``given`` or
    ``family`` where the book or the user says which of them stands first; both may be empty. With
    `known` nearly all names of the book hold a known given name: one without is none for sure.
    Organisations, single words and addresses of mail are not split, and neither is what could be
    read in two ways: that is a doubt.
    """
    text = " ".join(text.split())
    words = text.split(" ")
    if not text or (not all(map(str.isalpha, words)) and _ODD_SIGN.search(text)):
        return NOTHING
    if (
        len(words) > 1
        and not order
        and region not in _FAMILY_FIRST
        and (found := _plain(words, known=known))
    ):
        return found
    unspaced = split_unspaced(text)
    if unspaced is not None:
        return Split(*unspaced)
    if bare(words[0].rstrip(".")) in HOUSEHOLDS and len(words) > 1:
        return Split(doubt="a household")
    if text.lower().startswith("the hon"):
        words = text.split(" ")[2:]
        found = _worded(" ".join(words), region, order, known=known)
        return _made(dict(found.parts), prefix=text.split(" ")[:2]) if found.parts else found
    if is_organisation(text):
        return NOTHING
    if two := _couple(text):
        return Split(doubt=f"two people in one name: {two[0]} and {two[1]}")
    if _ASIDE.search(text):
        return NOTHING if not _is_person(text) else Split(doubt="it says more than a name")
    if "," in text:
        return _with_comma(text)
    return _worded(text, region, order, known=known)


def _plain(words: list[str], *, known: bool) -> Split | None:
    """The split of two names that can be nothing else, with or without particles before the
    family name; None where that is not told by looking at each word."""
    turned = words[-2][-1] == ","
    given, family = (words[-1], words[-2][:-1]) if turned else (words[0], words[-1])
    before = words[:-2] if turned else words[1:-1]
    first, second = _seen(given), _seen(family)
    if not first or not second or not (turned or first & _LOUD == second & _LOUD):
        return None
    if known and not turned and not (first | second) & _GIVEN:
        return None
    if not before:
        if not turned and second & _GIVEN and not first & _GIVEN:
            return None
    elif not (
        BETWEEN.issuperset(map(str.lower, before))
        and before[0].lower() in (TURNED if turned else LEADING)
        and (turned or not _PATRONYMIC.fullmatch(family.lower()))
    ):
        return None
    return Split((("given", given), ("family", " ".join([*before, family]))))


@lru_cache(maxsize=65_536)
def _seen(word: str) -> int:
    """What is to be known of a word that can be nothing else than a name: `_NAME`, and `_GIVEN`
    for a given name, `_LOUD` for one in capitals; 0 for any other word."""
    plain = word.replace("-", "").replace("'", "").replace("’", "")
    if not plain.isalpha() or len(plain) < 3 or not word[0].isupper():
        return 0
    if word.endswith(POSSESSIVE):
        return 0
    loud = 0 if word[-1].islower() else _LOUD
    lower = bare(word)
    if (loud and not word.isupper()) or lower in _other_words() or not "a" <= lower[0] <= "z":
        return 0
    if word.lower() in TRADES or ENDINGS.search(word) or is_compound(lower):
        return 0
    if "-" in lower and not organisations()[0].isdisjoint(lower.split("-")):
        return 0  # Sport-Club
    first = _FIRST.match(lower)
    given = first is not None and first[0] in vocabulary().cells["given"]
    return _NAME | loud | (_GIVEN if given else 0)


@cache
def _other_words() -> frozenset[str]:
    """Words that tell something else than a name, or tell in which order names stand."""
    return frozenset(("the", "die", "das", "les", "alias")).union(
        PARTICLES, _titles(), _TITLES, _NOBLE, _DIGNITIES, _ROMANISED, _VIETNAMESE, HOUSEHOLDS,
        organisations()[0], vocabulary().cells["suffix"], of_offices(),
    )  # fmt: skip


def reads_as(text: str) -> str:
    """Which of the two words of a whole name is a known given name: ``given`` where it is the
    first alone, ``family`` where it is the second alone, ``both`` or ``none``; empty where it has
    more words or fewer."""
    words = _core(text.split())[1]
    if len(words) != 2:
        return ""
    first, second = (is_given(word) for word in words)
    if first is second:
        return "both" if first else "none"
    return "given" if first else "family"


def _with_comma(text: str) -> Split:
    """Family, Given; or a name with its suffixes behind commas."""
    pieces = [piece.strip() for piece in text.split(",")]
    suffixes: list[str] = []
    while len(pieces) > 1 and all(_is_suffix(word, alone=True) for word in pieces[-1].split()):
        suffixes.insert(0, pieces.pop())
    titles = []
    if len(pieces) == 3 and all(_is_title(word) for word in pieces[2].split()):
        titles.append(pieces.pop())
    if len(pieces) == 1:
        found = _worded(pieces[0], "", "")
        return found if not found.parts else _made(dict(found.parts), suffix=suffixes)
    family, behind = pieces[0].split(), pieces[1].split()
    if len(pieces) > 2 or not family or not behind:
        return Split(doubt="several commas; which parts of the name are they?")
    before, given, after = _core(behind)
    particles: list[str] = []
    while len(given) > 1 and is_particle(given[-1]):
        particles.insert(0, given.pop())
    led = len(family) == 1 or is_particle(family[0])
    if given and not led and not is_given(given[0]) and not INITIAL.fullmatch(given[0]):
        return Split(doubt="what stands behind the comma may be no name")
    if given and is_given(family[0]) and len(family) > 1 and not is_given(given[0]):
        return Split(doubt="what stands behind the comma may be no name")
    return _made(
        {"family": " ".join([*particles, *family]), "given": " ".join(given[:1]),
         "additional": " ".join(given[1:])},
        prefix=[*titles, *before], suffix=[*after, *suffixes],
    )  # fmt: skip


def _worded(text: str, region: str, order: str, *, known: bool = False) -> Split:
    said = text.split()
    titled = len(said) > 2 and region in _OF_REGIONS.get(said[0], ())
    before, words, after = _core(said[1:] if titled else said)
    if titled:
        before = [said[0], *before]
    if not words:
        return NOTHING
    if len(words) == 1:
        title = bare(before[-1].strip(".")) if before else ""
        if not before or title in _GIVEN_BEHIND or (title in _TITLE_ONLY and is_given(words[0])):
            return NOTHING
        return _made({"family": words[0]}, prefix=before, suffix=after)
    led = words[0] in PARTICLES or words[0] in CUT_PARTICLES
    if not before and not led and words[-2] not in _IRISH and may_be_none(words):
        return Split(doubt="it may be no name of a person")
    if known and not before and not order and not any(map(is_given, words)):
        return Split(doubt="it holds no known given name, as nearly all others here do")
    found = _ordered(words, region, order)
    if isinstance(found, str):
        return Split(doubt=found)
    return _made(found, prefix=before, suffix=after)


def _ordered(words: list[str], region: str, order: str) -> dict[str, str] | str:
    """Which words are the family name, or the doubt of it."""
    if len(words) == 3 and (found := _slavic(words)):
        return found
    if len(words) > 2 and words[-2] in _IRISH and not INITIAL.fullmatch(words[-2]):
        return _parts(words[:1], words[1:-2], words[-2:])
    if joined := _joined(words):
        return joined
    if capitals := _capitals(words):
        return capitals
    if len(words) > 2 and bare(words[0]) in _VIETNAMESE and bare(words[1]) in _MIDDLE:
        return _parts(words[-1:], words[1:-1], words[:1])
    if words[0] in PARTICLES or words[0] in CUT_PARTICLES:
        return _parts([], [], words)
    if (size := _devotion(words)) and len(words) > size + 1:
        rest = _ordered([words[0], *words[size + 1 :]], region, order)
        if isinstance(rest, str):
            return rest
        behind = [" ".join(words[1 : size + 1]), rest.get("additional", "")]
        return rest | {"additional": " ".join(filter(None, behind))}
    if start := _particle(words):
        behind = [word for word in words[start:] if not is_particle(word)]
        if len(behind) > 1 and is_given(behind[0]):
            return "which words are the family name is not sure"
        if not all(is_given(word) or INITIAL.fullmatch(word) for word in words[1:start]):
            return "which words are the family name is not sure"
        return _parts(words[:1], words[1:start], words[start:])
    if all(map(INITIAL.fullmatch, words)):
        return "initials alone"
    if all(INITIAL.fullmatch(word) for word in words[1:]) and len(words[0].strip(".")) > 2:
        if len(words) == 2 and is_given(words[0]):
            return _parts(words[:1], [], words[1:])
        return _parts(words[1:2], words[2:], words[:1])
    if order == "family" or (not order and region in _FAMILY_FIRST):
        middle = region == "VN" and len(words) > 2
        given = words[-1:] if middle else words[1:2]
        return _parts(given, words[1:-1] if middle else words[2:], words[:1])
    return _western(words, region, order)


def _devotion(words: list[str]) -> int:
    """How many words behind a given name belong to it, as in ``María del Carmen``."""
    for size in (3, 2):
        if is_given(words[0]) and " ".join(words[1 : size + 1]).lower() in _DEVOTIONS:
            return size
    return 0


def _slavic(words: list[str]) -> dict[str, str] | None:
    """Three words of which one is called after the father: it tells which is the family name."""
    patronymic = [bool(_PATRONYMIC.fullmatch(word.lower())) for word in words]
    if patronymic[2] and not patronymic[1]:
        return _parts(words[1:2], words[2:], words[:1])
    if patronymic[1] and not patronymic[2]:
        return _parts(words[:1], words[1:2], words[2:])
    return None


def _joined(words: list[str]) -> dict[str, str] | None:
    """Two family names with an and between, as in Catalonia, Spain and Portugal."""
    for at in range(2, len(words) - 1):
        if words[at] in ("y", "i", "e") and words[at + 1][:1].isupper():
            if is_given(words[at + 1]) and not is_given(words[at - 1]):
                return None
            first = at - 1
            while first > 1 and is_particle(words[first - 1]):
                first -= 1
            return _parts(words[:1], words[1:first], words[first:])
    return None


def _western(words: list[str], region: str, order: str) -> dict[str, str] | str:
    known = [is_given(word) or bool(INITIAL.fullmatch(word)) for word in words]
    if len(words) == 2:
        small = words[0][0].isupper() and words[1].isalpha() and words[1].islower()
        if small and (not known[0] or bare(words[1]) in headings()):
            return "what is written small may be no name"
        if not order and known[1] and not known[0] and _CYRILLIC.fullmatch(words[0]):
            return _parts(words[1:], [], words[:1])
        if not order and ((known[1] and not known[0]) or bare(words[0]) in _ROMANISED):
            return "which word is the family name is not sure"
        return _parts(words[:1], [], words[1:])
    if len(words) == 3 and known[0] and words[1].strip(".") in _SAINTS:
        return _parts(words[:1], [], words[1:])
    if region in _HISPANIC and len(words) <= 4:
        split = 1 if len(words) == 3 else 2
        made = _parts(words[:1], words[1:split], words[split : split + 1])
        return made | {"family2": words[-1]}
    if len(words) == 3 and not known[0] and is_given(words[1]) and not order:
        return "its first word may be a title"
    if all(known[1:-1]) and len(words) <= 5:
        return _parts(words[:1], words[1:-1], words[-1:])
    return "which words are the family name is not sure"


def _parts(given: list[str], additional: list[str], family: list[str]) -> dict[str, str]:
    return {"family": " ".join(family), "given": " ".join(given),
            "additional": " ".join(additional)}  # fmt: skip


def _made(
    parts: dict[str, str], prefix: list[str] | None = None, suffix: list[str] | None = None
) -> Split:
    """A split with titles before and suffixes behind, in the order of the card's name."""
    ends = [part for part in (parts.get("suffix", ""), *(suffix or [])) if part]
    starts = [part for part in (parts.get("prefix", ""), *(prefix or [])) if part]
    every = parts | {"prefix": " ".join(starts), "suffix": " ".join(ends)}
    order = ("prefix", "given", "additional", "family", "family2", "suffix")
    return Split(tuple((part, every[part]) for part in order if every.get(part)))


def _core(words: list[str]) -> tuple[list[str], list[str], list[str]]:
    """Titles before, the name, suffixes behind."""
    start, end = 0, len(words)
    while start < end - 1 and (_is_title(words[start]) or _is_dignity(words[start:end])):
        start += 1
    while end > start + 1 and _is_suffix(words[end - 1], alone=words[end - 1] != words[-1].title()):
        end -= 1
    if start and end == start + 1 and _is_title(words[start]):
        start += 1
    return words[:start], words[start:end], words[end:]


def _is_dignity(words: list[str]) -> bool:
    """Whether the first of some words, which could be a name, is a title there: a given name stands
    behind it, and a further word; or one word that is none, as in Father Brown."""
    plain = bare(words[0].strip("."))
    if plain not in _DIGNITIES and not (plain in _titles() and len(plain) > 1):
        return False
    if len(words) == 2:
        return plain in _DIGNITIES and not is_given(words[0]) and not is_given(words[1])
    told = is_given(words[1]) or INITIAL.fullmatch(words[1]) or _is_title(words[1])
    return bool(told) and not is_given(words[0])


def bare_given(text: str) -> str:
    """A given name without the titles that stand in its column: ``Edda`` of ``Dr. Edda``."""
    words = text.split()
    if len(words) < 2 or is_given(words[0]):
        return text
    return " ".join(_core(words)[1])


def bare_family(text: str) -> tuple[str, str]:
    """A family name, and the suffixes that stand in its column: ``Weir`` and ``OBE``."""
    words = text.split()
    if len(words) < 2:
        return text, ""
    before, name, after = _core(words)
    return " ".join([*before, *name]).rstrip(","), " ".join(after)


@lru_cache(maxsize=16_384)
def titles_before(text: str) -> tuple[str, str]:
    """The titles that stand before a name in its own column, and the name; no titles where one of
    them could be a name, or no name is left."""
    words = text.split()
    before, name, after = _core(words) if len(words) > 1 else ([], words, [])
    if not name or not all(map(_is_sure_title, before)):
        return "", text
    return " ".join(before), " ".join([*name, *after])


def may_begin_with_title(text: str) -> bool:
    """Whether the first of several words may be a title: a cheap look at it."""
    first = text.lstrip().partition(" ")[0]
    return "." in first or bare(first) in _TITLES


def may_end_with_suffix(text: str) -> bool:
    """Whether the last of several words may be a suffix: a cheap look at it."""
    last = text.rstrip().rpartition(" ")[2].replace(".", "").replace(",", "")
    return bare(last) in vocabulary().cells["suffix"]


def _is_sure_title(word: str) -> bool:
    if _WITH_ENDING.fullmatch(word) or (len(word) > 2 and word.endswith(".")):
        return True
    return bare(word.strip(".")) in _TITLES


@lru_cache(maxsize=16_384)
def suffixes_behind(text: str) -> tuple[str, str]:
    """The suffixes that stand behind a family name in its column, and the name; none where all is
    in capitals, in which a suffix looks like a name."""
    name, after = bare_family(text)
    return (after, name) if after and not name.isupper() else ("", text)


def _particle(words: list[str]) -> int:
    """Where the family name begins with a particle; 0 where it begins with none."""
    for at, word in enumerate(words[1:-1], 1):
        if word.lower() in LEADING or word in CUT_PARTICLES:
            return at
    if re.match(r"(?:al|el)-", words[-1], re.IGNORECASE):
        return len(words) - 1
    return 0


def _capitals(words: list[str]) -> dict[str, str] | None:
    """The family name in capitals, where just one run of words is written so."""
    loud = [_loud(word) for word in words]
    small = [is_particle(word) for word in words]
    within = [False, *small[1:-1], False]  # a particle alone, as in Jan VAN Dyck, tells nothing
    if all(loud) or not any(map(gt, loud, within)):
        return None
    start = loud.index(True)
    end = len(words) - loud[::-1].index(True)
    if not all(loud[at] or small[at] for at in range(start, end)):
        return None
    while start and is_particle(words[start - 1]) and words[start - 1].islower():
        start -= 1
    given = words[:start] + words[end:]
    return _parts(given[:1], given[1:], words[start:end]) if given else None


def _loud(word: str) -> bool:
    letters = [char for char in word if char.isalpha()]
    return len(letters) > 2 and all(char.isupper() for char in letters)


def _couple(text: str) -> tuple[str, str] | None:
    """The names of two people in one text; None where it names one."""
    family, comma, behind = text.partition(",")
    said = behind.strip() if comma else text
    found = _AND.split(said)
    if len(found) == 1:
        pair = _AND_OR_NAME.split(said)
        if len(pair) == 2 and is_given(pair[0].split()[-1]) and is_given(pair[1].split()[0]):
            found = pair
    if len(found) != 2 or not all(found):
        return None
    one, other = found
    shared = family if comma else other.split()[-1]
    words = [word for word in one.split() if not _is_title(word)]
    if comma or len(words) < 2:
        one = f"{one} {shared}"
    return one, f"{other} {shared}" if comma else other


def _is_person(text: str) -> bool:
    return any(is_given(word.strip('()"“”„,.')) for word in text.split())


@lru_cache(maxsize=32_768)
def _is_title(word: str) -> bool:
    plain = bare(word.strip("."))
    if len(plain) < 2:
        return False  # an initial
    if word.islower() and word.endswith("."):
        return True  # a word of a title, as habil. or med.
    if _WITH_ENDING.fullmatch(word):
        return True
    if plain in _IN_TITLES:
        return word.islower() or "." in word
    if plain in _NOBLE or plain in _TITLES or (word.endswith(".") and "-" in word):  # Dipl.-Ing.
        return True
    return plain in _titles() and (word.endswith(".") or len(plain) > 3)


def _is_suffix(word: str, *, alone: bool = False) -> bool:
    """Whether a word is a suffix; `alone` where its place says so, too."""
    plain = bare(word.replace(".", ""))
    if plain not in vocabulary().cells["suffix"]:
        return False
    if plain in _DOTTED:
        return "." in word or plain in ("sr", "snr", "jnr") or (alone and len(plain) > 3)
    large = sum(char.isupper() for char in word)  # CSc., MdB, PhD
    return large > 1 or plain in ("jr", "junior", "senior", "phd", "esq")


@cache
def _titles() -> frozenset[str]:
    return frozenset(word for word in vocabulary().cells["prefix"] if " " not in word)
