"""The user's settings, as the file in the user's folder and the environment say."""

from __future__ import annotations

import os
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

from roundcard.cli.places import home
from roundcard.errors import RoundCardError

if TYPE_CHECKING:
    from roundcard.app.settings import Settings

_SET_BY_ENVIRONMENT = "ROUNDCARD_"


def place() -> Path:
    """The settings file, whether it is there or not."""
    return home() / "settings.toml"


def current() -> Settings:
    """The settings as they stand. Raises `PlanError`."""
    path = place()
    try:
        stamp = path.stat().st_mtime_ns
    except OSError:
        stamp = 0
    said = tuple(sorted((name, value) for name, value in os.environ.items()
                        if name.startswith(_SET_BY_ENVIRONMENT)))  # fmt: skip
    return _read(path, stamp, said)


@lru_cache(maxsize=4)
def _read(path: Path, stamp: int, said: tuple[tuple[str, str], ...]) -> Settings:  # noqa: ARG001
    from roundcard.app.settings import settings_in

    return settings_in(path, dict(said))


def region(said: str) -> str:
    """The region that a command line names, or else the settings."""
    return said or current()["region"]


def colours() -> str:
    """Whether to colour: auto, always or never; auto where the settings are wrong, which is told
    where a command asks for them."""
    return _colours(os.environ.get("ROUNDCARD_COLOURS", ""), os.environ.get("ROUNDCARD_HOME", ""))


@lru_cache(maxsize=8)
def _colours(said: str, home: str) -> str:  # noqa: ARG001  # they tell surroundings apart
    try:
        return current()["colours"]
    except RoundCardError:
        return "auto"
