"""The entry of the program: a Tab is answered before anything else is loaded."""

from __future__ import annotations

import gc
import os


def main() -> None:
    """Answer a shell that completes, or run a command."""
    if "_ROUNDCARD_COMPLETE" in os.environ:
        from roundcard.cli.completion import complete

        if complete():
            return
    gc.set_threshold(50_000, 20, 50)  # contacts hold no cycles; looking for them costs a tenth
    from roundcard.cli.main import main as run

    try:
        run()
    finally:
        gc.freeze()  # the process ends: nobody need look for cycles in what it loaded
