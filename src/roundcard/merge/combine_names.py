"""What a merged contact is called: the name of one member; what others say of it fills gaps."""

from __future__ import annotations

from collections.abc import Sequence

from roundcard.card.contact import Property
from roundcard.card.equality import folded
from roundcard.match.names import generation, words_of
from roundcard.merge.equivalence import spelling
from roundcard.merge.policy import winner_of
from roundcard.merge.selection import NAMES, TWICE, Selection

_FILLING = (2, 3, 4, 5, 6)
"""Parts of a name that fill a gap: additional, prefix, suffix, second family name, generation."""


def take_names(work: Selection) -> None:
    """The whole name and its parts of one member; what others say of it fills gaps."""
    have = {
        at: [prop for prop in props if prop.head.name in NAMES]
        for at, props in zip(work.order, work.parts, strict=True)
    }
    have = {at: props for at, props in have.items() if any(p.size() for p in props)}
    if not have:
        return
    most = {at: max(props, key=lambda prop: prop.size()) for at, props in have.items()}
    winner = _spelled(work, winner_of(work.members, most, work.policy, "name"), have)
    places: dict[str, int] = {}
    for prop in have[winner]:
        place = work.keep(prop, winner)
        if not prop.rides:
            places[prop.head.name] = place
    for at, props in have.items():
        for prop in props:
            if at == winner or not prop.size():
                continue
            if prop.rides:
                _other_script(work, prop, at)
            elif prop.head.name == "n":
                _parts_of_name(work, prop, at, places)
            else:
                _whole_name(work, prop, at, places)


def _other_script(work: Selection, prop: Property, member: int) -> None:
    """A name in another script, which is no rival of the one that was taken."""
    words = _words(prop.text)
    for place, taken in enumerate(work.props):
        if _within(words, _words(taken.text)):
            work.fold(prop, member, TWICE, place)
            return
    work.leave(prop, member, None)


def _spelled(work: Selection, winner: int, have: dict[int, list[Property]]) -> int:
    """Of those whose names are the same words, the one that spells them best."""
    chosen = work.members[winner]
    if "name" in chosen.keeps or chosen.leads or chosen.book:
        return winner
    words = _all_words(have[winner])
    ranked = [at for at in have if at != winner and _all_words(have[at]) == words
              and not work.members[at].book]  # fmt: skip
    return max([winner, *ranked], key=lambda at: spelling(_text(have[at])))


def _whole_name(work: Selection, prop: Property, member: int, places: dict[str, int]) -> None:
    """A whole name that lost, or fills the lack of one."""
    place = places.get("fn", places.get("n"))
    if place is None:
        places[prop.head.name] = work.keep(prop, member)
    elif _within(_words(prop.text), _all_words(work.props)):
        work.fold(prop, member, TWICE, place)
    else:
        work.leave(prop, member, work.props[place])


def _parts_of_name(work: Selection, prop: Property, member: int, places: dict[str, int]) -> None:
    """The parts of a name that lost: said again, filling a gap, or left."""
    if "n" not in places:
        if "fn" in places and not _within(_all_words([prop]),
                                          _words(work.props[places["fn"]].text)):  # fmt: skip
            work.leave(prop, member, work.props[places["fn"]])
        else:
            places["n"] = work.keep(prop, member)
        return
    place = places["n"]
    mine = list(work.props[place].components)
    origins = work.props[place].origins()
    words = _all_words(work.props)
    agrees = all(folded(_part(mine, at)) == folded(_part(prop.components, at)) for at in (0, 1))
    said: set[int] = set()
    for at, component in enumerate(prop.components):
        text = _part(prop.components, at)
        if not text:
            continue
        if _within(_words(text), words):
            said.add(at)
        elif agrees and at in _FILLING and not _part(mine, at):
            mine += [""] * (at + 1 - len(mine))
            origins += [0] * (len(mine) - len(origins))
            mine[at], origins[at] = component, prop.origins()[at]
            said.add(-1 - at)
    if any(at < 0 for at in said):
        filled = work.props[place].replaced(tuple(mine), tuple(origins))
        work.props[place] = filled
        work.said_by[place].append(member)
    filled_in = {-1 - at for at in said if at < 0}
    rest = [at for at, part in enumerate(prop.components)
            if part and at not in said and at not in filled_in]  # fmt: skip
    if said - {-1 - at for at in filled_in}:
        work.fold(prop.only({at for at in said if at >= 0}), member, TWICE, place)
    if rest:
        work.leave(prop.only(set(rest)), member, work.props[place])


def _text(props: Sequence[Property]) -> str:
    return " ".join(prop.text for prop in props if prop.head.name in ("n", "fn"))


def _all_words(props: Sequence[Property]) -> tuple[str, ...]:
    names = [prop.text for prop in props if prop.head.name in ("n", "fn")]
    return tuple(sorted({word for name in names for word in _words(name)}))


def _words(text: str) -> tuple[str, ...]:
    """The words of a name; ``sen.`` and ``jr`` as written out."""
    return tuple(
        generation(word) if len(word) > 1 and not set(word) <= {"i"} and generation(word) else word
        for word in words_of(text)
    )


def _within(words: Sequence[str], others: Sequence[str]) -> bool:
    """Whether each word is one of others, or the initial of one."""
    return all(
        word in others or (len(word) == 1 and any(other.startswith(word) for other in others))
        for word in words
    )


def _part(components: Sequence[str | tuple[str, ...]], at: int) -> str:
    component = components[at] if at < len(components) else ""
    return component if isinstance(component, str) else " ".join(component)
