"""A whole table profiled, and a layout drafted from all of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import chain

from roundcard.books.drafting import Beginning, draft_table
from roundcard.books.source import Source
from roundcard.books.tables import guessed_dialect, table_rows, without_totals
from roundcard.errors import SourceError
from roundcard.formats.csv import Dialect, Row
from roundcard.layouts.drafting.draft import Draft, draft_layout
from roundcard.layouts.drafting.profile import TableProfile
from roundcard.layouts.model import Layout
from roundcard.layouts.rowkinds import explains
from roundcard.tally import Tally

Watch = Callable[[str, int, int, int], None]
"""Called now and then with what is done, octets read, octets in all, and records."""
_TELL_EVERY = 5_000


def records_of(
    source: Source,
    dialect: Dialect,
    head: Layout | Beginning,
    watch: Watch | None = None,
    doing: str = "looking",
) -> Iterator[tuple[Row, bool]]:
    """The rows below the headings of a table, each with whether it is one of the totals."""
    with source.open() as stream:
        rows = table_rows(source, stream, dialect, Tally())
        for _ in range(head.heading_row):
            next(rows, None)
        if head.explained_by and (first := next(rows, None)) is not None:
            rows = rows if explains(first.cells, head.explained_by) else chain([first], rows)
        try:
            for number, (row, total) in enumerate(without_totals(rows), 1):
                yield row, total
                if watch is not None and number % _TELL_EVERY == 0:
                    watch(doing, stream.tell(), source.octets, number)
        except SourceError as error:
            raise SourceError(f"{source.name}: {error}") from None


def profile_whole(
    source: Source, dialect: Dialect, begun: Beginning, watch: Watch | None = None
) -> TableProfile:
    """The profile of all rows of a table; the memory does not grow with it."""
    profile = TableProfile(begun.headings or [""] * begun.width)
    for row, total in records_of(source, dialect, begun, watch):
        if not row.wrong and not total:
            profile.add(row.cells)
    profile.flush()
    return profile


def draft_whole(sources: Sequence[Source], watch: Watch | None = None) -> Draft:
    """Draft a layout from all rows of one table, or of several samples of one layout.

    Columns that stand only in a later sample are put behind the others. Raises `SourceError` for
    samples of different layouts.
    """
    first = sources[0]
    dialect = guessed_dialect(first).dialect
    if len(sources) == 1:
        return draft_table(
            first, dialect, lambda begun: profile_whole(first, dialect, begun, watch)
        )[0]
    draft, begun = draft_table(first, dialect)
    samples = [(first, dialect, begun)]
    headings = [heading.strip() for heading in begun.headings or ()]
    for source in sources[1:]:
        other = guessed_dialect(source).dialect
        _, start = draft_table(source, other)
        told = [heading.strip() for heading in start.headings or ()]
        shared = len(set(told) & set(headings))
        if (begun.headings is None) != (start.headings is None) or (
            begun.headings is None and begun.width != start.width
        ) or (begun.headings is not None and shared * 2 < len(set(headings))):  # fmt: skip
            raise SourceError(f"{source.name}: is not a sample of the same layout as "
                              f"{first.name}; draft a layout of its own")  # fmt: skip
        headings += [heading for heading in told if heading not in headings]
        samples.append((source, other, start))
    return _draft_samples(samples, headings, draft, begun, watch)


def _draft_samples(
    samples: Sequence[tuple[Source, Dialect, Beginning]],
    headings: list[str],
    draft: Draft,
    begun: Beginning,
    watch: Watch | None,
) -> Draft:
    width = len(headings) if begun.headings is not None else begun.width
    profile = TableProfile(headings or [""] * width)
    for source, dialect, start in samples:
        told = [heading.strip() for heading in start.headings or ()]
        places = _places(told, headings) if told else list(range(width))
        for row, total in records_of(source, dialect, start, watch):
            if row.wrong or total:
                continue
            cells = [""] * width
            for at, cell in zip(places, row.cells, strict=False):
                cells[at] = cell
            profile.add(cells)
    profile.flush()
    whole = draft_layout(headings if begun.headings is not None else None, profile.columns,
                         draft.layout.dialect, draft.layout.name, skip_empty=True)  # fmt: skip
    return replace(whole, layout=begun.into(whole.layout))


def _places(told: Sequence[str], headings: Sequence[str]) -> list[int]:
    """Where the columns of a sample stand among all of them; doubled headings in their order."""
    used: set[int] = set()
    places = []
    for heading in told:
        at = next((n for n, each in enumerate(headings) if each == heading and n not in used),
                  headings.index(heading))  # fmt: skip
        used.add(at)
        places.append(at)
    return places


def named(draft: Draft, name: str) -> Draft:
    """A draft under another name; an empty one changes nothing."""
    return replace(draft, layout=replace(draft.layout, name=name)) if name else draft
