"""Headings read: each with the few things that it may mean, the likeliest first."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from itertools import product
from typing import NamedTuple

from roundcard.card.paths import parse
from roundcard.errors import PathError
from roundcard.layouts.drafting.meaning import Meant, together
from roundcard.layouts.drafting.near_words import cut_phrases, near_words
from roundcard.layouts.drafting.table_words import (
    Worded,
    tell_groups,
    tell_only_address,
    tell_people,
    worded,
)
from roundcard.layouts.drafting.vocabulary import vocabulary
from roundcard.layouts.drafting.words import tokens, unspaced

_ASIDE = re.compile(r"[(\[（【](?!\d+[\]）】])[^)\]）】]*[)\]）】]|\*+$|[:：]\s*$|e\.?g\..*$")
"""What stands in brackets tells how to fill the column, or nothing."""
_TELLING_FAMILIES = ("use/", "name/", "phone/", "position/", "address/")
_TELLING_ASIDE = ("is/someone-else", "org", "birthday/year")
_LINKS = ("", "s", "es", "n", "en", "e", "er", "-")
"""Letters between the parts of a compound word."""
_SHORTEST_STEM = 5
_ENDINGS = frozenset("aeiouysnmrtéаеиоуыйюяімхηςαουν")
"""Letters that endings of words are made of."""
_MOST_WAYS = 24
_MOST_MEANINGS = 96
_UNKNOWN = 2.5
_FOREIGN = 2.0
_NUMBER_WORDS = frozenset(("nr", "no", "number", "num", "nummer", "n", "c", "br", "sz"))
_GUESSED = 0.9
"""What a word costs that is guessed at."""
_LONGEST_CUT = 3
"""Words of a phrase whose last one was cut short."""
_STEP = 0.04
_SPOKEN = 0.25
"""How much a language must speak out of a table for its words to be known in other forms."""

_Keys = dict[str, frozenset[str]]


class Segment(NamedTuple):
    """A stretch of a heading, with what it stands for; no keys where it is not known."""

    text: str
    keys: tuple[tuple[str, frozenset[str]], ...]
    number: int = 0
    bent: bool = False
    """Whether another form of the word is known, and not this one."""


@dataclass(frozen=True, slots=True)
class HeadingRead:
    """A heading and what it may mean."""

    heading: str
    meant: tuple[Meant, ...]
    """The likeliest first; empty where nothing in it is known."""
    unknown: tuple[str, ...] = ()
    """Words that are not known, in the likeliest reading."""
    is_path: bool = False
    """Whether the heading is a field path itself."""
    weak: bool = False
    """Whether something is known and something else beside it is not."""
    silent: bool = False
    """Whether the heading is a letter or a number that says nothing."""
    group: str = ""
    """The name of the group of columns to which it belongs."""
    apart: bool = False
    """Whether it is of somebody who is not the contact of the table."""
    moved: str = ""
    """Why another column's heading is read for this one, where that is so."""

    @property
    def said(self) -> str:
        """The heading, where it says anything."""
        return "" if self.silent else self.heading

    @property
    def best(self) -> Meant | None:
        """The likeliest meaning."""
        return self.meant[0] if self.meant else None


def read_headings(
    headings: Sequence[str], persons: Sequence[float] | None = None
) -> list[HeadingRead]:
    """Read the headings of one table together: its language is told from all of them.

    `persons` are the shares of names of people in the cells of the columns, where they were looked
    at.
    """
    strip = _shared_beginning(headings)
    found = worded(headings, lambda heading: _worded(heading, strip))
    prior = _languages([each.words for each in found])

    def reading(words: Sequence[str]) -> str:
        read = _read("", words, prior)
        if read.best is None:
            return ""
        if read.weak:
            return "?"
        if read.best.paths:
            path = read.best.paths[0]
            return f"{path.field}/{path.part}".rstrip("/")
        return read.best.sort

    if persons is not None:
        tell_people(found, reading, persons)
    tell_groups(found, reading)
    tell_only_address(found, reading)
    paths = [_as_path(heading) for heading in headings]
    ours = _are_paths(headings, paths)
    return [
        HeadingRead(heading.strip(), (path,), is_path=True)
        if path is not None and (ours or "/" in heading)
        else _as_told(_read(heading.strip(), each.words, prior), each)
        for heading, each, path in zip(headings, found, paths, strict=True)
    ]


def _as_told(read: HeadingRead, told: Worded) -> HeadingRead:
    """A heading as what the whole table tells of it."""
    meant = (Meant("custom", cost=0.0),) if told.apart else read.meant
    if told.place:
        meant = tuple(each.at_place(told.place) for each in meant)
    return replace(read, meant=meant, unknown=() if told.apart else read.unknown,
                   weak=read.weak and not told.apart, silent=told.silent,
                   group=told.group or told.person, apart=told.apart)  # fmt: skip


def numbers_things(heading: str) -> bool:
    """Whether a heading has a word for a number behind another word: ``Os. č.``, ``Таб. №``."""
    words = tokens(heading)
    return len(words) > 1 and words[-1] in _NUMBER_WORDS


def languages_of(headings: Sequence[str]) -> dict[str, float]:
    """How much each language speaks out of the headings; the strongest has 1."""
    return _languages([_worded(heading, "") for heading in headings])


def known_headings(cells: Sequence[str]) -> int:
    """How many cells of a row read as headings that are known."""
    known = 0
    for cell in cells:
        if not 0 < len(cell.strip()) <= 60:
            continue
        known += _is_heading(cell.strip())
    return known


def uses_said(cell: str) -> tuple[str, ...]:
    """The uses that a cell names ("mobil", "Fax privat"); none where it says something else."""
    read = _read(cell.strip(), _worded(cell, ""), {})
    for meant in read.meant:
        if meant.sort == "use":
            return meant.uses
        if meant.sort == "field" and meant.path is not None and meant.path.uses:
            return meant.path.uses
    return ()


@lru_cache(maxsize=4096)
def _is_heading(cell: str) -> bool:
    """Whether a cell, for itself, is a heading that is known."""
    words = ["1" if word == "0" else word for word in _worded(cell, "")]  # an index from 0
    read = _read(cell, words, {})
    return bool(read.meant) and not read.weak and read.meant[0].sort in ("field", "custom", "use")


def _worded(heading: str, strip: str) -> list[str]:
    plain = _ASIDE.sub(_aside, heading)
    found = tokens(plain) or tokens(heading)
    if strip and len(found) > 1 and found[0] == strip:
        return found[1:]
    return found


def _aside(found: re.Match[str]) -> str:
    """What stands in brackets, where it is known ("home") and tells more than how to fill in."""
    words = tokens(found[0])
    way = next(_ways(tuple(words)), ())
    known = all(segment.keys for segment in way)
    if known and any(unspaced(word) for word in words):
        telling = any(key == "custom" for segment in way for key, _ in segment.keys)
    else:
        telling = False
    telling = telling or any(key in _TELLING_ASIDE or key.startswith(_TELLING_FAMILIES)
                  for segment in way for key, _ in segment.keys)  # fmt: skip
    return f" {' '.join(words)} " if words and known and telling else " "


def _shared_beginning(headings: Sequence[str]) -> str:
    """A first word that most headings share and that says nothing (``member_name``)."""
    first = Counter(words[0] for heading in headings if len(words := tokens(heading)) > 1)
    if not first:
        return ""
    word, times = first.most_common(1)[0]
    if times < 4 or times < 0.6 * len(headings) or word.isdecimal():
        return ""
    behind = {words[1] for heading in headings if len(words := tokens(heading)) > 2
              and words[0] == word}  # fmt: skip
    if {"1", "2"} <= behind or {"a", "b"} <= behind:
        return ""  # partner 1 and partner 2 are two people
    keys = vocabulary().phrases.get(word, {})
    saying = {key for key in keys if key not in ("is/filler", "is/someone-else", "custom")}
    return "" if saying and not set(keys) & {"is/filler", "is/someone-else"} else word


def _languages(worded: Sequence[Sequence[str]]) -> dict[str, float]:
    votes: dict[str, float] = defaultdict(float)
    for words in worded:
        for segment in next(_ways(tuple(words)), ()):
            keys = [languages for key, languages in segment.keys if key != "is/filler"]
            said = frozenset[str]().union(*keys)
            for language in said:
                votes[language] += 1 / len(said)
    if not votes:
        return {}
    most = max(votes.values())
    return {language: share / most for language, share in votes.items()}


def _read(heading: str, words: Sequence[str], prior: dict[str, float]) -> HeadingRead:
    read = _as_it_stands(heading, words, prior)
    if not read.unknown or (read.meant and not read.weak):
        return read
    guessed: dict[object, Meant] = {}
    for near, tried in _guesses(words, read.unknown[:2], prior):
        for meant in _as_it_stands(heading, tried, prior).meant[:2]:
            place = tuple([replace(path, position=0) for path in meant.paths])
            if meant.sort == "field" and meant.cost < _UNKNOWN and place not in guessed:
                guessed[place] = replace(meant.dearer(_GUESSED), guessed=near)
    if not guessed:
        return read
    surer = tuple(each for each in read.meant if each.paths not in guessed)
    return replace(read, meant=(*surer, *guessed.values()))


def _guesses(
    words: Sequence[str], unknown: Sequence[str], prior: dict[str, float]
) -> Iterator[tuple[str, list[str]]]:
    """What may stand for words that are not known, and the words with it in their place."""
    if words[-1:] == unknown[-1:]:  # a heading is cut at its end
        for size in range(_LONGEST_CUT, 1, -1):
            for phrase in cut_phrases(" ".join(words[-size:])) if size <= len(words) else ():
                yield phrase, [*words[:-size], *phrase.split()]
    languages = frozenset(each for each, share in prior.items() if share >= _SPOKEN)
    for strange in unknown:
        for near in near_words(strange, languages):
            yield near, [near if word == strange else word for word in words]


def _as_it_stands(heading: str, words: Sequence[str], prior: dict[str, float]) -> HeadingRead:
    """A heading read without a guess at words that are not known."""
    best: dict[object, Meant] = {}
    unknown: tuple[str, ...] = ()
    least = 99.0
    for way in _ways(tuple(words)):
        way = tuple(_spoken(segment, prior) for segment in way)
        strange = tuple(segment.text for segment in way if not segment.keys and not segment.number)
        numbers = [segment.number for segment in way if segment.number]
        known = [segment.keys for segment in way if segment.keys]
        cost: float = _UNKNOWN * len(strange) + _STEP * max(len(known) - 1, 0)
        if cost < least:
            least, unknown = cost, strange
        for chosen in _choices(known):
            keys = [key for key, _ in chosen]
            meant = together(keys, numbers)
            if meant is None:
                continue
            far = sum(_foreign(languages, prior) for _, languages in chosen)
            meant = meant.dearer(cost + far)
            if meant.joined and all(word in _NUMBER_WORDS for word in words):
                meant = replace(meant, bare=True)
            place = (meant.sort, meant.paths, meant.uses, meant.position, meant.part)
            if place not in best or best[place].cost > meant.cost:
                best[place] = meant
    ordered = sorted(best.values(), key=lambda meant: meant.cost)
    near = tuple(meant for meant in ordered if meant.cost <= ordered[0].cost + 1.2)[:6]
    weak = bool(near) and near[0].cost >= _UNKNOWN
    return HeadingRead(heading, near, unknown, weak=weak)


def _spoken(segment: Segment, prior: dict[str, float]) -> Segment:
    """A segment as the table's languages understand it: another form of a word of theirs."""
    if not segment.bent or not prior:
        return segment
    keys = tuple(
        (key, languages)
        for key, languages in segment.keys
        if any(prior.get(language, 0.0) >= _SPOKEN for language in languages)
    )
    return segment._replace(keys=keys)


def _as_path(heading: str) -> Meant | None:
    """A heading that is a field path itself."""
    if " / " in heading or heading != heading.strip() or heading[:1].isupper():
        return None
    try:
        path = parse(heading)
    except PathError:
        return None
    if path.field in ("name", "address") and not path.part:
        return None
    return Meant("field", (path,))


def _are_paths(headings: Sequence[str], paths: Sequence[Meant | None]) -> bool:
    """Whether a table is headed by field paths: most headings are, some of them unmistakably."""
    telling = any(path and "/" in heading for heading, path in zip(headings, paths, strict=True))
    return telling and sum(path is not None for path in paths) >= 0.6 * len(paths)


def _choices(
    known: Sequence[tuple[tuple[str, frozenset[str]], ...]],
) -> Iterator[tuple[tuple[str, frozenset[str]], ...]]:
    """Each way to take one meaning of each segment, as many as are looked at."""
    for number, chosen in enumerate(product(*known)):
        if number >= _MOST_MEANINGS:
            return
        yield chosen


def _foreign(languages: frozenset[str], prior: dict[str, float]) -> float:
    """What a word costs that is not of the table's language."""
    if not prior:
        return 0.0
    spoken = max((prior.get(language, 0.0) for language in languages), default=0.0)
    return _FOREIGN * (1 - spoken) ** 2


@lru_cache(maxsize=4096)
def _all_ways(words: tuple[str, ...]) -> tuple[tuple[Segment, ...], ...]:
    found = sorted(_segmented(words), key=_way_cost)[:_MOST_WAYS]
    return tuple(found) or ((),)


def _ways(words: tuple[str, ...]) -> Iterator[tuple[Segment, ...]]:
    """The ways to part the words into phrases, the best first."""
    yield from _all_ways(words[:14])


def _way_cost(way: tuple[Segment, ...]) -> tuple[int, int, int]:
    unknown = sum(1 for segment in way if not segment.keys and not segment.number)
    fillers = sum(1 for s in way if s.keys and all(key == "is/filler" for key, _ in s.keys))
    return unknown, len(way) - fillers, len(way)


def _segmented(words: tuple[str, ...]) -> Iterator[tuple[Segment, ...]]:
    """Ways to part the words; longer phrases first, and not endlessly many."""
    budget = [200]

    def from_(at: int) -> Iterator[tuple[Segment, ...]]:
        if budget[0] <= 0:
            return
        if at == len(words):
            budget[0] -= 1
            yield ()
            return
        for size in range(min(vocabulary().longest, len(words) - at), 0, -1):
            heads = _heads(words[at : at + size])
            if heads:
                for rest in from_(at + size):
                    yield (*heads, *rest)
        if not _heads(words[at : at + 1]):
            for rest in from_(at + 1):
                yield (Segment(words[at], ()), *rest)

    return from_(0)


def _heads(words: tuple[str, ...]) -> tuple[Segment, ...]:
    """The segments that a stretch of words is; none where it is not known."""
    phrase = " ".join(words)
    known = vocabulary().phrases.get(phrase)
    if known:
        return (Segment(phrase, tuple(known.items())),)
    if len(words) == 1:
        if phrase.isdecimal():
            return (Segment(phrase, (), int(phrase)),) if len(phrase) < 4 and int(phrase) else ()
        return _compound(phrase) or _inflected(phrase)
    glued = vocabulary().phrases.get("".join(words)) if len(words) == 2 else None
    return (Segment(phrase, tuple(glued.items())),) if glued else ()


@lru_cache(maxsize=4096)
def _compound(word: str) -> tuple[Segment, ...]:
    """The known words that a word is put together from; none where a part is not known."""
    if unspaced(word):
        return _characters(word)
    smallest = 2 if "\uac00" <= word[0] <= "\ud7a3" else 3  # syllables of Hangul say more
    if not 2 * smallest <= len(word) <= 48:
        return ()
    phrases = vocabulary().phrases
    best: dict[int, tuple[Segment, ...]] = {len(word): ()}
    for start in range(len(word) - 1, -1, -1):
        for end in range(len(word), start + smallest - 1, -1):
            known = phrases.get(word[start:end])
            if known is None:
                continue
            for link in _LINKS:
                after = end + len(link)
                if link and (after >= len(word) or not word.startswith(link, end)):
                    continue
                rest = best.get(after)
                if rest is None:
                    continue
                if start not in best or len(rest) + 1 < len(best[start]):
                    best[start] = (Segment(word[start:end], tuple(known.items())), *rest)
    found = best.get(0, ())
    return found if 1 < len(found) < 5 and _share_language(found) else ()


@cache
def _stems() -> dict[str, list[str]]:
    """Single words of the vocabulary by their first letters."""
    found: dict[str, list[str]] = {}
    for phrase in vocabulary().phrases:
        if " " not in phrase and len(phrase) >= _SHORTEST_STEM and not unspaced(phrase):
            found.setdefault(phrase[:_SHORTEST_STEM], []).append(phrase)
    return found


def _same_beginning(one: str, other: str) -> int:
    """How many characters two words begin with alike."""
    for at, (a, b) in enumerate(zip(one, other, strict=False)):
        if a != b:
            return at
    return min(len(one), len(other))


@lru_cache(maxsize=4096)
def _inflected(word: str) -> tuple[Segment, ...]:
    """The known word of which this is another form ("Telefonu", "privates")."""
    near = []
    for phrase in _stems().get(word[:_SHORTEST_STEM], ()):
        same = _same_beginning(word, phrase)
        endings = word[same:] + phrase[same:]
        if same < max(len(word), len(phrase)) - 2 or abs(len(word) - len(phrase)) > 2:
            continue
        if all(char in _ENDINGS for char in endings):
            near.append((len(endings), phrase))
    if not near:
        return ()
    _, phrase = min(near)
    return (Segment(word, tuple(vocabulary().phrases[phrase].items()), bent=True),)


def _share_language(segments: Sequence[Segment]) -> bool:
    of_each = [frozenset[str]().union(*(said for _, said in s.keys)) for s in segments]
    return bool(frozenset.intersection(*of_each))


def _characters(word: str) -> tuple[Segment, ...]:
    """A word of a script without spaces, parted so that the least of it is unknown."""
    phrases = vocabulary().phrases
    best: list[tuple[int, int, tuple[Segment, ...]]] = [(0, 0, ())] * (len(word) + 1)
    for start in range(len(word) - 1, -1, -1):
        unknown, count, rest = best[start + 1]
        if word[start].isdecimal():
            number = int(word[start]) if word[start] != "0" else 0
            choice = (unknown, count + 1, (Segment(word[start], (), number), *rest))
        else:
            choice = (unknown + 1, count + 1, (Segment(word[start], ()), *rest))
        for end in range(start + 1, len(word) + 1):
            known = phrases.get(word[start:end])
            if known is None:
                continue
            strange, pieces, after = best[end]
            if (strange, pieces + 1) < choice[:2]:
                segment = Segment(word[start:end], tuple(known.items()))
                choice = (strange, pieces + 1, (segment, *after))
        best[start] = choice
    unknown, _, found = best[0]
    if unknown >= len(word):
        return ()
    return _merged(found)


def _merged(segments: Sequence[Segment]) -> tuple[Segment, ...]:
    """Segments with neighbouring unknown characters as one."""
    out: list[Segment] = []
    for segment in segments:
        strange = not segment.keys and not segment.number
        if strange and out and not out[-1].keys and not out[-1].number:
            out[-1] = out[-1]._replace(text=out[-1].text + segment.text)
        else:
            out.append(segment)
    return tuple(out)
