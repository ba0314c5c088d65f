"""Figures as files: one look, and whole or not at all."""

from __future__ import annotations

import contextlib
import io
from collections.abc import Iterator
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Any

from roundcard.books.hidden import demand_new
from roundcard.books.transaction import Transaction
from roundcard.errors import TargetError

if TYPE_CHECKING:
    from matplotlib.figure import Figure

INK, DIM, PALE = "#1f2a30", "#7b878d", "#e4e9ea"
_DPI = 130
_FONTS = ["DejaVu Sans", "Noto Sans CJK JP", "Noto Sans CJK SC", "Noto Sans", "sans-serif"]


def demand_free(path: Path, *, force: bool) -> None:
    """Raise `TargetError` where a figure cannot go to `path`, or cannot be drawn at all."""
    if path.suffix.lower() not in (".png", ".svg", ".pdf"):
        raise TargetError(f"{path}: a figure is a .png, .svg or .pdf file")
    demand_new(path, force=force)
    if find_spec("matplotlib") is None:
        raise TargetError(f"{path}: figures are drawn by Matplotlib, which is not installed: "
                          "pip install 'roundcard[figures]'")  # fmt: skip


@contextlib.contextmanager
def drawn(
    files: Transaction, path: Path, size: tuple[float, float], *, force: bool = False
) -> Iterator[Figure]:
    """A figure of so many inches, to be drawn in; afterwards it is one of the files to write.

    Raises `TargetError`.
    """
    import matplotlib as mpl  # heavy, and only for figures

    mpl.use("agg")
    from matplotlib import font_manager, pyplot

    there = {font.name for font in font_manager.fontManager.ttflist}
    style: Any = {"font.family": [name for name in _FONTS if name in there] or ["sans-serif"],
             "text.color": INK, "axes.edgecolor": PALE, "font.size": 8.5}  # fmt: skip
    with mpl.rc_context(style):
        figure = pyplot.figure(figsize=size, dpi=_DPI)
        yield figure
        octets = io.BytesIO()
        figure.savefig(octets, format=path.suffix.lower()[1:], metadata=_unsigned(path))
        pyplot.close(figure)
    files.file(path, force=force, private=False).write(octets.getvalue())


def _unsigned(path: Path) -> dict[str, Any] | None:
    """Metadata without a date, so that the same survey gives the same octets."""
    return {"Date": None} if path.suffix.lower() == ".svg" else None
