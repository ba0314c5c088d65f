"""Writing a target whole or not at all."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from roundcard.errors import TargetError

_SUFFIX = ".roundcard-part"


class AtomicFile:
    """A file that takes its name only when it is complete.

    It grows as a hidden neighbour named after the process; a neighbour that a killed process left
    is removed by the next one that writes the same target.
    """

    def __init__(self, path: Path, *, force: bool = False) -> None:
        """Raises `TargetError` where the target exists (and is not to be replaced) or cannot be
        made."""
        self.path = path
        self.force = force
        self._demand_free()
        if path.parent != Path() and not path.parent.is_dir():
            raise TargetError(f"{path}: the folder {path.parent} is not there; make it first")
        self._part = path.with_name(f".{path.name}.{os.getpid()}{_SUFFIX}")
        self._sweep()
        with self._told():
            self.stream: BinaryIO = self._part.open("xb")

    def _demand_free(self) -> None:
        if self.path.is_dir():
            raise TargetError(f"{self.path}: this is a folder; name a file in it")
        if self.path.exists() and not self.force:
            raise TargetError(f"{self.path}: exists already; add --force to replace it")

    def _sweep(self) -> None:
        """Remove what killed processes left of the same target."""
        for stray in self.path.parent.glob(f".{_literal(self.path.name)}.*{_SUFFIX}"):
            pid = stray.name.removesuffix(_SUFFIX).rpartition(".")[2]
            if pid.isdecimal() and (int(pid) == os.getpid() or not _alive(int(pid))):
                with contextlib.suppress(OSError):
                    stray.unlink()

    @contextlib.contextmanager
    def _told(self) -> Iterator[None]:
        try:
            yield
        except OSError as error:
            self.discard()
            raise TargetError(f"{self.path}: cannot be written: {error.strerror}") from None

    def write(self, octets: bytes) -> None:
        """Write more. Raises `TargetError`."""
        with self._told():
            self.stream.write(octets)

    def restart(self) -> None:
        """Forget what was written. Raises `TargetError`."""
        with self._told():
            self.stream.seek(0)
            self.stream.truncate()

    def commit(self) -> None:
        """Give the complete file its name. Raises `TargetError`."""
        with self._told():
            self.stream.flush()
            os.fsync(self.stream.fileno())
            self.stream.close()
            self._demand_free()
            self._part.replace(self.path)

    def discard(self) -> None:
        """Leave nothing behind."""
        stream = getattr(self, "stream", None)
        if stream is not None:
            with contextlib.suppress(OSError):
                stream.close()
        with contextlib.suppress(OSError):
            self._part.unlink(missing_ok=True)


class StreamTarget:
    """Standard output: what is written is gone."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream = stream

    def write(self, octets: bytes) -> None:
        """Write more. Raises `TargetError` where nobody reads any longer."""
        try:
            self._stream.write(octets)
        except OSError as error:
            raise TargetError(f"standard output: cannot be written: {error.strerror}") from None

    def commit(self) -> None:
        """Push out what is held."""
        with contextlib.suppress(BrokenPipeError):
            self._stream.flush()

    def discard(self) -> None:
        """Nothing can be taken back."""


class NoTarget:
    """A dry run's target: counts the octets and keeps none."""

    def __init__(self) -> None:
        self.octets = 0

    def write(self, octets: bytes) -> None:
        """Count."""
        self.octets += len(octets)

    def commit(self) -> None:
        """Nothing to do."""

    def discard(self) -> None:
        """Nothing to do."""


Target = AtomicFile | StreamTarget | NoTarget


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _literal(name: str) -> str:
    """A file name in which no character means more than itself to glob."""
    return "".join(f"[{char}]" if char in "*?[" else char for char in name)
