"""The outside auditor over many made-up books: `python bench/outside_audit.py [BOOKS] [FIRST]`.

For each book all commands that write, each value looked for in what they wrote, each count held
against the report. Prints what it followed, and what it missed with the seed that shows it.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from audit.audit import audit
from in_process import Done, in_process


def main() -> int:
    """Audit so many seeds; the number of those that failed."""
    books = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 1_000
    values = commands = failed = 0
    began = time.monotonic()
    for seed in range(first, first + books):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            env = {"ROUNDCARD_HOME": str(folder / "home"), "COLUMNS": "100"}

            def run(args: list[str], folder: Path = folder, env: dict[str, str] = env) -> Done:
                return in_process(args, folder, env)

            try:
                done = audit(folder, run, seed)
            except AssertionError as error:
                failed += 1
                print(f"seed {seed}: {str(error)[:600]}", flush=True)
                continue
            values += done.values
            commands += done.commands
    spent = time.monotonic() - began
    print(f"{books:,} books, {commands:,} commands, {values:,} values followed, {failed:,} books "
          f"with something missing quietly or a count that is not true; {spent:.0f} s")  # fmt: skip
    return min(failed, 100)


if __name__ == "__main__":
    sys.exit(main())
