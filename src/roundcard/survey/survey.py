"""A survey of several sources, side by side."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from roundcard.books.source import STANDARD, HowToRead, sources_of
from roundcard.books.target import AtomicFile, spare_originals
from roundcard.errors import SourceError
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.layouts.model import Layout
from roundcard.survey.cards import survey_cards
from roundcard.survey.model import FileSurvey, Unreachable
from roundcard.survey.table import Tell, survey_table
from roundcard.survey.whole import Watch

_HEADINGS = ["source", "record", "name", "e-mail", "phone", "address"]


@dataclass(slots=True)
class SurveyPlan:
    """What to look at, and how."""

    sources: Sequence[str]
    layouts: Sequence[Layout] = ()
    kept: Sequence[Layout] = ()
    how: HowToRead = HowToRead()
    unreachable: Path | None = None
    """Where to write the people who cannot be reached in each of the three ways."""
    force: bool = False
    stdin: BinaryIO | None = None


def survey(plan: SurveyPlan, watch: Watch | None = None) -> list[FileSurvey]:
    """Look at all sources. Raises `SourceError`, `LayoutError` and `TargetError`."""
    if plan.unreachable is None:
        return list(_each(plan, watch, None))
    spare_originals(plan.unreachable, _paths(plan.sources))
    target = AtomicFile(plan.unreachable, force=plan.force)
    try:
        writer = CsvWriter(Dialect())
        target.write(writer.encode([_HEADINGS]))

        def tell(person: Unreachable) -> None:
            told = [person.source, str(person.record), person.name]
            ways = (person.email, person.phone, person.address)
            told += ["yes" if way else "no" for way in ways]
            target.write(writer.encode([told]))

        found = list(_each(plan, watch, tell))
        target.commit()
    except BaseException:
        target.discard()
        raise
    return found


def _each(plan: SurveyPlan, watch: Watch | None, tell: Tell | None) -> Iterator[FileSurvey]:
    sources = sources_of(plan.sources, plan.stdin, plan.how)
    if not sources:
        raise SourceError("nothing to survey")
    for number, source in enumerate(sources):
        if source.format.sort == "card":
            yield survey_cards(source, number, watch, tell)
        else:
            yield survey_table(source, plan.layouts, plan.kept, watch, tell)


def _paths(names: Sequence[str]) -> Iterator[Path]:
    """The files that are named, and those of folders that are."""
    for name in names:
        path = Path(name)
        if name == STANDARD or not path.exists():
            continue
        yield path
        if path.is_dir():
            yield from (each for each in path.rglob("*") if each.is_file())
