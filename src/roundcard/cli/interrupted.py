"""What a signal from outside becomes."""

from __future__ import annotations


class Interrupted(BaseException):
    """Somebody pressed Ctrl-C, or the system wants the process to end."""
