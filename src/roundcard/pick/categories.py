"""The step that renames, merges and removes categories."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from roundcard.card.contact import Contact, Property
from roundcard.errors import UsageError
from roundcard.tally import Fate, Reason, Tally, Why, changed_by
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
                tally.count(_reason(Fate.LEFT_OUT, Why.CATEGORY_REMOVED, name), int(origin >= 0))
                continue
            new = self.renamed.get(said, name)
            if loosely(new) in seen and (
                new != name or said in map(loosely, self.renamed.values())
            ):
                tally.count(_reason(Fate.FOLDED, Why.CATEGORY_MERGED, new), int(origin >= 0))
                continue
            seen.add(loosely(new))
            if new != name:
                renamed = _reason(Fate.CHANGED, Why.CATEGORY_RENAMED, name, new)
                origin = changed_by(origin, renamed)
            entries.append(new)
            origins.append(origin)
        return prop.replaced(tuple(entries), tuple(origins)) if entries else None


def _reason(fate: Fate, why: Why, *names: str) -> Reason:
    return Reason(fate, why, "category", names)
