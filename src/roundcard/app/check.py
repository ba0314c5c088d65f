"""Checking whether files are ready for a destination."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from roundcard.books.hidden import spare_originals
from roundcard.books.options import ReadOptions
from roundcard.books.plan import Plan, Watch
from roundcard.books.sheets import RowSheet, demand_sheet
from roundcard.books.source import Source, sources_of
from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact
from roundcard.destinations.check import Check, CheckReport, Row
from roundcard.destinations.model import Destination
from roundcard.errors import UsageError
from roundcard.tally import Tally

HEADINGS = ["source", "record", "person", "kind", "field", "what", "value", "becomes"]


@dataclass(frozen=True, slots=True)
class CheckPlan:
    """What to check, and how."""

    files: Sequence[str | Path]
    to: Destination
    read: ReadOptions = ReadOptions()
    there: str = ""
    """A file that holds whom the service has; empty where that is not asked."""
    findings: Path | None = None
    """Where each finding is listed, a row each."""
    region: str = ""
    existing: str = ""
    """What the import is to do with people whom the service knows."""
    force: bool = False


Words = Callable[[Row], str]
"""Puts a finding into words."""


def check_files(wanted: CheckPlan, words: Words, watch: Watch | None = None) -> CheckReport:
    """Check a set of files. Raises `SourceError`, `UsageError` and `TargetError`."""
    path = wanted.findings
    may = wanted.to.on_import.existing
    if wanted.existing and wanted.existing not in may:
        said = f"it can {', '.join(may)}" if may else "its file does not say what it can do"
        raise UsageError(f"--existing {wanted.existing}: {wanted.to.title} cannot do that with "
                         f"people whom it knows; {said}")  # fmt: skip
    if path is not None:
        demand_sheet(path, "--findings")
    sources = sources_of(list(map(str, wanted.files)), wanted.read.stdin, wanted.read.how)
    with Transaction(path) as files:
        tell: Callable[[Row], None] | None = None
        if path is not None:
            spare_originals(path, (each.path for each in sources))
            sheet = RowSheet(files, path, "findings", HEADINGS, force=wanted.force)

            def tell(row: Row) -> None:
                finding, example = row
                record = str(example.record) if example.record else ""
                sheet.add([example.source, record, example.person, finding.kind, finding.path,
                           words(row), example.before, example.after])  # fmt: skip

        check = Check(wanted.to, region=wanted.region, existing=wanted.existing, row=tell)
        if wanted.there:
            check.know(_contacts(wanted))
        done = 0
        octets = sum(source.octets for source in sources)
        for source in sources:
            plan = _plan_of(source, wanted)
            before, people = done, check.forecast.people

            def progress(
                read: int, records: int, before: int = before, people: int = people
            ) -> None:
                if watch is not None:
                    watch("checking", before + read, octets, people + records)

            check.file(plan, progress)
            done += source.octets
        if path is not None:
            sheet.end()
        files.commit()
    return check.report()


def _plan_of(source: Source, wanted: CheckPlan) -> Plan:
    plan = Plan.of(source.name, "", wanted.read)
    plan.opened = [source]
    return plan


def _contacts(wanted: CheckPlan) -> Iterator[Contact]:
    """Whom the service has, as its export tells."""
    plan = Plan.of(wanted.there, "", wanted.read)
    source = plan.open()[0]
    if source.format.sort == "table" and wanted.to.layout is not None:
        plan.layouts, plan.where_they_fit = [wanted.to.layout], True
    for reading in plan.readings(Tally()):
        yield from reading.contacts()
