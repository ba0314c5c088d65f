"""Opening a source, whatever it is, as a stream of contacts."""

from __future__ import annotations

import codecs
import io
import tempfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import islice
from pathlib import Path
from typing import BinaryIO, cast

from roundcard import formats
from roundcard.card.contact import Contact
from roundcard.errors import LayoutError, SourceError
from roundcard.formats import SAMPLE, Format, csv, jcard, vcard
from roundcard.layouts.binding import bind, demand_fit, fit, missing_note
from roundcard.layouts.headings import from_headings, understood
from roundcard.layouts.model import Layout
from roundcard.layouts.reading import RowReader
from roundcard.tally import SetAside, Tally

STANDARD = "-"
"""The name of standard input and output."""
PROGRESS_EVERY = 500
"""Records between two calls of a progress function."""
FITS_WELL = 0.6
"""The share of its columns that a layout must find in a file to be chosen for it."""
_CHUNK = 1 << 18
_HEADINGS_WITHIN = 20
"""Rows among which headings are looked for."""
_NUMBERS_FIT = 0.75
"""How well a layout of numbered columns fits a table that is just as wide."""

Progress = Callable[[int, int], None]
"""Called with the octets read of a source, and the records."""


@dataclass(slots=True)
class ReadAs:
    """How a source was read: for the report."""

    name: str
    format: str
    octets: int
    layout: str = ""
    guessed: bool = False
    """Whether the layout was made from the headings."""
    encoding: str = ""
    separator: str = ""
    columns: list[tuple[str, str, str]] = field(default_factory=list)
    """Heading, meaning and reason of each column, where the layout was guessed."""


class Source:
    """A file (or standard input) that has been looked at: its format, its first octets."""

    def __init__(self, name: str, stream: BinaryIO | None = None, said: str = "") -> None:
        """Look at `name`; `stream` is standard input where the name is ``-``.

        `said` is the format's name where the user said it. Raises `SourceError` for what cannot be
        read.
        """
        self.cards_sample = b""
        """The sample in UTF-8, where a vCard file is written in UTF-16."""
        self.name = name if name != STANDARD else "standard input"
        self.path: Path | None = None
        if name == STANDARD:
            if stream is None:
                raise SourceError("standard input is not there to be read")
            self._spool = _spooled(stream)
            self.octets = self._spool.seek(0, io.SEEK_END)
        else:
            self.path = Path(name)
            self.octets = _size(self.path)
        with self.open() as opened:
            self.sample = opened.read(SAMPLE)
        if wide := wide_encoding(self.sample):
            text = self.sample.decode(wide, "ignore").encode("utf-8", "ignore")
            if vcard.recognise(text):
                self.cards_sample = text
        if not self.sample.strip(b"\xef\xbb\xbf \t\r\n"):
            raise SourceError(f"{self.name}: the file is empty")
        self.format = self._format(said)

    def _format(self, said: str) -> Format:
        if said:
            return formats.by_name(said)
        found = formats.by_content(self.cards_sample or self.sample, self.name)
        if found is None:
            raise SourceError(f"{self.name}: this is neither a vCard file nor a table of text "
                              "(it looks like binary data)")  # fmt: skip
        cards = vcard.recognise(self.cards_sample or self.sample) or jcard.recognise(self.sample)
        if found.sort == "card" and not cards:
            raise SourceError(
                f"{self.name}: the name says vCard, but no line BEGIN:VCARD stands at its "
                "beginning; say --from csv if it is a table"
            )
        return found

    def open(self) -> BinaryIO:
        """The octets from the beginning. Raises `SourceError`."""
        if self.path is None:
            self._spool.seek(0)
            return cast("BinaryIO", _Kept(self._spool))
        try:
            return self.path.open("rb")
        except OSError as error:
            raise SourceError(f"{self.name}: cannot be read: {error.strerror}") from None


class _Kept(io.BufferedReader):
    """A view of the spool that can be closed without losing it."""

    def __init__(self, spool: BinaryIO) -> None:
        super().__init__(cast("io.RawIOBase", _Unclosed(spool)))


class _Unclosed(io.RawIOBase):
    def __init__(self, inner: BinaryIO) -> None:
        self._inner = inner

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: bytearray) -> int:  # type: ignore[override]
        octets = self._inner.read(len(buffer))
        buffer[: len(octets)] = octets
        return len(octets)

    def tell(self) -> int:
        return self._inner.tell()


def _spooled(stream: BinaryIO) -> BinaryIO:
    """Standard input, kept where it can be read twice (in memory while it is small)."""
    spool = tempfile.SpooledTemporaryFile(max_size=8_000_000)  # noqa: SIM115  # lives on
    while octets := stream.read(1 << 20):
        spool.write(octets)
    return cast("BinaryIO", spool)


def _size(path: Path) -> int:
    try:
        if path.is_dir():
            raise SourceError(f"{path}: this is a folder; name the files in it")
        return path.stat().st_size
    except FileNotFoundError:
        raise SourceError(f"{path}: there is no such file") from None
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror}") from None


class Reading:
    """One pass over one source, with the layout that it is read by."""

    def __init__(
        self, source: Source, number: int, layouts: Sequence[Layout], tally: Tally
    ) -> None:
        self.source = source
        self.number = number
        self.tally = tally
        self.layouts = layouts
        version = (
            vcard_version(source.cards_sample or source.sample) if source.format.version else ""
        )
        title = f"vCard {version}" if version else source.format.title
        self.read_as = ReadAs(source.name, title, source.octets)

    def contacts(self, progress: Progress | None = None) -> Iterator[Contact]:
        """The contacts of the source, in order; people and values read are counted."""
        with self.source.open() as stream:
            records = 0

            def seen(record: int) -> None:
                nonlocal records
                records = record
                if progress is not None and record % PROGRESS_EVERY == 0:
                    progress(stream.tell(), record)

            if self.source.format.sort == "card":
                chunks = _chunks(stream, self.source.sample)
                read = jcard.read if self.source.format.name == "jcard" else vcard.read
                try:
                    yield from read(chunks, source=self.number, tally=self.tally, on_record=seen)
                except SourceError as error:
                    raise SourceError(f"{self.source.name}: {error}") from None
            else:
                yield from self._rows(stream, seen)
            if progress is not None:
                progress(self.source.octets, records)

    def _rows(self, stream: BinaryIO, seen: Callable[[int], None]) -> Iterator[Contact]:
        layout = self.layout()
        name, tally, sample = self.source.name, self.tally, self.source.sample
        rows = csv.read(stream, layout.dialect, sample)
        try:
            headings, first = _headings(rows, layout, name)
            width = len(headings) if headings is not None else len(first.cells if first else ())
            binding = bind(layout, headings, width)
            demand_fit(layout, binding, headings, name)
            for column in binding.missing:
                if not column.skip and not column.blank and column.fixed is None:
                    tally.find(f"{name}: {missing_note(column, headings)}")
            reader = RowReader(layout, binding, self.number, tally)
            record = 0
            while (row := first or next(rows, None)) is not None:
                first = None
                record += 1
                if row.wrong:
                    self._set_aside(row, record)
                    continue
                contact = reader.contact(row.cells, record)
                seen(record)
                if contact is not None:
                    yield contact
        except SourceError as error:
            raise SourceError(f"{name}: {error}") from None

    def _set_aside(self, row: csv.Row, record: int) -> None:
        filled = sum(1 for cell in row.cells if cell and not cell.isspace())
        text = csv.shown(";".join(row.cells))
        self.tally.set_aside(SetAside(self.number, record, row.line, row.wrong, text), filled)

    def layout(self) -> Layout:
        """The layout to read by: the one given, the best of several, or one from the headings."""
        source = self.source
        chosen = self._chosen()
        if chosen is None:
            dialect = csv.guess_dialect(source.sample)
            at, headings = _likely_headings(source.sample, dialect)
            chosen = from_headings(headings, dialect, Path(source.name).stem, source.name)
            chosen = replace(chosen, heading_row=at)
            if at > 1:
                self.tally.find(f"{source.name}: the headings stand in row {at}; what stands above "
                                "them was passed over")  # fmt: skip
            self.read_as.guessed = True
            self.read_as.columns = [(c.name, c.meaning, c.why) for c in chosen.columns]
        self.read_as.layout = chosen.name
        self.read_as.encoding = csv.mark_of(source.sample) or chosen.dialect.encoding
        self.read_as.separator = csv.SEPARATORS.get(chosen.dialect.separator,
                                                    chosen.dialect.separator)  # fmt: skip
        return chosen

    def _chosen(self) -> Layout | None:
        if len(self.layouts) < 2:
            return self.layouts[0] if self.layouts else None
        best, share = None, 0.0
        for layout in self.layouts:
            fits = fits_sample(layout, self.source.sample)
            if fits > share:
                best, share = layout, fits
        return best if share >= FITS_WELL else None


def fits_sample(layout: Layout, sample: bytes) -> float:
    """How well a layout fits a file that begins with `sample`, 0 to 1."""
    rows = list(islice(_sample_rows(sample, layout.dialect), layout.heading_row + 1))
    if not rows or len(rows) < layout.heading_row:
        return 0.0
    if layout.heading_row:
        headings = rows[layout.heading_row - 1].cells
        return fit(layout, headings, len(headings))
    last = max(column.number for column in layout.columns)
    return _NUMBERS_FIT if len(rows[0].cells) == last else 0.0


def _likely_headings(sample: bytes, dialect: csv.Dialect) -> tuple[int, list[str]]:
    """Number and cells of the row that looks most like headings, or of the first that is filled."""
    rows = list(enumerate(islice(_sample_rows(sample, dialect), _HEADINGS_WITHIN), 1))
    filled = [(at, row.cells) for at, row in rows if any(row.cells)]
    if not filled:
        return 1, []
    return max(filled, key=lambda pair: (understood(pair[1]), -pair[0]))


def _sample_rows(sample: bytes, dialect: csv.Dialect) -> Iterator[csv.Row]:
    return csv.read(io.BytesIO(sample), dialect, sample)


def _headings(
    rows: Iterator[csv.Row], layout: Layout, name: str
) -> tuple[list[str] | None, csv.Row | None]:
    """The heading row; where there is none, None and the first row, which is a record."""
    if layout.heading_row == 0:
        return None, next(rows, None)
    row = next(islice(rows, layout.heading_row - 1, None), None)
    if row is None:
        raise LayoutError(f"{layout.where}: 'heading_row' is {layout.heading_row}, and {name} "
                          "has fewer rows")  # fmt: skip
    if row.wrong:
        raise SourceError(f"line {row.line}: the headings hold {row.wrong}")
    return row.cells, None


def _chunks(stream: BinaryIO, sample: bytes) -> Iterator[bytes]:
    """The octets in chunks of UTF-8, with LF where an old system ended lines with CR alone."""
    wide = wide_encoding(sample)
    decoder = codecs.getincrementaldecoder(wide)("replace") if wide else None
    old = b"\n" not in sample and b"\r" in sample
    while octets := stream.read(_CHUNK):
        if decoder is not None:
            octets = decoder.decode(octets).encode("utf-8", "replace")
        yield octets.replace(b"\r", b"\n") if old else octets


def wide_encoding(sample: bytes) -> str:
    """The UTF-16 in which a vCard file begins, marked or not; empty for any other."""
    if sample.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16"
    begin = sample.lstrip(b"\x00 \t\r\n")[:9]
    if begin.upper() != b"B\0E\0G\0I\0N":
        return ""
    return "utf-16-be" if sample.lstrip(b" \t\r\n").startswith(b"\0") else "utf-16-le"


def vcard_version(sample: bytes) -> str:
    """The version that the first cards of a vCard file name; several as ``3.0 and 4.0``."""
    said = [
        line[8:].strip().decode("ascii", "replace")
        for line in sample.splitlines()
        if line[:8].upper() == b"VERSION:"
    ]
    return " and ".join(sorted(set(said)))


def held_against(layout: Layout, source: Source) -> list[str]:
    """What does not fit between a layout and a table, one line each.

    Raises `LayoutError` where the layout cannot be meant for the table at all.
    """
    if source.format.sort == "card":
        raise SourceError(f"{source.name}: a layout is for tables, and this is a vCard file")
    with source.open() as stream:
        rows = csv.read(stream, layout.dialect, source.sample)
        headings, first = _headings(rows, layout, source.name)
        width = len(headings) if headings is not None else len(first.cells if first else ())
    binding = bind(layout, headings, width)
    demand_fit(layout, binding, headings, source.name)
    notes = [missing_note(column, headings) for column in binding.missing]
    for at, heading in binding.unlisted:
        what = {"custom": "kept as custom", "skip": "skipped"}.get(layout.unlisted, "refused")
        notes.append(f"column '{heading or at + 1}' of the file is not in the layout; it is {what}")
    return notes
