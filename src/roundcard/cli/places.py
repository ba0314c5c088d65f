"""Where the user's settings lie, as the platform and the environment say."""

from __future__ import annotations

import os
from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from roundcard.layouts.model import Layout


def layout_places() -> list[Path]:
    """Folders of kept layouts: the user's own first, then those that come with the tool.

    ``ROUNDCARD_HOME`` names the user's folder in place of the platform's usual one.
    """
    return [home() / "layouts", Path(str(resources.files("roundcard") / "demo" / "layouts"))]


def destination_places() -> list[Path]:
    """Folders of kept destinations: the user's own first, then those that come with the tool."""
    tool = Path(str(resources.files("roundcard") / "demo" / "destinations"))
    return [home() / "destinations", tool]


def own_layouts() -> list[Layout]:
    """The layouts that the user keeps; files that are wrong are passed over."""
    from roundcard.layouts import library
    from roundcard.layouts.model import Layout

    found = [layout for _, layout in library.kept([home() / "layouts"])]
    return [layout for layout in found if isinstance(layout, Layout)]


def home() -> Path:
    """The user's settings folder."""
    said = os.environ.get("ROUNDCARD_HOME")
    if said:
        return Path(said)
    from platformdirs import user_config_path  # not needed by most commands

    return user_config_path("roundcard", appauthor=False)
