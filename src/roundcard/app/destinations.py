"""Destination files: drafted from what a service exported, and kept under their names."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from roundcard.books.hidden import spare_originals
from roundcard.books.plan import Plan
from roundcard.books.source import Source
from roundcard.books.transaction import Transaction
from roundcard.card.contact import flat
from roundcard.card.fields import CUSTOM
from roundcard.destinations import library
from roundcard.destinations.file import NAME
from roundcard.destinations.model import FORMATS, Destination
from roundcard.destinations.pieces import path_at
from roundcard.errors import DestinationError, TargetError
from roundcard.formats import by_name
from roundcard.layouts.drafting.written import as_file
from roundcard.layouts.model import Layout
from roundcard.survey.profile_table import Watch, draft_whole, named
from roundcard.tally import Tally
from roundcard.values.toml_text import quoted

_MOST_WORDS = 12
"""Different values of a field that may be a list of allowed words."""
_COUNTED = ("email", "phone", "address", "category", "url", "note")
_WORDED = ("category", "kind", "gender", "address/country")


@dataclass(frozen=True, slots=True)
class DraftDestination:
    """What to draft a destination of."""

    sample: Source
    """What the service exported, or its empty import template."""
    output: Path
    name: str = ""
    """Its name; empty for that of the file."""
    force: bool = False


@dataclass(slots=True)
class Seen:
    """What stands in an export."""

    people: int = 0
    longest: dict[str, int] = field(default_factory=dict)
    """Characters of the longest value, by path."""
    filled: Counter[str] = field(default_factory=Counter)
    """People who have a value, by path."""
    most: dict[str, int] = field(default_factory=dict)
    """Values that a person has at the most, by field."""
    uses: dict[str, Counter[str]] = field(default_factory=dict)
    words: dict[str, Counter[str]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class DestinationDraft:
    """A destination that was drafted."""

    name: str
    files: list[Path]
    seen: Seen


def draft_destination(wanted: DraftDestination, watch: Watch | None = None) -> DestinationDraft:
    """Write a destination file, and the layout of its table beside it in ``layouts/``.

    Limits stand in it as comments, with the most that was seen, to be filled in. Raises
    `SourceError`, `LayoutError`, `DestinationError` and `TargetError`.
    """
    source, path = wanted.sample, wanted.output
    name = wanted.name or path.stem
    if not NAME.fullmatch(name):
        raise DestinationError(f"'{name}' cannot be a name: small letters, digits and hyphens; use "
                               "--name")  # fmt: skip
    written = [path]
    with Transaction(path) as files:
        spare_originals(path, [source.path])
        written_to = files.file(path, force=wanted.force, private=False)
        layout: Layout | None = None
        if source.format.sort == "table":
            made = named(draft_whole([source], watch), name)
            layout = made.layout
            beside = path.parent / "layouts" / f"{name}.toml"
            try:
                beside.parent.mkdir(exist_ok=True)
            except OSError as error:
                raise TargetError(f"{beside.parent}: folder cannot be created: "
                                  f"{error.strerror}") from None  # fmt: skip
            target = files.file(beside, force=wanted.force, private=False)
            text = as_file(made, source.name).replace('unlisted = "custom"', 'unlisted = "refuse"')
            target.write(text.encode("utf-8"))
            written.append(beside)
        seen = _seen(source, layout)
        text = _text(name, source, layout, seen)
        written_to.write(text.encode("utf-8"))
        files.commit()
    return DestinationDraft(name, written, seen)


def _seen(source: Source, layout: Layout | None) -> Seen:
    plan = Plan.of(source.name, "")
    plan.opened = [source]
    plan.layouts = [layout] if layout is not None else []
    seen = Seen()
    for reading in plan.readings(Tally()):
        for contact in reading.contacts():
            seen.people += 1
            there: dict[str, int] = {}
            paths = set()
            for prop in contact.properties:
                if prop.rides or not prop.size() or prop.head.field.kind == "media":
                    continue
                word = prop.head.field.path
                if word and word != "name":
                    count = prop.size() if prop.head.field.kind == "list" else 1
                    there[word] = there.get(word, 0) + count
                if word in ("email", "phone", "address"):
                    used = "+".join(u for u in prop.head.field.uses if u in prop.head.uses)
                    if used:
                        seen.uses.setdefault(word, Counter())[used] += 1
                for at, component in enumerate(prop.components):
                    if at == 0 and prop.head.name == CUSTOM:
                        continue
                    place = str(path_at(prop, at))
                    for text in flat((component,)):
                        paths.add(place)
                        seen.longest[place] = max(len(text), seen.longest.get(place, 0))
                        if place in _WORDED:
                            counter = seen.words.setdefault(place, Counter())
                            if text in counter or len(counter) <= _MOST_WORDS:
                                counter[text] += 1
            seen.filled.update(paths)
            for word, count in there.items():
                seen.most[word] = max(count, seen.most.get(word, 0))
    return seen


def _text(name: str, source: Source, layout: Layout | None, seen: Seen) -> str:
    """The destination file."""
    return "\n".join(_lines(name, source, layout, seen)) + "\n"


def _lines(name: str, source: Source, layout: Layout | None, seen: Seen) -> Iterator[str]:
    word = next((word for word, form in FORMATS.items()
                 if by_name(form).name == source.format.name), "vcard-4.0")  # fmt: skip
    yield f"# Drafted from {source.name}: {seen.people:,} people. What begins with # is to be"
    yield "# filled in from what the service says of itself, and made to count by taking the #"
    yield f"# away. Check it with: roundcard destination check {name}.toml"
    yield f"name    = {quoted(name)}"
    yield f"title   = {quoted(name)}"
    yield f"accepts = [{quoted(word)}]"
    if layout is not None:
        yield f"layout  = {quoted(name)}"
    if "uid" in seen.filled:
        yield 'identity = "uid"'
    yield '# drops = ["photo"]                  # taken without complaint, and not kept'
    yield from ("", *_limits(seen), "", *_words(seen), "", *_forms(layout))


def _limits(seen: Seen) -> Iterator[str]:
    yield "[limits]"
    yield "# people_per_file = 500"
    yield "# bytes_per_file  = 1_000_000"
    yield f"# people_in_all   = {max(seen.people, 1)}          # so many were in the export"
    if seen.most:
        told = ", ".join(f"{field} = {most}" for field, most in sorted(seen.most.items())
                         if field in _COUNTED)  # fmt: skip
        yield f"# values = {{ {told} }}     # the most that anybody has"
    longest = sorted(seen.longest.items(), key=lambda each: -each[1])[:8]
    if longest:
        told = ", ".join(f"{quoted(path)} = {size}" for path, size in longest)
        yield f"# length = {{ {told} }}     # the longest seen"
    yield ""
    yield "[needs]"
    always = [path for path, count in seen.filled.items() if count == seen.people and seen.people]
    yield f"# all = [{', '.join(map(quoted, sorted(always)))}]     # everybody has these there"
    yield '# any = ["name/family", "email"]'


def _words(seen: Seen) -> Iterator[str]:
    yield "[allowed]"
    for field_word, uses in sorted(seen.uses.items()):
        yield f'# "{field_word}/use" = {{ values = {_list(uses)} }}     # those seen'
    for path, words in sorted(seen.words.items()):
        if len(words) <= _MOST_WORDS:
            yield f"# {quoted(path)} = {{ values = {_list(words)} }}     # those seen"


def _forms(layout: Layout | None) -> Iterator[str]:
    yield "[characters]"
    encoding = layout.dialect.encoding if layout is not None else "utf-8"
    yield f"set = {quoted(encoding)}"
    yield '# lacking = "nearest"'
    yield "# line_breaks = false"
    yield ""
    yield "[style]"
    date = next((c.date for c in layout.columns if c.date is not None), None) if layout else None
    yield f"date = {quoted(date.text)}" if date is not None else '# date = "year-month-day"'
    yield '# phone = "international"'
    yield '# country = "code"'
    yield ""
    yield "[overflow]"
    yield '# into = "note"'
    yield ""
    yield "[on_import]"
    yield '# matches_on = [["uid"], ["email"]]'
    yield '# existing   = ["update", "beside", "leave"]'


def _list(words: Counter[str]) -> str:
    return f"[{', '.join(quoted(word) for word, _ in words.most_common())}]"


def load_destination(path: Path | str, layout_places: Sequence[Path] = ()) -> Destination:
    """The destination in a file; its layout stands in ``layouts`` beside it, or in one of
    `layout_places`.

    Raises `DestinationError` where the file cannot be read or is wrong.
    """
    return library.load(path, layout_places)


def keep_destination(
    file: Path, home: Path, layout_places: list[Path], *, force: bool = False
) -> list[Path]:
    """Copy a destination file, and the layout beside it that it names, into the user's own place;
    their comments are kept.

    Raises `DestinationError` for a file that is wrong, `TargetError` where its name is taken.
    """
    found = library.load(file, layout_places)
    places = [(file, home / "destinations" / f"{found.name}.toml")]
    if found.layout is not None:
        near = [file.parent / "layouts", file.parent.parent / "layouts"]
        beside = next((path for place in near for path in [place / f"{found.layout.name}.toml"]
                       if path.is_file()), None)  # fmt: skip
        if beside is not None:
            places.append((beside, home / "layouts" / f"{found.layout.name}.toml"))
    for _, path in places:
        if path.exists() and not force:
            raise TargetError(f"{path.parent.name[:-1]} '{path.stem}' is already kept; use --force "
                              "to replace it")  # fmt: skip
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise TargetError(f"{path.parent}: cannot be created: {error.strerror}") from None
    with Transaction(places[0][1]) as files:
        for old, path in places:
            files.file(path, force=force, private=False).write(old.read_bytes())
        files.commit()
    return [path for _, path in places]
