"""What the headings of a table say as a whole, before each of them is read for itself.

Garbled headings are read as they were meant; the numbers of a questionnaire say nothing; numbers
count from 1 though they may begin at 0, and letters count as numbers do; words that name a group
of columns and no field are taken off; and it is told whose data the table holds where its headings
name several people.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from roundcard.layouts.drafting.profile import GARBLED
from roundcard.layouts.drafting.vocabulary import vocabulary

_PEOPLE = ("is/someone-else", "related/")
_LEAST_SILENT = 0.6
"""The share of headings of one letter, or of a word for column, from which none says anything."""
_COLUMN = frozenset(("column", "col", "field", "spalte", "colonne", "columna", "feld", "kolom"))
_ADDRESSED = frozenset(
    ("ship", "shipping", "bill", "billing", "invoice", "order", "delivery", "rechnung", "rechnungs",
     "lieferung", "liefer", "versand", "facturation", "livraison", "facturación", "facturacion",
     "envío", "envio", "entrega", "fatturazione", "spedizione", "consegna", "factuur", "levering",
     "bezorging", "faturação", "faturamento", "faktura", "dostawa", "wysyłka", "leverans",
     "fakturering", "fakturační", "dodací", "számlázási", "szállítási", "fatura", "teslimat",
     "请求", "配送", "請求")
)  # fmt: skip
"""Words that may name somebody else, and before the parts of an address name that address."""
_SHORTEST_BEHIND = 4
"""Letters of a word behind one of those, written together with it."""
_LINKING = frozenset(("of", "the", "s", "s'", "de", "des", "der", "von", "van", "del"))
_WHICH = frozenset("abcd123456")
_WHICH_ONE = re.compile(r" [abcd1-6]$")
_LONGEST_PERSON = 3
_NAMED, _SAID_NAMED = 0.5, 0.3
"""The share of names in the cells of a column that holds people, whatever its heading says; and
where it says a word for people alone."""
_RUNNING = re.compile(r"\s*[(\[]?(?:[Qq]|No\.?\s?|Nr\.?\s?)?(\d{1,2})[.):\]]+\s*(?=\D)")
"""The number of a question."""
_FEWEST_RUNNING = 3
_COUNTING = "abcd"
_LEAST_ALONE = 4
"""A number that stands for no place where no other stands beside it: ``zip5``."""
_MOST_WORDS = 14
_NAMES = ("name", "name/full", "name/given", "name/family", "name/additional")
_MEANS = ("phone", "email")

Reading = Callable[[Sequence[str]], str]
"""What some words mean in a table's languages: the field of it, ``?`` where that is not sure, and
nothing where they mean nothing together."""


@dataclass(slots=True)
class Worded:
    """The words of a heading as they are to be read."""

    words: list[str]
    silent: bool = False
    """Whether the heading is a letter or a number that says nothing."""
    group: str = ""
    """What its words begin with that is the name of a group of columns."""
    person: str = ""
    """Whom it names beside the contact; empty for the contact."""
    apart: bool = False
    """Whether it is of somebody who is not the contact of the table."""
    place: int = 0
    """The number of its group among those that hold the same."""
    tokens: list[str] = field(default_factory=list)
    """All its words."""


def readable(heading: str) -> str:
    """A heading as it was meant, where it is text of UTF-8 that was read in another character
    set."""
    if heading.isascii() or not GARBLED.search(heading):
        return heading
    import ftfy  # heavy, and seldom needed

    return ftfy.fix_encoding(heading)


def worded(headings: Sequence[str], split: Callable[[str], list[str]]) -> list[Worded]:
    """The words of all headings; `split` gives those of one."""
    found = [Worded(split(each)) for each in _unnumbered(list(map(readable, headings)))]
    for each in found:
        each.tokens = list(each.words)
    _silence(found)
    _count_letters(found)
    _count_from_one(found)
    return found


def _unnumbered(headings: Sequence[str]) -> Sequence[str]:
    """Headings without the running numbers that only count them."""
    said = [_RUNNING.match(heading) for heading in headings]
    numbers = [int(each[1]) for each in said if each]
    rest = [heading[each.end() :] if each else heading
            for heading, each in zip(headings, said, strict=True)]  # fmt: skip
    counts = len(numbers) >= _FEWEST_RUNNING and numbers == sorted(set(numbers))
    return rest if counts and len(set(rest)) == len(rest) else headings


def _silence(found: Sequence[Worded]) -> None:
    """Headings of one letter each, or numbered columns, say nothing."""
    said = [each for each in found if each.words]
    dumb = [each for each in said if _is_dumb(each.words)]
    if len(dumb) > 1 and len(dumb) >= _LEAST_SILENT * len(said):
        for each in dumb:
            each.words, each.silent = [], True


def _is_dumb(words: Sequence[str]) -> bool:
    if len(words) == 1:
        return words[0].isdecimal() or (len(words[0]) == 1 and words[0].isascii())
    return len(words) == 2 and words[0] in _COLUMN and (words[1].isdecimal() or len(words[1]) == 1)


def _count_letters(found: Sequence[Worded]) -> None:
    """Letters that tell columns of a group apart, from a on, are numbers."""
    for places in _behind_same(found, _COUNTING.__contains__).values():
        if {"a", "b"} <= {each.words[at] for each, at in places}:
            for each, at in places:
                each.words[at] = str(_COUNTING.index(each.words[at]) + 1)


def _count_from_one(found: Sequence[Worded]) -> None:
    """Numbers of a group that begins at 0 count from 1; those that no lower one leads up to count
    nothing."""
    for places in _behind_same(found, str.isdecimal).values():
        numbers = {int(each.words[at]) for each, at in places}
        if 0 in numbers:
            for each, at in places:
                each.words[at] = str(int(each.words[at]) + 1)
        elif len(numbers) == 1 and min(numbers) >= _LEAST_ALONE:
            for each, at in places:
                each.words[at] = ""
    for each in found:
        each.words = list(filter(None, each.words))


def _behind_same(
    found: Sequence[Worded], telling: Callable[[str], bool]
) -> dict[tuple[str, ...], list[tuple[Worded, int]]]:
    """Words that tell which one, by the words that stand before them."""
    first: dict[tuple[str, ...], list[tuple[Worded, int]]] = defaultdict(list)
    for each in found:
        for at, word in enumerate(each.words):
            if at and telling(word):
                first[tuple(each.words[:at])].append((each, at))
    return first


# ── Whose data ───────────────────────────────────────────────────────────────────────────────────


def tell_people(found: Sequence[Worded], reading: Reading, persons: Sequence[float]) -> None:
    """Tell whose data the columns hold; `persons` are the shares of names of people in
    their cells.

    The contact of a table is whom no word names, if there is a name, number or address of such;
    otherwise the one of those who are named that has a name and most numbers and addresses, the
    first of equal ones. Where each of them has a name and no more, and there is no organisation, it
    is the first.
    """
    people: dict[str, list[int]] = defaultdict(list)
    rest: dict[int, list[str]] = {}
    for at, each in enumerate(found):
        person, words = _person(each.words)
        people[person].append(at)
        rest[at] = words
    if len(people) < 2 and "" in people:
        return
    fields = {at: reading(words) if words else "" for at, words in rest.items()}
    merits = {
        person: (
            any(fields[at] in _NAMES for at in columns)
            or any(persons[at] >= (_SAID_NAMED if person else _NAMED)
                   and (not person or not rest[at]) for at in columns)
            or (not person and any(_says_name(rest[at]) for at in columns)),
            sum(fields[at].partition("/")[0] in _MEANS for at in columns),
        )
        for person, columns in people.items()
    }  # fmt: skip
    named = [person for person, (is_named, _) in merits.items() if person and is_named]
    chosen = _whose(people, named, merits)
    if not chosen and not merits.get("", (False, 0))[0] and "org" not in fields.values():
        alone = [person for person in named if not rest[people[person][0]]]
        chosen = alone[0] if alone else ""
    if not chosen:
        return
    for person, columns in people.items():
        for at in columns:
            if not person:
                continue
            found[at].person = person
            if person == chosen:
                found[at].words = rest[at] or ["name"]
            else:
                found[at].apart = True


def _whose(
    people: Mapping[str, Sequence[int]],
    named: Sequence[str],
    merits: Mapping[str, tuple[bool, int]],
) -> str:
    """Which of the people that the headings name is the contact of the table; empty where that is
    whom no word names, or is not plain."""
    several = [person for person in named if len(people[person]) > 1]
    if merits.get("", (False, 0))[0] or not several:
        return ""
    children = [person for person in several if _is_child(person)]
    return max(children or [each for each in people if each], key=lambda each: merits[each])


def _says_name(words: Sequence[str]) -> bool:
    """Whether a word is one for a name, though others beside it may not be known."""
    phrases = vocabulary().phrases
    return any(key in _NAMES for word in words for key in phrases.get(word, {}))


def _is_child(person: str) -> bool:
    """Whether a word for somebody beside the contact is one for a child: of a child and those who
    answer for it, the child is whom the table lists."""
    return "related/child" in vocabulary().phrases.get(_WHICH_ONE.sub("", person), {})


def _person(words: Sequence[str]) -> tuple[str, list[str]]:
    """Whom a heading names beside the contact, and the words without that."""
    phrases = vocabulary().phrases
    for start in range(min(len(words), _MOST_WORDS)):
        for size in range(min(_LONGEST_PERSON, len(words) - start), 0, -1):
            phrase = " ".join(words[start : start + size])
            keys = phrases.get(phrase, {})
            if not (phrase == "owner" or any(key.startswith(_PEOPLE) for key in keys)):
                continue
            end = start + size
            which = ""
            if end < len(words) and words[end] in _WHICH:
                which, end = words[end], end + 1
            left = [*words[:start], *words[end:]]
            while left and left[-1] in _LINKING:
                left.pop()
            while left and left[0] in _LINKING:
                left.pop(0)
            return f"{phrase} {which}".strip(), left
    return "", list(words)


# ── Groups of columns ────────────────────────────────────────────────────────────────────────────


def tell_groups(found: Sequence[Worded], reading: Reading) -> None:
    """Take off what runs of columns begin with where they say nothing with it, and something
    without; number the groups that hold the same parts of addresses."""
    _take_off_owners(found, reading)
    at = 0
    while at < len(found):
        end = at + 1
        first = found[at].words[:1]
        while first and end < len(found) and found[end].words[:1] == first:
            end += 1
        person = _person(found[at].words)[0]
        if first and end - at > 1 and (not person or person in _ADDRESSED):
            run = found[at:end]
            shared = _shared([each.words for each in run])
            if not _take_off(run, reading, 1) and shared > 1:
                _take_off(run, reading, shared)
        at = end
    _number(found, reading)


def tell_only_address(found: Sequence[Worded], reading: Reading) -> None:
    """Where a table has no other address, the one that bills or goods are sent to is the
    contact's."""
    sent = [(each, rest) for each in found
            if (rest := _not_sent(each.words)) != each.words
            and reading(rest).startswith("address")]  # fmt: skip
    if len(sent) == 1 and not any(reading(each.words).startswith("address") for each in found):
        sent[0][0].words = sent[0][1]


def _not_sent(words: Sequence[str]) -> list[str]:
    """Words without what says to whom bills or goods go, also within a word
    (``Rechnungsanschrift``)."""
    found = []
    for word in words:
        if word in _ADDRESSED:
            continue
        within = max((each for each in _ADDRESSED if word.startswith(each)), key=len, default="")
        found.append(word[len(within) :] if len(word) - len(within) >= _SHORTEST_BEHIND else word)
    return found or list(words)


def _take_off_owners(found: Sequence[Worded], reading: Reading) -> None:
    """Take off a last word that is not known and stands behind several fields, as in ``Имя
    читателя``: whom they are of."""
    ends: dict[str, list[Worded]] = defaultdict(list)
    for each in found:
        last = each.words[-1] if len(each.words) > 1 else ""
        if len(last) > 2 and last.isalpha() and last not in vocabulary().phrases:
            ends[last].append(each)
    for run in ends.values():
        if len(run) < 2:
            continue
        known = [each for each in run if reading(each.words[:-1]) not in ("", "?", "custom")]
        if len(known) > 1:
            for each in known:
                each.words = each.words[:-1]


def _shared(runs: Sequence[Sequence[str]]) -> int:
    """How many words all of them begin with."""
    size = 0
    for words in zip(*runs, strict=False):
        if len(set(words)) > 1:
            break
        size += 1
    return size


def _take_off(run: Sequence[Worded], reading: Reading, size: int) -> bool:
    """Take so many words off; whether that was better."""
    better = []
    for each in run:
        rest = each.words[size:]
        told = reading(each.words)
        without = reading(rest) if rest else ""
        better.append(told in ("", "?", "custom") and (
            not rest or (without not in ("", "?", "custom"))))  # fmt: skip
    worth = sum(good and len(each.words) > size for good, each in zip(better, run, strict=True))
    if not worth or sum(better) < 2:
        return False
    for each, good in zip(run, better, strict=True):
        rest = each.words[size:]
        if good or (2 * sum(better) > len(run) and rest
                    and reading(rest) not in ("", "?", "custom")):  # fmt: skip
            each.group, each.words = " ".join(each.words[:size]), rest
    return True


def _number(found: Sequence[Worded], reading: Reading) -> None:
    """Number groups of one kind that have no numbers of their own."""
    groups: dict[str, Counter[str]] = {}
    for each in found:
        if each.group and not any(word.isdecimal() for word in each.words):
            told = reading(each.words)
            if told.startswith("address/"):
                groups.setdefault(each.group, Counter())[told] += 1
    if len(groups) < 2:
        return
    names = list(groups)
    for each in found:
        if each.group in groups:
            each.place = names.index(each.group) + 1
