"""The merge record: JSON Lines, one merge a line, from which each can be taken back.

A line holds the originals whole, the contact as the book has it, of each of its values which
originals said it, and what was not taken. docs/merging.md describes the keys.
"""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from roundcard.books.transaction import Transaction
from roundcard.card.contact import Contact, Property
from roundcard.card.names import called
from roundcard.errors import PlanError, SourceError
from roundcard.merge.contact_store import as_json, from_json
from roundcard.merge.equivalence import told
from roundcard.merge.selection import Merged
from roundcard.tally import Fate, Reason, Why, number_of

SCHEMA = 2
_CHECKED_FROM = 2
"""The schema from which a line holds a checksum of all the rest of it."""
FROM_RECORD = Reason(Fate.ADDED, Why.FROM_RECORD)
"""Why values are added that only the record holds."""


@dataclass(slots=True)
class Original:
    """A contact as it was before it was merged."""

    source: str
    record: int
    properties: list[Property]

    @property
    def contact(self) -> Contact:
        """It as a contact; its values are in no source."""
        return Contact(list(self.properties), -1)


@dataclass(slots=True)
class RecordLine:
    """One merge."""

    number: str
    """The number of the group, as the sheet has it."""
    originals: list[Original]
    result: list[Property]
    """The contact that was made, as the book has it."""
    where: int = 0
    """The line of the record, from 1."""
    told: dict[str, Any] = field(default_factory=dict)

    @property
    def pointers(self) -> list[tuple[str, str, str, list[str]]]:
        """Contacts that pointed at originals: their UID, the property, the UID it has now, and what
        stood there before."""
        return [
            (str(each["of"]), str(each["name"]), str(each["now"]), list(map(str, each["before"])))
            for each in self.told.get("pointers", ())
        ]

    @property
    def name(self) -> str:
        """What the merged contact is called."""
        return called(Contact(self.result))

    def holds(self, words: Sequence[str]) -> bool:
        """Whether all words stand in the originals or the result, in whatever case."""
        text = "\n".join(
            told(prop).casefold()
            for props in ([o.properties for o in self.originals] + [self.result])
            for prop in props
        )
        return all(word.casefold() in text for word in words)


class RecordFile:
    """A merge record, one of the files that a command writes."""

    def __init__(
        self, files: Transaction, path: Path, *, force: bool = False, beside: bool = False
    ) -> None:
        """`beside`: where the file is there already, the new one gets a number."""
        self.path = _free(path) if beside and not force else path
        self._file = files.file(self.path, force=force)

    def add(self, made: dict[str, Any], result: Sequence[Property]) -> None:
        """Write a line. Raises `TargetError`."""
        self.add_told(made, as_json(result))

    def add_told(self, made: dict[str, Any], result: list[Any]) -> None:
        """Write a line with a result that is JSON already. Raises `TargetError`."""
        made["result"] = result
        made["checksum"] = _checksum(made)
        self._file.write((json.dumps(made, ensure_ascii=False) + "\n").encode())


def _checksum(told_: dict[str, Any]) -> str:
    """What tells a line that was changed from one that was not: BLAKE2b (RFC 7693) of its JSON,
    with the keys in order and without the checksum."""
    rest = {key: value for key, value in told_.items() if key != "checksum"}
    text = json.dumps(rest, ensure_ascii=False, sort_keys=True)
    return hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


def line_of(
    number: str, merged: Merged, originals: Sequence[tuple[str, int, Contact]],
    reasons: str, decided: bool, when: str, say: Callable[[Reason], str],
) -> dict[str, Any]:  # fmt: skip
    """A line of the record, still without the result as the book has it."""
    return {
        "schema": SCHEMA,
        "merge": number,
        "when": when,
        "name": called(merged.contact),
        "decided": decided,
        "reasons": reasons,
        "originals": [
            {"source": source, "record": record, "properties": as_json(contact.properties)}
            for source, record, contact in originals
        ],
        "values": [
            {"field": prop.head.field.path or prop.head.name, "value": told(prop), "from": members}
            for prop, members in zip(merged.contact.properties, merged.sources, strict=True)
            if prop.size()
        ],
        "not_taken": [
            {"field": left.prop.head.field.path or left.prop.head.name, "value": told(left.prop),
             "from": left.member, "why": say(left.why)}
            for left in (*merged.left, *merged.kept)
        ],
    }  # fmt: skip


def read_record(path: Path) -> list[RecordLine]:
    """The merges of a record, in order.

    Raises `SourceError` where it cannot be read, and `PlanError` where it is no merge record.
    """
    try:
        text = path.read_text("utf-8")
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror or error}") from None
    except UnicodeDecodeError:
        raise PlanError(f"{path}: is not a merge record: not UTF-8 text") from None
    return list(_lines(text, path))


def _lines(text: str, path: Path) -> Iterator[RecordLine]:
    back = number_of(FROM_RECORD)
    for where, line in enumerate(text.split("\n"), 1):  # other line ends stand in values
        if not line.strip():
            continue
        try:
            told_ = _demand_whole(json.loads(line))
            originals = [
                Original(
                    str(each["source"]), int(each["record"]), from_json(each["properties"], back)
                )
                for each in told_["originals"]
            ]
            result = from_json(told_["result"])
            yield RecordLine(str(told_["merge"]), originals, result, where, told_)
        except RecursionError:
            raise PlanError(f"{path}, line {where}: is nested too deeply") from None
        except (ValueError, KeyError, TypeError, AttributeError) as error:
            raise PlanError(
                f"{path}, line {where}: is not a line of a merge record ({error})"
            ) from None


def _demand_whole(told_: Any) -> dict[str, Any]:
    """A line as it was written. Raises `ValueError` for one that was changed or cut since, or that
    a newer version wrote."""
    if not isinstance(told_, dict):
        raise ValueError("it is not an object")
    schema = told_.get("schema", 1)
    if not isinstance(schema, int) or not 1 <= schema <= SCHEMA:
        raise ValueError(f"its schema is {schema}, and this version reads up to {SCHEMA}; take a "
                         "newer version of Round Card")  # fmt: skip
    if schema >= _CHECKED_FROM and told_.get("checksum") != _checksum(told_):
        raise ValueError("its checksum does not agree: it was changed or cut after the merge")
    if not isinstance(told_["originals"], list) or len(told_["originals"]) < _FEWEST:
        raise ValueError("a merge has two originals at least")
    for each in told_.get("pointers", ()):
        if not isinstance(each, dict) or not {"of", "name", "now", "before"} <= each.keys():
            raise ValueError("a pointer is an object of 'of', 'name', 'now' and 'before'")
        if not isinstance(each["before"], list):
            raise ValueError("'before' of a pointer is a list")
    return told_


_FEWEST = 2


def records_beside(*paths: Path) -> list[Path]:
    """Merge records that stand beside files, by their names, without the files themselves."""
    found = {
        each.resolve(): each
        for folder in dict.fromkeys(path.parent for path in paths)
        for each in sorted(folder.glob("*.merges*.jsonl"))
    }
    own = {path.resolve() for path in paths}
    return [each for where, each in found.items() if where not in own]


def chosen(lines: Iterable[RecordLine], words: str, group: str) -> list[RecordLine]:
    """The merges that are meant: of a person's words, of a group's number, or all."""
    found = list(lines)
    if group:
        found = [line for line in found if line.number == group]
    if words:
        found = [line for line in found if line.holds(words.split())]
    return found


def _free(path: Path) -> Path:
    stem, number = path.name.removesuffix(".jsonl"), 2
    free = path
    while os.path.lexists(free):
        free = path.with_name(f"{stem}-{number}.jsonl")
        number += 1
    return free
