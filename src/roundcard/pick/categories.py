"""The step that renames, merges and removes categories."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from roundcard.card.contact import Contact, Property
from roundcard.card.origin import ADDED, CHANGED, marked
from roundcard.errors import UsageError
from roundcard.tally import Tally
from roundcard.values.text import loosely


class Categories:
    """Renames categories and removes some; two that come to bear one name are one.

    Letter case and accents do not count where a category is named.
    """

    def __init__(self, renamed: Mapping[str, str], removed: Sequence[str]) -> None:
        self.renamed = {loosely(old): new for old, new in renamed.items()}
        self.new = frozenset(map(loosely, renamed.values()))
        self.removed = frozenset(loosely(name) for name in removed)

    @classmethod
    def parse(cls, renames: Sequence[str], removes: Sequence[str]) -> Categories:
        """From ``OLD=NEW`` and names, as the command line has them. Raises `UsageError`."""
        renamed = {}
        for each in renames:
            old, equals, new = each.partition("=")
            if not equals or not old.strip() or not new.strip():
                raise UsageError(f"--rename-category is written OLD=NEW, and this is '{each}'")
            renamed[old.strip()] = new.strip()
        return cls(renamed, removes)

    def __call__(self, contact: Contact, tally: Tally) -> Contact | None:
        """The contact with its categories as they are wanted."""
        if not any(prop.head.name == "categories" for prop in contact.properties):
            return contact
        seen: set[str] = set()
        out: list[Property] = []
        for prop in contact.properties:
            made: Property | None = prop
            if prop.head.name == "categories" and not prop.rides:
                made = self._list(prop, seen, tally)
            if made is not None:
                out.append(made)
        return Contact(out, contact.origin)

    def _list(self, prop: Property, seen: set[str], tally: Tally) -> Property | None:
        entries: list[str] = []
        origins: list[int] = []
        for at, entry in enumerate(prop.components):
            name, origin = str(entry), prop.origin_of(at)
            said = loosely(name)
            if said in self.removed:
                _take(tally, name, origin)
                tally.leave_out(int(origin >= 0), f"category '{name}' removed")
                continue
            new = self.renamed.get(said, name)
            if loosely(new) in seen and (
                new != name or said in map(loosely, self.renamed.values())
            ):
                _take(tally, name, origin)
                tally.fold(int(origin >= 0), f"category '{new}' merged")
                continue
            seen.add(loosely(new))
            if new != name:
                once = origin >= 0 and not origin & CHANGED
                tally.change(f"category '{name}' renamed '{new}'", int(once))
                origin = marked(origin)
            entries.append(new)
            origins.append(origin)
        return prop.replaced(tuple(entries), tuple(origins)) if entries else None


def _take(tally: Tally, name: str, origin: int) -> None:
    """A category that was added before goes no further: it is not added after all."""
    key = ("added", f"category '{name}'")
    if origin == ADDED and tally.why[key] > 0:
        tally.why[key] -= 1
