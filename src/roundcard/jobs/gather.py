"""Reading a job's sources once: each record cleaned and kept on disk, with what tells it again."""

from __future__ import annotations

from array import array
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from roundcard.books.pipeline import Step
from roundcard.books.plan import Watch
from roundcard.books.source_reader import Reading
from roundcard.card.contact import Contact
from roundcard.card.equality import identity
from roundcard.card.fields import CUSTOM
from roundcard.card.head import Head
from roundcard.card.paths import FieldPath, parse
from roundcard.errors import JobError, PathError, did_you_mean
from roundcard.jobs.kept import record_digest
from roundcard.jobs.model import JobSource
from roundcard.match.features import FeaturesOf
from roundcard.merge.contact_store import Store
from roundcard.pick.fields import SetValue
from roundcard.pick.path_values import values_at
from roundcard.tally import Tally
from roundcard.values.cells import write_uses

KEY, UID, DIGEST = "key:", "uid:", "digest:"
"""What an identity begins with: by what it tells the record."""


@dataclass(slots=True)
class Gathered:
    """All records of a job's sources, in order, by a number from 0."""

    store: Store
    features: FeaturesOf | None
    owner: array[int] = field(default_factory=lambda: array("H"))
    """The number of the job's source, from 0."""
    opened: array[int] = field(default_factory=lambda: array("H"))
    """The number of the opened source, from 0."""
    records: array[int] = field(default_factory=lambda: array("Q"))
    """The number of the record in it, from 1."""
    kept: array[int] = field(default_factory=lambda: array("q"))
    """The number in the store."""
    sizes: array[int] = field(default_factory=lambda: array("I"))
    """How many values of it were read."""
    digests: list[str] = field(default_factory=list)
    identities: list[str] = field(default_factory=list)
    columns: list[Counter[str]] = field(default_factory=list)
    """By source, how many records have something in each column, or field."""
    values: list[int] = field(default_factory=list)
    """By source, how many values were read."""
    read: list[int] = field(default_factory=list)
    """By source, how many records were read."""
    set_aside: Counter[int] = field(default_factory=Counter)
    """By source, how many records could not be read."""

    def __len__(self) -> int:
        return len(self.kept)

    def contact(self, at: int) -> Contact:
        """A record, cleaned."""
        return self.store.get(self.kept[at])


class Gathering:
    """Reads all sources into a store."""

    def __init__(
        self, sources: Sequence[JobSource], owners: Sequence[int], matched: bool, region: str,
        fill: dict[str, str],
    ) -> None:  # fmt: skip
        """`owners` gives the job's source of each opened one; `matched` says whether people are to
        be found in it; `fill` is what stands for the words in braces."""
        self.sources = sources
        self.owners = owners
        self.found = Gathered(Store(), FeaturesOf(region) if matched else None)
        self.fill = fill
        self._words: dict[tuple[Head, str], str] = {}
        for _ in sources:
            self.found.columns.append(Counter())
            self.found.values.append(0)
            self.found.read.append(0)

    def read(
        self, readings: Sequence[Reading], steps: Sequence[Step], tally: Tally, watch: Watch | None
    ) -> Gathered:
        """Read all of them. Raises `SourceError`, `JobError` and `LayoutError`."""
        octets = sum(reading.source.octets for reading in readings)
        done = 0
        found = self.found
        for reading in readings:
            owner = self.owners[reading.number]
            source = self.sources[owner]
            key = self._key(source, reading)
            category = self._category(source, reading)
            before, people = done, tally.people.read
            aside = tally.people.set_aside

            def progress(read: int, records: int, before: int = before, n: int = people) -> None:
                if watch is not None:
                    watch("reading", before + read, octets, n + records)

            for contact in reading.contacts(progress):
                found.read[owner] += 1
                self._look(owner, contact)
                told = record_digest(contact)
                who = self._identity(contact, key)
                kept: Contact | None = contact
                for step in steps:
                    kept = step(contact, tally)
                    if kept is None:
                        break
                    contact = kept
                if kept is None:
                    continue
                if category is not None:
                    kept = category(kept, tally) or kept
                found.owner.append(owner)
                found.opened.append(reading.number)
                found.records.append(contact.record)
                found.digests.append(told)
                found.identities.append(who)
                found.kept.append(found.store.put(kept))
                found.sizes.append(sum(map(tally.read_of, kept.properties)))
                if found.features is not None:
                    found.features.add(kept)
            reading.read_as.people = tally.people.read - people
            found.set_aside[owner] += tally.people.set_aside - aside
            done += reading.source.octets
        self._tell_apart()
        return found

    def _key(self, source: JobSource, reading: Reading) -> FieldPath | None:
        """Where the source's key stands: under a heading, or in a field."""
        if not source.key:
            return None
        if reading.source.format.sort == "table":
            layout = reading.table.layout
            said = source.key.casefold()
            for column in layout.columns:
                names = [column.heading or "", *column.aliases]
                if said in (name.casefold() for name in names) and column.holds:
                    return column.holds[0]
        try:
            return parse(source.key)
        except PathError:
            headings = [column.heading or "" for column in reading.table.layout.columns] if (
                reading.source.format.sort == "table") else []  # fmt: skip
            guess = did_you_mean(source.key, headings) or "; it is a heading, or a field path"
            raise JobError(f"{source.path}: the key '{source.key}' is neither a heading nor a "
                           f"field{guess}") from None  # fmt: skip

    def _category(self, source: JobSource, reading: Reading) -> SetValue | None:
        if not source.category:
            return None
        words = self.fill | {"source": source.name, "file": reading.source.name}
        return SetValue(FieldPath("category"), filled(source.category, words))

    @staticmethod
    def _identity(contact: Contact, key: FieldPath | None) -> str:
        if key is not None:
            said = next((text.strip() for text in values_at(contact, key) if text.strip()), "")
            return f"{KEY}{said}" if said else ""
        uid = contact.first("uid")
        return f"{UID}{identity(uid.text)}" if uid is not None and uid.text.strip() else ""

    def _look(self, owner: int, contact: Contact) -> None:
        """Count which columns, or fields, a record has something in."""
        columns = self.found.columns[owner]
        words = set()
        for prop in contact.properties:
            if prop.rides or not prop.size():
                continue
            made = prop.head
            label = str(prop.components[0]) if made.name == CUSTOM else ""
            word = self._words.get((made, label))
            if word is None:
                field_word = made.field.path or made.name
                use = write_uses(made, "", made.field.path) if made.field.uses else ""
                word = "/".join(filter(None, (field_word, use or label)))
                if len(self._words) < 20_000:
                    self._words[made, label] = word
            words.add(word)
            self.found.values[owner] += prop.size()
        columns.update(words)

    def _tell_apart(self) -> None:
        """An identity that two records of one source share tells neither: they go by what they
        say, and equal ones by their order."""
        found = self.found
        shared = Counter(zip(found.owner, found.identities, strict=True))
        equal: Counter[tuple[int, str]] = Counter()
        for at, (owner, said) in enumerate(zip(found.owner, found.identities, strict=True)):
            if said and shared[owner, said] == 1:
                continue
            digest = found.digests[at]
            equal[owner, digest] += 1
            ordinal = equal[owner, digest]
            found.identities[at] = f"{DIGEST}{digest}" + (f"#{ordinal}" if ordinal > 1 else "")


def filled(text: str, words: dict[str, str]) -> str:
    """A fixed value with what stands for the words in braces."""
    for word, said in words.items():
        text = text.replace(f"{{{word}}}", said)
    return text
