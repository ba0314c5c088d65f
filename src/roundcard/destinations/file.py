"""The destination file: read, and refused with file, line and a suggestion where it is wrong."""

from __future__ import annotations

import codecs
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from roundcard.card.fields import by_path
from roundcard.card.paths import FieldPath, parse, takes_many, uses_of
from roundcard.destinations.model import (
    FORMATS,
    Allowed,
    Destination,
    Length,
    Limits,
    OnImport,
    Style,
)
from roundcard.errors import DestinationError, LayoutError, PathError, did_you_mean
from roundcard.layouts.model import Layout
from roundcard.layouts.toml_checker import TomlChecker
from roundcard.values.dates import date_style

TOP_KEYS = ("name", "title", "accepts", "layout", "identity", "drops", "limits", "needs", "allowed",
            "characters", "style", "overflow", "on_import", "rewrites", "service")  # fmt: skip
TABLES: dict[str, tuple[str, ...]] = {
    "limits": ("people_per_file", "bytes_per_file", "people_in_all", "values", "length"),
    "needs": ("any", "all"),
    "characters": ("set", "lacking", "line_breaks", "beyond_basic_plane"),
    "style": ("phone", "date", "country", "name"),
    "overflow": ("into",),
    "on_import": ("matches_on", "existing", "empty_cell", "many", "blank_rows"),
}
PHONE_STYLES = ("international", "national", "digits", "as-typed")
NAME_STYLES = ("parts", "whole")
LACKING = ("nearest", "leave-behind")
EXISTING = ("update", "beside", "leave")
EMPTY_CELLS = ("clears", "ignored", "unknown")
MANY = ("replaced", "added", "unknown")
BLANK_ROWS = ("ignored", "refused", "unknown")
REWRITES = ("digits", "international", "lower-case", "spaces", "trimmed", "code", "replaced",
            "from-parts", "uses-lost", "resized", "cut", "order")  # fmt: skip
NAME = re.compile(r"[a-z0-9-]+")
_FEWEST_OCTETS = 200
"""A file below that holds nobody."""
_OVERFLOWS = ("note",)

FindLayout = Callable[[str], Layout]
"""Gives a layout by its name, or raises `LayoutError`."""


def parse_destination(text: str, file: str, find_layout: FindLayout) -> Destination:
    """The destination that a TOML text describes; `file` is how messages name it.

    Raises `DestinationError` with file, line and, where there is one, a suggestion.
    """
    checker = _Checker(text, file)
    return checker.destination(checker.tree(), find_layout)


class _Checker(TomlChecker):
    """Makes a destination out of the parsed file."""

    error = DestinationError
    what = "destination"

    def destination(self, tree: Mapping[str, Any], find_layout: FindLayout) -> Destination:
        self.known(tree, TOP_KEYS, "", 0)
        name = self.take(tree, "name", str, "", "")
        if not NAME.fullmatch(name):
            problem = 'a destination needs a name: name = "…" at the top of the file'
            if name:
                problem = f"'{name}' cannot be a name: small letters, digits and hyphens"
            self.fail(problem, "", 0, "name")
        tables = {key: self.table(tree, key) for key in TABLES}
        accepts = self.words(tree, "accepts", tuple(FORMATS), "")
        if not accepts:
            self.fail(f"'accepts' says which files it takes: some of {', '.join(FORMATS)}", "", 0,
                      "accepts")  # fmt: skip
        identity = self.take(tree, "identity", str, "", "")
        found = Destination(
            name=name,
            title=self.take(tree, "title", str, "", "") or name,
            accepts=accepts,
            layout=self.layout(tree, accepts, find_layout),
            identity=self.path(identity, "", "identity") if identity else None,
            drops=self.paths(tree, "drops", ""),
            limits=self.limits(tables["limits"]),
            needs_any=self.paths(tables["needs"], "any", "needs"),
            needs_all=self.paths(tables["needs"], "all", "needs"),
            allowed=self.allowed(tree),
            style=self.style(tables["style"]),
            overflow=self.overflow(tables["overflow"]),
            on_import=self.on_import(tables["on_import"]),
            rewrites=self.rewrites(tree),
            service=self.plain_table(tree, "service"),
            file=self.file,
            **self.characters(tables["characters"]),
        )
        self.agree(found)
        return found

    def plain_table(self, tree: Mapping[str, Any], key: str) -> Mapping[str, Any]:
        table = tree.get(key, {})
        if not isinstance(table, dict):
            self.fail(f"what belongs to '{key}' stands under [{key}]", "", 0, key)
        return table

    def table(self, tree: Mapping[str, Any], key: str) -> Mapping[str, Any]:
        table = self.plain_table(tree, key)
        self.known(table, TABLES[key], key, 0)
        return table

    def words(
        self, keys: Mapping[str, Any], key: str, allowed: Sequence[str], table: str
    ) -> tuple[str, ...]:
        said = self.take(keys, key, list, [], table)
        return tuple(self.one_of(word, allowed, key, table) for word in said)

    def path(self, text: str, table: str, key: str) -> FieldPath:
        if key == "drops" and text.strip().casefold() == "custom":
            return FieldPath("custom")  # whatever its label
        try:
            return parse(text)
        except PathError as error:
            self.fail(f"{error.problem}\n{error.marked()}", table, 0, key)

    def paths(self, keys: Mapping[str, Any], key: str, table: str) -> tuple[FieldPath, ...]:
        return tuple(self.path(each, table, key) for each in self.take(keys, key, list, [], table))

    def layout(
        self, tree: Mapping[str, Any], accepts: Sequence[str], find_layout: FindLayout
    ) -> Layout | None:
        name = self.take(tree, "layout", str, "", "")
        tables = [word for word in accepts if word in ("table", "workbook")]
        if not name:
            if tables:
                self.fail(f"it accepts a {tables[0]}, so 'layout' must name its layout", "", 0,
                          "accepts")  # fmt: skip
            return None
        if not NAME.fullmatch(name):
            self.fail(f"'layout' is the name of a kept layout, and no path: '{name}'", "", 0,
                      "layout")  # fmt: skip
        if not tables:
            self.fail("it has a layout, and accepts neither table nor workbook", "", 0, "layout")
        try:
            return find_layout(name)
        except LayoutError as error:
            self.fail(str(error), "", 0, "layout")

    def number(self, keys: Mapping[str, Any], key: str) -> int:
        found: int = self.take(keys, key, int, 0, "limits")
        if key in keys and found < 1:
            self.fail(f"'{key}' is 1 or more; leave it out where there is no limit", "limits", 0,
                      key)  # fmt: skip
        return found

    def limits(self, keys: Mapping[str, Any]) -> Limits:
        per_file, in_all = self.number(keys, "people_per_file"), self.number(keys, "people_in_all")
        if per_file and in_all and per_file > in_all:
            self.fail(f"'people_per_file' ({per_file}) is more than 'people_in_all' ({in_all})",
                      "limits", 0, "people_per_file")  # fmt: skip
        octets = self.number(keys, "bytes_per_file")
        if octets and octets < _FEWEST_OCTETS:
            self.fail(f"'bytes_per_file' is {octets}: no file of people is so small", "limits", 0,
                      "bytes_per_file")  # fmt: skip
        values = {}
        for text, most in self.take(keys, "values", dict, {}, "limits").items():
            path = self.path(text, "limits", "values")
            if not isinstance(most, int) or isinstance(most, bool) or most < 0:
                self.fail(f"'values' counts the values of a field: {text} = 2", "limits", 0,
                          "values")  # fmt: skip
            if path.part or path.position or not takes_many(path.field):
                self.fail(f"'{text}' is one thing; 'values' counts fields such as email or "
                          "phone/cell", "limits", 0, "values")  # fmt: skip
            values[path] = most
        length = {}
        for text, most in self.take(keys, "length", dict, {}, "limits").items():
            length[self.path(text, "limits", "length")] = self.length(text, most)
        return Limits(per_file, octets, in_all, values, length)

    def length(self, text: str, said: Any) -> Length:
        octets = False
        if isinstance(said, dict):
            extra = [key for key in said if key not in ("most", "in")]
            if extra or said.get("in", "bytes") not in ("bytes", "characters"):
                self.fail(f'\'length\' takes {{ most = 2000, in = "bytes" }} for {text}', "limits",
                          0, "length")  # fmt: skip
            octets, said = said.get("in") == "bytes", said.get("most")
        if not isinstance(said, int) or isinstance(said, bool) or said < 1:
            self.fail(f"'length' takes a number of characters for {text}, from 1", "limits", 0,
                      "length")  # fmt: skip
        return Length(said, octets)

    def allowed(self, tree: Mapping[str, Any]) -> dict[FieldPath, Allowed]:
        found = {}
        for text, said in self.plain_table(tree, "allowed").items():
            path = self.path(text, "allowed", text)
            if not isinstance(said, dict):
                self.fail(f'{text} takes {{ values = ["…"], otherwise = "…" }}', "allowed", 0, text)
            self.known(said, ("values", "otherwise"), "allowed", 0)
            values = tuple(self.take(said, "values", list, [], "allowed"))
            if not values:
                self.fail(f"{text}: 'values' lists what is allowed", "allowed", 0, text)
            otherwise = self.take(said, "otherwise", str, "", "allowed")
            if otherwise and otherwise.casefold() not in [each.casefold() for each in values]:
                self.fail(f"{text}: otherwise = '{otherwise}' is not among its values", "allowed",
                          0, text)  # fmt: skip
            if path.part == "use":
                known = uses_of(path.field)
                for word in values:
                    if not set(word.casefold().split("+")) <= set(known):
                        guess = did_you_mean(word, known) or f"; uses are {', '.join(known[:6])} …"
                        self.fail(f"{text}: '{word}' is no use{guess}", "allowed", 0, text)
            found[path] = Allowed(values, otherwise)
        return found

    def characters(self, keys: Mapping[str, Any]) -> dict[str, Any]:
        said = self.take(keys, "set", str, "", "characters")
        if said:
            try:
                "".encode(codecs.lookup(said).name)
            except LookupError:
                common = ("utf-8", "utf-16", "windows-1252", "iso-8859-1", "ascii", "cp437")
                guess = did_you_mean(said, common) or f"; for example {', '.join(common[:4])}"
                self.fail(f"'{said}' is not a known character set{guess}", "characters", 0, "set")
        take = self.take
        return {
            "encoding": said.lower(),
            "lacking": self.one_of(take(keys, "lacking", str, "leave-behind", "characters"),
                                   LACKING, "lacking", "characters"),
            "line_breaks": take(keys, "line_breaks", bool, True, "characters"),
            "beyond_basic_plane": take(keys, "beyond_basic_plane", bool, True, "characters"),
        }  # fmt: skip

    def style(self, keys: Mapping[str, Any]) -> Style:
        date = self.take(keys, "date", str, "", "style")
        try:
            style = date_style(date) if date else None
        except ValueError as error:
            self.fail(str(error), "style", 0, "date")
        phone = self.take(keys, "phone", str, "", "style")
        name = self.take(keys, "name", str, "", "style")
        country = self.take(keys, "country", str, "", "style")
        if country and country != "code" and not re.fullmatch("[a-z]{2,3}", country):
            self.fail('\'country\' is "code", or a language such as "en"', "style", 0, "country")
        return Style(
            phone=self.one_of(phone, PHONE_STYLES, "phone", "style") if phone else "",
            date=style,
            country=country,
            name=self.one_of(name, NAME_STYLES, "name", "style") if name else "",
        )

    def overflow(self, keys: Mapping[str, Any]) -> FieldPath | None:
        said = self.take(keys, "into", str, "", "overflow")
        if not said:
            return None
        path = self.path(said, "overflow", "into")
        if path.field not in _OVERFLOWS:
            self.fail(f"'into' is a field of free text: note, and not '{said}'", "overflow", 0,
                      "into")  # fmt: skip
        return path

    def on_import(self, keys: Mapping[str, Any]) -> OnImport:
        said = keys.get("matches_on", [])
        shown = 'matches_on = [["uid"], ["email"]]'
        if not isinstance(said, list) or not all(
            isinstance(key, list) and key and all(isinstance(each, str) for each in key)
            for key in said
        ):
            self.fail(f"'matches_on' is a list of keys, each a list of fields: {shown}",
                      "on_import", 0, "matches_on")  # fmt: skip

        def word(key: str, allowed: Sequence[str]) -> str:
            default = "ignored" if key == "blank_rows" else "unknown"
            text = self.take(keys, key, str, default, "on_import")
            return self.one_of(text, allowed, key, "on_import")

        return OnImport(
            tuple(
                tuple(self.path(each, "on_import", "matches_on") for each in key) for key in said
            ),
            self.words(keys, "existing", EXISTING, "on_import"),
            word("empty_cell", EMPTY_CELLS),
            word("many", MANY),
            word("blank_rows", BLANK_ROWS),
        )

    def rewrites(self, tree: Mapping[str, Any]) -> dict[FieldPath, Any]:
        found = {}
        for text, said in self.plain_table(tree, "rewrites").items():
            words = [said] if isinstance(said, str) else said
            if not isinstance(words, list) or not all(isinstance(word, str) for word in words):
                self.fail(f"{text} takes a word, or a list of words", "rewrites", 0, text)
            path = self.path(text, "rewrites", text)
            for word in words:
                if word not in REWRITES:
                    guess = did_you_mean(word, REWRITES) or f"; known are {', '.join(REWRITES)}"
                    self.fail(f"'{word}' is no known rewrite{guess}", "rewrites", 0, text)
                if word == "from-parts" and (path.field, path.part) != ("name", "full"):
                    self.fail("'from-parts' is for name/full", "rewrites", 0, text)
                if word in ("digits", "international") and path.field != "phone":
                    self.fail(f"'{word}' is for phone", "rewrites", 0, text)
                if word == "resized" and by_path(path.field)[0].kind != "media":
                    self.fail("'resized' is for photo", "rewrites", 0, text)
            found[path] = tuple(words)
        return found

    def agree(self, found: Destination) -> None:
        """Refuse what contradicts itself."""
        needed = (*found.needs_all, *found.needs_any)
        for key, paths in (("all", found.needs_all), ("any", found.needs_any)):
            for path in paths:
                if any(each.field == path.field and not each.label for each in found.drops) and (
                    key == "all" or len(found.needs_any) == 1
                ):
                    self.fail(f"it needs {path}, and drops it", "needs", 0, key)
                if found.limits.values.get(replace(path, part=""), 1) == 0:
                    self.fail(f"it needs {path}, and 'values' has room for none", "needs", 0, key)
        if found.overflow is not None and any(
            each.field == found.overflow.field for each in found.drops
        ):
            self.fail(f"what has no room would ride in {found.overflow}, which it drops",
                      "overflow", 0, "into")  # fmt: skip
        if found.identity is not None and any(
            each.field == found.identity.field and each.label in ("", found.identity.label)
            for each in found.drops
        ):
            self.fail(f"'identity' is {found.identity}, which it drops", "", 0, "identity")
        if found.layout is None:
            return
        fields = {path.field for column in found.layout.columns for path in column.holds}
        for path in found.needs_all:
            if path.field not in fields:
                self.fail(f"it needs {path}, and its layout has no column for it", "needs", 0,
                          "all")  # fmt: skip
        if found.needs_any and not any(path.field in fields for path in found.needs_any):
            self.fail(f"its layout has a column for none of {', '.join(map(str, needed))}",
                      "needs", 0, "any")  # fmt: skip
        if found.overflow is not None and found.overflow.field not in fields:
            self.fail(f"its layout has no column for {found.overflow}, where what has no room "
                      "would ride", "overflow", 0, "into")  # fmt: skip
        if found.identity is not None and found.identity.field not in fields:
            self.fail(f"its layout has no column for its identity, {found.identity}", "", 0,
                      "identity")  # fmt: skip
