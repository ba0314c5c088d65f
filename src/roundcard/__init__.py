"""Round Card: address books gathered, converted and proved, with no value lost unseen.

>>> import roundcard
>>> path = roundcard.parse_path("phone/work/2")
>>> path.field, path.uses, path.position
('phone', ('work',), 2)

Whole books are converted by a plan, and the report says what became of each value::

    report = roundcard.convert(roundcard.Plan.of("ledger.csv", "ledger.vcf"))
    assert report.balance.even

All jobs are in `docs/library.md`, with examples. They take nothing from a terminal.
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from roundcard._version import __version__
from roundcard.errors import (
    BalanceError,
    ConditionError,
    DestinationError,
    JobError,
    LayoutError,
    PathError,
    PlanError,
    ProofError,
    RoundCardError,
    SourceError,
    TargetError,
    ThereError,
    UsageError,
)

if TYPE_CHECKING:
    from roundcard.app.backup import back_up
    from roundcard.app.check import CheckPlan, check_files
    from roundcard.app.clean import CleanPlan, CleanReport, clean_books
    from roundcard.app.compare import ComparePlan, CompareReport, compare_books
    from roundcard.app.convert import Report, convert
    from roundcard.app.destinations import load_destination
    from roundcard.app.draft import DraftPlan, DraftReport, draft_layout
    from roundcard.app.edit import SheetReport, edits_in, update_book, write_to_edit
    from roundcard.app.fit import fit_to, read_from
    from roundcard.app.match import MatchPlan, MatchReport, match_people
    from roundcard.app.merge import MergePlan, MergeReport, merge_people
    from roundcard.app.pick import PickPlan, PickReport, pick_people, write_people
    from roundcard.app.preview import PreviewPlan, preview_records
    from roundcard.app.read import read
    from roundcard.app.review import Session
    from roundcard.app.survey import SurveyPlan, survey_sources
    from roundcard.app.unmerge import UnmergePlan, UnmergeReport, unmerge_people
    from roundcard.books.options import ReadOptions, WriteOptions
    from roundcard.books.plan import Plan
    from roundcard.books.source import HowToRead
    from roundcard.card.contact import Contact, Property
    from roundcard.card.paths import FieldPath
    from roundcard.card.paths import parse as parse_path
    from roundcard.clean.user_rules import Wishes
    from roundcard.destinations.check import CheckReport
    from roundcard.destinations.model import Destination
    from roundcard.jobs.file import Places, load_job
    from roundcard.jobs.history import confirm_run
    from roundcard.jobs.model import Job
    from roundcard.jobs.plan import Answers, RunPlan, RunReport
    from roundcard.jobs.run import run_job
    from roundcard.jobs.undo import UndoPlan, undo_run
    from roundcard.layouts.library import load as load_layout
    from roundcard.merge.policy import Policy
    from roundcard.pick.conditions import Condition
    from roundcard.pick.path_values import values_at
    from roundcard.tally.reasons import Fate, Reason

_LATER = {
    "Answers": "jobs.plan",
    "CheckPlan": "app.check",
    "CheckReport": "destinations.check",
    "CleanPlan": "app.clean",
    "CleanReport": "app.clean",
    "ComparePlan": "app.compare",
    "CompareReport": "app.compare",
    "Condition": "pick.conditions",
    "Contact": "card.contact",
    "Destination": "destinations.model",
    "DraftPlan": "app.draft",
    "DraftReport": "app.draft",
    "Fate": "tally.reasons",
    "FieldPath": "card.paths",
    "HowToRead": "books.source",
    "Job": "jobs.model",
    "MatchPlan": "app.match",
    "MatchReport": "app.match",
    "MergePlan": "app.merge",
    "MergeReport": "app.merge",
    "PickPlan": "app.pick",
    "PickReport": "app.pick",
    "Places": "jobs.file",
    "Plan": "books.plan",
    "Policy": "merge.policy",
    "PreviewPlan": "app.preview",
    "Property": "card.contact",
    "ReadOptions": "books.options",
    "Reason": "tally.reasons",
    "Report": "app.convert",
    "RunPlan": "jobs.plan",
    "RunReport": "jobs.plan",
    "Session": "app.review",
    "SheetReport": "app.edit",
    "SurveyPlan": "app.survey",
    "UndoPlan": "jobs.undo",
    "UnmergePlan": "app.unmerge",
    "UnmergeReport": "app.unmerge",
    "Wishes": "clean.user_rules",
    "WriteOptions": "books.options",
    "back_up": "app.backup",
    "check_files": "app.check",
    "clean_books": "app.clean",
    "compare_books": "app.compare",
    "confirm_run": "jobs.history",
    "convert": "app.convert",
    "draft_layout": "app.draft",
    "edits_in": "app.edit",
    "fit_to": "app.fit",
    "load_destination": "app.destinations",
    "load_job": "jobs.file",
    "load_layout": "layouts.library:load",
    "match_people": "app.match",
    "merge_people": "app.merge",
    "parse_path": "card.paths:parse",
    "pick_people": "app.pick",
    "preview_records": "app.preview",
    "read": "app.read",
    "read_from": "app.fit",
    "run_job": "jobs.run",
    "survey_sources": "app.survey",
    "undo_run": "jobs.undo",
    "unmerge_people": "app.unmerge",
    "update_book": "app.edit",
    "values_at": "pick.path_values",
    "write_people": "app.pick",
    "write_to_edit": "app.edit",
}
"""Names whose modules are loaded when they are asked for, so that the command starts quickly."""


def __getattr__(name: str) -> Any:
    if name not in _LATER:
        raise AttributeError(f"module 'roundcard' has no attribute '{name}'")
    module, _, attribute = _LATER[name].partition(":")
    return getattr(import_module(f"roundcard.{module}"), attribute or name)


def __dir__() -> list[str]:
    return sorted(__all__)


__all__ = [
    "Answers",
    "BalanceError",
    "CheckPlan",
    "CheckReport",
    "CleanPlan",
    "CleanReport",
    "ComparePlan",
    "CompareReport",
    "Condition",
    "ConditionError",
    "Contact",
    "Destination",
    "DestinationError",
    "DraftPlan",
    "DraftReport",
    "Fate",
    "FieldPath",
    "HowToRead",
    "Job",
    "JobError",
    "LayoutError",
    "MatchPlan",
    "MatchReport",
    "MergePlan",
    "MergeReport",
    "PathError",
    "PickPlan",
    "PickReport",
    "Places",
    "Plan",
    "PlanError",
    "Policy",
    "PreviewPlan",
    "ProofError",
    "Property",
    "ReadOptions",
    "Reason",
    "Report",
    "RoundCardError",
    "RunPlan",
    "RunReport",
    "Session",
    "SheetReport",
    "SourceError",
    "SurveyPlan",
    "TargetError",
    "ThereError",
    "UndoPlan",
    "UnmergePlan",
    "UnmergeReport",
    "UsageError",
    "Wishes",
    "WriteOptions",
    "__version__",
    "back_up",
    "check_files",
    "clean_books",
    "compare_books",
    "confirm_run",
    "convert",
    "draft_layout",
    "edits_in",
    "fit_to",
    "load_destination",
    "load_job",
    "load_layout",
    "match_people",
    "merge_people",
    "parse_path",
    "pick_people",
    "preview_records",
    "read",
    "read_from",
    "run_job",
    "survey_sources",
    "undo_run",
    "unmerge_people",
    "update_book",
    "values_at",
    "write_people",
    "write_to_edit",
]
