"""Writing a target whole or not at all."""

from __future__ import annotations

import contextlib
import os
import shutil
import unicodedata
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import BinaryIO

from roundcard.errors import TargetError

_SUFFIX = ".roundcard-part"


class _Hidden:
    """What grows as a hidden neighbour of its target, named after the process."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._demand_free()
        if path.parent != Path() and not path.parent.is_dir():
            raise TargetError(f"{path}: the folder {path.parent} is not there; make it first")
        self._part = part_of(path)
        sweep(path)

    def _demand_free(self) -> None:
        """Raise `TargetError` where the target is there and may not be replaced."""

    def discard(self) -> None:
        """Leave nothing behind."""

    @contextlib.contextmanager
    def told(self) -> Iterator[None]:
        """Raise `TargetError` for what the system refuses meanwhile."""
        try:
            yield
        except OSError as error:
            self.discard()
            raise TargetError(f"{self.path}: cannot be written: {error.strerror}") from None


def spare_originals(path: Path, originals: Iterable[Path | None]) -> None:
    """Raise `TargetError` where a file that is to be written is one of the sources."""
    if path.exists() and any(each is not None and path.samefile(each) for each in originals):
        raise TargetError(f"{path}: this is one of the sources, and the originals are never "
                          "touched; name another file")  # fmt: skip


class AtomicFile(_Hidden):
    """A file that takes its name only when it is complete.

    It grows as a hidden neighbour named after the process; a neighbour that a killed process left
    is removed by the next one that writes the same target.
    """

    def __init__(self, path: Path, *, force: bool = False) -> None:
        """Raises `TargetError` where the target exists (and is not to be replaced) or cannot be
        made."""
        self.force = force
        super().__init__(path)
        with self.told():
            self.stream: BinaryIO = self._part.open("xb")

    def _demand_free(self) -> None:
        if self.path.is_dir():
            raise TargetError(f"{self.path}: this is a folder; name a file in it")
        if self.path.exists() and not self.force:
            raise TargetError(f"{self.path}: exists already; add --force to replace it")

    def write(self, octets: bytes) -> None:
        """Write more. Raises `TargetError`."""
        with self.told():
            self.stream.write(octets)

    def so_far(self) -> Path:
        """The file as it stands on disk before it takes its name. Raises `TargetError`."""
        with self.told():
            self.stream.flush()
            os.fsync(self.stream.fileno())
        return self._part

    def restart(self) -> None:
        """Forget what was written. Raises `TargetError`."""
        with self.told():
            self.stream.seek(0)
            self.stream.truncate()

    def commit(self) -> None:
        """Give the complete file its name. Raises `TargetError`."""
        with self.told():
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


class FolderTarget(_Hidden):
    """A folder of files that takes its name only when it is complete.

    Each file is named after a person: letters, figures and spaces of the name go in, what means
    something to a file system does not, and no two names are the same to any of them.
    """

    def __init__(self, path: Path, *, force: bool = False, ours: tuple[str, ...] = ()) -> None:
        """`ours` are the suffixes that files in a folder may have that is to be replaced.

        Raises `TargetError` where the folder exists and holds anything (and is not to be replaced),
        or cannot be made.
        """
        self._force = force
        self._ours = ours
        super().__init__(path)
        self._names: dict[int, int] = {}
        with self.told():
            self._part.mkdir()

    def _demand_free(self) -> None:
        if not self.path.exists():
            return
        if not self.path.is_dir():
            raise TargetError(f"{self.path}: this is a file, and a folder is wanted")
        inside = [each.name for each in self.path.iterdir()]
        if inside and not self._force:
            raise TargetError(f"{self.path}: holds {len(inside):,} files already; name a new "
                              "folder, or add --force to replace it")  # fmt: skip
        other = [name for name in inside if not name.lower().endswith(self._ours)]
        if other:
            raise TargetError(f"{self.path}: holds '{other[0]}', which is no card; only a folder "
                              "of nothing but cards is replaced")  # fmt: skip

    def so_far(self) -> Path:
        """The folder as it stands on disk before it takes its name."""
        return self._part

    def add(self, name: str, suffix: str, octets: bytes) -> Path:
        """Write one file for a person of that name; the name that it got."""
        safe = safe_name(name)
        key = hash(unicodedata.normalize("NFKC", safe).casefold())
        number = self._names[key] = self._names.get(key, 0) + 1
        while number > 1:  # 'Ann (2)' may be somebody's name too
            numbered = f"{safe} ({number})"
            other = hash(unicodedata.normalize("NFKC", numbered).casefold())
            if other not in self._names:
                self._names[other] = 1
                safe = numbered
                break
            number = self._names[key] = number + 1
        path = Path(safe + suffix)
        with self.told():
            (self._part / path).write_bytes(octets)
        return path

    def commit(self) -> None:
        """Give the complete folder its name. Raises `TargetError`."""
        with self.told():
            self._demand_free()
            if self.path.exists():
                old = self._part.with_name(self._part.name.replace(_SUFFIX, ".old" + _SUFFIX))
                self.path.rename(old)
                self._part.rename(self.path)
                shutil.rmtree(old, ignore_errors=True)
            else:
                self._part.rename(self.path)

    def discard(self) -> None:
        """Leave nothing behind."""
        shutil.rmtree(self._part, ignore_errors=True)


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

_FORBIDDEN = frozenset('<>:"/\\|?*')
_DEVICES = frozenset(
    ["con", "prn", "aux", "nul", *(f"{port}{n}" for port in ("com", "lpt") for n in range(10))]
)
"""Names that mean a device, with or without a suffix, to some systems."""
_LONGEST_NAME = 120
"""Octets of a file's name without number and suffix."""


def safe_name(name: str) -> str:
    """A name that every file system takes, and none reads as a path, a device or a hidden file."""
    text = unicodedata.normalize("NFC", name)
    kept = [" " if char in _FORBIDDEN or char.isspace() else char for char in text]
    text = " ".join("".join(char for char in kept if char.isprintable()).split())
    text = text.encode("utf-8", "ignore")[:_LONGEST_NAME].decode("utf-8", "ignore").strip(". ")
    if not text:
        return "contact"
    return f"{text}_" if text.partition(".")[0].casefold().strip() in _DEVICES else text


def part_of(path: Path) -> Path:
    """The hidden neighbour as which a target grows."""
    return path.with_name(f".{path.name}.{os.getpid()}{_SUFFIX}")


def sweep(path: Path) -> None:
    """Remove what killed processes left of a target."""
    for stray in path.parent.glob(f".{_literal(path.name)}.*{_SUFFIX}"):
        pid = stray.name.removesuffix(_SUFFIX).removesuffix(".old").rpartition(".")[2]
        if not pid.isdecimal() or (int(pid) != os.getpid() and _alive(int(pid))):
            continue
        if stray.name.endswith(".old" + _SUFFIX) and not path.exists():
            stray.rename(path)  # killed between two renames: the old folder is the whole one
        elif stray.is_dir():
            shutil.rmtree(stray, ignore_errors=True)
        else:
            with contextlib.suppress(OSError):
                stray.unlink()


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
