"""Names in a row: the whole name, its parts, and how it sounds."""

from __future__ import annotations

from roundcard.card.contact import Contact, Property, flat
from roundcard.card.names import joined_name, says_same
from roundcard.card.origin import DERIVED
from roundcard.layouts.slots import Cell, Row, Virtual, leave, part_of
from roundcard.tally import Tally
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

    def place(self, contact: Contact, names: list[Property], row: Row, tally: Tally) -> int:
        """Place the properties N and FN; how many values were written."""
        wholes = [prop for prop in names if prop.head.name == "fn"]
        parts = [prop for prop in names if prop.head.name == "n"]
        plain = next((prop for prop in parts if not prop.head.phonetic and not prop.rides), None)
        written = 0
        homeless: list[int] = []
        for prop in parts:
            if prop is plain:
                count, homeless = self.in_cells(contact, prop, self.parts, row, tally)
                written += count
            elif prop.head.phonetic:
                count, silent = self.in_cells(contact, prop, self.spoken, row, tally)
                written += count
                for index in silent:
                    leave(contact, part_of(prop, index), "no column for how it sounds", tally)
            elif not prop.rides:
                leave(contact, prop, "no column for a second name", tally)
        said = ""
        for prop in wholes:
            if self.whole is not None and not said and not (prop.rides and not homeless):
                said = self.in_whole(contact, prop, self.whole, row, tally)
                written += 1 if said and not prop.rides else 0
                if said and prop.rides:
                    written += self.derive(tally)
            elif prop.rides:
                continue
            elif plain is not None and says_same(prop.text, plain.value):
                tally.fold(sum(Tally.fates(prop)[:2]), "the whole name says what its parts say")
            else:
                leave(contact, prop, "no column for the whole name", tally)
        if plain is not None and homeless:
            if self.whole is not None and not said:
                made = joined_name(plain.value)
                if not self.whole.refusal(made):
                    row[self.whole.index] = said = made
                    written += self.derive(tally)
            self.settle(contact, plain, homeless, said, tally)
        return written

    def derive(self, tally: Tally) -> int:
        """Count a whole name that was made from its parts."""
        tally.values.derived += 1
        tally.why["derived", "whole name from its parts"] += 1
        return 1

    def in_whole(
        self, contact: Contact, prop: Property, cell: Cell, row: Row, tally: Tally
    ) -> str:
        text = prop.text
        if why := cell.refusal(text):
            leave(contact, prop, why, tally)
            return ""
        row[cell.index] = text
        if not prop.rides:
            tally.place(prop)
        return text

    def in_cells(
        self, contact: Contact, prop: Property, cells: dict[int, Cell], row: Row, tally: Tally
    ) -> tuple[int, list[int]]:
        """Write the parts that have a cell; how many values, and which parts have none."""
        written = 0
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
                leave(contact, one, why, tally)
                continue
            row[cell.index] = text
            joined = "several values in one part joined" if len(texts) > 1 else ""
            tally.place(one, rule or joined)
            written += len(texts)
        return written, homeless

    def settle(
        self, contact: Contact, plain: Property, homeless: list[int], said: str, tally: Tally
    ) -> None:
        """Fold the parts that the whole name says, leave the others behind."""
        for index in homeless:
            one = part_of(plain, index)
            if said and all(text in said for text in flat((plain.components[index],))):
                tally.fold(sum(Tally.fates(one)[:2]), "the whole name says its parts")
            else:
                leave(contact, one, "no column for this part", tally)
