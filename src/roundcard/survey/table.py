"""A survey of one table."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from roundcard.books.drafting import beginning
from roundcard.books.source import Source
from roundcard.books.tables import Table, open_table
from roundcard.errors import LayoutError
from roundcard.formats.csv import SEPARATORS
from roundcard.layouts.binding import bind, missing_note
from roundcard.layouts.drafting.draft import Draft, draft_layout, said_kind
from roundcard.layouts.drafting.profile import ColumnProfile, TableProfile
from roundcard.layouts.model import Column, Layout
from roundcard.survey.column_problems import doubled_headings, trouble_of
from roundcard.survey.model import ColumnSurvey, FileSurvey, Unreachable
from roundcard.survey.profile_table import Watch, records_of
from roundcard.tally import Tally

Tell = Callable[[Unreachable], None]
"""Called with each person who cannot be reached in one of the ways."""
_ADDRESS = ("full", "street", "line", "pobox")
"""Parts without which no letter arrives."""
_MOST_USUAL = 5


@dataclass(frozen=True, slots=True)
class _Ways:
    """Which columns tell who can be reached, by their index."""

    email: tuple[int, ...]
    phone: tuple[int, ...]
    address: tuple[int, ...]
    name: tuple[int, ...]

    @classmethod
    def of(cls, columns: Sequence[tuple[int, Column]]) -> _Ways:
        """The ways that the columns of a table hold."""
        found: dict[str, list[int]] = {"email": [], "phone": [], "address": [], "name": []}
        for at, column in columns:
            for path in column.holds[:1]:
                plain = not path.part or (path.field == "address" and path.part in _ADDRESS)
                if path.field in ("email", "phone", "address") and plain:
                    if not (path.field == "phone" and "fax" in path.uses):
                        found[path.field].append(at)
                elif path.field in ("name", "org"):
                    found["name"].append(at)
        return cls(*(tuple(found[key]) for key in ("email", "phone", "address", "name")))


def survey_table(
    source: Source,
    layouts: Sequence[Layout],
    kept: Sequence[Layout] = (),
    watch: Watch | None = None,
    tell: Tell | None = None,
) -> FileSurvey:
    """Look at all of one table; the memory does not grow with it.

    Raises `SourceError` and `LayoutError`.
    """
    began = time.monotonic()
    table = open_table(source, layouts, kept, demand=False)
    found = FileSurvey(source.name, source.format.title, source.octets)
    if source.format.of_text:
        found.encoding, found.encoding_sure = table.dialect.encoding, table.encoding_sure
        separator = table.dialect.separator
        found.separator = SEPARATORS.get(separator, separator)
        found.separator_sure = table.separator_sure
    found.trouble += table.notes
    found.heading_row = table.layout.heading_row
    headings, width = _headings(source, table)
    binding = bind(table.layout, headings, width)
    if not binding.columns:
        raise LayoutError(f"{table.layout.where} does not fit {source.name}: none of its columns "
                          "is there")  # fmt: skip
    profile = _read(source, table, headings or [""] * width, _Ways.of(binding.columns), found,
                    watch, tell)  # fmt: skip
    if headings is not None:
        found.trouble += doubled_headings(headings)
    if table.draft is not None:
        found.draft = draft_layout(headings, profile.columns, table.dialect, table.layout.name,
                                   skip_empty=True)  # fmt: skip
        found.columns = _drafted(found.draft, profile.columns)
    else:
        found.layout, found.taken = table.layout.name, table.taken
        missing = (each for each in binding.missing
                   if not (each.skip or each.blank or each.fixed is not None))  # fmt: skip
        found.trouble += [missing_note(column, headings) for column in missing]
        listed = dict(binding.columns)
        for number, each in enumerate(profile.columns):
            found.columns.append(_by_layout(listed.get(number), each, number, table.layout))
    found.seconds = time.monotonic() - began
    return found


def _headings(source: Source, table: Table) -> tuple[list[str] | None, int]:
    begun = beginning(source, table.dialect) if table.draft else None
    if begun is not None:
        return begun.headings, begun.width
    with source.open() as stream:
        head = table.head(table.rows(stream, Tally()))
    return head.headings, head.width


def _read(
    source: Source, table: Table, headings: Sequence[str], ways: _Ways, found: FileSurvey,
    watch: Watch | None, tell: Tell | None,
) -> TableProfile:  # fmt: skip
    profile = TableProfile(headings)
    reach, width = found.reach, len(headings)
    ragged = 0
    mails, phones, places = ways.email, ways.phone, ways.address
    for record, (row, total) in enumerate(
        records_of(source, table.dialect, table.layout, watch, "surveying"), 1
    ):
        if row.wrong or total:
            found.unreadable += not total
            found.totals += total
            if row.wrong and len(found.trouble) < 5:
                found.trouble.append(f"record {record:,}, line {row.line:,}: {row.wrong}")
            continue
        cells = row.cells
        profile.add(cells)
        if len(cells) < width:
            ragged += any(cells)
            cells = cells + [""] * (width - len(cells))
        elif len(cells) > width:
            ragged += any(cells[width:])
        email = any("@" in cells[at] for at in mails)
        phone = any(cells[at] and not cells[at].isspace() for at in phones)
        address = any(cells[at] and not cells[at].isspace() for at in places)
        if not (email or phone or address) and not any(cells):
            continue
        reach.add(email, phone, address)
        if tell is not None and not (email and phone and address):
            name = " ".join(cells[at].strip() for at in ways.name if cells[at].strip())
            tell(Unreachable(source.name, record, name, email, phone, address))
    profile.flush()
    found.blank = profile.blank
    found.people = reach.people
    if ragged:
        found.trouble.append(f"{ragged:,} rows have fewer or more cells than there are headings")
    return profile


def _drafted(draft: Draft, profiles: Sequence[ColumnProfile]) -> list[ColumnSurvey]:
    out = []
    for each, profile in zip(draft.columns, profiles, strict=True):
        out.append(ColumnSurvey(
            each.column.name, each.column.meaning, said_kind(profile), profile, each.sure,
            each.why, each.look, trouble_of(each.column, profile, each), usual_of(profile),
        ))  # fmt: skip
    return out


def _by_layout(
    column: Column | None, profile: ColumnProfile, number: int, layout: Layout
) -> ColumnSurvey:
    if column is None:
        heading = profile.heading or f"column {number + 1}"
        column = Column(heading=heading)
        holds = f"(not in the layout: {layout.unlisted})"
    else:
        holds = column.meaning
    return ColumnSurvey(
        profile.heading or column.name, holds, said_kind(profile), profile, 1.0,
        f"layout '{layout.name}'", False, trouble_of(column, profile), usual_of(profile),
    )  # fmt: skip


def usual_of(profile: ColumnProfile) -> tuple[tuple[str, int], ...]:
    """The most usual values of a column, those that stand there more than once."""
    return tuple((value.strip(), count) for value, count in profile.values.most_common(_MOST_USUAL)
                 if count > 1)  # fmt: skip
