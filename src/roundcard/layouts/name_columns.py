"""Names in a row: the whole name, its parts, and how it sounds."""

from __future__ import annotations

from roundcard.card.contact import Property, flat
from roundcard.card.names import joined_name, says_same
from roundcard.card.origin import is_derived
from roundcard.layouts.cell import Cell, RowDraft, left_behind
from roundcard.layouts.column_allocation import Virtual
from roundcard.layouts.slots import PARTS_JOINED, fill_parts
from roundcard.tally import Fate, Reason, Why, name_from
from roundcard.values.set_value import part_index

_NO_SOUND = left_behind(Why.NO_COLUMN_FOR_SOUND)
_NO_SCRIPT = left_behind(Why.NO_COLUMN_FOR_SCRIPT)
_SAYS_PARTS = Reason(Fate.FOLDED, Why.PARTS_SAY_WHOLE, "name")
_SAYS_WHOLE = Reason(Fate.FOLDED, Why.WHOLE_SAYS_PARTS, "name")


class NamePlacer:
    """Fills the name columns.

    A whole name that only says again what the parts say is folded into them. Parts that have no
    column are folded into a whole name that says them; where there is none, one is made.
    """

    def __init__(self, virtual: Virtual) -> None:
        self.whole: Cell | None = None
        self.parts: dict[int, Cell] = {}
        self.spoken: dict[int, Cell] = {}
        for path, cell, _ in virtual:
            if path.field != "name":
                continue
            if path.part == "full":
                self.whole = cell
            elif path.part.startswith("phonetic-"):
                self.spoken[0 if path.part.endswith("family") else 1] = cell
            else:
                self.parts[part_index(path)] = cell

    def place(self, draft: RowDraft, names: list[Property]) -> int:
        """Place the properties N and FN; how many values were written."""
        plain: Property | None = None
        homeless: list[int] = []
        wholes = []
        written = 0
        for prop in names:
            if prop.head.name == "fn":
                wholes.append(prop)
            elif prop.head.phonetic:
                count, silent = self._in_cells(draft, prop, self.spoken)
                written += count
                for index in silent:
                    draft.leave(prop.only({index}), _NO_SOUND)
            elif prop.rides:
                if prop.size():
                    draft.leave(prop, _NO_SCRIPT)
            elif plain is None:
                plain = prop
                count, homeless = self._in_cells(draft, prop, self.parts)
                written += count
            else:
                draft.leave(prop, left_behind(Why.NO_COLUMN_FOR_SECOND_NAME))
        said, count = self._wholes(draft, wholes, plain, homeless)
        written += count
        if plain is not None and homeless:
            if self.whole is not None and not said:
                made = joined_name(plain.value)
                if not self.whole.refusal(made):
                    draft.row[self.whole.index] = said = made
                    written += _derive(draft)
            _settle(draft, plain, homeless, said)
        return written

    def _wholes(
        self, draft: RowDraft, wholes: list[Property], plain: Property | None, homeless: list[int]
    ) -> tuple[str, int]:
        """Place whole names: what stands in the cell, and how many values were written."""
        said, written = "", 0
        for prop in wholes:
            if prop.rides and prop.size():
                draft.leave(prop, _NO_SCRIPT)
                continue
            if self.whole is not None and not said and (homeless or not prop.rides):
                text = prop.text
                if why := self.whole.refusal(text):
                    draft.leave(prop, why)
                    continue
                draft.row[self.whole.index] = said = text
                if prop.rides:
                    written += _derive(draft)
                else:
                    draft.tally.place(prop)
                    written += 1
            elif prop.rides:
                continue
            elif _said_in_parts(prop, plain, homeless):
                draft.fold(prop, _SAYS_PARTS)
            else:
                draft.leave(prop, left_behind(Why.NO_COLUMN_FOR_WHOLE_NAME))
        return said, written

    def _in_cells(
        self, draft: RowDraft, prop: Property, cells: dict[int, Cell]
    ) -> tuple[int, list[int]]:
        """Write the parts that have a cell; how many values, and which parts have none."""
        if written := fill_parts(draft, prop, cells):
            return written, []
        homeless = []
        for index, component in enumerate(prop.components):
            texts = list(flat((component,)))
            if not texts:
                continue
            cell = cells.get(index)
            if cell is None:
                homeless.append(index)
                continue
            one = prop.only({index})
            text, rule = cell.said(" ".join(texts))
            if why := cell.refusal(text):
                draft.leave(one, why)
                continue
            draft.row[cell.index] = text
            joined = PARTS_JOINED if len(texts) > 1 else None
            draft.tally.place(one, rule or joined)
            written += len(texts)
        return written, homeless


def _said_in_parts(whole: Property, parts: Property | None, homeless: list[int]) -> bool:
    """Whether a whole name is said by its parts, which are written or left behind themselves: parts
    that were made from it and find no column say nothing."""
    if parts is None or not says_same(whole.text, parts.value):
        return False
    return not any(
        is_derived(parts.origin_of(at, inner))
        for at in homeless
        for inner, _ in enumerate(flat((parts.components[at],)))
    )


def _derive(draft: RowDraft) -> int:
    """Count a whole name that was made from its parts."""
    draft.tally.count(name_from("parts"), 1)
    return 1


def _settle(draft: RowDraft, plain: Property, homeless: list[int], said: str) -> None:
    """Fold the parts that the whole name says, leave the others behind."""
    for index in homeless:
        one = plain.only({index})
        if said and all(text in said for text in flat((plain.components[index],))):
            draft.fold(one, _SAYS_WHOLE)
        else:
            draft.leave(one, left_behind(Why.NO_COLUMN_FOR_NAME_PART))
