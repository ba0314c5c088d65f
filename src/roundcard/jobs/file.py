"""The job file: read, and refused with file, line and a suggestion where it is wrong."""

from __future__ import annotations

import re
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from roundcard.card.paths import FieldPath, parse
from roundcard.clean.setup import demand
from roundcard.clean.user_rules import wishes_in, wishes_of
from roundcard.destinations import library as destinations
from roundcard.destinations.file import NAME
from roundcard.errors import (
    ConditionError,
    DestinationError,
    JobError,
    LayoutError,
    PathError,
    PlanError,
    UsageError,
    did_you_mean,
)
from roundcard.jobs.model import Again, Cleaning, Deliver, Job, JobSource, Merging
from roundcard.layouts import library as layouts
from roundcard.layouts.model import Layout
from roundcard.layouts.toml_checker import TomlChecker
from roundcard.match.decision_store import FILE as DECISIONS
from roundcard.match.decision_store import read_decisions
from roundcard.pick.conditions import Condition
from roundcard.values.set_value import settable

TOP_KEYS = ("name", "id", "destination", "region", "runs", "keep_sources", "source", "pick",
            "clean", "set", "merge", "again", "deliver")  # fmt: skip
SOURCE_KEYS = ("file", "folder", "layout", "key", "category", "each")
TABLES: dict[str, tuple[str, ...]] = {
    "pick": ("where",),
    "merge": ("decisions", "prefer", "ask"),
    "again": ("edited_there", "conflict", "cleared", "removed_there", "gone", "most_gone",
              "most_cleared", "blind"),
    "deliver": ("how", "existing"),
}  # fmt: skip
CLEAN_KEYS = ("rules_file", "rules", "without", "region", "phone", "countries", "names",
              "years_from", "replace", "words")  # fmt: skip
ANSWERS = ("there", "source", "ask")
_PART = re.compile(r"\s*(\d{1,3}(?:\.\d+)?)\s*%\s*")
_WORDS = re.compile(r"\{(\w*)\}")
PLACEHOLDERS = ("date", "source", "file", "job")
"""What stands in braces in a fixed value."""


@dataclass(frozen=True, slots=True)
class Places:
    """Where what a job names is looked for besides its own folder."""

    layouts: Sequence[Path | str] = ()
    destinations: Sequence[Path | str] = ()


def load_job(path: Path | str, places: Places | None = None) -> Job:
    """The job in a file, with the destination, layouts, rules and decisions that it names.

    Raises `JobError` where it cannot be read or is wrong.
    """
    path, places = Path(path), places or Places()
    text = layouts.text_in(path, "job", JobError)
    checker = _Checker(text, str(path))
    return checker.job(checker.tree(), path, places)


class _Checker(TomlChecker):
    """Makes a job out of the parsed file."""

    error = JobError
    what = "job"
    arrays = ("source",)

    def job(self, tree: Mapping[str, Any], path: Path, places: Places) -> Job:
        self.known(tree, TOP_KEYS, "", 0)
        self.folder = path.parent
        self.places = places
        name = self.take(tree, "name", str, "", "")
        if not NAME.fullmatch(name):
            problem = 'a job needs a name: name = "…" at the top of the file'
            if name:
                problem = f"'{name}' cannot be a name: small letters, digits and hyphens"
            self.fail(problem, "", 0, "name")
        tables = {key: self.table(tree, key) for key in TABLES}
        region = self.region(tree)
        return Job(
            name=name,
            id=self.id(tree),
            to=self.destination(tree),
            sources=self.sources(tree),
            file=path,
            runs=self.folder / self.take(tree, "runs", str, "runs", ""),
            region=region,
            keep_sources=self.take(tree, "keep_sources", bool, False, ""),
            where=self.where(tables["pick"]),
            clean=self.cleaning(tree, region),
            sets=self.sets(tree),
            merge=self.merging(tree, tables["merge"]),
            again=self.again(tables["again"]),
            deliver=self.deliver(tables["deliver"]),
        )

    def table(self, tree: Mapping[str, Any], key: str) -> Mapping[str, Any]:
        found = self.plain(tree, key)
        self.known(found, TABLES[key], key, 0)
        return found

    def plain(self, tree: Mapping[str, Any], key: str) -> Mapping[str, Any]:
        found = tree.get(key, {})
        if not isinstance(found, dict):
            self.fail(f"what belongs to '{key}' stands under [{key}]", "", 0, key)
        return found

    def id(self, tree: Mapping[str, Any]) -> str:
        said = self.take(tree, "id", str, "", "")
        if not said:
            self.fail('a job needs an id, a UUID of its own: id = "…"; \'roundcard job draft\' '
                      f"makes one, such as {uuid.uuid4()}")  # fmt: skip
        try:
            return str(uuid.UUID(said))
        except ValueError:
            self.fail(f"'id' is a UUID, and '{said}' is not", "", 0, "id")

    def destination(self, tree: Mapping[str, Any]) -> Any:
        said = self.take(tree, "destination", str, "", "")
        if not said:
            self.fail('a job needs a destination: destination = "…"; \'roundcard destination list\''
                      " shows those that are kept")  # fmt: skip
        own = self.folder / said
        name = str(own) if own.suffix == ".toml" or own.is_file() else said
        places = [self.folder / "destinations", *map(Path, self.places.destinations)]
        try:
            return destinations.find(name, places, self._layouts())
        except DestinationError as error:
            self.fail(str(error), "", 0, "destination")

    def _layouts(self) -> list[Path]:
        return [self.folder / "layouts", *map(Path, self.places.layouts)]

    def region(self, tree: Mapping[str, Any]) -> str:
        found: str = self.take(tree, "region", str, "", "")
        if found and not re.fullmatch("[A-Za-z]{2}", found):
            self.fail(f"'region' is a country's code of two letters, such as GB, not '{found}'",
                      "", 0, "region")  # fmt: skip
        return found.upper()

    def sources(self, tree: Mapping[str, Any]) -> list[JobSource]:
        found = []
        for index, keys in enumerate(self.array(tree, "source")):
            self.known(keys, SOURCE_KEYS, "source", index)
            found.append(self.source(keys, index))
        if not found:
            self.fail('a job needs sources: [[source]] with file = "…" or folder = "…"')
        names = [each.name for each in found]
        for index, name in enumerate(names):
            if name in names[:index]:
                self.fail(f"'{name}' is already a source; two cannot have one name", "source",
                          index, "file")  # fmt: skip
        if sum(each.each for each in found) > 1:
            self.fail("'each = true' stands at one source only", "source", len(found) - 1, "each")
        return found

    def source(self, keys: Mapping[str, Any], index: int) -> JobSource:
        file = self.take(keys, "file", str, "", "source", index)
        folder = self.take(keys, "folder", str, "", "source", index)
        each = self.take(keys, "each", bool, False, "source", index)
        if bool(file) + bool(folder) != 1 and not (each and not file and not folder):
            self.fail('a source is a file or a folder: file = "…" or folder = "…"', "source", index)
        name = (file or folder or "{each}").replace("\\", "/")
        layout: Layout | None = None
        if said := self.take(keys, "layout", str, "", "source", index):
            layout = self.layout(said, index)
        return JobSource(
            name=name,
            path=self.folder / name,
            layout=layout,
            key=self.take(keys, "key", str, "", "source", index),
            category=self.filled(self.take(keys, "category", str, "", "source", index), "source",
                                 index, "category"),
            each=each,
        )  # fmt: skip

    def layout(self, said: str, index: int) -> Layout:
        own = self.folder / said
        name = str(own) if own.suffix == ".toml" or own.is_file() else said
        try:
            found = layouts.find(name, self._layouts())
        except LayoutError as error:
            self.fail(str(error), "source", index, "layout")
        if len(found) > 1:
            self.fail(f"'{said}' is a folder of {len(found)} layouts; name one", "source", index,
                      "layout")  # fmt: skip
        return found[0]

    def filled(self, text: str, table: str, index: int, key: str) -> str:
        """A fixed value, with nothing in braces but what is known."""
        for found in _WORDS.finditer(text):
            if found[1] not in PLACEHOLDERS:
                known = ", ".join(f"{{{word}}}" for word in PLACEHOLDERS)
                guess = did_you_mean(found[1], PLACEHOLDERS) or f"; known are {known}"
                self.fail(f"'{{{found[1]}}}' stands for nothing{guess}", table, index, key)
        return text

    def where(self, keys: Mapping[str, Any]) -> tuple[str, ...]:
        said = keys.get("where", [])
        texts = [said] if isinstance(said, str) else said
        if not isinstance(texts, list) or not all(isinstance(each, str) for each in texts):
            self.fail("'where' takes a condition, or a list of conditions", "pick", 0, "where")
        for text in texts:
            try:
                Condition(text, [])
            except ConditionError as error:
                self.fail(f"{error.problem}\n{error.marked()}", "pick", 0, "where")
        return tuple(texts)

    def cleaning(self, tree: Mapping[str, Any], region: str) -> Cleaning | None:
        if "clean" not in tree:
            return None
        keys = dict(self.plain(tree, "clean"))
        self.known(keys, CLEAN_KEYS, "clean", 0)
        file = self.take(keys, "rules_file", str, "", "clean")
        keys.pop("rules_file", None)
        keys.setdefault("region", region)
        path = self.folder / file if file else None
        try:
            wishes = wishes_of(keys, f"{self.file}, [clean]")
            demand(wishes)
            if path is not None:
                demand(wishes_in(path))
        except (PlanError, UsageError) as error:
            said = str(error)
            if said.startswith(self.file):
                raise self.error(said) from None
            self.fail(said, "clean", 0, "rules_file" if path is not None else "")
        return Cleaning(wishes, path)

    def sets(self, tree: Mapping[str, Any]) -> list[tuple[FieldPath, str]]:
        found = []
        for text, value in self.plain(tree, "set").items():
            if not isinstance(value, str) or not value.strip():
                self.fail(f"'{text}' takes a text in quotes", "set", 0, text)
            try:
                path = parse(text)
                settable(path)
            except PathError as error:
                self.fail(f"{error.problem}\n{error.marked()}", "set", 0, text)
            found.append((path, self.filled(value, "set", 0, text)))
        return found

    def merging(self, tree: Mapping[str, Any], keys: Mapping[str, Any]) -> Merging | None:
        if "merge" not in tree:
            return None
        ask = self.one_of(self.take(keys, "ask", str, "stop", "merge"), ("stop", "apart"), "ask",
                          "merge")  # fmt: skip
        decisions = self.folder / self.take(keys, "decisions", str, DECISIONS, "merge")
        try:
            read_decisions(decisions)
        except PlanError as error:
            self.fail(str(error), "merge", 0, "decisions")
        return Merging(decisions, tuple(self.take(keys, "prefer", list, [], "merge")),
                       "stop" if ask == "stop" else "apart")  # fmt: skip

    def again(self, keys: Mapping[str, Any]) -> Again:
        default = Again()

        def word(key: str, allowed: Sequence[str]) -> Any:
            said = self.take(keys, key, str, getattr(default, key), "again")
            return self.one_of(said, allowed, key, "again")

        return Again(
            word("edited_there", ANSWERS),
            word("conflict", ANSWERS),
            word("cleared", ANSWERS),
            word("removed_there", ("there", "source", "ask")),
            word("gone", ("list", "remove", "keep")),
            self.part(keys, "most_gone", default.most_gone),
            self.part(keys, "most_cleared", default.most_cleared),
            self.take(keys, "blind", bool, default.blind, "again"),
        )

    def part(self, keys: Mapping[str, Any], key: str, default: float) -> float:
        if key not in keys:
            return default
        said = self.take(keys, key, str, "", "again")
        found = _PART.fullmatch(said)
        if found is None or float(found[1]) > 100:
            self.fail(f"'{key}' is a part of a source, such as \"5 %\", not '{said}'", "again", 0,
                      key)  # fmt: skip
        return float(found[1]) / 100

    def deliver(self, keys: Mapping[str, Any]) -> Deliver:
        how = self.one_of(self.take(keys, "how", str, "files", "deliver"), ("files", "service"),
                          "how", "deliver")  # fmt: skip
        if how == "service":
            self.fail('how = "service" needs a client for services, which this version does not '
                      'have; use how = "files"', "deliver", 0, "how")  # fmt: skip
        said = self.take(keys, "existing", str, "update", "deliver")
        existing: Any = self.one_of(said, ("update", "beside", "leave"), "existing", "deliver")
        return Deliver("files", existing)
