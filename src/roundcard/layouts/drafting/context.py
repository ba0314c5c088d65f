"""What the other columns of a table tell of one: its neighbours, its groups, its order."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace

from roundcard.card.paths import FieldPath, parse
from roundcard.layouts.drafting.candidates import Candidate
from roundcard.layouts.drafting.evidence import for_and_against
from roundcard.layouts.drafting.heading_parser import HeadingRead
from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.layouts.drafting.words import tokens

Columns = list[list[Candidate]]
"""The candidates of each column, the likeliest first."""

_SURE = 0.7
_UNTOLD, _UNTOLD_NAME = 0.6, 0.66
_FEW_ROWS, _LOOKED_AT = 5, 200
_DIFFERING = 0.5
"""Distinct values for a filled cell from which a column may be of people, and not of places."""
_NUMBERED = 0.5
"""The share of streets with a number from which no other column is put behind them."""
_GIVEN, _FAMILY, _FULL = parse("name/given"), parse("name/family"), parse("name/full")
_STREET, _WHOLE = parse("address/street"), parse("address/full")
_SPLIT = ("street", "locality", "postcode", "region", "country", "line")


def in_context(
    columns: Columns, reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]
) -> Columns:
    """The candidates again, as the whole table makes them likely."""
    columns = _names(columns, profiles)
    columns = _ties(columns)
    columns = _addresses(columns, profiles)
    columns = _codes_without_town(columns)
    columns = _house_numbers(columns, profiles)
    columns = _towns_beside_codes(columns, reads, profiles)
    columns = _families_beside_given(columns, reads, profiles)
    columns = _names_untold(columns, profiles)
    columns = _birthday_parts(columns, reads, profiles)
    columns = _uses_beside(columns, reads, profiles)
    columns = _groups(columns)
    return _positions(columns)


def _has(columns: Columns, path: FieldPath, but: Sequence[int] = ()) -> bool:
    """Whether a column plainly holds a path, its heading leaving no choice."""
    for at, listed in enumerate(columns):
        best = listed[0]
        if at in but or best.sure < _SURE:
            continue
        if path in best.paths:
            return True
    return False


def _change(listed: list[Candidate], change: Callable[[Candidate], Candidate]) -> list[Candidate]:
    return sorted((change(each) for each in listed), key=lambda each: -each.sure)


def _names(columns: Columns, profiles: Sequence[ColumnProfile]) -> Columns:
    """A column headed "Name" holds what its neighbours leave: the whole, the family or the given
    name."""
    out: Columns = []
    plain = [at for at, listed in enumerate(columns) if _bare_name(listed)]
    sole = plain[:1]
    if len(plain) == 2 and not (_has(columns, _GIVEN, plain) or _has(columns, _FAMILY, plain)):
        columns = _two_names(columns, plain, profiles)
        plain = [at for at in plain if _bare_name(columns[at])]
    for at, listed in enumerate(columns):
        if at not in plain:
            out.append(listed)
            continue
        given, family = _has(columns, _GIVEN, plain), _has(columns, _FAMILY, plain)
        whole = profiles[at].share("person", "person, comma")
        path, why = _FULL, ""
        if at not in sole and not (given or family):
            path = _FULL
        elif given and not family and whole < 0.6:
            path, why = _FAMILY, "its heading says name, and the given name stands elsewhere"
        elif family and not given and whole < 0.6:
            path, why = _GIVEN, "its heading says name, and the family name stands elsewhere"
        elif profiles[at].share("given") > 0.6 and whole < 0.1 and not given:
            path, why = _GIVEN, "its heading says name, and its cells are given names"
        kept = [each for each in listed if not (each.meant and _name(each) and not _bare(each))]
        changed = []
        for each in kept:
            if _bare(each):
                sure = each.sure if path is _FULL or each.sure < _SURE else max(each.sure, 0.9)
                changed.append(each.at(path, why=why or each.why).surer(sure))
                if _companies(profiles[at]) and not _has(columns, parse("org"), [at]):
                    note = "its heading says name, and its cells are organisations"
                    changed.append(each.at(parse("org"), why=note).surer(each.sure + 0.02))
            else:
                changed.append(each)
        out.append(sorted(changed, key=lambda each: -each.sure))
    return out


def _two_names(
    columns: Columns, both: Sequence[int], profiles: Sequence[ColumnProfile]
) -> Columns:  # fmt: skip
    """Two columns that say name alike: one of given names, the other of family names."""
    given = [profiles[at].share("given") for at in both]
    whole = max(profiles[at].share("person", "person, comma") for at in both)
    if whole > 0.3 or max(given) < 0.35 or abs(given[0] - given[1]) < 0.2:
        return columns
    out = list(columns)
    first = both[0] if given[0] > given[1] else both[1]
    for at in both:
        path, said = (_GIVEN, "given") if at == first else (_FAMILY, "family")
        why = f"two columns say name, and the cells of this one are {said} names"
        out[at] = [Candidate((path,), 0.78, why), *(e for e in columns[at] if not _bare(e))]
    return out


def _companies(profile: ColumnProfile) -> bool:
    return profile.share("org") >= 0.6 and profile.share("person", "given") < 0.15


def _bare(each: Candidate) -> bool:
    return each.meant is not None and each.meant.part == "name"


def _name(each: Candidate) -> bool:
    return each.path is not None and each.path.field == "name"


def _bare_name(listed: Sequence[Candidate]) -> bool:
    best = listed[0]
    return any(_bare(each) and each.sure >= best.sure - 0.15 for each in listed) and (
        _name(best) or _bare(best)
    )


def _ties(columns: Columns) -> Columns:
    """A word of two meanings means what the rest of the table speaks of."""
    fields = {str(listed[0].paths[0]) for listed in columns if listed[0].paths}
    out = []
    for at, listed in enumerate(columns):
        best = listed[0]
        near = {str(each.path): each for each in listed
                if each.meant and each.path and each.sure > best.sure - 0.2}  # fmt: skip
        if len(near) < 2:
            out.append(listed)
            continue
        wanted = ""
        if {"org/unit", "address/region"} <= near.keys():
            towns = {"address/locality", "address/postcode"} & fields
            wanted = "org/unit" if "org" in fields or not towns else "address/region"
        elif {"title", "name/prefix"} <= near.keys() and not best.agrees:
            after = columns[at + 1][0].paths[:1] if at + 1 < len(columns) else ()
            before_name = bool(after) and after[0].field == "name"
            wanted = "name/prefix" if before_name else "title"
            if wanted in fields - {str(best.path)}:
                wanted = ""
        if wanted:
            chosen = near[wanted]
            listed = [chosen.surer(max(chosen.sure, best.sure)),
                      *(each for each in listed if each is not chosen)]  # fmt: skip
        out.append(listed)
    return out


def _code_and_town(listed: list[Candidate], profile: ColumnProfile) -> list[Candidate]:
    """A column headed as an address, of which the cells hold post code and town only."""
    said = next((each for each in listed if each.meant
                 and each.meant.part in ("address", "whole")), None)  # fmt: skip
    if said is None or said.path is None or profile.share("code and town") < 0.6:
        return listed
    at = said.path
    paths = [replace(at, part=part) for part in ("postcode", "locality")]
    why = "its heading says address, and its cells are post codes and towns"
    return [said.at(*paths, why=why).surer(max(said.sure + 0.01, 0.85)), *listed]


def _codes_without_town(columns: Columns) -> Columns:
    """Cells like post codes under no known heading are none where no other address is."""
    if any(path.field == "address" and path.part != "postcode"
           for listed in columns for path in listed[0].paths):  # fmt: skip
        return columns
    return [
        _change(listed, lambda each: each.surer(min(each.sure, 0.4))
                if each.by_cells and each.path and each.path.part == "postcode" else each)
        for listed in columns
    ]  # fmt: skip


def _addresses(columns: Columns, profiles: Sequence[ColumnProfile]) -> Columns:
    """A column headed "Address" is the street where the town stands beside it."""
    columns = [_code_and_town(listed, profile)
               for listed, profile in zip(columns, profiles, strict=True)]  # fmt: skip
    parts: dict[tuple[object, ...], set[str]] = {}
    for listed in columns:
        best = listed[0]
        if best.sure < 0.6:
            continue
        for path in best.paths:
            if path.field == "address" and path.part in _SPLIT:
                name = f"line{path.number}" if path.part == "line" else path.part
                parts.setdefault((path.uses, path.position), set()).add(name)
    numbered = any(position for _, position in parts)
    out = []
    for at, listed in enumerate(columns):
        whole, street = profiles[at].share("address"), profiles[at].share("street")

        def change(each: Candidate, whole: float = whole, street: float = street) -> Candidate:
            path = each.path
            if path is None or path.field != "address" or not each.meant:
                return each
            beside = parts.get((path.uses, path.position), set())
            if each.meant.part == "whole" and street < 0.5:
                return each
            if (
                each.meant.part in ("address", "whole")
                and path.uses
                and not beside
                and not path.position
            ):
                plain = parts.get(((), 0), set())
                if plain & {"locality", "postcode"} and not plain & {"street", "line1"}:
                    path, beside = replace(path, uses=()), plain  # the town is of this address
            if path.part == "line" and numbered and not path.position:
                moved = replace(path, part="full", number=0, position=path.number)
                if parts.get((path.uses, path.number), set()) - {"street"}:
                    return each.at(replace(moved, part="street"))
            numbered_street = path.part == "street" and not each.meant.joined and path.position > 0
            if each.meant.part not in ("address", "whole") and not numbered_street:
                return each
            if numbered_street and beside - {"street"}:
                return each
            towns = parts.get((path.uses, 0), set()) & {"locality", "postcode"}
            if 0 < path.position < 4 and towns and not beside - {"street"}:
                return each.at(replace(path, position=0, part="line", number=path.position))
            if "line2" in beside and "line1" not in beside:
                return each.at(replace(path, part="line", number=1))
            if beside & {"locality", "postcode"} and whole < 0.5:
                return each.at(replace(path, part="street"),
                               why=f"{each.why}; the town stands elsewhere")  # fmt: skip
            return each

        out.append(_change(listed, change))
    return out


def _house_numbers(columns: Columns, profiles: Sequence[ColumnProfile]) -> Columns:
    """A house number goes behind the street, where the street's own cells have none; one that only
    says number must stand beside it, and must not count the rows."""
    streets = {path.uses: at for at, listed in enumerate(columns) for path in listed[0].paths
               if path.field == "address" and path.part == "street"
               and not (listed[0].meant and listed[0].meant.joined)}  # fmt: skip
    out = []
    for at, listed in enumerate(columns):
        kept = []
        for each in listed:
            if each.meant and each.meant.joined and each.path:
                street = streets.get(each.path.uses, -1)
                if street < 0 or profiles[at].counting:
                    continue
                numbered = profiles[street].numbered >= _NUMBERED
                if each.meant.bare and (numbered or at != street + 1):
                    continue
            kept.append(each)
        out.append(kept or listed)
    return out


def _towns_beside_codes(
    columns: Columns, reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]
) -> Columns:
    """Words beside a column of post codes, under no heading, are towns."""
    town = parse("address/locality")
    if _has(columns, town) or any(town in listed[0].paths for listed in columns):
        return columns
    codes = [at for at, listed in enumerate(columns) if listed[0].sure >= 0.5
             and any(path.part == "postcode" for path in listed[0].paths)]  # fmt: skip
    if not codes:
        codes = [at for at, profile in enumerate(profiles)
                 if not reads[at].said and _code_like(profile)]  # fmt: skip
    for code in codes:
        for at in (code + 1, code - 1):
            if not 0 <= at < len(columns) or reads[at].said or columns[at][0].sure > 0.5:
                continue
            if for_and_against("address/locality", profiles[at])[0] < 0.6:
                continue
            why = "its cells are words beside the post codes"
            out = list(columns)
            out[at] = [Candidate((town,), 0.7, why), *columns[at]]
            if columns[code][0].sure < 0.6:
                said = Candidate((parse("address/postcode"),), 0.68, "its cells are like post "
                                 "codes, beside words that may be towns")  # fmt: skip
                out[code] = [said, *columns[code]]
            return out
    return columns


def _code_like(profile: ColumnProfile) -> bool:
    """Numbers of one length, four to six digits, that say something again and again or not."""
    if profile.share("number", "digits", "post code") < 0.8:
        return False
    size, most = max(profile.numbers.items(), key=lambda pair: pair[1], default=(0, 0))
    return 4 <= size <= 6 and most >= 0.7 * profile.told


def _families_beside_given(
    columns: Columns, reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]
) -> Columns:
    """Single words beside a column of given names, under no heading, are family names."""
    given = [at for at, listed in enumerate(columns)
             if listed[0].by_cells and listed[0].path == _GIVEN]  # fmt: skip
    if not given or any(_FAMILY in listed[0].paths for listed in columns):
        return columns
    out = list(columns)
    for at in (given[0] + 1, given[0] - 1):
        if not 0 <= at < len(columns) or reads[at].said:
            continue
        if for_and_against("name/family", profiles[at])[0] < 0.6:
            continue
        if columns[at][0].sure > 0.6 and columns[at][0].path != _GIVEN:
            continue
        why = "its cells are words beside the given names"
        out[at] = [Candidate((_FAMILY,), 0.78, why), *columns[at]]
        break
    return out


def _names_untold(columns: Columns, profiles: Sequence[ColumnProfile]) -> Columns:
    """In a table of contacts without any name, the column of two words that differ most is the
    names, or two of one word each side by side; to be looked at."""
    if any(path.field in ("name", "nickname") for listed in columns for path in listed[0].paths
           if listed[0].sure >= _UNTOLD):  # fmt: skip
        return columns
    reached = {path.field for listed in columns for path in listed[0].paths
               if listed[0].sure >= _UNTOLD}  # fmt: skip
    if not reached & {"phone", "email", "address"}:
        return columns
    free = [at for at, listed in enumerate(columns)
            if listed[0].sure < _UNTOLD and profiles[at].told >= _FEW_ROWS]  # fmt: skip
    kinds = ("person", "title case", "person, comma", "given")
    whole = [at for at in free if profiles[at].share(*kinds) >= 0.8
             and _words(profiles[at]) >= 1.8 and profiles[at].differing >= _DIFFERING]  # fmt: skip
    out = list(columns)
    if whole:
        best = max(whole, key=lambda at: profiles[at].differing)
        why = "no other column is a name, and its cells may be names"
        out[best] = [Candidate((_FULL,), _UNTOLD_NAME, why), *columns[best]]
        return out
    single = ("given", "single", "title case")
    words = [at for at in free if profiles[at].share(*single) >= 0.8
             and _words(profiles[at]) < 1.3 and not profiles[at].small]  # fmt: skip
    for at in words:
        if at + 1 in words:
            given, family = at, at + 1
            if profiles[family].share("given") > profiles[given].share("given"):
                given, family = family, given
            why = "no other column is a name, and two side by side may be the parts of names"
            out[given] = [Candidate((_GIVEN,), _UNTOLD_NAME, why), *columns[given]]
            out[family] = [Candidate((_FAMILY,), _UNTOLD_NAME, why), *columns[family]]
            break
    return out


def _words(profile: ColumnProfile) -> float:
    """Words of a cell, of the first distinct values."""
    values = [value.split() for value in list(profile.values)[:_LOOKED_AT]]
    return sum(map(len, values)) / max(len(values), 1)


def _birthday_parts(
    columns: Columns, reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]
) -> Columns:
    """Day, month and year in three neighbouring columns are the parts of a date of birth."""
    parts = {at: meant.part for at, read in enumerate(reads) for meant in read.meant
             if meant.sort == "part"}  # fmt: skip
    out = list(columns)
    for at in sorted(parts):
        three = {parts.get(at + step): at + step for step in range(3)}
        if (
            None in three
            or len(three) < 3
            or any(path.field == "birthday" for listed in columns for path in listed[0].paths)
        ):
            continue
        decades = [value for value in profiles[three["year"]].values if value.strip().isdecimal()]
        past = [value for value in decades if 1900 <= int(value) <= 2020]
        if decades and len(past) < 0.8 * len(decades):
            continue
        for part, column in three.items():
            why = "day, month and year stand side by side"
            out[column] = [Candidate((parse(f"birthday/{part}"),), 0.72, why), *columns[column]]
        break
    return out


def _uses_beside(
    columns: Columns, reads: Sequence[HeadingRead], profiles: Sequence[ColumnProfile]
) -> Columns:
    """A column headed "Type" tells the use of the number or address beside it."""
    out = list(columns)
    for at, read in enumerate(reads):
        best = read.best
        if best is None or best.sort not in ("type", "preferred") or best.paths:
            continue
        if for_and_against("use", profiles[at])[0] < 0.5:
            continue
        beside = [near for near in (at + 1, at - 1) if 0 <= near < len(columns)]
        beside.sort(key=lambda near: _kinship(reads[near], read), reverse=True)
        for near in beside:
            path = columns[near][0].path
            if path is None or path.field not in ("email", "phone", "address", "url"):
                continue
            part = "use" if best.sort == "type" else "preferred"
            placed = FieldPath(path.field, path.uses, position=path.position, part=part)
            why = f"its cells are words for uses, beside the column of {path.field}"
            out[at] = [Candidate((placed,), 0.88, why, agrees=True), *columns[at]]
            break
    return out


def _kinship(one: HeadingRead, other: HeadingRead) -> tuple[bool, int]:
    """How much two headings have in common: the group, and words."""
    words, words2 = set(tokens(one.heading)), set(tokens(other.heading))
    return bool(one.group) and one.group == other.group, len(words & words2)


def _groups(columns: Columns) -> Columns:
    """Columns of an address that come again are another address."""
    seen: Counter[FieldPath] = Counter()
    again: dict[int, int] = {}
    for at, listed in enumerate(columns):
        best = listed[0]
        path = best.path
        if path is None or path.field != "address" or best.sure < 0.6 or path.position:
            continue
        if path.part in ("use", "preferred") or (best.meant and best.meant.joined):
            continue
        seen[path] += 1
        if seen[path] > 1:
            again[at] = seen[path]
    doubled = Counter(again.values())
    out = list(columns)
    for at, position in again.items():
        if doubled[position] < 2:
            continue  # one part alone is no second address
        best = columns[at][0]
        path = best.paths[0]
        why = f"{best.why}; it comes again"
        out[at] = [best.at(replace(path, position=position), why=why), *columns[at][1:]]
    return out


def _positions(columns: Columns) -> Columns:
    """Positions that tell nothing are dropped; a value beside its type is numbered as it is."""
    numbered: dict[tuple[str, tuple[str, ...]], set[int]] = {}
    typed: set[tuple[str, tuple[str, ...]]] = set()
    for listed in columns:
        best = listed[0]
        if not best.paths or best.sure < 0.5:
            continue
        path = best.paths[0]
        key = (path.field, path.uses)
        numbered.setdefault(key, set()).add(path.position)
        if path.part in ("use", "preferred", "extension"):
            typed.add(key)
    out = []
    for listed in columns:
        best = listed[0]
        at = best.path
        if at is not None and at.field != "name":
            key = (at.field, at.uses)
            places = numbered.get(key, set())
            if at.position == 1 and places <= {1} and key not in typed:
                listed = [best.at(replace(at, position=0)), *listed[1:]]
            elif key in typed and not at.position and places <= {0, 1}:
                listed = [best.at(replace(at, position=1)), *listed[1:]]
        out.append(listed)
    return out
