"""The places that one column may hold, each with how sure it is and why."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from roundcard.card.paths import FieldPath, parse, takes_many
from roundcard.layouts.drafting.evidence import (
    KINDS_SAID,
    class_of,
    for_and_against,
    identified,
    most_usual,
)
from roundcard.layouts.drafting.heading_parser import HeadingRead, numbers_things
from roundcard.layouts.drafting.meaning import Meant
from roundcard.layouts.drafting.near_words import surely_mistyped
from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.layouts.drafting.words import tokens

UNSURE = 0.6
"""Below it a column stays custom."""
LOOK = 0.8
"""Below it a column is marked to be looked at."""
_HEADING = 0.97
_PER_COST = 0.16
_WEAK = 0.5
_KNOWN_CUSTOM = 0.95
_UNKNOWN_CUSTOM = 0.45
_UNKNOWN_HEADING = 0.8
_LYING_HEADING = 0.9
_OTHERS = 0.79
"""How sure it is that a column is of somebody else: to be looked at."""
_HARDLY = 0.05
_GUESS = 0.76
"""How sure a heading is at the most in which a word is guessed at."""
_GUESS_ALONE = 0.66
"""The same where the cells say nothing of it."""
_NUMBER_WORDS = frozenset(
    ("number", "no", "nr", "num", "nummer", "numero", "your", "my", "the", "alternative", "other",
     "second", "secondary", "alternate", "main", "primary", "best", "contact")
)  # fmt: skip
_SAME_FIELD = 0.62
"""How sure a weak heading is whose cells agree, where no other column has the field."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """One thing that a column may be."""

    paths: tuple[FieldPath, ...]
    """Empty where it is kept as custom."""
    sure: float
    why: str
    meant: Meant | None = None
    """What of the heading it comes from; None where the cells alone say it."""
    lies: str = ""
    """What the heading said, where the cells say another thing."""
    agrees: bool = False
    """Whether the cells speak for it."""

    @property
    def path(self) -> FieldPath | None:
        """The one place; None for several in a cell, and for custom."""
        return self.paths[0] if len(self.paths) == 1 else None

    @property
    def by_cells(self) -> bool:
        """Whether only the cells say it."""
        return bool(self.paths) and self.meant is None

    def surer(self, sure: float, why: str = "") -> Candidate:
        """The same, with another sureness."""
        return replace(self, sure=max(0.0, min(sure, 0.99)), why=why or self.why)

    def at(self, *paths: FieldPath, why: str = "") -> Candidate:
        """The same at other places."""
        return replace(self, paths=paths, why=why or self.why)


def candidates_of(read: HeadingRead, profile: ColumnProfile) -> list[Candidate]:
    """What a column may be, the likeliest first; the last resort, custom, is among them."""
    found = [made for meant in read.meant if not meant.guessed
             for made in _from_heading(meant, read, profile)]  # fmt: skip
    if read.moved:
        found = [made.surer(min(made.sure, _GUESS), read.moved) for made in found]
    found += [made for meant in read.meant if meant.guessed
              for made in _guessed(meant, read, profile)]  # fmt: skip
    if read.is_path:
        return [*(c.surer(0.99, "its heading is a field path") for c in found[:1]), _custom(read)]
    said = next((c for c in found if c.meant and c.meant.sort == "field"), None)
    custom = _custom(read)
    if custom.sure < _KNOWN_CUSTOM or _says_number_only(read):
        by_cells = _from_cells(read, profile, said)
        if by_cells and _says_number_only(read) and by_cells[0].paths[0].field == "phone":
            custom = custom.surer(_UNKNOWN_CUSTOM)
        found += by_cells
    found.append(custom)
    return sorted(found, key=lambda each: -each.sure)


def _guessed(meant: Meant, read: HeadingRead, profile: ColumnProfile) -> list[Candidate]:
    """A heading with a word that is guessed at: only where the cells bear it out, or where a long
    word is surely mistyped and they do not speak against it; and always to be looked at."""
    made = _weighed(meant, meant.paths, read, profile)
    unknown = " ".join(read.unknown)
    if not made.agrees:
        if made.sure < UNSURE or not any(surely_mistyped(word, meant.guessed)
                                         for word in read.unknown):  # fmt: skip
            return []
        why = f"its heading, if '{unknown}' is '{meant.guessed}'"
        return [made.surer(min(made.sure, _GUESS_ALONE), why)]
    why = f"its heading, if '{unknown}' is '{meant.guessed}', and its cells agree"
    return [made.surer(min(made.sure, _GUESS), why)]


def _says_number_only(read: HeadingRead) -> bool:
    """Whether a heading says that it is a number, and not of what."""
    return not read.apart and all(word in _NUMBER_WORDS for word in tokens(read.heading))


def _from_heading(meant: Meant, read: HeadingRead, profile: ColumnProfile) -> list[Candidate]:
    if meant.sort == "use":
        return _by_use(meant, profile)
    if meant.sort in ("type", "preferred") and meant.paths:
        path = replace(meant.paths[0], part="use" if meant.sort == "type" else "preferred")
        return [_weighed(meant, (path,), read, profile)]
    if meant.sort != "field":
        return []
    return [_weighed(meant, meant.paths, read, profile)]


def _weighed(
    meant: Meant, paths: tuple[FieldPath, ...], read: HeadingRead, profile: ColumnProfile
) -> Candidate:
    weak = meant.cost >= 2.0
    heading = _WEAK if weak else max(_HEADING - _PER_COST * meant.cost, 0.5)
    row = class_of(paths[0])
    if len(paths) > 1:
        row = "code and town" if paths[0].part == "postcode" else "address/extra"
    if meant.joined:
        row = "address/number"
    agree, against = for_and_against(row, profile)
    if meant.sort == "field" and meant.part in ("address", "whole"):
        agree = max(agree, for_and_against("address/street", profile)[0])
    strange = " ".join(read.unknown)
    why = f"its heading, though '{strange}' in it is not known" if weak else "its heading says so"
    if profile.told == 0:
        return Candidate(paths, heading - 0.02, why, meant)
    if against >= 0.5 and against > agree:
        kind, _ = most_usual(profile)
        told = f"its heading says so, but its cells are {KINDS_SAID.get(kind, kind)}"
        return Candidate(paths, max(heading * (1 - against) * 0.6, _HARDLY), told, meant)
    if agree >= 0.5:
        sure = heading + (1 - heading) * 0.7 * agree
        if weak:
            sure = min(sure, _SAME_FIELD)
        cells = (
            "all of its cells agree" if agree > 0.995 else f"{_percent(agree)} of its cells agree"
        )
        told = f"{why}, and {cells}"
        return Candidate(paths, sure, told, meant, agrees=True)
    return Candidate(paths, heading * (1 - against), why, meant)


def _by_use(meant: Meant, profile: ColumnProfile) -> list[Candidate]:
    """A heading that names only a use ("Privat"): the cells say of what."""
    found = []
    for each in identified(profile):
        path = parse(each.path)
        if path.field not in ("email", "phone", "address", "url"):
            continue
        uses = tuple(use for use in meant.uses if path.field == "phone" or use in
                     ("home", "work", "other"))  # fmt: skip
        if not uses:
            continue
        placed = replace(path, uses=uses, position=meant.position)
        why = f"its heading names a use, and its cells are {_said(profile)}"
        found.append(Candidate((placed,), each.sure * 0.95, why, meant, agrees=True))
    return found


def _from_cells(
    read: HeadingRead, profile: ColumnProfile, said: Candidate | None
) -> list[Candidate]:
    """What the cells say where the heading is missing, unknown, or says another thing."""
    found = []
    for each in identified(profile):
        if each.row == "address/postcode" and said is None and numbers_things(read.heading):
            continue  # the numbers of people, or of things
        if each.row == "code and town":
            paths: tuple[FieldPath, ...] = (parse("address/postcode"), parse("address/locality"))
        else:
            paths = (parse(each.path),)
        cells = _said(profile)
        if said is not None and said.paths:
            if said.agrees or class_of(said.paths[0]) == each.row:
                continue
            if said.paths[0].field == paths[0].field and said.sure > 0.5:
                continue
            if said.sure >= 0.5 and each.row not in ("email", "phone", "url"):
                continue
            why = f"its cells are {cells}, though its heading says {said.paths[0]}"
            found.append(Candidate(paths, each.sure * _LYING_HEADING, why, lies=read.heading))
        elif read.said:
            why = f"its cells are {cells}; its heading is not known"
            found.append(Candidate(paths, each.sure * _UNKNOWN_HEADING, why))
        else:
            found.append(Candidate(paths, each.sure, f"its cells are {cells}"))
    return found


def _custom(read: HeadingRead) -> Candidate:
    best = read.best
    if read.apart:
        return Candidate((), _OTHERS, "it is of somebody who is not the contact of the table")
    if not read.said:
        return Candidate((), _UNKNOWN_CUSTOM, "it has no heading, and its cells do not tell")
    if best is not None and best.sort == "custom":
        sure = _KNOWN_CUSTOM - _PER_COST * best.cost
        return Candidate((), max(sure, _UNKNOWN_CUSTOM), "no standard field is for this")
    if read.weak or (best is None and read.unknown):
        words = " ".join(read.unknown)[:40]
        return Candidate((), 0.55 if read.weak else _UNKNOWN_CUSTOM, f"'{words}' is not known")
    return Candidate((), _UNKNOWN_CUSTOM, "nothing surer is known")


def _said(profile: ColumnProfile) -> str:
    kind, share = most_usual(profile)
    text = KINDS_SAID.get(kind, kind)
    return f"{text} ({_percent(share)})" if share < 0.995 else text


def _percent(share: float) -> str:
    return f"{share:.0%}".replace("%", " %")


def competing(columns: Sequence[Sequence[Candidate]]) -> list[list[Candidate]]:
    """Drop what only cells say where a heading elsewhere says that field plainly, and what weak
    headings say where a plain one stands beside them."""
    plain: dict[str, int] = {}
    for at, listed in enumerate(columns):
        best = listed[0]
        if best.paths and best.meant is not None and best.sure > 0.7:
            for path in best.paths:
                plain.setdefault(_family(path), at)
    out = []
    for at, listed in enumerate(columns):
        kept = []
        for each in listed:
            if each.paths and plain.get(_family(each.paths[0]), at) != at:
                if each.by_cells and not each.lies and not _another(each, listed):
                    each = each.surer(min(each.sure, 0.5))
                elif each.meant is not None and each.meant.cost >= 2.0 and not again(
                    each.paths[0]
                ):  # fmt: skip
                    each = each.surer(min(each.sure, 0.48))
            kept.append(each)
        out.append(sorted(kept, key=lambda each: -each.sure))
    return out


def _another(each: Candidate, listed: Sequence[Candidate]) -> bool:
    """Whether cells say that a column holds one more number or e-mail address: several of a contact
    are no rivals."""
    path = each.path
    return path is not None and path.field in ("phone", "email") and each is max(
        (other for other in listed if other.by_cells), key=lambda other: other.sure
    )  # fmt: skip


def _family(path: FieldPath) -> str:
    if path.field == "name":
        return "name"
    if path.field == "address":
        return f"address/{path.part}" if path.part != "line" else "address/street"
    return f"{path.field}/{path.part}" if path.part else path.field


def again(path: FieldPath) -> bool:
    """Whether several columns may hold a path, each a value of its own."""
    return not path.part and not path.position and takes_many(path.field)
