"""Keep a layout under its name in the user's own place."""

from __future__ import annotations

import re
from pathlib import Path

from roundcard.books.transaction import write_whole
from roundcard.errors import LayoutError, TargetError
from roundcard.layouts.file import parse_layout
from roundcard.layouts.library import load

_NAME = re.compile(r"[\w][\w. -]{0,79}")


def keep_layout(file: Path, place: Path, name: str = "", *, force: bool = False) -> Path:
    """Copy a layout file into `place`, under its name or another; its comments are kept.

    Raises `LayoutError` for a layout that is wrong or a name that no file can have, `TargetError`
    where one of that name is kept already.
    """
    layout = load(file)
    name = name or layout.name
    if not _NAME.fullmatch(name):
        raise LayoutError(f"'{name}' cannot be the name of a kept layout: letters, digits, spaces, "
                          "dots and hyphens are allowed; give another with --name")  # fmt: skip
    text = file.read_text(encoding="utf-8-sig")
    if name != layout.name:
        import tomlkit  # only to change a file that people wrote

        document = tomlkit.parse(text)
        document["name"] = name
        text = tomlkit.dumps(document)
        parse_layout(text, str(file))
    path = place / f"{name}.toml"
    if path.exists() and not force:
        raise TargetError(f"a layout named '{name}' is already kept; use --force to replace it, or "
                          "--name to choose another name")  # fmt: skip
    try:
        place.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise TargetError(f"{place}: folder cannot be created: {error.strerror}") from None
    write_whole(path, text.encode("utf-8"), force=force, private=False)
    return path
