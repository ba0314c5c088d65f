"""Deciding at the terminal who is the same person."""

from __future__ import annotations

import shutil
import sys

import typer

from roundcard.app.review import Session
from roundcard.cli.render import review as render
from roundcard.cli.render.text import obey
from roundcard.match.review_session import Review

_CLEAR = "\x1b[2J\x1b[H"
_BACK = ("b", "\x1b[D", "\x1b[A")
_LATER = ("l", " ", "\r", "\n", "\x1b[C", "\x1b[B")
_LEAVE = ("q", "\x1b", "\x04")


def run(session: Session) -> int:
    """Ask until all is decided or somebody leaves; the sheet and the decisions are kept."""
    review = session.review
    if not review.groups:
        sys.stdout.write(f"{review.sheet.path}: nothing to decide\n")
        return 0
    session.demand_place()
    told = "" if review.decided < len(review.questions) else render.ALL_DECIDED
    try:
        while True:
            _show(review, told)
            key = typer.getchar()
            if key in _LEAVE:
                break
            told = _do(review, key)
            session.save_sometimes()
    finally:
        session.end()
    obey(_CLEAR, sys.stdout)
    sys.stdout.write(render.left(review, session.store))
    return 0


def _show(review: Review, told: str) -> None:
    rows = shutil.get_terminal_size((100, 24)).lines
    text = render.screen(review, rows - 3)
    foot = render.foot(told)
    obey(_CLEAR, sys.stdout)
    sys.stdout.write(text)
    obey(f"\x1b[{rows - 1};1H", sys.stdout)
    sys.stdout.write(foot)
    sys.stdout.flush()


def _do(review: Review, key: str) -> str:
    """Do what a key says; what is to be told."""
    if key in ("s", "a"):
        review.answer("same" if key == "s" else "apart")
        return "" if review.next() else render.ALL_DECIDED
    if key in _LATER:
        return "" if review.forward() else "this is the last question"
    if key in _BACK:
        return "" if review.back() else "this is the first question"
    if key.isdecimal():
        return "" if review.pick(int(key)) else f"contact {key} not found"
    if key == "u":
        review.answer("")
    elif key == "f":
        review.lead()
        return "this one leads: its single values are taken"
    elif key == "v":
        return _take(review)
    else:
        return render.KEYS
    return ""


def _take(review: Review) -> str:
    """Take a single value from the current contact."""
    columns = review.differing()
    if not columns:
        return "no single value differs"
    if len(columns) == 1:
        review.take(columns[0])
        return f"{columns[0]} is taken from this one"
    rows = shutil.get_terminal_size((100, 24)).lines
    listed = ", ".join(f"{number} {name}" for number, name in enumerate(columns, 1))
    obey(f"\x1b[{rows - 1};1H\x1b[J", sys.stdout)
    sys.stdout.write(f"take from this one: {listed} ")
    sys.stdout.flush()
    key = typer.getchar()
    if not key.isdecimal() or not 1 <= int(key) <= len(columns):
        return ""
    review.take(columns[int(key) - 1])
    return f"{columns[int(key) - 1]} is taken from this one"
