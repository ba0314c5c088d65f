"""The fates of values and people: counted as the work is done, and balanced at the end."""

from roundcard.tally.balance import Balance
from roundcard.tally.tally import MERGED_PEOPLE, Counts, Finding, SetAside, Sink, Tally

__all__ = ["MERGED_PEOPLE", "Balance", "Counts", "Finding", "SetAside", "Sink", "Tally"]
