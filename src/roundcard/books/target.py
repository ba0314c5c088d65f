"""Targets: a file or a folder that appears whole or not at all, a stream, or nothing."""

from __future__ import annotations

import contextlib
import os
import unicodedata
from pathlib import Path
from typing import BinaryIO

from roundcard.books.hidden import AtomicFile, Hidden
from roundcard.books.transaction import Stream
from roundcard.errors import TargetError


class FolderTarget(Hidden):
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
            self.part.mkdir(mode=0o700)

    def demand_free(self) -> None:
        """Raise `TargetError` where something is there that may not be replaced."""
        if not self.place.exists():
            return
        if not self.place.is_dir():
            raise TargetError(f"{self.path} is a file; choose a folder")
        inside = [each.name for each in self.place.iterdir()]
        if inside and not self._force:
            raise TargetError(f"{self.path} already contains {len(inside):,} files; choose a new "
                              "folder, or use --force to replace it")  # fmt: skip
        other = [name for name in inside if not name.lower().endswith(self._ours)]
        if other:
            raise TargetError(f"{self.path} contains '{other[0]}', which is not a card; only a "
                              "folder of nothing but cards is replaced")  # fmt: skip

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
            (self.part / path).write_bytes(octets)
        return path

    def so_far(self) -> Path:
        """The folder as it stands on disk before it takes its name."""
        return self.part

    def complete(self) -> None:
        """See that all of it is on the disk. Raises `TargetError`."""
        with self.told():
            for each in self.part.iterdir():
                with each.open("rb") as stream:
                    os.fsync(stream.fileno())


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


Target = AtomicFile | Stream | StreamTarget | NoTarget

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
