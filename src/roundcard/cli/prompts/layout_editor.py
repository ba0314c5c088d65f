"""``roundcard layout edit``: going through the columns of a layout at the terminal."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from roundcard.books.source import Source
from roundcard.books.transaction import write_whole
from roundcard.card.paths import FIELD_WORDS, parse, parts_of, takes_many, uses_of
from roundcard.cli.interrupted import Interrupted
from roundcard.cli.render.text import styled
from roundcard.errors import LayoutError, PathError, RoundCardError, UsageError, nearest
from roundcard.layouts.drafting.date_styles import date_style_of
from roundcard.layouts.drafting.deciding import ColumnDecision, decided
from roundcard.layouts.drafting.written import Remark, remarks_in
from roundcard.layouts.file import parse_layout
from roundcard.layouts.fitting import path_against
from roundcard.layouts.model import Column, Layout
from roundcard.survey.checking import Proposals, Proposed

_MOST_PROPOSALS = 6
_MOST_CODES = 6
"""Different cells of a column that are asked for one by one."""
_DATED = frozenset(("birthday", "anniversary"))
_CODED = frozenset(("gender",))
_HELP = ("a number takes a proposal; a field path says what the column holds (Tab completes it); "
         "='TEXT' a fixed value; s skip; c custom; Enter right as it stands; l later; b back; "
         "q quit; ? this help")  # fmt: skip


class StoppedError(RoundCardError):
    """Somebody stopped in the middle; what was decided stands in the file."""

    exit_code = 130

    def __init__(self) -> None:
        super().__init__("stopped; what was decided before stands in the file")


def edit_layout(
    file: Path, source: Source | None, *, everything: bool = False, columns: Sequence[str] = ()
) -> int:
    """Ask about each column that is to be looked at, or about some that are named; each decision is
    written at once."""
    text = _read(file)
    layout = parse_layout(text, str(file))
    table = Proposals(layout, source) if source is not None else None
    remarks = remarks_in(text, layout)
    asked = [_column_of(layout, each) for each in columns] or [
        at for at, column in enumerate(layout.columns)
        if everything or remarks[column.name].look]  # fmt: skip
    if not asked:
        sys.stdout.write(f"{file}: no column is marked LOOK; --all goes through all of them\n")
        return 0
    sys.stdout.write(f"{_bold(str(file))}: {len(asked)} of {len(layout.columns)} columns to look "
                     f"at\n{styled(_HELP, 'dim', sys.stdout)}\n")  # fmt: skip
    made, place = 0, 0
    with _completion():
        while place < len(asked):
            at = asked[place]
            column = layout.columns[at]
            remark = remarks_in(text, layout)[column.name]
            known = table.of(layout, column.name) if table is not None else Proposed()
            proposals = _show(layout, at, remark, known)
            try:
                answer = _ask(proposals, column)
                if isinstance(answer, ColumnDecision) and answer.holds:
                    answer = _in_detail(answer, known)
            except Interrupted:
                _tell(file, text, layout, made)
                raise StoppedError from None
            if answer is None or answer == "q":
                break
            if answer == "b":
                place = max(place - 1, 0)
                continue
            if answer == "again":
                continue
            if isinstance(answer, ColumnDecision):
                try:
                    text = decided(text, layout, at, answer)
                except (LayoutError, PathError) as error:
                    sys.stdout.write(f"  {styled('no:', 'red', sys.stdout)} {error}\n")
                    continue
                layout = parse_layout(text, str(file))
                write_whole(file, text.encode("utf-8"), force=True)
                made += 1
                sys.stdout.write(f"  {styled(answer.said, 'green', sys.stdout)}\n")
            place += 1
    _tell(file, text, layout, made)
    return 0


def _tell(file: Path, text: str, layout: Layout, made: int) -> None:
    """What was done, and what is left."""
    left = sum(1 for remark in remarks_in(text, layout).values() if remark.look)
    still = f"; {left} still to look at" if left else ""
    sys.stdout.write(
        f"\n{file}: {made} {'decision' if made == 1 else 'decisions'} written{still}\n"
    )


def _column_of(layout: Layout, said: str) -> int:
    """The column that somebody names, by its heading or its number from 1. Raises `UsageError`."""
    names = [" ".join(column.name.split()) for column in layout.columns]
    if said in names:
        return names.index(said)
    if said.isdecimal() and 1 <= int(said) <= len(names):
        return int(said) - 1
    near = nearest(said, names, 1)
    hint = f"; did you mean '{near[0]}'?" if near else ""
    raise UsageError(f"--column '{said}': the layout has no such column{hint}")


def _in_detail(decision: ColumnDecision, known: Proposed) -> ColumnDecision | str:
    """A decision with what is to be said of its field beside: whether the cells may mean it, what
    stands between several values, how dates are written, what codes mean."""
    if known.profile is None or ", " in decision.holds:
        return decision
    path = parse(decision.holds)
    if against := path_against(path, known.profile):
        said = input(f"  {against}; is it {path} all the same? [y/n] ").strip().lower()
        if said not in ("y", "yes"):
            return "again"
    if path.field in _DATED and not path.part:
        style, note = date_style_of(known.profile, {})
        usual = style.text if style is not None else ""
        told = f" ({note})" if note else ""
        said = input(f"  dates like{told} [{usual or 'as they stand'}] ").strip()
        decision = replace(decision, date=said or usual)
    elif takes_many(path.field) and not path.part and known.profile.separators:
        mark = known.profile.separators.most_common(1)[0][0]
        said = input(f"  several in a cell, separated by [{mark!r}, n for one value] ").strip()
        if said not in ("n", "no"):
            decision = replace(decision, many=said.strip("'\"") or mark)
    elif path.field in _CODED and 0 < len(known.profile.values) <= _MOST_CODES:
        codes = {}
        for value in known.profile.values:
            if said := input(f"  '{value.strip()}' means [{value.strip()}] ").strip():
                codes[value.strip()] = said
        decision = replace(decision, values=codes)
    return decision


def _show(layout: Layout, at: int, remark: Remark, known: Proposed) -> list[str]:
    """Show a column with its samples and proposals; gives the proposals."""
    column = layout.columns[at]
    out = sys.stdout
    fill = "" if known.fill is None else f"  filled {known.fill:.0%}".replace("%", " %")
    out.write(f"\n{_bold(' '.join(column.name.split()))}  column {at + 1} of "
              f"{len(layout.columns)}{fill}\n")  # fmt: skip
    sure = (
        ""
        if remark.sure is None
        else f"  sure {remark.sure:.0%}: {remark.why}".replace("%", " %", 1)
    )
    out.write(f"  now   {column.meaning}{sure}\n")
    samples = " · ".join(" ".join(each.split()) for each in known.samples) or remark.samples
    if samples:
        out.write(f"  e.g.  {samples}\n")
    proposals = [each for each in dict.fromkeys((*known.proposals, *remark.others))
                 if each != column.meaning][:_MOST_PROPOSALS]  # fmt: skip
    for number, each in enumerate(proposals, 1):
        out.write(f"  {styled(str(number), 'cyan', out)}     {each}\n")
    return proposals


def _ask(proposals: Sequence[str], column: Column) -> ColumnDecision | str | None:
    """One answer: a decision, ``b``, ``l``, ``q``; None at the end of the input."""
    while True:
        try:
            said = input("  > ").strip()
        except EOFError:
            sys.stdout.write("\n")
            return None
        if not sys.stdin.isatty():
            sys.stdout.write(f"{said}\n")  # a terminal shows what is typed by itself
        if said in ("b", "l", "q"):
            return said
        if said == "":
            return ColumnDecision()
        if said in ("s", "skip"):
            return ColumnDecision(skip=True)
        if said == "c":
            label = " ".join((column.heading or column.name).split())
            return ColumnDecision(holds="custom/" + label.replace("\\", "\\\\").replace("/", "\\/")
                            .replace(",", "\\,"))  # fmt: skip
        if said.startswith("="):
            return ColumnDecision(fixed=said[1:].strip().strip("'\""))
        if said == "?":
            sys.stdout.write(f"  {_HELP}\n")
            continue
        if said.isdecimal():
            if 1 <= int(said) <= len(proposals):
                return ColumnDecision(holds=proposals[int(said) - 1])
            sys.stdout.write(f"  there are {len(proposals)} proposals\n")
            continue
        try:
            return ColumnDecision(holds=str(parse(said)))
        except PathError as error:
            sys.stdout.write(f"  {error.problem}\n")
            if len(said) < 40 and (near := nearest(said, all_paths(), 3)):
                sys.stdout.write(f"  near it: {', '.join(near)}\n")


@contextlib.contextmanager
def _completion():  # type: ignore[no-untyped-def]
    """Tab completes field paths, where the terminal's library can."""
    try:
        import readline  # not on every system
    except ImportError:
        yield
        return
    paths = all_paths()

    def complete(text: str, state: int) -> str | None:
        found = [path for path in paths if path.startswith(text)]
        return found[state] if state < len(found) else None

    before = readline.get_completer(), readline.get_completer_delims()
    readline.set_completer(complete)
    readline.set_completer_delims(" ,")
    readline.parse_and_bind("tab: complete")
    try:
        yield
    finally:
        readline.set_completer(before[0])
        readline.set_completer_delims(before[1])


def all_paths() -> list[str]:
    """The paths that are offered for completion."""
    found = []
    for word in FIELD_WORDS:
        parts = [part for part in parts_of(word) if part not in ("use", "preferred")]
        uses = [use for use in uses_of(word) if use not in ("car", "modem", "isdn", "pcs", "bbs")]
        if word not in ("name", "address"):
            found.append(word if word != "custom" else "custom/")
        found += [f"{word}/{part}" for part in parts]
        found += [f"{word}/{use}" for use in uses if word != "address"]
        if word == "address":
            found += [f"{word}/{use}/{part}" for use in ("home", "work") for part in parts]
        found += [f"{word}/{position}" for position in (1, 2, 3) if word in ("email", "phone")]
        if uses:
            found += [f"{word}/1/use", f"{word}/2/use"]
    return sorted(dict.fromkeys(found))


def _read(file: Path) -> str:
    try:
        return file.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise LayoutError(f"{file}: the layout cannot be read: {error.strerror}") from None
    except UnicodeDecodeError:
        raise LayoutError(f"{file}: a layout file is UTF-8 text, and this is not") from None


def _bold(text: str) -> str:
    return styled(text, "bold", sys.stdout)
