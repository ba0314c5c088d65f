"""A source that has been looked at: which format it is in, and how it begins."""

from __future__ import annotations

import codecs
import io
import stat
import tempfile
import weakref
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import BinaryIO, cast

from roundcard import formats
from roundcard.books.photos import PhotoFolder
from roundcard.books.transaction import recover
from roundcard.errors import SourceError, UsageError, did_you_mean
from roundcard.formats import SAMPLE, Format, charset, csv, vcard, workbook
from roundcard.formats.csv import Dialect, Row

LOOKED_AT = 1_000
"""Rows that are looked at before a table is read."""
STANDARD = "-"
"""The name of standard input and output."""
CHUNK = 1 << 18
"""Octets that are read at once."""


@dataclass(frozen=True, slots=True)
class HowToRead:
    """What the user says of the sources; what is empty is found out from each of them."""

    format: str = ""
    encoding: str = ""
    separator: str = ""
    heading_row: int | None = None
    """Counted as rows of the file from 1; 0 where there are no headings."""
    sheet: str = ""
    """The sheet of a workbook."""

    def __post_init__(self) -> None:
        """Raises `UsageError` for a character set or separator that there is not."""
        try:
            "a".encode(self.encoding or "utf-8")
        except (LookupError, ValueError):
            raise UsageError(
                f"unknown character set '{self.encoding}'; use for example utf-8, utf-16, "
                "windows-1252, iso-8859-1, mac-roman, shift_jis, gb18030, big5, euc_kr and more"
            ) from None
        if len(self.separator) > 1:
            raise UsageError(
                f"'{self.separator}' is not a separator; use comma, semicolon, tab, bar, or one "
                "character"
            )


class Source:
    """A file (or standard input) that has been looked at: its format, its first octets."""

    def __init__(
        self, name: str, stream: BinaryIO | None = None, how: HowToRead | None = None
    ) -> None:
        """Look at `name`; `stream` is standard input where the name is ``-``.

        Raises `SourceError` for what cannot be read.
        """
        self.how = how or HowToRead()
        self.cards_sample = b""
        """The sample in UTF-8, where a vCard file is written in UTF-16."""
        self.note = ""
        """What was found of a command that was killed while it wrote the file."""
        self.photos: PhotoFolder | None = None
        """The photos beside it, where it has not taken its name yet."""
        self.name = name if name != STANDARD else "standard input"
        self.path: Path | None = None
        self.folder = ""
        """The folder that the user named, where the source is one of its files."""
        self.beside: list[Path] = []
        """Files of that folder that are not read, told with its first source."""
        if name == STANDARD:
            if stream is None:
                raise SourceError("standard input cannot be read")
            self._spool = _spooled(stream)
            weakref.finalize(self, self._spool.close)
            self.octets = self._spool.seek(0, io.SEEK_END)
        elif _is_pipe(Path(name)):
            with Path(name).open("rb") as pipe:
                self._spool = _spooled(pipe)
            weakref.finalize(self, self._spool.close)
            self.octets = self._spool.seek(0, io.SEEK_END)
        else:
            self.path = Path(name)
            self.octets = _size(self.path)
        with self.open() as opened:
            self.sample = opened.read(SAMPLE)
            opened.seek(0)
            self.is_workbook = workbook.recognise(opened)
        if wide := wide_encoding(self.sample):
            text = self.sample.decode(wide, "ignore").encode("utf-8", "ignore")
            if vcard.recognise(text):
                self.cards_sample = text
        if not self.sample.strip(b"\xef\xbb\xbf \t\r\n"):
            self.format = self._of_nobody()
            self.note = self.note or "nobody is in it"
        else:
            self.format = self._format(self.how.format)

    @cached_property
    def telling(self) -> bytes:
        """The lines of the whole file that hold more than ASCII, as many as are needed to tell
        the character set."""
        with self.open() as stream:
            return charset.telling(iter(lambda: stream.read(CHUNK), b""))

    def _of_nobody(self) -> Format:
        """The format of an empty file: cards, of which there may be none. Raises `SourceError` for
        a table, which has headings at least."""
        said = formats.by_name(self.how.format) if self.how.format else None
        suffix = Path(self.name).suffix.lower()
        found = said or next((each for each in formats.FORMATS if suffix in each.suffixes), None)
        if found is None or not found.version:
            raise SourceError(f"{self.name}: the file is empty")
        return found

    def _format(self, said: str) -> Format:
        if said:
            return formats.by_name(said)
        if self.is_workbook:
            return formats.WORKBOOK
        found = formats.by_content(self.cards_sample or self.sample, self.name)
        if found is None:
            raise SourceError(f"{self.name}: is neither a vCard file nor a table"
                              f"{_looks_like(self.sample)}")  # fmt: skip
        cards = found.sort == "card" and not found.recognise(self.cards_sample or self.sample)
        if cards:
            raise SourceError(
                f"{self.name}: the name says vCard, but there is no line BEGIN:VCARD at its "
                "beginning; use --from csv if it is a table"
            )
        if not found.of_text:
            raise SourceError(f"{self.name}: the name says workbook, but the file is text; use "
                              "--from csv if it is a table")  # fmt: skip
        return found

    def open(self) -> BinaryIO:
        """The octets from the beginning. Raises `SourceError`."""
        if self.path is None:
            return cast("BinaryIO", _Kept(self._spool))
        try:
            return self.path.open("rb")
        except OSError as error:
            raise SourceError(f"{self.name}: cannot be read: {error.strerror}") from None


def sources_of(
    names: Sequence[str],
    stdin: BinaryIO | None = None,
    how: HowToRead | None = None,
    *,
    tables: bool = False,
) -> list[Source]:
    """The sources that a command names, each file of a folder of cards and tables being one.

    `tables` takes only the tables of a folder. Raises `SourceError` for what cannot be read, and
    for a folder with nothing to read.
    """
    sources = []
    for name in names:
        folder = Path(name)
        note = recover(folder) if name != STANDARD else ""
        if name == STANDARD or not folder.is_dir():
            sources.append(Source(name, stdin, how))
            sources[-1].note = note or sources[-1].note
            continue
        suffixes = _suffixes("table") if tables else (*_suffixes("card"), *_suffixes("table"))
        files, others = files_in(folder, suffixes)
        if not files:
            what = "table" if tables else "card and no table"
            raise SourceError(f"{name}: no {what} ({', '.join(suffixes)}) found in it; "
                              "name its files")  # fmt: skip
        inside = [Source(str(path), None, how) for path in files]
        inside[0].beside, inside[0].note = others, note or inside[0].note
        for source in inside:
            source.folder = name
        sources += inside
    return sources


def _suffixes(sort: str) -> tuple[str, ...]:
    found = (suffix for form in formats.FORMATS if form.sort == sort for suffix in form.suffixes)
    return tuple(suffix for suffix in dict.fromkeys(found) if suffix != ".txt")  # may be anything


def files_in(folder: Path, suffixes: Sequence[str]) -> tuple[list[Path], list[Path]]:
    """The files in and below a folder that have one of the suffixes, in order, and the others."""
    found = sorted(path for path in folder.rglob("*") if path.is_file())
    plain = [path for path in found if not path.name.startswith(".")]
    return (
        [path for path in plain if path.suffix.lower() in suffixes],
        [path for path in plain if path.suffix.lower() not in suffixes],
    )


class _Kept(io.BufferedReader):
    """A view of the spool that can be closed without losing it."""

    def __init__(self, spool: BinaryIO) -> None:
        super().__init__(cast("io.RawIOBase", _Unclosed(spool)))


class _Unclosed(io.RawIOBase):
    """A view has a place of its own: several may be open at once."""

    def __init__(self, inner: BinaryIO) -> None:
        self._inner = inner
        self._at = 0

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: bytearray) -> int:  # type: ignore[override]
        self._inner.seek(self._at)
        octets = self._inner.read(len(buffer))
        buffer[: len(octets)] = octets
        self._at += len(octets)
        return len(octets)

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        if whence == io.SEEK_CUR:
            offset += self._at
            whence = io.SEEK_SET
        self._at = self._inner.seek(offset, whence)
        return self._at

    def tell(self) -> int:
        return self._at


def _is_pipe(path: Path) -> bool:
    """Whether a name is that of a pipe or a device, which can be read once only."""
    try:
        mode = path.stat().st_mode
    except OSError:
        return False
    return stat.S_ISFIFO(mode) or stat.S_ISCHR(mode) or stat.S_ISSOCK(mode)


def _spooled(stream: BinaryIO) -> BinaryIO:
    """What can be read once only, kept where it can be read twice (in memory while it is small)."""
    spool = tempfile.SpooledTemporaryFile(max_size=8_000_000)  # noqa: SIM115  # lives on
    while octets := stream.read(1 << 20):
        spool.write(octets)
    return cast("BinaryIO", spool)


def _size(path: Path) -> int:
    try:
        if path.is_dir():
            raise SourceError(f"{path}: is a folder; name a file")
        return path.stat().st_size
    except FileNotFoundError:
        raise SourceError(f"{path}: file not found{_near(path)}") from None
    except OSError as error:
        raise SourceError(f"{path}: cannot be read: {error.strerror}") from None


def _near(path: Path) -> str:
    """A hint which file beside it may be meant by a name that is none, or nothing."""
    try:
        beside = [each.name for each in path.parent.iterdir() if each.is_file()]
    except OSError:
        return ""
    return did_you_mean(path.name, beside)


def _looks_like(sample: bytes) -> str:
    """A hint what a file of octets may be."""
    if sample.startswith(b"\xd0\xcf\x11\xe0"):
        return " (it looks like an older or a protected workbook; save it as .xlsx or CSV)"
    if sample.startswith(b"PK\x03\x04"):
        return " (it looks like an archive; unpack it first)"
    return " of text (it looks like binary data)"


def chunks_of(stream: BinaryIO, sample: bytes) -> Iterator[bytes]:
    """The octets in chunks of UTF-8, with LF where an old system ended lines with CR alone."""
    wide = wide_encoding(sample)
    # half a character of UTF-16 goes on as it is, for the reader of the card to tell
    decoder = codecs.getincrementaldecoder(wide)("surrogatepass") if wide else None
    old = b"\n" not in sample and b"\r" in sample
    while octets := stream.read(CHUNK):
        if decoder is not None:
            octets = decoder.decode(octets).encode("utf-8", "surrogatepass")
        yield octets.replace(b"\r", b"\n") if old else octets
    if decoder is not None and decoder.getstate()[0]:
        yield b"\nan odd octet at the end\n"


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


def sample_rows(source: Source, dialect: Dialect) -> Iterator[Row]:
    """The first rows of a table; of a text table those that stand whole in the sample."""
    if source.format.of_text:
        sample = source.sample
        if source.octets > len(sample) and b"\n" in sample:
            sample = sample[: sample.rindex(b"\n") + 1]
        rows = csv.read(io.BytesIO(sample), dialect, source.sample)
        yield from (row._replace(cells=[]) if row.wrong else row for row in rows)
        return
    with source.open() as stream:
        yield from workbook.read(stream, sheet=source.how.sheet, tell=lambda *_: None)
