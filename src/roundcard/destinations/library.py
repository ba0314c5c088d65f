"""Kept destinations, by name: the user's own place first, then those that come with the tool."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from roundcard.destinations.file import parse_destination
from roundcard.destinations.model import Destination
from roundcard.errors import DestinationError, did_you_mean
from roundcard.layouts import library as layouts
from roundcard.layouts.model import Layout


def load(path: Path | str, layout_places: Sequence[Path]) -> Destination:
    """The destination in a file; a layout that it names is looked for beside the file and in its
    folder ``layouts``, then in `layout_places`.

    Raises `DestinationError` where the file cannot be read or is wrong.
    """
    path = Path(path)
    text = layouts.text_in(path, "destination", DestinationError)
    near_by = [path.parent / "layouts", path.parent.parent / "layouts"]

    def find_layout(name: str) -> Layout:
        return layouts.find(name, [*near_by, *layout_places])[0]

    return parse_destination(text, str(path), find_layout)


def kept(
    places: Iterable[Path], layout_places: Sequence[Path]
) -> Iterator[tuple[Path, Destination | DestinationError]]:
    """The destination files in some folders, each with its destination or what is wrong with it."""
    for place in places:
        for path in sorted(place.glob("*.toml")) if place.is_dir() else ():
            try:
                yield path, load(path, layout_places)
            except DestinationError as error:
                yield path, error


def find(name: str, places: Sequence[Path], layout_places: Sequence[Path]) -> Destination:
    """The destination that a name on the command line means: a file, or a kept one.

    Raises `DestinationError` where there is none.
    """
    path = Path(name)
    if path.suffix == ".toml" or path.is_file():
        return load(path, layout_places)
    known = []
    for file, found in kept(places, layout_places):
        if isinstance(found, Destination):
            if found.name == name:
                return found
            known.append(found.name)
        elif file.stem == name:
            raise found
    hint = did_you_mean(name, known) or "; 'roundcard destination list' shows those that are kept"
    raise DestinationError(f"'{name}' is neither a destination file nor a kept destination{hint}")
