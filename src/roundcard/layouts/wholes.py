"""Names in a row: the whole name, its parts, and how it sounds."""

from __future__ import annotations

from roundcard.card.contact import Property, flat
from roundcard.card.names import FROM_PARTS, joined_name, says_same
from roundcard.layouts.cell import Cell, Draft, part_of
from roundcard.layouts.serving import Virtual
from roundcard.layouts.slots import fill_parts
from roundcard.values.putting import part_index


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

    def place(self, draft: Draft, names: list[Property]) -> int:
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
                    draft.leave(part_of(prop, index), "no column for how it sounds")
            elif prop.rides:
                continue
            elif plain is None:
                plain = prop
                count, homeless = self._in_cells(draft, prop, self.parts)
                written += count
            else:
                draft.leave(prop, "no column for a second name")
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
        self, draft: Draft, wholes: list[Property], plain: Property | None, homeless: list[int]
    ) -> tuple[str, int]:
        """Place whole names: what stands in the cell, and how many values were written."""
        said, written = "", 0
        for prop in wholes:
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
            elif plain is not None and says_same(prop.text, plain.value):
                draft.fold(prop, "the whole name says what its parts say")
            else:
                draft.leave(prop, "no column for the whole name")
        return said, written

    def _in_cells(
        self, draft: Draft, prop: Property, cells: dict[int, Cell]
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
            one = part_of(prop, index)
            text, rule = cell.said(" ".join(texts))
            if why := cell.refusal(text):
                draft.leave(one, why)
                continue
            draft.row[cell.index] = text
            joined = "several values in one part joined" if len(texts) > 1 else ""
            draft.tally.place(one, rule or joined)
            written += len(texts)
        return written, homeless


def _derive(draft: Draft) -> int:
    """Count a whole name that was made from its parts."""
    draft.tally.values.derived += 1
    draft.tally.why[FROM_PARTS] += 1
    return 1


def _settle(draft: Draft, plain: Property, homeless: list[int], said: str) -> None:
    """Fold the parts that the whole name says, leave the others behind."""
    for index in homeless:
        one = part_of(plain, index)
        if said and all(text in said for text in flat((plain.components[index],))):
            draft.fold(one, "the whole name says its parts")
        else:
            draft.leave(one, "no column for this part")
