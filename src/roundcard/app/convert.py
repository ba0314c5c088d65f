"""Converting whole books."""

from roundcard.books.conversion import Report, convert
from roundcard.books.plan import Plan

__all__ = ["Plan", "Report", "convert"]
