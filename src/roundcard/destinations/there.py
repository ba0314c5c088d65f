"""What holds people at the other end: list, get, put, remove, each guarded by a version mark.

Between jobs and a contact service stands this one small protocol. A folder of cards is its
simplest implementation; a client of a network protocol is another.
"""

from __future__ import annotations

import hashlib
import os
import uuid
from pathlib import Path
from typing import Protocol

from roundcard.books.hidden import AtomicFile
from roundcard.books.transaction import Transaction
from roundcard.errors import SourceError, TargetError, ThereError

_SUFFIX = ".vcf"


class There(Protocol):
    """Holds cards (vCard, as octets), each under a name of its own (``href``) and with a mark of
    its version that changes with every change."""

    def list(self) -> dict[str, str]:
        """The marks of all cards, by href. Raises `SourceError`."""

    def get(self, href: str) -> tuple[bytes, str] | None:
        """A card and its mark; None where it is not there. Raises `SourceError`."""

    def put(self, href: str, card: bytes, mark: str) -> str:
        """Put a card in the place of the version with a mark, or as a new one where that is empty;
        its new mark. Raises `ThereError` where somebody was faster, `TargetError` where it cannot
        be written."""

    def remove(self, href: str, mark: str) -> None:
        """Remove the version with a mark. Raises what `put` raises."""


class CardFolder:
    """A folder of cards, one file a person."""

    def __init__(self, folder: Path) -> None:
        """Raises `SourceError` where there is none."""
        if not folder.is_dir():
            raise SourceError(f"{folder}: folder not found")
        self.folder = folder

    def list(self) -> dict[str, str]:
        """The marks of all cards, by the names of their files."""
        try:
            names = sorted(each.name for each in self.folder.iterdir()
                           if each.suffix.lower() == _SUFFIX and each.is_file())  # fmt: skip
        except OSError as error:
            raise SourceError(f"{self.folder}: cannot be read: {error.strerror}") from None
        found = ((name, self.get(name)) for name in names)
        return {name: card[1] for name, card in found if card is not None}

    def get(self, href: str) -> tuple[bytes, str] | None:
        """A card and its mark, a digest of its octets."""
        path = self._place(href)
        try:
            octets = path.read_bytes()
        except FileNotFoundError:
            return None
        except OSError as error:
            raise SourceError(f"{path}: cannot be read: {error.strerror}") from None
        return octets, _mark(octets)

    def put(self, href: str, card: bytes, mark: str) -> str:
        """Put a card; whole, or not at all."""
        path = self._place(href)
        self._demand(href, mark)
        with Transaction(path) as files:
            target = files.file(path, force=bool(mark))
            assert isinstance(target, AtomicFile)
            target.write(card)
            files.commit()
        return _mark(card)

    def remove(self, href: str, mark: str) -> None:
        """Remove a card."""
        self._demand(href, mark)
        try:
            self._place(href).unlink()
        except OSError as error:
            raise TargetError(f"{href}: cannot be removed: {error.strerror}") from None

    def _demand(self, href: str, mark: str) -> None:
        there = self.get(href)
        stands = there[1] if there is not None else ""
        if stands != mark:
            what = "was changed" if stands and mark else "is gone" if mark else "is there already"
            raise ThereError(f"{href}: {what}; somebody was faster")

    def _place(self, href: str) -> Path:
        if not href or href != os.path.basename(href) or href.startswith("."):  # noqa: PTH119
            raise TargetError(f"'{href}' is not the name of a card")
        return self.folder / href


def new_href() -> str:
    """The name of a new card: never text from the card."""
    return f"{uuid.uuid4()}{_SUFFIX}"


def _mark(octets: bytes) -> str:
    return hashlib.blake2b(octets, digest_size=12).hexdigest()
