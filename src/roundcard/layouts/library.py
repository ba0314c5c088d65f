"""Kept layouts, by name: the user's own place first, then those that come with the tool."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path

from roundcard.errors import LayoutError, PlanError, did_you_mean
from roundcard.layouts.file import parse_layout
from roundcard.layouts.model import Layout


def load(path: Path | str) -> Layout:
    """The layout in a file. Raises `LayoutError` where it cannot be read or is wrong."""
    path = Path(path)
    return parse_layout(text_in(path, "layout", LayoutError), str(path))


def text_in(path: Path, what: str, error: type[PlanError]) -> str:
    """The text of a file that a user wrote, which is to describe a `what`.

    Raises `error` where it cannot be read.
    """
    try:
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as found:
        raise error(f"{path}: a {what} file is UTF-8 text, and this is not "
                    f"(byte {found.start + 1})") from None  # fmt: skip
    except FileNotFoundError:
        near = [other.name for other in path.parent.glob("*.toml")]
        raise error(f"{path}: {what} file not found{did_you_mean(path.name, near)}") from None
    except OSError as found:
        reason = found.strerror or str(found)
        raise error(f"{path}: the {what} cannot be read: {reason}") from None


def kept(places: Iterable[Path]) -> Iterator[tuple[Path, Layout | LayoutError]]:
    """The layout files in some folders, each with its layout or what is wrong with it."""
    for place in places:
        for path in sorted(place.glob("*.toml")) if place.is_dir() else ():
            try:
                yield path, load(path)
            except LayoutError as error:
                yield path, error


def text_of(layout: Layout, places: Iterable[Path]) -> str:
    """The text of the file that a layout was read from; empty where there is none."""
    if layout.file:
        return Path(layout.file).read_text(encoding="utf-8-sig")
    for path, found in kept(places):
        if isinstance(found, Layout) and found.name == layout.name:
            return path.read_text(encoding="utf-8-sig")
    return ""


def find(name: str, places: Sequence[Path]) -> list[Layout]:
    """The layouts that a name on the command line means.

    A file is that layout, a folder all in it, anything else the kept layout of that name. Raises
    `LayoutError` where there is none.
    """
    path = Path(name)
    if path.is_dir():
        layouts = [load(file) for file in sorted(path.glob("*.toml"))]
        if not layouts:
            raise LayoutError(f"{name}: a folder without layout files (*.toml)")
        return layouts
    if path.is_file() or path.suffix == ".toml" or path.name != name:
        return [load(path)]
    known = []
    for file, layout in kept(places):
        if isinstance(layout, Layout):
            if layout.name == name:
                return [replace(layout, file="")]
            known.append(layout.name)
        elif file.stem == name:
            raise layout
    hint = did_you_mean(name, known) or "; 'roundcard layout list' shows those that are kept"
    raise LayoutError(f"'{name}' is neither a layout file nor a kept layout{hint}")
