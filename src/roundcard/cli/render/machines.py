"""Small reports for machines: of layouts, destinations, jobs, single records, sheets, copies.

Each shape has a number, `schema`, and a JSON Schema in ``docs/schemas``.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any

from roundcard.app.backup import Backup
from roundcard.destinations.model import Destination
from roundcard.jobs.model import Job
from roundcard.layouts.drafting.draft import Draft
from roundcard.layouts.drafting.written import Remark
from roundcard.layouts.fitting import TAKEN_FROM, Fit
from roundcard.layouts.model import Column, Layout
from roundcard.match.review_session import Review
from roundcard.survey.preview import Record

SCHEMA = 1


def told(**keys: Any) -> dict[str, Any]:
    """A report of these keys."""
    return {"schema": SCHEMA, **keys}


def kept(found: Iterable[tuple[Path, Any]], own: Path, what: str) -> dict[str, Any]:
    """What is kept of one kind: layouts or destinations."""
    each = [
        {
            "name": path.stem if isinstance(one, Exception) else one.name,
            "title": None if isinstance(one, Exception) else one.title or None,
            "file": str(path),
            "own": path.parent == own,
            "problem": str(one) if isinstance(one, Exception) else None,
        }
        for path, one in found
    ]
    return told(**{what: each})


def layout(
    found: Layout, remarks: Mapping[str, Remark], samples: Mapping[str, Sequence[str]]
) -> dict[str, Any]:
    """A layout, column by column, as one of those that are shown."""
    return {
        "layout": found.name,
        "title": found.title or None,
        "file": found.where,
        "encoding": found.dialect.encoding,
        "separator": found.dialect.separator,
        "heading_row": found.heading_row,
        "unlisted": found.unlisted,
        "columns": [
            _column(each, remarks.get(each.name, Remark()), samples.get(each.name, ()))
            for each in found.columns
        ],
    }


def _column(column: Column, remark: Remark, samples: Sequence[str]) -> dict[str, Any]:
    return {
        "heading": column.name,
        "holds": [str(path) for path in column.holds],
        "skipped": column.skip,
        "sureness": remark.sure,
        "look": remark.look,
        "why": remark.why or None,
        "samples": list(samples),
    }


def drafted(draft: Draft, output: str) -> dict[str, Any]:
    """What a draft made of a table."""
    return told(
        output=output,
        understood=draft.understood,
        sureness=round(draft.sure, 3),
        columns=[
            {
                "heading": each.column.name,
                "holds": [str(path) for path in each.column.holds],
                "skipped": each.column.skip,
                "sureness": round(each.sure, 3),
                "look": each.look,
                "why": each.why or None,
                "notes": list(each.notes),
            }
            for each in draft.columns
        ],
    )


def fits(found: Sequence[tuple[str, Sequence[Fit]]]) -> dict[str, Any]:
    """Which layouts fit which tables, the best first."""
    return told(
        sources=[
            {
                "source": name,
                "taken": each[0].layout.name if each and each[0].score >= TAKEN_FROM else None,
                "layouts": [
                    {
                        "layout": fit.layout.name,
                        "fit": round(fit.score, 3),
                        "missing": list(fit.missing),
                        "new": list(fit.new),
                        "against": list(fit.against),
                    }
                    for fit in each
                ],
            }
            for name, each in found
        ]
    )


def destination(to: Destination) -> dict[str, Any]:
    """What a service takes."""
    limits = to.limits
    return told(
        destination=to.name,
        title=to.title or None,
        file=str(to.file),
        accepts=list(to.accepts),
        layout=to.layout.name if to.layout is not None else None,
        limits={
            "people_per_file": limits.people_per_file or None,
            "bytes_per_file": limits.octets_per_file or None,
            "people_in_all": limits.people_in_all or None,
            "values": {str(path): most for path, most in limits.values.items()},
            "length": {
                str(path): {"most": each.most, "of": "bytes" if each.octets else "characters"}
                for path, each in limits.length.items()
            },
        },
    )


def job(found: Job, missing: Sequence[str]) -> dict[str, Any]:
    """Whether a job and all that it names are there."""
    return told(
        job=found.name,
        sources=len(found.sources),
        destination=found.to.name,
        right=not missing,
        missing=list(missing),
    )


def record(found: Record | None, source: str, records: int) -> dict[str, Any]:
    """One record of a source; `record` is null where none was found."""
    if found is None:
        return told(source=source, records=records, record=None)
    return told(
        source=source,
        records=records,
        record={
            "number": found.number,
            "line": found.place or None,
            "name": found.name or None,
            "state": found.state or None,
            "values": [
                {
                    "column": line.name,
                    "cell": line.cell,
                    "field": line.path or None,
                    "value": line.value or None,
                }
                for line in found.lines
            ],
            "findings": found.findings,
            "cleaning": [
                {"field": each.path, "before": each.before, "after": each.after,
                 "rule": each.rule, "doubt": each.doubt or None}
                for each in found.cleaned
            ],
        },
    )  # fmt: skip


def sheet(review: Review) -> dict[str, Any]:
    """How far a sheet of matches is decided."""
    return told(
        sheet=str(review.sheet.path),
        questions=len(review.questions),
        decided=review.decided,
        pairs=[
            {
                "group": (row := review.groups[group][at])["group"],
                "lead": review.groups[group][0]["name"] or None,
                "name": row["name"] or None,
                "score": row["score"] or None,
                "answer": str(row.answer) or None,
            }
            for group, at in review.questions
        ],
    )


def backup(made: Backup) -> dict[str, Any]:
    """A copy that was made, and proved."""
    return told(copy=str(made.path), files=made.files, people=made.people)
