"""The first step after the reader: what rode in the note gets its fields again."""

from __future__ import annotations

from roundcard.card.contact import Contact, Property
from roundcard.destinations.model import Destination
from roundcard.destinations.overflow import put_back, read_block
from roundcard.tally import Fate, Reason, Tally, Why, changed_by


class TakeBack:
    """Gives contacts the values that rode in their notes."""

    def __init__(self, origin: Destination) -> None:
        self.origin = origin

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact with its values in their fields."""
        for at, prop in enumerate(contact.properties):
            if prop.head.name != "note" or prop.rides or "[more]" not in prop.text:
                continue
            found = read_block(prop.text)
            if found is None:
                continue
            own, lines = found
            props = list(contact.properties)
            props[at : at + 1] = [prop.replaced(own)] if own else []
            made = Contact(props, contact.origin)
            base = prop.origin_of(0)
            gone = put_back(made, [
                line._replace(origin=changed_by(base, _reason(line.path.field))) for line in lines
            ])  # fmt: skip
            if base >= 0:
                more = len(lines) - (0 if own else 1) + self._lines_more(made, prop)
                tally.count(Reason(Fate.SPLIT, Why.OUT_OF_NOTE, "note"), more)
            for short in gone:
                tally.count(Reason(Fate.FOLDED, Why.IN_FULL_ELSEWHERE, short.head.field.path),
                            tally.read_of(short))  # fmt: skip
            return made
        return contact

    @staticmethod
    def _lines_more(made: Contact, note: Property) -> int:
        """How many values more than lines there are: a street of several lines is several."""
        base = note.origin_of(0)
        return sum(
            len(one) - 1
            for prop in made.properties if not isinstance(prop.origin, int)
            for one in prop.origins()
            if isinstance(one, tuple) and len(one) > 1 and one[0] >> 22 == base >> 22
        )  # fmt: skip


def _reason(word: str) -> Reason:
    return Reason(Fate.CHANGED, Why.OUT_OF_NOTE, word)
