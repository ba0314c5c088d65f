"""What is wrong with a column, told from its profile."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from roundcard.card.paths import FieldPath
from roundcard.layouts.damage import weighed
from roundcard.layouts.drafting.draft import DraftedColumn
from roundcard.layouts.drafting.evidence import KINDS_SAID
from roundcard.layouts.drafting.profile import ColumnProfile
from roundcard.layouts.fitting import content_against
from roundcard.layouts.model import Column
from roundcard.values.dates import DAY_NUMBERS

_LONG = 500
"""Characters in a cell that few services take."""
_LONG_NOTE = 2_000
_MIXED_BELOW = 0.9
_MIXED_FROM = 0.05
_STYLES_FROM = 0.05
_DATED = 0.7


def trouble_of(
    column: Column, profile: ColumnProfile, drafted: DraftedColumn | None = None
) -> tuple[str, ...]:
    """One line for each thing that is wrong with a column of a table."""
    return tuple(dict.fromkeys(_all(column, profile, drafted)))


def damage_of(column: Column, profile: ColumnProfile) -> Iterator[str]:
    """What a spreadsheet program seems to have done to a column that is not read as that."""
    numbered = column.date is not None and column.date.text in DAY_NUMBERS
    damaged = _damaged_as(column.holds[0] if column.holds else None)
    if (
        damaged
        and not numbered
        and (told := weighed(damaged, _shapes(profile, dated=damaged == "date")))
    ):
        yield told


def trouble_of_field(profile: ColumnProfile, path: str) -> tuple[str, ...]:
    """One line for each thing that is wrong with a field of cards."""
    found = [*_values(profile, ""), *_long(profile, path)]
    return tuple(found)


def _all(column: Column, profile: ColumnProfile, drafted: DraftedColumn | None) -> Iterator[str]:
    if not profile.filled:
        if profile.rows:
            yield "empty"
        return
    path = column.holds[0] if column.holds else None
    if drafted is not None and (said := _lies(drafted)):
        yield said
    elif not profile.garbled and (against := content_against(column, profile)):
        yield against.partition(" holds ")[2].replace(f"{path}, and ", "", 1)
    if column.skip:
        yield f"skipped, but {profile.filled:,} of its cells are filled"
    yield from _one_value(profile)
    damaged = _damaged_as(path)
    if not damaged and profile.share("date", "moment") > _DATED:
        damaged = "date"
    if damaged == "date" and column.date is not None and column.date.text in DAY_NUMBERS:
        yield 'days that a spreadsheet counts (date = "day-number")'
        damaged = ""
    yield from _values(profile, damaged)
    if path is not None and _field(path) in ("phone", "birthday", "anniversary", "revised"):
        yield from _styles(profile, path)
    elif path is None or path.field == "custom":
        yield from _mixed(profile)
    yield from _long(profile, path.field if path else "")


def _lies(drafted: DraftedColumn) -> str:
    if "though its heading says" in drafted.why or "but its cells are" in drafted.why:
        return f"content against heading: {drafted.why}"
    return ""


def _field(path: FieldPath) -> str:
    return path.field if not path.part else ""


def _damaged_as(path: FieldPath | None) -> str:
    if path is None:
        return ""
    if path.part == "postcode":
        return "post code"
    return {"phone": "phone", "birthday": "date", "anniversary": "date"}.get(_field(path), "")


def _one_value(profile: ColumnProfile) -> Iterator[str]:
    if profile.filled > 3 and len(profile.values) == 1:
        value = next(iter(profile.values)).strip()
        yield f"one value for all: '{value[:40]}'"


def _values(profile: ColumnProfile, damaged: str) -> Iterator[str]:
    if profile.garbled:
        yield f"garbled accents in {_cells(profile.garbled)}, as '{_cut(profile.garbled_sample)}'"
    if profile.scientific:
        yield (f"{_cells(profile.scientific)} in scientific notation: the last digits are gone "
               "(a spreadsheet)")  # fmt: skip
    if damaged and (told := weighed(damaged, _shapes(profile, dated=damaged == "date"))):
        yield told


def _shapes(profile: ColumnProfile, *, dated: bool) -> dict[str, int]:
    """The shapes of cells as `roundcard.layouts.damage` names them."""
    shapes = {f"bare {size}": count for size, count in profile.numbers.items()}
    if profile.leading_zeros:
        shapes["zero"] = profile.leading_zeros
    if profile.dressed_zeros:
        shapes["dressed zero"] = profile.dressed_zeros
    for order in ("day first", "month first", "either"):
        if profile.orders[order]:
            shapes[order] = profile.orders[order]
    if dated and (serials := profile.numbers[5]):
        shapes["serial"] = serials
    return shapes


def _styles(profile: ColumnProfile, path: FieldPath) -> Iterator[str]:
    if path.field == "phone":
        told = sum(profile.phone_styles.values())
        there = [f"{style} {count / told:.0%}".replace("%", " %")
                 for style, count in profile.phone_styles.most_common()
                 if count >= _STYLES_FROM * told]  # fmt: skip
        if len(there) > 1:
            yield f"mixed phone styles: {', '.join(there)}"
        several = profile.kinds["phones"]
        if several and several < 0.9 * profile.told:
            yield f"several numbers in one cell, {several / profile.told:.0%} of them".replace(
                "%", " %"
            )
        return
    worded = profile.kinds["worded date"]
    told = sum(profile.date_marks.values()) + worded
    marks = [f"with '{mark}' {count / told:.0%}".replace("%", " %")
             for mark, count in profile.date_marks.most_common()
             if count >= _STYLES_FROM * told]  # fmt: skip
    if worded and worded >= _STYLES_FROM * told:
        marks.append(f"in words {worded / told:.0%}".replace("%", " %"))
    if len(marks) > 1:
        yield f"mixed date styles: {', '.join(marks)}"
    if profile.orders["short year"]:
        yield "years of two digits"


def _mixed(profile: ColumnProfile) -> Iterator[str]:
    """Kinds that do not go together in one column."""
    groups = {
        "email": ("email", "emails", "named email"), "phone": ("phone", "phones"),
        "date": ("date", "moment", "worded date"), "url": ("url",), "address": ("address",),
    }  # fmt: skip
    there = {
        kind: profile.share(*kinds)
        for kind, kinds in groups.items()
        if profile.share(*kinds) >= _MIXED_FROM
    }
    if there and max(there.values()) < _MIXED_BELOW:
        listed = ", ".join(f"{KINDS_SAID[kind]} {share:.0%}".replace("%", " %")
                           for kind, share in there.items())  # fmt: skip
        yield f"mixed kinds: {listed}, and other text"


def _long(profile: ColumnProfile, path: str) -> Iterator[str]:
    most = _LONG_NOTE if path in ("note", "photo", "custom") else _LONG
    if profile.longest > most and not profile.share("data", "url", "picture") > 0.5:
        yield (f"over-long: {profile.longest:,} characters in one cell, beginning "
               f"'{_cut(profile.longest_sample)}'")  # fmt: skip


def _cells(count: int) -> str:
    return "1 cell" if count == 1 else f"{count:,} cells"


def _cut(text: str) -> str:
    text = " ".join(text.split())
    return text if len(text) <= 30 else text[:29] + "…"


def doubled_headings(headings: Sequence[str]) -> list[str]:
    """One line for headings that stand over several columns."""
    seen: dict[str, int] = {}
    for heading in headings:
        if heading.strip():
            seen[heading.strip()] = seen.get(heading.strip(), 0) + 1
    twice = [f"'{heading}' {count} times" for heading, count in seen.items() if count > 1]
    return [f"doubled headings: {', '.join(twice)}"] if twice else []
