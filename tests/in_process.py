"""The command by the same entry as a process has it, within this one."""

from __future__ import annotations

import contextlib
import gc
import io
import os
import signal
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple
from unittest import mock

from roundcard.cli.main import main


class Done(NamedTuple):
    """What a command left."""

    code: int
    out: str
    err: str


def in_process(args: list[str], folder: Path, env: dict[str, str], stdin: bytes = b"") -> Done:
    """Run ``roundcard`` with argv, streams, folder and environment as a shell gives them."""
    streams = [io.BytesIO(stdin), io.BytesIO(), io.BytesIO()]
    texts = [io.TextIOWrapper(stream, encoding="utf-8", newline="") for stream in streams]
    code = 0
    with (
        _as_before(),
        contextlib.chdir(folder),
        mock.patch.dict(os.environ, env),
        mock.patch.multiple(sys, argv=["roundcard", *args], stdin=texts[0], stdout=texts[1],
                            stderr=texts[2]),
    ):  # fmt: skip
        try:
            main()
        except SystemExit as left:
            code = int(left.code or 0)
        finally:
            texts[1].flush()
            texts[2].flush()
    _, out, err = (stream.getvalue().decode("utf-8") for stream in streams)
    return Done(code, out, err)


@contextlib.contextmanager
def _as_before() -> Iterator[None]:
    """Signals and the collector as they were, afterwards."""
    signals = {which: signal.getsignal(which) for which in (signal.SIGINT, signal.SIGTERM)}
    threshold = gc.get_threshold()
    try:
        yield
    finally:
        for which, handler in signals.items():
            signal.signal(which, handler)
        gc.set_threshold(*threshold)
