"""The step of fitting that lets what has no room ride in the note."""

from __future__ import annotations

from dataclasses import replace

from roundcard.card.contact import Contact, Origin, Property
from roundcard.card.head import head
from roundcard.card.origin import is_derived
from roundcard.card.paths import FieldPath
from roundcard.destinations.desk import Desk
from roundcard.destinations.model import Destination
from roundcard.destinations.overflow import Line, lines_of, ridden
from roundcard.destinations.pieces import fits_into, order_of
from roundcard.destinations.room import Columns, Refused
from roundcard.destinations.texts import in_characters
from roundcard.tally import Fate, Reason, Tally, Why, changed_by
from roundcard.values.nearest import writes


class Riding:
    """Lets whole values ride in the note, after its own text, as far as there is room."""

    def __init__(self, to: Destination, columns: Columns | None) -> None:
        self.to = to
        self.columns = columns

    def __call__(self, work: Desk) -> list[tuple[Refused, list[Line]]]:
        """What of all that is refused rides in the note, which is made longer here."""
        into = self.to.overflow
        if into is None or not work.refused:
            return []
        work.refused.sort(key=lambda each: order_of(each.piece, work.label_of(each.piece)))
        at = next((n for n, prop in enumerate(work.props)
                   if prop.head.name == "note" and not prop.rides and prop.size()), -1)  # fmt: skip
        text = own = work.props[at].text if at >= 0 else ""
        chosen: list[tuple[Refused, list[Line]]] = []
        limit = self.to.length_of(into)
        one_line = not self.to.line_breaks
        wholes: dict[tuple[str, tuple[str, ...], str], int] = {}
        for each in work.refused:
            if each.piece.head.name == "note" and at >= 0 and id(each.piece) in work.shortened:
                continue  # the note itself was too long
            lines = self._lines(work, each, wholes)
            if not lines:
                continue
            longer = ridden(text, lines, one_line=one_line)
            if limit is not None and limit.of(longer, self.to.charset) > limit.most:
                continue
            text = longer
            chosen.append((each, lines))
        if text == own:
            return []
        first = chosen[0][1][0]
        origin: Origin = work.props[at].origin if at >= 0 else _rode(first.origin, chosen[0][0])
        made_head = work.props[at].head if at >= 0 else head("note")
        note = Property(made_head, text, origin)
        props = [*work.props[:at], note, *work.props[at + 1 :]] if at >= 0 else [*work.props, note]
        if self.columns is not None:
            notes = [prop for prop in props if prop.head.name == "note" and prop.size()]
            whole = Contact(props, work.contact.origin)
            if self.columns.refused(whole, self.columns.word(note), notes):
                return []
        most = self.to.limits.values.get(FieldPath("note"))
        if most is not None and at < 0 and most < 1:
            return []
        work.props, work.note_made = props, at < 0
        return chosen

    def _lines(
        self, work: Desk, each: Refused, wholes: dict[tuple[str, tuple[str, ...], str], int]
    ) -> list[Line] | None:
        """A refused value as it rides, all of it in the destination's characters."""
        piece = each.piece
        if is_derived(piece.origin_of(0)) and not Tally().read_of(piece):
            return None
        label = work.label_of(piece)
        number, alone = 0, False
        if piece.head.field.kind == "parts" and piece.head.field.path in ("address", "org"):
            same = [prop for prop in work.props if prop.head.name == piece.head.name
                    and prop.size() and not prop.rides and prop.head.uses == piece.head.uses
                    and work.label_of(prop) == label]  # fmt: skip
            rank = next((n for n, prop in enumerate(same, 1) if prop.head is piece.head
                         and fits_into(piece, prop)), 0)  # fmt: skip
            short = work.shortened.get(id(piece))
            if short is not None:
                rank = next((n for n, prop in enumerate(same, 1) if prop is short), 0)
            if rank:
                number = rank if len(same) > 1 else 0
                alone = sum(1 for prop in work.props if prop.head.name == piece.head.name
                                 and prop.size() and not prop.rides) == 1  # fmt: skip
            else:
                key = (piece.head.name, tuple(sorted(piece.head.uses)), label)
                wholes[key] = wholes.get(key, 0) + 1
                number = len(same) + wholes[key] if len(same) + wholes[key] > 1 else 0
        lines = lines_of(piece, label, number)
        if not lines:
            return None
        if alone:  # whatever its use: that may not be kept there
            lines = [line._replace(path=replace(line.path, uses=(), label="")) for line in lines]
        said = []
        for line in lines:
            if writes(f"{line.path}{line.text}", self.to.charset) and self.to.beyond_basic_plane:
                said.append(line)
                continue
            plain = line.text.replace("\n", "\x00")
            text = in_characters(plain, self.to)
            if text is None or not writes(str(line.path), self.to.charset):
                return None
            said.append(line._replace(text=text.replace("\x00", "\n")))
        return said


def _rode(origin: int, each: Refused) -> int:
    word = each.piece.head.field.path or each.piece.head.name.upper()
    return changed_by(origin, Reason(Fate.CHANGED, Why.RIDES_IN_NOTE, word))
