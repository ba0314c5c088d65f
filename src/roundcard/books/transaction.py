"""One transaction: all that a command writes takes its place together, the target last.

While files are renamed, a list of them lies beside the target as ``.TARGET.roundcard``. Where a
rename fails, those that were done are undone. A process that is killed between two renames leaves
the list, and the next command that names the target completes what is missing, or puts back what
was there.
"""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import signal
import threading
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Self, TypeVar

from roundcard.books.hidden import OLD, AtomicFile, Hidden, alive, is_stream, neighbour, remove
from roundcard.errors import TargetError, UsageError

_LIST = ".roundcard"
_SCHEMA = 1
_Grows = TypeVar("_Grows", bound=Hidden)


@dataclass(slots=True)
class _Entry:
    """A file that is to take its place."""

    place: str
    part: str
    old: str
    """Where what is there is kept meanwhile; empty where nothing is there."""
    node: int
    """The part's number in its file system, which it keeps with any name."""

    @property
    def there(self) -> bool:
        """Whether it has taken its place."""
        return _node(self.place) == self.node

    @property
    def waits(self) -> bool:
        """Whether it still stands beside its place."""
        return _node(self.part) == self.node


class Transaction:
    """The files that a command writes; left without `commit`, none of them appears."""

    def __init__(self, target: Path | None = None) -> None:
        """`target` is the file that takes its place last.

        Raises `TargetError` where a command that was killed left it half done, and it cannot be
        completed.
        """
        self.target = Path(os.path.realpath(target)) if target is not None else None
        self.notes: list[str] = []
        """What was found of commands that were killed, and done about it."""
        self._grown: list[Hidden] = []
        self._streams: list[Stream] = []
        if target is not None:
            self._recover(target)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.discard()

    def file(self, path: Path, *, force: bool = False, private: bool = True) -> AtomicFile | Stream:
        """A file to write; a pipe or a device is written to as it is.

        Raises `TargetError` where it exists already (and `force` does not replace it) or cannot be
        made, `UsageError` where it is another file of this command.
        """
        if is_stream(path):
            stream = Stream(path)
            self._streams.append(stream)
            return stream
        self._recover(path)
        self._demand_other(path)
        return self.grow(AtomicFile(path, force=force, private=private))

    def grow(self, hidden: _Grows) -> _Grows:
        """Take in what grows beside its place."""
        self._grown.append(hidden)
        return hidden

    def drop(self, hidden: Hidden | Stream | None) -> None:
        """One of the files is not wanted after all."""
        if hidden is None:
            return
        hidden.discard()
        self._grown = [each for each in self._grown if each is not hidden]
        self._streams = [each for each in self._streams if each is not hidden]

    def drop_place(self, path: Path) -> None:
        """What was to go to a place is not wanted after all."""
        place = Path(os.path.realpath(path))
        for hidden in [each for each in self._grown if each.place == place]:
            self.drop(hidden)

    def so_far(self) -> Iterator[tuple[Path, Path]]:
        """The files that are to be written: the place of each, and where it can be read now."""
        for hidden in self._grown:
            if isinstance(hidden, AtomicFile):
                yield hidden.place, hidden.so_far()

    def discard(self) -> None:
        """Leave nothing behind."""
        for hidden in self._grown:
            hidden.discard()
        for stream in self._streams:
            stream.discard()
        self._grown, self._streams = [], []

    def commit(self) -> None:
        """Give all files their names, the target last. Raises `TargetError`.

        Signals that would end the process wait meanwhile; one that comes when all is done comes
        too late, and is no more heard.
        """
        wanted = [each for each in self._grown if each.begun]
        wanted.sort(key=lambda each: each.place == self.target)
        for each in wanted:
            each.complete()
            each.demand_free()
        if wanted:
            with _undisturbed():
                _take_places(wanted)
        for stream in self._streams:
            stream.commit()
        self._grown, self._streams = [], []

    def _demand_other(self, path: Path) -> None:
        place = Path(os.path.realpath(path))
        if any(each.place == place for each in self._grown):
            raise UsageError(f"{path} is already another output of this command; choose a "
                              "different file")  # fmt: skip

    def _recover(self, path: Path) -> None:
        note = recover(path)
        if note:
            self.notes.append(note)


class Stream:
    """A pipe or a device: what is written is gone."""

    def __init__(self, path: Path) -> None:
        """Raises `TargetError`."""
        self.path = path
        with self.told():
            self.stream = path.open("wb")

    @contextlib.contextmanager
    def told(self) -> Iterator[None]:
        """Raise `TargetError` for what the system refuses meanwhile."""
        try:
            yield
        except OSError as error:
            raise TargetError(f"{self.path}: cannot be written: {error.strerror}") from None

    def write(self, octets: bytes) -> None:
        """Write more. Raises `TargetError`."""
        with self.told():
            self.stream.write(octets)

    def restart(self) -> None:
        """What was written cannot be taken back."""

    def commit(self) -> None:
        """Push out what is held. Raises `TargetError`."""
        with self.told():
            self.stream.close()

    def discard(self) -> None:
        """Nothing can be taken back."""
        with contextlib.suppress(OSError):
            self.stream.close()


def write_whole(path: Path, octets: bytes, *, force: bool = False, private: bool = True) -> None:
    """Write one file, whole or not at all. Raises `TargetError`."""
    with Transaction(path) as files:
        files.file(path, force=force, private=private).write(octets)
        files.commit()


def _take_places(wanted: Sequence[Hidden]) -> None:
    """Rename all parts; where one fails, undo those that were done."""
    entries = [_entry(each) for each in wanted]
    last = wanted[-1]
    listed: Path | None = None
    done: list[_Entry] = []
    named = wanted[0]
    try:
        if len(entries) > 1 or last.part.is_dir():
            listed = _list_of(last.place)
            _write_list(listed, entries)
        for named, entry in zip(wanted, entries, strict=True):
            done.append(entry)
            if entry is not entries[-1] or named.part.is_dir():
                _keep_old(entry)
            _rename(entry.part, entry.place)
    except BaseException as error:
        left = _undone(done)
        if listed is not None and not left:
            remove(listed)
        for each in wanted:
            each.discard()
        if not isinstance(error, OSError):
            raise
        kept = "; ".join(left) if left else "nothing was written"
        raise TargetError(f"{named.path}: cannot be written: {error.strerror}; {kept}") from None
    _finish(entries, listed)


def _finish(entries: Sequence[_Entry], listed: Path | None) -> None:
    """All files have their names: what they replaced goes."""
    for folder in {Path(each.place).parent for each in entries}:
        _sync(folder)
    if listed is not None:
        remove(listed)
    for each in entries:
        if each.old:
            remove(Path(each.old))


def _entry(hidden: Hidden) -> _Entry:
    old = neighbour(hidden.place, OLD) if os.path.lexists(hidden.place) else None
    return _Entry(str(hidden.place), str(hidden.part), str(old or ""), _node(str(hidden.part)))


def _keep_old(entry: _Entry) -> None:
    """Keep what stands in a place, under another name."""
    if not entry.old:
        return
    if Path(entry.place).is_dir():
        _rename(entry.place, entry.old)
        return
    try:
        os.link(entry.place, entry.old)
    except OSError:  # a file system without links
        shutil.copy2(entry.place, entry.old)


def _undone(done: Sequence[_Entry]) -> list[str]:
    """Put back what was there before; what could not be put back, in words."""
    left = []
    for entry in reversed(done):
        try:
            if entry.old and os.path.lexists(entry.old):
                if entry.there or not os.path.lexists(entry.place):
                    if Path(entry.place).is_dir():
                        _rename(entry.place, entry.part)
                    _rename(entry.old, entry.place)
                else:
                    remove(Path(entry.old))
            elif entry.there and not entry.old:
                _rename(entry.place, entry.part)
        except OSError as error:
            there = f", what was there is in {entry.old}" if entry.old else ""
            left.append(f"{entry.place} is the new one and could not be put back "
                        f"({error.strerror}){there}")  # fmt: skip
    return left


def recover(path: Path) -> str:
    """Complete, or put back, what a killed command left half done of a file; what was done.

    Raises `TargetError` where neither can be done.
    """
    place = Path(os.path.realpath(path))
    listed = _list_of(place)
    try:
        told: Any = json.loads(listed.read_text("utf-8"))
        entries = [_Entry(**each) for each in told["files"]]
        pid = int(told["process"])
    except FileNotFoundError:
        return ""
    except (OSError, ValueError, KeyError, TypeError):
        remove(listed)  # killed while it was written: nothing was renamed yet
        return ""
    if pid != os.getpid() and alive(pid):
        return ""
    names = ", ".join(Path(each.place).name for each in entries)
    try:
        if all(each.there or each.waits for each in entries):
            for each in entries:
                if not each.there:
                    if Path(each.place).is_dir():
                        _keep_old(each)
                    _rename(each.part, each.place)
            _finish(entries, listed)
            return f"a command was interrupted while it wrote {names}; this was completed"
        left = _undone(entries)
    except OSError as error:
        left = [str(error.strerror)]
    if left:
        raise TargetError(f"{path}: a command was interrupted while it wrote {names}, and this "
                          f"cannot be put in order: {'; '.join(left)}")  # fmt: skip
    for each in entries:
        remove(Path(each.part))
    remove(listed)
    return f"a command was interrupted while it wrote {names}; what was there before was put back"


def _list_of(place: Path) -> Path:
    return place.with_name(f".{place.name}{_LIST}")


def _write_list(listed: Path, entries: Sequence[_Entry]) -> None:
    told = {"schema": _SCHEMA, "process": os.getpid(), "files": [asdict(each) for each in entries]}
    descriptor = os.open(listed, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w", encoding="utf-8") as stream:
        json.dump(told, stream)
        stream.flush()
        os.fsync(stream.fileno())
    _sync(listed.parent)


def _node(path: str) -> int:
    """The number of a file in its file system; -1 where it is not there."""
    try:
        return os.lstat(path).st_ino
    except OSError:
        return -1


def _rename(old: str, new: str) -> None:
    Path(old).replace(new)


def _sync(folder: Path) -> None:
    """See that the names in a folder are on the disk, where the system can do that."""
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


@contextlib.contextmanager
def _undisturbed() -> Iterator[None]:
    """Let nobody end the process meanwhile who only asks it to; who asks comes too late."""
    if threading.current_thread() is not threading.main_thread():
        yield  # signals are the main thread's
        return
    before = {which: signal.signal(which, _too_late) for which in (signal.SIGINT, signal.SIGTERM)}
    try:
        yield
    finally:
        for which, handler in before.items():
            signal.signal(which, handler)


def _too_late(*_: object) -> None:
    """Nothing is to be interrupted any more."""
