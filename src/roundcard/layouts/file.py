"""The layout file: read, and refused with file, line and a suggestion where it is wrong."""

from __future__ import annotations

import codecs
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, NoReturn

from roundcard.card.fields import by_path
from roundcard.card.paths import FieldPath, parse, parts_of, takes_many
from roundcard.errors import LayoutError, PathError, did_you_mean
from roundcard.formats.csv import LINE_ENDS, QUOTES, SEPARATORS, Dialect
from roundcard.layouts.model import Column, Every, Layout
from roundcard.layouts.rowkinds import trimmed
from roundcard.layouts.toml_checker import TomlChecker
from roundcard.values.dates import DateStyle, date_style

TOP_KEYS = ("name", "title", "table", "column", "every", "clean")
CLEAN_KEYS = ("rules", "without", "region", "phone", "countries", "names", "replace", "words",
              "years_from")  # fmt: skip
TABLE_KEYS = ("encoding", "separator", "heading_row", "explained_by", "line_end", "byte_order_mark",
              "quote", "formula_guard", "empty", "unlisted", "years_from", "lacking")  # fmt: skip
COLUMN_KEYS = ("heading", "number", "nth", "aliases", "holds", "many", "parted", "join", "date",
               "values", "fixed", "skip", "blank")  # fmt: skip
EVERY_KEYS = ("holds", "value")
LACKING = ("leave-behind", "nearest")
UNLISTED = ("custom", "skip", "refuse")

_WORDS_FOR_SEPARATORS = {name: mark for mark, name in SEPARATORS.items()}


def parse_layout(text: str, file: str = "") -> Layout:
    """The layout that a TOML text describes; `file` is how messages name it.

    Raises `LayoutError` with file, line and, where there is one, a suggestion.
    """
    checker = _Checker(text, file)
    return checker.layout(checker.tree())


class _Checker(TomlChecker):
    """Makes a layout out of the parsed file."""

    error = LayoutError
    what = "layout"
    arrays = ("column", "every")

    def layout(self, tree: Mapping[str, Any]) -> Layout:
        self.known(tree, TOP_KEYS, "", 0)
        name = self.take(tree, "name", str, "", "")
        if not name.strip():
            self.fail('a layout needs a name: name = "…" at the top of the file')
        table = tree.get("table", {})
        if not isinstance(table, dict):
            self.fail("the table's own keys belong under [table]", "", 0, "table")
        self.known(table, TABLE_KEYS, "table", 0)
        clean = tree.get("clean", {})
        if not isinstance(clean, dict):
            self.fail("how tables are cleaned belongs under [clean]", "", 0, "clean")
        self.known(clean, CLEAN_KEYS, "clean", 0)
        self.years_from = self.take(table, "years_from", int, 0, "table")
        if self.years_from and not 1000 <= self.years_from <= 2900:
            self.fail("'years_from' is the first of the hundred years in which years of two digits "
                      "lie, such as 1930", "table", 0, "years_from")  # fmt: skip
        columns = [self.column(keys, at) for at, keys in enumerate(self.array(tree, "column"))]
        every = [self.every(keys, at) for at, keys in enumerate(self.array(tree, "every"))]
        if not columns:
            self.fail("it has no [[column]]")
        heading_row = self.take(table, "heading_row", int, 1, "table")
        if heading_row < 0:
            self.fail("'heading_row' counts from 1; 0 means no headings", "table", 0, "heading_row")
        explained_by = trimmed(self.take(table, "explained_by", list, [], "table"))
        if explained_by and not heading_row:
            self.fail("'explained_by' is the row under the headings, and 'heading_row' is 0 (there "
                      "are none)", "table", 0, "explained_by")  # fmt: skip
        self.clashes(columns, heading_row)
        return Layout(
            name=name.strip(),
            title=self.take(tree, "title", str, "", ""),
            dialect=self.dialect(table),
            heading_row=heading_row,
            explained_by=explained_by,
            formula_guard=self.take(table, "formula_guard", bool, False, "table"),
            years_from=self.years_from,
            lacking=self.one_of(
                self.take(table, "lacking", str, "leave-behind", "table"), LACKING, "lacking"
            ),
            empty=frozenset(self.take(table, "empty", list, [], "table")),
            unlisted=self.one_of(  # type: ignore[arg-type]  # checked against the same words
                self.take(table, "unlisted", str, "custom", "table"), UNLISTED, "unlisted"
            ),
            columns=tuple(columns),
            every=tuple(every),
            file=self.file,
            clean=clean,
        )

    def dialect(self, table: Mapping[str, Any]) -> Dialect:
        encoding = self.take(table, "encoding", str, "utf-8", "table")
        try:
            codecs.lookup(encoding)
            "".encode(encoding)
        except LookupError:
            common = ("utf-8", "utf-16", "windows-1252", "iso-8859-1", "iso-8859-15", "mac-roman",
                      "windows-1250", "cp437", "cp850", "shift-jis", "gb18030")  # fmt: skip
            guess = did_you_mean(encoding, common) or f"; for example {', '.join(common[:4])}"
            self.fail(f"'{encoding}' is not a known character set{guess}", "table", 0, "encoding")
        separator = self.take(table, "separator", str, ",", "table")
        separator = _WORDS_FOR_SEPARATORS.get(separator, separator)
        if len(separator) != 1 or separator in '"\r\n':
            self.fail(f"'separator' is one character or one of {', '.join(SEPARATORS.values())}",
                      "table", 0, "separator")  # fmt: skip
        line_end = self.take(table, "line_end", str, "crlf", "table")
        quote = self.take(table, "quote", str, "needed", "table")
        return Dialect(
            encoding=encoding.lower(),
            separator=separator,
            line_end=self.one_of(line_end, tuple(LINE_ENDS), "line_end"),
            byte_order_mark=self.take(table, "byte_order_mark", bool, False, "table"),
            quote=self.one_of(quote, QUOTES, "quote"),  # type: ignore[arg-type]
        )

    def every(self, keys: Mapping[str, Any], index: int) -> Every:
        self.known(keys, EVERY_KEYS, "every", index)
        path = self.path(self.take(keys, "holds", str, "", "every", index), "every", index)
        value = self.take(keys, "value", str, "", "every", index)
        if not value.strip():
            self.fail("'value' is missing", "every", index, "value")
        return Every(path, value, self.line("every", index, ""))

    def path(self, text: str, table: str, index: int) -> FieldPath:
        try:
            path = parse(text)
        except PathError as error:
            self.fail(f"{error.problem}\n{error.marked()}", table, index, "holds")
        if path.field == "name" and not path.part:
            self.fail(f"'name' needs a part: name/{', name/'.join(parts_of('name')[:4])} …",
                      table, index, "holds")  # fmt: skip
        if path.field == "address" and not path.part:
            self.fail("'address' needs a part: address/street, address/locality, or address/full "
                      "for an address in one cell", table, index, "holds")  # fmt: skip
        return path

    def column(self, keys: Mapping[str, Any], index: int) -> Column:
        self.known(keys, COLUMN_KEYS, "column", index)

        def take(key: str, kind: type, default: Any) -> Any:
            return self.take(keys, key, kind, default, "column", index)

        def fail(problem: str, key: str = "") -> NoReturn:
            self.fail(problem, "column", index, key)

        holds = self.holds(keys, index)
        column = Column(
            heading=take("heading", str, ""),
            number=take("number", int, 0),
            nth=take("nth", int, 1),
            aliases=tuple(take("aliases", list, [])),
            holds=holds,
            many=take("many", str, ""),
            parted=take("parted", str, ""),
            join=take("join", str, None),
            date=self.date(take("date", str, None), index),
            values=self.value_map(take("values", dict, {}), index),
            fixed=take("fixed", str, None),
            skip=take("skip", bool, False),
            blank=take("blank", bool, False),
            line=self.line("column", index, ""),
        )
        if bool(column.heading) == bool(column.number):
            fail("a column is named by its 'heading', or by its 'number' where there are none")
        if column.number < 0 or column.nth < 1:
            fail("'number' and 'nth' count from 1", "nth" if column.nth < 1 else "number")
        purposes = [
            key for key in ("holds", "fixed", "skip", "blank") if keys.get(key) not in (None, False)
        ]
        if len(purposes) != 1:
            problem = f"both '{purposes[0]}' and '{purposes[1]}'" if purposes else "none of them"
            fail(
                f"{column.name}: a column 'holds' something or is 'fixed', 'skip' or 'blank'; "
                f"here it has {problem}",
                purposes[1] if purposes else "",
            )
        self.check_holds(column, index)
        return column

    def holds(self, keys: Mapping[str, Any], index: int) -> tuple[FieldPath, ...]:
        said = keys.get("holds")
        if said is None:
            return ()
        if isinstance(said, str):
            return (self.path(said, "column", index),)
        if not isinstance(said, list) or not said or not all(isinstance(s, str) for s in said):
            self.fail("'holds' takes a field path, or a list of them together with 'parted'",
                      "column", index, "holds")  # fmt: skip
        return tuple(self.path(text, "column", index) for text in said)

    def check_holds(self, column: Column, index: int) -> None:
        def fail(problem: str, key: str) -> NoReturn:
            self.fail(f"{column.name}: {problem}", "column", index, key)

        if len(column.holds) > 1 and not column.parted:
            fail(
                "several things in one cell need 'parted', which says what separates them", "holds"
            )
        if column.parted and len(column.holds) < 2:
            fail("'parted' needs a list of several paths in 'holds'", "parted")
        if column.parted and (column.many or column.date or column.values):
            fail("'parted' cannot be combined with 'many', 'date' or 'values'", "parted")
        if not column.holds:
            for key in ("many", "join", "date", "values"):
                if getattr(column, key):
                    fail(f"'{key}' needs 'holds'", key)
            return
        path = column.holds[0]
        if column.many and (path.part or path.position or not takes_many(path.field)):
            fail(f"{path} is one thing, and 'many' separates several", "many")
        dated = by_path(path.field)[0].kind == "date" or path.field in ("custom", "revised", "note")
        if column.date is not None and (not dated or path.part):
            fail(f"{path} is not a date", "date")

    def date(self, text: str | None, index: int) -> DateStyle | None:
        if text is None:
            return None
        try:
            style = date_style(text)
            return replace(style, years_from=self.years_from) if self.years_from else style
        except ValueError as error:
            self.fail(str(error), "column", index, "date")

    def value_map(self, values: Mapping[str, Any], index: int) -> dict[str, str]:
        for theirs, ours in values.items():
            if not isinstance(ours, str):
                self.fail(f"'values' takes texts: {theirs} = \"…\"", "column", index, "values")
        return dict(values)

    def clashes(self, columns: Sequence[Column], heading_row: int) -> None:
        """Refuse two columns under one heading, and two that hold one place."""
        headings: dict[tuple[str, int, int], int] = {}
        places: dict[FieldPath, int] = {}
        for index, column in enumerate(columns):
            if heading_row == 0 and not column.number:
                self.fail("'heading_row' is 0 (no headings): name columns by 'number'",
                          "column", index, "heading")  # fmt: skip
            key = (column.heading, column.nth, column.number)
            if key in headings:
                other = columns[headings[key]].line
                hint = "" if column.number else "; tell equal headings apart by nth = 2"
                self.fail(f"{column.name} is listed twice, first on line {other}{hint}",
                          "column", index, "heading")  # fmt: skip
            headings[key] = index
            for path in column.holds:
                first = columns[places.setdefault(path, index)]
                joined = first.join is not None and column.join is not None
                if first is not column and not joined and not _takes_again(path, column):
                    self.fail(
                        f"{column.name} holds {path}, and so does {first.name} on line "
                        f'{first.line}; say how they go together with join = " " in both, or '
                        "give one another place", "column", index, "holds",
                    )  # fmt: skip
                dates = [held for held in places if held.place == path.place
                         and (held.part in _DATE_PARTS) != (path.part in _DATE_PARTS)]  # fmt: skip
                if dates:
                    there = columns[places[dates[0]]]
                    self.fail(f"{column.name} holds {path}, and {there.name} on line {there.line} "
                              f"holds {dates[0]}; a date stands in one column, or in its parts",
                              "column", index, "holds")  # fmt: skip


_DATE_PARTS = frozenset({"year", "month", "day"})


def _takes_again(path: FieldPath, column: Column) -> bool:
    """Whether several columns may hold the same path, each a value of its own."""
    return column.join is None and not path.part and not path.position and takes_many(path.field)
