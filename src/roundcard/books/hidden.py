"""What a command writes, while it grows: hidden neighbours of the files that they will be.

A file grows as ``.NAME.PROCESS.roundcard-part`` beside its place, in the folder of what it really
is where the name is a link. It takes its name with all other files of the command, by
:mod:`roundcard.books.transaction`.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import shutil
import stat
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import BinaryIO

from roundcard.errors import TargetError

PART, OLD = ".roundcard-part", ".roundcard-old"
"""What the names of growing files end in, and those of what they replace."""
_LONGEST_NAME = 180
"""Bytes of a file's name that stand in the name of its hidden neighbour."""
_OWNER_ONLY = 0o600
_AS_OCTETS: int = getattr(os, "O_BINARY", 0)
"""Where a system would otherwise rewrite the ends of lines."""


def neighbour(path: Path, ending: str) -> Path:
    """The hidden neighbour of a file that this process makes, with an ending."""
    return path.with_name(f".{_short(path.name)}.{os.getpid()}{ending}")


def _short(name: str) -> str:
    """A name that has room for more within what file systems allow."""
    octets = os.fsencode(name)
    if len(octets) <= _LONGEST_NAME:
        return name
    kept = octets[: _LONGEST_NAME // 2].decode("utf-8", "ignore")
    return f"{kept}~{hashlib.sha256(octets).hexdigest()[:16]}"


def sweep(path: Path) -> None:
    """Remove what killed processes left of a file."""
    before = f".{_short(path.name)}."
    for stray in path.parent.glob(f"{_literal(before)}*"):
        ending = next((each for each in (PART, OLD) if stray.name.endswith(each)), "")
        pid = stray.name[len(before) : -len(ending)] if ending else ""
        if pid.isdecimal() and (int(pid) == os.getpid() or not alive(int(pid))):
            remove(stray)


def remove(path: Path) -> None:
    """Remove a file or a folder, if it can be removed."""
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path, ignore_errors=True)
    else:
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)


def alive(pid: int) -> bool:
    """Whether a process is there."""
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


def is_stream(path: Path) -> bool:
    """Whether a name is that of a pipe or a character device, which is written to and never
    replaced.

    Raises `TargetError` for what is neither that, nor a file, nor a folder.
    """
    try:
        mode = path.stat().st_mode
    except OSError:
        return False
    if stat.S_ISFIFO(mode) or stat.S_ISCHR(mode):
        return True
    if not (stat.S_ISREG(mode) or stat.S_ISDIR(mode)):
        raise TargetError(f"{path}: is not a regular file; choose a different name")
    return False


def spare_originals(path: Path, originals: Iterable[Path | None]) -> None:
    """Raise `TargetError` where a file that is to be written is one of the sources."""
    if path.exists() and any(each is not None and path.samefile(each) for each in originals):
        raise TargetError(f"{path} is one of the sources; originals are never overwritten; choose "
                          "a different file")  # fmt: skip


class Hidden:
    """What grows as a hidden neighbour of its place."""

    def __init__(self, path: Path) -> None:
        """Raises `TargetError` where it may not go to `path`."""
        self.path = path
        """The name as it was said."""
        self.place = Path(os.path.realpath(path))
        """Where it goes: what the name leads to, if it is a link."""
        self.demand_free()
        if not self.place.parent.is_dir():
            raise TargetError(f"{path}: folder {path.parent} not found; create it first")
        self.part = neighbour(self.place, PART)
        sweep(self.place)

    @property
    def begun(self) -> bool:
        """Whether there is anything that will take the name."""
        return True

    def demand_free(self) -> None:
        """Raise `TargetError` where something is there that may not be replaced."""

    def complete(self) -> None:
        """See that all of it is on the disk. Raises `TargetError`."""

    def discard(self) -> None:
        """Leave nothing behind."""
        remove(self.part)

    @contextlib.contextmanager
    def told(self) -> Iterator[None]:
        """Raise `TargetError` for what the system refuses meanwhile."""
        try:
            yield
        except OSError as error:
            self.discard()
            raise TargetError(f"{self.path}: cannot be written: {error.strerror}") from None


class AtomicFile(Hidden):
    """A file that takes its name only when it is complete."""

    def __init__(self, path: Path, *, force: bool = False, private: bool = True) -> None:
        """A new file is `private` to its owner; one that is replaced keeps its mode.

        Raises `TargetError` where the file exists (and is not to be replaced) or cannot be made.
        """
        self.force = force
        super().__init__(path)
        with self.told():
            self.stream: BinaryIO = self._opened(private)

    def _opened(self, private: bool) -> BinaryIO:
        mode = _OWNER_ONLY if private else 0o666
        descriptor = os.open(self.part, os.O_RDWR | os.O_CREAT | os.O_EXCL | _AS_OCTETS, mode)
        with contextlib.suppress(OSError):
            self.part.chmod(stat.S_IMODE(self.place.stat().st_mode))
        return os.fdopen(descriptor, "w+b")

    def demand_free(self) -> None:
        """Raise `TargetError` where a file is there that may not be replaced."""
        if self.place.is_dir():
            raise TargetError(f"{self.path}: is a folder; name a file in it")
        demand_new(self.path, force=self.force)

    def write(self, octets: bytes) -> None:
        """Write more. Raises `TargetError`."""
        with self.told():
            self.stream.write(octets)

    def so_far(self) -> Path:
        """The file as it stands on disk before it takes its name. Raises `TargetError`."""
        with self.told():
            if not self.stream.closed:
                self.stream.flush()
                os.fsync(self.stream.fileno())
        return self.part

    def restart(self) -> None:
        """Forget what was written. Raises `TargetError`."""
        with self.told():
            self.stream.seek(0)
            self.stream.truncate()

    def complete(self) -> None:
        """See that all of it is on the disk. Raises `TargetError`."""
        self.so_far()
        with self.told():
            self.stream.close()

    def discard(self) -> None:
        """Leave nothing behind."""
        stream = getattr(self, "stream", None)
        if stream is not None:
            with contextlib.suppress(OSError):
                stream.close()
        super().discard()


def demand_new(path: Path, *, force: bool) -> None:
    """Raise `TargetError` where a file is there already and may not be replaced."""
    if not force and path.exists():
        raise TargetError(f"{path} already exists; use --force to replace it")
