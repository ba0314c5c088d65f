"""Photos in a folder beside a table: the cell holds the file's name, the file the picture."""

from __future__ import annotations

import base64
import binascii
import os
import re
from pathlib import Path, PurePosixPath

from roundcard.books.hidden import Hidden, demand_new
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


class PhotoFolder(Hidden):
    """The folder ``NAME.photos`` beside a table that is written.

    It is begun when there is a photo to keep.
    """

    def __init__(self, table: Path, *, sources: int = 1, force: bool = False) -> None:
        """`sources` is how many there are; of several, the photos' names begin with a number."""
        self._several = sources > 1
        self._force = force
        self._begun = False
        super().__init__(table.with_name(table.stem + SUFFIX))

    @property
    def begun(self) -> bool:
        """Whether there is any photo."""
        return self._begun

    def demand_free(self) -> None:
        """Raise `TargetError` where something is there that may not be replaced."""
        if not self._begun:
            return
        demand_new(self.path, force=self._force)
        inside = [each.name for each in self.place.iterdir()] if self.place.is_dir() else []
        if other := [name for name in inside if Path(name).suffix not in _TYPES]:
            raise TargetError(f"{self.path} contains '{other[0]}', which is not a photo; only a "
                              "folder of nothing but photos is replaced")  # fmt: skip

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
        with self.told():
            if not self._begun:
                self._begun = True
                self.demand_free()
                self.part.mkdir(mode=0o700)
            place = unpack(origin)
            name = str(place.record) if place is not None else "made"
            if place is not None and self._several:
                name = f"{place.source + 1}-{name}"
            stem, number = name, 1
            while (self.part / (name := name + suffix)).exists():
                number += 1
                name = f"{stem}-{number}"
            (self.part / name).write_bytes(octets)
        return f"{self.path.name}/{name}"

    def complete(self) -> None:
        """See that all of it is on the disk. Raises `TargetError`."""
        with self.told():
            for each in self.part.iterdir():
                with each.open("rb") as stream:
                    os.fsync(stream.fileno())

    def discard(self) -> None:
        """Leave nothing behind, and forget what was kept."""
        super().discard()
        self._begun = False


class PhotosBeside:
    """Brings the photos back that stand in a folder beside a table."""

    def __init__(self, table: Path, hidden: PhotoFolder | None = None) -> None:
        """`hidden` is the folder of a table that is yet to take its name."""
        self._folder = table.parent.resolve()
        self._hidden = {hidden.path.name: hidden.part.name} if hidden is not None else {}

    def bring(self, cell: str) -> str | None:
        """The photo that a cell names, as a ``data:`` URI (RFC 2397); None where there is none.

        Only a relative path is followed, to a file with a picture's suffix in the table's own
        folder or below it.
        """
        name = PurePosixPath(cell.replace("\\", "/"))
        kind = _TYPES.get(name.suffix.lower())
        if kind is None or name.is_absolute() or ".." in name.parts:
            return None
        first, *rest = name.parts
        try:
            path = self._folder.joinpath(self._hidden.get(first, first), *rest).resolve()
            if not path.is_relative_to(self._folder) or not path.is_file():
                return None
            if path.stat().st_size > _MOST_OCTETS:
                return None
            octets = path.read_bytes()
        except (OSError, ValueError):
            return None
        return f"data:{kind};base64,{base64.b64encode(octets).decode('ascii')}"
