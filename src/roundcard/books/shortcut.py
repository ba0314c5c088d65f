"""Rows written as cards right away, where nothing has to be looked at on the way.

Most rows of most tables are plain: no cell needs an escape, no value is parted or mapped. Their
cards are put together from the cells, with the same lines and the same counts as the long way
gives; a row that is not so plain goes the long way.
"""

from __future__ import annotations

from collections.abc import Callable
from operator import itemgetter

from roundcard.card.fields import LEAST_PARTS
from roundcard.card.names import WESTERN, joined_name
from roundcard.formats.vcard import VCardWriter
from roundcard.formats.vcard.lines import FOLD_AT, fold
from roundcard.formats.vcard.syntax import escape
from roundcard.layouts.plainly import Plainly, done_by
from roundcard.layouts.row_reader import RowReader, said_of_everybody
from roundcard.tally import name_from

_TEXT, _PARTS, _LIST = range(3)
_FROM_PARTS = name_from("parts")


def _no_cells(_: list[str]) -> tuple[str, ...]:
    return ()


class Shortcut:
    """Makes the cards of plain rows."""

    def __init__(self, reader: RowReader, writer: VCardWriter) -> None:
        self._reader = reader
        self._tally = reader.tally
        self._writer = writer
        self._begin = f"BEGIN:VCARD\r\nVERSION:{writer.version}"
        self._others: list[int] = list(range(reader.width))
        """Cells that must be empty in a plain row."""
        self._plan: list[
            tuple[int, str, int, Callable[[list[str]], tuple[str, ...]], str, int]
        ] = []
        """Kind, beginning of the line, cell or cells, what parts a list or ends the value, size."""
        self._name: tuple[int, ...] = ()
        self._whole = -1
        self._made = writer.derived_name("")
        self._made_names = 0
        reader.at_end.append(self._count_names)
        layout = reader.layout
        self.useful = writer.version != "2.1" and not (
            layout.every or layout.formula_guard or layout.empty or reader.photo_columns
        )
        for build in reader.builds:
            for what in done_by(build) or ():
                self.useful = self.useful and self._add(what)
        self.useful = self.useful and bool(self._name)
        name: tuple[int, ...] = self._name if self.useful else (0,) * 5
        self._in_western_order = itemgetter(*[name[at] for at in WESTERN])
        for at, _ in reader.left_out:
            self._others.remove(at)
        self._left_out = reader.left_out
        self._fixed = [(at, label, fixed) for at, label, fixed in reader.apart if fixed]
        for at, _, _ in self._fixed:
            self._others.remove(at)

    def _add(self, what: Plainly) -> bool:
        """Plan one property; false where it would have to be looked at."""
        head = what.head
        probe = head.field.kind in ("text", "phone") and not head.special
        prefix = self._writer.plain_prefix(head)
        if not prefix or not (probe or what.parts or what.mark is not None):
            return True  # its cells must be empty
        if head.name in ("n", "fn") and (head.params or head.group):
            return True
        if what.parts:
            least = LEAST_PARTS.get(head.name, 1)
            size = len(what.cells)
            if size < 2:
                return True
            take = itemgetter(*what.cells)
            self._plan.append((_PARTS, prefix, 0, take, ";" * (least - size), size))
            if head.name == "n":
                if self._name or size != 5:
                    return False
                self._name = what.cells
        elif what.mark is not None:
            self._plan.append((_LIST, prefix, what.cells[0], _no_cells, what.mark, 0))
        else:
            if head.name == "fn":
                self._whole = what.cells[0]
            self._plan.append((_TEXT, prefix, what.cells[0], _no_cells, "", 0))
        for at in what.cells:
            if at in self._others:
                self._others.remove(at)
        return True

    def _count_names(self) -> None:
        """The whole names that were made; all at once, since there is one for each row."""
        self._tally.count(_FROM_PARTS, self._made_names)
        self._made_names = 0

    def card(self, cells: list[str], record: int) -> str:  # noqa: PLR0915
        """The card of a row; empty (and nothing counted) where the row is not plain."""
        short = self._reader.width - len(cells)
        if short < 0:
            return ""
        cells = cells + [""] * (short + 1)
        for at in self._others:
            if cells[at]:
                return ""
        for at, _, fixed in self._fixed:
            if cells[at] and cells[at] != fixed:
                return ""
        lines = [self._begin]
        size = 0
        for kind, prefix, at, take, mark, width in self._plan:
            if kind == _TEXT:
                text = cells[at]
                if not text:
                    continue
                size += 1
            elif kind == _PARTS:
                parts = take(cells)
                filled = width - parts.count("")
                if not filled:
                    continue
                text = ";".join(parts)
                if "," in text or "\\" in text or text.count(";") != width - 1:
                    if "\n" in text or any(part.isspace() for part in parts):
                        return ""
                    lines.append(fold(prefix + ";".join([escape(part) for part in parts]) + mark))
                    size += filled
                    continue
                if (" ;" in text or "; " in text) and any(part.isspace() for part in parts):
                    return ""
                text += mark
                size += filled
            else:
                cell = cells[at]
                if not cell:
                    continue
                pieces = [piece.strip() for piece in cell.split(mark)] if mark else [cell]
                text = ",".join(pieces)
                if "" in pieces or text.count(",") != len(pieces) - 1 or ";" in text:
                    return ""
                size += len(pieces)
            if text[0] == " " and text.strip(" ;") == "":
                return ""
            if kind == _TEXT and ("," in text or ";" in text):
                text = escape(text)
            elif "\\" in text or not text.isprintable():
                return ""
            line = prefix + text
            if len(line) > FOLD_AT or not line.isascii():
                line = fold(line)
            lines.append(line)
        if not size:
            return ""
        tally = self._tally
        values = tally.values
        if self._whole < 0 or not cells[self._whole]:
            words = self._in_western_order(cells)
            named = " ".join([word for word in words if word])
            if not words[1].isascii():
                named = joined_name(tuple([cells[at] for at in self._name]))
            if not named:
                return ""
            line = self._made + escape(named)
            lines.insert(1, line if line.isascii() and len(line) <= FOLD_AT else fold(line))
            values.written += 1
            self._made_names += 1
        elif self._writer.version != "4.0" and not any(cells[at] for at in self._name):
            lines.insert(1, "N:;;;;")
        left = 0
        for at, reason in self._left_out:
            if cells[at] and not cells[at].isspace():
                left += 1
                tally.count(reason, 1)
        for at, label, _ in self._fixed:
            if cells[at]:
                left += 1
                tally.count(said_of_everybody(label), 1)
        self._reader.damage.see(cells, record)
        values.read += size + left
        values.carried += size
        values.written += size
        people = tally.people
        people.read += 1
        people.carried += 1
        people.written += 1
        lines.append("END:VCARD\r\n")
        return "\r\n".join(lines)
