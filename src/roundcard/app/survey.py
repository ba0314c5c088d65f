"""A survey of several sources, side by side."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from roundcard.books.figures import demand_free
from roundcard.books.hidden import spare_originals
from roundcard.books.options import ReadOptions
from roundcard.books.source import STANDARD, sources_of
from roundcard.books.transaction import Transaction
from roundcard.errors import SourceError
from roundcard.formats.csv import CsvWriter, Dialect
from roundcard.formats.sheets import guarded
from roundcard.survey.cards import survey_cards
from roundcard.survey.model import FileSurvey, Unreachable
from roundcard.survey.profile_table import Watch
from roundcard.survey.table import Tell, survey_table

_HEADINGS = ["source", "record", "name", "e-mail", "phone", "address"]


@dataclass(slots=True)
class SurveyPlan:
    """What to look at, and how."""

    sources: Sequence[str | Path]
    read: ReadOptions = ReadOptions()
    unreachable: Path | None = None
    """Where to write the people who cannot be reached in each of the three ways."""
    figure: Path | None = None
    """Where to draw fill, reach and trouble."""
    force: bool = False


def survey_sources(plan: SurveyPlan, watch: Watch | None = None) -> list[FileSurvey]:
    """Look at all sources. Raises `SourceError`, `LayoutError` and `TargetError`."""
    with Transaction(plan.unreachable or plan.figure) as files:
        tell = _listed(files, plan) if plan.unreachable is not None else None
        if plan.figure is not None:
            demand_free(plan.figure, force=plan.force)
        found = list(_each(plan, watch, tell))
        if plan.figure is not None:
            from roundcard.survey.figure import draw  # heavy

            draw(files, found, plan.figure, force=plan.force)
        files.commit()
    return found


def _listed(files: Transaction, plan: SurveyPlan) -> Tell:
    """What lists the people who cannot be reached in each of the three ways."""
    path = plan.unreachable or Path()
    spare_originals(path, _paths(plan.sources))
    target = files.file(path, force=plan.force)
    writer = CsvWriter(Dialect())
    target.write(writer.encode([_HEADINGS]))

    def tell(person: Unreachable) -> None:
        told = [person.source, str(person.record), person.name]
        ways = (person.email, person.phone, person.address)
        told += ["yes" if way else "no" for way in ways]
        target.write(writer.encode([list(map(guarded, told))]))

    return tell


def _each(plan: SurveyPlan, watch: Watch | None, tell: Tell | None) -> Iterator[FileSurvey]:
    sources = sources_of([str(name) for name in plan.sources], plan.read.stdin, plan.read.how)
    if not sources:
        raise SourceError("nothing to survey")
    for number, source in enumerate(sources):
        if source.format.sort == "card":
            found = survey_cards(source, number, watch, tell)
        else:
            found = survey_table(source, plan.read.layouts, plan.read.kept, watch, tell)
        if source.note:
            found.trouble.insert(0, source.note)
        yield found


def _paths(names: Sequence[str | Path]) -> Iterator[Path]:
    """The files that are named, and those of folders that are."""
    for name in names:
        path = Path(name)
        if name == STANDARD or not path.exists():
            continue
        yield path
        if path.is_dir():
            yield from (each for each in path.rglob("*") if each.is_file())
