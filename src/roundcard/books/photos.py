"""Photos in a folder beside a table: the cell holds the file's name, the file the picture."""

from __future__ import annotations

import base64
import binascii
import contextlib
import re
import shutil
from pathlib import Path, PurePosixPath

from roundcard.books.target import part_of, sweep
from roundcard.card.origin import unpack
from roundcard.errors import TargetError

SUFFIX = ".photos"
"""What the name of the folder ends in."""
SUFFIXES = {
    "image/jpeg": ".jpg",
    "image/png": ".png",
    "image/gif": ".gif",
    "image/webp": ".webp",
    "image/bmp": ".bmp",
    "image/tiff": ".tiff",
    "image/heic": ".heic",
    "image/svg+xml": ".svg",
}
_TYPES = {suffix: name for name, suffix in SUFFIXES.items()} | {".jpeg": "image/jpeg"}
_INLINE = re.compile(r"data:([^;,]+);base64,")
_MOST_OCTETS = 64_000_000


class PhotoFolder:
    """The folder ``NAME.photos`` beside a table that is written.

    It is begun when there is a photo to keep, and takes its name with `commit`.
    """

    def __init__(self, table: Path, *, sources: int = 1, force: bool = False) -> None:
        """`sources` is how many there are; of several, the photos' names begin with a number."""
        self._several = sources > 1
        self.path = table.with_name(table.stem + SUFFIX)
        self._force = force
        self._part = part_of(self.path)
        self._begun = False

    def keep(self, uri: str, origin: int) -> str:
        """Write an inline photo as a file named by its record; the path for the cell, from the
        table's folder.

        Empty for what is no inline picture of a usual type, which stays in the cell as it is.
        Raises `TargetError`.
        """
        found = _INLINE.match(uri)
        suffix = SUFFIXES.get(found[1].lower(), "") if found else ""
        if found is None or not suffix:
            return ""
        text = uri[found.end() :]
        try:
            octets = base64.b64decode(text, validate=True)
        except (binascii.Error, ValueError):
            return ""
        if base64.b64encode(octets).decode("ascii") != text:
            return ""  # it would not come back the same
        try:
            self._begin()
            place = unpack(origin)
            name = str(place.record) if place is not None else "made"
            if place is not None and self._several:
                name = f"{place.source + 1}-{name}"
            stem, number = name, 1
            while (self._part / (name := name + suffix)).exists():
                number += 1
                name = f"{stem}-{number}"
            (self._part / name).write_bytes(octets)
        except OSError as error:
            raise TargetError(f"{self.path}: cannot be written: {error.strerror}") from None
        return f"{self.path.name}/{name}"

    def _begin(self) -> None:
        if self._begun:
            return
        if self.path.exists() and not self._force:
            raise TargetError(f"{self.path}: exists already; add --force to replace it")
        inside = [each.name for each in self.path.iterdir()] if self.path.is_dir() else []
        if other := [name for name in inside if Path(name).suffix not in _TYPES]:
            raise TargetError(f"{self.path}: holds '{other[0]}', which is no photo; only a folder "
                              "of nothing but photos is replaced")  # fmt: skip
        sweep(self.path)
        self._part.mkdir()
        self._begun = True

    def restart(self) -> None:
        """Forget what was kept."""
        self.discard()

    def commit(self) -> list[Path]:
        """Give the folder its name; where it is, if there is one."""
        if not self._begun:
            return []
        with contextlib.suppress(FileNotFoundError):
            shutil.rmtree(self.path)
        self._part.rename(self.path)
        self._begun = False
        return [self.path]

    def discard(self) -> None:
        """Leave nothing behind."""
        if self._begun:
            shutil.rmtree(self._part, ignore_errors=True)
            self._begun = False


class PhotosBeside:
    """Brings the photos back that stand in a folder beside a table."""

    def __init__(self, table: Path) -> None:
        self._folder = table.parent.resolve()

    def bring(self, cell: str) -> str | None:
        """The photo that a cell names, as a ``data:`` URI (RFC 2397); None where there is none.

        Only a relative path is followed, to a file with a picture's suffix in the table's own
        folder or below it.
        """
        name = PurePosixPath(cell.replace("\\", "/"))
        kind = _TYPES.get(name.suffix.lower())
        if kind is None or name.is_absolute() or ".." in name.parts:
            return None
        try:
            path = self._folder.joinpath(*name.parts).resolve()
            if not path.is_relative_to(self._folder) or not path.is_file():
                return None
            if path.stat().st_size > _MOST_OCTETS:
                return None
            octets = path.read_bytes()
        except (OSError, ValueError):
            return None
        return f"data:{kind};base64,{base64.b64encode(octets).decode('ascii')}"
